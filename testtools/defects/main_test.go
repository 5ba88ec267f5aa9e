package main

import (
	"testing"

	"tingate/testtools/spoil"
)

// Every fault of the table still finds the place where it is put, and only that one.
func TestEveryFaultCanBePutBack(t *testing.T) {
	if len(defects) < 25 {
		t.Errorf("%d faults", len(defects))
	}
	for _, d := range defects {
		for _, e := range append([]spoil.Edit{d.Edit}, d.also...) {
			if n, err := e.Count("../.."); n != 1 || err != nil || e.Is == e.Was {
				t.Errorf("%s: %q stands %d times in %s (%v)", d.name, e.Is, n, e.File, err)
			}
		}
	}
}
