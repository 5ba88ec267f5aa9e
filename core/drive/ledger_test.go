package drive

import (
	"math"
	"testing"

	"tingate/core/motion"
)

// ledger adds up where the energy of a run goes, from one end of a tick to the other, J.
type ledger struct {
	d        *Drive
	from     float64
	in, out  float64
	was, now [2]float64
}

// powers are what the mains gives and what leaves drive and motor at one moment, W: to the shaft, in copper, iron, inverter, resistor and
// to earth, and for the drive's own supply.
func (d *Drive) powers() [2]float64 {
	i, _ := d.link.net(d.v)
	resistor := d.resistorWatts()
	copper := func(a, b, c, e float64) float64 {
		return 1.5 * (d.k.SA/d.k.A*(a*a+b*b) + d.k.RC/max(d.k.C, 1e-9)*(c*c+e*e))
	}
	c := d.k.Currents(d.x)
	id, iq, _ := d.alone(&d.x)
	out := resistor + copper(id, iq, c.Dr, c.Qr) + d.drag().T0*d.x.W
	if d.P.Magnet > 0 {
		out = resistor + copper(id, iq, 0, 0) + d.drag().T0*d.x.W
	}
	if d.P.Broken.SecondMotor {
		s := d.k.Currents(d.second)
		out += copper(s.Ds, s.Qs, s.Dr, s.Qr) + d.P.Rub*d.second.W*d.second.W
	}
	if d.Running {
		out += d.losses
	} else {
		out += d.own()
	}
	return [2]float64{i*d.v + resistor, out}
}

// stored is what lies in link, fields and what turns, J.
func (d *Drive) stored() float64 {
	field := func(x float64, y float64, a, b float64) float64 { return .75 * (x*a + y*b) }
	c := d.k.Currents(d.x)
	e := .5*d.P.Link.C*d.v*d.v + .5*d.inertia()*d.x.W*d.x.W
	if d.P.Magnet > 0 {
		id, iq, _ := d.alone(&d.x)
		return e + field(d.x.Ds-d.x.Dr, d.x.Qs-d.x.Qr, id, iq)
	}
	e += field(d.x.Ds, d.x.Qs, c.Ds, c.Qs) + field(d.x.Dr, d.x.Qr, c.Dr, c.Qr)
	if d.P.Broken.SecondMotor {
		s, y := d.k.Currents(d.second), d.second
		e += field(y.Ds, y.Qs, s.Ds, s.Qs) + field(y.Dr, y.Qr, s.Dr, s.Qr) + .5*d.P.Inertia*y.W*y.W
	}
	return e
}

func (l *ledger) step(in *Inputs) {
	l.d.Step(in)
	l.now = l.d.powers()
	l.in += (l.was[0] + l.now[0]) / 2 * Tick
	l.out += (l.was[1] + l.now[1]) / 2 * Tick
	l.was = l.now
}

// breaks puts something wrong in, or takes it off. What a thing itself takes or gives in that moment is no part of the
// ledger, nor are three ticks after it: a link that is charged anew within one is not seen from its ends.
func (l *ledger) breaks(b Broken, in *Inputs) {
	before := l.d.stored()
	l.d.P.Broken = b
	l.d.Reload()
	for range 3 {
		l.d.Step(in)
	}
	l.from += l.d.stored() - before
	l.was = l.d.powers()
}

// Whatever is wrong, and whenever it comes and goes: over a rise, a while at speed, a fall and a coast, what the mains gives is what leaves
// by shaft, copper, iron, inverter, resistor and earth, and what has been stored, to a thousandth.
func TestEnergyClosesOverEveryPhenomenon(t *testing.T) {
	const chopper = 60
	for name, c := range map[string]struct {
		put Broken
		set func(*Drive)
	}{
		"whole":                   {},
		"vector control":          {set: func(d *Drive) { d.C.Control = "vector" }},
		"with an encoder":         {set: func(d *Drive) { d.C.Control, d.P.Lines, d.C.Lines = "encoder", 1024, 1024 }},
		"without a load":          {set: func(d *Drive) { d.P.Load = motion.Load{} }},
		"a phase of the mains":    {put: Broken{PhaseLost: true}},
		"an uneven mains":         {put: Broken{Unbalance: .04}},
		"a low mains":             {put: Broken{Sag: .2}},
		"a chopper that is on":    {put: Broken{ChopperShorted: true}, set: func(d *Drive) { d.P.Link.Chopper = chopper }},
		"a resistor that is off":  {put: Broken{ResistorOpen: true}, set: func(d *Drive) { d.P.Link.Chopper = chopper }},
		"a braking resistor":      {set: func(d *Drive) { d.P.Link.Chopper, d.C.Fall = chopper, 25 }},
		"a wrong link":            {put: Broken{Relinked: 3}},
		"a phase to the motor":    {put: Broken{OutputLost: true}},
		"the same, by vector":     {put: Broken{OutputLost: true}, set: func(d *Drive) { d.C.Control = "vector" }},
		"a phase to earth":        {put: Broken{EarthOhms: 60}},
		"a long cable":            {put: Broken{CableOhms: .4}},
		"a cable that is charged": {put: Broken{CableMetres: 200}},
		"a jammed load":           {put: Broken{Jammed: true}},
		"a loose coupling":        {put: Broken{Loose: true}},
		"a belt that slips":       {put: Broken{BeltSlips: 14}},
		"play":                    {put: Broken{Play: .2}},
		"a shaft that gives":      {set: func(d *Drive) { d.P.Shaft = ShaftFor(8, d.P.Inertia, d.P.LoadJ) }},
		"a drum that fills":       {put: Broken{Filled: 3}},
		"a brake that drags": {put: Broken{BrakeDrags: .2},
			set: func(d *Drive) { d.P.Brake = Brake{Torque: 60, Follows: true, Opens: .1, Closes: .1} }},
		"a second motor":     {put: Broken{SecondMotor: true}, set: func(d *Drive) { d.C.CurrentLimit, d.C.Rated = 60, 40 }},
		"friction and a fan": {set: func(d *Drive) { d.P.Load.Rubs = 8 }},
		"a load that hangs":  {set: func(d *Drive) { d.C.Control, d.P.Load.Kind, d.P.Load.Torque = "vector", "hanging", 20 }},
		"direct current":     {set: func(d *Drive) { d.C.BrakeAmps, d.C.BrakeTime, d.C.BrakeHz = 8, 2, 4 }},
		"noise":              {put: Broken{Noise: 20}},
		"an encoder that dies": {put: Broken{EncoderDead: true},
			set: func(d *Drive) { d.C.Control, d.P.Lines, d.C.Lines = "encoder", 1024, 1024 }},
	} {
		d := works()
		if c.set != nil {
			c.set(d)
			d.Reload()
		}
		d.C.EarthFault, d.C.OutputLoss, d.C.PhaseLoss, d.C.Stall, d.C.Overload = "off", "off", "off", "off", 0
		in := ready(d)
		in.Terminals, in.Analog = 1, 10
		l := ledger{d: d, from: d.stored(), was: d.powers()}
		for n := range 18000 {
			switch n {
			case 6500:
				l.breaks(c.put, &in)
			case 9500:
				l.breaks(Broken{}, &in)
			case 11000:
				in.Terminals = 0
			}
			l.step(&in)
		}
		out := l.out + d.stored() - l.from
		most := .001
		if c.put.OutputLost { // what a step leaves of current along the open phase is taken off after it
			most = .0013
		}
		if off := math.Abs(out - l.in); off > most*math.Abs(l.in) || l.in < 1000 {
			t.Errorf("%s: %.0f J come in, %.0f J go: %.5f; %s", name, l.in, out, out/l.in, d.Fault)
		}
	}
}
