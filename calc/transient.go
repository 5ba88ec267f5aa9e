package calc

import (
	"context"
	"fmt"
	"math"

	"tingate/core/machine"
	"tingate/core/motion"
)

// Knot is a moment of a frequency profile.
type Knot struct {
	TS          *float64 `json:"t_s"`
	FrequencyHz *float64 `json:"frequency_hz"`
}

// TransientIn is the input of transient.
type TransientIn struct {
	MachineParameters
	InertiaKGM2  *float64 `json:"inertia_kgm2"`
	Load         string   `json:"load" enum:"none,constant,linear,quadratic,constant-power"`
	LoadTorqueNM *float64 `json:"load_torque_nm"`
	LoadSpeedRPM *float64 `json:"load_speed_rpm"`
	Supply       string   `json:"supply" enum:"direct,vf"`
	Profile      []Knot   `json:"profile"`
	BoostV       *float64 `json:"boost_v"`
	DurationS    *float64 `json:"duration_s"`
	SampleS      *float64 `json:"sample_s"`
}

// TransientSample is one moment of a run.
type TransientSample struct {
	TS       *float64 `json:"t_s"`
	SpeedRPM *float64 `json:"speed_rpm"`
	TorqueNM *float64 `json:"torque_nm"`
	CurrentA *float64 `json:"current_a" doc:"rms of the vector"`
}

// TransientOut is the output of transient.
type TransientOut struct {
	Samples       []TransientSample `json:"samples"`
	PeakCurrentA  *float64          `json:"peak_current_a" doc:"amplitude of the vector"`
	PeakTorqueNM  *float64          `json:"peak_torque_nm"`
	TimeTo95PctS  *float64          `json:"time_to_95pct_s"`
	FinalSpeedRPM *float64          `json:"final_speed_rpm"`
	FinalCurrentA *float64          `json:"final_current_a"`
}

// mostSamples bounds what one run answers.
const mostSamples = 200_000

// mostSteps bounds what one run costs: some seconds.
const mostSteps = 20_000_000

func transient(ctx context.Context, in *TransientIn) (*TransientOut, error) {
	rated := in.RatedFrequencyHz
	if in.FrequencyHz == nil {
		in.FrequencyHz = rated
	}
	c, err := in.circuit()
	if err != nil {
		return nil, err
	}
	if err := first(positive("inertia_kgm2", in.InertiaKGM2), positive("duration_s", in.DurationS),
		positive("sample_s", in.SampleS)); err != nil {
		return nil, err
	}
	if *in.DurationS / *in.SampleS > mostSamples || *in.DurationS > 600 {
		return nil, &Error{"duration_s", show(in.DurationS), fmt.Sprintf("at most 600 s and %d samples", mostSamples)}
	}
	load := motion.Load{Kind: in.Load, Torque: value(in.LoadTorqueNM),
		Speed: orElse(in.LoadSpeedRPM, c.Synchronous(c.Frequency)*30/math.Pi) * math.Pi / 30}
	if load.Kind == "" {
		load.Kind = "none"
	}
	if load.Kind == "none" {
		load.Torque = 0
	} else if err := first(needed("load_torque_nm", in.LoadTorqueNM)); err != nil {
		return nil, err
	}
	if !(load.Torque >= 0) || !(load.Speed > 0) {
		return nil, &Error{"load_torque_nm", show(in.LoadTorqueNM), "0 or above, at a speed above 0"}
	}
	s := machine.Supply{Volts: *in.VoltageV, Hz: *in.FrequencyHz}
	if in.Supply == "vf" {
		s.Hz = *rated
		s.Boost = orElse(in.BoostV, 0)
		if len(in.Profile) == 0 {
			return nil, &Error{"profile", "nothing", "at least one knot of t_s and frequency_hz"}
		}
		for i, k := range in.Profile {
			if k.TS == nil || k.FrequencyHz == nil || i > 0 && *k.TS <= s.Profile[i-1].Time {
				return nil, &Error{fmt.Sprintf("profile[%d].t_s", i), show(k.TS), "t_s and frequency_hz, later than the knot before"}
			}
			s.Profile = append(s.Profile, machine.Profile{Time: *k.TS, Hz: *k.FrequencyHz})
		}
	}
	m := machine.FromCircuit(c)
	if n := m.Steps(s, *in.DurationS, *in.SampleS); !(n <= mostSteps) {
		return nil, &Error{"duration_s", show(in.DurationS),
			fmt.Sprintf("a run of at most %d steps, each a fortieth of the fastest turn of supply or machine; this one takes %.3g: a "+
				"shorter time, or a lower frequency", mostSteps, n)}
	}
	r := m.Run(ctx, s, load, c.Friction/math.Pow(c.Synchronous(c.Frequency), 2), *in.InertiaKGM2, *in.DurationS, *in.SampleS)
	if r.Stopped {
		return nil, stopped(ctx)
	}
	if r.Diverged {
		return nil, &Error{"inertia_kgm2", show(in.InertiaKGM2), "a machine that a simulation can follow: the run left all bounds"}
	}
	out := &TransientOut{Samples: make([]TransientSample, len(r.Samples)), PeakCurrentA: number(r.PeakCurrent),
		PeakTorqueNM: number(r.PeakTorque), TimeTo95PctS: number(r.Near), FinalSpeedRPM: number(r.Final.Speed),
		FinalCurrentA: number(r.Final.Current)}
	for i, m := range r.Samples {
		out.Samples[i] = TransientSample{number(m.Time), number(m.Speed), number(m.Torque), number(m.Current)}
	}
	return out, nil
}
