package prove

import (
	"context"
	"fmt"
	"math"
	"strings"
	"sync"

	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/drive"
)

// WhatIf is something that happens while the drive runs, with what it then does.
type WhatIf struct {
	Key    string   `json:"key"`
	What   string   `json:"what"`
	Kind   string   `json:"kind" enum:"goes-on,other-speed,ramp,coast,trip,starts,stands"`
	Does   string   `json:"does"`
	Stands *float64 `json:"stands_s,omitempty" doc:"until the shaft stands; null: it does not within five minutes"`
	Back   string   `json:"back" doc:"when it is put back, with run held as it was"`
	Moves  bool     `json:"moves" doc:"it starts by itself when it is put back, or by what happened"`
}

// WhatIfs are the reactions of a drive by its settings.
type WhatIfs struct {
	From string   `json:"from" doc:"what it was doing"`
	Rows []WhatIf `json:"rows"`
	// Gives says who gives what, in auto and in hand.
	Gives []Giver `json:"gives"`
	Needs string  `json:"needs,omitempty" doc:"why it cannot be brought to run"`
}

// longestFall is for how long a shaft is watched, s of the bench's own time.
const longestFall = 300

// rests is the share of the speed below which a shaft is said to stand: as a ride says it.
const rests = .02

// occurrence is something that can happen to a running drive, and its end.
type occurrence struct {
	key, what string
	happen    func(p *prover)
	back      func(p *prover)
}

// Reactions plays everything that can stop a running drive, or surprise it: run taken away, the stop key, each input, the signal's wire,
// hand and auto, both torque-off channels and one, the line gone and back. Each is put back afterwards, with run held as it was.
func Reactions(ctx context.Context, s bench.Setup) (WhatIfs, error) {
	out := WhatIfs{Rows: []WhatIf{}, Gives: []Giver{}}
	p, err := running(s)
	if err == nil {
		out.Gives = p.gives()
	}
	if err != nil || p.D.Fault != "" || math.Abs(p.D.Speed) < 1 {
		out.Needs = "it does not run by its own command and reference"
		if err == nil && p.D.Blocked != "" {
			out.Needs += ": " + strings.ReplaceAll(p.D.Blocked, "-", " ")
		}
		if err == nil && p.Rider.Out.Trip != nil {
			out.Needs = "it trips on the way up: " + p.Rider.Out.Trip.Word
		}
		return out, err
	}
	out.From = fmt.Sprintf("running at %.1f Hz, %.0f r/min, command by %s", math.Abs(p.D.Ramp()), math.Abs(p.D.Speed), p.D.C.Command)
	list := p.occurrences()
	out.Rows = make([]WhatIf, len(list))
	var wg sync.WaitGroup
	for i, o := range list {
		wg.Go(func() {
			if ctx.Err() == nil {
				out.Rows[i] = p.clone().what(o)
			}
		})
	}
	wg.Wait()
	out.Rows = append(out.Rows, powerUp(s, p))
	return out, ctx.Err()
}

// powerUp is the line switched on with run held, as it was held while the drive ran.
func powerUp(s bench.Setup, p *prover) WhatIf {
	out := WhatIf{Key: "power-up", What: "Power comes, with run held", Kind: "stands", Does: "stands", Back: "a fresh run command"}
	b, err := bench.New(s)
	if err != nil {
		return out
	}
	d, in := b.Sim(), b.Given()
	in.Terminals, in.Analog, in.Net, in.Line = p.In.Terminals, p.In.Analog, p.In.Net, true
	b.Advance(6000)
	if d.Running || math.Abs(d.Speed) > 1 {
		out.Kind, out.Does, out.Back, out.Moves = "starts", "starts by itself", "", true
	} else if d.Blocked != "" {
		out.Does = "stands: " + bench.Standing(d.Blocked)
	}
	return out
}

// running is a bench brought to run at six tenths of its reference, as the plan has it.
func running(s bench.Setup) (*prover, error) {
	b, err := bench.New(s)
	if err != nil {
		return nil, err
	}
	p := on(b)
	d := p.D
	if d.C.Speed == "presets" {
		p.preset(1)
	}
	source := d.C.Speed
	if !d.C.Loop.On {
		p.ask(.6)
	}
	if p.run(true, false) {
		p.settle()
		p.regulated()
	}
	if source == "motor-potentiometer" { // its buttons would have brought it there, in their time
		d.C.Speed = source
		d.SetPot(math.Abs(d.Ramp()))
	}
	return p, nil
}

// clone is the same bench at the same moment, to go its own way.
func (p *prover) clone() *prover {
	x := ride.On(p.B.Twin())
	x.Phase, x.Begun = ride.Fall, p.Begun
	x.Out.AskedRise, x.Out.AskedFall, x.Out.Top = p.Rider.Out.AskedRise, p.Rider.Out.AskedFall, p.D.Speed
	return &prover{Rider: x}
}

// inputWords are what is said of an input's function.
var inputWords = map[string]string{"run-forward": "run", "run-reverse": "reverse", "interlock": "process interlock",
	"coast": "second enable", "stop": "stop", "start": "start", "jog": "jog", "hand": "hand", "second-ramp": "second ramp",
	"preset-0": "preset bit 0", "preset-1": "preset bit 1", "preset-2": "preset bit 2", "faster": "faster", "slower": "slower",
	"jog-reverse": "jog reverse", "quick-stop": "quick stop",
	"external-fault": "fault from outside", "torque-limit-off": "torque limits off"}

func (p *prover) occurrences() []occurrence {
	c := &p.D.C
	l := []occurrence{{"run-off", "Run command taken away", func(p *prover) { p.run(false, false) }, func(p *prover) {}}}
	l = append(l, occurrence{"stop-key", "Stop key at the keypad", func(p *prover) { p.In.KeyStop = true },
		func(p *prover) { p.In.KeyStop = false }})
	for n, t := range bench.DigitalIns(p.B.Setup.Family) {
		bit, f := uint16(1)<<n, c.Inputs[n]
		if f == "" || f == "reset" {
			continue
		}
		word := "closed"
		if p.In.Terminals&bit != 0 {
			word = "wire open"
		}
		flip := func(p *prover) { p.In.Terminals ^= bit }
		l = append(l, occurrence{"input-" + t.Name, fmt.Sprintf("%s, %s: %s", t.Name, inputWords[f], word), flip, flip})
	}
	if c.Speed == "analog" {
		was := p.In.Analog
		l = append(l, occurrence{"signal", "Wire of the signal open", func(p *prover) { p.In.Analog = 0 },
			func(p *prover) { p.In.Analog = was }})
	}
	if c.Command == "network" || c.Speed == "network" {
		l = append(l, occurrence{"network", "Network silent, and back", func(p *prover) {
			p.In.Net.Alive = false
			p.B.Advance(int(c.NetWait / drive.Tick)) // until it is about to count as lost
		}, func(p *prover) { p.In.Net.Alive = true }})
	}
	if c.Loop.On {
		l = append(l, occurrence{"feedback", "Wire of the measured value open", func(p *prover) { p.D.P.Broken.FeedbackOff = true },
			func(p *prover) { p.D.P.Broken.FeedbackOff = false }})
	}
	if c.Command != "keypad" {
		l = append(l, occurrence{"hand", "Hand chosen at the keypad, and back to auto", func(p *prover) { p.In.Hand = true },
			func(p *prover) { p.In.Hand = false }})
	}
	l = append(l,
		occurrence{"torque-off", "Torque off, both channels", func(p *prover) { p.In.A, p.In.B = false, false },
			func(p *prover) { p.In.A, p.In.B = true, true }},
		occurrence{"one-channel", "Torque off, one channel alone", func(p *prover) { p.In.A = false }, func(p *prover) { p.In.A = true }},
		occurrence{"line", "Line gone, and back", func(p *prover) { p.In.Line = false }, func(p *prover) { p.In.Line = true }})
	return l
}

// what plays one occurrence and its end.
func (p *prover) what(o occurrence) WhatIf {
	d := p.D
	out := WhatIf{Key: o.key, What: o.what}
	speed, ramp := math.Abs(d.Speed), d.Ramp()
	o.happen(p)
	begun, steady := d.Time, 0.
	letGo := false
	p.B.Advance(ride.Fine)
	p.In.KeyStop, p.In.KeyRun = false, false
	for d.Time-begun < longestFall {
		was, asked := d.Speed, d.Ramp()
		p.B.Advance(50)
		if math.Abs(d.Speed) < rests*speed {
			at := d.Time - begun
			out.Stands = &at
			break
		}
		if d.Time-begun < .25 {
			letGo = letGo || !d.Running
		}
		if d.Running && d.Phase == drive.Running && math.Abs(d.Ramp()-asked) < 1e-9 && math.Abs(d.Speed-was) < .0005*speed+.05 {
			steady += 50 * drive.Tick
		} else {
			steady = 0
		}
		if steady > 1 && d.Time-begun > 2 {
			break // it goes on at some speed
		}
	}
	if rest := 2 - (d.Time - begun); rest > 0 { // it lasts: what watches for long enough has seen it
		p.B.Advance(int(rest / drive.Tick))
	}
	fault := d.Fault
	switch {
	case d.TripCount > p.Trips:
		code, word := p.B.FaultWords(d.Trips[0].Code)
		out.Kind, out.Does = "trip", strings.TrimSpace("trips, and coasts: "+word+" "+code)
	case out.Stands == nil && d.Running && math.Abs(math.Abs(d.Speed)-speed) < .02*speed:
		out.Kind, out.Does = "goes-on", "goes on as it was"
	case out.Stands == nil && d.Running:
		out.Kind, out.Does = "other-speed", fmt.Sprintf("runs on at %.1f Hz instead of %.1f", d.Ramp(), ramp)
	case letGo:
		out.Kind, out.Does = "coast", "lets go, and coasts"
	case d.Blocked == "quick-stop":
		out.Kind, out.Does = "ramp", "ramps down by its quick stop"
	default:
		out.Kind, out.Does = "ramp", "ramps down"
	}
	o.back(p)
	p.B.Advance(4000)
	switch {
	case o.key == "run-off":
		out.Back = "a fresh run command"
	case d.Fault != "":
		out.Back = clears(p.B, d.Fault)
	case out.Kind == "goes-on":
		out.Back = "goes on"
	case d.Running && (out.Kind == "other-speed" && fault == ""):
		out.Back = "back to its speed"
	case d.Running:
		out.Back, out.Moves = "starts by itself", true
	default:
		out.Back = "stands"
		if d.Blocked != "" {
			out.Back = "stands: " + bench.Standing(d.Blocked)
		}
	}
	return out
}

// clears says how a fault goes, by the family's own list of faults.
func clears(b *bench.Bench, fault string) string {
	code, _ := b.FaultWords(fault)
	for _, f := range b.Setup.Family.Faults {
		if f.Code != code {
			continue
		}
		if f.Clears == "power-cycle" {
			return "waits: power off and on"
		}
		return "waits: the fault wants its reset"
	}
	if b.Sim().Blocked == "power-cycle" || fault == "torque-off-channel" {
		return "waits: power off and on"
	}
	return "waits: the fault wants its reset"
}
