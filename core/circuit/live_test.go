package circuit_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"tingate/core/circuit"
)

// random is a circuit of contacts, loads and sources joined at random.
func random(rng *rand.Rand) circuit.Circuit {
	var c circuit.Circuit
	var ends []string
	part := func(p circuit.Part) {
		c.Parts = append(c.Parts, p)
		for _, t := range p.Terminals {
			ends = append(ends, p.ID+":"+t)
		}
	}
	for i := range 1 + rng.IntN(2) {
		part(circuit.Part{ID: fmt.Sprintf("G%d", i), Terminals: []string{"+", "-"},
			Sources: []circuit.VoltageSource{{Name: "v", Plus: "+", Minus: "-", Volts: 24}}})
	}
	for i := range 4 + rng.IntN(6) {
		part(circuit.Part{ID: fmt.Sprintf("S%d", i), Terminals: []string{"1", "2"},
			Contacts: []circuit.Contact{{Name: "c", A: "1", B: "2", Closed: rng.IntN(2) == 0}}})
		part(circuit.Part{ID: fmt.Sprintf("R%d", i), Terminals: []string{"1", "2"},
			Loads: []circuit.Load{{Name: "l", A: "1", B: "2", Ohm: 100 * (1 + rng.Float64())}}})
	}
	for i := range len(ends) + rng.IntN(6) {
		a, b := ends[rng.IntN(len(ends))], ends[rng.IntN(len(ends))]
		if a != b && rng.IntN(3) > 0 {
			c.Wires = append(c.Wires, circuit.Wire{ID: fmt.Sprint(i), From: a, To: b})
		}
	}
	return c
}

// A net made ready gives the voltages that the plain one gives, in every state, with sources off and wires lifted. Nets in which
// sources contradict one another are left out: neither has an answer.
func TestLiveSolvesAsTheNetDoes(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 11))
	compared := 0
	for range 400 {
		n, errs := circuit.Compile(random(rng))
		if errs != nil {
			t.Fatal(errs)
		}
		lifted := map[int]bool{}
		plain := n
		if w := n.Circuit.Wires; len(w) > 0 && rng.IntN(2) == 0 {
			k := rng.IntN(len(w))
			lifted[k] = true
			plain = n.With(circuit.Mistake{Kind: "open", Wire: w[k].ID})
		}
		l := n.Live(lifted)
		for range 4 {
			state, moved := circuit.State{}, []bool{}
			for _, p := range n.Circuit.Parts {
				for range p.Contacts {
					on := rng.IntN(2) == 0
					state[p.ID+".c"] = on
					moved = append(moved, on)
				}
			}
			off, dark := map[string]bool{}, make([]bool, 2)
			if rng.IntN(3) == 0 {
				off["G0"], dark[0] = true, true
			}
			want := plain.Dark(state, off)
			if len(want.Shorts) > 0 || len(want.Meets) > 0 {
				continue
			}
			l.Solve(moved, dark)
			for _, p := range n.Circuit.Parts {
				for _, name := range p.Terminals {
					for _, ref := range []string{"G0:-", "S1:2"} {
						a, b := want.Volts(p.ID+":"+name, ref), l.Volts(p.ID+":"+name, ref)
						if math.IsNaN(a) != math.IsNaN(b) || math.Abs(a-b) > 1e-6 {
							t.Fatalf("%s:%s against %s is %v, the net says %v", p.ID, name, ref, b, a)
						}
						compared++
					}
				}
			}
		}
	}
	if compared < 10_000 {
		t.Errorf("only %d voltages compared", compared)
	}
}
