package signal

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

// The chain from counts to the shaft, and both ways of counting a line.
func TestTheChainAndItsForms(t *testing.T) {
	c := Chain{Low: 4, High: 20, CountsLow: 0, CountsHigh: 27648, AsksLow: 0, AsksHigh: 100, SpeedLow: 0, SpeedHigh: 1800, Lowest: 360,
		Highest: 1750, DeadBand: .3}
	mid := c.At(.5)
	check.Against(t, "half the signal of 4 to 20 mA, mA", "linear, by hand", mid.Signal, 12, 1e-12)
	check.Against(t, "its counts of 0 to 27,648", "linear, by hand", mid.Counts, 13824, 1e-12)
	check.Against(t, "and its speed of 0 to 1800 r/min", "linear, by hand", mid.Speed, 900, 1e-12)
	check.Against(t, "one count of 27,648, r/min of 1800", "by hand", c.PerCount(), 1800./27648, 1e-12)
	if l := c.At(0); l.Speed != 360 || l.Scaled != 0 {
		t.Errorf("the lowest speed holds it: %+v", l)
	}
	if l := c.At(1); l.Speed != 1750 || l.Scaled != 1800 {
		t.Errorf("the highest speed holds it: %+v", l)
	}
	if l := c.At(.018); l.Scaled != 0 { // 4.288 mA
		t.Errorf("in the dead band: %+v", l)
	}
	if l := c.At(.02); !(l.Scaled > 0) {
		t.Errorf("above the dead band: %+v", l)
	}
	if !math.IsNaN((Chain{CountsLow: 5, CountsHigh: 5}).PerCount()) {
		t.Error("equal counts have no step")
	}
	// Common practice: 55 % in with −5 % offset and gain 2 gives 100 %.
	f, ok := Forms(5, 0, 55, 100)
	if !ok || f[0].Invert {
		t.Fatal(f)
	}
	check.Against(t, "offset before a gain of 2 that makes 100 % of 55 % in", "common practice: −5 %", f[0].Offset, -5, 1e-12)
	check.Against(t, "its gain", "common practice: 2", f[0].Gain, 2, 1e-12)
	check.Against(t, "the same with the offset behind the gain", "by hand: −10 %", f[1].Offset, -10, 1e-12)
	hertz := Chain{Low: 0, High: 10, SpeedLow: 0, SpeedHigh: 60, Lowest: math.NaN(), Highest: math.NaN()}
	check.Against(t, "34 % of a signal that asks for 0 to 60 Hz, Hz", "common practice: 20.4 Hz is 34 % of 60", hertz.At(.34).Scaled, 20.4,
		1e-12)
	for _, x := range [][4]float64{{5, 0, 55, 100}, {0, 100, 100, 0}, {20, 13.3, 100, 97.3}, {0, 10, 80, 90}, {10, 90, 90, 10}} {
		f, ok := Forms(x[0], x[1], x[2], x[3])
		for _, form := range f {
			low, high := form.Ends()
			at := func(in float64) float64 { return low + (high-low)*in/100 }
			if !ok || math.Abs(at(x[0])-x[1]) > 1e-9 || math.Abs(at(x[2])-x[3]) > 1e-9 {
				t.Errorf("%v as %+v gives %g and %g back", x, form, at(x[0]), at(x[2]))
			}
		}
	}
	if _, ok := Forms(3, 1, 3, 2); ok {
		t.Error("equal points for a line")
	}
}

// Points at which a limit or the dead band holds the speed say nothing of the line, unless they lie off what is held.
func TestWhichPointsTell(t *testing.T) {
	c := Chain{Low: 4, High: 20, SpeedLow: 0, SpeedHigh: 1800, Lowest: 360, Highest: 1750, DeadBand: .3}
	for name, x := range map[string]struct {
		at    Point
		tells bool
	}{
		"on the line":                    {Point{In: 12, Out: 900}, true},
		"off the line":                   {Point{In: 12, Out: 1000}, true},
		"held by the lowest speed":       {Point{In: 5, Out: 360}, false},
		"held by the highest":            {Point{In: 20, Out: 1750}, false},
		"there, and not what is held":    {Point{In: 20, Out: 1600}, true},
		"in the dead band, at the limit": {Point{In: 4.2, Out: 362}, false},
	} {
		if got := len(c.Telling([]Point{x.at})) == 1; got != x.tells {
			t.Errorf("%s: tells %v", name, got)
		}
	}
	if Within != .02 {
		t.Errorf("measured points may lie off by %g of the span", Within)
	}
}
