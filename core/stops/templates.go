package stops

import (
	"fmt"

	"tingate/core/circuit"
)

// TwoChannel is the usual circuit: n devices with two contacts each in series, one contact a channel, a safety relay with a reset button
// that acts when let go, its two outputs to a drive's torque-off channels, a green lamp while it is on, a red one while it is off.
// Everything is fed from one source of 24 V.
func TwoChannel(n int) Circuit {
	c := Circuit{Devices: map[string]Device{}}
	wire := 0
	join := func(from, to, why string) {
		wire++
		c.Wires = append(c.Wires, circuit.Wire{ID: fmt.Sprint(wire), From: from, To: to, Why: why})
	}
	c.Parts = append(c.Parts, circuit.Part{ID: "G1", Kind: "source", Name: "24 V", Terminals: []string{"+", "-"}, Sources: []circuit.VoltageSource{{Name: "24V", Plus: "+", Minus: "-", Volts: 24, Most: 4}}})
	ends := [2]string{"G1:+", "G1:+"}
	for i := 1; i <= n; i++ {
		id := fmt.Sprintf("S%d", i)
		c.Parts = append(c.Parts, circuit.Part{ID: id, Kind: "switch", Name: "Emergency stop", Terminals: []string{"11", "12", "21", "22"}, Contacts: []circuit.Contact{{Name: "1", A: "11", B: "12", Closed: true}, {Name: "2", A: "21", B: "22", Closed: true}}})
		c.Devices[id] = Device{Does: Hand}
		join(ends[0], id+":11", "channel 1")
		join(ends[1], id+":21", "channel 2")
		ends = [2]string{id + ":12", id + ":22"}
	}
	c.Parts = append(c.Parts, circuit.Part{ID: "S0", Kind: "button", Name: "Reset", Terminals: []string{"13", "14"}, Contacts: []circuit.Contact{{Name: "make", A: "13", B: "14"}}})
	c.Devices["S0"] = Device{Does: Button}
	c.Parts = append(c.Parts, circuit.Part{ID: "K1", Kind: "relay", Name: "Safety relay", Terminals: []string{"A1", "A2", "S12", "S22", "S34", "13", "14", "23", "24", "33", "34", "41", "42"},
		Loads:    []circuit.Load{{Name: "supply", A: "A1", B: "A2", Ohm: 300}, {Name: "ch1", A: "S12", B: "A2", Ohm: 3000}, {Name: "ch2", A: "S22", B: "A2", Ohm: 3000}, {Name: "reset", A: "S34", B: "A2", Ohm: 3000}},
		Contacts: []circuit.Contact{{Name: "out1", A: "13", B: "14"}, {Name: "out2", A: "23", B: "24"}, {Name: "out3", A: "33", B: "34"}, {Name: "aux", A: "41", B: "42", Closed: true}}})
	c.Devices["K1"] = Device{Does: SafetyRelay, Reset: "let-go", Discrepancy: 1500}
	c.Parts = append(c.Parts, circuit.Part{ID: "T1", Kind: "drive", Name: "Drive", Terminals: []string{"STO-A", "STO-B", "0V"}, Loads: []circuit.Load{{Name: "a", A: "STO-A", B: "0V", Ohm: 4800}, {Name: "b", A: "STO-B", B: "0V", Ohm: 4800}}})
	c.Devices["T1"] = Device{Does: DriveInputs, Discrepancy: 500, Filter: 5}
	for _, h := range [][3]string{{"H1", "Ready", "green"}, {"H2", "Tripped", "red"}} {
		c.Parts = append(c.Parts, circuit.Part{ID: h[0], Kind: "lamp", Name: h[1], Terminals: []string{"x1", "x2"}, Loads: []circuit.Load{{Name: "lamp", A: "x1", B: "x2", Ohm: 1200}}})
		c.Devices[h[0]] = Device{Does: Lamp, Colour: h[2]}
	}
	for _, w := range [][3]string{{ends[0], "K1:S12", "channel 1"}, {ends[1], "K1:S22", "channel 2"}, {"G1:+", "K1:A1", "supply"}, {"G1:-", "K1:A2", "supply"}, {"G1:+", "S0:13", "reset"}, {"S0:14", "K1:S34", "reset"},
		{"G1:+", "K1:13", "output"}, {"K1:14", "T1:STO-A", "torque off, channel A"}, {"G1:+", "K1:23", "output"}, {"K1:24", "T1:STO-B", "torque off, channel B"}, {"G1:-", "T1:0V", "common"},
		{"G1:+", "K1:33", "lamp"}, {"K1:34", "H1:x1", "lamp"}, {"H1:x2", "G1:-", "lamp"}, {"G1:+", "K1:41", "lamp"}, {"K1:42", "H2:x1", "lamp"}, {"H2:x2", "G1:-", "lamp"}} {
		join(w[0], w[1], w[2])
	}
	return c
}
