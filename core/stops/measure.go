package stops

import (
	"fmt"
	"math"

	"tingate/core/circuit"
)

// Measure is a voltage to be measured, live, by a competent person: it parts what tests leave together.
type Measure struct {
	Test     string             `json:"test" doc:"key; the circuit stands as in"`
	Step     int                `json:"step" doc:"this step of it"`
	At       string             `json:"at" doc:"part:terminal"`
	Against  string             `json:"against"`
	Expected map[string]float64 `json:"expected_v" doc:"by suspect, in words; a floating terminal reads 0"`
	Groups   int                `json:"groups" doc:"that it parts them into"`
	Left     float64            `json:"left" doc:"share of the suspects that is left, on average"`
}

// Reading is a voltage as it was measured at a step of a test; or, with Joined, what a meter showed with the power off.
type Reading struct {
	Test   string  `json:"test,omitempty"`
	Step   int     `json:"step,omitempty"`
	At     string  `json:"at,omitempty"`
	Volts  float64 `json:"volts,omitempty"`
	A      string  `json:"a,omitempty"`
	B      string  `json:"b,omitempty"`
	Held   string  `json:"held,omitempty" doc:"a device that was worked meanwhile"`
	Joined *bool   `json:"joined,omitempty" doc:"from a to b, dead"`
}

// text says a reading in words.
func (x Reading) text() string {
	if x.Joined != nil {
		return fmt.Sprintf("%s to %s: %s", x.A, x.B, map[bool]string{true: "joined", false: "open"}[*x.Joined])
	}
	return fmt.Sprintf("%s: %.3g V", x.At, x.Volts)
}

// near is by how much a reading may differ from what is expected, V.
const near = 4

// voltages are those of every terminal, in the order of the parts, against the minus of the first source, step by step of a test up to
// one; a terminal that floats reads 0.
func (r *play) voltages(t *Test, upTo int) ([][]float64, error) {
	var out [][]float64
	minus := r.p.Net.NodeAt(r.p.Minus())
	err := r.run(t.Events, t.looks()[:upTo+1], func(int) bool {
		l := make([]float64, len(r.p.terminals))
		for i, x := range r.p.terminals {
			if v := r.live.Between(x, minus); !math.IsNaN(v) {
				l[i] = v
			}
		}
		out = append(out, l)
		return true
	})
	return out, err
}

// Minus is the terminal against which voltages are measured.
func (p *Played) Minus() string {
	for _, x := range p.Net.Circuit.Parts {
		for _, s := range x.Sources {
			return x.ID + ":" + s.Minus
		}
	}
	return ""
}

// reads tells whether a circuit with its fault would give a reading.
func (r *play) reads(table []Test, x Reading) (bool, error) {
	if x.Joined != nil {
		for field, t := range map[string]string{"a": x.A, "b": x.B} {
			if !r.p.Net.Has(t) {
				return false, &circuit.FieldError{Path: "reading." + field, Got: t, Want: "a terminal of the circuit, part:terminal"}
			}
		}
		if x.Held != "" && len(r.p.hands[x.Held]) == 0 {
			return false, &circuit.FieldError{Path: "reading.held", Got: x.Held, Want: "a device that is worked by hand"}
		}
		return r.joins(x.A, x.B, x.Held) == *x.Joined, nil
	}
	for i := range table {
		t := &table[i]
		if t.Key != x.Test || x.Step < 0 || x.Step >= len(t.Steps) {
			continue
		}
		if !r.p.Net.Has(x.At) {
			return false, &circuit.FieldError{Path: "reading.at", Got: x.At, Want: "a terminal of the circuit, part:terminal"}
		}
		v := math.NaN()
		err := r.run(t.Events, t.looks()[:x.Step+1], func(look int) bool {
			if look == x.Step {
				v = r.live.Volts(x.At, r.p.Minus())
			}
			return true
		})
		if math.IsNaN(v) {
			v = 0 // a terminal that floats
		}
		return err == nil && math.Abs(v-x.Volts) <= near, nil
	}
	return false, &circuit.FieldError{Path: "reading.test", Got: fmt.Sprintf("%s, step %d", x.Test, x.Step),
		Want: "a test of the table and one of its steps"}
}

// Agrees tells whether a fault would give a reading.
func (p *Played) Agrees(m circuit.Mistake, table []Test, x Reading) (bool, error) {
	r, err := p.begin([]circuit.Mistake{m})
	if err != nil {
		return false, err
	}
	return r.reads(table, x)
}

// BestMeasure is the terminal whose voltage, at some step of a test up to one, parts suspects best; of equal ones the later step, where
// the circuit stands already. Nil when none parts them.
func (p *Played) BestMeasure(suspects []circuit.Mistake, t Test, upTo int) *Measure {
	all := make([][][]float64, len(suspects)) // suspect -> step -> terminal; shorter: it never comes to rest
	if err := each(len(suspects), func(i int) error {
		r, err := p.begin(suspects[i : i+1])
		if err == nil {
			all[i], _ = r.voltages(&t, upTo)
		}
		return nil
	}); err != nil {
		return nil
	}
	at := func(i, step, terminal int) float64 {
		if step >= len(all[i]) {
			return 0
		}
		return all[i][step][terminal]
	}
	var best *Measure
	terminal, chosen := 0, 0
	bands := map[int]int{} // how many suspects would read so
	for _, x := range p.Net.Circuit.Parts {
		for _, name := range x.Terminals {
			for step := upTo; step >= 0; step-- {
				clear(bands)
				last, run := 0, 0 // most read as the one before
				for i := range all {
					if b := int(math.Round(at(i, step, terminal) / (2 * near))); i > 0 && b == last {
						run++
					} else {
						bands[last] += run
						last, run = b, 1
					}
				}
				bands[last] += run
				groups, mean := 0, 0.0
				for _, n := range bands {
					if n > 0 {
						groups++
						mean += float64(n) * float64(n) / float64(len(suspects)*len(suspects))
					}
				}
				if groups > 1 && (best == nil || mean < best.Left-1e-12) {
					best, chosen = &Measure{Test: t.Key, Step: step, At: x.ID + ":" + name, Against: p.Minus(), Groups: groups,
						Left: mean}, terminal
				}
			}
			terminal++
		}
	}
	if best != nil {
		best.Expected = map[string]float64{}
		for i, m := range suspects {
			best.Expected[p.Text(m)] = math.Round(at(i, best.Step, chosen)*10) / 10
		}
	}
	return best
}
