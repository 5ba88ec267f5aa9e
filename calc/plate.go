package calc

import (
	"math"

	"tingate/core/finding"
	"tingate/core/plate"
	"tingate/core/quantity"
)

// PlateRow is what one row of a plate says.
type PlateRow struct {
	PowerKW       *float64 `json:"power_kw" doc:"Shaft power, kW"`
	PowerHP       *float64 `json:"power_hp" doc:"Shaft power, horsepower"`
	VoltageV      *float64 `json:"voltage_v" doc:"Line to line"`
	CurrentA      *float64 `json:"current_a" doc:"Line current"`
	FrequencyHz   *float64 `json:"frequency_hz"`
	SpeedRPM      *float64 `json:"speed_rpm"`
	PowerFactor   *float64 `json:"power_factor" doc:"cos φ, 0 to 1"`
	EfficiencyPct *float64 `json:"efficiency_pct"`
	Poles         *int     `json:"poles"`
	Connection    string   `json:"connection" enum:"star,delta,double-star,double-delta"`
}

// PlateIn is the input of plate.
type PlateIn struct {
	Kind           string   `json:"kind" enum:"induction,permanent-magnet"`
	HorsepowerKind string   `json:"horsepower_kind" enum:"mechanical,metric" doc:"mechanical 745.7 W, metric 735.5 W"`
	ServiceFactor  *float64 `json:"service_factor"`
	PowerKW        *float64 `json:"power_kw" doc:"Shaft power, kW"`
	PowerHP        *float64 `json:"power_hp" doc:"Shaft power, horsepower"`
	VoltageV       *float64 `json:"voltage_v" doc:"Line to line"`
	CurrentA       *float64 `json:"current_a" doc:"Line current"`
	FrequencyHz    *float64 `json:"frequency_hz"`
	SpeedRPM       *float64 `json:"speed_rpm"`
	PowerFactor    *float64 `json:"power_factor" doc:"cos φ, 0 to 1"`
	EfficiencyPct  *float64 `json:"efficiency_pct"`
	Poles          *int     `json:"poles"`
	Connection     string   `json:"connection" enum:"star,delta,double-star,double-delta"`

	Rows []PlateRow `json:"rows" doc:"More rows of the same plate"`
}

// PlateOut is the output of plate. null: cannot be worked out.
type PlateOut struct {
	Poles               *int               `json:"poles"`
	PolesWorkedOut      *int               `json:"poles_worked_out"`
	SynchronousSpeedRPM *float64           `json:"synchronous_speed_rpm"`
	SlipRPM             *float64           `json:"slip_rpm"`
	SlipPct             *float64           `json:"slip_pct"`
	RatedTorqueNm       *float64           `json:"rated_torque_nm"`
	InputPowerKW        *float64           `json:"input_power_kw"`
	ApparentPowerKVA    *float64           `json:"apparent_power_kva"`
	EfficiencyPct       *float64           `json:"efficiency_pct" doc:"Implied by volts, amperes and cos φ; else as stamped"`
	PowerFactor         *float64           `json:"power_factor"`
	NoLoadCurrentLowA   *float64           `json:"no_load_current_low_a"`
	NoLoadCurrentHighA  *float64           `json:"no_load_current_high_a"`
	Findings            []finding.Finding  `json:"findings"`
	Corrections         []plate.Correction `json:"corrections" doc:"Likely misreadings that would explain the findings, likeliest first"`
	Rows                []PlateRowOut      `json:"rows,omitempty"`
}

// PlateRowOut is what follows from one of the other rows.
type PlateRowOut struct {
	EfficiencyPct *float64          `json:"efficiency_pct"`
	Findings      []finding.Finding `json:"findings"`
}

func init() {
	register("plate", "Works out what a motor plate does not say, and judges whether its figures fit each other", platejudge)
}

func row(r PlateRow, hpW float64) plate.Row {
	out := plate.EmptyRow()
	out.Connection = r.Connection
	out.Power, out.Horsepower = value(r.PowerKW)*1000, value(r.PowerHP)*hpW
	out.Voltage, out.Current, out.Frequency, out.Speed = value(r.VoltageV), value(r.CurrentA), value(r.FrequencyHz), value(r.SpeedRPM)
	out.Factor, out.Efficiency = value(r.PowerFactor), value(r.EfficiencyPct)/100
	if r.Poles != nil {
		out.Poles = *r.Poles
	}
	return out
}

func platejudge(in *PlateIn) (*PlateOut, error) {
	hpW := quantity.MechanicalHorsepowerW
	if in.HorsepowerKind == "metric" {
		hpW = quantity.MetricHorsepowerW
	}
	p := plate.Plate{Kind: in.Kind, ServiceFactor: value(in.ServiceFactor),
		Row: row(PlateRow{in.PowerKW, in.PowerHP, in.VoltageV, in.CurrentA, in.FrequencyHz, in.SpeedRPM, in.PowerFactor, in.EfficiencyPct,
			in.Poles, in.Connection}, hpW)}
	for _, r := range in.Rows {
		p.Others = append(p.Others, row(r, hpW))
	}
	out := PlateResult(plate.Judge(p))
	out.Corrections = plate.Misreadings(p, 5)
	if out.Corrections == nil {
		out.Corrections = []plate.Correction{}
	}
	for _, o := range p.Others {
		r := plate.Judge(plate.Plate{Kind: p.Kind, ServiceFactor: math.NaN(), Row: o})
		out.Rows = append(out.Rows, PlateRowOut{number(r.Efficiency * 100), orEmpty(r.Findings)})
	}
	return out, nil
}

func orEmpty(f []finding.Finding) []finding.Finding {
	if f == nil {
		return []finding.Finding{}
	}
	return f
}

func whole(n int) *int {
	if n == 0 {
		return nil
	}
	return &n
}

// PlateResult writes a judged plate in the units of the contract.
func PlateResult(r plate.Result) *PlateOut {
	return &PlateOut{Poles: whole(r.Poles), PolesWorkedOut: whole(r.PolesWorkedOut), SynchronousSpeedRPM: number(r.SynchronousSpeed),
		SlipRPM: number(r.SlipSpeed), SlipPct: number(r.Slip * 100), RatedTorqueNm: number(r.Torque),
		InputPowerKW:     number(r.InputPower / 1000),
		ApparentPowerKVA: number(r.ApparentPower / 1000), EfficiencyPct: number(r.Efficiency * 100), PowerFactor: number(r.PowerFactor),
		NoLoadCurrentLowA: number(r.NoLoadCurrentLow), NoLoadCurrentHighA: number(r.NoLoadCurrent), Findings: orEmpty(r.Findings)}
}
