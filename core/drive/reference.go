package drive

import (
	"math"

	"tingate/core/machine"
)

// Reference is one averaged drive, one machine, one load: a run of 10 s that programs of this kind are held against. The
// frequency rises to FN in 5 s, holds to 7 s, and falls to 0 at 10 s.
type Reference struct {
	Motor    machine.Induction
	J        float64 // kg·m², motor and load
	Fan, Dry float64 // N·m/(rad/s)², N·m
	FN       float64 // Hz
	Vpk, B0  float64 // V amplitude of a phase at FN; share of it at 0 Hz
	V0       float64 // V
	Bus      Bus
	Cth, Gth float64 // J/K, W/K
}

// State is where a reference run stands.
type State struct {
	X     machine.Flux
	V     float64 // DC link, V
	T     float64 // winding over ambient, K
	Angle float64 // of the frame, rad; not needed by anything
}

// Sample is one moment of a run.
type Sample struct{ Time, Speed, Current, Torque, Bus float64 }

// Runtime is how long a reference run lasts, s.
const Runtime = 10

// profile is the frequency asked for, Hz.
func (r *Reference) profile(t float64) float64 {
	switch {
	case t < 5:
		return r.FN * t / 5
	case t <= 7:
		return r.FN
	}
	return r.FN * max(0, 10-t) / 3
}

// amplitude is what volts per hertz asks for at a frequency, limited softly by the link.
func (r *Reference) amplitude(f, v float64) float64 {
	vc := r.Vpk * (r.B0 + (1-r.B0)*f/r.FN)
	vm := v * (1 / 1.7320508075688772)
	return vm - ramp(vm-vc, 2)
}

// drag is the load about a speed: a fan, and dry friction with a smooth sign.
func (r *Reference) drag(w float64) machine.Drag {
	u := w * .5
	d := machine.Drag{W0: w, T0: r.Fan * w * math.Abs(w), Slope: 2 * r.Fan * math.Abs(w)}
	switch {
	case u >= 1:
		d.T0 += r.Dry
	case u <= -1:
		d.T0 -= r.Dry
	default:
		d.T0 += r.Dry * .5 * u * (3 - u*u)
		d.Slope += r.Dry * .75 * (1 - u*u)
	}
	return d
}

func (r *Reference) sample(k *machine.Inverse, t float64, s *State) Sample {
	i := k.Currents(s.X)
	return Sample{t, s.X.W, math.Hypot(i.Ds, i.Qs), k.AirgapTorque(s.X), s.V}
}

// warm moves the winding's temperature over 10 ms; it feeds nothing back and stays out of the inner steps.
func (r *Reference) warm(k *machine.Inverse, s *State, h float64) {
	i := k.Currents(s.X)
	loss := 1.5 * (r.Motor.Rs*(i.Ds*i.Ds+i.Qs*i.Qs) + r.Motor.Rr*(i.Dr*i.Dr+i.Qr*i.Qr))
	s.T += h * (loss - r.Gth*s.T) / r.Cth
}

// Held runs volts per hertz evaluated each millisecond, voltage and frequency held in between. take is given every sample,
// each millisecond from 0 to 10 s; nil for none. It allocates nothing. The count is of machine steps.
func (r *Reference) Held(take func(Sample)) (end State, steps int) {
	const h = 1e-3
	k, bus := r.Motor.Invert(), r.Bus.link()
	s := State{V: r.V0}
	invJ := 1 / r.J
	for n := range 10000 {
		t := float64(n) * h
		if take != nil {
			take(r.sample(&k, t, &s))
		}
		f := r.profile(t)
		u := r.amplitude(f, s.V)
		id := k.A*s.X.Ds - k.B*s.X.Dr
		next, mid, _ := k.Hold(s.X, u, 0, 2*math.Pi*f, h, invJ, r.drag(s.X.W))
		s.V = bus.tick(s.V, 1.5*u*id, 1.5*u*mid, 1.5*u*(k.A*next.Ds-k.B*next.Dr), h)
		s.X = next
		if steps++; steps%10 == 0 {
			r.warm(&k, &s, 10*h)
		}
	}
	if take != nil {
		take(r.sample(&k, Runtime, &s))
	}
	return s, steps
}

// Continuous runs volts per hertz evaluated at every moment, by Runge-Kutta of the whole state in steps of 1/n ms.
func (r *Reference) Continuous(n int, take func(Sample)) (end State, steps int) {
	h := 1e-3 / float64(n)
	k, bus := r.Motor.Invert(), r.Bus.link()
	s := State{V: r.V0}
	for tick := range 10000 {
		if take != nil {
			take(r.sample(&k, float64(tick)*1e-3, &s))
		}
		for i := range n {
			t := float64(tick)*1e-3 + float64(i)*h
			r.step(&k, &bus, &s, t, h)
			steps++
		}
		if tick%10 == 9 {
			r.warm(&k, &s, 1e-2)
		}
	}
	if take != nil {
		take(r.sample(&k, Runtime, &s))
	}
	return s, steps
}

// rate is the derivative of the whole state but heat.
func (r *Reference) rate(k *machine.Inverse, bus *link, x machine.Flux, v, t float64) (machine.Flux, float64) {
	f := r.profile(t)
	u, wf := r.amplitude(f, v), 2*math.Pi*f
	slip := wf - k.Pairs*x.W
	d := machine.Flux{
		Ds: u - k.SA*x.Ds + k.SB*x.Dr + wf*x.Qs, Qs: -k.SA*x.Qs + k.SB*x.Qr - wf*x.Ds,
		Dr: k.RB*x.Ds - k.RC*x.Dr + slip*x.Qr, Qr: k.RB*x.Qs - k.RC*x.Qr - slip*x.Dr,
		W: (k.AirgapTorque(x) - r.drag(x.W).T0) / r.J,
	}
	i, _ := bus.net(v)
	return d, (i - 1.5*u*(k.A*x.Ds-k.B*x.Dr)/v) * bus.ic
}

func along(x machine.Flux, h float64, d machine.Flux) machine.Flux {
	return machine.Flux{Ds: x.Ds + h*d.Ds, Qs: x.Qs + h*d.Qs, Dr: x.Dr + h*d.Dr, Qr: x.Qr + h*d.Qr, W: x.W + h*d.W}
}

func (r *Reference) step(k *machine.Inverse, bus *link, s *State, t, h float64) {
	a, va := r.rate(k, bus, s.X, s.V, t)
	b, vb := r.rate(k, bus, along(s.X, h/2, a), s.V+h/2*va, t+h/2)
	c, vc := r.rate(k, bus, along(s.X, h/2, b), s.V+h/2*vb, t+h/2)
	d, vd := r.rate(k, bus, along(s.X, h, c), s.V+h*vc, t+h)
	s.X = along(along(along(along(s.X, h/6, a), h/3, b), h/3, c), h/6, d)
	s.V += h / 6 * (va + 2*vb + 2*vc + vd)
}
