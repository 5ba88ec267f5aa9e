package app_test

import (
	"math"
	"strings"
	"testing"

	"tingate/app/benches"
)

// Two benches of a job: by control, pattern, family and single settings, each with its own shaft; and what cannot be is said or refused.
func TestTwoBenchesOfAJob(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	lay := func(in benches.BesideWant) benches.Beside {
		t.Helper()
		v, err := d.Beside(ctx, id, in)
		d.ok(err)
		if v.Missing != "" || len(v.Of) != 2 {
			t.Fatalf("%+v", v)
		}
		return v
	}
	v := lay(benches.BesideWant{})
	if a, b := v.Of[0], v.Of[1]; a.Title != "as planned" || len(a.Does.Ride.Samples) < 100 || len(v.Differs) != 0 ||
		a.Does.Ride.PeakRise != b.Does.Ride.PeakRise || a.Does.Ride.Trip != nil {
		t.Errorf("the plan beside itself: %q %v and %v A", a.Title, a.Does.Ride.PeakRise, b.Does.Ride.PeakRise)
	}
	v = lay(benches.BesideWant{A: benches.Variant{Control: "volts-per-hertz"}, B: benches.Variant{Control: "encoder"}, Knock: 50})
	if a, b := v.Of[0].Does, v.Of[1].Does; v.Of[0].Missing+v.Of[1].Missing != "" || !(a.Dip > 2) || !(b.Dip > 0) || a.Tune != 0 ||
		b.Tune == 0 || len(v.Differs) == 0 || v.Of[1].Title != "vector with encoder" {
		t.Errorf("by control: dips %v and %v, tunes %v and %v, %+v", a.Dip, b.Dip, a.Tune, b.Tune, v.Differs)
	}
	for _, family := range []string{"Brae", "Voe"} {
		v = lay(benches.BesideWant{B: benches.Variant{Family: family}})
		if b := v.Of[1]; b.Missing != "" || !strings.HasPrefix(b.Drive, family+" ") || b.Does.Ride.Top < 1300 || len(v.Differs) != 0 {
			t.Errorf("%s: %q %q, %v r/min, %v", family, b.Drive, b.Missing, b.Does.Ride.Top, b.Does.Ride.Trip)
		}
	}
	slow := benches.Variant{Settings: []benches.TypedSetting{{Code: "7A", Text: "20"}}}
	v = lay(benches.BesideWant{B: slow})
	if a, b := *v.Of[0].Does.Ride.Rise, *v.Of[1].Does.Ride.Rise; !(b > a+5) || len(v.Differs) != 1 || v.Differs[0].Code != "7A" ||
		v.Of[1].Title != "7A 20.0 s" {
		t.Errorf("another rise: %v and %v s, %+v, %q", a, b, v.Differs, v.Of[1].Title)
	}
	v = lay(benches.BesideWant{B: benches.Variant{Pattern: "quadratic"}})
	if len(v.Differs) != 1 || v.Of[0].Does.Ride.PeakRise == v.Of[1].Does.Ride.PeakRise {
		t.Errorf("another pattern: %+v", v.Differs)
	}
	for field, in := range map[string]benches.BesideWant{
		"setting of the second: got 99Z":  {B: benches.Variant{Settings: []benches.TypedSetting{{Code: "99Z", Text: "1"}}}},
		"7A of the second: got soon":      {B: benches.Variant{Settings: []benches.TypedSetting{{Code: "7A", Text: "soon"}}}},
		"family of the first: got Nobody": {A: benches.Variant{Family: "Nobody"}},
		"how much heavier the load is":    {Knock: 900},
	} {
		if _, err := d.Beside(ctx, id, in); err == nil || !strings.Contains(err.Error(), field) {
			t.Errorf("%s: %v", field, err)
		}
	}
	d.set(d.rh, id, "rating.dialect", "")
	if v, err := d.Beside(ctx, id, benches.BesideWant{}); err != nil || v.Missing == "" || len(v.Of) != 0 {
		t.Errorf("without a family: %+v %v", v, err)
	}
}

// Both motors of a job on one shaft: two plans alike halve its load; one that holds the speed against one that slips carries it.
func TestTwoBenchesOnOneShaft(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	v, err := d.Beside(ctx, id, benches.BesideWant{OneShaft: true})
	d.ok(err)
	a, b := v.Of[0].Does, v.Of[1].Does
	if math.Abs(a.Share-.5) > .02 || math.Abs(a.Share+b.Share-1) > 1e-9 || a.Ride.Top < 1300 || a.Ride.Trip != nil || a.Ride.Fall == nil ||
		len(v.Says) != 1 {
		t.Errorf("alike: %v and %v, %v r/min, %v, %q", a.Share, b.Share, a.Ride.Top, a.Ride.Trip, v.Says)
	}
	v, err = d.Beside(ctx, id, benches.BesideWant{A: benches.Variant{Control: "volts-per-hertz"}, B: benches.Variant{Control: "vector"},
		OneShaft: true})
	d.ok(err)
	if a, b = v.Of[0].Does, v.Of[1].Does; math.Abs(a.Share-b.Share) < .2 || len(v.Says) < 2 ||
		math.Abs(a.Ride.Top-b.Ride.Top) > 2 {
		t.Errorf("unlike: %v and %v, %v and %v r/min, %q", a.Share, b.Share, a.Ride.Top, b.Ride.Top, v.Says)
	}
}
