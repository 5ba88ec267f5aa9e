package speeds_test

import (
	"math"
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/speeds"
	"tingate/formats/familyfile"
	against "tingate/testtools/check"
)

var now = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)

func job() gate.Job {
	d := sample.Dryer()
	return gate.Job{ID: "x", Drive: d, Place: sample.Place(), Family: familyfile.Find(d.Rating.Dialect)}
}

// Every counting of a speed, and what bounds it, for a 7.5 kW motor of 1455 r/min at 50 Hz on a belt of 2.4 m/s.
func TestWhatBoundsASpeed(t *testing.T) {
	j := job()
	in := &j.Drive.Intent
	set := func(path, text string) { // as it is typed
		q := sample.Q("intent."+path, text)
		switch path {
		case "machine_at":
			in.MachineAt = q
		case "gear_most":
			in.GearMost = q
		case "rotor_most":
			in.RotorMost = q
		case "skip_1_from":
			in.Skip1From = q
		case "skip_1_to":
			in.Skip1To = q
		case "highest_speed":
			in.HighestSpeed = q
		case "load_torque":
			in.LoadTorque = q
		}
	}
	in.MachineUnit = "m/s"
	for _, x := range [][2]string{{"machine_at", "2.4"}, {"gear_most", "1600"}, {"rotor_most", "3600"}, {"skip_1_from", "600"},
		{"skip_1_to", "660"}, {"load_torque", "85"}} {
		set(x[0], x[1])
	}
	at := func(key string) speeds.Bound {
		for _, b := range speeds.BoundsOf(j.Drive, j.Family, gate.PlanOf(j)).Bounds {
			if b.Key == key {
				return b
			}
		}
		t.Fatalf("nothing of %s", key)
		return speeds.Bound{}
	}
	b := at("highest")
	against.Against(t, "1455 r/min of four poles, Hz synchronous", "120 f/p, by hand", b.At.Hz, 48.5, 1e-9)
	against.Against(t, "its belt, m/s", "proportional, by hand", *b.At.Machine, 2.4, 1e-9)
	if *b.At.Loaded < 49.7 || *b.At.Loaded > 50 || b.At.Percent != 100 { // 85 % of the torque: 85 % of the slip
		t.Errorf("%+v", b.At)
	}
	against.Against(t, "lowest speed for a constant 85 % with its own fan, r/min", "common practice: 85 % is borne from half speed on",
		at("cooling").At.RPM, 727.5, .03)
	if !at("gear").Holds || !at("rotor").Holds || at("cooling").Holds {
		t.Errorf("gear %v rotor %v cooling %v", at("gear").Holds, at("rotor").Holds, at("cooling").Holds)
	}
	set("highest_speed", "1700")
	if at("gear").Holds || at("base").Holds {
		t.Error("1700 r/min is above the gearbox's 1600 and the plate's 1455")
	}
	codes := ""
	for _, f := range gate.Evaluate(j, now).Findings {
		codes += f.Code + " "
	}
	if !strings.Contains(codes, "above-mechanical-limit") {
		t.Error(codes)
	}
	all := speeds.BoundsOf(j.Drive, j.Family, gate.PlanOf(j))
	if !strings.Contains(all.Standing, "A and turns") ||
		!strings.Contains(all.Standing, "% of its rated losses, while its own fan stands") {
		t.Error(all.Standing)
	}
	if len(all.Skips) != 1 || len(all.Curve) != 61 || all.Unit != "m/s" || all.Missing != "" {
		t.Errorf("%+v", all)
	}
	for _, c := range all.Curve {
		if c.RPM > 200 && c.RPM < 1400 && !(c.Most > .9) || math.IsNaN(c.Most) {
			t.Errorf("with 150 %% of the current, at %.0f r/min: %.2f times the rated torque", c.RPM, c.Most)
		}
	}
	ramps := map[string]speeds.RampCount{}
	for _, r := range speeds.BoundsOf(j.Drive, j.Family, gate.PlanOf(j)).Ramps {
		ramps[r.Counting] = r
	}
	// Typed as 8 s to 1455 r/min and kept as a slope of 181.875 r/min/s: 6.0625 Hz/s of four poles.
	against.Against(t, "a slope of 181.875 r/min/s of four poles, Hz/s", "120 f/p, by hand", *ramps["as a slope of frequency"].Rise,
		6.0625, 1e-9)
	against.Against(t, "counted for 100 Hz, s", "by hand", *ramps["for 100 Hz"].Rise, 100/6.0625, 1e-9)
	against.Against(t, "counted to the plate's 1455 r/min, s", "by hand", *ramps["from 0 to the plate's speed"].Rise, 8, 1e-9)
	if !ramps["from 0 to the drive's highest frequency"].Own || ramps["for 100 Hz"].Own {
		t.Errorf("%+v", ramps)
	}
	in.Load = "quadratic"
	fan := speeds.BoundsOf(j.Drive, j.Family, gate.PlanOf(j)).Fan
	if len(fan) != 2 || !strings.Contains(fan[0], "flow 24.74 %, pressure 6.122 %, power 1.515 %") { // 360 of 1455, by the affinity laws
		t.Errorf("%v", fan)
	}
}

// The reference from counts to the machine; points at which a limit holds the speed say nothing of the line.
func TestTheScaling(t *testing.T) {
	j := job()
	in, sig := &j.Drive.Intent, &j.Drive.Signal
	in.SpeedSource, in.MachineUnit, in.MachineAt = "current", "m/s", sample.Q("intent.machine_at", "2.4")
	sig.CountsLow, sig.CountsHigh, sig.Unit = sample.Q("signal.counts_low", "5530"), sample.Q("signal.counts_high", "27648"), "%"
	point := func(in, out, spread string) drivefile.MeasuredPoint {
		return drivefile.MeasuredPoint{In: sample.Q("signal.points.x.in", in), Out: sample.Q("signal.points.x.out", out),
			Spread: sample.Q("signal.points.x.spread", spread)}
	}
	sig.Points = map[string]drivefile.MeasuredPoint{"a": point("5", "360", "2"), "b": point("12", "728", "2"),
		"c": point("20", "1456", "40")}
	s := speeds.ScalingOf(j.Drive, j.Family, gate.PlanOf(j))
	mid := s.Points[2]
	against.Against(t, "12 of 4 to 20 mA, r/min of 0 to 1455", "linear, by hand", mid.RPM, 727.5, 1e-9)
	against.Against(t, "its counts of 5530 to 27,648", "linear, by hand", *mid.Counts, 16589, 1e-9)
	against.Against(t, "and m/s of 2.4 at 1455 r/min", "linear, by hand", *mid.Machine, 1.2, 1e-9)
	if !s.Points[0].Held || s.Points[0].RPM != 360 || mid.Held || len(s.Forms) != 2 || len(s.Line) != 101 ||
		!strings.Contains(s.Jitter, "noise") || !strings.Contains(s.Lost[0], "3.6 mA") {
		t.Errorf("%+v", s)
	}
	has := func() bool {
		for _, f := range gate.Evaluate(j, now).Findings {
			if f.Code == "reference-measured" {
				return true
			}
		}
		return false
	}
	if has() { // 5 mA asks 91 r/min, and the lowest speed of 360 holds it
		t.Error("a point that is held by the lowest speed is taken for the line")
	}
	sig.Points["b"] = point("12", "800", "")
	if !has() || speeds.ScalingOf(j.Drive, j.Family, gate.PlanOf(j)).Measured[1].Fits {
		t.Error("a point that is off is not found")
	}
	in.SpeedSource = "keypad"
	if s := speeds.ScalingOf(j.Drive, j.Family, gate.PlanOf(j)); s.Missing == "" {
		t.Errorf("%+v", s)
	}
}
