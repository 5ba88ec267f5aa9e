package drive

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

// While the mains is away what turns feeds the link: it is held above its undervoltage, and the shaft loses what load and losses take. When
// the mains is back it goes up again by itself, without a fault.
func TestTheShaftFeedsTheLink(t *testing.T) {
	for _, control := range []string{"volts-per-hertz", "vector", "encoder"} {
		for _, kind := range []string{"none", "quadratic", "constant"} {
			d := works()
			d.C.Control, d.C.RideThrough, d.P.Lines, d.C.Lines = control, true, 1024, 1024
			d.P.Load.Kind, d.P.Load.Torque, d.P.LoadJ = kind, 30, 1.5
			d.Reload()
			in := ready(d)
			in.Terminals, in.Analog = 1, 9
			turn(d, in, 20)
			in.Line = false
			turn(d, in, .5)
			j, w0 := d.P.Inertia+d.P.LoadJ, d.x.W
			energy, air, low, high := 0., 0., d.v, d.v
			for range 1000 { // what leaves the shaft: into the load, and through the air gap into the drive
				turn(d, in, Tick)
				t, _ := d.rubbing.At(d.x.W)
				energy += Tick * d.x.W * (t + d.P.Rub*d.x.W)
				air -= Tick * d.x.W * d.Torque
				low, high = math.Min(low, d.v), math.Max(high, d.v)
			}
			lost := .5 * j * (w0*w0 - d.x.W*d.x.W)
			const how = "kinetic energy of what turns: half J times the difference of the squares, by hand"
			check.Against(t, "energy of a shaft that feeds a link, J", how, lost, energy+air, .02)
			if d.Fault != "" || d.Limiting != "mains" || low < 1.05*d.C.Undervolts || high > 520 || air < 0 {
				t.Errorf("%s, %s: %s, %s, link %.0f to %.0f V", control, kind, d.Fault, d.Limiting, low, high)
			}
			in.Line = true
			turn(d, in, 6)
			if d.Fault != "" || d.Speed < 1300 || d.Limiting != "" {
				t.Errorf("%s, %s: back: %s %s, %.0f r/min", control, kind, d.Fault, d.Limiting, d.Speed)
			}
			in.Line = false
			turn(d, in, 30)
			if kind != "none" && d.Fault != "bus-under-voltage" {
				t.Errorf("%s, %s: away for good: %q, %.0f r/min, %.0f V", control, kind, d.Fault, d.Speed, d.v)
			}
		}
	}
}

// A mains that is low for long is not one that is away; one that goes while the drive stops is ridden through as well, and the stop goes
// on.
func TestALowMainsIsNotAway(t *testing.T) {
	for _, control := range []string{"volts-per-hertz", "vector"} {
		low := func(d *Drive) {
			d.C.Control, d.C.RideThrough, d.P.LoadJ, d.C.High = control, true, 1.5, 35
			d.P.Broken.Sag = .2
		}
		d, in := run(low, 15)
		if d.Fault != "" || d.Limiting != "" || math.Abs(d.Hz-35) > 1.5 {
			t.Errorf("%s, low from the beginning: %s, %s, %v Hz", control, d.Fault, d.Limiting, d.Hz)
		}
		d, in = run(func(d *Drive) { low(d); d.P.Broken.Sag = 0 }, 15)
		in.Terminals = 0
		turn(d, in, .5)
		before := d.Speed
		in.Line = false
		high := 0.
		for range 600 {
			turn(d, in, Tick)
			high = math.Max(high, d.v)
		}
		if d.Fault != "" || d.Phase != Stopping || d.Speed < .6*before || high > 1.02*d.C.Overvolts {
			t.Errorf("%s, away while it stops: %s, %s, %.0f r/min from %.0f, link to %.0f V", control, d.Fault, d.Phase, d.Speed, before,
				high)
		}
		in.Line = true
		turn(d, in, 20)
		if d.Fault != "" || d.Running {
			t.Errorf("%s, back: %s, %s", control, d.Fault, d.Phase)
		}
	}
}

// Without it a drive under load trips when the mains is away for a fifth of a second; a dip that the link outlives is nothing.
func TestADipWithoutBuffering(t *testing.T) {
	d, in := run(func(d *Drive) { d.P.Load.Kind, d.C.High = "constant", 25 }, 10)
	in.Line = false
	turn(d, in, .005)
	in.Line = true
	turn(d, in, 1)
	if d.Fault != "" || !d.Running {
		t.Errorf("5 ms: %s", d.Fault)
	}
	v, p := d.v, d.Power
	in.Line = false
	took := 0.
	for d.Fault == "" && took < 1 {
		turn(d, in, Tick)
		took += Tick
	}
	if d.Fault != "bus-under-voltage" {
		t.Fatalf("away: %q", d.Fault)
	}
	const how = "half C times the difference of the squares, over the power, by hand"
	check.Against(t, "time that a link carries its load, s", how, took,
		.5*d.P.Link.C*(v*v-d.C.Undervolts*d.C.Undervolts)/p, .08)
}
