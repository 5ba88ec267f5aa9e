package learn

import (
	"cmp"
	"fmt"
	"math"
	"math/bits"
	"slices"
	"strconv"
	"strings"
)

// Pass is every register of a chart, read once, and what the keypad or its display showed then.
type Pass struct {
	Shown string `json:"shown" doc:"the number as the keypad shows it; empty: not looked at"`
	// Values stand in the order of the chart's spans.
	Values []uint16 `json:"values"`
}

// Match is a register, or two, in which what was shown can lie.
type Match struct {
	Register  int      `json:"register"`
	Type      string   `json:"type" enum:"u16,s16,u32,s32" doc:"two registers hold 32 bits"`
	WordOrder string   `json:"word_order,omitempty" enum:"high-first,low-first," doc:"of 32 bits"`
	ByteOrder string   `json:"byte_order,omitempty" enum:"low-first,"`
	Scale     string   `json:"scale,omitempty" doc:"counts for each unit shown; empty: it moved, and follows no scale"`
	Round     bool     `json:"round" doc:"a scale as makers choose them: 1, 2 or 5 and tens"`
	Raw       []string `json:"raw" doc:"what it held at each reading"`
}

// Learnt is what readings of a drive tell when one thing was changed between them.
type Learnt struct {
	Fits   []Match `json:"fits" doc:"what holds what was shown, the likeliest first"`
	Moved  []Match `json:"moved" doc:"what else moved at the change and not between two readings of the same; at most 40"`
	Alone  int     `json:"alone" doc:"registers that move by themselves"`
	Others int     `json:"others" doc:"registers that moved at the change, in all"`
}

// Kinds of what is looked for.
const (
	Setting = "setting" // stands still until somebody changes it
	Figure  = "figure"  // an actual figure: it jitters, and is read a moment apart from the display
)

// figureSlack is how far a figure may lie off between the display and the register read a moment later. Common practice: currents and
// speeds at a steady speed stand within about two per cent.
const figureSlack = 0.02

// mostMoved is from how many settings on, moved at one change, something else than a key must have happened.
const mostMoved = 40

// Compare looks for what was shown in readings of the same chart. Of a setting, those that showed the same tell what moves by itself; of a
// figure, everything may move, and only what follows is given.
func Compare(c *Chart, kind string, readings []Pass) (Learnt, error) {
	out := Learnt{Fits: []Match{}, Moved: []Match{}}
	shown, half, err := numbers(c, readings)
	if err != nil {
		return out, err
	}
	if kind != Setting && kind != Figure {
		return out, &Fault{"kind", strconv.Quote(kind), Setting + " or " + Figure}
	}
	at := -1
	for _, s := range c.Has {
		for a := s.From; a <= s.To; a++ {
			at++
			own := column(readings, at)
			moved, alone := movement(own, shown)
			if alone {
				out.Alone++
			}
			if alone && kind == Setting || !moved && (a == s.To || !movedQuietly(column(readings, at+1), shown, kind)) {
				continue
			}
			var next []uint16
			if a < s.To {
				next = column(readings, at+1)
			}
			fits := matches(a, own, next, shown, half, kind)
			out.Fits = append(out.Fits, fits...)
			if moved && kind == Setting {
				out.Others++
				if len(out.Moved) < mostMoved {
					out.Moved = append(out.Moved, Match{Register: a, Type: "u16", Raw: texts(wide(own, nil, false, false))})
				}
			}
		}
	}
	out.Fits = likeliest(out.Fits)
	out.Moved = slices.DeleteFunc(out.Moved, func(m Match) bool {
		return slices.ContainsFunc(out.Fits, func(f Match) bool {
			return f.Register == m.Register || len(f.Type) == 3 && f.Type[1:] == "32" && f.Register+1 == m.Register
		})
	})
	if out.Others > mostMoved {
		return out, &Fault{"readings", fmt.Sprint(out.Others, " registers that moved at one change"),
			"a few: were settings copied or reset, or does another device answer now? Read again from the beginning"}
	}
	return out, nil
}

// numbers takes the shown texts apart: their values, and half of their last digit.
func numbers(c *Chart, readings []Pass) (shown, half []float64, err error) {
	if len(readings) < 2 || len(readings) > 12 {
		return nil, nil, &Fault{"readings", fmt.Sprint(len(readings)), "2 to 12"}
	}
	differ := false
	for i, r := range readings {
		if len(r.Values) != c.Registers() {
			return nil, nil, &Fault{"readings", fmt.Sprintf("%d registers in reading %d", len(r.Values), i+1),
				fmt.Sprint(c.Registers(), ": the range has changed since, read it again")}
		}
		t := strings.ReplaceAll(strings.TrimSpace(r.Shown), ",", ".")
		v, err := strconv.ParseFloat(t, 64)
		if err != nil || math.Abs(v) > 1e9 || strings.ContainsAny(t, "eExXpPnN_") {
			return nil, nil, &Fault{"shown", fmt.Sprintf("%q at reading %d", r.Shown, i+1),
				"the number as the keypad shows it, without its unit"}
		}
		_, decimals, _ := strings.Cut(t, ".")
		shown, half = append(shown, v), append(half, 0.5*math.Pow10(-len(decimals)))
		differ = differ || v != shown[0]
	}
	if !differ {
		return nil, nil, &Fault{"shown", "the same number at every reading", "one that was changed"}
	}
	return shown, half, nil
}

func column(readings []Pass, at int) []uint16 {
	out := make([]uint16, len(readings))
	for i, r := range readings {
		out[i] = r.Values[at]
	}
	return out
}

// movement tells whether a register moved at all, and whether it moved while what was shown stood.
func movement(raw []uint16, shown []float64) (moved, alone bool) {
	for i := range raw {
		for k := range i {
			if raw[i] == raw[k] {
				continue
			}
			moved = true
			alone = alone || shown[i] == shown[k]
		}
	}
	return moved, alone
}

func movedQuietly(raw []uint16, shown []float64, kind string) bool {
	moved, alone := movement(raw, shown)
	return moved && (kind == Figure || !alone)
}

// matches are the ways in which a register, alone or with the next, holds what was shown.
func matches(at int, own, next []uint16, shown, half []float64, kind string) (out []Match) {
	try := func(typ, words, bytes string, raw []int64) bool {
		k, round, ok := scaleOf(raw, shown, half, kind)
		if ok {
			out = append(out, Match{at, typ, words, bytes, k, round, texts(raw)})
		}
		return ok && round
	}
	negative := slices.ContainsFunc(shown, func(v float64) bool { return v < 0 })
	for _, swapped := range []bool{false, true} {
		bytes := ""
		if swapped {
			bytes = "low-first"
		}
		if !negative && try("u16", "", bytes, wide(turned(own, swapped), nil, false, false)) {
			return out
		}
		if negative && try("s16", "", bytes, wide(turned(own, swapped), nil, true, false)) {
			return out
		}
		if next == nil || !movedAtAll(own) && !movedAtAll(next) {
			continue
		}
		for _, order := range []string{"high-first", "low-first"} {
			high, low := turned(own, swapped), turned(next, swapped)
			if order == "low-first" {
				high, low = low, high
			}
			if !slices.ContainsFunc(high, func(v uint16) bool { return v != 0 }) {
				continue // 16 bits that somebody will meet at the other register
			}
			typ := "u32"
			if negative {
				typ = "s32"
			}
			if try(typ, order, bytes, wide(high, low, negative, true)) {
				return out
			}
		}
	}
	return out
}

func movedAtAll(raw []uint16) bool {
	return slices.ContainsFunc(raw, func(v uint16) bool { return v != raw[0] })
}

func turned(raw []uint16, swapped bool) []uint16 {
	if !swapped {
		return raw
	}
	out := make([]uint16, len(raw))
	for i, v := range raw {
		out[i] = bits.ReverseBytes16(v)
	}
	return out
}

// wide makes numbers of words: of one, or of a high and a low one.
func wide(high, low []uint16, signed, two bool) []int64 {
	out := make([]int64, len(high))
	for i, h := range high {
		switch {
		case two && signed:
			out[i] = int64(int32(uint32(h)<<16 | uint32(low[i])))
		case two:
			out[i] = int64(uint32(h)<<16 | uint32(low[i]))
		case signed:
			out[i] = int64(int16(h))
		default:
			out[i] = int64(h)
		}
	}
	return out
}

func texts(raw []int64) []string {
	out := make([]string, len(raw))
	for i, v := range raw {
		out[i] = strconv.FormatInt(v, 10)
	}
	return out
}

// scaleOf is the one scale by which raw numbers are those shown: as round a one as all of them allow. A count more or less is rounding, and
// so is half of the display's last digit where the register counts finer than that.
func scaleOf(raw []int64, shown, half []float64, kind string) (scale string, round, ok bool) {
	low, high := 0.0, math.Inf(1)
	for i, v := range shown {
		r, slack := float64(raw[i]), 0.5
		if kind == Figure {
			slack = 1 + figureSlack*math.Abs(r)
		}
		if v == 0 {
			if math.Abs(r) > slack {
				return "", false, false
			}
			continue
		}
		if r*v < 0 || r == 0 {
			return "", false, false
		}
		r, v = math.Abs(r), math.Abs(v)
		h := half[i]
		if h >= v {
			h = v / 2
		}
		low, high = math.Max(low, (r-slack)/(v+h)), math.Min(high, (r+slack)/(v-h))
		if kind == Setting && coarse((r-slack)/v, (r+slack)/v, h) {
			low, high = math.Max(low, (r-slack)/v), math.Min(high, (r+slack)/v)
		}
	}
	if low > high || math.IsInf(high, 1) || high <= 0 {
		return "", false, false
	}
	if k, ok := roundest(low, high); ok {
		return k, true, true
	}
	// A scale that is not round is told as exactly as the readings give it, and only where they hold it within a hundredth.
	if high/math.Max(low, 1e-9) > 1.01 {
		return "", false, false
	}
	return strconv.FormatFloat((low+high)/2, 'g', 4, 64), false, true
}

// coarse tells whether a register counts no finer than the display shows: then the shown number is the register's exactly.
func coarse(low, high, half float64) bool { return (low+high)/2*2*half >= 0.99 }

// roundest is the scale between two bounds that a maker would choose: a power of ten before its double, its half and its five-fold.
func roundest(low, high float64) (string, bool) {
	for _, m := range []float64{1, 2, 5, 4, 2.5, 6, 3} {
		for e := -4; e <= 6; e++ {
			k := m * math.Pow10(e)
			if k >= low*(1-1e-9) && k <= high*(1+1e-9) {
				return strconv.FormatFloat(k, 'f', -1, 64), true
			}
		}
	}
	return "", false
}

// likeliest orders what fits: a round scale before another, one register before two, bytes as usual before turned ones; what is told worse
// by a neighbour that fits goes.
func likeliest(fits []Match) []Match {
	rank := func(m Match) int {
		n := 0
		if !m.Round {
			n += 4
		}
		if m.ByteOrder != "" {
			n += 2
		}
		if strings.HasSuffix(m.Type, "32") {
			n++
		}
		return n
	}
	slices.SortStableFunc(fits, func(a, b Match) int { return cmp.Or(rank(a)-rank(b), a.Register-b.Register) })
	if len(fits) > 0 && fits[0].Round {
		fits = slices.DeleteFunc(fits, func(m Match) bool { return !m.Round })
	}
	return fits
}
