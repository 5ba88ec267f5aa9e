package stops

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"tingate/core/circuit"
	"tingate/testtools/raced"
)

func compiled(t testing.TB, c Circuit) *Played {
	t.Helper()
	p, errs := Compile(c)
	if errs != nil {
		t.Fatal(errs)
	}
	return p
}

// What a safety relay, a reset that acts when let go, and the drive behind them do, step by step (ISO 13850, IEC 60204-1, 9.2.5.4.2:
// a reset starts nothing; IEC 61800-5-2, safe torque off).
func TestTheUsualCircuit(t *testing.T) {
	p := compiled(t, TwoChannel(2))
	seen, err := p.Play(nil, []Event{{1000, "work", "S0"}, {2000, "release", "S0"}, {3000, "run", "T1"}, {5000, "work", "S2"},
		{7000, "release", "S2"}, {8000, "work", "S0"}, {9000, "release", "S0"}, {11000, "run-off", "T1"}, {12000, "run", "T1"}},
		[]int{900, 1900, 2900, 4000, 6000, 7500, 8900, 10000, 12500})
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{"off torque-off on", "off torque-off on", "on ready off", "on running off", "off torque-off on",
		"off torque-off on", "off torque-off on", "on restart-required off", "on running off"} {
		if got := seen[i]["K1"] + " " + seen[i]["T1"] + " " + seen[i]["H2"]; got != want || seen[i]["H1"] == seen[i]["H2"] {
			t.Errorf("look %d: %s, want %s; green %s", i, got, want, seen[i]["H1"])
		}
	}
	// One channel alone: the relay drops, and does not come again until both have been open.
	seen, _ = p.Play(nil, []Event{{1000, "work", "S0"}, {2000, "release", "S0"}, {3000, "lift", "1"}, {5000, "land", "1"},
		{6000, "work", "S0"}, {7000, "release", "S0"}, {9000, "work", "S1"}, {10000, "release", "S1"}, {11000, "work", "S0"},
		{12000, "release", "S0"}},
		[]int{2900, 4900, 8000, 13000})
	if got := fmt.Sprint(seen[0]["K1"], seen[1]["K1"], seen[2]["K1"], seen[3]["K1"]); got != "onoffoffon" {
		t.Errorf("one channel lifted and landed, reset; then both: %s", got)
	}
	// The drive's own channels apart for longer than it bears: a channel fault.
	seen, _ = p.Play(nil, []Event{{1000, "work", "S0"}, {2000, "release", "S0"}, {3000, "lift", "12"}}, []int{2900, 3200, 3900})
	if seen[0]["T1"] != "ready" || seen[1]["T1"] != "discrepancy" || seen[2]["T1"] != "channel-fault" {
		t.Errorf("wire to channel A lifted: %v", seen)
	}
	// A gap shorter than the filter is a test pulse, and is passed over.
	seen, _ = p.Play(nil, []Event{{1000, "work", "S0"}, {2000, "release", "S0"}, {3000, "lift", "12"}, {3004, "land", "12"}}, []int{3900})
	if seen[0]["T1"] != "ready" {
		t.Errorf("a gap of 4 ms: %s", seen[0]["T1"])
	}
	// The supply gone and back starts nothing: a safety relay waits for its reset.
	seen, _ = p.Play(nil, []Event{{1000, "work", "S0"}, {2000, "release", "S0"}, {3000, "supply-off", "G1"}, {5000, "supply-on", "G1"}},
		[]int{2900, 4900, 7000})
	if seen[0]["K1"] != "on" || seen[1]["H2"] != "off" || seen[2]["K1"] != "off" || seen[2]["H2"] != "on" {
		t.Errorf("supply: %v", seen)
	}
}

func TestWaysToStart(t *testing.T) {
	with := func(change func(*Device)) *Played {
		c := TwoChannel(1)
		d := c.Devices["K1"]
		change(&d)
		c.Devices["K1"] = d
		return compiled(t, c)
	}
	at := func(p *Played, events ...Event) string {
		seen, err := p.Play(nil, events, []int{900, 1900, 2900})
		if err != nil {
			t.Fatal(err)
		}
		return seen[0]["K1"] + " " + seen[1]["K1"] + " " + seen[2]["K1"]
	}
	held := []Event{{1000, "work", "S0"}, {2000, "release", "S0"}}
	if got := at(with(func(d *Device) { d.Reset = "pressed" }), held...); got != "off on on" {
		t.Errorf("acts when pressed: %s", got)
	}
	if got := at(with(func(*Device) {}), held...); got != "off off on" {
		t.Errorf("acts when let go: %s", got)
	}
	// By itself: with its reset input bridged as its feedback loop, closed from the start.
	c := TwoChannel(1)
	c.Devices["K1"] = Device{Does: SafetyRelay, Reset: "automatic"}
	c.Wires = append(c.Wires, circuit.Wire{ID: "90", From: "S0:13", To: "S0:14"})
	if got := at(compiled(t, c)); got != "on on on" {
		t.Errorf("by itself: %s", got)
	}
	// Channels that close too far apart do not count as one act.
	if got := at(with(func(d *Device) { d.Discrepancy, d.Reset = 100, "pressed" }), Event{0, "lift", "2"}, Event{500, "land", "2"},
		Event{1000, "work", "S0"}, Event{1500, "release", "S0"}); got != "off off off" {
		t.Errorf("500 ms apart, 100 are allowed: %s", got)
	}
	// Delayed outputs stay for their time: a ramped stop.
	c = TwoChannel(1)
	for i := range c.Parts {
		if c.Parts[i].ID == "K1" {
			c.Parts[i].Contacts[2].Name = "delayed"
		}
	}
	c.Devices["K1"] = Device{Does: SafetyRelay, Reset: "pressed", OffDelay: 800}
	seen, _ := compiled(t, c).Play(nil, []Event{{1000, "work", "S0"}, {1200, "release", "S0"}, {2000, "work", "S1"}},
		[]int{1900, 2500, 3000})
	if seen[0]["H1"]+seen[1]["H1"]+seen[2]["H1"] != "ononoff" || seen[1]["K1"] != "off" {
		t.Errorf("delayed: %v", seen)
	}
}

func TestAChatteringLoopIsNamed(t *testing.T) {
	c := Circuit{Circuit: circuit.Circuit{Parts: []circuit.Part{{ID: "G1", Kind: "source", Terminals: []string{"+", "-"},
		Sources: []circuit.VoltageSource{{Name: "24V", Plus: "+", Minus: "-", Volts: 24}}},
		{ID: "K7", Kind: "relay", Terminals: []string{"A1", "A2", "11", "12"},
			Loads:    []circuit.Load{{Name: "coil", A: "A1", B: "A2", Ohm: 500}},
			Contacts: []circuit.Contact{{Name: "break", A: "11", B: "12", Closed: true}}}},
		Wires: []circuit.Wire{{ID: "1", From: "G1:+", To: "K7:11"}, {ID: "2", From: "K7:12", To: "K7:A1"},
			{ID: "3", From: "K7:A2", To: "G1:-"}}}, Devices: map[string]Device{"K7": {Does: Relay, Pick: 10, Drop: 10}}}
	var chatter *Chatter
	if _, err := compiled(t, c).Play(nil, nil, []int{60000}); !errors.As(err, &chatter) || !strings.Contains(err.Error(), "K7") {
		t.Errorf("over its own break contact: %v", err)
	}
	c.Devices["K7"] = Device{Does: Relay}
	if _, err := compiled(t, c).Play(nil, nil, []int{1000}); !errors.As(err, &chatter) {
		t.Errorf("without delays: %v", err)
	}
}

func TestBadCircuitsAreNamed(t *testing.T) {
	for want, change := range map[string]func(*Circuit){
		"a part of the circuit":   func(c *Circuit) { c.Devices["S9"] = Device{Does: Hand} },
		"a part with contacts":    func(c *Circuit) { c.Devices["H1"] = Device{Does: Hand} },
		"a part with a load coil": func(c *Circuit) { c.Devices["S1"] = Device{Does: Relay} },
		"hand, button":            func(c *Circuit) { c.Devices["S1"] = Device{Does: "magic"} },
		"automatic, pressed":      func(c *Circuit) { c.Devices["K1"] = Device{Does: SafetyRelay} },
		"0 to 600,000 ms":         func(c *Circuit) { c.Devices["T1"] = Device{Does: DriveInputs, Filter: -1} },
	} {
		c := TwoChannel(1)
		change(&c)
		if _, errs := Compile(c); len(errs) == 0 || !strings.Contains(errs[0].Error(), want) {
			t.Errorf("%s: %v", want, errs)
		}
	}
	p := compiled(t, TwoChannel(1))
	for _, e := range []Event{{0, "work", "K1"}, {0, "lift", "99"}, {0, "supply-off", "S1"}, {0, "run", "H1"}, {0, "leap", "S1"}} {
		if _, err := p.Play(nil, []Event{e}, []int{10}); err == nil {
			t.Errorf("%+v was done", e)
		}
	}
}

// The table of the usual circuit: what every test must show, where it can hurt.
func TestTheTable(t *testing.T) {
	p := compiled(t, TwoChannel(2))
	table, err := p.Table()
	if err != nil {
		t.Fatal(err)
	}
	if len(table) != 2*5+1+2+1 { // each device by five, both open, the drive's channels, the supply
		t.Errorf("%d tests for two devices", len(table))
	}
	last := func(key string) Seen {
		for _, x := range table {
			if x.Key == key {
				return x.Steps[len(x.Steps)-1].Must
			}
		}
		return nil
	}
	for key, want := range map[string]string{"both/S1": "running", "channel-1/S2": "running", "held/S1": "torque-off",
		"early/S2": "torque-off", "supply/G1": "restart-required", "two/S1+S2": "running", "drive-A/T1": "restart-required"} {
		if got := last(key)["T1"]; got != want {
			t.Errorf("%s ends with the drive %s, want %s", key, got, want)
		}
	}
	for _, x := range table {
		if x.Hazard == "" || len(x.Steps) < 4 || x.Steps[0].Must["T1"] == "running" {
			t.Errorf("%+v", x)
		}
	}
}

// randomSpec draws one of the circuits that are built.
func randomSpec(rng *rand.Rand) Spec {
	pick := func(l ...string) string { return l[rng.IntN(len(l))] }
	s := Spec{Kind: pick("two-channel", "two-channel", "controller", "one-channel"), Feed: pick("one", "two", "pulsed"),
		Reset: pick("let-go", "let-go", "pressed"), Contactors: rng.IntN(3), Lamps: pick("none", "two", "three"), Split: rng.IntN(3) == 0,
		Strip: rng.IntN(2) == 0}
	if s.Kind == "one-channel" {
		s.Feed = "one"
	}
	if rng.IntN(4) == 0 {
		s.Delay = 1000
	}
	for i := range 1 + rng.IntN(4) {
		s.Devices = append(s.Devices,
			SpecDevice{ID: fmt.Sprintf("S%d", i+1), Kind: pick(EmergencyStop, EmergencyStop, Guard, Key, ResetGuard, LightCurtain)})
	}
	return s
}

// meter is what a meter shows at a measurement.
func (r *play) meter(t *testing.T, x Test, m *Measure) float64 {
	t.Helper()
	l, err := r.voltages(&x, m.Step)
	if err != nil {
		t.Fatal(err)
	}
	k := 0
	for _, part := range r.p.Net.Circuit.Parts {
		for _, name := range part.Terminals {
			if part.ID+":"+name == m.At {
				return l[m.Step][k]
			}
			k++
		}
	}
	t.Fatalf("no terminal %s", m.At)
	return 0
}

// everything is all that tests and measurements can tell of a fault.
func (p *Played) everything(t *testing.T, m circuit.Mistake, table []Test, at *Test, step int) string {
	r, err := p.begin([]circuit.Mistake{m})
	if err != nil {
		t.Fatal(err)
	}
	out := ""
	for i := range table {
		out += r.row(&table[i]) + "|"
	}
	l, _ := r.voltages(at, step)
	for _, step := range l {
		for _, v := range step {
			out += fmt.Sprint(math.Round(v/(2*near)), " ")
		}
	}
	for held, l := range p.probes() {
		r.atRest(held)
		for _, x := range l {
			if r.live.Joined(x[0], x[1]) {
				out += "j"
			} else {
				out += "o"
			}
		}
	}
	return out
}

// shownBy tells whether one of some tests shows a fault.
func (p *Played) shownBy(t *testing.T, table []Test, m circuit.Mistake) bool {
	r, err := p.begin([]circuit.Mistake{m})
	if err != nil {
		t.Fatal(err)
	}
	sound, err := p.begin(nil)
	if err != nil {
		t.Fatal(err)
	}
	for i := range table {
		if r.row(&table[i]) != sound.row(&table[i]) {
			return true
		}
	}
	return false
}

// Random circuits with a random single fault, at least a fifth of them silent in the first ten tests. Following what is proposed,
// test, voltage or resistance, the true fault is never excluded, the end is the class of faults that nothing parts, and on average it
// takes no more than 1.5 log2(classes) + 2 steps.
func TestTheFaultIsFound(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 2))
	found, silent, silentInTen, all, steps, wanted := 0, 0, 0, 0, 0, 0.0
	cases := 40
	if raced.On {
		cases = 4 // make test runs all of them once without the race detector
	}
	for i := range cases {
		p := compiled(t, Draft(randomSpec(rng)))
		table, err := p.Table()
		if err != nil {
			t.Fatal(err)
		}
		faults := p.Faults()
		hidden := faults[rng.IntN(len(faults))].Mistake
		if i%3 == 0 { // one that is silent in the first ten and seen later, where the table is long enough
			for k := 0; k < 150 && (p.shownBy(t, table[:min(10, len(table))], hidden) || !p.shownBy(t, table, hidden)); k++ {
				hidden = faults[rng.IntN(len(faults))].Mistake
			}
		}
		real, err := p.begin([]circuit.Mistake{hidden})
		if err != nil {
			t.Fatal(err)
		}
		all++
		show := func(x *Test) (l []Shown, ok bool) {
			k := 0
			err := real.run(x.Events, x.looks(), func(int) bool { l = append(l, Shown{x.Key, k, real.seen()}); k++; return true })
			return l, err == nil
		}
		var shown []Shown
		seenAt := -1
		for k := range table { // by the table, until one differs
			l, ok := show(&table[k])
			if !ok {
				break // it chatters: told by its name, not looked for
			}
			shown = append(shown, l...)
			if differs(table[k], l) {
				seenAt = k
				break
			}
		}
		if seenAt < 0 || seenAt >= 10 {
			silentInTen++
		}
		if seenAt < 0 {
			silent++ // nothing of the table shows it: harmless, or hidden by another
			continue
		}
		step := 0
		for _, x := range shown {
			if x.Test == table[seenAt].Key && differs(table[seenAt], []Shown{x}) {
				step = x.Step
				break
			}
		}
		var readings []Reading
		d, err := p.Diagnose(table, shown, readings, nil)
		if err != nil {
			t.Fatal(err)
		}
		kinds := map[string]bool{}
		for _, c := range d.Classes {
			for _, m := range c.Mistakes {
				kinds[p.everything(t, m, table, &table[seenAt], step)] = true
			}
		}
		n := 0
		for ; n < 25; n++ {
			best := math.Inf(1)
			if d.Next != nil {
				best = d.Next.Left
			}
			switch {
			case d.Measure != nil && d.Measure.Left <= best && (d.Continuity == nil || d.Measure.Left <= d.Continuity.Left):
				at := find(table, d.Measure.Test)
				readings = append(readings, Reading{Test: d.Measure.Test, Step: d.Measure.Step, At: d.Measure.At,
					Volts: real.meter(t, at, d.Measure)})
			case d.Continuity != nil && d.Continuity.Left <= best:
				joined := real.joins(d.Continuity.A, d.Continuity.B, d.Continuity.Held)
				readings = append(readings, Reading{A: d.Continuity.A, B: d.Continuity.B, Held: d.Continuity.Held, Joined: &joined})
			case d.Next != nil:
				x := find(table, d.Next.Test)
				l, _ := show(&x)
				shown = append(shown, l...)
			}
			if math.IsInf(best, 1) && d.Measure == nil && d.Continuity == nil {
				break
			}
			if d, err = p.Diagnose(table, shown, readings, nil); err != nil {
				t.Fatal(err)
			}
		}
		in := false
		for _, c := range d.Classes {
			for _, m := range c.Mistakes {
				in = in || m == hidden
			}
		}
		if !in || d.Next != nil || d.Measure != nil || d.Continuity != nil {
			t.Errorf("%s: there %v, left in %d classes after %d steps", p.Text(hidden), in, len(d.Classes), n)
			continue
		}
		found++
		steps += n
		wanted += 1.5*math.Log2(float64(max(len(kinds), 1))) + 2
	}
	t.Logf("%d found, %d shown by no test, %d of %d silent in the first ten; %d further steps, at most %.0f wanted", found, silent,
		silentInTen, all, steps, wanted)
	if found < cases/2 || float64(steps) > wanted || !raced.On && silentInTen*5 < all {
		t.Errorf("%d found in %d further steps, at most %.0f wanted; %d of %d silent in ten", found, steps, wanted, silentInTen, all)
	}
}

// An open wire somewhere in a chain of fifty devices: halving the chain comes out by itself.
func TestALongChainIsHalved(t *testing.T) {
	p := compiled(t, TwoChannel(50))
	table, err := p.Table()
	if err != nil {
		t.Fatal(err)
	}
	hidden := circuit.Mistake{Kind: "open", Wire: "57"} // channel 1, before the 29th device
	shown := []Shown{{"both/S1", 0, Seen{"K1": "off", "H2": "on"}}, {"both/S1", 1, Seen{"K1": "off", "H2": "on", "T1": "torque-off"}}}
	var readings []Reading
	var suspects []circuit.Mistake
	n := 0
	for ; n < 12; n++ {
		if suspects == nil {
			for _, c := range p.Net.Mistakes() {
				if c.Kind == "open" {
					r, err := p.begin([]circuit.Mistake{c.Mistake})
					if err != nil {
						t.Fatal(err)
					}
					if ok, err := r.explains(table, []int{0}, map[int][]Shown{0: shown}, nil); err == nil && ok {
						suspects = append(suspects, c.Mistake)
					}
				}
			}
			t.Logf("%d wires could be open", len(suspects))
		}
		m := p.BestMeasure(suspects, table[0], 1)
		if m == nil {
			break
		}
		r, err := p.begin([]circuit.Mistake{hidden})
		if err != nil {
			t.Fatal(err)
		}
		readings = append(readings, Reading{Test: m.Test, Step: m.Step, At: m.At, Volts: r.meter(t, table[0], m)})
		var left []circuit.Mistake
		for _, x := range suspects {
			if ok, err := p.Agrees(x, table, readings[len(readings)-1]); err != nil {
				t.Fatal(err)
			} else if ok {
				left = append(left, x)
			}
		}
		suspects = left
	}
	if len(suspects) != 1 || suspects[0] != hidden || n > 8 {
		t.Errorf("%d left after %d measurements: %+v", len(suspects), n, suspects)
	}
	for want, r := range map[string]Reading{"a terminal": {Test: "both/S1", At: "S1:99"}, "a test": {Test: "both/S77", At: "S1:11"}} {
		if _, err := p.Agrees(hidden, table, r); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
}
