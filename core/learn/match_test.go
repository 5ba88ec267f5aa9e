package learn

import (
	"fmt"
	"math"
	"math/bits"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"

	"tingate/testtools/check"
)

// hidden is a setting somewhere in a drive, as nobody has told.
type hidden struct {
	at       int
	typ      string
	lowWord  bool
	lowByte  bool
	scale    float64
	decimals int
}

func (h hidden) put(values map[int]uint16, shown float64) {
	raw := int64(math.Round(shown * h.scale))
	words := []uint16{uint16(raw)}
	if strings.HasSuffix(h.typ, "32") {
		words = []uint16{uint16(uint64(raw) >> 16), uint16(raw)}
		if h.lowWord {
			words[0], words[1] = words[1], words[0]
		}
	}
	for i, w := range words {
		if h.lowByte {
			w = bits.ReverseBytes16(w)
		}
		values[h.at+i] = w
	}
}

// drive is a device with hidden settings; some of its registers move by themselves.
type drive struct {
	values   map[int]uint16
	restless []int
	r        *rand.Rand
}

func (d *drive) read(c *Chart, shown string) Pass {
	for _, a := range d.restless {
		d.values[a] = uint16(d.r.IntN(65536))
	}
	out := Pass{Shown: shown}
	for _, s := range c.Has {
		for a := s.From; a <= s.To; a++ {
			out.Values = append(out.Values, d.values[a])
		}
	}
	return out
}

// Two hundred settings of every kind, hidden among 2,000 registers of which 60 move by themselves: each is found by one change, with its
// scale, sign and order.
func TestOneChangeFindsTheRegisterItsScaleSignAndOrder(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 9))
	c := &Chart{To: 19999, Most: 32, Has: []Span{{100, 1099}, {4000, 4999}}}
	ambiguous := 0
	for i := range 200 {
		d := &drive{map[int]uint16{}, nil, r}
		for _, s := range c.Has {
			for a := s.From; a <= s.To; a++ {
				if r.IntN(2) == 0 {
					d.values[a] = uint16(r.IntN(4000))
				}
			}
		}
		h := hidden{at: 200 + r.IntN(700), typ: []string{"u16", "s16", "u32", "s32"}[i%4], lowWord: i%8 > 3, lowByte: i%20 == 7,
			scale: []float64{1, 10, 100, 1000, 2, 0.1}[r.IntN(6)]}
		h.decimals = max(0, int(math.Ceil(math.Log10(h.scale))))
		for range 60 {
			if a := 100 + r.IntN(1000); a < h.at-1 || a > h.at+2 {
				d.restless = append(d.restless, a)
			}
		}
		most := 30000 / h.scale
		if strings.HasSuffix(h.typ, "32") {
			most = 4_000_000 / h.scale
		}
		value := func() (float64, string) {
			v := most * (0.3 + 0.7*r.Float64())
			step := math.Max(1/h.scale, math.Pow10(-h.decimals))
			v = math.Round(v/step) * step
			if h.typ[0] == 's' {
				v = -v
			}
			text := strconv.FormatFloat(v, 'f', h.decimals, 64)
			v, _ = strconv.ParseFloat(text, 64)
			return v, text
		}
		v1, t1 := value()
		v2, t2 := value()
		h.put(d.values, v1)
		readings := []Pass{d.read(c, t1), d.read(c, t1)}
		h.put(d.values, v2)
		readings = append(readings, d.read(c, strings.ReplaceAll(t2, ".", ",")))
		f, err := Compare(c, Setting, readings)
		if err != nil || len(f.Fits) == 0 {
			t.Fatalf("%d: %+v from %s to %s: nothing fits (%v), moved %v", i, h, t1, t2, err, f.Moved)
		}
		if len(f.Fits) > 1 {
			ambiguous++
		}
		got, want := f.Fits[0], strconv.FormatFloat(h.scale, 'f', -1, 64)
		order := map[bool]string{true: "low-first", false: "high-first"}[h.lowWord]
		if got.Register != h.at || got.Type != h.typ || got.Scale != want || got.WordOrder != "" && got.WordOrder != order ||
			(got.ByteOrder != "") != h.lowByte {
			t.Errorf("%d: %+v from %s to %s is found as %+v (of %d)", i, h, t1, t2, got, len(f.Fits))
		}
		if f.Alone == 0 {
			t.Error("nothing moves by itself")
		}
	}
	if ambiguous > 4 {
		t.Errorf("%d of 200 are found in more than one way", ambiguous)
	}
}

// The registers of figures follow what the display shows at two speeds, although everything moves.
func TestFiguresAreFoundAtTwoSpeeds(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 10))
	c := &Chart{To: 999, Most: 32, Has: []Span{{0, 999}}}
	figure := map[string]struct {
		at    int
		scale float64
		shown [2]float64
	}{"Hz": {310, 100, [2]float64{20.1, 41.7}}, "A": {311, 10, [2]float64{3.2, 4.9}}, "r/min": {312, 1, [2]float64{583, 1216}}}
	for name, f := range figure {
		var readings []Pass
		for k := range 2 {
			values := make([]uint16, 1000)
			for a := range values {
				values[a] = uint16(r.IntN(40))
				if a < 500 {
					values[a] = uint16(a) // settings
				}
			}
			for _, o := range figure {
				values[o.at] = uint16(math.Round(o.shown[k] * o.scale * (1 + 0.01*(r.Float64()*2-1))))
			}
			readings = append(readings, Pass{fmt.Sprint(f.shown[k]), values})
		}
		found, err := Compare(c, Figure, readings)
		if err != nil || len(found.Fits) == 0 {
			t.Fatal(name, err, found.Fits)
		}
		best := -1
		for i, m := range found.Fits {
			if m.Register == f.at && m.Scale == strconv.FormatFloat(f.scale, 'f', -1, 64) {
				best = i
			}
		}
		if best < 0 || best > 2 {
			t.Errorf("%s: place %d of %v", name, best, found.Fits)
		}
	}
}

func TestWhatCannotTellSaysWhy(t *testing.T) {
	c := &Chart{To: 99, Most: 32, Has: []Span{{0, 99}}}
	values := func(change int) []uint16 {
		v := make([]uint16, 100)
		for i := range change {
			v[i] = uint16(7 + i)
		}
		return v
	}
	for _, x := range []struct {
		kind     string
		readings []Pass
		want     string
	}{
		{Setting, []Pass{{"1", values(0)}}, "got 1, want 2 to 12"},
		{Setting, []Pass{{"1", values(0)}, {"1", values(1)}}, "the same number at every reading"},
		{Setting, []Pass{{"1", values(0)}, {"2 Hz", values(1)}}, `got "2 Hz" at reading 2`},
		{Setting, []Pass{{"1", values(0)}, {"NaN", values(1)}}, `got "NaN"`},
		{Setting, []Pass{{"1", values(0)}, {"0x10", values(1)}}, `got "0x10"`},
		{Setting, []Pass{{"1", values(0)}, {"2", values(1)[:50]}}, "got 50 registers in reading 2, want 100"},
		{Setting, []Pass{{"1", values(0)}, {"2", values(90)}}, "got 90 registers that moved at one change"},
		{"word", []Pass{{"1", values(0)}, {"2", values(1)}}, `kind: got "word"`},
	} {
		if _, err := Compare(c, x.kind, x.readings); err == nil || !strings.Contains(err.Error(), x.want) {
			t.Errorf("%v, want %s", err, x.want)
		}
	}
	// What moved and follows no scale is named all the same.
	f, err := Compare(c, Setting, []Pass{{"17.5", values(0)}, {"20", values(1)}})
	if err != nil || len(f.Fits) != 0 || len(f.Moved) != 1 || f.Moved[0].Raw[1] != "7" {
		t.Errorf("%+v %v", f, err)
	}
}

// The most that one request may ask for, and the highest address: MODBUS Application Protocol Specification V1.1b3, 6.3 and 4.4.
func TestWhatTheProtocolLetsOneAskFor(t *testing.T) {
	check.Against(t, "registers in one request, most", "MODBUS Application Protocol Specification V1.1b3, 6.3", MostAtOnce, 0x7d, 0)
	check.Against(t, "highest address of a register", "MODBUS Application Protocol Specification V1.1b3, 6.3", MostAsked, 0xffff, 0)
	// 17.5 shown and 1750 held, 20.0 and 2000: a hundred counts to one.
	c := &Chart{To: 9, Most: 10, Has: []Span{{0, 9}}}
	at := func(shown string, raw uint16) Pass { return Pass{shown, []uint16{3, 3, 3, raw, 3, 3, 3, 3, 3, 3}} }
	f, err := Compare(c, Setting, []Pass{at("17.5", 1750), at("17.5", 1750), at("20.0", 2000)})
	if err != nil || len(f.Fits) != 1 || f.Fits[0].Register != 3 {
		t.Fatal(err, f.Fits)
	}
	scale, _ := strconv.ParseFloat(f.Fits[0].Scale, 64)
	check.Against(t, "counts to one shown, 17.5 held as 1750", "by hand", scale, 100, 0)
}
