package calc

import (
	"fmt"

	"tingate/core/encoder"
	"tingate/core/finding"
)

// EncoderIn is the input of encoder.
type EncoderIn struct {
	Lines    *float64 `json:"lines" doc:"as set in the drive"`
	SpeedRPM *float64 `json:"speed_rpm" doc:"fastest of the shaft"`
	Counts   *float64 `json:"counts" doc:"read over the turns; below 0 when it counted down"`
	Turns    *float64 `json:"turns" doc:"of the shaft, above 0"`
	Turned   string   `json:"turned" enum:"right-way,wrong-way" doc:"when forward was asked, in open loop"`
	Counted  string   `json:"counted" enum:"up,down"`
}

// EncoderOut is the output of encoder.
type EncoderOut struct {
	CountsPerTurn *float64          `json:"counts_per_turn"`
	FrequencyHz   *float64          `json:"frequency_hz" doc:"of one channel at speed_rpm"`
	LinesFound    *float64          `json:"lines_found"`
	SwapLeads     *bool             `json:"swap_leads"`
	SwapPairs     *bool             `json:"swap_pairs"`
	ClosedLoop    bool              `json:"closed_loop" doc:"may be tried: seen turning right and counting up"`
	Findings      []finding.Finding `json:"findings"`
}

// Load is a thing that a supply feeds.
type Load struct {
	Name   string   `json:"name"`
	MA     *float64 `json:"ma" doc:"each"`
	Ohm    *float64 `json:"ohm" doc:"instead of ma: a potentiometer, a coil"`
	Number *float64 `json:"number" doc:"default 1"`
}

// WireBudgetIn is the input of wire-budget.
type WireBudgetIn struct {
	SupplyV  *float64 `json:"supply_v"`
	SupplyMA *float64 `json:"supply_ma"`
	Loads    []Load   `json:"loads"`
}

// WireBudgetOut is the output of wire-budget.
type WireBudgetOut struct {
	DrawnMA  *float64          `json:"drawn_ma"`
	LeftMA   *float64          `json:"left_ma"`
	Findings []finding.Finding `json:"findings"`
}

func init() {
	register("encoder", "What an encoder counts, and what its first turn calls for", encoderCalc)
	register("wire-budget", "What a supply of the control wiring must give", wireBudget)
}

func encoderCalc(in *EncoderIn) (*EncoderOut, error) {
	if err := positive("lines", in.Lines); err != nil {
		return nil, err
	}
	out := &EncoderOut{CountsPerTurn: number(encoder.CountsPerTurn(*in.Lines)), Findings: []finding.Finding{}}
	if in.SpeedRPM != nil {
		out.FrequencyHz = number(encoder.SignalHz(*in.Lines, *in.SpeedRPM))
	}
	if in.Counts != nil {
		if err := first(needed("turns", in.Turns), positive("turns", in.Turns)); err != nil {
			return nil, err
		}
		lines, l := encoder.JudgeLines(*in.Lines, *in.Counts, *in.Turns)
		out.LinesFound, out.Findings = number(lines), findings(l)
	}
	if in.Turned != "" && in.Counted != "" {
		m := encoder.FirstTurn(in.Turned == "right-way", in.Counted == "up")
		out.SwapLeads, out.SwapPairs, out.ClosedLoop = &m.Leads, &m.Pairs, !m.Leads && !m.Pairs
		if !out.ClosedLoop {
			out.Findings = append(out.Findings,
				finding.Finding{Code: "encoder-first-turn", Severity: finding.Stop, Field: "counted",
					Title: "Closed loop is not tried yet", Detail: "Wrong feedback runs away.", Action: m.Text})
		}
	}
	return out, nil
}

func wireBudget(in *WireBudgetIn) (*WireBudgetOut, error) {
	if err := first(needed("supply_v", in.SupplyV), positive("supply_v", in.SupplyV), needed("supply_ma", in.SupplyMA),
		positive("supply_ma", in.SupplyMA)); err != nil {
		return nil, err
	}
	sum := 0.0
	for i, l := range in.Loads {
		path := fmt.Sprintf("loads[%d].", i)
		n := orElse(l.Number, 1)
		switch {
		case n < 0:
			return nil, &Error{path + "number", show(l.Number), "0 or above"}
		case l.MA != nil && *l.MA >= 0:
			sum += n * *l.MA
		case l.MA == nil && value(l.Ohm) > 0:
			sum += n * *in.SupplyV / *l.Ohm * 1000
		default:
			return nil, &Error{path + "ma", show(l.MA), "mA of 0 or above, or ohm above 0"}
		}
	}
	out := &WireBudgetOut{DrawnMA: number(sum), LeftMA: number(*in.SupplyMA - sum), Findings: []finding.Finding{}}
	if sum > *in.SupplyMA {
		out.Findings = append(out.Findings,
			finding.Finding{Code: "supply-overloaded", Severity: finding.Stop, Field: "loads", Title: "More is drawn than is given",
				Detail: fmt.Sprintf("%.4g mA of %.4g mA.", sum, *in.SupplyMA), Action: "Feed some of it from outside, with 0 V shared"})
	}
	return out, nil
}
