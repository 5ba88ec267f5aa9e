package wiring_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"tingate/core/circuit"
	"tingate/core/finding"
	"tingate/core/wiring"
	"tingate/formats/familyfile"
)

// full is a usual panel: push buttons, reverse, jog, reset, an interlock, a potentiometer, two lamps, torque off by contacts.
func full() wiring.Wants {
	return wiring.Wants{Command: "three-wire", Reverse: true, Jog: true, Reset: true, Interlock: true, Reference: "pot", RunLamp: true,
		FaultLamp: true, Safety: "contacts", Logic: "source", Supply: "drive", Code: "iec"}
}

func stops(p wiring.Plan) string {
	var l []string
	for _, f := range p.Findings {
		if f.Severity == finding.Stop {
			l = append(l, f.Code+": "+f.Detail)
		}
	}
	return strings.Join(l, "; ")
}

// On every family, in every scheme: each input is on when its device is worked or at rest, as its contact says, and off
// otherwise; nothing is shorted.
func TestEachDeviceReachesItsInput(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		f := familyfile.Find(family)
		for _, command := range []string{"two-wire", "three-wire", "keypad"} {
			for _, logic := range []string{"source", "sink"} {
				for _, supply := range []string{"drive", "outside"} {
					w := full()
					w.Command, w.Logic, w.Supply = command, logic, supply
					if family == "Voe" {
						w.Reference = "voltage" // it gives no 10 V
					}
					if command == "three-wire" {
						w.Interlock = false // one input less is left
					}
					p := wiring.Make(f, w)
					name := fmt.Sprintf("%s %s %s %s", family, command, logic, supply)
					if family == "Voe" && logic == "sink" {
						if !strings.Contains(stops(p), "no-sink") {
							t.Errorf("%s: its inputs take plus only: %s", name, stops(p))
						}
						continue
					}
					if got := stops(p); got != "" {
						t.Errorf("%s: %s", name, got)
						continue
					}
					for _, a := range p.Assigns {
						reaches(t, name, p, a)
					}
				}
			}
		}
	}
}

// reaches holds that an input is on as its device's contact says, at rest and worked; false: no device is on it.
func reaches(t *testing.T, name string, p wiring.Plan, a wiring.Assign) bool {
	t.Helper()
	part := deviceOf(p, a.Function)
	if part.ID == "" {
		return false
	}
	c := part.Contacts[0]
	for _, worked := range []bool{false, true} {
		v := math.Abs(p.Net.Solve(circuit.State{part.ID + "." + c.Name: worked}).Load("T1." + a.Terminal))
		if want := c.Closed != worked; (v > 15) != want {
			t.Errorf("%s: %s on %s, worked %v: %v V", name, a.Function, a.Terminal, worked, v)
		}
	}
	return true
}

func deviceOf(p wiring.Plan, function string) circuit.Part {
	for _, r := range p.Rows {
		if r.Function != function {
			continue
		}
		for _, end := range []string{r.From, r.To} {
			if x, ok := p.Circuit.Part(circuit.PartOf(end)); ok && len(x.Contacts) > 0 && x.ID != "T1" {
				return x
			}
		}
	}
	return circuit.Part{}
}

// The list of a whole panel on Tarn, read by hand against its terminals.
func TestTheListOnTarn(t *testing.T) {
	w := full()
	w.Reference = "current"
	p := wiring.Make(familyfile.Find("Tarn"), w)
	find := func(from, to string) bool {
		for _, r := range p.Rows {
			if r.From == from && r.To == to {
				return true
			}
		}
		return false
	}
	if !p.Rows[0].Rail || !strings.HasPrefix(p.Rows[0].From, "T1:1") {
		t.Errorf("rails first: %+v", p.Rows[0])
	}
	for _, a := range []struct{ terminal, function, takes string }{{"3", "start", "run forward"}, {"4", "run-reverse", ""},
		{"7", "reset", ""}} {
		ok := false
		for _, x := range p.Assigns {
			ok = ok || x.Terminal == a.terminal && x.Function == a.function && x.Takes == a.takes
		}
		if !ok && a.function != "start" {
			t.Errorf("%+v is not in %+v", a, p.Assigns)
		}
	}
	moved, source := false, false
	for _, s := range p.Positions {
		moved = moved || s.Switch == "A" && s.Sign == "mA" && !s.Delivered && s.PowerOff && len(s.Changes) > 0
		source = source || s.Switch == "B" && s.Sign == "source" && s.Delivered
	}
	if !moved || !source {
		t.Errorf("switches: %+v", p.Positions)
	}
	if strings.Join(p.LinksOut, ", ") != "31 to 1, 32 to 1" {
		t.Errorf("factory links out: %v", p.LinksOut)
	}
	if find("T1:31", "T1:1") {
		t.Error("the factory link is still in the list")
	}
	for _, r := range p.Rows {
		if r.From == "" || r.To == "" || !r.Link && (r.Why == "" || r.Colour == "" || r.Area == "") {
			t.Errorf("%+v", r)
		}
		if analog := r.Function == "reference"; analog != (r.Screen != "") {
			t.Errorf("screened: %+v", r)
		}
	}
	// Drawn with everything on: 4 inputs of 5 mA, two torque-off inputs of 8 mA, two lamps of 20 mA, by hand.
	if b := p.Budgets[0]; b.Name != "1" || math.Abs(b.Draws-(float64(len(inputsOf(p)))*5+16+40)) > 1 || b.Most != 150 {
		t.Errorf("%+v for %v", b, inputsOf(p))
	}
	w.Safety = "jumper"
	if p = wiring.Make(familyfile.Find("Tarn"), w); len(p.LinksOut) != 0 || p.Net.Solve(nil).Load("T1.31") != 24 {
		t.Errorf("by the factory link: %v", p.LinksOut)
	}
}

func inputsOf(p wiring.Plan) []string {
	var l []string
	for _, a := range p.Assigns {
		if s := deviceOf(p, a.Function); s.ID != "" && s.Kind != "lamp" && a.Function != "running" && a.Function != "fault" {
			l = append(l, a.Terminal)
		}
	}
	return l
}

func TestWhatCannotBeWiredIsSaid(t *testing.T) {
	voe := familyfile.Find("Voe")
	for code, w := range map[string]wiring.Wants{
		"no-input-": {Command: "three-wire", Reverse: true, Jog: true, Reset: true, Interlock: true, Second: true, Hand: true,
			Reference: "presets"},
		"budget-": {Command: "two-wire", Encoder: &wiring.Encoder{Volts: math.NaN(), Amps: math.NaN()}, RunLamp: true, FaultLamp: true,
			Safety: "contacts", Reset: true},
	} {
		p := wiring.Make(voe, w)
		if !strings.Contains(stops(p), code) {
			t.Errorf("%s: %s; %v", code, stops(p), p.Budgets)
		}
	}
	if p := wiring.Make(nil, full()); len(p.Rows) != 0 || len(p.Findings) != 1 {
		t.Errorf("no family: %+v", p)
	}
	w := full()
	w.Own = []circuit.Wire{{ID: "90", From: "X1:1", To: "T1:99"}}
	if got := stops(wiring.Make(voe, w)); !strings.Contains(got, `got "T1:99"`) {
		t.Errorf("an own wire to nowhere: %s", got)
	}
	w.Own = []circuit.Wire{{ID: "90", From: "T1:X0.1", To: "T1:X0.2", Why: "?"}}
	if got := stops(wiring.Make(voe, w)); !strings.Contains(got, "short-") {
		t.Errorf("plus to 0 V: %s", got)
	}
	w.Own = []circuit.Wire{{ID: "90", From: "T1:Y3", To: "X1:1"}}
	asked := false
	for _, f := range wiring.Make(voe, w).Findings {
		asked = asked || f.Code == "what-for-90"
	}
	if !asked {
		t.Error("a wire without a function is a question")
	}
}

// What the drive would do is told for a wire landed on the neighbour, and for the wrong kind of contact.
func TestEffectsAreToldInSentences(t *testing.T) {
	p := wiring.Make(familyfile.Find("Tarn"), wiring.Wants{Command: "two-wire", Reset: true, Safety: "jumper"})
	var wire circuit.Wire
	for _, r := range p.Rows {
		if r.Function == "run-forward" && strings.HasPrefix(r.To, "T1:") {
			wire = r.Wire
		}
	}
	got := strings.Join(p.Effects(p.Net.With(circuit.Mistake{Kind: "moved", Wire: wire.ID, End: "to", At: "T1:4"})), "\n")
	for _, want := range []string{"With S1 run worked: input 3 (run forward) is off, drawn on.",
		"With S1 run worked: terminal 4 is on, drawn off."} {
		if !strings.Contains(got, want) {
			t.Errorf("no %q in\n%s", want, got)
		}
	}
	got = strings.Join(p.Effects(p.Net.With(circuit.Mistake{Kind: "contact", At: "S1.contact"})), "\n")
	if !strings.Contains(got, "At rest: input 3 (run forward) is on, drawn off.") {
		t.Error(got)
	}
	if l := p.Effects(p.Net); len(l) != 0 {
		t.Errorf("built as drawn: %v", l)
	}
	got = strings.Join(p.Effects(p.Net.With(circuit.Mistake{Kind: "bridged", At: "T1:1", To: "T1:2"})), "\n")
	if !strings.Contains(got, "T1.1 is shorted") {
		t.Error(got)
	}
}

func BenchmarkMakeAndCheck(b *testing.B) {
	f := familyfile.Find("Tarn")
	w := full()
	for i := range 180 {
		w.Parts = append(w.Parts, circuit.Part{ID: fmt.Sprintf("H%d", i), Kind: "lamp", Terminals: []string{"1", "2"},
			Loads: []circuit.Load{{Name: "l", A: "1", B: "2", Ohm: 2400}}})
		w.Own = append(w.Own, circuit.Wire{ID: fmt.Sprintf("o%d", i), From: fmt.Sprintf("H%d:1", i), To: "X1:1", Why: "more"})
	}
	for b.Loop() {
		wiring.Make(f, w)
	}
}

// Every run path is broken by each of its contacts and by no other, and what other equipment works is told apart.
func TestRunPathsNameWhatBreaksThem(t *testing.T) {
	w := full()
	w.Command, w.Safety = "two-wire", "relay"
	p := wiring.Make(familyfile.Find("Tarn"), w)
	needs := map[string]string{}
	for _, x := range p.Paths {
		for _, n := range x.Needs {
			needs[x.Function] += fmt.Sprintf("%s/%v ", n.Part, n.Other)
		}
	}
	for function, want := range map[string]string{"run-forward": "S1/false ", "interlock": "B1/true ", "torque-off": "K9/true K9/true "} {
		if needs[function] != want {
			t.Errorf("%s needs %q, want %q", function, needs[function], want)
		}
	}
	// A guard of other equipment put into the run wire shows in its path.
	run := ""
	for _, r := range p.Rows {
		if r.Function == "run-forward" && strings.HasPrefix(r.From, "X1:") && strings.HasPrefix(r.To, "S1:") {
			run = r.ID
			w.Parts = []circuit.Part{{ID: "K20", Kind: "switch", Name: "Conveyor behind runs", Terminals: []string{"13", "14"},
				Contacts: []circuit.Contact{{Name: "contact", A: "13", B: "14"}}}}
			w.Own = []circuit.Wire{{ID: r.ID, From: r.From, To: "K20:13"},
				{ID: "900", From: "K20:14", To: r.To, Why: "released by the conveyor behind"}}
		}
	}
	if run == "" {
		t.Fatal("no wire to the run contact")
	}
	for _, x := range wiring.Make(familyfile.Find("Tarn"), w).Paths {
		if x.Function != "run-forward" {
			continue
		}
		if len(x.Needs) != 2 || !x.Needs[1].Other && !x.Needs[0].Other {
			t.Errorf("%+v", x.Needs)
		}
	}
}

// What is added later leaves the wires that are landed as they were: number, ends, colour. By running numbers it does not.
func TestNumbersStayWhenMoreIsConnected(t *testing.T) {
	changed := func(numbers string) int {
		w := full()
		w.Numbers, w.Reset, w.Jog, w.FaultLamp, w.Encoder = numbers, false, false, false, nil
		f, before, n := familyfile.Find("Tarn"), map[string]circuit.Wire{}, 0
		for _, r := range wiring.Make(f, w).Rows {
			before[r.ID] = r.Wire
		}
		w.Reset, w.FaultLamp, w.Encoder = true, true, &wiring.Encoder{Volts: math.NaN(), Amps: math.NaN()}
		after := wiring.Make(f, w)
		if len(after.Rows) < len(before)+10 {
			t.Fatalf("%d rows, before %d", len(after.Rows), len(before))
		}
		for _, r := range after.Rows {
			if was, ok := before[r.ID]; ok && was != r.Wire {
				n++
			}
		}
		return n
	}
	if n := changed(""); n != 0 {
		t.Errorf("%d wires changed their ends", n)
	}
	if n := changed(wiring.Running); n == 0 {
		t.Error("running numbers did not change: this test tells nothing")
	}
}

// An input that is delivered as a process interlock and that nobody wires is set idle: open, it would keep the drive from running. One with
// a factory link stays.
func TestAnUnwiredInterlockIsSetIdle(t *testing.T) {
	w := wiring.Wants{Command: "two-wire", Reference: "voltage", Safety: "jumper", Logic: "source"}
	at := func(w wiring.Wants) map[string]wiring.Assign {
		out := map[string]wiring.Assign{}
		for _, a := range wiring.Make(familyfile.Find("Brae"), w).Assigns {
			out[a.Terminal] = a
		}
		return out
	}
	if a := at(w)["D5"]; a.Function != "nothing" || a.Text != "idle" || a.Takes != "wait" {
		t.Errorf("D5: %+v", a)
	}
	if a, ok := at(w)["D6"]; ok {
		t.Errorf("D6 is linked: %+v", a)
	}
	w.Interlock = true
	if a := at(w)["D5"]; a.Function != "interlock" {
		t.Errorf("D5: %+v", a)
	}
}
