package dialect_test

import (
	"fmt"
	"strings"
	"testing"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
)

func finder() *dialect.Finder {
	var list []*dialect.Family
	for _, n := range familyfile.Names() {
		list = append(list, familyfile.Find(n))
	}
	return dialect.NewFinder(list)
}

// Whatever word people use for a thing, its setting is found in every family that has it, though none of them calls it so.
func TestOneThingByManyWords(t *testing.T) {
	for question, intent := range map[string]string{
		"how do I set the fall": "ramp.fall", "deceleration": "ramp.fall", "decel time": "ramp.fall", "ramp down": "ramp.fall",
		"acceleration": "ramp.rise", "max frequency": "frequency.cap", "minimum speed": "speed.lowest", "full load amps": "motor.current",
		"inching": "speed.jog", "electronic thermal": "overload.current", "trip class": "choice.overload_class",
		"auto restart":  "choice.automatic_restart",
		"coast to stop": "choice.stop_mode", "stall prevention": "limit.current", "run source": "choice.command_source",
		"wire break": "choice.reference_loss",
	} {
		hits := finder().Find(question, 40)
		for _, name := range familyfile.Names() {
			f := familyfile.Find(name)
			want := ""
			for i := range f.Settings {
				if f.Settings[i].Intent == intent {
					want = f.Settings[i].Code
					break
				}
			}
			at := -1
			for i, h := range hits {
				if h.Family == name && h.Code == want {
					at = i
				}
			}
			if want != "" && (at < 0 || at > 14) {
				t.Errorf("%s: %s %s is %d of %d: %v", question, name, want, at, len(hits), hits[:min(4, len(hits))])
			}
		}
	}
}

func TestByCodeByFaultByLampByAct(t *testing.T) {
	for _, c := range []struct{ question, kind, has string }{
		{"6046h:02", "setting", "Velocity maximum amount"}, {"code 6046h:02", "setting", "Velocity maximum amount"}, {"4D", "setting",
			"4D"},
		{"earth fault", "fault", "earth"}, {"copy settings", "recipe", "Copy"}, {"factory reset", "recipe", "delivery state"},
		{"STO", "term", "torque off"}, {"reset a fault", "recipe", "Reset a fault"}, {"encoder tune", "", ""}, {"local remote", "recipe",
			"local and remote"},
	} {
		hits := finder().Find(c.question, 60)
		ok := c.kind == ""
		for _, h := range hits[:min(len(hits), 8)] {
			ok = ok || h.Kind == c.kind && strings.Contains(h.String(), c.has)
		}
		if !ok {
			t.Errorf("%s: no %s with %q among the first of %v", c.question, c.kind, c.has, hits[:min(len(hits), 8)])
		}
	}
	for _, f := range familyfile.Names() { // each fault by its code, each lamp by its sign
		for _, x := range familyfile.Find(f).Faults {
			found := false
			for _, h := range finder().Find("code "+x.Code, 60) {
				found = found || h.Kind == "fault" && h.Family == f && h.Code == x.Code
			}
			if !found {
				t.Errorf("%s: fault %s is not found", f, x.Code)
			}
		}
	}
	for _, q := range []string{"", " ", "?", "zzzz qqqq"} {
		if hits := finder().Find(q, 10); len(hits) != 0 {
			t.Errorf("%q finds %v", q, hits)
		}
	}
	if n := len(finder().Find("motor", 5)); n != 5 {
		t.Errorf("%d hits, want the 5 asked for", n)
	}
}

// A word stands once among the preferred ones, and no other term's other word is a preferred one of something else.
func TestTheGlossaryContradictsNothing(t *testing.T) {
	of := map[string]string{}
	for _, x := range dialect.Glossary {
		for _, w := range append([]string{x.Word}, x.Others...) {
			w = strings.ToLower(w)
			if other, twice := of[w]; twice && other != x.Word {
				t.Errorf("%q stands for %s and for %s", w, other, x.Word)
			}
			of[w] = x.Word
		}
		if x.About == "" || !strings.HasSuffix(x.About, ".") {
			t.Errorf("%s: %q", x.Word, x.About)
		}
	}
}

// Thirty families of 500 settings are searched in much less than 50 ms.
func BenchmarkFind(b *testing.B) {
	var list []*dialect.Family
	for i := range 30 {
		f := &dialect.Family{Name: fmt.Sprintf("F%d", i), Version: "1"}
		for len(f.Settings) < 500 {
			f.Settings = append(f.Settings, familyfile.Find("Tarn").Settings...)
		}
		f.Settings = f.Settings[:500]
		list = append(list, f)
	}
	fd := dialect.NewFinder(list)
	for _, q := range []string{"how do I set the fall", "4D", "zzzz"} {
		b.Run(q, func(b *testing.B) {
			for b.Loop() {
				fd.Find(q, 60)
			}
		})
	}
}
