package drive

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

// A phase to earth: half of the link's voltage drives the current, at any frequency; the drive trips by it, unless it is set not to.
func TestAPhaseToEarth(t *testing.T) {
	for _, hz := range []float64{5, 45} {
		d, in := run(func(d *Drive) { d.C.EarthFault = "off" }, 1)
		in.Analog = hz / 5
		turn(d, in, 9)
		before := d.Phases[2]
		d.P.Broken.EarthOhms = 25
		d.Reload()
		turn(d, in, .5)
		check.Against(
			t,
			"current of a phase to earth, A rms",
			"legs at plus and minus half of the link over the resistance, by hand",
			d.Earth,
			d.v/2/25,
			1e-9,
		)
		if d.Fault != "" || math.Abs(d.Phases[2]-math.Hypot(before, d.Earth)) > .5 || d.Phases[0] > 1.1*before {
			t.Errorf("%v Hz: %s, %v A, %v A to earth", hz, d.Fault, d.Phases, d.Earth)
		}
		d.C.EarthFault = "fault"
		turn(d, in, .1)
		if d.Fault != "earth-fault" {
			t.Errorf("not seen: %q", d.Fault)
		}
		turn(d, in, .1)
		if d.Earth != 0 {
			t.Errorf("%v A to earth while nothing is switched", d.Earth)
		}
	}
	d, _ := run(func(d *Drive) { d.P.Broken.EarthOhms, d.C.EarthFault = 25, "warning" }, 5)
	if d.Fault != "" || d.Warning != "earth-fault" {
		t.Errorf("warned of: %q, fault %q", d.Warning, d.Fault)
	}
	d, _ = run(func(d *Drive) { d.P.Broken.EarthOhms, d.C.EarthFault = 1500, "fault" }, 5)
	if d.Fault != "" || d.Earth < .1 || d.Earth > .3*d.C.Rated {
		t.Errorf("damp: %s, %v A", d.Fault, d.Earth)
	}
	d, _ = run(func(d *Drive) { d.P.Broken.EarthOhms, d.C.EarthFault = 2, "fault" }, 5)
	if d.Fault != "overcurrent" {
		t.Errorf("solid: %q, %v A", d.Fault, d.Earth)
	}
}

// A fault that only a power cycle clears, and the motor's warmth: a short dip takes neither, and whoever forgets the warmth without power
// does so in the dark.
func TestWhatTheDarkTakes(t *testing.T) {
	for _, forgets := range []bool{false, true} {
		d, in := run(func(d *Drive) {
			d.C.EarthFault, d.C.PowerClears, d.C.WarmthForgotten, d.P.Load.Torque = "fault", []string{"earth-fault"}, forgets, 48
		}, 40)
		warm := d.Warmth
		d.P.Broken.EarthOhms = 25
		d.Reload()
		turn(d, in, .1)
		in.Terminals, in.Reset = 0, true
		turn(d, in, .1)
		in.Reset, in.Line = false, false
		turn(d, in, .2)
		in.Line = true
		turn(d, in, 1)
		if d.Fault != "earth-fault" || d.Blocked != "power-cycle" || d.Warmth < .9*warm || warm < .05 {
			t.Errorf("after a dip: %q, %q, warmth %v of %v", d.Fault, d.Blocked, d.Warmth, warm)
		}
		d.P.Broken.EarthOhms = 0
		d.Reload()
		in.Line = false
		turn(d, in, 40)
		in.Line = true
		turn(d, in, 2)
		if d.Fault != "" || forgets != (d.Warmth < .01) {
			t.Errorf("after the dark: %q, warmth %v, forgets %v", d.Fault, d.Warmth, forgets)
		}
	}
}
