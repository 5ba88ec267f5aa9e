package signal_test

import (
	"fmt"

	"tingate/core/signal"
)

// NAMUR NE 43: what a current of a live zero signal says.
func ExampleLiveZeroState() {
	fmt.Println(signal.LiveZeroState(3.5), "·", signal.LiveZeroState(12), "·", signal.LiveZeroState(21.5))
	// Output: failed-low · valid · failed-high
}
