package stops

import (
	"fmt"
	"slices"
	"strings"

	"tingate/core/circuit"
)

// Every is the time between two test pulses of one output, ms: long against any filter, short against a person's act. Common practice.
const Every = 100

// pulse is one output that goes dark for a moment, again and again.
type pulse struct {
	part, name   string
	of           int // the sending device in play; -1: a device worked by hand
	source       int // -1: it is contacts
	contacts     []int
	width, after int
	gap          bool
}

// train are the test pulses of a play, with room for what they do to the circuit.
type train struct {
	pulses []pulse
	from   int // when the first begins
	every  int // ms; longer than usual where so many send that they would meet
	moved  []bool
	dark   []bool
	note   func(p *pulse, now int)
}

// expect looks up which of its own sources each channel of a pulsed relay comes from: with every contact closed.
func (p *Played) expect() {
	var live *circuit.Live
	for i := range p.protos {
		x := &p.protos[i]
		x.expects = make([][2]int, len(x.pairs))
		for k := range x.pairs {
			x.expects[k] = [2]int{-1, -1}
		}
		if !x.d.Pulsed {
			continue
		}
		if live == nil {
			l, worked := p.Net.Live(nil), make([]bool, p.contacts)
			for c, closed := range p.closed {
				worked[c] = !closed
			}
			l.Solve(worked, make([]bool, p.nsources))
			live = l
		}
		for k, pair := range x.pairs {
			for side, load := range pair {
				from, many := -1, 0
				for s := range p.nsources {
					if live.Fed(load, s) {
						from, many = slices.Index(x.sources, s), many+1
					}
				}
				if many == 1 {
					x.expects[k][side] = from
				}
			}
		}
	}
}

// pulses are those that the parts of a circuit send.
func (p *Played) pulses() []pulse {
	var l []pulse
	width := func(ms int) int { return max(1, ms) }
	for i := range p.protos {
		x := &p.protos[i]
		if x.d.Does != SafetyRelay {
			continue
		}
		if x.d.Pulsed {
			for k, s := range x.sources {
				l = append(l, pulse{part: x.id, name: fmt.Sprintf("test output %d", k+1), of: i, source: s, width: width(x.d.Pulse)})
			}
		}
		if x.d.OutPulse > 0 {
			for k, c := range append(slices.Clone(x.outs), x.delayed...) {
				l = append(l, pulse{part: x.id, name: fmt.Sprintf("output %d", k+1), of: i, source: -1, contacts: []int{c},
					width: x.d.OutPulse})
			}
		}
	}
	for _, id := range p.order {
		if d := p.Devices[id]; d.Does == Hand && d.Kind == LightCurtain {
			for k, c := range p.hands[id] {
				l = append(l, pulse{part: id, name: fmt.Sprintf("output %d", k+1), of: -1, source: -1, contacts: []int{c},
					width: width(d.Pulse)})
			}
		}
	}
	return l
}

// inTurn spreads pulses over a period, and gives its length.
func inTurn(l []pulse) int {
	every := Every
	for i := range l {
		every = max(every, 2*l[i].width*(len(l)+1))
	}
	for i := range l {
		l[i].after = (i + 1) * every / (len(l) + 1)
	}
	return every
}

// beat puts the pulses where they are now.
func (r *play) beat(now int) {
	if r.train == nil {
		return
	}
	for i := range r.train.pulses {
		p := &r.train.pulses[i]
		t := now - r.train.from - p.after
		if gap := t >= 0 && t%r.train.every < p.width; gap != p.gap {
			p.gap, r.stale = gap, true
			r.train.note(p, now)
		}
	}
}

// beats is the next moment at which a pulse begins or ends, if that is before then.
func (r *play) beats(now, then int) int {
	if r.train == nil {
		return then
	}
	for i := range r.train.pulses {
		p := &r.train.pulses[i]
		for _, edge := range [2]int{r.train.from + p.after, r.train.from + p.after + p.width} {
			next := edge
			if now >= edge {
				next = edge + ((now-edge)/r.train.every+1)*r.train.every
			}
			then = min(then, next)
		}
	}
	return then
}

// inGap tells whether a source is dark for a test pulse.
func (r *play) inGap(source int) bool {
	return r.train != nil && slices.ContainsFunc(r.train.pulses, func(p pulse) bool { return p.gap && p.source == source })
}

// gaps are contacts and sources as the pulses leave them.
func (r *play) gaps(moved, dark []bool) ([]bool, []bool) {
	if r.train == nil {
		return moved, dark
	}
	m, d := append(r.train.moved[:0], moved...), append(r.train.dark[:0], dark...)
	r.train.moved, r.train.dark = m, d
	for i := range r.train.pulses {
		p := &r.train.pulses[i]
		if !p.gap {
			continue
		}
		if p.source >= 0 {
			d[p.source] = true
		}
		for _, c := range p.contacts {
			m[c] = r.p.closed[c] // open, whichever way it rests
		}
	}
	return m, d
}

// Trained is what test pulses do to a circuit that is on.
type Trained struct {
	Timing
	Sends    []string `json:"sends" doc:"what sends test pulses, with their width"`
	Problems []string `json:"problems" doc:"what does not pass them over"`
}

// Train plays the test pulses of a circuit for some of their periods, everything closed and reset, and tells what drops out.
func (p *Played) Train(periods int) (Trained, error) {
	out := Trained{Sends: []string{}, Problems: []string{},
		Timing: Timing{Lit: []string{}, Closed: []string{}, Lanes: []Lane{}, Shows: Seen{}}}
	l := p.pulses()
	if len(l) == 0 {
		return out, nil
	}
	r, err := p.begin(nil)
	if err != nil {
		return out, err
	}
	var events []Event
	now := press
	for _, b := range p.resets() {
		events = append(events, Event{now, "work", b}, Event{now + press, "release", b})
		now += settled
	}
	for _, d := range p.Of(DriveInputs) {
		events = append(events, Event{now, "reset", d}, Event{now + press, "reset-off", d}, Event{now + 2*press, "run", d})
	}
	from := now + settled
	every := inTurn(l)
	out.Until = periods * every
	lane := map[string]*Lane{}
	var order []string
	note := func(key, name string, now int, shows string) {
		x, ok := lane[key]
		if !ok {
			x = &Lane{Part: key, Name: name, Spans: []Stand{}}
			lane[key], order = x, append(order, key)
		}
		at := max(0, now-from)
		n := len(x.Spans)
		switch {
		case n > 0 && x.Spans[n-1].Shows == shows:
		case n > 0 && x.Spans[n-1].At == at:
			x.Spans[n-1].Shows = shows
		default:
			x.Spans = append(x.Spans, Stand{at, shows})
		}
	}
	key := func(q *pulse) string { return q.part + " " + q.name }
	for i := range l {
		out.Sends = append(out.Sends, fmt.Sprintf("%s, %s: %d ms", p.Name(l[i].part), l[i].name, l[i].width))
		note(key(&l[i]), key(&l[i]), 0, "sends")
	}
	r.train = &train{pulses: l, from: from, every: every, note: func(q *pulse, now int) {
		note(key(q), key(q), now, map[bool]string{true: "gap", false: "sends"}[q.gap])
	}}
	before := map[string]string{}
	dropped := map[string]bool{}
	r.each = func(now int) {
		for i := range r.list {
			x := &r.list[i]
			if x.d.Does != SafetyRelay && x.d.Does != DriveInputs && x.d.Does != Relay {
				continue
			}
			shows := x.shows()
			note(x.id, p.Name(x.id), now, shows)
			if now == from {
				before[x.id] = shows
			}
			if was, ok := before[x.id]; ok && was != shows && !dropped[x.id] {
				dropped[x.id] = true
				filter := ""
				if x.d.Filter > 0 {
					filter = fmt.Sprintf(" Its filter is %d ms.", x.d.Filter)
				}
				out.Problems = append(out.Problems,
					fmt.Sprintf("%s goes from %s to %s by a test pulse.%s", p.Name(x.id), spaced(was), spaced(shows), filter))
			}
		}
	}
	err = r.run(events, []int{from, from + out.Until}, func(int) bool { return true })
	for _, k := range order {
		out.Lanes = append(out.Lanes, *lane[k])
	}
	return out, err
}

func spaced(s string) string { return strings.ReplaceAll(s, "-", " ") }
