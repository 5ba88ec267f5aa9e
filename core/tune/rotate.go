package tune

import (
	"math"
	"math/cmplx"
	"slices"
)

// mean gives the means of voltage and current in a frame that turns with the voltage, and of the power over the air gap.
type mean struct {
	v, i complex128
	gap  float64
	n    float64
}

func (m *mean) add(v, i complex128, rs float64) {
	e := cmplx.Conj(v) / complex(cmplx.Abs(v), 0)
	m.v += v * e
	m.i += i * e
	m.gap += 1.5 * (real(v*cmplx.Conj(i)) - rs*(real(i)*real(i)+imag(i)*imag(i)))
	m.n++
}

func (m *mean) done() (v, i complex128, gap float64) {
	k := complex(m.n, 0)
	return m.v / k, m.i / k, m.gap / m.n
}

// rotating: no load at three voltages at one frequency; what the magnetising branch takes is the reactive part behind stator
// resistance and leakage.
func (r *run) rotating(res *Result) *Failure {
	r.name = "magnetising"
	f := .8 * r.p.Frequency
	if fail := r.rampTo(f, runUp(r.p)); fail != nil {
		return fail
	}
	rated := r.p.volts() / (2 * math.Pi * r.p.Frequency) * .96 // flux over the air gap at the plate's row, about
	stands := r.vf(f)
	for _, share := range []float64{1, .85, .7} {
		u := r.vf(f) * share
		hold := func(float64) float64 { return u }
		// The voltage goes there slowly: a step would throw the flux about.
		wait := .7 + settling(r.p)/3
		slope := (u - stands) / wait * Period
		if fail := r.spin(f, f, wait, func(float64) float64 { stands += slope; return stands }, nil); fail != nil {
			return fail
		}
		if fail := r.spin(f, f, settling(r.p)/3, hold, nil); fail != nil {
			return fail
		}
		var m mean
		if fail := r.spin(f, f, .5, hold, func(_ float64, v, i complex128, _ float64) { m.add(v, i, res.Rs) }); fail != nil {
			return fail
		}
		v, i, _ := m.done()
		if a := cmplx.Abs(i); a < .05*r.p.amps() || a > 1.1*r.p.amps() {
			return &Failure{"no-load-implausible",
				"The current without load is not that of a motor of this plate: it is loaded, or plate or link are wrong."}
		}
		w := 2 * math.Pi * f
		// The sample lags the voltage's middle by half a period, in which the vector turns on.
		i *= cmplx.Rect(1, -w*Period/2)
		e := v - i*complex(res.Rs, w*res.Leakage/2)
		y := i / e
		if res.Kind == Coupled { // the rotor's branch is told from its active part, and taken away
			y -= loadBranch(real(y), w*res.Leakage/2)
		}
		lm := -1 / (w * imag(y))
		if !(lm > 0) {
			return &Failure{"no-load-implausible",
				"The current without load does not magnetise: the plate's voltage or frequency is wrong."}
		}
		res.Saturation = append(res.Saturation, Point{cmplx.Abs(e) / w / rated, lm})
	}
	slices.Reverse(res.Saturation)
	// At rated flux, between or beyond the last two.
	a, b := res.Saturation[1], res.Saturation[2]
	res.Lm = b.Lm + (1-b.Flux)*(b.Lm-a.Lm)/(b.Flux-a.Flux)
	if !(res.Lm > .3*b.Lm) || res.Lm > 2*b.Lm {
		res.Lm = b.Lm
	}
	res.Magnetising = rated / res.Lm / math.Sqrt2
	if fail := r.restore(f, stands); fail != nil {
		return fail
	}
	// With the magnetising branch known, standstill is seen through it.
	w := 2 * math.Pi * r.p.Frequency
	l := res.Leakage / 2
	zr := complex(res.Rr, w*l)
	guess := r.guessLm()
	zm := complex(res.Rs, w*l) + zr*complex(0, w*guess)/(zr+complex(0, w*guess))
	res.correct(res.Lm*1.1, w, zm) // at standstill the flux is small, the branch not saturated
	return nil
}

// loadBranch is the rotor's admittance, of which the active part g and the leakage reactance x are known.
func loadBranch(g, x float64) complex128 {
	if !(g > 0) {
		return 0
	}
	root := 1/(g*g) - 4*x*x
	if root < 0 {
		return complex(g, -g) // beyond breakdown: nothing better is known
	}
	r := (1/g + math.Sqrt(root)) / 2
	return 1 / complex(r, x)
}

// restore brings the voltage back to volts per hertz, slowly.
func (r *run) restore(f, stands float64) *Failure {
	wait := .7 + settling(r.p)/3
	slope := (r.vf(f) - stands) / wait * Period
	return r.spin(f, f, wait, func(float64) float64 { stands += slope; return stands }, nil)
}

// took is how long the brisk run up lasts, s: a quarter of the rated torque on a usual rotor.
func took(p Plate) float64 {
	rated := p.Power / (p.Speed * math.Pi / 30)
	guess := .004 * math.Pow(math.Max(p.Power, 100)/1000, 1.28)
	return math.Max(.25, math.Min(6, guess*2*math.Pi*.4*p.Frequency*2/float64(p.Poles)/(.25*rated)))
}

// inertia: up briskly between two speeds. What crosses the air gap over the synchronous speed is torque; friction and iron are
// taken from the steady speeds at both ends.
func (r *run) inertia(res *Result) *Failure {
	r.name = "inertia"
	low, high := .4*r.p.Frequency, .8*r.p.Frequency
	// Down no quicker than the motor's own losses take what the rotor gives back: the link has no resistor.
	if fail := r.rampTo(low, runUp(r.p)); fail != nil {
		return fail
	}
	pairs := float64(r.p.Poles) / 2
	steady := func(f float64) (float64, *Failure) {
		if fail := r.spin(f, f, .3+settling(r.p)/3, r.vf, nil); fail != nil {
			return 0, fail
		}
		var m mean
		fail := r.spin(f, f, .3, r.vf, func(_ float64, v, i complex128, _ float64) { m.add(v, i, res.Rs) })
		_, _, gap := m.done()
		return gap * pairs / (2 * math.Pi * f), fail
	}
	before, fail := steady(low)
	if fail != nil {
		return fail
	}
	took := took(r.p)
	sum := 0.0
	torque := func(_ float64, v, i complex128, f float64) {
		sum += Period * (1.5 * (real(v*cmplx.Conj(i)) - res.Rs*(real(i)*real(i)+imag(i)*imag(i)))) * pairs / (2 * math.Pi * f)
	}
	if fail := r.spin(low, high, took, r.vf, torque); fail != nil {
		return fail
	}
	calm := .3 + settling(r.p)/3 // the slip that the run-up has left dies away
	if fail := r.spin(high, high, calm, r.vf, torque); fail != nil {
		return fail
	}
	after, fail := steady(high)
	if fail != nil {
		return fail
	}
	r.hz = high
	loss := (before+after)/2*took + after*calm
	res.Inertia = (sum - loss) / (2 * math.Pi * (high - low) / pairs)
	res.Friction = after
	if !(res.Inertia > 0) {
		return &Failure{"inertia-implausible", "The shaft did not follow: it is held, or it is loaded."}
	}
	return nil
}
