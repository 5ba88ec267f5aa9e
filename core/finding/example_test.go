package finding_test

import (
	"fmt"

	"tingate/core/finding"
)

// The most serious comes first; what is as serious stays in its order.
func ExampleSort() {
	l := []finding.Finding{{Severity: finding.Note, Title: "a note"}, {Severity: finding.Stop, Title: "it stops"},
		{Severity: finding.Look, Title: "to be looked at"}}
	finding.Sort(l)
	for _, f := range l {
		fmt.Println(f.Title, f.Severity.Open())
	}
	// Output:
	// it stops true
	// to be looked at true
	// a note false
}
