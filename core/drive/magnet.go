package drive

import (
	"math"

	"tingate/core/machine"
)

// lossOfMagnet is what a rare-earth magnet loses for each kelvin. Common practice.
const lossOfMagnet = .0011

// NewMagnetPlant makes a motor with permanent magnets out of its machine; the losses of its plate warm it as another's do.
func NewMagnetPlant(m machine.Magnet, p machine.Plate) Plant {
	w := p.Speed * math.Pi / 30
	loss := p.Power/p.Efficiency - p.Power
	x := Plant{Motor: machine.Induction{Rs: m.Rs / (1 + .00393*(105-20)), Ls: m.L, Lr: m.L, Lm: m.L, Pairs: m.Pairs},
		Magnet: m.Psi * (1 + lossOfMagnet*60), Flux: m.Psi, Rub: m.Rub, Coupled: true, BarHz: p.Frequency}
	x.Inertia = .5 * UsualInertia(p.Power, p.Poles) // a rotor without a cage is lighter. Common practice.
	copper := 3 * p.Current * p.Current * m.Rs
	x.Thermal = Heat{Inner: copper / 25, Outer: loss / 55, Own: true, Speed: w}
	x.Thermal.Winding = x.Thermal.Inner * 120
	x.Thermal.Frame = x.Thermal.Outer * 2400 * math.Pow(max(p.Power, 200)/7500, .25)
	return x
}

// magnet prepares the machine with its magnets as warm as they are, and keeps the rotor's flux at what they give.
func (d *Drive) magnet() {
	m := machine.Magnet{Rs: d.P.Motor.Rs * (1 + .00393*(d.Winding-20)), L: d.P.Motor.Ls,
		Psi: d.P.Magnet * (1 - lossOfMagnet*(d.Frame-ambient)), Pairs: d.P.Motor.Pairs}
	if r := d.P.Broken.Relinked; r > 0 {
		m.Rs, m.L, m.Psi = m.Rs*r, m.L*r, m.Psi*math.Sqrt(r)
	}
	m.Rs += d.P.Broken.CableOhms
	if d.P.Broken.LeadsSwapped != d.C.Swap {
		m.Pairs = -m.Pairs
	}
	d.k = m.Invert()
	if d.salience = 0; d.P.Broken.Buried > 0 {
		d.salience = (1/d.P.Broken.Buried - 1) / m.L
	}
	a := math.Hypot(d.x.Dr, d.x.Qr)
	if a < 1e-9 { // where the rotor happened to stop
		d.x.Dr, d.x.Qr = m.Psi*math.Cos(2), m.Psi*math.Sin(2)
		d.x.Ds, d.x.Qs = d.x.Dr, d.x.Qr
		return
	}
	d.x.Dr, d.x.Qr = d.x.Dr*m.Psi/a, d.x.Qr*m.Psi/a
}

// spinFree is a magnet's rotor behind an inverter that is off: its flux goes round, and above the link's voltage it charges it.
func (d *Drive) spinFree(h float64) {
	s, c := math.Sincos(d.k.Pairs * d.x.W * h)
	d.x.Dr, d.x.Qr = d.x.Dr*c-d.x.Qr*s, d.x.Dr*s+d.x.Qr*c
	d.x.Ds, d.x.Qs = d.x.Dr, d.x.Qr
	emf := math.Hypot(d.x.Dr, d.x.Qr) * math.Abs(d.k.Pairs*d.x.W) * math.Sqrt(3)
	if emf > d.v { // through the diodes
		taken := .5 * d.P.Link.C * (emf*emf - d.v*d.v) * min(1, h/.005)
		d.v = math.Sqrt(d.v*d.v + 2*taken/d.P.Link.C)
		w := d.x.W
		d.x.W = math.Copysign(math.Sqrt(max(0, w*w-2*taken/d.inertia())), w)
	}
}

// follower is how a drive without an encoder follows a magnet's rotor: below a tenth of rated speed it leads the rotor with a current
// that goes round, above it watches the voltage that the magnets induce.
type follower struct {
	watching bool
	est      float64 // electrical rad/s
	lead     float64 // A of the leading current
	weak     float64 // A against the magnets, while the voltage is at its end
}

// synchronous is vector control of a machine with magnets, for one tick.
func (d *Drive) synchronous(in *Inputs, h float64) {
	v := &d.vec
	f := &v.follow
	c := &d.C
	m := c.KnownMagnet
	rated := c.Motor.Current * math.Sqrt2
	most := c.CurrentLimit * math.Sqrt2
	asked := 2 * math.Pi * d.ramp.hz
	base := 2 * math.Pi * c.Motor.Frequency
	kp, ki := 900*m.L, 900*m.Rs
	kt := 1.5 * m.Pairs * m.Psi
	j := c.Inertia
	if !(j > 0) {
		j = 2 * UsualInertia(c.Motor.Power, c.Motor.Poles)
	}
	const band = 12 // rad/s
	kps := band * j / (kt * m.Pairs)
	d.hold()
	v.unbound, _ = d.on(fnTorqueFree)
	for range 8 {
		id, iq := d.amps()
		id += in.Noise[0] * d.noise() * .005 * c.Rated
		iq += in.Noise[1] * d.noise() * .005 * c.Rated
		// What the magnets induce, in the control's own frame: behind resistance and inductance.
		ed, eq := v.vd-m.Rs*id+v.wf*m.L*iq, v.vq-m.Rs*iq-v.wf*m.L*id
		ahead := 0.0
		if turning := v.wf; math.Abs(turning) > .02*base {
			sign := math.Copysign(1, turning)
			ahead = math.Atan2(-ed*sign, max(eq*sign, .05*m.Psi*base))
		}
		switch {
		case !f.watching && math.Abs(asked) > .1*base && d.Phase != Magnetising:
			f.watching, f.est = true, v.wf
			d.turnFrame(ahead)
			v.xs, v.xd, v.xq = iq, 0, 0
			continue
		case f.watching && math.Abs(asked) < .07*base && math.Abs(f.est) < .1*base:
			f.watching = false
		}
		var idWant, iqWant float64
		if f.watching {
			f.est += 900 * ahead * fine
			v.wf = f.est + 60*ahead
			f.lead = max(0, f.lead-rated*fine/.2)
			idWant = f.lead - f.weak
			es := asked - f.est
			limit := math.Sqrt(max(0, most*most-idWant*idWant))
			low, high := -limit, limit
			if c.BusControl {
				room := max(0, min(1, (c.Overvolts*.97-d.v)/(.03*c.Overvolts)))
				if f.est > 0 {
					low *= room
				} else {
					high *= room
				}
			}
			forward, back := d.torqueAmps(kt, f.est)
			low, high = max(low, -back), min(high, forward)
			if d.buffering {
				low, high = d.backing(f.est, limit)
			}
			iqWant = max(low, min(high, kps*es+v.xs))
			if iqWant > low && iqWant < high {
				v.xs += kps * band / 4 * es * fine
			}
		} else {
			f.lead = min(1.05*rated, f.lead+rated*fine/.15)
			idWant, v.wf = f.lead, asked
		}
		v.id, v.iq = idWant, iqWant
		vd, vq := kp*(idWant-id)+v.xd-v.wf*m.L*iq, kp*(iqWant-iq)+v.xq+v.wf*m.L*id
		if f.watching {
			vq += v.wf * m.Psi
		}
		a, top := math.Hypot(vd, vq), d.v/math.Sqrt(3)
		if f.watching && a > .96*top {
			f.weak = min(.7*rated, f.weak+rated*fine/.3)
		} else {
			f.weak = max(0, f.weak-rated*fine/.3)
		}
		if a > top {
			vd, vq = vd*top/a, vq*top/a
		} else {
			v.xd += ki * (idWant - id) * fine
			v.xq += ki * (iqWant - iq) * fine
			if !f.watching { // the voltage that the turning rotor induces lies along both
				v.xd += 120 * m.L * 900 * (idWant - id) * fine
				v.xq += 120 * m.L * 900 * (iqWant - iq) * fine
			}
		}
		v.vd, v.vq = vd, vq
		d.apply(vd, vq, v.wf, fine, false)
	}
	d.Hz = v.wf / (2 * math.Pi)
	d.Volts = math.Hypot(v.vd, v.vq)
	v.full = false
	if f.watching {
		v.est = f.est
		d.limits(most, kt, f.est)
	}
}

// turnFrame turns the control's frame forward by an angle.
func (d *Drive) turnFrame(angle float64) {
	d.open.angle += angle
	s, c := math.Sincos(-angle)
	x := &d.x
	x.Ds, x.Qs = x.Ds*c-x.Qs*s, x.Ds*s+x.Qs*c
	x.Dr, x.Qr = x.Dr*c-x.Qr*s, x.Dr*s+x.Qr*c
}
