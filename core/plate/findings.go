package plate

import (
	"fmt"
	"math"
	"strings"

	"tingate/core/finding"
	"tingate/core/quantity"
)

// Judge works out what follows from the row in use and what is wrong with it. Thresholds stand in docs/calc.md.
func Judge(p Plate) Result {
	res := figures(p.Kind, p.Row)
	m := judge(p.Kind, p.Row, p.Others, res)
	w := writer{p: p, r: p.Row, res: res, m: m}
	w.write()
	finding.Sort(w.list)
	res.Findings = w.list
	return res
}

type writer struct {
	p    Plate
	r    Row
	res  Result
	m    mark
	list []finding.Finding
}

func (w *writer) add(code string, s finding.Severity, field, title, action, detail string, args ...any) {
	w.list = append(w.list, finding.Finding{Code: code, Severity: s, Title: title, Detail: fmt.Sprintf(detail, args...), Action: action,
		Field: field})
}

func n(v float64) string   { return quantity.Digits(v, 4) }
func pct(v float64) string { return quantity.Digits(v*100, 3) }

const readAgain = "Read the plate again, or keep it with a reason"

func (w *writer) write() {
	w.physics()
	w.speed()
	w.power()
	w.rows()
	w.notes()
}

func (w *writer) physics() {
	r := w.r
	if w.m&valueNotPhysical != 0 {
		w.add("value-not-physical", finding.Stop, "", "A value is zero or negative", "Enter what is stamped, or leave it blank",
			"Power, volts, amperes, hertz and r/min on a plate are above zero; nothing is worked out from this one.")
	}
	if w.m&powerFactorRange != 0 {
		s, hint := finding.Look, "Usual values lie between 0.4 and 0.95."
		if r.Factor > 1 || r.Factor <= 0 {
			s, hint = finding.Stop, "cos φ lies between 0 and 1."
			if r.Factor > 20 && r.Factor < 100 {
				hint = fmt.Sprintf("cos φ lies between 0 and 1: %s in percent is %s.", n(r.Factor), n(r.Factor/100))
			}
		}
		w.add("power-factor-range", s, "power_factor", "cos φ "+n(r.Factor)+" is out of range", readAgain, "%s", hint)
	}
}

func (w *writer) speed() {
	r, res := w.r, w.res
	sync := func(p int) string { return n(120 * r.Frequency / float64(p)) }
	switch {
	case w.m&speedAtSynchronous != 0:
		w.add("speed-at-synchronous", finding.Stop, "speed", n(r.Speed)+" r/min is the synchronous speed",
			"Read the speed on the plate again",
			"An induction motor turns slower than its field: at %s Hz a plate shows a little less than %s r/min. The drive would count "+
				"no slip at all.", n(r.Frequency), n(r.Speed))
	case w.m&polesUnlikely != 0:
		most := fmt.Sprintf("at %s Hz it would take more than %d poles", n(r.Frequency), 2*mostPairs)
		if res.Poles > 0 {
			most = fmt.Sprintf("at %s Hz it would be a motor of %d poles", n(r.Frequency), res.Poles)
		}
		w.add("poles-unlikely", finding.Look, "speed", n(r.Speed)+" r/min is slow for a motor",
			"Read the speed again, or enter the poles if they are stamped",
			"%s; motors on drives have 2 to %d. A digit may be missing, or it is the speed of a gearbox's shaft: the motor's own is "+
				"wanted.", upper(most), manyPoles)
	case w.m&speedAboveSynchronous != 0:
		over := "no number of poles turns so fast"
		if res.Poles > 0 {
			near := res.Poles
			if r.Poles == 0 {
				near += 2
			}
			over = fmt.Sprintf("%d poles turn at %s r/min at most", near, sync(near))
		}
		w.add("speed-above-synchronous", finding.Stop, "speed", n(r.Speed)+" r/min is above the synchronous speed",
			"Read speed and frequency again",
			"At %s Hz %s.", n(r.Frequency), over)
	case w.m&polesDoNotFit != 0:
		if r.Poles%2 != 0 || r.Poles < 0 {
			w.add("poles-do-not-fit", finding.Stop, "poles", fmt.Sprintf("%d poles cannot be", r.Poles),
				"Enter an even number, or leave it blank", "Poles come in pairs.")
			break
		}
		w.add("poles-do-not-fit", finding.Stop, "poles", fmt.Sprintf("%d poles do not fit %s r/min", r.Poles, n(r.Speed)),
			fmt.Sprintf("Enter %d, or read the speed again", res.PolesWorkedOut),
			"At %s Hz %d poles turn just under %s r/min; %s r/min belongs to %d poles.", n(r.Frequency), r.Poles, sync(r.Poles),
			n(r.Speed), res.PolesWorkedOut)
	case w.m&speedOfOtherFrequency != 0:
		other := 110 - r.Frequency
		p := r.Poles
		if p == 0 {
			p = PolesFromSpeed(other, r.Speed)
		}
		w.add("speed-of-other-frequency", finding.Look, "speed", n(r.Speed)+" r/min belongs to "+n(other)+" Hz",
			"Take speed and frequency from one row",
			"At %s Hz the slip would be %s %%; at %s Hz %d poles turn at %s r/min and %s fits.", n(r.Frequency), pct(res.Slip), n(other),
			p, n(120*other/float64(p)), n(r.Speed))
	case w.m&slipTooHigh != 0:
		w.add("slip-too-high", finding.Look, "speed", "Slip of "+pct(res.Slip)+" % is too high", readAgain,
			"%s r/min against %s r/min synchronous. Motors of this size slip about %s %%, and the rotor alone would lose %s %% of the "+
				"shaft power.",
			n(r.Speed), n(res.SynchronousSpeed), pct(typicalSlip(orDefault(r.power(), 7500))), pct(res.Slip/(1-res.Slip)))
	case w.m&synchronousMismatch != 0 && res.Poles <= 0:
		w.add("synchronous-mismatch", finding.Stop, "speed", "Frequency and speed disagree", "Read both again",
			"A permanent-magnet motor turns at exactly 120 f / p: at %s Hz no number of poles gives %s r/min.", n(r.Frequency), n(r.Speed))
	case w.m&synchronousMismatch != 0:
		w.add("synchronous-mismatch", finding.Stop, "speed", "Frequency, poles and speed disagree", "Read all three again",
			"A permanent-magnet motor turns at exactly 120 f / p: %s Hz and %d poles give %s r/min, not %s.", n(r.Frequency), res.Poles,
			n(res.SynchronousSpeed), n(r.Speed))
	}
}

func orDefault(v, d float64) float64 {
	if has(v) && v > 0 {
		return v
	}
	return d
}

func (w *writer) power() {
	r, res := w.r, w.res
	p := r.power()
	band := fmt.Sprintf("%s %d-pole plates give %s to %s %%", kw(p), polesOr4(res.Poles), pct(res.EfficiencyLow), pct(res.EfficiencyHigh))
	if w.p.Kind == PermanentMagnet || !has(res.EfficiencyLow) {
		band = "more than 100 % cannot be, and under half is not to be expected"
	}
	ratio, low, high, _ := bounds(w.p.Kind, r, res)
	switch {
	case w.m&efficiencyOverOne != 0 && r.Efficiency > 1:
		w.add("efficiency-over-one", finding.Stop, "efficiency", "Efficiency over 100 %", "Read the efficiency again",
			"%s %% is stamped. No motor gives out more than it takes in.", pct(r.Efficiency))
	case w.m&efficiencyOverOne != 0:
		w.add("efficiency-over-one", finding.Stop, "current", "More power out than in", readAgain,
			"%s at the shaft, but V × I × √3%s is only %s kW: %s %%.", kw(p), factorText(r), n(p/ratio/1000), pct(ratio))
	case w.m&(efficiencyTooLow|efficiencyTooHigh) != 0 && r.Factor > 0 && r.Factor <= 1 && !within(ratio, low, high):
		code, side := "efficiency-too-low", "too low"
		if w.m&efficiencyTooHigh != 0 {
			code, side = "efficiency-too-high", "too high"
		}
		w.add(code, finding.Look, "current", "Power and current do not fit", readAgain,
			"An efficiency of %s %% follows, %s: %s.", pct(ratio), side, band)
	case w.m&(efficiencyTooLow|efficiencyTooHigh) != 0:
		code := "efficiency-too-low"
		if w.m&efficiencyTooHigh != 0 {
			code = "efficiency-too-high"
		}
		w.add(code, finding.Look, "efficiency", "Stamped efficiency is unusual", readAgain, "%s %% is stamped; %s.", pct(r.Efficiency),
			band)
	case w.m&currentDoesNotFit != 0:
		w.add("current-does-not-fit", finding.Look, "current", "Power and current do not fit", readAgain,
			"%s from %s kVA is a ratio of %s; plates of this size show %s to %s (efficiency times cos φ).", kw(p),
			n(res.ApparentPower/1000), n(ratio), n(low), n(high))
	}
	if w.m&currentOfOtherConnection != 0 {
		to, why := r.Current*root3, "the star row"
		if within(ratio*root3, low, high) {
			to, why = r.Current/root3, "the delta row"
		}
		w.add("current-of-other-connection", finding.Look, "current", n(r.Current)+" A looks like "+why,
			"Take volts and amperes from the row that is linked",
			"%s V with %s A would fit (factor √3 between star and delta). Either the amperes or the volts come from another row or from "+
				"the line.", n(r.Voltage), n(to))
	}
	if w.m&currentOfOtherVoltage != 0 {
		to := r.Current * 2
		if within(ratio*2, low, high) {
			to = r.Current / 2
		}
		w.add("current-of-other-voltage", finding.Look, "current", n(r.Current)+" A looks like the amperes of the other voltage",
			"Take volts and amperes from one place of the plate",
			"%s V with %s A would fit: a winding for two voltages takes twice the amperes at half the volts.", n(r.Voltage), n(to))
	}
	if w.m&powerUnit != 0 {
		given, meant, as := "kW", "hp", p/1000
		if !has(r.Power) {
			given, meant, as = "hp", "kW", p/hpW
		}
		w.add("power-unit", finding.Look, "power", fmt.Sprintf("%s may be %s, not %s", n(as), meant, given), "Check the unit on the plate",
			"Read as %s %s, the rest of the row fits.", n(as), meant)
	}
	if w.m&powersDisagree != 0 {
		w.add("powers-disagree", finding.Look, "power", "kW and hp disagree", readAgain, "%s hp is %s kW; %s kW is stamped.",
			n(r.Horsepower/hpW), n(r.Horsepower/1000), n(r.Power/1000))
	}
	if w.m&efficiencyDisagrees != 0 {
		w.add("efficiency-disagrees", finding.Look, "efficiency", "Stamped efficiency does not follow from the row", readAgain,
			"%s %% is stamped; power over √3 V I cos φ gives %s %%.", pct(r.Efficiency), pct(ratio))
	}
}

func factorText(r Row) string {
	if r.Factor > 0 && r.Factor <= 1 {
		return " × cos φ"
	}
	return ""
}

func kw(p float64) string { return n(p/1000) + " kW" }

func (w *writer) rows() {
	if w.m&rowsDisagree == 0 {
		return
	}
	for _, o := range w.p.Others {
		field := rowsMisfit(w.r, o)
		if field == "" {
			continue
		}
		what := map[string]string{
			"current": fmt.Sprintf("%s V %s A here and %s V %s A there: the currents should stand in the inverse ratio of the volts, %s "+
				"A here", n(w.r.Voltage), n(w.r.Current), n(o.Voltage), n(o.Current), n(o.Current*o.Voltage/w.r.Voltage)),
			"power": fmt.Sprintf("%s here and %s there", kw(w.r.power()), kw(o.power())),
			"speed": fmt.Sprintf("%s r/min here and %s r/min there", n(w.r.Speed), n(o.Speed)),
		}[field]
		w.add("rows-disagree", finding.Look, field, "Two rows of one winding disagree", readAgain,
			"%s. The link changes volts and amperes, not power or speed.", upper(what))
		return
	}
}

func upper(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

func (w *writer) notes() {
	if sf := w.p.ServiceFactor; has(sf) && sf != 1 && sf > 0 {
		w.add("service-factor-not-used", finding.Note, "service_factor", "Service factor is not used", "",
			"The overload is set from the plate current. The %s on the plate stays out of every setting.", n(sf))
	}
	slip := w.res.Slip
	if w.p.Kind != PermanentMagnet && w.m&(slipTooHigh|speedOfOtherFrequency|speedAboveSynchronous|polesDoNotFit) == 0 && slip > .08 &&
		slip > 1.05*typicalSlip(orDefault(w.r.power(), 7500)) {
		w.add("slip-unusual", finding.Note, "speed", "Slip of "+pct(slip)+" % is high, and can be", "",
			"Small and high-slip motors show it. Check that the last digits of the speed are read right.")
	}
	if p := w.r.power(); w.m == 0 && p > 0 && p < 550 && w.res.ApparentPower > 2.6*p {
		w.add("current-large-for-size", finding.Note, "current", "Much current for the power, and can be", "",
			"%s VA for %s W at the shaft: small motors take mostly magnetising current.", n(w.res.ApparentPower), n(p))
	}
	if math.Abs(w.r.Frequency-87) < 1 {
		w.add("row-87-hz", finding.Note, "frequency", "An 87 Hz row", "",
			"Delta on the higher supply: full torque up to 87 Hz. Insulation, bearings and drive size must allow it.")
	}
}
