package benches

import (
	"context"
	"errors"
	"fmt"
	"math"

	"tingate/app/base"
	"tingate/bench"
	"tingate/calc"
)

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
func (a *Benches) SpanInertia(ctx context.Context, driveID string, in calc.InertiaIn) (LoadInertia, error) {
	s, _, f, err := a.SpanSetup(ctx, driveID, SpanTry{})
	if err != nil {
		return LoadInertia{}, err
	}
	if f.Missing != "" {
		return LoadInertia{}, base.Refuse("It is worked out with " + f.Missing + ".")
	}
	x, err := calc.Inertia(&in)
	var field *calc.Error
	switch {
	case errors.As(err, &field):
		return LoadInertia{}, base.Bad(field.Field, field.Got, field.Want)
	case err != nil:
		return LoadInertia{}, err
	}
	rotor := bench.RotorInertia(s)
	out := LoadInertia{Load: *x.InertiaAtMotorKgm2, Low: *x.LowKgm2, High: *x.HighKgm2}
	if in.Shape == "coast-down" || in.Shape == "acceleration" {
		if out.Rotor = rotor; out.Load <= rotor {
			return out, base.Refuse(fmt.Sprintf("That is %.3g kg·m² in all, no more than a usual rotor's %.3g: the load has none worth "+
				"the name, or a figure is off.", out.Load, rotor))
		}
		out.Load, out.Low, out.High = out.Load-rotor, math.Max(0, out.Low-rotor), out.High-rotor
	}
	out.Band, out.Times = math.Max(out.High/out.Load, out.Load/math.Max(out.Low, out.Load*.1))*100-100, out.Load/rotor
	return out, nil
}
