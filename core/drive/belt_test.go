package drive

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

// A belt carries a torque and no more: under more the motor runs away from its load, which takes up speed by the belt's torque alone.
func TestABeltThatSlips(t *testing.T) {
	d, in := run(func(d *Drive) {
		d.P.Load.Kind, d.P.Load.Torque, d.P.LoadJ, d.C.Rise, d.P.Broken.BeltSlips = "constant", 8, .6, 25, 14
	}, .5)
	turn(d, in, .5)
	w0, t0 := d.LoadW, d.Time
	turn(d, in, .8)
	check.Against(
		t,
		"acceleration of a load behind a belt that slips, rad/s²",
		"Newton: what the belt carries less the load, over its inertia, by hand",
		(d.LoadW-w0)/(d.Time-t0),
		(14-8)/.6,
		.01,
	)
	if d.LoadW > .5*d.x.W || d.Fault != "" {
		t.Errorf("motor %.0f rad/s, load %.0f rad/s, %s", d.x.W, d.LoadW, d.Fault)
	}
	turn(d, in, 20)
	if math.Abs(d.LoadW/d.x.W-1) > .01 {
		t.Errorf("once it has caught up it holds: motor %.1f rad/s, load %.1f rad/s", d.x.W, d.LoadW)
	}
	d, _ = run(func(d *Drive) {
		d.P.Load.Kind, d.P.Load.Torque, d.P.LoadJ, d.P.Broken.BeltSlips = "constant", 20, .6, 14
	}, 9)
	if d.LoadW != 0 || d.Speed < 1300 || d.Fault != "" {
		t.Errorf("a load that the belt does not carry: motor %.0f r/min, load %.1f rad/s, %s", d.Speed, d.LoadW, d.Fault)
	}
}

// Play between the flanks: nothing is felt of the load over the gap; torque and speed knock when it closes, and the run ends where a stiff
// one does.
func TestPlayInTheGears(t *testing.T) {
	stiff, _ := run(func(d *Drive) { d.P.Load.Kind, d.P.Load.Torque = "constant", 20 }, 9)
	d, in := run(func(d *Drive) { d.P.Load.Kind, d.P.Load.Torque, d.P.Broken.Play = "constant", 20, .5 }, 9)
	if math.Abs(d.Speed-stiff.Speed) > 3 || math.Abs(d.LoadW-d.x.W) > 1 {
		t.Errorf("%.1f r/min, load %.1f r/min, stiff %.1f r/min", d.Speed, d.LoadW*30/math.Pi, stiff.Speed)
	}
	if math.Abs(d.twist) < .25 {
		t.Errorf("the flanks do not lie on each other: %v rad", d.twist)
	}
	in.Terminals = 0
	free := 0
	for range 6000 {
		turn(d, in, Tick)
		if torque, _, _ := d.through(d.x.W); torque == 0 && d.LoadW > 1 {
			free++
		}
	}
	if d.Fault != "" || d.Running {
		t.Errorf("%s, %v", d.Fault, d.Running)
	}
}

// A brake that drags loads the motor by what it keeps; one that opens late holds the start.
func TestABrakeThatDragsOrOpensLate(t *testing.T) {
	with := func(b Broken) *Drive {
		d, _ := run(func(d *Drive) {
			d.P.Brake, d.P.Broken = Brake{Torque: 100, Follows: true, Opens: .1, Closes: .1}, b
			d.P.Load.Torque = 20
		}, 9)
		return d
	}
	free, drags := with(Broken{}), with(Broken{BrakeDrags: .2})
	check.Against(
		t,
		"torque more of a brake that drags, N·m",
		"a fifth of its torque, less what the load lacks at the slower shaft, by hand",
		drags.Torque-free.Torque,
		20-20*(free.Speed*free.Speed-drags.Speed*drags.Speed)/1451/1451,
		.05,
	)
	start := func(b Broken) float64 {
		d := works()
		d.P.Brake, d.P.Broken = Brake{Torque: 100, Follows: true, Opens: .1, Closes: .1}, b
		d.Reload()
		in := ready(d)
		in.Terminals, in.Analog = 1, 10
		took := 0.
		for math.Abs(d.Speed) < 30 && took < 5 {
			turn(d, in, Tick)
			took += Tick
		}
		return took
	}
	if soon, late := start(Broken{}), start(Broken{BrakeLate: 1}); late < soon+.3 || late > soon+1.2 {
		t.Errorf("turns after %.2f s, with a brake that opens late after %.2f s", soon, late)
	}
}

// A mains that sags: less link, more current at the same load; below its undervoltage the drive trips.
func TestAMainsThatSags(t *testing.T) {
	d, in := run(func(d *Drive) { d.C.High = 35 }, 9)
	v := d.v
	d.P.Broken.Sag = .2
	d.Reload()
	turn(d, in, 5)
	check.Against(
		t,
		"link of a mains that is a fifth lower, V",
		"a bridge's mean follows its line: IEC 60146-1-1, 1.35 times the line",
		d.v/v,
		.8,
		.01,
	)
	if d.Fault != "" || math.Abs(d.Hz-35) > .01 {
		t.Errorf("%s, %v Hz", d.Fault, d.Hz)
	}
	d.P.Broken.Sag = .4
	d.Reload()
	turn(d, in, 2)
	if d.Fault != "bus-under-voltage" {
		t.Errorf("%q at %v V", d.Fault, d.v)
	}
}

// A phase that is away is seen where the load makes ripple of it, and not where the drive idles.
func TestALostLinePhaseIsSeenByItsRipple(t *testing.T) {
	for _, c := range []struct {
		torque float64
		want   string
	}{{48, "input-phase"}, {3, ""}} {
		d, _ := run(func(d *Drive) { d.P.Broken.PhaseLost, d.P.Load.Torque = true, c.torque }, 12)
		m := d.Mains()
		if d.Fault != c.want || m.Lines[2] != 0 {
			t.Errorf("%v N·m: %q, ripple %.0f V, lines %.1f A", c.torque, d.Fault, m.Ripple, m.Lines)
		}
	}
	d, _ := run(func(d *Drive) { d.P.Broken.Unbalance = .04 }, 12)
	if m := d.Mains(); d.Fault != "" || m.Lines[1] < 1.08*m.Lines[2] {
		t.Errorf("uneven: %q, %.1f A", d.Fault, m.Lines)
	}
}
