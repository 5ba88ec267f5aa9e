package gate_test

import (
	"fmt"
	"strings"
	"testing"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
)

// What was set in whichever way is kept as its way does: on command of this drive, or never; a setting that is set again in a way that
// keeps is kept; what was refused, or set in another drive, takes no part.
func TestWhatIsKeptAndWhatIsNot(t *testing.T) {
	j := job(sample.Dryer(), nil)
	f := *j.Family
	f.Kept = dialect.Kept{Keypad: "command", Link: "lost", Setting: "8V", Value: "r/min"}
	j.Family = &f
	serial := j.Drive.Rating.Serial
	state := func() string {
		u := gate.Evaluate(j, now).Unkept
		if u == nil {
			return "nil"
		}
		return fmt.Sprintf("%v %v %s", u.Waiting, u.Lost, u.SetTo)
	}
	typed := func(code string, steps int64, serial string) {
		j.Entries = sample.Entry(j.Entries, drivefile.EntryEntered, drivefile.Entered{Code: code, Text: "x", Steps: steps, Serial: serial})
	}
	sent := func(code string, outcome drivefile.Outcome) {
		j.Entries = sample.Entry(j.Entries, drivefile.EntryWrite, drivefile.Write{Code: code, Asked: 1, Outcome: outcome, Serial: serial})
	}
	for i, step := range []struct {
		do   func()
		want string
	}{
		{func() {}, "nil"},
		{func() { typed("4A", 1, serial) }, "[4A] [] r/min"},
		{func() { typed("4B", 1, serial); typed("4A", 2, serial) }, "[4A 4B] [] r/min"},
		{func() { typed("8V", 0, serial) }, "[4A 4B] [] r/min"}, // its other value keeps nothing
		{func() { typed("8V", 1, "ANOTHER") }, "[4A 4B] [] r/min"},
		{func() { typed("8V", 1, serial) }, "[] [] r/min"},
		{func() { sent("4C", drivefile.Begun) }, "[] [] r/min"},
		{func() { sent("4C", drivefile.Refused) }, "[] [] r/min"},
		{func() { sent("4C", drivefile.Held) }, "[] [4C] r/min"},
		{func() { typed("8V", 1, serial) }, "[] [4C] r/min"}, // a command keeps nothing of what is lost
		{func() { sent("4D", drivefile.Unknown) }, "[] [4C 4D] r/min"},
		{func() { typed("4C", 1, serial) }, "[4C] [4D] r/min"},
		{func() { typed("8V", 1, serial) }, "[] [4D] r/min"},
		{func() { // kept, it was said, and that was taken back
			j.Entries = sample.Entry(j.Entries, drivefile.EntryWithdrawal, drivefile.Withdrawal{Entry: j.Entries[len(j.Entries)-1].ID})
		}, "[4C] [4D] r/min"},
	} {
		step.do()
		if got := state(); got != step.want {
			t.Errorf("%d: %s, want %s", i, got, step.want)
		}
	}
	c := check(gate.Evaluate(j, now), "keep/kept")
	if c.Verdict != gate.Again || !strings.Contains(c.Detail, "last kept: 4C. Set 8V") ||
		!strings.Contains(c.Detail, "lost at the next power-off: 4D.") {
		t.Errorf("%+v", c)
	}
	j.Drive.Rating.Serial = "ANOTHER" // the drive was exchanged: nothing was set in this one yet, but its own entry
	if got := state(); got != "[] [] r/min" {
		t.Error(got)
	}
}
