package spice

import (
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"

	"tingate/core/drive"
	"tingate/testtools/check"
)

// bridge writes a rectifier of ideal diodes with a capacitor and a load of constant power for the simulator.
func bridge(amplitude [3]float64, hz, ohms, farads, watts, start float64) string {
	out := "bridge\n.model D D(is=1e-12 n=0.005)\n"
	for p, a := range amplitude {
		if math.IsNaN(a) {
			continue
		}
		// A sine that leads by 90 degrees is the cosine of ours.
		out += fmt.Sprintf("V%d l%d star SIN(0 %g %g 0 0 %d)\nD%dt l%d top D\nD%db 0 l%d D\n", p, p, a, hz, 90-120*p, p, p, p, p)
	}
	out += fmt.Sprintf("R1 top pos %g\nC1 pos 0 %g IC=%g\nB1 pos 0 I=%g/max(V(pos),50)\nRg star 0 1e6\n", ohms, farads, start, watts)
	const periods = 12
	from, to := float64(periods-1)/hz, float64(periods)/hz
	out += fmt.Sprintf(".control\ntran %g %g 0 %g uic\n", 2e-5, to, 2e-5)
	out += fmt.Sprintf("meas tran mean AVG v(pos) from=%g to=%g\nmeas tran ripple PP v(pos) from=%g to=%g\n", from, to, from, to)
	for p, a := range amplitude {
		if !math.IsNaN(a) {
			out += fmt.Sprintf("meas tran line%d RMS i(V%d) from=%g to=%g\n", p, p, from, to)
		}
	}
	return out + "quit\n.endc\n.end\n"
}

var measured = regexp.MustCompile(`(?m)^(mean|ripple|line\d)\s+=\s+(\S+)`)

// What a load makes of line and link: all phases, one lower than the others, one away, and a drive on two leads.
func TestTheMainsOfABridge(t *testing.T) {
	if _, err := os.Stat(program); err != nil {
		t.Skip("no circuit simulator here")
	}
	for name, change := range map[string]func(*drive.Plant){
		"all phases, full load":   func(*drive.Plant) {},
		"one phase 4 % lower":     func(p *drive.Plant) { p.Broken.Unbalance = .04 },
		"one phase away":          func(p *drive.Plant) { p.Broken.PhaseLost = true },
		"all phases, 30 % lower":  func(p *drive.Plant) { p.Broken.Sag = .3 },
		"two leads, a small load": func(p *drive.Plant) { p.Link, p.Single = drive.UsualLink(16, 230, true), true },
	} {
		d := &drive.Drive{Powered: true, Power: 6000}
		d.C.LineVolts = 400
		d.P.Link, d.P.Hz = drive.UsualLink(16, 400, false), 50
		change(&d.P)
		if d.P.Single {
			d.Power = 1500
		}
		ours := d.Mains()
		amp := d.P.Link.Open * math.Pi / (3 * math.Sqrt(3)) * (1 - d.P.Broken.Sag)
		volts := [3]float64{amp, amp, amp * (1 - d.P.Broken.Unbalance)}
		if d.P.Broken.PhaseLost {
			volts[2] = math.NaN()
		}
		if d.P.Single { // on 230 V between the leads; the phases are 120 degrees apart in the netlist
			volts = [3]float64{d.P.Link.Open / (.95 * math.Sqrt(3)), d.P.Link.Open / (.95 * math.Sqrt(3)), math.NaN()}
		}
		file := filepath.Join(t.TempDir(), "bridge.cir")
		if err := os.WriteFile(
			file,
			[]byte(bridge(volts, 50, d.P.Link.Resistance, d.P.Link.C, d.Power, d.P.Link.Open)),
			0o600,
		); err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command(program, "-b", file).CombinedOutput()
		if err != nil {
			t.Fatalf("%s: %v\n%s", name, err, out)
		}
		theirs := map[string]float64{}
		for _, m := range measured.FindAllSubmatch(out, -1) {
			theirs[string(m[1])], _ = strconv.ParseFloat(string(m[2]), 64)
		}
		if len(theirs) < 4 {
			t.Fatalf("%s: %s", name, out)
		}
		const how = "Debian's circuit simulator"
		check.Against(t, "mean of the link, V: "+name, how, ours.Mean, theirs["mean"], .01)
		check.Against(t, "ripple of the link, V: "+name, how, ours.Ripple, theirs["ripple"], .05)
		for p := range 3 {
			if want, ok := theirs[fmt.Sprintf("line%d", p)]; ok {
				check.Against(t, fmt.Sprintf("current of L%d, A rms: %s", p+1, name), how, ours.Lines[p], want, .05)
			}
		}
	}
}
