package supply

import (
	"math"
)

// Conductor is a copper size with what it may carry, A.
type Conductor struct {
	Name string  // 2.5 mm² or AWG 12
	Area float64 // mm²
	Amps float64
}

// Ampacities by code and way of laying. Values for 30 °C and three loaded copper conductors, PVC 70 °C for IEC, 75 °C for
// the NEC. Sources: IEC 60364-5-52 Table B.52.4; NEC Table 310.16 with 240.4(D) for the small sizes; both from memory.
var ampacity = map[string][]Conductor{
	"iec B2": table("mm²", []float64{1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120},
		[]float64{15, 20, 27, 34, 46, 62, 80, 99, 118, 149, 179, 206}),
	"iec C": table("mm²", []float64{1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120},
		[]float64{17.5, 24, 32, 41, 57, 76, 96, 119, 144, 184, 223, 259}),
	"nec conduit": {{"AWG 14", 2.08, 15}, {"AWG 12", 3.31, 20}, {"AWG 10", 5.26, 30}, {"AWG 8", 8.37, 50}, {"AWG 6", 13.3, 65},
		{"AWG 4", 21.2, 85}, {"AWG 3", 26.7, 100}, {"AWG 2", 33.6, 115},
		{"AWG 1", 42.4, 130}, {"AWG 1/0", 53.5, 150}, {"AWG 2/0", 67.4, 175}, {"AWG 3/0", 85, 200}, {"AWG 4/0", 107, 230}},
}

func table(unit string, areas, amps []float64) []Conductor {
	l := make([]Conductor, len(areas))
	for i, a := range areas {
		l[i] = Conductor{f4(a) + " " + unit, a, amps[i]}
	}
	return l
}

// Sizing is what a feeder of a drive must carry.
type Sizing struct {
	Code    string  // iec B2, iec C, nec conduit
	Current float64 // A, the drive's rated input current, or the motor's
	Ambient float64 // °C; 0: 30
}

// pvcFactor is the correction for ambient of PVC at 70 °C, IEC 60364-5-52 Table B.52.14: √((70 − θ)/40).
func pvcFactor(ambient float64) float64 {
	if ambient == 0 {
		return 1
	}
	return math.Sqrt(max(0, 70-ambient) / 40)
}

// Needs is the current by which a conductor is chosen: 125 % by NEC 430.122, the current itself by the IEC way.
func (s Sizing) Needs() float64 {
	if s.Code == "nec conduit" {
		return 1.25 * s.Current
	}
	return s.Current
}

// Carries is what a copper area carries, A; 0 where it is smaller than the table's smallest. The size below counts.
func (s Sizing) Carries(area float64) float64 {
	amps := 0.
	for _, c := range ampacity[s.Code] {
		if c.Area <= area*1.005 {
			amps = c.Amps
		}
	}
	if s.Code != "nec conduit" {
		return amps * pvcFactor(s.Ambient)
	}
	return amps * necFactor(s.Ambient)
}

// necFactor is what another ambient than 30 °C leaves of a 75 °C conductor: NEC 310.15(B), equation 1. 0 °C counts as 30 °C: nothing is
// entered.
func necFactor(ambient float64) float64 {
	const conductor, base = 75, 30
	if ambient == 0 {
		return 1
	}
	return math.Sqrt(max(0, conductor-ambient) / (conductor - base))
}

// Smallest is the smallest conductor of the table that carries what is needed; ok is false beyond the table.
func (s Sizing) Smallest() (Conductor, bool) {
	for _, c := range ampacity[s.Code] {
		if s.Carries(c.Area) >= s.Needs() {
			return c, true
		}
	}
	return Conductor{}, false
}

// Copper as IEC 60364-5-52 annex G takes it, hot: 0.0225 Ω mm²/m, and 0.08 mΩ/m.
const (
	CopperOhm = 22.5 // Ω/km at 1 mm²
	CableX    = .08  // Ω/km
)

// VoltageDrop is the drop along a feeder, V: of the voltage between lines for three phases, there and back for one.
// Current in A, length in m, r and x in Ω/km. IEC 60364-5-52 annex G: b (r cos φ + x sin φ) I, between lines √3 times.
func VoltageDrop(current, length, r, x, powerFactor float64, phases int) float64 {
	b := math.Sqrt(3)
	if phases == 1 {
		b = 2
	}
	return b * current * length / 1000 * (r*powerFactor + x*math.Sqrt(max(0, 1-powerFactor*powerFactor)))
}
