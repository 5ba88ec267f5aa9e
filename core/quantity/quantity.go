// Package quantity reads numbers with units as people write them, and keeps what was written.
package quantity

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Quantity is a value typed by a person. The text is kept for ever; Value and Unit say what was understood.
// Value is nil when the text could not be read.
type Quantity struct {
	Text  string   `json:"text" doc:"As typed"`
	Value *float64 `json:"value,omitempty" doc:"What was understood, in Unit"`
	Unit  string   `json:"unit,omitempty"`
}

// Unit is one unit a kind understands. Factor converts one of it to the kind's base unit.
type Unit struct {
	Name      string
	Factor    float64
	Spellings []string
}

// Kind is a physical quantity as a field asks for it: its base unit, the range a plausible
// entry lies in (used only to choose between readings of an ambiguous number), and its units.
type Kind struct {
	Name     string
	Base     string
	Min, Max float64
	Units    []Unit
}

// Error says what was read and what was expected. Choices holds both readings of an ambiguous number.
type Error struct {
	Got, Want string
	Choices   []float64
}

func (e *Error) Error() string { return fmt.Sprintf("got %q, want %s", e.Got, e.Want) }

// Watts in one horsepower: mechanical (550 ft·lbf/s) and metric (75 kgf·m/s), as docs/calc.md rounds them.
const (
	MechanicalHorsepowerW = 745.7
	// PoundFootSquared is 1 lb·ft² in kg·m²: the pound and the foot are exact (NIST SP 811).
	PoundFootSquared  = .45359237 * .3048 * .3048
	MetricHorsepowerW = 735.5
)

var (
	volts   = []Unit{{"V", 1, []string{"v", "vac", "vdc", "volt", "volts"}}, {"kV", 1000, []string{"kv"}}, {"mV", .001, []string{"mv"}}}
	amperes = []Unit{{"A", 1, []string{"a", "amp", "amps"}}, {"mA", .001, []string{"ma"}}, {"kA", 1000, []string{"ka"}}}
	hertz   = []Unit{{"Hz", 1, []string{"hz", "cps"}}, {"kHz", 1000, []string{"khz"}}}
	watts   = []Unit{{"kW", 1, []string{"kw"}}, {"W", .001, []string{"w", "watt", "watts"}}, {"MW", 1000, nil},
		{"hp", MechanicalHorsepowerW / 1000, []string{"hp", "bhp"}},
		{"metric hp", MetricHorsepowerW / 1000, []string{"metrichp", "ps", "cv", "pk", "ch"}}}
	speeds = []Unit{{"r/min", 1, []string{"rpm", "r/min", "1/min", "min-1", "/min", "u/min", "rev/min", "min^-1"}},
		{"r/s", 60, []string{"r/s", "rps"}}}
	percent = []Unit{{"%", 1, []string{"%", "pct", "percent"}}}
	plain   = []Unit{{"", 1, nil}}
	seconds = []Unit{{"s", 1, []string{"s", "sec", "secs", "second", "seconds"}}, {"ms", .001, []string{"ms"}},
		{"min", 60, []string{"min", "minutes"}}}
)

// The kinds the forms ask for.
var (
	Voltage     = Kind{"voltage", "V", 1, 15000, volts}
	Current     = Kind{"current", "A", 0.01, 5000, amperes}
	Frequency   = Kind{"frequency", "Hz", 1, 2000, hertz}
	Power       = Kind{"power", "kW", 0.005, 20000, watts}
	Speed       = Kind{"speed", "r/min", 10, 120000, speeds}
	PowerFactor = Kind{"power factor", "", 0, 1, plain}
	Percent     = Kind{"percent", "%", 0, 1000, percent}
	Poles       = Kind{"poles", "", 2, 96, []Unit{{"", 1, []string{"p", "pole", "poles"}}}}
	Ratio       = Kind{"number", "", 0, 100, plain}
	Seconds     = Kind{"time", "s", 0, 10000, seconds}
	Length      = Kind{"length", "m", 0, 9000,
		[]Unit{{"m", 1, []string{"m", "metre", "metres", "meter", "meters"}}, {"ft", .3048, []string{"ft", "feet", "'"}},
			{"mm", .001, []string{"mm"}}, {"cm", .01, []string{"cm"}}, {"km", 1000, []string{"km"}}}}
	Count = Kind{"count", "", 0, 1000, plain}
	// Figure is any number that somebody counts in: raw counts of a card, a machine's own unit.
	Figure    = Kind{"figure", "", -1e7, 1e7, plain}
	Kilohertz = Kind{"switching frequency", "kHz", 0.5, 32, []Unit{{"kHz", 1, []string{"khz"}}, {"Hz", .001, []string{"hz"}}}}
	// Prospective is a short-circuit current, as labels and supply papers give it.
	Prospective = Kind{"short-circuit current", "kA", 0.05, 200, []Unit{{"kA", 1, []string{"ka"}}, {"A", .001, []string{"a"}}}}
	Torque      = Kind{"torque", "N·m", 0.05, 500,
		[]Unit{{"N·m", 1, []string{"nm", "n·m", "n.m", "newtonmetre"}},
			{"lb·in", .112985, []string{"lb·in", "lbin", "lb-in", "in-lb", "inlb"}},
			{"lb·ft", 1.355818, []string{"lb·ft", "lbft", "lb-ft", "ft-lb", "ftlb"}}}}
	Inertia = Kind{"inertia", "kg·m²", 1e-6, 1e5,
		[]Unit{{"kg·m²", 1, []string{"kgm2", "kgm²", "kg·m²", "kg·m2", "kg.m2", "kgm^2"}},
			{"lb·ft²", PoundFootSquared, []string{"lbft2", "lbft²", "lb·ft²", "lb·ft2", "lb.ft2", "wk2"}},
			{"kg·cm²", 1e-4, []string{"kgcm2", "kgcm²", "kg·cm²"}}}}
	Resistance = Kind{"resistance", "Ω", 0, 1e9,
		[]Unit{{"Ω", 1, []string{"ω", "Ω", "ohm", "ohms", "r"}}, {"mΩ", .001, []string{"mohm", "mω"}},
			{"kΩ", 1000, []string{"kohm", "kω", "k"}}}}
	Megohm = Kind{"insulation resistance", "MΩ", 0, 1e6,
		[]Unit{{"MΩ", 1, []string{"mohm", "mω", "megohm", "m"}}, {"GΩ", 1000, []string{"gohm", "gω", "g"}},
			{"kΩ", .001, []string{"kohm", "kω", "k"}}}}
	Temperature = Kind{"temperature", "°C", -60, 250, []Unit{{"°C", 1, []string{"c", "°c", "degc"}}}}
	// Slope is a rate of change of shaft speed. Seconds are accepted and resolved by the caller, who knows the span.
	Slope = Kind{"ramp", "s", 0.01, 100000, append(append([]Unit{}, seconds...),
		Unit{"r/min/s", 1, []string{"rpm/s", "r/min/s", "r/minpers", "rpmpers", "(r/min)/s"}},
		Unit{"Hz/s", 1, []string{"hz/s", "hzpers"}})}
)

// Kinds by the name used in struct tags of the stored documents.
var Kinds = map[string]Kind{
	"voltage": Voltage, "current": Current, "frequency": Frequency, "power": Power, "speed": Speed, "pf": PowerFactor,
	"percent": Percent, "poles": Poles, "ratio": Ratio, "seconds": Seconds, "temperature": Temperature, "slope": Slope,
	"length": Length, "count": Count, "kilohertz": Kilohertz, "prospective": Prospective, "torque": Torque, "inertia": Inertia,
	"figure": Figure, "resistance": Resistance,
}

var shape = regexp.MustCompile(`^([+-]?)([0-9][0-9.,' ]*|[.,][0-9]+)(?:(e[+-]?[0-9]+))?([^0-9].*)?$`)
var fraction = regexp.MustCompile(`^(?:([0-9]+) )?([0-9]+)/([0-9]+)([^0-9].*)?$`)
var vulgar = strings.NewReplacer("½", " 1/2", "¼", " 1/4", "¾", " 3/4", "⅓", " 1/3", "⅔", " 2/3")
var tidy = strings.NewReplacer("\u00a0", " ", "\u202f", " ", "\u2009", " ", "−", "-", "’", "'", "\t", " ")

// Parse reads a text as this kind of quantity. Decimal comma and point both read; a separator followed by
// exactly three digits is ambiguous, and the reading inside the kind's range is taken. When both or neither
// lie inside, an *Error with both choices asks. A text without a unit is in the kind's base unit.
func (k Kind) Parse(text string) (Quantity, error) {
	q := Quantity{Text: text}
	s := strings.TrimSpace(tidy.Replace(vulgar.Replace(text)))
	if s == "" {
		return q, &Error{Got: text, Want: k.want()}
	}
	if m := fraction.FindStringSubmatch(s); m != nil && m[3] != "0" && k.Name == Power.Name {
		if unit, ok := k.unit(m[4]); ok {
			whole, _ := strconv.ParseFloat("0"+m[1], 64)
			num, _ := strconv.ParseFloat(m[2], 64)
			den, _ := strconv.ParseFloat(m[3], 64)
			if num < den {
				return q.with(whole+num/den, unit), nil
			}
		}
	}
	if strings.ContainsAny(s, "/-–") && rangeLike.MatchString(s) {
		return q, &Error{Got: text, Want: "one " + k.Name + "; give each of several values its own row"}
	}
	m := shape.FindStringSubmatch(strings.ToLower(s))
	if m == nil {
		return q, &Error{Got: text, Want: k.want()}
	}
	unit, ok := k.unit(m[4])
	if !ok {
		return q, &Error{Got: text, Want: k.want()}
	}
	values := readings(strings.TrimSpace(m[2]))
	if len(values) == 0 {
		return q, &Error{Got: text, Want: k.want()}
	}
	for i := range values {
		if m[3] != "" {
			exp, _ := strconv.Atoi(m[3][1:])
			values[i] *= math.Pow10(exp)
		}
		if m[1] == "-" {
			values[i] = -values[i]
		}
		if math.IsInf(values[i], 0) || math.IsNaN(values[i]) {
			return q, &Error{Got: text, Want: k.want()}
		}
	}
	if len(values) == 1 {
		return q.with(values[0], unit), nil
	}
	inside := func(v float64) bool { v *= unit.Factor; return v >= k.Min && v <= k.Max }
	a, b := inside(values[0]), inside(values[1])
	switch {
	case a && !b:
		return q.with(values[0], unit), nil
	case b && !a:
		return q.with(values[1], unit), nil
	}
	return q, &Error{Got: text, Choices: values,
		Want: fmt.Sprintf("%s or %s: write it without the separator, or with another decimal", Format(values[0]), Format(values[1]))}
}

var rangeLike = regexp.MustCompile(`^[0-9][0-9.,]*\s*[a-zA-Z]*\s*[/–-]\s*[0-9]`)

func (q Quantity) with(v float64, u Unit) Quantity { q.Value, q.Unit = &v, u.Name; return q }

func (k Kind) want() string {
	if k.Base == "" {
		return "a " + k.Name + ", like " + example[k.Name]
	}
	return "a " + k.Name + " in " + k.Base + ", like " + example[k.Name]
}

var example = map[string]string{"voltage": "400 or 400 V", "current": "15.1 or 15,1 A", "frequency": "50", "power": "7.5, 7.5 kW or 10 hp",
	"speed": "1455", "power factor": "0.83", "percent": "88.5", "poles": "4", "number": "1.15", "time": "8 s", "temperature": "40",
	"length": "25 m", "count": "2", "figure": "27648", "switching frequency": "4 kHz", "ramp": "8 s, 150 r/min/s or 5 Hz/s"}

func (k Kind) unit(s string) (Unit, bool) {
	s = strings.ToLower(strings.ReplaceAll(strings.TrimSpace(s), " ", ""))
	s = strings.ReplaceAll(strings.ReplaceAll(s, "⁻¹", "-1"), "·", "")
	s = strings.TrimSuffix(s, ".")
	if s == "" {
		return k.Units[0], true
	}
	for _, u := range k.Units {
		if s == strings.ToLower(u.Name) {
			return u, true
		}
		for _, sp := range u.Spellings {
			if s == sp {
				return u, true
			}
		}
	}
	return Unit{}, false
}

// Knows tells whether the kind has a unit.
func (k Kind) Knows(unit string) bool { _, ok := k.unit(unit); return ok }

// readings lists what a run of digits and separators can mean: one value, or two (decimal first).
func readings(s string) []float64 {
	s = strings.TrimRight(s, " ")
	one := func(t string) []float64 {
		v, err := strconv.ParseFloat(t, 64)
		if err != nil {
			return nil
		}
		return []float64{v}
	}
	bare := strings.NewReplacer(" ", "", "'", "").Replace(s)
	if bare != s && !grouped(s) {
		return nil
	}
	s = bare
	dots, commas := strings.Count(s, "."), strings.Count(s, ",")
	switch {
	case dots == 0 && commas == 0:
		return one(s)
	case dots > 0 && commas > 0:
		last := strings.LastIndexAny(s, ".,")
		other := "."
		if s[last] == '.' {
			other = ","
		}
		if strings.Count(s, string(s[last])) > 1 {
			return nil
		}
		return one(strings.ReplaceAll(s[:last], other, "") + "." + s[last+1:])
	case dots+commas > 1:
		parts := strings.FieldsFunc(s, func(r rune) bool { return r == '.' || r == ',' })
		for _, p := range parts[1:] {
			if len(p) != 3 {
				return nil
			}
		}
		return one(strings.Join(parts, ""))
	}
	at := strings.IndexAny(s, ".,")
	decimal := one(s[:at] + "." + s[at+1:])
	if len(s)-at-1 == 3 && at >= 1 && at <= 3 && s[0] != '0' {
		return append(decimal, one(s[:at]+s[at+1:])...)
	}
	if s[len(s)-1] == '.' || s[len(s)-1] == ',' {
		return one(s[:at])
	}
	return decimal
}

// grouped tells whether spaces or apostrophes stand between groups of three digits.
func grouped(s string) bool {
	parts := strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == '\'' })
	for i, p := range parts[1:] {
		digits := p
		if at := strings.IndexAny(p, ".,"); at >= 0 && i == len(parts)-2 {
			digits = p[:at] // a decimal may follow the last group only
		}
		if len(digits) != 3 {
			return false
		}
	}
	return len(parts[0]) <= 3
}

// In converts to a unit of the kind. ok is false when the quantity is empty, unreadable or of another kind.
func (q Quantity) In(k Kind, unit string) (v float64, ok bool) {
	if q.Value == nil {
		return 0, false
	}
	from, ok1 := k.unit(q.Unit)
	to, ok2 := k.unit(unit)
	if !ok1 || !ok2 {
		return 0, false
	}
	return *q.Value * from.Factor / to.Factor, true
}

// Num is In, and NaN where In has none.
func (q Quantity) Num(k Kind, unit string) float64 {
	if v, ok := q.In(k, unit); ok {
		return v
	}
	return math.NaN()
}

// OrZero is a figure, and 0 where it is not stated.
func OrZero(v float64) float64 {
	if math.IsNaN(v) {
		return 0
	}
	return v
}

// Format writes a number with at most six significant digits and no trailing zeros, as the findings show them.
func Format(v float64) string { return Digits(v, 6) }

// Digits writes a number with n significant digits and no exponent.
func Digits(v float64, n int) string {
	if v == 0 || math.IsNaN(v) || math.IsInf(v, 0) {
		return "0"
	}
	r, _ := strconv.ParseFloat(strconv.FormatFloat(v, 'e', n-1, 64), 64)
	return strconv.FormatFloat(r, 'f', -1, 64)
}

// Typed writes a number with at most n significant digits as a person would type it into a field, so that Parse reads the same number back:
// three digits after the point, which could be thousands as well, become four.
func Typed(v float64, n int) string {
	s := Digits(v, n)
	if at := strings.IndexByte(s, '.'); at > 0 && len(s)-at-1 == 3 {
		s += "0"
	}
	return s
}

// Fixed writes a number with n significant digits and keeps trailing zeros, so that 3 % measured to 3.00 % shows so.
// Numbers with more digits before the point keep them all.
func Fixed(v float64, n int) string {
	if v == 0 || math.IsNaN(v) || math.IsInf(v, 0) {
		return "0"
	}
	decimals := n - 1 - int(math.Floor(math.Log10(math.Abs(v))))
	return strconv.FormatFloat(v, 'f', max(0, decimals), 64)
}
