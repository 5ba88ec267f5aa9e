package wiring

import (
	"fmt"
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
	pins  []string        // of an encoder's module
	rests map[string]bool // relays, by their common, whose breaking contact is used
}

// Empty is a list of nothing.
func Empty() Plan {
	return Plan{Circuit: circuit.Circuit{Parts: []circuit.Part{}, Wires: []circuit.Wire{}}, Rows: []ListedWire{}, Assigns: []Assign{},
		Positions: []Position{}, LinksOut: []string{}, Budgets: []Budget{}, Paths: []RunPath{}, Findings: []finding.Finding{}}
}

// Make makes the connection list. A family without terminals gives an empty list and says so.
func Make(f *dialect.Family, w Wants) Plan {
	m := &maker{f: f, w: w, used: map[string]bool{}, rests: map[string]bool{}, plan: Empty()}
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
	m.commons()
}

// commons joins the common of a module's inputs to the rail that they do not take: without it none of them sees anything.
func (m *maker) commons() {
	for _, t := range m.f.Terminals {
		if t.Module == "" || t.Kind != "digital-in" || !m.used[t.Name] || m.used[t.Common] {
			continue
		}
		m.used[t.Common] = true
		m.runs = append(m.runs, run{function: "common", why: "common of the inputs of module " + t.Module, plus: m.w.Logic == "sink",
			device: Drive + ":" + t.Common, direct: true})
	}
}

// unwired sets inputs idle that are delivered with a function which would hold the drive off, since nothing closes them.
func (m *maker) unwired() {
	for _, t := range m.free {
		was, ok := m.delivered(t)
		if !ok || len(t.Links) > 0 || !slices.Contains(dialect.HoldsOff, was.Means) {
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
		if was.Means == "reset" || was.Means == "stop" || slices.Contains(dialect.HoldsOff, was.Means) {
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
		t, ok := m.output(x.function)
		if !ok {
			m.say("no-output-"+x.function, finding.Stop, "No output is left for "+strings.ToLower(x.of), "",
				"A module with more terminals, or less to connect")
			continue
		}
		m.used[t.Name] = true
		ends := t.Ends()
		makes := ends[len(ends)-1] // of a transistor its one end, which gives plus
		if m.turns(t, x.function) {
			makes, m.rests[ends[0]] = ends[1], true
		}
		m.parts = append(m.parts, circuit.Part{ID: x.id, Kind: x.kind, Name: x.of, Terminals: []string{"x1", "x2"},
			Loads: []circuit.Load{{Name: x.kind, A: "x1", B: "x2", Ohm: 24 / x.amps}}})
		if len(ends) > 1 {
			m.runs = append(m.runs, run{function: x.function, why: x.of + ": common of the relay", plus: true,
				device: Drive + ":" + ends[0], direct: true})
		}
		m.runs = append(m.runs, run{function: x.function, why: x.of, plus: false, device: x.id + ":x2", out: x.id + ":x1", to: makes})
	}
}

// turns says how an output is to stand that can be turned over. A fault relay that is delivered so stays so, and its breaking contact is
// used: it tells of a drive without power too. Everything else stands as its name says: a brake must not open in a dead drive.
func (m *maker) turns(t dialect.Terminal, function string) (keep bool) {
	s, ok := m.f.Setting(t.Turned)
	if !ok {
		return false
	}
	keep = function == "fault" && len(t.Ends()) == 3 && m.f.TurnedOver(t, nil)
	at := slices.IndexFunc(m.plan.Assigns, func(a Assign) bool { return a.Setting == s.Code })
	if at < 0 {
		at = len(m.plan.Assigns)
		m.plan.Assigns = append(
			m.plan.Assigns,
			Assign{Terminal: t.Name, Setting: s.Code, Function: "turned-over", Steps: s.DeliverySteps()},
		)
	} else {
		m.plan.Assigns[at].Terminal += ", " + t.Name
	}
	a := &m.plan.Assigns[at]
	switch {
	case s.Kind != "bits" && !keep:
		a.Steps = 0
	case s.Kind == "bits" && !keep:
		a.Steps &^= 1 << uint(t.TurnedBit)
	}
	a.Text = s.Name + ": " + s.Text(a.Steps)
	return keep
}

// output finds one for a function: delivered with it, or free; a relay before a transistor.
func (m *maker) output(function string) (dialect.Terminal, bool) {
	var other dialect.Terminal
	for _, t := range append(m.kind("relay"), m.kind("digital-out")...) {
		if m.used[t.Name] || m.means(t, function) == nil {
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
