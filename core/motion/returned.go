package motion

// steps of the integration along a fall: the largest error of what comes back is below a thousandth.
const fallSteps = 400

// Returned is what a fall from a speed (rad/s) to rest in some seconds gives back behind the efficiencies of motor and drive, J, and its
// largest power, W: the speed falls evenly, and the load helps stopping by its own curve. A fan helps much at first and hardly at the end,
// so that it may give back where its mean would not. j is the whole inertia at the shaft, kg·m²; share the product of the efficiencies on
// the way back, 0 to 1.
func (l Load) Returned(j, from, seconds, share float64) (energy, peak float64) {
	if !(seconds > 0) || !(from > 0) {
		return 0, 0
	}
	dt := seconds / fallSteps
	power := func(w float64) float64 { torque, _ := l.At(w); return (j*from/seconds - torque) * w * share }
	for i := range fallSteps {
		peak = max(peak, power(from*(1-float64(i)/fallSteps)))
		w := from * (1 - (float64(i)+.5)/fallSteps)
		energy += max(0, power(w)) * dt
	}
	return energy, peak
}
