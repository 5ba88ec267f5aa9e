package safety_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"tingate/core/safety"
	"tingate/testtools/golden"
)

// Levels, chains and distances are worked out as before, at the edges of every table and beside them.
func TestLevelsAreWorkedOutAsBefore(t *testing.T) {
	var out strings.Builder
	beside := func(v float64) []float64 { return []float64{v * .999, v, v * 1.001} }
	var years, covers []float64
	for _, y := range []float64{3, 10, 30, 60, 100, 2500} {
		years = append(years, beside(y)...)
	}
	for _, c := range []float64{0, .6, .9, .99} {
		covers = append(covers, beside(c)...)
	}
	for _, category := range []string{"B", "1", "2", "3", "4", "5"} {
		for _, y := range years {
			for _, dc := range covers {
				for _, ccf := range []float64{0, 64.9, 65, 100} {
					l := safety.LevelOf(category, y, dc, ccf)
					fmt.Fprintf(
						&out,
						"%s %.5g %.4g %g: %.4g %.5g %s %s %s %.4g",
						category,
						y,
						dc,
						ccf,
						l.DC,
						l.MTTFd,
						l.DCBand,
						l.MTTFdBand,
						l.Performance,
						l.PFHd,
					)
					for _, f := range l.Findings {
						fmt.Fprintf(&out, " %s %s", f.Code, golden.Digest(t, f))
					}
					fmt.Fprintln(&out)
				}
			}
		}
	}
	short := "levels " + golden.Digest(t, out.String()) + "\n"
	for _, line := range strings.SplitAfter(out.String(), "\n") {
		if strings.Contains(line, " 65:") && strings.Contains(line, "0.9 ") {
			short += line // enough to see where a change lies
		}
	}
	for _, p := range []float64{1e-8, 1e-7, 1e-6, 3e-6, 1e-5, 1e-4} {
		for _, v := range beside(p) {
			sum, level := safety.Chain(
				[]safety.Subsystem{{PFHd: v / 2, Performance: "d"}, {PFHd: v / 2, Performance: ""}, {PFHd: 0, Performance: "e"}},
			)
			short += fmt.Sprintf("%.4g: %s; chain %.4g %s\n", v, safety.LevelOfPFHd(v), sum, level)
		}
	}
	for _, a := range []safety.Approach{{Device: "vertical-field"}, {Device: "parallel-field"}, {Device: "two-hand"},
		{Device: "interlock-or-other"}} {
		for _, resolution := range []float64{math.NaN(), 0, 14, 39.9, 40, 40.1, 69.9, 70, 70.1, 120} {
			for _, height := range []float64{math.NaN(), 0, 300, 999, 1000, 1001} {
				for _, time := range []float64{0, .05, .1, .31, .3125, .315, 1} {
					for _, own := range []float64{math.NaN(), 2500} {
						a.Resolution, a.Height, a.K, a.C = resolution, height, own, own/10
						d := safety.StopDistance(a, time)
						short += fmt.Sprintf("%s %g %g %g %g: %.5g %.5g %.5g", a.Device, resolution, height, time, own, d.MM, d.K, d.C)
						for _, f := range d.Findings {
							short += " " + f.Code + " " + golden.Digest(t, f)
						}
						short += "\n"
					}
				}
			}
		}
	}
	i := strings.Index(short, "vertical-field")
	golden.Same(t, "testdata/levels.txt", short[:i]+fewOf(t, short[i:]))
}

// fewOf keeps a mark of every twenty lines.
func fewOf(t *testing.T, text string) string {
	t.Helper()
	lines, out := strings.Split(text, "\n"), ""
	for i := 0; i < len(lines); i += 20 {
		out += fmt.Sprintf("%s … %s\n", lines[i], golden.Digest(t, lines[i:min(len(lines), i+20)]))
	}
	return out
}

// Torque off goes through its states as before, for sixteen kinds of drive and every order of signals that chance makes.
func TestTorqueOffGoesAsBefore(t *testing.T) {
	var out strings.Builder
	for kind := range 16 {
		for _, d := range []float64{.5, 3} {
			rng := rand.New(rand.NewPCG(18, uint64(kind)))
			o := safety.Options{Discrepancy: d, Latched: kind&1 > 0, AutomaticRestart: kind&2 > 0, FallingReset: kind&4 > 0}
			s := safety.Signals{A: true, B: true, Power: kind&8 == 0, Run: rng.IntN(2) == 0}
			at := 1.0
			m := safety.New(o, s, at)
			walk := fmt.Sprintf("%s %t", m.State, m.Torque())
			for range 400 {
				switch rng.IntN(12) {
				case 0, 1, 2:
					s.A = !s.A
				case 3, 4, 5:
					s.B = !s.B
				case 6, 7:
					s.A, s.B = rng.IntN(3) > 0, rng.IntN(3) > 0
				case 8:
					s.Run = !s.Run
				case 9:
					s.Reset = !s.Reset
				case 10:
					s.Power = rng.IntN(4) > 0
				default:
					s.InternalFault = rng.IntN(3) == 0
				}
				at += []float64{0, .001, d / 2, d, d * 1.001, d - 1e-9}[rng.IntN(6)]
				walk += fmt.Sprintf("; %s %t", m.Step(s, at), m.Torque())
				if m.State == safety.Discrepancy {
					walk += fmt.Sprintf(" until %.4g", m.Until())
				}
			}
			fmt.Fprintf(&out, "kind %d, %g s: %s\n", kind, d, golden.Digest(t, walk))
			states := map[string]int{}
			for _, w := range strings.Split(walk, "; ") {
				states[strings.Fields(w)[0]]++
			}
			fmt.Fprintf(&out, "\t%v\n", states)
		}
	}
	golden.Same(t, "testdata/torque-off.txt", out.String())
}
