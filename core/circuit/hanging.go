package circuit

import (
	"math"
	"sort"
)

// energise sets the voltages that sources hold, and solves the potentials that only loads join.
func (s *Solution) energise() {
	n := s.net
	s.volts = make([]float64, len(n.names))
	for i := range s.volts {
		s.volts[i] = math.NaN()
	}
	s.Currents = make(map[string]float64, len(n.sources))
	s.hold()
	s.first, s.links = make([]int32, len(n.names)), make([]link, 1, 1+2*len(n.loads))
	for i, l := range n.loads {
		if a, b := s.find(l.a), s.find(l.b); a != b {
			s.hang(a, i)
			s.hang(b, i)
		}
	}
	s.between()
	s.budget()
}

func (s *Solution) hang(at int32, load int) {
	s.links = append(s.links, link{int32(load), s.first[at]})
	s.first[at] = int32(len(s.links) - 1)
}

// hold spreads the sources' voltages. Each island of sources counts from the minus of its first.
func (s *Solution) hold() {
	type step struct {
		to   int32
		volt float64
		by   int
	}
	next := map[int32][]step{}
	fed := map[int32]string{} // potential -> the source whose plus is here
	for i, src := range s.net.sources {
		p, m := s.find(src.plus), s.find(src.minus)
		if p == m {
			s.Shorts = append(s.Shorts, src.name)
			continue
		}
		if other, ok := fed[p]; ok {
			s.Meets = append(s.Meets, [2]string{other, src.name})
		}
		fed[p] = src.name
		next[m] = append(next[m], step{p, src.volts, i})
		next[p] = append(next[p], step{m, -src.volts, i})
	}
	for _, src := range s.net.sources {
		start := s.find(src.minus)
		if !math.IsNaN(s.volts[start]) || s.find(src.plus) == start {
			continue
		}
		s.volts[start] = 0
		queue := []int32{start}
		for len(queue) > 0 {
			at := queue[0]
			queue = queue[1:]
			for _, e := range next[at] {
				v := s.volts[at] + e.volt
				switch have := s.volts[e.to]; {
				case math.IsNaN(have):
					s.volts[e.to] = v
					queue = append(queue, e.to)
				case math.Abs(have-v) > .5 && e.volt > 0: // against another source: both are over what they hold
					s.Shorts = append(s.Shorts, s.net.sources[e.by].name)
				}
			}
		}
	}
}

// between solves the potentials that no source holds: each group of them that loads join, on its own.
func (s *Solution) between() {
	done := make([]bool, len(s.first))
	for i := range s.first {
		root := int32(i)
		if s.first[i] == 0 || !math.IsNaN(s.volts[root]) || done[root] {
			continue
		}
		group, fixed := s.group(root, done)
		if fixed {
			s.eliminate(group)
		}
	}
}

// group gathers the free potentials that loads join to one, and tells whether a held one is at their edge.
func (s *Solution) group(root int32, done []bool) (group []int32, fixed bool) {
	done[root] = true
	stack := []int32{root}
	for len(stack) > 0 {
		at := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		group = append(group, at)
		for k := s.first[at]; k != 0; k = s.links[k].next {
			other := s.other(s.links[k].load, at)
			switch {
			case !math.IsNaN(s.volts[other]):
				fixed = true
			case !done[other]:
				done[other] = true
				stack = append(stack, other)
			}
		}
	}
	sort.Slice(group, func(i, k int) bool { return group[i] < group[k] })
	return group, fixed
}

func (s *Solution) other(load, at int32) int32 {
	if a := s.find(s.net.loads[load].a); a != at {
		return a
	}
	return s.find(s.net.loads[load].b)
}

// eliminate solves the sum of currents at each free potential, by Gauss: groups are small.
func (s *Solution) eliminate(group []int32) {
	n := len(group)
	at := make(map[int32]int, n)
	for i, g := range group {
		at[g] = i
	}
	m := make([]float64, n*(n+1))
	row := func(i int) []float64 { return m[i*(n+1) : (i+1)*(n+1)] }
	for i, g := range group {
		r := row(i)
		for k := s.first[g]; k != 0; k = s.links[k].next {
			l := s.links[k].load
			c := 1 / s.net.loads[l].ohm
			r[i] += c
			if other := s.other(l, g); math.IsNaN(s.volts[other]) {
				r[at[other]] -= c
			} else {
				r[n] += c * s.volts[other]
			}
		}
	}
	for i := range n {
		p := i
		for k := i + 1; k < n; k++ {
			if math.Abs(row(k)[i]) > math.Abs(row(p)[i]) {
				p = k
			}
		}
		if math.Abs(row(p)[i]) < 1e-15 {
			return
		}
		if p != i {
			a, b := row(i), row(p)
			for c := range a {
				a[c], b[c] = b[c], a[c]
			}
		}
		for k := i + 1; k < n; k++ {
			f := row(k)[i] / row(i)[i]
			for c := i; f != 0 && c <= n; c++ {
				row(k)[c] -= f * row(i)[c]
			}
		}
	}
	x := make([]float64, n)
	for i := n - 1; i >= 0; i-- {
		v := row(i)[n]
		for k := i + 1; k < n; k++ {
			v -= row(i)[k] * x[k]
		}
		x[i] = v / row(i)[i]
	}
	for i, g := range group {
		s.volts[g] = x[i]
	}
}
