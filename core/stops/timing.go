package stops

import (
	"tingate/core/circuit"
)

// Lane is one part over time.
type Lane struct {
	Part  string  `json:"part"`
	Name  string  `json:"name"`
	Spans []Stand `json:"spans" doc:"each until the next"`
}

// Stand is how a part stands from a time on, ms.
type Stand struct {
	At    int    `json:"at_ms"`
	Shows string `json:"shows"`
}

// Timing is what every part does while events happen, hands included.
type Timing struct {
	Lanes []Lane `json:"lanes"`
	Until int    `json:"until_ms"`
	// Lit are the wires that have a voltage at the end, against the minus of the first source.
	Lit []string `json:"lit"`
	// Closed are the contacts that are closed at the end, part.contact by its two terminals.
	Closed []string `json:"closed"`
	Shows  Seen     `json:"shows" doc:"at the end"`
}

// Timing plays events, with faults if any are given, until a time, and notes every change.
func (p *Played) Timing(faults []circuit.Mistake, events []Event, until int) (Timing, error) {
	out := Timing{Until: until, Lit: []string{}, Closed: []string{}}
	r, err := p.begin(faults)
	if err != nil {
		return out, err
	}
	at := map[string]int{}
	for _, id := range p.order {
		at[id] = len(out.Lanes)
		out.Lanes = append(out.Lanes, Lane{Part: id, Name: p.Name(id), Spans: []Stand{}})
	}
	note := func(id string, now int, shows string) {
		l := &out.Lanes[at[id]]
		if n := len(l.Spans); n == 0 || l.Spans[n-1].Shows != shows {
			l.Spans = append(l.Spans, Stand{now, shows})
		}
	}
	r.each = func(now int) {
		for i := range r.list {
			note(r.list[i].id, now, r.list[i].shows())
		}
		for _, id := range p.order {
			if l := p.hands[id]; len(l) > 0 {
				note(id, now, map[bool]string{true: "worked", false: "at rest"}[r.worked(l)])
			}
		}
	}
	err = r.run(events, []int{until}, func(int) bool {
		out.Shows = r.seen()
		minus := p.Minus()
		for i, w := range p.Net.Circuit.Wires {
			if !r.lifted[i] && r.live.Lit(w.From, minus) {
				out.Lit = append(out.Lit, w.ID)
			}
		}
		out.Closed = append(out.Closed, r.closed()...)
		return true
	})
	return out, err
}

// worked tells whether a person holds a device: a stuck contact does not tell it.
func (r *play) worked(l []int) bool {
	for _, i := range l {
		if r.moved[i] {
			return true
		}
	}
	return false
}

// closed lists the contacts that are closed, as part:terminal-terminal.
func (r *play) closed() []string {
	var out []string
	i := 0
	for _, x := range r.p.Net.Circuit.Parts {
		for _, c := range x.Contacts {
			if c.Closed != r.moved[i] {
				out = append(out, x.ID+":"+c.A+"-"+c.B)
			}
			i++
		}
	}
	return out
}
