package ride_test

import (
	"math"
	"strings"
	"testing"

	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/formats/familyfile"
	"tingate/testtools/check"
)

// What a fall gives back, in closed form: J ω Δω/t at its beginning, less the losses; the ohms are V² over that.
func TestWhatTheFallNeeds(t *testing.T) {
	s := bench.Setup{Family: familyfile.Find("Tarn"),
		Motor: machine.Plate{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82, Efficiency: .874,
			Poles: 4}, Load: motion.Load{Kind: "none"}, LoadJ: 1, Line: 400, LineHz: 50}
	rise := 8.
	r := ride.Ride{Top: 1455, Rise: &rise, AskedFall: 5, StopAt: 10}
	n := ride.ResistorOf(s, r, math.NaN())
	w := 1455 * math.Pi / 30
	j := 1 + bench.RotorInertia(s)
	check.Against(t, "peak of a fall in 5 s, kW", "J ω Δω/t times both efficiencies, by hand", n.Peak, j*w*w/5*.88*.97/1000, 1e-9)
	check.Against(t, "ohms that take it at 770 V", "V²/P, by hand", n.MostOhm, 770*770/(n.Peak*1000), 1e-9)
	check.Against(t, "average over 15 s, kW", "J ω²/2 times both efficiencies over the cycle, by hand", n.Average, j*w*w/2*.88*.97/15/1000,
		1e-9)
	if !n.Needed || !n.Fits || n.Least != nil {
		t.Errorf("%+v", n)
	}
	if n = ride.ResistorOf(s, r, n.MostOhm+1); n.Fits || !strings.Contains(n.Says, "none fits") {
		t.Errorf("%+v", n)
	}
	s.Load = motion.Load{Kind: "constant", Torque: 60, Speed: w}
	r.AskedFall = 60
	if n = ride.ResistorOf(s, r, math.NaN()); n.Needed {
		t.Errorf("friction stops it sooner: %+v", n)
	}
}
