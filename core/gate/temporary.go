package gate

import (
	"fmt"
	"slices"

	"tingate/core/finding"
	"tingate/core/record"
)

// temporaries gathers what people put in and what follows from rules. Open ones bar Keep.
func (g *keepGate) temporaries() {
	g.temporary = append(g.temporary, g.rec.Things...)
	if ev, ok := g.rec.Evidence["wake/sto/by"]; ok && ev.Value == "jumper" {
		en := g.rec.EvidenceEntries["wake/sto/by"]
		g.temporary = append(g.temporary,
			record.TemporaryThing{What: "jumper", Where: "torque-off terminals",
				Why: "torque off was satisfied by a jumper at first power", Until: "the circuit is wired and tested", By: en.By, At: en.At})
	}
	for _, o := range g.off() {
		if !g.keptOff(o) {
			g.temporary = append(g.temporary, o.TemporaryThing)
		}
	}
	g.temporary = append(g.temporary, g.deferred()...)
	c := Check{Key: "keep/temporary/none", Title: "Nothing temporary stays in", Verdict: Holds, Work: Either}
	if n := len(g.temporary); n > 0 {
		t := g.temporary[0]
		c.Verdict, c.Detail = Stops, fmt.Sprintf("%s at %s is still in.", t.What, t.Where)
		if n > 1 {
			c.Detail = fmt.Sprintf("%d things are still in, first: %s at %s.", n, t.What, t.Where)
		}
	}
	g.check(c)
}

// off is something that does not stand as it should: what protects and is off, though it was delivered on, or a run command that comes from
// elsewhere than wanted.
type off struct {
	record.TemporaryThing
	code string
	seen string // the reading by which it was seen off, which a person may keep with a reason; empty: nobody may
}

// off is what was seen so in the drive, or left so by an assistant.
func (f *Facts) off() []off {
	fam := f.job.Family
	if fam == nil {
		return nil
	}
	var list []off
	add := func(what, code, name, why, until, by, at, seen string) {
		list = append(list, off{record.TemporaryThing{What: what, Where: code + " " + name, Why: why, Until: until, By: by, At: at}, code,
			seen})
	}
	answered := f.rec.EvidenceEntries["wake/assistant/done"]
	for i := range fam.Settings {
		s := &fam.Settings[i]
		read := f.rec.Reads[s.Code]
		switch {
		case s.Intent == "choice.command_source" && read != nil && read.Steps != nil:
			if l := f.lineOf(s.Code); l != nil && l.Planned && *read.Steps != l.Steps {
				add("hand-mode", s.Code, s.Name, "the run command comes from "+s.Text(*read.Steps)+", wanted "+l.SetTo,
					"it is read as wanted", read.By, read.At, "")
			}
		case s.OffValue == "" || s.Off(s.DeliveryFor(f.plan.Variant)):
		case read != nil && read.Steps != nil && s.Off(*read.Steps):
			add("disabled-protection", s.Code, s.Name, "read as "+s.Text(*read.Steps)+"; delivered "+s.Text(s.DeliveryFor(f.plan.Variant)),
				"it is on again", read.By, read.At, read.Entry)
		case slices.Contains(fam.Recipes.FirstStart.Disables, s.Code) && f.rec.Evidence["wake/assistant/done"].Value == "followed" &&
			(read == nil || read.At < answered.At):
			if on, ok := f.rec.Evidence["wake/assistant/"+s.Code]; !ok || on.Basis["answered"] != answered.ID {
				add("disabled-protection", s.Code, s.Name, "the first-start assistant switches it off", "it is on again", answered.By,
					answered.At, "")
			}
		}
	}
	return list
}

// protectsNot asks at gate Wake whether what protects and was seen off stays off. Kept with a reason, it does so on purpose.
func (g *wakeGate) protectsNot() {
	for _, o := range g.off() {
		if o.seen != "" {
			g.finding("wake", finding.Finding{Code: "protection-off-" + o.code, Severity: finding.Look, Field: o.code,
				Title: o.Where + " is off", Detail: "It protects, and was delivered on.",
				Action: "Switch it on, or keep it off with a reason"}, map[string]string{"read": o.seen})
		}
	}
}

// keptOff tells whether it stays off on purpose.
func (g *keepGate) keptOff(o off) bool {
	return o.seen != "" && slices.ContainsFunc(g.before.Findings,
		func(x Answered) bool { return x.Key == "wake/finding/protection-off-"+o.code && x.Kept })
}

// deferred are wires that were put off with a reason: they stand among the temporary things.
func (g *keepGate) deferred() []record.TemporaryThing {
	var list []record.TemporaryThing
	for _, r := range g.wiring.Rows {
		for _, k := range []string{"control/landed/", "control/wire/"} {
			if c := g.was("control", k+r.ID); c.Verdict == Waived {
				list = append(list, record.TemporaryThing{What: "deferred-wire",
					Where: fmt.Sprintf("wire %s, %s to %s", r.ID, r.From, r.To), Why: c.Reason, Until: "it is landed and measured",
					By: c.By, At: c.At})
			}
		}
	}
	return list
}
