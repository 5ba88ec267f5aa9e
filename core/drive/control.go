package drive

import (
	"math"

	"tingate/core/machine"
)

// deadTime is how long both switches of a leg are off, s, and how much of the voltage that it takes is given back.
const (
	deadTime   = 2e-6
	deadMended = .75
)

// lostVolts is what dead time takes from a phase, V amplitude of the fundamental, against the current.
func (d *Drive) lostVolts() float64 {
	return 4 / math.Pi * d.v * deadTime * d.C.Switching * 1000 * (1 - deadMended)
}

// hold works out what changes little within a tick: the load about its speed, what dead time takes (V for an ampere), the losses in the
// iron and in the inverter.
func (d *Drive) hold() {
	id, iq := d.amps()
	a := math.Sqrt(id*id + iq*iq)
	d.dragging, d.dead = d.drag(), d.lostVolts()/max(a, .02*d.C.Rated, 1e-6)
	d.losses = d.iron() + .01*math.Sqrt2/2*d.v*a
	if d.P.Broken.EarthOhms > 0 {
		_, watts := d.earthed()
		d.losses += watts
	}
}

// apply moves machine and link by h seconds with a voltage held in a frame that turns with wf.
func (d *Drive) apply(vd, vq, wf, h float64, long bool) {
	if d.P.Broken.OutputLost {
		d.applyOpen(vd, vq, wf, h)
		return
	}
	d.move(vd, vq, wf, h, long)
}

// move is apply with every phase connected.
func (d *Drive) move(vd, vq, wf, h float64, long bool) {
	k := &d.k
	id, iq := d.amps()
	vd, vq = vd-d.dead*id, vq-d.dead*iq
	invJ, load := d.invJ, d.dragging
	still := d.x.W == 0 && d.holds(d.airgapTorque(&d.x))
	jammed := d.P.Broken.Jammed && d.coupled() && !d.swinging()
	if still || jammed {
		invJ, load = 0, machine.Drag{}
	}
	w := d.x.W
	var next machine.Flux
	var md, mq float64
	switch {
	case d.salience != 0:
		next, md, mq = d.spin(d.x, vd, vq, wf, h, invJ, load)
	case long:
		next, md, mq = k.Hold(d.x, vd, vq, wf, h, invJ, load)
	default:
		next, md, mq = k.Glide(d.x, vd, vq, wf, h, invJ, load)
	}
	if still || jammed || w != 0 && next.W*w < 0 && d.holds(d.airgapTorque(&next)) {
		next.W = 0
	}
	if d.P.Backstop && d.coupled() && !d.swinging() && next.W < 0 {
		next.W = 0
	}
	idle := d.losses
	p0 := 1.5*(vd*id+vq*iq) + idle
	pm := 1.5*(vd*md+vq*mq) + idle
	p1 := 1.5*(vd*(k.A*next.Ds-k.B*next.Dr)+vq*(k.A*next.Qs-k.B*next.Qr)) + idle
	if d.more {
		p0, pm, p1 = d.morePower(vd, vq, wf, h, long, p0, pm, p1)
	}
	d.Power = pm
	if long {
		d.v = d.link.tick(d.v, p0, pm, p1, h)
	} else {
		d.v = d.link.step(d.v, p0, pm, p1, h)
	}
	if !(d.v > 1) {
		d.v = 1
	}
	d.x = next
}

// iron is the loss in the iron, W.
func (d *Drive) iron() float64 {
	if d.P.Iron <= 0 {
		return 0
	}
	e := 2 * math.Pi * d.Hz
	return 1.5 * e * e * d.psi2 / d.P.Iron
}

// direct is direct current for one tick: what brakes is a voltage; what stands is regulated, since so small a current drowns in the
// inverter's dead time.
func (d *Drive) direct(h float64) {
	d.Hz = 0
	switch {
	case d.Phase == Magnetised:
		id, iq := d.amps()
		d.Volts = max(0, d.Volts+(d.standing()*math.Sqrt2-math.Hypot(id, iq))*d.C.Known.Rs*h/.1)
	case d.holding:
		d.Volts = d.C.Known.Rs * d.C.HoldAmps * math.Sqrt2
	default:
		d.Volts = d.C.Known.Rs * d.C.BrakeAmps * math.Sqrt2
	}
	d.hold()
	d.apply(d.Volts, 0, 0, h, true)
}

// scalar is volts per hertz for one tick.
func (d *Drive) scalar(_ *Inputs, h float64) {
	if d.Phase == Braking || d.Phase == Magnetised {
		d.direct(h)
		return
	}
	d.hold()
	over := d.Current/d.C.CurrentLimit - 1
	motoring := d.Power > 0
	switch {
	case over > 0 && motoring:
		d.limited += 30 * over * h * (1 + math.Abs(d.ramp.hz)/10)
	case over > 0:
		d.limited -= 30 * over * h * (1 + math.Abs(d.ramp.hz)/10)
	default:
		d.limited -= math.Copysign(min(math.Abs(d.limited), d.C.Rise*h), d.limited)
	}
	a := math.Abs(d.ramp.hz)
	d.limited = max(-a, min(a, d.limited))
	f := a - d.limited
	if d.C.SlipComp {
		want := 0.0
		if f > 1 {
			want = d.slipAt(f)
		}
		d.slipHz += (want - d.slipHz) * h / .1
		f = max(0, f+d.slipHz)
	}
	f = max(0, f-d.calm(f, h))
	rated := d.C.Motor.Voltage * math.Sqrt(2./3)
	u := rated * VoltsShare(d.C.Quadratic, d.C.Boost, f/d.C.Motor.Frequency)
	if f == 0 && d.C.Boost == 0 {
		u = 0
	}
	most := d.v / math.Sqrt(3)
	u = most - ramp(most-u, 2)
	// At the lowest frequencies the current follows the voltage, not the slip: the limit takes of that too.
	if over > 0 && f < 5 {
		d.sag = min(.8, d.sag+8*over*h)
	} else {
		d.sag = max(0, d.sag-h*.5)
	}
	u *= 1 - d.sag
	if d.C.FlyingStart {
		u *= min(1, d.since/.4) // onto a motor that turns, the voltage is brought up
	}
	d.Hz = math.Copysign(f, d.ramp.hz)
	d.Volts = u
	d.apply(u, 0, 2*math.Pi*d.Hz, h, true)
}

// slipAt is the slip at the present load as a drive on volts per hertz knows it, Hz, at a frequency: the torque follows from what crosses
// the air gap, the slip with it.
func (d *Drive) slipAt(f float64) float64 {
	m := d.C.Motor
	if !(m.Power > 0) || !(m.Speed > 0) {
		return 0
	}
	gap := 1.5*math.Sqrt2*d.Working*d.Volts - 3*d.C.Known.Rs*d.Current*d.Current
	full := m.Power * 120 * m.Frequency / (m.Speed * float64(m.Poles)) // over the air gap at the plate's row
	return m.slip() * max(-1.5, min(1.5, gap/f*m.Frequency/full))
}

// calm gives way with the frequency, Hz, when the working current swings about its mean: a large motor without load swings up on
// volts per hertz otherwise.
func (d *Drive) calm(f, h float64) float64 {
	id, _ := d.amps()
	active := id / (math.Sqrt2 * d.C.Motor.Current)
	d.working += (active - d.working) * h / .12
	return .022 * d.C.Motor.Frequency * (active - d.working) * min(1, f/2)
}

// vector is what field orientation knows and remembers.
type vector struct {
	idn, km, invKm, sls, tr, kpc, kic, kps, kis, pairs, base float64
	xs, xd, xq                                               float64
	wf, est                                                  float64 // electrical rad/s
	id, iq                                                   float64 // asked
	vd, vq                                                   float64
	weak                                                     float64 // of the field, while the voltage is at its end
	im                                                       float64 // the rotor's flux as the current that makes it
	full                                                     bool    // the torque current is at a limit
	unbound                                                  bool    // an input takes the torque limits off
	follow                                                   follower
}

// prepare works the gains out of what the drive knows of its motor.
func (v *vector) prepare(c *Config) {
	m := c.Known
	if !(m.Lm > 0) || !(c.Motor.Frequency > 0) {
		return
	}
	wn := 2 * math.Pi * c.Motor.Frequency
	v.idn = .97 * c.Motor.Voltage * math.Sqrt(2./3) / (wn * m.Ls)
	v.km, v.sls, v.tr = m.Lm*m.Lm/m.Lr, m.Ls-m.Lm*m.Lm/m.Lr, m.Rr/m.Lr
	v.invKm = 1 / v.km
	v.kpc, v.kic = 700*v.sls, 700*(m.Rs+m.Rr*m.Lm*m.Lm/(m.Lr*m.Lr))
	v.pairs = float64(c.Motor.Poles) / 2
	kt := 1.5 * v.pairs * v.km * v.idn
	j := c.Inertia
	if !(j > 0) {
		j = .006 * math.Pow(max(c.Motor.Power, 50)/1000, 1.28)
	}
	const band = 15 // rad/s
	v.kps = band * j / (kt * v.pairs)
	v.kis = v.kps * band / 4
	v.base = wn
}

func (v *vector) start() {
	v.xs, v.xd, v.xq, v.wf, v.est, v.vd, v.vq, v.im, v.weak, v.full = 0, 0, 0, 0, 0, 0, 0, 0, 1, false
	v.follow = follower{}
}

// oriented is field orientation for one tick, in eight steps.
func (d *Drive) oriented(in *Inputs, h float64) {
	v := &d.vec
	most := d.C.CurrentLimit * math.Sqrt2
	open := d.C.Control != "encoder"
	asked := 2 * math.Pi * d.ramp.hz
	d.hold()
	speed := 0.
	// What does not change within the tick.
	noiseD, noiseQ := in.Noise[0]*d.noise()*.005*d.C.Rated, in.Noise[1]*d.noise()*.005*d.C.Rated
	even, calm := d.C.Motor.Voltage*math.Sqrt2, .94*d.C.Overvolts
	fromEncoder := d.Encoder * math.Pi / 30 * v.pairs
	iqMax := math.Sqrt(max(0, most*most-v.id*v.id)) // what magnetises changes little within it
	v.unbound, _ = d.on(fnTorqueFree)
	limited := d.C.TorqueLimit > 0 || d.C.TorqueBraking > 0
	for range 8 {
		k := &d.k
		id, iq := k.A*d.x.Ds-k.B*d.x.Dr, k.A*d.x.Qs-k.B*d.x.Qr
		if d.more {
			id, iq = d.moreAmps(id, iq)
		}
		id += noiseD
		iq += noiseQ
		// The field is weakened by speed, and further while the voltage is at its end: the current must stay in hand.
		v.id = v.idn * v.weak
		top := .86 * v.base
		if d.v < even {
			top *= d.v / even
		}
		if math.Abs(v.wf) > top {
			v.id *= top / math.Abs(v.wf)
		}
		speed = fromEncoder
		if open {
			speed = v.est
		}
		low, high := -iqMax, iqMax
		if limited {
			forward, back := d.torqueAmps(1.5*v.pairs*v.km*max(.3*v.idn, v.im), speed)
			low, high = max(low, -back), min(high, forward)
		}
		if d.C.BusControl && d.v > calm { // less torque back into a link that is full
			room := max(0, min(1, (d.C.Overvolts*.97-d.v)/(.03*d.C.Overvolts)))
			if speed > 0 {
				low *= room
			} else if speed < 0 {
				high *= room
			}
		}
		if d.buffering {
			low, high = d.backing(speed, iqMax)
		}
		v.iq = 0
		if d.Phase != Magnetising {
			es := asked - speed
			v.iq = v.kps*es + v.xs
			switch {
			case v.iq > high:
				v.iq = high
			case v.iq < low:
				v.iq = low
			default:
				v.xs += v.kis * es * fine
			}
		}
		// The rotor's flux follows its current by the rotor's time constant.
		v.im += (id - v.im) * v.tr * fine
		flux := max(.3*v.idn, v.im)
		inv := 1 / flux
		slip := v.tr * v.iq * inv
		v.wf = speed + slip
		if open {
			v.orient(d.C.Known.Rs, id, iq, asked, slip, inv, d.Phase == Magnetising)
		}
		vd := v.kpc*(v.id-id) + v.xd - v.wf*v.sls*iq
		vq := v.kpc*(v.iq-iq) + v.xq + v.wf*(v.sls*id+v.km*flux)
		vm2 := d.v * d.v * (1. / 3)
		a := vd*vd + vq*vq
		if a > .9*vm2 {
			v.weak = max(.3, v.weak-fine/.05)
		} else {
			v.weak = min(1, v.weak+fine/.5)
		}
		if a > vm2 {
			c := math.Sqrt(vm2 / a)
			vd, vq = vd*c, vq*c
		} else {
			v.xd += v.kic * (v.id - id) * fine
			v.xq += v.kic * (v.iq - iq) * fine
		}
		v.vd, v.vq = vd, vq
		d.apply(vd, vq, v.wf, fine, false)
	}
	d.Hz = v.wf / (2 * math.Pi)
	d.Volts = math.Hypot(v.vd, v.vq)
	d.limits(math.Sqrt(max(0, most*most-v.id*v.id)), 1.5*v.pairs*v.km*max(.3*v.idn, v.im), speed)
}

// limits says which limit holds the torque current, if one does: most is what the current limit leaves of it, A.
func (d *Drive) limits(most, perAmp, speed float64) {
	v := &d.vec
	forward, back := d.torqueAmps(perAmp, speed)
	v.full = true
	switch {
	case math.Abs(v.iq) > .98*most:
		d.Limiting = "current"
	case v.iq > .98*forward || -v.iq > .98*back:
		d.Limiting = "torque"
	default:
		v.full = false
	}
}

// torqueAmps is the torque current that the torque limits leave, forward and back, at a speed: of the two that which drives is one limit's,
// that which gives back the other's. perAmp is the torque of an ampere, N·m.
func (d *Drive) torqueAmps(perAmp, speed float64) (forward, back float64) {
	c := &d.C
	amps := func(share float64) float64 {
		if !(share > 0) || !(perAmp > 0) || d.vec.unbound {
			return math.Inf(1)
		}
		return share * c.Motor.Torque() / perAmp
	}
	forward, back = amps(c.TorqueLimit), amps(c.TorqueBraking)
	if speed < 0 {
		forward, back = back, forward
	}
	return forward, back
}

// orient finds the frame's speed and the shaft's without an encoder: from the voltage that the flux induces; at the lowest
// speeds, where that drowns, and while the flux builds, from what is asked.
func (v *vector) orient(rs, id, iq, asked, slip, invFlux float64, builds bool) {
	ed := v.vd - rs*id + v.wf*v.sls*iq
	eq := v.vq - rs*iq - v.wf*v.sls*id
	wf := (eq - math.Copysign(1, eq)*ed) * v.invKm * invFlux
	sure := max(0, min(1, max(math.Abs(asked), math.Abs(v.est))*(1/(6*math.Pi))-1./3))
	if builds {
		sure = 0
	}
	v.est += (sure*(wf-slip) + (1-sure)*asked - v.est) * (fine / .01)
	v.wf = v.est + slip
}

// VoltsShare is the share of the motor's voltage that volts over hertz give at a share of its frequency: even, or with the square, boosted
// at standstill by a share of the voltage. Common practice for the square: never less flux than about a third.
func VoltsShare(quadratic bool, boost, x float64) float64 {
	u := x
	if quadratic && x < 1 {
		u = x * x
		if x > 0 {
			u = max(u, .35*x) // a machine that is lightly loaded still wants some flux
		}
	}
	return min(1, boost+(1-boost)*u)
}
