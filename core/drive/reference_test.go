package drive

import (
	"encoding/csv"
	"math"
	"os"
	"strconv"
	"testing"

	"tingate/core/machine"
)

// small is the textbook 3 hp machine at 220 V, 60 Hz (Krause, Analysis of Electric Machinery and Drive Systems); medium a
// plausible one of 30 kW.
func small() Reference {
	const w = 2 * math.Pi * 60
	lm := 26.13 / w
	l := .754/w + lm
	v0 := 220 * 3 * math.Sqrt2 / math.Pi
	return Reference{Motor: machine.Induction{Rs: .435, Rr: .816, Ls: l, Lr: l, Lm: lm, Pairs: 2}, J: .089 + .20,
		Fan: .55 * 11.9 / (179 * 179), Dry: .25 * 11.9,
		FN: 60, Vpk: 220 * math.Sqrt(2./3), B0: .04, V0: v0, Bus: Bus{Open: v0, Resistance: .6, C: 940e-6, On: 380, Band: 20, Chopper: 60},
		Cth: 900, Gth: 4}
}

func medium() Reference {
	v0 := 400 * 3 * math.Sqrt2 / math.Pi
	return Reference{Motor: machine.Induction{Rs: .10, Rr: .070, Ls: 31.9e-3, Lr: 32.1e-3, Lm: 31e-3, Pairs: 2}, J: .24 + 4,
		Fan: .55 * 195 / (154 * 154), Dry: .25 * 195,
		FN: 50, Vpk: 400 * math.Sqrt(2./3), B0: .025, V0: v0,
		Bus: Bus{Open: v0, Resistance: .15, C: 2000e-6, On: 680, Band: 40, Chopper: 20}, Cth: 15000, Gth: 40}
}

func samples(run func(func(Sample))) []Sample {
	out := make([]Sample, 0, 10001)
	run(func(s Sample) { out = append(out, s) })
	return out
}

// worst is the largest error of each channel against its own scale: speed, current, torque, bus.
func worst(ours, theirs []Sample) [4]float64 {
	var e, scale [4]float64
	for i, r := range theirs {
		o := ours[i]
		for c, p := range [4][2]float64{{o.Speed, r.Speed}, {o.Current, r.Current}, {o.Torque, r.Torque}, {o.Bus, r.Bus}} {
			e[c], scale[c] = math.Max(e[c], math.Abs(p[0]-p[1])), math.Max(scale[c], math.Abs(p[1]))
		}
	}
	for c := range e {
		e[c] /= scale[c]
	}
	return e
}

// published reads a tight solution of the 3 hp problem, each 10 ms: an eighth-order method at 1e-11, or 1000 and 128
// Runge-Kutta steps a tick; good to 1e-9 of each channel's scale.
func published(t *testing.T, name string) []Sample {
	t.Helper()
	f, err := os.Open("testdata/" + name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	var out []Sample
	for _, r := range rows[1:] {
		var v [5]float64
		for i := range v {
			if v[i], err = strconv.ParseFloat(r[i], 64); err != nil {
				t.Fatal(err)
			}
		}
		out = append(out, Sample{v[0], v[1], v[2], v[3], v[4]})
	}
	return out
}

func tenth(l []Sample) []Sample {
	var out []Sample
	for i := 0; i < len(l); i += 10 {
		out = append(out, l[i])
	}
	return out
}

func TestReferenceRuns(t *testing.T) {
	r := small()
	for _, c := range []struct {
		file string
		run  func(func(Sample))
		most [4]float64
	}{
		{"k3hp_cont.csv", func(f func(Sample)) { r.Continuous(20, f) }, [4]float64{1e-4, 1e-4, 1e-3, 1e-3}},
		{"k3hp_tick1ms.csv", func(f func(Sample)) { r.Held(f) }, [4]float64{1e-4, 1e-4, 1e-3, 1e-3}},
		{"k3hp_foc125us.csv", func(f func(Sample)) { r.Oriented(f) }, [4]float64{1e-4, 1e-4, 1e-3, 1e-3}},
	} {
		e := worst(tenth(samples(c.run)), published(t, c.file))
		t.Logf("%s: speed %.1e, current %.1e, torque %.1e, bus %.1e", c.file, e[0], e[1], e[2], e[3])
		for i := range e {
			if !(e[i] <= c.most[i]) {
				t.Errorf("%s: channel %d is %.2e off, at most %.0e", c.file, i, e[i], c.most[i])
			}
		}
	}
}
