// Package circuit holds wires, contacts and loads as a net: what is joined to what, which voltage stands where, what a
// single mistake would change, and which mistake explains what was measured. It knows no drive family and no document.
package circuit

import (
	"fmt"
	"strings"
)

// Circuit is parts with terminals, and the wires between them.
type Circuit struct {
	Parts []Part `json:"parts"`
	Wires []Wire `json:"wires"`
}

// Part is a thing with terminals: a drive, a strip, a push button, a lamp, a source.
type Part struct {
	ID        string          `json:"id"`
	Kind      string          `json:"kind" doc:"drive, strip, button, switch, lamp, coil, source, potentiometer, transmitter, meter, encoder, sensor, other"`
	Name      string          `json:"name,omitempty"`
	Terminals []string        `json:"terminals" doc:"in the order in which they stand side by side"`
	Bonds     []Bond          `json:"bonds,omitempty"`
	Contacts  []Contact       `json:"contacts,omitempty"`
	Loads     []Load          `json:"loads,omitempty"`
	Sources   []VoltageSource `json:"sources,omitempty"`
}

// Bond joins two terminals inside a part for ever: a factory link, the two rows of a strip.
type Bond struct {
	A string `json:"a"`
	B string `json:"b"`
}

// Contact joins two terminals in one of its states. Contacts of one name move together; a changeover is two of them.
type Contact struct {
	Name   string `json:"name"`
	A      string `json:"a"`
	B      string `json:"b"`
	Closed bool   `json:"closed" doc:"at rest"`
}

// Load is a resistance between two terminals: an input, a lamp, a coil, half a potentiometer.
type Load struct {
	Name string  `json:"name"`
	A    string  `json:"a"`
	B    string  `json:"b"`
	Ohm  float64 `json:"ohm"`
}

// VoltageSource holds a voltage between two terminals and may give so much current.
type VoltageSource struct {
	Name  string  `json:"name"`
	Plus  string  `json:"plus"`
	Minus string  `json:"minus"`
	Volts float64 `json:"volts"`
	Most  float64 `json:"most_a,omitempty" doc:"A; 0: not stated"`
}

// Wire has a number and two ends, each "part:terminal".
type Wire struct {
	ID     string `json:"id"`
	From   string `json:"from"`
	To     string `json:"to"`
	Colour string `json:"colour,omitempty"`
	Area   string `json:"area,omitempty"`
	Screen string `json:"screen,omitempty"`
	Why    string `json:"why,omitempty"`
}

// FieldError names the place, what was read and what was expected.
type FieldError struct{ Path, Got, Want string }

func (e *FieldError) Error() string { return fmt.Sprintf("%s: got %q, want %s", e.Path, e.Got, e.Want) }

// Limits of one circuit.
const (
	MostWires = 5000
	MostParts = 2000
)

// Net is a circuit that was checked, with every terminal as a number. It is not changed by solving.
type Net struct {
	Circuit Circuit
	index   map[string]int // "part:terminal" -> node
	names   []string       // node -> "part:terminal"
	part    []int          // node -> its part
	wires   [][2]int
	bonds   [][2]int
	moving  []moving
	loads   []edge
	sources []source
}

type moving struct {
	a, b   int
	key    string // "part.contact"
	closed bool
}

type edge struct {
	name string // "part.load"
	a, b int
	ohm  float64
}

type source struct {
	name        string
	plus, minus int
	volts, most float64
}

// Compile checks a circuit: parts and wires named once, every end a terminal, no wire to itself. All faults are told.
func Compile(c Circuit) (*Net, []error) {
	var errs []error
	bad := func(path, got, want string) { errs = append(errs, &FieldError{path, got, want}) }
	if len(c.Wires) > MostWires || len(c.Parts) > MostParts {
		bad("wires", fmt.Sprintf("%d wires, %d parts", len(c.Wires), len(c.Parts)),
			fmt.Sprintf("at most %d wires and %d parts", MostWires, MostParts))
		return nil, errs
	}
	n := &Net{Circuit: c, index: make(map[string]int, len(c.Parts)*8)}
	seen := make(map[string]bool, len(c.Parts))
	for i, p := range c.Parts {
		if p.ID == "" || strings.ContainsAny(p.ID, ":. ") || seen[p.ID] {
			bad(fmt.Sprintf("parts[%d].id", i), p.ID, "a name used once, without colon, point or blank")
		}
		seen[p.ID] = true
		for k, t := range p.Terminals {
			name := p.ID + ":" + t
			if _, ok := n.index[name]; ok || t == "" || strings.Contains(t, ":") {
				bad(fmt.Sprintf("parts[%d].terminals[%d]", i, k), t, "a terminal named once, without colon")
			}
			n.index[name] = len(n.names)
			n.names, n.part = append(n.names, name), append(n.part, i)
		}
	}
	for i, p := range c.Parts {
		n.inside(i, p, bad)
	}
	wires := make(map[string]bool, len(c.Wires))
	for i, w := range c.Wires {
		at := fmt.Sprintf("wires[%d].", i)
		if w.ID == "" || wires[w.ID] {
			bad(at+"id", w.ID, "a wire number used once")
		}
		wires[w.ID] = true
		a, ok := n.index[w.From]
		b, ok2 := n.index[w.To]
		if !ok {
			bad(at+"from", w.From, "part:terminal of the circuit")
		}
		if !ok2 {
			bad(at+"to", w.To, "part:terminal of the circuit")
		}
		if w.From == w.To {
			bad(at+"to", w.To, "another terminal than it comes from")
		}
		n.wires = append(n.wires, [2]int{a, b})
	}
	if errs != nil {
		return nil, errs
	}
	return n, nil
}

// inside reads what joins the terminals of a part.
func (n *Net) inside(i int, p Part, bad func(path, got, want string)) {
	node := func(path, t string) int {
		k, ok := n.index[p.ID+":"+t]
		if !ok {
			bad(fmt.Sprintf("parts[%d].%s", i, path), t, "a terminal of "+p.ID)
		}
		return k
	}
	for k, b := range p.Bonds {
		at := fmt.Sprintf("bonds[%d]", k)
		n.bonds = append(n.bonds, [2]int{node(at, b.A), node(at, b.B)})
	}
	for k, c := range p.Contacts {
		at := fmt.Sprintf("contacts[%d]", k)
		n.moving = append(n.moving, moving{node(at, c.A), node(at, c.B), p.ID + "." + c.Name, c.Closed})
	}
	for k, l := range p.Loads {
		at := fmt.Sprintf("loads[%d]", k)
		if !(l.Ohm > 0) {
			bad(fmt.Sprintf("parts[%d].%s.ohm", i, at), fmt.Sprint(l.Ohm), "above 0")
		}
		n.loads = append(n.loads, edge{p.ID + "." + l.Name, node(at, l.A), node(at, l.B), l.Ohm})
	}
	for k, s := range p.Sources {
		at := fmt.Sprintf("sources[%d]", k)
		if !(s.Volts > 0) {
			bad(fmt.Sprintf("parts[%d].%s.volts", i, at), fmt.Sprint(s.Volts), "above 0")
		}
		n.sources = append(n.sources, source{p.ID + "." + s.Name, node(at, s.Plus), node(at, s.Minus), s.Volts, s.Most})
	}
}

// Has tells whether a terminal is there.
func (n *Net) Has(terminal string) bool { _, ok := n.index[terminal]; return ok }

// Moves tells whether a contact is there, "part.contact".
func (n *Net) Moves(contact string) bool {
	for _, m := range n.moving {
		if m.key == contact {
			return true
		}
	}
	return false
}

// Part finds a part by its id.
func (c Circuit) Part(id string) (Part, bool) {
	for _, p := range c.Parts {
		if p.ID == id {
			return p, true
		}
	}
	return Part{}, false
}

// PartOf is the part's id of a terminal's name.
func PartOf(terminal string) string { p, _, _ := strings.Cut(terminal, ":"); return p }
