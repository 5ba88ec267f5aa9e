package stops

import (
	"fmt"
	"math"
	"strings"

	"tingate/core/circuit"
	"tingate/core/safety"
)

// Event is something that is done, at a time in milliseconds.
type Event struct {
	At   int    `json:"at_ms"`
	Do   string `json:"do" enum:"work,release,lift,land,supply-off,supply-on,run,run-off,reset,reset-off"`
	What string `json:"what" doc:"a part; of lift and land a wire; of run and reset a drive"`
}

// Seen is what can be seen of a circuit at one time: lamps on or off, relays on or off, drives in a state.
type Seen map[string]string

// usualOn is the voltage at which a 24 V input is on (IEC 61131-2, type 1 and 3: from 15 V).
const usualOn = 15

// Chatter is a circuit that never comes to rest: parts that switch one another on and off.
type Chatter struct {
	At    int
	Parts []string
}

func (e *Chatter) Error() string {
	return fmt.Sprintf("at %d ms these switch one another without end: %s", e.At, strings.Join(e.Parts, ", "))
}

// device is one in play.
type device struct {
	id    string
	d     Device
	on    bool // relay, safety relay
	due   int  // a change that is on its way; -1: none
	to    bool
	a, b  bool // channels as they count
	aFrom int  // since when a channel is without voltage, before it counts; -1: it has
	bFrom int
	at    [2]int // when each channel closed
	fresh bool   // both channels were open since it was on
	press int    // when its reset was pressed with everything else there; -1: not
	reset bool
	late  int // when its delayed outputs open; -1: not
	sto   *safety.STO
	run   bool
	rst   bool
	state safety.State
}

// play is a circuit in one run.
type play struct {
	p      *Played
	net    *circuit.Net
	state  circuit.State
	list   []*device
	lifted map[string]bool
	dark   map[string]bool   // sources that are off
	moved  map[string]int    // how often each part has switched
	drawn  *circuit.Net      // net with the lifted wires open
	solved *circuit.Solution // of the circuit as it stands; nil: something has changed since
}

// Play runs events on a circuit, with a mistake if one is given, and looks at times in milliseconds, in order.
func (p *Played) Play(m *circuit.Mistake, events []Event, looks []int) ([]Seen, error) {
	return p.play(m, events, looks, nil)
}

// play is Play; at, when given, gets the voltages at each look.
func (p *Played) play(m *circuit.Mistake, events []Event, looks []int, at func(look int, s *circuit.Solution)) ([]Seen, error) {
	net := p.Net
	if m != nil {
		if net = p.Net.With(*m); net == nil {
			return nil, &circuit.FieldError{Path: "mistake", Got: m.Kind, Want: "a mistake of this circuit"}
		}
	}
	r := &play{p: p, net: net, drawn: net, state: circuit.State{}, lifted: map[string]bool{}, dark: map[string]bool{}, moved: map[string]int{}}
	for _, id := range p.order {
		d := p.Devices[id]
		if d.Does == Hand || d.Does == Button {
			continue
		}
		x := &device{id: id, d: d, due: -1, aFrom: -1, bFrom: -1, press: -1, late: -1, fresh: true}
		if x.d.OnVolts == 0 {
			x.d.OnVolts = usualOn
		}
		r.list = append(r.list, x)
	}
	var out []Seen
	now, next := 0, 0
	for {
		for next < len(events) && events[next].At <= now {
			if err := r.do(events[next]); err != nil {
				return nil, err
			}
			next++
		}
		if err := r.settle(now); err != nil {
			return out, err
		}
		for len(out) < len(looks) && looks[len(out)] <= now {
			if at != nil {
				at(len(out), r.solved)
			}
			out = append(out, r.seen())
		}
		if len(out) == len(looks) {
			return out, nil
		}
		// The next moment at which anything can happen.
		then := looks[len(out)]
		if next < len(events) {
			then = min(then, max(now+1, events[next].At))
		}
		for _, x := range r.list {
			for _, t := range [...]int{x.due, x.wakes()} {
				if t > now {
					then = min(then, t)
				}
			}
		}
		now = max(now+1, then)
	}
}

// do does one event.
func (r *play) do(e Event) error {
	r.solved = nil
	bad := func(want string) error {
		return &circuit.FieldError{Path: "events." + e.Do, Got: e.What, Want: want}
	}
	drive := func(set func(*device)) error {
		for _, x := range r.list {
			if x.id == e.What && x.d.Does == DriveInputs {
				set(x)
				return nil
			}
		}
		return bad("a drive of the circuit")
	}
	switch e.Do {
	case "work", "release":
		keys := r.p.moves[e.What]
		if d := r.p.Devices[e.What].Does; d != Hand && d != Button || len(keys) == 0 {
			return bad("a part that is worked by hand")
		}
		for _, k := range keys {
			r.state[k] = e.Do == "work"
		}
	case "lift", "land":
		r.lifted[e.What] = e.Do == "lift"
		net := r.net
		for id, off := range r.lifted {
			if off {
				if net = net.With(circuit.Mistake{Kind: "open", Wire: id}); net == nil {
					return bad("a wire of the circuit")
				}
			}
		}
		r.drawn = net
	case "supply-off", "supply-on":
		r.dark[e.What] = e.Do == "supply-off"
		if x, ok := r.p.Net.Circuit.Part(e.What); !ok || len(x.Sources) == 0 {
			return bad("a source of the circuit")
		}
	case "run", "run-off":
		return drive(func(x *device) { x.run = e.Do == "run" })
	case "reset", "reset-off":
		return drive(func(x *device) { x.rst = e.Do == "reset" })
	default:
		return bad("work, release, lift, land, supply-off, supply-on, run, run-off, reset or reset-off")
	}
	return nil
}

// most switchings of one part before a circuit is said to chatter.
const mostSwitchings = 200

// settle looks at every device until none changes at this moment.
func (r *play) settle(now int) error {
	for round := 0; ; round++ {
		if r.solved == nil {
			r.solved = r.drawn.Dark(r.state, r.dark)
		}
		s, changed := r.solved, false
		for _, x := range r.list {
			was := x.on
			r.look(x, s, now)
			moved := r.contacts(x, now)
			if moved {
				r.solved = nil
			}
			if moved || x.on != was {
				changed = true
				if r.moved[x.id]++; r.moved[x.id] > mostSwitchings || round > 40 {
					return r.chatter(now)
				}
			}
		}
		if !changed {
			return nil
		}
	}
}

func (r *play) chatter(now int) error {
	e := &Chatter{At: now}
	for _, x := range r.list {
		if r.moved[x.id] > 10 {
			e.Parts = append(e.Parts, r.p.Name(x.id))
		}
	}
	return e
}

// volts tells whether a load of a part is on. A load that is not there is not.
func (r *play) volts(x *device, s *circuit.Solution, load string) bool {
	i, ok := r.p.at[[2]string{x.id, load}]
	return ok && math.Abs(s.AcrossLoad(i)) >= x.d.OnVolts // a load that floats reads NaN, and is not on
}

// look takes what a device sees now.
func (r *play) look(x *device, s *circuit.Solution, now int) {
	switch x.d.Does {
	case Lamp:
		x.on = r.volts(x, s, "lamp")
	case Relay:
		want := r.volts(x, s, "coil")
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
		r.guard(x, s, now)
	case DriveInputs:
		r.inputs(x, s, now)
	}
}

// guard is a safety relay: off at once when a channel opens, on when both have opened and closed together and its reset was given.
func (r *play) guard(x *device, s *circuit.Solution, now int) {
	ch1, ch2, reset := r.volts(x, s, "ch1"), r.volts(x, s, "ch2"), r.volts(x, s, "reset")
	if !r.volts(x, s, "supply") {
		if x.on && x.late < 0 {
			x.late = now + x.d.OffDelay
		}
		x.on, x.a, x.b, x.fresh, x.press, x.reset = false, false, false, true, -1, reset
		return
	}
	for i, c := range [...]struct{ is, was bool }{{ch1, x.a}, {ch2, x.b}} {
		if c.is && !c.was {
			x.at[i] = now
		}
	}
	x.a, x.b = ch1, ch2
	if !ch1 && !ch2 {
		x.fresh = true
	}
	if !ch1 || !ch2 {
		if x.on {
			x.on, x.late = false, now+x.d.OffDelay
			x.fresh = !ch1 && !ch2
		}
		x.press = -1
	}
	apart := x.at[0] - x.at[1]
	if apart < 0 {
		apart = -apart
	}
	may := !x.on && ch1 && ch2 && x.fresh && (x.d.Discrepancy == 0 || apart <= x.d.Discrepancy)
	pressed, released := reset && !x.reset, !reset && x.reset
	x.reset = reset
	if pressed && may {
		x.press = now
	}
	if may && (x.d.Reset == "automatic" && r.closedLoop(x, s) || x.d.Reset == "pressed" && pressed || x.d.Reset == "let-go" && released && x.press >= 0) {
		x.on, x.fresh, x.late = true, false, -1
	}
	if released {
		x.press = -1
	}
}

// closedLoop tells whether a relay that starts by itself sees its feedback: over its reset input, where that is wired.
func (r *play) closedLoop(x *device, s *circuit.Solution) bool {
	for _, l := range r.p.loads[x.id] {
		if l == "reset" {
			return r.volts(x, s, "reset")
		}
	}
	return true
}

// inputs are a drive's: its channels count as open once they are so for longer than its filter.
func (r *play) inputs(x *device, s *circuit.Solution, now int) {
	filtered := func(seen bool, from *int) bool {
		if seen {
			*from = -1
			return true
		}
		if *from < 0 {
			*from = now
		}
		return now-*from < x.d.Filter
	}
	x.a, x.b = filtered(r.volts(x, s, "a"), &x.aFrom), filtered(r.volts(x, s, "b"), &x.bFrom)
	sig := safety.Signals{A: x.a, B: x.b, Run: x.run || r.volts(x, s, "run"), Reset: x.rst || r.volts(x, s, "reset"), Power: true}
	t := float64(now) / 1000
	if x.sto == nil {
		x.sto = safety.New(safety.Options{Discrepancy: float64(x.d.Discrepancy) / 1000, Latched: x.d.Latched}, sig, t)
	}
	x.state = x.sto.Step(sig, t)
}

// wakes is when a device does something by itself; -1: never.
func (x *device) wakes() int {
	at := -1
	soon := func(t int) {
		if at < 0 || t < at {
			at = t
		}
	}
	if x.late >= 0 {
		soon(x.late)
	}
	if x.d.Does == DriveInputs {
		if x.aFrom >= 0 && x.a {
			soon(x.aFrom + x.d.Filter)
		}
		if x.bFrom >= 0 && x.b {
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
	changed := false
	for _, key := range r.p.moves[x.id] {
		name := key[len(x.id)+1:]
		worked := x.on
		switch x.d.Does {
		case SafetyRelay:
			if strings.HasPrefix(name, "delayed") {
				worked = x.on || x.late >= 0 && now < x.late
			}
		case DriveInputs:
			switch {
			case strings.HasPrefix(name, "ready"):
				worked = x.state == safety.Ready || x.state == safety.Running
			case strings.HasPrefix(name, "off"):
				worked = x.state == safety.TorqueOff || x.state == safety.ResetRequired
			case strings.HasPrefix(name, "fault"):
				worked = x.state == safety.ChannelFault || x.state == safety.InternalFault
			}
		}
		if r.state[key] != worked {
			r.state[key] = worked
			changed = true
		}
	}
	if x.late >= 0 && now >= x.late {
		x.late = -1
	}
	return changed
}

// seen is what a person sees now.
func (r *play) seen() Seen {
	out := Seen{}
	for _, x := range r.list {
		out[x.id] = map[bool]string{true: "on", false: "off"}[x.on]
		if x.d.Does == DriveInputs {
			out[x.id] = string(x.state)
		}
	}
	return out
}
