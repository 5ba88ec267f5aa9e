// Package trials says how many seeded trials a test runs: a tenth in make test, all of them in make soak.
package trials

import (
	"os"
	"testing"
)

// N is how many of the full number of trials to run. The seed stays the same: the first tenth is the beginning of the whole.
func N(t testing.TB, full int) int {
	t.Helper()
	if os.Getenv("TINGATE_SOAK") != "" {
		return full
	}
	return max(1, full/10)
}
