package stops

import (
	"tingate/core/circuit"
)

// Continuity is a resistance to be measured with the power off and proved dead, from terminal to terminal.
type Continuity struct {
	A        string            `json:"a"`
	B        string            `json:"b"`
	Held     string            `json:"held,omitempty" doc:"a device to be worked meanwhile"`
	Expected map[string]string `json:"expected" doc:"joined or open, by suspect in words"`
	Joined   int               `json:"if_joined" doc:"suspects that are left then"`
	Open     int               `json:"if_open"`
	Left     float64           `json:"left" doc:"share of the suspects that is left, on average"`
}

// atRest puts the power off and a device out of rest: what is joined then can be measured.
func (r *play) atRest(held string) {
	r.afresh()
	for i := range r.dark {
		r.dark[i] = true
	}
	if held != "" {
		r.move(r.p.hands[held], true)
	}
	r.live.Close(r.moved)
}

// joins tells whether two terminals are joined with the power off and a device held.
func (r *play) joins(a, b, held string) bool {
	r.atRest(held)
	return r.live.Joined(a, b)
}

// probes are the resistances worth measuring, by the device that is held: over a wire, over a contact at rest or worked, between
// neighbours.
func (p *Played) probes() map[string][][2]string {
	out := map[string][][2]string{}
	add := func(a, b, held string) { out[held] = append(out[held], [2]string{a, b}) }
	for _, w := range p.Net.Circuit.Wires {
		add(w.From, w.To, "")
	}
	for _, x := range p.Net.Circuit.Parts {
		for _, c := range x.Contacts {
			add(x.ID+":"+c.A, x.ID+":"+c.B, "")
			if len(p.hands[x.ID]) > 0 {
				add(x.ID+":"+c.A, x.ID+":"+c.B, x.ID)
			}
		}
		for i := 1; i < len(x.Terminals); i++ {
			add(x.ID+":"+x.Terminals[i-1], x.ID+":"+x.Terminals[i], "")
		}
	}
	return out
}

// BestContinuity is the resistance that parts suspects best; nil when none parts them.
func (p *Played) BestContinuity(suspects []circuit.Mistake) *Continuity {
	plays := make([]*play, len(suspects))
	probes := p.probes()
	helds := []string{""}
	for _, id := range p.order {
		if len(probes[id]) > 0 {
			helds = append(helds, id)
		}
	}
	at := map[string][][2]int{}
	for held, l := range probes {
		for _, x := range l {
			at[held] = append(at[held], [2]int{p.Net.NodeAt(x[0]), p.Net.NodeAt(x[1])})
		}
	}
	// what each suspect joins, by what is held and the probe
	joins := make([][][]bool, len(suspects))
	if err := each(len(suspects), func(i int) error {
		var err error
		if plays[i], err = p.begin(suspects[i : i+1]); err != nil {
			return err
		}
		joins[i] = make([][]bool, len(helds))
		for h, held := range helds {
			plays[i].atRest(held)
			joins[i][h] = make([]bool, 0, len(at[held]))
			for _, x := range at[held] {
				joins[i][h] = append(joins[i][h], plays[i].live.Meets(x[0], x[1]))
			}
		}
		return nil
	}); err != nil {
		return nil
	}
	var best *Continuity
	n := float64(len(plays))
	for h, held := range helds {
		for k, x := range probes[held] {
			joined := 0
			for i := range joins {
				if joins[i][h][k] {
					joined++
				}
			}
			c := Continuity{A: x[0], B: x[1], Held: held, Joined: joined, Open: len(plays) - joined}
			c.Left = (float64(c.Joined*c.Joined) + float64(c.Open*c.Open)) / (n * n)
			if c.Joined > 0 && c.Open > 0 && (best == nil || c.Left < best.Left-1e-12) {
				best = &c
			}
		}
	}
	if best != nil {
		best.Expected = map[string]string{}
		for i, r := range plays {
			best.Expected[p.Text(suspects[i])] = map[bool]string{true: "joined", false: "open"}[r.joins(best.A, best.B, best.Held)]
		}
	}
	return best
}
