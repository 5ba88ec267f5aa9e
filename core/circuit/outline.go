package circuit

import (
	"encoding/binary"
	"slices"
)

// Contacts are some of a circuit's contacts, by their numbers, and behind them its wires, by their places.
type Contacts []uint64

// ContactsOf is room for so many.
func ContactsOf(n int) Contacts { return make(Contacts, (n+63)/64) }

// Put puts one in, or takes it out.
func (c Contacts) Put(i int, in bool) {
	if in {
		c[i>>6] |= 1 << (i & 63)
	} else {
		c[i>>6] &^= 1 << (i & 63)
	}
}

// Has tells whether one is in.
func (c Contacts) Has(i int) bool { return c[i>>6]>>(i&63)&1 == 1 }

// outlined is a contact, or several in a row, between two potentials.
type outlined struct {
	ends     [2]int32
	contacts []int32 // twice its number, one more when it is closed at rest; a wire counts behind the contacts
	gone     bool
	all      Contacts // the same by bits, once it is worked out; open: those that are open at rest
	open     Contacts
}

// outlining is a net on its way to its outline.
type outlining struct {
	edges []outlined
	at    [][]int32 // potential -> its contacts
	fixed []int32   // potential -> the first end of a load or source there; -1: there is none
	// room for what is worked out once and again
	root, ends, contacts, first, order, names []int32
	seen                                      []bool
	out, name, other                          []byte
}

// Workspace is room for outlines that are worked out one after the other.
type Workspace struct{ o outlining }

// Outline is what loads and sources can ever tell of a net: contacts in a row with nothing between them are one, and what leads nowhere is
// left out.
type Outline struct {
	ends  []int32 // potentials of the loads' ends, then of the sources'
	edges []outlined
	size  int // potentials
}

// OutlineOf works out a net's outline. off are wires, by their places in the circuit, that may be taken off: each counts as a contact.
func (n *Net) OutlineOf(off map[int]bool) *Outline {
	l := n.Live(off)
	var ends []int32
	for _, x := range l.loads {
		ends = append(ends, x.a, x.b)
	}
	for _, x := range l.sources {
		ends = append(ends, x.plus, x.minus)
	}
	var o outlining
	o.begin(ends, len(l.root))
	rows := make([]int32, 0, len(l.moving)+len(off)) // of one contact each, to begin with
	add := func(number, a, b int32) {
		rows = append(rows, number)
		o.join(rows[len(rows)-1:len(rows):len(rows)], a, b)
	}
	for i, m := range l.moving {
		c := int32(2 * i)
		if m.closed {
			c++
		}
		add(c, m.a, m.b)
	}
	for i, w := range n.wires {
		if off[i] && w[0] >= 0 && w[1] >= 0 {
			add(int32(2*(len(l.moving)+i)+1), l.base[w[0]], l.base[w[1]])
		}
	}
	o.reduce()
	// What is left is few: potentials are numbered anew.
	out := &Outline{ends: ends}
	number := make([]int32, len(l.root))
	at := func(k int32) int32 {
		if number[k] == 0 {
			out.size++
			number[k] = int32(out.size)
		}
		return number[k] - 1
	}
	for i, k := range ends {
		ends[i] = at(k)
	}
	for _, e := range o.edges {
		if e.gone {
			continue
		}
		x := outlined{ends: [2]int32{at(e.ends[0]), at(e.ends[1])}, contacts: e.contacts, all: ContactsOf(len(l.moving) + len(n.wires)),
			open: ContactsOf(len(l.moving) + len(n.wires))}
		for _, c := range e.contacts {
			x.all.Put(int(c>>1), true)
			x.open.Put(int(c>>1), c&1 == 0)
		}
		slices.Sort(x.contacts)
		out.edges = append(out.edges, x)
	}
	return out
}

// When is what loads and sources can tell when only some contacts move, as a text to be compared: nets of one circuit with the same text
// give every load the same voltage at all times, whichever of these contacts are worked. names, when given, are the numbers that the
// contacts have in it: parts that play the same part in two texts can be called the same. The text stands in the workspace until the next
// is worked out there.
func (o *Outline) When(moving Contacts, names []int32, w *Workspace) []byte {
	x := &w.o
	x.root = x.root[:0]
	for i := range o.size {
		x.root = append(x.root, int32(i))
	}
	find := func(k int32) int32 {
		for x.root[k] != k {
			x.root[k] = x.root[x.root[k]]
			k = x.root[k]
		}
		return k
	}
	// What cannot move joins for good, or never.
	x.contacts = x.contacts[:0]
	for i := range o.edges {
		if e := &o.edges[i]; e.moves(moving) == never {
			x.root[find(e.ends[0])] = find(e.ends[1])
		}
	}
	x.ends = x.ends[:0]
	for _, k := range o.ends {
		x.ends = append(x.ends, find(k))
	}
	x.begin(x.ends, o.size)
	for i := range o.edges {
		e := &o.edges[i]
		if e.moves(moving) != sometimes {
			continue
		}
		from := len(x.contacts)
		for _, c := range e.contacts {
			if !moving.Has(int(c >> 1)) {
				continue
			}
			if names != nil {
				c = names[c>>1]<<1 | c&1
			}
			x.contacts = append(x.contacts, c)
		}
		to := len(x.contacts)
		x.join(x.contacts[from:to:to], find(e.ends[0]), find(e.ends[1]))
	}
	x.reduce()
	return x.text(x.ends)
}

// What contacts in a row do when only some move: they may join, join always (none of them moves), or are open always.
const (
	sometimes = iota
	never
	open
)

func (e *outlined) moves(moving Contacts) int {
	out := never
	for i, all := range e.all {
		m := moving[i]
		if e.open[i]&^m != 0 {
			return open
		}
		if all&m != 0 {
			out = sometimes
		}
	}
	return out
}

// begin is potentials without contacts between them.
func (o *outlining) begin(ends []int32, potentials int) {
	o.edges, o.fixed = o.edges[:0], o.fixed[:0]
	for len(o.at) < potentials {
		o.at = append(o.at, nil)
	}
	o.at = o.at[:potentials]
	for i := range o.at {
		o.at[i] = o.at[i][:0]
		o.fixed = append(o.fixed, -1)
	}
	for i, k := range ends {
		if o.fixed[k] < 0 {
			o.fixed[k] = int32(i)
		}
	}
}

// join puts contacts between two potentials.
func (o *outlining) join(contacts []int32, a, b int32) {
	if a == b {
		return
	}
	k := int32(len(o.edges))
	o.edges = append(o.edges, outlined{ends: [2]int32{a, b}, contacts: contacts})
	o.at[a], o.at[b] = append(o.at[a], k), append(o.at[b], k)
}

func (o *outlining) reduce() {
	for k := range o.at {
		o.shrink(int32(k))
	}
	o.reach()
}

// here are the contacts that still end at a potential.
func (o *outlining) here(k int32) []int32 {
	l := o.at[k][:0]
	for _, n := range o.at[k] {
		if e := &o.edges[n]; !e.gone && (e.ends[0] == k || e.ends[1] == k) {
			l = append(l, n)
		}
	}
	o.at[k] = l
	return l
}

func (e *outlined) other(k int32) int32 {
	if e.ends[0] == k {
		return e.ends[1]
	}
	return e.ends[0]
}

// shrink takes a potential away where nothing but one or two contacts ends, and then perhaps its neighbours.
func (o *outlining) shrink(k int32) {
	if o.fixed[k] >= 0 {
		return
	}
	switch l := o.here(k); len(l) {
	case 1: // it leads nowhere
		e := &o.edges[l[0]]
		e.gone = true
		o.shrink(e.other(k))
	case 2: // the two are one
		e, gone := &o.edges[l[0]], &o.edges[l[1]]
		x, y := e.other(k), gone.other(k)
		gone.gone = true
		e.contacts = append(e.contacts, gone.contacts...)
		e.ends = [2]int32{x, y}
		o.at[y] = append(o.at[y], l[0])
		if x == y { // once round: it joins nothing
			e.gone = true
			o.shrink(x)
		}
	}
}

// reach leaves out what no load or source is joined to.
func (o *outlining) reach() {
	o.seen = append(o.seen[:0], make([]bool, len(o.at))...)
	todo := o.names[:0]
	for k, f := range o.fixed {
		if f >= 0 {
			o.seen[k] = true
			todo = append(todo, int32(k))
		}
	}
	for len(todo) > 0 {
		k := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		for _, n := range o.here(k) {
			if y := o.edges[n].other(k); !o.seen[y] {
				o.seen[y] = true
				todo = append(todo, y)
			}
		}
	}
	o.names = todo
	for i := range o.edges {
		e := &o.edges[i]
		e.gone = e.gone || !o.seen[e.ends[0]]
	}
}

// text writes the outline. A potential is named by the first load or source there, else by the first contact of each row that ends there:
// each contact stands in one row only, so that this names one potential.
func (o *outlining) text(ends []int32) []byte {
	o.first, o.order = o.first[:0], o.order[:0]
	for i := range o.edges {
		e := &o.edges[i]
		if e.gone {
			o.first = append(o.first, -1)
			continue
		}
		slices.Sort(e.contacts)
		o.first = append(o.first, e.contacts[0])
		o.order = append(o.order, int32(i))
	}
	slices.SortFunc(o.order, func(a, b int32) int { return int(o.first[a] - o.first[b]) })
	out := o.out[:0]
	for _, k := range ends {
		out = binary.AppendUvarint(out, uint64(o.fixed[k]))
	}
	for _, n := range o.order {
		e := &o.edges[n]
		out = append(out, '|')
		for _, c := range e.contacts {
			out = binary.AppendUvarint(out, uint64(c))
		}
		o.name, o.other = o.named(o.name[:0], e.ends[0]), o.named(o.other[:0], e.ends[1])
		a, b := o.name, o.other
		if slices.Compare(a, b) > 0 {
			a, b = b, a
		}
		out = append(append(append(out, ':'), a...), b...)
	}
	o.out = out
	return out
}

// named writes a potential's name.
func (o *outlining) named(out []byte, k int32) []byte {
	if f := o.fixed[k]; f >= 0 {
		return binary.AppendUvarint(append(out, '='), uint64(f))
	}
	o.names = o.names[:0]
	for _, n := range o.here(k) {
		o.names = append(o.names, o.first[n])
	}
	slices.Sort(o.names)
	out = append(out, '~')
	for _, c := range o.names {
		out = binary.AppendUvarint(out, uint64(c))
	}
	return out
}
