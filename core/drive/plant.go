package drive

import (
	"math"

	"tingate/core/machine"
	"tingate/core/motion"
)

// Plant is what a drive is wired to: line, motor, load, encoder. Everything as it is, not as it was entered.
type Plant struct {
	Line   float64 // V
	Hz     float64
	Single bool // one phase only is connected
	Link   Bus  // Open is worked out from the line

	ResistorPower float64 // W that the braking resistor bears for long; 0: not known

	Motor   machine.Induction // at 20 °C and rated flux
	Flux    float64           // rated flux over the air gap, Wb
	Magnet  float64           // Wb of permanent magnets, cold; 0: a cage
	Knee    float64           // how much the magnetising inductance has fallen at rated flux: 0.15 for a usual motor
	Iron    float64           // Ω over the air gap's voltage; 0: none
	Rub     float64           // friction of the motor, N·m/(rad/s)
	Inertia float64           // kg·m² of the motor
	Thermal Heat

	Load     motion.Load
	LoadJ    float64 // kg·m² at the motor's shaft
	Coupled  bool
	Backstop bool // cannot turn backward
	Brake    Brake
	Shaft    Shaft
	Process  Process

	Bar   float64 // height of the rotor's bars over the depth of their current at BarHz and standstill; 0: none deep
	BarHz float64

	Lines float64 // of the encoder; 0: none fitted

	Broken Broken
}

// Heat is a motor's winding and frame. J/K and W/K; rises in K.
type Heat struct {
	Winding, Frame float64 // J/K
	Inner, Outer   float64 // W/K from winding to frame, and from the frame at rated speed
	Own            bool    // cooled by its own fan
	Speed          float64 // rad/s at which Outer holds
}

// NewPlant makes a motor out of its equivalent circuit at a line voltage: rated losses warm the winding by 80 K, the frame by
// 55 K; the constants follow the size. Common practice.
func NewPlant(c machine.Circuit, volts, slip float64) Plant {
	p := Plant{Motor: machine.FromCircuit(c), Knee: .15, Iron: c.Rc, Coupled: true}
	const warm = 1 + .00393*(105-20) // a plate is true for a warm machine
	p.Motor.Rs, p.Motor.Rr = p.Motor.Rs/warm, p.Motor.Rr/warm
	pt := c.At(volts, c.Frequency, slip)
	p.BarHz = c.Frequency
	w := 2 * math.Pi * c.Frequency
	p.Flux = pt.MagnetisingVolts * math.Sqrt2 / w
	sync := c.Synchronous(c.Frequency)
	p.Rub = c.Friction / (sync * sync)
	kw := max(pt.ShaftPower, 50) / 1000
	p.Inertia = UsualInertia(kw*1000, c.Poles)
	loss := pt.StatorLoss + pt.RotorLoss + pt.IronLoss + c.Friction
	p.Thermal = Heat{Inner: (pt.StatorLoss + pt.RotorLoss) / 25, Outer: loss / 55, Own: true, Speed: sync}
	p.Thermal.Winding = p.Thermal.Inner * 120 // two minutes
	p.Thermal.Frame = p.Thermal.Outer * 2400 * math.Pow(max(kw, .2)/7.5, .25)
	return p
}

// UsualInertia is a rotor's inertia by power (W) and poles, kg·m². Common practice; the spread is a factor of two either way.
func UsualInertia(power float64, poles int) float64 {
	return .0023 * math.Pow(max(power, 50)/1000, 1.28) * math.Pow(float64(poles)/4*2, .9)
}

// UsualLink gives the DC link of a drive of a rated current on a line: capacitor and source by size. Common practice.
func UsualLink(amps, volts float64, single bool) Bus {
	open := volts * 3 * math.Sqrt2 / math.Pi
	if single {
		open = volts * math.Sqrt2 * .95
	}
	kva := math.Sqrt(3) * volts * amps
	return Bus{Open: open, Resistance: .025 * volts * volts / kva, C: 75e-6 * kva / 1000 * (540 / open) * (540 / open), On: open * 1.29,
		Band: 15}
}

// inductances at a flux over the air gap: the magnetising one falls with the sixth power of the flux.
func (p *Plant) inductances(psi2 float64) machine.Induction {
	m := p.Motor
	r := psi2 / (p.Flux * p.Flux)
	k := (1 + p.Knee) / (1 + p.Knee*r*r*r)
	d := m.Lm * (k - 1)
	m.Lm += d
	m.Ls += d
	m.Lr += d
	return m
}
