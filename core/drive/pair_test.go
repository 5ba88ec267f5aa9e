package drive

import (
	"math"
	"testing"

	"tingate/core/motion"
	"tingate/testtools/check"
)

// together runs two drives on one shaft, for some seconds.
func together(change func(a, b *Drive), seconds float64) *Pair {
	a, b := works(), works()
	a.P.Load, a.P.LoadJ = motion.Load{Kind: "constant", Torque: 40}, .5
	change(a, b)
	p := NewPair(a, b)
	in := Inputs{Line: true, A: true, B: true}
	for n := range int((2 + seconds) / Tick) {
		if n > 2000 {
			in.Terminals, in.Analog = 1, 10
		}
		a.Step(&in)
		b.Step(&in)
		p.Share()
	}
	return p
}

// Two motors on one shaft turn alike, and share its load: equal ones in halves; of two on volts per hertz the one with less slip takes
// more, as their slopes say; two that both hold the speed fight: the one that is asked for a little more takes all, the other brakes until
// its link is full.
func TestTwoDrivesOnOneShaft(t *testing.T) {
	torque := func(d *Drive) float64 { return d.Torque - d.P.Rub*d.x.W }
	p := together(func(a, b *Drive) {}, 12)
	check.Against(t, "torque of each of two equal motors on one shaft, N·m", "half of the load each", torque(p.A), 20, .02)
	check.Against(t, "and of the other", "half of the load each", torque(p.B), 20, .02)
	if math.Abs(p.A.Speed-p.B.Speed) > 1 || math.Abs(p.A.LoadW-p.A.x.W) > .2 {
		t.Errorf("%.1f and %.1f r/min", p.A.Speed, p.B.Speed)
	}
	p = together(func(_, b *Drive) { b.P.Motor.Rr *= 2 }, 12)
	check.Against(t, "torque of a motor over that of one with twice the rotor resistance, on one shaft",
		"at one speed and one frequency torque goes as slip over rotor resistance", torque(p.A)/torque(p.B), 2, .03)
	for _, control := range []string{"vector", "encoder"} {
		p = together(func(a, b *Drive) {
			for _, d := range []*Drive{a, b} {
				d.C.Control, d.P.Lines, d.C.Lines = control, 1024, 1024
			}
			b.C.High = 49.5
		}, 15)
		if torque(p.A) < 42 || torque(p.B) > -1 || p.B.Link < 700 {
			t.Errorf("%s, asked for 50 and 49.5 Hz: %.1f and %.1f N·m, link %.0f V", control, torque(p.A), torque(p.B), p.B.Link)
		}
	}
}

// A drive whose partner lets go takes the whole load.
func TestOneOfTwoLetsGo(t *testing.T) {
	p := together(func(a, b *Drive) { b.C.Overload = 1 }, 30)
	if p.B.Fault != "motor-overload" || p.A.Fault != "" || math.Abs(p.A.Torque-40) > 3 || p.B.Speed < 1400 {
		t.Errorf("%q %q: %.1f N·m, %.0f r/min", p.A.Fault, p.B.Fault, p.A.Torque, p.B.Speed)
	}
}
