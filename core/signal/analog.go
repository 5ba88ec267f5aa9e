// Package signal scales references and reads command logic.
package signal

import "math"

// Scale turns an input into an output. Methods as docs/calc.md names them.
type Scale struct {
	Method           string // two-point, offset-gain, gain-offset
	InLow, InHigh    float64
	OutLow, OutHigh  float64
	Offset, Gain     float64 // percent, ratio
	Invert, Clamp    bool
	DeadBand         float64 // in the input's unit, around Zero
	Shifted          bool    // the rest of the span is stretched to begin at the dead band's edge
	Zero, Full       float64
	PercentFromInput bool // the input is turned into percent of InLow..InHigh first
}

// Out is the output for an input. Two-point: in OutLow..OutHigh; the others: percent.
func (s Scale) Out(in float64) float64 {
	if s.DeadBand > 0 {
		d, f := in-s.Zero, s.Full-s.Zero
		switch {
		case math.Abs(d) <= s.DeadBand:
			d = 0
		case s.Shifted:
			d = math.Copysign((math.Abs(d)-s.DeadBand)*f/(f-s.DeadBand), d)
		}
		in = s.Zero + d
	}
	if s.Method == "two-point" {
		lo, hi := s.OutLow, s.OutHigh
		if s.Invert {
			lo, hi = hi, lo
		}
		out := lo + (in-s.InLow)/(s.InHigh-s.InLow)*(hi-lo)
		if s.Clamp {
			out = math.Max(math.Min(lo, hi), math.Min(math.Max(lo, hi), out))
		}
		return out
	}
	if s.PercentFromInput {
		in = (in - s.InLow) / (s.InHigh - s.InLow) * 100
	}
	out := in*s.Gain + s.Offset
	if s.Method == "offset-gain" {
		out = (in + s.Offset) * s.Gain
	}
	if s.Invert {
		out = 100 - out
	}
	if s.Clamp {
		out = math.Max(0, math.Min(100, out))
	}
	return out
}

// LiveZeroState judges a 4..20 mA signal. NAMUR NE 43: failure at and below 3.6 mA and at and above 21 mA,
// measurement from 3.8 to 20.5 mA.
func LiveZeroState(mA float64) string {
	switch {
	case mA <= 3.6:
		return "failed-low"
	case mA < 3.8:
		return "under-range"
	case mA <= 20.5:
		return "valid"
	case mA < 21:
		return "over-range"
	}
	return "failed-high"
}
