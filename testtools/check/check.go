// Package check compares our answers with the outside world and keeps a list of every comparison.
package check

import (
	"encoding/json"
	"math"
	"os"
	"testing"
)

// Entry is one line of docs/trueness.md.
type Entry struct {
	Answer, Source, Test string
	Ours, Theirs, Tol    float64
}

// Against fails the test when ours differs from theirs by more than tol (relative; absolute when theirs is 0).
// Source names the standard, book or "common practice"; theirs is a literal copied from it.
// With TRUENESS_OUT set, the comparison is appended there, from which `make trueness` writes docs/trueness.md.
func Against(t *testing.T, answer, source string, ours, theirs, tol float64) {
	t.Helper()
	scale := math.Abs(theirs)
	if scale == 0 {
		scale = 1
	}
	if !(math.Abs(ours-theirs) <= tol*scale) {
		t.Errorf("%s: ours %v, %s says %v (tolerance %v)", answer, ours, source, theirs, tol)
	}
	path := os.Getenv("TRUENESS_OUT")
	if path == "" {
		return
	}
	line, _ := json.Marshal(Entry{answer, source, t.Name(), ours, theirs, tol})
	f, err := os.OpenFile(path, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if _, err := f.Write(append(line, '\n')); err != nil {
		t.Fatal(err)
	}
}
