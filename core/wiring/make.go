package wiring

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/finding"
)

// run is one way from a rail through a field device to a terminal of the drive.
type run struct {
	function string
	why      string
	plus     bool   // from the plus rail; false: from 0 V
	device   string // part:terminal at the rail's side
	out      string // part:terminal at the drive's side
	to       string // terminal of the drive
	direct   bool   // no terminal of the strip between device and drive
	screen   string
	area     string
}

type maker struct {
	f     *dialect.Family
	w     Wants
	plan  Plan
	free  []dialect.Terminal // inputs without a function yet
	runs  []run
	parts []circuit.Part
	used  map[string]bool // terminals of the drive that were given something
	plus  dialect.Terminal
	zero  string
	pins  []string // of an encoder's module
}

// Empty is a list of nothing.
func Empty() Plan {
	return Plan{Circuit: circuit.Circuit{Parts: []circuit.Part{}, Wires: []circuit.Wire{}}, Rows: []ListedWire{}, Assigns: []Assign{},
		Positions: []Position{}, LinksOut: []string{}, Budgets: []Budget{}, Paths: []RunPath{}, Findings: []finding.Finding{}}
}

// Make makes the connection list. A family without terminals gives an empty list and says so.
func Make(f *dialect.Family, w Wants) Plan {
	m := &maker{f: f, w: w, used: map[string]bool{}, plan: Empty()}
	if f == nil || len(f.Terminals) == 0 {
		m.say("no-terminals", finding.Note, "The family's file lists no terminals", "The connection list is made from them.",
			"Add them under the family, or wire by the manual")
		return m.plan
	}
	for _, t := range f.Terminals {
		switch {
		case t.Kind == "control-supply" && t.Current > 0 && m.plus.Name == "":
			m.plus = t
		case t.Kind == "digital-in":
			m.free = append(m.free, t)
			if m.zero == "" {
				m.zero = t.Common
			}
		}
	}
	m.inputs()
	m.outputs()
	m.reference()
	m.extras()
	m.safety()
	m.positions()
	m.build()
	m.own()
	m.check()
	m.paths()
	return m.plan
}

func (m *maker) say(code string, s finding.Severity, title, detail, action string) {
	m.plan.Findings = append(m.plan.Findings,
		finding.Finding{Code: code, Severity: s, Field: "wiring", Title: title, Detail: detail, Action: action})
}

// device is a contact in the field for a function of the drive.
type device struct {
	function, id, kind, name string
	closed                   bool // at rest
}

func (m *maker) devices() []device {
	var l []device
	switch m.w.Command {
	case "two-wire":
		l = append(l, device{"run-forward", "S1", "switch", "Run", false})
	case "three-wire":
		l = append(l, device{"stop", "S0", "button", "Stop", true}, device{"start", "S1", "button", "Start", false})
	}
	for _, x := range []struct {
		want bool
		d    device
	}{{m.w.Reverse, device{"run-reverse", "S2", "switch", "Reverse", false}}, {m.w.Jog, device{"jog", "S3", "button", "Jog", false}},
		{m.w.Reset, device{"reset", "S4", "button", "Fault reset", false}},
		{m.w.Interlock, device{"interlock", "B1", "switch", "Process interlock", true}},
		{m.w.Second, device{"coast", "S5", "switch", "Second enable", true}}, {m.w.Hand, device{"hand", "S6", "switch", "Hand", false}},
		{m.w.Reference == "presets", device{"preset-0", "S7", "switch", "Preset 1", false}},
		{m.w.Reference == "presets", device{"preset-1", "S8", "switch", "Preset 2", false}},
		{m.w.Reference == "buttons", device{"faster", "S7", "button", "Faster", false}},
		{m.w.Reference == "buttons", device{"slower", "S8", "button", "Slower", false}}} {
		if x.want {
			l = append(l, x.d)
		}
	}
	return l
}

// inputs gives each wanted function a terminal: one delivered with it first, then one without a function, then any.
func (m *maker) inputs() {
	list := m.devices()
	taken := map[string]string{} // function -> terminal
	for _, d := range list {
		for i, t := range m.free {
			if c, ok := m.delivered(t); ok && c.Means == d.function {
				taken[d.function] = t.Name
				m.give(t, d)
				m.free = slices.Delete(m.free, i, i+1)
				break
			}
		}
	}
	for _, d := range list {
		if taken[d.function] != "" {
			continue
		}
		at := -1
		for i, t := range m.free {
			if c, ok := m.delivered(t); !ok || m.means(t, d.function) == nil {
				continue
			} else if at < 0 || c.Means == "" {
				at = i
				if c.Means == "" {
					break
				}
			}
		}
		if at < 0 {
			m.say("no-input-"+d.function, finding.Stop, "No input is left for "+strings.ToLower(d.name),
				"Every input has a function that is wanted, or none of them knows this one.",
				"A module with more terminals, or less to connect")
			continue
		}
		m.give(m.free[at], d)
		m.free = slices.Delete(m.free, at, at+1)
	}
	m.unwired()
}

// holdsOff are functions of an input that keep the drive from running while it is open.
var holdsOff = []string{"interlock", "coast"}

// unwired sets inputs idle that are delivered with a function which would hold the drive off, since nothing closes them.
func (m *maker) unwired() {
	for _, t := range m.free {
		was, ok := m.delivered(t)
		if !ok || len(t.Links) > 0 || !slices.Contains(holdsOff, was.Means) {
			continue
		}
		if idle := m.means(t, ""); idle != nil {
			m.plan.Assigns = append(m.plan.Assigns,
				Assign{Terminal: t.Name, Setting: t.Setting, Function: "nothing", Text: idle.Text, Steps: idle.Value, Takes: was.Text})
			continue
		}
		m.say("input-waits-"+t.Name, finding.Stop, fmt.Sprintf("Terminal %s waits for a contact that nobody wires", t.Name),
			fmt.Sprintf("As delivered it is %q: open, it keeps the drive from running.", was.Text), "Wire it, or link it to plus")
	}
}

// delivered is the choice that an input has as delivered.
func (m *maker) delivered(t dialect.Terminal) (dialect.Choice, bool) {
	s, ok := m.f.Setting(t.Setting)
	if !ok {
		return dialect.Choice{}, false
	}
	for _, c := range s.Choices {
		if c.Value == s.DeliverySteps() {
			return c, true
		}
	}
	return dialect.Choice{}, false
}

// means is the choice of a terminal's setting that stands for a function.
func (m *maker) means(t dialect.Terminal, function string) *dialect.Choice {
	s, ok := m.f.Setting(t.Setting)
	if !ok {
		return nil
	}
	for i := range s.Choices {
		if s.Choices[i].Means == function {
			return &s.Choices[i]
		}
	}
	return nil
}

// assign notes a terminal's function, and what it takes away.
func (m *maker) assign(t dialect.Terminal, function string) bool {
	c := m.means(t, function)
	if c == nil {
		return false
	}
	a := Assign{Terminal: t.Name, Setting: t.Setting, Function: function, Text: c.Text, Steps: c.Value}
	if was, ok := m.delivered(t); ok && was.Means != function && was.Means != "" {
		a.Takes = was.Text
		sev := finding.Note
		if was.Means == "reset" || was.Means == "interlock" || was.Means == "coast" || was.Means == "stop" {
			sev = finding.Look
		}
		m.say("takes-"+t.Name, sev, fmt.Sprintf("Terminal %s loses %q", t.Name, was.Text),
			fmt.Sprintf("%s is set to %q. Nobody is told by the drive.", t.Setting, c.Text), "Use another input, or keep it with a reason")
	}
	m.plan.Assigns = append(m.plan.Assigns, a)
	return true
}

// give puts a field device on an input.
func (m *maker) give(t dialect.Terminal, d device) {
	if !m.assign(t, d.function) {
		return
	}
	m.used[t.Name] = true
	a, b := "13", "14"
	if d.closed {
		a, b = "21", "22"
	}
	m.parts = append(m.parts, circuit.Part{ID: d.id, Kind: d.kind, Name: d.name, Terminals: []string{a, b},
		Contacts: []circuit.Contact{{Name: "contact", A: a, B: b, Closed: d.closed}}})
	m.runs = append(m.runs, run{function: d.function, why: fmt.Sprintf("%s: %s does %q", d.name, t.Setting, m.means(t, d.function).Text),
		plus: m.w.Logic != "sink", device: d.id + ":" + a, out: d.id + ":" + b, to: t.Name})
}

// outputs puts the brake's relay and lamps on the drive's relays.
func (m *maker) outputs() {
	for _, x := range []struct {
		want                   bool
		function, id, kind, of string
		amps                   float64
	}{{m.w.Brake, "brake-open", "K2", "relay", "Brake relay", coilAmps}, {m.w.RunLamp, "running", "P1", "lamp", "Running lamp", lampAmps},
		{m.w.FaultLamp, "fault", "P2", "lamp", "Fault lamp", lampAmps}} {
		if !x.want {
			continue
		}
		t, ok := m.relay(x.function)
		if !ok {
			m.say("no-output-"+x.function, finding.Stop, "No relay is left for "+strings.ToLower(x.of), "",
				"A module with more terminals, or less to connect")
			continue
		}
		m.used[t.Name] = true
		ends := t.Ends()
		makes := ends[len(ends)-1]
		m.parts = append(m.parts, circuit.Part{ID: x.id, Kind: x.kind, Name: x.of, Terminals: []string{"x1", "x2"},
			Loads: []circuit.Load{{Name: x.kind, A: "x1", B: "x2", Ohm: 24 / x.amps}}})
		m.runs = append(m.runs, run{function: x.function, why: x.of + ": common of the relay", plus: true, device: Drive + ":" + ends[0],
			direct: true},
			run{function: x.function, why: x.of, plus: false, device: x.id + ":x2", out: x.id + ":x1", to: makes})
	}
}

// relay finds one for a function: delivered with it, or free.
func (m *maker) relay(function string) (dialect.Terminal, bool) {
	var other dialect.Terminal
	for _, t := range m.f.Terminals {
		if t.Kind != "relay" || m.used[t.Name] || m.means(t, function) == nil {
			continue
		}
		if c, ok := m.delivered(t); ok && c.Means == function {
			m.assign(t, function)
			return t, true
		}
		if other.Name == "" {
			other = t
		}
	}
	if other.Name == "" {
		return other, false
	}
	return other, m.assign(other, function)
}

func (m *maker) kind(kind string) []dialect.Terminal {
	var l []dialect.Terminal
	for _, t := range m.f.Terminals {
		if t.Kind == kind {
			l = append(l, t)
		}
	}
	return l
}

// reference connects what asks for speed.
func (m *maker) reference() {
	takes := map[string]string{"pot": "voltage", "voltage": "voltage", "current": "current"}[m.w.Reference]
	if takes == "" {
		return
	}
	var in dialect.Terminal
	for _, t := range m.kind("analog-in") {
		if slices.Contains(t.Takes, takes) && in.Name == "" {
			in = t
		}
	}
	if in.Name == "" {
		m.say("no-analog-input", finding.Stop, "No analog input takes a "+takes, "", "Another reference, or a module")
		return
	}
	m.used[in.Name], m.used[in.Common] = true, true
	screen := "one end, at the drive"
	if m.w.Screens == "both-ends" {
		screen = "both ends"
	}
	add := func(from, to, why string) {
		m.runs = append(m.runs, run{function: "reference", why: why, out: from, to: to, screen: screen, area: "0.5 mm²"})
	}
	if m.w.Reference == "pot" {
		ref := m.kind("reference-supply")
		if len(ref) == 0 {
			m.say("no-reference-supply", finding.Stop, "The drive has no 10 V for a potentiometer", "", "Another reference")
			return
		}
		m.used[ref[0].Name] = true
		m.parts = append(m.parts, circuit.Part{ID: "R1", Kind: "potentiometer", Name: "Speed", Terminals: []string{"1", "2", "3"},
			Loads: []circuit.Load{{Name: "low", A: "1", B: "2", Ohm: potOhm / 2}, {Name: "high", A: "2", B: "3", Ohm: potOhm / 2}}})
		add("R1:3", ref[0].Name, "potentiometer's top, 10 V")
		add("R1:2", in.Name, "wiper")
		add("R1:1", in.Common, "potentiometer's foot")
		return
	}
	volts := 10.
	if takes == "current" {
		volts = .02 * in.LoopOhm
	}
	m.parts = append(m.parts, circuit.Part{ID: "B2", Kind: "transmitter", Name: "Reference from the process",
		Terminals: []string{"+", "-"}, Sources: []circuit.VoltageSource{{Name: "signal", Plus: "+", Minus: "-", Volts: max(volts, .1)}}})
	add("B2:+", in.Name, "reference, "+map[string]string{"voltage": "0 to 10 V", "current": "4 to 20 mA"}[takes])
	add("B2:-", in.Common, "its return")
}

// extras are meter, winding sensor, encoder.
func (m *maker) extras() {
	if out := m.kind("analog-out"); m.w.Meter && len(out) > 0 {
		t := out[0]
		m.used[t.Name], m.used[t.Common] = true, true
		m.parts = append(m.parts, circuit.Part{ID: "P3", Kind: "meter", Name: "Speed shown", Terminals: []string{"+", "-"},
			Loads: []circuit.Load{{Name: "meter", A: "+", B: "-", Ohm: 250}}})
		m.runs = append(m.runs, run{function: "shown", why: "speed meter", out: "P3:+", to: t.Name, screen: "one end, at the drive"},
			run{function: "shown", why: "its return", out: "P3:-", to: t.Common, screen: "one end, at the drive"})
	} else if m.w.Meter {
		m.say("no-analog-output", finding.Stop, "The drive has no analog output", "", "A module, or no meter")
	}
	if in := m.kind("temperature"); m.w.Sensor == "thermistor" && len(in) > 0 {
		m.used[in[0].Name] = true
		ends := in[0].Ends()
		m.parts = append(m.parts, circuit.Part{ID: "B3", Kind: "sensor", Name: "Winding thermistors", Terminals: []string{"1", "2"},
			Loads: []circuit.Load{{Name: "cold", A: "1", B: "2", Ohm: 300}}})
		m.runs = append(m.runs, run{function: "sensor", why: "winding thermistors, double insulated from the motor", out: "B3:1",
			to: ends[0]}, run{function: "sensor", why: "winding thermistors", out: "B3:2", to: ends[len(ends)-1]})
	} else if m.w.Sensor == "thermistor" {
		m.say("no-sensor-input", finding.Look, "The drive has no terminals for a thermistor",
			"A relay for thermistors, its contact on an input set to external fault.", "Fit one, or keep it with a reason")
	}
	if m.w.Encoder != nil {
		m.encoder()
	}
}

// encoder is wired to its module: pairs screened, the screen at the drive end.
func (m *maker) encoder() {
	module, ok := m.f.EncoderModule()
	if !ok {
		m.say("no-encoder-module", finding.Stop, "The family has no module for an encoder", "", "Another drive, or no encoder")
		return
	}
	pins := []string{"+", "0", "A", "A-", "B", "B-"}
	m.parts = append(m.parts, circuit.Part{ID: "B4", Kind: "encoder", Name: "Encoder", Terminals: pins,
		Loads: []circuit.Load{{Name: "supply", A: "+", B: "0", Ohm: 24 / m.encoderFed(module)}}})
	for _, p := range pins {
		pin := module.Code + " " + p
		m.pins = append(m.pins, pin)
		m.runs = append(m.runs, run{function: "encoder", why: "encoder " + p, out: "B4:" + p, device: Drive + ":" + pin, direct: true,
			screen: "pairs and overall, at the drive end", area: "0.25 mm²"})
	}
}

// encoderFed judges an encoder against its module: its signals, and its supply at its own voltage. It gives the current, A, that the module
// draws for it from the drive's 24 V: the same as it gives out, which a linear supply does, and no supply needs more.
func (m *maker) encoderFed(module dialect.Module) float64 {
	e := *m.w.Encoder
	amps := e.Amps
	if math.IsNaN(e.Volts) || math.IsNaN(e.Amps) || e.Signals == "" {
		m.say("encoder-not-stated", finding.Do, "The encoder's signals, supply and current are not entered",
			"They stand on its label. Counted with 0.1 A meanwhile, which is usual.", "Enter them at gate Match")
	}
	if amps > mostEncoderAmps {
		m.say("encoder-current", finding.Stop, fmt.Sprintf("An encoder does not take %.4g A", amps), "Labels give it in mA.",
			fmt.Sprintf("Enter %.4g mA, if that is what its label says", amps))
		amps = math.NaN()
	}
	if !(amps > 0) {
		amps = encoderAmps
	}
	if len(module.Signals) > 0 && e.Signals != "" && !slices.Contains(module.Signals, e.Signals) {
		words := map[string]string{"ttl": "5 V differential", "htl": "10 to 30 V push-pull", "sine": "1 V sine"}
		m.say("encoder-signals", finding.Stop, "The module does not read this encoder's signals",
			fmt.Sprintf("It gives %s; module %s reads %s.", words[e.Signals], module.Code, words[module.Signals[0]]),
			"Another encoder, or another module")
	}
	if len(module.Feeds) == 0 || !(e.Volts > 0) {
		return amps
	}
	for _, x := range module.Feeds {
		if math.Abs(x.Volts/e.Volts-1) > .1 {
			continue
		}
		b := Budget{"encoder, " + module.Code, math.Round(amps*1e5) / 100, x.Current, x.Volts}
		m.plan.Budgets = append(m.plan.Budgets, b)
		if b.Draws > b.Most {
			m.say("budget-encoder", finding.Look, fmt.Sprintf("Module %s gives too little for the encoder", module.Code),
				fmt.Sprintf("It takes %.3g mA at %.3g V, %.3g mA the module gives.", b.Draws, x.Volts, b.Most),
				"A supply of its own with shared 0 V, kept here with that reason; or another encoder")
		}
		return amps
	}
	var gives []string
	for _, x := range module.Feeds {
		gives = append(gives, fmt.Sprintf("%.3g V", x.Volts))
	}
	m.say("encoder-supply", finding.Look, "The module cannot feed this encoder",
		fmt.Sprintf("It is fed with %.3g V; module %s gives %s.", e.Volts, module.Code, strings.Join(gives, " or ")),
		"A supply of its own with shared 0 V, kept here with that reason; or another encoder")
	return amps
}

// safety leaves the factory links in, or puts contacts into both channels.
func (m *maker) safety() {
	if m.w.Safety != "contacts" && m.w.Safety != "relay" {
		return
	}
	p := circuit.Part{ID: "S9", Kind: "button", Name: "Emergency stop"}
	if m.w.Safety == "relay" {
		p = circuit.Part{ID: "K9", Kind: "relay", Name: "Safety relay, outputs"}
	}
	for i, t := range m.kind("torque-off") {
		if i > 1 {
			break
		}
		m.used[t.Name] = true
		channel := string(rune('A' + i))
		a, b := fmt.Sprintf("%d1", i+1), fmt.Sprintf("%d2", i+1)
		closed := true
		if m.w.Safety == "relay" {
			a, b, closed = fmt.Sprintf("%d3", i+1), fmt.Sprintf("%d4", i+1), false
		}
		p.Terminals = append(p.Terminals, a, b)
		p.Contacts = append(p.Contacts, circuit.Contact{Name: "channel" + channel, A: a, B: b, Closed: closed})
		ends := t.Ends()
		m.runs = append(m.runs, run{function: "torque-off", why: "torque off, channel " + channel, plus: true, device: p.ID + ":" + a,
			out: p.ID + ":" + b, to: ends[0]})
		if len(ends) > 1 {
			m.runs = append(m.runs, run{function: "torque-off", why: "its return, channel " + channel, plus: false,
				device: Drive + ":" + ends[1], direct: true})
		}
	}
	if len(p.Terminals) > 0 {
		m.parts = append(m.parts, p)
	}
}

// positions says how the hardware switches must stand.
func (m *maker) positions() {
	want := map[string]bool{}
	switch m.w.Reference {
	case "pot", "voltage":
		want["voltage"] = true
	case "current":
		want["current"] = true
	}
	if m.w.Logic == "sink" {
		want["sink"] = true
	} else {
		want["source"] = true
	}
	fits := false
	for _, s := range m.f.Switches {
		for _, p := range s.Positions {
			if !want[p.Is] {
				continue
			}
			fits = fits || p.Is == "sink"
			changes := []dialect.SwitchAct{}
			for _, c := range s.Changes {
				if c.Position == p.Sign {
					changes = append(changes, c)
				}
			}
			m.plan.Positions = append(m.plan.Positions, Position{s.Name, p.Sign, p.Means, s.Delivered == p.Sign, s.PowerOff, changes})
		}
	}
	if m.w.Logic == "sink" && !fits {
		m.say("no-sink", finding.Stop, "The family's inputs cannot be drawn to 0 V", "They take plus 24 V only.", "Wire them to plus 24 V")
	}
}
