package prove_test

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"tingate/bench"
	"tingate/bench/prove"
	"tingate/core/drive"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/motion"
	"tingate/formats/familyfile"
	"tingate/testtools/benches"
	"tingate/testtools/check"
	"tingate/testtools/raced"
)

// regulated is a fan's plan whose speed the drive's own controller gives.
func regulated(t *testing.T, family string, fields map[string]string) (bench.Setup, motion.Wishes, gate.State) {
	return benches.Planned(t, func(j *gate.Job) {
		j.Family, j.Drive.Rating.Dialect, j.Drive.Rating.DialectVersion = familyfile.Find(family), family, ""
		if family != "Tarn" {
			j.Drive.Rating.Type = ""
		}
		in := &j.Drive.Intent
		in.Load, in.Loop, in.LowestSpeed = "quadratic", "on", sample.Q("intent.lowest_speed", "0")
		set := map[string]string{"loop_setpoint": "50 %", "loop_gain": "0.8", "loop_time": "4 s", "loop_lag": "1 s", "loop_at_top": "90 %",
			"sleep": "300"}
		for k, v := range fields {
			set[k] = v
		}
		in.LoopSetpoint, in.LoopGain, in.LoopTime = sample.Q("intent.loop_setpoint", set["loop_setpoint"]),
			sample.Q("intent.loop_gain", set["loop_gain"]), sample.Q("intent.loop_time", set["loop_time"])
		in.LoopLag, in.LoopAtTop, in.Sleep = sample.Q("intent.loop_lag", set["loop_lag"]),
			sample.Q("intent.loop_at_top", set["loop_at_top"]), sample.Q("intent.sleep", set["sleep"])
	})
}

// The drive's own controller, by each family's settings: it comes to its setpoint at the speed that the process has it at, sleeps and
// wakes. Too much gain swings, a setpoint out of reach is said; a wire of the measured value that opens takes it to the highest speed.
func TestTheDrivesOwnController(t *testing.T) {
	raced.Skip(t)
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		s, w, _ := regulated(t, family, nil)
		p, err := prove.Plan(context.Background(), s, w, nil)
		if err != nil || p.Trip != nil {
			t.Fatalf("%s: %v %+v", family, err, p.Trip)
		}
		x := step(p, "loop")
		if x.Verdict != "holds" || !strings.HasPrefix(x.Got, "50.") && !strings.HasPrefix(x.Got, "49.") {
			t.Errorf("%s: %s, wanted %s, got %s %s", family, x.Verdict, x.Wanted, x.Got, x.Detail)
		}
		// value = 0.9 (n/n_top)²: half of the range at √(0.5/0.9) of the speed.
		last := x.Trace[len(x.Trace)-1]
		check.Against(t, family+": speed at which a pressure of 50 % stands, 90 % at the top, over the top",
			"affinity law, H ~ n², by hand", last.Speed/w.Highest, math.Sqrt(.5/.9), .02)
		if x := step(p, "loop-sleep"); x.Verdict != "holds" || !strings.Contains(x.Got, "awake in") {
			t.Errorf("%s sleeps: %s, got %s %s", family, x.Verdict, x.Got, x.Detail)
		}
		wi, err := prove.Reactions(context.Background(), s)
		if err != nil || wi.Needs != "" {
			t.Fatalf("%s: %v %s", family, err, wi.Needs)
		}
		i := slices.IndexFunc(wi.Rows, func(r prove.WhatIf) bool { return r.Key == "feedback" })
		if i < 0 || wi.Rows[i].Kind != "other-speed" || !strings.Contains(wi.Rows[i].Does, "runs on at 4") {
			t.Errorf("%s, wire of the measured value open: %+v", family, wi.Rows[max(i, 0)])
		}
		i = slices.IndexFunc(wi.Gives, func(g prove.Giver) bool { return g.What == "Speed" })
		if g := wi.Gives[i].Auto; !strings.Contains(g, "its own controller, to 50 %") || !strings.Contains(g, "asleep below") ||
			!slices.Equal(wi.Gives[i].AutoBy, []prove.Place{"controller"}) || !slices.Equal(wi.Gives[i].HandBy, []prove.Place{"keypad"}) {
			t.Errorf("%s: %s", family, g)
		}
	}
	// The bench shows the measured value while somebody works it by hand.
	s, _, _ := regulated(t, "Tarn", nil)
	b, err := bench.New(s)
	if err != nil {
		t.Fatal(err)
	}
	for _, a := range []bench.Act{{Do: "line", On: true}, {Do: "terminal", N: 1, On: true}} {
		if err := b.Do(a); err != nil {
			t.Fatal(err)
		}
		b.Advance(2000)
	}
	b.Advance(60_000)
	if v := b.Show(1e9).Measured; v == nil || math.Abs(*v-50) > 2 {
		t.Errorf("the bench shows %v", v)
	}
	for want, fields := range map[string]map[string]string{
		"less gain":            {"loop_gain": "12", "loop_time": "0.4 s", "loop_lag": "3 s"},
		"it stays there":       {"loop_at_top": "30 %"},
		"It is slow":           {"loop_gain": "0.02", "loop_time": "60 s"},
		"At the lowest speed ": {"loop_setpoint": "3 %", "sleep": "0"},
	} {
		s, w, _ := regulated(t, "Tarn", fields)
		if strings.HasPrefix(want, "At the lowest") {
			s, w, _ = benches.Planned(t, func(j *gate.Job) {
				in := &j.Drive.Intent
				in.Load, in.Loop, in.LowestSpeed = "quadratic", "on", sample.Q("intent.lowest_speed", "600")
				in.LoopSetpoint, in.LoopGain, in.LoopTime = sample.Q("intent.loop_setpoint", "3 %"), sample.Q("intent.loop_gain", "0.8"),
					sample.Q("intent.loop_time", "4 s")
			})
		}
		p, err := prove.Plan(context.Background(), s, w, nil)
		if x := step(p, "loop"); err != nil || x.Verdict != "look-again" || !strings.Contains(x.Detail, want) {
			t.Errorf("want %q: %v %s, got %s, %s", want, err, x.Verdict, x.Got, x.Detail)
		}
	}
	if _, _, state := regulated(t, "Tarn", map[string]string{"loop_at_top": "30 %"}); !slices.ContainsFunc(state.Findings,
		func(f gate.Answered) bool { return f.Code == "setpoint-out-of-reach" }) {
		t.Error("a setpoint that no speed reaches is not said")
	}
}

// A process that grows with the speed has the same value at the same speed, whatever regulates it.
func TestTheProcess(t *testing.T) {
	check.Against(t, "pressure at half the speed, 20 % static, 100 % at the top", "system curve H = H0 + k n², by hand",
		drive.Process{Top: 1, Static: .2, Squared: true, Speed: 150}.At(75), .4, 1e-9)
	check.Against(t, "flow at half the speed, 80 % at the top", "affinity law, Q ~ n, by hand", drive.Process{Top: .8, Speed: 150}.At(-75),
		.4, 1e-9)
	if (drive.Process{Top: 1}).At(100) != 0 {
		t.Error("a process where there is none")
	}
}
