package dialect

import (
	"math"
	"math/bits"
	"strings"
)

// Held is what a drive holds in a setting: steps on the grid, and the text as the keypad would show it.
type Held struct {
	Steps int64
	Text  string
}

// Words is how many registers a setting takes.
func (s *Setting) Words() int {
	switch s.registerType() {
	case "u32", "s32":
		return 2
	case "text":
		return int(s.max+1) / 2
	}
	return 1
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
	raw := uint32(int32(v.Steps * s.perStep))
	if s.registerType() == "u32" {
		raw = uint32(v.Steps * s.perStep)
	}
	if len(out) == 1 {
		out[0] = uint16(raw)
	} else {
		out[0], out[1] = uint16(raw>>16), uint16(raw)
	}
	return f.ordered(out, true)
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
	var raw int64
	switch s.registerType() {
	case "s16":
		raw = int64(int16(regs[0]))
	case "u32":
		raw = int64(uint32(regs[0])<<16 | uint32(regs[1]))
	case "s32":
		raw = int64(int32(uint32(regs[0])<<16 | uint32(regs[1])))
	default:
		raw = int64(regs[0])
	}
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
	var out []Span
	for _, s := range order {
		from, n := int(s.Register), s.Words()
		if k := len(out); k > 0 {
			last := &out[k-1]
			end := int(last.From) + int(last.Count)
			if from-end <= f.Link.Gap && from+n-int(last.From) <= f.Link.Block && !f.commands(end, from) {
				last.Count = uint16(from + n - int(last.From))
				continue
			}
		}
		out = append(out, Span{uint16(from), uint16(n)})
	}
	return out
}

// commands tells whether a register from a up to b (left out) is one that commands motion: it is not even read along.
func (f *Family) commands(a, b int) bool {
	for _, r := range f.Link.Forbidden {
		if a <= int(r.To) && b > int(r.From) {
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
	return "", false
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
