package drive

import "math"

// earthSeen is the current to earth, as a share of the rated one, from which a drive takes it for a fault, and earthLooked how long it must
// flow, s. Common practice.
const (
	earthSeen   = .3
	earthLooked = 5e-3
)

// earthed is the current from a phase to earth, A rms, and its heat, W. The legs of an inverter stand at plus or minus half of the link's
// voltage about the earthed star point of the supply: behind a resistance flows half of the link's voltage over it, whatever the frequency.
func (d *Drive) earthed() (amps, watts float64) {
	amps = d.v / 2 / d.P.Broken.EarthOhms
	return amps, amps * amps * d.P.Broken.EarthOhms
}

// earth shows that current, and lets go where it is too much for the power stage.
func (d *Drive) earth() {
	d.Earth = 0
	if !(d.P.Broken.EarthOhms > 0) || !d.inverts() {
		return
	}
	d.Earth, _ = d.earthed()
	d.Phases[2] = math.Hypot(d.Phases[2], d.Earth)
	if peak := d.Earth + d.Phases[0]*math.Sqrt2; peak > overcurrent*math.Sqrt2*d.C.Rated {
		d.trip("overcurrent")
	}
}

// earthFault watches for it.
func (d *Drive) earthFault(h float64) {
	if d.Earth < earthSeen*d.C.Rated {
		d.earthing = 0
		return
	}
	if d.earthing += h; d.earthing >= earthLooked {
		d.react(d.C.EarthFault, "earth-fault", "earth-fault")
	}
}
