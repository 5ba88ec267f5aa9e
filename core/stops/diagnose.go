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
	faults := p.Faults()
	players := make([]*play, len(faults))
	if err := each(len(faults), func(i int) error {
		if stop != nil && stop() {
			return errStopped
		}
		r, err := p.begin([]circuit.Mistake{faults[i].Mistake})
		if err != nil {
			return err
		}
		ok, err := r.explains(table, done, by, readings)
		if ok {
			players[i] = r
		}
		return err
	}); err == errStopped {
		return out, nil
	} else if err != nil {
		return out, err
	}
	var left []suspect
	total := 0.0
	for i, c := range faults {
		if players[i] == nil {
			out.Excluded++
			continue
		}
		left = append(left, suspect{Candidate: c, play: players[i], rows: make([]string, len(table))})
		total += c.Weight
	}
	if err := each(len(left), func(i int) error {
		for k := range table {
			if stop != nil && stop() {
				return errStopped
			}
			left[i].rows[k] = left[i].play.row(&table[k])
		}
		return nil
	}); err == errStopped {
		return out, nil
	}
	if len(left) == 0 {
		out.Repeat = p.repeat(table, done, by, readings, faults, stop)
		return out, nil
	}
	for i := range left {
		left[i].print = strings.Join(left[i].rows, "\n")
	}
	sort.SliceStable(left, func(a, b int) bool { return left[a].Weight > left[b].Weight })
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
		c.Mistakes, c.Texts = append(c.Mistakes, s.Mistake), append(c.Texts, p.Text(s.Mistake))
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
		out.Continuity = p.BestContinuity(suspects)
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

// suspect is a mistake that explains everything, with what it would show in every test.
type suspect struct {
	circuit.Candidate
	play  *play
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

// Reason is why a fault is out, or that it stays.
type Reason struct {
	Text  string `json:"text"`
	Stays bool   `json:"stays"`
	Why   string `json:"why" doc:"the first thing that it would have shown otherwise"`
}

// Why says of the faults whose text has all of some words, in any case, why each is out or that it stays; at most most of them.
func (p *Played) Why(table []Test, shown []Shown, readings []Reading, words []string, most int) ([]Reason, error) {
	done, by, _, err := p.against(table, shown)
	if err != nil {
		return nil, err
	}
	out := []Reason{}
	for _, f := range p.Faults() {
		text := p.Text(f.Mistake)
		fits := true
		for _, w := range words {
			fits = fits && strings.Contains(strings.ToLower(text), strings.ToLower(w))
		}
		if !fits {
			continue
		}
		if len(out) == most {
			break
		}
		r, err := p.begin([]circuit.Mistake{f.Mistake})
		if err != nil {
			return nil, err
		}
		why := r.contradiction(table, done, by, readings)
		out = append(out, Reason{text, why == "", why})
	}
	return out, nil
}

// contradiction is the first thing that a fault would have shown otherwise, in words; "" when it explains everything.
func (r *play) contradiction(table []Test, done []int, by map[int][]Shown, readings []Reading) string {
	for _, k := range done {
		t := &table[k]
		why := ""
		err := r.run(t.Events, t.looks(), func(step int) bool {
			for _, s := range by[k] {
				for i := range r.list {
					x := &r.list[i]
					if saw, ok := s.Seen[x.id]; ok && s.Step == step && saw != x.shows() {
						why = fmt.Sprintf("%s, step %d: %s would be %s, it was %s.", t.Title, step+1, r.p.Name(x.id),
							strings.ReplaceAll(x.shows(), "-", " "), strings.ReplaceAll(saw, "-", " "))
						return false
					}
				}
			}
			return true
		})
		if err != nil {
			return "The circuit would never come to rest: " + err.Error()
		}
		if why != "" {
			return why
		}
	}
	for _, x := range readings {
		if ok, _ := r.reads(table, x); !ok {
			return "It would not give the reading " + x.text() + "."
		}
	}
	return ""
}

// row is what a whole test would show, to be compared.
func (r *play) row(t *Test) string {
	var out []byte
	if err := r.run(t.Events, t.looks(), func(int) bool { out = r.print(out); return true }); err != nil {
		return err.Error()
	}
	return string(out)
}

// explains tells whether a fault would have shown everything that was shown, and given every reading. It goes no further than
// the first contradiction.
func (r *play) explains(table []Test, done []int, by map[int][]Shown, readings []Reading) (bool, error) {
	for _, k := range done {
		looks := table[k].looks()
		last := 0
		for _, s := range by[k] {
			last = max(last, s.Step)
		}
		ok := true
		if err := r.run(table[k].Events, looks[:last+1], func(step int) bool { ok = r.agrees(by[k], step); return ok }); err != nil || !ok {
			return false, nil
		}
	}
	for _, x := range readings {
		if ok, err := r.reads(table, x); !ok || err != nil {
			return false, err
		}
	}
	return true, nil
}

// repeat finds what stands alone against everything else: the test or measurement without which a single fault, or none, explains all.
// Those that the likeliest faults ask to be repeated come first.
func (p *Played) repeat(
	table []Test,
	done []int,
	by map[int][]Shown,
	readings []Reading,
	faults []circuit.Candidate,
	stop func() bool,
) []string {
	alone := make([]int, len(faults)+1) // what each fault is against, when it is one thing alone; -1: more than one
	all := append([]circuit.Candidate{{Weight: 10}}, faults...)
	_ = each(len(all), func(i int) error {
		alone[i] = -1
		if stop != nil && stop() {
			return errStopped
		}
		var f []circuit.Mistake
		if all[i].Kind != "" {
			f = append(f, all[i].Mistake)
		}
		r, err := p.begin(f)
		if err != nil {
			return nil
		}
		against := -1
		for k := range len(done) + len(readings) {
			var ok bool
			if k < len(done) {
				ok, _ = r.explains(table, done[k:k+1], by, nil)
			} else {
				ok, _ = r.reads(table, readings[k-len(done)])
			}
			if !ok && against >= 0 {
				return nil // more than one thing
			}
			if !ok {
				against = k
			}
		}
		alone[i] = against
		return nil
	})
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
