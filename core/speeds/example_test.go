package speeds_test

import (
	"fmt"

	"tingate/core/gate"
	"tingate/core/speeds"
)

func ExampleBoundsOf() {
	j := job()
	for _, b := range speeds.BoundsOf(j.Drive, j.Family, gate.PlanOf(j)).Bounds {
		fmt.Printf("%.0f r/min %s\n", b.At.RPM, b.Key)
	}
	// Output:
	// 360 r/min lowest
	// 1455 r/min highest
	// 1455 r/min base
	// 1455 r/min cooling
	// 2255 r/min torque
}
