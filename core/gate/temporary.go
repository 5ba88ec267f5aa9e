package gate

import (
	"fmt"
	"slices"

	"tingate/core/finding"
	"tingate/core/record"
	"tingate/core/sheet"
)

// temporaries gathers what people put in and what follows from rules. Open ones bar Keep.
func (e *evaluation) temporaries() {
	e.state.Temporary = append(e.state.Temporary, e.rec.Things...)
	if ev, ok := e.rec.Evidence["wake/sto/by"]; ok && ev.Value == "jumper" {
		en := e.rec.EvidenceEntries["wake/sto/by"]
		e.state.Temporary = append(e.state.Temporary, record.TemporaryThing{What: "jumper", Where: "torque-off terminals", Why: "torque off was satisfied by a jumper at first power", Until: "the circuit is wired and tested", By: en.By, At: en.At})
	}
	e.state.Temporary = append(e.state.Temporary, e.switchedOff()...)
	e.state.Temporary = append(e.state.Temporary, e.deferred()...)
	c := Check{Key: "keep/temporary/none", Title: "Nothing temporary stays in", Verdict: Holds, Work: "either"}
	if n := len(e.state.Temporary); n > 0 {
		t := e.state.Temporary[0]
		c.Verdict, c.Detail = Stops, fmt.Sprintf("%s at %s is still in.", t.What, t.Where)
		if n > 1 {
			c.Detail = fmt.Sprintf("%d things are still in, first: %s at %s.", n, t.What, t.Where)
		}
	}
	e.check("keep", c)
}

// switchedOff is what protects and is off, though it was delivered on: seen so in the drive, or left so by an assistant. It
// is a finding too, that a person may keep with a reason; then it stays off on purpose. A run command that comes from
// elsewhere than wanted is hand mode.
func (e *evaluation) switchedOff() []record.TemporaryThing {
	f := e.job.Family
	if f == nil {
		return nil
	}
	var list []record.TemporaryThing
	answered := e.rec.EvidenceEntries["wake/assistant/done"]
	for i := range f.Settings {
		s := &f.Settings[i]
		read := e.rec.Reads[s.Code]
		switch {
		case s.Intent == "choice.command_source" && read != nil && read.Steps != nil:
			if l := e.lineOf(s.Code); l != nil && l.Planned && *read.Steps != l.Steps {
				list = append(list, record.TemporaryThing{What: "hand-mode", Where: s.Code + " " + s.Name, Why: "the run command comes from " + s.Text(*read.Steps) + ", wanted " + l.SetTo, Until: "it is read as wanted", By: read.By, At: read.At})
			}
		case s.OffValue == "" || s.Off(s.DeliveryFor(e.plan.Variant)):
		case read != nil && read.Steps != nil && s.Off(*read.Steps):
			if !e.keptOff(s.Code, s.Name, read.Entry) {
				list = append(list, record.TemporaryThing{What: "disabled-protection", Where: s.Code + " " + s.Name, Why: "read as " + s.Text(*read.Steps) + "; delivered " + s.Text(s.DeliveryFor(e.plan.Variant)), Until: "it is on again", By: read.By, At: read.At})
			}
		case slices.Contains(f.Recipes.FirstStart.Disables, s.Code) && e.rec.Evidence["wake/assistant/done"].Value == "followed" && (read == nil || read.At < answered.At):
			if on, ok := e.rec.Evidence["wake/assistant/"+s.Code]; !ok || on.Basis["answered"] != answered.ID {
				list = append(list, record.TemporaryThing{What: "disabled-protection", Where: s.Code + " " + s.Name, Why: "the first-start assistant switches it off", Until: "it is on again", By: answered.By, At: answered.At})
			}
		}
	}
	return list
}

// keptOff asks whether protection stays off; true once that was kept with a reason.
func (e *evaluation) keptOff(code, name, entry string) bool {
	e.finding("wake", finding.Finding{Code: "protection-off-" + code, Severity: finding.Look, Field: code, Title: code + " " + name + " is off", Detail: "It protects, and was delivered on.", Action: "Switch it on, or keep it off with a reason"}, map[string]string{"read": entry})
	return e.state.Findings[len(e.state.Findings)-1].Kept
}

func (e *evaluation) lineOf(code string) *sheet.Line {
	for i := range e.state.Lines {
		if e.state.Lines[i].Code == code {
			return &e.state.Lines[i]
		}
	}
	return nil
}
