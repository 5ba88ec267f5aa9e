package circuit_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"tingate/core/circuit"
)

// station is a small panel: a 24 V source, a strip, two buttons, a lamp, and a drive with three inputs of 4.8 kΩ.
func station() circuit.Circuit {
	return circuit.Circuit{
		Parts: []circuit.Part{
			{ID: "G1", Kind: "source", Terminals: []string{"+", "-"},
				Sources: []circuit.VoltageSource{{Name: "24V", Plus: "+", Minus: "-", Volts: 24, Most: .15}}},
			{ID: "X1", Kind: "strip", Terminals: []string{"1", "2", "3", "4", "5", "6"}},
			{ID: "X2", Kind: "strip", Terminals: []string{"1", "2", "3"}},
			{ID: "S1", Kind: "button", Terminals: []string{"13", "14"}, Contacts: []circuit.Contact{{Name: "start", A: "13", B: "14"}}},
			{ID: "S0", Kind: "button", Terminals: []string{"21", "22"},
				Contacts: []circuit.Contact{{Name: "stop", A: "21", B: "22", Closed: true}}},
			{ID: "P1", Kind: "lamp", Terminals: []string{"x1", "x2"}, Loads: []circuit.Load{{Name: "lamp", A: "x1", B: "x2", Ohm: 480}}},
			{ID: "T1", Kind: "drive", Terminals: []string{"0V", "1", "2", "3"},
				Loads: []circuit.Load{{Name: "1", A: "1", B: "0V", Ohm: 4800}, {Name: "2", A: "2", B: "0V", Ohm: 4800},
					{Name: "3", A: "3", B: "0V", Ohm: 4800}}},
		},
		Wires: []circuit.Wire{
			{ID: "1", From: "G1:+", To: "X1:1"}, {ID: "2", From: "G1:-", To: "X2:1"}, {ID: "3", From: "X2:1", To: "T1:0V"},
			{ID: "4", From: "X1:1", To: "S0:21"}, {ID: "5", From: "S0:22", To: "X1:2"}, {ID: "6", From: "X1:2", To: "T1:2"},
			{ID: "7", From: "X1:2", To: "S1:13"}, {ID: "8", From: "S1:14", To: "X1:3"}, {ID: "9", From: "X1:3", To: "T1:1"},
			{ID: "10", From: "X1:3", To: "P1:x1"}, {ID: "11", From: "P1:x2", To: "X2:1"},
		},
	}
}

func compiled(t testing.TB, c circuit.Circuit) *circuit.Net {
	t.Helper()
	n, errs := circuit.Compile(c)
	if errs != nil {
		t.Fatal(errs)
	}
	return n
}

func near(a, b float64) bool { return math.Abs(a-b) <= 1e-6*max(1, math.Abs(b)) }

func TestWhatIsOnInEachState(t *testing.T) {
	n := compiled(t, station())
	rest := n.Solve(nil)
	if v := rest.Load("T1.2"); v != 24 {
		t.Errorf("stop is closed at rest: %v", v)
	}
	if v := rest.Load("T1.1"); v != 0 {
		t.Errorf("start is open: the input is pulled to 0 V through its own load and the lamp: %v", v)
	}
	if v := rest.Load("T1.3"); !math.IsNaN(v) && v != 0 {
		t.Errorf("an input with nothing on it: %v", v)
	}
	run := n.Solve(circuit.State{"S1.start": true})
	if v, i := run.Load("T1.1"), run.Currents["G1.24V"]; v != 24 || !near(i, 24/4800.+24/4800.+24/480.) {
		t.Errorf("start held: %v V, %v A", v, i)
	}
	if over := run.Over(); over != nil {
		t.Errorf("60 mA of 150 mA: %v", over)
	}
	stop := n.Solve(circuit.State{"S1.start": true, "S0.stop": true})
	if v := stop.Load("T1.1"); v != 0 {
		t.Errorf("stop held breaks both: %v", v)
	}
}

func TestShortsBackFeedAndFloating(t *testing.T) {
	c := station()
	c.Wires = append(c.Wires, circuit.Wire{ID: "s", From: "X1:1", To: "X2:1"})
	if s := compiled(t, c).Solve(nil); len(s.Shorts) != 1 || s.Shorts[0] != "G1.24V" {
		t.Errorf("plus on minus: %v", s.Shorts)
	}
	c = station()
	c.Parts = append(c.Parts, circuit.Part{ID: "G2", Kind: "source", Terminals: []string{"+", "-"},
		Sources: []circuit.VoltageSource{{Name: "24V", Plus: "+", Minus: "-", Volts: 24}}})
	c.Wires = append(c.Wires, circuit.Wire{ID: "b", From: "G2:+", To: "X1:1"})
	if s := compiled(t, c).Solve(nil); len(s.Meets) != 1 || len(s.Shorts) != 0 {
		t.Errorf("two sources on one potential: %v %v", s.Meets, s.Shorts)
	}
	// A source without a common: its loads float.
	c = station()
	c.Wires = c.Wires[1:]
	c.Wires = append(c.Wires, circuit.Wire{ID: "b", From: "X1:6", To: "X1:5"})
	if s := compiled(t, c).Solve(circuit.State{"S1.start": true}); s.Load("T1.1") != 0 {
		t.Errorf("nothing feeds it: %v", s.Load("T1.1"))
	}
	c.Wires = c.Wires[2:] // nor the commons: what is left hangs on nothing
	if s := compiled(t, c).Solve(nil); !math.IsNaN(s.Volts("T1:1", "G1:+")) {
		t.Errorf("floats: %v", s.Volts("T1:1", "G1:+"))
	}
	// Through a lamp that lost its common, an input is fed from the other side: 24 V over 4800 and 480 Ω in a row.
	c = station()
	c.Wires[10] = circuit.Wire{ID: "11", From: "P1:x2", To: "T1:3"}
	if v := compiled(t, c).Solve(circuit.State{"S1.start": true}).Load("T1.3"); !near(v, 24*4800/5280.) {
		t.Errorf("fed back through the lamp: %v", v)
	}
	// Two sources that contradict: 24 V against 10 V on the same two potentials.
	c = station()
	c.Parts[0].Sources = append(c.Parts[0].Sources, circuit.VoltageSource{Name: "10V", Plus: "+", Minus: "-", Volts: 10})
	if s := compiled(t, c).Solve(nil); len(s.Shorts) != 1 || s.Shorts[0] != "G1.10V" {
		t.Errorf("two voltages at once: %v", s.Shorts)
	}
}

func TestBadCircuitsAreNamed(t *testing.T) {
	for want, spoil := range map[string]func(*circuit.Circuit){
		`wires[0].to: got "X9:1"`:          func(c *circuit.Circuit) { c.Wires[0].To = "X9:1" },
		`wires[1].id: got "1"`:             func(c *circuit.Circuit) { c.Wires[1].ID = "1" },
		`wires[2].to: got "X2:1"`:          func(c *circuit.Circuit) { c.Wires[2].To = "X2:1" },
		`parts[1].id: got "G1"`:            func(c *circuit.Circuit) { c.Parts[1].ID = "G1" },
		`parts[1].terminals[1]: got "1"`:   func(c *circuit.Circuit) { c.Parts[1].Terminals[1] = "1" },
		`parts[5].loads[0].ohm: got "0"`:   func(c *circuit.Circuit) { c.Parts[5].Loads[0].Ohm = 0 },
		`parts[3].contacts[0]: got "99"`:   func(c *circuit.Circuit) { c.Parts[3].Contacts[0].B = "99" },
		`parts[0].sources[0].volts`:        func(c *circuit.Circuit) { c.Parts[0].Sources[0].Volts = 0 },
		"100000 wires":                     func(c *circuit.Circuit) { c.Wires = make([]circuit.Wire, 100000) },
		`parts[2].bonds[0]: got "nothing"`: func(c *circuit.Circuit) { c.Parts[2].Bonds = []circuit.Bond{{A: "1", B: "nothing"}} },
	} {
		c := station()
		spoil(&c)
		_, errs := circuit.Compile(c)
		text := ""
		for _, e := range errs {
			text += e.Error() + "\n"
		}
		if !strings.Contains(text, want) {
			t.Errorf("want %s, got %s", want, text)
		}
	}
	// A loop of wires is fine: it joins what is joined.
	c := station()
	c.Wires = append(c.Wires, circuit.Wire{ID: "l1", From: "X1:4", To: "X1:5"}, circuit.Wire{ID: "l2", From: "X1:5", To: "X1:6"},
		circuit.Wire{ID: "l3", From: "X1:6", To: "X1:4"})
	if s := compiled(t, c).Solve(nil); !s.Joined("X1:4", "X1:6") || s.Joined("X1:4", "X1:1") {
		t.Error("a loop")
	}
}

// read makes the round of readings on a net as it was built.
func read(drawn circuit.Circuit, built *circuit.Net) []circuit.Reading {
	s := built.Solve(nil)
	list := drawn.WireByWire()
	for i := range list {
		list[i].Joined = s.Joined(list[i].A, list[i].B)
	}
	return list
}

// panel is a made-up station of so many signals: rail, button, strip, input.
func panel(signals int, rng *rand.Rand) circuit.Circuit {
	var c circuit.Circuit
	strip := circuit.Part{ID: "X1", Kind: "strip"}
	field := circuit.Part{ID: "X2", Kind: "strip"}
	drive := circuit.Part{ID: "T1", Kind: "drive", Terminals: []string{"P", "0V"},
		Sources: []circuit.VoltageSource{{Name: "24V", Plus: "P", Minus: "0V", Volts: 24}}}
	wire := func(from, to string) {
		c.Wires = append(c.Wires, circuit.Wire{ID: fmt.Sprint(len(c.Wires) + 1), From: from, To: to})
	}
	for i := range signals {
		n := fmt.Sprint(i + 1)
		strip.Terminals, field.Terminals, drive.Terminals = append(strip.Terminals, n), append(field.Terminals, n),
			append(drive.Terminals, n)
		drive.Loads = append(drive.Loads, circuit.Load{Name: n, A: n, B: "0V", Ohm: 4700})
		s := "S" + n
		c.Parts = append(c.Parts, circuit.Part{ID: s, Kind: "button", Terminals: []string{"1", "2"},
			Contacts: []circuit.Contact{{Name: "c", A: "1", B: "2", Closed: rng.IntN(3) == 0}}})
		if i == 0 || rng.IntN(4) == 0 {
			wire("T1:P", s+":1")
		} else {
			wire(fmt.Sprintf("S%d:1", i), s+":1") // looped from the one before
		}
		wire(s+":2", "X2:"+n)
		wire("X2:"+n, "X1:"+n)
		wire("X1:"+n, "T1:"+n)
	}
	c.Parts = append(c.Parts, strip, field, drive)
	return c
}

// Every single mis-landing that changes any point-to-point reading is found from the readings; those that change none are
// named by Hidden.
func TestEveryMisLandingIsFoundOrNamed(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 5))
	found, named := 0, 0
	for _, c := range []circuit.Circuit{station(), panel(6, rng), panel(9, rng)} {
		n := compiled(t, c)
		hidden, err := n.Hidden(c.WireByWire())
		if err != nil {
			t.Fatal(err)
		}
		names := map[circuit.Mistake]bool{}
		for _, m := range hidden {
			names[m] = true
		}
		for _, m := range n.Mistakes() {
			if m.Kind != "moved" && m.Kind != "exchanged" {
				continue
			}
			got, err := n.Find(read(c, n.With(m.Mistake)))
			if err != nil {
				t.Fatal(err)
			}
			if got.Agrees != names[m.Mistake] {
				t.Errorf("%+v: agrees %v, named %v", m.Mistake, got.Agrees, names[m.Mistake])
			}
			if got.Agrees {
				named++
				continue
			}
			found++
			has := false
			for _, s := range got.Mistakes {
				has = has || s.Mistake == m.Mistake
			}
			if !has || len(got.Repeat) > 0 {
				t.Errorf("%s is not among %d suspects; repeat %v", m.Text(n), len(got.Mistakes), got.Repeat)
			}
		}
	}
	if found < 500 || named < 5 {
		t.Errorf("only %d found, %d named", found, named)
	}
	t.Logf("%d found, %d named as not to be seen", found, named)
}

// Measuring what is proposed, again and again, leaves one suspect, or suspects that no reading parts.
func TestProposedMeasurementsConverge(t *testing.T) {
	c := panel(8, rand.New(rand.NewPCG(7, 7)))
	n := compiled(t, c)
	most := 0
	for i, m := range n.Mistakes() {
		if i%7 != 0 || m.Kind == "contact" {
			continue
		}
		built := n.With(m.Mistake)
		readings := read(c, built)
		steps := 0
		for {
			got, err := n.Find(readings)
			if err != nil {
				t.Fatal(err)
			}
			if got.Next == nil {
				break
			}
			if steps++; steps > 20 {
				t.Fatalf("%s: no end, %d suspects", m.Text(n), len(got.Mistakes))
			}
			r := circuit.Reading{A: got.Next.A, B: got.Next.B}
			state := circuit.State{}
			if got.Next.Held != "" {
				r.Held, state[got.Next.Held] = []string{got.Next.Held}, true
			}
			r.Joined = built.Solve(state).Joined(r.A, r.B)
			readings = append(readings, r)
		}
		most = max(most, steps)
	}
	t.Logf("at most %d measurements more", most)
}

func TestContradictingReadingsAreTold(t *testing.T) {
	c := station()
	n := compiled(t, c)
	list := append(c.WireByWire(), circuit.Reading{A: "G1:+", B: "S0:21", Joined: false}) // 1 and 4 joined say otherwise
	got, err := n.Find(list)
	if err != nil || len(got.Repeat) != 3 || got.Repeat[0].B != "S0:21" || len(got.Mistakes) != 0 {
		t.Errorf("%+v %v", got, err)
	}
	for _, bad := range [][]circuit.Reading{{{A: "X9:1", B: "X1:1"}}, {{A: "X1:1", B: "X1:1"}},
		{{A: "X1:1", B: "X1:2", Held: []string{"S9.x"}}}} {
		if _, err := n.Find(bad); err == nil {
			t.Errorf("%+v", bad)
		}
	}
	// A contact of the wrong kind shows when it is held.
	wrong := n.With(circuit.Mistake{Kind: "contact", At: "S1.start"})
	s := wrong.Solve(nil)
	got, err = n.Find([]circuit.Reading{{A: "S1:13", B: "S1:14", Joined: s.Joined("S1:13", "S1:14")}})
	if err != nil || len(got.Mistakes) == 0 {
		t.Fatalf("%+v %v", got, err)
	}
	texts := ""
	for _, m := range got.Mistakes {
		texts += m.Text + "\n"
	}
	if !strings.Contains(texts, "Contact S1.start is of the other kind") {
		t.Error(texts)
	}
}

func TestOhmsWithThePowerOff(t *testing.T) {
	n := compiled(t, station())
	for _, c := range []struct {
		a, b string
		want float64
	}{{"G1:+", "S0:21", 0}, {"G1:+", "T1:2", 0}, {"T1:1", "T1:0V", 4800 * 480 / 5280.}, {"T1:3", "T1:0V", 4800},
		{"X1:6", "T1:1", math.Inf(1)}, {"T1:2", "T1:3", 9600}} {
		if got := n.Ohms(c.a, c.b, nil); !near(got, c.want) && got != c.want {
			t.Errorf("%s to %s: %v Ω, want %v", c.a, c.b, got, c.want)
		}
	}
	if !math.IsNaN(n.Ohms("X9:1", "X1:1", nil)) {
		t.Error("a terminal that is not there")
	}
}

func BenchmarkSolve400Wires(b *testing.B) {
	n := compiled(b, panel(100, rand.New(rand.NewPCG(1, 1))))
	for b.Loop() {
		n.Solve(nil)
	}
}

func BenchmarkAfterOneChange400Wires(b *testing.B) {
	n := compiled(b, panel(100, rand.New(rand.NewPCG(1, 1))))
	pressed := circuit.State{"S5.c": true}
	for b.Loop() {
		n.Solve(pressed)
	}
}

func BenchmarkCompile400Wires(b *testing.B) {
	c := panel(100, rand.New(rand.NewPCG(1, 1)))
	for b.Loop() {
		compiled(b, c)
	}
}

func BenchmarkFind80Wires(b *testing.B) {
	c := panel(20, rand.New(rand.NewPCG(1, 1)))
	n := compiled(b, c)
	readings := read(c, n.With(circuit.Mistake{Kind: "moved", Wire: "12", End: "to", At: "T1:7"}))
	for b.Loop() {
		if _, err := n.Find(readings); err != nil {
			b.Fatal(err)
		}
	}
}
