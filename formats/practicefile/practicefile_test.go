package practicefile

import (
	"strings"
	"testing"

	"tingate/core/practice"
)

// Two practices ship and differ in the order, the reset habit, the limit for proving dead, disconnect, screens and restart.
func TestTwoPracticesShipAndDiffer(t *testing.T) {
	all := Shipped().All()
	if len(all) < 2 || all[0].Name != Default {
		t.Fatalf("%d practices", len(all))
	}
	a, b := all[0], all[1]
	for _, key := range []string{"dead_limit", "disconnect", "delivery_state", "first_turn", "screens", "restart", "torque_off_is"} {
		if a.Choices[key] == b.Choices[key] {
			t.Errorf("%s: both choose %s", key, a.Choices[key])
		}
	}
	if strings.Join(a.Order, " ") == strings.Join(b.Order, " ") {
		t.Error("one order")
	}
	for _, q := range practice.Questions {
		if len(q.Options) < 2 || practice.Text(q.Key, q.Options[0].Value) != q.Options[0].Text {
			t.Errorf("%s", q.Key)
		}
	}
}

func TestPracticeFaultsAreNamed(t *testing.T) {
	raw, _ := shipped.ReadFile("practices/stop-first.yaml")
	for _, c := range []struct{ from, to, want string }{
		{`dead_limit: "42"`, `dead_limit: "120"`, "one of 42, 50, 60"}, {"tune: best", "tuning: best", "choices.tune"},
		{"stop, turn, tune", "turn, stop, tune", "stop before turn"},
		{"[match, dead", "[dead, match", "match before dead"}, {"run, keep]", "run]", "each of match"},
		{"title: Stop first", "titel: Stop first", "titel"}, {"name: stop-first", "name: \"\"", "a name"},
	} {
		bad := strings.Replace(string(raw), c.from, c.to, 1)
		if bad == string(raw) {
			t.Fatalf("%q does not stand in the file", c.from)
		}
		if _, err := Read([]byte(bad)); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s → %s: want %q, got %v", c.from, c.to, c.want, err)
		}
	}
	s := Shipped()
	if _, err := s.Add(raw); err == nil {
		t.Error("a name twice")
	}
	if p, err := s.Add([]byte(strings.Replace(string(raw), "name: stop-first", "name: works-a", 1))); err != nil || s.Find("works-a") != p {
		t.Error(err)
	}
}

func FuzzRead(f *testing.F) {
	for _, p := range []string{"stop-first", "turn-first"} {
		raw, err := shipped.ReadFile("practices/" + p + ".yaml")
		if err != nil {
			f.Fatal(err)
		}
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		if p, err := Read(raw); err == nil && p.Name == "" {
			t.Fatal("a practice without a name")
		}
	})
}
