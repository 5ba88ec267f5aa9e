package quantity_test

import (
	"fmt"

	"tingate/core/quantity"
)

// A decimal comma is read, and what could be thousands is asked about.
func ExampleKind_Parse() {
	q, err := quantity.Power.Parse("7,5 kW")
	fmt.Println(*q.Value, q.Unit, err)
	_, err = quantity.Current.Parse("fifteen")
	fmt.Println(err)
	// Output:
	// 7.5 kW <nil>
	// got "fifteen", want a current in A, like 15.1 or 15,1 A
}
