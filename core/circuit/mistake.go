package circuit

import "fmt"

// Kind is what was done otherwise than drawn.
type Kind string

// Mistakes of wiring; of parts, stop circuits know more.
const (
	Open      Kind = "open"
	Moved     Kind = "moved"
	Exchanged Kind = "exchanged"
	Bridged   Kind = "bridged"
	OtherKind Kind = "contact" // it breaks where it should make, or makes where it should break
)

// Mistake is one thing done otherwise than drawn.
type Mistake struct {
	Kind  Kind   `json:"kind" enum:"open,moved,exchanged,bridged,contact,stuck,welded,lifeless,missing,setting" doc:"the last five are of parts, in stop circuits"`
	Wire  string `json:"wire,omitempty"`
	Other string `json:"other,omitempty" doc:"the wire exchanged with it"`
	End   string `json:"end,omitempty" enum:"from,to,"`
	At    string `json:"at,omitempty" doc:"terminal it landed on; of a bridge: one side; of a contact: part.contact"`
	To    string `json:"to,omitempty" doc:"of a bridge: the other side"`
}

// How often each kind is met, against one another. Common practice.
var often = map[Kind]float64{Open: 3, Moved: 1, Exchanged: 3, Bridged: 1, OtherKind: 2}

// near is how much likelier it is to land on a neighbour, or on the same number of another strip, than elsewhere.
const near = 3

// Text says a mistake in a sentence.
func (m Mistake) Text(n *Net) string {
	end := func(id, end string) string {
		for _, w := range n.Circuit.Wires {
			if w.ID == id {
				if end == "from" {
					return w.From
				}
				return w.To
			}
		}
		return "?"
	}
	switch m.Kind {
	case Open:
		return fmt.Sprintf("Wire %s is open, or not landed.", m.Wire)
	case Moved:
		return fmt.Sprintf("Wire %s is on %s instead of %s.", m.Wire, m.At, end(m.Wire, m.End))
	case Exchanged:
		return fmt.Sprintf("Wires %s and %s are exchanged at %s and %s.", m.Wire, m.Other, end(m.Wire, m.End), m.At)
	case Bridged:
		return fmt.Sprintf("%s and %s touch, or are linked.", m.At, m.To)
	case OtherKind:
		return fmt.Sprintf("Contact %s is of the other kind: it breaks where it should make, or makes where it should break.", m.At)
	}
	return string(m.Kind)
}

// With is the net as it would be with a mistake made; nil when the mistake names what is not there.
func (n *Net) With(m Mistake) *Net {
	out := *n
	switch m.Kind {
	case Open, Moved, Exchanged:
		i := n.wireAt(m.Wire)
		if i < 0 {
			return nil
		}
		out.wires = append([][2]int(nil), n.wires...)
		switch m.Kind {
		case Open:
			out.wires[i] = [2]int{-1, -1}
		case Moved:
			k, ok := n.index[m.At]
			if !ok {
				return nil
			}
			out.wires[i][side(m.End)] = k
		case Exchanged:
			k := n.wireAt(m.Other)
			at, ok := n.index[m.At]
			if k < 0 || !ok {
				return nil
			}
			other := 0
			if n.wires[k][1] == at {
				other = 1
			}
			out.wires[i][side(m.End)], out.wires[k][other] = at, n.wires[i][side(m.End)]
		}
	case Bridged:
		a, ok := n.index[m.At]
		b, ok2 := n.index[m.To]
		if !ok || !ok2 {
			return nil
		}
		out.bonds = append(append([][2]int(nil), n.bonds...), [2]int{a, b})
	case OtherKind:
		out.moving = append([]moving(nil), n.moving...)
		found := false
		for i := range out.moving {
			if out.moving[i].key == m.At {
				out.moving[i].closed, found = !out.moving[i].closed, true
			}
		}
		if !found {
			return nil
		}
	default:
		return nil
	}
	return &out
}

func side(end string) int {
	if end == "from" {
		return 0
	}
	return 1
}

var ends = [2]string{"from", "to"}

func (n *Net) wireAt(id string) int {
	for i, w := range n.Circuit.Wires {
		if w.ID == id {
			return i
		}
	}
	return -1
}

// Candidate is a mistake with how often its kind is met.
type Candidate struct {
	Mistake
	Weight float64 `json:"weight"`
}

// Mistakes lists every single mistake that could be made: an open wire, an end on another terminal of its part or on the
// same number of another strip, two ends of a part exchanged, neighbours joined, a contact of the wrong kind.
func (n *Net) Mistakes() []Candidate { return n.MistakesWithin(0) }

// manyTerminals is from where on a part is searched like a strip: nobody lands a wire at its other end.
const manyTerminals = 24

// MistakesWithin is Mistakes, where a wire on a strip, or on a part of many terminals, is thought to land, or to be exchanged, no
// further than so many terminals from its own. 0: anywhere on it.
func (n *Net) MistakesWithin(reach int) []Candidate {
	var out []Candidate
	nodes := make([][]int, len(n.Circuit.Parts)) // part -> its nodes, side by side
	place := make([]int, len(n.names))
	for node, p := range n.part {
		place[node] = len(nodes[p])
		nodes[p] = append(nodes[p], node)
	}
	far := func(a, b int) bool {
		d := place[a] - place[b]
		return reach > 0 && (d > reach || d < -reach) &&
			(n.Circuit.Parts[n.part[a]].Kind == "strip" || len(n.Circuit.Parts[n.part[a]].Terminals) > manyTerminals)
	}
	at := make([][][2]int, len(n.Circuit.Parts)) // part -> ends that land on it: wire, side
	for i, w := range n.wires {
		id := n.Circuit.Wires[i].ID
		out = append(out, Candidate{Mistake{Kind: Open, Wire: id}, often[Open]})
		for e, node := range w {
			p := n.part[node]
			at[p] = append(at[p], [2]int{i, e})
			for _, to := range nodes[p] {
				if to == node || to == w[1-e] || far(to, node) {
					continue
				}
				weight := often[Moved]
				if d := place[to] - place[node]; d == 1 || d == -1 {
					weight *= near
				}
				out = append(out, Candidate{Mistake{Kind: Moved, Wire: id, End: ends[e], At: n.names[to]}, weight})
			}
			for _, to := range n.alike(node) {
				if to != w[1-e] {
					out = append(out, Candidate{Mistake{Kind: Moved, Wire: id, End: ends[e], At: n.names[to]}, often[Moved] * near})
				}
			}
		}
	}
	for _, list := range at {
		for i, a := range list {
			for _, b := range list[i+1:] {
				x, y := n.wires[a[0]][a[1]], n.wires[b[0]][b[1]]
				if a[0] == b[0] || x == y || far(x, y) {
					continue
				}
				out = append(out, Candidate{Mistake{Kind: Exchanged, Wire: n.Circuit.Wires[a[0]].ID, End: ends[a[1]],
					Other: n.Circuit.Wires[b[0]].ID, At: n.names[y]}, often[Exchanged]})
			}
		}
	}
	for _, list := range nodes {
		for i := range max(0, len(list)-1) {
			out = append(out, Candidate{Mistake{Kind: Bridged, At: n.names[list[i]], To: n.names[list[i+1]]}, often[Bridged]})
		}
	}
	seen := map[string]bool{}
	for _, m := range n.moving {
		if !seen[m.key] && n.inField(m) {
			seen[m.key] = true
			out = append(out, Candidate{Mistake{Kind: OtherKind, At: m.key}, often[OtherKind]})
		}
	}
	return out
}

// inField tells whether a person can work a contact, or have bought the wrong one: a drive's own relays are neither.
func (n *Net) inField(m moving) bool { return n.Circuit.Parts[n.part[m.a]].Kind != "drive" }

// alike are the terminals of the same name on other strips.
func (n *Net) alike(node int) []int {
	part := n.Circuit.Parts[n.part[node]]
	if part.Kind != "strip" {
		return nil
	}
	name := n.names[node][len(part.ID)+1:]
	var out []int
	for _, p := range n.Circuit.Parts {
		if p.Kind == "strip" && p.ID != part.ID {
			if k, ok := n.index[p.ID+":"+name]; ok {
				out = append(out, k)
			}
		}
	}
	return out
}
