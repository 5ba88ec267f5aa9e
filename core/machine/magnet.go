package machine

import "math"

// Magnet is a machine with permanent magnets on a round rotor: one inductance in both axes. Per phase, star equivalent, amplitude.
type Magnet struct {
	Rs    float64 // Ω, as warm as its plate is true
	L     float64 // H
	Psi   float64 // Wb of the magnets through a phase
	Pairs float64
	Rub   float64 // friction and iron at rated speed, N·m/(rad/s)
}

// magnetLoss is the stator's copper in the losses of such a machine; iron and friction are the rest. Common practice.
const magnetLoss = .65

// MagnetOf finds the machine of a plate: its rated current lies on the quadrature axis, as drives hold it. ok is false when the plate is
// not that of a machine that runs with its field, or efficiency or cos φ is not below 1.
func MagnetOf(p Plate) (m Magnet, ok bool) {
	sync := 120 * p.Frequency / float64(p.Poles)
	if math.Abs(p.Speed-sync) > .002*sync || !(p.Current > 0) {
		return m, false
	}
	in := p.Power / p.Efficiency
	factor := in / (math.Sqrt(3) * p.Voltage * p.Current)
	if !(in > p.Power) || !(factor > .3 && factor < 1) {
		return m, false
	}
	v, i := p.Voltage*math.Sqrt(2./3), p.Current*math.Sqrt2
	w := 2 * math.Pi * p.Frequency
	m.Pairs = float64(p.Poles) / 2
	m.Rs = magnetLoss * (in - p.Power) / (3 * p.Current * p.Current)
	m.L = v * math.Sqrt(1-factor*factor) / (w * i)
	m.Psi = (v*factor - m.Rs*i) / w
	mech := w / m.Pairs
	m.Rub = math.Max(0, 1.5*m.Pairs*m.Psi*i-p.Power/mech) / mech
	return m, m.Psi > 0
}

// FromMagnetRow fills what a row of such a machine leaves open; Poles 0: too little of it is there.
func FromMagnetRow(power, voltage, current, frequency, speed, factor, efficiency float64, poles int) Plate {
	p := Plate{Power: power, Voltage: voltage, Current: current, Frequency: frequency, Speed: speed, Factor: factor,
		Efficiency: efficiency, Poles: poles}
	if !(p.Power > 0) || !(p.Voltage > 0) || !(p.Current > 0) || !(p.Frequency > 0) || !(p.Speed > 0) {
		return Plate{}
	}
	if p.Poles == 0 {
		p.Poles = 2 * int(math.Round(60*p.Frequency/p.Speed))
	}
	apparent := math.Sqrt(3) * p.Voltage * p.Current
	switch {
	case p.Factor > 0:
		p.Efficiency = p.Power / (apparent * p.Factor)
	case p.Efficiency > 0:
		p.Factor = p.Power / (apparent * p.Efficiency)
	default:
		p.Efficiency = .9 // usual of such machines of a few kilowatts; common practice
		p.Factor = p.Power / (apparent * p.Efficiency)
	}
	return p
}

// EMF is the line voltage, V rms, that it makes when something else turns it, at a speed in rad/s.
func (m Magnet) EMF(w float64) float64 { return m.Psi * m.Pairs * math.Abs(w) * math.Sqrt(3./2) }

// TorqueOf is the torque of the air gap, N·m, of a current on the quadrature axis, A amplitude.
func (m Magnet) TorqueOf(iq float64) float64 { return 1.5 * m.Pairs * m.Psi * iq }

// Invert prepares it for stepping as an induction machine whose rotor has no resistance and holds its flux: with one inductance in
// both axes the equations are the same.
func (m Magnet) Invert() Inverse {
	return Inverse{A: 1 / m.L, B: 1 / m.L, SA: m.Rs / m.L, SB: m.Rs / m.L, Pairs: m.Pairs, Torque: 1.5 * m.Pairs}
}
