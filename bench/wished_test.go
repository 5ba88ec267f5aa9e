package bench_test

import (
	"math"
	"slices"
	"testing"

	"tingate/bench"
	"tingate/core/dialect"
	"tingate/formats/familyfile"
	"tingate/testtools/benches"
)

// What is wished at gate Span becomes settings of each family, and by them the drive has it: in Hz, A, s, whatever each counts in.
func TestWishesReachTheDrive(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		s := benches.Setup(t, family)
		f := familyfile.Find(family)
		p := &dialect.Plan{Motor: dialect.Row{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82}, Poles: 4,
			DriveCurrent: s.Size.Heavy, Load: "constant", LoadTorque: 0,
			Numbers: map[string]float64{"rise": 300, "fall": 300, "lowest_speed": 0, "highest_speed": 1500, "current_limit": 1.5},
			Choices: map[string]string{"control": "volts-per-hertz"}}
		w := dialect.Wished{On: map[string]bool{"dc-brake": true, "resistor": true, "bus-control": false, "flying-start": true,
			"run-at-power": true},
			Numbers: map[string]float64{"skip-1-from": 600, "skip-1-to": 660, "skip-2-from": 900, "skip-2-to": 960, "rounding": .2,
				"dc-brake-current": .5, "dc-brake-time": 2, "resistor-ohm": 60, "boost": .04, "reverse-wait": 1.5, "hand-speed": 450,
				"reference-filter": .1, "preset-4": 750}}
		wished, lacks := f.Wish(p, w)
		for code, fn := range wished {
			if fn.Problem != "" || fn.Because == "" {
				t.Errorf("%s %s: %+v", family, code, fn)
			}
			s.Values[code] = fn.Steps
		}
		if family != "Brae" && family != "Voe" && len(lacks) != 0 || has(lacks, "a skip band") {
			t.Errorf("%s lacks %v", family, lacks)
		}
		c := bench.Configure(f, s.Values, s.Size)
		near := func(what string, got, want, within float64) {
			if has(lacks, what) {
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
		ohms, _ := bench.Resistor(f, s.Values)
		near("braking resistor", ohms, 60, .5)
		for what, on := range map[string]bool{"flying start": c.FlyingStart, "run held at power-up": c.RunAtPower,
			"fall lengthened by the DC link": !c.BusControl} {
			if !on && !has(lacks, what) {
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

// A process loop, its sleep and the torque limits become settings of each family that has them, in its own units; what it has not is said.
func TestALoopAndTorqueLimitsAreSet(t *testing.T) {
	w := dialect.Wished{On: map[string]bool{"loop": true},
		Numbers: map[string]float64{"loop-gain": 1.5, "loop-time": 12, "loop-setpoint": .6, "sleep": 450, "torque-limit": 1.2,
			"torque-limit-braking": .8}}
	for family, want := range map[string]map[string]string{
		"Tarn": {"9K": "on", "9L": "1.50", "9M": "12.0 s", "9N": "60.0 %", "9P": "15.0 Hz"},
		"Brae": {"service.loop": "yes", "service.loopgain": "1.50", "service.looptime": "12.0 s", "service.loopset": "60.0 %",
			"service.sleep": "450 r/min", "limit.torque": "120 %", "limit.torquebrake": "80 %"},
		"Voe": {"2007h:08": "on", "2007h:09": "1.50", "2007h:0A": "12000 ms", "2007h:0B": "60.0 %", "2007h:0C": "30.0 %",
			"6072h:00": "1200 ‰"},
	} {
		f := familyfile.Find(family)
		p := &dialect.Plan{Motor: dialect.Row{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82}, Poles: 4,
			DriveCurrent: 16, Load: "constant", LoadTorque: 0, Numbers: map[string]float64{"highest_speed": 1455},
			Choices: map[string]string{"control": "volts-per-hertz"}}
		out, lacks := f.Wish(p, w)
		for code, text := range want {
			s, ok := f.Setting(code)
			if fn, there := out[code]; !ok || !there || s.WithUnit(fn.Steps) != text || fn.Problem != "" {
				t.Errorf("%s %s is %q, want %s", family, code, s.WithUnit(fn.Steps), text)
			}
		}
		if has := len(lacks); has != map[string]int{"Tarn": 2, "Brae": 0, "Voe": 1}[family] {
			t.Errorf("%s lacks %v", family, lacks)
		}
	}
}

func has(l []dialect.Lack, words string) bool {
	return slices.ContainsFunc(l, func(x dialect.Lack) bool { return x.Words == words })
}

// However a family counts its speeds, the drive goes as fast: each way by which its settings can count, from the same plan.
func TestSpeedsCountedInEachWay(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		ways := familyfile.Find(family).SpeedUnits()
		if len(ways) < 2 {
			t.Errorf("%s counts in %v", family, ways)
		}
		for _, as := range ways {
			s := benches.Setup(t, family)
			f := familyfile.Find(family).CountedIn(as)
			p := &dialect.Plan{
				Motor:        dialect.Row{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82},
				Poles:        4,
				DriveCurrent: s.Size.Heavy,
				Load:         "constant",
				LoadTorque:   0,
				Numbers: map[string]float64{"rise": 300, "fall": 300, "lowest_speed": 0, "highest_speed": 1500, "current_limit": 1.5,
					"preset_1": 300, "preset_2": 615, "preset_3": 1200, "jog": 120},
				Choices: map[string]string{"control": "volts-per-hertz"},
			}
			wished, lacks := f.Wish(p, dialect.Wished{Means: map[string]string{"speed-unit": as},
				Numbers: map[string]float64{"hand-speed": 450, "preset-4": 750}})
			if len(lacks) > 0 && family != "Tarn" {
				t.Errorf("%s in %s lacks %v", family, as, lacks)
			}
			p.Functions = wished
			for _, l := range f.Sheet(p) {
				if l.Planned {
					s.Values[l.Setting.Code] = l.Steps
				}
			}
			c := bench.Configure(f, s.Values, s.Size)
			for what, x := range map[string][2]float64{"preset 1": {c.Presets[1], 10}, "preset 2": {c.Presets[2], 20.5},
				"preset 3": {c.Presets[3], 40},
				"jog":      {c.Jog, 4}, "hand": {c.Hand, 15}} {
				if what == "hand" && family == "Tarn" {
					continue
				}
				if math.Abs(x[0]-x[1]) > .06 {
					t.Errorf("%s in %s: %s is %g Hz, want %g", family, as, what, x[0], x[1])
				}
			}
			unit := map[string]string{"hz": "Hz", "percent": "%", "rpm": "r/min"}[as]
			for i := range f.Settings {
				if x := f.Settings[i]; x.Intent == "speed.preset.1" && x.Unit != unit {
					t.Errorf("%s in %s shows %s", family, as, x.Unit)
				}
			}
		}
	}
}
