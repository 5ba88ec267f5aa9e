package dialect_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
	"tingate/testtools/check"
)

// dryer is a 7.5 kW, 400 V, 15.5 A, 1455 r/min, cos φ 0.83 motor on a 16 A drive, constant full torque,
// 360 to 1455 r/min, 8 s up and 10 s down, jog 150, presets 300, 600, 900, reference 0 to 1455 r/min.
func dryer() *dialect.Plan {
	return &dialect.Plan{
		Motor: dialect.Row{Name: "star 400 V row", Power: 7500, Voltage: 400, Current: 15.5, Frequency: 50, Speed: 1455, Factor: .83},
		OtherRows: []dialect.Row{{Name: "delta 230 V row", Power: 7500, Voltage: 230, Current: 26.8, Frequency: 50, Speed: 1455,
			Factor: .83}},
		Poles: 4, ServiceFactor: 1.15, DriveCurrent: 16, Load: "constant", LoadTorque: 1,
		Numbers: map[string]float64{"lowest_speed": 360, "highest_speed": 1455, "rise": 1455. / 8, "fall": 1455. / 10,
			"current_limit": 1.5, "jog": 150,
			"preset_1": 300, "preset_2": 600, "preset_3": 900, "reference_low": 0, "reference_high": 1455},
		Choices: map[string]string{"control": "volts-per-hertz", "slip_compensation": "off", "load_pattern": "constant",
			"direction": "forward", "stop_mode": "ramp", "overload_class": "10",
			"automatic_restart": "off", "command_source": "terminals", "speed_source": "voltage", "reference_signal": "voltage",
			"reference_loss": "stop", "torque_off_shows": "stop", "line_frequency": "50"},
	}
}

func sheet(t testing.TB, family string, p *dialect.Plan) map[string]dialect.Line {
	t.Helper()
	out := map[string]dialect.Line{}
	for _, l := range familyfile.Find(family).Sheet(p) {
		out[l.Setting.Code] = l
	}
	return out
}

// Worked by hand from the family's written conventions: Hz carry the slip at full torque, 1.5 Hz; ramps count to the
// highest frequency, 50 Hz: 50 ÷ (1455/8 · 4/120) = 8.247, up to 8.3 s; overload 15.5 ÷ 16 = 96.9, down to 96 %.
func TestTarnSheetWorkedByHand(t *testing.T) {
	lines := sheet(t, "Tarn", dryer())
	want := map[string]float64{"1B": 0, "4A": 7.5, "4B": 400, "4C": 50, "4D": 15.5, "4E": 1455, "4F": .83, "4H": 0, "4J": 0, "4K": 0,
		"6A": 50, "6B": 50, "6C": 13.5, "6K": 96, "6L": 0,
		"6M": 145, "6N": 0, "6P": 0, "6R": 0, "7A": 8.3, "7B": 10.4, "7C": 0, "7D": 6.5, "8A": 1, "8B": 1, "8C": 0, "8D": 0, "8E": 50,
		"8F": 11.5, "8G": 21.5, "8H": 31.5, "9B": 0}
	compare(t, "Tarn", lines, want)
}

// Brae counts r/min and hp, ramps to the plate speed, overload in amperes; with slip compensation on it regulates the
// shaft speed, so r/min stand as wanted: 7.5 ÷ 0.7457 = 10.06 hp; 1455 ÷ (1455/8) = 8.00 s. The signal is counted as gain
// and offset in percent of the highest 50 Hz: 1455 r/min is 48.5 Hz, so 0.970 and 0.
func TestBraeSheetWorkedByHand(t *testing.T) {
	p := dryer()
	p.Choices["slip_compensation"] = "on"
	lines := sheet(t, "Brae", p)
	want := map[string]float64{"region.supply": 50, "motor.power": 10.06, "motor.voltage": 400, "motor.frequency": 50,
		"motor.current": 15.5, "motor.speed": 1455, "motor.poles": 4, "motor.factor": .83,
		"control.mode": 1, "control.slip": 1, "control.flux": 0, "limit.range": 50, "limit.fastest": 1455, "limit.slowest": 360,
		"limit.current": 23.2, "limit.reverse": 0, "protect.overload": 15.5,
		"protect.class": 10, "protect.restart": 0, "protect.lost": 0, "ramp.up": 8, "ramp.down": 10, "ramp.stop": 1, "source.run": 2,
		"source.speed": 2, "input.gain": .97, "input.offset": 0,
		"preset.jog": 150, "preset.one": 300, "preset.two": 600, "preset.three": 900, "service.torqueoff": 0}
	compare(t, "Brae", lines, want)
}

// Voe counts power by a list, the ramp as a change of speed in whole seconds, limits in r/min of the field, fixed speeds in
// percent of the highest 50 Hz, overload in percent and the limit in per thousand of the motor's current. Without slip
// compensation 360 r/min need 12 + 1.5 = 13.5 Hz, 405 r/min of the field; 150 r/min 6.5 Hz, 13.0 %; 1455 r/min 50 Hz, 1500.
func TestVoeSheetWorkedByHand(t *testing.T) {
	lines := sheet(t, "Voe", dryer())
	want := map[string]float64{"2001h:01": 12, "2001h:02": 400, "2001h:03": 50, "6075h:00": 15500, "2001h:04": 1455, "2001h:05": .83,
		"604Dh:00": 4, "2001h:06": 0, "2001h:07": 0, "2001h:08": 1,
		"2002h:01": 50, "6046h:01": 405, "6046h:02": 1500, "6073h:00": 1500, "2002h:02": 100, "2002h:03": 1, "2002h:04": 1, "2002h:05": 0,
		"2002h:06": 1, "6048h:01": 1455, "6048h:02": 8,
		"6049h:01": 1455, "6049h:02": 10, "605Ch:00": 1, "2004h:01": 13, "2004h:02": 23, "2004h:03": 43, "2004h:04": 63, "2005h:01": 0,
		"2005h:02": 1, "2005h:03": 1, "2005h:04": 1, "2007h:02": 1}
	compare(t, "Voe", lines, want)
}

// The conventions that count one intent in two settings, and those that no shipped sheet above brings to a fraction.
func TestConventionsWorkedByHand(t *testing.T) {
	p := dryer()
	p.Choices["control"] = "vector" // Hz and r/min are tied by 120 f / p alone
	p.Numbers["reference_low"], p.Numbers["reference_high"] = 150, 1350
	p.Numbers["rise"] = 1455 / 2.5 // 582 r/min per s: 3 whole seconds, 1746 r/min
	p.Motor.Power, p.Numbers["current_limit"] = 370, 1.333
	voe, brae := sheet(t, "Voe", p), sheet(t, "Brae", p)
	got := func(l dialect.Line) float64 { return l.Setting.Value(l.Steps) }
	for _, c := range []struct {
		what   string
		ours   float64
		theirs float64
	}{
		{"(signal + offset) × gain: 10 % to 90 %, gain", got(voe["2005h:02"]), .8},
		{"(signal + offset) × gain: 10 % to 90 %, offset", got(voe["2005h:01"]), 12.5},
		{"signal × gain + offset: 10 % to 90 %, gain", got(brae["input.gain"]), .8},
		{"signal × gain + offset: 10 % to 90 %, offset", got(brae["input.offset"]), 10},
		{"slope 582 r/min per s, whole seconds", got(voe["6048h:02"]), 3},
		{"slope 582 r/min per s, change of speed", got(voe["6048h:01"]), 1746},
		{"limit 133.3 % of the motor, per thousand", got(voe["6073h:00"]), 1333},
		{"minimum amount 360 r/min, speed regulated", got(voe["6046h:01"]), 360},
	} {
		check.Against(t, "Voe and Brae: "+c.what, "the family's written conventions, worked by hand", c.ours, c.theirs, 1e-9)
	}
	// Half a horsepower is 0.37 kW, and drives ask for the nearest of their own list, 0.4.
	if l := voe["2001h:01"]; l.Setting.Text(l.Steps) != "0.4 kW" || l.Rounded == "" {
		t.Errorf("0.37 kW from the list: %s %q", l.Setting.Text(l.Steps), l.Rounded)
	}
	p.Motor.Power = 90000
	if l := sheet(t, "Voe", p)["2001h:01"]; l.Problem == "" {
		t.Errorf("90 kW stands near nothing in the list: %+v", l)
	}
	// At 55 % in, offset −5 %, gain 2, the output is 100 %.
	f := familyfile.Find("Voe")
	values := held(f.Sheet(p))
	values["2005h:01"], values["2005h:02"] = -50, 200
	u := f.Read(values, p)
	low, high := u.Plan.Numbers["reference_low"], u.Plan.Numbers["reference_high"]
	check.Against(t, "offset −5 %, gain 2, at 55 % in: percent out", "common practice", (low+.55*(high-low))/1500*100, 100, 1e-3)
}

func compare(t *testing.T, family string, lines map[string]dialect.Line, want map[string]float64) {
	t.Helper()
	for code, v := range want {
		l, ok := lines[code]
		if !ok || !l.Planned || l.Problem != "" {
			t.Errorf("%s %s is not planned: %+v", family, code, l)
			continue
		}
		check.Against(t, family+" "+code+" of the drum dryer", "the family's written conventions, worked by hand",
			l.Setting.Value(l.Steps), v, 1e-9)
	}
}

// A stated 1800 r/min is not 60 Hz on a 1735 r/min motor: with slip compensation it is, without it 62.17 Hz or more.
func TestSpeedAndFrequencyAreTiedBySlip(t *testing.T) {
	p := dryer()
	p.Motor.Frequency, p.Motor.Speed = 60, 1735
	p.Choices["slip_compensation"] = "on"
	check.Against(t, "1800 r/min with slip compensation, Hz", "common practice", p.Frequency(1800), 60, 1e-9)
	p.Choices["slip_compensation"] = "off"
	if f := p.Frequency(1735); math.Abs(f-60) > 1e-9 {
		t.Errorf("plate speed at full torque is plate frequency, got %v", f)
	}
	if f := p.Frequency(1800); f < 62.16 {
		t.Errorf("1800 r/min needs more than 60 Hz and the slip, got %v", f)
	}
	p.Load = "quadratic"
	check.Against(t, "half the plate speed under a quarter of the torque, Hz", "closed form 867.5·4/120 + 2.1667/4", p.Frequency(867.5),
		28.9167+.54167, 1e-4)
	for _, n := range []float64{200, 700, 1500} {
		if back := p.Shaft(p.Frequency(n)); math.Abs(back-n) > 1e-6*n {
			t.Errorf("%v r/min there and back is %v", n, back)
		}
	}
}

func TestRoundingGoesTheSafeWay(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for range 500 {
		p := dryer()
		p.Motor.Current = 2 + 13*rng.Float64()
		p.Numbers["rise"], p.Numbers["fall"] = 20+500*rng.Float64(), 20+500*rng.Float64()
		p.Numbers["lowest_speed"], p.Numbers["highest_speed"] = 100+300*rng.Float64(), 900+500*rng.Float64()
		for _, family := range familyfile.Names() {
			for code, l := range sheet(t, family, p) {
				if !l.Planned || l.Setting.Kind != "number" {
					continue
				}
				v, tiny := l.Setting.Value(l.Steps), 1e-5*l.Setting.Value(1)
				switch l.Setting.Intent {
				case "overload.current", "limit.current", "speed.highest":
					if v > l.Exact+tiny {
						t.Fatalf("%s %s: %v is above %v", family, code, v, l.Exact)
					}
				case "ramp.rise", "ramp.fall", "speed.lowest":
					if l.Setting.Convention == "slope-speed" { // the smaller change of speed is the slower ramp
						v, l.Exact = l.Exact, v
					}
					if v < l.Exact-tiny {
						t.Fatalf("%s %s: %v is below %v", family, code, v, l.Exact)
					}
				}
				if math.Abs(v-l.Exact) > l.Setting.Value(1)*1.0001 && l.Problem == "" {
					t.Fatalf("%s %s: %v is more than a step from %v", family, code, v, l.Exact)
				}
			}
		}
	}
}

func TestDisagreementsAreExplained(t *testing.T) {
	for _, c := range []struct {
		family, code, reads, kind string
	}{
		{"Tarn", "4D", "26.8", "row"}, {"Tarn", "4A", "10.06", "unit"}, {"Tarn", "4D", "155.0", "factor-ten"},
		{"Tarn", "7A", "8.0", "ramp-base"}, {"Tarn", "6K", "95", "rounded"},
		{"Tarn", "4D", "8.0", "not-entered"}, {"Tarn", "4E", "1500", "synchronous"}, {"Tarn", "6C", "12.0", "proportion"},
		{"Tarn", "6K", "111", "service-factor"}, {"Tarn", "6K", "100", "not-entered"},
		{"Tarn", "4D", "15.8", "digit"}, {"Tarn", "8A", "keypad", "not-entered"}, {"Tarn", "8A", "network", "choice"},
		{"Tarn", "9B", "fault", "choice"},
		{"Brae", "motor.power", "7.50", "unit"}, {"Brae", "motor.current", "26.80", "row"}, {"Brae", "ramp.up", "8.25", "ramp-base"},
		{"Brae", "protect.overload", "96.9", "unit"}, {"Brae", "protect.overload", "16.0", "drive"},
	} {
		f := familyfile.Find(c.family)
		p := dryer()
		l := sheet(t, c.family, p)[c.code]
		steps, err := l.Setting.Read(c.reads)
		if err != nil {
			t.Fatal(err)
		}
		e := f.Explain(l, p, steps)
		if e.Kind != c.kind || e.Text == "" {
			t.Errorf("%s %s reads %s: %+v, want %s", c.family, c.code, c.reads, e, c.kind)
		}
		if l.Setting.Protects && l.Setting.Kind == "number" && e.Consequence == "" {
			t.Errorf("%s %s: what follows must be said", c.family, c.code)
		}
	}
}

func TestWhatCannotBePlannedSaysWhy(t *testing.T) {
	p := dryer()
	p.DriveCurrent = math.NaN()
	if l := sheet(t, "Tarn", p)["6K"]; l.Planned || l.Missing != "rating.current" {
		t.Errorf("percent of a drive whose current is not known: %+v", l)
	}
	p = dryer()
	p.Motor.Current = 4000
	if l := sheet(t, "Tarn", p)["4D"]; l.Problem == "" {
		t.Errorf("4000 A is out of the drive's range: %+v", l)
	}
	p.Choices["speed_source"] = "by-hand"
	if l := sheet(t, "Brae", p)["source.speed"]; l.Problem == "" {
		t.Errorf("a choice without counterpart: %+v", l)
	}
}

func TestReadingsOffTheGridAreRefused(t *testing.T) {
	s, _ := familyfile.Find("Tarn").Setting("4D")
	for text, want := range map[string]int64{"15.5": 155, "15,5 A": 155, " 15.50": 155} {
		if got, err := s.Read(text); err != nil || got != want {
			t.Errorf("%q: %v %v", text, got, err)
		}
	}
	for _, text := range []string{"", "15.55", "abc", "1e99", "NaN", "15.5 V"} {
		if _, err := s.Read(text); err == nil {
			t.Errorf("%q was taken", text)
		}
	}
}

// Moved from Tarn to Brae and back: everything that both can say is carried or approximated within a step, and what
// the other cannot say is listed.
func TestMovingToTheOtherFamily(t *testing.T) {
	tarn, brae := familyfile.Find("Tarn"), familyfile.Find("Brae")
	p := dryer()
	p.Motor.Power, p.Numbers["rise"] = 5600, 1455./7.77
	by := map[string]dialect.Moved{}
	for _, m := range dialect.Move(tarn, brae, p) {
		if by[m.Intent].Intent != "" {
			t.Errorf("%s twice", m.Intent)
		}
		by[m.Intent] = m
	}
	for intent, want := range map[string]string{"motor.power": dialect.Carried, "overload.current": dialect.Carried,
		"ramp.rise": dialect.Approximated, "choice.reference_signal": dialect.NoCounter,
		"motor.poles": dialect.Carried, "choice.command_source": dialect.Carried, "speed.lowest": dialect.Carried} {
		if by[intent].Status != want {
			t.Errorf("%s: %s %s, want %s", intent, by[intent].Status, by[intent].Note, want)
		}
	}
	// 7.77 s onto a grid of 0.05 s, up: 7.80 s.
	if m := by["ramp.rise"]; m.To.Setting.WithUnit(m.To.Steps) != "7.80 s" || m.Note != "+0.03 s, +0.4 %" {
		t.Errorf("%s %s", m.To.Setting.WithUnit(m.To.Steps), m.Note)
	}
	if by["motor.poles"].From != nil || by["choice.reference_signal"].To != nil {
		t.Error("what only one family asks for has one side")
	}
	p.Numbers["jog"] = math.NaN()
	for _, m := range dialect.Move(brae, tarn, p) {
		if m.Intent == "speed.jog" && m.Status != dialect.Undecided {
			t.Errorf("what nobody decided: %s", m.Status)
		}
		if m.Intent == "motor.poles" && m.Status != dialect.NoCounter {
			t.Errorf("Tarn works the poles out: %s", m.Status)
		}
	}
}

func BenchmarkSheet(b *testing.B) {
	f, p := familyfile.Find("Tarn"), dryer()
	b.ReportAllocs()
	for b.Loop() {
		f.Sheet(p)
	}
}
