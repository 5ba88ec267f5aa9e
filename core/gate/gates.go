package gate

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/isolation"
	"tingate/core/motion"
	"tingate/core/quantity"
	"tingate/core/record"
	"tingate/core/signal"
	"tingate/core/translate"
)

// complete holds when every intent listed is entered.
func (e *evaluation) complete(gate string, fields []struct {
	name string
	set  bool
}) {
	c := Check{Key: gate + "/complete/intent", Title: "What is wanted is entered", Verdict: Holds}
	var missing []string
	for _, f := range fields {
		if !f.set {
			missing = append(missing, f.name)
		}
	}
	if missing != nil {
		c.Verdict, c.Detail = NotDone, "Missing: "+strings.Join(missing, ", ")+"."
	}
	e.check(gate, c)
}

func (e *evaluation) span() {
	in := e.job.Drive.Intent
	set := func(q drivefile.Q) bool { return q.Value != nil }
	e.complete("span", []struct {
		name string
		set  bool
	}{{"lowest speed", set(in.LowestSpeed)}, {"highest speed", set(in.HighestSpeed)}, {"rise", set(in.Rise)}, {"fall", set(in.Fall)}, {"current limit", set(in.CurrentLimit)},
		{"overload class", in.OverloadClass != ""}, {"stop mode", in.StopMode != ""}, {"directions", in.Direction != ""}, {"control", in.Control != ""}, {"load", in.Load != ""}})
	low, high := in.LowestSpeed.Num(quantity.Speed, "r/min"), in.HighestSpeed.Num(quantity.Speed, "r/min")
	basis := map[string]string{"lowest": in.LowestSpeed.Text, "highest": in.HighestSpeed.Text, "rise": in.Rise.Text, "fall": in.Fall.Text, "class": in.OverloadClass}
	say := func(code string, s finding.Severity, field, title, detail, action string) {
		e.finding("span", finding.Finding{Code: code, Severity: s, Field: "intent." + field, Title: title, Detail: detail, Action: action}, basis)
	}
	n := func(v float64) string { return quantity.Digits(v, 4) }
	if low >= high {
		say("lowest-above-highest", finding.Stop, "lowest_speed", "Lowest speed is not below the highest", n(low)+" r/min against "+n(high)+" r/min.", "Change one of them")
	}
	plate := e.plan.Motor.Speed
	if high > plate*1.02 && e.plan.Poles > 0 {
		f := e.plan.Frequency(high)
		detail := fmt.Sprintf("%s r/min needs %s Hz; above %s Hz the motor gives less torque. Check rotor, gearbox and machine.", n(high), n(f), n(e.plan.Motor.Frequency))
		if math.IsNaN(f) {
			detail = fmt.Sprintf("The load's torque at %s r/min is more than the motor can pull there.", n(high))
		}
		say("above-plate-speed", finding.Look, "highest_speed", "Highest speed is above the plate speed", detail, "Keep it with a reason, or lower it")
	}
	e.cooled(low, say)
	for _, r := range []struct {
		field string
		q     drivefile.Q
	}{{"rise", in.Rise}, {"fall", in.Fall}} {
		if r.q.Value != nil && !(*r.q.Value > 0) {
			say("ramp-zero", finding.Stop, r.field, drivefile.Called(r.field)+" must be above zero", "A ramp of zero is a step, and trips.", "Enter seconds from 0 to the highest speed")
		} else if r.q.Value != nil && math.IsNaN(e.slopeOf(r.q, high)) {
			say("ramp-needs-highest", finding.Do, r.field, drivefile.Called(r.field)+" waits for the highest speed", "Seconds count from 0 to the highest speed.", "Enter the highest speed")
		}
	}
	if in.Restart == "on" {
		here := ""
		if e.choice("restart", "fresh") == "fresh" {
			here = " This practice asks for a fresh run command."
		}
		say("automatic-restart", finding.Look, "automatic_restart", "The drive restarts by itself", "Only for a process interlock where nobody can be in the zone; never after an emergency stop or a guard (ISO 13850, IEC 60204-1)."+here, "Keep it with a reason, or turn it off")
	}
	if want := e.choice("torque_off_is", in.TorqueOffShows); in.TorqueOffShows != "" && in.TorqueOffShows != want {
		e.finding("span", finding.Finding{Code: "torque-off-against-practice", Severity: finding.Look, Field: "intent.torque_off_shows", Title: "Torque off shows otherwise than here usual", Detail: "Wanted as a " + in.TorqueOffShows + "; this practice: a " + want + ". Who reads the display must know which.", Action: "Keep it with a reason, or change it"},
			map[string]string{"shows": in.TorqueOffShows, "practice": want})
	}
	if e.plan.DriveCurrent > 0 && e.plan.Motor.Current > e.plan.DriveCurrent {
		say("motor-above-drive", finding.Look, "current_limit", "The motor takes more than the drive gives", fmt.Sprintf("Motor %s A, drive %s A: full torque cannot be held.", n(e.plan.Motor.Current), n(e.plan.DriveCurrent)), "Check the drive's label and the row in use")
	}
	e.ridden()
	e.wishFindings()
	e.against()
	e.check("span", e.findingsCheck("span", "Findings answered"))
	e.readBack("span", "Limits and ramps read back")
}

// cooled holds the lowest speed against what the motor bears there for ever.
func (e *evaluation) cooled(low float64, say func(code string, s finding.Severity, field, title, detail, action string)) {
	cooling, rated := e.job.Drive.Motor.Cooling, e.plan.Motor.Speed
	if cooling == "" || !(rated > 0) || !(low >= 0) || e.job.Drive.Intent.Load == "" {
		return
	}
	own := cooling == "own-fan" || cooling == "none"
	asked, borne := e.plan.TorqueRatio(low), motion.OwnFan(low/rated, own)
	if asked <= borne+1e-6 {
		return
	}
	least := rated * motion.LowestFor(func(s float64) float64 { return e.plan.TorqueRatio(s * rated) }, own)
	say("too-slow-for-its-fan", finding.Look, "lowest_speed", "At its lowest speed the motor gets too hot", fmt.Sprintf("The load takes %s %% of the rated torque at %s r/min; cooled so it bears about %s %% for ever (common practice). From %s r/min on it is borne.", f4(asked*100), f4(low), f4(borne*100), f4(least)), "A higher lowest speed, a fan of its own drive, or keep it with a reason: short spells, a winding sensor")
}

func (e *evaluation) slopeOf(q drivefile.Q, highest float64) float64 {
	return translate.Slope(q, highest, e.result.Poles)
}

func (e *evaluation) signal() {
	in := e.job.Drive.Intent
	set := func(q drivefile.Q) bool { return q.Value != nil }
	analog := in.SpeedSource == "voltage" || in.SpeedSource == "current"
	e.complete("signal", []struct {
		name string
		set  bool
	}{{"run command from", in.CommandSource != ""}, {"speed from", in.SpeedSource != ""}, {"speed at low end", !analog || set(in.ReferenceLow)}, {"speed at high end", !analog || set(in.ReferenceHigh)},
		{"what a lost reference does", !analog || in.ReferenceLoss != ""}, {"preset 1", in.SpeedSource != "presets" || set(in.Preset1)},
		{"how quickly faster and slower go", in.SpeedSource != "motor-potentiometer" || set(in.PotTime)}, {"until when their speed is kept", in.SpeedSource != "motor-potentiometer" || in.PotKeeps != ""}})
	if analog {
		e.referenceFindings()
		e.measuredPoints()
	}
	e.check("signal", e.findingsCheck("signal", "Findings answered"))
	if in.CommandSource == "terminals" || in.CommandSource == "network" {
		e.confirm("signal", Check{Key: "signal/auto/left", Group: "As it is left", Title: "Left in auto: not in hand, no run given at the keypad", Work: "either", Detail: "A drive left in hand ignores the plant; one left with run given starts at the change.", Basis: map[string]string{"command": in.CommandSource}}, true)
	}
	e.readBack("signal", "Sources read back")
}

// measuredWithin is how far a measured line may lie off the wanted one, of its span. Common practice: two percent of meter, slip and load.
const measuredWithin = .02

// measuredPoints holds what was measured of the reference against what is wanted, and names the setting that mends it.
func (e *evaluation) measuredPoints() {
	in := e.job.Drive.Intent
	var points []signal.Point
	basis := map[string]string{"low": in.ReferenceLow.Text, "high": in.ReferenceHigh.Text}
	for _, id := range sortedKeys(e.job.Drive.Signal.Points) {
		p := e.job.Drive.Signal.Points[id]
		x, y := p.In.Num(quantity.Ratio, ""), p.Out.Num(quantity.Speed, "r/min")
		if !math.IsNaN(x) && !math.IsNaN(y) {
			points = append(points, signal.Point{In: x, Out: y})
			basis[id] = p.In.Text + " " + p.Out.Text
		}
	}
	low, high := in.ReferenceLow.Num(quantity.Speed, "r/min"), in.ReferenceHigh.Num(quantity.Speed, "r/min")
	c, unit := translate.Chain(e.job.Drive)
	from, to := c.Low, c.High
	m, ok := signal.Through(tells(c, points), from, to)
	if !ok || math.IsNaN(low) || math.IsNaN(high) || low == high {
		return
	}
	is := m.Against(low, high, measuredWithin)
	if is == signal.Fits {
		return
	}
	setting := func(intents ...string) string {
		var l []string
		for i := range e.job.Family.Settings {
			if x := &e.job.Family.Settings[i]; slices.Contains(intents, x.Intent) {
				l = append(l, x.Code)
			}
		}
		return strings.Join(l, " and ")
	}
	lows, highs := "its low end", "its high end"
	if e.job.Family != nil {
		if code := setting("reference.low", "reference.offset"); code != "" {
			lows = code
		}
		if code := setting("reference.high", "reference.gain"); code != "" {
			highs = code
		}
	}
	title := map[string]string{signal.Offset: "The reference is shifted", signal.Gain: "The reference has another slope", signal.Both: "The reference is scaled otherwise", signal.Inverted: "The reference is inverted", signal.Bent: "The measured points lie on no line"}[is]
	mends := map[string]string{signal.Offset: "Look at " + lows + ", read back; or the sender's zero", signal.Gain: "Look at " + highs + ", read back; or the sender's span, and the switch for V and mA", signal.Both: "Look at " + lows + " and " + highs + ", read back",
		signal.Inverted: "Inversion in the drive or in the controller: one of them, not both", signal.Bent: "Measure again, each point at rest; a limit, a dead band or a ramp that still runs bends a line"}[is]
	e.finding("signal", finding.Finding{Code: "reference-measured", Severity: finding.Look, Field: "intent.reference_high", Title: title, Detail: fmt.Sprintf("Measured, %s %s gives %s r/min and %s %s gives %s r/min; wanted are %s and %s.", f4(from), unit, f4(m.Low), f4(to), unit, f4(m.High), f4(low), f4(high)), Action: mends}, basis)
}

func (e *evaluation) referenceFindings() {
	in := e.job.Drive.Intent
	lo, hi := e.plan.Numbers["reference_low"], e.plan.Numbers["reference_high"]
	low, high := in.LowestSpeed.Num(quantity.Speed, "r/min"), in.HighestSpeed.Num(quantity.Speed, "r/min")
	basis := map[string]string{"low": in.ReferenceLow.Text, "high": in.ReferenceHigh.Text, "lowest": in.LowestSpeed.Text, "highest": in.HighestSpeed.Text}
	if lo == hi {
		e.finding("signal", finding.Finding{Code: "reference-flat", Severity: finding.Stop, Field: "intent.reference_high", Title: "Both ends of the reference give the same speed", Detail: "The signal would change nothing.", Action: "Enter two different speeds"}, basis)
	}
	if lo < low {
		e.finding("signal", finding.Finding{Code: "reference-below-lowest", Severity: finding.Note, Field: "intent.reference_low", Title: "Zero signal still turns the shaft", Detail: fmt.Sprintf("The low end asks %s r/min, but the lowest speed is %s r/min: with run given it turns at that.", quantity.Digits(lo, 4), quantity.Digits(low, 4))}, basis)
	}
	sig := e.job.Drive.Signal
	if a, b := sig.CountsLow.Num(quantity.Figure, ""), sig.CountsHigh.Num(quantity.Figure, ""); a == b {
		e.finding("signal", finding.Finding{Code: "counts-flat", Severity: finding.Stop, Field: "signal.counts_high", Title: "The controller's counts are the same at both ends", Detail: "Equal points make no line.", Action: "Enter the counts at 0 % and at 100 % of the signal"}, map[string]string{"low": sig.CountsLow.Text, "high": sig.CountsHigh.Text})
	}
	if hi > high*1.001 {
		e.finding("signal", finding.Finding{Code: "reference-above-highest", Severity: finding.Note, Field: "intent.reference_high", Title: "The top of the signal is cut off", Detail: fmt.Sprintf("The high end asks %s r/min, the highest speed is %s r/min.", quantity.Digits(hi, 4), quantity.Digits(high, 4))}, basis)
	}
}

func (e *evaluation) keep() {
	e.readBack("plate", "Motor settings read back")
	for i := range e.state.Gates {
		g := &e.state.Gates[i]
		if g.Key == "keep" {
			continue
		}
		e.close(g)
		c := Check{Key: "keep/gate/" + g.Key, Title: g.Name + " passed", Verdict: Holds, Must: g.Key == "dead"}
		switch g.Mark {
		case "passed":
		case "again":
			c.Verdict, c.Detail = Again, "Passed, but changed since."
		default:
			c.Verdict = NotDone
		}
		if g.Key == "stop" && e.state.Stop.Fails > 0 {
			c.Verdict, c.Detail = Stops, "A test of it fails."
		}
		e.check("keep", c)
	}
	found := Check{Key: "keep/snapshot/as-found", Title: "As found saved", Verdict: NotDone, Work: "live", Detail: "Read the drive before anything is changed."}
	left := Check{Key: "keep/snapshot/as-left", Title: "As left saved and still true", Verdict: NotDone, Work: "live", Detail: "Save as left when all settings read back."}
	for i, s := range e.rec.SnapshotEntries {
		b := e.rec.Snapshots[i]
		e.state.Snapshots = append(e.state.Snapshots, record.SnapshotHead{ID: s.ID, Name: b.Name, Label: b.Label, Dialect: b.Dialect, Count: len(b.Values), How: b.How, By: s.By, At: s.At})
		switch {
		case !e.rec.OfThis[i]:
		case b.Name == "as-found":
			found.Verdict, found.Detail, found.By, found.At = Holds, fmt.Sprintf("%d settings.", len(b.Values)), s.By, s.At
			if code := e.changedBefore(s.Seq); code != "" {
				found.Verdict, found.Detail = Again, fmt.Sprintf("Found late: %s had been set before it was saved. What the drive held when it was found is not known any more.", code)
			}
		case b.Name == "as-left":
			left.Verdict, left.Detail, left.By, left.At = Holds, fmt.Sprintf("%d settings.", len(b.Values)), s.By, s.At
			if code := e.stale(b); code != "" {
				left.Verdict, left.Detail = Again, code+" is no longer as it was left."
			}
		}
	}
	e.check("keep", found)
	e.check("keep", left)
	e.temporaries()
	e.state.Attachments = append(e.state.Attachments, e.rec.Attached...)
}

// stale names a setting whose last reading or plan differs from the as left snapshot.
func (e *evaluation) stale(b drivefile.Snapshot) string {
	for _, l := range e.state.Lines {
		v, ok := b.Values[l.Code]
		if ok && l.Read != nil && l.Read.Steps != nil && *l.Read.Steps != v.Steps {
			return l.Code
		}
		if l.Planned && ok && l.Steps != v.Steps {
			return l.Code
		}
	}
	return ""
}

// changedBefore names a setting that was set on the keypad, or written over the link, before an entry; empty when none was.
func (e *evaluation) changedBefore(seq int64) string {
	for _, en := range e.job.Entries {
		if en.Seq >= seq {
			break
		}
		switch en.Kind {
		case drivefile.EntryEntered:
			var b drivefile.Entered
			if json.Unmarshal(en.Body, &b) == nil && e.rec.Machines.Read(b.Serial) {
				return b.Code
			}
		case drivefile.EntryWrite:
			var b drivefile.Write
			if json.Unmarshal(en.Body, &b) == nil && (b.Outcome == "held" || b.Outcome == "differs" || b.Outcome == "unknown") && e.rec.Machines.Read(b.Serial) {
				return b.Code
			}
		}
	}
	return ""
}

// close counts a gate's checks and sets its mark.
func (e *evaluation) close(g *Gate) {
	g.Total, g.Done, g.Waived = len(g.Checks), 0, 0
	barred := false
	for _, c := range g.Checks {
		if c.Verdict == Holds || c.Verdict == Waived {
			g.Done++
		}
		if c.Verdict == Waived {
			g.Waived++
		}
		barred = barred || c.Verdict == Stops
	}
	d, passed := e.rec.DecisionEntries["passed "+g.Key]
	if passed {
		g.PassedBy, g.PassedAt, g.PassedID = d.By, d.At, d.ID
	}
	switch {
	case barred:
		g.Mark = "barred"
	case passed && g.Done == g.Total:
		g.Mark = "passed"
	case passed:
		g.Mark = "again"
	case g.Done > 0 && e.begun(g.Key):
		g.Mark = "work"
	default:
		g.Mark = "shut"
	}
}

// begun tells whether anything was entered for a gate.
func (e *evaluation) begun(gate string) bool {
	in := e.job.Drive.Intent
	switch gate {
	case "match", "dead", "power", "control", "wake", "stop", "turn", "tune":
		for key := range e.rec.Evidence {
			if strings.HasPrefix(key, gate+"/") {
				return true
			}
		}
		for _, s := range e.state.Sources {
			if gate == "dead" && len(s.Locks) > 0 {
				return true
			}
		}
		return false
	case "plate":
		return len(e.job.Drive.Motor.Rows) > 0
	case "span":
		return in.HighestSpeed.Text != "" || in.Rise.Text != "" || in.LowestSpeed.Text != ""
	case "signal":
		return in.CommandSource != "" || in.SpeedSource != ""
	}
	return len(e.rec.SnapshotEntries) > 0
}

func (e *evaluation) finish() {
	e.openBefore()
	e.close(e.gates["keep"])
	if e.job.Drive.Stop.Alone { // a circuit by itself has no other gates, and nothing to say about a drive
		e.state.Gates = []Gate{*e.gates["stop"]}
		e.state.Findings = slices.DeleteFunc(e.state.Findings, func(f Answered) bool { return f.Gate != "stop" })
	}
	for i := range e.state.Gates {
		g := &e.state.Gates[i]
		if g.Mark == "passed" || e.state.NextGate != "" {
			continue
		}
		e.state.NextGate = g.Key
		open := g.Total - g.Done
		switch {
		case g.Mark == "barred":
			e.state.Next = g.Name + ": barred"
		case g.Mark == "again":
			e.state.Next = g.Name + ": changed since it was passed"
		case open == 0:
			e.state.Next = g.Name + ": ready to pass"
		case g.Mark == "shut":
			e.state.Next = g.Name + ": not begun"
		default:
			e.state.Next = fmt.Sprintf("%s: %d open", g.Name, open)
		}
		e.state.NextDetail = firstOpen(g)
	}
	if e.state.NextGate == "" {
		e.state.Next, e.state.NextDetail = "Nothing due", "kept"
	}
	worst := -1
	for i, f := range e.state.Findings {
		if f.Kept || f.Severity == finding.Note {
			continue
		}
		if worst < 0 || f.Severity.Rank() < e.state.Findings[worst].Severity.Rank() {
			worst = i
		}
	}
	if worst >= 0 {
		e.state.Worst, e.state.WorstTitle = string(e.state.Findings[worst].Severity), e.state.Findings[worst].Title
	}
	e.sortFindings()
}

// closedDead tells whether no finding of gate Dead is open: a link that does not fall is not dead, whatever one reading says.
func (e *evaluation) closedDead() bool {
	for _, f := range e.state.Findings {
		if f.Gate == "dead" && f.Severity == finding.Stop && !f.Kept {
			return false
		}
	}
	return true
}

func firstOpen(g *Gate) string {
	text := ""
	for _, c := range g.Checks {
		if c.Verdict == Holds || c.Verdict == Waived {
			continue
		}
		if text == "" || c.Verdict == Stops {
			text = c.Title
			if c.Detail != "" {
				text = strings.TrimSuffix(c.Detail, ".")
			}
			if c.Verdict == Stops {
				return text
			}
		}
	}
	return text
}

func (e *evaluation) sortFindings() {
	rank := func(a Answered) int {
		r := a.Severity.Rank()
		if a.Kept {
			r = 3
		}
		return r
	}
	list := e.state.Findings
	for i := 1; i < len(list); i++ { // few, and the order of equals stays
		for j := i; j > 0 && rank(list[j]) < rank(list[j-1]); j-- {
			list[j], list[j-1] = list[j-1], list[j]
		}
	}
}

// clock is the time of this look, in the place's zone.
func (e *evaluation) clock() isolation.Clock { return isolation.Clock{Now: e.now, Zone: e.job.Zone} }
