package app_test

import (
	"fmt"
	"strings"
	"testing"

	"tingate/app/benches"
	"tingate/bench"
	"tingate/testtools/raced"
)

// A module that is meant to be in the drive gives it terminals everywhere: in the list of wires, in the lines of the sheet, at the proof
// and on the bench. Taken away again, they are gone, and what is wanted has no room.
func TestAModuleGivesTerminals(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	for _, s := range [][2]string{{"rating.dialect", "Brae"}, {"wiring.command", "two-wire"},
		{"wiring.reverse", "true"}, {"wiring.jog", "true"},
		{"wiring.reset", "true"}, {"wiring.interlock", "true"}, {"wiring.hand", "true"}, {"wiring.reference", "presets"},
		{"wiring.safety", "contacts"}, {"wiring.logic", "source"}} {
		d.set(d.rh, id, s[0], s[1])
	}
	without := func() (n int) {
		for _, f := range d.wiring(id).Findings {
			if strings.HasPrefix(f.Code, "no-input-") {
				n++
			}
		}
		return n
	}
	if without() == 0 {
		t.Fatal("there is room for all: nothing is tried")
	}
	d.set(d.rh, id, "wiring.modules", "x2")
	if n := without(); n > 0 {
		t.Errorf("%d have no input", n)
	}
	on := map[string]string{} // terminal: what it does
	for _, a := range d.wiring(id).Assigns {
		if strings.HasPrefix(a.Terminal, "E") {
			on[a.Terminal] = a.Text
			if l := line(d.view(id), a.Setting); !l.Planned || l.SetTo != a.Text {
				t.Errorf("%s: %+v", a.Setting, l)
			}
		}
	}
	if len(on) < 2 {
		t.Fatalf("%v", on)
	}
	tt, err := d.TruthTable(ctx, id)
	d.ok(err)
	if got := fmt.Sprint(tt.Inputs); len(tt.Inputs)+tt.More < 7 {
		t.Errorf("%s and %d more", got, tt.More)
	}
	_, err = d.SetUpBench(ctx, id, benches.BenchSetup{})
	d.ok(err)
	shown := d.benchDo(id, func(s bench.Shown) bool { return len(s.Inputs) > 0 })
	seen := 0
	for _, p := range shown.Inputs {
		if on[p.Terminal] == p.Does && p.Does != "" {
			seen++
		}
	}
	if seen != len(on) {
		t.Errorf("on the bench: %+v, want %v", shown.Inputs, on)
	}
	d.set(d.rh, id, "wiring.modules", "")
	if without() == 0 || len(d.wiring(id).Assigns) == 0 {
		t.Error("the module is out, and its terminals are counted on")
	}
}
