package bench_test

import (
	"math"
	"reflect"
	"strings"
	"testing"

	"tingate/bench"
	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/formats/familyfile"
	"tingate/testtools/benches"
)

// Every family's bench comes up, runs from its keypad to the speed that is asked, and stops, all by its own settings.
func TestEachFamilyRuns(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		b := benches.Start(t, benches.Setup(t, family))
		s := b.Show(0)
		if s.State != "switch_on_disabled" || s.Link < 520 || s.Fault != "" {
			t.Errorf("%s after power-up: %s, %v V, %s", family, s.State, s.Link, s.Fault)
		}
		benches.Do(t, b, bench.Act{Do: "speed", Value: 40})
		if family == "Brae" { // its fifth terminal is an interlock as delivered: nothing runs while that is open
			benches.Do(t, b, bench.Act{Do: "run"})
			b.Advance(500)
			if s = b.Show(s.Time); s.Phase != "off" || s.Blocked != "interlock" {
				t.Errorf("with its interlock open: %s, %q", s.Phase, s.Blocked)
			}
			benches.Do(t, b, bench.Act{Do: "stop"})
			benches.Do(t, b, bench.Act{Do: "terminal", N: 5, On: true})
			b.Advance(100)
		}
		benches.Do(t, b, bench.Act{Do: "run"})
		b.Advance(9000)
		if s = b.Show(s.Time); s.Phase != "running" || s.Hz < 39.9 || s.Hz > 41.5 || math.Abs(s.Speed-1185) > 30 || len(s.Samples) < 100 {
			t.Errorf("%s: %s %s %s, %v Hz, %v r/min, %d samples", family, s.Phase, s.Blocked, s.Fault, s.Hz, s.Speed, len(s.Samples))
		}
		benches.Do(t, b, bench.Act{Do: "stop"})
		b.Advance(9000)
		if s = b.Show(s.Time); s.Phase != "off" || math.Abs(s.Speed) > 90 {
			t.Errorf("%s after stop: %s, %v r/min", family, s.Phase, s.Speed)
		}
	}
}

// The same setup, seed and acts give the same run, bit by bit; another seed another noise.
func TestReplayIsBitEqual(t *testing.T) {
	b := benches.Start(t, benches.Setup(t, "Tarn"))
	benches.Do(t, b, bench.Act{Do: "speed", Value: 30})
	benches.Do(t, b, bench.Act{Do: "run"})
	b.Advance(1234)
	benches.Do(t, b, bench.Act{Do: "break", What: "noise", On: true})
	b.Advance(777)
	benches.Do(t, b, bench.Act{Do: "channel", N: 1})
	b.Advance(2000)
	acts, ticks := b.Acts()
	again, err := bench.Replay(benches.Setup(t, "Tarn"), acts, ticks)
	if err != nil {
		t.Fatal(err)
	}
	if x, y := b.Show(0), again.Show(0); !reflect.DeepEqual(x, y) {
		t.Errorf("not the same run: %v r/min and %v r/min, %s and %s", x.Speed, y.Speed, x.Fault, y.Fault)
	}
	other := benches.Setup(t, "Tarn")
	other.Seed = 8
	third, _ := bench.Replay(other, acts, ticks)
	if reflect.DeepEqual(b.Show(0).Samples, third.Show(0).Samples) {
		t.Error("another seed changes nothing")
	}
}

// Every setting that is not marked as without effect changes what the drive is, somewhere within its range.
func TestActingSettingsAct(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		f := familyfile.Find(family)
		base := benches.Setup(t, family)
		values := map[string]int64{}
		for i := range f.Settings {
			values[f.Settings[i].Code] = f.Settings[i].DeliverySteps()
		}
		for k, v := range base.Values {
			values[k] = v
		}
		acting := 0
		for i := range f.Settings { // what others hang on is switched on
			switch s := &f.Settings[i]; s.Drives {
			case "dc-brake", "brake":
				values[s.Code] = 1
			case "bend-1-at", "bend-2-at", "bend-3-at": // a fifth, two and three of the signal
				values[s.Code] = 200 * int64(s.Drives[5]-'0')
			case "skip-1-from", "skip-2-from":
				values[s.Code] = s.DeliverySteps() + 100
			case "skip-1-to", "skip-2-to":
				values[s.Code] = s.DeliverySteps() + 200
			case "stator-resistance", "rotor-resistance":
				values[s.Code] = 1000
			case "leakage":
				values[s.Code] = int64(5 / (s.Value(1) * map[string]float64{"mH": 1, "µH": .001}[s.Unit]))
			case "magnetising-current":
				values[s.Code] = int64(8 / (s.Value(1) * map[string]float64{"A": 1, "mA": .001}[s.Unit]))
			}
		}
		synchronous(f, values)
		was := bench.Configure(f, values, base.Size)
		for i := range f.Settings {
			s := &f.Settings[i]
			if !f.Acts(s) || s.Kind == "text" {
				continue
			}
			acting++
			if !changes(f, s, values, base.Size, was) {
				t.Errorf("%s %s %q acts on nothing", family, s.Code, s.Name)
			}
		}
		if acting < 60 {
			t.Errorf("%s: only %d settings act", family, acting)
		}
		t.Logf("%s: %d of %d settings act", family, acting, len(f.Settings))
	}
}

// without lists intents that say something of the drive's place or of the display, not of how it runs.
var without = map[string]bool{"choice.line_frequency": true}

func changes(f *dialect.Family, s *dialect.Setting, values map[string]int64, size dialect.Size, was any) bool {
	if without[s.Intent] || strings.HasPrefix(s.Drives, "resistor") {
		return true // a resistor is part of the plant: TestEverySettingChangesWhatIsSeen
	}
	low, high := s.RangeSteps()
	try := []int64{low, high, (low + high) / 2, (low*3 + high) / 4}
	for _, c := range s.Choices {
		try = append(try, c.Value, 1<<uint(c.Value&15))
	}
	for _, v := range try {
		if v == values[s.Code] || !s.Inside(v) {
			continue
		}
		old := values[s.Code]
		values[s.Code] = v
		now := bench.Configure(f, values, size)
		values[s.Code] = old
		if !reflect.DeepEqual(any(now), was) {
			return true
		}
	}
	return false
}

func TestBadActsAreNamed(t *testing.T) {
	b := benches.Start(t, benches.Setup(t, "Brae"))
	for _, a := range []bench.Act{{Do: "dance"}, {Do: "terminal", N: 99}, {Do: "channel"}, {Do: "speed", Value: math.NaN()},
		{Do: "analog", Value: 1000}, {Do: "break", What: "everything"}, {Do: "setting", What: "motor.nothing"},
		{Do: "setting", What: "motor.current", Value: -5}} {
		if err := b.Do(a); err == nil {
			t.Errorf("%+v was taken", a)
		}
	}
	if err := b.SetFaster(1000); err == nil {
		t.Error("1000 times real time was taken")
	}
	s := benches.Setup(t, "Brae")
	s.Motor.Speed = 1500
	if _, err := bench.New(s); err == nil {
		t.Error("a bench for a motor without slip")
	}
}

// Figures that no step can follow are said, and never come out as no number.
func TestDivergenceIsSaid(t *testing.T) {
	s := benches.Setup(t, "Tarn")
	s.LoadJ, s.Load.Torque = 0, 1e9
	b := benches.Start(t, s)
	benches.Do(t, b, bench.Act{Do: "speed", Value: 50})
	benches.Do(t, b, bench.Act{Do: "run"})
	b.Advance(5000)
	v := b.Show(0)
	if math.IsNaN(v.Speed) || math.IsNaN(v.Link) || math.IsInf(v.Torque, 0) {
		t.Errorf("%+v", v)
	}
	if v.Fault == "" && math.Abs(v.Speed) > 1e4 {
		t.Errorf("%v r/min without a word", v.Speed)
	}
}

// A tune runs on the job's own bench, is read out of the drive's settings, makes vector control follow the load, and is void as
// soon as an entry of the motor changes.
func TestTuneOnTheBench(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		b := benches.Start(t, benches.Setup(t, family))
		benches.Do(t, b, bench.Act{Do: "tune", What: "rotating"})
		b.Advance(10)
		if v := b.Show(0); v.Tune == nil || v.Tune.Running || !strings.Contains(v.Tune.Failed, "coupled") {
			t.Fatalf("%s: coupled: %+v", family, v.Tune)
		}
		benches.Do(t, b, bench.Act{Do: "couple"})
		benches.Do(t, b, bench.Act{Do: "channel", N: 3})
		b.Advance(10)
		benches.Do(t, b, bench.Act{Do: "tune", What: "rotating"})
		b.Advance(10)
		if v := b.Show(0); !strings.Contains(v.Tune.Failed, "Torque is off") && v.Fault != "torque-off" { // one family shows it as a fault
			t.Errorf("%s: with torque off: %+v", family, v.Tune)
		}
		benches.Do(t, b, bench.Act{Do: "channel", N: 3, On: true})
		benches.Do(t, b, bench.Act{Do: "reset"})
		b.Advance(10)
		benches.Do(t, b, bench.Act{Do: "tune", What: "rotating"})
		b.Advance(2000)
		v := b.Show(v0(b))
		if !v.Tune.Running || v.Tune.Step == "" || v.Tune.Heard == "" || v.Phase != "tuning" || !(v.Current > 3) {
			t.Errorf("%s: under way: %+v, %s, %v A", family, v.Tune, v.Phase, v.Current)
		}
		b.Advance(int(v.Tune.Expected*1000*1.6) + 5000)
		v = b.Show(v0(b))
		if v.Tune.Running || v.Tune.Failed != "" || v.Tune.Rs == nil || v.Tune.Inertia == nil || !v.Tuned {
			t.Fatalf("%s: %+v tuned %v after %v s", family, v.Tune, v.Tuned, v.Tune.Elapsed)
		}
		if v.Fault != "" || v.Link > 600 {
			t.Errorf("%s: after the tune %q, %v V", family, v.Fault, v.Link)
		}
		if r := v.Tune.Elapsed / v.Tune.Expected; r < .85 || r > 1.15 {
			t.Errorf("%s: it took %.1f s, expected %.1f s", family, v.Tune.Elapsed, v.Tune.Expected)
		}
		// The motor was built from this plate: stator resistance of the estimate, cold.
		e, _ := machine.Make(benches.Setup(t, family).Motor)
		if r := *v.Tune.Rs / (e.Rs / 1.334); r < .93 || r > 1.09 {
			t.Errorf("%s: stator resistance %v, built with %v", family, *v.Tune.Rs, e.Rs/1.334)
		}
		for i := range b.Setup.Family.Settings {
			s := &b.Setup.Family.Settings[i]
			if s.Intent != "motor.current" {
				continue
			}
			benches.Do(t, b, bench.Act{Do: "setting", What: s.Code, Value: float64(b.Setup.Values[s.Code] - 1)})
			b.Advance(5)
			if b.Show(0).Tuned {
				t.Errorf("%s: %s was changed, and the tune still counts", family, s.Code)
			}
		}
	}
}

func v0(b *bench.Bench) float64 { return b.Show(math.Inf(1)).Time }

// Stopped in the middle nothing is kept, and the drive can be run again.
func TestTuneIsStopped(t *testing.T) {
	b := benches.Start(t, benches.Setup(t, "Tarn"))
	benches.Do(t, b, bench.Act{Do: "tune", What: "standstill"})
	b.Advance(700)
	benches.Do(t, b, bench.Act{Do: "stop", On: true})
	b.Advance(20)
	if v := b.Show(0); v.Tune.Running || !strings.Contains(v.Tune.Failed, "stopped") || v.Tuned || v.Phase != "off" {
		t.Errorf("%+v", v.Tune)
	}
	if err := b.Do(bench.Act{Do: "tune", What: "thorough"}); err == nil {
		t.Error("an unknown kind was taken")
	}
}

// A run command that is let go and given again at once is a fresh one: acts come one a tick.
func TestLetGoAndTakenAgainAtOnceIsSeen(t *testing.T) {
	s := benches.Setup(t, "Tarn")
	s.Values["8A"] = 1 // from the terminals
	b := benches.Start(t, s)
	benches.Do(t, b, bench.Act{Do: "terminal", N: 1, On: true})
	b.Advance(50)
	benches.Do(t, b, bench.Act{Do: "channel", N: 3})
	benches.Do(t, b, bench.Act{Do: "channel", N: 3, On: true})
	b.Advance(50)
	if v := b.Show(0); v.Blocked != "fresh-command" {
		t.Fatalf("run held: %q, %s", v.Blocked, v.Phase)
	}
	benches.Do(t, b, bench.Act{Do: "terminal", N: 1})
	benches.Do(t, b, bench.Act{Do: "terminal", N: 1, On: true})
	b.Advance(50)
	if v := b.Show(0); v.Phase == "off" {
		t.Errorf("given anew: %q", v.Blocked)
	}
}

// A first turn on the bench runs by itself for its time, ends, and gives command back. Swapped motor leads turn it round,
// swapped supply leads do not; swapping again mends what was broken in secret.
func TestABumpShowsTheDirection(t *testing.T) {
	for _, c := range []struct {
		broken  string
		forward bool
		up      bool
	}{{"", true, true}, {"leads-swapped", false, false}, {"supply-swapped", true, true}, {"encoder-swapped", true, false}} {
		s := benches.Setup(t, "Tarn")
		s.Backstop = false
		b := benches.Start(t, s)
		if c.broken != "" {
			benches.Do(t, b, bench.Act{Do: "break", What: c.broken, On: true})
		}
		bumped := func() (turns, count float64) {
			before := b.Show(0)
			benches.Do(t, b, bench.Act{Do: "bump", Value: 5})
			b.Advance(4500)
			after := b.Show(0)
			if after.Phase != "off" || after.Hand != before.Hand || after.KeyHz != before.KeyHz {
				t.Errorf("%q after the bump: %s, hand %v, %v Hz", c.broken, after.Phase, after.Hand, after.KeyHz)
			}
			return after.Turns - before.Turns, after.Count - before.Count
		}
		turns, count := bumped()
		if math.Abs(turns) < 1 || math.Abs(turns) > 8 || turns > 0 != c.forward || count > 0 != c.up {
			t.Errorf("%q: %v turns, %v counts", c.broken, turns, count)
		}
		if !c.forward {
			benches.Do(t, b, bench.Act{Do: "swap", What: "leads"})
			b.Advance(1)
			if turns, _ = bumped(); turns < 1 || len(b.Show(0).Broken) != 0 {
				t.Errorf("leads changed: %v turns", turns)
			}
		}
		if c.forward && !c.up {
			benches.Do(t, b, bench.Act{Do: "swap", What: "pairs"})
			b.Advance(1)
			if _, count = bumped(); count < 1 {
				t.Errorf("pairs changed: %v counts", count)
			}
		}
	}
}

// Delta where star belongs does not come up, and says what it may be; star where delta belongs is learnt as it is.
func TestTheWrongLinkIsTheOther(t *testing.T) {
	for linked, want := range map[string]string{"star": "delta where star belongs", "delta": ""} {
		s := benches.Setup(t, "Tarn")
		s.Linked = linked
		b := benches.Start(t, s)
		benches.Do(t, b, bench.Act{Do: "couple"})
		benches.Do(t, b, bench.Act{Do: "break", What: "wrong-link", On: true})
		b.Advance(10)
		benches.Do(t, b, bench.Act{Do: "tune", What: "rotating"})
		b.Advance(60000)
		v := b.Show(v0(b))
		if v.Tune.Running || !strings.Contains(v.Tune.Failed, want) || want == "" && (v.Tune.Failed != "" || *v.Tune.Rs < 1.2) {
			t.Errorf("%s: %+v", linked, v.Tune)
		}
	}
}

// A hoist on the bench: its load hangs on the brake until the drive lifts it, and its own supply opens the other kind.
func TestAHoistOnTheBench(t *testing.T) {
	s := benches.Setup(t, "Tarn")
	s.Load, s.Brake = motion.Load{Kind: "hanging", Torque: 20}, drive.Brake{Torque: 100, Follows: true, Opens: .1, Closes: .1}
	shut := benches.Start(t, s)
	benches.Do(t, shut, bench.Act{Do: "speed", Value: 20})
	benches.Do(t, shut, bench.Act{Do: "run"})
	shut.Advance(4000)
	if v := shut.Show(1e9); v.Brake != "closed" || v.Speed != 0 {
		t.Errorf("its setting for a brake is off: %s, %v r/min", v.Brake, v.Speed)
	}
	number(&s, "brake", 1)
	b := benches.Start(t, s)
	if v := b.Show(0); v.Brake != "closed" || v.BrakeBy != "drive" || v.Turns != 0 {
		t.Fatalf("at rest: %+v", v.Brake)
	}
	benches.Do(t, b, bench.Act{Do: "speed", Value: 20})
	benches.Do(t, b, bench.Act{Do: "run"})
	b.Advance(4000)
	if v := b.Show(1e9); v.Brake != "open" || v.Speed < 400 {
		t.Errorf("lifting: %s, %v r/min, %s %s", v.Brake, v.Speed, v.Blocked, v.Fault)
	}
	s.Brake = drive.Brake{Torque: 100, Opens: .1, Closes: .1}
	b = benches.Start(t, s)
	benches.Do(t, b, bench.Act{Do: "brake", On: true})
	b.Advance(500)
	if v := b.Show(1e9); v.Brake != "open" || v.Speed > -50 {
		t.Errorf("released by hand: %s, %v r/min", v.Brake, v.Speed)
	}
	for _, bad := range []bench.Setup{{ShaftHz: 500}, {Bar: -1}} {
		x := benches.Setup(t, "Tarn")
		x.ShaftHz, x.Bar = bad.ShaftHz, bad.Bar
		if _, err := bench.New(x); err == nil || !strings.Contains(err.Error(), "want 0 to") {
			t.Errorf("%+v: %v", bad.ShaftHz, err)
		}
	}
}

// As at the keypad: the setting asks for a tune, the start key begins it if it comes in time, the words are the family's, and a
// family that wants its stop key afterwards is deaf until it has it.
func TestATuneAsAtTheKeypad(t *testing.T) {
	for _, c := range []struct {
		family, setting, done string
		value, after          int64
		within                int
		stop                  bool
	}{{"Tarn", "4M", "Ended", 2, 0, 20, true}, {"Brae", "motor.tune", "tuned", 2, 3, 60, false},
		{"Voe", "2001h:0F", "Idn 9", 4, 9, 30, true}} {
		b := benches.Start(t, benches.Setup(t, c.family))
		benches.Do(t, b, bench.Act{Do: "couple"})
		benches.Do(t, b, bench.Act{Do: "setting", What: c.setting, Value: float64(c.value)})
		b.Advance(1000)
		if v := b.Show(1e9); !strings.Contains(v.Armed, c.setting) {
			t.Fatalf("%s: armed %q", c.family, v.Armed)
		}
		b.Advance(c.within * 1000)
		v := b.Show(1e9)
		if v.Armed != "" || v.Tune == nil || !strings.Contains(v.Tune.Failed, "start key did not come within") {
			t.Fatalf("%s: too late: %q %+v", c.family, v.Armed, v.Tune)
		}
		benches.Do(t, b, bench.Act{Do: "setting", What: c.setting, Value: float64(c.value)})
		benches.Do(t, b, bench.Act{Do: "run"})
		b.Advance(1500)
		if v = b.Show(1e9); !v.Tune.Running || v.Tune.Keypad == "" {
			t.Fatalf("%s: not running: %+v", c.family, v.Tune)
		}
		b.Advance(60000)
		if v = b.Show(1e9); v.Tune.Running || v.Tune.Failed != "" || v.Tune.Keypad != c.done {
			t.Fatalf("%s: %+v", c.family, v.Tune)
		}
		s, _ := b.Setup.Family.Setting(c.setting)
		if held, _ := b.Stand.Value(s.Code); held != c.after {
			t.Errorf("%s: %s holds %d, want %d", c.family, c.setting, held, c.after)
		}
		benches.Do(t, b, bench.Act{Do: "run"})
		b.Advance(2000)
		if v = b.Show(1e9); (v.Blocked == "stop-first") != c.stop {
			t.Errorf("%s after its tune: %q %s", c.family, v.Blocked, v.Phase)
		}
		benches.Do(t, b, bench.Act{Do: "stop"})
		b.Advance(10)
		if v = b.Show(1e9); v.Blocked == "stop-first" {
			t.Errorf("%s: stop was pressed", c.family)
		}
	}
}

// A motor with magnets runs with its field on volts per hertz and on vector control, and is tuned at standstill only.
func TestMagnetsOnTheBench(t *testing.T) {
	for _, control := range []string{"volts-per-hertz", "vector"} {
		s := benches.Setup(t, "Tarn")
		m := machine.FromMagnetRow(1500, 380, 3.1, 90, 1800, .92, 0, 6)
		s.Motor, s.Magnet, s.Lines = m, true, 0
		s.Load, s.LoadJ = motion.Load{Kind: "quadratic", Torque: 5, Speed: 188}, .004
		for _, x := range s.Family.Ratings {
			if x.Heavy >= 4 && x.LineHigh > 300 {
				s.Size = x
				break
			}
		}
		p := &dialect.Plan{Motor: dialect.Row{Power: 1500, Voltage: 380, Current: 3.1, Frequency: 90, Speed: 1800, Factor: .92}, Poles: 6,
			DriveCurrent: s.Size.Heavy, Load: "quadratic", LoadTorque: .6,
			Numbers: map[string]float64{"rise": 600, "fall": 600, "lowest_speed": 0, "highest_speed": 1800, "current_limit": 1.5},
			Choices: map[string]string{"command_source": "keypad", "speed_source": "keypad", "control": control, "direction": "both"}}
		s.Values = map[string]int64{}
		means(&s, "motor-kind", "permanent-magnet")
		for _, l := range s.Family.Sheet(p) {
			if l.Missing == "" && l.Planned {
				s.Values[l.Setting.Code] = l.Steps
			}
		}
		b := benches.Start(t, s)
		benches.Do(t, b, bench.Act{Do: "speed", Value: 60})
		benches.Do(t, b, bench.Act{Do: "run"})
		b.Advance(8000)
		if v := b.Show(1e9); v.Control != control || math.Abs(v.Speed-1200) > 6 || math.Abs(v.Hz-60) > .4 || v.Fault != "" {
			t.Errorf("%s: %v r/min at %v Hz, %s %s %s", control, v.Speed, v.Hz, v.Control, v.Fault, v.Blocked)
		}
		benches.Do(t, b, bench.Act{Do: "stop"})
		b.Advance(60000)
		benches.Do(t, b, bench.Act{Do: "tune", What: "rotating"})
		b.Advance(10)
		if v := b.Show(1e9); !strings.Contains(v.Tune.Failed, "magnets") {
			t.Errorf("%s: a rotating tune: %+v", control, v.Tune)
		}
		benches.Do(t, b, bench.Act{Do: "tune", What: "standstill-short"})
		b.Advance(15000)
		real, _ := machine.MagnetOf(m)
		if v := b.Show(1e9); v.Tune.Failed != "" || v.Tune.Rs == nil || math.Abs(*v.Tune.Rs/(real.Rs/1.334)-1) > .08 {
			t.Errorf("%s: stator resistance %+v, built with %v", control, v.Tune, real.Rs/1.334)
		}
	}
}

// A reference wire on the wrong terminal asks for everything; another motor's current in the drive trips a sound motor, and mending
// it brings the right one back.
func TestWrongTerminalAndWrongPlate(t *testing.T) {
	s := benches.Setup(t, "Tarn")
	means(&s, "choice.command_source", "terminals")
	means(&s, "choice.speed_source", "voltage")
	b := benches.Start(t, s)
	benches.Do(t, b, bench.Act{Do: "analog", Value: 2})
	benches.Do(t, b, bench.Act{Do: "terminal", N: 1, On: true})
	b.Advance(9000)
	slow := b.Show(1e9).Hz
	benches.Do(t, b, bench.Act{Do: "break", What: "reference-moved", On: true})
	b.Advance(9000)
	if full := b.Show(1e9).Hz; slow > 15 || full < 45 {
		t.Errorf("at 2 V %v Hz, on the potentiometer's supply %v Hz", slow, full)
	}
	was, _ := b.Stand.Value("4D")
	benches.Do(t, b, bench.Act{Do: "break", What: "wrong-plate", On: true})
	b.Advance(2)
	if now, _ := b.Stand.Value("4D"); now != was*6/10 {
		t.Errorf("wrong plate: %d of %d", now, was)
	}
	benches.Do(t, b, bench.Act{Do: "break", What: "wrong-plate"})
	b.Advance(2)
	if now, _ := b.Stand.Value("4D"); now != was || len(b.Show(1e9).Broken) != 1 {
		t.Errorf("mended: %d of %d, %v", now, was, b.Show(1e9).Broken)
	}
}
