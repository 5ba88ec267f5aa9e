package plate

import (
	"crypto/sha256"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"tingate/testtools/golden"
)

// stamped are plates that agree with themselves, of sizes, poles, frequencies and kinds apart.
var stamped = map[string]Plate{
	"0.37 kW, 4": induction(370, 400, 1.1, 50, 1395, .72),
	"0.55 kW, 6": induction(550, 230, 3.1, 50, 910, .66),
	"0.75 kW, 2": induction(750, 400, 1.7, 50, 2840, .83),
	"4 kW, 4":    induction(4000, 400, 8.1, 50, 1455, .82),
	"7.5 kW, 4":  induction(7500, 400, 15.1, 50, 1455, .82),
	"15 kW, 8":   induction(15000, 400, 32, 50, 730, .76),
	"30 hp, 4": {Kind: Induction, ServiceFactor: 1.15,
		Row: Row{Power: Missing, Horsepower: 30 * hpW, Voltage: 460, Current: 35, Frequency: 60, Speed: 1770, Factor: .85,
			Efficiency: .936}},
	"0.549 kW, 4": induction(549, 400, 1.5, 50, 1400, .74),
	"1 W":         induction(1, 24, .09, 50, 1300, .5),
	"3.7 kW, 277": induction(3700, 277, 11.2, 60, 1745, .82),
	"5 hp, 220": {Kind: Induction, ServiceFactor: 1, Row: Row{Power: Missing, Horsepower: 5 * hpW, Voltage: 220, Current: 13.4,
		Frequency: 60, Speed: 1745, Factor: .84, Efficiency: .875}},
	"magnet, 87.5 Hz": {Kind: PermanentMagnet, Row: Row{Power: 3000, Horsepower: Missing, Voltage: 340, Current: 6, Frequency: 87.5,
		Speed: 1750, Factor: .95, Efficiency: .91}},
	"55 kW, 2":  induction(55000, 400, 96, 50, 2965, .89),
	"200 kW, 6": induction(200000, 690, 210, 50, 992, .85),
	"4 kW, magnet": {Kind: PermanentMagnet,
		Row: Row{Power: 4000, Horsepower: Missing, Voltage: 355, Current: 7.2, Frequency: 100, Speed: 1500, Factor: .97, Efficiency: .92,
			Poles: 8}},
}

func induction(p, v, i, f, n, cos float64) Plate {
	r := EmptyRow()
	r.Connection, r.Power, r.Voltage, r.Current, r.Frequency, r.Speed, r.Factor = "star", p, v, i, f, n, cos
	return Plate{Kind: Induction, ServiceFactor: Missing, Row: r}
}

// faults are what may be wrong with a plate, or missing on it.
var faults = map[string]func(p *Plate){
	"": func(*Plate) {},
	"as the other kind": func(p *Plate) {
		p.Kind = map[string]string{Induction: PermanentMagnet, PermanentMagnet: Induction}[p.Kind]
	},
	"no power":               func(p *Plate) { p.Row.Power, p.Row.Horsepower = Missing, Missing },
	"no voltage":             func(p *Plate) { p.Row.Voltage = Missing },
	"no current":             func(p *Plate) { p.Row.Current = Missing },
	"no frequency":           func(p *Plate) { p.Row.Frequency = Missing },
	"no speed":               func(p *Plate) { p.Row.Speed = Missing },
	"no cos φ":               func(p *Plate) { p.Row.Factor = Missing },
	"no cos φ, efficiency":   func(p *Plate) { p.Row.Factor, p.Row.Efficiency = Missing, .88 },
	"efficiency":             func(p *Plate) { p.Row.Efficiency = .88 },
	"efficiency too high":    func(p *Plate) { p.Row.Efficiency = 1.02 },
	"efficiency of one":      func(p *Plate) { p.Row.Efficiency = 1 },
	"power in hp":            func(p *Plate) { p.Row.Power *= hpW / 1000 },
	"power ten times":        func(p *Plate) { p.Row.Power *= 10 },
	"power a tenth":          func(p *Plate) { p.Row.Power /= 10 },
	"power in W as kW":       func(p *Plate) { p.Row.Power *= 1000 },
	"zero power":             func(p *Plate) { p.Row.Power = 0 },
	"negative current":       func(p *Plate) { p.Row.Current = -1 },
	"hp beside, right":       func(p *Plate) { p.Row.Horsepower = p.Row.power() * 1.07 },
	"hp beside, wrong":       func(p *Plate) { p.Row.Horsepower = p.Row.power() * 1.09 },
	"current by root three":  func(p *Plate) { p.Row.Current *= math.Sqrt(3) },
	"current over root 3":    func(p *Plate) { p.Row.Current /= math.Sqrt(3) },
	"current twice":          func(p *Plate) { p.Row.Current *= 2 },
	"current half":           func(p *Plate) { p.Row.Current /= 2 },
	"current 7 % up":         func(p *Plate) { p.Row.Current = math.Round(p.Row.Current*107) / 100 },
	"current a fifth down":   func(p *Plate) { p.Row.Current = math.Round(p.Row.Current*80) / 100 },
	"cos φ .30":              func(p *Plate) { p.Row.Factor = .3 },
	"cos φ .29":              func(p *Plate) { p.Row.Factor = .29 },
	"cos φ .97":              func(p *Plate) { p.Row.Factor = .97 },
	"cos φ .98":              func(p *Plate) { p.Row.Factor = .98 },
	"cos φ 1":                func(p *Plate) { p.Row.Factor = 1 },
	"cos φ in percent":       func(p *Plate) { p.Row.Factor *= 100 },
	"60 Hz":                  func(p *Plate) { p.Row.Frequency = 60 },
	"50 Hz":                  func(p *Plate) { p.Row.Frequency = 50 },
	"87 Hz":                  func(p *Plate) { p.Row.Frequency = 87 },
	"50.5 Hz":                func(p *Plate) { p.Row.Frequency = 50.5 },
	"synchronous":            func(p *Plate) { p.Row.Speed = 60 * p.Row.Frequency / math.Floor(60*p.Row.Frequency/p.Row.Speed) },
	"just below synchronous": func(p *Plate) { p.Row.Speed = 60*p.Row.Frequency/math.Floor(60*p.Row.Frequency/p.Row.Speed) - .5 },
	"above synchronous":      func(p *Plate) { p.Row.Speed = 60*p.Row.Frequency/math.Floor(60*p.Row.Frequency/p.Row.Speed) + 8 },
	"slip of 7 %":            func(p *Plate) { p.Row.Speed = .93 * 60 * p.Row.Frequency / math.Floor(60*p.Row.Frequency/p.Row.Speed) },
	"slip of 13 %":           func(p *Plate) { p.Row.Speed = .87 * 60 * p.Row.Frequency / math.Floor(60*p.Row.Frequency/p.Row.Speed) },
	"slip of 20 %":           func(p *Plate) { p.Row.Speed = .8 * 60 * p.Row.Frequency / math.Floor(60*p.Row.Frequency/p.Row.Speed) },
	"speed too high":         func(p *Plate) { p.Row.Speed = 70 * p.Row.Frequency },
	"hardly a speed":         func(p *Plate) { p.Row.Speed = 20 },
	"three poles":            func(p *Plate) { p.Row.Poles = 3 },
	"minus two poles":        func(p *Plate) { p.Row.Poles = -2 },
	"two poles":              func(p *Plate) { p.Row.Poles = 2 },
	"four poles":             func(p *Plate) { p.Row.Poles = 4 },
	"six poles":              func(p *Plate) { p.Row.Poles = 6 },
	"service factor":         func(p *Plate) { p.ServiceFactor = 1.25 },
	"delta beside, fits":     func(p *Plate) { p.Others = []Row{beside(p.Row, 1/math.Sqrt(3), math.Sqrt(3), "delta")} },
	"delta beside, misread":  func(p *Plate) { p.Others = []Row{beside(p.Row, 1/math.Sqrt(3), 1.9, "delta")} },
	"dual volts, right":      func(p *Plate) { p.Others = []Row{beside(p.Row, .5, 2, "YY")} },
	"dual volts, wrong":      func(p *Plate) { p.Others = []Row{beside(p.Row, .5, 2.2, "YY")} },
	"other frequency beside": func(p *Plate) {
		o := beside(p.Row, 1.15, 1, "star")
		o.Frequency, o.Speed = 60, p.Row.Speed*1.2
		p.Others = []Row{o}
	},
	"other speed beside":    func(p *Plate) { o := beside(p.Row, 1, 1, "star"); o.Speed = p.Row.Speed * .9; p.Others = []Row{o} },
	"digits swapped":        func(p *Plate) { p.Row.Speed = swapped(p.Row.Speed) },
	"one for seven":         func(p *Plate) { p.Row.Speed += 60 },
	"zero frequency":        func(p *Plate) { p.Row.Frequency = 0 },
	"zero voltage":          func(p *Plate) { p.Row.Voltage = 0 },
	"zero speed":            func(p *Plate) { p.Row.Speed = 0 },
	"zero current":          func(p *Plate) { p.Row.Current = 0 },
	"voltage a digit off":   func(p *Plate) { p.Row.Voltage += 80 },
	"voltage tenfold":       func(p *Plate) { p.Row.Voltage *= 10 },
	"speed half a turn off": func(p *Plate) { p.Row.Speed += .5 },
	"speed two turns off":   func(p *Plate) { p.Row.Speed += 2 },
	"speed a digit less":    func(p *Plate) { p.Row.Speed = math.Floor(p.Row.Speed / 10) },
	"speed a digit doubled": func(p *Plate) { p.Row.Speed = p.Row.Speed*10 + math.Mod(p.Row.Speed, 10) },
	"current a digit less":  func(p *Plate) { p.Row.Current = math.Floor(p.Row.Current) },
	"current tenfold":       func(p *Plate) { p.Row.Current *= 10 },
	"slip of 6 %":           func(p *Plate) { p.Row.Speed = .94 * 60 * p.Row.Frequency / math.Floor(60*p.Row.Frequency/p.Row.Speed) },
	"power of 999 W":        func(p *Plate) { p.Row.Power, p.Row.Horsepower = 999, Missing },
	"power of 4 kW":         func(p *Plate) { p.Row.Power, p.Row.Horsepower = 4000, Missing },
	"power of 15 kW":        func(p *Plate) { p.Row.Power, p.Row.Horsepower = 15000, Missing },
	"no cos φ, 6 poles":     func(p *Plate) { p.Row.Factor, p.Row.Poles = Missing, 6 },
	"three rows": func(p *Plate) {
		p.Others = []Row{beside(p.Row, .5, 2, "YY"), beside(p.Row, 1/math.Sqrt(3), 1.9, "delta")}
	},
	"same row twice":     func(p *Plate) { p.Others = []Row{p.Row} },
	"row of other power": func(p *Plate) { o := beside(p.Row, 1, 1, "star"); o.Power = p.Row.power() * 1.5; p.Others = []Row{o} },
	"nothing":            func(p *Plate) { p.Row = EmptyRow() },
}

// beside is another row of the same plate, at other volts and amperes.
func beside(r Row, volts, amps float64, as string) Row {
	r.Connection, r.Voltage, r.Current = as, math.Round(r.Voltage*volts), math.Round(r.Current*amps*10)/10
	return r
}

// swapped changes the last two digits before the point over.
func swapped(v float64) float64 {
	n := int(v)
	return float64(n/100*100 + n%10*10 + n/10%10)
}

// What is made of a thousand plates stands in testdata/judged.txt, a line each: what was worked out, what was found and how hard, and what
// misreadings are offered. Another result is another judgement: it is looked at, and written anew with TINGATE_GOLDEN=write. (The texts
// stand as a sum.)
func TestAThousandPlatesAreJudgedAsBefore(t *testing.T) {
	var out strings.Builder
	for _, name := range sorted(stamped) {
		for _, fault := range sorted(faults) {
			p := stamped[name]
			faults[fault](&p)
			r := Judge(p)
			fmt.Fprintf(&out, "%s; %s: %d %d n %.4g %.4g s %.4g T %.4g P %.4g S %.4g η %.4g (%.4g %.4g) φ %.4g I0 %.4g %.4g\n", name, fault,
				r.Poles, r.PolesWorkedOut, r.SynchronousSpeed, r.SlipSpeed, r.Slip, r.Torque, r.InputPower, r.ApparentPower, r.Efficiency,
				r.EfficiencyLow, r.EfficiencyHigh, r.PowerFactor, r.NoLoadCurrentLow, r.NoLoadCurrent)
			for _, f := range r.Findings {
				fmt.Fprintf(&out, "\t%s %s %s %.4x\n", f.Code, f.Severity, f.Field,
					sha256.Sum256([]byte(f.Title+"\n"+f.Detail+"\n"+f.Action)))
			}
			for _, c := range Misreadings(p, 6) {
				fmt.Fprintf(&out, "\t→ %s %g to %g %s %s: %s, %.4g\n", c.Field, c.From, c.To, c.Unit, c.Kind, c.Why, c.Cost)
			}
		}
	}
	golden.Same(t, "testdata/judged.txt", out.String())
}

func sorted[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }
