package drive

import (
	"fmt"
	"math"
	"testing"

	"tingate/testtools/check"
)

// The motor's overload is a thermal replica: it knows the square of the current, bears 1.1 times its setting for ever, and trips at 7.2
// times, cold, within its class (IEC 60947-4-1, 5.7.3: class 10 within 4 to 10 s).
func TestTheOverloadIsAThermalReplica(t *testing.T) {
	trips := func(times, class, warm float64) float64 {
		d := works()
		d.C.Overload, d.C.OverloadClass = 10, class
		d.Reload()
		d.replica = warm * warm
		const h = .005
		for at := 0.; at < 4000; at += h {
			d.Current = times * 10
			d.protect(h)
			if d.Fault == "motor-overload" {
				return at
			}
		}
		return math.Inf(1)
	}
	for _, class := range []float64{10, 20, 30} {
		at := trips(7.2, class, 0)
		check.Against(t, fmt.Sprintf("class %.0f at 7.2 times, cold, s", class), "IEC 60947-4-1: within the class", at, class, .01)
		tau := class / math.Log(51.84/(51.84-1.21))
		for _, times := range []float64{1.5, 3} {
			x := times * times
			check.Against(t, fmt.Sprintf("class %.0f at %g times, cold, s", class, times),
				"first-order heating, by hand: τ ln(x²/(x² − 1.21))", trips(times, class, 0), tau*math.Log(x/(x-1.21)), .01)
			check.Against(t, fmt.Sprintf("class %.0f at %g times, warm from its setting, s", class, times), "first-order heating, by hand",
				trips(times, class, 1), tau*math.Log((x-1)/(x-1.21)), .02)
		}
	}
	if at := trips(1.09, 10, 1); !math.IsInf(at, 1) {
		t.Errorf("1.09 times its setting trips after %g s", at)
	}
	if at := trips(1.2, 10, 1); math.IsInf(at, 1) ||
		at > 2*3600 { // IEC 60947-4-1, table 3: from 1.05 to 1.2 times it trips within two hours
		t.Errorf("1.2 times its setting, warm, trips after %g s", at)
	}
}
