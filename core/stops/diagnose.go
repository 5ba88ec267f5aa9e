package stops

import (
	"errors"
	"fmt"
	"runtime"
	"sort"
	"strings"
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
	Excluded int      `json:"excluded" doc:"faults that something shown speaks against"`
	Next     *Next    `json:"next,omitempty"`
	Measure  *Measure `json:"measure,omitempty" doc:"where no test parts them, or a voltage does it sooner"`
}

// Diagnose plays every single mistake against what was shown and measured: what explains all of it is left, in classes that no test
// of the table parts. A suspect goes at its first contradiction. stop, when given, ends it early.
func (p *Played) Diagnose(table []Test, shown []Shown, readings []Reading, stop func() bool) (Diagnosis, error) {
	out := Diagnosis{Agrees: true, Against: []string{}, Classes: []Class{}}
	at := map[string]int{}
	for i, t := range table {
		at[t.Key] = i
	}
	by := map[int][]Shown{}
	var done []int
	for i, s := range shown {
		k, ok := at[s.Test]
		if !ok || s.Step < 0 || s.Step >= len(table[k].Steps) {
			return out, &circuit.FieldError{Path: fmt.Sprintf("shown[%d].test", i), Got: fmt.Sprintf("%s, step %d", s.Test, s.Step), Want: "a test of the table and one of its steps"}
		}
		if by[k] == nil {
			done = append(done, k)
		}
		by[k] = append(by[k], s)
		for id, v := range s.Seen {
			if want := table[k].Steps[s.Step].Must[id]; want != v {
				out.Agrees = false
				out.Against = append(out.Against, fmt.Sprintf("%s, %s: %s is %s, must be %s", table[k].Title, table[k].Steps[s.Step].Do, p.Name(id), v, want))
			}
		}
	}
	if out.Agrees {
		return out, nil
	}
	// Tests that differed come first: they throw most suspects out.
	sort.SliceStable(done, func(a, b int) bool {
		return differs(table[done[a]], by[done[a]]) && !differs(table[done[b]], by[done[b]])
	})
	mistakes := p.Net.Mistakes()
	explains := make([]bool, len(mistakes))
	if err := each(len(mistakes), func(i int) error {
		if stop != nil && stop() {
			return errStopped
		}
		ok, err := p.explains(mistakes[i].Mistake, table, done, by, readings)
		explains[i] = ok
		return err
	}); err == errStopped {
		return out, nil
	} else if err != nil {
		return out, err
	}
	var left []suspect
	total := 0.0
	for i, c := range mistakes {
		if !explains[i] {
			out.Excluded++
			continue
		}
		left = append(left, suspect{Candidate: c, rows: make([]string, len(table))})
		total += c.Weight
	}
	if err := each(len(left)*len(table), func(i int) error {
		s, t := &left[i/len(table)], table[i%len(table)]
		seen, err := p.Play(&s.Mistake, t.Events, t.looks())
		row := fmt.Sprint(err)
		if err == nil {
			row = fmt.Sprint(seen)
		}
		s.rows[i%len(table)] = row
		return nil
	}); err != nil {
		return out, err
	}
	for i := range left {
		left[i].print = strings.Join(left[i].rows, "\n")
	}
	classes := map[string]*Class{}
	var order []string
	for _, s := range left {
		c := classes[s.print]
		if c == nil {
			c = &Class{}
			classes[s.print] = c
			order = append(order, s.print)
		}
		c.Share += s.Weight / total
		c.Mistakes, c.Texts = append(c.Mistakes, s.Mistake), append(c.Texts, s.Text(p.Net))
	}
	for _, k := range order {
		out.Classes = append(out.Classes, *classes[k])
	}
	sort.SliceStable(out.Classes, func(a, b int) bool { return out.Classes[a].Share > out.Classes[b].Share })
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
	}
	if len(out.Classes) < 2 {
		return out, nil
	}
	for k, t := range table {
		if by[k] != nil && len(by[k]) >= len(t.Steps) {
			continue
		}
		groups := map[string]float64{}
		for _, s := range left {
			groups[s.rows[k]] += s.Weight / total
		}
		mean := 0.0
		for _, w := range groups {
			mean += w * w
		}
		if len(groups) > 1 && (out.Next == nil || mean < out.Next.Left-1e-12) {
			out.Next = &Next{t.Key, t.Title, len(groups), mean}
		}
	}
	return out, nil
}

// suspect is a mistake that explains everything, with what it would show in every test.
type suspect struct {
	circuit.Candidate
	print string
	rows  []string
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

// explains tells whether a mistake would have shown everything that was shown, and given every reading.
func (p *Played) explains(m circuit.Mistake, table []Test, done []int, by map[int][]Shown, readings []Reading) (bool, error) {
	for _, k := range done {
		looks := table[k].looks()
		last := 0
		for _, s := range by[k] {
			last = max(last, s.Step)
		}
		seen, err := p.Play(&m, table[k].Events, looks[:last+1])
		if err != nil || !agree(seen, by[k]) {
			return false, nil
		}
	}
	for _, r := range readings {
		if ok, err := p.Agrees(m, table, r); !ok || err != nil {
			return false, err
		}
	}
	return true, nil
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

func agree(seen []Seen, shown []Shown) bool {
	for _, s := range shown {
		for id, v := range s.Seen {
			if seen[s.Step][id] != v {
				return false
			}
		}
	}
	return true
}
