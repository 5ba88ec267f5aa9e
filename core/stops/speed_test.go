package stops

import (
	"fmt"
	"testing"

	"tingate/core/circuit"
)

// fifty is the benchmark's circuit: fifty devices over a strip on inputs of a controller, over 400 wires, lamps, a reset.
func fifty(kind string) Circuit {
	s := Spec{Kind: kind, Lamps: "three", Strip: true}
	for i := range 50 {
		s.Devices = append(s.Devices, SpecDevice{ID: fmt.Sprintf("S%d", i+1)})
	}
	return Draft(s)
}

// sixty are the first sixty tests of a table as a circuit with a fault shows them.
func sixty(t testing.TB, p *Played, table []Test, hidden circuit.Mistake) []Shown {
	var shown []Shown
	for _, x := range table[:60] {
		seen, err := p.Play([]circuit.Mistake{hidden}, x.Events, x.looks())
		if err != nil {
			t.Fatal(err)
		}
		for k, s := range seen {
			shown = append(shown, Shown{x.Key, k, s})
		}
	}
	return shown
}

func BenchmarkDiagnose50(b *testing.B) {
	for _, kind := range []string{"two-channel", "controller"} {
		b.Run(kind, func(b *testing.B) {
			p := compiled(b, fifty(kind))
			table, err := p.Table()
			if err != nil {
				b.Fatal(err)
			}
			// The second channel of the seventh device does not open.
			shown := sixty(b, p, table, circuit.Mistake{Kind: "bridged", At: "S7:21", To: "S7:22"})
			for b.Loop() {
				d, err := p.Diagnose(table, shown, nil, nil)
				if err != nil || d.Agrees || len(d.Classes) == 0 {
					b.Fatal(err, d.Agrees)
				}
			}
		})
	}
}

func BenchmarkTable50(b *testing.B) {
	for _, kind := range []string{"two-channel", "controller"} {
		b.Run(kind, func(b *testing.B) {
			p := compiled(b, fifty(kind))
			for b.Loop() {
				if _, err := p.Table(); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// Two faults at once among fifty devices, ended or through.
func BenchmarkPairs50(b *testing.B) {
	p := compiled(b, fifty("two-channel"))
	table, err := p.Table()
	if err != nil {
		b.Fatal(err)
	}
	shown := sixty(b, p, table, circuit.Mistake{Kind: "bridged", At: "S7:21", To: "S7:22"})
	for b.Loop() {
		x, err := p.DiagnosePairs(table, shown, nil, nil)
		if err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(float64(x.All), "pairs")
	}
}

// The next measurement alone, of what a test leaves.
func BenchmarkNextMeasure50(b *testing.B) {
	p := compiled(b, fifty("controller"))
	table, err := p.Table()
	if err != nil {
		b.Fatal(err)
	}
	d, err := p.Diagnose(table, sixty(b, p, table, circuit.Mistake{Kind: "bridged", At: "S7:21", To: "S7:22"}), nil, nil)
	if err != nil {
		b.Fatal(err)
	}
	var suspects []circuit.Mistake
	for _, c := range d.Classes {
		suspects = append(suspects, c.Mistakes...)
	}
	at := find(table, "both/S7")
	for b.Loop() {
		p.BestMeasure(suspects, at, 3)
		p.BestContinuity(suspects)
	}
}

// The benchmark circuit solved from the beginning, and again after one contact has moved.
func BenchmarkLive(b *testing.B) {
	p := compiled(b, fifty("controller"))
	moved, dark := make([]bool, p.contacts), make([]bool, p.nsources)
	b.Run("whole", func(b *testing.B) {
		for b.Loop() {
			p.Net.Live(nil).Solve(moved, dark)
		}
	})
	l := p.Net.Live(nil)
	b.Run("again", func(b *testing.B) {
		for b.Loop() {
			moved[7] = !moved[7]
			l.Solve(moved, dark)
		}
	})
}

// The first failed test of a long chain, at its second device, with a wire open: nothing comes on, nearly everything is suspect, and the
// answer is waited for. first: nothing of the circuit was worked out before; next: as after another entry.
func BenchmarkFirstAnswer(b *testing.B) {
	for _, n := range []int{10, 20, 50} {
		s := Spec{Kind: "two-channel", Lamps: "three", Strip: true}
		for i := range n {
			s.Devices = append(s.Devices, SpecDevice{ID: fmt.Sprintf("S%d", i+1)})
		}
		answer := func(b *testing.B, p *Played, table []Test, shown []Shown) {
			d, err := p.Diagnose(table, shown, nil, nil)
			if err != nil || d.Agrees || len(d.Classes) == 0 {
				b.Fatal(err, d.Agrees)
			}
			left := 0
			for _, c := range d.Classes {
				left += len(c.Mistakes)
			}
			b.ReportMetric(float64(left), "suspects")
		}
		p := compiled(b, Draft(s))
		table, err := p.Table()
		if err != nil {
			b.Fatal(err)
		}
		x := find(table, "both/S2")
		seen, err := p.Play([]circuit.Mistake{p.Faults()[0].Mistake}, x.Events, x.looks())
		if err != nil {
			b.Fatal(err)
		}
		var shown []Shown
		for k, s := range seen {
			shown = append(shown, Shown{x.Key, k, s})
		}
		b.Run(fmt.Sprintf("%d first", n), func(b *testing.B) {
			for b.Loop() {
				answer(b, compiled(b, Draft(s)), table, shown)
			}
		})
		b.Run(fmt.Sprintf("%d next", n), func(b *testing.B) {
			for b.Loop() {
				answer(b, p, table, shown)
			}
		})
	}
}
