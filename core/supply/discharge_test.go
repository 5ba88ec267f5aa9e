package supply_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"tingate/core/supply"
	"tingate/testtools/check"
)

func codes(d supply.Discharge) string {
	var l []string
	for _, f := range d.Findings {
		l = append(l, f.Code)
	}
	return strings.Join(l, " ")
}

func series(v0, tau float64, at ...float64) (l []supply.Reading) {
	for _, t := range at {
		l = append(l, supply.Reading{T: t, V: v0 * math.Exp(-t/tau)})
	}
	return l
}

// Closed form: 565 V through τ = 60 s reach 42 V after 60·ln(565/42) = 155.95 s.
func TestAnExponentialGivesItsTime(t *testing.T) {
	d := supply.FitDischarge(series(565, 60, 0, 20, 40, 60), 42)
	check.Against(t, "discharge: time constant, s",
		"closed form v = V₀ e^(−t/τ), IEC 61800-5-1 asks for the residual voltage and its time", d.TimeConstant, 60, 1e-3)
	check.Against(t, "discharge: 565 V, τ 60 s, to 42 V, s", "closed form 60·ln(565/42)", d.ToLimit, 155.95, 1e-3)
	check.Against(t, "discharge: the same to 60 V, s", "closed form 60·ln(565/60)",
		supply.FitDischarge(series(565, 60, 0, 20, 40, 60), 60).ToLimit, 134.55, 1e-3)
	if codes(d) != "" || !d.Falling || d.Low > d.ToLimit || d.High < d.ToLimit {
		t.Errorf("%+v", d)
	}
}

// Noise of a real meter: the band of 95 % holds the true time nearly always, and nothing is objected to.
func TestTheBandHolds(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 2))
	held, objected, n, width := 0, 0, 600, 0.
	for range n {
		tau, v0 := 20+200*rng.Float64(), 300+450*rng.Float64()
		l := series(v0, tau, 0, .2*tau, .5*tau, .8*tau, 1.1*tau)
		for i := range l {
			l[i].V += rng.NormFloat64() * math.Hypot(.5, .005*l[i].V)
		}
		d := supply.FitDischarge(l, 42)
		if want := tau * math.Log(v0/42); d.Low <= want && want <= d.High {
			held++
		}
		width += (d.High - d.Low) / d.ToLimit / float64(n)
		if codes(d) != "" {
			objected++
		}
	}
	if held < n*92/100 || objected > n/50 {
		t.Errorf("the true time lies in the band %d times of %d; objected to %d", held, n, objected)
	}
	if !(width > .01 && width < .06) { // a band that says nothing holds it always
		t.Errorf("the band is %.3f of the time wide", width)
	}
}

func TestLinksThatMustNotBeGivenATime(t *testing.T) {
	loaded := func(at float64) float64 { return math.Sqrt(math.Max(0, 565*565-2*2500*at)) } // a constant power draws it down: 2P/C = 5000
	for name, c := range map[string]struct {
		l    []supply.Reading
		want string
	}{
		"it stands":        {series(560, 1e9, 0, 60, 120, 180), "not-falling"},
		"it creeps":        {[]supply.Reading{{0, 561}, {60, 559}, {120, 558}}, "not-falling"},
		"it rises":         {[]supply.Reading{{0, 300}, {30, 310}, {60, 325}}, "not-falling"},
		"it rises at last": {[]supply.Reading{{0, 500}, {30, 300}, {60, 180}, {90, 240}}, "not-falling"},
		"a constant power": {[]supply.Reading{{0, loaded(0)}, {15, loaded(15)}, {30, loaded(30)}, {45, loaded(45)}, {60, loaded(60)}},
			"not-exponential"},
		"it stops falling":   {[]supply.Reading{{0, 565}, {20, 405}, {40, 290}, {60, 260}, {80, 255}, {100, 252}}, "not-exponential"},
		"three, and slowing": {[]supply.Reading{{0, 565}, {20, 300}, {40, 280}}, "not-exponential"},
	} {
		d := supply.FitDischarge(c.l, 42)
		if codes(d) != c.want || !math.IsNaN(d.ToLimit) || !math.IsNaN(d.High) {
			t.Errorf("%s: %q, to the limit %v", name, codes(d), d.ToLimit)
		}
	}
}

func TestReadingsInAnyStateAreUsed(t *testing.T) {
	good := series(565, 60, 0, 20, 40, 60, 80)
	shuffled := []supply.Reading{good[3], good[0], good[4], good[2], good[1]}
	if d := supply.FitDischarge(shuffled, 42); math.Abs(d.ToLimit-155.95) > .2 {
		t.Errorf("out of order: %v", d.ToLimit)
	}
	turned := series(-565, 60, 0, 20, 40)
	if d := supply.FitDischarge(turned, 42); math.Abs(d.ToLimit-155.95) > .2 {
		t.Errorf("leads the other way round: %v", d.ToLimit)
	}
	spoiled := append([]supply.Reading(nil), good...)
	spoiled[2].V = 140 // a slip of the probe
	if d := supply.FitDischarge(spoiled, 42); codes(d) != "reading-out-of-line" || math.Abs(d.ToLimit-155.95) > 1 {
		t.Errorf("one slip: %q %v", codes(d), d.ToLimit)
	}
	if d := supply.FitDischarge([]supply.Reading{{10, 300}, {10, 150}, {40, 100}, {60, 70}}, 42); !strings.Contains(codes(d),
		"reading-out-of-line") {
		t.Errorf("two at one time: %q", codes(d))
	}
	for n, want := range []string{"too-few-readings", "too-few-readings", "too-few-readings", ""} {
		d := supply.FitDischarge(good[:n], 42)
		if codes(d) != want || (n < 2) != math.IsNaN(d.ToLimit) {
			t.Errorf("%d readings: %q %v", n, codes(d), d.ToLimit)
		}
	}
	if two, three := supply.FitDischarge(good[:2], 42),
		supply.FitDischarge(good[:3], 42); two.High-two.Low < three.High-three.Low && three.High-three.Low > 20 {
		t.Errorf("two readings say less than three: %v, %v", two, three)
	}
	for _, below := range [][]supply.Reading{{{0, 3}}, {{0, 565}, {60, 12}}, {{0, 565}, {60, 200}, {120, 41}}} {
		if d := supply.FitDischarge(below, 42); !d.Below || d.ToLimit != 0 {
			t.Errorf("below the limit already: %+v", d)
		}
	}
}

// 460, 467 and 450 V: average 459, largest deviation 9, unbalance 1.96 %.
func TestBalance(t *testing.T) {
	b := supply.BalanceOf([3]float64{460, 467, 450})
	check.Against(t, "voltage unbalance of 460, 467, 450 V, %", "from memory: NEMA MG 1, 14.36, example", b.Unbalance, 1.96, 2e-3)
	check.Against(t, "their average, V", "from memory: NEMA MG 1, 14.36, example", b.Average, 459, 1e-9)
	if b := supply.BalanceOf([3]float64{400, 400, 400}); b.Unbalance != 0 || b.Negative > 1e-6 {
		t.Errorf("%+v", b)
	}
	// Closed form against a second method: line voltages of a set with a known negative sequence.
	for _, u2 := range []float64{.01, .02, .05} {
		// U_ab of magnitude 1 turned by 0, −120, 120°, plus u2 turned the other way.
		mag := func(k float64) float64 {
			a := k * 2 * math.Pi / 3
			return math.Hypot(math.Cos(-a)+u2*math.Cos(a+.7), math.Sin(-a)+u2*math.Sin(a+.7))
		}
		got := supply.BalanceOf([3]float64{mag(0), mag(1), mag(2)}).Negative
		check.Against(t, fmt.Sprintf("negative sequence of a set made with %g %%, %%", u2*100),
			"IEC 61000-4-30, 5.7, formula from line voltages; the set built from its sequences", got, u2*100, 1e-6)
	}
}

func TestDCLinkByRectifier(t *testing.T) {
	for _, c := range []struct {
		kind             string
		line, idle, load float64
		source           string
	}{
		{supply.SixPulse, 400, 565.7, 540.2, "√2 and 3√2/π × line, IEC 60146-1-1 ideal six-pulse bridge"},
		{supply.SinglePhase, 230, 325.3, 207.1, "√2 and 2√2/π × line, single-phase bridge"},
		{supply.Doubler, 115, 325.3, 207.1, "common practice: a doubler makes 325 V of 115 V"},
	} {
		d := supply.LinkOf(c.kind, c.line)
		check.Against(t, fmt.Sprintf("DC link, %s at %g V, idle, V", c.kind, c.line), c.source, d.Idle, c.idle, 1e-3)
		check.Against(t, fmt.Sprintf("DC link, %s at %g V, under load, V", c.kind, c.line), c.source, d.Loaded, c.load, 1e-3)
		if d.Low > c.idle || d.High < c.idle {
			t.Errorf("%+v", d)
		}
	}
}

func TestDeratingFactors(t *testing.T) {
	in := supply.Derating{Rated: 16, Altitude: 1800, Ambient: 46, Switching: 8, SideBySide: true, Table: supply.UsualDerating}
	out := in.Work()
	// By hand: 8 × 1 %, 6 × 2.5 %, 4 × 5 %, 5 %: 0.92 · 0.85 · 0.80 · 0.95 = 0.594
	check.Against(t, "derated current of 16 A at 1800 m, 46 °C, 8 kHz, side by side, A",
		"common practice: 1 % per 100 m above 1000 m, 2.5 % per K above 40 °C; worked by hand", out.Current, 16*.92*.85*.80*.95, 1e-9)
	if len(out.Factors) != 4 {
		t.Errorf("%+v", out.Factors)
	}
	plain := supply.Derating{Rated: 16, Altitude: 800, Ambient: 35, Switching: 4, Table: supply.UsualDerating}
	if got := plain.Work(); got.Current != 16 || len(got.Factors) != 0 {
		t.Errorf("nothing to take off: %+v", got)
	}
	hot := supply.Derating{Rated: 16, Altitude: 4500, Ambient: 55, Table: supply.UsualDerating}
	if got := hot.Work(); len(got.Findings) != 2 {
		t.Errorf("beyond what the drive is made for: %+v", got.Findings)
	}
}

// When a reading is taken says nothing of the link: counted from another moment, everything is later by as much, the band too.
func TestTheBandMovesWithTheClock(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 18))
	for range 40 {
		list := series(565, 40+60*rng.Float64(), 0, 15, 30, 45, 60)
		for i := range list {
			list[i].V *= 1 + .004*rng.NormFloat64()
		}
		here := supply.FitDischarge(list, 42)
		for _, later := range []float64{-200, 300, 5000} {
			moved := append([]supply.Reading(nil), list...)
			for i := range moved {
				moved[i].T += later
			}
			there := supply.FitDischarge(moved, 42)
			for _, x := range [][2]float64{{here.ToLimit, there.ToLimit}, {here.High, there.High},
				{here.High - here.ToLimit, there.High - there.ToLimit}} {
				shift := later
				if x[0] == here.High-here.ToLimit {
					shift = 0
				}
				if math.Abs(x[1]-x[0]-shift) > 1e-4*math.Max(1, math.Abs(x[0])) {
					t.Fatalf("counted %g s later: %+v, was %+v", later, there, here)
				}
			}
		}
	}
}

// A link that rises is fed, also below the limit, and also with two readings only.
func TestALinkThatRisesBelowTheLimit(t *testing.T) {
	for _, list := range [][]supply.Reading{{{T: 0, V: 20}, {T: 60, V: 35}}, {{T: 0, V: 38}, {T: 60, V: 20}, {T: 120, V: 30}},
		{{T: 0, V: 400}, {T: 60, V: 10}, {T: 90, V: 30}}} {
		d := supply.FitDischarge(list, 42)
		if !strings.Contains(codes(d), "not-falling") || d.Below || d.Falling {
			t.Errorf("%v: %s, below %v", list, codes(d), d.Below)
		}
	}
}
