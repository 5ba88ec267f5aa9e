package motion

import (
	"fmt"
	"math"
	"slices"
)

// Recorded is a run as it was recorded: s, r/min, A (NaN where it was not).
type Recorded struct {
	T, Speed, Current []float64
	Gaps              int // rows that had no figures
}

// RunTimes are what a run from standstill to a speed and back took.
type RunTimes struct {
	Start, Top, Rise, Fall, Overshoot float64 // s; r/min; s to 97 %; s to 3 %, NaN: not in it; share of the top
	Peak                              float64 // A, NaN: not recorded
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
	t := RunTimes{Top: high[len(high)/2], Rise: math.NaN(), Fall: math.NaN(), Peak: math.NaN(), Start: r.T[0]}
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
	down := len(abs) - 1
	for down > up && abs[down] < .97*t.Top {
		down--
	}
	for k := down; k < len(abs); k++ {
		if abs[k] < .03*t.Top {
			t.Fall = r.T[k] - r.T[down]
			break
		}
	}
	t.Overshoot = math.Max(0, peak/t.Top-1)
	for _, a := range r.Current {
		if !math.IsNaN(a) && !(t.Peak >= a) {
			t.Peak = a
		}
	}
	return t, true
}

// Predicted is what was expected of a run, with what may explain another.
type Predicted struct {
	Top, Rise, Fall, Peak float64 // as RunTimes
	Limit                 float64 // A of the current limit
	Highest, Upper        float64 // Hz: a ramp may be counted to either
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
	case ratio > 1 && held:
		say("The rise took %.2f times as long, with the current at its limit: more inertia (about %.1f times), or more load torque, than was taken.", ratio, ratio)
	case counted > 1.05 && (math.Abs(ratio*counted-1) < .08 || math.Abs(ratio/counted-1) < .08):
		say("The rise took %.2f times as long: the ramp is counted to another frequency than was taken (%.0f or %.0f Hz).", ratio, p.Upper, p.Highest)
	case ratio > 1:
		say("The rise took %.2f times as long, and the current was not at its limit: the ramp is set longer, or counted otherwise.", ratio)
	default:
		say("The rise took %.2f of the time: the ramp is set shorter, or counted otherwise.", ratio)
	}
	if f := t.Fall / p.Fall; f > 1.08 {
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
	if t.Overshoot > .03 {
		say("It overshot by %.1f %%: the speed loop, or a ramp that is shorter than the machine follows.", t.Overshoot*100)
	}
	return l
}
