package dialect

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// link checks how the family is spoken to.
func (c *compiler) link() {
	l := c.f.Link
	used := l.Block != 0 || l.Identity.Register != 0
	for i := range c.f.Settings {
		used = used || c.f.Settings[i].Register != 0
	}
	if !used {
		return // a family without a link
	}
	if l.Block <= 0 || l.Block > 125 {
		c.bad("link.block", fmt.Sprint(l.Block), "1 to 125 registers")
	}
	if l.Gap < 0 || l.Gap > 124 {
		c.bad("link.gap", fmt.Sprint(l.Gap), "0 to 124 registers")
	}
	if l.Retries < 0 || l.Retries > 10 {
		c.bad("link.retries", fmt.Sprint(l.Retries), "0 to 10")
	}
	orders := []string{"high-first", "low-first"}
	c.oneOf("link.word_order", l.WordOrder, orders)
	c.oneOf("link.byte_order", l.ByteOrder, orders)
	for _, b := range []uint{l.Status.Standstill, l.Status.ChannelA, l.Status.ChannelB} {
		if b > 15 {
			c.bad("link.status", fmt.Sprint(b), "bits 0 to 15")
		}
	}
	if len(l.Forbidden) == 0 && l.Identity.Register != 0 { // without an identity nothing is spoken to at all
		c.f.ReadOnly = "no registers named that command"
	}
	for i, r := range l.Forbidden {
		if r.To < r.From {
			c.bad(fmt.Sprintf("link.forbidden[%d].to", i), fmt.Sprint(r.To), "at least from")
		}
	}
}

// registers wants every register used once, and none among those that command.
func (c *compiler) registers() {
	l := c.f.Link
	taken := map[int]string{}
	for _, r := range []struct {
		name string
		at   uint16
	}{{"identity", l.Identity.Register}, {"status", l.Status.Register}, {"rating", l.Rating}, {"firmware", l.Firmware},
		{"clock", l.Clock}} {
		if r.at != 0 {
			if other, ok := taken[int(r.at)]; ok {
				c.bad("link."+r.name, fmt.Sprint(r.at), "a register of its own; "+other+" has it")
			}
			taken[int(r.at)] = r.name
		}
	}
	// own wants a run of registers free, outside those that command, and takes it.
	own := func(r uint16, words int, name string, bad func(want string)) {
		for at := int(r); at < int(r)+words; at++ {
			if other, ok := taken[at]; ok {
				bad("a register of its own; " + other + " has it")
				break
			}
			taken[at] = name
		}
		for at := int(r); at < int(r)+words && at <= math.MaxUint16; at++ {
			if why, yes := c.f.Commands(uint16(at)); yes {
				bad("a register outside those that command motion (" + why + ")")
				break
			}
		}
	}
	for i := range l.Actuals {
		a := &l.Actuals[i]
		own(a.Register, a.Words(), a.What, func(want string) {
			c.bad(fmt.Sprintf("link.actuals[%d].register", i), fmt.Sprint(a.Register), want)
		})
	}
	for i := range c.f.Settings {
		s := &c.f.Settings[i]
		if s.Register == 0 {
			continue
		}
		if int(s.Register)+s.Words() > 65536 {
			c.badSetting(i, "register", fmt.Sprint(s.Register), "registers up to 65535")
		}
		own(s.Register, s.Words(), s.Code, func(want string) { c.badSetting(i, "register", fmt.Sprint(s.Register), want) })
	}
}

// actuals checks what the file says of them.
func (c *compiler) actuals() {
	seen := map[string]bool{}
	for i := range c.f.Link.Actuals {
		a := &c.f.Link.Actuals[i]
		bad := func(field, got, want string) { c.bad(fmt.Sprintf("link.actuals[%d].%s", i, field), got, want) }
		units, ok := ActualUnits[a.What]
		if !ok || seen[a.What] {
			bad("what", a.What, "speed, frequency, current, torque or link, each once")
			continue
		}
		seen[a.What] = true
		if a.Register == 0 || int(a.Register)+a.Words() > 65536 {
			bad("register", fmt.Sprint(a.Register), "1 to 65535")
		}
		c.oneOf(fmt.Sprintf("link.actuals[%d].register_type", i), a.RegisterType, []string{"u16", "s16", "u32", "s32"})
		if !slices.Contains(units, a.Unit) {
			bad("unit", a.Unit, "one of "+strings.Join(units, ", "))
		}
		step := 1.
		if a.Step != "" {
			m, d, err := decimal(a.Step)
			if err != nil || m <= 0 {
				bad("step", a.Step, "a decimal above 0")
			}
			step = float64(m) / math.Pow10(d)
		}
		a.factor = step * inUnit[a.Unit]
		if of, ok := c.f.Setting(a.Of); a.Share() &&
			(!ok || of.Kind != "number" || of.Register == 0 || !slices.Contains(units[:2], of.Unit)) {
			bad("of", a.Of, "the setting whose value is the whole, in "+strings.Join(units[:2], " or "))
		} else if !a.Share() && a.Of != "" {
			bad("of", a.Of, "nothing: only % and ‰ are shares of a setting")
		}
	}
	if len(seen) > 0 && (c.f.Link.Identity.Register == 0 || c.f.Link.Status.Register == 0) {
		c.bad("link.actuals", "figures to be read", "identity and status as well: what answers must be known, and whether it stands")
	}
}
