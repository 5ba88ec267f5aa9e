package prove_test

import (
	"context"
	"strings"
	"testing"

	"tingate/bench/prove"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/formats/familyfile"
	"tingate/testtools/benches"
)

// networked is what happens to a drive that a network commands, when that falls silent; wait "" is as delivered.
func networked(t *testing.T, family, lost, wait string) (rows map[string]prove.WhatIf, given map[string]string) {
	t.Helper()
	s, _, _ := benches.Planned(t, func(j *gate.Job) {
		d := &j.Drive
		d.Rating.Dialect, j.Family = family, familyfile.Find(family)
		d.Rating.Type = map[string]string{"Tarn": "TN4-016-F2K", "Brae": "BR4-016", "Voe": "VOE4-0016"}[family]
		d.Wiring.Command, d.Wiring.Reference = "network", "none"
		d.Intent.CommandSource, d.Intent.SpeedSource, d.Intent.NetLost = "network", "network", lost
		if wait != "" {
			d.Intent.NetWait = sample.Q("intent.network_wait", wait)
		}
	})
	x, err := prove.Reactions(context.Background(), s)
	if err != nil || x.Needs != "" {
		t.Fatal(err, x.Needs)
	}
	rows, given = map[string]prove.WhatIf{}, map[string]string{}
	for _, r := range x.Rows {
		rows[r.Key] = r
	}
	for _, g := range x.Gives {
		given[g.What] = g.Auto
	}
	return rows, given
}

// A network that falls silent: by the drive's own settings it stops and starts again when telegrams come back with run held, runs on, or
// trips; where nobody watches, it runs on whatever is chosen. Facts of the trade (common practice).
func TestANetworkThatFallsSilent(t *testing.T) {
	for _, x := range []struct {
		family, lost, wait, kind, back string
		moves                          bool
	}{
		{"Tarn", "stop", "1.5 s", "ramp", "starts by itself", true},
		{"Tarn", "hold", "1.5 s", "goes-on", "goes on", false},
		{"Voe", "goes-on", "1.5 s", "goes-on", "goes on", false},
		{"Tarn", "fault", "1.5 s", "trip", "waits: the fault wants its reset", false},
		{"Tarn", "fault", "20 s", "trip", "waits: the fault wants its reset", false}, // longer than what else is watched for
		{"Tarn", "stop", "0 s", "goes-on", "goes on", false},
	} {
		rows, given := networked(t, x.family, x.lost, x.wait)
		if r := rows["network"]; r.Kind != x.kind || r.Back != x.back || r.Moves != x.moves {
			t.Errorf("%s after %s: %+v", x.lost, x.wait, r)
		}
		if given["Run"] != "the network" || !strings.HasPrefix(given["Speed"], "the network; within") {
			t.Errorf("%v", given)
		}
		if r := rows["hand"]; r.Key == "" {
			t.Error("hand at the keypad is not tried: the command was not the network's")
		}
		if r := rows["run-off"]; r.Kind != "ramp" {
			t.Errorf("run taken away over the network: %+v", r)
		}
	}
}

// The trip is the family's own fault.
func TestTheFaultOfASilentNetwork(t *testing.T) {
	for family, code := range map[string]string{"Tarn": "", "Brae": "", "Voe": ""} {
		for _, f := range familyfile.Find(family).Faults {
			if f.Family == "network" {
				code = f.Code
			}
		}
		rows, _ := networked(t, family, "fault", "1 s")
		if r := rows["network"]; r.Kind != "trip" || code == "" || !strings.HasSuffix(r.Does, " "+code) {
			t.Errorf("%s: %+v, want %s", family, r, code)
		}
	}
}
