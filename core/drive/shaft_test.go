package drive

import (
	"math"
	"strings"
	"testing"

	"tingate/core/motion"
	"tingate/testtools/check"
)

// hoist is a hanging load of 30 N·m with a brake that the drive opens.
func hoist(brake float64) func(*Drive) {
	return func(d *Drive) {
		d.P.Load = motion.Load{Kind: "hanging", Torque: 30}
		d.P.Brake = Brake{Torque: brake, Follows: true, Opens: .15, Closes: .1}
		d.C.Boost = .03
	}
}

// The load hangs on its brake at rest, is lifted, and falls a little when torque goes, until the brake has closed. Without a
// brake it falls on.
func TestAHangingLoadHangsOnItsBrake(t *testing.T) {
	d := works()
	hoist(100)(d)
	d.Reload()
	in := ready(d)
	turn(d, in, 1)
	if d.Speed != 0 || d.Travel != 0 || d.Gripping != 1 {
		t.Fatalf("at rest: %v r/min, %v turns, brake %v", d.Speed, d.Travel, d.Gripping)
	}
	in.Terminals, in.Analog = 1, 4
	turn(d, in, 4)
	if d.Speed < 500 || d.Gripping != 0 || d.Fault != "" {
		t.Fatalf("lifting: %v r/min, brake %v, %s %s", d.Speed, d.Gripping, d.Fault, d.Limiting)
	}
	// Torque off on the way up: it goes on, turns, and is caught.
	in.A, in.B = false, false
	top := d.Travel
	turn(d, in, 2)
	if d.Speed != 0 || d.Gripping != 1 || d.Travel < top-1 {
		t.Errorf("caught: %v r/min, brake %v, %v turns after %v", d.Speed, d.Gripping, d.Travel, top)
	}
	free := works()
	hoist(0)(free)
	free.Reload()
	in = ready(free)
	turn(free, in, 1)
	if free.Speed > -20 {
		t.Errorf("a hanging load without a brake stays at %v r/min", free.Speed)
	}
	// A brake that holds less than hangs on it slips.
	weak := works()
	hoist(20)(weak)
	weak.Reload()
	in = ready(weak)
	turn(weak, in, 1)
	if weak.Speed > -5 || weak.Speed < free.Speed {
		t.Errorf("a weak brake: %v r/min, none %v", weak.Speed, free.Speed)
	}
}

func TestARunAgainstTheBrakeIsSaid(t *testing.T) {
	d, _ := run(func(d *Drive) { d.P.Brake = Brake{Torque: 10, Opens: .1, Closes: .1} }, 6)
	if !strings.Contains(d.Damage, "brake") || d.Speed < 100 {
		t.Errorf("%q at %v r/min", d.Damage, d.Speed)
	}
	d, _ = run(func(d *Drive) { d.P.Brake = Brake{Torque: 10, Opens: .1, Closes: .1, Lifted: true} }, 6)
	if d.Damage != "" || d.Gripping != 0 {
		t.Errorf("opened by its own supply: %q, %v", d.Damage, d.Gripping)
	}
}

// Two masses on a shaft: plucked, they swing at √(k(1/J1 + 1/J2)) and the momentum of both stays; run, they end as one.
func TestTwoMassesSwing(t *testing.T) {
	const hz = 9.0
	d := works()
	d.P.LoadJ, d.P.Load, d.P.Rub = .3, motion.Load{}, 0
	d.P.Shaft = ShaftFor(hz, d.P.Inertia, d.P.LoadJ)
	d.Reload()
	d.twist = .05
	in := Inputs{A: true, B: true}
	crossings, first, last, was := 0, 0., 0., 0.
	for range 1000 {
		d.Step(&in)
		between := d.x.W - d.LoadW
		if was < 0 && between >= 0 {
			if crossings++; crossings == 1 {
				first = d.Time
			}
			last = d.Time
		}
		was = between
	}
	check.Against(t, "two masses of a drive train, natural frequency, Hz", "√(k(1/J1 + 1/J2))/2π, any textbook of vibration",
		float64(crossings-1)/(last-first), hz, .02)
	if sum := d.P.Inertia*d.x.W + d.P.LoadJ*d.LoadW; math.Abs(sum) > .02*d.P.LoadJ {
		t.Errorf("momentum made of nothing: %v", sum)
	}
	stiff, _ := run(func(d *Drive) { d.P.LoadJ = .2 }, 9)
	soft, _ := run(func(d *Drive) { d.P.LoadJ, d.P.Shaft = .2, ShaftFor(12, d.P.Inertia, .2) }, 9)
	if math.Abs(soft.Speed-stiff.Speed) > 1 || math.Abs(soft.LoadW-soft.x.W) > .1 {
		t.Errorf("stiff %v, soft %v r/min, load %v of %v rad/s", stiff.Speed, soft.Speed, soft.LoadW, soft.x.W)
	}
	// The load jams behind the shaft: the motor is wound up against it and stops too.
	jam, in2 := run(func(d *Drive) { d.P.LoadJ, d.P.Shaft = .2, ShaftFor(12, d.P.Inertia, .2) }, 6)
	jam.P.Broken.Jammed = true
	jam.Reload()
	turn(jam, in2, 6)
	if jam.LoadW != 0 || math.Abs(jam.x.W) > 8 {
		t.Errorf("jammed: load %v, motor %v rad/s", jam.LoadW, jam.x.W)
	}
}

// Held still at 25 Hz a rotor with deep bars pulls more than one without; at its running slip they are alike.
func TestDeepBarsPullAtStandstill(t *testing.T) {
	held := func(bar float64) float64 {
		d, _ := run(func(d *Drive) {
			d.P.Bar, d.P.Broken.Jammed = bar, true
			d.C.CurrentLimit, d.C.Stall, d.C.Rise, d.C.High, d.C.Overload = 200, "off", 200, 25, 0
			d.C.Rated = 100
		}, 1.5)
		return d.Torque
	}
	if without, with := held(0), held(2.5); with < 1.15*without {
		t.Errorf("held: %v N·m with, %v without", with, without)
	}
	running := func(bar float64) float64 { d, _ := run(func(d *Drive) { d.P.Bar = bar }, 9); return d.Speed }
	if a, b := running(0), running(2.5); math.Abs(a-b) > 4 {
		t.Errorf("running: %v and %v r/min", a, b)
	}
}
