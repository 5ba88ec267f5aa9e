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

// Reading is a voltage as it was measured.
type Reading struct {
	Test  string  `json:"test"`
	Step  int     `json:"step"`
	At    string  `json:"at"`
	Volts float64 `json:"volts"`
}

// near is by how much a reading may differ from what is expected, V.
const near = 4

// volts are the voltages of every terminal against the minus of the first source, at one step of a test.
func (p *Played) volts(m *circuit.Mistake, t Test, step int) (map[string]float64, error) {
	out := map[string]float64{}
	minus := p.minus()
	_, err := p.play(m, t.Events, t.looks()[:step+1], func(look int, s *circuit.Solution) {
		if look != step {
			return
		}
		for _, x := range p.Net.Circuit.Parts {
			for _, name := range x.Terminals {
				v := s.Volts(x.ID+":"+name, minus)
				if math.IsNaN(v) {
					v = 0
				}
				out[x.ID+":"+name] = v
			}
		}
	})
	return out, err
}

// minus is the terminal against which voltages are measured.
func (p *Played) minus() string {
	for _, x := range p.Net.Circuit.Parts {
		for _, s := range x.Sources {
			return x.ID + ":" + s.Minus
		}
	}
	return ""
}

// Agrees tells whether a mistake would give a reading.
func (p *Played) Agrees(m circuit.Mistake, table []Test, r Reading) (bool, error) {
	for _, t := range table {
		if t.Key == r.Test && r.Step >= 0 && r.Step < len(t.Steps) {
			v, err := p.volts(&m, t, r.Step)
			if err != nil {
				return false, nil
			}
			want, ok := v[r.At]
			if !ok {
				return false, &circuit.FieldError{Path: "reading.at", Got: r.At, Want: "a terminal of the circuit, part:terminal"}
			}
			return math.Abs(want-r.Volts) <= near, nil
		}
	}
	return false, &circuit.FieldError{Path: "reading.test", Got: fmt.Sprintf("%s, step %d", r.Test, r.Step), Want: "a test of the table and one of its steps"}
}

// BestMeasure is the terminal whose voltage, at a step of a test, parts suspects best; nil when none parts them.
func (p *Played) BestMeasure(suspects []circuit.Mistake, t Test, step int) *Measure {
	var all []map[string]float64
	for i := range suspects {
		v, err := p.volts(&suspects[i], t, step)
		if err != nil {
			v = nil
		}
		all = append(all, v)
	}
	var best *Measure
	for _, x := range p.Net.Circuit.Parts {
		for _, name := range x.Terminals {
			at := x.ID + ":" + name
			groups := map[int]int{}
			for _, v := range all {
				groups[int(math.Round(v[at]/(2*near)))]++
			}
			mean := 0.0
			for _, n := range groups {
				mean += float64(n*n) / float64(len(suspects)*len(suspects))
			}
			if len(groups) > 1 && (best == nil || mean < best.Left-1e-12) {
				best = &Measure{Test: t.Key, Step: step, At: at, Against: p.minus(), Groups: len(groups), Left: mean}
			}
		}
	}
	if best != nil {
		best.Expected = map[string]float64{}
		for i, m := range suspects {
			best.Expected[m.Text(p.Net)] = math.Round(all[i][best.At]*10) / 10
		}
	}
	return best
}
