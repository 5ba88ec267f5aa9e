package learn

import "slices"

// strides are how far apart addresses are asked for, coarse first: drives count their settings by tens and hundreds, or by powers of two.
// Common practice.
var strides = []int{1000, 500, 100, 50, 25, 10, 5, 2, 1}

// alike is how many runs in a row must be built alike before the next are taken to be so.
const alike = 3

// Next is what to ask for next; ok false: every address of the range is known. stride says how far apart is asked just now: a run that is
// shorter may not have been met yet.
func (c *Chart) Next() (s Span, stride int, ok bool) {
	// The end of a run that was met: reading on reads values at the same time.
	for i := range c.Has {
		if s, ok := c.onward(i); ok {
			return s, 0, true
		}
	}
	usual, starts := c.usual()
	if !starts {
		if s, ok := c.backward(); ok {
			return s, 0, true
		}
	}
	for _, stride := range strides {
		for at := c.From; at <= c.To; at = (at/stride + 1) * stride {
			if c.known(at) {
				continue
			}
			// Runs that are built alike are asked for whole.
			if to := min(at+usual-1, c.To, at+c.Most-1); usual > 1 && starts && c.free(Span{at, to}) && !c.doubted(Span{at, to}) {
				return Span{at, to}, stride, true
			}
			return Span{at, at}, stride, true
		}
		if s, ok := c.backward(); ok && stride <= 100 {
			return s, stride, true
		}
	}
	s, ok = c.backward()
	return s, 1, ok
}

func (c *Chart) known(at int) bool { return in(c.Has, at) >= 0 || in(c.Not, at) >= 0 }

// free tells whether nothing of a span is known.
func (c *Chart) free(s Span) bool {
	touches := func(x Span) bool { return x.From <= s.To && x.To >= s.From }
	return !slices.ContainsFunc(c.Has, touches) && !slices.ContainsFunc(c.Not, touches)
}

func (c *Chart) doubted(s Span) bool {
	return slices.ContainsFunc(c.Doubt, func(d Span) bool { return d.From >= s.From && d.To <= s.To })
}

// onward is what to ask for to find the end of a run; ok false: it is found.
func (c *Chart) onward(i int) (Span, bool) {
	run := c.Has[i]
	if run.To == c.To || in(c.Not, run.To+1) >= 0 {
		return Span{}, false
	}
	// least is the first address that is known not to answer, or behind what may be asked; among doubted ones one does not.
	least, doubt := c.To+1, false
	for _, n := range c.Not {
		if n.From > run.To {
			least = min(least, n.From)
			break
		}
	}
	if i+1 < len(c.Has) {
		least = min(least, c.Has[i+1].From)
	}
	for _, d := range c.Doubt {
		if d.From >= run.From && d.From <= run.To+1 && d.To < least {
			least, doubt = d.To, true
		}
	}
	n := least - run.To - 1 // that may answer still
	if usual, _ := c.usual(); usual > 0 && !doubt {
		switch {
		case run.Len() < usual:
			return Span{run.To + 1, run.To + min(n, c.Most, usual-run.Len())}, true
		case run.Len() == usual:
			return Span{run.To + 1, run.To + 1}, true
		}
	}
	if doubt || n <= c.Most {
		n = (n + 1) / 2
	}
	return Span{run.To + 1, run.To + max(1, min(n, c.Most))}, true
}

// backward is what to ask for to find the beginning of a run; ok false: all are found.
func (c *Chart) backward() (Span, bool) {
	for i, run := range c.Has {
		if run.From == c.From || in(c.Not, run.From-1) >= 0 {
			continue
		}
		most, doubt := c.From-1, false
		for _, n := range c.Not {
			if n.To < run.From {
				most = max(most, n.To)
			}
		}
		if i > 0 {
			most = max(most, c.Has[i-1].To)
		}
		for _, d := range c.Doubt {
			if d.To <= run.To && d.To >= run.From-1 && d.From > most {
				most, doubt = d.From, true
			}
		}
		n := run.From - 1 - most
		if !doubt && run.From%100 == 0 {
			return Span{run.From - 1, run.From - 1}, true // most likely it begins here
		}
		if doubt || n <= c.Most {
			n = (n + 1) / 2
		}
		return Span{run.From - max(1, min(n, c.Most)), run.From - 1}, true
	}
	return Span{}, false
}

// usual is how long the last runs were whose end is known, when all were alike, else 0; and whether the last runs whose beginning is known
// all began at a round address.
func (c *Chart) usual() (length int, starts bool) {
	ends, begins := 0, 0
	starts = true
	for _, run := range c.Has {
		if run.To == c.To || in(c.Not, run.To+1) < 0 {
			continue
		}
		begun := run.From == c.From || in(c.Not, run.From-1) >= 0
		round := run.From%100 == 0
		if begun {
			begins++
			starts = starts && round
		}
		if !round {
			continue
		}
		switch {
		case ends == 0 || run.Len() == length:
			length = run.Len()
			ends++
		default:
			ends, length = -1<<20, 0
		}
	}
	if ends < alike {
		length = 0
	}
	return length, starts && begins >= alike
}
