package gate_test

import (
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/finding"
)

// What is wanted against what is wanted, wired or forbidden: each once, and not a hair beside it.
func TestWhatIsWantedAgainstSomethingElse(t *testing.T) {
	q := sample.Q
	for _, c := range []struct {
		code   string
		change func(d *drivefile.Drive)
		near   func(d *drivefile.Drive) // the same, just in bounds
	}{
		{"outside-limits-preset_2", func(d *drivefile.Drive) { d.Intent.Preset2 = q("intent.preset_2", "1500") }, func(d *drivefile.Drive) { d.Intent.Preset2 = q("intent.preset_2", "1455") }},
		{"outside-limits-preset_1", func(d *drivefile.Drive) { d.Intent.Preset1 = q("intent.preset_1", "300") }, func(d *drivefile.Drive) { d.Intent.Preset1 = q("intent.preset_1", "360") }},
		{"outside-limits-hand_speed", func(d *drivefile.Drive) { d.Intent.HandSpeed = q("intent.hand_speed", "2000") }, func(d *drivefile.Drive) { d.Intent.HandSpeed = q("intent.hand_speed", "700") }},
		{"outside-limits-jog", func(d *drivefile.Drive) { d.Intent.Jog = q("intent.jog", "1600") }, func(d *drivefile.Drive) { d.Intent.Jog = q("intent.jog", "60") }},
		{"reverse-wired-forward-only", func(d *drivefile.Drive) { d.Wiring.Reverse, d.Intent.Direction = true, "forward" }, func(d *drivefile.Drive) { d.Wiring.Reverse, d.Intent.Direction = true, "both" }},
		{"must-not-turn-backward", func(d *drivefile.Drive) { d.Turn.Backstop, d.Intent.Direction = true, "both" }, func(d *drivefile.Drive) { d.Turn.Backstop, d.Intent.Direction = true, "forward" }},
		{"fall-longer-than-allowed", func(d *drivefile.Drive) {
			d.Stop.As, d.Intent.Fall, d.Stop.Allowed = "ramped", q("intent.fall", "10 s"), q("stop.allowed", "9.9 s")
		}, func(d *drivefile.Drive) {
			d.Stop.As, d.Intent.Fall, d.Stop.Allowed = "ramped", q("intent.fall", "10 s"), q("stop.allowed", "10.1 s")
		}},
	} {
		for want, change := range map[bool]func(d *drivefile.Drive){true: c.change, false: c.near} {
			d := sample.Dryer()
			d.Intent.LowestSpeed, d.Intent.HighestSpeed = q("intent.lowest_speed", "360"), q("intent.highest_speed", "1455")
			change(&d)
			found := false
			for _, f := range eval(d, nil).Findings {
				if f.Code == c.code {
					found = true
					if !f.Severity.Open() || f.Severity == finding.Note || strings.ContainsAny(f.Title, "_/") {
						t.Errorf("%+v", f)
					}
				}
			}
			if found != want {
				t.Errorf("%s: raised %v, want %v", c.code, found, want)
			}
		}
	}
}
