package gate

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/signal"
	"tingate/core/translate"
)

// signalGate: who gives run, what asks for speed, and how it is scaled.
type signalGate struct{ asking }

func (g *signalGate) ask() {
	in := g.job.Drive.Intent
	set := func(q drivefile.Q) bool { return q.Value != nil }
	analog := in.SpeedSource == "voltage" || in.SpeedSource == "current"
	g.complete([]struct {
		name string
		set  bool
	}{{"run command from", in.CommandSource != ""}, {"speed from", in.SpeedSource != ""},
		{"speed at low end", !analog || set(in.ReferenceLow)}, {"speed at high end", !analog || set(in.ReferenceHigh)},
		{"what a lost reference does", !analog || in.ReferenceLoss != ""}, {"preset 1", in.SpeedSource != "presets" || set(in.Preset1)},
		{"how quickly faster and slower go", in.SpeedSource != "motor-potentiometer" || set(in.PotTime)},
		{"until when their speed is kept", in.SpeedSource != "motor-potentiometer" || in.PotKeeps != ""}})
	if analog {
		g.referenceFindings()
		g.measuredPoints()
		g.lostFindings()
		g.curveFindings()
	}
	g.networkFindings()
	g.nameFindings()
	g.countedOtherwise()
	g.findingsAnswered()
	if in.CommandSource == "terminals" || in.CommandSource == "network" {
		g.confirm(Check{Key: "signal/auto/left", Group: "As it is left", Title: "Left in auto: not in hand, no run given at the keypad",
			Work: Either, Detail: "A drive left in hand ignores the plant; one left with run given starts at the change.",
			Basis: map[string]string{"command": in.CommandSource}}, true)
	}
	g.readBack("Sources read back")
}

// measuredPoints holds what was measured of the reference against what is wanted, and names the setting that mends it.
func (g *signalGate) measuredPoints() {
	in := g.job.Drive.Intent
	var points []signal.Point
	basis := map[string]string{"low": in.ReferenceLow.Text, "high": in.ReferenceHigh.Text}
	for _, id := range sortedKeys(g.job.Drive.Signal.Points) {
		p := g.job.Drive.Signal.Points[id]
		x, y := p.In.Num(quantity.Ratio, ""), p.Out.Num(quantity.Speed, "r/min")
		if !math.IsNaN(x) && !math.IsNaN(y) {
			points = append(points, signal.Point{In: x, Out: y})
			basis[id] = p.In.Text + " " + p.Out.Text
		}
	}
	low, high := in.ReferenceLow.Num(quantity.Speed, "r/min"), in.ReferenceHigh.Num(quantity.Speed, "r/min")
	c, unit := translate.Chain(g.job.Drive)
	from, to := c.Low, c.High
	m, ok := signal.Through(c.Telling(points), from, to)
	if !ok || len(c.Bends) > 0 || math.IsNaN(low) || math.IsNaN(high) || low == high {
		return
	}
	is := m.Against(low, high, signal.Within)
	if is == signal.Fits {
		return
	}
	setting := func(intents ...string) string {
		var l []string
		for i := range g.job.Family.Settings {
			if x := &g.job.Family.Settings[i]; slices.Contains(intents, x.Intent) {
				l = append(l, x.Code)
			}
		}
		return strings.Join(l, " and ")
	}
	lows, highs := "its low end", "its high end"
	if g.job.Family != nil {
		if code := setting("reference.low", "reference.offset"); code != "" {
			lows = code
		}
		if code := setting("reference.high", "reference.gain"); code != "" {
			highs = code
		}
	}
	title := map[string]string{signal.Offset: "The reference is shifted", signal.Gain: "The reference has another slope",
		signal.Both: "The reference is scaled otherwise", signal.Inverted: "The reference is inverted",
		signal.Bent: "The measured points lie on no line"}[is]
	mends := map[string]string{signal.Offset: "Look at " + lows + ", read back; or the sender's zero",
		signal.Gain:     "Look at " + highs + ", read back; or the sender's span, and the switch for V and mA",
		signal.Both:     "Look at " + lows + " and " + highs + ", read back",
		signal.Inverted: "Inversion in the drive or in the controller: one of them, not both",
		signal.Bent:     "Measure again, each point at rest; a limit, a dead band or a ramp that still runs bends a line"}[is]
	g.finding("signal", finding.Finding{Code: "reference-measured", Severity: finding.Look, Field: "intent.reference_high", Title: title,
		Detail: fmt.Sprintf("Measured, %s %s gives %s r/min and %s %s gives %s r/min; wanted are %s and %s.", f4(from), unit, f4(m.Low),
			f4(to), unit, f4(m.High), f4(low), f4(high)), Action: mends}, basis)
}

func (g *signalGate) referenceFindings() {
	in := g.job.Drive.Intent
	lo, hi := g.plan.Numbers["reference_low"], g.plan.Numbers["reference_high"]
	low, high := in.LowestSpeed.Num(quantity.Speed, "r/min"), in.HighestSpeed.Num(quantity.Speed, "r/min")
	basis := map[string]string{"low": in.ReferenceLow.Text, "high": in.ReferenceHigh.Text, "lowest": in.LowestSpeed.Text,
		"highest": in.HighestSpeed.Text}
	if lo == hi {
		g.finding("signal", finding.Finding{Code: "reference-flat", Severity: finding.Stop, Field: "intent.reference_high",
			Title: "Both ends of the reference give the same speed", Detail: "The signal would change nothing.",
			Action: "Enter two different speeds"}, basis)
	}
	if lo < low {
		g.finding("signal", finding.Finding{Code: "reference-below-lowest", Severity: finding.Note, Field: "intent.reference_low",
			Title: "Zero signal still turns the shaft",
			Detail: fmt.Sprintf("The low end asks %s r/min, but the lowest speed is %s r/min: with run given it turns at that.",
				quantity.Digits(lo, 4), quantity.Digits(low, 4))}, basis)
	}
	sig := g.job.Drive.Signal
	if a, b := sig.CountsLow.Num(quantity.Figure, ""), sig.CountsHigh.Num(quantity.Figure, ""); a == b {
		g.finding("signal", finding.Finding{Code: "counts-flat", Severity: finding.Stop, Field: "signal.counts_high",
			Title: "The controller's counts are the same at both ends", Detail: "Equal points make no line.",
			Action: "Enter the counts at 0 % and at 100 % of the signal"},
			map[string]string{"low": sig.CountsLow.Text, "high": sig.CountsHigh.Text})
	}
	if hi > high*1.001 {
		g.finding("signal", finding.Finding{Code: "reference-above-highest", Severity: finding.Note, Field: "intent.reference_high",
			Title: "The top of the signal is cut off",
			Detail: fmt.Sprintf("The high end asks %s r/min, the highest speed is %s r/min.", quantity.Digits(hi, 4),
				quantity.Digits(high, 4))}, basis)
	}
}
