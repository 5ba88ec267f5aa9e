package bench

import (
	"math"

	"tingate/core/drive"
)

// has finds the inputs of a function; 0: none.
func (p *prover) has(function string) (bits uint16) {
	for i, f := range p.b.sim.C.Inputs {
		if f == function {
			bits |= 1 << i
		}
	}
	return bits
}

func (p *prover) put(bits uint16, on bool) {
	p.b.in.Terminals &^= bits
	if on {
		p.b.in.Terminals |= bits
	}
}

// run gives a run command as the plan has it, or takes it away. False: by its terminals it cannot.
func (p *prover) run(on, back bool) bool {
	c := &p.b.sim.C
	before := p.b.in.Terminals
	for _, f := range []string{"interlock", "coast", "enable"} { // closed while it may run
		p.put(p.has(f), true)
	}
	if p.b.in.Terminals != before { // and before it is asked to: else the command is no fresh one
		p.steps(.1)
	}
	switch {
	case c.Command != "terminals":
		c.Command = "keypad" // a network's command is given here by the same code
		p.b.in.KeyRun, p.b.in.KeyBack, p.b.in.KeyStop = on, on && back, !on
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
	c := &p.b.sim.C
	switch c.Speed {
	case "analog":
		p.b.in.Analog = c.Full * share
		if c.Live {
			p.b.in.Analog = 4 + 16*share
		}
	case "presets":
	default:
		c.Speed = "keypad"
		hz := c.Low + (c.Upper-c.Low)*share
		if share == 0 {
			hz = c.Lower
		}
		c.KeyHz, c.Hand, p.b.in.KeyHz = hz, hz, hz
	}
}

// steps goes on for a while; false when it tripped.
func (p *prover) steps(seconds float64) bool {
	for until := p.time() + seconds; p.time() < until; {
		if !p.step() {
			return false
		}
		p.b.in.KeyRun, p.b.in.KeyStop = false, false
	}
	return true
}

// settle goes on until the speed stands; false when it tripped.
func (p *prover) settle() bool {
	most := p.time() + 3*math.Max(p.rider.out.AskedRise, p.rider.out.AskedFall) + 20
	steady, begun := 0.0, p.time()
	p.steps(.3)
	for p.time() < most && steady < .3 {
		if !p.step() {
			return false
		}
		n := len(p.samples)
		d := &p.b.sim
		if d.Phase == "magnetising" || d.Running && math.Abs(d.Speed) < 1 && p.time() < begun+4 {
			continue // it is on its way, and the shaft does not turn yet
		}
		if n > 30 && math.Abs(p.samples[n-1].Asked-p.samples[n-30].Asked) < .5 && math.Abs(p.samples[n-1].Speed-p.samples[n-30].Speed) < .004*math.Abs(p.b.sim.Speed)+1 {
			steady += fineSample * drive.Tick
		} else {
			steady = 0
		}
	}
	return p.rider.out.Trip == nil
}
