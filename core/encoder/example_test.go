package encoder_test

import (
	"fmt"

	"tingate/core/encoder"
)

// Asked forward, it turned backward and counted up: one mend for both.
func ExampleFirstTurn() {
	m := encoder.FirstTurn(false, true)
	fmt.Println(m.Leads, m.Pairs, m.Text)
	// Output: true true Change two motor leads and the encoder's A and B pairs: it turned backward and counted up.
}
