package gate

import (
	"fmt"
	"math"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/supply"
)

// against raises what is wanted against something else that is wanted, wired or forbidden: speeds outside the limits, a direction that may
// not be, a stop that takes longer than it may.
func (g *spanGate) against() {
	g.speedsOutside()
	d := g.job.Drive
	basis := map[string]string{"direction": d.Intent.Direction, "reverse": fmt.Sprint(d.Wiring.Reverse),
		"backstop": fmt.Sprint(d.Turn.Backstop)}
	if d.Wiring.Reverse && d.Intent.Direction == "forward" {
		g.finding("signal", finding.Finding{Code: "reverse-wired-forward-only", Severity: finding.Look, Field: "intent.direction",
			Title:  "Reverse is wired, and forward only is planned",
			Detail: "A reverse command then does not turn the shaft backward: most drives wait at standstill, some run on forward.",
			Action: "Plan both directions, take the wire away, or keep it with a reason"}, basis)
	}
	if d.Turn.Backstop && d.Intent.Direction == "both" {
		g.finding("signal", finding.Finding{Code: "must-not-turn-backward", Severity: finding.Stop, Field: "intent.direction",
			Title:  "The machine must not turn backward, and both directions are planned",
			Detail: "Run backward against a backstop the motor stalls, or the backstop breaks.", Action: "Plan forward only"}, basis)
	}
	g.stopTakesTooLong()
	g.magnetsTooFast()
}

// magnetsTooFast holds what magnets give at the highest speed against what the DC link bears: when the drive goes off there, nothing
// weakens them any more. The plate's voltage at its speed is taken for the EMF, which is a little less: on the safe side.
func (g *spanGate) magnetsTooFast() {
	in, row := g.job.Drive.Intent, g.plan.Motor
	high := in.HighestSpeed.Num(quantity.Speed, "r/min")
	emf := math.Sqrt2 * row.Voltage * high / row.Speed
	bears := supply.LinkBears(g.site().Size.LineHigh)
	if g.job.Drive.Motor.Kind != "permanent-magnet" || math.IsNaN(emf) || emf <= bears {
		return
	}
	g.finding("span", finding.Finding{Code: "magnets-too-fast", Severity: finding.Stop, Field: "intent.highest_speed",
		Title: "At the highest speed the magnets give more than the DC link bears",
		Detail: fmt.Sprintf("√2 × %s V × %s / %s: about %s V when the drive goes off there; it bears some %s V (common practice). A "+
			"shaft that is driven gives it too.", f4(row.Voltage), f4(high), f4(row.Speed), f4(math.Round(emf)), f4(bears)),
		Action: "A lower highest speed, or a way of taking that voltage off that the maker states"},
		map[string]string{"highest": in.HighestSpeed.Text, "volts": f4(row.Voltage), "speed": f4(row.Speed)})
}

// speedsOutside names the speeds that the limits cut off or lift: the drive turns at the limit, not at what was asked for.
func (g *spanGate) speedsOutside() {
	in := g.job.Drive.Intent
	low, high := in.LowestSpeed.Num(quantity.Speed, "r/min"), in.HighestSpeed.Num(quantity.Speed, "r/min")
	for _, x := range []struct {
		field string
		q     drivefile.Q
		below bool // a speed below the lowest is lifted too
	}{{"preset_1", in.Preset1, true}, {"preset_2", in.Preset2, true}, {"preset_3", in.Preset3, true}, {"preset_4", in.Preset4, true},
		{"preset_5", in.Preset5, true}, {"hand_speed", in.HandSpeed, true}, {"jog", in.Jog, false}} {
		v := math.Abs(x.q.Num(quantity.Speed, "r/min"))
		text, bound := "", 0.
		switch {
		case math.IsNaN(v):
			continue
		case v > high*1.001:
			text, bound = "above the highest speed", high
		case x.below && v < low*.999 && v > 0:
			text, bound = "below the lowest speed", low
		default:
			continue
		}
		g.finding("signal", finding.Finding{Code: "outside-limits-" + x.field, Severity: finding.Look, Field: "intent." + x.field,
			Title:  fmt.Sprintf("%s is %s", drivefile.Called("intent."+x.field), text),
			Detail: fmt.Sprintf("%s r/min is asked for; the drive turns at %s r/min.", f4(v), f4(bound)),
			Action: "Change one of them, or keep it with a reason"},
			map[string]string{"speed": x.q.Text, "lowest": in.LowestSpeed.Text, "highest": in.HighestSpeed.Text})
	}
}

// stopTakesTooLong holds a ramped stop, from the worst speed by the planned slope, against the time that the responsible person allows to
// standstill. A coasting stop is ridden at Span, and measured at the machine.
func (g *spanGate) stopTakesTooLong() {
	in, st := g.job.Drive.Intent, g.job.Drive.Stop
	allowed := st.Allowed.Num(quantity.Seconds, "s")
	high := in.HighestSpeed.Num(quantity.Speed, "r/min")
	from := st.Speed.Num(quantity.Speed, "r/min")
	if math.IsNaN(from) {
		from = high
	}
	slope := g.slopeOf(in.Fall, high)
	if st.As != "ramped" || math.IsNaN(allowed) || !(slope > 0) || math.IsNaN(from) || from/slope <= allowed {
		return
	}
	g.finding("span", finding.Finding{Code: "fall-longer-than-allowed", Severity: finding.Stop, Field: "intent.fall",
		Title: "The planned fall is longer than what is allowed to standstill",
		Detail: fmt.Sprintf("From %s r/min it takes %s s by the ramp; allowed are %s s. A ramp is not safety-rated: what counts is "+
			"measured.", f4(from), f4(from/slope), f4(allowed)), Action: "A shorter fall that still holds, a brake, guard locking, or " +
			"another allowance by the responsible person"},
		map[string]string{"fall": in.Fall.Text, "allowed": st.Allowed.Text, "from": st.Speed.Text, "highest": in.HighestSpeed.Text})
}
