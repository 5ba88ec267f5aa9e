package winding_test

import (
	"fmt"

	"tingate/core/winding"
)

// Six leads of a 230/400 V motor on a drive of 400 V.
func ExampleChoose() {
	name, _ := winding.Choose(6, "", 230, 400, 400)
	s, _ := winding.Find(name, "uvw")
	fmt.Println(s.Connection, s.Joins)
	// Output: star [[U2 V2 W2]]
}
