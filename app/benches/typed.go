package benches

import (
	"math"

	"tingate/bench/ride"
	"tingate/core/drivefile"
	"tingate/core/motion"
)

// RecordedOf is a ride as a recorder of the shaft's speed, or of the output frequency, would have it.
func RecordedOf(r ride.Ride, frequency bool, rpm float64) motion.Recorded {
	out := motion.Recorded{Frequency: frequency}
	for _, s := range r.Samples {
		speed := s.Speed
		if frequency {
			speed = s.Hz * rpm
		}
		out.T, out.Speed, out.Current = append(out.T, s.T), append(out.Speed, speed), append(out.Current, s.Current)
	}
	return out
}

// TypedRun is what somebody read of the real machine, held against the ride.
type TypedRun struct {
	Said   bool     `json:"said" doc:"something was read"`
	Likely []string `json:"likely" doc:"what explains the differences; empty: as predicted"`
}

// typedOf holds what was read against a ride.
func typedOf(d drivefile.Drive, r ride.Ride) TypedRun {
	out := TypedRun{Likely: []string{}}
	n := func(q drivefile.Q) float64 {
		if q.Value == nil {
			return math.NaN()
		}
		out.Said = true
		return *q.Value
	}
	m := motion.RunTimes{Rise: n(d.Ran.Rise), Fall: n(d.Ran.Fall), Top: n(d.Ran.Top), Peak: n(d.Ran.Peak), Steady: n(d.Ran.Held)}
	if !out.Said || r.Top == 0 {
		return out
	}
	// Measured as a run is, and as a person with a watch does: from when the shaft begins to turn. The ride's own times count from the
	// command.
	x, ok := RecordedOf(r, false, 0).Times()
	if !ok {
		return out
	}
	p := motion.Predicted{Top: math.Abs(r.Top), Rise: x.Rise, Fall: x.Fall, Peak: r.PeakRise, Steady: r.Steady, Limit: r.CurrentLimit,
		Highest: r.Highest, Upper: r.Upper}
	out.Likely = append(out.Likely, m.Explain(p)...)
	return out
}
