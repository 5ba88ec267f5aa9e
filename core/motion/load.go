package motion

import "math"

// Load is what a machine turns, as its torque over speed. Torque in N·m at Speed (rad/s); a constant load is friction: it
// opposes motion, and holds at rest.
type Load struct {
	Kind   string  // none, constant, linear, quadratic, constant-power, hanging
	Torque float64 // N·m at Speed
	Speed  float64 // rad/s
	Breaks float64 // breakaway torque over the running one, at standstill; 0: as the running one
	// Rubs is dry friction beside it, N·m: bearings, seals, a belt. It holds at rest. A load without it is written as before there was any.
	Rubs  float64 `json:",omitzero"`
	Drift float64 // rad/s at which a quadratic load turns by itself: air through a fan
}

// Loads are the kinds, as docs/calc.md lists them.
var Loads = []string{"none", "constant", "linear", "quadratic", "constant-power"}

// At is the torque that opposes turning forward at a speed w (rad/s), N·m, with its slope over w. Signs follow the speed; at standstill
// friction gives what it must, see Holds.
func (l Load) At(w float64) (torque, slope float64) {
	if torque, slope = l.at(w); l.Rubs > 0 {
		torque += math.Copysign(l.Rubs, w)
	}
	return torque, slope
}

func (l Load) at(w float64) (torque, slope float64) {
	a := math.Abs(w)
	switch l.Kind {
	case "constant":
		torque = math.Copysign(l.Torque, w)
		if a < stribeck && l.Breaks > 1 {
			torque *= l.Breaks - (l.Breaks-1)*a/stribeck
		}
	case "hanging":
		return l.Torque, 0
	case "linear":
		return l.Torque * w / l.Speed, l.Torque / l.Speed
	case "quadratic":
		k := l.Torque / (l.Speed * l.Speed)
		a = math.Abs(w - l.Drift)
		return k * (w - l.Drift) * a, 2 * k * a
	case "constant-power":
		if low := .1 * l.Speed; a < low {
			return math.Copysign(l.Torque*10, w), 0
		}
		return l.Torque * l.Speed / w, -l.Torque * l.Speed / (w * w)
	}
	return torque, slope
}

// stribeck is the speed over which breakaway torque falls to the running one, rad/s at the motor. Common practice.
const stribeck = 3

// Holds tells whether the load keeps the shaft at rest against a torque (N·m): friction, and a power load at its cap.
func (l Load) Holds(torque float64) bool {
	t := math.Abs(torque)
	if l.Kind == "hanging" { // it pulls with its torque; what rubs holds the rest
		return l.Rubs > 0 && math.Abs(torque-l.Torque) <= l.Rubs
	}
	if l.Kind == "quadratic" && l.Drift != 0 {
		a, _ := l.at(0)
		t = math.Abs(torque - a)
	}
	t -= l.Rubs
	switch l.Kind {
	case "constant":
		return t <= l.Torque*math.Max(1, l.Breaks)
	case "constant-power":
		return t <= l.Torque*10
	}
	return l.Rubs > 0 && t <= 0
}
