package ride

import (
	"fmt"
	"math"

	"tingate/core/supply"
)

// pickup is the multiple of its setting at which an overload replica settles at its trip. Common practice, and IEC 60947-4-1's upper limit
// is 1.2.
const pickup = 1.1

// TripAt is a point of the trip curve.
type TripAt struct {
	Multiple float64  `json:"multiple" doc:"of the setting"`
	Cold     *float64 `json:"cold_s" doc:"null: never"`
	Hot      *float64 `json:"hot_s" doc:"after long running at the setting; null: never"`
}

// SpanOverload is the motor's overload replica against the plan: its curve, the start, and the plan back and forth without a pause.
type SpanOverload struct {
	Missing  string   `json:"missing" doc:"why there is none"`
	Amps     float64  `json:"amps" doc:"its setting"`
	Class    string   `json:"class"`
	Constant float64  `json:"time_constant_s"`
	Curve    []TripAt `json:"curve"`
	Start    TripAt   `json:"start" doc:"at the start's effective current"`
	StartFor float64  `json:"start_for_s"`
	Uses     float64  `json:"start_uses" doc:"share of the replica that one start from cold fills"`
	Cycle    float64  `json:"cycle" doc:"share at which it settles, the plan back and forth without a pause; 1: it trips"`
	Says     []string `json:"says"`
}

// OverloadOf holds a ride against the overload replica.
func OverloadOf(r Ride) SpanOverload {
	out := SpanOverload{Amps: r.OverloadAmps, Class: fmt.Sprintf("%.0f", r.OverloadClass), Curve: []TripAt{}, Says: []string{}}
	tau, ok := supply.ClassTimeConstant(out.Class, pickup)
	switch {
	case !(r.OverloadAmps > 0):
		out.Missing = "the overload protection of the motor is off"
		return out
	case !ok || len(r.Samples) < 2:
		out.Missing = "a class of 10, 20 or 30, and a plan that runs"
		return out
	}
	out.Constant = tau
	o := supply.Overload{TimeConstant: tau, Pickup: pickup, Cooling: 1}
	at := func(multiple float64) TripAt {
		p := TripAt{Multiple: multiple}
		for to, warm := range map[**float64]float64{&p.Cold: 0, &p.Hot: 1} {
			if t := o.TripTime(multiple, warm); !math.IsInf(t, 0) {
				*to = &t
			}
		}
		return p
	}
	for _, m := range []float64{1.05, 1.12, 1.2, 1.3, 1.5, 1.75, 2, 2.5, 3, 4, 5, 6, 7.2} {
		out.Curve = append(out.Curve, at(m))
	}
	var rise, riseFor, all, allFor float64
	for i := 1; i < len(r.Samples); i++ {
		s, dt := r.Samples[i], r.Samples[i].T-r.Samples[i-1].T
		x := s.Current / r.OverloadAmps
		all, allFor = all+x*x*dt, allFor+dt
		if r.Rise != nil && s.T <= *r.Rise {
			rise, riseFor = rise+x*x*dt, riseFor+dt
		}
	}
	const k2 = pickup * pickup
	if riseFor > 0 {
		out.Start, out.StartFor = at(math.Sqrt(rise/riseFor)), riseFor
		out.Uses = o.After(out.Start.Multiple, 0, riseFor) / k2
		text := fmt.Sprintf("The start takes %.2f times the setting for %.1f s: it fills %.0f %% of the replica from cold",
			out.Start.Multiple, riseFor, 100*out.Uses)
		if c := out.Start.Cold; c != nil {
			text += fmt.Sprintf("; at that current it would trip after %.0f s", *c)
		}
		out.Says = append(out.Says, text+".")
	}
	if allFor > 0 {
		out.Cycle = math.Min(1, all/allFor/k2)
		text := fmt.Sprintf("Back and forth without a pause it settles at %.0f %%", 100*out.Cycle)
		if all/allFor > k2 {
			text = fmt.Sprintf("Back and forth without a pause it trips: the effective current is %.2f times the setting. A pause, a "+
				"longer rise, or a larger motor", math.Sqrt(all/allFor))
		}
		out.Says = append(out.Says, text+".")
	}
	out.Says = append(out.Says, "Whether the warmth is remembered through a power cycle is the drive's affair: its manual says so. One "+
		"that forgets lets a hot motor be started again; a winding sensor does not forget.")
	return out
}
