package drive

import (
	"math"

	"tingate/core/machine"
)

// Magnets that lie inside the rotor leave it two inductances: along them (Ld) and, through iron alone, across them (Lq, larger). Current
// and torque then depend on where the flux lies to the magnets:
//
//	id = (ψd − Ψ)/Ld, iq = ψq/Lq, T = 3/2 p (ψd iq − ψq id)
//
// as in any textbook of the salient-pole synchronous machine. A drive that takes them for one is a little off the magnets' axis.

// salientStep is how fine such a machine is stepped, s.
const salientStep = 125e-6

// amps is the stator's current of everything that hangs at the output, A amplitude, in the frame of the voltage.
func (d *Drive) amps() (id, iq float64) {
	k, x := &d.k, &d.x
	id, iq = k.A*x.Ds-k.B*x.Dr, k.A*x.Qs-k.B*x.Qr
	if d.more {
		return d.moreAmps(id, iq)
	}
	return id, iq
}

func (d *Drive) moreAmps(id, iq float64) (float64, float64) {
	if d.P.Broken.SecondMotor {
		x := &d.second
		id += d.k.A*x.Ds - d.k.B*x.Dr
		iq += d.k.A*x.Qs - d.k.B*x.Qr
	}
	if d.salience != 0 {
		sd, sq := d.salient(&d.x)
		id += sd
		iq += sq
	}
	return id, iq
}

// morePower is what is taken at the start, halfway and at the end of a step, W, with everything that hangs at the output.
func (d *Drive) morePower(vd, vq, wf, h float64, long bool, p0, pm, p1 float64) (float64, float64, float64) {
	if d.salience != 0 {
		p0, p1 = pm, pm // the mean of its fine steps
	}
	if d.P.Broken.SecondMotor {
		m, e := d.beside(vd, vq, wf, h, long)
		pm, p1 = pm+m, p1+e // at the start it is in the current already
	}
	return p0, pm, p1
}

// salient is what the second inductance adds to the current: what the flux across the magnets drives less, or more, than along them.
func (d *Drive) salient(x *machine.Flux) (id, iq float64) {
	a := math.Hypot(x.Dr, x.Qr)
	if a == 0 {
		return 0, 0
	}
	qx, qy := -x.Qr/a, x.Dr/a
	i := d.salience * (x.Ds*qx + x.Qs*qy)
	return i * qx, i * qy
}

// alone is the current and the torque of the first motor at a state.
func (d *Drive) alone(x *machine.Flux) (id, iq, torque float64) {
	k := &d.k
	id, iq = k.A*x.Ds-k.B*x.Dr, k.A*x.Qs-k.B*x.Qr
	if d.salience != 0 {
		sd, sq := d.salient(x)
		id, iq = id+sd, iq+sq
	}
	return id, iq, k.Torque * (x.Ds*iq - x.Qs*id)
}

// airgap torque of the first motor, N·m.
func (d *Drive) airgapTorque(x *machine.Flux) float64 {
	if d.salience == 0 {
		return d.k.AirgapTorque(*x)
	}
	_, _, t := d.alone(x)
	return t
}

// spin is a step of a machine with two inductances, by the midpoint rule.
func (d *Drive) spin(x machine.Flux, vd, vq, wf, h, invJ float64, load machine.Drag) (next machine.Flux, midD, midQ float64) {
	rs, p := d.k.SA/d.k.A, d.k.Pairs
	slope := func(y *machine.Flux) (s machine.Flux, id, iq float64) {
		id, iq, t := d.alone(y)
		turns := wf - p*y.W
		return machine.Flux{Ds: vd - rs*id + wf*y.Qs, Qs: vq - rs*iq - wf*y.Ds, Dr: turns * y.Qr, Qr: -turns * y.Dr,
			W: (t - load.T0 - load.Slope*(y.W-load.W0)) * invJ}, id, iq
	}
	add := func(a, b machine.Flux, h float64) machine.Flux {
		return machine.Flux{Ds: a.Ds + h*b.Ds, Qs: a.Qs + h*b.Qs, Dr: a.Dr + h*b.Dr, Qr: a.Qr + h*b.Qr, W: a.W + h*b.W}
	}
	n := max(1, math.Round(h/salientStep))
	step := h / n
	for range int(n) {
		s, _, _ := slope(&x)
		mid := add(x, s, step/2)
		s, id, iq := slope(&mid)
		x = add(x, s, step)
		midD, midQ = midD+id/n, midQ+iq/n // its mean: what the link is to feel
	}
	return x, midD, midQ
}
