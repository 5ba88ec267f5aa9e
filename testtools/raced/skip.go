package raced

import "testing"

// Skip leaves out a test that goes through hundreds of machines one after the other, where nothing runs side by side: make test runs
// those once more without the race detector.
func Skip(t *testing.T) {
	t.Helper()
	if On {
		t.Skip("one thing after the other, hundreds of times: make test runs it once without the race detector")
	}
}
