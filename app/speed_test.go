package app_test

import (
	"fmt"
	"testing"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/entries"
	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/demo"
	"tingate/store"
)

// The measures of docs/performance.md that are not of the core alone.

func BenchmarkYardSearch10000(b *testing.B) {
	d := open(b, b.TempDir())
	d.ok(demo.Fill(ctx, d.App, 10000))
	places, err := d.Places(ctx)
	d.ok(err)
	b.ReportMetric(float64(d.store.Size())/1e6, "MB")
	for _, text := range []string{"", "drum", "s0000791", "brae 1440 press", "nothing of this"} {
		b.Run(fmt.Sprintf("%q", text), func(b *testing.B) {
			for b.Loop() {
				if _, err := d.Yard(ctx, store.YardQuery{Place: places[0].ID, Text: text, Limit: 100}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

func BenchmarkCompareSnapshots500(b *testing.B) {
	f := &dialect.Family{Name: "Gull", Settings: make([]dialect.Setting, 500)}
	one := drivefile.Snapshot{Dialect: "Gull", Values: map[string]drivefile.Value{}}
	two := drivefile.Snapshot{Dialect: "Gull", Values: map[string]drivefile.Value{}}
	for i := range f.Settings {
		code := fmt.Sprint("g", i)
		f.Settings[i].Code = code
		one.Values[code], two.Values[code] = drivefile.Value{Steps: 1, Text: "1"}, drivefile.Value{Steps: int64(1 + i%2), Text: "2"}
	}
	for b.Loop() {
		entries.CompareSnapshots(f, f, one, two)
	}
}

// A keystroke at the server: stored durably, evaluated, and answered.
func BenchmarkChangeOneField(b *testing.B) {
	d := newDesk(b)
	id := d.dryer()
	i := 0
	for b.Loop() {
		i++
		d.ok(d.Change(ctx, d.rh, id, drives.Edit{ID: base.NewID(), Edit: "one", Sets: []drives.Set{{Path: "notes", Text: fmt.Sprint(i)}}}))
		d.view(id)
	}
}

// A place's circuit with many stop devices behind a relay, every test chosen, and one that failed: what gate Stop's screen asks for after
// an entry. first: for a circuit that was just drawn otherwise; next: after a further answer.
func BenchmarkFindTheWire(b *testing.B) {
	for _, n := range []int{10, 50} {
		d, id := atStop(b)
		var sets []drives.Set
		for i := 3; i <= n; i++ {
			at := fmt.Sprintf("circuits.line-1.devices.S%d.", i)
			sets = append(
				sets,
				drives.Set{Path: at + "name", Text: fmt.Sprint("place ", i)},
				drives.Set{Path: at + "kind", Text: "emergency-stop"},
			)
		}
		d.ok(d.Change(ctx, d.rh, d.place, drives.Edit{ID: base.NewID(), Sets: sets}))
		hidden := []circuit.Mistake{{Kind: circuit.Open, Wire: d.stop(id).Circuit.Wires[0].ID}}
		say := func(b *testing.B, key string) {
			value, err := d.PractiseStop(ctx, id, key, hidden)
			d.ok(err)
			d.ok(d.answer1(id, gate.TestPrefix+key, value, ""))
			if v := d.stop(id); v.Diagnosis == nil || len(v.Diagnosis.Classes) == 0 {
				b.Fatal("nothing was found")
			}
		}
		i := 1
		b.Run(fmt.Sprint(n, " devices"), func(b *testing.B) {
			for b.Loop() {
				i = i%n + 1
				say(b, fmt.Sprintf("both/S%d", i))
			}
		})
	}
}
