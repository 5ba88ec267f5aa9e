package learn

import (
	"fmt"
	"math/rand/v2"
	"testing"
)

// device answers for some addresses, and refuses any request that asks for another or for too many.
type device struct {
	has  map[int]bool
	most int
}

func (d device) asked(s Span) bool {
	if s.Len() > d.most {
		return false
	}
	for a := s.From; a <= s.To; a++ {
		if !d.has[a] {
			return false
		}
	}
	return true
}

func deviceOf(runs ...Span) device {
	d := device{map[int]bool{}, 32}
	for _, r := range runs {
		for a := r.From; a <= r.To; a++ {
			d.has[a] = true
		}
	}
	return d
}

// survey asks until nothing is left or the requests are used up. No request may repeat another, ask for a refused address, or ask for
// nothing new.
func survey(t *testing.T, d device, c *Chart, most int) {
	t.Helper()
	seen := map[Span]bool{}
	for c.Asked < most {
		s, _, ok := c.Next()
		if !ok {
			return
		}
		if seen[s] || s.Len() > c.Most || s.From < c.From || s.To > c.To || s.Len() < 1 {
			t.Fatalf("request %d asks for %v", c.Asked, s)
		}
		seen[s] = true
		for a := s.From; a <= s.To; a++ {
			if c.known(a) {
				t.Fatalf("request %d asks for %v, of which %d is known", c.Asked, s, a)
			}
		}
		if d.asked(s) {
			c.Answered(s)
		} else {
			c.Refused(s)
		}
		if err := c.Check(); err != nil {
			t.Fatal(err)
		}
	}
}

func (d device) missing(c *Chart) (n int) {
	for a := range d.has {
		if in(c.Has, a) < 0 {
			n++
		}
	}
	return n
}

func scattered(r *rand.Rand, n, least, most int) (out []Span) {
	taken := map[int]bool{}
	for left := n; left > 0; {
		long := min(left, least+r.IntN(most-least+1))
		from := r.IntN(20000 - long)
		free := true
		for a := from - 1; a <= from+long; a++ {
			free = free && !taken[a]
		}
		if !free {
			continue
		}
		for a := from; a < from+long; a++ {
			taken[a] = true
		}
		out = append(out, Span{from, from + long - 1})
		left -= long
	}
	return out
}

// 2,000 registers among 20,000 addresses, gaps refused, 32 in a request: found within 600 requests, and read again within 200.
func TestTwoThousandRegistersAreFoundWithinSixHundredRequests(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 7))
	hundreds := func(each, every int) (out []Span) {
		for g := 0; len(out)*each < 2000; g++ {
			out = append(out, Span{g * every, g*every + each - 1})
		}
		return out
	}
	for name, runs := range map[string][]Span{
		"ten at each hundred":              hundreds(10, 100),
		"twenty at every other hundred":    hundreds(20, 200),
		"fifty at every fifth hundred":     hundreds(50, 500),
		"a hundred at each thousand":       hundreds(100, 1000),
		"256 at every 2,048th":             hundreds(256, 2048),
		"one run":                          {{7013, 9012}},
		"runs of a hundred anywhere":       scattered(r, 2000, 100, 100),
		"runs of 100 to 300 anywhere":      scattered(r, 2000, 100, 300),
		"runs of 150 to 250 anywhere":      scattered(r, 2000, 150, 250),
		"each of two halves, a gap of one": {{1000, 1999}, {2001, 3000}},
	} {
		t.Run(name, func(t *testing.T) {
			d := deviceOf(runs...)
			c := &Chart{From: 0, To: 19999, Most: 32}
			survey(t, d, c, 600)
			if n := d.missing(c); n > 0 {
				t.Errorf("%d of %d registers are not found after %d requests", n, len(d.has), c.Asked)
			}
			if got := c.Registers(); got > len(d.has) {
				t.Errorf("%d registers, of %d", got, len(d.has))
			}
			if n := len(c.Blocks()); n > 200 {
				t.Errorf("reading again takes %d requests", n)
			}
			t.Logf("%d requests, %d to read again", c.Asked, len(c.Blocks()))
		})
	}
}

// Whatever the device, asking to the end knows every address, and asks for none twice.
func TestTheWholeRangeIsKnownInTheEnd(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 8))
	for i := range 60 {
		var runs []Span
		for range r.IntN(12) {
			from := 40 + r.IntN(800)
			runs = append(runs, Span{from, min(from+r.IntN(60), 899)})
		}
		d := deviceOf(runs...)
		c := &Chart{From: r.IntN(40), To: 900 + r.IntN(40), Most: 1 + r.IntN(40)}
		d.most = c.Most
		t.Run(fmt.Sprint(i), func(t *testing.T) {
			survey(t, d, c, 5000)
			for a := c.From; a <= c.To; a++ {
				if d.has[a] != (in(c.Has, a) >= 0) || d.has[a] == (in(c.Not, a) >= 0) {
					t.Fatalf("address %d: it is %v, the chart has %v and not %v", a, d.has[a], c.Has, c.Not)
				}
			}
			if _, _, ok := c.Next(); ok || len(c.Doubt) > 0 {
				t.Errorf("more is asked: %v", c.Doubt)
			}
		})
	}
}

func TestAChartFromOutsideIsChecked(t *testing.T) {
	for _, c := range []Chart{
		{From: -1, To: 5, Most: 1}, {From: 6, To: 5, Most: 1}, {To: 70000, Most: 1}, {To: 5}, {To: 5, Most: 126},
		{To: 9, Most: 1, Has: []Span{{3, 2}}}, {To: 9, Most: 1, Has: []Span{{3, 4}, {4, 5}}}, {To: 9, Most: 1, Not: []Span{{3, 10}}},
		{To: 9, Most: 1, Has: []Span{{1, 4}}, Not: []Span{{4, 5}}}, {To: 9, Most: 1, Doubt: []Span{{4, 12}}},
	} {
		if c.Check() == nil {
			t.Errorf("%+v is taken", c)
		}
	}
}

func TestADeviceThatGivesLessAtOnceIsAskedForLess(t *testing.T) {
	c := &Chart{To: 999, Most: 125}
	c.TooMany(125)
	if c.Most != 62 || c.Asked != 1 {
		t.Errorf("%+v", c)
	}
	c.TooMany(1)
	if c.Most != 1 {
		t.Errorf("%+v", c)
	}
}
