// Package drive is a drive in time: rectifier, DC link, inverter, control, ramps, protection, state machine.
package drive

// Bus is the DC link behind a diode bridge, averaged, with a brake chopper. Volts, ohms, farads.
type Bus struct {
	Open       float64 // the bridge's open voltage, V
	Resistance float64 // of source and overlap, Ω
	C          float64
	On, Band   float64 // the chopper begins at On and is full at On + Band, V
	Chopper    float64 // its resistor, Ω; 0: none
}

// ramp is max(x, 0) with a corner rounded over ±d, so that no event has to be found: 0, (x+d)²/(4d), x.
func ramp(x, d float64) (y, slope float64) {
	switch {
	case x <= -d:
		return 0, 0
	case x >= d:
		return x, 1
	}
	return (x + d) * (x + d) / (4 * d), (x + d) / (2 * d)
}

// net is the current into the capacitor besides the inverter's, A, and its slope over the voltage.
func (b *Bus) net(v float64) (i, slope float64) {
	r, s := ramp(b.Open-v, 1)
	i, slope = r/b.Resistance, -s/b.Resistance
	if b.Chopper > 0 && v > b.On {
		u := (v - b.On) / b.Band
		if u >= 1 {
			return i - v/b.Chopper, slope - 1/b.Chopper
		}
		d := u * u * (3 - 2*u)
		return i - d*v/b.Chopper, slope - (d+6*u*(1-u)/b.Band*v)/b.Chopper
	}
	return i, slope
}

// Step moves the voltage by h seconds while the inverter takes p0 W at the start, pm halfway and p1 at the end. Two L-stable
// second-order Rosenbrock steps: the link is the stiffest part of a drive, and is not let to rule the step.
func (b *Bus) Step(v, p0, pm, p1, h float64) float64 {
	pq := (3*p0 + 6*pm - p1) / 8 // the parabola through the three, at a quarter
	v = b.half(v, p0, pq, pm, h*.5)
	pq = (3*p1 + 6*pm - p0) / 8
	return b.half(v, pm, pq, p1, h*.5)
}

// Move is Step in one go, for short steps.
func (b *Bus) Move(v, p0, pm, p1, h float64) float64 { return b.half(v, p0, pm, p1, h) }

// half is one step of the two-stage Rosenbrock method with γ = 1 − 1/√2. The power enters by its mean (Simpson), so that the
// energy of the step is right whatever its shape.
func (b *Bus) half(v, p0, pm, p1, h float64) float64 {
	const g = 0.29289321881345254
	p := (p0 + 4*pm + p1) / 6
	ic := 1 / b.C
	i, s := b.net(v)
	iv := 1 / v
	j := (s + p*iv*iv) * ic
	inv := 1 / (1 - g*h*j)
	k1 := (i - p*iv) * ic * inv
	y := v + h*k1
	i, _ = b.net(y)
	k2 := ((i-p/y)*ic - 2*k1) * inv
	return v + h*(1.5*k1+.5*k2)
}
