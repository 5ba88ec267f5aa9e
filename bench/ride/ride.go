// Package ride runs a whole bench up, at speed and down again by a plan's settings: what it does, the shortest times that hold, between
// which ends its figures lie when motor and load are not quite as stated, and what is said of a plan by it.
package ride

import (
	"math"
	"slices"

	"tingate/bench"
	"tingate/core/dialect"
	"tingate/core/drive"
)

// Want is what a ride is to do, beside what the settings say.
type Want struct {
	Hz         float64 // to go to; 0: the upper limit as set
	Rise, Fall float64 // Hz/s; 0: as set
	Hold       float64 // s at speed before the stop; 0: a second
	Resistor   float64 // Ω; 0: as set, below 0: none
	BusControl *bool   // nil: as set
	Coast      bool    // the stop lets go
	Knock      float64 // share by which the load is heavier for a while of the hold
}

// RideSample is a moment of a ride.
type RideSample struct {
	T       float64 `json:"t" doc:"s"`
	Asked   float64 `json:"asked" doc:"r/min, synchronous to the ramp"`
	Speed   float64 `json:"speed" doc:"r/min of the shaft"`
	Hz      float64 `json:"hz" doc:"output frequency"`
	Current float64 `json:"current" doc:"A"`
	Torque  float64 `json:"torque" doc:"N·m"`
	Link    float64 `json:"link" doc:"V"`
	Warmth  float64 `json:"warmth" doc:"of the overload replica, 1: it trips"`
}

// Phase is a part of a ride.
type Phase string

// The phases of a ride.
const (
	Rise Phase = "rise"
	Hold Phase = "hold"
	Fall Phase = "fall"
)

// RideTrip is a fault that came while riding.
type RideTrip struct {
	T       float64 `json:"t" doc:"s"`
	Code    string  `json:"code"`
	Word    string  `json:"word" doc:"as the family shows it"`
	While   Phase   `json:"while" enum:"rise,hold,fall"`
	Hz      float64 `json:"hz" doc:"output frequency then"`
	Current float64 `json:"current" doc:"A"`
	Link    float64 `json:"link" doc:"V"`
	Stalls  bool    `json:"stalls,omitempty" doc:"in the rise, held at its limit far below the speed that is asked for: it stalls, whatever ended that"`
}

// Ride is a run up, a while at speed, and a stop.
type Ride struct {
	Samples    []RideSample `json:"samples"`
	Rise       *float64     `json:"rise_s" doc:"until 97 % of the speed that it reaches; null: never"`
	Fall       *float64     `json:"fall_s" doc:"from the stop until 2 % of it; null: never"`
	AskedRise  float64      `json:"asked_rise_s"`
	AskedFall  float64      `json:"asked_fall_s"`
	Top        float64      `json:"top" doc:"r/min at the end of the hold"`
	TopHz      float64      `json:"top_hz" doc:"output frequency then"`
	StopAt     float64      `json:"stop_at" doc:"s"`
	Steady     float64      `json:"steady_a" doc:"current at the end of the hold"`
	PeakRise   float64      `json:"peak_rise_a"`
	PeakFall   float64      `json:"peak_fall_a"`
	PeakLink   float64      `json:"peak_link_v"`
	PeakTorque float64      `json:"peak_torque_nm"`
	Warmth     float64      `json:"warmth" doc:"highest of the overload replica"`
	Limited    float64      `json:"limited_s" doc:"for which the current or torque limit held the ramp"`
	Eased      float64      `json:"eased_s" doc:"for which bus control held the fall"`
	Searched   float64      `json:"searched_s" doc:"of the rise, in which it looked for a shaft that turns"`
	Trip       *RideTrip    `json:"trip,omitempty"`
	Stands     string       `json:"stands,omitempty" doc:"why it does not run at all"`
	Stalled    bool         `json:"stalled,omitempty" doc:"it runs and does not come to the speed that is asked for"`
	// Limits are the lines that a picture shows.
	CurrentLimit float64 `json:"current_limit_a"`
	TripLink     float64 `json:"trip_link_v"`
	// OverloadAmps and OverloadClass are the overload replica's; 0 A: it is off.
	OverloadAmps  float64 `json:"overload_a"`
	OverloadClass float64 `json:"overload_class"`
	// Highest and Upper are the frequencies that a ramp may be counted to, Hz.
	Highest float64 `json:"highest_hz"`
	Upper   float64 `json:"upper_hz"`
}

// Rider is a bench on a ride, which has it to itself.
type Rider struct {
	B       *bench.Bench
	D       *drive.Drive  // its drive
	In      *drive.Inputs // what is given to that
	Out     Ride
	Samples []RideSample
	Phase   Phase
	Begun   float64 // s, of the bench's own time
	Trips   int     // before it began
	Asked   float64 // Hz that it goes to; 0: its upper limit
	Knock   float64 // share by which the load is heavier for a while of the hold
	Held    float64 // s at which the hold began
}

// knockLasts is that while, s, after a second at speed.
const knockLasts = 2

// knocked puts the knock of the load in and takes it off, so long after the hold began.
func (r *Rider) knocked(since, whole float64) {
	r.D.P.Load.Torque = whole
	if r.Knock > 0 && since > 1 && since < 1+knockLasts {
		r.D.P.Load.Torque = whole * (1 + r.Knock)
	}
}

// On puts a rider on a bench.
func On(b *bench.Bench) *Rider {
	return &Rider{B: b, D: b.Sim(), In: b.Given(), Trips: b.Sim().TripCount}
}

// Charge switches the line on, waits until the drive is ready, and begins.
func (r *Rider) Charge() {
	r.In.Line = true
	r.B.Advance(1500)
	r.Begun, r.Trips = r.D.Time, r.D.TripCount
}

// stalls is the share of the synchronous speed that is asked for below which a shaft is said to stall: no motor slips as much and works.
// Common practice.
const stalls = .7

// mostRide is how long a ride may last, s of its own time.
const mostRide = 900

// Fine is the time between samples of a ride, ticks.
const Fine = 10

// start sets a bench up for a ride and switches it on.
func start(s bench.Setup, w Want) (*Rider, error) {
	b, err := bench.New(s)
	if err != nil {
		return nil, err
	}
	r := On(b)
	r.set(w)
	r.Charge()
	return r, nil
}

// set lays what is wanted over what is set.
func (r *Rider) set(w Want) {
	c, p := &r.D.C, &r.D.P
	c.Command, c.Speed, c.Loop.On = "keypad", "keypad", false
	r.In.Hand, r.In.Terminals = false, c.Inverted
	r.B.CloseLinks()
	for i, f := range c.Inputs { // whatever must be on while it runs
		if slices.Contains(dialect.HoldsOff, f) {
			r.In.Terminals = r.In.Terminals&^(1<<i) | ^c.Inverted&(1<<i)
		}
	}
	if w.Rise > 0 {
		c.Rise = w.Rise
	}
	if w.Fall > 0 {
		c.Fall = w.Fall
	}
	if w.BusControl != nil {
		c.BusControl = *w.BusControl
	}
	switch {
	case w.Resistor > 0:
		p.Link.Chopper = w.Resistor
	case w.Resistor < 0:
		p.Link.Chopper = 0
	}
	c.Coast = c.Coast || w.Coast
	hz := w.Hz
	if hz <= 0 {
		hz = c.Upper
	}
	c.KeyHz, c.Hand = hz, hz
	r.In.KeyHz = hz
	r.Asked, r.Knock = hz, w.Knock
	r.Out.AskedRise, r.Out.AskedFall = hz/math.Max(c.Rise, 1e-9), hz/math.Max(c.Fall, 1e-9)
	r.Out.CurrentLimit, r.Out.TripLink = c.CurrentLimit, c.Overvolts
	r.Out.Highest, r.Out.Upper = c.Highest, c.Upper
	r.Out.OverloadAmps, r.Out.OverloadClass = c.Overload, c.OverloadClass
	r.D.Reload()
}

// Time is for how long it has been on its way, s.
func (r *Rider) Time() float64 { return r.D.Time - r.Begun }

// Step goes on by ten ticks; false when it tripped.
func (r *Rider) Step() bool {
	r.B.Advance(Fine)
	return r.note()
}

// note takes down what the last ten ticks were; false when it tripped.
func (r *Rider) note() bool {
	d := r.D
	o := &r.Out
	rpm := 120 / math.Max(float64(d.C.Motor.Poles), 2)
	r.Samples = append(r.Samples, RideSample{r.Time(), d.Ramp() * rpm, d.Speed, d.Hz, d.Current, d.Torque, d.Link, d.Warmth})
	o.PeakLink, o.PeakTorque, o.Warmth = math.Max(o.PeakLink, d.Link), math.Max(o.PeakTorque, math.Abs(d.Torque)),
		math.Max(o.Warmth, d.Warmth)
	if r.Phase == Fall {
		o.PeakFall = math.Max(o.PeakFall, d.Current)
	} else {
		o.PeakRise = math.Max(o.PeakRise, d.Current)
	}
	if d.Phase == drive.Searching {
		o.Searched += Fine * drive.Tick
	}
	switch d.Limiting {
	case "current", "torque":
		o.Limited += Fine * drive.Tick
	case "link":
		o.Eased += Fine * drive.Tick
	}
	if o.Trip == nil && d.TripCount > r.Trips {
		t := d.Trips[0]
		_, word := r.B.FaultWords(t.Code)
		asked := r.Asked
		if asked == 0 {
			asked = d.C.Upper
		}
		o.Trip = &RideTrip{T: r.Time(), Code: t.Code, Word: word, While: r.Phase, Hz: t.Hz, Current: t.Current, Link: t.Link,
			Stalls: r.Phase == Rise && math.Abs(t.Hz) < stalls*asked && o.Limited > .5*r.Time()}
	}
	return o.Trip == nil && !r.B.Lost()
}

// rise goes up and stays a while.
func (r *Rider) rise(hold float64) bool {
	r.Phase = Rise
	r.In.KeyRun = true
	most := math.Min(mostRide, 3*r.Out.AskedRise+20)
	steady := 0.0
	for r.Time() < most && steady < .3 {
		if !r.Step() {
			return false
		}
		if d := r.D; math.Abs(d.Ramp()-d.C.KeyHz) < 1e-6 && len(r.Samples) > 30 &&
			math.Abs(d.Speed-r.Samples[len(r.Samples)-30].Speed) < .003*math.Abs(d.Speed)+.5 {
			steady += Fine * drive.Tick
		} else {
			steady = 0
		}
	}
	slow := steady < .3
	r.Phase = Hold
	begun, whole := r.Time(), r.D.P.Load.Torque
	r.Held = begun
	for r.Time() < begun+hold {
		r.knocked(r.Time()-begun, whole)
		if !r.Step() {
			return false
		}
	}
	r.Out.Top, r.Out.TopHz = r.D.Speed, r.D.Hz
	if d := r.D; d.Running {
		asked := d.C.KeyHz * 120 / math.Max(float64(d.C.Motor.Poles), 2)
		r.Out.Stalled = math.Abs(d.Speed) < stalls*asked || slow && math.Abs(d.Speed) < .9*asked
	}
	if d := r.D; !d.Running {
		r.Out.Stands = bench.Standing(d.Blocked)
	}
	r.steadyOf()
	return true
}

// steadyOf takes the current of the last moments for that at speed.
func (r *Rider) steadyOf() {
	last := r.Samples[max(0, len(r.Samples)-30):]
	for _, s := range last {
		r.Out.Steady += s.Current / float64(len(last))
	}
}

// fall stops, by ramp or as it is set, until the shaft stands.
func (r *Rider) fall() {
	r.Phase = Fall
	r.In.KeyStop = true
	r.Out.StopAt = r.Time()
	most := r.Time() + math.Min(mostRide, 3*r.Out.AskedFall+240)
	for r.Time() < most {
		r.Step()
		if math.Abs(r.D.Speed) < .005*math.Abs(r.Out.Top)+.5 && !r.D.Running {
			return
		}
	}
}

// done works out what a ride was, and thins its samples.
func (r *Rider) done() Ride {
	o := r.Out
	at := func(v float64) *float64 { return &v }
	if o.Top != 0 {
		last := 0.0
		for _, s := range r.Samples {
			if s.T < o.StopAt || o.StopAt == 0 {
				if math.Abs(s.Speed) < .97*math.Abs(o.Top) {
					last = s.T
				}
			}
		}
		o.Rise = at(last)
		for _, s := range r.Samples {
			if o.StopAt > 0 && s.T > o.StopAt && math.Abs(s.Speed) < .02*math.Abs(o.Top) {
				o.Fall = at(s.T - o.StopAt)
				break
			}
		}
	}
	shown := r.Samples
	if o.Fall != nil && o.Trip == nil { // a shaft that creeps to its rest is not looked at
		until := o.StopAt + *o.Fall*1.15 + 1
		for len(shown) > 1 && shown[len(shown)-1].T > until {
			shown = shown[:len(shown)-1]
		}
	}
	const most = 500
	every := max(1, (len(shown)+most-1)/most)
	for i := 0; i < len(shown); i += every {
		o.Samples = append(o.Samples, shown[i])
	}
	if o.Samples == nil {
		o.Samples = []RideSample{}
	}
	return o
}

// Of runs the whole bench up, at speed, and down again, by its settings and what is wanted beside. A trip ends the drive's part:
// what follows is the shaft coasting. The same setup and want give the same ride.
func Of(s bench.Setup, w Want) (Ride, error) {
	r, err := start(s, w)
	if err != nil {
		return Ride{}, err
	}
	hold := w.Hold
	if hold <= 0 {
		hold = 1
	}
	r.whole(hold)
	return r.done(), nil
}

// whole rides up, at speed and down; after a trip until the shaft has run out.
func (r *Rider) whole(hold float64) {
	if r.rise(hold) {
		r.fall()
	} else if !r.B.Lost() { // it lets go: how long the shaft runs on
		from := math.Abs(r.D.Speed)
		for until := r.Time() + 120; r.Time() < until && math.Abs(r.D.Speed) > .02*from; {
			r.Step()
		}
	}
}
