package prove

import (
	"math"

	"tingate/bench/ride"
	"tingate/core/dialect"
	"tingate/core/drive"
)

// has finds the inputs of a function; 0: none.
func (p *prover) has(function string) (bits uint16) {
	for i, f := range p.D.C.Inputs {
		if f == function {
			bits |= 1 << i
		}
	}
	return bits
}

func (p *prover) put(bits uint16, on bool) {
	p.In.Terminals &^= bits
	if on {
		p.In.Terminals |= bits
	}
}

// run gives a run command as the plan has it, or takes it away. False: by its terminals it cannot.
func (p *prover) run(on, back bool) bool {
	c := &p.D.C
	before := p.In.Terminals
	for _, f := range dialect.HoldsOff { // closed while it may run
		p.put(p.has(f), true)
	}
	if p.In.Terminals != before { // and before it is asked to: else the command is no fresh one
		p.steps(.1)
	}
	switch {
	case c.Command == "network":
		p.In.Net.Alive, p.In.Net.Run, p.In.Net.Back = true, on, on && back
		return true
	case c.Command != "terminals":
		p.In.KeyRun, p.In.KeyBack, p.In.KeyStop = on, on && back, !on
		return true
	case c.ThreeWire:
		start, stop := p.has("start")|p.has("run-forward"), p.has("stop")
		if start == 0 {
			return false
		}
		p.put(p.has("run-reverse"), back)
		p.put(stop, on)
		if on {
			p.put(start, true)
			p.steps(.1)
			p.put(start, false)
		}
		return true
	}
	forward, reverse := p.has("run-forward"), p.has("run-reverse")
	if forward == 0 || back && reverse == 0 {
		return false
	}
	p.put(forward, on && !back)
	p.put(reverse, on && back)
	return true
}

// ask sets the reference to a share of its span, 0 to 1, by the plan's source.
func (p *prover) ask(share float64) {
	c := &p.D.C
	switch c.Speed {
	case "analog":
		p.In.Analog = c.Full * share
		if c.Live {
			p.In.Analog = 4 + 16*share
		}
	case "presets":
	default:
		hz := c.Low + (c.Upper-c.Low)*share
		if share == 0 {
			hz = c.Lower
		}
		if c.Speed == "network" {
			p.In.Net.Alive, p.In.Net.Hz = true, hz
			return
		}
		c.Speed = "keypad"
		c.KeyHz, c.Hand, p.In.KeyHz = hz, hz, hz
	}
}

// steps goes on for a while; false when it tripped.
func (p *prover) steps(seconds float64) bool {
	for until := p.Time() + seconds; p.Time() < until; {
		if !p.Step() {
			return false
		}
		p.In.KeyRun, p.In.KeyStop = false, false
	}
	return true
}

// settle goes on until the speed stands; false when it tripped.
func (p *prover) settle() bool {
	most := p.Time() + 3*math.Max(p.Rider.Out.AskedRise, p.Rider.Out.AskedFall) + 20
	steady, begun := 0.0, p.Time()
	p.steps(.3)
	for p.Time() < most && steady < .3 {
		if !p.Step() {
			return false
		}
		n := len(p.Samples)
		d := p.D
		if d.Phase == drive.Magnetising || d.Running && math.Abs(d.Speed) < 1 && p.Time() < begun+4 {
			continue // it is on its way, and the shaft does not turn yet
		}
		if n > 30 && math.Abs(p.Samples[n-1].Asked-p.Samples[n-30].Asked) < .5 &&
			math.Abs(p.Samples[n-1].Speed-p.Samples[n-30].Speed) < .004*math.Abs(p.D.Speed)+1 {
			steady += ride.Fine * drive.Tick
		} else {
			steady = 0
		}
	}
	return p.Rider.Out.Trip == nil
}
