// Package tune is how a drive identifies its motor: it applies voltages, sees sampled currents, and knows the plate that was
// entered. It sees nothing else of the machine.
package tune

import (
	"math"
	"math/cmplx"
)

// Period is how long a voltage is held between two samples, s.
const Period = 125e-6

// Subject is a motor behind a drive's power stage.
type Subject interface {
	// Apply holds a voltage vector (V, amplitude, alpha and beta) for one Period and gives the current vector (A) sampled at its
	// end. ok is false when the drive may not go on: stopped, torque off, tripped.
	Apply(alpha, beta float64) (ia, ib float64, ok bool)
}

// Plate is what was entered. Line volts, line amperes, Hz, r/min, W.
type Plate struct {
	Voltage, Current, Frequency, Speed, Power, Factor float64
	Poles                                             int
}

// Kind of a tune.
type Kind string

// The kinds.
const (
	Short      Kind = "standstill-short" // stator resistance only
	Standstill Kind = "standstill"       // and leakage and rotor resistance
	Rotating   Kind = "rotating"         // and magnetising inductance and inertia, the shaft free
	Coupled    Kind = "rotating-coupled" // the same with the load on the shaft
	Mechanical Kind = "mechanical"       // inertia only, the rest known
)

// Result is what was learnt: SI, per phase, star equivalent. NaN: not by this kind.
type Result struct {
	Kind        Kind
	Rs, Rr      float64 // Ω as warm as the machine was; Rs with the cable
	Leakage     float64 // H, both sides together
	Lm          float64 // H at rated flux
	Magnetising float64 // A rms at rated flux
	Inertia     float64 // kg·m² of everything that turned
	Friction    float64 // N·m at the fastest, friction and iron together
	Saturation  []Point // magnetising inductance over flux
}

// Point is the magnetising inductance at a share of rated flux.
type Point struct{ Flux, Lm float64 }

// Stage is what goes on, for a timeline.
type Stage struct {
	Name  string  `json:"name"`
	Heard string  `json:"heard"` // what a person at the motor hears
	Until float64 `json:"until"` // s expected from the start
}

// Failure ends a tune without a result.
type Failure struct{ Code, Text string }

func (f *Failure) Error() string { return f.Text }

// Timeline is what a kind does, with the times that a motor of a size needs.
func Timeline(k Kind, p Plate) []Stage {
	settle := settling(p)
	l := []Stage{{"stator resistance", "a soft thump, then humming", 2*settle + .7}}
	at := l[0].Until
	if k == Short {
		return l
	}
	at += 2*.8 + 1.2
	l = append(l, Stage{"leakage and rotor resistance", "a buzz at half the plate's frequency, twice, the second louder; the shaft stands",
		at})
	if k == Standstill {
		return l
	}
	at += runUp(p) + 3*(.7+settle/3+settle/3+.5) + .7 + settle/3
	l = append(l, Stage{"magnetising", "it starts, and turns at three voltages", at})
	at += runUp(p) + 2*(.6+settle/3) + took(p) + .3 + settle/3 + 2*runUp(p)
	return append(l, Stage{"inertia", "it slows down, runs up briskly, and slows down to a stop", at})
}

// run is a tune in progress.
type run struct {
	p        Plate
	m        Subject
	progress func(name string, share float64)
	name     string
	ia, ib   float64
	stopped  bool
	angle    float64
	hz       float64 // at which the shaft was left
	rs       float64 // as soon as it is known
	active   float64 // working current over rated
	slow     float64 // and its mean
	kp, ki   float64
}

// amplitude of rated current and phase voltage.
func (p Plate) amps() float64  { return p.Current * math.Sqrt2 }
func (p Plate) volts() float64 { return p.Voltage * math.Sqrt(2./3) }

// settling is how long the rotor's flux needs to follow, s: a usual rotor time constant by size, several times. Common practice.
func settling(p Plate) float64 {
	return math.Min(6, 4*.09*math.Pow(math.Max(p.Power, 200)/1000, .45))
}

// runUp is how long a run up takes without load, s: large rotors swing when they are hurried on volts per hertz.
func runUp(p Plate) float64 { return 4 * math.Max(1, math.Pow(p.Power/7500, .4)) }

// Run identifies the motor. progress, when given, is told the part that runs and the share of it that is done.
func Run(k Kind, p Plate, known *Result, m Subject, progress func(name string, share float64)) (Result, *Failure) {
	res := Result{Kind: k, Rs: math.NaN(), Rr: math.NaN(), Leakage: math.NaN(), Lm: math.NaN(), Magnetising: math.NaN(),
		Inertia: math.NaN(), Friction: math.NaN()}
	if !(p.Voltage > 0) || !(p.Current > 0) || !(p.Frequency > 0) || !(p.Speed > 0) || !(p.Power > 0) || p.Poles < 2 {
		return res, &Failure{"plate", "The plate is not entered: a tune needs power, voltage, current, frequency, speed and poles."}
	}
	if progress == nil {
		progress = func(string, float64) {}
	}
	r := &run{p: p, m: m, progress: progress}
	z := p.volts() / p.amps()
	r.kp, r.ki = .12*z, 8*z
	steps := []func(*Result) *Failure{r.stator, r.standstill, r.rotating, r.inertia}
	switch k {
	case Short:
		steps = steps[:1]
	case Standstill:
		steps = steps[:2]
	case Mechanical:
		if known == nil || !(known.Rs > 0) || !(known.Lm > 0) {
			return res, &Failure{"not-tuned", "The mechanical kind needs a tune before it."}
		}
		res = *known
		res.Kind, r.rs = k, res.Rs
		steps = steps[3:]
		if f := r.rampTo(.4*p.Frequency, runUp(p)/2); f != nil {
			return res, f
		}
	}
	for _, s := range steps {
		if f := s(&res); f != nil {
			return res, f
		}
	}
	if k == Rotating || k == Coupled || k == Mechanical {
		if f := r.rampTo(0, 2*runUp(p)); f != nil && f.Code != "stopped" {
			return res, f
		}
	}
	return res, nil
}

func (r *run) apply(a, b float64) bool {
	var ok bool
	if r.ia, r.ib, ok = r.m.Apply(a, b); !ok {
		r.stopped = true
	}
	return ok
}

func stopped() *Failure {
	return &Failure{"stopped", "It was stopped before its end: nothing was kept."}
}

// dc holds a current along alpha by a PI controller for some seconds, and gives mean voltage and current of the last part.
func (r *run) dc(target, seconds, last float64, v *float64) (volts, amps float64, f *Failure) {
	n := int(seconds / Period)
	from := n - int(last/Period)
	var sv, si float64
	for i := range n {
		e := target - r.ia
		*v += r.ki * Period * e
		u := *v + r.kp*e
		u = math.Max(-.3*r.p.volts(), math.Min(.3*r.p.volts(), u))
		if !r.apply(u, -r.kp*r.ib) {
			return 0, 0, stopped()
		}
		if i >= from {
			sv += u
			si += r.ia
		}
		if i%400 == 0 {
			r.progress(r.name, float64(i)/float64(n))
		}
	}
	m := float64(n - from)
	return sv / m, si / m, nil
}

// stator: direct current at two levels; the difference leaves out what dead time takes and what the sensors are off.
func (r *run) stator(res *Result) *Failure {
	r.name = "stator resistance"
	settle := settling(r.p)
	v := 0.0
	v1, i1, f := r.dc(.45*r.p.amps(), settle+.3, .3, &v)
	if f != nil {
		return f
	}
	v2, i2, f := r.dc(.95*r.p.amps(), settle+.4, .4, &v)
	if f != nil {
		return f
	}
	if i2-i1 < .2*r.p.amps() {
		return &Failure{"no-current", "No current flows: the motor is not connected, or a contactor or one phase of the cable is open."}
	}
	res.Rs = (v2 - v1) / (i2 - i1)
	r.rs = res.Rs
	if z := r.p.volts() / r.p.amps(); !(res.Rs > .0005*z) || res.Rs > .35*z {
		return &Failure{"stator-implausible", "The stator's resistance is not that of a motor of this plate: check plate and links."}
	}
	return nil
}

// tone applies an alternating voltage along alpha at f Hz and gives the phasors of voltage and current over the last periods.
func (r *run) tone(f, amplitude, seconds float64) (v, i complex128, fail *Failure) {
	per := int(math.Round(1 / (f * Period)))
	n := int(seconds/Period) / per * per
	from := n - (n/per*2/3)*per
	for k := range n {
		w := 2 * math.Pi * float64(k) / float64(per)
		u := amplitude * math.Sin(w) * math.Min(1, float64(k)/float64(per*8))
		if !r.apply(u, 0) {
			return 0, 0, stopped()
		}
		if math.Hypot(r.ia, r.ib) > 2.6*r.p.amps() {
			return 0, 0, &Failure{"overcurrent", "The current ran away at standstill: a short, or the wrong link."}
		}
		if k >= from {
			// The sample stands at the period's end, the voltage on its mean half a period before.
			// A smooth window keeps out the slow dying away of what the start has left in a large rotor.
			h := 1 - math.Cos(2*math.Pi*(float64(k-from)+.5)/float64(n-from))
			v += complex(u*h, 0) * cmplx.Rect(1, -2*math.Pi*(float64(k)+.5)/float64(per))
			i += complex(r.ia*h, 0) * cmplx.Rect(1, -2*math.Pi*(float64(k)+1)/float64(per))
		}
		if k%400 == 0 {
			r.progress(r.name, float64(k)/float64(n))
		}
	}
	m := complex(float64(n-from)/2, 0)
	return v / m, i / m, nil
}

// standstill: alternating current at one place of the rotor, at two levels; the difference leaves out dead time.
func (r *run) standstill(res *Result) *Failure {
	r.name = "leakage and rotor resistance"
	f := 1 / (Period * math.Round(2/(r.p.Frequency*Period))) // half the plate's: the leakage drowns the resistance less
	z := r.p.volts() / r.p.amps()
	u := .03 * r.p.volts()
	for range 10 { // to about a third of the rated current
		_, i, fail := r.tone(f, u, .4)
		if fail != nil {
			return fail
		}
		share := cmplx.Abs(i) / r.p.amps()
		if share > .26 && share < .4 {
			break
		}
		u *= math.Max(.4, math.Min(2.5, .32/math.Max(share, .01)))
	}
	v1, i1, fail := r.tone(f, u, .8)
	if fail != nil {
		return fail
	}
	v2, i2, fail := r.tone(f, u*2, .8)
	if fail != nil {
		return fail
	}
	if cmplx.Abs(i2-i1) < .05*r.p.amps() {
		return &Failure{"no-current", "No current flows at standstill: the motor is not connected."}
	}
	// The dead time's part turns with the current: the same amount against both, along each one's own direction.
	d := deadOf(v1, i1, v2, i2)
	zm := ((v2 - d*i2/complex(cmplx.Abs(i2), 0)) - (v1 - d*i1/complex(cmplx.Abs(i1), 0))) / (i2 - i1)
	w := 2 * math.Pi * f
	x := imag(zm)
	rr := real(zm) - res.Rs
	if !(x > .02*z) || !(rr > .002*z) {
		return &Failure{"leakage-implausible", "Leakage or rotor resistance is not that of a motor of this plate: check plate and links."}
	}
	// Seen from the stator both stand behind the magnetising branch: usual for the size while it is not measured.
	res.Leakage, res.Rr = x/w, rr
	res.correct(r.guessLm(), w, zm)
	return nil
}

// deadOf finds the voltage along the current that makes both levels see the same impedance.
func deadOf(v1, i1, v2, i2 complex128) complex128 {
	e1, e2 := i1/complex(cmplx.Abs(i1), 0), i2/complex(cmplx.Abs(i2), 0)
	// (v1 - d e1)/i1 = (v2 - d e2)/i2
	den := e1/i1 - e2/i2
	if cmplx.Abs(den) < 1e-9 {
		return 0
	}
	return complex(real((v1/i1-v2/i2)/den), 0)
}

// guessLm is the magnetising inductance by the plate: the reactive current that is not the load's. Common practice.
func (r *run) guessLm() float64 {
	im := r.p.amps() * math.Max(.2, math.Sin(math.Acos(math.Min(.97, math.Max(.3, r.p.Factor))))-.12)
	return r.p.volts() * .96 / (2 * math.Pi * r.p.Frequency * im)
}

// correct finds rotor resistance and leakage, alike on both sides, whose impedance at standstill behind a magnetising
// inductance is what was measured.
func (res *Result) correct(lm, w float64, zm complex128) {
	l, rr := imag(zm)/w/2, real(zm)-res.Rs
	for range 60 {
		zr := complex(rr, w*l)
		par := zr * complex(0, w*lm) / (zr + complex(0, w*lm))
		got := complex(res.Rs, w*l) + par
		rr *= math.Max(.5, math.Min(2, (real(zm)-res.Rs)/math.Max(real(par), 1e-9)))
		l *= math.Max(.5, math.Min(2, imag(zm)/imag(got)))
	}
	res.Leakage, res.Rr = 2*l, rr
}

// spin applies a rotating voltage for some seconds while the frequency goes linearly from f0 to f1, amplitude by u(f), and sums
// what each function of the last part wants.
func (r *run) spin(f0, f1, seconds float64, u func(f float64) float64, each func(t float64, v, i complex128, f float64)) *Failure {
	n := int(seconds / Period)
	for k := range n {
		f := f0 + (f1-f0)*(float64(k)+.5)/float64(n)
		turn := math.Pi * (f + r.calm(f)) * Period
		r.angle += turn
		v := cmplx.Rect(u(f), r.angle)
		r.angle += turn
		if !r.apply(real(v), imag(v)) {
			return stopped()
		}
		if math.Hypot(r.ia, r.ib) > 2.6*r.p.amps() {
			return &Failure{"overcurrent", "The current ran away while it turned: the shaft is held, or the plate is wrong."}
		}
		if each != nil {
			each(float64(k)*Period, v, complex(r.ia, r.ib), f)
		}
		if k%400 == 399 {
			r.progress(r.name, float64(k)/float64(n))
		}
		r.angle = math.Mod(r.angle, 2*math.Pi)
	}
	return nil
}

// calm gives way with the frequency, Hz, when the working current swings: a large rotor without load would swing up.
func (r *run) calm(f float64) float64 {
	s, c := math.Sincos(r.angle)
	active := (r.ia*c + r.ib*s) / r.p.amps()
	r.active += (active - r.active) * Period / .002
	r.slow += (r.active - r.slow) * Period / .08
	return -.6 * (r.p.Frequency - r.p.Speed*float64(r.p.Poles)/120) * (r.active - r.slow) * math.Min(1, math.Abs(f)/2)
}

// vf is volts per hertz with a boost that magnetises at standstill.
func (r *run) vf(f float64) float64 {
	a := math.Min(1, math.Abs(f)/r.p.Frequency)
	return r.p.volts()*a + .5*r.rs*r.p.amps()*(1-a)
}

// rampTo brings the shaft to a frequency, and waits wherever the current rises: a large rotor that swings is not hurried.
func (r *run) rampTo(f, seconds float64) *Failure {
	step := (f - r.hz) * Period / seconds
	for k := 0; math.Abs(f-r.hz) > math.Abs(step)/2; k++ {
		if math.Hypot(r.ia, r.ib) < 1.1*r.p.amps() {
			r.hz += step
		}
		if float64(k)*Period > 6*seconds {
			return &Failure{"not-up", "It takes more than rated current before it is up to speed: the shaft is held or loaded, or the " +
				"motor is linked for a lower voltage than its plate was entered for (delta where star belongs)."}
		}
		if fail := r.spin(r.hz, r.hz, Period, r.vf, nil); fail != nil {
			return fail
		}
		if k%400 == 0 {
			r.progress(r.name, math.Min(1, float64(k)*Period/seconds))
		}
	}
	r.hz = f
	return nil
}
