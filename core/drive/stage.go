package drive

import "math"

// Stage is the power stage with its current sensors, as a tune sees it: voltages in, samples out.
type Stage struct {
	D     *Drive
	Rated float64        // A rms, for which the sensors are made: 12 bits over ±3 times its amplitude
	Noise func() float64 // standard normal

	n int
}

// Apply holds a voltage vector for an eighth of a tick and samples the current at its end. ok is false when the drive does not
// run, or trips.
func (s *Stage) Apply(alpha, beta float64) (ia, ib float64, ok bool) {
	d := s.D
	if !d.Running || d.Fault != "" {
		return 0, 0, false
	}
	d.hold() // in a frame that stands the current goes through nothing
	if most := d.v / math.Sqrt(3); alpha*alpha+beta*beta > most*most {
		k := most / math.Hypot(alpha, beta)
		alpha, beta = alpha*k, beta*k
	}
	d.apply(alpha, beta, 0, fine, true)
	d.Volts = math.Hypot(alpha, beta)
	i := d.k.Currents(d.x)
	if s.n++; s.n%80 == 0 {
		d.warm(10 * Tick)
		d.refresh()
	}
	return s.sample(i.Ds, .002), s.sample(i.Qs, -.0015), true
}

// sample is what a sensor makes of a current: an offset of a share of the rated one, noise of 0.5 %, 12 bits.
func (s *Stage) sample(i, offset float64) float64 {
	top := 3 * math.Sqrt2 * s.Rated
	bit := 2 * top / 4096
	v := i + offset*s.Rated + .005*s.Rated*s.Noise()
	return math.Round(max(-top, min(top, v))/bit) * bit
}

// BeginTune gives the power stage over to a tune; it says why not, in a word of Blocked, when torque may not be given or the
// shaft turns.
func (d *Drive) BeginTune() string {
	switch {
	case d.Running:
		return "running"
	case !d.free():
		return d.Blocked
	case math.Abs(d.Speed) > 1:
		return "moving"
	}
	d.begin()
	d.holding = false
	d.turnOn()
	d.Phase = Tuning
	d.open.angle = 0 // a tune's first axis is phase U
	return ""
}

// TuneStep is a tick while a tune has the power stage: eight gives it eight periods, and is not called when the drive must let
// go. Everything that protects stays on watch.
func (d *Drive) TuneStep(in *Inputs, eight func()) {
	d.power(in)
	d.channels(in)
	if in.KeyStop || !d.free() {
		d.off()
	}
	eight()
	d.Time += Tick
	d.measure(in, Tick)
	d.protect(Tick)
}

// EndTune takes the power stage back.
func (d *Drive) EndTune() {
	d.off()
	d.cmd.armed, d.cmd.latched = false, false
}
