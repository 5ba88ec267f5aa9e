// Package spice holds core/circuit against a circuit simulator that others wrote: Debian's ngspice.
package spice

import (
	"bytes"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"

	"tingate/core/circuit"
	"tingate/core/stops"
	"tingate/testtools/check"
)

const program = "/usr/bin/ngspice"

// tangle is a net with no design: parts with random contacts, loads and sources, joined at random.
func tangle(rng *rand.Rand) circuit.Circuit {
	var c circuit.Circuit
	any := func() string { return fmt.Sprintf("D%d:%d", rng.IntN(8), rng.IntN(4)) }
	for i := range 8 {
		p := circuit.Part{ID: fmt.Sprintf("D%d", i), Kind: "other", Terminals: []string{"0", "1", "2", "3"}}
		p.Loads = []circuit.Load{{Name: "a", A: "0", B: "1", Ohm: 50 + rng.Float64()*5000},
			{Name: "b", A: "2", B: "3", Ohm: 50 + rng.Float64()*5000}}
		p.Contacts = []circuit.Contact{{Name: "k", A: "1", B: "2", Closed: rng.IntN(2) == 0}}
		c.Parts = append(c.Parts, p)
	}
	c.Parts = append(c.Parts,
		circuit.Part{ID: "G1", Kind: "source", Terminals: []string{"+", "-"},
			Sources: []circuit.VoltageSource{{Name: "24V", Plus: "+", Minus: "-", Volts: 24}}},
		circuit.Part{ID: "G2", Kind: "source", Terminals: []string{"+", "-"},
			Sources: []circuit.VoltageSource{{Name: "10V", Plus: "+", Minus: "-", Volts: 10}}})
	wire := func(a, b string) {
		if a != b {
			c.Wires = append(c.Wires, circuit.Wire{ID: fmt.Sprint(len(c.Wires) + 1), From: a, To: b})
		}
	}
	wire("G1:-", "G2:-")
	wire("G1:+", any())
	wire("G1:-", any())
	wire("G2:+", any())
	for range 12 {
		wire(any(), any())
	}
	return c
}

// netlist writes a circuit for the simulator: a wire or closed contact is a tenth of a milliohm, and every node leaks a little.
func netlist(n *circuit.Net, names []string, held circuit.State) string {
	var b bytes.Buffer
	node := map[string]int{}
	for i, name := range names {
		node[name] = i + 1
	}
	fmt.Fprintln(&b, "net")
	k := 0
	r := func(a, to string, ohm float64) {
		k++
		fmt.Fprintf(&b, "R%d %d %d %g\n", k, node[a], node[to], ohm)
	}
	fmt.Fprintf(&b, "R0 %d 0 1e-3\n", node["G1:-"])
	for i := range names {
		fmt.Fprintf(&b, "RL%d %d 0 1e9\n", i, i+1)
	}
	for _, w := range n.Circuit.Wires {
		r(w.From, w.To, 1e-4)
	}
	for _, p := range n.Circuit.Parts {
		at := func(t string) string { return p.ID + ":" + t }
		for _, c := range p.Contacts {
			if c.Closed != held[p.ID+"."+c.Name] {
				r(at(c.A), at(c.B), 1e-4)
			}
		}
		for _, l := range p.Loads {
			r(at(l.A), at(l.B), l.Ohm)
		}
		for _, s := range p.Sources {
			fmt.Fprintf(&b, "V%s%s %d %d %g\n", p.ID, s.Name, node[at(s.Plus)], node[at(s.Minus)], s.Volts)
		}
	}
	fmt.Fprintln(&b, ".control\nset numdgt=9\nop")
	for i := range names {
		fmt.Fprintf(&b, "print v(%d)\n", i+1)
	}
	fmt.Fprintln(&b, "quit\n.endc\n.end")
	return b.String()
}

var printed = regexp.MustCompile(`v\((\d+)\) = (\S+)`)

// compared holds the voltages over every load of a circuit in a state against the simulator's; a few are put down as checks.
func compared(t *testing.T, name string, c circuit.Circuit, held circuit.State, before int) int {
	t.Helper()
	n, errs := circuit.Compile(c)
	if errs != nil {
		t.Fatal(errs)
	}
	ours := n.Solve(held)
	if len(ours.Shorts) > 0 {
		return 0
	}
	var names []string
	for _, p := range c.Parts {
		for _, term := range p.Terminals {
			names = append(names, p.ID+":"+term)
		}
	}
	file := filepath.Join(t.TempDir(), "net.cir")
	if err := os.WriteFile(file, []byte(netlist(n, names, held)), 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command(program, "-b", file).CombinedOutput()
	if err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	volts := map[string]float64{}
	for _, m := range printed.FindAllSubmatch(out, -1) {
		i, _ := strconv.Atoi(string(m[1]))
		v, err := strconv.ParseFloat(string(m[2]), 64)
		if err != nil {
			t.Fatal(err)
		}
		volts[names[i-1]] = v
	}
	count := 0
	for _, p := range c.Parts {
		for _, l := range p.Loads {
			us := ours.Load(p.ID + "." + l.Name)
			if math.IsNaN(us) {
				continue // it floats; the simulator's leak decides there
			}
			theirs := volts[p.ID+":"+l.A] - volts[p.ID+":"+l.B]
			if math.Abs(us-theirs) > 2e-3 {
				t.Errorf("%s, %s.%s: %v V, simulator %v V", name, p.ID, l.Name, us, theirs)
			}
			if count++; (before+count)%40 == 1 && math.Abs(theirs) > 1 {
				check.Against(t, fmt.Sprintf("%s, voltage over %s.%s, V", name, p.ID, l.Name),
					"Debian's circuit simulator ngspice, operating point", us, theirs, 1e-3)
			}
		}
	}
	return count
}

func there(t *testing.T) {
	if _, err := os.Stat(program); err != nil {
		t.Skip("ngspice is not installed; make test installs it")
	}
}

func TestVoltagesAgreeWithASimulator(t *testing.T) {
	there(t)
	rng := rand.New(rand.NewPCG(3, 9))
	n := 0
	for net := range 60 {
		n += compared(t, fmt.Sprintf("net %d of random parts", net), tangle(rng), circuit.State{"D1.k": net%2 == 0, "D4.k": net%3 == 0}, n)
	}
	if n < 300 {
		t.Errorf("only %d voltages compared", n)
	}
	t.Logf("%d voltages compared", n)
}

// Stop circuits as they are drawn, at rest, with a device worked, and with everything on.
func TestStopCircuitsAgreeWithASimulator(t *testing.T) {
	there(t)
	n := 0
	devices := []stops.SpecDevice{{ID: "S1"}, {ID: "S2", Kind: stops.Guard}, {ID: "S3", Kind: stops.LightCurtain}}
	for name, s := range map[string]stops.Spec{"two channels": {Devices: devices, Strip: true},
		"contactors, test pulses": {Devices: devices, Contactors: 2, Feed: "pulsed", Lamps: "three"},
		"both potentials":         {Devices: devices[:2], Feed: "two", Lamps: "two"},
		"controller":              {Kind: "controller", Devices: devices, Delay: 1000}} {
		c := stops.Draft(s).Circuit
		on := circuit.State{}
		for _, p := range c.Parts {
			for _, k := range p.Contacts {
				if p.Kind == "relay" {
					on[p.ID+"."+k.Name] = true
				}
			}
		}
		for state, held := range map[string]circuit.State{"at rest": nil, "a device worked": {"S1.1": true, "S1.2": true},
			"everything on": on} {
			n += compared(t, "stop circuit, "+name+", "+state, c, held, n)
		}
	}
	if n < 60 {
		t.Errorf("only %d voltages compared", n)
	}
	t.Logf("%d voltages compared", n)
}
