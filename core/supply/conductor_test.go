package supply_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"tingate/core/supply"
	"tingate/testtools/check"
)

func TestConductors(t *testing.T) {
	for _, c := range []struct {
		code         string
		amps         float64
		name, source string
		needs        float64
	}{
		{"iec B2", 16, "2.5 mm²", "IEC 60364-5-52 Table B.52.4, B2: 2.5 mm² carries 20 A, from memory", 16},
		{"iec C", 16, "1.5 mm²", "IEC 60364-5-52 Table B.52.4, C: 1.5 mm² carries 17.5 A, from memory", 16},
		{"iec B2", 61, "16 mm²", "IEC 60364-5-52 Table B.52.4, B2: 16 mm² carries 62 A, from memory", 61},
		{"nec conduit", 16, "AWG 12", "NEC 430.122: 125 % of 16 A is 20 A; 240.4(D): AWG 12 at 20 A, from memory", 20},
		{"nec conduit", 52, "AWG 6", "NEC 430.122: 65 A; Table 310.16, 75 °C: AWG 6 carries 65 A, from memory", 65},
	} {
		s := supply.Sizing{Code: c.code, Current: c.amps}
		got, ok := s.Smallest()
		if !ok || got.Name != c.name {
			t.Errorf("%+v: %+v", c, got)
		}
		check.Against(t, "current by which a conductor for "+c.name+" is chosen, A", c.source, s.Needs(), c.needs, 1e-9)
	}
	check.Against(t, "2.5 mm² PVC in B2 at 45 °C, A", "IEC 60364-5-52 Table B.52.14: 0.79 at 45 °C, from memory",
		supply.Sizing{Code: "iec B2", Ambient: 45}.Carries(2.5), 20*.79, .002)
	if _, ok := (supply.Sizing{Code: "iec C", Current: 900}).Smallest(); ok {
		t.Error("beyond the table")
	}
	if got := (supply.Sizing{Code: "iec C"}).Carries(1); got != 0 {
		t.Errorf("below the table: %v", got)
	}
}

// NEC Table 310.15(B)(1)(1), 75 °C column, from memory; the equation of 310.15(B) gives them.
func TestAmbientOfNEC(t *testing.T) {
	free := supply.Sizing{Code: "nec conduit"}.Carries(107)
	for ambient, want := range map[float64]float64{35: .94, 40: .88, 45: .82, 50: .75, 55: .67} {
		check.Against(t, fmt.Sprintf("AWG 4/0 at %g °C, share", ambient), "NEC Table 310.15(B)(1)(1), 75 °C, from memory",
			supply.Sizing{Code: "nec conduit", Ambient: ambient}.Carries(107)/free, want, .01)
	}
}

func TestVoltageDrop(t *testing.T) {
	// By hand: √3 · 16 A · 0.05 km · (9 · 0.85 + 0.08 · 0.5268) = 10.66 V.
	check.Against(t, "drop along 50 m of 2.5 mm² at 16 A, cos φ 0.85, V", "IEC 60364-5-52 annex G, formula; worked by hand",
		supply.VoltageDrop(16, 50, supply.CopperOhm/2.5, supply.CableX, .85, 3), 10.6587, 1e-4)
	check.Against(t, "drop of one phase there and back, 20 m, 10 A, 9 Ω/km, cos φ 1, V", "2 · 10 · 0.02 · 9, by hand",
		supply.VoltageDrop(10, 20, 9, 0, 1, 1), 3.6, 1e-9)
}

func TestMotorCable(t *testing.T) {
	c := supply.MotorCable{Length: 50, DCLink: 565, Rated: 16, Power: 7.5, Fit: "plain"}
	out := c.Work()
	check.Against(t, "critical length at 0.1 µs rise, m", "reflected-wave theory, v·t/2 with v 150 m/µs", out.Critical, 7.5, 1e-9)
	check.Against(t, "peak at the motor behind a long cable on 400 V, V", "common practice: nearly twice the DC link; 0.9 sent back",
		out.Peak, 565*1.9, 1e-9)
	codes := func(c supply.MotorCable) string {
		var l []string
		for _, f := range c.Work().Findings {
			l = append(l, f.Code)
		}
		return strings.Join(l, " ")
	}
	if codes(c) != "peak-above-insulation" {
		t.Error(codes(c))
	}
	c.Fit = "inverter-duty"
	if codes(c) != "" {
		t.Error(codes(c))
	}
	c.Length, c.Fit = 1, "plain"
	if codes(c) != "" {
		t.Errorf("a metre: %s", codes(c))
	}
	small := supply.MotorCable{Length: 60, DCLink: 565, Rated: 2.4, Power: .75, Fit: "inverter-duty"}
	if codes(small) != "charging-current" {
		t.Error(codes(small))
	}
	if got := codes(supply.MotorCable{Length: 5, DCLink: 565, Rated: 300, Power: 160, Fit: "inverter-duty"}); got != "bearing-currents" {
		t.Error(got)
	}
	if !math.IsNaN(supply.MotorCable{DCLink: 565}.Work().Allowed) {
		t.Error("an insulation that is not known")
	}
	if supply.Leakage(true, 20) <= 3.5 || supply.Leakage(false, 5) >= 3.5 {
		t.Error("leakage")
	}
}
