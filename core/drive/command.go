package drive

import (
	"math"

	"tingate/core/signal"
)

// Inputs are what reaches the drive in one tick of a millisecond.
type Inputs struct {
	Line      bool // the mains is on
	A, B      bool // torque-off channel closed
	Terminals uint16
	Analog    float64 // V or mA at the input
	// The keypad: run, stop and reset are pressed in this tick.
	KeyRun, KeyStop, KeyBack, Reset bool
	Hand                            bool // hand: the keypad has the command
	KeyHz                           float64
	Net                             Telegram // of the network, as a controller sends it
	// Noise are standard normal numbers: two phase currents, the analog input.
	Noise [3]float64
}

// Telegram is what a controller sends over the network. While it is not alive none comes.
type Telegram struct {
	Alive, Run, Back bool
	Hz               float64
}

// commands is what the run logic remembers.
type commands struct {
	net      Telegram // the last that came
	silent   float64  // s since then
	latched  bool     // run by key or pulse
	back     bool
	armed    bool // a run command that is held has been seen off since the drive was last held off
	jogging  bool
	start    bool    // the start pulse as it was
	filtered float64 // of the analog input, share
	lost     float64 // s for which the live zero has been missing
	held     float64 // Hz when it was lost
	integral float64 // of the process controller, share of its output
	drowsy   float64 // s for which it has asked for less than its sleep
	asleep   bool
	pot      float64            // Hz that faster and slower have made
	waited   float64            // s at zero before turning round
	quick    bool               // stopped by what stops quickly
	inputs   uint16             // the terminals behind the inputs' filter
	waiting  bool               // a terminal settles
	settling [MaxInputs]float64 // s for which a terminal has stood otherwise than the drive takes it for
}

// functions of digital inputs, as families name them; their order is that of the constants.
var functions = [...]string{"run-forward", "run-reverse", "jog", "start", "stop", "interlock", "coast", "hand", "second-ramp", "reset",
	"preset-0", "preset-1", "preset-2", "faster", "slower", "jog-reverse", "quick-stop", "external-fault", "torque-limit-off"}

const (
	fnForward = iota
	fnReverse
	fnJog
	fnStart
	fnStop
	fnInterlock
	fnCoast
	fnHand
	fnSecondRamp
	fnReset
	fnPreset
	fnFaster     = fnPreset + 3
	fnSlower     = fnPreset + 4
	fnJogReverse = fnPreset + 5
	fnQuickStop  = fnPreset + 6
	fnExternal   = fnPreset + 7
	fnTorqueFree = fnPreset + 8
)

// seat finds the input of every function once, so that a tick compares no words.
func (d *Drive) seat() {
	for i, name := range functions {
		d.seats[i] = -1
		for k, f := range d.C.Inputs {
			if f == name {
				d.seats[i] = int8(k)
			}
		}
	}
}

// settle takes the terminals through the inputs' filter: what stands otherwise for its time is taken for so.
func (d *Drive) settle(terminals uint16, h float64) {
	c := &d.cmd
	if terminals == c.inputs {
		if c.waiting {
			c.settling, c.waiting = [MaxInputs]float64{}, false
		}
		return
	}
	for i := range c.settling {
		bit := uint16(1) << i
		if (terminals^c.inputs)&bit == 0 {
			c.settling[i] = 0
			continue
		}
		c.waiting = true
		if c.settling[i] += h; c.settling[i] > d.C.InputFilter {
			c.inputs ^= bit
			c.settling[i] = 0
		}
	}
}

// hear takes a telegram, or counts the silence since the last.
func (d *Drive) hear(t Telegram, h float64) {
	if t.Alive {
		d.cmd.net, d.cmd.silent = t, 0
	} else if d.cmd.net.Alive { // one that never came is not missed
		d.cmd.silent += h
	}
}

// unheard tells whether the network counts as lost.
func (d *Drive) unheard() bool { return d.C.NetWait > 0 && d.cmd.silent > d.C.NetWait }

// on tells whether a function's input is on; ok is false when no input has it.
func (d *Drive) on(function int) (on, ok bool) {
	i := d.seats[function]
	if i < 0 {
		return false, false
	}
	return (d.cmd.inputs^d.C.Inverted)>>uint(i)&1 == 1, true
}

// asked is what the sources of command ask for: 1 forward, −1 reverse, 0 nothing; and whether it is a jog.
func (d *Drive) asked(in *Inputs) (direction float64, jog bool) {
	c := &d.cmd
	hand := in.Hand
	if h, ok := d.on(fnHand); ok && h {
		hand = true
	}
	d.HandOn = hand
	if in.KeyStop {
		remote := !hand && d.C.Command != "keypad"
		if !remote || d.C.StopKey != "ignored" {
			c.latched = false
		}
		if remote && (d.C.StopKey == "obeyed" || d.C.StopKey == "quick-stop") { // held off until the command is given afresh
			c.armed, c.quick = false, d.C.StopKey == "quick-stop"
		}
	}
	if hand || d.C.Command == "keypad" {
		if in.KeyRun {
			c.latched, c.back = true, in.KeyBack
		}
		if !c.latched {
			return 0, false
		}
		if c.back {
			return -1, false
		}
		return 1, false
	}
	if d.C.Command == "network" {
		return d.told(), false
	}
	if d.C.Command != "terminals" {
		return 0, false
	}
	rev, _ := d.on(fnReverse)
	if j, _ := d.on(fnJog); j {
		if rev {
			return -1, true
		}
		return 1, true
	}
	if j, _ := d.on(fnJogReverse); j {
		return -1, true
	}
	if d.C.ThreeWire {
		start, _ := d.on(fnStart)
		stop, has := d.on(fnStop)
		if start && !c.start {
			c.latched = true
		}
		c.start = start
		if has && !stop {
			c.latched = false
		}
		if !c.latched {
			return 0, false
		}
		if rev {
			return -1, false
		}
		return 1, false
	}
	fwd, _ := d.on(fnForward)
	switch {
	case fwd == rev:
		return 0, false
	case rev:
		return -1, false
	}
	return 1, false
}

// told is what the network asks for: 1 forward, −1 reverse, 0 nothing. While it is silent its last word stands, until it counts as lost.
func (d *Drive) told() float64 {
	if d.unheard() && d.C.NetLost != "hold" && d.C.NetLost != "goes-on" {
		if d.C.NetLost == "fault" {
			d.trip("network")
		}
		return 0
	}
	switch n := d.cmd.net; {
	case !n.Run:
		return 0
	case n.Back:
		return -1
	}
	return 1
}

// signal reads the analog input through its filter, and watches its live zero.
func (d *Drive) signal(in *Inputs, h float64) {
	c := &d.cmd
	low := 0.0
	if d.C.Live {
		low = 4
	}
	analog := in.Analog + in.Noise[2]*d.noise()*.002*d.C.Full
	if d.P.Broken.ReferenceOff {
		analog = in.Noise[2] * .001
	}
	if d.P.Broken.ReferenceFull {
		analog = d.C.Full
	}
	if b := &d.P.Broken; b.Hum != 0 || b.Offset != 0 {
		analog += d.C.Full * (b.Offset + b.Hum*math.Sin(2*math.Pi*d.P.Hz*d.Time))
	}
	x := (analog - low) / (d.C.Full - low)
	c.filtered += (x - c.filtered) * min(1, h/max(d.C.Filter, h))
	if d.C.Live && analog < d.C.LostBelow {
		c.lost += h
	} else {
		c.lost = 0
		c.held = math.Abs(d.ramp.hz)
	}
}

// reference is the frequency that is asked for, Hz, above 0; ok is false when it is lost and the drive must not go on.
func (d *Drive) reference(in *Inputs, h float64) (hz float64, ok bool) {
	c := &d.cmd
	d.signal(in, h)
	if d.HandOn {
		return in.KeyHz, true
	}
	if d.C.Loop.On {
		return d.regulate(h), true
	}
	switch d.C.Speed {
	case "analog":
		if c.lost > .1 {
			switch d.C.Lost {
			case "hold":
				return c.held, true
			case "lowest":
				return d.C.Lower, true
			case "preset":
				return d.C.Presets[1], true
			case "fault":
				d.trip("reference-lost")
			}
			return 0, false
		}
		share := max(0, min(1.05, c.filtered))
		if share < d.C.DeadBand {
			share = 0
		}
		return signal.Line(d.C.Low, d.C.High, d.C.Bends[:], share), true
	case "network":
		if d.unheard() && d.C.NetLost != "hold" && d.C.NetLost != "goes-on" {
			if d.C.NetLost == "fault" {
				d.trip("network")
			}
			return 0, false
		}
		return c.net.Hz, true
	case "presets":
		n := 0
		for i := range 3 {
			if on, _ := d.on(fnPreset + i); on {
				n |= 1 << i
			}
		}
		return d.C.Presets[n], true
	case "motor-potentiometer":
		faster, _ := d.on(fnFaster)
		slower, _ := d.on(fnSlower)
		if faster && !slower {
			c.pot += d.C.PotSlope * h
		} else if slower && !faster {
			c.pot -= d.C.PotSlope * h
		}
		c.pot = max(d.C.Lower, min(c.pot, min(d.C.Upper, d.C.Highest)))
		return c.pot, true
	}
	return in.KeyHz, true
}

// SetPot puts the motor potentiometer to where its buttons would have brought it, Hz.
func (d *Drive) SetPot(hz float64) { d.cmd.pot = hz }

// target works out where the ramp goes, Hz with its sign, and whether the drive runs.
func (d *Drive) target(in *Inputs, h float64) (hz float64, run bool) {
	c := &d.cmd
	dir, jog := d.asked(in)
	if !d.Running {
		c.integral = 0
	}
	if !d.Running && d.C.PotKeeps != "power" && d.C.PotKeeps != "always" {
		c.pot = 0
	}
	if il, ok := d.on(fnInterlock); ok && !il {
		d.Blocked = "interlock"
		if d.C.InterlockBack != "goes-on" {
			c.armed = false
		}
		if d.C.Interlock == "coast" {
			d.off()
		}
		return 0, false
	}
	if co, ok := d.on(fnCoast); ok && !co {
		d.Blocked, c.armed = "coast", false
		d.off()
		return 0, false
	}
	if quick, ok := d.on(fnQuickStop); ok && !quick {
		d.Blocked, c.armed, c.quick, c.latched = "quick-stop", false, true, false
		return 0, false
	}
	if dir == 0 {
		c.armed, c.asleep, c.drowsy = true, false, 0
		d.Blocked = ""
		return 0, false
	}
	if !c.armed {
		d.Blocked = "fresh-command"
		return 0, false
	}
	d.Blocked = ""
	ref, ok := d.reference(in, h)
	if !ok {
		d.Blocked = "reference"
		return 0, false
	}
	if d.sleeps(ref, h) && !jog {
		d.Blocked = "asleep"
		return 0, false
	}
	if jog {
		ref = d.C.Jog
	} else {
		ref = max(ref, d.C.Lower)
	}
	c.jogging = jog
	ref = min(ref, min(d.C.Upper, d.C.Highest))
	if dir < 0 && !d.C.BothWays {
		d.Blocked = "direction" // to zero, and waits
		return 0, true
	}
	t := d.C.avoid(ref) * dir
	if t*d.last < 0 {
		if d.ramp.hz != 0 {
			c.waited = 0
			return 0, true
		}
		if c.waited += h; c.waited < d.C.ReverseWait {
			return 0, true
		}
	}
	d.last = dir
	return t, true
}
