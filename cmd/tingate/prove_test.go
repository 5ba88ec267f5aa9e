package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"tingate/app/benches"
	"tingate/core/drivefile/sample"
)

// A plan is proved headless: JSON, a PDF, and a status that says whether it holds.
func TestProveHeadless(t *testing.T) {
	d := sample.Dryer()
	d.Rating.Type, d.Intent.Control, d.Intent.LoadTorque = "TN4-016-F2K", "vector", sample.Q("intent.load_torque", "60")
	good, _ := json.Marshal(d)
	out, complaint, status := tell(t, "prove", write(t, "good.json", string(good)))
	var v benches.ProofView
	if err := json.Unmarshal([]byte(out), &v); err != nil || status != 0 || v.Proof.Holds < 6 || !strings.Contains(complaint, "All ") {
		t.Fatalf("%v %d %s", err, status, complaint)
	}
	pdf := filepath.Join(t.TempDir(), "proof.pdf")
	if _, complaint, status = tell(t, "prove", write(t, "good.json", string(good)), "--out", pdf); status != 0 {
		t.Fatal(complaint)
	}
	if raw, err := os.ReadFile(pdf); err != nil || !strings.HasPrefix(string(raw), "%PDF") {
		t.Error(err)
	}
	d.Intent.Control, d.Intent.LoadTorque = "volts-per-hertz", sample.Q("intent.load_torque", "150")
	bad, _ := json.Marshal(d)
	if _, complaint, status = tell(t, "prove", write(t, "bad.json", string(bad)), "--out",
		filepath.Join(t.TempDir(), "p.json")); status != 1 || !strings.Contains(complaint, "Stalled") {
		t.Errorf("%d %s", status, complaint)
	}
	d.Motor.Rows = nil
	none, _ := json.Marshal(d)
	for want, args := range map[string][]string{"a proof needs": {"prove", write(t, "none.json", string(none))},
		".json or .pdf": {"prove", write(t, "x.json", string(good)), "--out", "x.txt"}} {
		if _, complaint, status = tell(t, args...); status == 0 || !strings.Contains(complaint, want) {
			t.Errorf("want %q: %d %s", want, status, complaint)
		}
	}
}
