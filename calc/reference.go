package calc

import (
	"math"

	"tingate/core/drive"
)

// ReferenceIn is the input of reference-run: ohms, henries, kg·m², N·m, hertz, volts, farads, J/K, W/K.
type ReferenceIn struct {
	PolePairs *float64 `json:"pole_pairs"`
	Rs        *float64 `json:"rs"`
	Rr        *float64 `json:"rr"`
	Ls        *float64 `json:"ls"`
	Lr        *float64 `json:"lr"`
	Lm        *float64 `json:"lm"`
	J         *float64 `json:"j"`
	Kf        *float64 `json:"kf"`
	Tc        *float64 `json:"tc"`
	FN        *float64 `json:"fn"`
	Vpk       *float64 `json:"vpk"`
	B0        *float64 `json:"b0"`
	V0        *float64 `json:"v0"`
	Req       *float64 `json:"req"`
	C         *float64 `json:"c"`
	Von       *float64 `json:"von"`
	Vband     *float64 `json:"vband"`
	Rb        *float64 `json:"rb"`
	Trip      *float64 `json:"trip"`
	Cth       *float64 `json:"cth"`
	Gth       *float64 `json:"gth"`
	Variant   string   `json:"variant" enum:"cont,tick1ms,foc125us"`
	SampleS   *float64 `json:"sample_s" doc:"a whole number of milliseconds; default 0.01"`
}

// ReferenceSample is one moment of a reference run.
type ReferenceSample struct {
	TS        *float64 `json:"t_s"`
	SpeedRadS *float64 `json:"speed_rad_s"`
	CurrentA  *float64 `json:"current_a" doc:"amplitude of the vector"`
	TorqueNM  *float64 `json:"torque_nm"`
	BusV      *float64 `json:"bus_v"`
}

// ReferenceOut is the output of reference-run.
type ReferenceOut struct {
	Samples []ReferenceSample `json:"samples"`
	Steps   int               `json:"steps"`
}

func referenceRun(in *ReferenceIn) (*ReferenceOut, error) {
	var r drive.Reference
	for _, x := range []struct {
		field string
		v     *float64
		to    *float64
		zero  bool
	}{{"pole_pairs", in.PolePairs, &r.Motor.Pairs, false}, {"rs", in.Rs, &r.Motor.Rs, false}, {"rr", in.Rr, &r.Motor.Rr, false},
		{"ls", in.Ls, &r.Motor.Ls, false}, {"lr", in.Lr, &r.Motor.Lr, false}, {"lm", in.Lm, &r.Motor.Lm, false},
		{"j", in.J, &r.J, false}, {"kf", in.Kf, &r.Fan, true}, {"tc", in.Tc, &r.Dry, true}, {"fn", in.FN, &r.FN, false},
		{"vpk", in.Vpk, &r.Vpk, false}, {"b0", in.B0, &r.B0, true}, {"v0", in.V0, &r.V0, false},
		{"req", in.Req, &r.Bus.Resistance, false}, {"c", in.C, &r.Bus.C, false}, {"von", in.Von, &r.Bus.On, false},
		{"vband", in.Vband, &r.Bus.Band, false}, {"rb", in.Rb, &r.Bus.Chopper, false}, {"cth", in.Cth, &r.Cth, false},
		{"gth", in.Gth, &r.Gth, true}} {
		if x.v == nil || *x.v < 0 || *x.v == 0 && !x.zero {
			return nil, &Error{x.field, show(x.v), "above 0"}
		}
		*x.to = *x.v
	}
	if r.Motor.Ls*r.Motor.Lr <= r.Motor.Lm*r.Motor.Lm {
		return nil, &Error{"lm", show(in.Lm), "so that ls · lr is above lm²"}
	}
	r.Bus.Open = r.V0
	every := orElse(in.SampleS, .01) * 1000
	if every < 1 || every != math.Round(every) || every > 10000 {
		return nil, &Error{"sample_s", show(in.SampleS), "a whole number of milliseconds, up to 10 s"}
	}
	out := &ReferenceOut{Samples: []ReferenceSample{}}
	n := 0
	take := func(s drive.Sample) {
		if n%int(every) == 0 || n == drive.Runtime*1000 {
			out.Samples = append(out.Samples,
				ReferenceSample{number(s.Time), number(s.Speed), number(s.Current), number(s.Torque), number(s.Bus)})
		}
		n++
	}
	switch in.Variant {
	case "cont", "":
		_, out.Steps = r.Continuous(20, take)
	case "tick1ms":
		_, out.Steps = r.Held(take)
	case "foc125us":
		_, out.Steps = r.Oriented(take)
	}
	if s := out.Samples[len(out.Samples)-1]; s.SpeedRadS == nil || s.BusV == nil {
		return nil, &Error{"j", show(in.J), "a machine that these steps can follow: the run left all bounds"}
	}
	return out, nil
}
