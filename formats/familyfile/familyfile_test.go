package familyfile

import (
	"strings"
	"testing"
)

func TestShippedFamiliesLoad(t *testing.T) {
	if got := strings.Join(Names(), " "); got != "Brae Tarn" {
		t.Fatalf("families: %s", got)
	}
	for _, n := range Names() {
		f := Find(strings.ToLower(n))
		if len(f.Settings) < 30 {
			t.Errorf("%s has %d settings, about 30 wanted", n, len(f.Settings))
		}
	}
}

// Nothing that could start a motor may be a setting's register: the link refuses those registers for every address.
func TestFamilyFaultsAreNamed(t *testing.T) {
	raw := string(Raw("Tarn"))
	for _, c := range []struct{ from, to, want string }{
		{"register: 404,", "register: 405,", "4D has it"},
		{"register: 404,", "register: 9003,", "control word"},
		{"code: 4E", "code: 4D", "a code used once"},
		{"step: \"0.1\", min: \"20.0\"", "step: \"0\", min: \"20.0\"", "a decimal above 0"},
		{"max: \"90.00\"", "max: \"90.005\"", "on the grid"},
		{"intent: motor.power,", "intent: motor.colour,", "an intent"},
		{"convention: kilowatts", "convention: amperes", "a convention for a power"},
		{"short: MOT KW", "shorty: MOT KW", "shorty"},
		{"block: 16", "block: 0", "1 to 125"},
		{"acts: motion", "acts: sometimes", "motion, or nothing"},
	} {
		bad := strings.Replace(raw, c.from, c.to, 1)
		if bad == raw {
			t.Fatalf("%q does not stand in the file", c.from)
		}
		if _, err := Read([]byte(bad)); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s → %s: want %q, got %v", c.from, c.to, c.want, err)
		}
	}
	if _, err := Read([]byte("name: [")); err == nil {
		t.Error("broken YAML")
	}
}
