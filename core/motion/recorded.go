package motion

import (
	"fmt"
	"math"
	"slices"
)

// Recorded is a run as it was recorded: s, r/min, A, N·m, V of the DC link (NaN where it was not).
type Recorded struct {
	T, Speed, Current []float64
	Torque, Link      []float64 // nil: not recorded
	Frequency         bool      // the speed is that of the output frequency, without slip
	Gaps              int       // rows that had no figures
}

// RunTimes are what a run from standstill to a speed and back took.
type RunTimes struct {
	Start, Top, Rise, Fall, Overshoot float64 // s; r/min; s to 97 %; s to 3 %, NaN: not in it; share of the top
	Peak                              float64 // A, NaN: not recorded
	Steady                            float64 // A at the steady speed, NaN: not recorded
	Held                              float64 // s from the end of the rise to the begin of the fall, or of the recording
	RiseLate, FallLate                float64 // s that rise and fall may have taken less, for the readings at their ends lie so far apart
}

// Times finds the start, the highest steady speed, rise, fall and overshoot. False when nothing turns in it.
func (r Recorded) Times() (RunTimes, bool) {
	abs := make([]float64, len(r.Speed))
	for i, v := range r.Speed {
		abs[i] = math.Abs(v)
	}
	sorted := slices.Clone(abs)
	slices.Sort(sorted)
	if len(sorted) == 0 || sorted[len(sorted)-1] < 1 {
		return RunTimes{}, false
	}
	peak := sorted[len(sorted)-1]
	var high []float64 // the steady part: what lies in the upper tenth
	for _, v := range abs {
		if v > .9*peak {
			high = append(high, v)
		}
	}
	slices.Sort(high)
	t := RunTimes{Top: high[len(high)/2], Rise: math.NaN(), Fall: math.NaN(), Peak: math.NaN(), Steady: math.NaN(), Start: r.T[0]}
	i := 0
	for i < len(abs) && abs[i] < .02*t.Top {
		t.Start = r.T[i]
		i++
	}
	up := i
	for up < len(abs) && abs[up] < .97*t.Top {
		up++
	}
	if up == len(abs) {
		return t, false
	}
	t.Rise = r.T[up] - t.Start
	t.RiseLate = r.gap(i) + r.gap(up)
	down := len(abs) - 1
	for down > up && abs[down] < .97*t.Top {
		down--
	}
	for k := down; k < len(abs); k++ {
		if abs[k] < .03*t.Top {
			t.Fall = r.T[k] - r.T[down]
			t.FallLate = r.gap(down+1) + r.gap(k)
			break
		}
	}
	t.Overshoot = math.Max(0, peak/t.Top-1)
	for _, a := range r.Current {
		if !math.IsNaN(a) && !(t.Peak >= a) {
			t.Peak = a
		}
	}
	t.Held, t.Steady = r.T[down]-r.T[up], r.steady(up, down)
	return t, true
}

// gap is the time before reading i since the one before, s.
func (r Recorded) gap(i int) float64 {
	if i <= 0 || i >= len(r.T) {
		return 0
	}
	return r.T[i] - r.T[i-1]
}

// Whole is the run without the moments at which the speed was not there; they count as gaps.
func (r Recorded) Whole() Recorded {
	out := Recorded{Frequency: r.Frequency, Gaps: r.Gaps}
	for i, v := range r.Speed {
		if math.IsNaN(v) {
			out.Gaps++
			continue
		}
		out.T, out.Speed, out.Current = append(out.T, r.T[i]), append(out.Speed, v), append(out.Current, r.Current[i])
		if i < len(r.Torque) {
			out.Torque = append(out.Torque, r.Torque[i])
		}
		if i < len(r.Link) {
			out.Link = append(out.Link, r.Link[i])
		}
	}
	return out
}

// steady is the current at speed, A: the median of the later half between two moments.
func (r Recorded) steady(from, to int) float64 {
	var l []float64
	for _, v := range r.Current[(from+to)/2 : to+1] {
		if !math.IsNaN(v) {
			l = append(l, v)
		}
	}
	if len(l) == 0 {
		return math.NaN()
	}
	slices.Sort(l)
	return l[len(l)/2]
}

// Predicted is what was expected of a run, with what may explain another.
type Predicted struct {
	Top, Rise, Fall, Peak, Steady float64 // as RunTimes
	Overshoot                     float64 // share of the top
	Limit                         float64 // A of the current limit
	Highest, Upper                float64 // Hz: a ramp may be counted to either
}

// Explain says what a recorded run against the predicted one is likely to come from, most telling first.
func (t RunTimes) Explain(p Predicted) []string {
	var l []string
	say := func(format string, args ...any) { l = append(l, fmt.Sprintf(format, args...)) }
	ratio := t.Rise / p.Rise
	held := t.Peak >= .97*p.Limit && p.Limit > 0
	counted := p.Highest / p.Upper
	switch {
	case math.Abs(ratio-1) <= .08 || math.IsNaN(ratio):
	case ratio > 1 && t.Rise-t.RiseLate < 1.08*p.Rise: // read too seldom to say so
	case ratio > 1 && held:
		say("The rise took %.2f times as long, with the current at its limit: more inertia (about %.1f times), or more load torque, "+
			"than was taken.", ratio, ratio)
	case counted > 1.05 && (math.Abs(ratio*counted-1) < .08 || math.Abs(ratio/counted-1) < .08):
		say("The rise took %.2f times as long: the ramp is counted to another frequency than was taken (%.0f or %.0f Hz).", ratio, p.Upper,
			p.Highest)
	case ratio > 1:
		say("The rise took %.2f times as long, and the current was not at its limit: the ramp is set longer, or counted otherwise.", ratio)
	default:
		say("The rise took %.2f of the time: the ramp is set shorter, or counted otherwise.", ratio)
	}
	if f := t.Fall / p.Fall; f > 1.08 && t.Fall-t.FallLate > 1.08*p.Fall {
		say("The fall took %.2f times as long: bus control stretched it, or it coasts; more inertia does both.", f)
	} else if f < .92 {
		say("The fall took %.2f of the time: friction helps more than was taken, or the ramp is set shorter.", f)
	}
	if d := t.Top/p.Top - 1; math.Abs(d) > .02 {
		say("The speed is %.1f %% off: the reference's scaling or its offset, or slip under another load.", d*100)
	}
	if t.Peak > 1.15*p.Peak && !held {
		say("The current was %.2f times the predicted peak: more load torque than was taken.", t.Peak/p.Peak)
	}
	if k := t.Steady / p.Steady; p.Steady > 0 && (k > 1.15 || k < .85) {
		say("At speed it takes %.2f times the predicted current: the load's torque is not what was taken, or the motor is not the "+
			"plate's.", k)
	}
	if t.Overshoot > p.Overshoot+.03 {
		say("It overshot by %.1f %%: the speed loop, or a ramp that is shorter than the machine follows.", t.Overshoot*100)
	}
	return l
}
