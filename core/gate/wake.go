package gate

import (
	"fmt"
	"math"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/record"
	"tingate/core/supply"
	"tingate/core/translate"
)

// beforePower is the beginning of the keys of what is looked at before power comes.
const beforePower = "wake/before/"

// tell lists what is open before the supply may come back: the lines of this gate, and temporary things that somebody put in.
func (g *wakeGate) tell(s *State) {
	s.OpenBefore = []string{}
	for _, c := range g.checks {
		if c = g.settled("wake", c); strings.HasPrefix(c.Key, beforePower) && c.Verdict != Holds && c.Verdict != Waived {
			s.OpenBefore = append(s.OpenBefore, c.Title)
		}
	}
	for _, t := range g.rec.Things {
		s.OpenBefore = append(s.OpenBefore, fmt.Sprintf("Still in: %s at %s", strings.ReplaceAll(t.What, "-", " "), t.Where))
	}
}

// lastDeadWork is the last answer to a check of dead work: covers were off then.
func (g *wakeGate) lastDeadWork() drivefile.Entry {
	var last drivefile.Entry
	for _, key := range []string{"power", "control"} {
		for _, c := range g.before.gate(key).Checks {
			if en := g.rec.EvidenceEntries[c.Key]; c.Work == Dead && c.Verdict == Holds && en.Seq > last.Seq {
				last = en
			}
		}
	}
	return last
}

// look is one line of what is looked at before power comes.
type look struct{ key, title, detail string }

// wakeGate: first power, measured; the right drive; as found kept before anything is changed; delivery state.
type wakeGate struct{ asking }

func (g *wakeGate) ask() {
	s := g.site()
	live := g.liveRecorded()
	on := "Record the supply live first: at the band above."
	if live {
		on = ""
	}
	worked := g.lastDeadWork()
	for _, c := range append(g.coversBack(), []look{
		{"mechanics", "Mechanics: guards on, coupling as the first turn wants it, nobody's tools in the machine", ""},
		{"electrics", "Electrics: every wire checked end to end, torque noted, nothing left on the output", ""},
		{"covers", "Covers on, inner ones too", ""}, {"people", "People clear, and told that power comes", ""},
	}...) {
		key := beforePower + c.key
		basis := g.energised(key)
		g.confirm(Check{Key: key, Group: "Before power", Title: c.title, Detail: c.detail, Basis: basis}, true)
		if en := g.rec.EvidenceEntries[key]; basis["isolation"] != "" && en.ID != "" && en.Seq < worked.Seq {
			g.again(key, "Dead work was recorded at "+g.clock().Show(worked.At)+", after it: look again.")
		}
	}
	v := [3]float64{}
	nominal := s.Volts
	for i, pair := range []string{"L1 to L2", "L2 to L3", "L3 to L1"} {
		if s.PhasesIn == "1" && i > 0 {
			v[i] = v[0]
			continue
		}
		key := fmt.Sprintf("wake/line/%d", i+1)
		m := g.measure(Check{Key: key, Group: "First power", Title: pair, Unit: "V", Work: Live, Detail: on, Basis: g.energised(key)},
			nominal*.9, nominal*1.1, Stops, live)
		v[i] = m.value
	}
	basis := map[string]string{"l1": f4(v[0]), "l2": f4(v[1]), "l3": f4(v[2]), "nominal": f4(nominal)}
	average := (v[0] + v[1] + v[2]) / 3
	if !math.IsNaN(average) {
		g.raise("wake", "line", supply.JudgeLine(v, nominal), basis)
		b := supply.BalanceOf(v)
		g.figures = append(g.figures,
			Figure{Key: "unbalance", Label: "Line unbalance", Value: quantity.Fixed(b.Unbalance, 2), Unit: "%",
				Formula: "largest deviation from the average ÷ the average",
				Inputs:  []Input{{"Average", f4(b.Average), "V"}, {"Deviation", f4(b.Deviation), "V"}}})
	}
	g.wakeLink(s, average, live, on)
	g.wakeKeypad(live, on)
	g.wakeState()
	g.protectsNot()
	g.findingsAnswered()
}

// wakeLink measures the DC link against what the rectifier makes of the line as it was measured.
func (g *wakeGate) wakeLink(s translate.Site, average float64, live bool, on string) {
	kind := supply.SixPulse
	if s.Known && s.Size.Phases == 1 || s.PhasesIn == "1" {
		kind = supply.SinglePhase
		if s.Known && s.Size.LineHigh < translate.Doubles {
			kind = supply.Doubler
		}
	}
	line := average
	if math.IsNaN(line) {
		line = s.Volts
	}
	l := supply.LinkOf(kind, line)
	detail := on
	if live && !math.IsNaN(l.Idle) {
		detail = fmt.Sprintf("√2 × line at rest: about %s V; the drive shows it, or measure at its terminals only where they are made "+
			"for it.", f4(l.Idle))
		if kind == supply.Doubler {
			detail = fmt.Sprintf("A doubler, 2√2 × line: about %s V.", f4(l.Idle))
		}
	}
	m := g.measure(Check{Key: "wake/link/dc", Group: "First power", Title: "DC link, as the drive shows it at rest", Unit: "V DC",
		Work: Live, Detail: detail}, l.Low, l.High, Again, live && !math.IsNaN(l.Idle))
	if m.ok {
		g.raise("wake", "link", supply.JudgeLink(kind, line, math.Abs(m.value)), map[string]string{"line": f4(line), "link": m.body.Value})
	}
}

// wakeKeypad is what the drive says of itself: its class and size, its lamps and words, and by what torque off is satisfied.
func (g *wakeGate) wakeKeypad(live bool, on string) {
	d := g.job.Drive
	f := g.job.Family
	g.confirm(Check{Key: "wake/drive/class", Group: "The drive", Title: "What it shows of its class and size is what its label says",
		Work: Live, Detail: on, Basis: map[string]string{"type": d.Rating.Type}}, live)
	if f != nil {
		g.shows("wake/drive/shows", "What the keypad shows", f.Keypad.Words, on, live)
		g.shows("wake/drive/lamps", "The lamp that is lit", f.Keypad.Lamps, on, live)
	}
	g.known(live, on)
	options := []Option{{"circuit", "by the real circuit", "Wired and tested end to end."},
		{"links", "by the factory links, as ordered", "No stop circuit is planned here: nothing temporary."},
		{"jumper", "by a jumper", "It goes into the register of temporary things, and bars Keep until the circuit is in."},
		{"open", "not: torque is off", "Nothing can turn; the settings can be entered."}}
	if g.choice("first_turn", "circuit-first") == "jumper" {
		options[0], options[2] = options[2], options[0]
	}
	none := g.job.Drive.Stop.None
	if none {
		options[0], options[1] = options[1], options[0]
	}
	switch by := g.choose(Check{Key: "wake/sto/by", Group: "The drive", Title: "Torque off is satisfied", Work: Either}, options, true); {
	case by == "links" && !none:
		g.again("wake/sto/by", "A stop circuit is planned at gate Stop: with the factory links in, it does nothing. Say there that "+
			"there is none here, or take them out.")
	case by == "circuit" && none:
		g.again("wake/sto/by", "Gate Stop says that there is no stop circuit here.")
	}
}

// shows asks which of the family's words or lamps is seen. Something else is looked up before anything is pressed.
func (g *wakeGate) shows(key, title string, list []dialect.Meaning, on string, live bool) {
	if len(list) == 0 {
		return
	}
	var options []Option
	for _, w := range list {
		options = append(options, Option{w.Sign, w.Means, ""})
	}
	options = append(options, Option{"other", "something else", "Look it up under the family's faults before anything is pressed."})
	if got := g.choose(Check{Key: key, Group: "The drive", Title: title, Work: Live, Detail: on}, options, live); got == "other" {
		g.again(key, "Look it up under the family's faults, clear its cause, and look again.")
	}
}

// wakeState keeps what was found before anything is changed, and brings the drive to delivery state as the practice has it.
func (g *wakeGate) wakeState() {
	var found drivefile.Entry
	for i, s := range g.rec.SnapshotEntries {
		if g.rec.Snapshots[i].Name == "as-found" && found.ID == "" && g.rec.OfThis[i] {
			found = s
		}
	}
	c := Check{Key: "wake/found/saved", Group: "As found", Title: "As found saved before anything is changed", Verdict: NotDone,
		Detail: "Read the drive, or take it by voice, on the settings sheet; a machine builder's preset is a baseline of its own.",
		Work:   Either}
	if found.ID != "" {
		c.Verdict, c.Detail, c.By, c.At = Holds, "", found.By, found.At
	}
	g.check(c)
	g.preset(found)
	options := []Option{{"done", "done, its message seen and cleared", ""}, {"not-needed", "not done: the drive was never used", ""}}
	detail := "This practice: " +
		map[string]string{"always": "always, after saving as found.",
			"used-only": "only a drive that was used before."}[g.choice("delivery_state", "always")]
	if g.choice("delivery_state", "always") == "always" {
		options[1].Why = "This practice always returns to delivery state: give the reason."
	} else {
		options[0], options[1] = options[1], options[0]
	}
	got := g.choose(Check{Key: record.DeliveryReset, Group: "As found", Title: "Return to delivery state", Work: Live,
		Detail: detail + g.resetText() + g.resetLoses()}, options, found.ID != "")
	if got == "not-needed" && g.choice("delivery_state", "always") == "always" && g.rec.Evidence[record.DeliveryReset].Reason == "" {
		g.again(record.DeliveryReset, "This practice always returns to delivery state. Give the reason why not.")
	}
	if at := g.rec.EvidenceEntries[record.DeliveryReset]; got == "done" && found.ID != "" && at.Seq < found.Seq {
		g.again(record.DeliveryReset,
			"The reset came before as found was saved: what was in the drive is lost. Say so in a reason, by waiving this.")
	}
	g.confirm(Check{Key: "wake/region/set", Group: "As found", Title: "Region, language, access and password set as this place wants",
		Work: Live}, got != "")
	g.assistant(got != "")
}

// assistant is what became of the first-start assistant: what it leaves out, and what protects and is off after it.
func (g *wakeGate) assistant(ready bool) {
	options := []Option{{"left-alone", "left alone; the list is followed", ""}, {"followed", "followed", ""}}
	if g.choice("assistant", "list") == "assistant" {
		options[0], options[1] = options[1], options[0]
	}
	followed := g.rec.Evidence["wake/assistant/done"].Value == "followed"
	first := false
	if g.choice("assistant", "list") == "assistant" || followed {
		for _, c := range []struct{ key, title string }{{"coupling",
			"Coupling taken off or guarded: an assistant may turn the shaft, for a tune or to show its direction"},
			{"people", "Area clear; people told"},
			{"isolator", "Isolator known to both, and in reach"}, {"second", "A second person in hearing, who watches"}} {
			key := "wake/assistant/before-" + c.key
			if g.confirm(Check{Key: key, Group: "Before the assistant", Title: c.title, Basis: g.energised(key)},
				true); g.is(key).Verdict != Holds {
				first = true
			}
		}
	}
	got := g.choose(Check{Key: "wake/assistant/done", Group: "As found", Title: "The first-start assistant was", Work: Live}, options,
		ready)
	if got == "followed" && first {
		g.again("wake/assistant/done", "It was followed before all of what comes before it was answered.")
	}
	if got != "followed" || g.job.Family == nil {
		return
	}
	r := g.job.Family.Recipes.FirstStart
	since := map[string]string{"answered": g.rec.EvidenceEntries["wake/assistant/done"].ID}
	g.confirm(Check{Key: "wake/assistant/gaps", Group: "As found",
		Title: "What the assistant leaves out is entered by the sheet: " + strings.Join(r.LeavesTo, ", "), Work: Live, Basis: since}, true)
	for _, code := range r.Disables {
		if s, ok := g.job.Family.Setting(code); ok {
			g.confirm(Check{Key: "wake/assistant/" + code, Group: "As found",
				Title:  "The assistant switches off " + code + " " + s.Name + ": on again",
				Detail: "It protects. Until then it stands in the register of temporary things.", Work: Live, Basis: since}, true)
		}
	}
}

// preset asks whether a machine builder has set the drive: what it held then is a baseline of its own, and its oddities are
// looked at before they are wiped or kept.
func (g *wakeGate) preset(found drivefile.Entry) {
	by := g.choose(Check{Key: "wake/preset/by", Group: "As found", Title: "Who has set it before", Work: Either},
		[]Option{{"nobody", "nobody: as it came", ""}, {"us", "we, or an earlier hand here", ""}, {"builder", "a machine builder", ""}},
		true)
	if by == "builder" {
		c := Check{Key: "wake/preset/kept", Group: "As found", Title: "The builder's preset kept as a baseline of its own",
			Verdict: NotDone, Detail: "Save it at Keep, as builder's preset, before anything is changed.", Work: Either}
		for i, b := range g.rec.Snapshots {
			if b.Name == "builders-preset" && g.rec.OfThis[i] {
				c.Verdict, c.Detail, c.By, c.At = Holds, fmt.Sprintf("%d settings.", len(b.Values)), g.rec.SnapshotEntries[i].By,
					g.rec.SnapshotEntries[i].At
			}
		}
		g.check(c)
	}
	f := g.job.Family
	if found.ID == "" || by == "" || by == "nobody" || f == nil {
		return
	}
	var odd []string
	for i, b := range g.rec.Snapshots {
		if g.rec.SnapshotEntries[i].ID != found.ID {
			continue
		}
		for k := range f.Settings {
			s := &f.Settings[k]
			if v, ok := b.Values[s.Code]; ok && (s.Protects || s.Code == f.Access.Setting || s.Code == f.Keypad.Password.Setting) &&
				v.Steps != s.DeliveryFor(g.plan.Variant) {
				odd = append(odd, s.Code+" "+v.Text)
			}
		}
	}
	if odd != nil {
		g.finding("wake", finding.Finding{Code: "preset-oddities", Severity: finding.Look, Field: "as-found",
			Title: fmt.Sprintf("%d settings that protect are not as delivered", len(odd)),
			Detail: "As found: " + strings.Join(odd[:min(8, len(odd))], ", ") +
				". A lowest speed, an overload or a password may be left from another machine.",
			Action: "Answer each on the sheet, or keep it with a reason"}, map[string]string{"found": found.ID})
	}
}

// resetLoses lists what stands now and is void once the drive is brought back to delivery state.
func (g *wakeGate) resetLoses() string {
	var l []string
	count := func(n int, one, many string) {
		switch {
		case n == 1:
			l = append(l, "1 "+one)
		case n > 1:
			l = append(l, fmt.Sprintf("%d %s", n, many))
		}
	}
	count(len(g.rec.Reads), "reading", "readings")
	count(len(g.rec.Entered), "setting entered", "settings entered")
	count(len(g.rec.Written), "setting sent", "settings sent")
	if g.rec.Evidence[tuneEnded].Value == "ended" {
		l = append(l, "the tune")
	}
	for i, b := range g.rec.Snapshots {
		if b.Name == "as-left" && g.rec.OfThis[i] {
			l = append(l, "as left")
			break
		}
	}
	if l == nil || g.rec.Evidence[record.DeliveryReset].Value == "done" {
		return ""
	}
	return " It makes void: " + strings.Join(l, ", ") + ". As found stays."
}

// resetText is the family's code for this supply, where its reset asks for one.
func (x *Facts) resetText() string {
	f := x.job.Family
	if f == nil || len(f.Recipes.DeliveryReset.Steps) == 0 {
		return ""
	}
	r := f.Recipes.DeliveryReset
	text := " Steps: under " + f.Name + ", Recipes."
	volts, hz := x.site().Volts, translate.LineFrequency(x.job.Drive, x.job.Place)
	for _, c := range r.Codes {
		if math.Abs(c.Voltage/volts-1) < .1 && c.Frequency == hz {
			text += fmt.Sprintf(" Code for %s V, %s Hz: %s.", f4(c.Voltage), f4(c.Frequency), c.Code)
		}
	}
	if r.Proof != "" {
		text += fmt.Sprintf(" Done when it shows %q.", r.Proof)
	}
	return text
}
