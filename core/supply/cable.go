package supply

import (
	"fmt"
	"math"

	"tingate/core/finding"
)

// MotorCable is the cable between drive and motor.
type MotorCable struct {
	Length   float64 // m
	DCLink   float64 // V, at rest
	Rise     float64 // µs of the drive's pulses; 0: 0.1
	Carrier  float64 // kHz; 0: 4
	Rated    float64 // A of the drive
	Power    float64 // kW of the motor
	Fit      string  // inverter-duty, plain, not-known
	Screened bool
}

// Common practice for motor cables: half the speed of light, 80 Ω, 0.2 nF/m between conductor and screen; a small motor
// sends back nine tenths of a wave.
const (
	waveSpeed = 150 // m/µs
	waveOhm   = 80
	sentBack  = .9
	nanoFarad = .2
)

// Cable is what a motor cable does.
type Cable struct {
	Critical float64 // m: from here a pulse comes back before it has risen, and the peak is whole
	Peak     float64 // V at the motor's terminals
	Allowed  float64 // V that the motor's insulation is made for; NaN when not known
	Charging float64 // A, peak of each pulse into the cable
	Findings []finding.Finding
}

// Work follows a pulse along the cable. The critical length is v·t/2; a shorter cable sends back in proportion
// (IEC TS 60034-25, NEMA MG 1 parts 30 and 31: 1000 V for a plain motor to 600 V, 1600 V for inverter duty; from memory).
func (c MotorCable) Work() Cable {
	rise := c.Rise
	if rise == 0 {
		rise = .1
	}
	out := Cable{Critical: waveSpeed * rise / 2, Allowed: math.NaN(), Charging: c.DCLink / waveOhm}
	out.Peak = c.DCLink * (1 + sentBack*min(1, c.Length/out.Critical))
	switch c.Fit {
	case "inverter-duty":
		out.Allowed = 1600
	case "plain":
		out.Allowed = 1000
	}
	say := func(code string, s finding.Severity, title, detail, action string) {
		out.Findings = append(out.Findings, finding.Finding{Code: code, Severity: s, Title: title, Detail: detail, Action: action})
	}
	if out.Peak > out.Allowed {
		say("peak-above-insulation", finding.Look, "Pulses at the motor are higher than its insulation is made for",
			fmt.Sprintf("About %s V peak at %s m; a motor of this kind takes %s V.", f4(math.Round(out.Peak)), f4(c.Length),
				f4(out.Allowed)), "A reactor or filter at the drive, or a motor made for it")
	}
	if peak := math.Sqrt2 * c.Rated; c.Length > 20 && out.Charging > peak {
		say("charging-current", finding.Look, "Charging the cable takes much of a small drive's current",
			fmt.Sprintf("Pulses of about %s A into the cable; the drive's rated peak is %s A. It may trip on overcurrent with nothing "+
				"wrong.", f4(out.Charging), f4(peak)), "A shorter cable, a lower switching frequency, or an output reactor")
	}
	switch {
	case c.Power > 100:
		say("bearing-currents", finding.Look, "Bearing currents",
			"Above about 100 kW (common practice): an insulated bearing at the far end, screened symmetrical cable, a filter for common "+
				"mode.", "See to it, or keep it with a reason")
	case c.Power > 30 && !c.Screened:
		say("bearing-currents", finding.Note, "Bearing currents",
			"From about 30 kW (common practice) screened symmetrical cable, bonded broadly at both ends, keeps them low.", "")
	}
	return out
}

// Leakage is the current to earth that a drive's filter and cable let through, mA: common practice, 30 mA with a filter and
// 0.3 mA/m of screened cable. Above 3.5 mA the protective conductor is 10 mm² copper or doubled (IEC 61800-5-1).
func Leakage(filter bool, cable float64) float64 {
	mA := .3 * cable
	if filter {
		mA += 30
	}
	return mA
}
