package machine

import (
	"math"
	"math/cmplx"
)

// Plate is what an estimate is made from. Line volts, line amperes, W, Hz, r/min, ratios 0..1; 0: not stamped, and the
// usual value of the size stands for it.
type Plate struct {
	Power, Voltage, Current, Frequency, Speed, Factor, Efficiency float64
	Poles                                                         int
	StartCurrent, Breakdown                                       float64 // over rated
}

// Estimate is a machine that fits a plate, with the band of each value: what sound machines of that plate have.
type Estimate struct {
	Circuit
	Low, High Circuit // bands of one made by Make: only Rs, Rr, Xls, Xlr, Xm are bands
	NoLoad    float64 // A
	// Fit is the plate's row as this machine gives it at the plate's slip.
	Fit Point
}

// VectorTorque is the torque, N·m, of a machine held at rated flux with a line current of amps: what the magnetising current
// leaves makes torque.
func (e Estimate) VectorTorque(amps float64) float64 {
	flux := e.Fit.MagnetisingVolts
	magnetising := flux / e.Xm
	active := math.Sqrt(math.Max(0, amps*amps-magnetising*magnetising))
	return 3 * flux * active / e.Synchronous(e.Frequency)
}

// assumption is what a plate does not say.
type assumption struct {
	copper  float64 // share of the stator's copper in the losses that are not the rotor's
	iron    float64 // share of the iron
	split   float64 // stator's part of the leakage
	pullOut float64 // breakdown torque over rated
	slip    float64 // factor on the plate's slip
	factor  float64 // added to cos φ
}

// usual shares: IEC 60034-2-1 splits of usual machines; common practice.
var usual = assumption{copper: .5, iron: .3, split: .5, pullOut: 2.7, slip: 1}

// Make finds a machine whose current, power factor and torque at the plate's slip are the plate's. ok is false when the
// figures leave no machine (slip not above 0, efficiency or cos φ not below 1).
func Make(p Plate) (e Estimate, ok bool) {
	if e, ok = Usual(p); !ok {
		return e, false
	}
	for _, a := range doubts(p) {
		c, ok := fit(p, a)
		if !ok {
			continue
		}
		for _, x := range []struct{ low, high, v *float64 }{{&e.Low.Rs, &e.High.Rs, &c.Rs}, {&e.Low.Rr, &e.High.Rr, &c.Rr},
			{&e.Low.Xls, &e.High.Xls, &c.Xls}, {&e.Low.Xlr, &e.High.Xlr, &c.Xlr}, {&e.Low.Xm, &e.High.Xm, &c.Xm}} {
			*x.low, *x.high = math.Min(*x.low, *x.v), math.Max(*x.high, *x.v)
		}
	}
	return e, true
}

// Usual is Make without the bands, which take most of its time.
func Usual(p Plate) (e Estimate, ok bool) {
	e.Circuit, ok = fit(p, usual)
	if !ok {
		return e, false
	}
	sync := 120 * p.Frequency / float64(p.Poles)
	slip := (sync - p.Speed) / sync
	e.Fit = e.At(p.Voltage, p.Frequency, slip)
	e.NoLoad = e.At(p.Voltage, p.Frequency, 0).Current
	e.Low, e.High = e.Circuit, e.Circuit
	return e, true
}

// doubts are the corners of what the plate leaves open: shares of the losses, leakage, the tolerances of IEC 60034-1 on slip
// (±20 %), cos φ (a sixth of what it lacks, upward as much) and losses (15 %).
func doubts(p Plate) []assumption {
	var l []assumption
	pull := []float64{1.9, 4.6}
	if p.Breakdown > 0 || p.StartCurrent > 0 {
		pull = []float64{usual.pullOut * .85, usual.pullOut * 1.15}
	}
	lack := (1 - p.Factor) / 6
	for _, copper := range []float64{.28, .8} {
		for _, iron := range []float64{.1, .5} {
			if copper+iron > .97 {
				continue
			}
			for _, split := range []float64{.35, .65} {
				for _, k := range pull {
					for _, slip := range []float64{.8, 1.2} {
						for _, factor := range []float64{-lack, lack} {
							l = append(l, assumption{copper, iron, split, k, slip, factor})
						}
					}
				}
			}
		}
	}
	return l
}

// fit solves for one set of assumptions. The stator's current is the plate's phasor; what is left over the air gap splits into
// magnetising and rotor branch so that the rotor's leakage is the one that the breakdown asks for.
func fit(p Plate, a assumption) (Circuit, bool) {
	sync := 120 * p.Frequency / float64(p.Poles)
	slip := (sync - p.Speed) / sync * a.slip
	in := p.Power / p.Efficiency
	pf := math.Min(p.Factor+a.factor, .97)
	current := in / (math.Sqrt(3) * p.Voltage * pf)
	if !(slip > 0 && slip < .5) || !(in > p.Power) || !(pf > 0 && pf < 1) {
		return Circuit{}, false
	}
	losses := in - p.Power
	// Friction, iron and stator copper share what the rotor does not take: rotor loss is slip × air-gap power.
	rest := losses - slip*(p.Power+.1*losses)/(1-slip)
	if rest < .15*losses {
		rest = .15 * losses // a slip too large for the efficiency: the rounding of the plate
	}
	iron := a.iron * rest
	airgap := in - a.copper*rest - iron
	c := Circuit{Frequency: p.Frequency, Poles: p.Poles, Friction: math.Max(0, airgap*(1-slip)-p.Power)}
	c.Rs = a.copper * rest / (3 * current * current)
	target := a.pullOut
	if p.Breakdown > 0 {
		target = p.Breakdown * a.pullOut / usual.pullOut
	}
	rated := p.Power / (p.Speed * math.Pi / 30)
	solve := func(x float64) (Circuit, bool) { return c.branches(p, x, a.split, current, pf, slip, iron, airgap) }
	// More leakage, less breakdown torque: bisect the leakage, between the least that machines have (0.09 per unit in all,
	// common practice) and what the rated point can bear.
	low, high := .05*p.Voltage/current, .6*p.Voltage/current
	measure := func(k Circuit) float64 { _, t := k.Breakdown(p.Voltage, p.Frequency); return t / rated }
	if p.StartCurrent > 0 && p.Breakdown == 0 { // the starting current falls with the leakage too
		target = p.StartCurrent * a.pullOut / usual.pullOut
		measure = func(k Circuit) float64 { return k.At(p.Voltage, p.Frequency, 1).Current / current }
	}
	var best Circuit
	found := false
	for range 60 {
		x := math.Sqrt(low * high)
		k, ok := solve(x)
		if !ok {
			high = x // no machine with so much leakage stands at this point
			continue
		}
		best, found = k, true
		if measure(k) > target {
			low = x
		} else {
			high = x
		}
	}
	return best, found
}

// branches splits the current over the air gap: the stator's leakage x·split, then the magnetising reactance for which the
// rotor's leakage is x·(1−split).
func (c Circuit) branches(p Plate, x, split, current, pf, slip, iron, airgap float64) (Circuit, bool) {
	i := cmplx.Rect(current, -math.Acos(pf))
	e := complex(p.Voltage/math.Sqrt(3), 0) - i*complex(c.Rs, x*split)
	ea := cmplx.Abs(e)
	if ea <= 0 {
		return c, false
	}
	ife := complex(iron/3/ea, 0) * e / complex(ea, 0)
	// In the frame of e: the rotor takes airgap/(3 e) in phase; its quadrature follows from its leakage.
	is := (i - ife) * cmplx.Conj(e) / complex(ea, 0)
	ip := real(is)
	if ip <= 0 {
		return c, false
	}
	xr := x * (1 - split)
	// i_r = e / (r + j xr): in phase ip, lagging q with q/ip = xr/r and ip = e r/(r² + xr²).
	disc := ea*ea - 4*ip*ip*xr*xr
	if disc <= 0 {
		return c, false
	}
	r := (ea + math.Sqrt(disc)) / (2 * ip)
	lag := ip * xr / r
	im := -imag(is) - lag
	if im <= .02*current {
		return c, false
	}
	c.Xls, c.Xlr, c.Xm, c.Rr = x*split, xr, ea/im, r*slip
	if iron > 0 {
		c.Rc = ea * ea * 3 / iron
	}
	return c, true
}
