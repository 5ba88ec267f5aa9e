package prove

import (
	"fmt"
	"math"
	"strings"
	"tingate/bench/ride"
)

// loopWithin is how near a measured value counts as at its setpoint, share of the range; loopSwings is from which height on it swings.
const (
	loopWithin = .02
	loopSwings = .03
)

// regulated waits until the drive's own controller has settled; false when it tripped. value is what was measured on the way, every ten
// milliseconds.
func (p *prover) regulated() (value []float64, ok bool) {
	d := p.D
	l := d.C.Loop
	if !l.On {
		return nil, true
	}
	lag := math.Max(d.P.Process.Lag, .1)
	most := math.Max(20, math.Min(900, 8*(l.Time/math.Max(l.Gain, .02)+lag)+2*p.Rider.Out.AskedRise))
	steady := 0.
	for until := p.Time() + most; p.Time() < until && steady < math.Max(5, 3*lag); {
		if !p.Step() {
			return value, false
		}
		p.In.KeyRun, p.In.KeyStop = false, false
		value = append(value, d.Measured())
		if math.Abs(d.Measured()-l.Setpoint) < loopWithin/2 || d.Blocked == "asleep" {
			steady += .01
		} else {
			steady = 0
		}
	}
	return value, true
}

// regulates: the drive's own controller comes to its setpoint without swinging, sleeps when less is asked and wakes by itself.
func (p *prover) regulates() {
	d := p.D
	if !p.loop.On {
		return
	}
	p.run(false, false)
	if !p.stand() {
		return
	}
	d.C.Loop = p.loop
	defer func() { d.C.Loop.On = false }()
	p.Phase = ride.Hold
	const key, title = "loop", "Its own controller comes to its setpoint"
	want := fmt.Sprintf("%.4g %%", p.loop.Setpoint*100)
	began := p.Time()
	if !p.run(true, false) {
		p.note(key, title, want, p.blocked(), "look-again", "")
		return
	}
	value, ok := p.regulated()
	if !ok || len(value) < 100 {
		p.note(key, title, want, "", "stops", "")
		return
	}
	last := value[len(value)*4/5:]
	low, high, peak, at := last[0], last[0], value[0], p.Time()-began
	for _, v := range last {
		low, high = math.Min(low, v), math.Max(high, v)
	}
	for i, v := range value {
		peak = math.Max(peak, v)
		if math.Abs(v-p.loop.Setpoint) > loopWithin {
			at = float64(i) * .01
		}
	}
	mid := (low + high) / 2
	says := []string{fmt.Sprintf("%.1f %%", mid*100)}
	verdict, detail := "holds", ""
	top := d.P.Process.At(d.C.Upper * 4 * math.Pi / float64(max(d.C.Motor.Poles, 2)))
	switch {
	case high-low > loopSwings:
		says = append(says, fmt.Sprintf("swinging by %.1f %%", (high-low)*100))
		verdict, detail = "look-again", fmt.Sprintf("It swings: less gain, or a time longer than %.3g s.", p.loop.Time)
	case p.loop.Setpoint > top+loopWithin:
		verdict, detail = "look-again", fmt.Sprintf("At the highest speed the measured value is %.4g %%: it stays there.", top*100)
	case math.Abs(mid-p.loop.Setpoint) > loopWithin && mid > p.loop.Setpoint && d.C.Lower > 0:
		verdict, detail = "look-again", "At the lowest speed the measured value is above its setpoint: it stays there."
	case math.Abs(mid-p.loop.Setpoint) > loopWithin:
		verdict, detail = "look-again", fmt.Sprintf("It is slow: more gain, or a time shorter than %.3g s.", p.loop.Time)
	default:
		says = append(says, fmt.Sprintf("after %.0f s", at))
		if over := peak - p.loop.Setpoint; over > loopWithin {
			says = append(says, fmt.Sprintf("%.0f %% over on the way", over*100))
		}
	}
	p.note(key, title, want, strings.Join(says, ", "), verdict, detail)
	if p.loop.Sleep > 0 && verdict == "holds" {
		p.sleeping()
	}
}

// sleeping: the process holds its value by itself for a while, and lets it go again.
func (p *prover) sleeping() {
	d := p.D
	was := d.P.Process
	d.P.Process.Static, d.P.Process.Top = p.loop.Setpoint+.1, math.Max(was.Top, p.loop.Setpoint+.1)
	began := p.Time()
	wait := func(most float64, is func() bool) bool {
		for until := p.Time() + most; p.Time() < until && !is(); {
			if !p.Step() {
				return false
			}
		}
		return is()
	}
	const key, title = "loop-sleep", "It sleeps when nothing is asked, and wakes by itself"
	want := fmt.Sprintf("asleep below %.1f Hz", p.loop.Sleep)
	if !wait(600, func() bool { return d.Blocked == "asleep" && !d.Running && math.Abs(d.Speed) < 5 }) {
		p.note(key, title, want, "it runs on", "look-again",
			"It never asks for less than its sleep: a lowest speed above it, or a lower one here.")
		return
	}
	slept := p.Time() - began
	d.P.Process = was
	began = p.Time()
	if !wait(600, func() bool { return d.Running && math.Abs(d.Speed) > 5 }) {
		p.note(key, title, want, "it does not wake", "look-again", "")
		return
	}
	p.note(key, title, want, fmt.Sprintf("after %.0f s; awake in %.0f s", slept, p.Time()-began), "holds",
		"It starts by itself when the measured value falls: a sign at the machine.")
}
