package stops

import (
	"fmt"
	"math"
	"sync"

	"tingate/core/circuit"
)

// formed is what decides what a fault can show: the outline of its net, contacts that it holds at rest, and what of a part is otherwise.
type formed struct {
	outline *circuit.Outline // nil: no such fault can be made
	rest    []int
	parts   string
	kind    int // the same number: the same in all of it
}

// forms are a circuit's faults with their forms, and what they show in a table's tests. It is worked out once: every answer asks for it.
type forms struct {
	mu     sync.Mutex
	table  []Test
	faults []circuit.Candidate
	of     []formed
	kinds  int

	rows  [][]int32 // test -> kind -> number of what it shows; 0: not played yet
	shows sync.Mutex
	by    map[string]int32 // what is shown -> its number
	keys  map[string]int32 // a group of faults in a test -> the same
}

// number numbers what is shown.
func (k *forms) number(shown string) int32 {
	n, ok := k.by[shown]
	if !ok {
		n = int32(len(k.by) + 1)
		k.by[shown] = n
	}
	return n
}

// formsOf works out the forms of all single faults, the sound circuit behind them. The table says which wires are taken off. The lock of
// what is known is held.
func (p *Played) formsOf(table []Test, stop func() bool) ([]circuit.Candidate, []formed, error) {
	k := &p.known
	if k.of != nil && len(k.table) == len(table) && len(table) > 0 && &k.table[0] == &table[0] {
		return k.faults, k.of, nil
	}
	off := map[int]bool{}
	for _, t := range table {
		for _, e := range t.Events {
			if i := p.Net.WireAt(e.What); e.Do == Lift && i >= 0 {
				off[i] = true
			}
		}
	}
	faults := p.Faults()
	of := make([]formed, len(faults)+1)
	keys := make([]string, len(of))
	all := circuit.ContactsOf(p.contacts + len(p.Net.Circuit.Wires))
	for i := range all {
		all[i] = math.MaxUint64
	}
	err := each(len(of), func(i int) error {
		if stop != nil && stop() {
			return errStopped
		}
		var made []circuit.Mistake
		if i < len(faults) {
			made = append(made, faults[i].Mistake)
		}
		of[i] = p.form(made, off)
		if o := of[i].outline; o != nil {
			keys[i] = fmt.Sprintf("%v %s|%s", of[i].rest, of[i].parts, o.When(all, nil, &circuit.Workspace{}))
		} else {
			keys[i] = fmt.Sprint(i)
		}
		return nil
	})
	kinds, first := map[string]int{}, []int{}
	for i, key := range keys {
		if _, ok := kinds[key]; !ok {
			kinds[key] = len(kinds)
			first = append(first, i)
		}
		of[i].kind = kinds[key]
		of[i].outline = of[first[of[i].kind]].outline // one is enough
	}
	if err == nil {
		k.table, k.faults, k.of, k.kinds = table, faults, of, len(kinds)
		k.rows, k.by, k.keys = make([][]int32, len(table)), map[string]int32{}, map[string]int32{}
	}
	return faults, of, err
}

func (p *Played) form(made []circuit.Mistake, off map[int]bool) formed {
	f := p.with(made)
	if f == nil {
		return formed{}
	}
	out := formed{outline: f.net.OutlineOf(off)}
	for key := range f.stuck {
		out.rest = append(out.rest, p.contactsOf(key)...)
	}
	if f.welded != nil || f.lifeless != nil || f.set != nil {
		out.parts = fmt.Sprint(f.welded, f.lifeless, f.set)
	}
	return out
}

// staged is a test as faults are compared in it: what moves, and what it is called. Tests that do the same with other devices have the same
// words, and what plays the same part in them is called the same.
type staged struct {
	moving circuit.Contacts
	names  []int32
	words  string
}

func (p *Played) stage(t *Test) staged {
	n := p.contacts + len(p.Net.Circuit.Wires)
	s := staged{moving: circuit.ContactsOf(n), names: make([]int32, n)}
	for i := range n {
		s.names[i] = int32(i)
		s.moving.Put(i, i < p.contacts)
	}
	for _, l := range p.hands {
		for _, i := range l {
			s.moving.Put(i, false)
		}
	}
	called := map[string]string{}
	next := n
	call := func(what, as string, l ...int) string {
		if called[what] == "" {
			called[what] = fmt.Sprint(as, len(called))
			for _, i := range l {
				s.moving.Put(i, true)
				s.names[i] = int32(next)
				next++
			}
		}
		return called[what]
	}
	var words []byte
	for _, e := range t.Events {
		what := e.What
		switch e.Do {
		case Work, Release:
			what = call(what, "hand ", p.hands[what]...)
		case Lift, Land:
			if i := p.Net.WireAt(what); i >= 0 {
				what = call(what, "wire ", p.contacts+i)
			}
		}
		words = fmt.Append(words, e.At, e.Do, what, ";")
	}
	s.words = string(fmt.Append(words, t.looks()))
	return s
}

// alike puts faults together, by their places, that show the same in a test: whatever moves in it, every load gets the same voltage, and
// nothing of a part is otherwise. The first of each stands for the others. (What is measured between them may part them still.) A group has
// a key: groups of one key show the same in their tests.
func (p *Played) alike(t *Test, list []int, of []formed) (groups [][]int, keys []string) {
	s := p.stage(t)
	group := make([]int, len(of)) // kind -> its group, counted from 1
	at := map[string]int{}        // the same by what is told in this test
	var w circuit.Workspace
	var key []byte
	for _, i := range list {
		f := &of[i]
		k := group[f.kind]
		if k == 0 {
			if key = append(append(append(key[:0], s.words...), f.parts...), '|'); f.outline != nil {
				var held []int
				for _, c := range f.rest {
					if s.moving.Has(c) {
						s.moving.Put(c, false)
						held = append(held, c)
					}
				}
				key = append(key, f.outline.When(s.moving, s.names, &w)...)
				for _, c := range held {
					s.moving.Put(c, true)
				}
			} else {
				key = fmt.Append(key, i)
			}
			if k = at[string(key)]; k == 0 {
				groups, keys = append(groups, nil), append(keys, string(key))
				k = len(groups)
				at[keys[k-1]] = k
			}
			group[f.kind] = k
		}
		groups[k-1] = append(groups[k-1], i)
	}
	return groups, keys
}

// play works out what some faults show in every test, by their places, as far as it is not known yet. The lock of what is known is held.
func (p *Played) play(list []int, stop func() bool) error {
	k := &p.known
	return each(len(k.table), func(n int) error {
		if stop != nil && stop() {
			return errStopped
		}
		if k.rows[n] == nil {
			k.rows[n] = make([]int32, k.kinds)
		}
		row := k.rows[n]
		var todo []int
		asked := map[int]bool{}
		for _, i := range list {
			if kind := k.of[i].kind; row[kind] == 0 && !asked[kind] {
				asked[kind] = true
				todo = append(todo, i)
			}
		}
		groups, keys := p.alike(&k.table[n], todo, k.of)
		for g, l := range groups {
			k.shows.Lock()
			shown, ok := k.keys[keys[g]]
			k.shows.Unlock()
			if !ok {
				r, err := p.begin(mistakes(k.faults, l[0]))
				if err != nil {
					return err
				}
				text := r.row(&k.table[n])
				k.shows.Lock()
				shown = k.number(text)
				k.keys[keys[g]] = shown
				k.shows.Unlock()
			}
			for _, i := range l {
				row[k.of[i].kind] = shown
			}
		}
		return nil
	})
}

// prepare works out all that every search asks for.
func (p *Played) prepare(table []Test) error {
	p.known.mu.Lock()
	defer p.known.mu.Unlock()
	_, of, err := p.formsOf(table, nil)
	if err != nil {
		return err
	}
	all := make([]int, len(of))
	for i := range all {
		all[i] = i
	}
	return p.play(all, nil)
}
