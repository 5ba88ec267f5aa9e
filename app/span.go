package app

import (
	"context"
	"errors"
	"fmt"
	"math"

	"tingate/bench"
	"tingate/calc"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/motion"
	"tingate/formats/runfile"
)

// SpanTry is what a person tries at gate Span before it is kept: times in s from standstill to the highest speed and back. 0: as planned.
type SpanTry struct {
	Rise, Fall float64
	Resistor   float64 // Ω; 0: as set, below 0: none
}

// SpanRide is a rise, a while at the highest speed, and a stop, by the plan on the job's own figures.
type SpanRide struct {
	Missing string     `json:"missing" doc:"what is needed before it can be worked out"`
	Assumed []string   `json:"assumed" doc:"what nobody has said, and is taken for granted"`
	Ride    bench.Ride `json:"ride"`
	// Overload holds the ride against the motor's overload replica.
	Overload SpanOverload `json:"overload"`
	// Resistor is what the fall needs, Typed what was read of the real machine.
	Resistor ResistorNeed `json:"resistor"`
	Typed    TypedRun     `json:"typed"`
}

// SpanShortest are the shortest times that hold, with what was taken for granted.
type SpanShortest struct {
	Missing string         `json:"missing"`
	Assumed []string       `json:"assumed"`
	Times   bench.Shortest `json:"times"`
	// Light and Heavy are the same with the load's inertia at the ends of its band.
	Light   bench.Shortest `json:"light"`
	Heavy   bench.Shortest `json:"heavy"`
	Inertia float64        `json:"load_inertia_kgm2"`
	Band    float64        `json:"inertia_band" doc:"the inertia lies from itself over one more than this to itself times that"`
}

// Scaling is a drive's reference from the controller to the machine.
func (a *App) Scaling(ctx context.Context, driveID string) (gate.Scaling, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return gate.Scaling{}, err
	}
	return gate.ScalingOf(j, gate.Evaluate(j, a.now())), nil
}

// ResistorNeed is what a braking resistor must be for the plan's fall.
type ResistorNeed struct {
	Needed  bool     `json:"needed" doc:"the fall gives back more than the link takes"`
	MostOhm float64  `json:"most_ohm" doc:"that takes the peak; 0: none is needed"`
	Least   *float64 `json:"least_ohm,omitempty" doc:"that the drive bears, from its papers"`
	Peak    float64  `json:"peak_kw"`
	Average float64  `json:"average_kw" doc:"over the plan back and forth without a pause"`
	Fits    bool     `json:"fits" doc:"something lies between the least and the most"`
	Says    string   `json:"says"`
}

// Efficiencies of motor and drive on the way back to the link. Common practice.
const (
	motorBack = .88
	driveBack = .97
)

// resistorOf works it out in closed form, the speed falling evenly.
func resistorOf(s bench.Setup, r bench.Ride, least float64) ResistorNeed {
	var out ResistorNeed
	if r.Top == 0 || !(r.AskedFall > 0) || r.Trip != nil && r.Trip.While != "fall" {
		return out
	}
	w := math.Abs(r.Top) * math.Pi / 30
	load, _ := s.Load.At(w / 2)
	cycle := r.StopAt + r.AskedFall
	b := motion.Braking{J: bench.RotorInertia(s) + s.LoadJ, From: w, Seconds: r.AskedFall, Load: math.Max(0, load), Motor: motorBack, Drive: driveBack, C: 1, Link: 1, Trip: 1, Chopper: bench.ChopperVolts(s), TorqueLimit: math.NaN(), Cycle: cycle}.Work()
	if !b.Regenerating || b.PeakPower <= 0 {
		out.Says = "The load stops it faster than the ramp asks: nothing comes back, no resistor is needed."
		return out
	}
	out.Needed, out.MostOhm, out.Peak, out.Average, out.Fits = true, b.MostOhm, b.PeakPower/1000, b.Average/1000, true
	out.Says = fmt.Sprintf("At most %.3g Ω take the peak of %.3g kW; %.3g kW on the average, back and forth without a pause (every %.0f s)", out.MostOhm, out.Peak, out.Average, cycle)
	if !math.IsNaN(least) {
		out.Least, out.Fits = &least, least <= out.MostOhm
		if out.Fits {
			out.Says += fmt.Sprintf("; at least %.3g Ω for the drive", least)
		} else {
			out.Says += fmt.Sprintf(", and the drive bears no less than %.3g Ω: none fits, the fall must be longer", least)
		}
	}
	out.Says += fmt.Sprintf(". Losses of motor and drive, %.0f %% and %.0f %%, are taken off.", 100*(1-motorBack), 100*(1-driveBack))
	return out
}

// TypedRun is what somebody read of the real machine, held against the ride.
type TypedRun struct {
	Said   bool     `json:"said" doc:"something was read"`
	Likely []string `json:"likely" doc:"what explains the differences; empty: as predicted"`
}

// typedOf holds what was read against a ride.
func typedOf(d drivefile.Drive, r bench.Ride) TypedRun {
	out := TypedRun{Likely: []string{}}
	n := func(q drivefile.Q) float64 {
		if q.Value == nil {
			return math.NaN()
		}
		out.Said = true
		return *q.Value
	}
	m := motion.RunTimes{Rise: n(d.Ran.Rise), Fall: n(d.Ran.Fall), Top: n(d.Ran.Top), Peak: n(d.Ran.Peak)}
	held := n(d.Ran.Held)
	if !out.Said || r.Top == 0 {
		return out
	}
	p := predictedOf(r)
	out.Likely = append(out.Likely, m.Explain(p)...)
	if k := held / r.Steady; k > 1.15 || k < .85 {
		out.Likely = append(out.Likely, fmt.Sprintf("At speed it takes %.2f times the predicted current: the load's torque is not what was taken, or the motor is not the plate's.", k))
	}
	return out
}

// predictedOf is what a ride predicts of a run.
func predictedOf(ride bench.Ride) motion.Predicted {
	p := motion.Predicted{Top: math.Abs(ride.Top), Rise: math.NaN(), Fall: math.NaN(), Peak: ride.PeakRise, Limit: ride.CurrentLimit, Highest: ride.Highest, Upper: ride.Upper}
	if ride.Rise != nil {
		p.Rise = *ride.Rise
	}
	if ride.Fall != nil {
		p.Fall = *ride.Fall
	}
	return p
}

// LoadInertia is an inertia at the motor's shaft, worked out of a body or of a measured change of speed.
type LoadInertia struct {
	Load  float64 `json:"load_kgm2" doc:"of the load alone, at the motor"`
	Low   float64 `json:"low_kgm2"`
	High  float64 `json:"high_kgm2"`
	Band  float64 `json:"band_pct" doc:"of the field beside it: from the value over one more than this to that times it"`
	Rotor float64 `json:"rotor_kgm2" doc:"taken off what was measured; of a body 0"`
	Times float64 `json:"times_rotor" doc:"the load over a usual rotor"`
}

// SpanInertia works a load's inertia out. What is measured at the shaft has the rotor in it: a usual one is taken off.
func (a *App) SpanInertia(ctx context.Context, driveID string, in calc.InertiaIn) (LoadInertia, error) {
	s, _, f, err := a.spanSetup(ctx, driveID, SpanTry{})
	if err != nil {
		return LoadInertia{}, err
	}
	if f.Missing != "" {
		return LoadInertia{}, &RefusedError{"It is worked out with " + f.Missing + "."}
	}
	x, err := calc.Inertia(&in)
	var field *calc.Error
	switch {
	case errors.As(err, &field):
		return LoadInertia{}, &InputError{field.Field, field.Got, field.Want}
	case err != nil:
		return LoadInertia{}, err
	}
	rotor := bench.RotorInertia(s)
	out := LoadInertia{Load: *x.InertiaAtMotorKgm2, Low: *x.LowKgm2, High: *x.HighKgm2}
	if in.Shape == "coast-down" || in.Shape == "acceleration" {
		if out.Rotor = rotor; out.Load <= rotor {
			return out, &RefusedError{fmt.Sprintf("That is %.3g kg·m² in all, no more than a usual rotor's %.3g: the load has none worth the name, or a figure is off.", out.Load, rotor)}
		}
		out.Load, out.Low, out.High = out.Load-rotor, math.Max(0, out.Low-rotor), out.High-rotor
	}
	out.Band, out.Times = math.Max(out.High/out.Load, out.Load/math.Max(out.Low, out.Load*.1))*100-100, out.Load/rotor
	return out, nil
}

// SpanBounds are the speeds of a drive with everything that bounds them.
func (a *App) SpanBounds(ctx context.Context, driveID string) (gate.Bounds, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return gate.Bounds{}, err
	}
	return gate.BoundsOf(j, gate.Evaluate(j, a.now())), nil
}

// SpanBands are the figures of a ride with the ends between which they lie.
type SpanBands struct {
	Missing string      `json:"missing"`
	Bands   bench.Bands `json:"bands"`
}

// By how much a load's torque may be off: as stated, and as assumed. Common practice.
const (
	statedTorque  = .1
	assumedTorque = .25
)

// SpanBands works out what the motor's tolerances and the load's doubts do to a ride.
func (a *App) SpanBands(ctx context.Context, driveID string, try SpanTry) (SpanBands, error) {
	s, w, f, err := a.spanSetup(ctx, driveID, try)
	out := SpanBands{Missing: f.Missing, Bands: bench.Bands{Trips: []string{}, Rests: []string{}}}
	if err != nil || f.Missing != "" {
		return out, err
	}
	d := bench.Doubt{LoadJ: f.Band, LoadTorque: assumedTorque}
	if f.TorqueStated {
		d.LoadTorque = statedTorque
	}
	if out.Bands, err = s.Bands(ctx, w, d); err != nil {
		out.Missing, err = err.Error(), nil
	}
	return out, err
}

// spanSetup is the bench of a drive's plan, and what it wants.
func (a *App) spanSetup(ctx context.Context, driveID string, try SpanTry) (bench.Setup, bench.Want, gate.Figures, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return bench.Setup{}, bench.Want{}, gate.Figures{}, err
	}
	for field, v := range map[string]float64{"rise_s": try.Rise, "fall_s": try.Fall} {
		if !(v >= 0 && v <= 3600) {
			return bench.Setup{}, bench.Want{}, gate.Figures{}, &InputError{field, fmt.Sprint(v), "0 to 3600 s"}
		}
	}
	if math.IsNaN(try.Resistor) || math.Abs(try.Resistor) > 10_000 {
		return bench.Setup{}, bench.Want{}, gate.Figures{}, &InputError{"resistor_ohm", fmt.Sprint(try.Resistor), "up to 10,000 Ω; below 0: none"}
	}
	f := gate.FiguresOf(j, gate.Evaluate(j, a.now()))
	if f.Missing != "" {
		return bench.Setup{}, bench.Want{}, f, nil
	}
	s := setupOf(j, f)
	w := bench.Want{Resistor: try.Resistor}
	hz := bench.Upper(s)
	if try.Rise > 0 {
		w.Rise = hz / try.Rise
	}
	if try.Fall > 0 {
		w.Fall = hz / try.Fall
	}
	return s, w, f, nil
}

// SpanRide runs the plan, or what is tried, with the full model.
func (a *App) SpanRide(ctx context.Context, driveID string, try SpanTry) (SpanRide, error) {
	s, w, f, err := a.spanSetup(ctx, driveID, try)
	out := SpanRide{Missing: f.Missing, Assumed: f.Assumed, Ride: bench.Ride{Samples: []bench.RideSample{}}, Overload: SpanOverload{Curve: []TripAt{}, Says: []string{}}, Typed: TypedRun{Likely: []string{}}}
	if err != nil || f.Missing != "" {
		return out, err
	}
	if out.Ride, err = s.Ride(w); err != nil {
		out.Missing, out.Ride.Samples, err = err.Error(), []bench.RideSample{}, nil
		return out, err
	}
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return out, err
	}
	least := math.NaN()
	if q := j.Drive.Intent.ResistorLeast; q.Value != nil {
		least = *q.Value
	}
	out.Overload, out.Resistor, out.Typed = overloadOf(out.Ride), resistorOf(s, out.Ride, least), typedOf(j.Drive, out.Ride)
	return out, nil
}

// RunOver is a recorded run laid over the plan's ride.
type RunOver struct {
	Samples []bench.RideSample `json:"samples" doc:"thinned; time from its start on"`
	Times   map[string]string  `json:"times" doc:"rise, fall, top, peak as recorded, in words"`
	Likely  []string           `json:"likely" doc:"what explains the differences"`
	Gaps    int                `json:"gaps" doc:"rows without figures"`
}

// LayOver reads a recorded run and holds it against the plan's ride. c says which columns are which.
func (a *App) LayOver(ctx context.Context, driveID string, raw []byte, c runfile.Columns) (RunOver, error) {
	out := RunOver{Samples: []bench.RideSample{}, Times: map[string]string{}, Likely: []string{}}
	s, w, f, err := a.spanSetup(ctx, driveID, SpanTry{})
	if err != nil {
		return out, err
	}
	if f.Missing != "" {
		return out, &RefusedError{"The ride that it is laid over needs " + f.Missing + "."}
	}
	c.Poles = f.Motor.Poles
	run, err := runfile.Read(raw, c)
	if err != nil {
		return out, &InputError{"file", err.Error(), "a list of time and speed, with current if it was recorded"}
	}
	m, ok := run.Times()
	if !ok {
		return out, &InputError{"file", "a run in which nothing comes to speed", "a start from standstill to a steady speed"}
	}
	ride, err := s.Ride(w)
	if err != nil {
		return out, &RefusedError{err.Error()}
	}
	out.Gaps = run.Gaps
	word := func(v float64, unit string) string {
		if math.IsNaN(v) {
			return "not in it"
		}
		return fmt.Sprintf("%.4g %s", v, unit)
	}
	out.Times["rise"], out.Times["fall"], out.Times["top"], out.Times["peak"] = word(m.Rise, "s"), word(m.Fall, "s"), word(m.Top, "r/min"), word(m.Peak, "A")
	out.Likely = append(out.Likely, m.Explain(predictedOf(ride))...)
	const most = 600
	every := max(1, (len(run.T)+most-1)/most)
	for i := 0; i < len(run.T); i += every {
		if t := run.T[i] - m.Start; t >= 0 {
			x := bench.RideSample{T: t, Speed: run.Speed[i]}
			if !math.IsNaN(run.Current[i]) {
				x.Current = run.Current[i]
			}
			out.Samples = append(out.Samples, x)
		}
	}
	return out, nil
}

// SpanShortest searches the shortest rise and falls that hold.
func (a *App) SpanShortest(ctx context.Context, driveID string, try SpanTry) (SpanShortest, error) {
	s, w, f, err := a.spanSetup(ctx, driveID, try)
	out := SpanShortest{Missing: f.Missing, Assumed: f.Assumed}
	if err != nil || f.Missing != "" {
		return out, err
	}
	out.Inertia, out.Band = f.LoadJ, f.Band
	if out.Times, err = s.Shortest(ctx, w); err != nil {
		out.Missing = err.Error()
		return out, nil
	}
	ends := [2]bench.Setup{s, s}
	ends[0].LoadJ, ends[1].LoadJ = s.LoadJ/(1+f.Band), s.LoadJ*(1+f.Band)
	for i, to := range [2]*bench.Shortest{&out.Light, &out.Heavy} {
		if *to, err = ends[i].Shortest(ctx, w); err != nil {
			break // ended: the middle stands
		}
	}
	return out, nil
}
