package dialect

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

// Above the motor's own frequency the flux falls as 1/f, and the slip at one torque grows as f²: f = f_sync + s (f/f_n)², a quadratic
// equation.
func TestSlipWhereTheFieldIsWeakened(t *testing.T) {
	p := Plan{Motor: Row{Frequency: 50, Speed: 1455}, Poles: 4, Load: "constant", LoadTorque: 1}
	for _, rpm := range []float64{1800, 2400, 2700} {
		sync, a := rpm/30, 1.5/2500
		want := (1 - math.Sqrt(1-4*a*sync)) / (2 * a)
		check.Against(t, "output frequency at "+f4(rpm)+" r/min under full torque, Hz",
			"torque ∝ (U/f)² s: textbook of the induction machine, the quadratic solved by hand", p.Frequency(rpm), want, 1e-6)
		if back := p.Shaft(p.Frequency(rpm)); math.Abs(back-rpm) > .01 {
			t.Errorf("%g r/min, back %g", rpm, back)
		}
	}
	if v := p.Frequency(1455); math.Abs(v-50) > 1e-9 {
		t.Errorf("at the plate's speed: %g Hz", v)
	}
	if v := p.Frequency(14000); !math.IsNaN(v) {
		t.Errorf("14,000 r/min under full torque: %g Hz", v)
	}
	p.LoadTorque = .2
	check.Against(t, "at half speed under a fifth of the torque, Hz", "by hand: a fifth of the slip", p.Frequency(727.5), 24.25+.3, 1e-9)
}
