package drive

import "math"

// periodSteps is how many steps a period of the mains is taken in: a twelfth of a millisecond at 50 Hz, short against what charges the
// capacitor. Thirds of a period are whole steps.
const periodSteps = 240

// wave is a period of the mains.
var wave = func() (w [periodSteps]float64) {
	for n := range w {
		w[n] = math.Cos(2 * math.Pi * float64(n) / periodSteps)
	}
	return w
}()

// Mains is what a load makes of line and link within a period of the mains.
type Mains struct {
	Mean   float64    // of the link, V
	Ripple float64    // of the link, V from top to bottom
	Lines  [3]float64 // A rms of L1, L2 and L3
	Caps   float64    // A rms of the capacitor
}

// rectifier is a bridge of six diodes (of four: Single) behind resistances, with a capacitor and a load of constant power.
type rectifier struct {
	volts      [3]float64 // amplitude of each phase against the star point, V; a phase that is away is NaN
	hz         float64
	ohms, c, v float64 // Ω of source and overlap together; F; V of the link
	power      float64 // W
}

// period runs one period of the mains, the link's voltage by the implicit Euler step: whatever conducts is stiff against the step.
func (r *rectifier) period() Mains {
	var m Mains
	h := 1 / (r.hz * periodSteps)
	low, high := math.Inf(1), math.Inf(-1)
	g, hc := 1/r.ohms, h/r.c
	behind := 1 / (1 + hc*g)
	at := [3]int{0, periodSteps - periodSteps/3, periodSteps - 2*periodSteps/3}
	for range periodSteps {
		top, bottom, from, to := math.Inf(-1), math.Inf(1), -1, -1
		for p, a := range r.volts {
			e := a * wave[at[p]]
			if at[p]++; at[p] == periodSteps {
				at[p] = 0
			}
			if e > top { // what is away is neither above nor below
				top, from = e, p
			}
			if e < bottom {
				bottom, to = e, p
			}
		}
		v := max(r.v, 1)
		out := r.power / v
		next := v - hc*out
		amps := 0.
		if open := top - bottom; from != to && open > next {
			next = (v + hc*(open*g-out)) * behind
			amps = max(0, (open-next)*g)
			m.Lines[from] += amps * amps
			m.Lines[to] += amps * amps
		}
		m.Caps += (amps - out) * (amps - out)
		r.v = max(1, next)
		m.Mean += r.v
		low, high = min(low, r.v), max(high, r.v)
	}
	for p := range m.Lines {
		m.Lines[p] = math.Sqrt(m.Lines[p] / periodSteps)
	}
	m.Mean, m.Caps, m.Ripple = m.Mean/periodSteps, math.Sqrt(m.Caps/periodSteps), high-low
	return m
}

// steady is a period after the link has come to rest.
func (r *rectifier) steady() Mains {
	var m Mains
	for range 4 {
		m = r.period()
	}
	return m
}

// mains is the drive's own rectifier, as whole as it is.
func (d *Drive) mains() rectifier {
	b := &d.P.Broken
	// The averaged link (Bus) gives a bridge's mean voltage; what is behind it has that voltage as its mean.
	amp := d.P.Link.Open * math.Pi / (3 * math.Sqrt(3)) * (1 - b.Sag)
	r := rectifier{volts: [3]float64{amp, amp, amp * (1 - b.Unbalance)}, hz: d.P.Hz, ohms: d.P.Link.Resistance, c: d.P.Link.C,
		v: d.P.Link.Open * (1 - b.Sag), power: max(0, d.Power) + d.own() + d.resistorWatts()}
	if !(r.hz > 0) {
		r.hz = 50
	}
	if d.P.Single { // between two leads, with the peak that the averaged link is made for
		one := d.P.Link.Open / (.95 * math.Sqrt(3)) * (1 - b.Sag)
		r.volts = [3]float64{one, one, math.NaN()}
	} else if b.PhaseLost {
		r.volts[2] = math.NaN()
	}
	return r
}

// Mains is what a clamp meter and an oscilloscope would show at line and link at the present load; nothing where the mains is off.
func (d *Drive) Mains() Mains {
	if !d.Powered || d.v > d.P.Link.Open*1.02 { // the bridge blocks while the motor feeds the link
		return Mains{Mean: d.v}
	}
	r := d.mains()
	return r.steady()
}

// uneven follows a link behind an uneven mains, by the load of the last tenth of a second: the ripple that the drive sees, and what is left
// of the averaged link's open voltage.
func (d *Drive) uneven(b *Bus) {
	r := d.mains()
	d.drawn += (r.power - d.drawn) * .1
	r.power = d.drawn
	if s := &d.seen; s.left > 0 && s.of == d.P.Broken && math.Abs(r.power-s.power) < sameLoad*s.power {
		s.left--
	} else {
		if d.rippled.Mean > 0 {
			r.v = d.rippled.Mean
		}
		r.period()
		d.rippled = r.period()
		d.seen = unevenSeen{r.power, looksAgain, d.P.Broken}
	}
	b.Open = min(b.Open, d.rippled.Mean+b.Resistance*r.power/d.rippled.Mean)
}

// unevenSeen is for what the ripple was worked out last: it is, until the load is another, or the link has come nearer to its rest.
type unevenSeen struct {
	power float64
	left  int
	of    Broken
}

// A load that is another by less than this share has the same ripple; it is worked out anew after so many hundredths of a second.
const (
	sameLoad   = .02
	looksAgain = 10
)

// phaseSeen is the ripple over the link's voltage from which a drive takes a line phase for lost, and how long it looks at it, s. Common
// practice.
const (
	phaseSeen   = .1
	phaseLooked = 2.
)

// phases sees a lost or uneven input phase by the ripple that the load makes of it.
func (d *Drive) phases(h float64) {
	if d.P.Single || !d.P.Broken.uneven() || d.rippled.Ripple < phaseSeen*d.v {
		d.ripple = max(0, d.ripple-h)
		return
	}
	if d.ripple += h; d.ripple > phaseLooked {
		d.react(d.C.PhaseLoss, "input-phase", "input-phase")
	}
}

// uneven tells whether the three phases of the mains are not alike.
func (b *Broken) uneven() bool { return b.PhaseLost || b.Unbalance > 0 }
