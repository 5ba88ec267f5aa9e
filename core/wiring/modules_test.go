package wiring_test

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/wiring"
	"tingate/formats/familyfile"
)

// fitted is a family with modules in it.
func fitted(t *testing.T, family, codes string) *dialect.Family {
	t.Helper()
	f := familyfile.Find(family)
	l, unknown := f.ModulesOf(codes)
	if unknown != nil {
		t.Fatal(unknown)
	}
	return f.Fitted(l)
}

// many is more than the drives have of their own: eight contacts, two lamps and a brake.
func many() wiring.Wants {
	return wiring.Wants{Command: "two-wire", Reverse: true, Jog: true, Reset: true, Interlock: true, Hand: true, Reference: "presets",
		RunLamp: true, FaultLamp: true, Brake: true, Safety: "contacts", Logic: "source", Supply: "drive", Code: "iec"}
}

// With a module's terminals there is room for what the drive alone has none for: each contact reaches its input, through the module's own
// common too, and each lamp burns only while its output is on.
func TestTheTerminalsOfAModule(t *testing.T) {
	for _, x := range []struct{ family, module, common, lamp string }{{"Brae", "X2", "EC", "K3"}, {"Voe", "V-IO", "X62.0", "Y3"}} {
		alone := wiring.Make(familyfile.Find(x.family), many())
		if !strings.Contains(stops(alone), "no-input-") || !strings.Contains(stops(alone), "no-output-") && x.family == "Brae" {
			t.Errorf("%s alone: %s", x.family, stops(alone))
		}
		for _, logic := range []string{"source", "sink"} {
			if logic == "sink" && x.family == "Voe" {
				continue
			}
			w := many()
			if w.Logic = logic; x.family == "Voe" {
				w.Supply = "outside" // 136 mA are more than it gives
			}
			p := wiring.Make(fitted(t, x.family, x.module), w)
			if got := stops(p); got != "" {
				t.Errorf("%s with %s, %s: %s", x.family, x.module, logic, got)
				continue
			}
			on := 0
			for _, a := range p.Assigns {
				if !reaches(t, x.family+" "+logic, p, a) {
					continue
				}
				if strings.HasPrefix(a.Terminal, x.common[:len(x.common)-1]) {
					on++
				}
			}
			if on == 0 {
				t.Errorf("%s: nothing is on the module: %+v", x.family, p.Assigns)
			}
			lamps := 0
			for _, a := range p.Assigns {
				load := map[string]string{"running": "P1.lamp", "fault": "P2.lamp", "brake-open": "K2.relay"}[a.Function]
				if load == "" || a.Terminal != x.lamp {
					continue
				}
				lamps++
				name := a.Terminal
				if i := slices.IndexFunc(
					fitted(t, x.family, x.module).Terminals,
					func(t dialect.Terminal) bool { return t.Name == name },
				); i >= 0 {
					name = fitted(t, x.family, x.module).Terminals[i].Ends()[0]
				}
				off, lit := p.Net.Solve(circuit.State{}).Load(load), p.Net.Solve(circuit.State{"T1." + name: true}).Load(load)
				if math.Abs(off) > .1 || math.Abs(lit) < 20 {
					t.Errorf("%s: %s on %s: %v V off, %v V on", x.family, load, a.Terminal, off, lit)
				}
			}
			if lamps != 1 {
				t.Errorf("%s: %d on %s of %+v", x.family, lamps, x.lamp, p.Assigns)
			}
			// The common is taken elsewhere: no input of the module sees anything, and it is said of each.
			row := p.Rows[slices.IndexFunc(p.Rows, func(r wiring.ListedWire) bool { return r.Function == "common" })]
			row.From, row.To = strings.Replace(row.From, "T1:"+x.common, "X9:1", 1), strings.Replace(row.To, "T1:"+x.common, "X9:1", 1)
			w.Own, w.Parts = []circuit.Wire{row.Wire}, []circuit.Part{{ID: "X9", Kind: "strip", Terminals: []string{"1"}}}
			if got := stops(wiring.Make(fitted(t, x.family, x.module), w)); strings.Count(got, "unseen-") != on ||
				!strings.Contains(got, "that of its common, "+x.common) {
				t.Errorf("%s %s: %d inputs without a common: %s", x.family, logic, on, got)
			}
		}
	}
}

// Numbers of wires stay as they are when a module comes in: what is landed keeps its number.
func TestAModuleLeavesTheNumbers(t *testing.T) {
	w := many()
	w.Jog, w.Hand, w.Reference = false, false, "none"
	numbers := func(f *dialect.Family) string {
		var l []string
		for _, r := range wiring.Make(f, w).Rows {
			l = append(l, fmt.Sprint(r.ID, r.From, r.To))
		}
		return strings.Join(l, " ")
	}
	if a, b := numbers(familyfile.Find("Voe")), numbers(fitted(t, "Voe", "V-IO")); a != b {
		t.Errorf("%s\n%s", a, b)
	}
}

// An encoder goes to its module's terminals by their names; a module of whose file they are missing gets names of its own.
func TestAnEncodersTerminals(t *testing.T) {
	w := full()
	w.Encoder = &wiring.Encoder{Signals: "ttl", Volts: 5, Amps: .1}
	to := func(f *dialect.Family) (l []string) {
		for _, r := range wiring.Make(f, w).Rows {
			for _, end := range []string{r.From, r.To} {
				if name, ok := strings.CutPrefix(end, "T1:"); ok && r.Function == "encoder" {
					l = append(l, name)
				}
			}
		}
		return l
	}
	if got := fmt.Sprint(to(familyfile.Find("Voe"))); got != "[X61.P X61.0 X61.A X61.A- X61.B X61.B-]" {
		t.Error(got)
	}
	f := *familyfile.Find("Voe")
	f.Modules = slices.Clone(f.Modules)
	f.Modules[0].Terminals = nil
	if got := fmt.Sprint(to(&f)); got != "[V-ENC + V-ENC 0 V-ENC A V-ENC A- V-ENC B V-ENC B-]" {
		t.Error(got)
	}
}

// A fault lamp burns at a fault, and when the drive is dead: on a relay that is delivered turned over its breaking contact is used. What
// runs and what opens a brake stands as its name says, whatever was delivered.
func TestOutputsThatAreTurnedOver(t *testing.T) {
	for family, want := range map[string]struct {
		fault, common, breaks string
		assigns               string
	}{
		"Tarn": {"21", "21", "22", "3B 1, 3E 0"}, "Brae": {"R1", "R1C", "R1B", "output.over 1"},
		"Voe": {"Y1", "Y1.1", "Y1.2", "2006h:14 1"},
	} {
		w := full()
		w.Reference, w.Jog = "none", false
		make := func(f *dialect.Family) wiring.Plan { return wiring.Make(f, w) }
		p := make(familyfile.Find(family))
		if got := stops(p); got != "" {
			t.Errorf("%s: %s", family, got)
		}
		var l []string
		for _, a := range p.Assigns {
			if a.Function == "turned-over" {
				l = append(l, fmt.Sprint(a.Setting, " ", a.Steps))
			}
		}
		slices.Sort(l)
		if got := strings.Join(l, ", "); got != want.assigns {
			t.Errorf("%s: planned %s, want %s", family, got, want.assigns)
		}
		joined := false
		for _, r := range p.Rows {
			joined = joined || r.From == "T1:"+want.breaks || r.To == "T1:"+want.breaks
		}
		if !joined {
			t.Errorf("%s: nothing on %s", family, want.breaks)
		}
		dead := p.Net.Solve(circuit.State{}).Load("P2.lamp") // the relay has let go: a fault, or no power at the drive
		well := p.Net.Solve(circuit.State{"T1." + want.common: true}).Load("P2.lamp")
		if math.Abs(dead) < 20 || math.Abs(well) > .1 {
			t.Errorf("%s: fault lamp %v V at a fault, %v V without", family, dead, well)
		}
		// One with two ends only cannot do that: it is set to stand as its name says.
		f := *familyfile.Find(family)
		f.Terminals = slices.Clone(f.Terminals)
		i := slices.IndexFunc(f.Terminals, func(x dialect.Terminal) bool { return x.Name == want.fault })
		ends := f.Terminals[i].Legs
		f.Terminals[i].Legs = dialect.Words{ends[0], ends[2]}
		for _, a := range make(&f).Assigns {
			if a.Function == "turned-over" && strings.HasPrefix(a.Terminal, want.fault) && a.Steps&1 != 0 {
				t.Errorf("%s: %+v", family, a)
			}
		}
	}
}
