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

// link is a Bus with its divisions made.
type link struct{ open, g, ic, on, band, chop float64 }

func (b Bus) link() link {
	l := link{open: b.Open, g: 1 / b.Resistance, ic: 1 / b.C, on: b.On}
	if b.Chopper > 0 {
		l.band, l.chop = 1/b.Band, 1/b.Chopper
	}
	return l
}

// ramp is max(x, 0) with a corner rounded over ±d, so that no event has to be found: 0, (x+d)²/(4d), x.
func ramp(x, d float64) float64 {
	switch {
	case x <= -d:
		return 0
	case x >= d:
		return x
	}
	return (x + d) * (x + d) / (4 * d)
}

// net is the current into the capacitor besides the inverter's, A, and its slope over the voltage.
func (b *link) net(v float64) (i, slope float64) {
	switch x := b.open - v; {
	case x >= 1:
		i, slope = x*b.g, -b.g
	case x > -1:
		i, slope = (x+1)*(x+1)*.25*b.g, -(x+1)*.5*b.g
	}
	if v > b.on && b.chop > 0 {
		u := (v - b.on) * b.band
		if u >= 1 {
			return i - v*b.chop, slope - b.chop
		}
		d := u * u * (3 - 2*u)
		return i - d*v*b.chop, slope - (d+6*u*(1-u)*b.band*v)*b.chop
	}
	return i, slope
}

// step moves the voltage by h seconds while the inverter takes p0 W at the start, pm halfway and p1 at the end: the two-stage
// L-stable Rosenbrock method with γ = 1 − 1/√2. The link is the stiffest part of a drive, and is not let to rule the step. The
// power enters by its mean (Simpson), so that the energy of the step is right whatever its shape.
func (b *link) step(v, p0, pm, p1, h float64) float64 {
	const g = 0.29289321881345254
	p := (p0 + 4*pm + p1) * (1. / 6)
	i, s := b.net(v)
	v2 := v * v
	iv := 1 / v // beside the other division, not after it
	inv := v2 / (v2 - g*h*b.ic*(s*v2+p))
	k1 := (i - p*iv) * b.ic * inv
	d := h * k1
	y := v + d
	i, _ = b.net(y)
	// 1/y to second order: a step of the link is small against its voltage.
	r := d * iv
	k2 := ((i-p*iv*(1-r+r*r))*b.ic - 2*k1) * inv
	return v + h*(1.5*k1+.5*k2)
}

// tick is step for ticks that are long against the link: near the corners of its currents, where the bridge begins to conduct or
// the chopper works, it takes two. The parabola through the three powers gives those at the quarters.
func (b *link) tick(v, p0, pm, p1, h float64) float64 {
	if x := b.open - v; (x > 4 || x < -4) && v < b.on-4 {
		if x > 0 || (x+4)*v < -pm*h*b.ic {
			return b.step(v, p0, pm, p1, h)
		}
		return b.falls(v, p0, pm, p1, h) // onto the bridge, within this tick
	}
	a, c := (3*p0+6*pm-p1)*.125, (3*p1+6*pm-p0)*.125
	return b.step(b.step(v, p0, a, pm, h*.5), pm, c, p1, h*.5)
}

// falls is a tick in which the link, above the bridge's voltage, is drawn down onto it: it is not known when the bridge takes over, so it
// goes there by small steps, with the parabola through the three powers.
func (b *link) falls(v, p0, pm, p1, h float64) float64 {
	const n = 10
	at := func(s float64) float64 { return p0 + s*(4*pm-3*p0-p1) + 2*s*s*(p0-2*pm+p1) }
	for i := range n {
		s := float64(i) / n
		v = b.step(v, at(s), at(s+.5/n), at(s+1./n), h/n)
	}
	return v
}
