// Package benches sets up the benches that tests work on.
package benches

import (
	"testing"
	"time"

	"tingate/bench"
	"tingate/core/dialect"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/core/translate"
	"tingate/formats/familyfile"
)

// Setup is a 7.5 kW motor with a fan on a drive of a family, its plate entered.
func Setup(t testing.TB, family string) bench.Setup {
	t.Helper()
	f := familyfile.Find(family)
	s := bench.Setup{Family: f, Values: map[string]int64{},
		Motor: machine.Plate{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82, Efficiency: .874, Poles: 4},
		Load:  motion.Load{Kind: "quadratic", Torque: 40, Speed: 152}, LoadJ: .25, Line: 400, LineHz: 50, Lines: 1024, Own: true, Seed: 7}
	for _, r := range f.Ratings {
		if r.Heavy >= 15 && r.LineHigh > 300 {
			s.Size = r
			break
		}
	}
	p := &dialect.Plan{Motor: dialect.Row{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82}, Poles: 4,
		DriveCurrent: s.Size.Heavy, Load: "quadratic", LoadTorque: .8,
		Numbers: map[string]float64{"rise": 300, "fall": 300, "lowest_speed": 0, "highest_speed": 1455, "current_limit": 1.5,
			"reference_low": 0, "reference_high": 1455},
		Choices: map[string]string{"command_source": "keypad", "speed_source": "keypad", "control": "volts-per-hertz", "direction": "both"}}
	for _, l := range f.Sheet(p) {
		if l.Missing == "" && l.Planned {
			s.Values[l.Setting.Code] = l.Steps
		}
	}
	return s
}

// Start sets a bench up, switches it on and waits until it is ready.
func Start(t testing.TB, s bench.Setup) *bench.Bench {
	t.Helper()
	b, err := bench.New(s)
	if err != nil {
		t.Fatal(err)
	}
	Do(t, b, bench.Act{Do: "line", On: true})
	b.Advance(2000)
	return b
}

// Do does an act that must be taken.
func Do(t testing.TB, b *bench.Bench, a bench.Act) {
	t.Helper()
	if err := b.Do(a); err != nil {
		t.Fatal(err)
	}
}

// Planned is the dryer's plan on its own bench, with its wishes.
func Planned(t testing.TB, change func(j *gate.Job)) (bench.Setup, motion.Wishes, gate.State) {
	t.Helper()
	d := sample.Dryer()
	d.Rating.Type, d.Motor.Cooling, d.Intent.LoadTorque = "TN4-016-F2K", "forced", sample.Q("intent.load_torque", "60")
	d.Intent.Control = "vector"
	d.Wiring.Command, d.Wiring.Reference, d.Wiring.Logic, d.Wiring.Safety = "two-wire", "voltage", "source", "jumper"
	j := gate.Job{ID: "x", Drive: d, Place: sample.Place(), Family: familyfile.Find("Tarn")}
	if change != nil {
		change(&j)
	}
	s := gate.Evaluate(j, time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC))
	f := gate.FiguresOf(j, s)
	if f.Missing != "" {
		t.Fatal(f.Missing)
	}
	return bench.Setup{Family: j.Family, Size: f.Size, Values: f.Settings, Motor: f.Motor, Load: f.Load, LoadJ: f.LoadJ, Line: f.Line,
		LineHz: f.Hz, Own: f.Own, Linked: f.Linked, Process: f.Process}, translate.WishesOf(j.Drive, s.Poles), s
}
