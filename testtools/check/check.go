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
	Says, Said           string // of an answer in words: ours, and the source's
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
	note(t, Entry{Answer: answer, Source: source, Ours: ours, Theirs: theirs, Tol: tol})
}

// Says is Against for an answer in words: a state, a sequence.
func Says(t *testing.T, answer, source, ours, theirs string) {
	t.Helper()
	if ours != theirs {
		t.Errorf("%s: ours %q, %s says %q", answer, ours, source, theirs)
	}
	note(t, Entry{Answer: answer, Source: source, Says: ours, Said: theirs})
}

func note(t *testing.T, e Entry) {
	t.Helper()
	path := os.Getenv("TRUENESS_OUT")
	if path == "" {
		return
	}
	e.Test = t.Name()
	line, _ := json.Marshal(e)
	f, err := os.OpenFile(path, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if _, err := f.Write(append(line, '\n')); err != nil {
		t.Fatal(err)
	}
}
