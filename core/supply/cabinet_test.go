package supply_test

import (
	"math"
	"testing"

	"tingate/core/supply"
	"tingate/testtools/check"
)

func TestCabinetHeat(t *testing.T) {
	c := supply.Cabinet{Height: 2, Width: .8, Depth: .6, Heat: 300, Outside: 30}
	// By hand: 1.8 · 2 · 1.4 + 1.4 · 0.8 · 0.6 = 5.712 m²; 300 ÷ (5.5 · 5.712) = 9.549 K.
	check.Against(t, "surface of a free cabinet 2.0 × 0.8 × 0.6 m, m²", "IEC TR 60890, single enclosure, from memory; worked by hand",
		c.Surface(), 5.712, 1e-9)
	check.Against(t, "inside it with 300 W, 30 °C outside, °C", "common practice, 5.5 W/m²K of painted sheet steel; worked by hand",
		c.Inside(), 39.549, 1e-4)
	c.Wall = true
	// 1.4 · 0.8 · 2.6 + 1.8 · 0.6 · 2 = 5.072 m²
	check.Against(t, "surface of the same with its back to a wall, m²", "IEC TR 60890, from memory; worked by hand", c.Surface(), 5.072,
		1e-9)
	// Air of 1.17 kg/m³ at 28 °C and 1006 J/(kg K): 3600 ÷ (1.17 · 1006) = 3.06 m³/h for each W and K.
	check.Against(t, "airflow for 300 W and 10 K, m³/h", "ideal gas at 101.3 kPa and 28 °C, cp 1006 J/(kg K)", c.Airflow(40),
		3600/(101325/(287.05*301.15)*1006)*300/10, .02)
	for _, bad := range []supply.Cabinet{{}, {Height: 2, Width: math.NaN(), Depth: 1, Heat: 5},
		{Height: 2, Width: 1, Depth: 1, Heat: math.NaN()}} {
		if !math.IsNaN(bad.Inside()) {
			t.Errorf("%+v: %v", bad, bad.Inside())
		}
	}
	if !math.IsNaN(c.Airflow(30)) || !math.IsNaN(c.Airflow(20)) {
		t.Error("air of the same warmth cools nothing")
	}
}
