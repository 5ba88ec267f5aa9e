package app

import (
	"context"
	"fmt"
	"math"

	"tingate/bench"
	"tingate/core/drivefile"
	"tingate/core/motion"
	"tingate/formats/runfile"
)

// RunOver is a recorded run laid over the plan's ride.
type RunOver struct {
	Samples []bench.RideSample `json:"samples" doc:"thinned; time from its start on"`
	Times   map[string]string  `json:"times" doc:"rise, fall, top, peak as recorded, in words"`
	Likely  []string           `json:"likely" doc:"what explains the differences"`
	Gaps    int                `json:"gaps" doc:"rows without figures"`
}

// LayOver reads a recorded run and holds it against the plan's ride. c says which columns are which.
func (a *App) LayOver(ctx context.Context, driveID string, raw []byte, c runfile.Columns) (RunOver, error) {
	out := RunOver{Samples: []bench.RideSample{}, Times: map[string]string{}, Likely: []string{}}
	s, w, f, err := a.spanSetup(ctx, driveID, SpanTry{})
	if err != nil {
		return out, err
	}
	if f.Missing != "" {
		return out, &RefusedError{"The ride that it is laid over needs " + f.Missing + "."}
	}
	c.Poles = f.Motor.Poles
	run, err := runfile.Read(raw, c)
	if err != nil {
		return out, &InputError{"file", err.Error(), "a list of time and speed, with current if it was recorded"}
	}
	m, ok := run.Times()
	if !ok {
		return out, &InputError{"file", "a run in which nothing comes to speed", "a start from standstill to a steady speed"}
	}
	ride, err := s.Ride(w)
	if err != nil {
		return out, &RefusedError{err.Error()}
	}
	out.Gaps = run.Gaps
	word := func(v float64, unit string) string {
		if math.IsNaN(v) {
			return "not in it"
		}
		return fmt.Sprintf("%.4g %s", v, unit)
	}
	out.Times["rise"], out.Times["fall"], out.Times["top"], out.Times["peak"] = word(m.Rise, "s"), word(m.Fall, "s"), word(m.Top, "r/min"), word(m.Peak, "A")
	out.Likely = append(out.Likely, m.Explain(predictedOf(ride))...)
	const most = 600
	every := max(1, (len(run.T)+most-1)/most)
	for i := 0; i < len(run.T); i += every {
		if t := run.T[i] - m.Start; t >= 0 {
			x := bench.RideSample{T: t, Speed: run.Speed[i]}
			if !math.IsNaN(run.Current[i]) {
				x.Current = run.Current[i]
			}
			out.Samples = append(out.Samples, x)
		}
	}
	return out, nil
}

// TypedRun is what somebody read of the real machine, held against the ride.
type TypedRun struct {
	Said   bool     `json:"said" doc:"something was read"`
	Likely []string `json:"likely" doc:"what explains the differences; empty: as predicted"`
}

// typedOf holds what was read against a ride.
func typedOf(d drivefile.Drive, r bench.Ride) TypedRun {
	out := TypedRun{Likely: []string{}}
	n := func(q drivefile.Q) float64 {
		if q.Value == nil {
			return math.NaN()
		}
		out.Said = true
		return *q.Value
	}
	m := motion.RunTimes{Rise: n(d.Ran.Rise), Fall: n(d.Ran.Fall), Top: n(d.Ran.Top), Peak: n(d.Ran.Peak)}
	held := n(d.Ran.Held)
	if !out.Said || r.Top == 0 {
		return out
	}
	p := predictedOf(r)
	out.Likely = append(out.Likely, m.Explain(p)...)
	if k := held / r.Steady; k > 1.15 || k < .85 {
		out.Likely = append(out.Likely, fmt.Sprintf("At speed it takes %.2f times the predicted current: the load's torque is not what was taken, or the motor is not the plate's.", k))
	}
	return out
}

// predictedOf is what a ride predicts of a run.
func predictedOf(ride bench.Ride) motion.Predicted {
	p := motion.Predicted{Top: math.Abs(ride.Top), Rise: math.NaN(), Fall: math.NaN(), Peak: ride.PeakRise, Limit: ride.CurrentLimit, Highest: ride.Highest, Upper: ride.Upper}
	if ride.Rise != nil {
		p.Rise = *ride.Rise
	}
	if ride.Fall != nil {
		p.Fall = *ride.Fall
	}
	return p
}
