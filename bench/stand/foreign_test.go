package stand_test

import (
	"net"
	"os/exec"
	"strings"
	"testing"
)

// debian is Debian's own Python, which has its packages; another may stand first in the path.
const debian = "/usr/bin/python3"

// A client from Debian's packages, written by others, sees the stand-in as the specification says.
// `make test` installs it; without it the client written by hand in stand_test.go stands alone.
func TestAClientFromDebianReadsAndWrites(t *testing.T) {
	if exec.Command(debian, "-c", "import pymodbus.client").Run() != nil {
		t.Skip("python3-pymodbus is not installed; make test installs it")
	}
	for _, c := range []struct{ family, asks, want string }{
		{"Tarn", "read 1 1\nread 401 5\nwrite 404 155\nread 404 1\nread 450 1\nwrite 9000 1\nwrite 404 9999\nread 401 17\nwrite 401 1 2",
			"21569\n400 400 500 80 1440\nok\n155\nexception 2\nexception 2\nexception 3\nexception 3\nexception 1"},
		// 15500 mA is 0x00003C8C: Voe sends the high word first and the low byte of each word first.
		{"Voe", "read 20 1\nread 3103 2\nwrite 3103 0x0000 0x8C3C\nread 3103 2\nread 25 1\nwrite 25 0x0F00",
			"28502\n0 2080\nok\n0 35900\nexception 2\nexception 2"},
		{"Brae", "read 10 1\nidentify\nread 1104 1\nread 1005 3", "16978\nTin Gate|SIMULATED stand-in drive|1\n760\n1 1 1"},
	} {
		d := serve(t, c.family)
		host, port, err := net.SplitHostPort(d.Address())
		if err != nil {
			t.Fatal(err)
		}
		cmd := exec.Command(debian, "../../testtools/modbus/client.py", host, port)
		cmd.Stdin = strings.NewReader(c.asks)
		out, err := cmd.CombinedOutput()
		if got := strings.TrimSpace(string(out)); err != nil || got != c.want {
			t.Errorf("%s: %v\n%s\nwant\n%s", c.family, err, got, c.want)
		}
	}
}
