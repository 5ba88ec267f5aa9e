package gate

import (
	"fmt"

	"tingate/core/drivefile"
)

// TemporaryThing is something that must not stay in: a jumper, a disabled protection, a trial value, an open cover.
type TemporaryThing struct {
	Entry string `json:"entry,omitempty" doc:"empty: it follows from a rule, and goes when its cause does"`
	What  string `json:"what"`
	Where string `json:"where"`
	Why   string `json:"why"`
	Until string `json:"until"`
	By    string `json:"by,omitempty"`
	At    string `json:"at,omitempty"`
}

func (r *record) temporary(e drivefile.Entry, b drivefile.Temporary) {
	if b.Gone == "" {
		r.things = append(r.things, TemporaryThing{e.ID, b.What, b.Where, b.Why, b.Until, e.By, e.At})
		return
	}
	for i, t := range r.things {
		if t.Entry == b.Gone {
			r.things = append(r.things[:i:i], r.things[i+1:]...)
			return
		}
	}
}

// temporaries gathers what people put in and what follows from rules. Open ones bar Keep.
func (e *evaluation) temporaries() {
	e.state.Temporary = append(e.state.Temporary, e.rec.things...)
	if ev, ok := e.rec.evBody["wake/sto/by"]; ok && ev.Value == "jumper" {
		en := e.rec.evidence["wake/sto/by"]
		e.state.Temporary = append(e.state.Temporary, TemporaryThing{What: "jumper", Where: "torque-off terminals", Why: "torque off was satisfied by a jumper at first power", Until: "the circuit is wired and tested", By: en.By, At: en.At})
	}
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
