package ride_test

import (
	"context"
	"math"
	"testing"

	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/motion"
	"tingate/testtools/benches"
	"tingate/testtools/check"
	"tingate/testtools/raced"
)

// idle is a setup whose shaft turns nothing but inertia: closed forms hold.
func idle(t testing.TB, family string) bench.Setup {
	s := benches.Setup(t, family)
	s.Load, s.LoadJ = motion.Load{Kind: "none"}, .4
	return s
}

// A ride takes the time that its ramp asks for; the torque on the way is inertia times its slope; coasting against a constant torque takes
// J Δω / T.
func TestARideAgainstClosedForms(t *testing.T) {
	s := idle(t, "Tarn")
	r, err := ride.Of(s, ride.Want{Hz: 40, Rise: 10, Fall: 10, Resistor: 50})
	if err != nil || r.Trip != nil || r.Rise == nil || r.Fall == nil {
		t.Fatalf("%+v %v", r.Trip, err)
	}
	check.Against(t, "rise to 97 % of 40 Hz at 10 Hz/s, s", "0.97 · 40/10, by hand", *r.Rise, 3.88, .06)
	check.Against(t, "fall from 40 Hz at 10 Hz/s to 2 %, s", "0.98 · 40/10, by hand", *r.Fall, 3.92, .06)
	// J: motor's usual rotor beside .4; the torque that it asks for at 10 Hz/s of a 4-pole motor.
	var sum, n float64
	for _, x := range r.Samples {
		if x.T > 1.5 && x.T < 3.5 {
			sum, n = sum+x.Torque, n+1
		}
	}
	j := .4 + bench.RotorInertia(s)
	check.Against(t, "torque while it rises, no load, N·m", "J dω/dt = J · 2π · 10/2, by hand", sum/n, j*2*math.Pi*10/2, .05)

	s.Load = motion.Load{Kind: "constant", Torque: 20, Speed: 150}
	c, err := ride.Of(s, ride.Want{Hz: 40, Rise: 8, Coast: true})
	if err != nil || c.Fall == nil {
		t.Fatalf("%+v %v", c.Trip, err)
	}
	check.Against(t, "coasting from 40 Hz against 20 N·m to 2 %, s", "0.98 J ω / T, by hand", *c.Fall, .98*j*c.Top*math.Pi/30/20, .06)
}

// Too short a fall trips the link, too short a rise is held back by the current limit; the shortest that hold do hold, a little shorter
// does not; a resistor makes the fall shorter.
func TestTheShortestThatHolds(t *testing.T) {
	s := idle(t, "Tarn")
	off := false
	fast, err := ride.Of(s, ride.Want{Hz: 50, Rise: 12, Fall: 100, BusControl: &off, Resistor: -1})
	if err != nil || fast.Trip == nil || fast.Trip.While != "fall" || fast.Trip.Code != "over-voltage" && fast.Trip.Link < 700 {
		t.Fatalf("%+v %v", fast.Trip, err)
	}
	x, err := ride.ShortestOf(context.Background(), s, ride.Want{Hz: 50})
	if err != nil || x.Rise == nil || x.FallPlain == nil || x.FallBraked == nil || x.FallEased == nil || x.Coast == nil && x.CoastAtRest {
		t.Fatalf("%+v %v", x, err)
	}
	if *x.FallBraked > *x.FallPlain*.8 || *x.FallPlain < .3 {
		t.Errorf("plain %v, braked %v", *x.FallPlain, *x.FallBraked)
	}
	for _, c := range []struct {
		times float64
		trips bool
	}{{1.05, false}, {.8, true}} {
		r, err := ride.Of(s, ride.Want{Hz: 50, Rise: 12, Fall: 50 / (*x.FallPlain * c.times), BusControl: &off, Resistor: -1})
		if err != nil || (r.Trip != nil) != c.trips {
			t.Errorf("fall of %.2f of the shortest: %+v %v", c.times, r.Trip, err)
		}
	}
	r, err := ride.Of(s, ride.Want{Hz: 50, Rise: 50 / (*x.Rise * 1.05)})
	if err != nil || r.Trip != nil && r.Trip.While == "rise" {
		t.Errorf("the shortest rise: %+v", r.Trip)
	}
	// The same again: rides are the same bit by bit.
	again, _ := ride.Of(s, ride.Want{Hz: 50, Rise: 50 / (*x.Rise * 1.05)})
	if again.PeakRise != r.PeakRise || *again.Rise != *r.Rise {
		t.Error("a ride is not repeatable")
	}
}

func BenchmarkRide(b *testing.B) {
	s := benches.Setup(b, "Tarn")
	for b.Loop() {
		if _, err := ride.Of(s, ride.Want{Hz: 50, Rise: 50. / 8, Fall: 5}); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkShortest(b *testing.B) {
	for _, f := range []string{"Tarn", "Voe"} {
		b.Run(f, func(b *testing.B) {
			s := benches.Setup(b, f)
			for b.Loop() {
				if _, err := ride.ShortestOf(context.Background(), s, ride.Want{Hz: 50}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// A stop by direct current: what it leaves in the rotor is what the shaft loses to it, and it is quicker than coasting.
func TestAStopByDirectCurrent(t *testing.T) {
	raced.Skip(t)
	s := idle(t, "Tarn")
	x, err := ride.ShortestOf(context.Background(), s, ride.Want{Hz: 50})
	if err != nil || x.DC == nil {
		t.Fatalf("%+v %v", x, err)
	}
	j, w := .4+bench.RotorInertia(s), 1500*math.Pi/30
	check.Against(t, "heat of a stop by direct current without load, kJ", "J ω²/2, by hand", x.DCHeat, j*w*w/2000, .03)
	if x.Coast != nil && *x.DC >= *x.Coast || *x.DC < 1.5 {
		t.Errorf("%.1f s by direct current", *x.DC)
	}
}

// A family that catches a turning shaft as delivered looks for it at every start; that is told apart from the rise.
func TestTheSearchIsToldApart(t *testing.T) {
	for family, searches := range map[string]bool{"Brae": true, "Tarn": false} {
		r, err := ride.Of(benches.Setup(t, family), ride.Want{})
		if err != nil || r.Rise == nil || (r.Searched > 1) != searches || math.Abs(*r.Rise-r.Searched-r.AskedRise) > .5 {
			t.Errorf("%s: %v, rise %v s with a search of %v s, %v s asked", family, err, r.Rise, r.Searched, r.AskedRise)
		}
	}
}
