package dialect

import (
	"math"
	"strconv"

	"tingate/core/quantity"
)

// Moved is one intent in the words of two families.
type Moved struct {
	Intent string
	From   *Line // nil: the first family has no setting for it
	To     *Line // nil: the second has none
	Status string
	Note   string
}

// What becomes of an intent when a drive is replaced by one of another family.
const (
	Carried      = "carried"        // the same, within a tenth of a percent
	Approximated = "approximated"   // rounded onto another grid; the note says by how much
	NoCounter    = "no-counterpart" // the other family cannot say it, or cannot hold it
	Undecided    = "to-be-decided"  // nobody has said what is wanted
)

// Move lays the sheets of two families side by side, in the order of the first; what only the second asks for comes
// last. It works from the plan, so nothing is lost by two roundings.
func Move(from, to *Family, p *Plan) []Moved {
	intents := *p
	intents.Functions = nil // what the terminals do is wired anew with the other family
	p = &intents
	a, b := from.Sheet(p), to.Sheet(p)
	target := map[string]*Line{}
	for i := range b {
		target[b[i].Setting.Intent] = &b[i]
	}
	var out []Moved
	for i := range a {
		m := Moved{Intent: a[i].Setting.Intent, From: &a[i], To: target[a[i].Setting.Intent]}
		delete(target, m.Intent)
		m.judge(to)
		out = append(out, m)
	}
	for i := range b {
		if t, ok := target[b[i].Setting.Intent]; ok && t == &b[i] {
			m := Moved{Intent: t.Setting.Intent, To: t}
			m.judge(to)
			out = append(out, m)
		}
	}
	return out
}

func (m *Moved) judge(to *Family) {
	switch t := m.To; {
	case t == nil:
		m.Status, m.Note = NoCounter, to.Name+" has no setting for it"
	case t.Problem != "":
		m.Status, m.Note = NoCounter, t.Problem
	case !t.Planned:
		m.Status = Undecided
	case t.Setting.Kind == "choice":
		m.Status = Carried
	default:
		v := t.Setting.Value(t.Steps)
		off := v - t.Exact
		if math.Abs(off) <= .001*math.Abs(t.Exact)+1e-9 {
			m.Status = Carried
			return
		}
		m.Status = Approximated
		m.Note = sign(off) + quantity.Digits(math.Abs(off), 2) + " " + t.Setting.Unit
		if t.Exact != 0 {
			m.Note += ", " + sign(off) + strconv.FormatFloat(math.Abs(off/t.Exact)*100, 'f', 1, 64) + " %"
		}
	}
}

func sign(v float64) string {
	if v < 0 {
		return "−"
	}
	return "+"
}
