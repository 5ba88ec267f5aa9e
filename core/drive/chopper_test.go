package drive

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

// A resistor warms by what it takes; without its wire the link trips, and a chopper that conducts always burns it.
func TestTheBrakingResistor(t *testing.T) {
	stop := func(d *Drive) {
		d.C.Fall, d.C.BusControl, d.P.LoadJ, d.P.Link.Chopper, d.P.ResistorPower = 50, false, 1.2, 40, 500
	}
	d, in := run(stop, 10)
	in.Terminals = 0
	energy := 0.
	from := d.Resistor
	for range 2500 {
		turn(d, in, Tick)
		energy += d.resistorWatts() * Tick
	}
	if d.Fault != "" || d.Running {
		t.Fatalf("with its resistor: %s", d.Fault)
	}
	kinetic := .5 * (d.P.Inertia + d.P.LoadJ) * 152 * 152
	if energy < .5*kinetic || energy > kinetic {
		t.Errorf("%.0f J in the resistor of %.0f J in the shaft", energy, kinetic)
	}
	check.Against(
		t,
		"rise of a braking resistor over one stop, K",
		"energy over its heat capacity, 300 K and 120 s at its rated power, by hand",
		d.Resistor-from,
		energy*resistorRise/(d.P.ResistorPower*resistorTau),
		.05,
	)

	d, in = run(stop, 10)
	d.P.Broken.ResistorOpen = true
	d.Reload()
	in.Terminals = 0
	turn(d, in, 3)
	if d.Fault != "bus-over-voltage" || d.Resistor > ambient+1 {
		t.Errorf("its wire open: %q, %v °C", d.Fault, d.Resistor)
	}

	d, in = run(stop, 10)
	v, lines := d.v, d.Mains().Lines[0]
	d.P.Broken.ChopperShorted = true
	d.Reload()
	turn(d, in, 1)
	check.Against(t, "power of a resistor on the link, W", "V²/R, by hand", d.resistorWatts(), d.v*d.v/40, 1e-9)
	if now := d.Mains().Lines[0]; now < lines+.7*math.Sqrt(2./3)*d.resistorWatts()/d.v {
		t.Errorf("the mains gives %v A, and gave %v A without the resistor's", now, lines)
	}
	if d.v > v || d.Fault != "" {
		t.Errorf("shorted: %v V after %v V, %s", d.v, v, d.Fault)
	}
	turn(d, in, 30)
	if d.Damage == "" || d.Resistor < resistorLost {
		t.Errorf("it bears %v W: %v °C", d.resistorWatts(), d.Resistor)
	}
	in.Line = false
	turn(d, in, 10)
	in.Line = true
	turn(d, in, 5)
	if d.precharged || d.Blocked == "" && d.Running {
		t.Errorf("it charges through its resistor: %v V", d.v)
	}
	if math.IsNaN(d.v) {
		t.Error("no figure")
	}
}
