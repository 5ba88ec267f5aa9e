package main

import (
	"os"
	"strings"
	"testing"
)

// Every fault of the table still finds the place where it is put, and only that one.
func TestEveryFaultCanBePutBack(t *testing.T) {
	if len(defects) < 25 {
		t.Errorf("%d faults", len(defects))
	}
	for _, d := range defects {
		for _, e := range append([]edit{d.edit}, d.also...) {
			raw, err := os.ReadFile("../../" + e.file)
			if err != nil {
				t.Error(err)
			} else if n := strings.Count(string(raw), e.is); n != 1 || e.is == e.was {
				t.Errorf("%s: %q stands %d times in %s", d.name, e.is, n, e.file)
			}
		}
	}
}
