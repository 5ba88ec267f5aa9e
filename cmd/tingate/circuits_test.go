package main

import (
	"encoding/json"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// tell runs the program and gives what it printed, what it complained of, and its exit status.
func tell(t *testing.T, args ...string) (out, complaint string, status int) {
	t.Helper()
	cmd := exec.Command(binary, args...)
	var o, e strings.Builder
	cmd.Stdout, cmd.Stderr = &o, &e
	_ = cmd.Run()
	return o.String(), e.String(), cmd.ProcessState.ExitCode()
}

func write(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

func TestCircuitSolve(t *testing.T) {
	// 24 V over a closing contact to two lamps in series, 1 kΩ and 3 kΩ: 6 V and 18 V, 6 mA (Ohm's law).
	file := write(t, "c.json", `{"parts":[
		{"id":"G1","kind":"source","terminals":["+","-"],"sources":[{"name":"24V","plus":"+","minus":"-","volts":24,"most_a":0.005}]},
		{"id":"S1","kind":"button","terminals":["13","14"],"contacts":[{"name":"contact","a":"13","b":"14","closed":false}]},
		{"id":"P1","kind":"lamp","terminals":["1","2"],"loads":[{"name":"lamp","a":"1","b":"2","ohm":1000}]},
		{"id":"P2","kind":"lamp","terminals":["1","2"],"loads":[{"name":"lamp","a":"1","b":"2","ohm":3000}]}],
		"wires":[{"id":"1","from":"G1:+","to":"S1:13"},{"id":"2","from":"S1:14","to":"P1:1"},{"id":"3","from":"P1:2","to":"P2:1"},{"id":"4","from":"P2:2","to":"G1:-"}]}`)
	out, complaint, status := tell(t, "circuit", "solve", file, "--held", "S1.contact")
	var got solved
	if err := json.Unmarshal([]byte(out), &got); err != nil || status != 0 {
		t.Fatal(err, complaint, status)
	}
	if math.Abs(got.LoadsV["P1.lamp"]-6) > 1e-9 || math.Abs(got.LoadsV["P2.lamp"]-18) > 1e-9 ||
		math.Abs(*got.CurrentsA["G1.24V"]-.006) > 1e-12 {
		t.Errorf("%s", out)
	}
	if len(got.Over) != 1 {
		t.Errorf("6 of 5 mA are drawn: %v", got.Over)
	}
	if _, complaint, status = tell(t, "circuit", "solve", file, "--held", "S2.contact"); status != 1 ||
		!strings.Contains(complaint, `"S2.contact"`) {
		t.Error(complaint, status)
	}
	for text, want := range map[string]string{
		`{"parts":[],"wires":[{"id":"1","from":"A:1","to":"A:1"}]}`: "wires[0]", `{"parts":[{"id":"A","typ":"x"}]}`: `"typ"`,
		`no`: "invalid"} {
		if _, complaint, status := tell(t, "circuit", "solve", write(t, "bad.json", text)); status == 0 ||
			!strings.Contains(complaint, want) {
			t.Errorf("%s: %d %s", text, status, complaint)
		}
	}
	many := `{"parts":[{"id":"X","kind":"strip","terminals":["1","2"]}],"wires":[` +
		strings.TrimSuffix(strings.Repeat(`{"id":"1","from":"X:1","to":"X:2"},`, 100_000), ",") + `]}`
	if _, complaint, status := tell(t, "circuit", "solve", write(t, "many.json", many)); status != 1 ||
		!strings.Contains(complaint, "at most 5000 wires") {
		t.Errorf("100,000 wires: %d %.200s", status, complaint)
	}
}

func TestWires(t *testing.T) {
	file := write(
		t,
		"d.json",
		`{"schema":2,"tag":"XX-01","rating":{"dialect":"Tarn"},"wiring":{"command":"two-wire","reference":"voltage","safety":"jumper","logic":"source","supply":"drive"}}`,
	)
	out, complaint, status := tell(t, "wires", file)
	if status != 0 || !strings.Contains(out, "wire,from,to,colour") || !strings.Contains(out, "S1:13") {
		t.Errorf("%d %s\n%s", status, complaint, out)
	}
	if out, _, _ = tell(t, "wires", file, "--dialect", "Brae", "--out", "json"); !strings.Contains(out, `"name": "Brae"`) ||
		!strings.Contains(out, `"to": "T1:D1"`) {
		t.Errorf("%.400s", out)
	}
	if _, complaint, status = tell(t, "wires",
		write(t, "e.json", `{"schema":2,"tag":"XX-01","rating":{"dialect":"Tarn"}}`)); status != 1 ||
		!strings.Contains(complaint, "wiring.command") {
		t.Error(complaint, status)
	}
}
