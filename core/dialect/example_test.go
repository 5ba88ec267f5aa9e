package dialect_test

import (
	"fmt"
	"strings"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
)

// What is proposed for a line of somebody's list, by its name, its unit and its kind.
func ExamplePropose() {
	p := dialect.Propose("Acceleration time 1", "s", "number")
	fmt.Println(p.Intent)
	// Output: ramp.rise
}

// What a drive's label says, part by part.
func ExampleFamily_DecodeType() {
	facts, _ := familyfile.Find("Tarn").DecodeType("TN4-016-F2K")
	for _, f := range facts {
		fmt.Println(strings.TrimSpace(f.Sign + " " + f.Means))
	}
	// Output:
	// 4 three phases 380 to 480 V
	// 016
	// F2 frame 2
}
