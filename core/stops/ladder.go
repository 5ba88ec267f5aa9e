package stops

import (
	"strings"

	"tingate/core/circuit"
)

// Rung is a load with the contacts through which it is fed, from the plus to the minus, as it is drawn.
type Rung struct {
	Load   string    `json:"load" doc:"part.load"`
	Part   string    `json:"part"`
	Name   string    `json:"name"`
	From   string    `json:"from" doc:"terminal of the source where it begins; empty: it is fed from nowhere"`
	To     string    `json:"to" doc:"terminal of the source where it ends; empty: it leads nowhere"`
	Before []Element `json:"before" doc:"contacts on the way to the load"`
	After  []Element `json:"after" doc:"contacts on the way back"`
	At     string    `json:"at" doc:"the load's terminal on the plus side"`
}

// Element is a contact on a rung.
type Element struct {
	Part    string `json:"part"`
	Name    string `json:"name"`
	Contact string `json:"contact" doc:"as Timing lists closed ones: part:a-b"`
	A       string `json:"a" doc:"terminal towards the source"`
	B       string `json:"b"`
	Rest    bool   `json:"rest" doc:"closed at rest"`
	Wire    string `json:"wire,omitempty" doc:"that leads to it"`
	Hand    bool   `json:"hand,omitempty" doc:"worked by a person"`
}

// Ladder draws a circuit as rungs: the channels first, as devices and loads stand in the circuit.
func (p *Played) Ladder() []Rung {
	l := p.Net.Live(nil)
	g := &ladder{p: p, live: l, at: map[int32][]step{}, plus: map[int32]string{}, minus: map[int32]string{}, wire: map[string]string{}}
	for _, x := range p.Net.Circuit.Parts {
		for _, c := range x.Contacts {
			a, b := l.Node(x.ID+":"+c.A), l.Node(x.ID+":"+c.B)
			e := Element{Part: x.ID, Name: x.Name, Contact: x.ID + ":" + c.A + "-" + c.B, Rest: c.Closed, Hand: len(p.hands[x.ID]) > 0}
			there, back := e, e
			there.A, there.B = x.ID+":"+c.A, x.ID+":"+c.B
			back.A, back.B = there.B, there.A
			g.at[a] = append(g.at[a], step{b, there})
			g.at[b] = append(g.at[b], step{a, back})
		}
		for _, s := range x.Sources {
			g.plus[l.Node(x.ID+":"+s.Plus)], g.minus[l.Node(x.ID+":"+s.Minus)] = x.ID+":"+s.Plus, x.ID+":"+s.Minus
		}
	}
	for _, w := range p.Net.Circuit.Wires {
		for _, end := range []string{w.From, w.To} {
			if g.wire[end] == "" {
				g.wire[end] = w.ID
			}
		}
	}
	var out []Rung
	for _, x := range p.Net.Circuit.Parts {
		for _, load := range x.Loads {
			if load.Name == "supply" {
				continue
			}
			out = append(out, g.rung(x, load))
		}
	}
	return out
}

type step struct {
	to int32
	by Element
}

type ladder struct {
	p           *Played
	live        *circuit.Live
	at          map[int32][]step
	plus, minus map[int32]string
	wire        map[string]string
}

func (g *ladder) rung(x circuit.Part, load circuit.Load) Rung {
	name := x.ID
	if x.Name != "" {
		name += " " + x.Name
	}
	r := Rung{Load: x.ID + "." + load.Name, Part: x.ID, Name: name, At: x.ID + ":" + load.A}
	up, from, okUp := g.way(g.live.Node(x.ID+":"+load.A), g.plus)
	down, to, okDown := g.way(g.live.Node(x.ID+":"+load.B), g.minus)
	if !okUp || !okDown { // it may be drawn the other way round
		if up2, from2, ok := g.way(g.live.Node(x.ID+":"+load.B), g.plus); ok && !okUp && !okDown {
			r.At = x.ID + ":" + load.B
			up, from = up2, from2
			down, to, _ = g.way(g.live.Node(x.ID+":"+load.A), g.minus)
		}
	}
	// The way was looked for from the load: towards it the elements stand the other way round.
	r.Before = make([]Element, 0, len(up))
	for i := len(up) - 1; i >= 0; i-- {
		e := up[i]
		e.A, e.B = e.B, e.A
		e.Wire = g.wire[e.A]
		r.Before = append(r.Before, e)
	}
	r.After = []Element{}
	for _, e := range down {
		e.Wire = g.wire[e.A]
		r.After = append(r.After, e)
	}
	r.From, r.To = from, to
	return r
}

// way is the shortest way over contacts from a node to a source's terminal. A way through contacts that open when others of the same
// part close is none.
func (g *ladder) way(from int32, ends map[int32]string) ([]Element, string, bool) {
	type place struct {
		node int32
		prev int
		by   Element
	}
	seen := map[int32]bool{from: true}
	queue := []place{{from, -1, Element{}}}
	for i := 0; i < len(queue); i++ {
		at := queue[i]
		if end, ok := ends[at.node]; ok {
			var l []Element
			for k := i; queue[k].prev >= 0; k = queue[k].prev {
				l = append([]Element{queue[k].by}, l...)
			}
			return l, end, true
		}
		for _, s := range g.at[at.node] {
			if !seen[s.to] {
				seen[s.to] = true
				queue = append(queue, place{s.to, i, s.by})
			}
		}
	}
	return nil, "", false
}

// Label is a rung's load in a word: the input, the coil, the lamp.
func (r Rung) Label() string {
	_, name, _ := strings.Cut(r.Load, ".")
	return name
}
