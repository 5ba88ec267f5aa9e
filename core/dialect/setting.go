package dialect

import (
	"fmt"
	"hash/fnv"
	"math"
	"regexp"
	"strconv"
	"strings"
)

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
		if strings.Contains(p, "{") {
			p = strings.ReplaceAll(p, "{group}", s.Group)
			p = strings.ReplaceAll(p, "{letter}", strings.TrimLeft(letter, ".:"))
			p = strings.ReplaceAll(p, "{code}", s.Code)
		}
		out = append(out, p)
	}
	if f.Keypad.Keep != "" {
		out = append(out, f.Keypad.Keep)
	}
	return out
}

// DeliverySteps is the delivery value in steps where region and frame do not matter or are not known.
func (s *Setting) DeliverySteps() int64 { return s.delivery }

// DeliveryFor is the delivery value for a region and frame: the entry that fits most of both.
func (s *Setting) DeliveryFor(v Variant) int64 {
	best, at := 0, s.delivery
	for k, d := range s.DeliveryBy {
		if d.Region != "" && d.Region != v.Region || d.Frame != "" && d.Frame != v.Frame {
			continue
		}
		n := 0
		if d.Region != "" {
			n++
		}
		if d.Frame != "" {
			n++
		}
		if n > best {
			best, at = n, s.deliveryBy[k]
		}
	}
	return at
}

// Off tells whether a value switches off what the setting protects.
func (s *Setting) Off(steps int64) bool {
	n, err := s.Read(s.OffValue)
	return s.OffValue != "" && err == nil && n == steps
}

// RangeSteps is the range in steps, without the special values.
func (s *Setting) RangeSteps() (low, high int64) { return s.min, s.max }

// Value is a number setting's value in its unit.
func (s *Setting) Value(steps int64) float64 { return float64(steps) * s.step() }

// TextSteps stands for a text in places that compare settings by steps: equal texts give equal steps.
func TextSteps(text string) int64 {
	h := fnv.New64a()
	_, _ = h.Write([]byte(strings.TrimSpace(text))) // a hash takes everything
	return int64(h.Sum64() >> 1)
}

func (s *Setting) choiceText(steps int64) string {
	for _, c := range s.Choices {
		if c.Value == steps {
			return c.Text
		}
	}
	return strconv.FormatInt(steps, 10) + " (no such choice)"
}

func (s *Setting) bitsText(steps int64) string {
	var on []string
	for _, c := range s.Choices {
		if steps>>uint(c.Value)&1 == 1 {
			on = append(on, c.Text)
		}
	}
	if on == nil {
		return "none"
	}
	return strings.Join(on, " + ")
}

// Text shows a value of the setting without its unit: digits on the setting's grid, or the choice's words. A text
// setting's text is not in its steps; whoever has it shows it.
func (s *Setting) Text(steps int64) string {
	switch s.Kind {
	case "choice":
		return s.choiceText(steps)
	case "bits":
		return s.bitsText(steps)
	case "text":
		if steps == s.delivery {
			return s.Delivery
		}
		return "another text"
	}
	v := steps * s.stepMantissa
	if s.decimals == 0 {
		return strconv.FormatInt(v, 10)
	}
	sign := ""
	if v < 0 {
		sign, v = "-", -v
	}
	digits := strconv.FormatInt(v, 10)
	if n := s.decimals + 1 - len(digits); n > 0 {
		digits = strings.Repeat("0", n) + digits
	}
	return sign + digits[:len(digits)-s.decimals] + "." + digits[len(digits)-s.decimals:]
}

// AsRead is a value's text as a drive would show it; of a text setting, what was read.
func (s *Setting) AsRead(steps int64, text string) string {
	if s.Kind == "text" {
		return strings.TrimSpace(text)
	}
	return s.Text(steps)
}

// WithUnit is Text with the unit, and with the meaning of a special value.
func (s *Setting) WithUnit(steps int64) string {
	t := s.Text(steps)
	if s.Unit != "" {
		t += " " + s.Unit
	}
	for k, v := range s.special {
		if v == steps {
			return t + " (" + s.Special[k].Text + ")"
		}
	}
	return t
}

// Inside tells whether the drive would take the value.
func (s *Setting) Inside(steps int64) bool {
	switch s.Kind {
	case "choice":
		for _, c := range s.Choices {
			if c.Value == steps {
				return true
			}
		}
		return false
	case "bits":
		return steps >= 0 && steps&^s.max == 0
	case "text":
		return true
	}
	if steps >= s.min && steps <= s.max {
		return true
	}
	for _, v := range s.special {
		if v == steps {
			return true
		}
	}
	return false
}

// Span is the range as a person reads it; empty for choices.
func (s *Setting) Span() string {
	switch s.Kind {
	case "number":
		t := s.Text(s.min) + " to " + s.Text(s.max)
		if s.Unit != "" {
			t += " " + s.Unit
		}
		for k, v := range s.special {
			t += "; " + s.Text(v) + " is " + s.Special[k].Text
		}
		return t
	case "text":
		return "at most " + s.Max + " signs"
	}
	return ""
}

// A gap between digits is one of thousands, or it is a point that was missed: "5 5" is not 55.
var (
	apart     = regexp.MustCompile(`\d \d`)
	thousands = regexp.MustCompile(`^\D*\d{1,3}( \d{3})+($| ?[^\d ])`)
)

// Read turns what a person read off the keypad into steps. Off the grid it is an error that says so, as is a
// value that the drive cannot hold; the text is kept by the caller.
func (s *Setting) Read(text string) (int64, error) {
	t := strings.TrimSpace(strings.ToLower(text))
	switch s.Kind {
	case "choice":
		return s.readChoice(t, text)
	case "bits":
		return s.readBits(t, text)
	case "text":
		if n := len([]rune(strings.TrimSpace(text))); int64(n) > s.max {
			return 0, s.wrong(text, "at most "+s.Max+" signs")
		}
		return TextSteps(text), nil
	}
	for k, sp := range s.Special {
		if t == strings.ToLower(sp.Text) {
			return s.special[k], nil
		}
	}
	t, _, _ = strings.Cut(t, "(")
	if apart.MatchString(t) && !thousands.MatchString(t) {
		return 0, s.wrong(text, "a number in "+s.Unit+" as the keypad shows it, without a gap")
	}
	t = strings.TrimSpace(strings.TrimSuffix(strings.ReplaceAll(t, " ", ""), strings.ToLower(strings.ReplaceAll(s.Unit, " ", ""))))
	t = strings.Replace(t, "−", "-", 1)
	if s.decimals > 0 && strings.Count(t, ",") == 1 && !strings.Contains(t, ".") {
		t = strings.Replace(t, ",", ".", 1)
	}
	v, err := strconv.ParseFloat(t, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) || math.Abs(v) > 1e9 {
		return 0, s.wrong(text, "a number in "+s.Unit+" as the keypad shows it")
	}
	steps := math.Round(v / s.step())
	if math.Abs(steps*s.step()-v) > 1e-6*math.Max(s.step(), math.Abs(v)) {
		return 0, s.wrong(text, "a multiple of "+s.Step+" "+s.Unit)
	}
	return int64(steps), nil
}

func (s *Setting) wrong(got, want string) error {
	return &FieldError{Path: s.Code, Got: got, Want: strings.TrimSpace(want)}
}

func (s *Setting) readChoice(t, text string) (int64, error) {
	var words []string
	for _, c := range s.Choices {
		if t == strings.ToLower(c.Text) || t == strconv.FormatInt(c.Value, 10) {
			return c.Value, nil
		}
		words = append(words, fmt.Sprintf("%d %s", c.Value, c.Text))
	}
	return 0, s.wrong(text, "one of "+strings.Join(words, ", "))
}

// readBits takes the sum, 0x and hex digits, or the words joined by +.
func (s *Setting) readBits(t, text string) (int64, error) {
	if t == "none" {
		return 0, nil
	}
	if v, err := strconv.ParseInt(t, 0, 64); err == nil && s.Inside(v) {
		return v, nil
	}
	var v int64
	for _, w := range strings.Split(t, "+") {
		hit := false
		for _, c := range s.Choices {
			if strings.TrimSpace(w) == strings.ToLower(c.Text) {
				v, hit = v|1<<uint(c.Value), true
			}
		}
		if !hit {
			var words []string
			for _, c := range s.Choices {
				words = append(words, fmt.Sprintf("%d %s", int64(1)<<uint(c.Value), c.Text))
			}
			return 0, s.wrong(text, "the sum of "+strings.Join(words, ", ")+", or the words joined by +")
		}
	}
	return v, nil
}

// Acting says when a value acts, in a sentence; empty when it acts as soon as it is kept, as most do.
func (s *Setting) Acting() string {
	switch s.Takes {
	case "dialled":
		return "Acts while it is being dialled, before it is kept."
	case "stopped":
		return "Acts once the motor stands."
	case "power":
		return "Acts after the drive's power was off and on again."
	}
	return ""
}
