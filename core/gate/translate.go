// Package gate evaluates a drive's file: which checks hold, which gates are passed, what to do next.
// It translates the stored documents for the physics packages, and remembers nothing.
package gate

import (
	"math"
	"sort"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/plate"
	"tingate/core/quantity"
)

func num(q drivefile.Q, k quantity.Kind, unit string) float64 {
	if v, ok := q.In(k, unit); ok {
		return v
	}
	return math.NaN()
}

// RowIDs lists the plate rows in order: ids are made in time order.
func RowIDs(m drivefile.Motor) []string {
	ids := make([]string, 0, len(m.Rows))
	for id := range m.Rows {
		ids = append(ids, id)
	}
	sort.Strings(ids)
	return ids
}

// LinkedRow is the id of the row in use: the one linked, or the only one.
func LinkedRow(m drivefile.Motor) string {
	if _, ok := m.Rows[m.Linked]; ok {
		return m.Linked
	}
	if ids := RowIDs(m); len(ids) == 1 {
		return ids[0]
	}
	return ""
}

func plateRow(m drivefile.Motor, r drivefile.Row) plate.Row {
	out := plate.EmptyRow()
	hp := horsepower(m)
	if r.Power.Unit == "metric hp" {
		hp = quantity.MetricHorsepowerW
	}
	out.Connection = r.Connection
	switch r.Power.Unit {
	case "hp", "metric hp":
		if r.Power.Value != nil {
			out.Horsepower = *r.Power.Value * hp
		}
	default:
		out.Power = num(r.Power, quantity.Power, "W")
	}
	out.Voltage, out.Current = num(r.Voltage, quantity.Voltage, "V"), num(r.Current, quantity.Current, "A")
	out.Frequency, out.Speed = num(r.Frequency, quantity.Frequency, "Hz"), num(r.Speed, quantity.Speed, "r/min")
	out.Factor, out.Efficiency = num(r.PowerFactor, quantity.PowerFactor, ""), num(m.Efficiency, quantity.Percent, "%")/100
	if m.Poles.Value != nil {
		out.Poles = int(math.Round(*m.Poles.Value))
	}
	return out
}

// Plate translates the motor's plate with the row in use.
func Plate(m drivefile.Motor) plate.Plate {
	p := plate.Plate{Kind: m.Kind, ServiceFactor: num(m.ServiceFactor, quantity.Ratio, ""), Row: plate.EmptyRow()}
	if p.Kind == "" {
		p.Kind = plate.Induction
	}
	linked := LinkedRow(m)
	for _, id := range RowIDs(m) {
		if id == linked {
			p.Row = plateRow(m, m.Rows[id])
		} else {
			p.Others = append(p.Others, plateRow(m, m.Rows[id]))
		}
	}
	return p
}

func rowName(r drivefile.Row) string {
	name := strings.ReplaceAll(r.Connection, "-", " ")
	if v := num(r.Voltage, quantity.Voltage, "V"); !math.IsNaN(v) {
		name = strings.TrimSpace(name + " " + quantity.Format(v) + " V")
	}
	return strings.TrimSpace(name + " row")
}

func either(a, b float64) float64 {
	if math.IsNaN(a) {
		return b
	}
	return a
}

func dialectRow(m drivefile.Motor, r drivefile.Row) dialect.Row {
	p := plateRow(m, r)
	return dialect.Row{Name: rowName(r), Power: either(p.Power, p.Horsepower), Voltage: p.Voltage, Current: p.Current, Frequency: p.Frequency, Speed: p.Speed, Factor: p.Factor}
}

var missingRow = dialect.Row{Power: math.NaN(), Voltage: math.NaN(), Current: math.NaN(), Frequency: math.NaN(), Speed: math.NaN(), Factor: math.NaN()}

// Plan translates the whole intent for the dialect. poles are those of the judged plate; line is the supply's frequency
// in Hz, NaN when not stated.
func Plan(d drivefile.Drive, poles int, line float64) dialect.Plan {
	m, in := d.Motor, d.Intent
	p := dialect.Plan{Motor: missingRow, Poles: poles, ServiceFactor: num(m.ServiceFactor, quantity.Ratio, ""), DriveCurrent: num(d.Rating.Current, quantity.Current, "A"),
		Load: in.Load, LoadTorque: num(in.LoadTorque, quantity.Percent, "%") / 100}
	linked := LinkedRow(m)
	for _, id := range RowIDs(m) {
		if id == linked {
			p.Motor = dialectRow(m, m.Rows[id])
		} else {
			p.OtherRows = append(p.OtherRows, dialectRow(m, m.Rows[id]))
		}
	}
	p.Numbers = map[string]float64{"current_limit": num(in.CurrentLimit, quantity.Percent, "%") / 100}
	for name, q := range map[string]drivefile.Q{"lowest_speed": in.LowestSpeed, "highest_speed": in.HighestSpeed, "jog": in.Jog, "preset_1": in.Preset1,
		"preset_2": in.Preset2, "preset_3": in.Preset3, "reference_low": in.ReferenceLow, "reference_high": in.ReferenceHigh} {
		p.Numbers[name] = num(q, quantity.Speed, "r/min")
	}
	p.Numbers["rise"], p.Numbers["fall"] = Slope(in.Rise, p.Numbers["highest_speed"], poles), Slope(in.Fall, p.Numbers["highest_speed"], poles)
	p.Choices = map[string]string{"control": in.Control, "slip_compensation": in.Slip, "load_pattern": in.Pattern, "direction": in.Direction, "stop_mode": in.StopMode,
		"overload_class": in.OverloadClass, "automatic_restart": in.Restart, "command_source": in.CommandSource, "speed_source": in.SpeedSource,
		"reference_loss": in.ReferenceLoss, "torque_off_shows": in.TorqueOffShows}
	if in.SpeedSource == "voltage" || in.SpeedSource == "current" {
		p.Choices["reference_signal"] = in.SpeedSource
	}
	if f := p.Motor.Frequency; math.IsNaN(line) && (f == 50 || f == 60) {
		line = f // no supply states it: a motor for 50 or 60 Hz stands on such a supply
	}
	if !math.IsNaN(line) {
		p.Choices["line_frequency"] = quantity.Format(line)
	}
	return p
}

// Slope is a ramp in r/min per s. Seconds count from 0 to the highest speed (r/min); Hz/s by 120 over poles.
func Slope(q drivefile.Q, highest float64, poles int) float64 {
	if q.Value == nil || !(*q.Value > 0) {
		return math.NaN()
	}
	v := *q.Value
	switch q.Unit {
	case "r/min/s":
		return v
	case "Hz/s":
		if poles == 0 {
			return math.NaN()
		}
		return v * 120 / float64(poles)
	}
	if s, ok := q.In(quantity.Slope, "s"); ok {
		return highest / s
	}
	return math.NaN()
}
