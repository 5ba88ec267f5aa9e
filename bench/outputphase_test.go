package bench_test

import (
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"tingate/bench"
	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/motion"
	"tingate/testtools/benches"
)

// One phase to the motor opens while it runs: the drive trips by the family's own code, unless its setting for that is off; then the
// motor runs on, on two phases. A tune does not come to a result.
func TestAnOpenPhaseToTheMotor(t *testing.T) {
	for family, want := range map[string]struct{ code, setting string }{
		"Tarn": {"P3", "6U"}, "Brae": {"E 03", "protect.out"}, "Voe": {"F.3330", "2002h:10"},
	} {
		for _, off := range []bool{false, true} {
			s := benches.Setup(t, family)
			if off {
				s.Values[want.setting] = 0
			}
			b := benches.Start(t, s)
			benches.Do(t, b, bench.Act{Do: "terminal", N: 5, On: true}) // the interlock of one family
			benches.Do(t, b, bench.Act{Do: "speed", Value: 40})
			benches.Do(t, b, bench.Act{Do: "run"})
			b.Advance(15000)
			before := b.Show(1e9)
			if p := before.Phases; len(p) != 3 || p[0] != before.Current || p[0] != p[2] || p[0] < 1 {
				t.Errorf("%s: whole: %v, %v A", family, p, before.Current)
			}
			benches.Do(t, b, bench.Act{Do: "break", What: "output-lost", On: true})
			b.Advance(900)
			v := b.Show(1e9)
			u, w := v.Phases[0], v.Phases[1]
			if v.Fault != "" || u > .05*w || w < 1.3*before.Current || math.Abs(w-v.Phases[2]) > .01 {
				t.Errorf("%s: just after: %q, %v A, where it took %v A", family, v.Fault, v.Phases, before.Current)
			}
			b.Advance(1000)
			v = b.Show(1e9)
			if off != (v.Fault == "") || !off && (v.Fault != "output-phase" || len(v.Trips) != 1 || v.Trips[0].Code != want.code) {
				t.Errorf("%s: off %v: %q, %+v", family, off, v.Fault, v.Trips)
			}
		}
		b := benches.Start(t, benches.Setup(t, family))
		benches.Do(t, b, bench.Act{Do: "couple"})
		benches.Do(t, b, bench.Act{Do: "terminal", N: 5, On: true})
		benches.Do(t, b, bench.Act{Do: "break", What: "output-lost", On: true})
		benches.Do(t, b, bench.Act{Do: "speed", Value: 20})
		benches.Do(t, b, bench.Act{Do: "run"}) // its frame turns, and must stand for the tune
		b.Advance(700)
		benches.Do(t, b, bench.Act{Do: "stop"})
		b.Advance(50000)
		benches.Do(t, b, bench.Act{Do: "reset"})
		b.Advance(10)
		benches.Do(t, b, bench.Act{Do: "tune", What: "standstill"})
		b.Advance(20000)
		if v := b.Show(1e9); v.Tune == nil || v.Tuned || !strings.Contains(v.Tune.Failed, "one phase of the cable is open") {
			t.Errorf("%s: a tune on two phases: %+v, %s", family, v.Tune, v.Fault)
		}
	}
}

// On machines unlike those: it does not diverge, plays again bit by bit, and a hoist on two phases is held by its brake once the drive
// has tripped.
func TestAnOpenPhaseOnOtherMachines(t *testing.T) {
	for name, change := range map[string]func(*bench.Setup){
		"vector": func(s *bench.Setup) { means(s, "choice.control", "vector") },
		"hoist": func(s *bench.Setup) {
			s.Load, s.Brake = motion.Load{Kind: "hanging", Torque: 20}, drive.Brake{Torque: 100, Follows: true, Opens: .1, Closes: .1}
		},
		"heavy": func(s *bench.Setup) { s.Load, s.LoadJ = motion.Load{Kind: "constant", Torque: 30}, 3 },
	} {
		make := func() bench.Setup {
			s := benches.Setup(t, "Tarn")
			change(&s)
			return s
		}
		b := benches.Start(t, make())
		benches.Do(t, b, bench.Act{Do: "speed", Value: 25})
		benches.Do(t, b, bench.Act{Do: "run"})
		b.Advance(5000)
		benches.Do(t, b, bench.Act{Do: "break", What: "output-lost", On: true})
		b.Advance(6000)
		v := b.Show(1e9)
		if math.IsNaN(v.Speed+v.Torque+v.Current+v.Phases[1]) || v.Fault == "" || v.Current > 200 {
			t.Errorf("%s: %v r/min, %v N·m, %v A, fault %q", name, v.Speed, v.Torque, v.Phases, v.Fault)
		}
		if name == "hoist" && (v.Brake != "closed" || math.Abs(v.Speed) > 1) {
			t.Errorf("the load hangs on a brake that is %s, at %v r/min", v.Brake, v.Speed)
		}
		acts, ticks := b.Acts()
		again, err := bench.Replay(make(), acts, ticks)
		if err != nil {
			t.Fatal(err)
		}
		if x, y := b.Show(0), again.Show(0); !reflect.DeepEqual(x, y) {
			t.Errorf("%s: not the same run: %v r/min and %v r/min", name, x.Speed, y.Speed)
		}
	}
}

// A family whose setting knows a warning as well is warned by, and runs on.
func TestAnOpenPhaseIsWarnedOf(t *testing.T) {
	s := benches.Setup(t, "Tarn")
	f := *s.Family
	f.Settings = slices.Clone(f.Settings)
	for i := range f.Settings {
		if x := &f.Settings[i]; x.Code == "6U" {
			x.Choices = []dialect.Choice{{Value: 0, Text: "off"}, {Value: 1, Text: "warning"}, {Value: 2, Text: "fault"}}
		}
	}
	s.Family, s.Values["6U"] = &f, 1
	b := benches.Start(t, s)
	benches.Do(t, b, bench.Act{Do: "speed", Value: 40})
	benches.Do(t, b, bench.Act{Do: "run"})
	b.Advance(9000)
	benches.Do(t, b, bench.Act{Do: "break", What: "output-lost", On: true})
	b.Advance(3000)
	if v := b.Show(1e9); v.Fault != "" || v.Warning != "output-phase" || v.Phase != "running" {
		t.Errorf("%s, fault %q, warning %q", v.Phase, v.Fault, v.Warning)
	}
}
