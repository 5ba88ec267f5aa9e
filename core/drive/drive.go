package drive

import (
	"math"
	"slices"

	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/core/safety"
)

// Tick is how long the inputs are held, s; volts per hertz is worked out once in it, vector control eight times.
const (
	Tick = 1e-3
	fine = Tick / 8
)

// Trip is a fault with the figures that stood when it came.
type Trip struct {
	Code                                         string
	At                                           float64 // s
	Hz, Current, Speed, Link, Torque, Hot, Motor float64
}

// Phase is what a drive does with its motor.
type Phase string

// The phases. Tuning is a tune's, which has the power stage.
const (
	Off         Phase = "off"
	Magnetising Phase = "magnetising"
	Running     Phase = "running"
	Stopping    Phase = "stopping"
	Braking     Phase = "braking"
	Tuning      Phase = "tuning"
	Magnetised  Phase = "magnetised" // it stands, and direct current is in its motor: ready at once, or kept warm
)

// Drive is a drive, its motor and its load in time. Set C and P, call Start, then Step once a millisecond. It allocates nothing
// while it steps.
type Drive struct {
	C Config
	P Plant

	// What can be seen from outside, after each Step.
	Time                        float64
	Powered                     bool
	Running                     bool       // the inverter works
	Hz, Volts, Current, Speed   float64    // output; A rms as measured; r/min of the shaft
	Phases                      [3]float64 // A rms of U, V and W, as a clamp meter reads them
	Torque, Link, Power         float64    // N·m of the air gap; V; W into the motor
	Working                     float64    // A rms along the voltage, as the drive sees it
	Warmth                      float64    // of the overload replica, 1: the limit
	Winding, Frame, Sink        float64    // °C
	Resistor                    float64    // of the braking resistor, °C
	Earth                       float64    // A rms from the motor to earth
	Count                       float64    // of the encoder since the start, lines × 4
	Encoder                     float64    // r/min as the drive reads it
	Limiting                    string     // current, link: what holds the ramp just now
	Blocked                     string     // why a run command does nothing
	Fault                       string
	Warning                     string
	HandOn                      bool
	Damage                      string // what a person would have to pay for
	STO                         *safety.STO
	Device                      *Device
	Trips                       [8]Trip
	TripCount                   int
	Phase                       Phase
	Travel                      float64
	Aim                         float64 // Hz that the ramp is to go to, with its sign
	Gripping                    float64 // of the brake, 0 open to 1 closed
	LoadW                       float64 // rad/s of the load behind a shaft that gives
	twist, rubbed, lifting      float64
	x, second                   machine.Flux // of the motor, and of another on the same output
	more                        bool         // there is another, or two inductances
	salience                    float64      // 1/Lq − 1/Ld, 1/H
	shared                      bool         // the load hangs on another drive's motor too
	inertiaWas                  float64      // of the load when it was last looked at, kg·m²
	k                           machine.Inverse
	link                        link
	cmd                         commands
	ramp                        generator
	last                        float64 // direction of the last run
	process                     float64 // the process's measured value, share of its range
	limited                     float64 // Hz that the current limit has taken
	replica                     float64
	since, stalled, ripple, low float64 // s
	restartIn, restarted        float64 // s until it restarts by itself; how often it has
	vec                         vector
	open                        opened
	find                        search
	shaft                       Shaft
	rippled                     Mains   // what an uneven mains makes of the link
	drawn                       float64 // W
	seen                        unevenSeen
	usual                       float64 // V of the link, followed slowly
	earthing                    float64 // s
	buffering                   bool    // the shaft feeds the link
	bufferRate                  float64 // Hz/s that the ramp falls by itself meanwhile
	holding                     bool    // by direct current, before a start
	rubbing                     motion.Load
	precharged                  bool
	slipHz                      float64
	v                           float64
	sixth                       int
	working                     float64 // mean of the current along the voltage, over rated
	before                      float64 // the link's voltage a tick ago
	eased                       float64 // what bus control has left of the fall's slope
	psi2, invJ, dead, losses    float64
	sag                         float64 // what the current limit takes off the voltage
	dragging                    machine.Drag
	seats                       [len(functions)]int8
	pressed                     bool    // the reset input, as it was
	tau                         float64 // of the overload replica, s
}

// Start sets the drive as it stands before it is switched on, everything cold.
func (d *Drive) Start() {
	d.Device = NewDevice(2)
	d.STO = safety.New(safety.Options{Discrepancy: d.C.STO.Discrepancy, Latched: d.C.STO.Latched}, safety.Signals{}, 0)
	d.Winding, d.Frame, d.Sink, d.Resistor = ambient, ambient, ambient, ambient
	d.Phase = Off
	d.Gripping = 1
	d.Reload()
}

// Reload takes changed settings or a changed plant while it runs.
func (d *Drive) Reload() {
	if !d.P.Broken.OutputLost {
		d.open = opened{}
	}
	if !d.P.Broken.SecondMotor {
		d.second = machine.Flux{}
	}
	d.more = d.P.Broken.SecondMotor || d.P.Broken.Buried > 0 && d.P.Magnet > 0
	d.fills()
	d.seat()
	d.refresh()
}

func (d *Drive) noise() float64 {
	if d.P.Broken.Noise > 0 {
		return d.P.Broken.Noise
	}
	return 1
}

// cage prepares the induction machine as warm and as saturated as it is.
func (d *Drive) cage() {
	psi2 := d.airgap()
	m := d.P.inductances(psi2)
	hot := d.Winding - 20
	m.Rs, m.Rr = m.Rs*(1+.00393*hot), m.Rr*(1+.00393*hot)
	if r := d.P.Broken.Relinked; r > 0 {
		m.Rs, m.Rr, m.Ls, m.Lr, m.Lm = m.Rs*r, m.Rr*r, m.Ls*r, m.Lr*r, m.Lm*r
	}
	if d.P.Bar > 0 { // the rotor's own frequency drives the current out of the bars' feet
		rotor := math.Abs(d.Hz - m.Pairs*d.x.W/(2*math.Pi))
		kr, kx := machine.DeepBar(d.P.Bar * math.Sqrt(rotor/d.P.BarHz))
		m.Rr *= kr
		m.Lr -= (m.Lr - m.Lm) * .5 * (1 - kx)
	}
	m.Rs += d.P.Broken.CableOhms
	if d.P.Broken.LeadsSwapped != d.C.Swap {
		m.Pairs = -m.Pairs
	}
	d.k = m.Invert()
}

// refresh works out what depends on temperature, saturation, settings and what is broken.
func (d *Drive) refresh() {
	if d.P.Magnet > 0 {
		d.magnet()
	} else {
		d.cage()
	}
	b := d.P.Link
	switch {
	case !d.Powered:
		b.Open = 0
	case !d.precharged:
		b.Resistance = max(b.Resistance, .15/b.C) // the charging resistor, for half a second
	default:
		b.Open *= 1 - d.P.Broken.Sag
		if d.P.Broken.uneven() && !d.P.Single {
			d.uneven(&b)
		}
	}
	d.P.Broken.chopping(&b)
	d.shaft = d.giving()
	d.link = b.link()
	d.rubbing = d.carried()
	d.invJ = 1 / d.inertia()
	d.tau = max(d.C.OverloadClass, 1) / math.Log(51.84/(51.84-1.21)) // trips at 7.2 times within the class, IEC 60947-4-1
	d.vec.prepare(&d.C)
}

// airgap is the square of the flux over the air gap, Wb².
func (d *Drive) airgap() float64 {
	if d.k.A == 0 {
		return 0
	}
	i := d.k.Currents(d.x)
	leak := d.P.Motor.Ls - d.P.Motor.Lm
	fd, fq := d.x.Ds-leak*i.Ds, d.x.Qs-leak*i.Qs
	return fd*fd + fq*fq
}

// Step moves everything by one tick.
func (d *Drive) Step(in *Inputs) {
	h := Tick
	d.power(in)
	d.channels(in)
	d.settle(in.Terminals, h)
	d.hear(in.Net, h)
	hz, run := d.target(in, h)
	d.Aim = hz
	d.sequence(in, hz, run)
	switch {
	case d.Phase == Searching:
		d.seek(h)
	case d.Running && d.C.Control == "volts-per-hertz" || d.Phase == Braking || d.Phase == Magnetised:
		d.scalar(in, h)
	case d.Running && d.C.KnownMagnet.Psi > 0:
		d.synchronous(in, h)
	case d.Running:
		d.oriented(in, h)
	default:
		d.idle(h)
	}
	d.brake(h)
	d.swing(h)
	d.flow(h)
	d.Time += h
	d.measure(in, h)
	d.protect(h)
	if d.sixth++; d.sixth == 10 {
		d.sixth = 0
		d.warm(10 * h)
		d.refresh()
	}
}

// Diverged tells that the figures left all bounds: parameters that no step can follow.
func (d *Drive) Diverged() bool {
	return !(math.Abs(d.x.W) < 1e5 && math.Abs(d.x.Ds) < 1e6 && math.Abs(d.x.Dr) < 1e6 && math.Abs(d.v) < 1e6)
}

// dark is the share of its link's voltage below which a drive's own supply fails. Common practice.
const dark = .3

// power follows the mains: charging, undervoltage, the self-test. What was without its own supply begins anew, its faults forgotten.
func (d *Drive) power(in *Inputs) {
	if in.Line != d.Powered {
		d.Powered = in.Line
		if in.Line {
			d.precharged = d.precharged && d.v > d.C.Undervolts // a dip that the link has outlived
			if d.v < dark*d.P.Link.Open {
				d.wakes()
			}
		} else if d.C.PotKeeps != "always" {
			d.cmd.pot = 0
		}
		d.refresh()
	}
	if d.Powered && !d.precharged && d.v > .92*d.P.Link.Open*(1-d.P.Broken.Sag) {
		d.precharged, d.usual = true, d.v
		d.cmd.armed = d.C.RunAtPower
		if d.Device.State == NotReady {
			d.Device.Done()
		}
		d.refresh()
	}
}

// wakes is the drive's own supply coming back.
func (d *Drive) wakes() {
	if d.C.WarmthForgotten {
		d.replica, d.Warmth = 0, 0
	}
	if d.Fault != "" {
		d.Fault, d.restartIn, d.restarted, d.cmd.armed = "", 0, 0, false
		d.Device = NewDevice(2)
	}
}

// channels follows the torque-off function.
func (d *Drive) channels(in *Inputs) {
	a, b := in.A, in.B
	switch d.P.Broken.Stuck {
	case 1:
		a = true
	case 2:
		b = true
	}
	was := d.STO.State
	s := safety.Signals{A: a, B: b, Run: d.Running || d.cmd.latched, Reset: in.Reset || d.pressed,
		Power: d.precharged && d.v > .4*d.P.Link.Open}
	if d.STO.Step(s, d.Time); d.STO.State == was {
		return
	}
	switch d.STO.State {
	case safety.ChannelFault:
		d.trip("torque-off-channel")
	case safety.TorqueOff, safety.Discrepancy:
		d.off()
		d.cmd.armed, d.cmd.latched = false, false
		if d.C.OffFault && d.STO.State == safety.TorqueOff && was != safety.Unpowered {
			d.trip("torque-off")
		}
	}
}

// free tells whether torque may be given, and says why not.
func (d *Drive) free() bool {
	switch {
	case d.Fault != "" && d.stays(d.Fault):
		d.Blocked = "power-cycle"
	case d.Fault != "":
		d.Blocked = "fault"
	case !d.precharged || d.v < d.C.Undervolts:
		d.Blocked = "no-power"
	case d.STO.State == safety.ResetRequired:
		d.Blocked = "reset-required"
	case d.STO.State == safety.TorqueOff || d.STO.State == safety.Discrepancy || d.STO.State == safety.Unpowered ||
		d.STO.State == safety.ChannelFault:
		d.Blocked = "torque-off"
	default:
		return true
	}
	return false
}

// linkCeiling is where bus control begins, V.
func (d *Drive) linkCeiling() float64 {
	if d.P.Link.Chopper > 0 {
		return d.C.Overvolts * .985
	}
	return d.C.Overvolts * .9
}

func (d *Drive) magnetisingTime() float64 {
	if d.C.Control == "volts-per-hertz" {
		return 0
	}
	return min(1.5, 2.5*d.C.Known.Lr/max(d.C.Known.Rr, 1e-3))
}

// trip is a fault: torque off, and the figures kept.
func (d *Drive) trip(code string) {
	if d.Fault != "" {
		return
	}
	d.Fault = code
	copy(d.Trips[1:], d.Trips[:len(d.Trips)-1])
	d.Trips[0] = Trip{code, d.Time, d.Hz, d.Current, d.Speed, d.v, d.Torque, d.Sink, d.Winding}
	d.TripCount++
	d.off()
	d.cmd.armed = false
	d.Device.Fail()
	d.Device.Done()
	if d.C.AutoRestart && code != "torque-off" && !d.stays(code) && (d.C.Restarts < 0 || d.restarted < d.C.Restarts) {
		d.restartIn = 5
		d.restarted++
		return // what a key or a pulse has asked for stays asked for
	}
	d.cmd.latched = false
}

// stays tells whether a fault stands until the drive has been without power.
func (d *Drive) stays(fault string) bool {
	return fault == "torque-off-channel" || slices.Contains(d.C.PowerClears, fault)
}

// reset clears a fault whose cause has gone; a run command that is held does not start it.
func (d *Drive) reset(in *Inputs) {
	switch {
	case d.stays(d.Fault):
		return
	case d.Fault == "motor-overload" && d.replica > .9, d.Fault == "drive-temperature" && d.Sink > 75,
		d.Fault == "torque-off" && (!in.A || !in.B), d.Fault == "external" && d.outside():
		return
	}
	d.Fault = ""
	d.restartIn, d.restarted = 0, 0
	d.Device.Gone()
	d.Device.Write(0)
	d.Device.Write(0x80)
	d.Device.Write(0)
	d.cmd.armed, d.cmd.latched = false, false
}
