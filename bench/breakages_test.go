package bench_test

import (
	"errors"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"tingate/bench"
	"tingate/core/drive"
	"tingate/testtools/benches"
	"tingate/testtools/trials"
)

// whole is a bench on which everything can be wrong: a brake, a braking resistor, an encoder, a watched winding.
func whole(t testing.TB, family string) bench.Setup {
	s := benches.Setup(t, family)
	s.Brake = drive.Brake{Torque: 100, Follows: true, Opens: .1, Closes: .1}
	number(&s, "brake", 1)
	number(&s, "resistor", 1)
	number(&s, "resistor-ohm", 60)
	number(&s, "sensor", 1)
	return s
}

// interlocked closes the input that one family wants closed before it runs.
func interlocked(t testing.TB, b *bench.Bench) {
	if b.Setup.Family.Name == "Brae" {
		benches.Do(t, b, bench.Act{Do: "terminal", N: 5, On: true})
	}
}

// running is a bench that runs by its keypad at a frequency.
func running(t testing.TB, s bench.Setup, hz float64) *bench.Bench {
	b := benches.Start(t, s)
	interlocked(t, b)
	benches.Do(t, b, bench.Act{Do: "hand", On: true})
	benches.Do(t, b, bench.Act{Do: "speed", Value: hz})
	benches.Do(t, b, bench.Act{Do: "run"})
	b.Advance(14000)
	if v := b.Show(1e9); v.Phase != "running" || v.Fault != "" {
		t.Fatalf("%s does not run: %s, %q, %q", s.Family.Name, v.Phase, v.Fault, v.Blocked)
	}
	return b
}

// Everything that can be wrong has words, a place, and where a drive shows it, words in every family.
func TestEveryBreakageHasItsWords(t *testing.T) {
	seen := map[string]bool{}
	for _, f := range bench.Faults {
		if seen[f.Key] || f.Text == "" || f.Reads == "" || f.Mends == "" {
			t.Errorf("%+v", f.Key)
		}
		seen[f.Key] = true
		where := false
		for _, w := range bench.Wheres {
			where = where || w.Key == f.Where
		}
		if !where {
			t.Errorf("%s is at %q", f.Key, f.Where)
		}
		for _, family := range []string{"Tarn", "Brae", "Voe"} {
			b, err := bench.New(whole(t, family))
			if err != nil {
				t.Fatal(err)
			}
			if code, _ := b.FaultWords(f.Fault); f.Fault != "" && code == "" {
				t.Errorf("%s: %s has no code for %s", f.Key, family, f.Fault)
			}
		}
	}
}

// What cannot be wrong on a machine is refused with why, never hidden there, and always mended without a word.
func TestWhatCannotBeIsRefused(t *testing.T) {
	s := benches.Setup(t, "Brae")
	s.Lines, s.LoadJ, s.Load.Kind, s.Single = 0, 0, "constant", true
	b := benches.Start(t, s)
	refused := map[string]string{
		"encoder-dead": "no encoder",
		"brake-late":   "no brake",
		"resistor-off": "no braking resistor",
		"draught":      "fan",
		"belt-slips":   "no inertia",
		"phase-lost":   "one phase",
		"sensor-open":  "watches no winding sensor",
	}
	for what, why := range refused {
		var bad *bench.BadAct
		if err := b.Do(bench.Act{Do: "break", What: what, On: true}); !errors.As(err, &bad) || !strings.Contains(bad.Want, why) {
			t.Errorf("%s: %v", what, err)
		}
		benches.Do(t, b, bench.Act{Do: "break", What: what})
	}
	for seed := range uint64(200) {
		b := benches.Start(t, s)
		if err := b.Hide(seed); err != nil {
			t.Fatalf("seed %d hides what cannot be: %v", seed, err)
		}
	}
	for _, bad := range []bench.Act{{Do: "dip"}, {Do: "dip", Value: math.NaN()}, {Do: "dip", Value: 61}} {
		if err := b.Do(bad); err == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
	benches.Do(t, b, bench.Act{Do: "line"})
	b.Advance(10)
	if err := b.Do(bench.Act{Do: "dip", Value: .1}); err == nil {
		t.Error("a dip of a mains that is off")
	}
}

// What each thing does to a drive of each family that runs at full speed, at least, and then stops by its ramp: the fault it comes to, in
// the family's own code, or none.
func TestWhatEachBreakageComesTo(t *testing.T) {
	want := map[string]string{"earth": "earth-fault", "sensor-open": "motor-overload", "resistor-off": "bus-over-voltage"}
	codes := map[string]string{"Tarn": "P7", "Brae": "E 07", "Voe": "F.2330"}
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		for _, what := range []string{"earth", "damp", "sensor-open", "sensor-shorted", "resistor-off", "line-uneven", "line-low",
			"brake-drags", "reference-hum", "draught", "play"} {
			s := whole(t, family)
			number(&s, "bus-control", 0)
			s.LoadJ = 1.2
			if what == "draught" {
				s.Brake = drive.Brake{}
			}
			if what == "resistor-off" {
				quickFall(&s)
			}
			b := running(t, s, 40)
			benches.Do(t, b, bench.Act{Do: "break", What: what, On: true})
			b.Advance(5000)
			benches.Do(t, b, bench.Act{Do: "stop"})
			b.Advance(15000)
			v := b.Show(1e9)
			got := ""
			if len(v.Trips) > 0 {
				got = v.Trips[0].Family
			}
			if got != want[what] {
				t.Errorf("%s, %s: %q, want %q", family, what, got, want[what])
			}
			if what == "earth" && (v.Trips[0].Code != codes[family] || v.Blocked != "power-cycle") {
				t.Errorf("%s: %+v, blocked %q", family, v.Trips[0], v.Blocked)
			}
			if what == "draught" && v.Speed > -50 {
				t.Errorf("%s: at rest the air turns it with %v r/min", family, v.Speed)
			}
		}
	}
}

// A fault that stands until the drive has been without power: no reset, no short dip takes it; after the dark it is gone.
func TestAFaultThatStandsUntilThePowerIsOff(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		for _, what := range []string{"earth", "channel-stuck"} {
			b := running(t, benches.Setup(t, family), 30)
			benches.Do(t, b, bench.Act{Do: "break", What: what, On: true})
			if what == "channel-stuck" {
				benches.Do(t, b, bench.Act{Do: "channel", N: 3})
			}
			b.Advance(3000)
			fault := b.Show(1e9).Fault
			benches.Do(t, b, bench.Act{Do: "break", What: what})
			benches.Do(t, b, bench.Act{Do: "channel", N: 3, On: true})
			benches.Do(t, b, bench.Act{Do: "stop"})
			b.Advance(100)
			benches.Do(t, b, bench.Act{Do: "reset"})
			b.Advance(500)
			benches.Do(t, b, bench.Act{Do: "dip", Value: .2})
			b.Advance(1500)
			if v := b.Show(1e9); fault == "" || v.Fault != fault || v.Blocked != "power-cycle" {
				t.Errorf("%s, %s: %q, then %q, %q", family, what, fault, v.Fault, v.Blocked)
			}
			benches.Do(t, b, bench.Act{Do: "dip", Value: 60})
			b.Advance(63000)
			benches.Do(t, b, bench.Act{Do: "run"})
			b.Advance(9000)
			if v := b.Show(1e9); v.Fault != "" || v.Phase != "running" {
				t.Errorf("%s, %s, after the dark: %q, %q, %s", family, what, v.Fault, v.Blocked, v.Phase)
			}
		}
	}
}

// A dip of the mains is ridden through by the families' own setting, and trips without it; so does the earth fault by its own.
func TestTheFamiliesOwnSettings(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		for _, on := range []float64{0, 1} {
			s := benches.Setup(t, family)
			s.LoadJ = 1.5
			number(&s, "ride-through", on)
			b := running(t, s, 40)
			benches.Do(t, b, bench.Act{Do: "dip", Value: .6})
			b.Advance(300)
			during := b.Show(1e9)
			b.Advance(700)
			v := b.Show(1e9)
			if on == 1 && (v.Fault != "" || v.Phase != "running" || during.Limiting != "mains") || on == 0 && len(v.Trips) == 0 {
				t.Errorf("%s, ride-through %v: %s, fault %q, %q", family, on, v.Phase, v.Fault, during.Limiting)
			}
		}
		s := benches.Setup(t, family)
		number(&s, "earth-fault", 0)
		b := running(t, s, 40)
		benches.Do(t, b, bench.Act{Do: "break", What: "earth", On: true})
		b.Advance(2000)
		if v := b.Show(1e9); family != "Tarn" && (v.Fault != "" || v.Earth < .5*s.Size.Heavy || v.Phases[2] < v.Earth) {
			t.Errorf("%s, not watched: %q, %v A to earth, %v A", family, v.Fault, v.Earth, v.Phases)
		}
	}
	s := benches.Setup(t, "Tarn") // direct current before a start: the shaft stays where it is for so long
	number(&s, "dc-start", 4)
	number(&s, "dc-brake-current", 50)
	b := benches.Start(t, s)
	benches.Do(t, b, bench.Act{Do: "run"})
	b.Advance(3900)
	if v := b.Show(1e9); v.Phase != "braking" || math.Abs(v.Speed) > 1 || v.Current < .3*s.Size.Heavy {
		t.Errorf("held: %s, %v r/min, %v A", v.Phase, v.Speed, v.Current)
	}
	b.Advance(3000)
	if v := b.Show(1e9); v.Phase != "running" || v.Speed < 100 {
		t.Errorf("then: %s, %v r/min", v.Phase, v.Speed)
	}
}

// Two things at once, put in and mended at random while the drive is commanded: every figure stays one, and the run plays again bit by bit.
func TestTwoBreakagesAtOnce(t *testing.T) {
	rng := rand.New(rand.NewPCG(19, 2))
	for n := range trials.N(t, 300) {
		family := []string{"Tarn", "Brae", "Voe"}[rng.IntN(3)]
		s := whole(t, family)
		if rng.IntN(2) == 0 {
			means(&s, "choice.control", []string{"vector", "encoder"}[rng.IntN(2)])
			number(&s, "encoder-lines", 1024)
		}
		for _, x := range []string{"flying-start", "ride-through", "earth-fault", "output-phase", "line-phase", "bus-control"} {
			number(&s, x, float64(rng.IntN(2)))
		}
		b := benches.Start(t, s)
		interlocked(t, b)
		benches.Do(t, b, bench.Act{Do: "speed", Value: 10 + 40*rng.Float64()})
		keys := make([]string, 0, len(bench.Faults))
		for _, f := range bench.Faults {
			if b.Cannot(f.Key) == "" {
				keys = append(keys, f.Key)
			}
		}
		pair := []string{keys[rng.IntN(len(keys))], keys[rng.IntN(len(keys))]}
		for range 14 {
			act := []bench.Act{{Do: "run"}, {Do: "reverse"}, {Do: "stop"}, {Do: "reset"}, {Do: "dip", Value: rng.Float64()},
				{Do: "break", What: pair[0], On: rng.IntN(3) > 0}, {Do: "break", What: pair[1], On: rng.IntN(3) > 0},
				{Do: "run"}}[rng.IntN(8)]
			if err := b.Do(act); err != nil && act.Do != "dip" {
				t.Fatal(err)
			}
			b.Advance(200 + rng.IntN(2500))
			v := b.Show(1e9)
			for _, x := range append(slices.Clone(v.Phases), v.Speed, v.Current, v.Link, v.Torque, v.Winding, v.Sink, v.Earth, v.Ripple,
				v.Lines[0], v.Lines[2], *v.Resistor) {
				if math.IsNaN(x) || math.Abs(x) > 1e4 {
					t.Fatalf("trial %d, %s, %v: %+v", n, family, pair, v)
				}
			}
			if v.Fault == "simulation" || v.Link > 1000 {
				t.Fatalf("trial %d, %s, %v: %s, link %v V", n, family, pair, v.FaultText, v.Link)
			}
		}
		acts, ticks := b.Acts()
		again, err := bench.Replay(s, acts, ticks)
		if err != nil {
			t.Fatal(err)
		}
		if x, y := b.Show(0), again.Show(0); !reflect.DeepEqual(x, y) {
			t.Errorf("trial %d, %s, %v: not the same run: %v and %v r/min, %q and %q", n, family, pair, x.Speed, y.Speed, x.Fault, y.Fault)
		}
	}
}

// Leads and pairs that were found the other way round, and are made up for by settings: it runs forward, and with its encoder; without the
// settings it does not.
func TestWhatWasFoundTurnedAndIsMadeUpFor(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		for _, made := range []float64{0, 1} {
			s := benches.Setup(t, family)
			means(&s, "choice.control", "vector")
			number(&s, "encoder-lines", 1024)
			number(&s, "phase-order", made)
			number(&s, "encoder-direction", made)
			s.LeadsTurned, s.PairsTurned = true, true
			b := benches.Start(t, s)
			interlocked(t, b)
			benches.Do(t, b, bench.Act{Do: "hand", On: true})
			benches.Do(t, b, bench.Act{Do: "speed", Value: 30})
			benches.Do(t, b, bench.Act{Do: "run"})
			b.Advance(12000)
			v := b.Show(1e9)
			if forward := v.Fault == "" && math.Abs(v.Speed-900) < 30 && v.Encoder > 0; forward != (made == 1) {
				t.Errorf("%s, made up for %v: %q, %.0f r/min, reads %.0f r/min", family, made, v.Fault, v.Speed, v.Encoder)
			}
		}
	}
}
