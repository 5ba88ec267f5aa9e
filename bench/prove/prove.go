// Package prove does on a bench what a plan is there for, by its own terminals and reference, and plays what can happen to a drive that
// runs: the proof of a plan, its reactions, who gives what, and the truth table of its inputs.
package prove

import (
	"context"
	"fmt"
	"math"
	"strings"

	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/drive"
	"tingate/core/motion"
)

// ProofStep is one thing that the plan is to do, as the bench did it.
type ProofStep struct {
	Key     string            `json:"key"`
	Title   string            `json:"title"`
	Wanted  string            `json:"wanted"`
	Got     string            `json:"got"`
	Verdict string            `json:"verdict" enum:"holds,look-again,stops,left-out"`
	Detail  string            `json:"detail,omitempty"`
	Trace   []ride.RideSample `json:"trace" doc:"thinned"`
}

// Proof is a plan run on its own bench.
type Proof struct {
	Steps   []ProofStep    `json:"steps"`
	Holds   int            `json:"holds"`
	Differs int            `json:"differs"`
	Trip    *ride.RideTrip `json:"trip,omitempty" doc:"at which it ended"`
	Setting string         `json:"setting,omitempty" doc:"of the plan, that decides it"`
	Would   string         `json:"would,omitempty" doc:"what would hold"`
	Ended   bool           `json:"ended" doc:"before it was through"`
	Seconds float64        `json:"seconds" doc:"of the bench's own time"`
}

// by how much a speed may differ, of the highest; a time, of itself. Common practice: slip and load make a few percent.
const (
	speedWithin = .03
	timeWithin  = .1
)

// prover runs a plan, step by step.
type prover struct {
	*ride.Rider
	w    motion.Wishes
	out  Proof
	from int // first sample of the step
	loop drive.Controller
	pot  bool // the plan's speed comes from a motor potentiometer
}

// on puts a prover on a bench, charged and in auto, its factory links closed.
func on(b *bench.Bench) *prover {
	p := &prover{Rider: ride.On(b)}
	p.Phase = ride.Rise
	c := &p.D.C
	p.Rider.Out.AskedRise, p.Rider.Out.AskedFall = c.Upper/math.Max(c.Rise, 1e-9), c.Upper/math.Max(c.Fall, 1e-9)
	p.In.Hand = false
	b.CloseLinks()
	p.Charge()
	return p
}

// Plan loads the settings into the bench and does what the plan is there for: start, the lowest and highest speed, the ramps, each preset,
// the reference from end to end, reverse, loss of the signal, the stop. It ends at the first trip, and says which setting decides it and
// what would hold. The same setup gives the same proof. progress, when given, is told how many of its parts are done.
func Plan(ctx context.Context, s bench.Setup, w motion.Wishes, progress func(done, all int)) (Proof, error) {
	b, err := bench.New(s)
	if err != nil {
		return Proof{}, err
	}
	p := on(b)
	p.w = w
	p.out.Steps = []ProofStep{}
	d := p.D
	p.pot, p.loop = d.C.Speed == "motor-potentiometer", d.C.Loop
	d.C.Loop.On = false // the others are proved without it
	parts := []func(){p.link, p.ramps, p.slowest, p.sweep, p.presets, p.buttons, p.reverse, p.lost, p.regulates}
	for i, part := range parts {
		if part(); progress != nil {
			progress(i+1, len(parts))
		}
		if p.Rider.Out.Trip != nil || ctx.Err() != nil {
			break
		}
	}
	p.out.Ended = ctx.Err() != nil
	p.out.Seconds = d.Time - p.Begun
	if t := p.Rider.Out.Trip; t != nil {
		p.out.Trip = t
		p.convict(ctx, s)
	}
	for _, x := range p.out.Steps {
		switch x.Verdict {
		case "holds":
			p.out.Holds++
		case "look-again", "stops":
			p.out.Differs++
		}
	}
	return p.out, nil
}

// note puts a step down with its trace.
func (p *prover) note(key, title, wanted, got, verdict, detail string) {
	l := p.Samples[min(p.from, len(p.Samples)):]
	const most = 160
	x := ProofStep{Key: key, Title: title, Wanted: wanted, Got: got, Verdict: verdict, Detail: detail, Trace: []ride.RideSample{}}
	every := max(1, (len(l)+most-1)/most)
	for i := 0; i < len(l); i += every {
		x.Trace = append(x.Trace, l[i])
	}
	if t := p.Rider.Out.Trip; t != nil {
		x.Verdict, x.Got = "stops", "✕ "+strings.TrimSpace(t.Word+" "+t.Code)
	}
	p.out.Steps = append(p.out.Steps, x)
	p.from = len(p.Samples)
}

// speed judges a shaft's speed against what is wanted there.
func (p *prover) speed(key, title string, wanted float64, detail string) {
	got := p.D.Speed
	if math.IsNaN(wanted) {
		p.note(key, title, "not said", rpm(got), "left-out", detail)
		return
	}
	verdict := "holds"
	if math.Abs(math.Abs(got)-math.Abs(wanted)) > speedWithin*math.Max(p.w.Highest, math.Abs(wanted)) {
		verdict = "look-again"
	}
	p.note(key, title, rpm(wanted), rpm(got), verdict, detail)
}

func rpm(v float64) string { return fmt.Sprintf("%.0f r/min", v) }

// stand waits until the shaft stands; false when it tripped.
func (p *prover) stand() bool {
	most := p.Time() + 3*p.Rider.Out.AskedFall + 240
	for p.Time() < most && (math.Abs(p.D.Speed) > .005*math.Abs(p.Rider.Out.Top)+.5 || p.D.Running) {
		if !p.Step() {
			return false
		}
		p.In.KeyStop = false
	}
	return true
}

func (p *prover) blocked() string {
	if p.D.Blocked != "" {
		return p.D.Blocked
	}
	return "no reason is shown"
}

func seconds(v float64) string {
	if math.IsNaN(v) {
		return "not said"
	}
	return fmt.Sprintf("%.1f s", v)
}

func (p *prover) judgeTime(key, title string, wanted, got float64) {
	if math.IsNaN(wanted) || wanted <= 0 {
		p.note(key, title, "not said", seconds(got), "left-out", "")
		return
	}
	verdict, detail := "holds", ""
	switch {
	case math.IsNaN(got) || math.Abs(got-wanted) > timeWithin*wanted+.3:
		verdict = "look-again"
		if p.Rider.Out.Limited > .2 {
			detail = "The current or torque limit held it."
		} else if p.Rider.Out.Eased > .2 {
			detail = "Bus control stretched it: a resistor, or a longer fall."
		}
	}
	p.Rider.Out.Limited, p.Rider.Out.Eased = 0, 0
	p.note(key, title, seconds(wanted), seconds(got), verdict, detail)
}

// convict says which setting decides a trip, and what would hold.
func (p *prover) convict(ctx context.Context, s bench.Setup) {
	t := p.out.Trip
	hz := p.D.C.Upper
	say := func(setting, would string) { p.out.Setting, p.out.Would = setting, would }
	x, err := ride.ShortestOf(ctx, s, ride.Want{Hz: hz})
	if err != nil {
		return
	}
	switch {
	case t.While == "fall" && x.Fall != nil:
		say("fall", fmt.Sprintf("A fall of %.1f s holds; with a resistor of %.0f Ω %s.", *x.Fall, x.Resistor, maybe(x.FallBraked)))
	case t.While == "fall":
		say("fall", "No fall up to ten minutes holds: let it coast, or fit a resistor.")
	case x.Rise != nil:
		say("rise", fmt.Sprintf("A rise of %.1f s holds.", *x.Rise))
	default:
		say("control", "No rise holds: the load takes more than this control gives at low speed. More boost, vector control, or a "+
			"smaller load.")
	}
}

func maybe(v *float64) string {
	if v == nil {
		return "none does"
	}
	return fmt.Sprintf("one of %.1f s", *v)
}
