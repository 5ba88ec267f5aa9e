package drive

import (
	"math"

	"tingate/core/safety"
)

// sequence is the run logic: start, run, stop by ramp, by coasting or by direct current.
func (d *Drive) sequence(in *Inputs, hz float64, run bool) {
	pressed, _ := d.on(fnReset)
	if (in.Reset || pressed && !d.pressed) && d.Fault != "" {
		d.reset(in)
	}
	d.pressed = pressed
	if d.Fault == "bus-under-voltage" && d.C.LowClears && d.precharged && d.v > 1.1*d.C.Undervolts {
		d.Fault, d.cmd.armed = "", false
		d.Device.Gone()
		d.Device.Write(0)
		d.Device.Write(0x80)
	}
	if d.restartIn > 0 {
		if d.restartIn -= Tick; d.restartIn <= 0 && d.Fault != "" {
			d.Fault = ""
			d.cmd.armed = true
			d.Device.Gone()
			d.Device.Write(0)
			d.Device.Write(0x80)
		}
	}
	if !d.free() {
		d.off()
		if run {
			d.cmd.armed = d.C.AutoRestart && d.Fault != "" && d.STO.State != safety.TorqueOff
		}
		return
	}
	switch {
	case run && !d.Running:
		d.begin()
	case !d.Running && (d.Phase == Off || d.Phase == Magnetised):
		was := d.Phase
		if d.Phase = Off; d.Blocked == "" && d.standing() > 0 {
			if d.Phase = Magnetised; was == Off {
				d.Volts = 0
			}
		}
	case !run && (d.Phase == Searching || d.holding):
		d.off()
		return
	case !run && d.Running && d.Phase == Running:
		if coast := d.C.Coast; coast && !d.cmd.quick && !(d.Blocked == "interlock" && d.C.Interlock == "ramp") {
			d.off()
			return
		}
		d.Phase = Stopping
	case run && (d.Phase == Stopping || d.Phase == Braking && !d.holding):
		d.Phase = Running
	}
	if !d.Running {
		return
	}
	d.since += Tick
	if d.restarted > 0 && d.since > ranWell {
		d.restarted = 0
	}
	if d.Phase == Magnetising {
		if d.since >= d.magnetisingTime() {
			d.Phase = Running
		}
		return
	}
	switch d.Phase {
	case Searching:
		return
	case Running:
		if d.since < d.C.BrakeWait && d.ramp.hz == 0 { // torque first, then the brake, then the ramp
			return
		}
	case Braking:
		switch {
		case d.holding && d.since > d.C.HoldTime: // what turned has been brought to rest: now the run begins
			d.holding = false
			d.turnOn()
		case !d.holding && d.since > d.C.BrakeTime:
			d.off()
		}
		return
	}
	up, down := d.C.Rise, d.C.Fall
	if second, _ := d.on(fnSecondRamp); second && d.C.Rise2 > 0 {
		up, down = d.C.Rise2, d.C.Fall2
	}
	if d.cmd.jogging && d.C.JogRamp > 0 {
		up, down = d.C.JogRamp, d.C.JogRamp
	}
	if d.Phase == Stopping {
		hz = 0
		if d.cmd.quick && d.C.QuickFall > 0 {
			down = d.C.QuickFall
		}
	} else {
		d.cmd.quick = false
	}
	d.Limiting = ""
	soon := d.v + (d.v-d.before)/Tick*soonest // where the link will be when the machine has answered
	d.before = d.v
	rising := math.Abs(hz) > math.Abs(d.ramp.hz) && hz*d.ramp.hz >= 0 // against its direction it goes to zero first
	switch {
	case d.buffers(hz, soon):
	case d.Current > d.C.CurrentLimit && d.C.Control == "volts-per-hertz" && (rising || d.Power < 0):
		d.Limiting = "current"
	case d.waits(hz): // a shaft that a limit holds back is not run away from
	case !rising && d.C.BusControl && soon > d.linkCeiling():
		d.Limiting = "link"
		if d.ramp.rate != 0 {
			d.eased = max(.02, d.eased*.6) // the next try falls slower
		}
		d.ramp.rate = 0
		if d.Power < 0 {
			d.ramp.hz += math.Copysign(min(400, 6*(soon-d.linkCeiling()))*Tick, d.ramp.hz)
		}
	default:
		d.eased = min(1, d.eased+.3*Tick)
		d.ramp.step(hz, up, down*d.eased, d.C.SStart, d.C.SEnd, d.C.Highest, Tick)
	}
	if d.Phase == Stopping && math.Abs(d.ramp.hz) <= max(.01, d.C.BrakeHz) {
		if d.C.BrakeAmps > 0 && d.C.BrakeTime > 0 {
			d.Phase, d.since = Braking, 0
		} else if math.Abs(d.ramp.hz) <= .01 {
			d.off()
		}
	}
}

// ranWell is how long a drive runs without a fault until its restarts are counted anew, s. Common practice.
const ranWell = 60

// ahead is how far the ramp may be ahead of a shaft that a limit holds back, Hz. Common practice.
const ahead = 1.5

// waits tells whether the ramp stands until the shaft has followed: in vector control at its limit of current or torque, on the way to a
// frequency.
func (d *Drive) waits(hz float64) bool {
	if !d.vec.full || d.C.Control == "volts-per-hertz" {
		return false
	}
	shaft := d.shaftHz()
	if hz > d.ramp.hz {
		return d.ramp.hz > shaft+ahead
	}
	return d.ramp.hz < shaft-ahead
}

// soonest is how soon a machine answers, s. Common practice.
const soonest = .02

// shaftHz is the shaft's speed as vector control knows it, as a frequency, Hz.
func (d *Drive) shaftHz() float64 {
	if d.C.Control == "encoder" {
		return d.Encoder / 60 * d.vec.pairs
	}
	return d.vec.est / (2 * math.Pi)
}

// begin switches the inverter on.
func (d *Drive) begin() {
	d.Running = true
	d.Device.Write(0x06)
	d.Device.Write(0x0F)
	if d.holding = d.C.HoldTime > 0 && d.C.HoldAmps > 0; d.holding {
		d.ramp, d.since, d.Phase = generator{}, 0, Braking
		return
	}
	ready := d.Phase == Magnetised && d.C.Magnetise
	d.turnOn()
	if ready && d.Phase == Magnetising {
		d.since = d.magnetisingTime() // its field stands already
	}
}

// standing is the direct current, A (RMS), in a motor that stands with nothing asked for; 0: none. Magnets need none.
func (d *Drive) standing() float64 {
	if d.C.Magnetise && d.P.Magnet <= 0 && d.C.Known.Ls > 0 && d.C.Motor.Frequency > 0 {
		return d.C.Motor.Voltage / math.Sqrt(3) / (2 * math.Pi * d.C.Motor.Frequency * d.C.Known.Ls)
	}
	return d.C.Preheat
}

// inverts tells whether the inverter works: in a run, or in a motor that stands.
func (d *Drive) inverts() bool { return d.Running || d.Phase == Magnetised }

// turnOn begins a run with the inverter on.
func (d *Drive) turnOn() {
	d.Phase, d.since = Magnetising, 0
	d.ramp = generator{}
	d.limited, d.slipHz, d.stalled, d.sag = 0, 0, 0, 0
	d.vec.start()
	if d.C.FlyingStart && d.P.Magnet > 0 { // what the magnets induce shows where the rotor is
		d.turnFrame(math.Atan2(d.x.Qr, d.x.Dr))
		d.vec.follow = follower{watching: math.Abs(d.x.W*d.k.Pairs) > .1*2*math.Pi*d.C.Motor.Frequency, est: d.x.W * d.k.Pairs}
		d.vec.wf = d.vec.follow.est
	}
	d.before, d.eased, d.working, d.buffering = d.v, 1, 0, false
	switch {
	case !d.C.FlyingStart:
	case d.P.Magnet > 0:
		d.ramp.hz = d.x.W * d.k.Pairs / (2 * math.Pi)
	case d.C.Control == "encoder":
		d.caught(d.shaftHz())
	default:
		d.beginSearch()
	}
}

// off lets go: the stator's current dies at once through the diodes, the rotor's flux goes on.
func (d *Drive) off() {
	if !d.Running {
		if d.Phase == Magnetised {
			d.Phase = Off
		}
		return
	}
	d.Running, d.Phase, d.holding, d.buffering = false, Off, false, false
	d.ramp, d.limited, d.Limiting = generator{}, 0, ""
	if d.Device.State == OperationEnabled {
		d.Device.Write(0x06)
	}
}
