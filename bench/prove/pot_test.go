package prove_test

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"tingate/bench"
	"tingate/bench/prove"
	"tingate/bench/ride"
	"tingate/core/dialect"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/motion"
	"tingate/formats/familyfile"
	"tingate/testtools/benches"
	"tingate/testtools/raced"
)

// buttons is the dryer's plan with its speed from faster and slower, kept for so long.
func buttons(t *testing.T, family, keeps string) (bench.Setup, motion.Wishes, gate.State) {
	return benches.Planned(t, func(j *gate.Job) {
		j.Family, j.Drive.Rating.Dialect, j.Drive.Rating.DialectVersion = familyfile.Find(family), family, ""
		if family == "Brae" {
			j.Drive.Rating.Type = "BR18C460N"
		}
		in := &j.Drive.Intent
		in.SpeedSource, in.PotKeeps, in.PotTime, j.Drive.Wiring.Reference = "motor-potentiometer", keeps,
			sample.Q("intent.pot_time", "15 s"), "buttons"
	})
}

// Faster held for 15 s goes from standstill to the highest speed in both families, whichever way they count that, up to what a step of the
// setting leaves; after a stop it begins where it is said to. A family without it says so.
func TestFasterAndSlower(t *testing.T) {
	raced.Skip(t)
	for _, c := range []struct{ family, keeps, again string }{{"Tarn", "stop", "begins at the lowest"},
		{"Tarn", "power", "goes back to where it was"}, {"Brae", "stop", "begins at the lowest"},
		{"Brae", "always", "goes back to where it was"}} {
		s, w, state := buttons(t, c.family, c.keeps)
		for _, f := range state.Findings {
			if strings.Contains(f.Code, "family-has-none") || strings.Contains(f.Code, "no-input") || f.Code == "speed-wired-otherwise" {
				t.Errorf("%s: %s %s", c.family, f.Code, f.Title)
			}
		}
		conf := bench.Configure(s.Family, s.Values, s.Size)
		if want := w.Highest / 15 / 30; math.Abs(conf.PotSlope/want-1) > .04 || conf.PotSlope > want*1.0001 ||
			conf.Speed != "motor-potentiometer" {
			t.Errorf("%s: %g Hz/s from %s, want %g and not more", c.family, conf.PotSlope, conf.Speed, want)
		}
		p, err := prove.Plan(context.Background(), s, w, nil)
		if err != nil || p.Trip != nil {
			t.Fatalf("%s: %v %+v", c.family, err, p.Trip)
		}
		for _, key := range []string{"pot-begin", "pot-faster", "pot-slower", "pot-again"} {
			if x := step(p, key); x.Verdict != "holds" {
				t.Errorf("%s, kept %s, %s: %s, wanted %s, got %s", c.family, c.keeps, key, x.Verdict, x.Wanted, x.Got)
			}
		}
		if x := step(p, "pot-again"); !strings.Contains(x.Title, c.again) {
			t.Errorf("%s, kept %s: %s", c.family, c.keeps, x.Title)
		}
		wi, err := prove.Reactions(context.Background(), s)
		if err != nil || wi.Needs != "" {
			t.Fatalf("%s: %v %s", c.family, err, wi.Needs)
		}
		at := func(part string) prove.WhatIf {
			i := slices.IndexFunc(wi.Rows, func(r prove.WhatIf) bool { return strings.Contains(r.What, part) })
			if i < 0 {
				t.Fatalf("%s: no row of %s", c.family, part)
			}
			return wi.Rows[i]
		}
		if r := at(", faster: closed"); r.Kind != "other-speed" {
			t.Errorf("%s: %s: %s", c.family, r.What, r.Does)
		}
		speed := slices.IndexFunc(wi.Gives, func(g prove.Giver) bool { return g.What == "Speed" })
		if g := wi.Gives[speed].Auto; !strings.Contains(g, "faster: terminal") || strings.Contains(g, "no input") ||
			!slices.Equal(wi.Gives[speed].AutoBy, []prove.Place{"terminals"}) {
			t.Errorf("%s: %s", c.family, g)
		}
	}
	// Until power goes: after it, it begins at the lowest.
	s, _, _ := buttons(t, "Tarn", "power")
	b, err := bench.New(s)
	if err != nil {
		t.Fatal(err)
	}
	do := func(a bench.Act, ticks int) {
		if err := b.Do(a); err != nil {
			t.Fatal(err)
		}
		b.Advance(ticks)
	}
	n := map[string]int{}
	for i, in := range b.Show(1e9).Inputs {
		n[in.Does] = i + 1
	}
	do(bench.Act{Do: "line", On: true}, 1500)
	for _, kept := range []bool{true, false} {
		do(bench.Act{Do: "terminal", N: n["run forward"], On: true}, 500)
		do(bench.Act{Do: "terminal", N: n["faster"], On: true}, 9000)
		do(bench.Act{Do: "terminal", N: n["faster"]}, 9000)
		fast := b.Show(1e9).Hz
		do(bench.Act{Do: "terminal", N: n["run forward"]}, 20000)
		if !kept {
			do(bench.Act{Do: "line"}, 3000)
			do(bench.Act{Do: "line", On: true}, 3000)
		}
		do(bench.Act{Do: "terminal", N: n["run forward"], On: true}, 12000)
		if again := b.Show(1e9).Hz; kept != (math.Abs(again-fast) < .3) || fast < 20 {
			t.Errorf("kept %v: %g Hz, then %g Hz", kept, fast, again)
		}
		do(bench.Act{Do: "terminal", N: n["run forward"]}, 20000)
	}
	_, _, state := buttons(t, "Voe", "stop")
	if !slices.ContainsFunc(state.Findings, func(f gate.Answered) bool {
		return strings.HasPrefix(f.Code, "family-has-none/faster and slower")
	}) {
		t.Error("Voe has none, and nothing says so")
	}
}

// A torque limit in vector control is a limit of torque: a shaft without load rises at limit over inertia, and falls by the limit of
// braking. Mechanics: J·dω/dt = T. On volts per hertz the settings do nothing.
func TestTorqueLimits(t *testing.T) {
	s := benches.Setup(t, "Brae")
	s.Load, s.LoadJ = motion.Load{}, .25
	f := s.Family
	p := &dialect.Plan{Motor: dialect.Row{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82}, Poles: 4,
		DriveCurrent: s.Size.Heavy, Load: "constant", LoadTorque: 0, Numbers: map[string]float64{"highest_speed": 1455}}
	out, lacks := f.Wish(p, dialect.Wished{Numbers: map[string]float64{"torque-limit": .6, "torque-limit-braking": .3}})
	if len(lacks) > 0 {
		t.Fatal(lacks)
	}
	for code, fn := range out {
		s.Values[code] = fn.Steps
	}
	rated := 7500 * 30 / (math.Pi * 1455)
	run := func(control string) ride.Ride {
		v, ok := choice(f, "choice.control", control)
		if !ok {
			t.Fatal(control)
		}
		s.Values["control.mode"] = v
		off := false
		r, err := ride.Of(s, ride.Want{Hz: 40, Rise: 200, Fall: 200, BusControl: &off, Resistor: 40})
		if err != nil || r.Rise == nil || r.Fall == nil || r.Trip != nil {
			t.Fatalf("%s: %v %+v", control, err, r.Trip)
		}
		return r
	}
	r := run("vector")
	j := s.LoadJ + bench.RotorInertia(s)
	between := func(from, to float64, falling bool) float64 { // rad/s²
		var t0, t1 float64
		for i, x := range r.Samples[1:] {
			last := r.Samples[i]
			if x.T > r.StopAt != falling {
				continue
			}
			for _, c := range []struct {
				at float64
				to *float64
			}{{from, &t0}, {to, &t1}} {
				if (last.Speed-c.at)*(x.Speed-c.at) < 0 {
					*c.to = last.T + (x.T-last.T)*(c.at-last.Speed)/(x.Speed-last.Speed)
				}
			}
		}
		return math.Abs(to-from) * math.Pi / 30 / (t1 - t0)
	}
	if up, want := between(300, 900, false), .6*rated/j; math.Abs(up/want-1) > .05 {
		t.Errorf("up by %g rad/s², want %g", up, want)
	}
	if down, want := between(900, 300, true), .3*rated/j; math.Abs(down/want-1) > .07 {
		t.Errorf("down by %g rad/s², want %g", down, want)
	}
	if r.Limited < .5 || r.PeakRise >= r.CurrentLimit {
		t.Errorf("held for %g s, peak %g A of %g A", r.Limited, r.PeakRise, r.CurrentLimit)
	}
	if free := run("volts-per-hertz"); *free.Rise > .8**r.Rise {
		t.Errorf("volts per hertz rises in %g s, vector at its limit in %g s", *free.Rise, *r.Rise)
	}
}

// choice is the value of a choice setting that carries an intent.
func choice(f *dialect.Family, intent, means string) (int64, bool) {
	for i := range f.Settings {
		if s := &f.Settings[i]; s.Intent == intent {
			for _, c := range s.Choices {
				if c.Means == means {
					return c.Value, true
				}
			}
		}
	}
	return 0, false
}
