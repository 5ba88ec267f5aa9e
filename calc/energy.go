package calc

import (
	"fmt"
	"math"

	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/supply"
)

// DischargeIn is the input of discharge.
type DischargeIn struct {
	Readings []DischargeReading `json:"readings"`
	LimitV   *float64           `json:"limit_v" doc:"DC volts below which the link counts as discharged"`
}

// DischargeReading is one measurement of the DC link.
type DischargeReading struct {
	TS *float64 `json:"t_s"`
	V  *float64 `json:"v"`
}

// DischargeOut is the output of discharge. Never a permission.
type DischargeOut struct {
	TimeConstantS  *float64          `json:"time_constant_s"`
	TimeToLimitS   *float64          `json:"time_to_limit_s" doc:"counted as the readings are; 0 when already below; null when none can be given"`
	TimeToLimitLow *float64          `json:"time_to_limit_low_s"`
	TimeToLimitHi  *float64          `json:"time_to_limit_high_s"`
	Falling        bool              `json:"falling"`
	Findings       []finding.Finding `json:"findings"`
}

// BalanceIn is the input of balance.
type BalanceIn struct {
	L12V     *float64 `json:"l12_v"`
	L23V     *float64 `json:"l23_v"`
	L31V     *float64 `json:"l31_v"`
	NominalV *float64 `json:"nominal_v"`
}

// BalanceOut is the output of balance.
type BalanceOut struct {
	AverageV     *float64          `json:"average_v"`
	UnbalancePct *float64          `json:"unbalance_pct" doc:"largest deviation from the average over the average"`
	NegativePct  *float64          `json:"negative_sequence_pct"`
	Findings     []finding.Finding `json:"findings"`
}

// DCLinkIn is the input of dc-link.
type DCLinkIn struct {
	Rectifier string   `json:"rectifier" enum:"six-pulse,single-phase,doubler,active-front-end"`
	LineV     *float64 `json:"line_v" doc:"as measured, rms"`
	MeasuredV *float64 `json:"measured_v" doc:"DC, at rest"`
}

// DCLinkOut is the output of dc-link; null for an active front end, which its family sets.
type DCLinkOut struct {
	IdleV    *float64          `json:"idle_v"`
	LoadedV  *float64          `json:"loaded_v"`
	LowV     *float64          `json:"low_v"`
	HighV    *float64          `json:"high_v"`
	Findings []finding.Finding `json:"findings"`
}

// DerateIn is the input of derate. Missing table values are common practice.
type DerateIn struct {
	RatedCurrentA    *float64 `json:"rated_current_a"`
	MotorCurrentA    *float64 `json:"motor_current_a"`
	AltitudeM        *float64 `json:"altitude_m"`
	AmbientC         *float64 `json:"ambient_c"`
	SwitchingKHz     *float64 `json:"switching_khz"`
	SideBySide       bool     `json:"side_by_side"`
	SinglePhase      bool     `json:"single_phase" doc:"a three-phase drive fed by one phase"`
	AltitudeFromM    *float64 `json:"altitude_from_m"`
	AltitudePct      *float64 `json:"altitude_pct_per_100m"`
	AmbientFromC     *float64 `json:"ambient_from_c"`
	AmbientPct       *float64 `json:"ambient_pct_per_k"`
	AmbientMostC     *float64 `json:"ambient_most_c"`
	SwitchingFromKHz *float64 `json:"switching_from_khz"`
	SwitchingPct     *float64 `json:"switching_pct_per_khz"`
	SideBySidePct    *float64 `json:"side_by_side_pct"`
	SinglePhasePct   *float64 `json:"single_phase_pct"`
}

// DerateOut is the output of derate.
type DerateOut struct {
	DeratedCurrentA *float64          `json:"derated_current_a"`
	Factors         []supply.Factor   `json:"factors"`
	Findings        []finding.Finding `json:"findings"`
}

func init() {
	register("discharge", "How a DC link falls, and when it will reach a limit; never a permission", discharge)
	register("balance", "How evenly three line voltages stand", balance)
	register("dc-link", "The DC link to be expected behind a rectifier", dcLink)
	register("derate", "The output current that is left at a place, with each factor", derate)
}

// findings is never null in an answer.
func findings(l []finding.Finding) []finding.Finding {
	if l == nil {
		return []finding.Finding{}
	}
	return l
}

func discharge(in *DischargeIn) (*DischargeOut, error) {
	limit := value(in.LimitV)
	if !(limit > 0) {
		return nil, &Error{"limit_v", show(in.LimitV), "volts above 0"}
	}
	var list []supply.Reading
	for i, r := range in.Readings {
		if r.TS == nil {
			return nil, &Error{fmt.Sprintf("readings[%d].t_s", i), "nothing", "seconds"}
		}
		if r.V == nil {
			return nil, &Error{fmt.Sprintf("readings[%d].v", i), "nothing", "volts"}
		}
		list = append(list, supply.Reading{T: *r.TS, V: *r.V})
	}
	d := supply.FitDischarge(list, limit)
	return &DischargeOut{number(d.TimeConstant), number(d.ToLimit), number(d.Low), number(d.High), d.Falling, findings(d.Findings)}, nil
}

func balance(in *BalanceIn) (*BalanceOut, error) {
	v := [3]float64{value(in.L12V), value(in.L23V), value(in.L31V)}
	for i, x := range v {
		if !(x >= 0) {
			return nil, &Error{[]string{"l12_v", "l23_v", "l31_v"}[i], show([]*float64{in.L12V, in.L23V, in.L31V}[i]), "volts, 0 or more"}
		}
	}
	b := supply.BalanceOf(v)
	return &BalanceOut{number(b.Average), number(b.Unbalance), number(b.Negative),
		findings(supply.JudgeLine(v, orElse(in.NominalV, math.NaN())))}, nil
}

func dcLink(in *DCLinkIn) (*DCLinkOut, error) {
	line := value(in.LineV)
	if !(line > 0) {
		return nil, &Error{"line_v", show(in.LineV), "volts above 0"}
	}
	switch in.Rectifier {
	case supply.SixPulse, supply.SinglePhase, supply.Doubler, supply.ActiveFront:
	default:
		return nil, &Error{"rectifier", in.Rectifier, "six-pulse, single-phase, doubler or active-front-end"}
	}
	l := supply.LinkOf(in.Rectifier, line)
	return &DCLinkOut{number(l.Idle), number(l.Loaded), number(l.Low), number(l.High),
		findings(supply.JudgeLink(in.Rectifier, line, value(in.MeasuredV)))}, nil
}

func derate(in *DerateIn) (*DerateOut, error) {
	rated := value(in.RatedCurrentA)
	if !(rated > 0) {
		return nil, &Error{"rated_current_a", show(in.RatedCurrentA), "amperes above 0"}
	}
	t := supply.UsualDerating
	for _, x := range []struct {
		to   *float64
		from *float64
	}{{&t.AltitudeFrom, in.AltitudeFromM}, {&t.AltitudePercent, in.AltitudePct}, {&t.AmbientFrom, in.AmbientFromC},
		{&t.AmbientPercent, in.AmbientPct}, {&t.AmbientMost, in.AmbientMostC},
		{&t.SwitchingFrom, in.SwitchingFromKHz}, {&t.SwitchingPercent, in.SwitchingPct}, {&t.SideBySidePercent, in.SideBySidePct},
		{&t.SinglePhasePercent, in.SinglePhasePct}} {
		*x.to = orElse(x.from, *x.to)
	}
	d := supply.Derating{Rated: rated, Altitude: orElse(in.AltitudeM, 0), Ambient: orElse(in.AmbientC, 0),
		Switching: orElse(in.SwitchingKHz, 0), SideBySide: in.SideBySide, SinglePhase: in.SinglePhase, Table: t}
	out := d.Work()
	if motor := value(in.MotorCurrentA); motor > out.Current {
		out.Findings = append(out.Findings,
			finding.Finding{Code: "motor-above-derated", Severity: finding.Look, Title: "The motor takes more than is left",
				Detail: fmt.Sprintf("Motor %s A, left %s A: full torque cannot be held.", quantity.Digits(motor, 4),
					quantity.Digits(out.Current, 4)), Action: "A larger drive, a better place, or less load"})
	}
	if out.Factors == nil {
		out.Factors = []supply.Factor{}
	}
	return &DerateOut{number(out.Current), out.Factors, findings(out.Findings)}, nil
}
