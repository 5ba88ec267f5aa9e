package dialect_test

import (
	"slices"
	"testing"

	"tingate/core/dialect"
)

// What manuals call a thing is taken for what it does, and its choices for what they stand for; where a name tells nothing, nothing is
// said.
func TestWhatASettingDoesIsReadFromItsName(t *testing.T) {
	for _, c := range []struct {
		name, kind string
		choices    []string
		does       string
		means      []string
	}{
		{"Drive name", "text", nil, "drive-name", nil},
		{"Station address", "number", nil, "network-address", nil},
		{"Baud rate", "choice", []string{"9600", "19.2 kbit/s", "1 Mbit/s"}, "network-speed", []string{"9600", "19200", "1000000"}},
		{"Parity", "choice", []string{"None", "Even", "Odd"}, "network-parity", []string{"none", "even", "odd"}},
		{"Communication loss", "choice", []string{"Ramp to stop", "Keep last speed", "Trip", "Continue"}, "network-lost",
			[]string{"stop", "hold", "fault", "goes-on"}},
		{"Comm timeout", "number", nil, "network-wait", nil},
		{"Motor cooling", "choice", []string{"Self cooled", "Separate fan"}, "motor-cooling", []string{"own-fan", "forced"}},
		{"Mechanical brake", "choice", []string{"Off", "On"}, "brake", []string{"", ""}},
		{"Brake release current", "number", nil, "brake-opens-at", nil},
		{"Brake release delay", "number", nil, "brake-delay", nil},
		{"Brake close speed", "number", nil, "brake-closes-below", nil},
		{"Brake closes below", "number", nil, "brake-closes-below", nil},
		{"Stop key in remote", "choice", []string{"Disabled", "Enabled"}, "stop-key", []string{"ignored", "obeyed"}},
		{"Interlock opens", "choice", []string{"Coast", "Ramp down"}, "interlock", []string{"coast", "ramp"}},
		{"Type of motor", "choice", []string{"Induction", "PM synchronous"}, "motor-kind", []string{"induction", "permanent-magnet"}},
		{"Catch a spinning load", "choice", []string{"No", "Yes"}, "flying-start", []string{"", ""}},
		{"Output phase loss", "choice", []string{"Off", "Fault"}, "output-phase", nil},
		{"Drive name", "number", nil, "", nil}, // no number is a name
		{"Display contrast", "number", nil, "", nil},
		{"Language", "choice", []string{"English"}, "", nil},
	} {
		does, means := dialect.ProposeDoing(c.name, c.kind, c.choices)
		if does != c.does || c.means != nil && !slices.Equal(means, c.means) {
			t.Errorf("%s: %q %q, want %q %q", c.name, does, means, c.does, c.means)
		}
	}
	for _, d := range dialect.Doings() {
		if d.Words == "" || len(d.Kinds) == 0 {
			t.Errorf("%+v", d)
		}
		drives, serves := dialect.ActsOrServes(d.Name)
		if (drives == "") == (serves == "") || d.Acts != (drives != "") {
			t.Errorf("%s: drives %q, serves %q", d.Name, drives, serves)
		}
	}
}
