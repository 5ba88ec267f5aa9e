package tune_test

import (
	"fmt"

	"tingate/core/tune"
)

// A motor that can be uncoupled: the best kind first, and why.
func ExampleOffers() {
	for _, o := range tune.Offers(tune.Permit{Uncouple: true, Wants: "best"}, []string{tune.KindStandstill, tune.KindUncoupled})[:2] {
		fmt.Println(o.Kind, o.Refused)
	}
	// Output:
	// rotating-uncoupled false
	// standstill false
}
