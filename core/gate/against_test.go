package gate_test

import (
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/finding"
	"tingate/core/gate"
)

// What is wanted against what is wanted, wired or forbidden: each once, and not a hair beside it.
func TestWhatIsWantedAgainstSomethingElse(t *testing.T) {
	q := sample.Q
	for _, c := range []struct {
		code   string
		change func(d *drivefile.Drive)
		near   func(d *drivefile.Drive) // the same, just in bounds
	}{
		{"outside-limits-preset_2", func(d *drivefile.Drive) { d.Intent.Preset2 = q("intent.preset_2", "1500") },
			func(d *drivefile.Drive) { d.Intent.Preset2 = q("intent.preset_2", "1455") }},
		{"outside-limits-preset_1", func(d *drivefile.Drive) { d.Intent.Preset1 = q("intent.preset_1", "300") },
			func(d *drivefile.Drive) { d.Intent.Preset1 = q("intent.preset_1", "360") }},
		{"outside-limits-hand_speed", func(d *drivefile.Drive) { d.Intent.HandSpeed = q("intent.hand_speed", "2000") },
			func(d *drivefile.Drive) { d.Intent.HandSpeed = q("intent.hand_speed", "700") }},
		{"outside-limits-jog", func(d *drivefile.Drive) { d.Intent.Jog = q("intent.jog", "1600") },
			func(d *drivefile.Drive) { d.Intent.Jog = q("intent.jog", "60") }},
		{"reverse-wired-forward-only", func(d *drivefile.Drive) { d.Wiring.Reverse, d.Intent.Direction = true, "forward" },
			func(d *drivefile.Drive) { d.Wiring.Reverse, d.Intent.Direction = true, "both" }},
		{"must-not-turn-backward", func(d *drivefile.Drive) { d.Turn.Backstop, d.Intent.Direction = true, "both" },
			func(d *drivefile.Drive) { d.Turn.Backstop, d.Intent.Direction = true, "forward" }},
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

// Magnets give a voltage by their speed alone. 380 V at 1800 r/min gives √2·380·3000/1800 = 896 V at 3000 r/min, worked by hand: more than
// a link of 810 V bears; at 2000 r/min it is 597 V.
func TestMagnetsAtTheHighestSpeed(t *testing.T) {
	d, p := matched()
	d.Motor.Kind = "permanent-magnet"
	r := d.Motor.Rows[sample.Star]
	r.Voltage, r.Speed, r.Frequency = sample.Q("motor.rows.x.voltage", "380"), sample.Q("motor.rows.x.speed", "1800"),
		sample.Q("motor.rows.x.frequency", "90")
	d.Motor.Rows = map[string]drivefile.Row{sample.Star: r}
	d.Motor.Poles = sample.Q("motor.poles", "6")
	for high, want := range map[string]bool{"3000": true, "2000": false} {
		d.Intent.HighestSpeed = sample.Q("intent.highest_speed", high)
		j := job(d, nil)
		j.Place = p
		f, ok := findingOf(gate.Evaluate(j, now), "magnets-too-fast")
		if ok != want || want && (f.Severity != finding.Stop || !strings.Contains(f.Detail, "about 896 V")) {
			t.Errorf("%s r/min: %v %s", high, ok, f.Detail)
		}
	}
}
