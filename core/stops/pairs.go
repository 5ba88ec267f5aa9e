package stops

import (
	"errors"
	"sort"
	"sync"

	"tingate/core/circuit"
)

// Pair is two faults at once that explain what was shown.
type Pair struct {
	Share  float64            `json:"share" doc:"of the pairs that were found, 0 to 1"`
	Faults [2]circuit.Mistake `json:"faults"`
	Texts  [2]string          `json:"texts"`
	Alike  [2]int             `json:"alike" doc:"how many further faults show the same as each"`
}

// Pairs are double faults, for when no single one explains what was shown.
type Pairs struct {
	Found []Pair `json:"found" doc:"most likely first; faults that show the same everywhere stand for one another"`
	Tried int    `json:"tried"`
	All   int    `json:"all"`
	Ended bool   `json:"ended" doc:"before all were tried"`
	Left  int    `json:"left" doc:"pairs with a fault that shows nothing alone, the least likely, that were not tried"`
}

// mostPairs is how many are listed.
const mostPairs = 30

// mostSilent is how many pairs are tried of which one fault or both show nothing alone, the likely ones first.
const mostSilent = 30_000

// DiagnosePairs plays two faults at once. Faults that show the same in every test that was done stand for one another. A fault that
// shows nothing alone may still hide or uncover another: such pairs are tried after the others. One that changes nothing at all, a
// wire that stays on its potential, is left out. progress, when given, is told now and then how many were tried of how
// many; it ends the search with false.
func (p *Played) DiagnosePairs(table []Test, shown []Shown, readings []Reading, progress func(tried, all int) bool) (Pairs, error) {
	out := Pairs{Found: []Pair{}}
	done, by, _, err := p.against(table, shown)
	if err != nil {
		return out, err
	}
	kinds, silent, err := p.kinds(table, done, progress)
	if errors.Is(err, errStopped) {
		out.Ended = true
		return out, nil
	} else if err != nil {
		return out, err
	}
	loud := len(kinds)
	for _, c := range silent {
		kinds = append(kinds, kind{Candidate: c})
	}
	// A fault that explains all of it alone does so with every silent one: that says nothing new.
	alone := make([]bool, loud)
	for k := range alone {
		r, err := p.begin([]circuit.Mistake{kinds[k].Mistake})
		if err != nil {
			return out, err
		}
		if alone[k], err = r.explains(table, done, by, readings); err != nil {
			return out, err
		}
	}
	all, tried := twos(loud, len(silent), alone)
	out.All, out.Left = len(all), loud*len(silent)+len(silent)*(len(silent)-1)/2-(len(all)-tried)
	var mu sync.Mutex
	total := 0.0
	err = each(len(all), func(i int) error {
		mu.Lock()
		out.Tried++
		goOn := progress == nil || out.Tried%256 != 0 || progress(out.Tried, out.All)
		mu.Unlock()
		if !goOn {
			return errStopped
		}
		a, b := kinds[all[i].a], kinds[all[i].b]
		r, err := p.begin([]circuit.Mistake{a.Mistake, b.Mistake})
		if err != nil {
			return nil // the two exclude each other
		}
		if ok, err := r.explains(table, done, by, readings); err != nil || !ok {
			return err
		}
		mu.Lock()
		defer mu.Unlock()
		total += a.Weight * b.Weight
		out.Found = append(out.Found,
			Pair{a.Weight * b.Weight, [2]circuit.Mistake{a.Mistake, b.Mistake}, [2]string{p.Text(a.Mistake), p.Text(b.Mistake)},
				[2]int{a.alike, b.alike}})
		return nil
	})
	if errors.Is(err, errStopped) {
		out.Ended, err = true, nil
	}
	sort.SliceStable(out.Found, func(a, b int) bool { return out.Found[a].Share > out.Found[b].Share })
	for i := range out.Found {
		out.Found[i].Share /= total
	}
	out.Found = out.Found[:min(len(out.Found), mostPairs)]
	return out, err
}

// kind is faults that show the same in every test that was done: the most usual of them, with the weight of all.
type kind struct {
	circuit.Candidate
	most  float64
	alike int // how many further ones
}

// kinds puts faults together that show the same in the tests done, the heavy ones first; silent are those that show nothing alone, and
// change something.
func (p *Played) kinds(table []Test, done []int, progress func(tried, all int) bool) (kinds []kind, silent []circuit.Candidate, err error) {
	faults := p.Faults()
	rows := make([]string, len(faults))
	err = each(len(faults), func(i int) error {
		if progress != nil && !progress(0, 0) {
			return errStopped
		}
		r, err := p.begin([]circuit.Mistake{faults[i].Mistake})
		if err != nil {
			return err
		}
		for _, k := range done {
			rows[i] += r.row(&table[k]) + "\n"
		}
		return nil
	})
	if err != nil {
		return nil, nil, err
	}
	sound, err := p.begin(nil)
	if err != nil {
		return nil, nil, err
	}
	nothing := ""
	for _, k := range done {
		nothing += sound.row(&table[k]) + "\n"
	}
	at := map[string]int{}
	for i, c := range faults {
		if rows[i] == nothing {
			if f := p.with([]circuit.Mistake{c.Mistake}); f.net == p.Net || !p.Net.SameAlways(f.net) {
				silent = append(silent, c)
			}
			continue
		}
		k, ok := at[rows[i]]
		if !ok {
			k = len(kinds)
			at[rows[i]] = k
			kinds = append(kinds, kind{alike: -1})
		}
		kinds[k].alike++
		kinds[k].Weight += c.Weight
		if c.Weight > kinds[k].most {
			kinds[k].most, kinds[k].Mistake = c.Weight, c.Mistake
		}
	}
	sort.SliceStable(kinds, func(a, b int) bool { return kinds[a].Weight > kinds[b].Weight })
	sort.SliceStable(silent, func(a, b int) bool { return silent[a].Weight > silent[b].Weight })
	return kinds, silent, nil
}

// couple are the places of two kinds; the silent ones stand behind the loud ones.
type couple struct{ a, b int }

// twos are the pairs that are tried, likely ones first: those of loud kinds, so many, then those with silent ones.
func twos(loud, silent int, alone []bool) (all []couple, ofLoud int) {
	for sum := 1; sum < 2*loud; sum++ { // small numbers are heavy
		for a := max(0, sum-loud+1); a < sum-a; a++ {
			all = append(all, couple{a, sum - a})
		}
	}
	ofLoud = len(all)
	for a := range loud {
		for b := range min(silent, mostSilent/2/loud) {
			if !alone[a] {
				all = append(all, couple{a, loud + b})
			}
		}
	}
	for b := 1; b < silent && b*(b+1) <= mostSilent; b++ {
		for a := range b {
			all = append(all, couple{loud + a, loud + b})
		}
	}
	return all, ofLoud
}
