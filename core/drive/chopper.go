package drive

// A braking resistor's rise at its rated power, its time constant, and the temperature at which it is lost. Common practice for wire-wound
// ones.
const (
	resistorRise = 300. // K
	resistorTau  = 120. // s
	resistorLost = 600. // °C
)

// resistorWatts is what the resistor takes from the link just now, W.
func (d *Drive) resistorWatts() float64 {
	l := &d.link
	if l.chop == 0 || d.v <= l.on {
		return 0
	}
	u := min(1, (d.v-l.on)*l.band)
	return u * u * (3 - 2*u) * d.v * d.v * l.chop
}

// heatResistor warms it.
func (d *Drive) heatResistor(h float64) {
	if !(d.P.ResistorPower > 0) || d.P.Link.Chopper <= 0 {
		return
	}
	rise := resistorRise * d.resistorWatts() / d.P.ResistorPower
	d.Resistor += h * (ambient + rise - d.Resistor) / resistorTau
	if d.Resistor > resistorLost {
		d.Damage = "The braking resistor glows: it is lost, and what is beside it burns."
	}
}

// chopping changes the link by what is wrong with chopper and resistor.
func (b *Broken) chopping(l *Bus) {
	switch {
	case b.ResistorOpen:
		l.Chopper = 0
	case b.ChopperShorted:
		l.On = -l.Band // conducts at every voltage
	}
}
