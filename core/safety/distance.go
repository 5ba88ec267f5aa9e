package safety

import (
	"math"

	"tingate/core/finding"
)

// Approach is how somebody comes near, by ISO 13855:2010: what the device is, and how it stands.
type Approach struct {
	Device     string  // vertical-field, parallel-field, two-hand, interlock-or-other
	Resolution float64 // mm, of a field
	Height     float64 // mm, of a parallel field over the floor
	K, C       float64 // mm/s and mm, of another device; NaN: as the device has it
}

// Distance is how far away it must stand.
type Distance struct {
	MM, K, C float64
	Findings []finding.Finding
}

// StopDistance is S = K·T + C for an overall stopping time T in seconds.
func StopDistance(a Approach, t float64) Distance {
	d := Distance{K: 1600}
	say := func(code string, sev finding.Severity, title, detail, action string) {
		d.Findings = append(d.Findings,
			finding.Finding{Code: code, Severity: sev, Field: "device", Title: title, Detail: detail, Action: action})
	}
	least := 0.0
	switch a.Device {
	case "vertical-field":
		say("reach-over-not-checked", finding.Note, "Reaching over the field is not worked out",
			"ISO 13855:2010, 6.5: the larger of both distances counts.", "")
		if a.Resolution > 40 { // whole bodies only: 6.2.4
			d.C = 850
			if a.Resolution > 70 {
				say("resolution-too-coarse", finding.Stop, "A field so coarse sees nobody come", "70 mm at most (6.2.4).", "Another device")
			}
			break
		}
		d.K, least = 2000, 100
		d.C = 8 * math.Max(0, a.Resolution-14)
		if d.K*t+d.C > 500 { // 6.2.3.1: far away, hands come slower
			d.K, least = 1600, 500
		}
	case "parallel-field":
		d.C = math.Max(850, 1200-.4*a.Height)
		if a.Height > 1000 {
			say("field-too-high", finding.Stop, "The field lies too high", "1000 mm at most (6.3): people creep under it.", "Lower it")
		}
		switch {
		case !(a.Resolution > 0):
			say("resolution-not-known", finding.Look, "Whether the field lies high enough cannot be said",
				"At least 15 × (resolution − 50 mm) (6.3), and its resolution is not given.", "Look it up on the device")
		case a.Height < 15*(a.Resolution-50):
			say("field-too-low", finding.Stop, "The field lies too low for its resolution", "At least 15 × (resolution − 50 mm) (6.3).",
				"Higher, or a finer one")
		}
		if a.Height > 300 {
			say("creep-under", finding.Look, "Somebody may creep under it", "Above 300 mm (6.3).", "Weigh it in the risk assessment")
		}
	case "two-hand":
		d.C = 250
	}
	if !math.IsNaN(a.K) {
		d.K = a.K
	}
	if !math.IsNaN(a.C) {
		d.C = a.C
	}
	d.MM = math.Max(least, d.K*t+d.C)
	return d
}
