package translate

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/quantity"
	"tingate/core/supply"
)

// Site is a drive at its place: type, supply, what is left of its current. Missing numbers are NaN.
type Site struct {
	Size     dialect.Size // zero when the type is not known
	Known    bool
	Supply   drivefile.Supply // the mains that feeds the drive
	Named    bool
	Volts    float64 // of the supply, V between lines; of one phase, V
	Derated  supply.Derated
	Rated    float64 // A: as entered, or as the type says
	Label    float64 // output voltage on the drive's label, V
	Motors   float64 // number of motors on it
	PhasesIn string  // that feed it: 1, 3; empty: not stated
}

// SiteOf gathers what is known of it; f is nil while no family is chosen.
func SiteOf(d drivefile.Drive, p drivefile.Place, f *dialect.Family) Site {
	s := Site{Volts: math.NaN(), Label: d.Rating.Voltage.Num(quantity.Voltage, "V"), Rated: d.Rating.Current.Num(quantity.Current, "A"),
		Motors: d.Site.Motors.Num(quantity.Count, ""), PhasesIn: d.Site.InputPhases}
	if f != nil {
		s.Size, s.Known = f.RatingOf(d.Rating.Type)
	}
	if s.Known && math.IsNaN(s.Rated) {
		s.Rated = s.Size.Current(d.Rating.Duty)
	}
	for _, id := range slices.Sorted(maps.Keys(d.Supplies)) {
		sup, ok := p.Supplies[id]
		if ok && (sup.Kind == "" || sup.Kind == "mains") {
			s.Supply, s.Named, s.Volts = sup, true, sup.Voltage.Num(quantity.Voltage, "V")
			if s.PhasesIn == "" {
				s.PhasesIn = sup.Phases
			}
			break
		}
	}
	table := supply.UsualDerating
	if f != nil {
		table = derating(f.Derating)
	}
	s.Derated = supply.Derating{Rated: s.Rated, Altitude: quantity.OrZero(d.Site.Altitude.Num(quantity.Length, "m")),
		Ambient:   quantity.OrZero(d.Site.Ambient.Num(quantity.Temperature, "°C")),
		Switching: quantity.OrZero(d.Site.Switching.Num(quantity.Kilohertz, "kHz")), SideBySide: d.Site.Mounting == "side-by-side",
		SinglePhase: s.Known && s.Size.Phases == 3 && s.PhasesIn == "1", Table: table}.Work()
	return s
}

// derating is a family's own table, with common practice where it says nothing.
func derating(d dialect.Derating) supply.DeratingTable {
	t := supply.UsualDerating
	for _, x := range []struct {
		to   *float64
		from float64
	}{{&t.AltitudeFrom, d.AltitudeFrom}, {&t.AltitudePercent, d.AltitudePercent}, {&t.AltitudeMost, d.AltitudeMost},
		{&t.AmbientFrom, d.AmbientFrom}, {&t.AmbientPercent, d.AmbientPercent}, {&t.AmbientMost, d.AmbientMost},
		{&t.SwitchingFrom, d.SwitchingFrom}, {&t.SwitchingPercent, d.SwitchingPercent}, {&t.SideBySidePercent, d.SideBySide},
		{&t.SinglePhasePercent, d.SinglePhase}} {
		if x.from > 0 {
			*x.to = x.from
		}
	}
	return t
}

// Output is the voltage that the drive can give, V, and where it comes from when that is not the supply as it is.
func (s Site) Output() (volts float64, from string) {
	volts = s.Volts
	if s.Known && s.Size.Phases == 1 && s.Size.LineHigh < Doubles {
		volts, from = 2*volts, fmt.Sprintf("(doubled from %s V)", quantity.Digits(s.Volts, 4))
	}
	if s.Label > 0 && s.Label < volts*.98 {
		volts, from = s.Label, "(the drive's label)"
	}
	return volts, from
}

// Doubles is the line voltage below which a one-phase drive's rectifier doubles, V. Common practice for 100 to 120 V inputs.
const Doubles = 150

var mm2 = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]+)?) *(?:mm²|mm2|mm\^2|sqmm)?$`)

// Area reads a conductor's size: mm², or AWG; NaN when it cannot be read.
func Area(text string) float64 {
	t := strings.ToLower(strings.TrimSpace(text))
	if m := mm2.FindStringSubmatch(t); m != nil {
		v, err := strconv.ParseFloat(strings.ReplaceAll(m[1], ",", "."), 64)
		if err == nil && v > 0 {
			return v
		}
	}
	t = strings.TrimSpace(strings.ReplaceAll(strings.ReplaceAll(t, "awg", ""), "#", ""))
	n, err := strconv.Atoi(t)
	if err == nil && n < 0 { // the sizes above AWG 0 are written 2/0 to 4/0
		return math.NaN()
	}
	if z, ok := strings.CutSuffix(t, "/0"); ok {
		if n, err = strconv.Atoi(z); err == nil {
			n = 1 - n
		}
	}
	if err != nil || n < -3 || n > 30 {
		return math.NaN()
	}
	d := .127 * math.Pow(92, (36-float64(n))/39) // ASTM B258: diameter in mm
	return math.Pi / 4 * d * d
}

// CableOhms is one phase of the motor cable, Ω; 0 while length or size is not known.
func CableOhms(d drivefile.Drive) float64 {
	return quantity.OrZero(d.Site.Cable.Num(quantity.Length, "m") * supply.CopperOhm / 1000 / Area(d.Power.MotorArea))
}
