package dialect

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"tingate/core/motion"
	"tingate/core/quantity"
)

// Explanation says why a value read from the drive is not the planned one, and what would follow.
type Explanation struct {
	Kind        string `json:"kind" doc:"rounded, row, unit, factor-ten, ramp-base, not-entered, synchronous, service-factor, proportion, drive, digit, choice, other"`
	Short       string `json:"short"`
	Text        string `json:"text"`
	Consequence string `json:"consequence"`
}

// Explain compares a value read back (steps) with a planned line. It tries what people do wrong, the likeliest first.
func (f *Family) Explain(l Line, p *Plan, read int64) Explanation {
	s := l.Setting
	if s.Kind == "text" {
		return l.anotherText(read)
	}
	e := f.why(l, p, read)
	if e.Kind == "" {
		e = Explanation{Kind: "other", Short: "differs",
			Text: fmt.Sprintf("%s reads %s; %s is planned.", s.Code, s.WithUnit(read), s.WithUnit(l.Steps))}
	}
	e.Consequence = f.consequence(l, p, read)
	return e
}

// anotherText explains a text that is not the planned one: what it reads stands beside it.
func (l Line) anotherText(read int64) Explanation {
	code := l.Setting.Code
	if read == TextSteps("") {
		return Explanation{Kind: "not-entered", Short: "empty", Text: fmt.Sprintf("%s shows nothing yet; “%s” is wanted.", code, l.Text),
			Consequence: "Its display does not say which drive it is."}
	}
	return Explanation{Kind: "other", Short: "another text", Text: fmt.Sprintf("%s shows another text; “%s” is wanted.", code, l.Text),
		Consequence: "Whoever reads it takes it for another drive."}
}

func (f *Family) why(l Line, p *Plan, read int64) Explanation {
	s, planned := l.Setting, l.Steps
	it := intents[s.Intent]
	got, want := s.WithUnit(read), s.WithUnit(planned)
	if s.Kind == "choice" || s.Convention == "slip-percent" {
		if read == s.DeliveryFor(p.Variant) {
			return Explanation{Kind: "not-entered", Short: "as delivered",
				Text: fmt.Sprintf("%s still stands at its delivery value, %s; %s is wanted.", s.Code, got, want)}
		}
		return Explanation{Kind: "choice", Short: "other choice", Text: fmt.Sprintf("%s is set to %s; %s is wanted.", s.Code, got, want)}
	}
	is := func(v float64, tolSteps float64) bool {
		return !math.IsNaN(v) && math.Abs(v-s.Value(read)) <= tolSteps*s.step()+1e-9
	}
	highest := f.highest(p)
	encode := func(q *Plan) float64 {
		v := it.get(q)
		if math.IsNaN(v) {
			return v
		}
		return conventions[s.Convention].encode(q, it, v, highest).value
	}
	if read == s.DeliveryFor(p.Variant) {
		return Explanation{Kind: "not-entered", Short: "as delivered",
			Text: fmt.Sprintf("%s still stands at its delivery value, %s; %s is wanted.", s.Code, got, want)}
	}
	if d := read - planned; d == 1 || d == -1 {
		side := [...]string{"nearest", "down", "up"}[s.rounds(it)]
		return Explanation{Kind: "rounded", Short: "one step off",
			Text: fmt.Sprintf("%s is one step beside %s, which is rounded %s from %s.", got, want, side, f4(l.Exact))}
	}
	for _, o := range p.OtherRows {
		q := *p
		q.Motor, q.OtherRows = o, nil
		if it.source == "plate" && is(encode(&q), .51) {
			return Explanation{Kind: "row", Short: o.Name,
				Text: fmt.Sprintf("%s reads %s, which stands in the %s; the linked row gives %s.", s.Code, got, o.Name, want)}
		}
	}
	if it.dim == slope && !paired[s.Convention] {
		if e := rampBase(l, p, highest, is); e.Kind != "" {
			return e
		}
	}
	exact := l.Exact
	hp := quantity.MechanicalHorsepowerW / 1000
	unit := func(v float64, text string) Explanation {
		return Explanation{Kind: "unit", Short: "other unit", Text: fmt.Sprintf("%s reads %s: %s", s.Code, got, text)}
	}
	switch {
	case it.dim == power && (is(exact*hp, .51) || near(s.Value(read), exact*hp)):
		return unit(0, fmt.Sprintf("that is the figure in kW; this setting counts hp, %s.", want))
	case it.dim == power && (is(exact/hp, .51) || near(s.Value(read), exact/hp)):
		return unit(0, fmt.Sprintf("that is the figure in hp; this setting counts kW, %s.", want))
	case s.Convention == "percent-of-drive" && is(it.get(p), .51):
		return unit(0, fmt.Sprintf("those are the amperes; this setting counts percent of the drive's rated current, %s.", want))
	case s.Convention == "amperes" && p.DriveCurrent > 0 && is(it.get(p)/p.DriveCurrent*100, .51):
		return unit(0, fmt.Sprintf("that is the percentage of the drive; this setting counts amperes, %s.", want))
	case it.field == "current" && p.DriveCurrent > 0 && is(conventions[s.Convention].encode(p, it, p.DriveCurrent, highest).value, .51):
		return Explanation{Kind: "drive", Short: "the drive's own current",
			Text: fmt.Sprintf("%s is the drive's rated current; the motor's %s A is wanted.", got, f4(p.Motor.Current))}
	case it.field == "current" && p.ServiceFactor > 1 && is(exact*p.ServiceFactor, 1.01):
		return Explanation{Kind: "service-factor", Short: "service factor used",
			Text: fmt.Sprintf("%s is the plate current times the service factor %s, which no setting uses.", got, f4(p.ServiceFactor))}
	case it.dim == speed && p.Poles > 0 && is(120*p.Motor.Frequency/float64(p.Poles), .51):
		return Explanation{Kind: "synchronous", Short: "synchronous speed",
			Text: fmt.Sprintf("%s is the synchronous speed; the plate says %s. The drive would count no slip.", got, want)}
	case it.dim == shaft && p.Poles > 0 && s.Convention == "shaft-as-hertz" && is(it.get(p)*float64(p.Poles)/120, .51):
		return Explanation{Kind: "proportion", Short: "without slip",
			Text: fmt.Sprintf("%s is the speed in proportion, without slip; the shaft would turn at %s r/min.", got,
				f4(p.Shaft(s.Value(read))))}
	case read == planned*10 || read*10 == planned || near(s.Value(read), exact*10) || near(s.Value(read), exact/10):
		return Explanation{Kind: "factor-ten", Short: "factor ten",
			Text: fmt.Sprintf("%s is ten times off %s: a decimal point.", got, want)}
	case oneDigit(s.Text(read), s.Text(planned)):
		return Explanation{Kind: "digit", Short: "one digit", Text: fmt.Sprintf("%s and %s differ in one digit.", got, want)}
	}
	return Explanation{}
}

func near(a, b float64) bool { return math.Abs(a-b) <= .004*math.Abs(b) }

// rampBase tries the other ways of counting the same ramp.
func rampBase(l Line, p *Plan, highest float64, is func(float64, float64) bool) Explanation {
	v := intents[l.Setting.Intent].get(p)
	hz := v * float64(p.Poles) / 120
	b := p.base(highest)
	top := p.get("highest_speed")
	named := []struct {
		v    float64
		text string
	}{
		{b.Count(motion.ToHighestFrequency, hz), "to the highest frequency"}, {b.Count(motion.ToPlateSpeed, hz), "to plate speed"},
		{b.Count(motion.ToBaseFrequency, hz), "to the motor's frequency"}, {top / v, "to the highest speed asked for"},
		{b.Count(motion.Per100Hz, hz), "to 100 Hz"},
	}
	for _, c := range named {
		if !math.IsNaN(c.v) && math.Abs(c.v-l.Exact) > 1.5*l.Setting.step() && is(c.v, 1.01) {
			return Explanation{Kind: "ramp-base", Short: "other ramp base",
				Text: fmt.Sprintf("%s would be right if this family counted %s; counted its own way it is %s.",
					l.Setting.WithUnit(int64(math.Round(c.v/l.Setting.step()))), c.text, l.Setting.WithUnit(l.Steps))}
		}
	}
	return Explanation{}
}

func oneDigit(a, b string) bool {
	if len(a) != len(b) {
		return false
	}
	n := 0
	for i := range a {
		if a[i] != b[i] {
			n++
		}
	}
	return n == 1
}

// consequence says in figures what the drive would do with the value it holds.
func (f *Family) consequence(l Line, p *Plan, read int64) string {
	s := l.Setting
	it := intents[s.Intent]
	v := s.Value(read)
	amps := v
	if c := conventions[s.Convention]; it.dim == current && c.decode != nil {
		amps = c.decode(decoding{p: p}, v)
	}
	rel := (v/l.Exact - 1) * 100
	switch {
	case s.Intent == "overload.current" && amps > p.Motor.Current:
		return fmt.Sprintf("The overload would let %s A flow for ever, %s %% more than the motor's %s A.", f4(amps*1.05),
			quantity.Digits((amps*1.05/p.Motor.Current-1)*100, 2), f4(p.Motor.Current))
	case s.Intent == "overload.current":
		return fmt.Sprintf("The overload would trip a sound motor: it is set to %s A, the motor takes %s A at rated load.", f4(amps),
			f4(p.Motor.Current))
	case s.Intent == "motor.current":
		text := fmt.Sprintf("Model and tune would be built on %s A, %s %% off, and every percent of current shown would be wrong.",
			f4(amps), signed(rel))
		if p.DriveCurrent > 0 && amps > p.DriveCurrent {
			text += fmt.Sprintf(" It is more than the drive's own %s A.", f4(p.DriveCurrent))
		}
		return text
	case s.Convention == "slope-speed" && v > 0:
		return fmt.Sprintf("The ramp would be %s r/min per s instead of %s.", f4(it.get(p)*v/l.Exact), f4(it.get(p)))
	case it.dim == slope && v > 0:
		top := p.get("highest_speed")
		if math.IsNaN(top) {
			return ""
		}
		would := top / it.get(p) * v / l.Exact
		return fmt.Sprintf("From 0 to %s r/min it would take %s s instead of %s s.", f4(top), quantity.Digits(would, 3),
			quantity.Digits(top/it.get(p), 3))
	case it.dim == shaft && p.Poles > 0:
		n := conventions[s.Convention].decode(decoding{p, p, f.highest(p)}, v)
		return fmt.Sprintf("The shaft would turn at %s r/min instead of %s.", f4(n), f4(it.get(p)))
	case s.Intent == "motor.speed" && p.Poles > 0:
		sync := 120 * p.Motor.Frequency / float64(p.Poles)
		return fmt.Sprintf("The drive would count a slip of %s r/min instead of %s.", f4(sync-v), f4(sync-p.Motor.Speed))
	case s.Intent == "motor.voltage" || s.Intent == "motor.frequency":
		vh := (p.Motor.Voltage / p.Motor.Frequency)
		now := v / p.Motor.Frequency
		if s.Intent == "motor.frequency" {
			now = p.Motor.Voltage / v
		}
		return fmt.Sprintf("Volts per hertz would be %s instead of %s: the motor is %s.", f4(now), f4(vh),
			map[bool]string{true: "overfluxed and takes more magnetising current", false: "underfluxed and gives less torque"}[now > vh])
	case s.Intent == "motor.power":
		return fmt.Sprintf("The motor model would be %s %% off.", signed(rel))
	case s.Intent == "limit.current":
		return fmt.Sprintf("The current limit would stand at %s A, %s %% of the motor's current.", f4(amps),
			quantity.Digits(amps/p.Motor.Current*100, 3))
	case s.Acts == "motion":
		return "It decides what can start the motor: put it right before the area is given free."
	}
	return ""
}

func signed(v float64) string {
	return sign(v) + quantity.Digits(math.Abs(v), 2)
}

// Figures of a family shown beside the sheet: how each convention counts.
func (f *Family) Ways() []string {
	seen, out := map[string]bool{}, []string{}
	for i := range f.Settings {
		c := f.Settings[i].Convention
		if a := conventions[c].about; a != "" && !seen[c] && c != "choice" {
			seen[c] = true
			out = append(out, strconv.Quote(strings.ReplaceAll(c, "-", " "))+": "+a)
		}
	}
	return out
}
