package encoder

import (
	"math"
	"testing"
)

func TestCounts(t *testing.T) {
	// Common practice: 1024 lines read 4096 counts a turn; one hand turn a second reads 60 r/min.
	if c := CountsPerTurn(1024); c != 4096 {
		t.Error(c)
	}
	if hz := SignalHz(1024, 60); hz != 1024 {
		t.Error(hz)
	}
	// 1024 lines at 3000 r/min give 51.2 kHz (arithmetic: 1024 × 50).
	if hz := SignalHz(1024, -3000); hz != 51200 {
		t.Error(hz)
	}
	if v := ShownRPM(1450, 2048, 1024); v != 725 {
		t.Error(v)
	}
}

func TestFirstTurn(t *testing.T) {
	// Common practice, all four cases; each mend, made, must lead to the case that needs nothing.
	for _, right := range []bool{true, false} {
		for _, up := range []bool{true, false} {
			m := FirstTurn(right, up)
			// A swap of leads turns the shaft, and with it the count; a swap of pairs turns the count alone.
			nowRight, nowUp := right != m.Leads, (up != m.Leads) != m.Pairs
			if !nowRight || !nowUp {
				t.Errorf("right way %v, up %v: after %q it turns right %v, counts up %v", right, up, m.Text, nowRight, nowUp)
			}
		}
	}
}

func TestLinesFoundFromTurns(t *testing.T) {
	for _, lines := range Usual {
		for _, off := range []float64{-.005, 0, .005} { // a turn by hand stops a degree or two beside
			if got, ok := LinesFrom(lines*PerLine*10*(1+off), 10); !ok || math.Abs(got-lines)/lines > .025 {
				t.Errorf("%g lines, %g beside: %g", lines, off, got)
			}
		}
	}
	if _, ok := LinesFrom(4*900*10, 10); ok {
		t.Error("900 lines are not usual")
	}
	for _, c := range []struct {
		set, counts float64
		code        string
	}{{1024, 4096 * 5, ""}, {1024, -4096 * 5, ""}, {1024, 2048 * 5, "encoder-half"}, {2500, 4096 * 5, "encoder-lines"},
		{1024, 0, "encoder-silent"}} {
		_, l := JudgeLines(c.set, c.counts, 5)
		got := ""
		if len(l) > 0 {
			got = l[0].Code
		}
		if got != c.code {
			t.Errorf("%g lines set, %g counts: %q, want %q", c.set, c.counts, got, c.code)
		}
	}
}
