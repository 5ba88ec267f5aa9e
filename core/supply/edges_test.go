package supply_test

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"tingate/core/finding"
	"tingate/core/supply"
	"tingate/testtools/check"
)

// The replica's closed forms, and that one is the inverse of the other: after the trip time it is as warm as the trip.
func TestTheReplicaOfAnOverload(t *testing.T) {
	for class, seconds := range map[string]float64{"10A": 10, "10": 10, "20": 20, "30": 30} {
		tau, ok := supply.ClassTimeConstant(class, 1.1)
		o := supply.Overload{TimeConstant: tau, Pickup: 1.1, Cooling: 3}
		check.Against(t, "class "+class+" at 7.2 times, cold, s", "IEC 60947-4-1, table 2: longest time of the class", o.TripTime(7.2, 0),
			seconds, 1e-6)
		if !ok || o.TripTime(7.2, 0) >= seconds {
			t.Errorf("class %s trips after %g s, at most %g s", class, o.TripTime(7.2, 0), seconds)
		}
		for _, times := range []float64{1.2, 1.5, 3} {
			for _, warm := range []float64{0, .5, 1} {
				at := o.TripTime(times, warm)
				if w := o.After(times, warm, at); math.Abs(w-1.21) > 1e-9 || !(at > 0) {
					t.Errorf("class %s at %g from %g: after %g s it is %g warm, trips at 1.21", class, times, warm, at, w)
				}
				if o.TripTime(times, warm) <= o.TripTime(times+.1, warm) || warm > 0 && at >= o.TripTime(times, 0) {
					t.Errorf("class %s at %g from %g: more current or warmth trips later", class, times, warm)
				}
			}
		}
		if !math.IsInf(o.TripTime(1.1, 0), 1) || !math.IsInf(o.TripTime(1, 1), 1) || o.TripTime(2, 1.21) != 0 || o.TripTime(2, 1.3) != 0 {
			t.Error("at its pickup it never trips, and from there on at once")
		}
		// Standing it cools three times as slowly.
		check.Against(t, "a standing motor of class "+class+", warmth after three time constants", "first-order cooling, by hand: e^(−1)",
			o.After(0, 1, 3*tau), math.Exp(-1), 1e-9)
		check.Against(t, "one at a tenth of its setting, after one", "first-order cooling, by hand", o.After(.1, 1, tau),
			.01+.99*math.Exp(-1), 1e-9)
		plain := supply.Overload{TimeConstant: tau, Pickup: 1.1}
		check.Against(t, "one whose cooling nobody states, after one", "first-order cooling, by hand", plain.After(0, 1, tau),
			math.Exp(-1), 1e-9)
	}
	if _, ok := supply.ClassTimeConstant("5", 1.1); ok {
		t.Error("a class of its own")
	}
}

func codesOf(l []finding.Finding) []string {
	var out []string
	for _, f := range l {
		out = append(out, f.Code)
	}
	return out
}

// A line at its limits (IEC 60038: 10 %; NEMA MG 1 14.36: 5 %; IEC 61000-2-4: 2 % of negative sequence).
func TestALineAtItsLimits(t *testing.T) {
	for name, c := range map[string]struct {
		v       [3]float64
		nominal float64
		want    []string
	}{
		"as it is":             {[3]float64{400, 401, 399}, 400, nil},
		"nothing there":        {[3]float64{0, 1, 2}, 400, []string{"no-voltage"}},
		"a few volts":          {[3]float64{4.9, 4.9, 4.9}, math.NaN(), []string{"no-voltage"}},
		"six volts":            {[3]float64{6, 6, 6}, math.NaN(), nil},
		"a fuse is gone":       {[3]float64{400, 200, 200}, 400, []string{"phase-missing", "voltage-out-of-range"}},
		"weak, not missing":    {[3]float64{400, 400, 320}, 400, []string{"unbalance-high"}},
		"six percent":          {[3]float64{400, 400, 366}, math.NaN(), []string{"unbalance-high"}},
		"two percent and more": {[3]float64{400, 400, 386}, 400, []string{"unbalance-high"}},
		"one percent":          {[3]float64{400, 400, 394}, 400, nil},
		"9.9 % low":            {[3]float64{360.4, 360.4, 360.4}, 400, nil},
		"10.1 % low":           {[3]float64{359.6, 359.6, 359.6}, 400, []string{"voltage-out-of-range"}},
		"10.1 % high":          {[3]float64{440.4, 440.4, 440.4}, 400, []string{"voltage-out-of-range"}},
		"of another supply":    {[3]float64{480, 480, 480}, 400, []string{"voltage-out-of-range"}},
		"of which nobody says": {[3]float64{480, 480, 480}, math.NaN(), nil},
	} {
		got := supply.JudgeLine(c.v, c.nominal)
		if !slices.Equal(codesOf(got), c.want) {
			t.Errorf("%s: %v, want %v", name, codesOf(got), c.want)
		}
		for _, f := range got {
			if f.Code == "unbalance-high" && (f.Severity == finding.Stop) != (supply.BalanceOf(c.v).Unbalance > 5) {
				t.Errorf("%s: %s", name, f.Severity)
			}
		}
	}
}

// A link at rest: from a lightly loaded bridge up to the peaks of a line with harmonics; another supply's is named.
func TestALinkAtItsLimits(t *testing.T) {
	for name, c := range map[string]struct {
		kind           string
		line, measured float64
		want           []string
	}{
		"at rest":               {supply.SixPulse, 400, 566, nil},
		"lightly loaded":        {supply.SixPulse, 400, 541, nil},
		"lower than loaded":     {supply.SixPulse, 400, 535, []string{"dc-link-low"}},
		"peaks":                 {supply.SixPulse, 400, 588, nil},
		"higher than peaks":     {supply.SixPulse, 400, 592, []string{"dc-link-high"}},
		"of 480 V":              {supply.SixPulse, 400, 679, []string{"other-supply-class"}},
		"of 230 V":              {supply.SixPulse, 400, 325, []string{"other-supply-class"}},
		"between the classes":   {supply.SixPulse, 400, 450, []string{"dc-link-low"}},
		"fed from elsewhere":    {supply.SixPulse, 400, 740, []string{"dc-link-high"}},
		"one phase":             {supply.SinglePhase, 230, 325, nil},
		"doubled":               {supply.Doubler, 120, 339, nil},
		"not doubled":           {supply.Doubler, 120, 170, []string{"dc-link-low"}},
		"set by its family":     {supply.ActiveFront, 400, 700, nil},
		"not measured":          {supply.SixPulse, 400, math.NaN(), nil},
		"one phase at its band": {supply.SinglePhase, 230, 303, nil},
		"one phase below it":    {supply.SinglePhase, 230, 301, []string{"dc-link-low"}},
	} {
		if got := codesOf(supply.JudgeLink(c.kind, c.line, c.measured)); !slices.Equal(got, c.want) {
			t.Errorf("%s, %g V of %g V: %v, want %v", name, c.measured, c.line, got, c.want)
		}
	}
	for measured, want := range map[float64]float64{163: 115, 325: 230, 566: 400, 679: 480, 813: 575, 976: 690} {
		if got := supply.ClassOf(supply.SixPulse, measured); got != want {
			t.Errorf("%g V is of a %g V supply, want %g", measured, got, want)
		}
	}
	for line, want := range map[float64]float64{240: 405, 130: 405, 299: 405, 300: 810, 480: 810, 0: 810} {
		if got := supply.LinkBears(line); got != want {
			t.Errorf("a drive for %g V bears %g V on its link, want %g (common practice)", line, got, want)
		}
	}
	if l := supply.LinkOf("otherwise", 400); !math.IsNaN(l.Idle) || !math.IsNaN(l.High) {
		t.Errorf("%+v", l)
	}
}

// A pulse on a cable: whole from the critical length v·t/2 on, in proportion below; what it means for insulation, small drives and
// bearings.
func TestAMotorCable(t *testing.T) {
	base := supply.MotorCable{Length: 30, DCLink: 565, Rated: 16, Power: 7.5, Fit: "plain", Screened: true}
	out := base.Work()
	check.Against(t, "critical length of pulses of 0.1 µs at 150 m/µs, m", "v t/2, IEC TS 60034-25", out.Critical, 7.5, 1e-12)
	check.Against(t, "peak at the motor with nine tenths sent back, V", "1.9 × link, by hand", out.Peak, 565*1.9, 1e-12)
	check.Against(t, "charging pulse into 80 Ω, A", "U/Z", out.Charging, 565./80, 1e-12)
	for name, c := range map[string]struct {
		change func(*supply.MotorCable)
		want   []string
	}{
		"plain at 30 m": {func(*supply.MotorCable) {}, []string{"peak-above-insulation"}},
		"plain at 3 m":  {func(c *supply.MotorCable) { c.Length = 3 }, nil},
		"made for it":   {func(c *supply.MotorCable) { c.Fit = "inverter-duty" }, nil},
		"made for it, 690 V": {func(c *supply.MotorCable) { c.Fit, c.DCLink = "inverter-duty", 976 },
			[]string{"peak-above-insulation"}},
		"nobody knows":               {func(c *supply.MotorCable) { c.Fit = "" }, nil},
		"slow pulses":                {func(c *supply.MotorCable) { c.Rise = 1 }, nil},
		"a small drive, long cable":  {func(c *supply.MotorCable) { c.Fit, c.Rated = "", 2.1 }, []string{"charging-current"}},
		"a small drive, short cable": {func(c *supply.MotorCable) { c.Fit, c.Rated, c.Length = "", 2.1, 20 }, nil},
		"over 100 kW":                {func(c *supply.MotorCable) { c.Fit, c.Power = "", 110 }, []string{"bearing-currents"}},
		"100 kW, screened":           {func(c *supply.MotorCable) { c.Fit, c.Power = "", 100 }, nil},
		"45 kW without a screen": {func(c *supply.MotorCable) { c.Fit, c.Power, c.Screened = "", 45, false },
			[]string{"bearing-currents"}},
		"45 kW with one":              {func(c *supply.MotorCable) { c.Fit, c.Power = "", 45 }, nil},
		"30 kW without":               {func(c *supply.MotorCable) { c.Fit, c.Power, c.Screened = "", 30, false }, nil},
		"half of the critical length": {func(c *supply.MotorCable) { c.Length, c.Fit = 3.75, "" }, nil},
	} {
		x := base
		c.change(&x)
		if got := codesOf(x.Work().Findings); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v (%+v)", name, got, c.want, x.Work())
		}
	}
	half := base
	half.Length = 3.75
	check.Against(t, "peak at half the critical length, V", "in proportion", half.Work().Peak, 565*1.45, 1e-12)
	for _, c := range []struct {
		filter bool
		cable  float64
		want   float64
	}{{true, 0, 30}, {false, 0, 0}, {false, 50, 15}, {true, 50, 45}} {
		check.Against(t, fmt.Sprintf("leakage of a filter (%v) and %g m, mA", c.filter, c.cable), "common practice, by hand",
			supply.Leakage(c.filter, c.cable), c.want, 1e-12)
	}
}

// What is at a limit of the table takes nothing off and stops nothing; one phase takes half.
func TestDeratingAtItsLimits(t *testing.T) {
	at := supply.Derating{Rated: 16, Altitude: 4000, Ambient: 50, Switching: 4, Table: supply.UsualDerating}
	if got := at.Work(); len(got.Findings) != 0 || len(got.Factors) != 2 {
		t.Errorf("%+v", got)
	}
	for _, over := range []supply.Derating{{Rated: 16, Altitude: 4001, Table: supply.UsualDerating},
		{Rated: 16, Ambient: 50.1, Table: supply.UsualDerating}} {
		if got := over.Work(); len(got.Findings) != 1 || got.Findings[0].Severity != finding.Stop {
			t.Errorf("%+v", got)
		}
	}
	free := supply.Derating{Rated: 16, Altitude: 9000, Ambient: 90, Table: supply.DeratingTable{}}
	if got := free.Work(); got.Current != 16 || len(got.Findings) != 0 {
		t.Errorf("a maker that states nothing: %+v", got)
	}
	one := supply.Derating{Rated: 16, SinglePhase: true, Table: supply.UsualDerating}.Work()
	check.Against(t, "a three-phase drive of 16 A on one phase, A", "common practice: half", one.Current, 8, 1e-12)
	if len(one.Factors) != 1 || one.Factors[0].Name != "single-phase input" {
		t.Errorf("%+v", one.Factors)
	}
	far := supply.Derating{Rated: 16, Altitude: 12000, Table: supply.UsualDerating}
	if got := far.Work(); got.Current != 0 {
		t.Errorf("12 km: %g A", got.Current)
	}
}

// A cabinet in which nothing is lost is as warm as the air around it.
func TestACabinetAtItsLimits(t *testing.T) {
	c := supply.Cabinet{Height: 2, Width: .8, Depth: .6, Heat: 0, Outside: 30}
	if c.Inside() != 30 || c.Airflow(40) != 0 {
		t.Errorf("%g °C, %g m³/h", c.Inside(), c.Airflow(40))
	}
	c.Heat = -1
	if !math.IsNaN(c.Inside()) {
		t.Errorf("%g °C", c.Inside())
	}
	if flat := (supply.Cabinet{Heat: 10, Outside: 30}); !math.IsNaN(flat.Inside()) {
		t.Errorf("%g °C", flat.Inside())
	}
}
