package circuit_test

import (
	"fmt"

	"tingate/core/circuit"
)

// A wire that was landed one terminal off is found by what does not read as drawn.
func ExampleNet_Find() {
	n, _ := circuit.Compile(circuit.Circuit{
		Parts: []circuit.Part{{ID: "X1", Terminals: []string{"1", "2"}}, {ID: "T1", Terminals: []string{"4", "5"}}},
		Wires: []circuit.Wire{{ID: "11", From: "X1:1", To: "T1:4"}, {ID: "12", From: "X1:2", To: "T1:5"}},
	})
	found, _ := n.Find([]circuit.Reading{{A: "X1:1", B: "T1:4", Joined: true}, {A: "X1:2", B: "T1:5", Joined: false}})
	fmt.Println(found.Agrees, found.Mistakes[0].Text)
	// Output: false Wire 12 is open, or not landed.
}
