package dialect

import (
	"math"
	"slices"
)

// Actual is a figure of the running drive that it gives over the link. It is only ever read.
type Actual struct {
	What         string `yaml:"what"` // speed, frequency, current, torque, link
	Register     uint16 `yaml:"register"`
	RegisterType string `yaml:"register_type,omitempty"` // u16 (default), s16, u32, s32
	Unit         string `yaml:"unit"`                    // one of its kind's; % and ‰ are of the setting named in of
	Step         string `yaml:"step,omitempty"`          // what one count is, in the unit; default 1
	Of           string `yaml:"of,omitempty"`            // code of the setting that holds what 100 % or 1000 ‰ are

	factor float64 // one count in the kind's unit; of % and ‰: the share of the whole
}

// ActualUnits are the figures that a drive may give, with the unit that each is turned into (the first) and those that it may be given in.
// A share needs a setting to be of.
var ActualUnits = map[string][]string{
	"speed":     {"r/min"},
	"frequency": {"Hz"},
	"current":   {"A", "mA", "%", "‰"},
	"torque":    {"N·m", "mN·m", "%", "‰"},
	"link":      {"V", "mV"},
}

// inUnit is what one of a unit is in the unit that figures are turned into; of a share: of the whole.
var inUnit = map[string]float64{"r/min": 1, "Hz": 1, "A": 1, "mA": 1e-3, "N·m": 1, "mN·m": 1e-3, "V": 1, "mV": 1e-3, "%": .01, "‰": .001}

// Share tells whether the figure is given in parts of a setting's value.
func (a *Actual) Share() bool { return a.Unit == "%" || a.Unit == "‰" }

// Words is how many registers the figure takes.
func (a *Actual) Words() int { return wordsOf(a.RegisterType) }

// Full is what the whole of a figure is in its kind's unit, out of what the drive holds in the setting that it is a share of. 1 when it is
// none.
func (f *Family) Full(a *Actual, steps int64) float64 {
	s, ok := f.Setting(a.Of)
	if !a.Share() || !ok {
		return 1
	}
	return s.Value(steps) * inUnit[s.Unit]
}

// Figure turns registers into the figure in its kind's unit. full is what Full gives.
func (f *Family) Figure(a *Actual, regs []uint16, full float64) float64 {
	return float64(rawOf(f.ordered(slices.Clone(regs), true), a.RegisterType)) * a.factor * full
}

// Registers is Figure backwards: what a drive would hold. What does not fit is held at the type's end, as drives do.
func (f *Family) Registers(a *Actual, figure, full float64) []uint16 {
	low, high := typeBounds(a.RegisterType)
	raw := 0.
	if k := a.factor * full; k != 0 {
		raw = math.Round(figure / k)
	}
	return f.ordered(rawWords(int64(math.Max(float64(low), math.Min(float64(high), raw))), a.Words()), true)
}

// Watched are the reads that give all actual figures with the status and the clock, as few as the family allows.
func (f *Family) Watched() []Span {
	var list []Span
	add := func(r uint16, n int) {
		if r != 0 {
			list = append(list, Span{r, uint16(n)})
		}
	}
	for i := range f.Link.Actuals {
		add(f.Link.Actuals[i].Register, f.Link.Actuals[i].Words())
	}
	add(f.Link.Status.Register, 1)
	add(f.Link.Clock, 1)
	return f.spans(list)
}
