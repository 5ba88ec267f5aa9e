package motion_test

import (
	"math"
	"testing"

	"tingate/core/motion"
	"tingate/testtools/check"
)

// A fan whose mean torque would stop it faster than the ramp gives back all the same, towards the end: by the integral over its own curve.
func TestWhatComesBackFollowsTheLoadsCurve(t *testing.T) {
	const j, w, s = 2., 150., 10.
	brakes := j * w / s // N·m that the ramp asks for
	fan := motion.Load{Kind: "quadratic", Torque: 100, Speed: w}
	energy, peak := fan.Returned(j, w, s, 1)
	// It gives back below the speed at which the fan's torque is the ramp's, a = ω√(T/k ω²); ∫ (T − k ω²) ω dt with dt = −(s/w) dω.
	a := w * math.Sqrt(brakes/100)
	k := 100 / (w * w)
	check.Against(t, "given back by a fan on a fast fall, J", "∫₀ᵃ (T − kω²) ω dω · s/w, by hand", energy, (brakes*a*a/2-k*a*a*a*a/4)*s/w,
		.003*energy)
	at := math.Sqrt(brakes / (3 * k))
	check.Against(t, "its largest power, W", "d/dω (T − kω²) ω = 0, by hand", peak, (brakes-k*at*at)*at, .01*peak)
	if mean, _ := fan.At(w / 2); mean < brakes*.8 { // what a mean would have said
		t.Fatalf("the sample is no sample: %g against %g", mean, brakes)
	}
	friction := motion.Load{Kind: "constant", Torque: 10, Speed: w}
	energy, peak = friction.Returned(j, w, s, .8)
	check.Against(t, "given back against friction, J", "(J ω/s − T) ω/2 · s · η, by hand", energy, (brakes-10)*w/2*s*.8, .5)
	check.Against(t, "its largest power, W", "(J ω/s − T) ω η, by hand", peak, (brakes-10)*w*.8, 4)
	if e, p := friction.Returned(j, w, 40, .8); e != 0 || p != 0 {
		t.Errorf("a fall that friction alone would make faster gives back %g J, %g W", e, p)
	}
}
