package plate

import (
	"math"
	"slices"
	"testing"
)

// Digits that look alike are likelier to be misread than those that do not: of two readings that are as far from fitting, the alike one
// costs less.
func TestDigitsThatLookAlike(t *testing.T) {
	cost := func(read float64) float64 {
		r := EmptyRow()
		r.Power, r.Voltage, r.Current, r.Frequency, r.Speed, r.Factor = 9000, 400, read, 50, 1455, .84
		l := Misreadings(Plate{Kind: Induction, ServiceFactor: math.NaN(), Row: r}, 40)
		i := slices.IndexFunc(l, func(c Correction) bool {
			return c.Field == "current" && math.Abs(c.To-17.5) < 1e-9 && c.Kind == "digit"
		})
		if i < 0 {
			t.Fatalf("17.5 A read as %g A is not among %+v", read, l)
		}
		return l[i].Cost
	}
	// 7 read as 1, as 2 and as 9 (stamping, dirt and handwriting: common practice) against 7 read as 3.
	strange := cost(13.5)
	for _, read := range []float64{11.5, 12.5} {
		if c := cost(read); math.Abs(strange-c-1.4) > 1e-9 {
			t.Errorf("17.5 A read as %g A costs %g, as 13.5 A %g: looking alike is worth 1.4", read, c, strange)
		}
	}
	for _, p := range []string{"17", "38", "56", "68", "08", "06", "49", "27", "79", "35", "59", "89"} {
		if !alike[[2]byte{p[0], p[1]}] || !alike[[2]byte{p[1], p[0]}] {
			t.Errorf("%c and %c look alike, both ways", p[0], p[1])
		}
	}
	if len(alike) != 24 {
		t.Errorf("%d pairs", len(alike))
	}
}

// Another row of the plate tells which value is wrong: the one at which both rows take the same apparent power comes first.
func TestTheOtherRowDecides(t *testing.T) {
	row := func(volts, amps float64) Row {
		r := EmptyRow()
		r.Power, r.Voltage, r.Current, r.Frequency, r.Speed, r.Factor = 7500, volts, amps, 50, 1455, .82
		return r
	}
	// 26.8 A at 230 V are 15.4 A at 400 V, 0.6 % from 15.5 A; 27.6 A are 15.9 A, 2.4 %. In units of 3 % that is a cost of 0.2 and of 0.8.
	cost := func(others ...Row) float64 {
		for _, c := range Misreadings(Plate{Kind: Induction, ServiceFactor: math.NaN(), Row: row(400, 10.5), Others: others}, 100) {
			if c.Field == "current" && c.To == 15.5 {
				return c.Cost
			}
		}
		return math.Inf(1)
	}
	alone := cost()
	for amps, want := range map[float64]float64{26.8: math.Log(15.5*400/26.8/230) / .03, 27.6: math.Log(27.6*230/15.5/400) / .03} {
		if got := cost(row(230, amps)) - alone; math.Abs(got-want) > 1e-6 {
			t.Errorf("beside %g A at 230 V it costs %g more, want %g", amps, got, want)
		}
	}
	if l := Misreadings(Plate{Kind: Induction, ServiceFactor: math.NaN(), Row: row(400, 10.5), Others: []Row{row(230, 26.8)}},
		1); len(l) == 0 || l[0].To != 15.5 {
		t.Errorf("%+v", l)
	}
}
