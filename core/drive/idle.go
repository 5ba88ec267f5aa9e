package drive

import (
	"math"

	"tingate/core/machine"
)

// own is what the drive's own supply takes from the link, W.
func (d *Drive) own() float64 {
	share := d.v / (1.35 * d.C.LineVolts)
	return (8 + .0015*math.Sqrt(3)*d.C.LineVolts*d.C.Rated) * min(1, share*share)
}

// idle is a tick without voltage: the stator carries nothing, the rotor's flux dies away, the shaft runs out.
func (d *Drive) idle(h float64) {
	d.freewheel()
	if d.P.Magnet > 0 {
		d.spinFree(h)
	}
	m := d.P.Motor
	tau := m.Lr / (m.Rr * (1 + .00393*(d.Winding-20)))
	f := math.Exp(-h / tau)
	d.x.Dr, d.x.Qr = d.x.Dr*f, d.x.Qr*f
	if math.Abs(d.x.Dr)+math.Abs(d.x.Qr) < 1e-12 { // figures too small for a processor to be quick with
		d.x.Dr, d.x.Qr = 0, 0
	}
	r := m.Lm / m.Lr
	d.x.Ds, d.x.Qs = r*d.x.Dr, r*d.x.Qr
	if d.P.Broken.SecondMotor {
		d.besideIdle(h, f, r)
	}
	w := d.x.W
	if d.P.Broken.Jammed && d.coupled() && !d.swinging() {
		d.x.W = 0
	} else if math.Abs(w) < 1e-7 && d.rests() {
		d.x.W = 0
	} else if w != 0 || !d.holds(0) {
		t := d.drag()
		d.x.W = w - h*t.T0/(d.inertia()+h*t.Slope)
		if w != 0 && d.x.W*w < 0 && d.holds(0) {
			d.x.W = 0
		}
		if d.P.Backstop && d.coupled() && !d.swinging() && d.x.W < 0 {
			d.x.W = 0
		}
	}
	d.Hz, d.Volts, d.Power = 0, 0, 0
	// The link feeds the drive's own supply, and its resistors.
	own := d.own()
	d.v = d.link.tick(d.v, own, own, own, h)
	if !d.Powered {
		d.v -= d.v * h / 60
	}
	if !(d.v > 1) {
		d.v = 1
	}
}

// freewheel is what an inverter that has been let go does first: the current that still flows goes back through its diodes, and the energy
// of its stray field into the link.
func (d *Drive) freewheel() {
	free := 1. // of the rotor's flux, without a stator current
	if d.P.Magnet == 0 {
		free = d.k.B / d.k.C
	}
	id, iq, _ := d.alone(&d.x)
	d.lets(&d.x, free, id, iq)
	if d.P.Broken.SecondMotor {
		s := d.k.Currents(d.second)
		d.lets(&d.second, free, s.Ds, s.Qs)
	}
}

// lets takes one motor's current off, A, and puts the energy that goes with it into the link.
func (d *Drive) lets(x *machine.Flux, free, id, iq float64) {
	if id*id+iq*iq < 1e-6 {
		return
	}
	d.v = math.Sqrt(d.v*d.v + 1.5*((x.Ds-free*x.Dr)*id+(x.Qs-free*x.Qr)*iq)/d.P.Link.C)
	x.Ds, x.Qs = free*x.Dr, free*x.Qr
}
