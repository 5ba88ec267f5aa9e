package supply

import (
	"fmt"
	"math"
	"sort"

	"gonum.org/v1/gonum/stat/distuv"

	"tingate/core/finding"
	"tingate/core/quantity"
)

// Reading is a voltage of the DC link at a time: seconds, volts.
type Reading struct{ T, V float64 }

// Discharge is what readings of a DC link say. Seconds are counted as the readings are; NaN where nothing can be said.
// It is never a permission: only a measurement below the limit is.
type Discharge struct {
	TimeConstant       float64 // s
	ToLimit, Low, High float64 // s: when the limit is reached, with the band of 95 %
	StartVoltage       float64 // V of the fitted curve at time 0
	Falling, Below     bool    // Below: the last reading lies at or below the limit
	Findings           []finding.Finding

	intercept, slope, chi float64
	cov                   [3]float64
	dof                   int
}

// Errors of a meter on a DC range, one standard deviation: so many volts and such a part of the reading.
const meterVolts, meterRatio = .5, .005

// rise is by how much a later reading may lie above an earlier one before it is called rising.
const rise = 1.03

// bendBand is by how much the rate of fall may change from the first to the last reading of an exponential one.
const bendBand = 1.3

// FitDischarge fits v = V₀ e^(−t/τ) to readings in any order by weighted least squares on the logarithm. A link that does
// not fall, or falls otherwise than an exponential (one that is still loaded), gets no time.
func FitDischarge(readings []Reading, limit float64) Discharge {
	d := Discharge{TimeConstant: math.NaN(), ToLimit: math.NaN(), Low: math.NaN(), High: math.NaN(), StartVoltage: math.NaN()}
	list := append([]Reading(nil), readings...)
	for i := range list {
		list[i].V = math.Abs(list[i].V) // leads the other way round
	}
	sort.SliceStable(list, func(i, j int) bool { return list[i].T < list[j].T })
	say := func(code string, s finding.Severity, title, detail, action string) {
		d.Findings = append(d.Findings, finding.Finding{Code: code, Severity: s, Title: title, Detail: detail, Action: action})
	}
	n := len(list)
	if n == 0 {
		say("too-few-readings", finding.Do, "No reading of the DC link", "Three or more, some time apart, tell how it falls.",
			"Measure between the DC terminals")
		return d
	}
	last := list[n-1]
	for i := 1; i < n; i++ {
		if list[i].T == list[i-1].T && math.Abs(list[i].V-list[i-1].V) > 3*meterError(list[i].V)+.05*list[i].V {
			say("reading-out-of-line", finding.Look, "Two readings of one time differ",
				fmt.Sprintf("%s V and %s V at %s s.", f4(list[i-1].V), f4(list[i].V), f4(list[i].T)), "Measure again")
		}
	}
	if n > 1 && last.V > list[n-2].V*rise+3*meterVolts {
		say("not-falling", finding.Stop, "The DC link does not fall",
			fmt.Sprintf("The last reading, %s V, lies above the one before, %s V: something feeds it.", f4(last.V), f4(list[n-2].V)),
			"Do not work. Find the source; call for service")
		return d
	}
	if last.V <= limit {
		d.Below, d.Falling = true, n > 1 && last.V < list[0].V
		d.ToLimit, d.Low, d.High = 0, 0, 0
		if n < 3 {
			return d
		}
	}
	list = d.fit(list, say)
	switch {
	case len(list) < 2:
		say("too-few-readings", finding.Do, "One reading tells no rate", "Three or more, some time apart, tell how it falls.",
			"Measure again after a minute")
		return d
	case !(d.slope < 0) || notFalling(list, d):
		d.TimeConstant, d.Falling = math.NaN(), false
		if !d.Below {
			say("not-falling", finding.Stop, "The DC link does not fall",
				fmt.Sprintf("%s V at first, %s V at last.", f4(list[0].V), f4(list[len(list)-1].V)),
				"Do not work. Something feeds it, or its discharge is broken: call for service")
		}
		return d
	}
	d.Falling = true
	if bend := bending(list); bend > bendBand || bend < 1/bendBand {
		d.TimeConstant, d.StartVoltage = math.NaN(), math.NaN()
		if !d.Below {
			how := "ever more slowly: the charge that is left stays longer than the first readings promise"
			if bend > 1 {
				how = "ever faster, as a link does that still feeds something; when that stops, it falls slowly"
			}
			say("not-exponential", finding.Look, "The DC link does not fall as a resistor lets it",
				"It falls "+how+". No time can be given.", "Wait, and measure until it is below the limit")
		}
		return d
	}
	d.StartVoltage = math.Exp(d.intercept)
	if d.Below {
		return d
	}
	d.limitBand(limit)
	if len(list) == 2 {
		say("too-few-readings", finding.Do, "Two readings give a rough time only", "A third shows whether it goes on falling so.",
			"Measure again")
	}
	return d
}

func f4(v float64) string { return quantity.Digits(v, 4) }

func meterError(v float64) float64 { return math.Hypot(meterVolts, meterRatio*v) }

// usable readings carry a logarithm.
func usable(list []Reading) []Reading {
	out := make([]Reading, 0, len(list))
	for _, r := range list {
		if r.V > 2*meterVolts {
			out = append(out, r)
		}
	}
	return out
}

// fit sets time constant and band; a reading far out of line with all others is told and left out. It returns what was used.
func (d *Discharge) fit(list []Reading, say func(code string, s finding.Severity, title, detail, action string)) []Reading {
	list = usable(list)
	if len(list) >= 5 {
		for i := range list {
			others := append(append([]Reading(nil), list[:i]...), list[i+1:]...)
			a, b, _, chi := line(others)
			off := math.Abs(math.Log(list[i].V) - a - b*list[i].T)
			if tol := math.Max(6*meterError(list[i].V)/list[i].V, .12); off > tol && chi < 9 {
				say("reading-out-of-line", finding.Look, "One reading is out of line",
					fmt.Sprintf("%s V at %s s; the others give %s V there.", f4(list[i].V), f4(list[i].T), f4(math.Exp(a+b*list[i].T))),
					"Was it on the right terminals and range? Measure again")
				list = others
				break
			}
		}
	}
	if len(list) < 2 || list[0].T == list[len(list)-1].T {
		return list[:min(1, len(list))]
	}
	a, b, cov, chi := line(list)
	d.intercept, d.slope = a, b
	d.TimeConstant = -1 / b
	d.cov, d.chi, d.dof = cov, math.Max(1, chi), len(list)-2
	return list
}

// notFalling tells whether the fall is no more than the meter's error.
func notFalling(list []Reading, d Discharge) bool {
	first, last := list[0], list[len(list)-1]
	return last.V > first.V-3*math.Hypot(meterError(first.V), meterError(last.V))-.01*first.V
}

// line is the weighted least squares of ln v = a + b t; cov holds var a, var b and their covariance for the meter's error,
// chi the mean square of what is left, in that error.
func line(list []Reading) (a, b float64, cov [3]float64, chi float64) {
	var s, sx, sy, sxx, sxy float64
	for _, r := range list {
		w := math.Pow(r.V/meterError(r.V), 2)
		y := math.Log(r.V)
		s, sx, sy, sxx, sxy = s+w, sx+w*r.T, sy+w*y, sxx+w*r.T*r.T, sxy+w*r.T*y
	}
	det := s*sxx - sx*sx
	a, b = (sxx*sy-sx*sxy)/det, (s*sxy-sx*sy)/det
	cov = [3]float64{sxx / det, s / det, -sx / det}
	for _, r := range list {
		w := math.Pow(r.V/meterError(r.V), 2)
		e := math.Log(r.V) - a - b*r.T
		chi += w * e * e
	}
	if n := len(list) - 2; n > 0 {
		chi /= float64(n)
	}
	return a, b, cov, chi
}

// bending is the rate of fall of the later readings over that of the earlier ones: 1 for an exponential. What the meter's
// error alone could do is taken out.
func bending(list []Reading) float64 {
	if len(list) < 3 {
		return 1
	}
	half := len(list) / 2
	early, late := list[:half+1], list[half:]
	if len(list) == 3 {
		early, late = list[:2], list[1:]
	}
	_, b1, c1, _ := line(early)
	_, b2, c2, _ := line(late)
	if math.Abs(b2-b1) < 3*math.Sqrt(c1[1]+c2[1]) {
		return 1
	}
	if b1 >= 0 {
		return math.Inf(1)
	}
	return math.Max(0, b2/b1)
}

// limitBand is the time of the limit with its band of 95 %: the fit's own error, or the meter's where that is larger.
func (d *Discharge) limitBand(limit float64) {
	t := (math.Log(limit) - d.intercept) / d.slope
	variance := d.chi * (d.cov[0] + 2*t*d.cov[2] + t*t*d.cov[1]) / (d.slope * d.slope)
	k := 3.0
	switch {
	case d.dof > 0 && d.chi <= 1:
		k = 2 // what is left is no more than the meter's own error, which is known
	case d.dof > 0:
		k = distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(d.dof)}.Quantile(.975)
	}
	spread := k * math.Sqrt(variance)
	d.ToLimit, d.Low, d.High = t, math.Max(0, t-spread), t+spread
}
