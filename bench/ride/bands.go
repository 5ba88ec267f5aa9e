package ride

import (
	"context"
	"fmt"
	"math"
	"runtime"

	"golang.org/x/sync/errgroup"

	"tingate/bench"
	"tingate/core/machine"
)

// Band is a figure with the ends between which it lies.
type Band struct {
	Low  float64 `json:"low"`
	Mid  float64 `json:"mid"`
	High float64 `json:"high"`
}

// Bands are the figures of a ride with what the motor's tolerances and the load's doubts do to them.
type Bands struct {
	Rise     *Band    `json:"rise_s" doc:"null: it does not get there at one end at least"`
	Fall     *Band    `json:"fall_s"`
	Top      Band     `json:"top_rpm"`
	Steady   Band     `json:"steady_a" doc:"current at the highest speed"`
	PeakRise Band     `json:"peak_rise_a"`
	PeakFall Band     `json:"peak_fall_a"`
	Torque   Band     `json:"peak_torque_nm"`
	Link     Band     `json:"peak_link_v"`
	Trips    []string `json:"trips" doc:"what a trip was met with"`
	Rests    []string `json:"rests_on" doc:"what was varied, and by how much"`
}

// Doubt is by how much load and rotor may be off, as shares.
type Doubt struct {
	LoadJ      float64 // from LoadJ/(1+it) to LoadJ·(1+it)
	LoadTorque float64
}

// variation is one thing that may be otherwise, with its two ends.
type variation struct {
	text string
	ends [2]func(*bench.Setup)
}

// Tolerances of IEC 60034-1, table 20, as ends of a motor's true row: slip ±20 % (±30 % below 1 kW), cos φ off by a sixth of what it lacks
// to 1 (0.02 to 0.07), losses by 15 % (10 % above 150 kW), breakdown torque from a tenth below what is usual or stated.
func motorEnds(m machine.Plate) []variation {
	sync := 120 * m.Frequency / float64(m.Poles)
	slip, loss := .2, .15
	if m.Power < 1000 {
		slip = .3
	}
	if m.Power > 150_000 {
		loss = .1
	}
	lack := math.Min(.07, math.Max(.02, (1-m.Factor)/6))
	with := func(change func(p *machine.Plate, sign float64)) [2]func(*bench.Setup) {
		end := func(sign float64) func(*bench.Setup) { return func(s *bench.Setup) { change(&s.Motor, sign) } }
		return [2]func(*bench.Setup){end(-1), end(1)}
	}
	l := []variation{
		{"the motor's slip by " + percent(slip),
			with(func(p *machine.Plate, sign float64) { p.Speed = sync - (sync-m.Speed)*(1+sign*slip) })},
		{"its cos φ by " + two(lack), with(func(p *machine.Plate, sign float64) { p.Factor = math.Min(.97, m.Factor+sign*lack) })},
	}
	if m.Efficiency > 0 {
		l = append(l, variation{"its losses by " + percent(loss),
			with(func(p *machine.Plate, sign float64) { p.Efficiency = 1 - (1-m.Efficiency)*(1+sign*loss) })})
	}
	low, high := .9*m.Breakdown, 1.3*m.Breakdown
	if m.Breakdown <= 0 {
		low, high = 1.9, 4.2
	}
	return append(l, variation{"its breakdown torque from " + two(low) + " to " + two(high) + " times the rated",
		with(func(p *machine.Plate, sign float64) {
			if p.Breakdown = low; sign > 0 {
				p.Breakdown = high
			}
		})})
}

// variations are all that may be otherwise.
func variations(s bench.Setup, d Doubt) []variation {
	var l []variation
	if !s.Magnet {
		l = motorEnds(s.Motor)
	}
	// No plate states the rotor's inertia: it is the usual one, and the spread of sound machines is a factor of two. Common practice.
	l = append(l, variation{"its rotor's inertia from half to twice the usual",
		[2]func(*bench.Setup){func(x *bench.Setup) { x.RotorBy = .5 }, func(x *bench.Setup) { x.RotorBy = 2 }}})
	if s.LoadJ > 0 && d.LoadJ > 0 {
		l = append(l, variation{"the load's inertia by " + percent(d.LoadJ),
			[2]func(*bench.Setup){func(x *bench.Setup) { x.LoadJ /= 1 + d.LoadJ }, func(x *bench.Setup) { x.LoadJ *= 1 + d.LoadJ }}})
	}
	if s.Load.Torque > 0 && d.LoadTorque > 0 {
		l = append(l, variation{"its torque by " + percent(d.LoadTorque),
			[2]func(*bench.Setup){func(x *bench.Setup) { x.Load.Torque *= 1 - d.LoadTorque },
				func(x *bench.Setup) { x.Load.Torque *= 1 + d.LoadTorque }}})
	}
	return l
}

// BandsOf rides the plan with each of them at each of its ends; what they change is added up, so that all may be off at once. The drive
// keeps the plate's values in every ride: it does not know better.
func BandsOf(ctx context.Context, s bench.Setup, w Want, d Doubt) (Bands, error) {
	out := Bands{Trips: []string{}, Rests: []string{}}
	mid, err := Of(s, w)
	if err != nil {
		return out, err
	}
	vary := variations(s, d)
	rides := make([][2]*Ride, len(vary))
	// One core stays free for who works meanwhile: what is typed is saved by a ride of its own, and would wait behind all of these.
	var g errgroup.Group
	g.SetLimit(max(1, runtime.NumCPU()-1))
	for i, v := range vary {
		out.Rests = append(out.Rests, v.text)
		for k, change := range v.ends {
			g.Go(func() error {
				if ctx.Err() != nil {
					return nil
				}
				x := s
				change(&x)
				if r, err := Of(x, w); err == nil { // a corner that no machine stands at says nothing
					rides[i][k] = &r
				}
				return nil
			})
		}
	}
	_ = g.Wait()         // none of them fails
	if mid.Trip != nil { // there is no figure to put a band around
		out.Trips = append(out.Trips, "the plate's own figures")
		return out, nil
	}
	band := func(of func(*Ride) *float64) *Band {
		m := of(&mid)
		if m == nil {
			return nil
		}
		b := Band{*m, *m, *m}
		for _, pair := range rides {
			least, most := 0., 0.
			for _, r := range pair {
				if r == nil || r.Trip != nil {
					continue
				}
				v := of(r)
				if v == nil {
					return nil
				}
				least, most = math.Min(least, *v-*m), math.Max(most, *v-*m)
			}
			b.Low, b.High = b.Low+least, b.High+most
		}
		b.Low, b.High = math.Min(b.Low, b.Mid-readable*b.Mid), math.Max(b.High, b.Mid+readable*b.Mid)
		return &b
	}
	figure := func(of func(*Ride) float64) Band {
		return *band(func(r *Ride) *float64 { v := of(r); return &v })
	}
	out.Rise, out.Fall = band(func(r *Ride) *float64 { return r.Rise }), band(func(r *Ride) *float64 { return r.Fall })
	out.Top, out.Steady = figure(func(r *Ride) float64 { return math.Abs(r.Top) }), figure(func(r *Ride) float64 { return r.Steady })
	out.PeakRise, out.PeakFall = figure(func(r *Ride) float64 { return r.PeakRise }), figure(func(r *Ride) float64 { return r.PeakFall })
	out.Torque, out.Link = figure(func(r *Ride) float64 { return r.PeakTorque }), figure(func(r *Ride) float64 { return r.PeakLink })
	for i, pair := range rides {
		for k, r := range pair {
			if r != nil && r.Trip != nil {
				out.Trips = append(out.Trips, vary[i].text+map[int]string{0: ", low", 1: ", high"}[k])
			}
		}
	}
	return out, ctx.Err()
}

// readable is what a figure may be off because of how it is read out of a ride.
const readable = .01

func percent(share float64) string { return fmt.Sprintf("%.0f %%", share*100) }

func two(v float64) string { return fmt.Sprintf("%.2g", v) }
