package stops

import (
	"fmt"
	"strings"

	"tingate/core/circuit"
)

// Faults of a part itself, beside the mistakes of wiring that a net knows.
const (
	Stuck    circuit.Kind = "stuck"    // a contact, part.contact, does not move with its device
	Welded   circuit.Kind = "welded"   // a relay's or contactor's contacts stay where they once were worked
	Lifeless circuit.Kind = "lifeless" // a relay never picks up, a lamp never lights
	Missing  circuit.Kind = "missing"  // a source gives nothing
	Setting  circuit.Kind = "setting"  // a part is set otherwise than drawn: To is name=value
)

// How often each is met, against the mistakes of wiring. Common practice.
var partFaults = map[circuit.Kind]float64{Stuck: 4, Welded: 1, Lifeless: 1.5, Missing: 2, Setting: 2}

// reach is how far from its terminal on a strip a wire is thought to have landed.
const reach = 2

// Faults are the single faults of a circuit: the mistakes of its wiring, and those of its parts.
func (p *Played) Faults() []circuit.Candidate {
	out := p.Net.MistakesWithin(reach)
	add := func(kind circuit.Kind, at, to string) {
		out = append(out, circuit.Candidate{Mistake: circuit.Mistake{Kind: kind, At: at, To: to}, Weight: partFaults[kind]})
	}
	for _, id := range p.order {
		d := p.Devices[id]
		switch d.Does {
		case Hand, Button:
			for _, key := range p.moves[id] {
				add(Stuck, key, "")
			}
		case Relay:
			add(Welded, id, "")
			add(Lifeless, id, "")
		case SafetyRelay:
			for _, key := range p.moves[id] {
				if !strings.HasSuffix(key, ".aux") && !strings.HasSuffix(key, ".wants") {
					add(Welded, key, "")
				}
			}
			add(Lifeless, id, "")
			for _, r := range []string{"automatic", "pressed", "let-go"} {
				if r != d.Reset {
					add(Setting, id, "reset="+r)
				}
			}
			if d.OffDelay > 0 {
				add(Setting, id, "delay=0")
			}
		case DriveInputs:
			add(Setting, id, fmt.Sprintf("latched=%v", !d.Latched))
		case Lamp, Brake:
			add(Lifeless, id, "")
		}
	}
	for _, x := range p.Net.Circuit.Parts {
		if p.Devices[x.ID].Does == "" && (len(x.Sources) > 0 || x.Kind == "fuse") {
			add(Missing, x.ID, "")
		}
	}
	return out
}

// Text says a fault in a sentence.
func (p *Played) Text(m circuit.Mistake) string {
	switch m.Kind {
	case Stuck:
		part, contact, _ := strings.Cut(m.At, ".")
		return fmt.Sprintf("Contact %s of %s does not move with it: bridged, stuck or broken.", contact, p.Name(part))
	case Welded:
		part, contact, one := strings.Cut(m.At, ".")
		if one {
			return fmt.Sprintf("Contact %s of %s is welded.", contact, p.Name(part))
		}
		return p.Name(part) + " is welded: it stays as it was when worked."
	case Lifeless:
		if p.Devices[m.At].Does == Lamp {
			return p.Name(m.At) + ": the lamp is broken."
		}
		return p.Name(m.At) + " never picks up."
	case Missing:
		if x, _ := p.Net.Circuit.Part(m.At); x.Kind == "fuse" {
			return p.Name(m.At) + " is blown, or out."
		}
		return p.Name(m.At) + " gives nothing."
	case Setting:
		name, value, _ := strings.Cut(m.To, "=")
		return fmt.Sprintf("%s is set otherwise: %s %s.", p.Name(m.At), name, strings.ReplaceAll(value, "-", " "))
	}
	return m.Text(p.Net)
}

// faulty is what faults do to a play.
type faulty struct {
	net      *circuit.Net
	stuck    map[string]bool
	welded   map[string]bool // parts, or part.contact
	lifeless map[string]bool
	set      map[string]string
}

// with applies faults: those of wiring to the net, those of parts beside it. Nil when one names what is not there.
func (p *Played) with(faults []circuit.Mistake) *faulty {
	f := &faulty{net: p.Net}
	put := func(m *map[string]bool, k string) {
		if *m == nil {
			*m = map[string]bool{}
		}
		(*m)[k] = true
	}
	for _, m := range faults {
		part, _, _ := strings.Cut(m.At, ".")
		if _, ok := p.Net.Circuit.Part(part); partFaults[m.Kind] > 0 && !ok {
			return nil
		}
		switch m.Kind {
		case Stuck:
			put(&f.stuck, m.At)
		case Welded:
			put(&f.welded, m.At)
		case Lifeless:
			put(&f.lifeless, m.At)
		case Missing:
			if x, _ := p.Net.Circuit.Part(m.At); x.Kind == "fuse" { // open, as a contact of the other kind is
				if f.net = f.net.With(circuit.Mistake{Kind: "contact", At: m.At + "." + x.Contacts[0].Name}); f.net == nil {
					return nil
				}
				continue
			}
			put(&f.lifeless, m.At)
		case Setting:
			if f.set == nil {
				f.set = map[string]string{}
			}
			f.set[m.At] = m.To
		default:
			if f.net = f.net.With(m); f.net == nil {
				return nil
			}
		}
	}
	return f
}

// as is a device as it is set, with a fault of its setting.
func (f *faulty) as(id string, d Device) Device {
	name, value, ok := strings.Cut(f.set[id], "=")
	if !ok {
		return d
	}
	switch name {
	case "reset":
		d.Reset = value
	case "delay":
		d.OffDelay = 0
	case "latched":
		d.Latched = value == "true"
	}
	return d
}
