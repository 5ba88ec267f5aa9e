package main

import (
	"os"
	"testing"

	"tingate/testtools/spoil"
)

// Every patch still finds the place where it is put, and only that one; every gate has two or more.
func TestEveryPatchFindsItsPlace(t *testing.T) {
	gates, names := map[string]int{}, map[string]bool{}
	for _, p := range patches {
		gates[p.gate]++
		if names[p.name] || len(p.pkgs) == 0 {
			t.Errorf("%s: twice, or no package is to notice it", p.name)
		}
		names[p.name] = true
		if _, err := spoil.Overlay("../..", t.TempDir(), p.edits); err != nil {
			t.Errorf("%s: %v", p.name, err)
		}
		for _, e := range p.edits {
			if e.Is == e.Was {
				t.Errorf("%s changes nothing", p.name)
			}
		}
	}
	for _, g := range []string{"Match", "Dead", "Power", "Control", "Wake", "Plate", "Stop", "Turn", "Tune", "Span", "Signal", "Keep"} {
		if gates[g] < 2 {
			t.Errorf("gate %s has %d patches, wanted two or more", g, gates[g])
		}
	}
	if len(patches) < 60 {
		t.Errorf("%d patches, wanted 60 or more", len(patches))
	}
}

// A mutant is one change at its place, by an operator, a number or a statement; words that are joined are left alone.
func TestMutantsAreSmallChanges(t *testing.T) {
	all, err := mutantsOf("../..", "testtools/spoil")
	if err != nil || len(all) < 8 {
		t.Fatalf("%d mutants, %v", len(all), err)
	}
	kinds := map[string]bool{}
	for _, m := range all {
		raw, err := os.ReadFile("../../" + m.file)
		if err != nil {
			t.Fatal(err)
		}
		if m.at >= m.to || string(raw[m.at:m.to]) == m.was {
			t.Errorf("%s changes nothing", m.name())
		}
		kinds[m.is] = true
	}
	if !kinds["!="] || !kinds["1"] || kinds["+"] {
		t.Errorf("%v", kinds)
	}
}
