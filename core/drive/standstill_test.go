package drive

import (
	"math"
	"testing"

	"tingate/core/motion"
	"tingate/testtools/check"
)

// Run at a reference of nothing: the motor stands magnetised by the current that its inductance takes at the plate's flux; it grips the
// shaft, and with an encoder holds a load that hangs.
func TestMagnetisedAtStandstill(t *testing.T) {
	for _, control := range []string{"vector", "encoder"} {
		d, in := run(func(d *Drive) {
			d.C.Control, d.P.Lines, d.C.Lines, d.P.Load = control, 1024, 1024, motion.Load{}
			d.C.Low, d.C.High = 0, 50
		}, 0)
		in.Analog = 0
		turn(d, in, 4)
		m := d.C.Known
		check.Against(t, "current that magnetises a standing motor, A, by "+control, "97 % of the plate's flux over ω Ls, by hand",
			d.Current, .97*400/math.Sqrt(3)/(2*math.Pi*50*m.Ls), .03)
		if d.Phase != Running || math.Abs(d.Speed) > 1 {
			t.Errorf("%s: %s, %.1f r/min", control, d.Phase, d.Speed)
		}
		d.x.W = 5 // turned by a hand
		turn(d, in, .02)
		if d.Torque > -.5 {
			t.Errorf("%s: turned by hand it gives %.2f N·m: it does not grip", control, d.Torque)
		}
		in.Terminals = 0
		turn(d, in, 1)
		if d.Running || d.Current > .05 {
			t.Errorf("%s: stopped it keeps %.2f A", control, d.Current)
		}
	}
}
