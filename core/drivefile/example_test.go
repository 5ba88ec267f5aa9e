package drivefile_test

import (
	"fmt"

	"tingate/core/drivefile"
)

// What a person sees of a field is its words, never its path.
func ExampleCalled() {
	fmt.Println(drivefile.Called("intent.highest_speed"))
	fmt.Println(drivefile.Called("supplies.p1.voltage"))
	// Output:
	// Highest speed
	// Voltage of the supply
}
