package machine

import "math"

// DeepBar gives what current displacement does to a rotor's bars: the resistance over the one for direct current, and the slot's
// leakage over the same. xi is the bar's height over the depth to which its current goes at the rotor's frequency; it grows with the
// root of that frequency. Rectangular bars, as in IEC 60034-28's reading of the equivalent circuit; textbook of electrical machines.
func DeepBar(xi float64) (resistance, leakage float64) {
	if xi < .05 {
		return 1, 1
	}
	if xi > 15 {
		return xi, 3 / (2 * xi)
	}
	sh, ch := math.Sinh(2*xi), math.Cosh(2*xi)
	s, c := math.Sincos(2 * xi)
	return xi * (sh + s) / (ch - c), 3 / (2 * xi) * (sh - s) / (ch - c)
}

// Displaced is a circuit at a rotor's frequency (Hz) whose bars have the height xi at the circuit's own frequency; half of the
// rotor's leakage lies in the slots. Common practice.
func (c Circuit) Displaced(xi, rotorHz float64) Circuit {
	if xi <= 0 {
		return c
	}
	kr, kx := DeepBar(xi * math.Sqrt(math.Abs(rotorHz)/c.Frequency))
	c.Rr *= kr
	c.Xlr *= .5 + .5*kx
	return c
}

// BarFor is the height xi at which a machine starts with a torque, N·m, at a line voltage; 0 when it starts with as much without, or
// no bar gives it (ok false).
func (c Circuit) BarFor(v, torque float64) (xi float64, ok bool) {
	start := func(xi float64) float64 { return c.Displaced(xi, c.Frequency).At(v, c.Frequency, 1).AirgapTorque }
	if start(0) >= torque {
		return 0, true
	}
	low, high := 0.0, 6.0
	if start(high) < torque {
		return 0, false
	}
	for range 50 {
		if mid := (low + high) / 2; start(mid) < torque {
			low = mid
		} else {
			high = mid
		}
	}
	return high, true
}
