package tune_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"tingate/core/tune"
	"tingate/testtools/check"
)

func usualOf(b tune.Bands) tune.Learnt {
	return tune.Learnt{Rs: b.Rs.Usual, Rr: b.Rr.Usual, Leakage: b.Leakage.Usual, Magnetising: b.Magnetising.Usual}
}

func codes(l []tune.Cause) string {
	var out []string
	for _, c := range l {
		out = append(out, c.Code)
	}
	return strings.Join(out, " ")
}

func TestBandsAgainstTheTrade(t *testing.T) {
	check.Against(t, "copper winding at 105 °C over 20 °C", "IEC 60034-1: (235 + t2) ÷ (235 + t1)", tune.Warmed(105), (235.+105)/(235+20),
		2e-3)
	for _, m := range motors {
		b, ok := tune.BandsOf(tune.Setting{Plate: m, Celsius: 20})
		if !ok {
			t.Fatalf("%g W: no bands", m.Power)
		}
		// Common practice: a rotor without load takes a quarter to two thirds of rated current, small ones up to three quarters.
		if i := b.Magnetising.Usual / m.Current; i < .2 || i > .75 {
			t.Errorf("%g W: magnetising current %.2f of rated", m.Power, i)
		}
		// Common practice: the stator's resistance, in per unit of rated impedance, falls from about 0.1 to below 0.01 with size.
		z := m.Voltage / math.Sqrt(3) / m.Current
		if r := b.Rs.Usual / z; r < .002 || r > .12 {
			t.Errorf("%g W: stator resistance %.4f per unit", m.Power, r)
		}
		for _, x := range []tune.Band{b.Rs, b.Rr, b.Leakage, b.Lm, b.Magnetising} {
			if !(x.Low > 0 && x.Low < x.Usual && x.Usual < x.High) {
				t.Errorf("%g W: band %+v", m.Power, x)
			}
		}
		if l := b.Outside(usualOf(b)); l != nil {
			t.Errorf("%g W: a usual motor lies outside: %v", m.Power, l)
		}
		if got := tune.Explain(tune.Setting{Plate: m, Celsius: 20}, usualOf(b), nil); got != nil {
			t.Errorf("%g W: nothing is to be explained, got %v", m.Power, got)
		}
	}
	warm, _ := tune.BandsOf(tune.Setting{Plate: motors[3], Celsius: 105})
	cold, _ := tune.BandsOf(tune.Setting{Plate: motors[3], Celsius: 20})
	check.Against(t, "stator resistance expected warm over cold", "IEC 60034-1: (235 + t2) ÷ (235 + t1)", warm.Rs.Usual/cold.Rs.Usual,
		340./255, 2e-3)
	if with, _ := tune.BandsOf(tune.Setting{Plate: motors[3], Celsius: 20, Cable: .3}); math.Abs(with.Rs.Usual-cold.Rs.Usual-.3) > 1e-12 ||
		with.Rr != cold.Rr {
		t.Errorf("the cable is part of the stator's resistance and of nothing else: %+v", with)
	}
}

// A link that is not the row's is named first, whatever the size.
func TestAMisfitIsExplained(t *testing.T) {
	for _, m := range motors {
		s := tune.Setting{Plate: m, Celsius: 20, Cable: .01}
		b, _ := tune.BandsOf(s)
		usual := usualOf(b)
		for code, k := range map[string]float64{"link-delta": 1. / 3, "link-star": 3, "link-low": .25, "link-high": 4} {
			l := tune.Learnt{Rs: (usual.Rs-s.Cable)*k + s.Cable, Rr: usual.Rr * k, Leakage: usual.Leakage * k,
				Magnetising: usual.Magnetising / k}
			if got := codes(tune.Explain(s, l, tune.Others(m))); !strings.Contains(got, code) || !strings.HasPrefix(got, "link-") {
				t.Errorf("%g W, %s: explained by %q; outside %v", m.Power, code, got, b.Outside(l))
			}
		}
		l := usual
		l.Rs = b.Rs.High*1.2 + .01
		if got := codes(tune.Explain(s, l, tune.Others(m))); !strings.Contains(got, "cable") {
			t.Errorf("%g W, a bad joint: %q", m.Power, got)
		}
		l.Magnetising = usual.Magnetising * 9
		if got := tune.Explain(s, l, nil); len(got) != 0 {
			t.Errorf("%g W: two things at a time are no single cause: %v", m.Power, got)
		}
	}
	// A warm winding: both resistances above what a cold one can have, by less than copper grows.
	s := tune.Setting{Plate: motors[3], Celsius: 20}
	b, _ := tune.BandsOf(s)
	l := usualOf(b)
	l.Rs, l.Rr = b.Rs.High*1.1, b.Rr.High*1.1
	if got := codes(tune.Explain(s, l, nil)); !strings.Contains(got, "warm") {
		t.Errorf("warm: %q", got)
	}
	l = usualOf(b)
	l.Rs = 2 * b.Rs.High * .9
	if got := codes(tune.Explain(s, l, nil)); !strings.Contains(got, "line-to-line") {
		t.Errorf("line to line: %q", got)
	}
}

func TestRunsAreCompared(t *testing.T) {
	b, _ := tune.BandsOf(tune.Setting{Plate: motors[3], Celsius: 20})
	a := usualOf(b)
	again := a
	again.Leakage *= 1.06
	if p, what := tune.Repeat(a, again); what != "leakage" || math.Abs(p-200*.06/2.06) > 1e-9 {
		t.Errorf("%g %% in %s", p, what)
	}
	if p, _ := tune.Repeat(a, tune.Learnt{Rs: math.NaN(), Rr: math.NaN(), Leakage: math.NaN(), Magnetising: a.Magnetising}); p != 0 {
		t.Errorf("what is not shown is not compared: %g", p)
	}
}

// What a machine permits: the first offer is the best, and a refusal says why.
func TestKindsByMachine(t *testing.T) {
	all := []string{tune.KindStandstill, tune.KindExtended, tune.KindUncoupled, tune.KindCoupled, tune.KindMechanical}
	for _, c := range []struct {
		name    string
		p       tune.Permit
		first   string
		refused []string
	}{
		{"a fan on vector control", tune.Permit{Uncouple: true, Wants: "best"}, tune.KindUncoupled,
			[]string{tune.KindMechanical, tune.KindNone}},
		{"coupled by habit", tune.Permit{Uncouple: true, Wants: "coupled"}, tune.KindCoupled, []string{tune.KindNone}},
		{"at rest by habit", tune.Permit{Uncouple: true, Wants: "standstill"}, tune.KindExtended, []string{tune.KindNone}},
		{"a coupling that cannot be taken apart", tune.Permit{Wants: "best"}, tune.KindExtended, []string{tune.KindUncoupled}},
		{"a hoist", tune.Permit{Hanging: true, Wants: "coupled"}, tune.KindExtended,
			[]string{tune.KindCoupled, tune.KindUncoupled, tune.KindMechanical}},
		{"a hoist, taken apart", tune.Permit{Hanging: true, Uncouple: true}, tune.KindUncoupled, []string{tune.KindCoupled}},
		{"permanent magnets", tune.Permit{Permanent: true, Uncouple: true}, tune.KindExtended,
			[]string{tune.KindUncoupled, tune.KindCoupled}},
		{"volts per hertz", tune.Permit{Uncouple: true, Simple: true}, tune.KindNone, nil},
	} {
		offers := tune.Offers(c.p, all)
		if offers[0].Kind != c.first || offers[0].Refused {
			t.Errorf("%s: first %+v", c.name, offers[0])
		}
		for _, k := range c.refused {
			i := slices.IndexFunc(offers, func(o tune.Offer) bool { return o.Kind == k })
			if i < 0 || !offers[i].Refused || offers[i].Why == "" {
				t.Errorf("%s: %s is not refused with a reason: %+v", c.name, k, offers)
			}
		}
	}
	for _, o := range tune.Offers(tune.Permit{Uncouple: true}, []string{tune.KindStandstill}) {
		if o.Kind == tune.KindUncoupled {
			t.Error("a kind that the family does not have is offered")
		}
	}
	if !tune.Turns(tune.KindMechanical) || !tune.Turns(tune.KindCoupled) || tune.Turns(tune.KindExtended) {
		t.Error("which kinds turn the shaft")
	}
}
