package supply

import (
	"fmt"
	"math"

	"tingate/core/finding"
)

// Balance is how evenly three line voltages (or currents) stand.
type Balance struct {
	Average, Deviation float64
	Unbalance          float64 // %: largest deviation from the average over the average. NEMA MG 1, 14.36
	Negative           float64 // %: negative over positive sequence, from line voltages. IEC 61000-4-30, 5.7
}

// BalanceOf three values of one unit. NaN where a value is missing.
func BalanceOf(v [3]float64) Balance {
	b := Balance{Average: (v[0] + v[1] + v[2]) / 3}
	for _, x := range v {
		b.Deviation = math.Max(b.Deviation, math.Abs(x-b.Average))
	}
	b.Unbalance = b.Deviation / b.Average * 100
	var s2, s4 float64
	for _, x := range v {
		s2, s4 = s2+x*x, s4+x*x*x*x
	}
	beta := s4 / (s2 * s2)
	root := math.Sqrt(math.Max(0, 3-6*beta))
	b.Negative = math.Sqrt(math.Max(0, 1-root)/(1+root)) * 100
	return b
}

// Kinds of rectifier.
const (
	SixPulse    = "six-pulse"
	SinglePhase = "single-phase"
	Doubler     = "doubler"
	ActiveFront = "active-front-end"
)

// Link is the DC voltage to be expected behind a rectifier, V. An active front end is set by its family: NaN.
type Link struct {
	Idle, Loaded float64
	Low, High    float64 // band in which a measurement at rest is right
}

// slack is by how much an idle link may lie above √2 × the measured line: peaks that the line's harmonics raise, and the
// meter. The lower end is a lightly loaded link.
const slack = .04

// LinkOf a rectifier at a line voltage (line to line, or line to neutral where that is what feeds it), rms.
func LinkOf(kind string, line float64) Link {
	l := Link{math.NaN(), math.NaN(), math.NaN(), math.NaN()}
	switch kind {
	case SixPulse:
		l.Idle, l.Loaded = math.Sqrt2*line, 3*math.Sqrt2/math.Pi*line
	case SinglePhase:
		l.Idle, l.Loaded = math.Sqrt2*line, 2*math.Sqrt2/math.Pi*line
	case Doubler:
		l.Idle, l.Loaded = 2*math.Sqrt2*line, 4*math.Sqrt2/math.Pi*line
	default:
		return l
	}
	l.Low, l.High = math.Max(l.Loaded, l.Idle*.93), l.Idle*(1+slack)
	return l
}

// Classes of line voltage that drives are made for, V.
var Classes = []float64{115, 230, 400, 480, 575, 690}

// ClassOf finds the supply class whose idle link is nearest to a measured one.
func ClassOf(kind string, measured float64) float64 {
	best, off := math.NaN(), math.Inf(1)
	for _, c := range Classes {
		if d := math.Abs(math.Log(measured / LinkOf(kind, c).Idle)); d < off {
			best, off = c, d
		}
	}
	return best
}

// JudgeLine says what is wrong with three line voltages, V; nominal NaN when it is not known. Limits: IEC 60038 (±10 % of
// nominal), IEC 61000-2-4 class 2 (2 % negative sequence), NEMA MG 1 14.36 (no running above 5 %).
func JudgeLine(v [3]float64, nominal float64) []finding.Finding {
	var out []finding.Finding
	b := BalanceOf(v)
	least := math.Min(v[0], math.Min(v[1], v[2]))
	switch {
	case b.Average < 5:
		return []finding.Finding{{Code: "no-voltage", Severity: finding.Do, Title: "No voltage on the line",
			Detail: "All three read near zero.", Action: "Is it switched on? Is the meter on AC volts?"}}
	case least < .8*b.Average:
		out = append(out, finding.Finding{Code: "phase-missing", Severity: finding.Stop, Title: "A phase is missing or weak",
			Detail: fmt.Sprintf("%s, %s and %s V.", f4(v[0]), f4(v[1]), f4(v[2])),
			Action: "Fuses, contactor, terminals: measure each to earth"})
	case b.Unbalance > 5:
		out = append(out, finding.Finding{Code: "unbalance-high", Severity: finding.Stop, Title: "The line is far out of balance",
			Detail: fmt.Sprintf("%s %%; above 5 %% a motor is not run, and a rectifier loads one phase.", f4(b.Unbalance)),
			Action: "Find the load or the fault that pulls it"})
	case b.Negative > 2:
		out = append(out, finding.Finding{Code: "unbalance-high", Severity: finding.Look, Title: "The line is out of balance",
			Detail: fmt.Sprintf("%s %% negative sequence; 2 %% is what plants allow.", f4(b.Negative)), Action: "Look again under load"})
	}
	if nominal > 0 && math.Abs(b.Average/nominal-1) > .1 {
		out = append(out, finding.Finding{Code: "voltage-out-of-range", Severity: finding.Stop,
			Title:  "The line is not at its nominal voltage",
			Detail: fmt.Sprintf("%s V on average, %s V nominal: more than 10 %% off.", f4(b.Average), f4(nominal)),
			Action: "Which supply is this? Check the transformer's taps"})
	}
	return out
}

// JudgeLink holds a measured DC link, at rest, against what the rectifier makes of the measured line. NaN: not measured.
func JudgeLink(kind string, line, measured float64) []finding.Finding {
	l := LinkOf(kind, line)
	if math.IsNaN(measured) || math.IsNaN(l.Idle) || measured >= l.Low && measured <= l.High {
		return nil
	}
	if class := ClassOf(kind, measured); math.Abs(class/line-1) > .15 && math.Abs(measured/LinkOf(kind, class).Idle-1) < .06 {
		return []finding.Finding{{Code: "other-supply-class", Severity: finding.Stop, Title: "The DC link is that of another supply",
			Detail: fmt.Sprintf("%s V fits a %s V supply; %s V was measured on the line.", f4(measured), f4(class), f4(line)),
			Action: "Stop: wrong drive, wrong supply, or the meter on another range"}}
	}
	f := finding.Finding{Code: "dc-link-low", Severity: finding.Look, Title: "The DC link is lower than the line makes it",
		Detail: fmt.Sprintf("%s V; %s to %s V is expected at rest.", f4(measured), f4(l.Low), f4(l.High)),
		Action: "A phase missing? Is it charging still, or loaded?"}
	if measured > l.High {
		f.Code, f.Title, f.Action = "dc-link-high", "The DC link is higher than the line makes it",
			"Is a shared link or a driving load feeding it? Is the meter on the right range?"
	}
	return []finding.Finding{f}
}

// LinkBears is the voltage of the DC link at which a drive goes off, V, by the highest line voltage that it is made for: common practice,
// 405 V for drives of 200 to 240 V and for doublers, 810 V for those of 380 to 480 V.
func LinkBears(lineHigh float64) float64 {
	if lineHigh > 0 && lineHigh < 300 {
		return 405
	}
	return 810
}
