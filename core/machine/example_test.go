package machine_test

import (
	"fmt"
	"math"

	"tingate/core/machine"
	"tingate/core/plate"
)

// A circuit from nothing but a plate: 7.5 kW, 400 V, 15.5 A, 50 Hz, 1455 r/min, cos φ 0.82.
func ExampleUsual() {
	p, _ := machine.FromRow(plate.Row{Power: 7500, Horsepower: math.NaN(), Voltage: 400, Current: 15.5, Frequency: 50, Speed: 1455,
		Factor: .82, Efficiency: math.NaN()})
	e, ok := machine.Usual(p)
	fmt.Printf("%v: stator %.2f Ω a phase, no-load current %.1f A\n", ok, e.Rs, e.NoLoad)
	// Output: true: stator 0.74 Ω a phase, no-load current 7.5 A
}
