package stops

import (
	"errors"
	"fmt"
	"runtime"
	"slices"
	"sort"
	"sync"
	"sync/atomic"

	"tingate/core/circuit"
)

// Shown is what was seen at a step of a test. Parts that nobody looked at are left out.
type Shown struct {
	Test string `json:"test" doc:"key"`
	Step int    `json:"step" doc:"from 0"`
	Seen Seen   `json:"seen"`
}

// Class is single faults that no test of the table parts.
type Class struct {
	Share    float64           `json:"share" doc:"of all that is left, 0 to 1"`
	Mistakes []circuit.Mistake `json:"mistakes"`
	Texts    []string          `json:"texts"`
}

// Next is the test that parts best what is left.
type Next struct {
	Test  string  `json:"test"`
	Title string  `json:"title"`
	Parts int     `json:"parts" doc:"into so many groups"`
	Left  float64 `json:"left" doc:"share that is left of the suspects, on average"`
}

// Diagnosis is what explains what was shown.
type Diagnosis struct {
	Agrees   bool     `json:"agrees" doc:"everything was as it must be"`
	Against  []string `json:"against" doc:"what was otherwise, in words"`
	Classes  []Class  `json:"classes" doc:"most likely first"`
	Repeat   []string `json:"repeat" doc:"when nothing explains all of it: tests and measurements without which something does, in words; the first first"`
	Excluded int      `json:"excluded" doc:"faults that something shown speaks against"`
	Next     *Next    `json:"next,omitempty"`
	Measure  *Measure `json:"measure,omitempty" doc:"a voltage, live, that parts them"`
	// Continuity is measured dead.
	Continuity *Continuity `json:"continuity,omitempty" doc:"a resistance, dead, that parts them"`
}

// Diagnose plays every single mistake against what was shown and measured: what explains all of it is left, in classes that no test
// of the table parts. A suspect goes at its first contradiction. stop, when given, ends it early.
func (p *Played) Diagnose(table []Test, shown []Shown, readings []Reading, stop func() bool) (Diagnosis, error) {
	out := Diagnosis{Agrees: true, Against: []string{}, Classes: []Class{}, Repeat: []string{}}
	done, by, against, err := p.against(table, shown)
	if err != nil {
		return out, err
	}
	out.Against = against
	if out.Agrees = len(against) == 0; out.Agrees {
		return out, nil
	}
	faults, left, total, err := p.suspects(table, done, by, readings, stop)
	if errors.Is(err, errStopped) {
		return out, nil
	} else if err != nil {
		return out, err
	}
	out.Excluded = len(faults) - len(left)
	if len(left) == 0 {
		out.Repeat = p.repeat(table, done, by, readings, stop)
		return out, nil
	}
	out.Classes = p.classes(left, total)
	if len(left) > 1 {
		var suspects []circuit.Mistake
		for _, s := range left {
			suspects = append(suspects, s.Mistake)
		}
		k, step := done[0], 0
		for _, s := range by[k] {
			if differs(table[k], []Shown{s}) {
				step = s.Step
				break
			}
		}
		out.Measure = p.BestMeasure(suspects, table[k], step)
		out.Continuity = p.BestContinuity(suspects)
	}
	if len(out.Classes) > 1 {
		out.Next = p.nextTest(table, by, left, total)
	}
	return out, nil
}

// classes puts together what no test of the table parts.
func (p *Played) classes(left []suspect, total float64) []Class {
	at := map[string]int{}
	var out []Class
	for _, s := range left {
		k, ok := at[s.print]
		if !ok {
			k = len(out)
			at[s.print] = k
			out = append(out, Class{})
		}
		c := &out[k]
		c.Share += s.Weight / total
		c.Mistakes, c.Texts = append(c.Mistakes, s.Mistake), append(c.Texts, p.Text(s.Mistake))
	}
	sort.SliceStable(out, func(a, b int) bool { return out[a].Share > out[b].Share })
	return out
}

// nextTest is the one that parts best what is left; nil: none does.
func (p *Played) nextTest(table []Test, by map[int][]Shown, left []suspect, total float64) (best *Next) {
	for k, t := range table {
		if by[k] != nil && len(by[k]) >= len(t.Steps) {
			continue
		}
		groups := map[int32]float64{}
		for _, s := range left {
			groups[p.known.rows[k][s.kind]] += s.Weight / total
		}
		mean := 0.0
		for _, w := range groups {
			mean += w * w
		}
		if len(groups) > 1 && (best == nil || mean < best.Left-1e-12) {
			best = &Next{t.Key, t.Title, len(groups), mean}
		}
	}
	return best
}

// against sorts what was shown by test, those that differed first since they throw most suspects out, and says what was otherwise.
func (p *Played) against(table []Test, shown []Shown) (done []int, by map[int][]Shown, against []string, err error) {
	at := map[string]int{}
	for i, t := range table {
		at[t.Key] = i
	}
	by, against = map[int][]Shown{}, []string{}
	for i, s := range shown {
		k, ok := at[s.Test]
		if !ok || s.Step < 0 || s.Step >= len(table[k].Steps) {
			return nil, nil, nil, &circuit.FieldError{Path: fmt.Sprintf("shown[%d].test", i),
				Got: fmt.Sprintf("%s, step %d", s.Test, s.Step), Want: "a test of the table and one of its steps"}
		}
		if by[k] == nil {
			done = append(done, k)
		}
		by[k] = append(by[k], s)
		for _, id := range p.order {
			v, ok := s.Seen[id]
			if want := table[k].Steps[s.Step].Must[id]; ok && want != v {
				against = append(against, fmt.Sprintf("%s, %s: %s is %s, must be %s", table[k].Title, table[k].Steps[s.Step].Do,
					p.Name(id), v, want))
			}
		}
	}
	sort.SliceStable(done, func(a, b int) bool {
		return differs(table[done[a]], by[done[a]]) && !differs(table[done[b]], by[done[b]])
	})
	return done, by, against, nil
}

var errStopped = errors.New("stopped")

// each does a job n times on every processor, and gives the first error by its number.
func each(n int, job func(i int) error) error {
	workers := min(runtime.GOMAXPROCS(0), n)
	errs := make([]error, n)
	var next atomic.Int64
	var wg sync.WaitGroup
	for range workers {
		wg.Go(func() {
			for i := int(next.Add(1)) - 1; i < n; i = int(next.Add(1)) - 1 {
				if errs[i] = job(i); errs[i] != nil {
					next.Store(int64(n))
				}
			}
		})
	}
	wg.Wait()
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// repeat finds what stands alone against everything else: the test or measurement without which a single fault, or none, explains all.
// Those that the likeliest faults ask to be repeated come first.
func (p *Played) repeat(table []Test, done []int, by map[int][]Shown, readings []Reading, stop func() bool) []string {
	p.known.mu.Lock()
	defer p.known.mu.Unlock()
	faults, of, err := p.formsOf(table, stop)
	if err != nil {
		return []string{}
	}
	// what each fault is against, when it is one thing alone; the sound circuit is the last
	alone := make([]int, len(faults)+1)
	var list []int // those against one thing at most
	for i := range alone {
		alone[i] = -1
		list = append(list, i)
	}
	against := func(k int, explains []int) {
		var still []int
		for _, i := range list {
			if _, ok := slices.BinarySearch(explains, i); !ok {
				if alone[i] >= 0 {
					alone[i] = -1
					continue // more than one thing
				}
				alone[i] = k
			}
			still = append(still, i)
		}
		list = still
	}
	for k, t := range done {
		l, err := p.explaining(&table[t], by[t], faults, list, of, stop)
		if err != nil {
			return []string{}
		}
		against(k, l)
	}
	for k := range readings {
		l, err := p.giving(table, readings[k:k+1], faults, list, stop)
		if err != nil {
			return []string{}
		}
		against(len(done)+k, l)
	}
	all := append(slices.Clone(faults), circuit.Candidate{Weight: 10})
	weight := map[int]float64{}
	for i, k := range alone {
		if k >= 0 {
			weight[k] += all[i].Weight
		}
	}
	var keys []int
	for k := range weight {
		keys = append(keys, k)
	}
	sort.Slice(keys, func(a, b int) bool {
		if weight[keys[a]] != weight[keys[b]] {
			return weight[keys[a]] > weight[keys[b]]
		}
		return keys[a] < keys[b]
	})
	l := []string{}
	for _, k := range keys {
		if k < len(done) {
			l = append(l, table[done[k]].Title)
		} else {
			l = append(l, readings[k-len(done)].text())
		}
	}
	return l
}

// agrees tells whether what is seen now is what was shown at a step.
func (r *play) agrees(shown []Shown, step int) bool {
	for _, s := range shown {
		if s.Step != step {
			continue
		}
		for i := range r.list {
			if want, ok := s.Seen[r.list[i].id]; ok && want != r.list[i].shows() {
				return false
			}
		}
	}
	return true
}

func differs(t Test, shown []Shown) bool {
	for _, s := range shown {
		for id, v := range s.Seen {
			if t.Steps[s.Step].Must[id] != v {
				return true
			}
		}
	}
	return false
}
