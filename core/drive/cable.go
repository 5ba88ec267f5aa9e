package drive

import "math"

// A screened motor cable: its surge impedance, and how fast a wave goes along it. Common practice.
const (
	surgeOhms = 80.
	waveSpeed = 1.5e8 // m/s
)

// charging is the current that a motor cable takes beside the motor, A rms: at every edge of the inverter's voltage the link's voltage over
// the surge impedance, for as long as the wave needs to the motor and back; each phase has two edges in a period of the carrier.
func (d *Drive) charging() float64 {
	there := 2 * d.P.Broken.CableMetres / waveSpeed
	return d.v / surgeOhms * math.Sqrt(min(1, 2*d.C.Switching*1000*there))
}
