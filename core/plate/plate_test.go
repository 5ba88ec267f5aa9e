package plate

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"

	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/testtools/check"
)

// Values of the standard that are not rows of our table: they test the interpolation.
func TestClassEfficiencyAgainstTheStandard(t *testing.T) {
	for _, c := range []struct {
		kw       float64
		poles    int
		ie1, ie4 float64
	}{
		{7.5, 4, 86.0, 92.6}, {11, 4, 87.6, 93.3}, {4, 4, 83.1, 91.1}, {2.2, 2, 79.7, 88.0}, {22, 4, 89.9, 94.5}, {45, 6, 91.4, 94.8},
		{1.1, 6, 72.9, 84.5}, {110, 4, 93.3, 96.3}, {18.5, 8, 86.9, 91.7}, {0.55, 4, 70.0, 83.9}, {0.25, 4, 61.5, 77.9},
	} {
		ie1, ie4 := ClassEfficiency(c.kw*1000, c.poles)
		name := fmt.Sprintf("%v kW, %d poles", c.kw, c.poles)
		check.Against(t, "IE1 efficiency of "+name+", %", "IEC 60034-30-1:2014, 50 Hz, from memory", ie1*100, c.ie1, .012)
		check.Against(t, "IE4 efficiency of "+name+", %", "IEC 60034-30-1:2014, 50 Hz, from memory", ie4*100, c.ie4, .012)
	}
}

// Full-load currents that codes expect at 460 V, 60 Hz must lie inside what is taken for sound, far from its edges.
func TestCodeCurrentsAreSound(t *testing.T) {
	for hp, amps := range map[float64]float64{.5: 1.1, .75: 1.6, 1: 2.1, 1.5: 3, 2: 3.4, 3: 4.8, 5: 7.6, 7.5: 11, 10: 14, 15: 21, 20: 27,
		25: 34, 30: 40, 40: 52, 50: 65, 60: 77, 75: 96, 100: 124, 125: 156, 150: 180, 200: 240} {
		r := EmptyRow()
		r.Horsepower, r.Voltage, r.Current, r.Frequency, r.Speed = hp*hpW, 460, amps, 60, 1750
		if hp > 10 {
			r.Speed = 1770
		}
		res := figures(Induction, r)
		ratio, low, high, ok := bounds(Induction, r, res)
		if !ok || ratio < low*1.1 || ratio > high/1.02 {
			t.Errorf("NEC Table 430.250: %v hp %v A gives %v, ours %v to %v", hp, amps, ratio, low, high)
		}
		check.Against(t, fmt.Sprintf("efficiency times cos φ of %v hp at 460 V, within our range's half width", hp), "NEC Table 430.250",
			(low+high)/2, ratio, (high-low)/2/ratio)
	}
}

// sound makes a plate of a random size that a maker could stamp: class efficiency, typical slip and cos φ with spread,
// rounded as plates are.
func sound(rng *rand.Rand) Row {
	kws := []float64{.37, .55, .75, 1.1, 1.5, 2.2, 3, 4, 5.5, 7.5, 11, 15, 18.5, 22, 30, 37, 45, 55, 75, 90, 110}
	kw := kws[rng.IntN(len(kws))]
	poles := []int{2, 4, 4, 4, 6}[rng.IntN(5)]
	volts, hz := 400.0, 50.0
	if rng.IntN(4) == 0 {
		volts, hz = 460, 60
	}
	ie1, ie4 := ClassEfficiency(kw*1000, poles)
	eta := ie1 + (ie4-ie1)*(.1+.7*rng.Float64())
	pf := math.Round((typicalPowerFactor(kw*1000, poles)+.06*(rng.Float64()-.5))*100) / 100
	slip := typicalSlip(kw*1000) * (.75 + .4*rng.Float64())
	r := EmptyRow()
	r.Power, r.Voltage, r.Frequency, r.Factor = kw*1000, volts, hz, pf
	r.Current, _ = strconv.ParseFloat(quantity.Digits(kw*1000/eta/math.Sqrt(3)/volts/pf, 3), 64)
	step := 5.0
	if kw > 10 {
		step = 1
	}
	r.Speed = math.Round(120*hz/float64(poles)*(1-slip)/step) * step
	return r
}

func TestRandomSoundPlatesAreNotObjectedTo(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	for range 3000 {
		r := sound(rng)
		for _, f := range Judge(Plate{Kind: Induction, ServiceFactor: Missing, Row: r}).Findings {
			if f.Severity.Open() {
				t.Fatalf("%+v: %+v", r, f)
			}
		}
	}
}

// spoil misreads one value as people do and says what was true.
func spoil(rng *rand.Rand, r Row) (Row, string, float64) {
	look := map[byte]string{'0': "86", '1': "7", '3': "85", '4': "9", '5': "6398", '6': "580", '7': "129", '8': "3609", '9': "4785",
		'2': "7"}
	digit := func(v float64) float64 {
		b := []byte(strconv.FormatFloat(v, 'f', -1, 64))
		for range 20 {
			i := rng.IntN(len(b))
			if l := look[b[i]]; l != "" {
				b[i] = l[rng.IntN(len(l))]
				out, _ := strconv.ParseFloat(string(b), 64)
				if out != v && out > 0 {
					return out
				}
			}
		}
		return v * 10
	}
	switch rng.IntN(6) {
	case 0:
		was := r.Current
		r.Current = digit(was)
		return r, "current", was
	case 1:
		was := r.Speed
		r.Speed = digit(was)
		return r, "speed", was
	case 2:
		was := r.Current
		r.Current /= 10
		return r, "current", was
	case 3:
		was := r.Current
		r.Current = round3(was * root3)
		return r, "current", was
	case 4: // horsepower typed as kW
		was := r.Power
		r.Power = math.Round(was/hpW*100) / 100 * 1000
		return r, "power", was
	}
	was := r.Factor
	r.Factor *= 100
	return r, "power_factor", was
}

// Of the misreadings that are noticed at all, the true value (within 3 %: the tool cannot know the last digit) must stand
// among the four corrections offered in at least nine of ten.
func TestTheTrueValueIsAmongTheCorrections(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 8))
	noticed, found := map[string]int{}, map[string]int{}
	tried := 0
	for range 2000 {
		r, field, was := spoil(rng, sound(rng))
		p := Plate{Kind: Induction, ServiceFactor: Missing, Row: r}
		open := false
		for _, f := range Judge(p).Findings {
			open = open || f.Severity.Open()
		}
		tried++
		if !open {
			continue
		}
		noticed[field]++
		for _, c := range Misreadings(p, 4) {
			to := c.To
			if c.Field == "power" {
				to *= 1000
				if c.Unit == "hp" {
					to = c.To * hpW
				}
			}
			if c.Field == field && math.Abs(to/was-1) < .03 {
				found[field]++
				break
			}
		}
	}
	all, ok := 0, 0
	for f, n := range noticed {
		all, ok = all+n, ok+found[f]
		t.Logf("%s: noticed %d, true value offered %d", f, n, found[f])
	}
	if all < tried/2 || float64(ok) < .9*float64(all) {
		t.Errorf("of %d misreadings %d were noticed, and the true value was offered for %d", tried, all, ok)
	}
}

// Nothing in a finding's text may be left unfilled, and the most severe stands first, whatever the row says.
func TestFindingsAreWholeSentences(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 10))
	for range 4000 {
		r := sound(rng)
		for _, v := range []*float64{&r.Power, &r.Voltage, &r.Current, &r.Frequency, &r.Speed, &r.Factor, &r.Efficiency} {
			switch rng.IntN(8) {
			case 0:
				*v = Missing
			case 1:
				*v *= math.Pow(10, 3*rng.Float64()-1.5)
			case 2:
				*v = 0
			case 3:
				*v = rng.Float64() * 3
			}
		}
		r.Poles = []int{0, 0, 0, 2, 4, 3, -2, 48}[rng.IntN(8)]
		kind := []string{Induction, PermanentMagnet}[rng.IntN(2)]
		last := finding.Stop
		for _, f := range Judge(Plate{Kind: kind, ServiceFactor: 1.15, Row: r}).Findings {
			if f.Title == "" || f.Code == "" ||
				strings.ContainsAny(f.Title+f.Detail, "!%()") && strings.Contains(f.Title+f.Detail, "%!") ||
				strings.Contains(f.Title+f.Detail, "NaN") || strings.Contains(f.Title+f.Detail, "Inf") {
				t.Fatalf("%+v: %+v", r, f)
			}
			if f.Severity.Rank() < last.Rank() {
				t.Fatalf("%s stands after %s", f.Severity, last)
			}
			last = f.Severity
		}
	}
}

func TestOtherRowsTellWhichValueIsWrong(t *testing.T) {
	p := misread()
	list := Misreadings(p, 4)
	if len(list) == 0 || list[0].Field != "current" || list[0].To != 15.5 {
		t.Errorf("%+v", list)
	}
	p.Row.Current = 15.5
	if l := Misreadings(p, 4); l != nil {
		t.Errorf("nothing to correct: %+v", l)
	}
	p.Others[0].Speed = 1355
	found := false
	for _, f := range Judge(p).Findings {
		found = found || f.Code == "rows-disagree" && strings.Contains(f.Detail, "1355")
	}
	if !found {
		t.Error("rows that disagree in speed")
	}
}

// A synchronous motor has no slip and likely speeds; windings for two voltages give a factor of 2; slow speeds and many poles give no
// nonsense.
func TestSynchronousDualAndSlowPlates(t *testing.T) {
	judge := func(kind string, volts, amps, hz, rpm, kw, pf float64, poles int) (Result, []Correction, string) {
		r := EmptyRow()
		r.Voltage, r.Current, r.Frequency, r.Speed, r.Power, r.Factor, r.Poles = volts, amps, hz, rpm, kw*1000, pf, poles
		p := Plate{Kind: kind, ServiceFactor: Missing, Row: r}
		res := Judge(p)
		var codes []string
		for _, f := range res.Findings {
			if f.Severity.Open() {
				codes = append(codes, f.Code)
			}
			if strings.Contains(f.Title+f.Detail+f.Action, "NaN") || strings.Contains(f.Detail, " 0 poles") {
				t.Errorf("%+v", f)
			}
		}
		return res, Misreadings(p, 4), strings.Join(codes, " ")
	}
	// Magnets: 120 f/p exactly, common practice; no slip whatever is typed.
	res, list, codes := judge(PermanentMagnet, 400, 5.1, 150, 2900, 3, .95, 6)
	if has(res.Slip) || has(res.SlipSpeed) || codes != "synchronous-mismatch" || len(list) == 0 || list[0].Field != "speed" ||
		list[0].To != 3000 || list[0].Kind != "synchronous" {
		t.Errorf("%v %s %+v", res.Slip, codes, list)
	}
	if _, list, _ = judge(PermanentMagnet, 400, 5.1, 155, 3000, 3, .95, 6); !offers(list, "frequency", 150) ||
		!offers(list, "speed", 3100) {
		t.Errorf("%+v", list)
	}
	for _, rpm := range []float64{.5, 7, 40} {
		judge(PermanentMagnet, 400, 5.1, 50, rpm, 3, .95, 0)
		res, _, codes = judge(Induction, 400, 15.5, 50, rpm, 7.5, .83, 0)
		if !strings.Contains(codes, "poles-unlikely") || strings.Contains(codes, "above") {
			t.Errorf("%v r/min: %s, %d poles", rpm, codes, res.Poles)
		}
	}
	if _, list, codes = judge(Induction, 400, 15.5, 50, 145, 7.5, .83, 0); !strings.Contains(codes, "poles-unlikely") ||
		!offers(list, "speed", 1450) {
		t.Errorf("a digit left out: %s %+v", codes, list)
	}
	if _, _, codes = judge(Induction, 400, 30, 50, 245, 7.5, .55, 24); strings.Contains(codes, "unlikely") {
		t.Errorf("stamped poles are believed: %s", codes)
	}
	// 5 hp at 230/460 V takes 15.2 and 7.6 A (NEC Table 430.250): the amperes of one at the volts of the other.
	for _, c := range []struct{ volts, amps, to float64 }{{460, 15.2, 7.6}, {230, 7.6, 15.2}} {
		_, list, codes = judge(Induction, c.volts, c.amps, 60, 1740, 3.73, .77, 0)
		if !strings.Contains(codes, "current-of-other-voltage") || !offers(list, "current", c.to) || !offers(list, "voltage", 690-c.volts) {
			t.Errorf("%v V, %v A: %s %+v", c.volts, c.amps, codes, list)
		}
	}
	if _, _, codes = judge(Induction, 400, 31, 50, 1455, 7.5, .83, 0); strings.Contains(codes, "other-voltage") {
		t.Errorf("400 V is of no such pair: %s", codes)
	}
}

func offers(list []Correction, field string, to float64) bool {
	for _, c := range list {
		if c.Field == field && math.Abs(c.To/to-1) < .005 {
			return true
		}
	}
	return false
}
