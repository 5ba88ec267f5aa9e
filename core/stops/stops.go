// Package stops plays stop circuits in time: emergency stops and guards, safety relays, contactors, lamps and the torque-off inputs
// of drives. It works out what every test of a circuit must show, and which single fault explains what was shown. It proves that
// what was built does what was drawn; whether what was drawn is safe enough is for a qualified person.
package stops

import (
	"fmt"
	"slices"
	"sort"

	"tingate/core/circuit"
)

// Kinds of device, by what they do.
const (
	Hand   = "hand"   // worked by a person: emergency stop, guard, key; its contacts move together
	Button = "button" // the same, worked for a moment
	Relay  = "relay"  // load coil; every contact moves with it. Contactors too
	// loads supply, reset, and ch1, ch2 or pairs in1a, in1b, …; contacts out…, delayed… close, aux… open while it is on, wants… close
	// while its reset is all that is missing
	SafetyRelay = "safety-relay"
	DriveInputs = "drive" // loads a, b, and run, reset, stop, interlock where they are wired; contacts ready…, off…, fault…, brake…
	Lamp        = "lamp"  // load lamp
	Brake       = "brake" // load coil: with voltage it is released
)

// Device is what a part of the circuit does. Times in milliseconds.
type Device struct {
	Does        string  `json:"does" enum:"hand,button,relay,safety-relay,drive,lamp,brake"`
	Kind        string  `json:"kind,omitempty" doc:"of a field device: emergency-stop, guard, light-curtain, key, reset-guard"`
	Colour      string  `json:"colour,omitempty" doc:"of a lamp"`
	OnVolts     float64 `json:"on_volts,omitempty" doc:"at which it is on; 0: 15 V"`
	Pick        int     `json:"pick_ms,omitempty" doc:"of a safety relay: its start delay"`
	Drop        int     `json:"drop_ms,omitempty"`
	Discrepancy int     `json:"discrepancy_ms,omitempty" doc:"of two channels; 0 of a safety relay: not watched"`
	Reset       string  `json:"reset,omitempty" enum:"automatic,pressed,let-go," doc:"of a safety relay: how it starts"`
	OffDelay    int     `json:"off_delay_ms,omitempty" doc:"of its delayed outputs"`
	Filter      int     `json:"filter_ms,omitempty" doc:"of a drive, of a safety relay's channels: shorter gaps, test pulses, are passed over"`
	Pulsed      bool    `json:"pulsed,omitempty" doc:"of a safety relay: its two sources carry test pulses: joined, or a channel held by a foreign voltage, are a fault"`
	Pulse       int     `json:"pulse_ms,omitempty" doc:"width of the test pulses that it sends: a pulsed relay on its sources, a light curtain on its outputs; 0: 1 ms"`
	OutPulse    int     `json:"out_pulse_ms,omitempty" doc:"of a safety relay with electronic outputs: width of the test pulses on them; 0: none, as of contacts"`
	Latched     bool    `json:"latched,omitempty" doc:"of a drive: torque off asks for its reset"`
}

// Circuit is parts and wires with what the parts do, by part.
type Circuit struct {
	circuit.Circuit
	Devices map[string]Device `json:"devices"`
}

// Played is a circuit that was checked.
type Played struct {
	Net                *circuit.Net
	Devices            map[string]Device
	order              []string // of devices, as they are looked at
	loads              map[string][]string
	moves              map[string][]string // contacts of a part, "part.contact"
	hands              map[string][]int    // contacts of parts that are worked by hand, as the net numbers them
	protos             []proto             // of the others, in order
	closed             []bool              // contacts at rest, as the net numbers them
	contacts, nsources int
	terminals          []int // of all parts in order, as the net numbers them
	known              forms // of its faults
}

// needs are the loads that a kind of device must have.
var needs = map[string][]string{Relay: {"coil"}, SafetyRelay: {"supply"}, DriveInputs: {"a", "b"}, Lamp: {"lamp"}, Brake: {"coil"}}

// Compile checks a circuit; all faults are told.
func Compile(c Circuit) (*Played, []error) {
	n, errs := circuit.Compile(c.Circuit)
	p := &Played{Net: n, Devices: c.Devices, loads: map[string][]string{}, moves: map[string][]string{}}
	for _, x := range c.Parts {
		for _, l := range x.Loads {
			p.loads[x.ID] = append(p.loads[x.ID], l.Name)
		}
		for _, k := range x.Contacts {
			if key := x.ID + "." + k.Name; !slices.Contains(p.moves[x.ID], key) {
				p.moves[x.ID] = append(p.moves[x.ID], key)
			}
		}
	}
	for id, d := range c.Devices {
		bad := func(field, got, want string) {
			errs = append(errs, &circuit.FieldError{Path: "devices." + id + field, Got: got, Want: want})
		}
		if _, ok := c.Part(id); !ok {
			bad("", id, "a part of the circuit")
			continue
		}
		p.order = append(p.order, id)
		switch d.Does {
		case Hand, Button:
			if len(p.moves[id]) == 0 {
				bad(".does", d.Does, "a part with contacts")
			}
		case Relay, SafetyRelay, DriveInputs, Lamp, Brake:
			for _, l := range needs[d.Does] {
				if !slices.Contains(p.loads[id], l) {
					bad(".does", d.Does, "a part with a load "+l)
				}
			}
		default:
			bad(".does", d.Does, "hand, button, relay, safety-relay, drive, lamp or brake")
		}
		for _, t := range []int{d.Pick, d.Drop, d.Discrepancy, d.OffDelay, d.Filter, d.Pulse, d.OutPulse} {
			if t < 0 || t > 600_000 {
				bad("", fmt.Sprint(t), "0 to 600,000 ms")
			}
		}
		if d.Does == SafetyRelay && len(p.channelNames(id)) == 0 {
			bad(".does", d.Does, "a part with loads ch1 and ch2, or pairs in1a, in1b, …")
		}
		if d.Does == SafetyRelay && d.Pulsed {
			if x, _ := c.Part(id); len(x.Sources) != 2 {
				bad(".pulsed", fmt.Sprint(len(x.Sources), " sources"), "two sources of its own")
			}
		}
		if d.Does == SafetyRelay && d.Reset != "automatic" && d.Reset != "pressed" && d.Reset != "let-go" {
			bad(".reset", d.Reset, "automatic, pressed or let-go")
		}
	}
	if errs != nil {
		return nil, errs
	}
	place := map[string]int{}
	for i, x := range c.Parts {
		place[x.ID] = i
	}
	sort.Slice(p.order, func(i, k int) bool { return place[p.order[i]] < place[p.order[k]] })
	p.hands = map[string][]int{}
	for _, x := range c.Parts {
		for _, c := range x.Contacts {
			p.closed = append(p.closed, c.Closed)
		}
		p.contacts += len(x.Contacts)
		for _, name := range x.Terminals {
			p.terminals = append(p.terminals, n.NodeAt(x.ID+":"+name))
		}
		p.nsources += len(x.Sources)
	}
	for _, id := range p.order {
		if does := p.Devices[id].Does; does == Hand || does == Button {
			for _, l := range n.Contacts(id) {
				p.hands[id] = append(p.hands[id], l...)
			}
			continue
		}
		p.protos = append(p.protos, p.protoOf(id))
	}
	p.expect()
	return p, nil
}

// channelNames are the loads of a safety relay's pairs of channels.
func (p *Played) channelNames(id string) [][2]string {
	has := func(name string) bool { return slices.Contains(p.loads[id], name) }
	if has("ch1") && has("ch2") {
		return [][2]string{{"ch1", "ch2"}}
	}
	var l [][2]string
	for i := 1; ; i++ {
		a, b := fmt.Sprintf("in%da", i), fmt.Sprintf("in%db", i)
		if !has(a) || !has(b) {
			return l
		}
		l = append(l, [2]string{a, b})
	}
}

// Of lists the parts that do something, by name.
func (p *Played) Of(does ...string) []string {
	var l []string
	for _, id := range p.order {
		if slices.Contains(does, p.Devices[id].Does) {
			l = append(l, id)
		}
	}
	return l
}

// Name is what a part is called.
func (p *Played) Name(id string) string {
	x, _ := p.Net.Circuit.Part(id)
	if x.Name == "" {
		return id
	}
	return id + " " + x.Name
}
