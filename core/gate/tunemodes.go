package gate

import (
	"fmt"
	"math"
	"slices"

	"tingate/core/drive"
	"tingate/core/finding"
	"tingate/core/machine"
	"tingate/core/plate"
	"tingate/core/quantity"
	"tingate/core/translate"
)

// HoldsAtLowest tells whether the way of control that is chosen is said to hold at the lowest speed.
func (s State) HoldsAtLowest() bool {
	return !slices.ContainsFunc(s.Tune.Modes, func(m ControlMode) bool { return m.Chosen && !m.Enough })
}

// voltsNote says what is chosen of the volts, and what would lift the torque that is not chosen.
func voltsNote(quadratic bool, boost float64) string {
	note := fmt.Sprintf("boost %s %%", f4(boost*100))
	if quadratic {
		return note + ", volts by the square: an even pattern lifts it"
	}
	return note + ": more lifts it, and warms the motor"
}

// controlModes compares what each way of control gives at the lowest speed that this job needs.
func (g *tuneGate) controlModes() {
	d := g.job.Drive
	row, _ := machine.FromRow(translate.Plate(d.Motor).Row)
	low := d.Intent.LowestSpeed.Num(quantity.Speed, "r/min")
	limit := d.Intent.CurrentLimit.Num(quantity.Percent, "%") / 100
	if row.Poles == 0 || math.IsNaN(low) || translate.Plate(d.Motor).Kind == plate.PermanentMagnet {
		return
	}
	est, ok := machine.Usual(row)
	if !ok {
		return
	}
	if math.IsNaN(limit) {
		limit = 1.5
	}
	if g.plan.DriveCurrent > 0 {
		limit = math.Min(limit, 1.5*g.plan.DriveCurrent/row.Current)
	}
	hz := low * float64(row.Poles) / 120
	rated := est.Fit.AirgapTorque
	boost := translate.Boost(d.Intent)
	quadratic := d.Intent.Pattern == "quadratic"
	simple, vector := est.TorqueWithin(row.Voltage*drive.VoltsShare(quadratic, boost, hz/row.Frequency), hz, limit*row.Current)/rated,
		est.VectorTorque(limit*row.Current)/rated
	wants := g.plan.TorqueRatio(low) // the same as Span's and Match's
	takes := "the load takes"
	if d.Intent.LoadTorque.Value == nil {
		takes = "the load, of which nobody has said the torque, may take"
	}
	pct := func(v float64) string { return fmt.Sprintf("%.0f %%", math.Max(v, 0)*100) }
	encoderThere := d.Site.Encoder == "wanted"
	s := &g.out
	s.Modes = []ControlMode{
		{"Volts per hertz", d.Intent.Control == "volts-per-hertz", pct(simple), "about 2 Hz", hz >= 2 && simple >= wants,
			voltsNote(quadratic, boost)},
		{"Vector without encoder", d.Intent.Control == "vector" && !encoderThere, pct(vector),
			fmt.Sprintf("%s r/min, a tenth of rated speed", f4(row.Speed/10)), low >= row.Speed/10 && vector >= wants, "after a tune"},
		{"Vector with encoder", d.Intent.Control == "vector" && encoderThere, pct(vector), "standstill", vector >= wants,
			"encoder proved at gate Turn"},
	}
	// Where the plan was ridden at its lowest speed, that is the one judgement of the way that is chosen.
	ridden := ""
	if g.job.Ridden != nil {
		ridden = g.job.Ridden.Low
	}
	for i := range s.Modes {
		if m := &s.Modes[i]; m.Chosen && ridden != "" {
			m.Enough = ridden == "holds"
			m.Note = map[string]string{"stalls": "ridden at the lowest speed, it stalls; ",
				"trips": "ridden at the lowest speed, it trips; "}[ridden] + m.Note
		}
	}
	watts := 3 * est.NoLoad * est.NoLoad * est.Rs
	s.Standstill = []Input{{"Magnetising current", f4(est.NoLoad), "A"},
		{"Loss at standstill, magnetised", quantity.Digits(watts, 2), "W"},
		{"If it stands so all year", quantity.Digits(watts*8.76, 2), "kWh"}}
	basis := map[string]string{"lowest": d.Intent.LowestSpeed.Text, "control": d.Intent.Control, "encoder": d.Site.Encoder,
		"load": d.Intent.Load + " " + d.Intent.LoadTorque.Text}
	if rubs := d.Intent.LoadFriction.Text; rubs != "" {
		basis["rubs"] = rubs
	}
	for _, m := range s.Modes {
		if m.Chosen && !m.Enough {
			g.finding("tune", finding.Finding{Code: "control-too-slow", Severity: finding.Look, Field: "intent.control",
				Title: m.Name + " is not sure at the lowest speed",
				Detail: fmt.Sprintf("%s r/min is %s Hz; it holds from %s, and gives %s of rated torque there within the current limit; "+
					"%s %s.%s", f4(low), f4(hz), m.From, m.Torque, takes, pct(wants), map[string]string{"stalls": " Ridden there on its " +
					"own bench it stalls.", "trips": " Ridden there on its own bench it trips."}[ridden]), Action: "Another control, a " +
					"higher lowest speed, or keep it with a reason"}, basis)
		}
	}
}
