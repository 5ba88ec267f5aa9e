package motion_test

import (
	"fmt"
	"math"
	"testing"

	"tingate/core/motion"
	against "tingate/testtools/check"
)

// One ramp, 6 Hz/s, in every counting, and back.
func TestARampInEveryCounting(t *testing.T) {
	b := motion.RampBase{Highest: 60, Base: 50, PlateSpeed: 1455, Poles: 4}
	for c, want := range map[motion.Counting]float64{motion.ToHighestFrequency: 10, motion.ToBaseFrequency: 50. / 6,
		motion.ToPlateSpeed: 48.5 / 6, motion.SlopeHz: 6, motion.SlopePercent: 10, motion.Per100Hz: 100. / 6} {
		got := b.Count(c, 6)
		against.Against(t, "6 Hz/s counted "+string(c), "by hand, 120 f/p", got, want, 1e-12)
		if back := b.Slope(c, got); math.Abs(back-6) > 1e-9 {
			t.Errorf("%s: %g there, %g Hz/s back", c, got, back)
		}
	}
	if len(motion.Countings) != 6 {
		t.Errorf("%v", motion.Countings)
	}
	none := motion.RampBase{Highest: math.NaN(), Base: math.NaN(), PlateSpeed: math.NaN()}
	for _, c := range []motion.Counting{motion.ToHighestFrequency, motion.ToBaseFrequency, motion.ToPlateSpeed, motion.SlopePercent,
		"otherwise"} {
		if v := none.Slope(c, 10); !math.IsNaN(v) {
			t.Errorf("%s without its base gives %g", c, v)
		}
	}
}

// A run-up against loads whose time is known in closed form.
func TestTheTimeOfARunUp(t *testing.T) {
	const top = 150. // rad/s
	train := func(kind string, torque float64) motion.Train {
		return motion.Train{MotorJ: .1, LoadJ: 40, Ratio: 10, Efficiency: 1, Load: motion.Load{Kind: kind, Torque: torque, Speed: top / 10}}
	}
	against.Against(t, "40 kg·m² behind a gear of ten, at the motor, kg·m²", "J/i², any textbook of drives", train("none", 0).Inertia(),
		.5, 1e-12)
	against.Against(t, "30 N·m against 10 N·m of friction, s", "J Δω/T", train("constant", 100).Time(30, 0, top), .5*top/20, 1e-9)
	// T - k ω²: t = J/√(T k) · artanh(ω √(k/T)), the standard integral.
	k := 20. / (top * top)
	against.Against(t, "30 N·m against a fan that takes 20 N·m at the top, s", "standard integral",
		train("quadratic", 200).Time(30, 0, top), .5/math.Sqrt(30*k)*math.Atanh(top*math.Sqrt(k/30)), 1e-6)
	// T - c ω: t = J/c · ln(T/(T - c ω)).
	c := 20 / top
	against.Against(t, "30 N·m against 20 N·m that grow with the speed, s", "standard integral", train("linear", 200).Time(30, 0, top),
		.5/c*math.Log(30./10), 1e-6)
	against.Against(t, "slowed by 30 N·m, friction of 10 N·m helping, s", "J Δω/T", train("constant", 100).Time(30, top, 0), .5*top/40,
		1e-9)
	if v := train("constant", 100).Time(9, 0, top); !math.IsInf(v, 1) {
		t.Errorf("9 N·m against 10 N·m: %g s", v)
	}
	if v := train("constant", 100).Time(30, top, top); v != 0 {
		t.Errorf("from a speed to itself: %g s", v)
	}
	lossy := train("constant", 100)
	lossy.Efficiency = .8
	against.Against(t, "driven through a gear of 80 %, N·m", "T/(i η)", lossy.Torque(top, false), 12.5, 1e-12)
	against.Against(t, "braked through it, N·m", "T η/i", lossy.Torque(top, true), 8, 1e-12)
}

// Inertias of bodies as handbooks have them, each with a band; a change of speed gives them back.
func TestInertiaOfBodies(t *testing.T) {
	for _, x := range []struct {
		of   string
		body motion.Body
		want float64
	}{
		{"a full cylinder of 100 kg and 0.2 m", motion.Body{Shape: motion.Cylinder, Mass: 100, Radius: .2}, 2},
		{"a hollow one, inner radius 0.1 m", motion.Body{Shape: motion.Cylinder, Mass: 100, Radius: .2, Inner: .1}, 2.5},
		{"a drum of 20 kg with 80 kg at its rim of 0.5 m", motion.Body{Shape: motion.Drum, Mass: 20, Carried: 80, Radius: .5}, 25},
		{"400 kg on a belt, drum of 0.15 m", motion.Body{Shape: motion.Belt, Carried: 400, Radius: .15}, 9},
		{"500 kg on a rope, drum of 60 kg and 0.2 m", motion.Body{Shape: motion.Winch, Carried: 500, Mass: 60, Radius: .2}, 21.2},
		{"200 kg on a screw of 20 mm a turn", motion.Body{Shape: motion.Screw, Carried: 200, Lead: .02},
			200 * .0004 / (4 * math.Pi * math.Pi)},
	} {
		j, low, high := x.body.Inertia()
		against.Against(t, x.of+", kg·m²", "handbook: ½ m (r² + ri²), m r², m (p/2π)²", j, x.want, 1e-12)
		if !(low < j && j < high) || math.IsInf(high, 0) || low <= 0 {
			t.Errorf("%s lies from %g to %g", x.of, low, high)
		}
	}
	if j, low, high := (motion.Body{Shape: motion.Fan, Mass: 40, Radius: .5}).Inertia(); !(low >= .45*40*.25 && high <= .8*40*.25 &&
		low < j && j < high) {
		t.Errorf("an impeller: %g from %g to %g", j, low, high)
	}
	if j, _, _ := (motion.Body{Shape: "cube", Mass: 1, Radius: 1}).Inertia(); !math.IsNaN(j) {
		t.Errorf("a cube has %g", j)
	}
	against.Against(t, "10 N·m that slow from 150 to 50 rad/s in 5 s, kg·m²", "T t/Δω", motion.FromChange(10, 150, 50, 5), .5, 1e-12)
	against.Against(t, "0.5 kg·m² from 150 rad/s, J", "½ J ω²", motion.Energy(.5, 150, 0), 5625, 1e-12)
}

// What a fall gives back, by energy: what leaves the shaft is in the link, in the load and in the losses.
func TestAFallByItsEnergy(t *testing.T) {
	b := motion.Braking{J: .5, From: 150, Seconds: 3, Load: 5, Motor: .9, Drive: .95, C: 1e-3, Link: 565, Trip: 780, Chopper: 720,
		Most: 20, Resistor: math.NaN(), TorqueLimit: math.NaN(), Cycle: 60}
	r := b.Work()
	byLoad := 5 * 150. / 2 * 3 // J: its torque along the way
	against.Against(t, "back from 5625 J, 1125 J of them taken by the load, J", "energy, by hand", r.Returned, (5625-byLoad)*.9*.95, 1e-12)
	against.Against(t, "the link of 1 mF after it, V", "½ C U²", r.Peak, math.Sqrt(565*565+2*r.Returned/1e-3), 1e-12)
	against.Against(t, "least ohms of a chopper of 20 A at 720 V", "U/I", r.LeastOhm, 36, 1e-12)
	against.Against(t, "mean over a minute, W", "energy over time", r.Average, r.Returned/60, 1e-12)
	if !r.Trips || !r.Regenerating {
		t.Errorf("%+v", r)
	}
	// In the shortest time it is just at the trip.
	b.Seconds = r.Shortest
	if s := b.Work(); math.Abs(s.Peak-780) > .01 {
		t.Errorf("in the shortest %g s the link goes to %g V, and trips at 780 V", r.Shortest, s.Peak)
	}
	b.Seconds, b.Load = 60, 200
	if s := b.Work(); s.Regenerating || s.Returned != 0 || s.Torque >= 0 {
		t.Errorf("a load that stops it by itself gives back %+v", s)
	}
}

// What a motor with its own fan bears: 40 % at standstill, 85 % at half speed, all of it at its own (common practice), less above.
func TestTheOwnFan(t *testing.T) {
	for speed, want := range map[float64]float64{0: .4, .5: .85, 1: 1, 2: .5} {
		against.Against(t, fmt.Sprintf("borne at %g of the rated speed", speed), "common practice; above it 1/n",
			motion.OwnFan(speed, true), want, 1e-9)
	}
	last := 0.
	for i := range 101 {
		v := motion.OwnFan(float64(i)/100, true)
		if v < last || v > 1 || motion.OwnFan(float64(i)/100, false) != 1 {
			t.Fatalf("at %d %%: %g after %g", i, v, last)
		}
		last = v
	}
	half := func(float64) float64 { return .85 }
	if v := motion.LowestFor(half, true); math.Abs(v-.5) > .01 {
		t.Errorf("85 %% of the torque is borne from %g on", v)
	}
}

// The slope that is given beside a torque is its own, and what holds at rest lets nothing turn.
func TestLoads(t *testing.T) {
	for _, kind := range motion.Loads {
		l := motion.Load{Kind: kind, Torque: 50, Speed: 150, Breaks: 1.5}
		for _, w := range []float64{-140, -40, 40, 140} {
			const h = 1e-4
			up, slope := l.At(w + h)
			down, _ := l.At(w - h)
			if got := (up - down) / (2 * h); math.Abs(got-slope) > 1e-3*math.Max(1, math.Abs(slope)) {
				t.Errorf("%s at %g: slope %g, by difference %g", kind, w, slope, got)
			}
			if torque, _ := l.At(w); torque*w < 0 {
				t.Errorf("%s at %g helps by %g", kind, w, torque)
			}
		}
	}
	sticks := motion.Load{Kind: "constant", Torque: 50, Speed: 150, Breaks: 1.5}
	if !sticks.Holds(74) || sticks.Holds(76) || (motion.Load{Kind: "quadratic", Torque: 50, Speed: 150}).Holds(.1) {
		t.Error("friction holds up to its breakaway torque, and a fan not at all")
	}
	if torque, _ := (motion.Load{Kind: "hanging", Torque: 50, Speed: 150}).At(-10); torque != 50 {
		t.Errorf("a hanging load pulls down whichever way it goes: %g", torque)
	}
}

func ExampleRampBase_Count() {
	b := motion.RampBase{Highest: 60, Base: 50, PlateSpeed: 1455, Poles: 4}
	fmt.Printf("%.2f s to the highest frequency, %.2f s to the motor's\n", b.Count(motion.ToHighestFrequency, 6),
		b.Count(motion.ToBaseFrequency, 6))
	// Output: 10.00 s to the highest frequency, 8.33 s to the motor's
}
