// Package golden holds results against those that were kept, line by line. Another result is another judgement: it is looked at, and
// written anew with TINGATE_GOLDEN=write.
package golden

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"
)

// Digest is enough of a hash to see that two things differ.
func Digest(t testing.TB, v any) string {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return fmt.Sprintf("%x", sha256.Sum256(raw))[:8]
}

// Same wants a text to be as it was kept in a file.
func Same(t testing.TB, file, text string) {
	t.Helper()
	if os.Getenv("TINGATE_GOLDEN") == "write" {
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	was, is := strings.Split(string(raw), "\n"), strings.Split(text, "\n")
	const most = 5
	told := 0
	for i := range max(len(was), len(is)) {
		a, b := "nothing", "nothing"
		if i < len(was) {
			a = was[i]
		}
		if i < len(is) {
			b = is[i]
		}
		if a != b && told < most {
			told++
			t.Errorf("%s:%d: was %q, is %q", file, i+1, a, b)
		}
	}
}
