package stops

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/circuit"
)

// Act is something that a person, or the plant, does to a circuit.
type Act string

// Acts.
const (
	Work      Act = "work" // a part is pressed, opened, or broken
	Release   Act = "release"
	Lift      Act = "lift" // a wire
	Land      Act = "land"
	SupplyOff Act = "supply-off"
	SupplyOn  Act = "supply-on"
	Run       Act = "run" // of a drive, by its terminals
	RunOff    Act = "run-off"
	Reset     Act = "reset"
	ResetOff  Act = "reset-off"
)

// Event is something that is done, at a time in milliseconds.
type Event struct {
	At   int    `json:"at_ms"`
	Do   Act    `json:"do" enum:"work,release,lift,land,supply-off,supply-on,run,run-off,reset,reset-off"`
	What string `json:"what" doc:"a part; of lift and land a wire; of run and reset a drive"`
}

// Seen is what can be seen of a circuit at one time: lamps on or off, relays on or off, drives in a state, brakes.
type Seen map[string]string

// usualOn is the voltage at which a 24 V input is on (IEC 61131-2, type 1 and 3: from 15 V).
const usualOn = 15

// proto is a device as it is wired: its loads, contacts and sources by their numbers in the net. -1: it has no such load.
type proto struct {
	id                                              string
	d                                               Device
	supply, reset, run, stop, interlock, a, b, coil int
	pairs                                           [][2]int
	// of a pulsed relay: the place among its sources that each channel comes from; -1: from none of them
	expects                                         [][2]int
	aux                                             []int
	sources                                         []int
	outs, delayed, wants, ready, off, faulty, brake []int
}

// protoOf looks up what a device needs.
func (p *Played) protoOf(id string) proto {
	d := p.Devices[id]
	load := func(name string) int { return p.Net.LoadAt(id + "." + name) }
	x := proto{id: id, d: d, supply: load("supply"), reset: load("reset"), run: load("run"), stop: load("stop"),
		interlock: load("interlock"), a: load("a"), b: load("b"), coil: load("coil"), sources: p.Net.Sources(id)}
	if d.Does == Lamp {
		x.coil = load("lamp")
	}
	if x.d.OnVolts == 0 {
		x.d.OnVolts = usualOn
	}
	for _, n := range p.channelNames(id) {
		x.pairs = append(x.pairs, [2]int{load(n[0]), load(n[1])})
	}
	for i := 1; slices.Contains(p.loads[id], fmt.Sprintf("aux%d", i)); i++ {
		x.aux = append(x.aux, load(fmt.Sprintf("aux%d", i)))
	}
	for name, l := range p.Net.Contacts(id) {
		to := &x.outs
		for prefix, other := range map[string]*[]int{"delayed": &x.delayed, "wants": &x.wants, "ready": &x.ready, "off": &x.off,
			"fault": &x.faulty, "brake": &x.brake} {
			if strings.HasPrefix(name, prefix) && (d.Does == DriveInputs) == (prefix != "delayed" && prefix != "wants") {
				to = other
			}
		}
		*to = append(*to, l...)
	}
	return x
}

// never stands for a time that is not.
const never = math.MinInt32

// play is a circuit in one run.
type play struct {
	p      *Played
	f      *faulty
	whole  *circuit.Live // with every wire landed
	live   *circuit.Live // as it stands
	list   []device
	moved  []bool // contacts out of rest
	held   []int8 // contacts that a fault holds: 1 at rest, 2 once worked
	dark   []bool // sources that are off
	lifted map[int]bool
	stale  bool // something has changed since it was solved
	train  *train
	// each, when given, is called whenever the circuit has come to rest.
	each func(now int)
}

// Play runs events on a circuit, with faults if any are given, and looks at times in milliseconds, in order.
func (p *Played) Play(faults []circuit.Mistake, events []Event, looks []int) ([]Seen, error) {
	r, err := p.begin(faults)
	if err != nil {
		return nil, err
	}
	var out []Seen
	err = r.run(events, looks, func(int) bool { out = append(out, r.seen()); return true })
	return out, err
}

// begin makes a circuit with faults ready to be played as often as wanted.
func (p *Played) begin(faults []circuit.Mistake) (*play, error) {
	f := p.with(faults)
	if f == nil {
		return nil, &circuit.FieldError{Path: "fault", Got: string(faults[0].Kind), Want: "a fault of this circuit"}
	}
	r := &play{p: p, f: f, whole: f.net.Live(nil), list: make([]device, len(p.protos)), moved: make([]bool, p.contacts),
		dark: make([]bool, p.nsources)}
	for i := range p.protos {
		x := &p.protos[i]
		r.list[i] = device{proto: x, d: f.as(x.id, x.d), lifeless: f.lifeless[x.id], pairs: make([]channels, len(x.pairs))}
	}
	if len(f.stuck)+len(f.welded) > 0 {
		r.held = make([]int8, p.contacts)
		for key := range f.stuck {
			r.hold(key, 1)
		}
		for key := range f.welded {
			r.hold(key, 2)
		}
	}
	return r, nil
}

// afresh is the circuit before anything is done, everything switched on.
func (r *play) afresh() {
	r.live, r.stale = r.whole, true
	clear(r.moved)
	clear(r.dark)
	clear(r.lifted)
	for i := range r.list {
		x := &r.list[i]
		clear(x.pairs)
		*x = device{proto: x.proto, d: x.d, lifeless: x.lifeless, pairs: x.pairs, due: -1, aFrom: never, bFrom: never, press: -1, late: -1}
	}
	for id := range r.f.lifeless {
		if r.p.Devices[id].Does == "" {
			r.darken(id, true)
		}
	}
}

// contactsOf are a part's contacts by their numbers, or those of one name of it.
func (p *Played) contactsOf(key string) []int {
	part, contact, one := strings.Cut(key, ".")
	var out []int
	for name, l := range p.Net.Contacts(part) {
		if !one || name == contact {
			out = append(out, l...)
		}
	}
	return out
}

// hold holds a part's contacts, or one of them.
func (r *play) hold(key string, how int8) {
	for _, i := range r.p.contactsOf(key) {
		r.held[i] = how
	}
}

func (r *play) darken(part string, off bool) {
	for _, i := range r.p.Net.Sources(part) {
		r.dark[i], r.stale = off, true
	}
}

// move puts contacts where they belong; true when one has moved.
func (r *play) move(l []int, worked bool) bool {
	changed := false
	for _, i := range l {
		w := worked
		if r.held != nil {
			switch {
			case r.held[i] == 1:
				w = false
			case r.held[i] == 2 && r.moved[i]:
				w = true
			}
		}
		if r.moved[i] != w {
			r.moved[i], changed = w, true
		}
	}
	if changed {
		r.stale = true
	}
	return changed
}

// run does events and looks, from the beginning; look is called at each of the times, and ends the run with false.
func (r *play) run(events []Event, looks []int, look func(k int) bool) error {
	r.afresh()
	now, next, k := 0, 0, 0
	for {
		for next < len(events) && events[next].At <= now {
			if err := r.do(events[next]); err != nil {
				return err
			}
			next++
		}
		r.beat(now)
		if err := r.settle(now); err != nil {
			return err
		}
		if r.each != nil {
			r.each(now)
		}
		for k < len(looks) && looks[k] <= now {
			if !look(k) {
				return nil
			}
			k++
		}
		if k == len(looks) {
			return nil
		}
		// The next moment at which anything can happen.
		then := looks[k]
		if next < len(events) {
			then = min(then, max(now+1, events[next].At))
		}
		for i := range r.list {
			x := &r.list[i]
			for _, t := range [...]int{x.due, x.wakes()} {
				if t > now {
					then = min(then, t)
				}
			}
		}
		now = max(now+1, r.beats(now, then))
	}
}

// do does one event.
func (r *play) do(e Event) error {
	bad := func(want string) error {
		return &circuit.FieldError{Path: "events." + string(e.Do), Got: e.What, Want: want}
	}
	drive := func(set func(*device)) error {
		for i := range r.list {
			if x := &r.list[i]; x.id == e.What && x.d.Does == DriveInputs {
				set(x)
				return nil
			}
		}
		return bad("a drive of the circuit")
	}
	switch e.Do {
	case Work, Release:
		l := r.p.hands[e.What]
		if len(l) == 0 {
			return bad("a part that is worked by hand")
		}
		r.move(l, e.Do == Work)
	case Lift, Land:
		i := r.p.Net.WireAt(e.What)
		if i < 0 {
			return bad("a wire of the circuit")
		}
		if r.lifted == nil {
			r.lifted = map[int]bool{}
		}
		r.lifted[i] = e.Do == Lift
		r.live, r.stale = r.whole, true
		for _, off := range r.lifted {
			if off {
				r.live = r.f.net.Live(r.lifted)
				break
			}
		}
	case SupplyOff, SupplyOn:
		off := e.Do == SupplyOff
		isDrive := drive(func(x *device) { x.unfed = off }) == nil
		if x, ok := r.p.Net.Circuit.Part(e.What); !isDrive && (!ok || len(x.Sources) == 0) {
			return bad("a source of the circuit, or a drive")
		}
		r.darken(e.What, off || r.f.lifeless[e.What])
	case Run, RunOff:
		return drive(func(x *device) { x.runs = e.Do == Run })
	case Reset, ResetOff:
		return drive(func(x *device) { x.rst = e.Do == Reset })
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
		if r.stale {
			r.live.Solve(r.gaps(r.moved, r.dark))
			r.stale = false
		}
		changed := false
		for i := range r.list {
			x := &r.list[i]
			was := x.on
			r.look(x, now)
			if r.contacts(x, now) || x.on != was || r.stale && len(x.sources) > 0 {
				changed = true
				if x.moves++; x.moves > mostSwitchings || round > 40 {
					return r.chatter(now)
				}
			}
		}
		if !changed {
			return nil
		}
	}
}

// seen is what a person sees now.
func (r *play) seen() Seen {
	out := make(Seen, len(r.list))
	for i := range r.list {
		out[r.list[i].id] = r.list[i].shows()
	}
	return out
}

// print is what a person sees now, in a form to be compared.
func (r *play) print(into []byte) []byte {
	for i := range r.list {
		x := &r.list[i]
		switch {
		case x.d.Does == DriveInputs:
			into = append(into, x.state[0], x.state[len(x.state)-1], byte(len(x.state)))
		case x.on:
			into = append(into, 1)
		default:
			into = append(into, 0)
		}
	}
	return into
}
