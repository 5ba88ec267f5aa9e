package drive

import (
	"math"
	"strings"
	"testing"

	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/testtools/check"
)

// sorter is a 1.5 kW, 90 Hz, six-pole motor with magnets at 1800 r/min.
var sorter = machine.FromMagnetRow(1500, 380, 3.1, 90, 1800, .92, 0, 6)

// magnets makes a drive of it, changes it, and brings it up.
func magnets(change func(*Drive)) (*Drive, Inputs) {
	m, ok := machine.MagnetOf(sorter)
	if !ok {
		panic("no machine")
	}
	d := works()
	link := d.P.Link
	d.P = NewMagnetPlant(m, sorter)
	d.P.Line, d.P.Hz, d.P.Link = 400, 50, link
	d.P.Load, d.P.LoadJ = motion.Load{Kind: "quadratic", Torque: 6, Speed: 188.5}, .004
	d.C.Motor = Entered{Voltage: 380, Frequency: 90, Current: 3.1, Speed: 1800, Power: 1500, Factor: .92, Poles: 6}
	d.C.KnownMagnet, d.C.Inertia = m, d.P.Inertia+.004
	d.C.Rated, d.C.CurrentLimit, d.C.Overload = 5.4, 4.65, 3.1
	d.C.Highest, d.C.Upper, d.C.High, d.C.Rise, d.C.Fall, d.C.Control = 90, 90, 90, 45, 45, "vector"
	if change != nil {
		change(d)
	}
	d.Start()
	return d, ready(d)
}

func TestAMachineWithMagnets(t *testing.T) {
	m, ok := machine.MagnetOf(sorter)
	if !ok || sorter.Poles != 6 {
		t.Fatalf("%+v", sorter)
	}
	// Its own row again: rated current on the quadrature axis makes the plate's torque, voltage and cos φ.
	w := 1800 * math.Pi / 30
	i := 3.1 * math.Sqrt2
	we := w * m.Pairs
	v := math.Hypot(m.Rs*i+we*m.Psi, we*m.L*i) * math.Sqrt(3./2)
	check.Against(t, "line voltage of a magnet machine at its own row, V", "the plate itself, v = (Rs + jωL)i + jωψ", v, 380, 1e-9)
	check.Against(t, "its shaft power, W", "the plate itself, T = 3/2 p ψ iq", (m.TorqueOf(i)-m.Rub*w)*w, 1500, 1e-9)
	check.Against(t, "synchronous speed of 6 poles at 90 Hz, r/min", "120 f/p", 120.*90/6, 1800, 1e-12)
	if _, ok := machine.MagnetOf(machine.Plate{Power: 7500, Voltage: 400, Current: 15, Frequency: 50, Speed: 1455, Efficiency: .87,
		Poles: 4}); ok {
		t.Error("a machine with slip has no magnets")
	}
	// It runs with its field, and draws its rated current at rated torque, by vector control and by volts per hertz.
	for _, control := range []string{"vector", "volts-per-hertz"} {
		d, in := magnets(func(d *Drive) { d.C.Control = control; d.P.Load.Torque = 7.6; d.C.Boost = .04 })
		in.Terminals, in.Analog = 1, 10
		turn(d, in, 8)
		if d.Fault != "" || math.Abs(d.Speed-1800) > 6 || math.Abs(d.Hz-90) > .3 || d.Current < 2.4 || d.Current > 4.2 {
			t.Errorf("%s at full load: %v r/min, %v Hz, %v A, %s %s", control, d.Speed, d.Hz, d.Current, d.Fault, d.Limiting)
		}
		in.Terminals = 0
		turn(d, in, 6)
		if d.Running || math.Abs(d.Speed) > 10 {
			t.Errorf("%s stopped: %v, %v r/min", control, d.Running, d.Speed)
		}
		in.Terminals, in.Analog = 2, 10
		turn(d, in, 8)
		if math.Abs(d.Speed+1800) > 6 || d.Fault != "" {
			t.Errorf("%s backward: %v r/min %s", control, d.Speed, d.Fault)
		}
	}
}

// Without torque the magnets go on inducing: turned above the link's voltage they charge it, and a flying start catches them.
func TestMagnetsInduceWhileTheyTurn(t *testing.T) {
	d, in := magnets(func(d *Drive) {
		d.P.LoadJ, d.P.Load = .1, motion.Load{}
		d.C.Inertia, d.C.Coast, d.C.FlyingStart = .1, true, true
	})
	in.Terminals, in.Analog = 1, 10
	turn(d, in, 12)
	if math.Abs(d.Speed-1800) > 8 {
		t.Fatalf("%v r/min, %s", d.Speed, d.Fault)
	}
	in.Terminals = 0
	turn(d, in, 1)
	at := d.Speed
	in.Terminals = 1
	turn(d, in, 4)
	if d.Fault != "" || math.Abs(d.Speed-1800) > 8 {
		t.Errorf("caught at %v: %v r/min, %s", at, d.Speed, d.Fault)
	}
	in.Terminals, in.Line = 0, false
	turn(d, in, .2)
	d.v = 100
	turn(d, in, .3)
	m, _ := machine.MagnetOf(sorter)
	if want := m.EMF(d.x.W) * math.Sqrt2; math.Abs(d.Link-want)/want > .15 {
		t.Errorf("mains off, the rotor turns at %v r/min: link %v V, the magnets induce %v V", d.Speed, d.Link, want)
	}
	// Overloaded it falls out of step or is stopped by its drive; figures stay figures.
	d, in = magnets(func(d *Drive) { d.P.Load.Torque = 40; d.C.Stall = "fault" })
	in.Terminals, in.Analog = 1, 10
	turn(d, in, 12)
	if d.Diverged() || math.IsNaN(d.Current) || d.Speed > 1700 {
		t.Errorf("five times its torque: %v r/min, %v A, %q", d.Speed, d.Current, d.Fault)
	}
	if d.Damage != "" && !strings.Contains(d.Damage, "magnet") {
		t.Errorf("damage: %q", d.Damage)
	}
}

// A torque limit holds the torque of a machine with magnets too: without load it speeds up at limit over inertia, and no quicker, however
// steep the ramp; the ramp waits for it, so that it is not run away from.
func TestATorqueLimitWithMagnets(t *testing.T) {
	d, in := magnets(func(d *Drive) {
		d.P.Load, d.P.LoadJ, d.C.Inertia = motion.Load{}, .05, .05
		d.C.Rise, d.C.TorqueLimit, d.C.TorqueBraking = 15, .5, .5
	})
	in.Terminals, in.Analog = 1, 10
	for range 4000 { // out of the lowest speeds, where it goes round without looking
		if turn(d, in, .001); d.Speed > 500 {
			break
		}
	}
	d.C.Rise = 200
	from, at := d.Speed, d.Time
	held := false
	for range 4000 {
		turn(d, in, .001)
		held = held || d.Limiting == "torque"
		if d.Speed > 1200 {
			break
		}
	}
	rated := 1500 * 30 / (math.Pi * 1800)
	got := (d.Speed - from) * math.Pi / 30 / (d.Time - at)
	check.Against(t, "a magnet machine at half its rated torque speeds up by, rad/s²", "J dω/dt = T, by hand", got,
		.5*rated/(d.P.Inertia+.05), .06)
	if !held || d.Fault != "" || d.Ramp() > d.Hz+ahead+1 {
		t.Errorf("held %v, %q, ramp at %v Hz, output %v Hz", held, d.Fault, d.Ramp(), d.Hz)
	}
	turn(d, in, 6)
	if math.Abs(d.Speed-1800) > 8 || d.Fault != "" {
		t.Errorf("in the end %v r/min, %s", d.Speed, d.Fault)
	}
}
