package gate_test

import (
	"slices"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/formats/familyfile"
)

// seen adds what somebody saw to a job.
func seen(j *gate.Job, key, value string) {
	c := checkOf(gate.Evaluate(*j, now), key)
	j.Entries = sample.Entry(j.Entries, drivefile.EntryEvidence, drivefile.Evidence{Key: key, Value: value, Basis: c.Basis})
}

func checkOf(s gate.State, key string) gate.Check {
	for _, g := range s.Gates {
		for _, c := range g.Checks {
			if c.Key == key {
				return c
			}
		}
	}
	return gate.Check{}
}

func titles(s gate.State, gateKey, begins string) (l []string) {
	for _, g := range s.Gates {
		for _, c := range g.Checks {
			if g.Key == gateKey && strings.HasPrefix(c.Key, begins) {
				l = append(l, c.Title)
			}
		}
	}
	return l
}

// Covers are asked for in the order in which a hand meets them: off before the power terminals, back before control wiring, the last before
// the supply; back in the other order. A file that says nothing of a body asks for nothing of it.
func TestABodyIsOpenedAndClosedInItsOrder(t *testing.T) {
	j := job(sample.Dryer(), nil)
	j.Drive.Rating.Type = "TN4-021-F3K"
	s := gate.Evaluate(j, now)
	for _, c := range []struct{ gate, begins, want string }{
		{"power", "power/body/off-", "Off before the power terminals: the lower cover|Off before the power terminals: " +
			"the barrier over L1 to W"},
		{"power", "power/body/back-", "Back before control wiring: the barrier over L1 to W"},
		{"wake", "wake/before/cover-", "Back: the lower cover"},
		{"power", "power/body/holes", "Drilled by its pattern: 4 × M6, 160 by 314 mm"},
		{"power", "power/body/lift", "Lifted as 9.8 kg want it: by two, by its back plate; never by the covers"},
	} {
		if got := strings.Join(titles(s, c.gate, c.begins), "|"); got != c.want {
			t.Errorf("%s: %q, want %q", c.begins, got, c.want)
		}
	}
	if s.Body == nil || s.Body.Frame != "F3" {
		t.Errorf("%+v", s.Body)
	}
	var order []string
	for _, g := range s.Gates {
		for _, c := range g.Checks {
			if g.Key == "power" {
				order = append(order, c.Key)
			}
		}
	}
	at := func(key string) int { return strings.Index(strings.Join(order, " "), key) }
	if !(at("power/body/holes") < at("power/mounting/fixed") && at("power/body/off-") < at("power/earth/first") &&
		at("power/supply/last") < at("power/body/back-")) {
		t.Errorf("order: %v", order)
	}
	one := job(sample.Dryer(), nil)
	one.Drive.Rating.Dialect, one.Family = "Brae", familyfile.Find("Brae")
	one.Drive.Rating.Type, one.Drive.Site.InputPhases = "BR 4 A 230 W", "1"
	for _, r := range one.Family.Ratings {
		if r.Frame == "A" {
			one.Drive.Rating.Type = r.Type
			break
		}
	}
	if c := checkOf(gate.Evaluate(one, now), "power/supply/terminals"); !strings.Contains(c.Title, "L1 and L3") ||
		!strings.Contains(c.Title, "L2 stays empty") {
		t.Errorf("one phase: %q", c.Title)
	}
	for _, old := range []string{"8", "5"} {
		j.Family = familyfile.Shipped().Version("Tarn", old)
		s := gate.Evaluate(j, now)
		if l := append(titles(s, "power", "power/body/"), titles(s, "match", "match/slot/")...); len(l) > 0 || s.Body != nil {
			t.Errorf("Tarn %s: %v", old, l)
		}
	}
	j.Family, j.Drive.Rating.Type = familyfile.Find("Tarn"), "TN9-999"
	if l := titles(gate.Evaluate(j, now), "power", "power/body/"); len(l) > 0 {
		t.Errorf("a size that is not known: %v", l)
	}
}

// What is in a slot is seen by a person: a module twice, an input lost to one, an encoder's module that is not there, and what proves
// that the
// drive knows it.
func TestModulesAsTheyWereSeen(t *testing.T) {
	j := job(sample.Dryer(), nil)
	j.Drive.Rating.Type, j.Drive.Site.Encoder = "TN4-016-F2K", "wanted"
	has := func(code string) bool {
		for _, f := range gate.Evaluate(j, now).Findings {
			if strings.HasPrefix(f.Code, code) {
				return true
			}
		}
		return false
	}
	if has("encoder-module-missing") {
		t.Error("missed before anybody has looked")
	}
	seen(&j, "match/slot/left", "empty")
	if !has("encoder-module-missing") {
		t.Error("an encoder without its module is not missed")
	}
	seen(&j, "match/slot/left", "EN")
	if has("encoder-module-missing") {
		t.Error("missed though it is there")
	}
	if c := checkOf(gate.Evaluate(j, now), "wake/module/left"); !strings.Contains(c.Title, "9R can be set above 0") {
		t.Errorf("what proves it: %+v", c)
	}
	w := &j.Drive.Wiring
	w.Command, w.Reference, w.Safety, w.Logic, w.Jog, w.Interlock = "two-wire", "presets", "jumper", "source", true, true
	plan, _ := gate.WiringOf(j)
	used := false
	for _, r := range plan.Rows {
		used = used || strings.HasSuffix(r.From, "T1:8") || strings.HasSuffix(r.To, "T1:8")
	}
	if has("terminal-taken/8") != used {
		t.Errorf("terminal 8 is used: %v, and found taken: %v", used, has("terminal-taken/8"))
	}
	if !used {
		t.Error("no wire on terminal 8: nothing is tried")
	}
	other := j // what was seen in one drive is not in another that took its place
	other.Drive.Rating.Serial = "ANOTHER"
	if c := checkOf(gate.Evaluate(other, now), "wake/module/left"); c.Key != "" {
		t.Errorf("a module of the drive before: %+v", c)
	}
	for _, f := range gate.Evaluate(other, now).Findings {
		if strings.HasPrefix(f.Code, "terminal-taken/") {
			t.Error("a terminal lost to a module of the drive before")
		}
	}
	seen(&j, "match/slot/left", "other")
	if c := checkOf(gate.Evaluate(j, now), "match/slot/left"); c.Verdict != gate.Again {
		t.Errorf("something else: %+v", c)
	}
	v := job(sample.Dryer(), nil)
	v.Drive.Rating.Dialect, v.Family = "Voe", familyfile.Find("Voe")
	seen(&v, "match/slot/a", "V-ENC")
	seen(&v, "match/slot/b", "V-ENC")
	if c := checkOf(gate.Evaluate(v, now), "match/slot/b"); c.Verdict != gate.Again || !strings.Contains(c.Detail, "slot A too") {
		t.Errorf("one module in two slots: %+v", c)
	}
}

// What is meant to be in the slots is held against the family, its slots, and what was seen.
func TestModulesAsTheyAreMeant(t *testing.T) {
	j := job(sample.Dryer(), nil)
	j.Drive.Rating.Dialect, j.Family = "Brae", familyfile.Find("Brae")
	codes := func() (l []string) {
		for _, f := range gate.Evaluate(j, now).Findings {
			if strings.HasPrefix(f.Code, "module-") || strings.HasPrefix(f.Code, "slot-") {
				l = append(l, f.Code)
			}
		}
		return l
	}
	want := func(when string, codes, want []string) {
		t.Helper()
		if !slices.Equal(codes, want) {
			t.Errorf("%s: %v, want %v", when, codes, want)
		}
	}
	want("nothing chosen", codes(), nil)
	j.Drive.Wiring.Modules = "X2, x9"
	want("one that it does not have", codes(), []string{"module-unknown"})
	j.Drive.Wiring.Modules = "X1, X2"
	want("both fit", codes(), nil)
	seen(&j, "match/slot/front", "X2")
	seen(&j, "match/slot/under", "empty")
	want("one is not there", codes(), []string{"module-missing/x1"})
	j.Drive.Wiring.Modules = ""
	want("one is there that the list does not count on", codes(), []string{"module-not-counted/x2"})
	j.Drive.Wiring.Modules = "X2"
	want("as it is", codes(), nil)
	j.Drive.Rating.Dialect, j.Family, j.Entries = "Tarn", familyfile.Find("Tarn"), nil
	j.Drive.Wiring.Modules, j.Drive.Site.Encoder = "FB", "wanted"
	want("one slot, and an encoder's module beside", codes(), []string{"slot-taken-twice"})
}
