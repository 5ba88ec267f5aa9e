package supply_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"tingate/core/finding"
	"tingate/core/supply"
	"tingate/testtools/golden"
)

// said are findings in short: what, how heavy, and a mark of the words.
func said(t *testing.T, list []finding.Finding) string {
	t.Helper()
	var out strings.Builder
	for _, f := range list {
		fmt.Fprintf(&out, " [%s %s %s]", f.Code, f.Severity, golden.Digest(t, f))
	}
	return out.String()
}

// What four hundred series of readings of a DC link are taken for is as it was: falling, still loaded, charged again, read by two meters,
// in disorder, too few, at the limit.
func TestDischargesAreJudgedAsBefore(t *testing.T) {
	rng := rand.New(rand.NewPCG(18, 3))
	var out strings.Builder
	for n := range 400 {
		tau, v0 := math.Exp(math.Log(5)+3*rng.Float64()), 200+500*rng.Float64()
		limit := []float64{50, 60, 50, 120}[rng.IntN(4)]
		kind := rng.IntN(8)
		var list []supply.Reading
		at := 0.0
		for range rng.IntN(9) {
			v := v0 * math.Exp(-at/tau)
			switch kind {
			case 1: // loaded by something of constant power
				v = math.Sqrt(max(0, v0*v0-v0*v0*at/tau))
			case 2: // charged again
				if at > tau/2 {
					v = v0
				}
			case 3: // does not fall
				v = v0 * (1 + .02*rng.Float64())
			case 4: // the leads the other way round, and a poor meter
				v = -v * (1 + .06*(rng.Float64()-.5))
			case 5: // rests on something
				v = limit*1.2 + (v0-limit)*math.Exp(-at/tau)
			case 6:
				v = math.Round(v/10) * 10
			}
			list = append(list, supply.Reading{T: at, V: v * (1 + .004*(rng.Float64()-.5))})
			at += tau * rng.Float64() * []float64{.1, .6, 1.2}[rng.IntN(3)] * float64(rng.IntN(5)+1) / 3
			if rng.IntN(12) == 0 {
				at = list[len(list)-1].T // twice at one time
			}
		}
		rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
		if rng.IntN(15) == 0 && len(list) > 0 {
			list[0].V = []float64{0, math.NaN(), limit, limit + .001}[rng.IntN(4)]
		}
		d := supply.FitDischarge(list, limit)
		fmt.Fprintf(&out, "%d, kind %d, %d readings: τ %.5g s, to the limit %.5g (%.5g to %.5g) from %.5g V, %t %t%s\n", n, kind, len(list),
			d.TimeConstant, d.ToLimit, d.Low, d.High, d.StartVoltage, d.Falling, d.Below, said(t, d.Findings))
	}
	golden.Same(t, "testdata/discharges.txt", out.String())
}

// Lines, links, cables, conductors, cabinets, derating and overload are judged as before, at their edges and between.
func TestSuppliesAreJudgedAsBefore(t *testing.T) {
	rng := rand.New(rand.NewPCG(18, 4))
	var out strings.Builder
	kinds := []string{supply.SixPulse, supply.SinglePhase, supply.Doubler, "no-rectifier"}
	near := func(list ...float64) float64 {
		v := list[rng.IntN(len(list))]
		return v * []float64{1, 1, 1 + 1e-9, 1 - 1e-9, .5 + rng.Float64()}[rng.IntN(5)]
	}
	for n := range 300 {
		u := near(115, 208, 230, 400, 460, 480, 525, 690, 0)
		v := [3]float64{u * near(1, .97, .9, .85), u * near(1, 1.02, .95), u * near(1, 1.1, 1.1001, 0)}
		b, kind := supply.BalanceOf(v), kinds[rng.IntN(4)]
		link := u * near(math.Sqrt2, 1.35, math.Sqrt2*1.04, math.Sqrt2*.93, 1.35*.93, 2*math.Sqrt2, .5)
		l := supply.LinkOf(kind, u)
		fmt.Fprintf(
			&out,
			"line %d: %.5g %.5g %.5g %.5g; link %.5g %.5g %.5g %.5g, class %.5g, bears %.5g;%s;%s\n",
			n,
			b.Average,
			b.Deviation,
			b.Unbalance,
			b.Negative,
			l.Idle,
			l.Loaded,
			l.Low,
			l.High,
			supply.ClassOf(kind, link),
			supply.LinkBears(u),
			said(t, supply.JudgeLine(v, near(115, 208, 230, 400, 460, 480, 525, 690))),
			said(t, supply.JudgeLink(kind, u, link)),
		)
	}
	for n := range 200 {
		c := supply.MotorCable{
			Length:   near(0, 5, 7.5, 20, 50, 100, 150, 300),
			DCLink:   near(311, 540, 565, 650, 750),
			Rise:     near(0, .1, .2, 1),
			Carrier:  near(0, 4, 8, 16),
			Rated:    near(2, 8, 16, 40),
			Power:    near(.37, 2.2, 7.5, 30),
			Screened: rng.IntN(2) == 0,
			Fit:      []string{"inverter-duty", "plain", "not-known", ""}[rng.IntN(4)],
		}.Work()
		fmt.Fprintf(&out, "cable %d: %.5g %.5g %.5g %.5g%s\n", n, c.Critical, c.Peak, c.Allowed, c.Charging, said(t, c.Findings))
		s := supply.Sizing{
			Code:    []string{"iec B2", "iec C", "nec conduit", "other"}[rng.IntN(4)],
			Current: near(1, 15, 15.5, 20, 62, 206, 400),
			Ambient: near(0, 30, 40, 50, 70),
		}
		smallest, ok := s.Smallest()
		fmt.Fprintf(
			&out,
			"conductor %d: needs %.5g, %.5g carries %.5g, %v %t, drop %.5g %.5g, leakage %.5g %.5g\n",
			n,
			s.Needs(),
			s.Current,
			s.Carries(near(1.5, 2.5, 2.08, 16, 120, 300)),
			smallest,
			ok,
			supply.VoltageDrop(s.Current, c.Critical, 7.4, .08, .85, 3),
			supply.VoltageDrop(s.Current, 40, 7.4, .08, .85, 1),
			supply.Leakage(true, c.Critical),
			supply.Leakage(false, c.Critical),
		)
		table := supply.UsualDerating
		if rng.IntN(3) == 0 {
			table = supply.DeratingTable{
				AltitudeFrom:       1000,
				AltitudePercent:    .5,
				AmbientFrom:        45,
				AmbientPercent:     2,
				SinglePhasePercent: 40,
			}
		}
		d := supply.Derating{Rated: near(2, 16, 40), Altitude: near(0, 500, 1000, 1800, 4000, 4001), Ambient: near(20, 40, 45, 50, 51, 60),
			Switching: near(0, 2, 4, 8, 16), SideBySide: rng.IntN(2) == 0, SinglePhase: rng.IntN(3) == 0, Table: table}.Work()
		fmt.Fprintf(&out, "derated %d: %.6g", n, d.Current)
		for _, f := range d.Factors {
			fmt.Fprintf(&out, " (%s %.5g %s)", f.Name, f.Factor, f.Because)
		}
		fmt.Fprintln(&out, said(t, d.Findings))
		tau, ok := supply.ClassTimeConstant([]string{"10", "10A", "20", "30", "5"}[rng.IntN(5)], near(1.05, 1.1, 1.2))
		o := supply.Overload{TimeConstant: near(60, 300, tau), Pickup: near(1, 1.05, 1.2), Cooling: near(1, 2, 4)}
		m := near(0, .5, 1, 1.05, 1.2, 1.5, 6, 7.2)
		fmt.Fprintf(
			&out,
			"overload %d: %.5g %t, trips %.5g, after %.5g %.5g\n",
			n,
			tau,
			ok,
			o.TripTime(m, near(0, .5, .9)),
			o.After(m, .5, 60),
			o.After(m, near(0, 1, 1.5), near(0, 10, 600)),
		)
	}
	golden.Same(t, "testdata/supplies.txt", out.String())
}
