package plate

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"tingate/testtools/golden"
)

// anyPlate is a plate that somebody could have typed: sound figures, rounded as plates are, then one to three of them spoilt, with other
// rows beside that fit or do not.
func anyPlate(rng *rand.Rand) Plate {
	of := func(l ...float64) float64 { return l[rng.IntN(len(l))] }
	digits := func(v float64, n int) float64 {
		s := math.Pow(10, float64(n)-1-math.Floor(math.Log10(v)))
		return math.Round(v*s) / s
	}
	power := digits(math.Exp(math.Log(60)+math.Log(6000)*rng.Float64()), 2)
	f, poles := of(50, 60, 50, 60, 87, 100), of(2, 4, 6, 8, 10, 12)
	slip := .01 + .09*math.Pow(power, -.2)*rng.Float64()*2
	cos, eta := .6+.3*rng.Float64(), .7+.25*rng.Float64()
	v := of(230, 400, 415, 460, 480, 690, 220, 380, 240)
	r := EmptyRow()
	r.Connection = []string{"star", "delta", ""}[rng.IntN(3)]
	r.Power, r.Voltage, r.Frequency = power, v, f
	r.Current = digits(power/(math.Sqrt(3)*v*cos*eta), 2+rng.IntN(2))
	r.Speed = math.Round(120 * f / poles * (1 - slip) / of(1, 5) * of(1, 1))
	if r.Speed < 120*f/poles/2 {
		r.Speed *= 5
	}
	r.Factor = digits(cos, 2)
	if rng.IntN(3) == 0 {
		r.Efficiency = digits(eta, 3)
	}
	if rng.IntN(3) == 0 {
		r.Poles = int(poles)
	}
	if rng.IntN(5) == 0 {
		r.Horsepower, r.Power = digits(power/hpW, 2)*hpW, Missing
	}
	p := Plate{Kind: []string{Induction, Induction, Induction, PermanentMagnet}[rng.IntN(4)], ServiceFactor: of(Missing, 1, 1.15, .9,
		2.1), Row: r}
	if p.Kind == PermanentMagnet && rng.IntN(2) == 0 {
		p.Row.Speed = 120 * f / poles
	}
	for range rng.IntN(3) {
		bend(rng, &p.Row)
	}
	for range rng.IntN(3) {
		o := p.Row
		k := of(math.Sqrt(3), 1/math.Sqrt(3), 2, .5, 1.2, 1, 400.0/415, 460.0/400)
		o.Voltage, o.Current = math.Round(o.Voltage*k), digits(max(o.Current/k*of(1, 1, 1.02, 1.03, 1.031, 1.2), .01), 3)
		if rng.IntN(3) == 0 {
			o.Frequency, o.Speed, o.Power = 60, o.Speed*1.2, o.Power*of(1, 1.2, 1.15)
		}
		if rng.IntN(4) == 0 {
			bend(rng, &o)
		}
		p.Others = append(p.Others, o)
	}
	return p
}

func bend(rng *rand.Rand, r *Row) {
	by := []float64{0, .1, 10, .5, 2, .95, 1.05, .9, 1.13, math.Sqrt(3), 1 / math.Sqrt(3), -1, 1.001}[rng.IntN(13)]
	at := []*float64{&r.Power, &r.Voltage, &r.Current, &r.Frequency, &r.Speed, &r.Factor, &r.Efficiency}[rng.IntN(7)]
	if *at *= by; rng.IntN(8) == 0 {
		*at = Missing
	}
}

// Fifteen hundred plates drawn at random are judged as before: every figure, finding and misreading.
func TestRandomPlatesAreJudgedAsBefore(t *testing.T) {
	rng := rand.New(rand.NewPCG(18, 5))
	var out, block strings.Builder
	for n := range 1500 {
		p := anyPlate(rng)
		r := Judge(p)
		fmt.Fprintf(&block, "%d %d n %.4g %.4g s %.4g T %.4g P %.4g S %.4g η %.4g (%.4g %.4g) φ %.4g I0 %.4g %.4g;", r.Poles,
			r.PolesWorkedOut,
			r.SynchronousSpeed, r.SlipSpeed, r.Slip, r.Torque, r.InputPower, r.ApparentPower, r.Efficiency, r.EfficiencyLow,
			r.EfficiencyHigh,
			r.PowerFactor, r.NoLoadCurrentLow, r.NoLoadCurrent)
		var codes []string
		for _, f := range r.Findings {
			codes = append(codes, f.Code)
			fmt.Fprint(&block, golden.Digest(t, f))
		}
		for _, c := range Misreadings(p, 6) {
			fmt.Fprintf(&block, " %s %.6g %.6g %s %s %.4g", c.Field, c.From, c.To, c.Kind, c.Why, c.Cost)
		}
		fmt.Fprintf(&out, "%d: %s %s\n", n, golden.Digest(t, block.String()), strings.Join(codes, " "))
		block.Reset()
	}
	golden.Same(t, "testdata/random.txt", out.String())
}
