package drive

import (
	"math"
	"testing"

	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/testtools/check"
)

// A second motor on the same output that turns without a load adds its magnetising current, which lags, to what the first takes.
func TestASecondMotorOnTheSameOutput(t *testing.T) {
	sized := func(d *Drive) { d.C.Rated, d.C.CurrentLimit, d.C.Overload = 34, 48, 0 } // for both
	for _, control := range []string{"volts-per-hertz", "vector"} {
		one, _ := run(func(d *Drive) { sized(d); d.C.Control, d.P.Load = control, motion.Load{} }, 9)
		two, in := run(func(d *Drive) { sized(d); d.C.Control, d.P.Load, d.P.Broken.SecondMotor = control, motion.Load{}, true }, 9)
		if control == "vector" { // what is known of one motor fits neither
			if two.Fault != "motor-overload" || two.Speed > 200 {
				t.Errorf("vector control of two: %.0f r/min, %q", two.Speed, two.Fault)
			}
			continue
		}
		if two.Fault != "" || math.Abs(two.Speed-one.Speed) > 5 || math.Abs(two.SecondSpeed()-two.Speed) > 15 {
			t.Errorf("%s: %.1f and %.1f r/min, alone %.1f; %s", control, two.Speed, two.SecondSpeed(), one.Speed, two.Fault)
		}
		check.Against(t, "current of two motors without a load over that of one", "two equal impedances in parallel",
			two.Current/one.Current, 2, .01)
		in.Terminals = 0
		turn(two, in, 14)
		if two.Running || math.Abs(two.SecondSpeed()) > 60 {
			t.Errorf("%s: stopped, the second turns with %.1f r/min", control, two.SecondSpeed())
		}
	}
	loaded, _ := run(func(d *Drive) { sized(d); d.P.Broken.SecondMotor = true }, 9)
	alone, _ := run(func(*Drive) {}, 9)
	phi := func(d *Drive) float64 { return math.Acos(d.Working / d.Current) }
	idle, _ := run(func(d *Drive) { d.P.Load = motion.Load{} }, 9)
	re := alone.Current*math.Cos(phi(alone)) + idle.Current*math.Cos(phi(idle))
	im := alone.Current*math.Sin(phi(alone)) + idle.Current*math.Sin(phi(idle))
	check.Against(t, "current of a loaded and a free motor in parallel, A", "their phasors added", loaded.Current, math.Hypot(re, im), .02)
}

// What comes onto a drum that turns lies still: speed falls by momentum, and comes back against the larger inertia.
func TestADrumThatFills(t *testing.T) {
	d, in := run(func(d *Drive) { d.P.Load, d.C.Coast = motion.Load{}, true }, 9)
	in.Terminals = 0
	turn(d, in, .5)
	w := d.x.W
	d.P.Broken.Filled = 3
	d.Reload()
	j := d.P.Inertia
	check.Against(t, "speed after an inertia has come on, over that before", "conservation of angular momentum",
		d.x.W/w, (j+.25)/(j+.75), 1e-9)
	w = d.x.W
	d.P.Broken.Filled = 0
	d.Reload()
	if d.x.W != w {
		t.Errorf("taken off: %v, want %v rad/s", d.x.W, w)
	}
	rises := func(filled float64) float64 {
		d, in := run(func(d *Drive) {
			d.P.Load, d.C.Coast, d.P.Broken.Filled = motion.Load{Kind: "constant", Torque: 12}, true, filled
		}, 9)
		in.Terminals = 0
		turn(d, in, .5)
		w := d.x.W
		turn(d, in, .5)
		return (w - d.x.W) / .5
	}
	check.Against(t, "slowing down of a drum that has filled over that of an empty one", "Newton, with the friction of the motor",
		rises(0)/rises(3), (j+.75)/(j+.25), .015)
}

// Friction beside a fan: it holds at rest, and is there at every speed.
func TestFrictionBesideAFan(t *testing.T) {
	fan, _ := run(func(*Drive) {}, 9)
	both, in := run(func(d *Drive) { d.P.Load.Rubs = 12 }, 9)
	check.Against(t, "torque of a fan that rubs, over that of the fan, N·m", "their sum, the fan's at the slower shaft",
		both.Torque-fan.Torque, 12-40*(fan.Speed*fan.Speed-both.Speed*both.Speed)/1451.5/1451.5, .02)
	in.Terminals = 0
	turn(both, in, 12)
	if both.x.W != 0 {
		t.Errorf("it does not come to rest: %v rad/s", both.x.W)
	}
	l := motion.Load{Kind: "quadratic", Torque: 40, Speed: 152, Rubs: 5}
	for torque, holds := range map[float64]bool{4: true, -5: true, 6: false} {
		if l.Holds(torque) != holds {
			t.Errorf("a fan that rubs with 5 N·m holds %v N·m: %v", torque, !holds)
		}
	}
	hangs := motion.Load{Kind: "hanging", Torque: 20, Rubs: 30}
	if !hangs.Holds(0) || hangs.Holds(60) {
		t.Error("a load that hangs in a gear that rubs more than it pulls")
	}
}

// Two inductances: the textbook's power and angle of the salient-pole machine, and a state of that textbook stays as it is.
func TestMagnetsThatAreBuried(t *testing.T) {
	d, _ := magnets(func(d *Drive) { d.P.Broken.Buried = 2.2; d.P.Motor.Rs = 0 })
	m := d.P.Motor
	psi, ld, lq := d.P.Magnet, m.Ls, 2.2*m.Ls
	we := 2 * math.Pi * 60.
	u := 1.02 * we * psi
	for _, delta := range []float64{.2, .7, 1.2} { // of the voltage before the magnets' own
		a := -delta - math.Pi/2 // the voltage along d, the flux that it makes a quarter turn behind it, the magnets delta behind that
		x := machine.Flux{Qs: -u / we, Dr: psi * math.Cos(a), Qr: psi * math.Sin(a), W: we / m.Pairs}
		want := 1.5 * m.Pairs * (u/we*psi/ld*math.Sin(delta) + u/we*u/we/2*(1/lq-1/ld)*math.Sin(2*delta))
		_, _, got := d.alone(&x)
		check.Against(t, "torque of a salient-pole machine at an angle, N·m",
			"power and angle: E V/Xd sin δ + V²/2 (1/Xq − 1/Xd) sin 2δ, without resistance", got, want, 1e-9)
		next, _, _ := d.spin(x, u, 0, we, Tick, 0, machine.Drag{})
		if math.Hypot(next.Ds-x.Ds, next.Qs-x.Qs) > 1e-4*psi || math.Hypot(next.Dr-x.Dr, next.Qr-x.Qr) > 1e-9 {
			t.Errorf("at %v rad: flux %+v, then %+v", delta, x, next)
		}
	}
	// The drive takes them for one, and runs with them in both ways of control.
	for _, control := range []string{"vector", "volts-per-hertz"} {
		d, in := magnets(func(d *Drive) { d.C.Control, d.P.Broken.Buried, d.P.Load.Torque, d.C.Boost = control, 1.8, 5, .04 })
		in.Terminals, in.Analog = 1, 10
		turn(d, in, 9)
		if d.Fault != "" || math.Abs(d.Speed-1800) > 10 {
			t.Errorf("%s: %.0f r/min, %.1f A, %s", control, d.Speed, d.Current, d.Fault)
		}
		in.Terminals = 0
		turn(d, in, 5)
		if d.Running || math.Abs(d.Speed) > 70 { // the angle that it takes for the magnets' is a little off
			t.Errorf("%s stopped: %v, %v r/min", control, d.Running, d.Speed)
		}
	}
}
