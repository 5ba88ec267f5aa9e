package plate

import "math"

// Efficiency classes IE1 and IE4 at 50 Hz, percent, for 2, 4, 6 and 8 poles.
// Source: IEC 60034-30-1:2014, tables for IE1 and IE4, from memory; only used to bound what is plausible.
var efficiencyClasses = []struct {
	kw       float64
	ie1, ie4 [4]float64
}{
	{.12, [4]float64{45.0, 50.0, 38.3, 31.0}, [4]float64{66.5, 69.8, 64.9, 59.5}},
	{.18, [4]float64{52.8, 57.0, 45.5, 38.0}, [4]float64{70.8, 74.7, 70.1, 64.0}},
	{.37, [4]float64{63.9, 66.0, 59.7, 49.7}, [4]float64{78.1, 81.1, 78.0, 72.0}},
	{.75, [4]float64{72.1, 72.1, 70.0, 61.2}, [4]float64{83.5, 85.7, 82.7, 78.4}},
	{1.5, [4]float64{77.2, 77.2, 75.2, 70.2}, [4]float64{86.5, 88.2, 85.9, 82.6}},
	{3, [4]float64{81.5, 81.5, 79.7, 77.0}, [4]float64{89.1, 90.4, 88.6, 85.9}},
	{5.5, [4]float64{84.7, 84.7, 83.1, 81.4}, [4]float64{90.9, 91.9, 90.5, 88.3}},
	{7.5, [4]float64{86.0, 86.0, 84.7, 83.1}, [4]float64{91.7, 92.6, 91.3, 89.3}},
	{15, [4]float64{88.7, 88.7, 87.7, 86.2}, [4]float64{93.3, 93.9, 92.9, 91.2}},
	{30, [4]float64{90.7, 90.7, 90.2, 88.3}, [4]float64{94.5, 94.9, 94.2, 92.7}},
	{75, [4]float64{92.7, 92.7, 92.6, 90.3}, [4]float64{95.6, 96.0, 95.4, 94.2}},
	{200, [4]float64{94.0, 94.0, 94.0, 92.5}, [4]float64{96.5, 96.7, 96.3, 95.4}},
	{1000, [4]float64{94.0, 94.0, 94.0, 92.5}, [4]float64{96.5, 96.7, 96.6, 95.4}},
	{5000, [4]float64{94.0, 94.0, 94.0, 92.5}, [4]float64{98.0, 98.0, 98.0, 97.5}}, // beyond the standard; common practice
}

// ClassEfficiency returns the efficiency (0..1) of classes IE1 and IE4 for a shaft power in watts, interpolated
// over the logarithm of power; below 0.12 kW the losses grow on at the slope of the first two rows.
func ClassEfficiency(powerW float64, poles int) (ie1, ie4 float64) {
	col := min(max(poles/2-1, 0), 3)
	kw := math.Max(powerW/1000, 1e-4)
	t := efficiencyClasses
	i := 1
	for i < len(t)-1 && kw > t[i].kw {
		i++
	}
	x := math.Log(kw/t[i-1].kw) / math.Log(t[i].kw/t[i-1].kw)
	at := func(a, b float64) float64 {
		// Interpolate the ratio loss to output, which never leaves physics when extended.
		la, lb := math.Log(100/a-1), math.Log(100/b-1)
		return 1 / (1 + math.Exp(la+(lb-la)*math.Min(x, 1)))
	}
	return at(t[i-1].ie1[col], t[i].ie1[col]), at(t[i-1].ie4[col], t[i].ie4[col])
}

// plausibleEfficiency bounds the efficiency of a sound induction motor plate. The lower bound allows old and
// special motors 40 % more loss than IE1 (75 % below 0.75 kW) and the extra rotor loss of a high slip; the upper
// one a quarter less loss than IE4. typical lies between the classes. Thresholds are ours, stated in docs/calc.md.
func plausibleEfficiency(powerW float64, poles int, slip float64) (low, typical, high float64) {
	ie1, ie4 := ClassEfficiency(powerW, poles)
	spread := 1.40
	if powerW < 750 {
		spread = 1.75
	}
	if poles > 8 {
		spread += .08 * float64(poles-8)
	}
	lossLow := (1/ie1 - 1) * spread
	if extra := slip/(1-slip) - typicalSlip(powerW); has(slip) && slip < .5 && extra > 0 {
		lossLow += extra
	}
	lossTyp := math.Sqrt((1/ie1 - 1) * (1/ie4 - 1))
	return 1 / (1 + lossLow), 1 / (1 + lossTyp), 1 / (1 + .75*(1/ie4-1))
}

// typicalSlip is the usual full-load slip (0..1) of a squirrel-cage motor of this size: about 10 % at 0.18 kW,
// 3 % at 7.5 kW, 1 % at 200 kW. Common practice.
func typicalSlip(powerW float64) float64 {
	return math.Min(.15, .03*math.Pow(math.Max(powerW, 10)/7500, -.33))
}

// largestSlip is the slip beyond which a plate is looked at again, whatever the efficiency says.
// High-slip designs reach 13 % up to large sizes (NEMA MG 1 design D: 5 % and more).
func largestSlip(powerW float64) float64 {
	if !has(powerW) {
		return .25
	}
	return math.Max(.135, math.Min(.25, 2.2*typicalSlip(powerW)))
}

// typicalPowerFactor at rated load by size and poles. Common practice.
func typicalPowerFactor(powerW float64, poles int) float64 {
	pf := .83 + .055*math.Log10(math.Max(powerW, 10)/7500)
	if powerW < 7500 {
		pf = .83 + .085*math.Log10(math.Max(powerW, 10)/7500)
	}
	switch {
	case poles == 2:
		pf += .04
	case poles > 4:
		pf -= .03 * float64(poles-4) / 1.2
	}
	return math.Max(.4, math.Min(.92, pf))
}

// Usual is the power factor and the efficiency (0..1) of a sound motor of a size, for what a plate does not say.
func Usual(powerW float64, poles int, slip float64) (factor, efficiency float64) {
	_, efficiency, _ = plausibleEfficiency(powerW, poles, slip)
	return typicalPowerFactor(powerW, poles), efficiency
}
