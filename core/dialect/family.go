// Package dialect speaks drive families: their settings, conventions and codes, and turns intent into settings.
package dialect

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Family is a drive family's settings language, as its file gives it.
type Family struct {
	Name     string    `yaml:"name"`
	Version  string    `yaml:"version"`
	Firmware string    `yaml:"firmware"`
	About    string    `yaml:"about"`
	Keypad   Keypad    `yaml:"keypad"`
	Access   Access    `yaml:"access"`
	Link     LinkMap   `yaml:"link"`
	Groups   []Group   `yaml:"groups"`
	Settings []Setting `yaml:"settings"`

	Hash   string `yaml:"-"` // of the file, set by the reader
	byCode map[string]int
}

// Keypad says how a setting is reached and kept. {group} and {letter} stand for parts of the code.
type Keypad struct {
	Path []string `yaml:"path"`
	Keep string   `yaml:"keep"`
}

// Access is the setting that opens the settings marked `access: full`, and the value that does.
type Access struct {
	Setting string `yaml:"setting"`
	Full    int64  `yaml:"full"`
}

// LinkMap is what the link may know of the registers that are no settings.
type LinkMap struct {
	Identity  RegisterValue   `yaml:"identity"`
	Status    Status          `yaml:"status"`
	Block     int             `yaml:"block"` // most registers in one read
	Forbidden []RegisterRange `yaml:"forbidden"`
}

// RegisterValue is a register that holds a fixed value, by which the family is known.
type RegisterValue struct {
	Register uint16 `yaml:"register"`
	Value    uint16 `yaml:"value"`
}

// Status is the register that says whether the motor stands and whether both torque-off channels are open.
type Status struct {
	Register   uint16 `yaml:"register"`
	Standstill uint   `yaml:"standstill_bit"`
	ChannelA   uint   `yaml:"channel_a_open_bit"`
	ChannelB   uint   `yaml:"channel_b_open_bit"`
}

// RegisterRange holds registers that command motion. The link never touches them, for any address.
type RegisterRange struct {
	From uint16 `yaml:"from"`
	To   uint16 `yaml:"to"`
	Why  string `yaml:"why"`
}

// Group is a page or menu of the keypad.
type Group struct {
	Code string `yaml:"code"`
	Name string `yaml:"name"`
	Gate string `yaml:"gate"` // gate whose checks read its settings back
}

// Setting is one setting. Numbers are decimals as text, so that they lie on the step's grid exactly.
type Setting struct {
	Code       string   `yaml:"code"`
	Group      string   `yaml:"group"`
	Name       string   `yaml:"name"`
	Short      string   `yaml:"short"`
	Kind       string   `yaml:"kind"` // number, choice
	Unit       string   `yaml:"unit"`
	Step       string   `yaml:"step"`
	Min        string   `yaml:"min"`
	Max        string   `yaml:"max"`
	Delivery   string   `yaml:"delivery"`
	Choices    []Choice `yaml:"choices"`
	Register   uint16   `yaml:"register"`
	Running    bool     `yaml:"running"` // may be changed while running
	Access     string   `yaml:"access"`  // "full": refused below full access
	Protects   bool     `yaml:"protects"`
	Acts       string   `yaml:"acts"`  // "motion": could start motion; written only with both torque-off channels open
	Voids      string   `yaml:"voids"` // "tune"
	Intent     string   `yaml:"intent"`
	Convention string   `yaml:"convention"`

	stepMantissa, min, max, delivery int64
	decimals                         int
}

// Choice is one value of a choice setting. Means names the intent it carries out.
type Choice struct {
	Value int64  `yaml:"value"`
	Text  string `yaml:"text"`
	Means string `yaml:"means"`
}

// FieldError names the place in the file, what was read and what was expected.
type FieldError struct{ Path, Got, Want string }

func (e *FieldError) Error() string { return fmt.Sprintf("%s: got %q, want %s", e.Path, e.Got, e.Want) }

// Compile checks a family and readies it for use. It returns every fault found.
func (f *Family) Compile() []error {
	var errs []error
	bad := func(path, got, want string) { errs = append(errs, &FieldError{path, got, want}) }
	if f.Name == "" {
		bad("name", "", "a name")
	}
	if f.Version == "" {
		bad("version", "", "a version")
	}
	if f.Link.Block <= 0 || f.Link.Block > 125 {
		bad("link.block", fmt.Sprint(f.Link.Block), "1 to 125 registers")
	}
	groups := map[string]bool{}
	for i, g := range f.Groups {
		if groups[g.Code] {
			bad(fmt.Sprintf("groups[%d].code", i), g.Code, "a code used once")
		}
		groups[g.Code] = true
	}
	f.byCode = map[string]int{}
	registers := map[uint16]string{f.Link.Identity.Register: "identity", f.Link.Status.Register: "status"}
	for i := range f.Settings {
		s := &f.Settings[i]
		at := func(field string) string { return fmt.Sprintf("settings[%d] %s.%s", i, s.Code, field) }
		if _, ok := f.byCode[s.Code]; ok || s.Code == "" {
			bad(at("code"), s.Code, "a code used once")
		}
		f.byCode[s.Code] = i
		if !groups[s.Group] {
			bad(at("group"), s.Group, "a group of the list")
		}
		if other, ok := registers[s.Register]; ok {
			bad(at("register"), fmt.Sprint(s.Register), "a register of its own; "+other+" has it")
		}
		registers[s.Register] = s.Code
		for _, r := range f.Link.Forbidden {
			if s.Register >= r.From && s.Register <= r.To {
				bad(at("register"), fmt.Sprint(s.Register), "a register outside those that command motion ("+r.Why+")")
			}
		}
		if s.Access != "" && s.Access != "full" {
			bad(at("access"), s.Access, "full, or nothing")
		}
		if s.Acts != "" && s.Acts != "motion" {
			bad(at("acts"), s.Acts, "motion, or nothing")
		}
		s.compile(at, bad)
		q, known := intents[s.Intent]
		switch {
		case s.Intent == "" && s.Convention == "":
		case !known:
			bad(at("intent"), s.Intent, "an intent of docs/formats/dialect.md")
		default:
			c, ok := conventions[s.Convention]
			if !ok || c.dim != q.dim {
				bad(at("convention"), s.Convention, "a convention for "+string(q.dim))
			} else if (c.dim == choice) != (s.Kind == "choice") {
				bad(at("kind"), s.Kind, "choice for a choice, number for a number")
			}
		}
	}
	if _, ok := f.byCode[f.Access.Setting]; f.Access.Setting != "" && !ok {
		bad("access.setting", f.Access.Setting, "the code of a setting")
	}
	return errs
}

func (s *Setting) compile(at func(string) string, bad func(path, got, want string)) {
	switch s.Kind {
	case "number":
		m, d, err := decimal(s.Step)
		if err != nil || m <= 0 {
			bad(at("step"), s.Step, "a decimal above 0")
			return
		}
		s.stepMantissa, s.decimals = m, d
		for _, n := range []struct {
			field, text string
			to          *int64
		}{{"min", s.Min, &s.min}, {"max", s.Max, &s.max}, {"delivery", s.Delivery, &s.delivery}} {
			v, err := strconv.ParseFloat(n.text, 64)
			steps := math.Round(v / s.step())
			if err != nil || math.Abs(steps*s.step()-v) > 1e-9*math.Max(1, math.Abs(v)) {
				bad(at(n.field), n.text, "a decimal on the grid of the step "+s.Step)
				continue
			}
			*n.to = int64(steps)
		}
		if s.min >= s.max || s.delivery < s.min || s.delivery > s.max || s.max > 65535 || s.min < 0 {
			bad(at("min"), s.Min+" to "+s.Max, "a range that holds the delivery value, 0 to 65535 steps")
		}
	case "choice":
		s.stepMantissa = 1
		seen, found := map[int64]bool{}, false
		for _, c := range s.Choices {
			if seen[c.Value] || c.Text == "" {
				bad(at("choices"), fmt.Sprint(c.Value), "each value once, with its words")
			}
			seen[c.Value] = true
			if fmt.Sprint(c.Value) == s.Delivery {
				found, s.delivery = true, c.Value
			}
			s.min, s.max = min(s.min, c.Value), max(s.max, c.Value)
		}
		if !found {
			bad(at("delivery"), s.Delivery, "one of the choices' values")
		}
	default:
		bad(at("kind"), s.Kind, "number or choice")
	}
}

// decimal reads "0.05" as 5 and 2 decimals.
func decimal(t string) (mantissa int64, decimals int, err error) {
	whole, frac, _ := strings.Cut(t, ".")
	mantissa, err = strconv.ParseInt(whole+frac, 10, 64)
	return mantissa, len(frac), err
}

func (s *Setting) step() float64 { return float64(s.stepMantissa) / math.Pow10(s.decimals) }

// Setting finds a setting by its code.
func (f *Family) Setting(code string) (*Setting, bool) {
	i, ok := f.byCode[code]
	if !ok {
		return nil, false
	}
	return &f.Settings[i], true
}

// Group finds a group by its code; the zero group when there is none.
func (f *Family) Group(code string) Group {
	for _, g := range f.Groups {
		if g.Code == code {
			return g
		}
	}
	return Group{}
}

// KeyPath is how a setting is reached on the keypad, key by key.
func (f *Family) KeyPath(s *Setting) []string {
	letter := strings.TrimPrefix(s.Code, s.Group)
	out := make([]string, 0, len(f.Keypad.Path)+1)
	for _, p := range f.Keypad.Path {
		out = append(out, strings.NewReplacer("{group}", s.Group, "{letter}", strings.TrimPrefix(letter, "."), "{code}", s.Code).Replace(p))
	}
	return append(out, f.Keypad.Keep)
}

// DeliverySteps is the delivery value in steps; RangeSteps the range.
func (s *Setting) DeliverySteps() int64          { return s.delivery }
func (s *Setting) RangeSteps() (low, high int64) { return s.min, s.max }
func (s *Setting) Value(steps int64) float64     { return float64(steps) * s.step() }
func (s *Setting) choiceText(steps int64) string {
	for _, c := range s.Choices {
		if c.Value == steps {
			return c.Text
		}
	}
	return strconv.FormatInt(steps, 10) + " (no such choice)"
}

// Text shows a value of the setting without its unit: digits on the setting's grid, or the choice's words.
func (s *Setting) Text(steps int64) string {
	if s.Kind == "choice" {
		return s.choiceText(steps)
	}
	return strconv.FormatFloat(float64(steps*s.stepMantissa)/math.Pow10(s.decimals), 'f', s.decimals, 64)
}

// WithUnit is Text with the unit.
func (s *Setting) WithUnit(steps int64) string {
	if s.Unit == "" {
		return s.Text(steps)
	}
	return s.Text(steps) + " " + s.Unit
}

// Inside tells whether the drive would take the value.
func (s *Setting) Inside(steps int64) bool {
	if s.Kind == "choice" {
		for _, c := range s.Choices {
			if c.Value == steps {
				return true
			}
		}
		return false
	}
	return steps >= s.min && steps <= s.max
}

// Read turns what a person read off the keypad into steps. Off the grid it is an error that says so, as is a
// value that the drive cannot hold; the text is kept by the caller.
func (s *Setting) Read(text string) (int64, error) {
	t := strings.TrimSpace(strings.ToLower(text))
	if s.Kind == "choice" {
		for _, c := range s.Choices {
			if t == strings.ToLower(c.Text) || t == strconv.FormatInt(c.Value, 10) {
				return c.Value, nil
			}
		}
		var words []string
		for _, c := range s.Choices {
			words = append(words, fmt.Sprintf("%d %s", c.Value, c.Text))
		}
		return 0, &FieldError{s.Code, text, "one of " + strings.Join(words, ", ")}
	}
	t = strings.TrimSpace(strings.TrimSuffix(strings.ReplaceAll(t, " ", ""), strings.ToLower(strings.ReplaceAll(s.Unit, " ", ""))))
	if s.decimals > 0 && strings.Count(t, ",") == 1 && !strings.Contains(t, ".") {
		t = strings.Replace(t, ",", ".", 1)
	}
	v, err := strconv.ParseFloat(t, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) || math.Abs(v) > 1e9 {
		return 0, &FieldError{s.Code, text, "a number in " + s.Unit + " as the keypad shows it"}
	}
	steps := math.Round(v / s.step())
	if math.Abs(steps*s.step()-v) > 1e-6*math.Max(s.step(), math.Abs(v)) {
		return 0, &FieldError{s.Code, text, "a multiple of " + s.Step + " " + s.Unit}
	}
	return int64(steps), nil
}
