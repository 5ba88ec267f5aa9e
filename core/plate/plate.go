// Package plate reads a motor plate as an engineer does: works out what is not stamped, checks each figure
// against the others, and says which likely misreading would explain a misfit.
package plate

import (
	"math"

	"tingate/core/finding"
	"tingate/core/quantity"
)

// Missing marks a value that is not on the plate.
var Missing = math.NaN()

func has(v float64) bool { return !math.IsNaN(v) }

// Kinds of motor.
const (
	Induction       = "induction"
	PermanentMagnet = "permanent-magnet"
)

// Row is one row of a plate. Line-to-line volts, line amperes, hertz, r/min; shaft power in watts; ratios 0..1.
// Missing values are NaN. Poles 0 means not stamped.
type Row struct {
	Connection string
	Power      float64 // as stamped in kW or W, in watts
	Horsepower float64 // as stamped in horsepower, in watts
	Voltage    float64
	Current    float64
	Frequency  float64
	Speed      float64
	Factor     float64
	Efficiency float64
	Poles      int
}

// EmptyRow is a row on which nothing is stamped.
func EmptyRow() Row {
	return Row{Power: Missing, Horsepower: Missing, Voltage: Missing, Current: Missing, Frequency: Missing, Speed: Missing,
		Factor: Missing, Efficiency: Missing}
}

// Plate is a whole plate: the row in use and the rows beside it.
type Plate struct {
	Kind          string
	ServiceFactor float64
	Row           Row
	Others        []Row
}

// Result is what follows from the row in use. NaN: cannot be worked out.
type Result struct {
	Poles, PolesWorkedOut           int
	SynchronousSpeed, SlipSpeed     float64 // r/min
	Slip                            float64 // 0..1
	Torque                          float64 // N·m
	InputPower, ApparentPower       float64 // W, VA
	Efficiency                      float64 // 0..1, implied by V, I and cos φ, else stamped
	EfficiencyLow, EfficiencyHigh   float64 // 0..1, what a sound plate of this size shows
	PowerFactor                     float64
	NoLoadCurrentLow, NoLoadCurrent float64 // A; the band in which the no-load current is expected
	Findings                        []finding.Finding
}

// mostPairs of poles that a speed is read as; manyPoles is above what induction motors on drives are built with. Common practice.
const (
	mostPairs = 60
	manyPoles = 24
)

// PolesFromSpeed is the largest even number of poles whose synchronous speed 120 f/p lies above the speed
// (r/min) at the frequency (Hz); at a synchronous speed exactly, that speed's. 0 when the speed is above 120 f/2.
// IEC 60034-1: synchronous speed.
func PolesFromSpeed(frequency, speed float64) int {
	if !(frequency > 0) || !(speed > 0) || speed > 60*frequency {
		return 0
	}
	pairs := math.Floor(60 * frequency / speed * (1 + 1e-12))
	if pairs > mostPairs {
		return 0
	}
	return 2 * int(pairs)
}

func (r Row) power() float64 {
	if has(r.Power) {
		return r.Power
	}
	return r.Horsepower
}

// figures works out the numbers without judging. It allocates nothing: the search for misreadings calls it hundreds of times.
func figures(kind string, r Row) Result {
	res := Result{SynchronousSpeed: Missing, SlipSpeed: Missing, Slip: Missing, Torque: Missing, InputPower: Missing,
		ApparentPower: Missing,
		Efficiency:    Missing, EfficiencyLow: Missing, EfficiencyHigh: Missing, PowerFactor: r.Factor, NoLoadCurrentLow: Missing,
		NoLoadCurrent: Missing}
	if kind == PermanentMagnet {
		if pairs := math.Round(60 * r.Frequency / r.Speed); r.Frequency > 0 && r.Speed > 0 && pairs <= mostPairs {
			res.PolesWorkedOut = 2 * int(pairs)
		}
	} else {
		res.PolesWorkedOut = PolesFromSpeed(r.Frequency, r.Speed)
	}
	res.Poles = res.PolesWorkedOut
	if r.Poles != 0 {
		res.Poles = r.Poles
	}
	if res.Poles > 0 && r.Frequency > 0 {
		res.SynchronousSpeed = 120 * r.Frequency / float64(res.Poles)
		if r.Speed > 0 && kind != PermanentMagnet { // a synchronous machine has none
			res.SlipSpeed = res.SynchronousSpeed - r.Speed
			res.Slip = res.SlipSpeed / res.SynchronousSpeed
		}
	}
	p := r.power()
	if p > 0 && r.Speed > 0 {
		res.Torque = p / (r.Speed * 2 * math.Pi / 60)
	}
	if r.Voltage > 0 && r.Current > 0 {
		res.ApparentPower = math.Sqrt(3) * r.Voltage * r.Current
		if r.Factor > 0 {
			res.InputPower = res.ApparentPower * r.Factor
			if p > 0 {
				res.Efficiency = p / res.InputPower
			}
		}
	}
	if !has(res.Efficiency) && r.Efficiency > 0 {
		res.Efficiency = r.Efficiency
		if p > 0 && !has(res.InputPower) {
			res.InputPower = p / r.Efficiency
			if has(res.ApparentPower) && !has(r.Factor) {
				res.PowerFactor = res.InputPower / res.ApparentPower
			}
		}
	}
	if kind != PermanentMagnet {
		if p > 0 {
			res.EfficiencyLow, _, res.EfficiencyHigh = plausibleEfficiency(p, polesOr4(res.Poles), res.Slip)
		}
		res.NoLoadCurrentLow, res.NoLoadCurrent = noLoadBand(r, res)
	}
	return res
}

func polesOr4(p int) int {
	if p <= 0 {
		return 4
	}
	return p
}

// noLoadBand estimates the no-load current from the plate's reactive current less what the leakage takes:
// I0 = I (sin φ − x cos φ), x from 0.04 (breakdown torque above four times rated) to 0.27 (below twice).
// It follows from the circle of the stator current; checked against published machines. Without cos φ the usual
// share of the rated current by size is taken, with a wider band.
func noLoadBand(r Row, res Result) (low, high float64) {
	if !(r.Current > 0) {
		return Missing, Missing
	}
	f := res.PowerFactor
	if has(f) && f > 0 && f <= 1 {
		s := math.Sqrt(1 - f*f)
		low, high = s-.27*f, s-.04*f
		if low < .12 {
			low = .12
		}
		if high < .2 {
			high = .2
		}
		if p := r.power(); p > 0 && p < 550 {
			high = math.Min(high+.1, 1)
		}
		return low * r.Current, high * r.Current
	}
	low, high = .2, .45
	switch p := r.power(); {
	case !has(p):
		low, high = .2, .9
	case p < 550:
		low, high = .45, .95
	case p < 4000:
		low, high = .35, .75
	case p < 15000:
		low, high = .27, .6
	}
	if res.Poles > 4 {
		low, high = low+.05, math.Min(1, high+.1)
	}
	return low * r.Current, high * r.Current
}

// halfDigit is half of the last digit shown, relative, for a value written with its shortest decimals, one more decimal at most.
func halfDigit(v, coarsest float64) float64 { return coarsest / 2 / v }

// rounding is the relative uncertainty of an implied efficiency from the usual stamping of current (three digits at
// most) and cos φ (two decimals).
func rounding(r Row) float64 {
	u := 0.0
	if r.Factor > 0 {
		u += halfDigit(r.Factor, .01)
	}
	if r.Current > 0 {
		step := math.Pow10(int(math.Floor(math.Log10(r.Current))) - 1)
		u += halfDigit(r.Current, math.Min(step, .1))
	}
	return u
}

const hpW = quantity.MechanicalHorsepowerW
