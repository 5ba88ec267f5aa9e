package dialect

import (
	"fmt"
	"slices"
	"strings"
)

// ModulesOf are the modules of the family whose codes stand in a text, by commas, and the codes that the family does not have.
func (f *Family) ModulesOf(text string) (l []Module, unknown []string) {
	for _, code := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' }) {
		if code = strings.TrimSpace(code); code == "" {
			continue
		}
		i := slices.IndexFunc(f.Modules, func(m Module) bool { return strings.EqualFold(m.Code, code) })
		switch {
		case i < 0:
			unknown = append(unknown, code)
		case !slices.ContainsFunc(l, func(m Module) bool { return m.Code == f.Modules[i].Code }): // a drive knows one of a kind
			l = append(l, f.Modules[i])
		}
	}
	return l, unknown
}

// Seats gives each module a slot that takes it, by the module's code; ok is false when there is none for all of them together. A family
// that names no slots has room for all.
func (f *Family) Seats(modules []Module) (seats map[string]string, ok bool) {
	seats = map[string]string{}
	if len(f.Slots) == 0 {
		return seats, true
	}
	in := map[string]Module{} // by slot
	var tried map[string]bool
	// One that finds its slots taken asks who is there to move on: what grows with the slots, not with their orders.
	var place func(m Module) bool
	place = func(m Module) bool {
		for _, s := range f.Slots {
			if tried[s.Name] || !slices.Contains(s.Takes, m.Code) {
				continue
			}
			tried[s.Name] = true
			if there, taken := in[s.Name]; !taken || place(there) {
				in[s.Name] = m
				return true
			}
		}
		return false
	}
	ok = true
	for _, m := range modules {
		tried = map[string]bool{}
		ok = place(m) && ok
	}
	for slot, m := range in {
		seats[m.Code] = slot
	}
	return seats, ok
}

// mostTogether is how many sets of modules are offered.
const mostTogether = 64

// Together are the sets of modules that fit into the slots, the smallest first, up to a number.
func (f *Family) Together() (sets [][]Module) {
	for last := [][]Module{nil}; len(last) > 0; { // each round has one module more
		var next [][]Module
		for _, l := range last {
			from := 0
			if len(l) > 0 {
				from = 1 + slices.IndexFunc(f.Modules, func(m Module) bool { return m.Code == l[len(l)-1].Code })
			}
			for _, m := range f.Modules[from:] {
				more := append(slices.Clone(l), m)
				if _, ok := f.Seats(more); !ok {
					continue
				}
				if len(sets) == mostTogether {
					return sets
				}
				sets, next = append(sets, more), append(next, more)
			}
		}
		last = next
	}
	return sets
}

// Fitted is the family as a drive with these modules has it: its terminals without those that they take away, and theirs. What an encoder's
// module brings for the encoder is not among them: the encoder's wires name it.
func (f *Family) Fitted(modules []Module) *Family {
	if f == nil || len(modules) == 0 || slices.ContainsFunc(f.Terminals, func(t Terminal) bool { return t.Module != "" }) {
		return f // or it has them already
	}
	g := *f
	g.Terminals = slices.DeleteFunc(slices.Clone(f.Terminals), func(t Terminal) bool {
		return slices.ContainsFunc(modules, func(m Module) bool {
			return slices.ContainsFunc(t.Ends(), func(e string) bool { return slices.Contains(m.TakesAway, e) })
		})
	})
	for _, m := range modules {
		if m.Kind == "encoder" {
			continue
		}
		for _, t := range m.Terminals {
			t.Module = m.Code
			g.Terminals = append(g.Terminals, t)
		}
	}
	return &g
}

// TurnedOver tells whether an output is turned over, by the values of the settings; nil: as delivered. Without a setting for it it is not.
func (f *Family) TurnedOver(t Terminal, values map[string]int64) bool {
	s, ok := f.Setting(t.Turned)
	if !ok {
		return false
	}
	v, has := values[s.Code]
	if !has {
		v = s.DeliverySteps()
	}
	if s.Kind == "bits" {
		return v>>uint(t.TurnedBit)&1 == 1
	}
	return v != 0
}

// turned checks what turns an output over.
func (c *compiler) turned(i int, t Terminal) {
	s, ok := c.f.Setting(t.Turned)
	bit := func(x Choice) bool { return x.Value == int64(t.TurnedBit) }
	if ok && s.Kind != "bits" && s.Kind != "choice" || ok && s.Kind == "bits" && !slices.ContainsFunc(s.Choices, bit) ||
		!ok && t.TurnedBit != 0 {
		c.bad(fmt.Sprintf("terminals[%d].turned_bit", i), fmt.Sprint(t.TurnedBit),
			"one of the bits of "+t.Turned+"; nothing where that is a choice")
	}
}

// EncoderPins are the module's terminals for an encoder, in the order supply, 0 V, A, its inverse, B, its inverse; nil: the file does not
// name all of them.
func (m Module) EncoderPins() []string {
	var supply, zero string
	var pairs []string
	for _, t := range m.Terminals {
		switch ends := t.Ends(); {
		case t.Kind == "control-supply" && supply == "":
			supply = t.Name
		case t.Kind == "common" && zero == "":
			zero = t.Name
		case t.Kind == "encoder" && len(ends) == 2:
			pairs = append(pairs, ends...)
		}
	}
	if supply == "" || zero == "" || len(pairs) < 4 {
		return nil
	}
	return append([]string{supply, zero}, pairs[:4]...)
}

// moduleParts checks what modules bring and take away.
func (c *compiler) moduleParts(ends map[string]bool) {
	for i, m := range c.f.Modules {
		at := fmt.Sprintf("modules[%d].", i)
		own := map[string]bool{}
		for k, t := range m.Terminals {
			for _, e := range t.Ends() {
				if e == "" || ends[e] || own[e] {
					c.bad(fmt.Sprintf("%sterminals[%d].name", at, k), e, "a terminal named once in the drive and its module")
				}
				own[e] = true
			}
			if !slices.Contains(terminalKinds, t.Kind) {
				c.bad(fmt.Sprintf("%sterminals[%d].kind", at, k), t.Kind, "one of "+strings.Join(terminalKinds, ", "))
			}
		}
		for k, t := range m.Terminals {
			if t.Common != "" && !own[t.Common] && !ends[t.Common] {
				c.bad(fmt.Sprintf("%sterminals[%d].common", at, k), t.Common, "a terminal of the module or of the drive")
			}
			if t.Common == "" && (t.Kind == "digital-in" || t.Kind == "analog-in" || t.Kind == "analog-out") {
				c.bad(fmt.Sprintf("%sterminals[%d].common", at, k), "nothing", "the terminal that its current goes back to")
			}
			if _, ok := c.f.byCode[t.Setting]; t.Setting != "" && !ok {
				c.bad(fmt.Sprintf("%sterminals[%d].setting", at, k), t.Setting, "the code of a setting")
			}
		}
		for k, e := range m.TakesAway {
			if !ends[e] {
				c.bad(fmt.Sprintf("%stakes_away[%d]", at, k), e, "a terminal of the drive")
			}
		}
		if _, ok := c.f.byCode[m.Address]; m.Address != "" && !ok {
			c.bad(at+"address", m.Address, "the code of the setting that holds it")
		}
	}
}
