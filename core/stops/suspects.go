package stops

import (
	"encoding/binary"
	"slices"
	"sort"

	"tingate/core/circuit"
)

// suspects are the faults that explain everything, the heavy ones first, with what each would show in every test, and their weight
// together. What shows the same in a test is played once.
func (p *Played) suspects(table []Test, done []int, by map[int][]Shown, readings []Reading, stop func() bool) (
	faults []circuit.Candidate, left []suspect, total float64, err error) {
	p.known.mu.Lock()
	defer p.known.mu.Unlock()
	faults, of, err := p.formsOf(table, stop)
	if err != nil {
		return nil, nil, 0, err
	}
	var alive []int
	for i := range faults {
		alive = append(alive, i)
	}
	for _, k := range done {
		if alive, err = p.explaining(&table[k], by[k], faults, alive, of, stop); err != nil {
			return nil, nil, 0, err
		}
	}
	if alive, err = p.giving(table, readings, faults, alive, stop); err != nil {
		return nil, nil, 0, err
	}
	if err = p.play(alive, stop); err != nil {
		return nil, nil, 0, err
	}
	prints := map[int]string{} // of kinds
	for _, i := range alive {
		kind := of[i].kind
		print, ok := prints[kind]
		if !ok {
			raw := make([]byte, 0, 4*len(table))
			for k := range table {
				raw = binary.LittleEndian.AppendUint32(raw, uint32(p.known.rows[k][kind]))
			}
			print = string(raw)
			prints[kind] = print
		}
		left = append(left, suspect{Candidate: faults[i], kind: kind, print: print})
		total += faults[i].Weight
	}
	sort.SliceStable(left, func(a, b int) bool { return left[a].Weight > left[b].Weight })
	return faults, left, total, nil
}

// explaining are those of some faults that explain what was shown of a test.
func (p *Played) explaining(t *Test, shown []Shown, faults []circuit.Candidate, list []int, of []formed, stop func() bool) ([]int, error) {
	groups, _ := p.alike(t, list, of)
	ok := make([]bool, len(groups))
	err := each(len(groups), func(g int) error {
		if stop != nil && stop() {
			return errStopped
		}
		r, err := p.begin(mistakes(faults, groups[g][0]))
		if err != nil {
			return err
		}
		ok[g] = r.showed(t, shown)
		return nil
	})
	var out []int
	for g, l := range groups {
		if ok[g] {
			out = append(out, l...)
		}
	}
	slices.Sort(out)
	return out, err
}

// giving are those of some faults that would have given every reading: between parts that show the same, voltages differ.
func (p *Played) giving(table []Test, readings []Reading, faults []circuit.Candidate, list []int, stop func() bool) ([]int, error) {
	if len(readings) == 0 {
		return list, nil
	}
	ok := make([]bool, len(list))
	err := each(len(list), func(n int) error {
		if stop != nil && stop() {
			return errStopped
		}
		r, err := p.begin(mistakes(faults, list[n]))
		for _, x := range readings {
			if err != nil {
				return err
			}
			if ok[n], err = r.reads(table, x); !ok[n] {
				return err
			}
		}
		return err
	})
	var out []int
	for n, i := range list {
		if ok[n] {
			out = append(out, i)
		}
	}
	return out, err
}

// mistakes are a fault by its place; behind them all is the sound circuit.
func mistakes(faults []circuit.Candidate, i int) []circuit.Mistake {
	if i >= len(faults) {
		return nil
	}
	return []circuit.Mistake{faults[i].Mistake}
}

// suspect is a mistake that explains everything, with what it would show in every test.
type suspect struct {
	circuit.Candidate
	kind  int
	print string // by it what is shown in every test is compared
}
