package plate

import "math"

// mark is one code as a bit, so that the search for misreadings can judge without writing texts.
type mark uint32

const (
	valueNotPhysical mark = 1 << iota
	speedAtSynchronous
	speedAboveSynchronous
	slipTooHigh
	polesDoNotFit
	speedOfOtherFrequency
	powerFactorRange
	efficiencyOverOne
	efficiencyTooLow
	efficiencyTooHigh
	currentOfOtherConnection
	powerUnit
	powersDisagree
	efficiencyDisagrees
	synchronousMismatch
	currentDoesNotFit
	rowsDisagree
	polesUnlikely
	currentOfOtherVoltage
)

var root3 = math.Sqrt(3)

// judge finds which codes hold for a row. It allocates nothing.
func judge(kind string, r Row, others []Row, res Result) mark {
	var m mark
	for _, v := range [...]float64{r.Power, r.Horsepower, r.Voltage, r.Current, r.Frequency, r.Speed} {
		if has(v) && !(v > 0) {
			m |= valueNotPhysical
		}
	}
	if has(r.Factor) && (r.Factor > 1 || r.Factor < .3 || kind != PermanentMagnet && r.Factor > .97) {
		m |= powerFactorRange
	}
	if kind == PermanentMagnet {
		m |= judgeSynchronous(r, res)
	} else {
		m |= judgeSpeed(r, res)
	}
	if r.Power > 0 && r.Horsepower > 0 && math.Abs(r.Power/r.Horsepower-1) > powersTolerance {
		m |= powersDisagree
	}
	m |= judgePower(kind, r, res)
	for _, o := range others {
		if rowsMisfit(r, o) != "" {
			m |= rowsDisagree
		}
	}
	return m
}

// powersTolerance allows the preferred pairs that are not exact: 4 kW beside 5 hp is 7 % apart.
const powersTolerance = .08

// judgeSynchronous: a permanent-magnet motor turns at 120 f/p exactly, within what stamping rounds away.
func judgeSynchronous(r Row, res Result) mark {
	if !(r.Frequency > 0) || !(r.Speed > 0) {
		return 0
	}
	if res.Poles <= 0 || res.Poles%2 != 0 {
		return synchronousMismatch
	}
	tol := .5
	if r.Frequency != math.Trunc(r.Frequency) {
		tol += .05 * 120 / float64(res.Poles)
	}
	if math.Abs(r.Speed-res.SynchronousSpeed) > tol {
		return synchronousMismatch
	}
	return 0
}

func judgeSpeed(r Row, res Result) mark {
	if !(r.Frequency > 0) || !(r.Speed > 0) {
		if r.Poles < 0 || r.Poles%2 != 0 {
			return polesDoNotFit
		}
		return 0
	}
	if r.Poles < 0 || r.Poles%2 != 0 {
		return polesDoNotFit
	}
	given, n := r.Poles, r.Speed
	out := PolesFromSpeed(r.Frequency, n)
	if given == 0 && (out > manyPoles || out == 0 && n < 60*r.Frequency) {
		return polesUnlikely
	}
	if given == 0 && out == 0 {
		if otherFrequencyFits(r, 0) {
			return speedOfOtherFrequency
		}
		return speedAboveSynchronous
	}
	p := given
	if p == 0 {
		p = out
	}
	sync := 120 * r.Frequency / float64(p)
	// The next slower synchronous speed, for 429 r/min typed where 428.57 is synchronous.
	next := 120 * r.Frequency / float64(p+2)
	if math.Abs(n-sync) < .5 || given == 0 && math.Abs(n-next) < .5 {
		return speedAtSynchronous
	}
	slip := (sync - n) / sync
	if slip > 0 && slipPlausible(r, res, slip) {
		return 0
	}
	if given != 0 && out != 0 && out != given {
		so := 120 * r.Frequency / float64(out)
		if s := (so - n) / so; s > .002 && s < largestSlip(r.power()) {
			return polesDoNotFit
		}
	}
	if otherFrequencyFits(r, given) {
		return speedOfOtherFrequency
	}
	if slip < 0 || given == 0 && n > next && n < next*1.03 {
		return speedAboveSynchronous
	}
	return slipTooHigh
}

// slipPlausible: below the size's limit, and the rotor's loss no more than 60 % of all losses that the row implies.
func slipPlausible(r Row, res Result, slip float64) bool {
	p := r.power()
	if slip > largestSlip(p) {
		return false
	}
	if p > 0 && has(r.Factor) && r.Factor <= 1 && has(res.Efficiency) && res.Efficiency > res.EfficiencyLow &&
		res.Efficiency < res.EfficiencyHigh && slip > .06 {
		if rotor, all := slip/(1-slip), 1/math.Max(.05, res.Efficiency-rounding(r))-1; rotor > .6*all {
			return false
		}
	}
	return true
}

func otherFrequencyFits(r Row, poles int) bool {
	f := 0.0
	switch r.Frequency {
	case 50:
		f = 60
	case 60:
		f = 50
	default:
		return false
	}
	p := poles
	if p == 0 {
		p = PolesFromSpeed(f, r.Speed)
	}
	if p == 0 {
		return false
	}
	sync := 120 * f / float64(p)
	s := (sync - r.Speed) / sync
	limit := .08
	if w := r.power(); w > 0 {
		limit = math.Min(.12, math.Max(.05, 2*typicalSlip(w)))
	}
	return s > .002 && s <= limit
}

// bounds of the ratio shaft power to apparent power (or to input power when cos φ is known) for a sound plate.
func bounds(kind string, r Row, res Result) (ratio, low, high float64, ok bool) {
	p := r.power()
	if !(p > 0) || !has(res.ApparentPower) {
		return 0, 0, 0, false
	}
	l, _, h := plausibleEfficiency(p, polesOr4(res.Poles), res.Slip)
	if kind == PermanentMagnet {
		h = 1 - (1-h)*.5
	}
	if r.Factor > 0 && r.Factor <= 1 {
		u := rounding(r)
		return p / (res.ApparentPower * r.Factor), l * (1 - u), math.Min(1, h*(1+u)), true
	}
	if r.Efficiency > 0 && r.Efficiency <= 1 {
		// cos φ follows: ratio / efficiency must be a power factor.
		f := typicalPowerFactor(p, polesOr4(res.Poles))
		hi := math.Min(.97, f+.13)
		if kind == PermanentMagnet {
			hi = 1
		}
		return p / res.ApparentPower, r.Efficiency * math.Max(.33, f-.3), r.Efficiency * hi, true
	}
	f := typicalPowerFactor(p, polesOr4(res.Poles))
	hi := math.Min(.96, f+.13)
	if kind == PermanentMagnet {
		hi = 1
	}
	return p / res.ApparentPower, l * math.Max(.33, f-.27), h * hi, true
}

func judgePower(kind string, r Row, res Result) mark {
	var m mark
	if r.Efficiency > 1 {
		m |= efficiencyOverOne
	}
	ratio, low, high, ok := bounds(kind, r, res)
	if ok {
		known := r.Factor > 0 && r.Factor <= 1
		switch {
		case ratio > 1:
			m |= efficiencyOverOne
		case ratio > high && known:
			m |= efficiencyTooHigh
		case ratio < low && known:
			m |= efficiencyTooLow
		case ratio > high || ratio < low:
			m |= currentDoesNotFit
		}
		if m&(efficiencyOverOne|efficiencyTooHigh|efficiencyTooLow|currentDoesNotFit) != 0 {
			if fitsByRoot3(ratio, low, high) {
				m |= currentOfOtherConnection
			}
			if dual(r.Voltage) && (within(ratio*2, low, high) || within(ratio/2, low, high)) {
				m |= currentOfOtherVoltage
			}
			if fitsByUnit(r, ratio, low, high) {
				m |= powerUnit
			}
		}
	}
	if r.Efficiency > 0 && r.Efficiency <= 1 {
		if ok && r.Factor > 0 && r.Factor <= 1 && ratio <= 1 && math.Abs(ratio-r.Efficiency) > .04+rounding(r)*r.Efficiency {
			m |= efficiencyDisagrees
		}
		p := r.power()
		if p > 0 && m&(efficiencyDisagrees|efficiencyTooLow|efficiencyTooHigh) == 0 {
			l, _, h := plausibleEfficiency(p, polesOr4(res.Poles), res.Slip)
			if r.Efficiency < l {
				m |= efficiencyTooLow
			} else if r.Efficiency > 1-(1-h)*.5 {
				m |= efficiencyTooHigh
			}
		}
	}
	return m
}

func within(x, low, high float64) bool { return x >= low && x <= high }

func fitsByRoot3(ratio, low, high float64) bool {
	return within(ratio*root3, low, high) || within(ratio/root3, low, high)
}

// dual tells whether a voltage is one of a pair at which windings are joined in parallel or in series: twice the volts, half the amperes.
func dual(v float64) bool {
	for _, low := range [...]float64{115, 120, 208, 220, 230, 240} {
		if math.Abs(v/low-1) < .03 || math.Abs(v/low/2-1) < .03 {
			return true
		}
	}
	return false
}

// fitsByUnit: a kW figure that is really horsepower, or a horsepower figure that is really kW.
func fitsByUnit(r Row, ratio, low, high float64) bool {
	if has(r.Power) {
		return within(ratio*hpW/1000, low, high)
	}
	return within(ratio*1000/hpW, low, high)
}

// rowsMisfit compares two rows of one winding. At the same frequency, voltages in the ratio √3 or 2 belong to one
// winding linked two ways: power and speed stay and the currents stand in the inverse ratio. Returns the field that differs.
func rowsMisfit(a, b Row) string {
	if !(a.Voltage > 0) || !(b.Voltage > 0) || a.Frequency != b.Frequency {
		return ""
	}
	ratio := a.Voltage / b.Voltage
	up := math.Max(ratio, 1/ratio)
	if math.Abs(up/root3-1) > .03 && math.Abs(up/2-1) > .03 {
		return ""
	}
	if a.Current > 0 && b.Current > 0 && math.Abs(a.Current/b.Current*ratio-1) > .05 {
		return "current"
	}
	if pa, pb := a.power(), b.power(); pa > 0 && pb > 0 && math.Abs(pa/pb-1) > .03 {
		return "power"
	}
	if a.Speed > 0 && b.Speed > 0 && math.Abs(a.Speed/b.Speed-1) > .01 {
		return "speed"
	}
	return ""
}
