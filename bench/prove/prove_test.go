package prove_test

import (
	"context"
	"encoding/json"
	"math"
	"strings"
	"testing"

	"tingate/bench/prove"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/testtools/benches"
)

func step(p prove.Proof, key string) prove.ProofStep {
	for _, s := range p.Steps {
		if s.Key == key {
			return s
		}
	}
	return prove.ProofStep{}
}

// A good plan holds in every step, by its own terminals and its own reference; the same again is the same, bit by bit.
func TestAGoodPlanIsProved(t *testing.T) {
	s, w, _ := benches.Planned(t, nil)
	var told []int
	p, err := prove.Plan(context.Background(), s, w, func(done, all int) { told = append(told, done, all) })
	if n := len(told); n < 14 || told[0] != 1 || told[n-2] != told[n-1] || n != 2*told[n-1] {
		t.Errorf("told %v", told)
	}
	if err != nil || p.Trip != nil || p.Differs > 0 || p.Holds < 7 {
		for _, x := range p.Steps {
			t.Logf("%s: %s, wanted %s, got %s %s", x.Key, x.Verdict, x.Wanted, x.Got, x.Detail)
		}
		t.Fatalf("%d hold, %d differ, trip %+v, %v", p.Holds, p.Differs, p.Trip, err)
	}
	for _, key := range []string{"link", "rise", "highest", "fall", "lowest", "reference-50", "reverse"} {
		if step(p, key).Verdict != "holds" || key != "link" && len(step(p, key).Trace) < 10 {
			t.Errorf("%s: %+v", key, step(p, key).Verdict)
		}
	}
	again, _ := prove.Plan(context.Background(), s, w, nil)
	a, _ := json.Marshal(p)
	b, _ := json.Marshal(again)
	if string(a) != string(b) {
		t.Error("a proof is not repeatable")
	}
	ended, cancel := context.WithCancel(context.Background())
	cancel()
	if p, err := prove.Plan(ended, s, w, nil); err != nil || !p.Ended || len(p.Steps) > 1 {
		t.Errorf("ended: %v %d steps", err, len(p.Steps))
	}
}

// What is set otherwise than wanted shows: a scaling, a direction; and a trip ends it, names its setting and what would hold.
func TestAPlanThatDiffersIsFound(t *testing.T) {
	s, w, _ := benches.Planned(t, nil)
	w.RefHigh = 1000 // somebody wants less than the sheet has
	p, err := prove.Plan(context.Background(), s, w, nil)
	if err != nil || step(p, "highest").Verdict != "look-again" || step(p, "reference-50").Verdict != "look-again" {
		t.Errorf("scaling: %+v %v", step(p, "highest"), err)
	}
	s, w, _ = benches.Planned(t, nil)
	w.Both = true
	if p, _ = prove.Plan(context.Background(), s, w, nil); step(p, "reverse").Verdict != "look-again" {
		t.Errorf("direction: %+v", step(p, "reverse").Verdict)
	}
	// A load that volts per hertz does not lift, without boost.
	s, w, _ = benches.Planned(t, func(j *gate.Job) {
		j.Drive.Intent.Control, j.Drive.Intent.LoadTorque = "volts-per-hertz", sample.Q("intent.load_torque", "140")
	})
	p, err = prove.Plan(context.Background(), s, w, nil)
	if err != nil || p.Trip == nil || p.Setting == "" || !strings.Contains(p.Would, "hold") {
		t.Errorf("%+v: %s, %s; %v", p.Trip, p.Setting, p.Would, err)
	}
	if last := p.Steps[len(p.Steps)-1]; last.Verdict != "stops" || math.IsNaN(p.Seconds) {
		t.Errorf("%+v", last.Verdict)
	}
}

func BenchmarkProve(b *testing.B) {
	s, w, _ := benches.Planned(b, nil)
	for b.Loop() {
		if _, err := prove.Plan(context.Background(), s, w, nil); err != nil {
			b.Fatal(err)
		}
	}
}
