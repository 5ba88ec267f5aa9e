package troubleshoot_test

import (
	"fmt"
	"strings"
	"testing"

	"tingate/core/gate"
	"tingate/core/troubleshoot"
)

// Whatever is known of a drive, each question has a list: no key twice, each condition says how it is looked for and what to do when it is
// not so.
func TestEveryQuestionHasItsList(t *testing.T) {
	bare := gate.Job{}
	full := bare
	in, turn := &full.Drive.Intent, &full.Drive.Turn
	in.CommandSource, in.SpeedSource, in.Loop, in.PowerUp, in.Direction = "terminals", "current", "on", "on", "forward"
	turn.Brake, turn.Forward, turn.Phases, full.Drive.Site.Encoder = "drive", "the belt runs to the mill", "turned", "wanted"
	for _, about := range []string{"", "start", "stands", "unasked", "direction", "stop"} {
		few, ok := troubleshoot.Conditions(about, bare, gate.State{})
		many, ok2 := troubleshoot.Conditions(about, full, gate.State{})
		if !ok || !ok2 || len(few) < 3 {
			t.Fatalf("%q: %v %v, %d conditions", about, ok, ok2, len(few))
		}
		seen := map[string]bool{}
		for _, c := range many {
			if seen[c.Key] || c.Text == "" || c.How == "" || c.Do == "" || !strings.Contains("holds fails ask", c.State) {
				t.Errorf("%q: %+v", about, c)
			}
			seen[c.Key] = true
		}
	}
	l, _ := troubleshoot.Conditions("unasked", full, gate.State{})
	for _, c := range l {
		if c.Key == "power" && c.State != "fails" {
			t.Errorf("it is planned to start when power comes, and that is only asked: %+v", c)
		}
	}
	if _, ok := troubleshoot.Conditions("smoke", full, gate.State{}); ok {
		t.Error("there is a list for smoke")
	}
}

func ExampleConditions() {
	var j gate.Job
	j.Drive.Turn.Brake = "drive"
	l, _ := troubleshoot.Conditions("stands", j, gate.State{})
	for _, c := range l {
		if c.Key == "brake" {
			fmt.Println(c.Text+".", c.How)
		}
	}
	// Output: The brake opens. Heard, and 24 V or its own voltage at the coil.
}
