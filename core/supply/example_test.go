package supply_test

import (
	"fmt"

	"tingate/core/supply"
)

// What a six-pulse rectifier makes of 400 V at rest, and how a line that is not even is judged.
func ExampleLinkOf() {
	fmt.Printf("%.0f V\n", supply.LinkOf(supply.SixPulse, 400).Idle)
	fmt.Printf("%.2f %%\n", supply.BalanceOf([3]float64{398, 401, 405}).Unbalance)
	// Output:
	// 566 V
	// 0.91 %
}
