package prove_test

import (
	"strings"
	"testing"

	"tingate/bench/prove"
	"tingate/core/gate"
	"tingate/testtools/benches"
)

// The truth table of a plan's inputs: run, reverse that is not allowed, an interlock that is open.
func TestTheInputsTruthTable(t *testing.T) {
	s, _, _ := benches.Planned(t, func(j *gate.Job) {
		j.Drive.Wiring.Reverse, j.Drive.Wiring.Interlock, j.Drive.Wiring.Reset = true, true, true
	})
	x, err := prove.TruthTable(s)
	if err != nil || len(x.Inputs) < 3 || len(x.Rows) != 1<<len(x.Inputs) || !strings.HasPrefix(x.Asked, "reference at 60 %") {
		t.Fatalf("%+v %v", x.Inputs, err)
	}
	row := func(closed ...string) string {
		for _, r := range x.Rows {
			fits := true
			for i, in := range x.Inputs {
				want := false
				for _, c := range closed {
					want = want || c == in.Function
				}
				fits = fits && r.Closed[i] == want
			}
			if fits {
				return r.Does
			}
		}
		return "no row"
	}
	for want, closed := range map[string][]string{"stands": {"interlock"}, "forward, ": {"interlock", "run-forward"},
		"stands: interlock open": {"run-forward"}, "stands: this direction": {"interlock", "run-reverse"}} {
		if got := row(closed...); !strings.HasPrefix(got, want) {
			t.Errorf("%v: %q, want %q", closed, got, want)
		}
	}
	moving := 0
	for _, r := range x.Rows {
		if r.Moves {
			moving++
		}
	}
	if moving == 0 || moving == len(x.Rows) {
		t.Errorf("%d of %d rows move", moving, len(x.Rows))
	}
}
