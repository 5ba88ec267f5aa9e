package safety_test

import (
	"fmt"

	"tingate/core/safety"
)

// ISO 13849-1:2015, table 6: category 3, MTTFd 60 years, DC 90 %, 70 points against common causes.
func ExampleLevelOf() {
	l := safety.LevelOf("3", 60, .9, 70)
	fmt.Println(l.MTTFdBand, l.DCBand, l.Performance)
	// Output: high medium d
}
