package stops

import (
	"sort"
	"strings"

	"tingate/core/circuit"
)

// Smallest is the smallest set of tests that was found which still parts all single faults that the whole table parts.
type Smallest struct {
	Keys    []string `json:"keys" doc:"in the order of the table"`
	Faults  int      `json:"faults" doc:"single faults that were played"`
	Classes int      `json:"classes" doc:"that the whole table, and this set, part them into; the sound circuit is one"`
	Silent  int      `json:"silent" doc:"faults that no test shows: harmless, or hidden until another comes"`
	Hidden  []string `json:"hidden" doc:"those of them that are no mere joining of what is joined anyway, in words"`
	Exact   bool     `json:"exact" doc:"every fault was played in every test; otherwise the set follows from the form of the circuit"`
}

// mostPlays is how many plays of a fault in a test are done before the set is taken from the circuit's form instead.
const mostPlays = 200_000

// SmallestSet works out the set. stop, when given, ends it early; then it follows from the form of the circuit.
func (p *Played) SmallestSet(table []Test, stop func() bool) Smallest {
	faults := p.Faults()
	out := Smallest{Faults: len(faults), Keys: []string{}, Hidden: []string{}}
	if len(faults)*len(table) > mostPlays {
		return p.byForm(table, out)
	}
	rows := make([][]int, len(table)) // test -> fault -> number of what it shows
	text := make([][]string, len(faults))
	if err := each(len(faults), func(i int) error {
		if stop != nil && stop() {
			return errStopped
		}
		r, err := p.begin([]circuit.Mistake{faults[i].Mistake})
		if err != nil {
			return err
		}
		for k := range table {
			text[i] = append(text[i], r.row(&table[k]))
		}
		return nil
	}); err != nil {
		return p.byForm(table, out)
	}
	sound, _ := p.begin(nil)
	for k := range table {
		number := map[string]int{sound.row(&table[k]): 0}
		rows[k] = make([]int, len(faults)+1) // the last is the sound circuit, 0
		for i := range faults {
			n, ok := number[text[i][k]]
			if !ok {
				n = len(number)
				number[text[i][k]] = n
			}
			rows[k][i] = n
		}
	}
	part := make([]int, len(faults)+1)
	whole := part
	for k := range table {
		whole, out.Classes = refine(whole, rows[k])
	}
	for i := range faults {
		if whole[i] == whole[len(faults)] {
			out.Silent++
			if built := p.Net.With(faults[i].Mistake); built == nil || !built.Alike(p.Net) {
				out.Hidden = append(out.Hidden, p.Text(faults[i].Mistake))
			}
		}
	}
	// The test that parts most comes next, until nothing is parted any more; then those that the others make needless go.
	classes := 1
	var chosen []int
	for classes < out.Classes {
		best, most := -1, classes
		for k := range table {
			if _, n := refine(part, rows[k]); n > most {
				best, most = k, n
			}
		}
		part, classes = refine(part, rows[best])
		chosen = append(chosen, best)
	}
	for i := 0; i < len(chosen); {
		without := make([]int, len(faults)+1)
		n := 1
		for j, k := range chosen {
			if j != i {
				without, n = refine(without, rows[k])
			}
		}
		if n == out.Classes {
			chosen = append(chosen[:i:i], chosen[i+1:]...)
		} else {
			i++
		}
	}
	sort.Ints(chosen)
	for _, k := range chosen {
		out.Keys = append(out.Keys, table[k].Key)
	}
	out.Exact = true
	return out
}

// refine parts classes further by what a test shows.
func refine(classes, row []int) ([]int, int) {
	number := map[[2]int]int{}
	out := make([]int, len(classes))
	for i, c := range classes {
		key := [2]int{c, row[i]}
		n, ok := number[key]
		if !ok {
			n = len(number)
			number[key] = n
		}
		out[i] = n
	}
	return out, len(number)
}

// byForm takes what large circuits need at least: every device by both channels and by each alone, every reset held and early once,
// the drives' channels, the feedback and the supply.
func (p *Played) byForm(table []Test, out Smallest) Smallest {
	once := map[string]bool{}
	for _, t := range table {
		kind, _, _ := strings.Cut(t.Key, "/")
		if (kind == "held" || kind == "early" || kind == "two") && once[kind] {
			continue
		}
		once[kind] = true
		out.Keys = append(out.Keys, t.Key)
	}
	return out
}
