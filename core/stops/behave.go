package stops

import (
	"math"
	"slices"

	"tingate/core/safety"
)

// volts tells whether a load is on. A load that is not there, or floats, is not.
func (r *play) volts(x *device, load int) bool {
	return load >= 0 && math.Abs(r.live.Load(load)) >= x.d.OnVolts
}

// look takes what a device sees now.
func (r *play) look(x *device, now int) {
	switch x.d.Does {
	case Lamp, Brake:
		x.on = !x.lifeless && r.volts(x, x.coil)
	case Relay:
		want := !x.lifeless && r.volts(x, x.coil)
		switch {
		case want == x.on:
			x.due = -1
		case x.due < 0 || x.to != want:
			x.to = want
			if x.due = now + x.d.Pick; !want {
				x.due = now + x.d.Drop
			}
		}
		if x.due >= 0 && now >= x.due {
			x.on, x.due = x.to, -1
		}
	case SafetyRelay:
		r.guard(x, now)
	case DriveInputs:
		r.inputs(x, now)
	}
}

// guard is a safety relay: off at once when a channel opens, on when all have opened and closed together and its reset was given.
func (r *play) guard(x *device, now int) {
	reset := r.volts(x, x.reset)
	supplied := r.volts(x, x.supply) && !x.lifeless
	if x.d.Pulsed {
		for _, i := range x.sources {
			if r.dark[i] == supplied {
				r.dark[i], r.stale = !supplied, true
			}
		}
		x.cross = x.cross || supplied && (r.live.Meet(x.sources[0], x.sources[1]) || r.foreign(x))
	}
	if !supplied {
		x.drop(now)
		clear(x.pairs)
		x.due = -1
		x.press, x.wasReset, x.cross, x.may = -1, reset, false, false
		return
	}
	closed, good := true, !x.cross
	for i, at := range x.proto.pairs {
		c := &x.pairs[i]
		a, b := r.channel(x, i, 0, c.a, at[0], now), r.channel(x, i, 1, c.b, at[1], now)
		if a && !c.a {
			c.at[0] = now
		}
		if b && !c.b {
			c.at[1] = now
		}
		switch {
		case !a && !b:
			c.bad = false
		case c.a && c.b && a != b:
			c.bad = true
		}
		c.a, c.b = a, b
		apart := c.at[0] - c.at[1]
		if apart < 0 {
			apart = -apart
		}
		closed = closed && a && b
		good = good && a && b && !c.bad && (x.d.Discrepancy == 0 || apart <= x.d.Discrepancy)
	}
	for _, i := range x.aux {
		on := r.volts(x, i)
		closed, good = closed && on, good && on
	}
	if !closed || x.cross {
		x.drop(now)
		x.press = -1
	}
	x.may = !x.on && good
	pressed, released := reset && !x.wasReset, !reset && x.wasReset
	x.wasReset = reset
	if pressed && x.may {
		x.press = now
	}
	// A relay that starts by itself sees its feedback over its reset input, where that is wired.
	begin := x.may && (x.d.Reset == "automatic" && (x.reset < 0 || reset) || x.d.Reset == "pressed" && pressed ||
		x.d.Reset == "let-go" && released && x.press >= 0)
	switch {
	case !good:
		x.due = -1
	case begin && x.due < 0:
		x.due = now + x.d.Pick // its start delay
	}
	if x.due >= 0 && now >= x.due {
		x.on, x.may, x.late, x.due = true, false, -1, -1
	}
	if released {
		x.press = -1
	}
}

// channel is one of a pair as the relay counts it: it takes no notice of its own test pulses, nor of gaps shorter than its filter.
func (r *play) channel(x *device, pair, side int, was bool, load, now int) bool {
	if s := x.expects[pair][side]; s >= 0 && r.inGap(x.sources[s]) {
		return was
	}
	seen, from := r.volts(x, load), &x.pairs[pair].from[side]
	switch {
	case seen || !was:
		*from = never
		return seen
	case *from == never:
		*from = now
	}
	return now-*from < x.d.Filter
}

// foreign tells whether a channel of a pulsed relay is held by another potential than its own test output: its pulses do not come back.
func (r *play) foreign(x *device) bool {
	for i, e := range x.expects {
		for side, s := range e {
			if s < 0 {
				continue
			}
			for k := range r.p.nsources {
				if k != x.sources[s] && r.live.Fed(x.proto.pairs[i][side], k) {
					return true
				}
			}
		}
	}
	return false
}

// drop switches a safety relay off; its delayed outputs stay for their time.
func (x *device) drop(now int) {
	if x.on {
		x.on, x.late = false, now+x.d.OffDelay
	}
}

// inputs are a drive's: its channels count as open once they are so for longer than its filter.
func (r *play) inputs(x *device, now int) {
	filtered := func(seen bool, from *int) bool {
		if seen {
			*from = never
			return true
		}
		switch {
		case x.sto == nil: // as it is switched on: there was no voltage before
			*from = now - x.d.Filter
		case *from == never:
			*from = now
		}
		return now-*from < x.d.Filter
	}
	x.seenA, x.seenB = filtered(r.volts(x, x.a), &x.aFrom), filtered(r.volts(x, x.b), &x.bFrom)
	ramped := x.stop >= 0 && !r.volts(x, x.stop) // told to ramp down: its stop input is wired and has no voltage
	barred := x.interlock >= 0 && !r.volts(x, x.interlock)
	power := !x.unfed && !slices.ContainsFunc(x.sources, func(i int) bool { return r.dark[i] })
	sig := safety.Signals{A: x.seenA, B: x.seenB, Run: (x.runs || r.volts(x, x.run)) && !ramped && !barred,
		Reset: x.rst || r.volts(x, x.reset), Power: power}
	t := float64(now) / 1000
	if x.sto == nil {
		x.sto = safety.New(safety.Options{Discrepancy: float64(x.d.Discrepancy) / 1000, Latched: x.d.Latched}, sig, t)
	}
	x.state = x.sto.Step(sig, t)
}

// wakes is when a device does something by itself; -1: never.
func (x *device) wakes() int {
	at := x.late
	soon := func(t int) {
		if at < 0 || t < at {
			at = t
		}
	}
	for i := range x.pairs {
		for side, was := range [2]bool{x.pairs[i].a, x.pairs[i].b} {
			if from := x.pairs[i].from[side]; was && from != never {
				soon(from + x.d.Filter)
			}
		}
	}
	if x.d.Does == DriveInputs {
		if x.aFrom != never && x.seenA {
			soon(x.aFrom + x.d.Filter)
		}
		if x.bFrom != never && x.seenB {
			soon(x.bFrom + x.d.Filter)
		}
		if t := x.sto; t != nil && t.State == safety.Discrepancy {
			soon(int(math.Ceil(t.Until()*1000)) + 1)
		}
	}
	return at
}

// contacts puts a device's contacts as it stands; true when one has moved.
func (r *play) contacts(x *device, now int) bool {
	var moved bool
	switch x.d.Does {
	case Relay:
		moved = r.move(x.outs, x.on)
	case SafetyRelay:
		a := r.move(x.outs, x.on)
		b := r.move(x.delayed, x.on || x.late >= 0 && now < x.late)
		c := r.move(x.wants, x.may)
		moved = a || b || c
		if x.late >= 0 && now >= x.late {
			x.late = -1
		}
	case DriveInputs:
		a := r.move(x.ready, x.state == safety.Ready || x.state == safety.Running)
		b := r.move(x.off, x.state == safety.TorqueOff || x.state == safety.ResetRequired)
		c := r.move(x.faulty, x.state == safety.ChannelFault || x.state == safety.InternalFault)
		d := r.move(x.brake, x.state == safety.Running)
		moved = a || b || c || d
	}
	return moved
}
