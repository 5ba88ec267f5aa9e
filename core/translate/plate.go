// Package translate turns the stored documents into the parameters of the packages that compute: plates, intents, supplies, wires and
// circuits as a person typed them, in SI units, NaN where nothing is stated. Only here do documents and physics meet.
package translate

import (
	"math"
	"sort"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/machine"
	"tingate/core/plate"
	"tingate/core/quantity"
)

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
	hp := Horsepower(m)
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
		out.Power = r.Power.Num(quantity.Power, "W")
	}
	out.Voltage, out.Current = r.Voltage.Num(quantity.Voltage, "V"), r.Current.Num(quantity.Current, "A")
	out.Frequency, out.Speed = r.Frequency.Num(quantity.Frequency, "Hz"), r.Speed.Num(quantity.Speed, "r/min")
	out.Factor, out.Efficiency = r.PowerFactor.Num(quantity.PowerFactor, ""), m.Efficiency.Num(quantity.Percent, "%")/100
	if m.Poles.Value != nil {
		out.Poles = int(math.Round(*m.Poles.Value))
	}
	return out
}

// Plate translates the motor's plate with the row in use.
func Plate(m drivefile.Motor) plate.Plate {
	p := plate.Plate{Kind: m.Kind, ServiceFactor: m.ServiceFactor.Num(quantity.Ratio, ""), Row: plate.EmptyRow()}
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

// RowName is a row as people call it: its connection and its voltage.
func RowName(r drivefile.Row) string {
	name := strings.ReplaceAll(r.Connection, "-", " ")
	if v := r.Voltage.Num(quantity.Voltage, "V"); !math.IsNaN(v) {
		name = strings.TrimSpace(name + " " + quantity.Format(v) + " V")
	}
	return strings.TrimSpace(name + " row")
}

// Either is the first of two figures that is stated.
func Either(a, b float64) float64 {
	if math.IsNaN(a) {
		return b
	}
	return a
}

func dialectRow(m drivefile.Motor, r drivefile.Row) dialect.Row {
	p := plateRow(m, r)
	return dialect.Row{Name: RowName(r), Power: Either(p.Power, p.Horsepower), Voltage: p.Voltage, Current: p.Current,
		Frequency: p.Frequency, Speed: p.Speed, Factor: p.Factor}
}

var missingRow = dialect.Row{Power: math.NaN(), Voltage: math.NaN(), Current: math.NaN(), Frequency: math.NaN(), Speed: math.NaN(),
	Factor: math.NaN()}

// Horsepower is one of a plate, W.
func Horsepower(m drivefile.Motor) float64 {
	if m.HorsepowerKind == "metric" {
		return quantity.MetricHorsepowerW
	}
	return quantity.MechanicalHorsepowerW
}

// Machine is the row in use as a machine is made of it.
func Machine(m drivefile.Motor) machine.Plate {
	p, _ := machine.FromRow(Plate(m).Row)
	return p
}
