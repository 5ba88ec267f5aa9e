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
	Hand        = "hand"         // worked by a person: emergency stop, guard, key; its contacts move together
	Button      = "button"       // the same, worked for a moment
	Relay       = "relay"        // load coil; every contact moves with it. Contactors too
	SafetyRelay = "safety-relay" // loads supply, ch1, ch2, reset; contacts out…, delayed… close, aux… open while it is on
	DriveInputs = "drive"        // loads a, b, and run, reset where they are wired; contacts ready…, off…, fault…
	Lamp        = "lamp"         // load lamp
)

// Device is what a part of the circuit does. Times in milliseconds.
type Device struct {
	Does        string  `json:"does" enum:"hand,button,relay,safety-relay,drive,lamp"`
	Colour      string  `json:"colour,omitempty" doc:"of a lamp"`
	OnVolts     float64 `json:"on_volts,omitempty" doc:"at which it is on; 0: 15 V"`
	Pick        int     `json:"pick_ms,omitempty"`
	Drop        int     `json:"drop_ms,omitempty"`
	Discrepancy int     `json:"discrepancy_ms,omitempty" doc:"of two channels; 0 of a safety relay: not watched"`
	Reset       string  `json:"reset,omitempty" enum:"automatic,pressed,let-go," doc:"of a safety relay: how it starts"`
	OffDelay    int     `json:"off_delay_ms,omitempty" doc:"of its delayed outputs"`
	Filter      int     `json:"filter_ms,omitempty" doc:"of a drive: shorter gaps, test pulses, are passed over"`
	Latched     bool    `json:"latched,omitempty" doc:"of a drive: torque off asks for its reset"`
}

// Circuit is parts and wires with what the parts do, by part.
type Circuit struct {
	circuit.Circuit
	Devices map[string]Device `json:"devices"`
}

// Played is a circuit that was checked.
type Played struct {
	Net     *circuit.Net
	Devices map[string]Device
	order   []string // of devices, as they are looked at
	loads   map[string][]string
	moves   map[string][]string // contacts of a part, "part.contact"
	at      map[[2]string]int   // loads by part and name, as the net numbers them
}

// needs are the loads that a kind of device must have.
var needs = map[string][]string{Relay: {"coil"}, SafetyRelay: {"supply", "ch1", "ch2"}, DriveInputs: {"a", "b"}, Lamp: {"lamp"}}

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
		case Relay, SafetyRelay, DriveInputs, Lamp:
			for _, l := range needs[d.Does] {
				if !slices.Contains(p.loads[id], l) {
					bad(".does", d.Does, "a part with a load "+l)
				}
			}
		default:
			bad(".does", d.Does, "hand, button, relay, safety-relay, drive or lamp")
		}
		for _, t := range []int{d.Pick, d.Drop, d.Discrepancy, d.OffDelay, d.Filter} {
			if t < 0 || t > 600_000 {
				bad("", fmt.Sprint(t), "0 to 600,000 ms")
			}
		}
		if d.Does == SafetyRelay && d.Reset != "automatic" && d.Reset != "pressed" && d.Reset != "let-go" {
			bad(".reset", d.Reset, "automatic, pressed or let-go")
		}
	}
	if errs != nil {
		return nil, errs
	}
	sort.Strings(p.order)
	p.at = map[[2]string]int{}
	for id, names := range p.loads {
		for _, name := range names {
			p.at[[2]string{id, name}] = n.LoadAt(id + "." + name)
		}
	}
	return p, nil
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
