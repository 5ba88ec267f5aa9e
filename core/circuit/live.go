package circuit

import (
	"math"
	"slices"
)

// Live is a net made ready to be solved many times while only contacts move and sources come and go: what wires and bonds join for
// good is one node. Solving allocates nothing. It is not safe for use by several goroutines at once.
type Live struct {
	net     *Net
	base    []int32 // node of the net -> node here
	moving  []liveContact
	loads   []liveLoad
	sources []liveSource
	root    []int32
	volts   []float64
	degree  []int32 // loads at a free potential that are not passed yet
	mark    []int32 // of those loads, their numbers by exclusive or
	leaves  []leaf
	free    []int32
}

type liveContact struct {
	a, b   int32
	closed bool
}

type liveLoad struct {
	a, b int32
	ohm  float64
}

type liveSource struct {
	plus, minus int32
	volts       float64
}

type leaf struct{ at, other int32 }

// Live makes a net ready. lifted are wires, by their place in the circuit, that are open; nil: none.
func (n *Net) Live(lifted map[int]bool) *Live {
	static := &Solution{net: n, root: make([]int32, len(n.names))}
	for i := range static.root {
		static.root[i] = int32(i)
	}
	for i, w := range n.wires {
		if w[0] >= 0 && w[1] >= 0 && !lifted[i] {
			static.join(w[0], w[1])
		}
	}
	for _, b := range n.bonds {
		static.join(b[0], b[1])
	}
	l := &Live{net: n, base: make([]int32, len(n.names))}
	number := make([]int32, len(n.names))
	size := int32(0)
	for i := range n.names {
		r := static.find(i) // the lowest node of its potential: it comes first
		if int(r) == i {
			number[i] = size
			size++
		}
		l.base[i] = number[r]
	}
	for _, m := range n.moving {
		l.moving = append(l.moving, liveContact{l.base[m.a], l.base[m.b], m.closed})
	}
	for _, e := range n.loads {
		l.loads = append(l.loads, liveLoad{l.base[e.a], l.base[e.b], e.ohm})
	}
	for _, s := range n.sources {
		l.sources = append(l.sources, liveSource{l.base[s.plus], l.base[s.minus], s.volts})
	}
	l.root, l.volts = make([]int32, size), make([]float64, size)
	l.degree, l.mark = make([]int32, size), make([]int32, size)
	return l
}

// SameAlways tells whether two nets of the same terminals join the same however their contacts stand.
func (n *Net) SameAlways(o *Net) bool {
	a, b := n.Live(nil), o.Live(nil)
	return slices.Equal(a.base, b.base) && slices.Equal(a.moving, b.moving)
}

// Contacts numbers the contacts of a part by name, as Solve takes them. Contacts of one name have several numbers.
func (n *Net) Contacts(part string) map[string][]int {
	out := map[string][]int{}
	for i, m := range n.moving {
		if n.Circuit.Parts[n.part[m.a]].ID == part {
			name := m.key[len(part)+1:]
			out[name] = append(out[name], i)
		}
	}
	return out
}

// Sources numbers the sources of a part, as Solve takes them.
func (n *Net) Sources(part string) []int {
	var out []int
	for i, s := range n.sources {
		if n.Circuit.Parts[n.part[s.plus]].ID == part {
			out = append(out, i)
		}
	}
	return out
}

// NodeAt is a terminal's number; -1: it is not there.
func (n *Net) NodeAt(terminal string) int {
	if i, ok := n.index[terminal]; ok {
		return i
	}
	return -1
}

// WireAt is a wire's place in the circuit; -1: it is not there.
func (n *Net) WireAt(id string) int { return n.wireAt(id) }

func (l *Live) find(k int32) int32 {
	r := l.root
	for r[k] != k {
		r[k] = r[r[k]]
		k = r[k]
	}
	return k
}

// Solve works out the voltages with some contacts out of rest and some sources off, by their numbers.
func (l *Live) Solve(moved, dark []bool) {
	l.Close(moved)
	l.hold(dark)
	l.between()
}

// Close joins what is joined with some contacts out of rest, by their numbers, and works out no voltage.
func (l *Live) Close(moved []bool) {
	for i := range l.root {
		l.root[i] = int32(i)
		l.volts[i] = math.NaN()
		l.degree[i], l.mark[i] = 0, 0
	}
	for i, m := range l.moving {
		if m.closed != moved[i] {
			x, y := l.find(m.a), l.find(m.b)
			if x < y {
				l.root[y] = x
			} else {
				l.root[x] = y
			}
		}
	}
}

// hold spreads what the sources hold, as Solution.hold does.
func (l *Live) hold(dark []bool) {
	for i, s := range l.sources {
		m := l.find(s.minus)
		if dark[i] || m == l.find(s.plus) || !math.IsNaN(l.volts[m]) {
			continue
		}
		l.volts[m] = 0
		for again := true; again; {
			again = false
			for k, o := range l.sources {
				p, m := l.find(o.plus), l.find(o.minus)
				if dark[k] || p == m {
					continue
				}
				switch vp, vm := l.volts[p], l.volts[m]; {
				case math.IsNaN(vp) && !math.IsNaN(vm):
					l.volts[p], again = vm+o.volts, true
				case math.IsNaN(vm) && !math.IsNaN(vp):
					l.volts[m], again = vp-o.volts, true
				}
			}
		}
	}
}

// between solves what no source holds: a potential with one load carries no current and takes the voltage of its other end; what
// is left, between held potentials, is solved by Gauss.
func (l *Live) between() {
	for i, e := range l.loads {
		a, b := l.find(e.a), l.find(e.b)
		if a == b {
			continue
		}
		for _, k := range [2]int32{a, b} {
			if math.IsNaN(l.volts[k]) {
				l.degree[k]++
				l.mark[k] ^= int32(i)
			}
		}
	}
	l.leaves, l.free = l.leaves[:0], l.free[:0]
	for _, e := range l.loads {
		if a, b := l.find(e.a), l.find(e.b); a != b {
			l.peel(a)
			l.peel(b)
		}
	}
	for i := range l.degree {
		if l.degree[i] > 1 {
			l.free = append(l.free, int32(i))
		}
	}
	if len(l.free) > 0 {
		l.gauss()
	}
	for i := len(l.leaves) - 1; i >= 0; i-- {
		l.volts[l.leaves[i].at] = l.volts[l.find(l.leaves[i].other)]
	}
}

// peel takes potentials off that hang on one load, one after the other.
func (l *Live) peel(k int32) {
	for l.degree[k] == 1 {
		e := l.loads[l.mark[k]]
		other := l.find(e.a)
		if other == k {
			other = l.find(e.b)
		}
		l.leaves = append(l.leaves, leaf{k, other})
		l.degree[k] = 0
		if l.degree[other] == 0 {
			return // held, or its own last load was this one
		}
		l.degree[other]--
		l.mark[other] ^= l.mark[k]
		k = other
	}
}

// gauss solves the sums of currents of the free potentials that several loads join. Those that no held one reaches stay unknown.
func (l *Live) gauss() {
	at := make(map[int32]int, len(l.free))
	for i, k := range l.free {
		at[k] = i
	}
	n := len(l.free)
	m := make([][]float64, n)
	for i := range m {
		m[i] = make([]float64, n+1)
	}
	// Groups that reach a held potential are found first: the others would make the sums singular.
	group := make([]int, n)
	for i := range group {
		group[i] = i
	}
	var find func(int) int
	find = func(i int) int {
		if group[i] != i {
			group[i] = find(group[i])
		}
		return group[i]
	}
	held := make([]bool, n)
	type branch struct {
		a, b int
		va   float64
		g    float64
	}
	var branches []branch
	for _, e := range l.loads {
		a, b := l.find(e.a), l.find(e.b)
		if a == b {
			continue
		}
		i, okA := at[a]
		k, okB := at[b]
		switch {
		case okA && okB:
			group[find(i)] = find(k)
			branches = append(branches, branch{i, k, 0, 1 / e.ohm})
		case okA && !math.IsNaN(l.volts[b]):
			branches = append(branches, branch{i, -1, l.volts[b], 1 / e.ohm})
		case okB && !math.IsNaN(l.volts[a]):
			branches = append(branches, branch{k, -1, l.volts[a], 1 / e.ohm})
		}
	}
	for _, x := range branches {
		if x.b < 0 {
			held[find(x.a)] = true
		}
	}
	for i := range held {
		held[i] = held[find(i)]
	}
	for _, x := range branches {
		m[x.a][x.a] += x.g
		if x.b < 0 {
			m[x.a][n] += x.g * x.va
			continue
		}
		m[x.b][x.b] += x.g
		m[x.a][x.b] -= x.g
		m[x.b][x.a] -= x.g
	}
	for i := range n {
		if !held[i] {
			clear(m[i])
			m[i][i], m[i][n] = 1, math.NaN()
		}
	}
	// Conductances between potentials make the sums diagonally dominant: no pivoting is needed.
	for i := range n {
		for k := i + 1; k < n; k++ {
			f := m[k][i] / m[i][i]
			for c := i; f != 0 && c <= n; c++ {
				m[k][c] -= f * m[i][c]
			}
		}
	}
	for i := n - 1; i >= 0; i-- {
		v := m[i][n]
		for k := i + 1; k < n; k++ {
			if m[i][k] != 0 {
				v -= m[i][k] * l.volts[l.free[k]]
			}
		}
		l.volts[l.free[i]] = v / m[i][i]
	}
}

// Load is the voltage over a load, by its number; NaN when it floats.
func (l *Live) Load(i int) float64 {
	a, b := l.find(l.loads[i].a), l.find(l.loads[i].b)
	if a == b {
		return 0
	}
	return l.volts[a] - l.volts[b]
}

// Volts is the voltage from one terminal to another; NaN when one floats against the other, or is not there.
func (l *Live) Volts(a, b string) float64 { return l.Between(l.net.NodeAt(a), l.net.NodeAt(b)) }

// Between is the voltage from one terminal to another by their numbers (Net.NodeAt); NaN when one floats against the other, or is not
// there.
func (l *Live) Between(a, b int) float64 {
	if a < 0 || b < 0 {
		return math.NaN()
	}
	i, k := l.find(l.base[a]), l.find(l.base[b])
	if i == k {
		return 0
	}
	return l.volts[i] - l.volts[k]
}

// Meet tells whether two sources hold one potential with their plus, by their numbers.
func (l *Live) Meet(i, k int) bool { return l.find(l.sources[i].plus) == l.find(l.sources[k].plus) }

// Meets tells whether two terminals are one potential, by their numbers (Net.NodeAt).
func (l *Live) Meets(a, b int) bool {
	return a >= 0 && b >= 0 && l.find(l.base[a]) == l.find(l.base[b])
}

// Fed tells whether a load's first end is one potential with a source's plus, by their numbers; -1: there is no such load.
func (l *Live) Fed(load, source int) bool {
	return load >= 0 && l.find(l.loads[load].a) == l.find(l.sources[source].plus)
}

// Lit tells whether a terminal has a voltage against a reference.
func (l *Live) Lit(terminal, reference string) bool {
	return math.Abs(l.Volts(terminal, reference)) > 1
}

// Node is the potential that wires and bonds alone give a terminal, as a number; -1: the terminal is not there.
func (l *Live) Node(terminal string) int32 {
	k, ok := l.net.index[terminal]
	if !ok {
		return -1
	}
	return l.base[k]
}

// Joined tells whether two terminals are one potential, as it was last solved.
func (l *Live) Joined(a, b string) bool {
	x, y := l.Node(a), l.Node(b)
	return x >= 0 && y >= 0 && l.find(x) == l.find(y)
}
