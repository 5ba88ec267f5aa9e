package plate_test

import (
	"fmt"
	"math"

	"tingate/core/plate"
)

// 1545 r/min at 50 Hz is above 1500: two digits were changed over.
func ExampleMisreadings() {
	row := plate.EmptyRow()
	row.Power, row.Voltage, row.Current, row.Frequency, row.Speed, row.Factor = 7500, 400, 15.5, 50, 1545, .82
	c := plate.Misreadings(plate.Plate{Kind: plate.Induction, ServiceFactor: math.NaN(), Row: row}, 1)
	fmt.Println(c[0].Field, c[0].From, "→", c[0].To, c[0].Why)
	// Output: speed 1545 → 1455 two digits changed over
}
