package stops

import (
	"fmt"
	"strconv"

	"tingate/core/circuit"
)

// Kinds of field device.
const (
	EmergencyStop = "emergency-stop"
	Guard         = "guard"
	LightCurtain  = "light-curtain"
	Key           = "key"
	ResetGuard    = "reset-guard" // a guard with a reset of its own outside
)

// SpecDevice is a field device of a circuit to be drawn.
type SpecDevice struct {
	ID   string `json:"id"`
	Name string `json:"name,omitempty"`
	Kind string `json:"kind,omitempty" enum:"emergency-stop,guard,light-curtain,key,reset-guard,"`
}

// SpecDrive is a drive at the end of a circuit: its terminals as its papers name them. Empty: STO-A, STO-B, 0V.
type SpecDrive struct {
	ID          string    `json:"id"`
	Name        string    `json:"name,omitempty"`
	A           [2]string // input and its return
	B           [2]string
	OhmA, OhmB  float64
	Discrepancy int // ms
	Filter      int // ms
	Latched     bool
	Brake       bool // it works a brake by safe brake control
}

// Spec says which circuit is to be drawn. Times in ms; 0: the usual.
type Spec struct {
	Kind        string // two-channel, one-channel, controller
	Devices     []SpecDevice
	Drives      []SpecDrive
	Reset       string // let-go, pressed, automatic
	Feed        string // one, two, pulsed
	Contactors  int    // 0 to 2, with mirror contacts in the reset's way
	Lamps       string // none, two, three
	Delay       int    // of the outputs to the drives, while these ramp down
	Discrepancy int
	FromDrive   bool // 24 V of the first drive
	Split       bool // the 0 V of the channels come back on wires of their own
	Status      bool // the drives\' status contacts, closed with torque off, stand in the reset\'s way
	StartDelay  int  // from the reset until the outputs close
	Jumper      bool // factory links are still in
	Strip       bool // field devices over a terminal strip
	Fuse        bool // in the plus, behind the source
	OutPulse    int  // width of test pulses on the outputs, of electronic ones
	Interlock   bool // the drives' interlock inputs stand behind a contact of the relay's own
	Alone       bool // no drive stands at its end: contactors, or nothing yet
	Aux         int  // single enabling contacts on inputs of their own, E1 and on: a controller's auxiliary inputs
}

// TwoChannel is the usual circuit: n emergency stops with two contacts each in series, one contact a channel, a safety relay with a
// reset button that acts when let go, its two outputs to a drive's torque-off channels, a green lamp while it is on, a red one
// while it is off, everything fed from one source of 24 V.
func TwoChannel(n int) Circuit {
	s := Spec{Kind: "two-channel", Lamps: "two"}
	for i := range n {
		s.Devices = append(s.Devices, SpecDevice{ID: fmt.Sprintf("S%d", i+1)})
	}
	return Draft(s)
}

// passes is the filter of inputs that light curtains send their test pulses to, ms. Common practice: a few times the pulse.
const passes = 3

// names and what a person does with them.
var fieldDevices = map[string]struct{ name, work, back string }{
	EmergencyStop: {"Emergency stop", "Press %s", "Unlatch %s"},
	Guard:         {"Guard", "Open %s", "Close %s"},
	ResetGuard:    {"Guard", "Open %s", "Close %s"},
	LightCurtain:  {"Light curtain", "Reach into %s", "Leave %s free"},
	Key:           {"Key switch", "Turn %s off", "Turn %s on"},
}

// drafting is a circuit on its way.
type drafting struct {
	s     Spec
	c     Circuit
	strip circuit.Part
	plus  string
	minus string
}

func (d *drafting) join(from, to, why string) {
	d.c.Wires = append(d.c.Wires, circuit.Wire{ID: strconv.Itoa(len(d.c.Wires) + 1), From: from, To: to, Why: why})
}

// over joins two field ends over the strip: a cable's core to a terminal, a link in the panel, the next cable's core.
func (d *drafting) over(from, to, why string) {
	if !d.s.Strip {
		d.join(from, to, why)
		return
	}
	field := func(end string) bool { return d.isField(circuit.PartOf(end)) }
	at := func(end string) string {
		if !field(end) {
			return end
		}
		t := "X2:" + strconv.Itoa(len(d.strip.Terminals)+1)
		d.strip.Terminals = append(d.strip.Terminals, t[3:])
		return t
	}
	a, b := at(from), at(to)
	if a != from {
		d.join(from, a, why)
	}
	d.join(a, b, why)
	if b != to {
		d.join(b, to, why)
	}
}

func (d *drafting) isField(part string) bool {
	does := d.c.Devices[part].Does
	return does == Hand || does == Button
}

func (d *drafting) part(p circuit.Part, does Device) {
	d.c.Parts = append(d.c.Parts, p)
	if does.Does != "" {
		d.c.Devices[p.ID] = does
	}
}

// Draft draws the circuit that a spec asks for.
func Draft(s Spec) Circuit {
	if s.Alone {
		s.Drives, s.FromDrive = nil, false
	} else if len(s.Drives) == 0 {
		s.Drives = []SpecDrive{{ID: "T1", Name: "Drive"}}
	}
	for i := range s.Drives {
		d := &s.Drives[i]
		if d.A[0] == "" {
			d.A, d.B = [2]string{"STO-A", "0V"}, [2]string{"STO-B", "0V"}
			if s.Split {
				d.A[1], d.B[1] = "0V-A", "0V-B"
			}
		}
		d.OhmA, d.OhmB = or(d.OhmA, 4800), or(d.OhmB, 4800)
		if d.Discrepancy == 0 {
			d.Discrepancy = 500
		}
		if d.Filter == 0 {
			d.Filter = 5
		}
	}
	if s.Reset == "" {
		s.Reset = "let-go"
	}
	if s.Discrepancy == 0 {
		s.Discrepancy = 1500
	}
	d := &drafting{s: s, c: Circuit{Devices: map[string]Device{}},
		strip: circuit.Part{ID: "X2", Kind: "strip", Name: "Strip of the stop circuit"}, plus: "G1:+", minus: "G1:-"}
	if s.FromDrive {
		d.plus, d.minus = s.Drives[0].ID+":24V", s.Drives[0].ID+":24V-0"
	} else {
		d.part(circuit.Part{ID: "G1", Kind: "source", Name: "24 V", Terminals: []string{"+", "-"},
			Sources: []circuit.VoltageSource{{Name: "24V", Plus: "+", Minus: "-", Volts: 24, Most: 4}}}, Device{})
	}
	if s.Fuse {
		d.part(circuit.Part{ID: "F1", Kind: "fuse", Name: "Fuse", Terminals: []string{"1", "2"},
			Contacts: []circuit.Contact{{Name: "fuse", A: "1", B: "2", Closed: true}}}, Device{})
		d.join(d.plus, "F1:1", "supply")
		d.plus = "F1:2"
	}
	d.relay()
	ends := d.chain()
	d.inputs(ends)
	d.resetPath()
	d.outputs()
	d.lamps()
	if s.Strip {
		d.c.Parts = append(d.c.Parts, d.strip)
	}
	return d.c
}

func or(v, otherwise float64) float64 {
	if v == 0 {
		return otherwise
	}
	return v
}

// relay puts in what evaluates the devices: a safety relay, or a controller with a pair of inputs for every device.
func (d *drafting) relay() {
	s := d.s
	p := circuit.Part{ID: "K1", Kind: "relay", Name: "Safety relay", Terminals: []string{"A1", "A2"},
		Loads: []circuit.Load{{Name: "supply", A: "A1", B: "A2", Ohm: 300}}}
	if s.Feed == "pulsed" {
		p.Terminals = append(p.Terminals, "T1", "T2")
		p.Sources = []circuit.VoltageSource{{Name: "test1", Plus: "T1", Minus: "A2", Volts: 24},
			{Name: "test2", Plus: "T2", Minus: "A2", Volts: 24}}
	}
	load := func(name, at string, channel int) {
		p.Terminals = append(p.Terminals, at)
		l := circuit.Load{Name: name, A: at, B: "A2", Ohm: 3000}
		if s.Feed == "two" && channel == 2 {
			l.A, l.B = "A1", at
		}
		p.Loads = append(p.Loads, l)
	}
	if s.Kind == "controller" {
		p.Name = "Safety controller"
		for i := range s.Devices {
			load(fmt.Sprintf("in%da", i+1), fmt.Sprintf("I%d.1", i+1), 1)
			load(fmt.Sprintf("in%db", i+1), fmt.Sprintf("I%d.2", i+1), 2)
		}
	} else {
		load("ch1", "S12", 1)
		load("ch2", "S22", 2)
	}
	for i := range s.Aux {
		load(fmt.Sprintf("aux%d", i+1), fmt.Sprintf("X%d", i+1), 1)
	}
	load("reset", "S34", 1)
	out := func(name, a, b string, closed bool) {
		p.Terminals = append(p.Terminals, a, b)
		p.Contacts = append(p.Contacts, circuit.Contact{Name: name, A: a, B: b, Closed: closed})
	}
	names := [2]string{"out1", "out2"}
	if s.Delay > 0 {
		names = [2]string{"delayed1", "delayed2"}
	}
	out(names[0], "13", "14", false)
	out(names[1], "23", "24", false)
	out("out3", "33", "34", false)
	out("aux", "41", "42", true)
	if s.Lamps == "three" {
		out("wants", "51", "52", false)
	}
	if s.Delay > 0 {
		out("out4", "63", "64", false)
	}
	if s.Interlock {
		out("out5", "43", "44", false)
	}
	filter := 0
	for _, x := range s.Devices {
		if s.Kind == "controller" {
			filter = max(filter, filterFor(x))
		}
	}
	d.part(p, Device{Does: SafetyRelay, Filter: filter, OutPulse: s.OutPulse, Reset: s.Reset, Discrepancy: s.Discrepancy,
		OffDelay: s.Delay, Pick: s.StartDelay, Pulsed: s.Feed == "pulsed"})
}

// feeds are where the two channels begin.
func (d *drafting) feeds() [2]string {
	switch d.s.Feed {
	case "pulsed":
		return [2]string{"K1:T1", "K1:T2"}
	case "two":
		return [2]string{d.plus, d.minus}
	}
	return [2]string{d.plus, d.plus}
}

// chain draws the devices: in series channel by channel, or each from the feeds to inputs of its own. It gives the open ends.
func (d *drafting) chain() [2]string {
	ends := d.feeds()
	for i, x := range d.s.Devices {
		if x.Kind == "" {
			x.Kind = EmergencyStop
		}
		if x.Name == "" {
			x.Name = fieldDevices[x.Kind].name
		}
		from := ends
		in, out := d.device(x)
		if in[0] != "" {
			d.over(from[0], in[0], "channel 1")
			if d.s.Kind != "one-channel" {
				d.over(from[1], in[1], "channel 2")
			}
		}
		if d.s.Kind != "controller" {
			ends = out
			continue
		}
		d.over(out[0], fmt.Sprintf("K1:I%d.1", i+1), "channel 1")
		d.over(out[1], fmt.Sprintf("K1:I%d.2", i+1), "channel 2")
	}
	for i := range d.s.Aux {
		id := fmt.Sprintf("E%d", i+1)
		d.part(circuit.Part{ID: id, Kind: "switch", Name: "Enable", Terminals: []string{"13", "14"},
			Contacts: []circuit.Contact{{Name: "1", A: "13", B: "14", Closed: true}}}, Device{Does: Hand, Kind: Key})
		d.over(d.plus, id+":13", "auxiliary")
		d.over(id+":14", fmt.Sprintf("K1:X%d", i+1), "auxiliary")
	}
	return ends
}

// device puts in one, with the relay of its own that a light curtain in a chain or a guard with a reset outside needs; it gives where
// its channels begin and end.
func (d *drafting) device(x SpecDevice) (in, out [2]string) {
	contacts := []circuit.Contact{{Name: "1", A: "11", B: "12", Closed: true}, {Name: "2", A: "21", B: "22", Closed: true}}
	p := circuit.Part{ID: x.ID, Kind: "switch", Name: x.Name, Terminals: []string{"11", "12", "21", "22"}, Contacts: contacts}
	own := x.Kind == ResetGuard || x.Kind == LightCurtain && d.s.Kind != "controller"
	if x.Kind == LightCurtain {
		p.Kind, p.Terminals = "light-curtain", []string{"+", "0", "OSSD1", "OSSD2"}
		p.Contacts = []circuit.Contact{{Name: "1", A: "+", B: "OSSD1", Closed: true}, {Name: "2", A: "+", B: "OSSD2", Closed: true}}
		p.Loads = []circuit.Load{{Name: "supply", A: "+", B: "0", Ohm: 200}}
	}
	d.part(p, Device{Does: Hand, Kind: x.Kind})
	if x.Kind == LightCurtain {
		d.over(d.plus, x.ID+":+", "supply")
		d.over(d.minus, x.ID+":0", "supply")
	}
	if !own {
		if x.Kind == LightCurtain { // it gives its channels itself
			return in, [2]string{x.ID + ":OSSD1", x.ID + ":OSSD2"}
		}
		return [2]string{x.ID + ":11", x.ID + ":21"}, [2]string{x.ID + ":12", x.ID + ":22"}
	}
	k := "K" + x.ID
	d.part(circuit.Part{ID: k, Kind: "relay", Name: "Relay of " + x.ID,
		Terminals: []string{"A1", "A2", "S12", "S22", "S34", "13", "14", "23", "24"},
		Loads: []circuit.Load{{Name: "supply", A: "A1", B: "A2", Ohm: 300}, {Name: "ch1", A: "S12", B: "A2", Ohm: 3000},
			{Name: "ch2", A: "S22", B: "A2", Ohm: 3000}, {Name: "reset", A: "S34", B: "A2", Ohm: 3000}},
		Contacts: []circuit.Contact{{Name: "out1", A: "13", B: "14"}, {Name: "out2", A: "23", B: "24"}}},
		Device{Does: SafetyRelay, Reset: map[bool]string{true: "let-go", false: "automatic"}[x.Kind == ResetGuard],
			Discrepancy: d.s.Discrepancy, Filter: filterFor(x)})
	d.join(d.plus, k+":A1", "supply")
	d.join(d.minus, k+":A2", "supply")
	if x.Kind == ResetGuard {
		d.over(d.plus, x.ID+":11", "channel 1")
		d.over(d.plus, x.ID+":21", "channel 2")
		d.over(x.ID+":12", k+":S12", "channel 1")
		d.over(x.ID+":22", k+":S22", "channel 2")
		d.button("R"+x.ID, "Reset outside of "+x.ID, d.plus, k+":S34")
	} else {
		d.over(x.ID+":OSSD1", k+":S12", "channel 1")
		d.over(x.ID+":OSSD2", k+":S22", "channel 2")
		d.join(d.plus, k+":S34", "starts by itself")
	}
	return [2]string{k + ":13", k + ":23"}, [2]string{k + ":14", k + ":24"}
}

func filterFor(x SpecDevice) int {
	if x.Kind == LightCurtain {
		return passes
	}
	return 0
}

func (d *drafting) button(id, name, from, to string) {
	d.part(circuit.Part{ID: id, Kind: "button", Name: name, Terminals: []string{"13", "14"},
		Contacts: []circuit.Contact{{Name: "make", A: "13", B: "14"}}}, Device{Does: Button})
	d.over(from, id+":13", "reset")
	d.over(id+":14", to, "reset")
}
