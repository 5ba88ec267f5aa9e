package stops

import (
	"fmt"
	"strings"

	"tingate/core/circuit"
)

// outputs leads from the relay to the drives, over contactors where there are any.
func (d *drafting) outputs() {
	s := d.s
	for i, x := range s.Drives {
		p := circuit.Part{ID: x.ID, Kind: "drive", Name: x.Name, Terminals: unique(x.A[0], x.A[1], x.B[0], x.B[1])}
		p.Loads = []circuit.Load{{Name: "a", A: x.A[0], B: x.A[1], Ohm: x.OhmA}, {Name: "b", A: x.B[0], B: x.B[1], Ohm: x.OhmB}}
		if s.FromDrive && i == 0 {
			p.Terminals = append(p.Terminals, "24V", "24V-0")
			p.Sources = []circuit.VoltageSource{{Name: "24V", Plus: "24V", Minus: "24V-0", Volts: 24, Most: .2}}
		}
		if s.Delay > 0 {
			p.Terminals = append(p.Terminals, "ramp", "ramp-0")
			p.Loads = append(p.Loads, circuit.Load{Name: "stop", A: "ramp", B: "ramp-0", Ohm: 4800})
		}
		if s.Interlock {
			p.Terminals = append(p.Terminals, "IL", "IL-0")
			p.Loads = append(p.Loads, circuit.Load{Name: "interlock", A: "IL", B: "IL-0", Ohm: 4800})
		}
		if s.Status {
			p.Terminals = append(p.Terminals, "R1", "R2")
			p.Contacts = append(p.Contacts, circuit.Contact{Name: "off", A: "R1", B: "R2"})
		}
		if x.Brake {
			p.Terminals = append(p.Terminals, "B1", "B2")
			p.Contacts = append(p.Contacts, circuit.Contact{Name: "brake", A: "B1", B: "B2"})
		}
		d.part(p, Device{Does: DriveInputs, Discrepancy: x.Discrepancy, Filter: x.Filter, Latched: x.Latched})
	}
	outs := [2]string{"K1:14", "K1:24"}
	d.join(d.plus, "K1:13", "output")
	lead := func(channel int, from string) {
		for _, x := range s.Drives {
			to := x.A[0]
			if channel == 1 {
				to = x.B[0]
			}
			d.join(from, x.ID+":"+to, "torque off, channel "+string(rune('A'+channel)))
			from = x.ID + ":" + to
		}
	}
	switch s.Contactors {
	case 0:
		lead(0, outs[0])
		d.join(d.plus, "K1:23", "output")
		lead(1, outs[1])
	default:
		d.join(d.plus, "K1:23", "output")
		last := fmt.Sprintf("Q%d", s.Contactors)
		d.join(outs[0], "Q1:A1", "coil")
		if s.Contactors > 1 {
			d.join(outs[1], last+":A1", "coil")
		}
		for i := range s.Contactors {
			d.join(fmt.Sprintf("Q%d:A2", i+1), d.minus, "coil")
		}
		second := last + ":13"
		if s.Contactors == 1 {
			second = "Q1:23"
		}
		d.join(d.plus, "Q1:13", "main contact")
		d.join(d.plus, second, "main contact")
		lead(0, "Q1:14")
		lead(1, strings.TrimSuffix(second, "3")+"4")
	}
	if s.Jumper && len(s.Drives) > 0 {
		first := s.Drives[0]
		d.join(d.plus, first.ID+":"+first.A[0], "factory link, still in")
		d.join(d.plus, first.ID+":"+first.B[0], "factory link, still in")
	}
	for _, x := range s.Drives {
		for _, t := range unique(x.A[1], x.B[1]) {
			d.join(d.minus, x.ID+":"+t, "common")
		}
		if s.Delay > 0 {
			d.join("K1:64", x.ID+":ramp", "ramp down")
			d.join(d.minus, x.ID+":ramp-0", "common")
		}
		if s.Interlock {
			d.join("K1:44", x.ID+":IL", "interlock, no safety function")
			d.join(d.minus, x.ID+":IL-0", "common")
		}
		if x.Brake {
			b := "Y" + strings.TrimPrefix(x.ID, "T")
			d.part(circuit.Part{ID: b, Kind: "coil", Name: "Brake", Terminals: []string{"1", "2"},
				Loads: []circuit.Load{{Name: "coil", A: "1", B: "2", Ohm: 60}}}, Device{Does: Brake})
			d.join(d.plus, x.ID+":B1", "brake")
			d.join(x.ID+":B2", b+":1", "brake")
			d.join(b+":2", d.minus, "brake")
		}
	}
	if s.Delay > 0 {
		d.join(d.plus, "K1:63", "output at once")
	}
	if s.Interlock {
		d.join(d.plus, "K1:43", "interlock")
	}
}

// lamps show what the relay does, in the colours of IEC 60073.
func (d *drafting) lamps() {
	type lamp struct{ id, name, colour, from, to string }
	var l []lamp
	switch d.s.Lamps {
	case "two", "three":
		l = []lamp{{"H1", "Ready", "green", "K1:33", "K1:34"}, {"H2", "Tripped", "red", "K1:41", "K1:42"}}
	}
	if d.s.Lamps == "three" {
		l = append(l, lamp{"H3", "Reset wanted", "blue", "K1:51", "K1:52"})
	}
	for _, h := range l {
		d.part(circuit.Part{ID: h.id, Kind: "lamp", Name: h.name, Terminals: []string{"x1", "x2"},
			Loads: []circuit.Load{{Name: "lamp", A: "x1", B: "x2", Ohm: 1200}}}, Device{Does: Lamp, Colour: h.colour})
		d.join(d.plus, h.from, "lamp")
		d.join(h.to, h.id+":x1", "lamp")
		d.join(h.id+":x2", d.minus, "lamp")
	}
}

func unique(l ...string) []string {
	var out []string
	for _, x := range l {
		seen := false
		for _, y := range out {
			seen = seen || x == y
		}
		if !seen {
			out = append(out, x)
		}
	}
	return out
}

// inputs lands the ends of the channels, and the supply.
func (d *drafting) inputs(ends [2]string) {
	switch d.s.Kind {
	case "controller":
	case "one-channel":
		d.over(ends[0], "K1:S12", "the one channel")
		d.join("K1:S12", "K1:S22", "both inputs from the one channel")
	default:
		d.over(ends[0], "K1:S12", "channel 1")
		d.over(ends[1], "K1:S22", "channel 2")
	}
	d.join(d.plus, "K1:A1", "supply")
	d.join(d.minus, "K1:A2", "supply")
}

// resetPath is the way to the relay's reset: over the mirror contacts of contactors, the status contacts of drives, over the button unless
// it starts by itself.
func (d *drafting) resetPath() {
	at := d.plus
	for i := range d.s.Contactors {
		k := fmt.Sprintf("Q%d", i+1)
		d.part(circuit.Part{ID: k, Kind: "relay", Name: "Contactor", Terminals: []string{"A1", "A2", "13", "14", "23", "24", "21", "22"},
			Loads: []circuit.Load{{Name: "coil", A: "A1", B: "A2", Ohm: 200}},
			Contacts: []circuit.Contact{{Name: "main1", A: "13", B: "14"}, {Name: "main2", A: "23", B: "24"},
				{Name: "mirror", A: "21", B: "22", Closed: true}}}, Device{Does: Relay, Pick: 20, Drop: 15})
		d.join(at, k+":21", "feedback")
		at = k + ":22"
	}
	if d.s.Status {
		for _, x := range d.s.Drives {
			d.join(at, x.ID+":R1", "status of the drive")
			at = x.ID + ":R2"
		}
	}
	if d.s.Reset == "automatic" {
		d.join(at, "K1:S34", "starts by itself")
		return
	}
	d.button("S0", "Reset", at, "K1:S34")
}
