package calc

import (
	"fmt"
	"math"

	"tingate/core/supply"
)

// OverloadIn is the input of overload.
type OverloadIn struct {
	MotorCurrentA      *float64       `json:"motor_current_a"`
	DriveRatedCurrentA *float64       `json:"drive_rated_current_a"`
	Class              string         `json:"class" enum:"10A,10,20,30"`
	TimeConstantS      *float64       `json:"time_constant_s"`
	Pickup             *float64       `json:"pickup" doc:"k; trips at warmth k², default 1.1"`
	Multiple           *float64       `json:"multiple" doc:"of the setting"`
	Hot                bool           `json:"hot" doc:"after long running at 1.0"`
	Steps              []OverloadStep `json:"steps"`
	CoolingFactor      *float64       `json:"cooling_factor" doc:"multiplies the time constant while multiple is 0"`
}

// OverloadStep is a time at one multiple of the setting.
type OverloadStep struct {
	Multiple  *float64 `json:"multiple"`
	DurationS *float64 `json:"duration_s"`
}

// OverloadOut is the output of overload. trip_time_s null: never, or nothing to work it out from.
type OverloadOut struct {
	SettingPct      *float64  `json:"setting_pct" doc:"of the drive's rated current, not rounded"`
	SettingA        *float64  `json:"setting_a"`
	TimeConstantS   *float64  `json:"time_constant_s"`
	TripTimeS       *float64  `json:"trip_time_s"`
	WarmthAfterEach []float64 `json:"warmth_after_each,omitempty" doc:"1 is the steady state at the setting"`
}

func init() {
	register("overload", "Motor overload in amperes and in percent of the drive, and when it trips", overload)
}

func overload(in *OverloadIn) (*OverloadOut, error) {
	k := orElse(in.Pickup, 1.1)
	if !(k > 0) {
		return nil, &Error{"pickup", fmt.Sprint(k), "a number above 0"}
	}
	for field, p := range map[string]*float64{"drive_rated_current_a": in.DriveRatedCurrentA, "time_constant_s": in.TimeConstantS,
		"motor_current_a": in.MotorCurrentA, "cooling_factor": in.CoolingFactor} {
		if p != nil && !(*p > 0) {
			return nil, &Error{field, fmt.Sprint(*p), "a number above 0"}
		}
	}
	if in.Multiple != nil && *in.Multiple < 0 {
		return nil, &Error{"multiple", fmt.Sprint(*in.Multiple), "0 or more"}
	}
	out := &OverloadOut{SettingA: in.MotorCurrentA, SettingPct: number(value(in.MotorCurrentA) / value(in.DriveRatedCurrentA) * 100)}
	tau := value(in.TimeConstantS)
	if in.TimeConstantS == nil && in.Class != "" {
		tau, _ = supply.ClassTimeConstant(in.Class, k)
	}
	out.TimeConstantS = number(tau)
	if (in.Multiple != nil || in.Steps != nil) && math.IsNaN(tau) {
		return nil, &Error{"class", "nothing", "class or time_constant_s, to work out a time"}
	}
	o := supply.Overload{TimeConstant: tau, Pickup: k, Cooling: orElse(in.CoolingFactor, 1)}
	warmth := 0.0
	if in.Hot {
		warmth = 1
	}
	if in.Steps == nil {
		if in.Multiple != nil {
			out.TripTimeS = number(o.TripTime(*in.Multiple, warmth))
		}
		return out, nil
	}
	at := 0.0
	for i, s := range in.Steps {
		if s.Multiple == nil || *s.Multiple < 0 {
			return nil, &Error{fmt.Sprintf("steps[%d].multiple", i), show(s.Multiple), "0 or more"}
		}
		if s.DurationS == nil || *s.DurationS < 0 {
			return nil, &Error{fmt.Sprintf("steps[%d].duration_s", i), show(s.DurationS), "0 or more"}
		}
		if t := o.TripTime(*s.Multiple, warmth); out.TripTimeS == nil && t <= *s.DurationS {
			out.TripTimeS = number(at + t)
		}
		warmth = o.After(*s.Multiple, warmth, *s.DurationS)
		at += *s.DurationS
		out.WarmthAfterEach = append(out.WarmthAfterEach, warmth)
	}
	return out, nil
}

func show(p *float64) string {
	if p == nil {
		return "nothing"
	}
	return fmt.Sprint(*p)
}
