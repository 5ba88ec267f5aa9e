package stops_test

import (
	"fmt"

	"tingate/core/stops"
)

// A stop circuit of two channels with one device, drawn with its table of tests.
func ExampleDraw() {
	d := stops.Draw(stops.TwoChannel(1), true)
	fmt.Println(d.Sound(), len(d.Table))
	fmt.Println(d.Table[0].Title)
	// Output:
	// true 8
	// S1 Emergency stop: both channels
}
