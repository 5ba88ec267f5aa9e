package dialect

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

func (s *Setting) compileNumber(bad func(field, got, want string)) {
	m, d, err := decimal(s.Step)
	if err != nil || m <= 0 {
		bad("step", s.Step, "a decimal above 0")
		return
	}
	s.stepMantissa, s.decimals = m, d
	grid := func(field, text string) (int64, bool) {
		v, err := strconv.ParseFloat(text, 64)
		steps := math.Round(v / s.step())
		if err != nil || math.Abs(v) > 1e12 || math.Abs(steps*s.step()-v) > 1e-9*math.Max(1, math.Abs(v)) {
			bad(field, text, "a decimal on the grid of the step "+s.Step)
			return 0, false
		}
		return int64(steps), true
	}
	ok := true
	for _, n := range []struct {
		field, text string
		to          *int64
	}{{"min", s.Min, &s.min}, {"max", s.Max, &s.max}, {"delivery", s.Delivery, &s.delivery}} {
		v, fits := grid(n.field, n.text)
		*n.to = v
		ok = ok && fits
	}
	s.special = make([]int64, len(s.Special))
	for k, sp := range s.Special {
		v, fits := grid("special", sp.Value)
		if fits && (sp.Text == "" || slices.Contains(s.special[:k], v)) {
			bad("special", sp.Value, "each value once, with its meaning")
		}
		s.special[k] = v
		ok = ok && fits
	}
	if ok && (s.min >= s.max || !s.Inside(s.delivery)) {
		bad("min", s.Min+" to "+s.Max, "a range that holds the delivery value "+s.Delivery)
	}
}

func (s *Setting) compileChoice(bad func(field, got, want string)) {
	s.stepMantissa = 1
	seen, found := map[int64]bool{}, false
	for _, c := range s.Choices {
		if seen[c.Value] || strings.TrimSpace(c.Text) == "" {
			bad("choices", fmt.Sprint(c.Value), "each value once, with its words")
		}
		seen[c.Value] = true
		if strconv.FormatInt(c.Value, 10) == s.Delivery {
			found, s.delivery = true, c.Value
		}
		s.min, s.max = min(s.min, c.Value), max(s.max, c.Value)
		if s.Convention == "power-list" {
			if kw, err := strconv.ParseFloat(c.Means, 64); c.Means != "" && (err != nil || !(kw > 0)) {
				bad("choices", c.Means, "the power in kW")
			}
		}
	}
	if !found {
		bad("delivery", s.Delivery, "one of the choices' values")
	}
}

func (s *Setting) compileBits(bad func(field, got, want string)) {
	s.stepMantissa = 1
	var all int64
	for _, c := range s.Choices {
		if c.Value < 0 || c.Value > 31 || all>>uint(c.Value&31)&1 == 1 || strings.TrimSpace(c.Text) == "" {
			bad("choices", fmt.Sprint(c.Value), "bits 0 to 31, each once, with its words")
			continue
		}
		all |= 1 << uint(c.Value)
	}
	s.max = all
	v, err := strconv.ParseInt(s.Delivery, 10, 64)
	if err != nil || v < 0 || v&^all != 0 {
		bad("delivery", s.Delivery, "the sum of its bits, as a number")
	}
	s.delivery = v
}

func (s *Setting) compileDeliveries(bad func(field, got, want string)) {
	s.deliveryBy = make([]int64, len(s.DeliveryBy))
	seen := map[Variant]bool{}
	for k, d := range s.DeliveryBy {
		v := Variant{d.Region, d.Frame}
		if v == (Variant{}) || seen[v] || (d.Region != "" && d.Region != "50" && d.Region != "60") {
			bad("delivery_by", d.Region+" "+d.Frame, "a region (50 or 60), a frame or both, each once")
		}
		seen[v] = true
		steps, err := s.Read(d.Value)
		if err != nil || !s.Inside(steps) {
			bad("delivery_by", d.Value, "a value of this setting")
		}
		s.deliveryBy[k] = steps
	}
}

// compileScale works out how many register counts a step is.
func (s *Setting) compileScale(bad func(field, got, want string)) {
	s.perStep = 1
	if s.Scale != "" {
		m, d, err := decimal(s.Scale)
		if err != nil || m <= 0 {
			bad("scale", s.Scale, "a decimal above 0")
			return
		}
		n, ten := m*s.stepMantissa, int64(math.Pow10(min(d+s.decimals, 15)))
		if s.Kind == "text" || s.Kind == "bits" || n < ten || n%ten != 0 {
			bad("scale", s.Scale, "a scale that makes each step of "+s.Step+" a whole number of counts")
			return
		}
		s.perStep = n / ten
	}
	if s.Kind == "text" || s.Register == 0 {
		return
	}
	low, high := s.bounds()
	for _, v := range append([]int64{s.min, s.max}, s.special...) {
		if raw := v * s.perStep; raw < low || raw > high {
			bad("register_type", s.registerType(), fmt.Sprintf("a type that holds %d counts", raw))
			return
		}
	}
}

func (s *Setting) registerType() string {
	if s.RegisterType == "" {
		return "u16"
	}
	return s.RegisterType
}

func (s *Setting) bounds() (low, high int64) { return typeBounds(s.registerType()) }

// typeBounds are the counts that a type holds.
func typeBounds(registerType string) (low, high int64) {
	switch registerType {
	case "s16":
		return math.MinInt16, math.MaxInt16
	case "u32":
		return 0, math.MaxUint32
	case "s32":
		return math.MinInt32, math.MaxInt32
	}
	return 0, math.MaxUint16
}
