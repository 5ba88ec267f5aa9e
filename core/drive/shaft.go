package drive

import (
	"math"

	"tingate/core/machine"
	"tingate/core/motion"
)

// Brake is a mechanical brake on the motor's shaft. It closes when nobody opens it.
type Brake struct {
	Torque        float64 // N·m that it holds; 0: none fitted
	Follows       bool    // the drive opens it, while it gives torque
	Lifted        bool    // its own supply opens it
	Opens, Closes float64 // s
}

// Shaft is what lies between motor and load when it is not stiff: it swings.
type Shaft struct {
	Stiffness float64 // N·m/rad; 0: stiff
	Damping   float64 // N·m/(rad/s)
}

// ShaftFor gives a shaft that swings at a frequency (Hz) between two inertias (kg·m²), with a fiftieth of critical damping. Common
// practice for steel shafts and couplings.
func ShaftFor(hz, motorJ, loadJ float64) Shaft {
	if !(hz > 0) || !(motorJ > 0) || !(loadJ > 0) {
		return Shaft{}
	}
	j := motorJ * loadJ / (motorJ + loadJ)
	w := 2 * math.Pi * hz
	return Shaft{w * w * j, 2 * .02 * w * j}
}

// Swing is the fastest shaft that a step of a tick can follow, Hz.
const Swing = 80

// brake moves it: it opens while the drive gives torque, or by its own supply.
func (d *Drive) brake(h float64) {
	b := &d.P.Brake
	if b.Torque <= 0 {
		d.Gripping = 0
		return
	}
	open := b.Lifted
	if b.Follows {
		open = d.Running && !d.C.BrakeShut && d.Phase != Magnetising && d.Phase != Searching && !d.holding && d.letsOpen()
	}
	took := b.Closes
	least := 0.0
	if open {
		took, least = b.Opens, d.P.Broken.BrakeDrags
		if d.lifting += h; d.lifting < d.P.Broken.BrakeLate {
			open = false
		}
	} else {
		d.lifting = 0
	}
	step := 1.0
	if took > h {
		step = h / took
	}
	if open {
		step = -step
	}
	d.Gripping = max(least, min(1, d.Gripping+step))
	if d.Gripping == 1 && d.Running && math.Abs(d.x.W) > 10 {
		if d.rubbed += h; d.rubbed > 2 {
			d.Damage = "The motor turns against its closed brake: lining burnt."
		}
	} else {
		d.rubbed = 0
	}
}

// letsOpen tells whether the drive, by its settings, lets its brake open or stay open now.
func (d *Drive) letsOpen() bool {
	if d.Phase == Stopping && math.Abs(d.ramp.hz) < d.C.BrakeBelow {
		return false
	}
	if d.Gripping < 1 { // it has begun to open
		return true
	}
	return d.Current >= d.C.BrakeFrom && math.Abs(d.Torque) >= d.C.BrakeTorque
}

// grip is what the brake holds now, N·m.
func (d *Drive) grip() float64 { return d.P.Brake.Torque * d.Gripping }

// swinging tells whether the load hangs on the motor by a shaft that gives.
func (d *Drive) swinging() bool { return d.coupled() && d.shaft.Stiffness > 0 && d.loadJ() > 0 }

// givingHz is what a shaft that is stiff otherwise swings at where its belt slips or its gears have play, Hz: as belts do. Common practice.
const givingHz = 15

// giving is the shaft as it is: where a belt slips or there is play, what lies between swings.
func (d *Drive) giving() Shaft {
	if b := &d.P.Broken; d.P.Shaft.Stiffness == 0 && (b.BeltSlips > 0 || b.Play > 0) {
		return ShaftFor(givingHz, d.P.Inertia, d.loadJ())
	}
	return d.P.Shaft
}

// through is the torque that a shaft that gives hands on to the load, with the motor at a speed (rad/s), N·m; slope is how it changes with
// that, and slips tells that a belt slips, so that nothing winds up.
func (d *Drive) through(w float64) (torque, slope float64, slips bool) {
	s, b := &d.shaft, &d.P.Broken
	twist := d.twist
	if b.Play > 0 {
		if math.Abs(twist) <= b.Play/2 {
			return 0, 0, false
		}
		twist -= math.Copysign(b.Play/2, twist)
	}
	torque = s.Stiffness*twist + s.Damping*(w-d.LoadW)
	if b.BeltSlips > 0 && math.Abs(torque) > b.BeltSlips {
		return math.Copysign(b.BeltSlips, torque), 0, true
	}
	return torque, s.Damping, false
}

// swing moves the load behind a shaft that gives, by one tick.
func (d *Drive) swing(h float64) {
	switch {
	case !d.swinging():
		d.LoadW, d.twist = d.x.W, 0
	case !d.shared: // else the pair moves it
		t, _, slips := d.through(d.x.W)
		d.pull(t, h)
		d.wind(slips, h)
	}
}

// wind twists the shaft by what its ends turn against one another; a belt that slips winds nothing up.
func (d *Drive) wind(slips bool, h float64) {
	if !slips {
		d.twist += h * (d.x.W - d.LoadW)
	}
}

// pull moves the load by one tick under a torque on it.
func (d *Drive) pull(t, h float64) {
	load := d.carried()
	switch {
	case d.P.Broken.Jammed:
		d.LoadW = 0
	case d.LoadW == 0 && load.Kind != "hanging" && load.Holds(t):
	default:
		w := d.LoadW
		if w == 0 {
			w = math.Copysign(1e-9, t)
		}
		drag, slope := load.At(w)
		next := d.LoadW + h*(t-drag)/(d.loadJ()+h*slope)
		if d.LoadW != 0 && next*d.LoadW < 0 && load.Holds(t) {
			next = 0
		}
		if d.P.Backstop && next < 0 {
			next = 0
		}
		d.LoadW = next
	}
}

// loadJ is the load's inertia as it is now, kg·m².
func (d *Drive) loadJ() float64 {
	if f := d.P.Broken.Filled; f > 0 {
		return d.P.LoadJ * f
	}
	return d.P.LoadJ
}

// fills takes a load that has become heavier to turn while it turns: what came on lay still, so what it had of momentum stays, and its
// speed does not. What is taken off takes its momentum along.
func (d *Drive) fills() {
	before, after := d.inertiaWas, d.loadJ()
	if d.inertiaWas = after; before == 0 || after <= before || !d.coupled() {
		return
	}
	if d.swinging() {
		d.LoadW *= before / after
		return
	}
	d.x.W *= (d.P.Inertia + before) / (d.P.Inertia + after)
}

// coupled tells whether the load hangs on the motor.
func (d *Drive) coupled() bool { return d.P.Coupled && !d.P.Broken.Loose }

// inertia of what turns with the motor as one, kg·m².
func (d *Drive) inertia() float64 {
	if d.coupled() && !d.swinging() {
		return d.P.Inertia + d.loadJ()
	}
	return d.P.Inertia
}

// drag is what opposes the shaft about its present speed.
func (d *Drive) drag() machine.Drag {
	w := d.x.W
	if w == 0 {
		w = math.Copysign(1e-9, d.airgapTorque(&d.x))
	}
	grip := math.Copysign(d.grip(), w)
	if d.swinging() {
		t, slope, _ := d.through(w)
		return machine.Drag{T0: t + d.P.Rub*w + grip, W0: w, Slope: slope + d.P.Rub}
	}
	t, slope := d.rubbing.At(w)
	return machine.Drag{T0: t + d.P.Rub*w + grip, W0: w, Slope: slope + d.P.Rub}
}

// holds tells whether the shaft cannot be moved by a torque.
func (d *Drive) holds(torque float64) bool {
	if grip := d.grip(); grip > 0 {
		net := torque
		if d.swinging() {
			t, _, _ := d.through(0)
			net -= t
		} else if d.rubbing.Kind == "hanging" {
			net -= d.rubbing.Torque
		} else if d.rubbing.Kind == "constant" {
			net = math.Copysign(max(0, math.Abs(net)-d.rubbing.Torque), net)
		}
		return math.Abs(net) <= grip+d.rubbing.Rubs
	}
	if d.swinging() {
		return false
	}
	if d.P.Broken.Jammed && d.coupled() {
		return true
	}
	if d.P.Backstop && d.coupled() && torque < 0 && d.x.W <= 0 {
		if torque < -.05*d.P.Load.Torque && torque < -1 {
			d.Damage = "The motor pushes against the backstop."
		}
		return true
	}
	return d.rubbing.Holds(torque)
}

// rests tells whether the shaft stays at rest by itself: no load falls, nothing swings.
func (d *Drive) rests() bool {
	return d.rubbing.Kind != "hanging" && d.rubbing.Drift == 0 && !d.swinging()
}

// carried is what hangs on the motor's own shaft.
func (d *Drive) carried() motion.Load {
	if !d.coupled() {
		return motion.Load{}
	}
	load := d.P.Load
	if load.Kind == "quadratic" {
		load.Drift = d.P.Broken.Draught
	}
	return load
}
