package main

import (
	"strings"
	"testing"
)

func TestBenchOfADriveFile(t *testing.T) {
	file := write(
		t,
		"d.json",
		`{"schema":2,"tag":"XX-01","rating":{"dialect":"Voe"},"motor":{"linked":"r","rows":{"r":{"power":{"text":"4 kW","value":4,"unit":"kW"},"voltage":{"text":"400","value":400,"unit":"V"},"current":{"text":"8","value":8,"unit":"A"},"frequency":{"text":"50","value":50,"unit":"Hz"},"speed":{"text":"1450","value":1450,"unit":"r/min"}}}}}`,
	)
	p := start(t, "bench", file, "--listen", "127.0.0.1:0")
	defer p.kill()
	if !strings.HasPrefix(p.base, "127.0.0.1:") {
		t.Errorf("it answers on %q", p.base)
	}
	if _, complaint, status := tell(t, "bench",
		write(t, "e.json", `{"schema":2,"tag":"XX-01","rating":{"dialect":"Voe"}}`)); status == 0 ||
		!strings.Contains(complaint, "row in use") {
		t.Error(status, complaint)
	}
	if _, complaint, status := tell(t, "bench", file, "--listen", "0.0.0.0:0"); status == 0 || !strings.Contains(complaint, "loopback") {
		t.Error(status, complaint)
	}
}
