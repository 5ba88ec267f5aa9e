package drive

import "math"

// What kinetic buffering holds of the link's usual voltage while the mains is away, where it takes the mains for back, and the share of the
// link below the first in which the whole torque is given back; the voltage that is usual is followed slowly, so that a mains that is low
// for long is not taken for one that is away. Common practice.
const (
	usualTau    = 5.   // s
	bufferLeast = 1.06 // of the undervoltage
	bufferHolds = .82
	bufferEnds  = .87
	bufferBand  = .1
	bufferGain  = .12 // of the ramp, 1/(V·s) of the rated slip
	bufferAhead = .06 // s
	bufferAgain = 6.  // 1/s
	bufferJump  = 1.25
	bufferPace  = 400. // Hz/s
)

// bufferFloor is the voltage that is held, V.
func (d *Drive) bufferFloor() float64 {
	return max(bufferLeast*d.C.Undervolts, bufferHolds*min(d.usual, 1.35*d.C.LineVolts))
}

// buffers lets the shaft feed the link while the mains is away: kinetic buffering. hz is where the ramp is to go, soon where the link is
// about to be, V. While it does, the ramp is its own: lowered by what the link lacks on volts per hertz; on vector control it follows the
// shaft, whose torque current does the same. It never goes above where it stands, or is to go.
func (d *Drive) buffers(hz, soon float64) bool {
	if !d.C.RideThrough || d.v > bufferEnds/bufferHolds*d.bufferFloor() && d.link.open > d.bufferFloor() {
		d.buffering = false
		return false
	}
	floor := d.bufferFloor()
	if !d.buffering && soon > floor {
		return false
	}
	a := math.Abs(d.ramp.hz)
	most := max(a, math.Abs(hz))
	if !d.buffering && d.C.Control == "volts-per-hertz" { // at once down to where the shaft gives and takes nothing
		a -= bufferJump * d.slipAt(max(1, math.Abs(d.Hz)))
		d.slipHz, d.bufferRate = 0, 0
	}
	d.buffering = true
	d.Limiting = "mains"
	d.ramp.rate = 0
	if d.C.Control == "volts-per-hertz" {
		lacks := (d.v - floor) * bufferGain * d.C.Motor.slip()
		d.bufferRate = max(-bufferPace, min(0, d.bufferRate+bufferAgain*lacks*Tick))
		slope := (soon - d.v) / soonest * bufferGain * d.C.Motor.slip()
		a += max(-bufferPace, min(bufferPace, lacks+bufferAhead*slope+d.bufferRate)) * Tick
	} else {
		a = math.Abs(d.shaftHz())
	}
	d.ramp.hz = math.Copysign(max(0, min(a, most)), d.ramp.hz)
	return true
}

// backing is the torque current, A, while the shaft feeds the link: by how far the link is below what is held, and nothing else. It comes
// as both bounds of what the speed controller asks for. speed is the shaft's, most the current that is left for torque.
func (d *Drive) backing(speed, most float64) (low, high float64) {
	floor := d.bufferFloor()
	amps := most * max(0, min(1, (floor-d.v)/(bufferBand*floor)))
	amps = -math.Copysign(amps, speed)
	return amps, amps
}
