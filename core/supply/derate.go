package supply

import (
	"fmt"

	"tingate/core/finding"
)

// DeratingTable is what a maker takes off, as its manual says. Percent are of the rated current, each on its own.
type DeratingTable struct {
	AltitudeFrom, AltitudePercent, AltitudeMost float64 // m; % per 100 m; highest altitude
	AmbientFrom, AmbientPercent, AmbientMost    float64 // °C; % per K; highest ambient
	SwitchingFrom, SwitchingPercent             float64 // kHz; % per kHz
	SideBySidePercent                           float64 // mounted without gap
	SinglePhasePercent                          float64 // a three-phase drive on one phase
}

// UsualDerating is common practice where a maker's table is not at hand.
var UsualDerating = DeratingTable{AltitudeFrom: 1000, AltitudePercent: 1, AltitudeMost: 4000, AmbientFrom: 40, AmbientPercent: 2.5,
	AmbientMost:   50,
	SwitchingFrom: 4, SwitchingPercent: 5, SideBySidePercent: 5, SinglePhasePercent: 50}

// Derating is a drive at its place. Zero switching: as delivered.
type Derating struct {
	Rated, Altitude, Ambient, Switching float64 // A, m, °C, kHz
	SideBySide, SinglePhase             bool    // SinglePhase: a three-phase drive that is fed by one phase
	Table                               DeratingTable
}

// Factor is one reason to take something off.
type Factor struct {
	Name    string  `json:"name"`
	Factor  float64 `json:"factor"`
	Because string  `json:"because"`
}

// Derated is the current that is left, A, with each factor.
type Derated struct {
	Current  float64
	Factors  []Factor
	Findings []finding.Finding
}

// Work multiplies the factors. Beyond what the drive is made for a finding stops; the figure is given all the same.
func (d Derating) Work() Derated {
	out := Derated{Current: d.Rated}
	t := d.Table
	take := func(name string, percent float64, because string) {
		if percent > 0 {
			f := max(0, 1-percent/100)
			out.Current *= f
			out.Factors = append(out.Factors, Factor{name, f, because})
		}
	}
	take("altitude", (d.Altitude-t.AltitudeFrom)/100*t.AltitudePercent,
		fmt.Sprintf("%s m: %s %% for each 100 m above %s m", f4(d.Altitude), f4(t.AltitudePercent), f4(t.AltitudeFrom)))
	take("ambient", (d.Ambient-t.AmbientFrom)*t.AmbientPercent,
		fmt.Sprintf("%s °C: %s %% for each K above %s °C", f4(d.Ambient), f4(t.AmbientPercent), f4(t.AmbientFrom)))
	take("switching frequency", (d.Switching-t.SwitchingFrom)*t.SwitchingPercent,
		fmt.Sprintf("%s kHz: %s %% for each kHz above %s kHz", f4(d.Switching), f4(t.SwitchingPercent), f4(t.SwitchingFrom)))
	if d.SideBySide {
		take("side by side", t.SideBySidePercent, "mounted without gap")
	}
	if d.SinglePhase {
		take("single-phase input", t.SinglePhasePercent, "one phase in: the bridge carries √3 times the current, and the link ripples")
	}
	stop := func(code, title, detail string) {
		out.Findings = append(out.Findings,
			finding.Finding{Code: code, Severity: finding.Stop, Title: title, Detail: detail,
				Action: "Another place, another drive, or the maker's word"})
	}
	if t.AltitudeMost > 0 && d.Altitude > t.AltitudeMost {
		stop("altitude-limit", "Higher than the drive is made for",
			fmt.Sprintf("%s m, at most %s m: air insulates less.", f4(d.Altitude), f4(t.AltitudeMost)))
	}
	if t.AmbientMost > 0 && d.Ambient > t.AmbientMost {
		stop("ambient-limit", "Hotter than the drive is made for", fmt.Sprintf("%s °C, at most %s °C.", f4(d.Ambient), f4(t.AmbientMost)))
	}
	return out
}
