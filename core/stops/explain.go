package stops

import (
	"fmt"
	"strings"

	"tingate/core/circuit"
)

// Reason is why a fault is out, or that it stays.
type Reason struct {
	Text  string `json:"text"`
	Stays bool   `json:"stays"`
	Why   string `json:"why" doc:"the first thing that it would have shown otherwise"`
}

// Why says of the faults whose text has all of some words, in any case, why each is out or that it stays; at most most of them.
func (p *Played) Why(table []Test, shown []Shown, readings []Reading, words []string, most int) ([]Reason, error) {
	done, by, _, err := p.against(table, shown)
	if err != nil {
		return nil, err
	}
	out := []Reason{}
	for _, f := range p.Faults() {
		text := p.Text(f.Mistake)
		fits := true
		for _, w := range words {
			fits = fits && strings.Contains(strings.ToLower(text), strings.ToLower(w))
		}
		if !fits {
			continue
		}
		if len(out) == most {
			break
		}
		r, err := p.begin([]circuit.Mistake{f.Mistake})
		if err != nil {
			return nil, err
		}
		why := r.contradiction(table, done, by, readings)
		out = append(out, Reason{text, why == "", why})
	}
	return out, nil
}

// contradiction is the first thing that a fault would have shown otherwise, in words; "" when it explains everything.
func (r *play) contradiction(table []Test, done []int, by map[int][]Shown, readings []Reading) string {
	for _, k := range done {
		t := &table[k]
		why := ""
		err := r.run(t.Events, t.looks(), func(step int) bool {
			for _, s := range by[k] {
				for i := range r.list {
					x := &r.list[i]
					if saw, ok := s.Seen[x.id]; ok && s.Step == step && saw != x.shows() {
						why = fmt.Sprintf("%s, step %d: %s would be %s, it was %s.", t.Title, step+1, r.p.Name(x.id),
							strings.ReplaceAll(x.shows(), "-", " "), strings.ReplaceAll(saw, "-", " "))
						return false
					}
				}
			}
			return true
		})
		if err != nil {
			return "The circuit would never come to rest: " + err.Error()
		}
		if why != "" {
			return why
		}
	}
	for _, x := range readings {
		if ok, _ := r.reads(table, x); !ok {
			return "It would not give the reading " + x.text() + "."
		}
	}
	return ""
}

// row is what a whole test would show, to be compared.
func (r *play) row(t *Test) string {
	var out []byte
	if err := r.run(t.Events, t.looks(), func(int) bool { out = r.print(out); return true }); err != nil {
		return err.Error()
	}
	return string(out)
}

// showed tells whether a fault would have shown in a test what was shown.
func (r *play) showed(t *Test, shown []Shown) bool {
	last := 0
	for _, s := range shown {
		last = max(last, s.Step)
	}
	ok := true
	err := r.run(t.Events, t.looks()[:last+1], func(step int) bool { ok = r.agrees(shown, step); return ok })
	return err == nil && ok
}

// explains tells whether a fault would have shown everything that was shown, and given every reading. It goes no further than
// the first contradiction.
func (r *play) explains(table []Test, done []int, by map[int][]Shown, readings []Reading) (bool, error) {
	for _, k := range done {
		if !r.showed(&table[k], by[k]) {
			return false, nil
		}
	}
	for _, x := range readings {
		if ok, err := r.reads(table, x); !ok || err != nil {
			return false, err
		}
	}
	return true, nil
}
