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
	own := module.EncoderPins()
	for i, p := range pins {
		pin := module.Code + " " + p
		if own != nil {
			pin = own[i]
		}
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
