package machine

import (
	"context"
	"math"

	"tingate/core/motion"
)

// Profile is one knot of a frequency over time, linear in between.
type Profile struct{ Time, Hz float64 }

// Supply is what a transient run is fed from: Profile empty: the line, switched on at full voltage; otherwise volts per hertz.
type Supply struct {
	Volts   float64 // line, rms, at the rated frequency
	Hz      float64 // rated
	Boost   float64 // line volts at 0 Hz
	Profile []Profile
}

// at is amplitude of a phase (V) and frequency (Hz) at a time.
func (s Supply) at(t float64) (u, f float64) {
	v := s.Volts
	f = s.Hz
	if len(s.Profile) > 0 {
		f = between(s.Profile, t)
		v = math.Min(s.Volts, s.Boost+(s.Volts-s.Boost)*math.Abs(f)/s.Hz)
	}
	return v * math.Sqrt(2./3), f
}

func between(l []Profile, t float64) float64 {
	if t <= l[0].Time {
		return l[0].Hz
	}
	for i := 1; i < len(l); i++ {
		if a, b := l[i-1], l[i]; t < b.Time {
			return a.Hz + (b.Hz-a.Hz)*(t-a.Time)/(b.Time-a.Time)
		}
	}
	return l[len(l)-1].Hz
}

// Moment is one sample of a transient: r/min, N·m of the air gap, A rms of the vector.
type Moment struct{ Time, Speed, Torque, Current float64 }

// Transient is a run from rest with the rotor free.
type Transient struct {
	Samples                 []Moment
	PeakCurrent, PeakTorque float64 // A amplitude of the vector; N·m
	Near                    float64 // s to 95 % of the synchronous speed at the rated frequency; NaN: never
	Final                   Moment
	Diverged                bool
	Stopped                 bool // it was ended before its time
}

// Run turns a machine from rest for a time (s), sampled each sample (s); inertia in kg·m². Steps follow the fastest that the
// machine and the supply do. Krause, Analysis of Electric Machinery and Drive Systems: the flux linkages are the states.
// A run that ends because ctx does is Stopped.
func (m Induction) Run(ctx context.Context, s Supply, load motion.Load, friction, inertia, duration, sample float64) Transient {
	k := m.Invert()
	n := m.perSample(s, sample)
	h := sample / n
	out := Transient{Near: math.NaN()}
	var x Flux
	sync := 2 * math.Pi * s.Hz / m.Pairs
	count := int(math.Round(duration / sample))
	take := func(t float64) Moment {
		i := k.Currents(x)
		return Moment{t, x.W * 30 / math.Pi, k.AirgapTorque(x), math.Hypot(i.Ds, i.Qs) / math.Sqrt2}
	}
	for i := 0; i <= count; i++ {
		if ctx.Err() != nil {
			out.Stopped = true
			return out
		}
		now := take(float64(i) * sample)
		out.Samples = append(out.Samples, now)
		out.Final = now
		if i == count {
			break
		}
		for j := range int(n) {
			t := float64(i)*sample + float64(j)*h
			u, f := s.at(t + h/2)
			x = stick(&k, x, u, 2*math.Pi*f, h, 1/inertia, load, friction)
			cur := k.Currents(x)
			out.PeakCurrent = math.Max(out.PeakCurrent, math.Hypot(cur.Ds, cur.Qs))
			out.PeakTorque = math.Max(out.PeakTorque, math.Abs(k.AirgapTorque(x)))
			if math.IsNaN(out.Near) && x.W >= .95*sync {
				out.Near = t + h
			}
		}
		if !(math.Abs(x.W) < 1e6) || !(math.Abs(x.Ds) < 1e9) {
			out.Diverged = true
			return out
		}
	}
	return out
}

// perSample is how many steps a run takes from one sample to the next.
func (m Induction) perSample(s Supply, sample float64) float64 {
	k := m.Invert()
	top := 2 * math.Pi * s.Hz
	for _, p := range s.Profile {
		top = math.Max(top, 2*math.Pi*math.Abs(p.Hz))
	}
	fast := math.Max(k.SA+k.RC, 2*top) // 1/s, the sum bounds both decays
	return math.Max(1, math.Ceil(sample*fast/.05))
}

// Steps is how many steps a run takes in all: what it costs.
func (m Induction) Steps(s Supply, duration, sample float64) float64 {
	return m.perSample(s, sample) * math.Round(duration/sample)
}

// stick is one step in which friction can hold the shaft at rest, and stops it rather than turning it round.
func stick(k *Inverse, x Flux, u, wf, h, invJ float64, load motion.Load, friction float64) Flux {
	if x.W == 0 && load.Holds(k.AirgapTorque(x)) {
		next, _, _ := k.Hold(x, u, 0, wf, h, 0, Drag{})
		next.W = 0
		return next
	}
	w := x.W
	if w == 0 {
		w = math.Copysign(1e-9, k.AirgapTorque(x))
	}
	t, slope := load.At(w)
	next, _, _ := k.Hold(x, u, 0, wf, h, invJ, Drag{T0: t + friction*w, W0: w, Slope: slope + friction})
	if x.W != 0 && next.W*x.W < 0 && load.Holds(k.AirgapTorque(next)) {
		next.W = 0
	}
	return next
}
