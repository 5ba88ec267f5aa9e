package main

import (
	"encoding/json"
	"strings"
	"testing"

	"tingate/core/stops"
)

// The usual circuit goes out, its tests are worked out, and a wire that is off is found from what was shown.
func TestStopCircuitHeadless(t *testing.T) {
	draft, complaint, status := tell(t, "circuit", "draft", "--devices", "2")
	if status != 0 {
		t.Fatal(complaint)
	}
	file := write(t, "stop.json", draft)
	out, complaint, status := tell(t, "circuit", "tests", file)
	var table []stops.Test
	if err := json.Unmarshal([]byte(out), &table); err != nil || status != 0 || len(table) != 14 || table[0].Key != "both/S1" {
		t.Fatal(err, complaint, status, len(table))
	}
	if last := table[0].Steps[len(table[0].Steps)-1]; last.Must["T1"] != "running" || !strings.Contains(last.Do, "fresh run command") {
		t.Errorf("%+v", last)
	}
	if _, complaint, status = tell(t, "circuit", "diagnose", file); status != 2 || !strings.Contains(complaint, "shown") {
		t.Errorf("nothing shown: %d %s", status, complaint)
	}
	// After the reset the relay is on and the drive still off by one channel: its wire.
	shown := strings.TrimSuffix(strings.TrimSpace(draft), "}") +
		`,"shown":[{"test":"both/S1","step":1,"seen":{"K1":"on","H1":"on","T1":"channel-fault"}}]}`
	out, complaint, status = tell(t, "circuit", "diagnose", write(t, "shown.json", shown))
	var d stops.Diagnosis
	if err := json.Unmarshal([]byte(out), &d); err != nil || status != 0 || d.Agrees || len(d.Classes) == 0 {
		t.Fatal(err, complaint, status, out)
	}
	if text := strings.Join(d.Classes[0].Texts, " "); !strings.Contains(text, "is open, or not landed") || d.Excluded < 100 {
		t.Errorf("%s; %d excluded", text, d.Excluded)
	}
	var set stops.Smallest
	out, complaint, status = tell(t, "circuit", "smallest", file)
	if err := json.Unmarshal([]byte(out), &set); err != nil || status != 0 || !set.Exact || len(set.Keys) == 0 ||
		len(set.Keys) >= len(table) {
		t.Errorf("smallest: %v %s %d %+v", err, complaint, status, set)
	}
	timed := strings.TrimSuffix(strings.TrimSpace(draft), "}") +
		`,"events":[{"at_ms":1000,"do":"work","what":"S0"},{"at_ms":1500,"do":"release","what":"S0"}]}`
	out, complaint, status = tell(t, "circuit", "timing", write(t, "timed.json", timed))
	var timing stops.Timing
	if err := json.Unmarshal([]byte(out), &timing); err != nil || status != 0 || timing.Shows["K1"] != "on" {
		t.Errorf("timing: %v %s %d %v", err, complaint, status, timing.Shows)
	}
	if out, complaint, status = tell(t, "circuit", "pairs", write(t, "pairs.json", shown)); status != 0 ||
		!strings.Contains(out, `"found"`) {
		t.Errorf("pairs: %d %s", status, complaint)
	}
	for _, bad := range []string{"--feed=three", "--kind=none", "--contactors=9", "--reset=never"} {
		if _, complaint, status = tell(t, "circuit", "draft", bad); status != 2 || !strings.Contains(complaint, "got") {
			t.Errorf("%s: %d %s", bad, status, complaint)
		}
	}
	for want, bad := range map[string]string{"unknown field": strings.Replace(draft, `"parts"`, `"bits"`, 1),
		"part:terminal": strings.Replace(draft, "S1:11", "S1:77", 1),
		"a test of the table": strings.TrimSuffix(strings.TrimSpace(draft), "}") +
			`,"shown":[{"test":"both/S9","step":0,"seen":{"K1":"on"}}]}`} {
		if _, complaint, status = tell(t, "circuit", "diagnose", write(t, "bad.json", bad)); status == 0 ||
			!strings.Contains(complaint, want) {
			t.Errorf("want %q: %d %s", want, status, complaint)
		}
	}
}
