package wiring

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/finding"
)

// build numbers the strip and the wires: rails first, then function by function.
func (m *maker) build() {
	n := m.number()
	strip := circuit.Part{ID: Strip, Kind: "strip", Name: "Terminal strip"}
	next := func(wire string) string {
		if m.w.Numbers == Running {
			wire = strconv.Itoa(len(strip.Terminals) + 1)
		}
		strip.Terminals = append(strip.Terminals, wire)
		return Strip + ":" + wire
	}
	rail := func(plus bool, fed string) []string {
		var l []string
		for i, r := range m.runs {
			if r.device != "" && r.plus == plus && !m.between(r) {
				l = append(l, next(n.runs[i].rail))
			}
		}
		if len(l) == 0 {
			return nil
		}
		l = append(l, next(fed)) // where the rail is fed
		for i := 1; i < len(l); i++ {
			strip.Bonds = append(strip.Bonds, circuit.Bond{A: l[i-1][len(Strip)+1:], B: l[i][len(Strip)+1:]})
		}
		return l
	}
	plus, zero := rail(true, n.plus), rail(false, n.zero)
	signals := make([]string, len(m.runs))
	for i, r := range m.runs {
		if !r.direct && r.to != "" {
			signals[i] = next(n.runs[i].field)
		}
	}
	feed, back := Drive+":"+m.plus.Name, Drive+":"+m.zero
	if m.w.Supply == "outside" {
		m.parts = append(m.parts, circuit.Part{ID: "G1", Kind: "source", Name: "24 V from outside", Terminals: []string{"+", "-"},
			Sources: []circuit.VoltageSource{{Name: "24V", Plus: "+", Minus: "-", Volts: 24}}})
		feed = "G1:+"
	}
	m.feed(n.plus, plus, feed, "plus 24 V rail")
	m.feed(n.zero, zero, back, "0 V rail")
	if m.w.Supply == "outside" {
		m.wire(n.shared, "G1:-", back, "shared 0 V of the outside supply: without it no input sees anything", "rail", run{}, true)
	}
	p, z := 0, 0
	for i, r := range m.runs {
		ids := n.runs[i]
		if r.device != "" && !m.between(r) {
			at, line := &p, plus
			if !r.plus {
				at, line = &z, zero
			}
			m.wire(ids.rail, line[*at], r.device, r.why, r.function, r, false)
			*at++
		}
		switch {
		case m.between(r):
			m.wire(ids.field, r.device, r.out, r.why, r.function, r, false)
		case r.to != "":
			m.wire(ids.field, r.out, signals[i], r.why, r.function, r, false)
			m.wire(ids.drive, signals[i], Drive+":"+r.to, r.why, r.function, r, false)
		}
	}
	m.links()
	m.plan.Circuit.Parts = append([]circuit.Part{m.drive(), strip}, m.parts...)
}

// between is a run from part to part that touches no rail.
func (m *maker) between(r run) bool { return r.direct && r.out != "" }

func (m *maker) feed(id string, rail []string, from, why string) {
	if len(rail) > 0 {
		m.wire(id, from, rail[len(rail)-1], why, "rail", run{}, true)
	}
}

// wire adds one, its colour by the code family.
func (m *maker) wire(id, from, to, why, function string, r run, rail bool) {
	colour := "blue"
	if m.w.Code == "nfpa" && strings.Contains(why, "0 V") {
		colour = "white-blue"
	}
	if r.screen != "" {
		colour = "as the cable's"
	}
	area := cmp.Or(r.area, "0.75 mm²")
	if m.w.Code == "nfpa" {
		area = map[string]string{"0.75 mm²": "AWG 18", "0.5 mm²": "AWG 20", "0.25 mm²": "AWG 24"}[area]
	}
	w := circuit.Wire{ID: id, From: from, To: to, Colour: colour, Area: area, Screen: r.screen, Why: why}
	m.plan.Rows = append(m.plan.Rows, ListedWire{Wire: w, Rail: rail, Function: function})
}

// links keeps the factory links whose terminals nothing else was put on.
func (m *maker) links() {
	n := 0
	for _, t := range m.f.Terminals {
		for _, l := range t.Links {
			n++
			if m.used[t.Name] {
				m.plan.LinksOut = append(m.plan.LinksOut, l[0]+" to "+l[1])
				continue
			}
			m.plan.Rows = append(m.plan.Rows,
				ListedWire{Wire: circuit.Wire{ID: "F" + strconv.Itoa(n), From: Drive + ":" + l[0], To: Drive + ":" + l[1],
					Why: "factory link: " + t.Jumper}, Function: "link", Link: true})
		}
	}
}

// drive is the drive's part: its terminals in the family's order, inputs as loads, relays as contacts, supplies as sources.
func (m *maker) drive() circuit.Part {
	p := circuit.Part{ID: Drive, Kind: "drive", Name: m.f.Name}
	for _, t := range m.f.Terminals {
		if t.Kind == "power" || t.Kind == "bus" || t.Kind == "encoder" {
			continue
		}
		ends := t.Ends()
		p.Terminals = append(p.Terminals, ends...)
		switch t.Kind {
		case "control-supply":
			if t.Name == m.plus.Name && m.zero != "" {
				p.Sources = append(p.Sources,
					circuit.VoltageSource{Name: t.Name, Plus: t.Name, Minus: m.zero, Volts: 24, Most: t.Current / 1000})
			}
		case "reference-supply":
			if t.Common != "" {
				p.Sources = append(p.Sources,
					circuit.VoltageSource{Name: t.Name, Plus: t.Name, Minus: t.Common, Volts: 10, Most: t.Current / 1000})
			}
		case "digital-in":
			to := t.Common
			if m.w.Logic == "sink" && t.Module == "" { // a module's inputs go by their own common
				to = m.plus.Name
			}
			m.load(&p, t.Name, t.Name, to, 24/(max(t.Current, 1)/1000))
		case "torque-off":
			to := t.Common
			if len(ends) > 1 {
				to = ends[1]
			}
			m.load(&p, ends[0], ends[0], to, 24/(max(t.Current, 1)/1000))
		case "analog-in":
			m.load(&p, t.Name, t.Name, t.Common, m.analogOhm(t))
		case "temperature":
			if len(ends) > 1 {
				m.load(&p, t.Name, ends[0], ends[1], 10000)
			}
		case "digital-out": // gives plus while it is on
			if m.plus.Name != "" {
				p.Contacts = append(p.Contacts, circuit.Contact{Name: t.Name, A: m.plus.Name, B: t.Name})
			}
		case "relay":
			if len(ends) == 3 {
				p.Contacts = append(p.Contacts, circuit.Contact{Name: ends[0], A: ends[0], B: ends[1], Closed: true})
			}
			if len(ends) > 1 {
				p.Contacts = append(p.Contacts, circuit.Contact{Name: ends[0], A: ends[0], B: ends[len(ends)-1]})
			}
		}
	}
	p.Terminals = append(p.Terminals, m.pins...)
	if len(m.pins) > 1 { // an encoder's module is fed by the drive
		p.Bonds = append(p.Bonds, circuit.Bond{A: m.plus.Name, B: m.pins[0]}, circuit.Bond{A: m.zero, B: m.pins[1]})
	}
	return p
}

func (m *maker) load(p *circuit.Part, name, a, b string, ohm float64) {
	if b != "" && a != b && ohm > 0 && !math.IsInf(ohm, 0) {
		p.Loads = append(p.Loads, circuit.Load{Name: name, A: a, B: b, Ohm: ohm})
	}
}

func (m *maker) analogOhm(t dialect.Terminal) float64 {
	if m.w.Reference == "current" && t.LoopOhm > 0 || t.Ohm == 0 {
		return t.LoopOhm
	}
	return t.Ohm
}

// own puts in what a person added or changed.
func (m *maker) own() {
	m.plan.Circuit.Parts = append(m.plan.Circuit.Parts, m.w.Parts...)
	for _, w := range m.w.Own {
		row := ListedWire{Wire: w, Own: true}
		if i := slices.IndexFunc(m.plan.Rows, func(r ListedWire) bool { return r.ID == w.ID }); i >= 0 {
			row.Function, row.Rail = m.plan.Rows[i].Function, m.plan.Rows[i].Rail
			row.Why = cmp.Or(w.Why, m.plan.Rows[i].Why)
			m.plan.Rows[i] = row
			continue
		}
		m.plan.Rows = append(m.plan.Rows, row)
	}
	for _, r := range m.plan.Rows {
		m.plan.Circuit.Wires = append(m.plan.Circuit.Wires, r.Wire)
	}
}

// check solves the list as drawn: faults of the drawing, budgets, wires that lead nowhere.
func (m *maker) check() {
	n, errs := circuit.Compile(m.plan.Circuit)
	if errs != nil {
		for i, err := range errs {
			if i < 5 {
				m.say(fmt.Sprintf("list-%d", i), finding.Stop, "The list cannot be drawn", err.Error(), "Change that wire")
			}
		}
		return
	}
	m.plan.Net = n
	worst := circuit.State{}
	for _, p := range m.plan.Circuit.Parts {
		for _, c := range p.Contacts {
			if !c.Closed && !(p.ID == Drive && m.rests[c.Name]) {
				worst[p.ID+"."+c.Name] = true
			}
		}
	}
	s := n.Solve(worst)
	for _, src := range s.Shorts {
		m.say("short-"+src, finding.Stop, "A short across "+src, "As drawn, its two ends are joined in some state.",
			"Change the list before anything is landed")
	}
	for _, pair := range s.Meets {
		m.say("meets-"+pair[0], finding.Stop, "Two supplies feed one potential",
			pair[0]+" and "+pair[1]+": one feeds back into the other.", "Part them; the 0 V alone is shared")
	}
	for _, t := range m.f.Terminals {
		if i, ok := s.Currents[Drive+"."+t.Name]; ok {
			volts := 24.
			if t.Kind == "reference-supply" {
				volts = 10
			}
			b := Budget{t.Name, math.Round(i*1e5) / 100, t.Current, volts}
			if b.Draws == 0 {
				continue
			}
			m.plan.Budgets = append(m.plan.Budgets, b)
			if b.Draws > b.Most && b.Most > 0 {
				m.say("budget-"+t.Name, finding.Stop, fmt.Sprintf("Terminal %s gives too little", t.Name),
					fmt.Sprintf("%.3g mA are drawn with everything on, %.3g mA it gives.", b.Draws, b.Most),
					"A supply from outside with shared 0 V, or less on it")
			}
		}
	}
	m.unseen(s)
	m.leads(s)
}

// unseen finds inputs with a function that see nothing though every contact is closed: a common that goes nowhere, a wire that was changed.
func (m *maker) unseen(s *circuit.Solution) {
	loads := s.Loads()
	for _, t := range m.kind("digital-in") {
		i := slices.IndexFunc(m.plan.Assigns, func(a Assign) bool { return a.Terminal == t.Name && a.Function != "nothing" })
		v, measured := loads[Drive+"."+t.Name]
		if i < 0 || !measured || math.Abs(v) >= onVolts {
			continue
		}
		m.say("unseen-"+t.Name, finding.Stop, fmt.Sprintf("Terminal %s never sees its signal", t.Name),
			fmt.Sprintf("As drawn it has %.3g V with every contact closed: its wire, or that of its common, %s, does not go where it must.",
				v, t.Common), "Change the list before anything is landed")
	}
}

// leads asks about wires that end at nothing with a function.
func (m *maker) leads(s *circuit.Solution) {
	for _, r := range m.plan.Rows {
		if !r.Own || r.Function != "" {
			continue
		}
		if r.Why == "" || !s.Serves(r.From) {
			m.say("what-for-"+r.ID, finding.Look, "What is wire "+r.ID+" for?", "From "+r.From+" to "+r.To+": it has no function here.",
				"Say why it is there, or take it out")
		}
	}
}
