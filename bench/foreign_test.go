package bench_test

import (
	"net"
	"os/exec"
	"strings"
	"testing"

	"tingate/bench"
	"tingate/testtools/benches"
)

// debian is Debian's own Python, which has its packages; another may stand first in the path.
const debian = "/usr/bin/python3"

// A client from Debian's packages, written by others, reads the simulated drive while it runs: it is not at standstill, takes no setting
// that is locked then, and holds what is planned. It commands nothing: no register runs it.
func TestAClientFromDebianReadsTheBench(t *testing.T) {
	if exec.Command(debian, "-c", "import pymodbus.client").Run() != nil {
		t.Skip("python3-pymodbus is not installed; make test installs it")
	}
	b := benches.Start(t, benches.Setup(t, "Tarn"))
	if err := b.Stand.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = b.Stand.Stop() })
	host, port, err := net.SplitHostPort(b.Stand.Address())
	if err != nil {
		t.Fatal(err)
	}
	ask := func(asks string) string {
		cmd := exec.Command(debian, "../testtools/modbus/client.py", host, port)
		cmd.Stdin = strings.NewReader(asks)
		out, err := cmd.CombinedOutput()
		if err != nil {
			t.Fatal(err, string(out))
		}
		return strings.TrimSpace(string(out))
	}
	if got, want := ask("read 2 1\nread 404 1\nwrite 704 60\nread 704 1"), "1\n151\nok\n60"; got != want {
		t.Errorf("at standstill:\n%s\nwant\n%s", got, want)
	}
	benches.Do(t, b, bench.Act{Do: "speed", Value: 30})
	benches.Do(t, b, bench.Act{Do: "run"})
	b.Advance(4000)
	if got, want := ask("read 2 1\nwrite 404 140\nwrite 9000 1"), "0\nexception 6\nexception 2"; got != want {
		t.Errorf("running:\n%s\nwant\n%s", got, want)
	}
	benches.Do(t, b, bench.Act{Do: "channel", N: 3})
	b.Advance(240_000) // a fan runs out for long
	if got, want := ask("read 2 1"), "7"; got != want {
		t.Errorf("both channels open, standing: status %s, want %s", got, want)
	}
}

// Ten benches in real time: how much of a core they take, as a share.
func BenchmarkTenBenches(b *testing.B) {
	var all []*bench.Bench
	for range 10 {
		x := benches.Start(b, benches.Setup(b, "Tarn"))
		benches.Do(b, x, bench.Act{Do: "speed", Value: 40})
		benches.Do(b, x, bench.Act{Do: "run"})
		all = append(all, x)
	}
	for b.Loop() {
		for _, x := range all {
			x.Advance(1000)
		}
	}
	b.ReportMetric(b.Elapsed().Seconds()/float64(b.N), "cores")
}
