package drive

import (
	"math"

	"tingate/core/motion"
)

// ambient is the air around motor and drive, °C.
const ambient = 25

// overcurrent is where the power stage lets go, over its rated current.
const overcurrent = 2.6

// measure is what the drive sees of itself, and what a person sees of the shaft.
func (d *Drive) measure(in *Inputs, h float64) {
	id, iq := d.amps()
	amps := 0.0
	if d.inverts() {
		amps = math.Sqrt((id*id+iq*iq)*.5) + in.Noise[0]*d.noise()*.005*d.C.Rated
		if d.P.Broken.CableMetres > 0 {
			amps = math.Hypot(amps, d.charging())
		}
	}
	if d.Current += (math.Abs(amps) - d.Current) * min(1, h/.003); d.Current < 1e-9 {
		d.Current = 0
	}
	if d.inverts() && d.Volts > 1 {
		active := d.Power / (1.5 * d.Volts) / math.Sqrt2
		d.Working += (active - d.Working) * h / .02
	} else {
		d.Working = 0
	}
	d.phaseCurrents(h)
	d.earth()
	d.Torque = d.airgapTorque(&d.x)
	if !d.inverts() {
		d.Torque = 0
	}
	d.Speed = d.x.W * 30 / math.Pi
	d.Link = d.v
	d.Travel += d.x.W * h / (2 * math.Pi)
	d.encode(h)
	if most := overcurrent * math.Sqrt2 * d.C.Rated; d.inverts() && id*id+iq*iq > most*most {
		d.trip("overcurrent")
	}
}

// encode counts, and reads the count as the drive is set to.
func (d *Drive) encode(h float64) {
	if d.P.Lines <= 0 || d.P.Broken.EncoderDead {
		d.Encoder = 0
		return
	}
	lines := d.P.Lines
	if d.P.Broken.EncoderLines > 0 {
		lines = d.P.Broken.EncoderLines
	}
	lines *= 1 - d.P.Broken.EncoderSlips
	if half := .5 * d.C.Motor.Speed * math.Pi / 30; d.P.Broken.EncoderDroops && math.Abs(d.x.W) > half {
		lines *= half / math.Abs(d.x.W)
	}
	sign := 1.0
	if d.P.Broken.EncoderSwapped {
		sign = -1
	}
	if d.P.Broken.EncoderHalf { // the edges of one channel count up and down in turn
		d.Count = 2*math.Floor(d.Count/2) + math.Mod(math.Floor(math.Abs(d.Travel)*2*lines), 2)
		d.Encoder -= d.Encoder * min(1, h/.003)
		return
	}
	was := math.Floor(d.Count)
	d.Count += sign * d.x.W * h / (2 * math.Pi) * 4 * lines
	if d.C.Lines > 0 {
		if d.C.Backwards {
			sign = -1
		} else {
			sign = 1
		}
		rpm := sign * (math.Floor(d.Count) - was) / (4 * d.C.Lines) / h * 60
		d.Encoder += (rpm - d.Encoder) * min(1, h/.003)
	}
}

// protect watches: link, overload, temperatures, phases, stall, encoder.
func (d *Drive) protect(h float64) {
	d.Warning = ""
	switch {
	case d.v > d.C.Overvolts:
		d.trip("bus-over-voltage")
	case d.Running && d.v < d.C.Undervolts:
		d.trip("bus-under-voltage")
	}
	if d.C.Overload > 0 {
		x := d.Current / d.C.Overload
		x *= x
		if share := math.Abs(d.ramp.hz) / d.C.Motor.Frequency; d.C.SelfCooled && share < 1 {
			x /= motion.OwnFan(share, true) // the heat that is carried away; the current goes by its root: 63 % of it at standstill
		}
		d.replica += h * (x - d.replica) / d.tau
		if d.Warmth = d.replica / 1.21; d.Warmth >= 1 {
			d.trip("motor-overload")
		} else if d.Warmth > .95 {
			d.Warning = "motor-overload"
		}
	}
	if wires := d.P.Broken.Sensor; d.C.Sensor && (d.Winding > 150 && wires != "shorted" || wires == "open") {
		d.trip("motor-overload")
	}
	if d.Sink > 90 {
		d.trip("drive-temperature")
	} else if d.Sink > 80 {
		d.Warning = "drive-temperature"
	}
	d.heatResistor(h)
	d.phases(h)
	d.outputPhase(h)
	d.earthFault(h)
	d.stall(h)
	d.feedback(h)
	if d.precharged && d.outside() {
		d.trip("external")
	}
}

// outside tells that an input reports a fault from outside: it is on. Common practice; a contact that opens is turned over by its setting.
func (d *Drive) outside() bool {
	on, _ := d.on(fnExternal)
	return on
}

// stall is the current at its limit for seconds while the shaft does not follow.
func (d *Drive) stall(h float64) {
	at := d.Running && d.Current > .97*d.C.CurrentLimit && (math.Abs(d.Hz) < 5 || math.Abs(d.limited) > .3*math.Abs(d.ramp.hz))
	if !at {
		d.stalled = 0
		return
	}
	if d.stalled += h; d.stalled > 4 {
		d.react(d.C.Stall, "motor-overload", "stall")
	}
}

// react does what a setting says of something seen: nothing, a warning or a trip.
func (d *Drive) react(how, fault, warning string) {
	switch how {
	case "fault":
		d.trip(fault)
	case "warning":
		d.Warning = warning
	}
}

// feedback sees an encoder that says nothing, or the other way.
func (d *Drive) feedback(h float64) {
	if !d.Running || d.C.Control != "encoder" {
		d.low = 0
		return
	}
	hz := d.Encoder * d.vec.pairs / 60
	silent := math.Abs(d.Hz) > 2 && math.Abs(hz) < .2 && d.Current > .9*d.C.CurrentLimit
	away := math.Abs(hz) > 1.25*d.C.Highest || hz*d.ramp.hz < 0 && math.Abs(hz) > .3 && d.Current > .9*d.C.CurrentLimit
	if !silent && !away {
		d.low = 0
		return
	}
	if d.low += h; d.low > .3 {
		d.trip("encoder")
	}
}

// warm moves the temperatures of winding, frame and heat sink.
func (d *Drive) warm(h float64) {
	k := &d.k
	i := k.Currents(d.x)
	loss := 0.0
	if d.inverts() {
		m := d.P.Motor
		hot := 1 + .00393*(d.Winding-20)
		if d.salience != 0 {
			i.Ds, i.Qs, _ = d.alone(&d.x)
		}
		loss = 1.5*hot*(m.Rs*(i.Ds*i.Ds+i.Qs*i.Qs)+m.Rr*(i.Dr*i.Dr+i.Qr*i.Qr)) + d.iron()
	}
	t := d.P.Thermal
	if t.Winding > 0 {
		out := t.Outer
		if t.Own {
			out *= .2 + .8*min(1.2, math.Abs(d.x.W)/t.Speed)
		}
		through := t.Inner * (d.Winding - d.Frame)
		d.Winding += h * (loss - through) / t.Winding
		d.Frame += h * (through + d.P.Rub*d.x.W*d.x.W - out*(d.Frame-ambient)) / t.Frame
	}
	x := d.Current / d.C.Rated
	rise := (8 + 32*x*x) * (1 + (d.C.Switching-4)*.06)
	tau := 90.0
	if d.P.Broken.FanDead {
		rise *= 2.6
		tau *= 2
	}
	if d.P.Broken.Clogged {
		rise *= 1.7
	}
	if !d.Powered {
		rise = 0
	}
	d.Sink += h * (ambient + rise - d.Sink) / tau
	d.psi2 = d.airgap()
	if d.precharged && !d.buffering {
		d.usual += (d.v - d.usual) * h / usualTau
	}
}
