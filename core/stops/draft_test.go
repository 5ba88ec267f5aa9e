package stops

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"tingate/core/circuit"
)

var two = []SpecDevice{{ID: "S1"}, {ID: "S2", Kind: Guard}}

// at plays a drawn circuit to its start, does something, and looks.
func shows(t *testing.T, s Spec, faults []circuit.Mistake, acts ...Event) Seen {
	t.Helper()
	p := compiled(t, Draft(s))
	var events []Event
	at := 1000
	for _, b := range p.resets() {
		events = append(events, Event{at, "work", b}, Event{at + 500, "release", b})
		at += 1000
	}
	for _, d := range p.Of(DriveInputs) {
		events = append(events, Event{at, "run", d})
	}
	for _, e := range acts {
		e.At += at + 1000
		events = append(events, e)
	}
	last := events[len(events)-1].At + 3000
	seen, err := p.Play(faults, events, []int{last})
	if err != nil {
		t.Fatal(err)
	}
	return seen[0]
}

// Every way of drawing starts, stops by every device, and is back after reset and a fresh command; a table follows from each, and
// nothing in it lets a drive run by itself.
func TestEveryDrawnCircuitDoesItsWork(t *testing.T) {
	mixed := []SpecDevice{{ID: "S1"}, {ID: "S2", Kind: ResetGuard}, {ID: "S3", Kind: LightCurtain}, {ID: "S4", Kind: Key}}
	for name, s := range map[string]Spec{
		"two channels": {Devices: two, Strip: true},
		"a guard with its reset outside, a light curtain, contactors": {Devices: mixed, Contactors: 2, Lamps: "three", Strip: true},
		"controller, test pulses": {Kind: "controller", Feed: "pulsed", Devices: mixed, Lamps: "three",
			Strip: true},
		"from both potentials": {Devices: two, Feed: "two", Strip: true},
		"24 V of the drive, commons split, two drives, a brake": {Devices: two, FromDrive: true, Split: true,
			Drives: []SpecDrive{{ID: "T1", Brake: true}, {ID: "T2"}}},
		"one channel": {Kind: "one-channel", Devices: two}, "by itself": {Devices: two, Reset: "automatic"},
		"pressed, one contactor": {Devices: two, Reset: "pressed", Contactors: 1, Feed: "pulsed"}, "ramped": {Devices: two, Delay: 1500},
		"a fuse, enabling contacts":      {Kind: "controller", Devices: two, Fuse: true, Aux: 2, Strip: true},
		"status fed back, start delayed": {Devices: two, Status: true, StartDelay: 300, Contactors: 1},
	} {
		for _, run := range []bool{true, false} {
			p := compiled(t, Draft(s))
			table, err := p.TableOf(run)
			if err != nil {
				t.Fatalf("%s: %v", name, err)
			}
			for _, x := range table {
				begun := false
				for _, step := range x.Steps {
					state := step.Must["T1"]
					if fresh := strings.Contains(step.Do, "fresh"); state == "running" && !fresh && !begun || state == "running" && !run {
						t.Errorf("%s, %s: the drive runs at %q", name, x.Key, step.Do)
					} else {
						begun = state == "running" && (fresh || begun)
					}
				}
			}
			for _, id := range p.Of(Hand) {
				steps := find(table, "both/"+id).Steps
				worked := false
				for _, step := range steps {
					if step.Do == p.phrase(id, false) {
						worked = step.Must["T1"] == "torque-off"
					}
				}
				want := map[bool]string{true: "running", false: "ready"}[run]
				if last := steps[len(steps)-1].Must["T1"]; !worked || last != want {
					t.Errorf("%s: %s takes torque off: %v; in the end the drive is %s, want %s", name, id, worked, last, want)
				}
			}
		}
	}
}

// wireTo is the number of the wire that ends on a terminal.
func wireTo(c Circuit, terminal string) string {
	for _, w := range c.Wires {
		if w.To == terminal {
			return w.ID
		}
	}
	return ""
}

func find(table []Test, key string) Test {
	for _, x := range table {
		if x.Key == key {
			return x
		}
	}
	return Test{}
}

// What single parts are there for (ISO 13849-2:2012, annex D: cross-circuits, welded contacts; common practice for the rest).
func TestWhatEachPartIsFor(t *testing.T) {
	cross := []circuit.Mistake{{Kind: "bridged", At: "S1:12", To: "S1:22"}}
	// A short between the channels: seen with test pulses, or from both potentials, and not from one.
	for feed, want := range map[string]string{"": "running", "pulsed": "torque-off", "two": "torque-off"} {
		if got := shows(t, Spec{Devices: two, Feed: feed}, cross)["T1"]; got != want {
			t.Errorf("channels joined, fed %q: the drive is %s, want %s", feed, got, want)
		}
	}
	// A welded contactor: its mirror contact stays open, and the reset does nothing.
	s := Spec{Devices: two, Contactors: 2}
	again := []Event{{0, "work", "S1"}, {2000, "release", "S1"}, {4000, "work", "S0"}, {4500, "release", "S0"}}
	if got := shows(t, s, []circuit.Mistake{{Kind: Welded, At: "Q1"}}, again...); got["K1"] != "off" || got["Q1"] != "off" {
		t.Errorf("welded: %v", got)
	}
	if got := shows(t, s, nil, again...); got["K1"] != "on" {
		t.Errorf("sound: %v", got)
	}
	// The drive's status fed back: while it still shows torque, or its contact is broken, no reset takes (common practice).
	s = Spec{Devices: two, Status: true}
	if got := shows(t, s, nil, again...); got["K1"] != "on" {
		t.Errorf("status fed back: %v", got)
	}
	held := Draft(s)
	if got := shows(t, s, []circuit.Mistake{{Kind: "open", Wire: wireTo(held, "T1:R1")}}, again...); got["K1"] != "off" {
		t.Errorf("status wire open: %v", got)
	}
	// A start delay counts from the reset, and starts anew when a channel opens meanwhile.
	p := compiled(t, Draft(Spec{Devices: two, StartDelay: 800}))
	begin := []Event{{1000, "work", "S0"}, {1500, "release", "S0"}}
	seen, err := p.Play(nil, append(begin, Event{2000, "work", "S1"}, Event{2100, "release", "S1"}), []int{1900, 4000})
	if err != nil || seen[0]["K1"] != "off" || seen[1]["K1"] != "off" {
		t.Errorf("opened while it waits: %v %v", seen, err)
	}
	if seen, err = p.Play(nil, begin, []int{2200, 2400}); err != nil || seen[0]["K1"] != "off" || seen[1]["K1"] != "on" {
		t.Errorf("start delay: %v %v", seen, err)
	}
	// A blown fuse takes everything away, and says so; an enabling contact alone takes torque off.
	s = Spec{Kind: "controller", Devices: two, Fuse: true, Aux: 1}
	blown := compiled(t, Draft(s))
	if got := shows(t, s, []circuit.Mistake{{Kind: Missing, At: "F1"}}, again...); got["K1"] != "off" || got["T1"] != "torque-off" {
		t.Errorf("blown: %v", got)
	}
	if text := blown.Text(circuit.Mistake{Kind: Missing, At: "F1"}); !strings.Contains(text, "blown") {
		t.Error(text)
	}
	if got := shows(t, s, nil, Event{0, "work", "E1"}); got["T1"] != "torque-off" {
		t.Errorf("enabling contact open: %v", got)
	}
	// Masking: a contact that does not open locks the relay; opening and closing another device in series clears that.
	s = Spec{Devices: two}
	bridged := []circuit.Mistake{{Kind: Stuck, At: "S1.2"}}
	if got := shows(t, s, bridged, again...); got["K1"] != "off" {
		t.Errorf("one channel stuck: %v", got)
	}
	other := append(again, Event{6000, "work", "S2"}, Event{8000, "release", "S2"}, Event{9000, "work", "S0"}, Event{9500, "release", "S0"})
	if got := shows(t, s, bridged, other...); got["K1"] != "on" {
		t.Errorf("masked by the second device: %v", got)
	}
	s.Kind = "controller" // every device on inputs of its own: nothing is masked
	if got := shows(t, s, bridged, other...); got["K1"] != "off" {
		t.Errorf("a controller: %v", got)
	}
	// Ramped stop (IEC 60204-1, category 1): the drive is told to ramp at once, torque goes after the delay.
	p = compiled(t, Draft(Spec{Devices: two, Delay: 1500}))
	start := []Event{{1000, "work", "S0"}, {1500, "release", "S0"}, {2000, "run", "T1"}, {5000, "work", "S1"}}
	seen, err = p.Play(nil, start, []int{4900, 5200, 6400, 6700})
	if err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(seen[0]["T1"], " ", seen[1]["T1"], " ", seen[2]["T1"], " ",
		seen[3]["T1"]); got != "running ready ready torque-off" {
		t.Errorf("ramped: %s", got)
	}
	// A brake lets go only while the drive has torque; the factory link left in takes the whole circuit's work away.
	if got := shows(t, Spec{Devices: two, Drives: []SpecDrive{{ID: "T1", Brake: true}}}, nil,
		Event{0, "work", "S1"})["Y1"]; got != "applied" {
		t.Errorf("brake after a stop: %s", got)
	}
	if got := shows(t, Spec{Devices: two, Jumper: true}, nil, Event{0, "work", "S1"})["T1"]; got != "running" {
		t.Errorf("factory link still in: %s", got)
	}
}

// The set parts all that the whole table parts, each test of it is needed, and for large circuits it follows from the form.
func TestTheSmallestSet(t *testing.T) {
	p := compiled(t, Draft(Spec{Devices: two, Lamps: "three"}))
	table, err := p.Table()
	if err != nil {
		t.Fatal(err)
	}
	set := p.SmallestSet(table, nil)
	if !set.Exact || len(set.Keys) == 0 || len(set.Keys) >= len(table) || set.Classes < 50 || set.Silent == 0 {
		t.Errorf("%d of %d tests, %d classes, %d silent", len(set.Keys), len(table), set.Classes, set.Silent)
	}
	parts := func(keys []string) int {
		rows := map[string]bool{}
		for _, f := range append(p.Faults(), circuit.Candidate{}) {
			var faults []circuit.Mistake
			if f.Kind != "" {
				faults = append(faults, f.Mistake)
			}
			r, err := p.begin(faults)
			if err != nil {
				t.Fatal(err)
			}
			row := ""
			for _, k := range keys {
				x := find(table, k)
				row += r.row(&x) + "\n"
			}
			rows[row] = true
		}
		return len(rows)
	}
	if got := parts(set.Keys); got != set.Classes {
		t.Errorf("the set parts %d classes, it says %d", got, set.Classes)
	}
	for i := range set.Keys {
		if got := parts(append(append([]string{}, set.Keys[:i]...), set.Keys[i+1:]...)); got == set.Classes {
			t.Errorf("%s is not needed", set.Keys[i])
		}
	}
	large := compiled(t, fifty("two-channel"))
	table, err = large.Table()
	if err != nil {
		t.Fatal(err)
	}
	if set = large.SmallestSet(table, nil); set.Exact || len(set.Keys) < 150 || len(set.Keys) >= len(table) {
		t.Errorf("fifty devices: %d of %d, exact %v", len(set.Keys), len(table), set.Exact)
	}
}

// Two faults at once are found when no single one explains what was shown, and the search can be ended.
func TestTwoFaultsAtOnce(t *testing.T) {
	p := compiled(t, Draft(Spec{Devices: two, Lamps: "two"}))
	table, err := p.Table()
	if err != nil {
		t.Fatal(err)
	}
	hidden := []circuit.Mistake{{Kind: Lifeless, At: "H1"}, {Kind: Stuck, At: "S2.2"}}
	var shown []Shown
	for _, x := range table {
		seen, err := p.Play(hidden, x.Events, x.looks())
		if err != nil {
			t.Fatal(err)
		}
		for k, s := range seen {
			shown = append(shown, Shown{x.Key, k, s})
		}
	}
	d, err := p.Diagnose(table, shown, nil, nil)
	if err != nil || len(d.Classes) != 0 || d.Agrees {
		t.Fatalf("a single fault explains both: %+v %v", d.Classes, err)
	}
	pairs, err := p.DiagnosePairs(table, shown, nil, nil)
	if err != nil || len(pairs.Found) == 0 || pairs.Tried != pairs.All {
		t.Fatalf("%+v %v", pairs, err)
	}
	// Each of the two stands for all that show the same, so they are compared by what they show.
	row := func(m circuit.Mistake) (out string) {
		r, err := p.begin([]circuit.Mistake{m})
		if err != nil {
			t.Fatal(err)
		}
		for i := range table {
			out += r.row(&table[i]) + "\n"
		}
		return out
	}
	want := map[string]bool{row(hidden[0]): true, row(hidden[1]): true}
	if !slices.ContainsFunc(pairs.Found, func(x Pair) bool { return want[row(x.Faults[0])] && want[row(x.Faults[1])] }) {
		t.Errorf("the true pair is not among %d", len(pairs.Found))
	}
	pairs, err = p.DiagnosePairs(table, shown, nil, func(tried, _ int) bool { return tried == 0 })
	if err != nil || !pairs.Ended || pairs.Tried >= pairs.All {
		t.Errorf("ended early: %d of %d, %v %v", pairs.Tried, pairs.All, pairs.Ended, err)
	}
}

// A feedback that is bridged shows nothing by ordinary tests, and hides that a contactor is welded: the two are found together.
func TestFaultsThatHideAreFoundTogether(t *testing.T) {
	p := compiled(t, Draft(Spec{Devices: two, Contactors: 2}))
	table, err := p.Table()
	if err != nil {
		t.Fatal(err)
	}
	hidden := []circuit.Mistake{{Kind: "bridged", At: "Q1:22", To: "Q1:21"}, {Kind: Welded, At: "Q1"}}
	show := func(faults []circuit.Mistake) (shown []Shown, differs bool) {
		for _, x := range table {
			if !strings.HasPrefix(x.Key, "both/") {
				continue
			}
			seen, err := p.Play(faults, x.Events, x.looks())
			if err != nil {
				t.Fatal(err)
			}
			for k, s := range seen {
				shown = append(shown, Shown{x.Key, k, s})
				differs = differs || !maps.Equal(s, x.Steps[k].Must)
			}
		}
		return shown, differs
	}
	if _, differs := show(hidden[:1]); differs {
		t.Fatal("it shows alone")
	}
	shown, _ := show(hidden)
	if d, err := p.Diagnose(table, shown, nil, nil); err != nil ||
		slices.ContainsFunc(d.Classes, func(c Class) bool { return slices.Contains(c.Texts, p.Text(hidden[0])) }) {
		t.Fatalf("%+v %v", d.Classes, err)
	}
	pairs, err := p.DiagnosePairs(table, shown, nil, nil)
	if err != nil || !slices.ContainsFunc(pairs.Found, func(x Pair) bool {
		return strings.Contains(strings.Join(x.Texts[:], " "), "Q1 Contactor is welded") &&
			strings.Contains(strings.Join(x.Texts[:], " "), "Q1:21 and Q1:22 touch")
	}) {
		t.Errorf("the true pair is not among %d of %d: %v", len(pairs.Found), pairs.Tried, err)
		for _, x := range pairs.Found {
			t.Log(x.Texts)
		}
	}
}

// The drive's interlock stands behind a contact of its own: broken there the drive stops and keeps its torque, and it is no torque off.
func TestAnInterlockIsNoTorqueOff(t *testing.T) {
	p := compiled(t, Draft(Spec{Devices: two, Interlock: true}))
	open := circuit.Mistake{Kind: "open", Wire: p.wireAt("T1:IL")}
	events := []Event{{500, "work", "S0"}, {900, "release", "S0"}, {1500, "run", "T1"}, {4000, "work", "S1"}}
	for fault, want := range map[*circuit.Mistake][2]string{nil: {"running", "torque-off"}, &open: {"ready", "torque-off"}} {
		var faults []circuit.Mistake
		if fault != nil {
			faults = append(faults, *fault)
		}
		seen, err := p.Play(faults, events, []int{2000, 6000})
		if err != nil || seen[0]["T1"] != want[0] || seen[1]["T1"] != want[1] {
			t.Errorf("%v: %v %v", fault, seen, err)
		}
	}
}

// A circuit by itself works contactors, without a drive; its table tells them.
func TestACircuitByItself(t *testing.T) {
	c := Draft(Spec{Devices: two, Contactors: 2, Alone: true, Jumper: true, FromDrive: true, Lamps: "two"})
	p := compiled(t, c)
	table, err := p.Table()
	if err != nil || len(table) < 10 || len(p.Of(DriveInputs)) != 0 {
		t.Fatalf("%d tests, %v", len(table), err)
	}
	if last := table[0].Steps; last[1].Must["Q1"] != "on" || last[2].Must["Q1"] != "off" {
		t.Errorf("%+v", table[0])
	}
	d, err := p.Diagnose(table, []Shown{{table[0].Key, 2, Seen{"Q2": "on"}}}, nil, nil)
	if err != nil || !slices.ContainsFunc(d.Classes, func(c Class) bool {
		return strings.Contains(strings.Join(c.Texts, " "), "Contact out2 of K1 Safety relay is welded")
	}) {
		t.Errorf("%+v %v", d.Classes, err)
	}
}

// A timing diagram tells when each part changes: the relay at once, the torque after the delay, hands as they are worked.
func TestTiming(t *testing.T) {
	p := compiled(t, Draft(Spec{Devices: two, Delay: 1500}))
	d, err := p.Timing(nil, []Event{{1000, "work", "S0"}, {1500, "release", "S0"}, {2000, "run", "T1"}, {5000, "work", "S1"}}, 8000)
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]string{}
	for _, l := range d.Lanes {
		got[l.Part] = fmt.Sprint(l.Spans)
	}
	for part, want := range map[string]string{"S1": "[{0 at rest} {5000 worked}]", "K1": "[{0 off} {1500 on} {5000 off}]",
		"T1": "[{0 torque-off} {1500 ready} {2000 running} {5000 ready} {6505 torque-off}]",
		"S0": "[{0 at rest} {1000 worked} {1500 at rest}]"} {
		if got[part] != want {
			t.Errorf("%s: %s, want %s", part, got[part], want)
		}
	}
	if d.Shows["T1"] != "torque-off" || len(d.Lit) == 0 || len(d.Closed) == 0 {
		t.Errorf("in the end: %+v", d.Shows)
	}
}

// An observation that stands against all others is named: it is repeated before anything is taken apart. Shorts and circuits too large
// are told as they are drawn.
func TestWhatContradictsIsNamed(t *testing.T) {
	p := compiled(t, Draft(Spec{Devices: two, Lamps: "two"}))
	table, err := p.Table()
	if err != nil {
		t.Fatal(err)
	}
	var shown []Shown
	for _, x := range table {
		l, err := p.ReadShown(x, AsMust)
		if err != nil {
			t.Fatal(err)
		}
		shown = append(shown, l...)
	}
	wrong := find(table, "held/S1")
	l, err := p.ReadShown(wrong, "step 4: K1 on, T1 running") // misread: nothing else says so
	if err != nil {
		t.Fatal(err)
	}
	for i := range shown {
		if shown[i].Test == wrong.Key && shown[i].Step == 3 {
			shown[i] = l[3]
		}
	}
	d, err := p.Diagnose(table, shown, nil, nil)
	if err != nil || len(d.Classes) != 0 || len(d.Repeat) == 0 || d.Repeat[0] != wrong.Title {
		t.Errorf("%d classes, repeat %v, %v", len(d.Classes), d.Repeat, err)
	}
	for answer, want := range map[string]string{"": "as it must", "step 99: K1 on": "steps up to", "step 1: K1 loud": "what it can show",
		"step 1: X9 on": "a part of the circuit", "never": "as it must"} {
		if _, err := p.ReadShown(wrong, answer); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", answer, err)
		}
	}
	c := Draft(Spec{Devices: two})
	c.Wires = append(c.Wires, circuit.Wire{ID: "short", From: "G1:+", To: "G1:-"})
	if d := Draw(c, true); d.Sound() || !strings.Contains(d.Faults[0].Error(), "a short across G1") {
		t.Errorf("%v", d.Faults)
	}
	for i := range 100_000 {
		c.Wires = append(c.Wires, circuit.Wire{ID: fmt.Sprint("w", i), From: "G1:+", To: "K1:A1"})
	}
	if _, errs := Compile(c); len(errs) == 0 || !strings.Contains(errs[0].Error(), "at most") {
		t.Errorf("100,000 wires: %v", errs)
	}
}
