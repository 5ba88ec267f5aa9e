package prove_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"tingate/bench/prove"
	"tingate/core/gate"
	"tingate/testtools/benches"
	"tingate/testtools/raced"
)

// Facts of the trade (common practice) for a drive that ramps down on stop, with a process interlock and a 4 to 20 mA reference; then with
// one thing planned otherwise.
func TestWhatHappensIf(t *testing.T) {
	by := func(change func(j *gate.Job)) map[string]prove.WhatIf {
		s, _, _ := benches.Planned(t, func(j *gate.Job) {
			j.Drive.Wiring.Interlock, j.Drive.Wiring.Reference, j.Drive.Intent.SpeedSource = true, "current", "current"
			change(j)
		})
		x, err := prove.Reactions(context.Background(), s)
		if err != nil || x.Needs != "" {
			t.Fatal(err, x.Needs)
		}
		gives := map[string][2]string{}
		for _, g := range x.Gives {
			gives[g.What] = [2]string{g.Auto, g.Hand}
			if want := map[string]string{"Run": "[terminals] [keypad]", "Stops it too": "[terminals] [terminals]", "Direction": "[] []",
				"Speed": "[analog] [keypad]"}[g.What]; want != "" && want != fmt.Sprint(g.AutoBy, " ", g.HandBy) {
				t.Errorf("%s comes from %v in auto, %v in hand, want %s", g.What, g.AutoBy, g.HandBy, want)
			}
		}
		if !strings.HasSuffix(gives["Run"][0], ", closed") || gives["Run"][1] != "the keypad's run key" ||
			!strings.HasPrefix(gives["Speed"][0], "4 to 20 mA: 0.0 to ") || gives["Direction"][0] != "forward only" ||
			!strings.Contains(gives["Stops it too"][0], "process interlock; torque off") {
			t.Errorf("%v", gives)
		}
		out := map[string]prove.WhatIf{}
		for _, r := range x.Rows {
			out[r.Key] = r
			if _, does, ok := strings.Cut(r.What, ", "); ok && strings.HasPrefix(r.Key, "input-") {
				out[does] = r
			}
		}
		return out
	}
	is := func(rows map[string]prove.WhatIf, key, kind, back string, moves bool) {
		t.Helper()
		if r := rows[key]; r.Kind != kind || back != "" && r.Back != back || r.Moves != moves {
			t.Errorf("%s: %+v, want %s, %q, moves %v", key, r, kind, back, moves)
		}
	}
	plain := by(func(*gate.Job) {})
	is(plain, "run-off", "ramp", "a fresh run command", false)
	is(plain, "stop-key", "ramp", "stands: wants a fresh command",
		false) // the terminals have the command, and this family obeys it as delivered
	is(plain, "signal", "ramp", "", true)       // it ran on the signal, and does again: run is held
	is(plain, "torque-off", "coast", "", false) // IEC 60204-1, 9.2.5.4.2: a fresh command
	is(plain, "one-channel", "trip", "waits: power off and on", false)
	is(plain, "line", "trip", "stands: wants a fresh command", false) // this family clears it by itself
	is(plain, "power-up", "stands", "", false)
	is(plain, "process interlock: wire open", "coast", "stands: wants a fresh command", false) // as delivered
	// it goes on side by side, and that was looked at
	if raced.On {
		return
	}
	is(by(func(j *gate.Job) { j.Drive.Intent.StopKey = "ignored" }), "stop-key", "goes-on", "", false)
	is(by(func(j *gate.Job) { j.Drive.Intent.Interlock = "ramp" }), "process interlock: wire open", "ramp",
		"stands: wants a fresh command", false)
	is(by(func(j *gate.Job) { j.Drive.Intent.InterlockBack = "goes-on" }), "process interlock: wire open", "coast", "starts by itself",
		true)
	is(plain, "run: wire open", "ramp", "", true)
	fall := plain["run-off"].Stands
	if fall == nil || *fall < 4 || *fall > 8 { // 10 s from 1455; from six tenths of it 6 s
		t.Errorf("stands after %v", fall)
	}
	is(by(func(j *gate.Job) { j.Drive.Intent.StopMode = "coast" }), "run-off", "coast", "", false)
	is(by(func(j *gate.Job) { j.Drive.Intent.ReferenceLoss = "fault" }), "signal", "trip", "waits: the fault wants its reset", false)
	is(by(func(j *gate.Job) { j.Drive.Intent.ReferenceLoss = "hold" }), "signal", "goes-on", "goes on", false)
	is(by(func(j *gate.Job) { j.Drive.Intent.PowerUp = "on" }), "power-up", "starts", "", true)
	is(by(func(j *gate.Job) { j.Drive.Intent.TorqueOffShows = "fault" }), "torque-off", "trip", "", false)
}
