// Package supply holds what lies between the line and the motor: protection, cable, discharge.
package supply

import "math"

// Overload is the first-order thermal replica dθ/dt = (x² − θ)/τ, x the multiple of the setting, tripping at
// θ ≥ k². TimeConstant in seconds; Pickup k, usually 1.1; Cooling multiplies τ while the motor stands (x = 0).
type Overload struct {
	TimeConstant, Pickup, Cooling float64
}

// classSeconds is the longest tripping time at 7.2 times the setting from cold. IEC 60947-4-1, trip classes.
var classSeconds = map[string]float64{"10A": 10, "10": 10, "20": 20, "30": 30}

// ClassTimeConstant is the time constant in seconds whose replica trips at 7.2 times the setting from cold just
// inside the class's longest time. ok is false for an unknown class.
func ClassTimeConstant(class string, pickup float64) (tau float64, ok bool) {
	t, ok := classSeconds[class]
	x := 7.2 * 7.2
	return t * (1 - 1e-9) / math.Log(x/(x-pickup*pickup)), ok
}

// TripTime is the time in seconds at a constant multiple until the trip, from a warmth of start (0 cold, 1 after
// long running at the setting). +Inf: never.
func (o Overload) TripTime(multiple, start float64) float64 {
	x, k := multiple*multiple, o.Pickup*o.Pickup
	switch {
	case start >= k:
		return 0
	case x <= k:
		return math.Inf(1)
	}
	return o.TimeConstant * math.Log((x-start)/(x-k))
}

// After is the warmth after some seconds at a constant multiple.
func (o Overload) After(multiple, start, seconds float64) float64 {
	tau := o.TimeConstant
	if multiple == 0 && o.Cooling > 0 {
		tau *= o.Cooling
	}
	x := multiple * multiple
	return x + (start-x)*math.Exp(-seconds/tau)
}
