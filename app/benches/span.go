package benches

import (
	"context"
	"fmt"
	"math"

	"tingate/app/base"
	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/gate"
	"tingate/core/speeds"
	"tingate/core/translate"
)

// SpanTry is what a person tries at gate Span before it is kept: times in s from standstill to the highest speed and back. 0: as planned.
type SpanTry struct {
	Rise, Fall float64
	Resistor   float64 // Ω; 0: as set, below 0: none
}

// SpanRide is a rise, a while at the highest speed, and a stop, by the plan on the job's own figures.
type SpanRide struct {
	Missing string    `json:"missing" doc:"what is needed before it can be worked out"`
	Assumed []string  `json:"assumed" doc:"what nobody has said, and is taken for granted"`
	Ride    ride.Ride `json:"ride"`
	// Overload holds the ride against the motor's overload replica.
	Overload ride.SpanOverload `json:"overload"`
	// Resistor is what the fall needs, Typed what was read of the real machine.
	Resistor ride.ResistorNeed `json:"resistor"`
	Typed    TypedRun          `json:"typed"`
}

// SpanShortest are the shortest times that hold, with what was taken for granted.
type SpanShortest struct {
	Missing string        `json:"missing"`
	Assumed []string      `json:"assumed"`
	Times   ride.Shortest `json:"times"`
	// Light and Heavy are the same with the load's inertia at the ends of its band.
	Light   ride.Shortest `json:"light"`
	Heavy   ride.Shortest `json:"heavy"`
	Inertia float64       `json:"load_inertia_kgm2"`
	Band    float64       `json:"inertia_band" doc:"the inertia lies from itself over one more than this to itself times that"`
}

// Scaling is a drive's reference from the controller to the machine.
func (a *Benches) Scaling(ctx context.Context, driveID string) (speeds.Scaling, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return speeds.Scaling{}, err
	}
	return speeds.ScalingOf(j.Drive, j.Family, gate.PlanOf(j)), nil
}

// SpanBounds are the speeds of a drive with everything that bounds them.
func (a *Benches) SpanBounds(ctx context.Context, driveID string) (speeds.Bounds, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return speeds.Bounds{}, err
	}
	return speeds.BoundsOf(j.Drive, j.Family, gate.PlanOf(j)), nil
}

// SpanBands are the figures of a ride with the ends between which they lie.
type SpanBands struct {
	Missing string     `json:"missing"`
	Bands   ride.Bands `json:"bands"`
}

// By how much a load's torque may be off: as stated, and as assumed. Common practice.
const (
	statedTorque  = .1
	assumedTorque = .25
)

// SpanBands works out what the motor's tolerances and the load's doubts do to a ride.
func (a *Benches) SpanBands(ctx context.Context, driveID string, try SpanTry) (SpanBands, error) {
	s, w, f, err := a.SpanSetup(ctx, driveID, try)
	out := SpanBands{Missing: f.Missing, Bands: ride.Bands{Trips: []string{}, Rests: []string{}}}
	if err != nil || f.Missing != "" {
		return out, err
	}
	d := ride.Doubt{LoadJ: f.Band, LoadTorque: assumedTorque}
	if f.TorqueStated {
		d.LoadTorque = statedTorque
	}
	if out.Bands, err = ride.BandsOf(ctx, s, w, d); err != nil {
		out.Missing, err = err.Error(), nil
	}
	return out, err
}

// SpanSetup is the bench of a drive's plan, and what it wants.
func (a *Benches) SpanSetup(ctx context.Context, driveID string, try SpanTry) (bench.Setup, ride.Want, translate.Figures, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return bench.Setup{}, ride.Want{}, translate.Figures{}, err
	}
	return a.spanOf(j, try)
}

// spanOf is spanSetup of a job.
func (a *Benches) spanOf(j gate.Job, try SpanTry) (bench.Setup, ride.Want, translate.Figures, error) {
	for field, v := range map[string]float64{"rise_s": try.Rise, "fall_s": try.Fall} {
		if !(v >= 0 && v <= 3600) {
			return bench.Setup{}, ride.Want{}, translate.Figures{}, base.Bad(field, fmt.Sprint(v), "0 to 3600 s")
		}
	}
	if math.IsNaN(try.Resistor) || math.Abs(try.Resistor) > 10_000 {
		return bench.Setup{}, ride.Want{}, translate.Figures{},
			base.Bad("resistor_ohm", fmt.Sprint(try.Resistor), "up to 10,000 Ω; below 0: none")
	}
	f := gate.FiguresOf(j, gate.Evaluate(j, a.Now()))
	if f.Missing != "" {
		return bench.Setup{}, ride.Want{}, f, nil
	}
	s := base.SetupOf(j, f)
	w := ride.Want{Resistor: try.Resistor}
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
func (a *Benches) SpanRide(ctx context.Context, driveID string, try SpanTry) (SpanRide, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return SpanRide{}, err
	}
	s, w, f, err := a.spanOf(j, try)
	out := SpanRide{Missing: f.Missing, Assumed: f.Assumed, Ride: ride.Ride{Samples: []ride.RideSample{}},
		Overload: ride.SpanOverload{Curve: []ride.TripAt{}, Says: []string{}}, Typed: TypedRun{Likely: []string{}}}
	if err != nil || f.Missing != "" {
		return out, err
	}
	if out.Ride, err = ride.Of(s, w); err != nil {
		out.Missing, out.Ride.Samples, err = err.Error(), []ride.RideSample{}, nil
		return out, err
	}
	least := math.NaN()
	if q := j.Drive.Intent.ResistorLeast; q.Value != nil {
		least = *q.Value
	}
	out.Overload, out.Resistor, out.Typed = ride.OverloadOf(out.Ride), ride.ResistorOf(s, out.Ride, least), typedOf(j.Drive, out.Ride)
	return out, nil
}

// SpanShortest searches the shortest rise and falls that hold.
func (a *Benches) SpanShortest(ctx context.Context, driveID string, try SpanTry) (SpanShortest, error) {
	s, w, f, err := a.SpanSetup(ctx, driveID, try)
	out := SpanShortest{Missing: f.Missing, Assumed: f.Assumed}
	if err != nil || f.Missing != "" {
		return out, err
	}
	out.Inertia, out.Band = f.LoadJ, f.Band
	if out.Times, err = ride.ShortestOf(ctx, s, w); err != nil {
		out.Missing = err.Error()
		return out, nil
	}
	ends := [2]bench.Setup{s, s}
	ends[0].LoadJ, ends[1].LoadJ = s.LoadJ/(1+f.Band), s.LoadJ*(1+f.Band)
	for i, to := range [2]*ride.Shortest{&out.Light, &out.Heavy} {
		if *to, err = ride.ShortestOf(ctx, ends[i], w); err != nil {
			break // ended: the middle stands
		}
	}
	return out, nil
}
