package circuit

import (
	"math"
	"sort"
	"strings"
)

// State says which contacts are out of rest, by "part.contact". The zero state is everything at rest.
type State map[string]bool

// Solution is what is joined, and the voltages, in one state.
type Solution struct {
	net   *Net
	root  []int32   // node -> its potential, a node that stands for it
	volts []float64 // node that stands for a potential -> V against the reference of its island; NaN: floating
	// Shorts are sources whose two ends are joined, or that contradict another.
	Shorts []string
	// Meets are pairs of sources that feed one potential from different ends: back-feed.
	Meets [][2]string
	// Currents are what each source gives, A; NaN where a short leaves it unknown.
	Currents map[string]float64
	// Loads at each potential, as chains: first by potential, then from link to link. 0 ends a chain.
	first  []int32
	links  []link
	serves map[int32]bool
}

type link struct{ load, next int32 }

// Solve works out potentials and voltages in a state.
func (n *Net) Solve(s State) *Solution {
	out := n.joined(s, n.wires)
	out.energise()
	return out
}

// Dark is Solve with some sources switched off, by part.
func (n *Net) Dark(s State, off map[string]bool) *Solution {
	some := false
	for _, v := range off {
		some = some || v
	}
	if !some {
		return n.Solve(s)
	}
	lit := *n
	lit.sources = nil
	for _, x := range n.sources {
		if part, _, _ := strings.Cut(x.name, "."); !off[part] {
			lit.sources = append(lit.sources, x)
		}
	}
	return lit.Solve(s)
}

// joined works out only what is joined: all that a point-to-point test with the power off tells.
func (n *Net) joined(s State, wires [][2]int) *Solution {
	out := &Solution{net: n, root: make([]int32, len(n.names))}
	for i := range out.root {
		out.root[i] = int32(i)
	}
	for _, w := range wires {
		if w[0] >= 0 && w[1] >= 0 {
			out.join(w[0], w[1])
		}
	}
	for _, b := range n.bonds {
		out.join(b[0], b[1])
	}
	for _, m := range n.moving {
		if m.closed != s[m.key] {
			out.join(m.a, m.b)
		}
	}
	return out
}

func (s *Solution) find(i int) int32 {
	r := s.root
	k := int32(i)
	for r[k] != k {
		r[k] = r[r[k]]
		k = r[k]
	}
	return k
}

func (s *Solution) join(a, b int) {
	x, y := s.find(a), s.find(b)
	if x < y {
		s.root[y] = x
	} else {
		s.root[x] = y
	}
}

// Joined tells whether two terminals are one potential.
func (s *Solution) Joined(a, b string) bool {
	x, ok := s.net.index[a]
	y, ok2 := s.net.index[b]
	return ok && ok2 && s.find(x) == s.find(y)
}

// Volts is the voltage from one terminal to another; NaN when one of them floats against the other.
func (s *Solution) Volts(a, b string) float64 {
	x, ok := s.net.index[a]
	y, ok2 := s.net.index[b]
	if !ok || !ok2 {
		return math.NaN()
	}
	return s.across(x, y)
}

func (s *Solution) across(x, y int) float64 {
	i, k := s.find(x), s.find(y)
	if i == k {
		return 0
	}
	return s.volts[i] - s.volts[k]
}

// Alike tells whether two nets of the same terminals join the same, at rest.
func (n *Net) Alike(o *Net) bool {
	a, b := n.joined(nil, n.wires), o.joined(nil, o.wires)
	for i := range n.names {
		if a.find(i) != b.find(i) { // a potential is named by its lowest node
			return false
		}
	}
	return true
}

// AtRest tells whether a contact, part.contact, is closed at rest; of a changeover, its first half.
func (n *Net) AtRest(key string) (closed, ok bool) {
	for _, m := range n.moving {
		if m.key == key {
			return m.closed, true
		}
	}
	return false, false
}

// Serves tells whether a terminal's potential reaches a load or a contact.
func (s *Solution) Serves(terminal string) bool {
	k, ok := s.net.index[terminal]
	if !ok {
		return false
	}
	if s.serves == nil {
		s.serves = map[int32]bool{}
		for _, l := range s.net.loads {
			s.serves[s.find(l.a)], s.serves[s.find(l.b)] = true, true
		}
		for _, m := range s.net.moving {
			s.serves[s.find(m.a)], s.serves[s.find(m.b)] = true, true
		}
	}
	return s.serves[s.find(k)]
}

// Load is the voltage over a load, "part.load"; NaN when it floats.
func (s *Solution) Load(name string) float64 {
	for _, l := range s.net.loads {
		if l.name == name {
			return s.across(l.a, l.b)
		}
	}
	return math.NaN()
}

// LoadAt finds a load by name, for AcrossLoad; -1: it is not there.
func (n *Net) LoadAt(name string) int {
	for i, l := range n.loads {
		if l.name == name {
			return i
		}
	}
	return -1
}

// AcrossLoad is Load by the load's place.
func (s *Solution) AcrossLoad(i int) float64 {
	l := s.net.loads[i]
	return s.across(l.a, l.b)
}

// Loads gives the voltage over every load, by name. A load that floats has none.
func (s *Solution) Loads() map[string]float64 {
	out := make(map[string]float64, len(s.net.loads))
	for _, l := range s.net.loads {
		if v := s.across(l.a, l.b); !math.IsNaN(v) {
			out[l.name] = v
		}
	}
	return out
}

// Potentials lists the terminals that are joined, potential by potential, those with one terminal left out.
func (s *Solution) Potentials() [][]string {
	by := map[int32][]string{}
	for i, name := range s.net.names {
		by[s.find(i)] = append(by[s.find(i)], name)
	}
	var out [][]string
	for _, l := range by {
		if len(l) > 1 {
			out = append(out, l)
		}
	}
	sort.Slice(out, func(i, k int) bool { return out[i][0] < out[k][0] })
	return out
}

// budget adds what loads draw from each source's plus. Where two sources feed one potential the first is counted for it.
func (s *Solution) budget() {
	counted := map[int32]bool{}
	for _, src := range s.net.sources {
		p := s.find(src.plus)
		if p == s.find(src.minus) {
			s.Currents[src.name] = math.NaN()
			continue
		}
		sum := 0.0
		if !counted[p] {
			for k := s.first[p]; k != 0; k = s.links[k].next {
				l := s.links[k].load
				if d := s.volts[p] - s.volts[s.other(l, p)]; !math.IsNaN(d) {
					sum += d / s.net.loads[l].ohm
				}
			}
		}
		counted[p] = true
		s.Currents[src.name] = sum
	}
}

// Over lists the sources that give more than they may.
func (s *Solution) Over() []string {
	var l []string
	for _, src := range s.net.sources {
		if src.most > 0 && s.Currents[src.name] > src.most*1.0001 {
			l = append(l, src.name)
		}
	}
	return l
}
