package ride

import (
	"context"
	"math"
	"sync"

	"tingate/bench"
	"tingate/core/machine"
)

// Shortest is the shortest rise and falls that hold, s from standstill to the speed and back. Null: none of up to ten minutes does.
type Shortest struct {
	Rise        *float64 `json:"rise_s" doc:"without a trip, and followed"`
	Fall        *float64 `json:"fall_s" doc:"as it is set, followed"`
	FallPlain   *float64 `json:"fall_plain_s" doc:"without resistor, without bus control"`
	FallEased   *float64 `json:"fall_eased_s" doc:"without resistor, bus control on: what it really takes when it is asked for one second"`
	FallBraked  *float64 `json:"fall_braked_s" doc:"with the resistor"`
	Resistor    float64  `json:"resistor_ohm" doc:"as set, or the one that the motor's power asks for; 0: none"`
	Coast       *float64 `json:"coast_s" doc:"until it stands when the drive lets go"`
	CoastAtRest bool     `json:"coast_at_rest" doc:"it stands in the end"`
	DC          *float64 `json:"dc_s" doc:"until it stands with direct current of the motor's rated size in its stator; null: not within ten minutes, or a rotor with magnets"`
	DCHeat      float64  `json:"dc_heat_kj" doc:"what that leaves in the rotor"`
}

const (
	longest  = 600.
	shortest = .05
)

// search finds the shortest time that holds, to two percent.
func search(ctx context.Context, from float64, holds func(t float64) bool) *float64 {
	low, high := shortest, math.Max(from, .5)
	for !holds(high) {
		if ctx.Err() != nil || high >= longest {
			return nil
		}
		low, high = high, math.Min(longest, high*2)
	}
	for high/low > 1.02 && ctx.Err() == nil {
		if mid := math.Sqrt(low * high); holds(mid) {
			high = mid
		} else {
			low = mid
		}
		if high < shortest*1.5 {
			break
		}
	}
	return &high
}

// ShortestOf searches them with the full model.
func ShortestOf(ctx context.Context, s bench.Setup, w Want) (Shortest, error) {
	r, err := start(s, w)
	if err != nil {
		return Shortest{}, err
	}
	hz := r.D.C.KeyHz
	var out Shortest
	var wg sync.WaitGroup
	wg.Go(func() {
		out.Rise = search(ctx, math.Min(r.Out.AskedRise, 60), func(t float64) bool {
			x := w
			x.Rise = hz / t
			r, err := start(s, x)
			if err != nil || !r.rise(.2) {
				return false
			}
			o := r.done()
			return o.Rise != nil && *o.Rise <= 1.1*t+.3
		})
	})
	// The falls begin from the same moment at speed: it is reached once, as slowly as is sure.
	up := w
	up.Rise = hz / math.Max(r.Out.AskedRise, 20)
	top, err := start(s, up)
	if err != nil || !top.rise(.5) { // it never gets there
		wg.Wait()
		return out, err
	}
	out.Resistor = top.D.P.Link.Chopper
	if out.Resistor == 0 {
		out.Resistor = usualResistor(s)
	}
	start := math.Min(r.Out.AskedFall, 60)
	fall := func(to **float64, x Want) {
		wg.Go(func() {
			*to = search(ctx, start, func(t float64) bool {
				x.Fall = hz / t
				o := top.from(x).done()
				return o.Trip == nil && o.Fall != nil && *o.Fall <= 1.15*t+.3
			})
		})
	}
	off, on := false, true
	fall(&out.Fall, w)
	fall(&out.FallPlain, Want{Hz: w.Hz, Resistor: -1, BusControl: &off})
	fall(&out.FallBraked, Want{Hz: w.Hz, Resistor: out.Resistor, BusControl: &off})
	wg.Go(func() {
		if o := top.from(Want{Hz: w.Hz, Fall: hz, Resistor: -1, BusControl: &on}).done(); o.Trip == nil {
			out.FallEased = o.Fall
		}
	})
	out.DC, out.DCHeat = directCurrent(s, math.Abs(top.Out.Top)*math.Pi/30, top.D.P.Inertia+s.LoadJ)
	wg.Go(func() {
		coast := top.from(Want{Hz: w.Hz, Coast: true}).done()
		out.Coast, out.CoastAtRest = coast.Fall, coast.Fall != nil
	})
	wg.Wait()
	return out, ctx.Err()
}

// ChopperVolts is the link's voltage at which a brake transistor switches the resistor on. Common practice.
func ChopperVolts(s bench.Setup) float64 {
	if s.Line < 300 {
		return 385
	}
	return 770
}

// demagnetise is how long a drive waits, coasting, until the flux is gone and direct current can be given. Common practice.
const demagnetise = 1.

// directCurrent is how long a stop from a speed (rad/s) with direct current of the rated size takes, and the heat, kJ, that it leaves in
// the rotor: all that the shaft loses to it. By steps of a hundredth of a second.
func directCurrent(s bench.Setup, w, j float64) (seconds *float64, heat float64) {
	e, ok := machine.Usual(s.Motor)
	if s.Magnet || !ok {
		return nil, 0
	}
	const h = .01
	rest := .02 * w
	for t := 0.; t < longest; t += h {
		if w <= rest {
			return &t, heat / 1000
		}
		load, _ := s.Load.At(w)
		brake := 0.
		if t >= demagnetise {
			brake = e.DirectCurrentTorque(s.Motor.Current, w)
		}
		heat += brake * w * h
		w -= (brake + load) / j * h
	}
	return nil, heat / 1000
}

// usualResistor is one for the motor's power at the link's limit. Common practice: it takes one and a half times the rated power.
func usualResistor(s bench.Setup) float64 {
	v := ChopperVolts(s)
	return v * v / (1.5 * math.Max(s.Motor.Power, 100))
}

// from is a fall that begins as a ride stands, with something else wanted; the ride itself stays as it is.
func (r *Rider) from(w Want) *Rider {
	x := On(r.B.Twin())
	x.Out.Top, x.Begun = r.Out.Top, r.Begun
	x.set(w)
	x.fall()
	return x
}
