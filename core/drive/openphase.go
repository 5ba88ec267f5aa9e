package drive

import "math"

// opened is the motor with one phase of its cable open: current flows along one line of the plane only, between the two other phases, and
// the open end takes the voltage that the machine gives it.
type opened struct {
	angle float64 // of the frame that the voltage is given in, electrical rad from the open phase
	volts float64 // of the open end along its phase, V
	was   float64 // what of it was right in the last step
	known bool    // volts has been found
	seen  float64 // s for which one phase is without current
	mean  [3]float64
}

// openStep is how fine the machine is stepped then, s: its torque goes between nothing and twice its mean, twice a period. Against an
// eighth of a millisecond the currents are 3 % off, the mean torque as much.
const openStep = 5e-4

// phaseWatch is how long the current of a phase may be missing before the drive sees it, s; phaseShare is the share of the rated current
// that the others must have. Common practice.
const (
	phaseWatch = 1.
	phaseShare = .15
)

// applyOpen moves machine and link as apply does, with phase U open.
func (d *Drive) applyOpen(vd, vq, wf, h float64) {
	o := &d.open
	n := max(1, int(math.Round(h/openStep)))
	long := h/float64(n) > 2*fine
	step := h / float64(n)
	for range n {
		s, c := math.Sincos(o.angle + wf*step/2) // as it lies halfway
		mx, my, nx, ny := c, -s, s, c            // along the open phase, and across it
		across := vd*nx + vq*ny
		// Over the step that direction turns by φ: what lies along it is, in the mean, v/2 and sin φ/φ of the rest.
		phi := wf * step
		mean := 1 - phi*phi/6
		ad, aq := vd/2+mean*(across*nx-vd/2), vq/2+mean*(across*ny-vq/2)
		d.move(ad+o.volts*mx, aq+o.volts*my, wf, step, long)
		o.angle = math.Mod(o.angle+wf*step, 2*math.Pi)
		// Whatever current along the open phase the step has left is taken off, and the voltage of the open end set so that none comes.
		s, c = math.Sincos(o.angle)
		mx, my = c, -s
		k := &d.k
		along := (k.A*d.x.Ds-k.B*d.x.Dr)*mx + (k.A*d.x.Qs-k.B*d.x.Qr)*my
		flux := -along / k.A
		d.x.Ds += flux * mx
		d.x.Qs += flux * my
		if o.known { // what would have been right in this step; the next follows its change
			most := 2 * d.v
			right := max(-most, min(most, o.volts+flux/step))
			o.volts = max(-most, min(most, 2*right-o.was))
			o.was = right
		}
		o.known = true // the first takes off what flowed when it opened
	}
}

// phaseCurrents are the currents as a clamp meter reads them, A rms: all the same, unless one phase is open.
func (d *Drive) phaseCurrents(h float64) {
	if !d.P.Broken.OutputLost {
		d.Phases = [3]float64{d.Current, d.Current, d.Current}
		return
	}
	o := &d.open
	alpha, beta := 0., 0.
	if d.Running {
		i := d.k.Currents(d.x)
		s, c := math.Sincos(o.angle)
		alpha, beta = i.Ds*c-i.Qs*s, i.Ds*s+i.Qs*c
	}
	for p, x := range [3]float64{alpha, -alpha/2 + math.Sqrt(3)/2*beta, -alpha/2 - math.Sqrt(3)/2*beta} {
		o.mean[p] += (x*x - o.mean[p]) * h / .1
		d.Phases[p] = math.Sqrt(max(0, o.mean[p]))
	}
}

// outputPhase sees a phase to the motor that stays without current while the others carry some.
func (d *Drive) outputPhase(h float64) {
	o := &d.open
	if !d.P.Broken.OutputLost || !d.Running || d.Phases[1] < phaseShare*d.C.Rated {
		o.seen = max(0, o.seen-h)
		return
	}
	if o.seen += h; o.seen > phaseWatch {
		d.react(d.C.OutputLoss, "output-phase", "output-phase")
	}
}
