package bench_test

import (
	"math"
	"slices"
	"testing"

	"tingate/bench"
	"tingate/core/dialect"
	"tingate/formats/familyfile"
)

// What is wished at gate Span becomes settings of each family, and by them the drive has it: in Hz, A, s, whatever each counts in.
func TestWishesReachTheDrive(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		s := setup(t, family)
		f := familyfile.Find(family)
		p := &dialect.Plan{Motor: dialect.Row{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82}, Poles: 4, DriveCurrent: s.Size.Heavy, Load: "constant", LoadTorque: 0,
			Numbers: map[string]float64{"rise": 300, "fall": 300, "lowest_speed": 0, "highest_speed": 1500, "current_limit": 1.5}, Choices: map[string]string{"control": "volts-per-hertz"}}
		w := dialect.Wished{On: map[string]bool{"dc-brake": true, "resistor": true, "bus-control": false, "flying-start": true, "run-at-power": true},
			Numbers: map[string]float64{"skip-1-from": 600, "skip-1-to": 660, "skip-2-from": 900, "skip-2-to": 960, "rounding": .2, "dc-brake-current": .5, "dc-brake-time": 2, "resistor-ohm": 60, "boost": .04, "reverse-wait": 1.5, "hand-speed": 450, "reference-filter": .1, "preset-4": 750}}
		wished, lacks := f.Wish(p, w)
		for code, fn := range wished {
			if fn.Problem != "" || fn.Because == "" {
				t.Errorf("%s %s: %+v", family, code, fn)
			}
			s.Values[code] = fn.Steps
		}
		if family != "Brae" && family != "Voe" && len(lacks) != 0 || slices.Contains(lacks, "a skip band") {
			t.Errorf("%s lacks %v", family, lacks)
		}
		c := bench.Configure(f, s.Values, s.Size)
		near := func(what string, got, want, within float64) {
			if slices.Contains(lacks, what) {
				return
			}
			if math.Abs(got-want) > within {
				t.Errorf("%s: %s is %g, want %g", family, what, got, want)
			}
		}
		near("first skip band", c.Skip[0], 21, .15) // 630 r/min of four poles
		near("second skip band", c.Skip[1], 31, .15)
		near("width", c.SkipWidth, 2, .25)
		near("rounding of the ramps", c.SStart, .2, .02)
		near("rounding of the ramps", c.SEnd, .2, .02)
		near("DC brake current", c.BrakeAmps, 7.55, .3)
		near("DC brake time", c.BrakeTime, 2, .01)
		near("boost at standstill", c.Boost, .04, .002)
		near("wait before reverse", c.ReverseWait, 1.5, .01)
		near("hand speed", c.Hand, 15, .1)
		near("filter of the reference", c.Filter, .1, .01)
		near("preset 4", c.Presets[4], 25, .1)
		near("braking resistor", bench.Resistor(f, s.Values), 60, .5)
		for what, on := range map[string]bool{"flying start": c.FlyingStart, "run held at power-up": c.RunAtPower, "fall lengthened by the DC link": !c.BusControl} {
			if !on && !slices.Contains(lacks, what) {
				t.Errorf("%s: %s does not reach the drive", family, what)
			}
		}
		t.Logf("%s has no %v", family, lacks)
	}
	// Out of range is said, and nothing is put into the drive.
	f := familyfile.Find("Tarn")
	out, _ := f.Wish(&dialect.Plan{DriveCurrent: 16}, dialect.Wished{Numbers: map[string]float64{"dc-brake-time": 4000}})
	for _, fn := range out {
		if fn.Problem == "" {
			t.Errorf("%+v", fn)
		}
	}
}
