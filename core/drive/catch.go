package drive

import "math"

// Searching is the phase in which a drive that catches a turning shaft looks for its frequency.
const Searching Phase = "searching"

// How a turning shaft is looked for: with a share of the voltage, after what the rotor still induces has had a moment, in a time for the
// whole range by the rotor's time constant. Common practice.
const (
	searchShare = .15
	searchWaits = .15 // s
	searchEnds  = .5  // Hz at which nothing turns in this direction
	searchLocks = .4  // s in which the frequency is brought onto the shaft's, slower and slower
)

// search is where it stands.
type search struct {
	hz    float64 // with its sign
	since float64 // s in this direction
	back  bool    // it looks the other way round
	below float64 // s for which the shaft has given power back
	locks float64 // s since it was found; 0: not yet
}

// beginSearch starts it in the direction that is asked for.
func (d *Drive) beginSearch() {
	d.Phase = Searching
	d.find = search{hz: math.Copysign(d.C.Highest, d.last)}
}

// seek sweeps a weak field from the highest frequency down, in one direction and then in the other: where the field falls below the shaft,
// the machine turns from taking power to giving it. There it is held on the edge between the two for a moment.
func (d *Drive) seek(h float64) {
	f := &d.find
	time := 4.5 * d.C.Known.Lr / max(d.C.Known.Rr, 1e-3)
	pace := math.Copysign(d.C.Highest/max(.4, min(3, time))*h, f.hz)
	u := searchShare * d.C.Motor.Voltage * math.Sqrt(2./3) * VoltsShare(false, d.C.Boost, math.Abs(f.hz)/d.C.Motor.Frequency)
	d.Hz, d.Volts = f.hz, min(u, d.v/math.Sqrt(3))
	d.hold()
	d.apply(d.Volts, 0, 2*math.Pi*f.hz, h, true)
	if f.since += h; f.since < searchWaits {
		return
	}
	id, iq := d.amps()
	gives := 1.5*(d.Volts*id-d.C.Known.Rs*(id*id+iq*iq)) < 0 // what crosses the air gap
	if f.locks > 0 {
		if gives {
			pace = -pace
		}
		f.hz -= pace / 2 * (1 - f.locks/searchLocks)
		if f.locks += h; f.locks > searchLocks {
			d.caught(f.hz)
		}
		return
	}
	if f.hz -= pace; gives {
		f.below += h
	} else {
		f.below = 0
	}
	switch {
	case f.below > .02:
		f.locks = h
	case math.Abs(f.hz) > searchEnds:
	case f.back:
		d.caught(0)
	default:
		*f = search{hz: math.Copysign(d.C.Highest, -f.hz), back: true}
	}
}

// caught goes on from a frequency at which the shaft turns, 0: it stands. The voltage is brought up there.
func (d *Drive) caught(hz float64) {
	d.Phase, d.since = Magnetising, 0
	d.ramp.hz = hz
	if d.C.Control == "vector" {
		d.vec.est = 2 * math.Pi * hz
		d.vec.wf = d.vec.est
	}
}
