// Package learn finds the registers of a drive whose manual says nothing of them: which addresses answer, which of them moved when one
// thing was changed at the keypad, and as what a register holds what the keypad shows. It asks nothing itself; who asks is the link, which
// only reads.
package learn

import (
	"fmt"
	"slices"
)

// Fault is what is wrong with what came in: the field, what was read, and what was expected.
type Fault struct{ Field, Got, Want string }

func (f *Fault) Error() string { return fmt.Sprintf("%s: got %s, want %s", f.Field, f.Got, f.Want) }

// Span is a run of addresses, both ends included.
type Span struct {
	From int `json:"from"`
	To   int `json:"to"`
}

// Len is how many addresses a span has.
func (s Span) Len() int { return s.To - s.From + 1 }

// Chart is what is known of which addresses between From and To answer. An address that was refused is never asked again.
type Chart struct {
	From int `json:"from" doc:"first address of the range, 0 to 65535"`
	To   int `json:"to"`
	Most int `json:"most" doc:"registers in one request, 1 to 125"`
	// Has answered, Not was refused; of each span in Doubt one address at least is refused.
	Has   []Span `json:"has" doc:"addresses that answer, in order"`
	Not   []Span `json:"not" doc:"addresses that were refused, in order"`
	Doubt []Span `json:"doubt" doc:"asked at once and refused: one of each span at least does not answer"`
	Asked int    `json:"asked" doc:"requests so far"`
}

// MostAsked is the highest address, and MostAtOnce what the protocol lets one request ask for. Source: MODBUS Application Protocol
// Specification V1.1b3, 4.3 and 6.3.
const (
	MostAsked  = 65535
	MostAtOnce = 125
)

// Check says what is wrong with a chart that came in from outside.
func (c *Chart) Check() error {
	switch {
	case c.From < 0 || c.To > MostAsked || c.From > c.To:
		return &Fault{"range", fmt.Sprintf("%d to %d", c.From, c.To), fmt.Sprintf("0 to %d, the lower first", MostAsked)}
	case c.Most < 1 || c.Most > MostAtOnce:
		return &Fault{"most", fmt.Sprint(c.Most), fmt.Sprintf("1 to %d registers in a request", MostAtOnce)}
	}
	for name, l := range map[string][]Span{"has": c.Has, "not": c.Not} {
		last := c.From - 1
		for _, s := range l {
			if s.From <= last || s.To < s.From || s.To > c.To {
				return &Fault{name, fmt.Sprintf("%d to %d after %d", s.From, s.To, last), "spans in order, within the range"}
			}
			last = s.To
		}
	}
	for _, s := range c.Doubt {
		if s.From < c.From || s.To < s.From || s.To > c.To {
			return &Fault{"doubt", fmt.Sprintf("%d to %d", s.From, s.To), "spans within the range"}
		}
	}
	for _, s := range c.Has {
		if slices.ContainsFunc(c.Not, func(n Span) bool { return n.From <= s.To && n.To >= s.From }) {
			return &Fault{"has", fmt.Sprintf("%d to %d, of which some are refused", s.From, s.To), "addresses that answer"}
		}
	}
	return nil
}

// Told is the chart with empty lists for none.
func (c Chart) Told() Chart {
	for _, l := range []*[]Span{&c.Has, &c.Not, &c.Doubt} {
		if *l == nil {
			*l = []Span{}
		}
	}
	return c
}

// Registers is how many addresses answer.
func (c *Chart) Registers() (n int) {
	for _, s := range c.Has {
		n += s.Len()
	}
	return n
}

// Blocks are the requests that read everything that answers once.
func (c *Chart) Blocks() []Span {
	var out []Span
	for _, s := range c.Has {
		for from := s.From; from <= s.To; from += c.Most {
			out = append(out, Span{from, min(from+c.Most-1, s.To)})
		}
	}
	return out
}

// Answered takes in that all of a span answers.
func (c *Chart) Answered(s Span) {
	c.Asked++
	c.Has = with(c.Has, s)
	c.settle()
}

// Refused takes in that one address of a span at least does not answer.
func (c *Chart) Refused(s Span) {
	c.Asked++
	c.Doubt = append(c.Doubt, s)
	c.settle()
}

// TooMany takes in that a request asks for more registers than the device gives at once.
func (c *Chart) TooMany(asked int) {
	c.Asked++
	c.Most = max(1, min(c.Most, asked/2))
}

// settle draws what follows: what is left of a doubt when all else in it answers is refused; a doubt that holds a refused address says
// nothing more.
func (c *Chart) settle() {
	var keep []Span
	for _, d := range c.Doubt {
		if h := in(c.Has, d.From); h >= 0 {
			d.From = c.Has[h].To + 1
		}
		if h := in(c.Has, d.To); h >= 0 {
			d.To = c.Has[h].From - 1
		}
		switch {
		case d.From == d.To:
			c.Not = with(c.Not, d)
		case d.From < d.To:
			keep = append(keep, d)
		}
	}
	c.Doubt = slices.DeleteFunc(keep, func(d Span) bool {
		return slices.ContainsFunc(c.Not, func(n Span) bool { return n.From <= d.To && n.To >= d.From })
	})
}

// in is which span of a list in order holds an address; -1: none.
func in(l []Span, at int) int {
	i, _ := slices.BinarySearchFunc(l, at, func(s Span, a int) int {
		if s.To < a {
			return -1
		}
		return 1
	})
	if i < len(l) && l[i].From <= at {
		return i
	}
	return -1
}

// with puts a span into a list in order, joined with those that it touches.
func with(l []Span, s Span) []Span {
	var out []Span
	for _, x := range l {
		switch {
		case x.To < s.From-1:
			out = append(out, x)
		case x.From > s.To+1:
			out = append(out, s)
			s = x
		default:
			s = Span{min(s.From, x.From), max(s.To, x.To)}
		}
	}
	return append(out, s)
}
