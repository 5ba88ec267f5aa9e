package dialect

import (
	"cmp"
	"fmt"
	"math"
	"math/bits"
	"slices"
	"strings"
)

// Held is what a drive holds in a setting: steps on the grid, and the text as the keypad would show it.
type Held struct {
	Steps int64
	Text  string
}

// Words is how many registers a setting takes.
func (s *Setting) Words() int {
	if s.Kind == "text" || s.registerType() == "text" {
		return int(s.max+1) / 2
	}
	return wordsOf(s.registerType())
}

// wordsOf is how many registers a number of a type takes.
func wordsOf(registerType string) int {
	if registerType == "u32" || registerType == "s32" {
		return 2
	}
	return 1
}

// rawOf is the number in registers of a type, high word first.
func rawOf(regs []uint16, registerType string) int64 {
	switch registerType {
	case "s16":
		return int64(int16(regs[0]))
	case "u32":
		return int64(uint32(regs[0])<<16 | uint32(regs[1]))
	case "s32":
		return int64(int32(uint32(regs[0])<<16 | uint32(regs[1])))
	}
	return int64(regs[0])
}

// rawWords are the registers of a number, high word first.
func rawWords(raw int64, n int) []uint16 {
	if n == 1 {
		return []uint16{uint16(raw)}
	}
	return []uint16{uint16(raw >> 16), uint16(raw)}
}

// Shows is a value with its unit as a sentence names it; a text stands in quotation marks.
func (s *Setting) Shows(v Held) string {
	switch {
	case s.Kind != "text":
		return s.WithUnit(v.Steps)
	case v.Text == "":
		return "nothing"
	}
	return "“" + v.Text + "”"
}

// Encode turns a value into registers as this family orders words and bytes. A text is given as such.
func (f *Family) Encode(s *Setting, v Held) []uint16 {
	out := make([]uint16, s.Words())
	if s.Kind == "text" {
		b := []byte(v.Text)
		for i := range out {
			var hi, lo byte
			if 2*i < len(b) {
				hi = b[2*i]
			}
			if 2*i+1 < len(b) {
				lo = b[2*i+1]
			}
			out[i] = uint16(hi)<<8 | uint16(lo)
		}
		return f.ordered(out, false)
	}
	return f.ordered(rawWords(v.Steps*s.perStep, len(out)), true)
}

// Decode is Encode backwards. Registers that lie between two steps give the nearest step; exact is then false.
func (f *Family) Decode(s *Setting, regs []uint16) (v Held, exact bool) {
	regs = f.ordered(append([]uint16(nil), regs...), s.Kind != "text")
	if s.Kind == "text" {
		var b []byte
		for _, r := range regs {
			b = append(b, byte(r>>8), byte(r))
		}
		t := strings.TrimSpace(strings.ToValidUTF8(strings.TrimRight(string(b), "\x00 "), "�"))
		return Held{TextSteps(t), t}, true
	}
	raw := rawOf(regs, s.registerType())
	steps := int64(math.Round(float64(raw) / float64(s.perStep)))
	return Held{steps, s.Text(steps)}, steps*s.perStep == raw
}

// ordered changes words and bytes over where the family sends the low one first. It is its own inverse.
func (f *Family) ordered(regs []uint16, number bool) []uint16 {
	if number && len(regs) == 2 && f.Link.WordOrder == "low-first" {
		regs[0], regs[1] = regs[1], regs[0]
	}
	if f.Link.ByteOrder == "low-first" {
		for i := range regs {
			regs[i] = bits.ReverseBytes16(regs[i])
		}
	}
	return regs
}

// ByteSwapped tells what the family's single registers (identity, status) read as on the wire.
func (f *Family) ByteSwapped(v uint16) uint16 {
	if f.Link.ByteOrder == "low-first" {
		return bits.ReverseBytes16(v)
	}
	return v
}

// Span is a run of registers read at once.
type Span struct{ From, Count uint16 }

// Blocks plans the reads of all settings: as few as the family's block size and the gaps it answers allow.
func (f *Family) Blocks() []Span {
	order := f.byRegister()
	list := make([]Span, len(order))
	for i, s := range order {
		list[i] = Span{s.Register, uint16(s.Words())}
	}
	return f.spans(list)
}

// spans joins runs of registers into as few reads as the family allows.
func (f *Family) spans(list []Span) []Span {
	slices.SortFunc(list, func(a, b Span) int { return cmp.Compare(a.From, b.From) })
	var out []Span
	for _, s := range list {
		from, n := int(s.From), int(s.Count)
		if k := len(out); k > 0 {
			last := &out[k-1]
			end := int(last.From) + int(last.Count)
			if from-end <= f.Link.Gap && from+n-int(last.From) <= f.Link.Block && !f.commands(end, from) {
				last.Count = uint16(from + n - int(last.From))
				continue
			}
		}
		out = append(out, s)
	}
	return out
}

// standard are objects of CiA 402 (IEC 61800-7-201) that command, by their index, which drives that map objects to registers use as the
// register's number: controlword 6040h, target velocity of the velocity mode 6042h, modes of operation 6060h, target torque 6071h, target
// position 607Ah, target velocity 60FFh. Further axes lie 800h higher each.
var standard = map[uint16]string{0x6040: "controlword", 0x6042: "target velocity", 0x6060: "modes of operation", 0x6071: "target torque",
	0x607A: "target position", 0x60FF: "target velocity"}

// axes are how many axes one device of CiA 402 has at most.
const axes = 8

// byStandard tells whether a register is one that commands by the standard, whatever the family's file says.
func byStandard(register uint16) (why string, yes bool) {
	for axis := range uint16(axes) {
		if what, ok := standard[register-axis*0x800]; ok && register >= 0x6000 && register < 0xA000 {
			return fmt.Sprintf("%s, %Xh of CiA 402", what, register), true
		}
	}
	return "", false
}

// commands tells whether a register from a up to b (left out) is one that commands motion: it is not even read along.
func (f *Family) commands(a, b int) bool {
	for r := a; r < b && r <= math.MaxUint16; r++ {
		if _, yes := f.Commands(uint16(r)); yes {
			return true
		}
	}
	return false
}

// Commands tells whether a register commands motion, and what.
func (f *Family) Commands(register uint16) (why string, yes bool) {
	for _, r := range f.Link.Forbidden {
		if register >= r.From && register <= r.To {
			return r.Why, true
		}
	}
	return byStandard(register)
}

// Narrows says what a file of a family leaves open that another version of it names as commanding; empty: nothing.
func (f *Family) Narrows(other *Family) string {
	for _, r := range other.Link.Forbidden {
		for reg := int(r.From); reg <= int(r.To); reg++ {
			if _, yes := f.Commands(uint16(reg)); !yes {
				return fmt.Sprintf("register %d left open, which version %s names as commanding (%s)", reg, other.Version, r.Why)
			}
		}
	}
	return ""
}

// byRegister lists the settings that have a register, in register order.
func (f *Family) byRegister() []*Setting {
	out := make([]*Setting, 0, len(f.Settings))
	for i := range f.Settings {
		if f.Settings[i].Register != 0 {
			out = append(out, &f.Settings[i])
		}
	}
	sortSettings(out)
	return out
}
