package app_test

import (
	"strings"
	"testing"
	"time"

	"tingate/app/base"
	"tingate/app/benches"
	"tingate/app/entries"
	"tingate/app/links"
	"tingate/bench"
	"tingate/core/record"
	"tingate/demo/walk"
)

// benchDo does acts on a drive's bench, and waits until what is asked for shows.
func (d *desk) benchDo(id string, until func(bench.Shown) bool, acts ...bench.Act) bench.Shown {
	d.t.Helper()
	for _, a := range acts {
		_, err := d.BenchDo(id, a)
		d.ok(err)
	}
	for range 600 {
		v, err := d.Bench(ctx, id, 1e9)
		d.ok(err)
		if until(v.Bench) {
			return v.Bench
		}
		time.Sleep(20 * time.Millisecond)
	}
	v, err := d.Bench(ctx, id, 1e9)
	d.ok(err)
	d.t.Fatalf("the bench never came to it after %+v: %+v, tune %+v", acts, v.Bench, v.Bench.Tune)
	return bench.Shown{}
}

// Gates Turn and Tune on the bench: what is seen there counts there, the result is read over its link, a wrong link of the motor
// is recognised from the result, and an edited plate makes the tune void.
func TestTurnAndTuneOnTheBench(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	d.set(d.rh, id, "intent.control", "vector")
	d.set(d.rh, id, "motor.rows."+star+".connection", "delta")
	d.ok(d.Confirm(ctx, d.rh, id, base.NewID(), "plate/poles/confirmed"))
	w := walk.Walker{App: d.App, Who: d.rh, Second: d.tk, Tick: func(t time.Duration) { d.clock = d.clock.Add(t) }}
	d.ok(w.Gate(ctx, id, "match", nil))
	d.ok(w.Dead(ctx, id, "TK"))
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "12"))
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-found", ""))
	for _, g := range []string{"wake", "stop"} {
		d.ok(w.Gate(ctx, id, g, nil))
		d.ok(d.Pass(ctx, d.rh, id, base.NewID(), g))
	}
	refused := func(from, want string) {
		t.Helper()
		if err := d.TakeTune(ctx, d.rh, id, links.TuneTaken{ID: base.NewID(), From: from}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("from %s: %v, want %q", from, err, want)
		}
	}
	refused("bench", "no bench of this drive")
	refused("link", "address")
	_, err := d.SetUpBench(ctx, id, benches.BenchSetup{Seed: 3})
	d.ok(err)
	defer d.EndBench(id)
	refused("bench", "not tuned yet")

	// Turn: with its leads swapped it turns backward; they are changed, and it turns forward.
	up := d.benchDo(id, func(s bench.Shown) bool { return s.State == "switch_on_disabled" }, bench.Act{Do: "faster", Value: 60},
		bench.Act{Do: "couple"}, bench.Act{Do: "break", What: "leads-swapped", On: true}, bench.Act{Do: "line", On: true})
	hz := d.view(id).State.Turn.Hz
	s := d.benchDo(id, func(s bench.Shown) bool { return s.Turns < up.Turns-1 && s.Phase == "off" }, bench.Act{Do: "bump", Value: hz})
	d.ok(w.Gate(ctx, id, "turn", nil))
	see := func(value string) {
		d.ok(d.AnswerCheck(ctx, d.rh, id,
			entries.CheckAnswer{ID: base.NewID(), Key: "turn/seen/shaft", Value: value, With: record.OnBench}))
	}
	see("backward")
	d.ok(d.Confirm(ctx, d.rh, id, base.NewID(), "turn/mend/leads"))
	d.benchDo(id, func(x bench.Shown) bool { return x.Turns > s.Turns+1 && x.Phase == "off" }, bench.Act{Do: "swap", What: "leads"},
		bench.Act{Do: "bump", Value: hz})
	see("forward")
	if v := d.view(id); v.State.Turn.Seen != "forward" || !v.State.Turn.Bench || gateOf(v, "turn").Done != gateOf(v, "turn").Total {
		t.Fatalf("%+v", v.State.Turn)
	}

	// Tune: refused coupled; done uncoupled; the result is read over the link of the bench, and fits.
	d.ok(w.Gate(ctx, id, "tune", map[string]string{"tune/kind/chosen": "rotating-uncoupled", "tune/ready/temperature": "20"}))
	tuned := func(s bench.Shown) bool { return s.Tune != nil && !s.Tune.Running }
	d.benchDo(id, tuned, bench.Act{Do: "tune", What: "standstill-short"})
	refused("bench", "another kind (standstill short)")
	d.benchDo(id, func(s bench.Shown) bool { return tuned(s) && strings.Contains(s.Tune.Failed, "coupled") },
		bench.Act{Do: "couple", On: true}, bench.Act{Do: "tune", What: "rotating"})
	refused("bench", "gave no result")
	run := func() base.View {
		t.Helper()
		d.benchDo(id, func(s bench.Shown) bool { return !s.Coupled && s.Speed > -1 && s.Speed < 1 }, bench.Act{Do: "couple"})
		d.benchDo(id, func(s bench.Shown) bool { return s.Tune.Kind == "rotating" && s.Tune.Running },
			bench.Act{Do: "faster", Value: 1}, bench.Act{Do: "tune", What: "rotating"}) // hurried, it could end before it is asked
		refused("bench", "still tunes")
		if s := d.benchDo(id, tuned, bench.Act{Do: "faster", Value: 60}); s.Tune.Failed != "" {
			t.Fatal(s.Tune.Failed)
		}
		d.ok(d.TakeTune(ctx, d.rh, id, links.TuneTaken{ID: base.NewID(), From: "bench"}))
		return d.view(id)
	}
	v := run()
	if g := gateOf(v, "tune"); g.Done != g.Total || len(v.State.Tune.Results) != 4 {
		t.Fatalf("%d of %d, %+v", g.Done, g.Total, v.State.Tune)
	}
	for _, r := range v.State.Tune.Results {
		if r.Value == nil || *r.Value < r.Low || *r.Value > r.High {
			t.Errorf("%s: %v outside %g to %g %s", r.Name, r.Value, r.Low, r.High, r.Unit)
		}
	}

	// The bench's motor is linked for the other voltage: the result says so.
	d.benchDo(id, func(s bench.Shown) bool { return len(s.Broken) == 1 }, bench.Act{Do: "break", What: "wrong-link", On: true})
	v = run()
	if len(v.State.Tune.Causes) == 0 || v.State.Tune.Causes[0].Code != "link-star" || gateOf(v, "tune").Mark != "barred" {
		t.Errorf("three times every impedance: %+v, %+v", v.State.Tune.Causes, v.State.Tune.Results)
	}

	d.set(d.rh, id, "motor.rows."+star+".current", "15.0")
	if v = d.view(id); !strings.Contains(v.State.Tune.Void, "current 15.5 → 15.0") {
		t.Errorf("void: %q", v.State.Tune.Void)
	}
}
