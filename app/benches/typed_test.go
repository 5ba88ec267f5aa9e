package benches

import (
	"math"
	"strings"
	"testing"

	"tingate/bench/ride"
	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
)

// What somebody typed of the machine is held against the ride.
func TestWhatWasReadIsExplained(t *testing.T) {
	// Up in 8 s to 97 %, once it turns; it is magnetised first, and the ride's own times count from the command.
	rise, fall := 9.25, 6.
	r := ride.Ride{Top: 1455, Rise: &rise, Fall: &fall, PeakRise: 20, Steady: 12, CurrentLimit: 30, Highest: 50, Upper: 50}
	for t := 0.; t < 25; t += .05 {
		speed := math.Max(0, math.Min(1, (t-1)/8.421)) * math.Max(0, math.Min(1, (20-t)/6.185))
		r.Samples = append(r.Samples, ride.RideSample{T: t, Speed: 1455 * speed, Current: 12})
	}
	var d drivefile.Drive
	if x := typedOf(d, r); x.Said {
		t.Errorf("%+v", x)
	}
	d.Ran.Rise, d.Ran.Held = sample.Q("ran.rise", "8.1"), sample.Q("ran.held", "12.3")
	if x := typedOf(d, r); !x.Said || len(x.Likely) != 0 {
		t.Errorf("as predicted: %+v", x)
	}
	d.Ran.Rise, d.Ran.Held = sample.Q("ran.rise", "16"), sample.Q("ran.held", "18")
	if x := typedOf(d, r); len(x.Likely) != 2 || !strings.Contains(x.Likely[0], "times as long") ||
		!strings.Contains(x.Likely[1], "1.50 times") {
		t.Errorf("%+v", x)
	}
}
