package signal_test

import (
	"math"
	"testing"

	"tingate/core/signal"
)

// A chain with bends goes through them, and straight between; without any it is the line of its ends.
func TestAChainGoesThroughItsBends(t *testing.T) {
	c := signal.Chain{Low: 4, High: 20, SpeedLow: 0, SpeedHigh: 1500, Lowest: math.NaN(), Highest: math.NaN(),
		Bends: []signal.Bend{{Share: .25, Speed: 150}, {Share: .5, Speed: 900}}}
	for share, want := range map[float64]float64{0: 0, .125: 75, .25: 150, .375: 525, .5: 900, .75: 1200, 1: 1500, 1.1: 1620, -.1: -60} {
		if got := c.At(share).Scaled; math.Abs(got-want) > 1e-9 {
			t.Errorf("at %g: %g, want %g", share, got, want)
		}
	}
	c.Bends = nil
	if got := c.At(.3).Scaled; math.Abs(got-450) > 1e-9 {
		t.Errorf("straight: %g", got)
	}
}
