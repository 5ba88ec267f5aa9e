package wiring_test

import (
	"fmt"

	"tingate/core/wiring"
	"tingate/formats/familyfile"
)

// Run by a contact that is held, speed by a potentiometer: the wires of it on a Tarn.
func ExampleMake() {
	p := wiring.Make(familyfile.Find("Tarn"),
		wiring.Wants{Command: "two-wire", Reference: "pot", Safety: "jumper", Logic: "source", Supply: "drive", Code: "iec",
			Screens: "drive-end"})
	for _, r := range p.Rows[:3] {
		fmt.Println(r.ID, r.From, r.To)
	}
	// Output:
	// 1 T1:1 X1:1
	// 10 X1:10 S1:13
	// 11 S1:14 X1:11
}
