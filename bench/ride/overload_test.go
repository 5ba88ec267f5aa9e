package ride_test

import (
	"math"
	"testing"

	"tingate/bench/ride"
	"tingate/testtools/check"
)

// The trip curve of class 10 goes through 7.2 times the setting at 10 s, cold; a start and a cycle are held against it.
func TestTheOverloadAgainstThePlan(t *testing.T) {
	rise := 5.
	r := ride.Ride{OverloadAmps: 15, OverloadClass: 10, Rise: &rise}
	for i := range 401 { // 5 s at 30 A, 5 s at 15 A, 30 s at nothing
		s := ride.RideSample{T: float64(i) / 10}
		switch {
		case s.T <= 5:
			s.Current = 30
		case s.T <= 10:
			s.Current = 15
		}
		r.Samples = append(r.Samples, s)
	}
	o := ride.OverloadOf(r)
	last := o.Curve[len(o.Curve)-1]
	check.Against(t, "class 10 at 7.2 times the setting from cold, s", "IEC 60947-4-1, trip classes: up to 10 s", *last.Cold, 10, .001)
	check.Against(t, "the start's effective current over the setting", "30 over 15 A, by hand", o.Start.Multiple, 2, .01)
	// x² (1 − e^(−t/τ)) over 1.21, τ from the class.
	tau := 10 / math.Log(7.2*7.2/(7.2*7.2-1.21))
	check.Against(t, "share that 5 s at twice the setting fill", "thermal replica in closed form, by hand", o.Uses,
		4*(1-math.Exp(-5/tau))/1.21, .01)
	check.Against(t, "share at which the cycle settles", "mean of the squares over 1.21, by hand", o.Cycle, (4*5+1*5)/40./1.21, .02)
	if o.Curve[0].Cold != nil || *o.Curve[4].Hot >= *o.Curve[4].Cold || o.Missing != "" || len(o.Says) != 3 {
		t.Errorf("%+v", o)
	}
	r.OverloadAmps = 0
	if ride.OverloadOf(r).Missing == "" {
		t.Error("an overload that is off is not said")
	}
}
