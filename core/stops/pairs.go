package stops

import (
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
}

// mostPairs is how many are listed.
const mostPairs = 30

// DiagnosePairs plays two faults at once. Faults that show the same in every test that was done stand for one another, and a fault
// that shows nothing is left out: another alone would do as well. progress, when given, is told now and then how many were tried of how
// many; it ends the search with false.
func (p *Played) DiagnosePairs(table []Test, shown []Shown, readings []Reading, progress func(tried, all int) bool) (Pairs, error) {
	out := Pairs{Found: []Pair{}}
	done, by, _, err := p.against(table, shown)
	if err != nil {
		return out, err
	}
	faults := p.Faults()
	rows := make([]string, len(faults))
	if err := each(len(faults), func(i int) error {
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
	}); err == errStopped {
		out.Ended = true
		return out, nil
	} else if err != nil {
		return out, err
	}
	sound, err := p.begin(nil)
	if err != nil {
		return out, err
	}
	nothing := ""
	for _, k := range done {
		nothing += sound.row(&table[k]) + "\n"
	}
	at := map[string]int{}
	type kind struct {
		circuit.Candidate // the most usual of those that show the same, with the weight of all
		most              float64
		alike             int
	}
	var kinds []kind
	for i, c := range faults {
		if rows[i] == nothing {
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
	type two struct{ a, b int }
	var all []two
	for sum := 1; sum < 2*len(kinds); sum++ { // likely ones first: small numbers are heavy
		for a := max(0, sum-len(kinds)+1); a < sum-a; a++ {
			all = append(all, two{a, sum - a})
		}
	}
	out.All = len(all)
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
		out.Found = append(out.Found, Pair{a.Weight * b.Weight, [2]circuit.Mistake{a.Mistake, b.Mistake}, [2]string{p.Text(a.Mistake), p.Text(b.Mistake)}, [2]int{a.alike, b.alike}})
		return nil
	})
	if err == errStopped {
		out.Ended, err = true, nil
	}
	sort.SliceStable(out.Found, func(a, b int) bool { return out.Found[a].Share > out.Found[b].Share })
	for i := range out.Found {
		out.Found[i].Share /= total
	}
	out.Found = out.Found[:min(len(out.Found), mostPairs)]
	return out, err
}
