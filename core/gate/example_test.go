package gate_test

import (
	"fmt"

	"tingate/core/drivefile/sample"
	"tingate/core/gate"
)

// A drive that was only entered: what is next, and what is not known is treated as live.
func ExampleEvaluate() {
	j := job(sample.Dryer(), nil)
	j.Energy = nil
	s := gate.Evaluate(j, now)
	fmt.Println(s.Next)
	fmt.Println(s.Energy.State, s.Proved, s.Poles)
	fmt.Println(gate.NeverWaived("dead/measure/dc-link"))
	// Output:
	// Match: not begun
	// not-known false 4
	// it is part of what proves dead. Without it the state stays NOT KNOWN, treat as live
}
