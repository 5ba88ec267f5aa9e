package dialect

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Line is one line of a settings sheet: a setting, what it is to be, and why.
type Line struct {
	Setting *Setting
	Planned bool   // Steps holds
	Steps   int64  // on the setting's grid
	Text    string // of a setting that holds one
	Exact   float64
	Because string
	Also    string
	Figures []Working
	Missing string // path of what is needed before it can be planned
	Rounded string // how the grid moved it, empty when it did not
	Problem string // why the drive cannot take it: out of range, no such choice
	Nearest int64  // what the range allows, when Problem is of range
}

// SetTo is what the setting is to show, with its unit.
func (l Line) SetTo() string {
	if l.Setting.Kind == "text" {
		return l.Text
	}
	return l.Setting.WithUnit(l.Steps)
}

// Sheet works out every setting that carries an intent, in the family's order.
func (f *Family) Sheet(p *Plan) []Line {
	lines := make([]Line, 0, len(f.Settings))
	highest := f.highest(p)
	for i := range f.Settings {
		s := &f.Settings[i]
		if fn, ok := p.Functions[s.Code]; ok && s.Intent == "" {
			lines = append(lines, Line{Setting: s, Planned: true, Steps: fn.Steps, Text: fn.Text, Exact: float64(fn.Steps),
				Because: fn.Because, Rounded: fn.Rounded, Problem: fn.Problem, Nearest: max(s.min, min(s.max, fn.Steps))})
			continue
		}
		if s.Intent == "" {
			continue
		}
		lines = append(lines, f.line(s, p, highest))
	}
	return lines
}

// highest is the family's highest frequency as it will stand in the drive, in Hz: ramps are counted to it.
func (f *Family) highest(p *Plan) float64 {
	for i := range f.Settings {
		s := &f.Settings[i]
		if s.Intent == "frequency.cap" {
			v := capFrequency(p)
			if math.IsNaN(v) {
				return v
			}
			return s.Value(max(s.min, min(s.max, onGrid(v/s.step(), up))))
		}
	}
	return capFrequency(p)
}

// Highest is the family's highest frequency as it will stand in the drive by a plan, in Hz; NaN when it cannot be worked out.
func (f *Family) Highest(p *Plan) float64 { return f.highest(p) }

// onGrid rounds to whole steps; what lies within a millionth of a step is on it.
func onGrid(x float64, r rounding) int64 {
	const eps = 1e-6
	switch r {
	case down:
		return int64(math.Floor(x + eps))
	case up:
		return int64(math.Ceil(x - eps))
	}
	return int64(math.Round(x))
}

func (f *Family) line(s *Setting, p *Plan, highest float64) Line {
	l := Line{Setting: s}
	it := intents[s.Intent]
	if it.dim == choice {
		return f.choiceLine(l, s, p, it)
	}
	v := it.get(p)
	if s.Convention == "power-list" && !math.IsNaN(v) {
		return powerFromList(l, s, v/1000)
	}
	if math.IsNaN(v) {
		l.Missing = it.field
		return l
	}
	c := conventions[s.Convention].encode(p, it, v, highest)
	l.Because, l.Also, l.Figures, l.Exact, l.Missing = c.because, c.also, c.figures, c.value, c.missing
	if c.missing != "" || math.IsNaN(c.value) || math.IsInf(c.value, 0) || math.Abs(c.value) > 1e12 {
		if l.Missing == "" {
			l.Missing = it.field
		}
		return l
	}
	l.Planned = true
	round := s.rounds(it)
	l.Steps = onGrid(c.value/s.step(), round)
	if off := s.Value(l.Steps) - c.value; math.Abs(off) > 1e-6*s.step() {
		l.Rounded = [...]string{"rounded to the nearest step", "rounded down", "rounded up"}[round]
		l.Figures = append(l.Figures, Working{"Step of this setting", s.Text(l.Steps), s.Unit, l.Rounded})
		if s.Intent == "overload.current" {
			l.Figures = append(l.Figures, s.stepsBeside(p, l)...)
		}
	}
	if !s.Inside(l.Steps) {
		l.Nearest = max(s.min, min(s.max, l.Steps))
		l.Problem = fmt.Sprintf("%s is outside this drive's %s", s.WithUnit(l.Steps), s.Span())
	}
	return l
}

// stepsBeside are the two steps between which the motor's current lies, in amperes: which of them protects is a person's to see.
func (s *Setting) stepsBeside(p *Plan, l Line) []Working {
	decode := conventions[s.Convention].decode
	if decode == nil {
		return nil
	}
	var out []Working
	low := onGrid(l.Exact/s.step(), down)
	for i, label := range []string{"The step below", "The step above"} {
		amps := decode(decoding{p: p}, s.Value(low+int64(i)))
		if math.IsNaN(amps) || !s.Inside(low+int64(i)) {
			continue
		}
		out = append(out, fig(label, amps, "A", fmt.Sprintf("%s, %+.1f %% of the motor's current", s.WithUnit(low+int64(i)),
			(amps/p.Motor.Current-1)*100)))
	}
	return out
}

// rounds is the side to which a setting's grid rounds an intent: always the safe one.
func (s *Setting) rounds(it intent) rounding {
	if s.Convention == "slope-speed" {
		return down // a smaller change of speed in the same time is the slower ramp
	}
	return it.round
}

// powerFromList takes the nearest of the drive's own list of powers, in kW; further than a third off there is none.
func powerFromList(l Line, s *Setting, kw float64) Line {
	best, off := -1, math.Inf(1)
	for i, c := range s.Choices {
		of, err := strconv.ParseFloat(c.Means, 64)
		if err == nil && math.Abs(math.Log(of/kw)) < off {
			best, off = i, math.Abs(math.Log(of/kw))
		}
	}
	l.Because = f4(kw) + " kW on the plate"
	l.Figures = []Working{fig("Motor, plate", kw, "kW", "")}
	if best < 0 || off > math.Log(4.0/3) {
		l.Problem = fmt.Sprintf("no power near %s kW stands in this drive's list", f4(kw))
		return l
	}
	c := s.Choices[best]
	l.Planned, l.Steps, l.Exact = true, c.Value, float64(c.Value)
	l.Figures = append(l.Figures, Working{"Nearest of the drive's list", c.Means, "kW", ""})
	if off > .005 {
		l.Rounded = "the nearest of the drive's list"
		l.Because += ", the nearest of this drive's list is " + c.Means + " kW"
	}
	return l
}

func (f *Family) choiceLine(l Line, s *Setting, p *Plan, it intent) Line {
	want := p.Choices[it.field]
	if want == "" {
		l.Missing = it.field
		return l
	}
	if s.Convention == "slip-percent" {
		l.Planned = true
		if want == "on" {
			l.Steps = onGrid(100/s.step(), nearest)
		}
		l.Exact = s.Value(l.Steps)
		l.Because = map[bool]string{true: "slip compensated: 100 % of the rated slip", false: "no slip compensation wanted"}[want == "on"]
		if !s.Inside(l.Steps) {
			l.Problem = fmt.Sprintf("%s is outside this drive's %s", s.WithUnit(l.Steps), s.Span())
		}
		return l
	}
	for _, c := range s.Choices {
		for _, m := range strings.Split(c.Means, "|") {
			if m == want {
				l.Planned, l.Steps, l.Exact = true, c.Value, float64(c.Value)
				l.Because = "wanted: " + strings.ReplaceAll(want, "-", " ")
				return l
			}
		}
	}
	l.Because = "wanted: " + strings.ReplaceAll(want, "-", " ")
	l.Problem = fmt.Sprintf("%s has no counterpart for %q", f.Name, want)
	return l
}
