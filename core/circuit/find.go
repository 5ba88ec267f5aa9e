package circuit

import (
	"fmt"
	"slices"
	"sort"
	"strings"
)

// Reading is one point-to-point test with the power off: two terminals, joined or not, with some contacts held.
type Reading struct {
	A      string   `json:"a"`
	B      string   `json:"b"`
	Joined bool     `json:"joined"`
	Held   []string `json:"held,omitempty" doc:"contacts out of rest, part.contact"`
}

// Found is what readings say of how a circuit was built.
type Found struct {
	Agrees bool `json:"agrees" doc:"every reading is as drawn"`
	// Against lists the readings that are not as drawn.
	Against []Reading `json:"against"`
	// Repeat are readings that contradict one another: measure them again, the first one first.
	Repeat []Reading `json:"repeat"`
	// Mistakes explain every reading, each alone, the likeliest first.
	Mistakes []Suspect `json:"mistakes"`
	// Next is the measurement that parts the suspects best; nil when there is nothing to part.
	Next *Probe `json:"next,omitempty"`
}

// Suspect is a mistake that explains what was read, with its share of the likelihood.
type Suspect struct {
	Mistake
	Text  string  `json:"text"`
	Share float64 `json:"share" doc:"0 to 1 among the suspects"`
}

// Probe is a measurement to be made, with what each answer leaves.
type Probe struct {
	A      string `json:"a"`
	B      string `json:"b"`
	Held   string `json:"held,omitempty" doc:"contact to be held out of rest, part.contact"`
	Joined int    `json:"if_joined" doc:"suspects left"`
	Open   int    `json:"if_open"`
}

// Find holds readings against the drawing. Readings that no circuit could give together are told first, with which to
// repeat; otherwise every single mistake that explains all of them.
func (n *Net) Find(readings []Reading) (Found, error) {
	out := Found{Against: []Reading{}, Repeat: []Reading{}, Mistakes: []Suspect{}}
	t, err := n.tests(readings)
	if err != nil {
		return out, err
	}
	out.Against = append(out.Against, t.against(n)...)
	if out.Agrees = len(out.Against) == 0; out.Agrees {
		return out, nil
	}
	if out.Repeat = t.contradictions(n, out.Against); len(out.Repeat) > 0 {
		return out, nil
	}
	out.Repeat = []Reading{}
	var nets []*Net
	total := 0.0
	for _, c := range n.Mistakes() {
		built := n.With(c.Mistake)
		if !t.explains(built) {
			continue
		}
		nets = append(nets, built)
		total += c.Weight
		out.Mistakes = append(out.Mistakes, Suspect{Mistake: c.Mistake, Text: c.Text(n), Share: c.Weight})
	}
	for i := range out.Mistakes {
		out.Mistakes[i].Share /= total
	}
	out.Next = n.next(nets, out.Mistakes)
	sort.SliceStable(out.Mistakes, func(i, k int) bool { return out.Mistakes[i].Share > out.Mistakes[k].Share })
	return out, nil
}

// Hidden lists the single mis-landings that a set of measurements would not show, because every reading stays as drawn.
func (n *Net) Hidden(pairs []Reading) ([]Mistake, error) {
	t, err := n.tests(pairs)
	if err != nil {
		return nil, err
	}
	for i := range t.list {
		t.list[i].want = t.joined(n, t.list[i])
	}
	var out []Mistake
	for _, c := range n.Mistakes() {
		if (c.Kind == Moved || c.Kind == Exchanged) && t.explains(n.With(c.Mistake)) {
			out = append(out, c.Mistake)
		}
	}
	return out, nil
}

// WireByWire is the usual round: each wire from end to end.
func (c Circuit) WireByWire() []Reading {
	out := make([]Reading, 0, len(c.Wires))
	for _, w := range c.Wires {
		out = append(out, Reading{A: w.From, B: w.To, Joined: true})
	}
	return out
}

// tests are readings with their terminals as numbers, those of one state side by side.
type tests struct {
	list   []test
	states []State
}

type test struct {
	a, b, state int
	want        bool
	reading     Reading
}

func (n *Net) tests(readings []Reading) (tests, error) {
	var t tests
	known := map[string]int{}
	for i, r := range readings {
		a, ok := n.index[r.A]
		b, ok2 := n.index[r.B]
		if !ok || !ok2 || a == b {
			return t, &FieldError{fmt.Sprintf("readings[%d]", i), r.A + " to " + r.B, "two terminals of the circuit"}
		}
		held := slices.Sorted(slices.Values(r.Held))
		key := strings.Join(held, " ")
		if _, ok := known[key]; !ok {
			s := State{}
			for _, h := range held {
				if !slices.ContainsFunc(n.moving, func(m moving) bool { return m.key == h }) {
					return t, &FieldError{fmt.Sprintf("readings[%d].held", i), h, "a contact of the circuit, part.contact"}
				}
				s[h] = true
			}
			known[key] = len(t.states)
			t.states = append(t.states, s)
		}
		t.list = append(t.list, test{a, b, known[key], r.Joined, r})
	}
	sort.SliceStable(t.list, func(i, k int) bool { return t.list[i].state < t.list[k].state })
	return t, nil
}

func (t tests) joined(n *Net, x test) bool {
	s := n.joined(t.states[x.state], n.wires)
	return s.find(x.a) == s.find(x.b)
}

// explains tells whether a net gives every reading.
func (t tests) explains(n *Net) bool {
	var s *Solution
	state := -1
	for _, x := range t.list {
		if x.state != state {
			s, state = n.joined(t.states[x.state], n.wires), x.state
		}
		if (s.find(x.a) == s.find(x.b)) != x.want {
			return false
		}
	}
	return true
}

func (t tests) against(n *Net) []Reading {
	var out []Reading
	for _, x := range t.list {
		if t.joined(n, x) != x.want {
			out = append(out, x.reading)
		}
	}
	return out
}

// contradictions finds readings that cannot all be true: one pair read both ways, or two terminals open that others join.
// First comes the one that stands alone against the drawing, then the others of its circle.
func (t tests) contradictions(n *Net, against []Reading) []Reading {
	for state := range t.states {
		sol := &Solution{net: n, root: make([]int32, len(n.names))}
		for i := range sol.root {
			sol.root[i] = int32(i)
		}
		for _, x := range t.list {
			if x.state == state && x.want {
				sol.join(x.a, x.b)
			}
		}
		for _, x := range t.list {
			if x.state != state || x.want || sol.find(x.a) != sol.find(x.b) {
				continue
			}
			circle := []Reading{x.reading}
			for _, y := range t.list {
				if y.state == state && y.want && sol.find(y.a) == sol.find(x.a) {
					circle = append(circle, y.reading)
				}
			}
			sort.SliceStable(circle, func(i, k int) bool { return odd(circle[i], against) && !odd(circle[k], against) })
			return circle
		}
	}
	return nil
}

func odd(r Reading, against []Reading) bool {
	return slices.ContainsFunc(against, func(x Reading) bool { return x.A == r.A && x.B == r.B && x.Joined == r.Joined })
}

// mostProbed bounds the search for the next measurement.
const mostProbed = 60

// next finds the pair of terminals whose reading parts the suspects most evenly by their likelihood.
func (n *Net) next(nets []*Net, suspects []Suspect) *Probe {
	if len(nets) < 2 {
		return nil
	}
	var at []int
	add := func(name string) {
		if k, ok := n.index[name]; ok && !slices.Contains(at, k) && len(at) < mostProbed {
			at = append(at, k)
		}
	}
	for _, s := range suspects {
		if i := n.wireAt(s.Wire); i >= 0 {
			add(n.Circuit.Wires[i].From)
			add(n.Circuit.Wires[i].To)
		}
		add(s.At)
		add(s.To)
	}
	held := []string{""}
	for _, m := range n.moving {
		if !slices.Contains(held, m.key) && n.inField(m) {
			held = append(held, m.key)
		}
	}
	for _, h := range held { // at rest, if a reading there parts them at all
		if p := n.parts(at, h, nets, suspects); p != nil {
			return p
		}
	}
	return nil
}

// parts is the pair that parts the suspects most evenly with one contact held; nil when none parts them.
func (n *Net) parts(at []int, held string, nets []*Net, suspects []Suspect) *Probe {
	var state State
	if held != "" {
		state = State{held: true}
	}
	sols := make([]*Solution, len(nets))
	for i, built := range nets {
		sols[i] = built.joined(state, built.wires)
	}
	var best *Probe
	gap := 1.0
	for i, a := range at {
		for _, b := range at[i+1:] {
			p, share := Probe{A: n.names[a], B: n.names[b], Held: held}, 0.0
			for k, s := range sols {
				if s.find(a) == s.find(b) {
					p.Joined++
					share += suspects[k].Share
				} else {
					p.Open++
				}
			}
			if p.Joined > 0 && p.Open > 0 {
				if d := max(share, 1-share); d < gap-1e-9 {
					gap, best = d, &p
				}
			}
		}
	}
	return best
}
