package learn_test

import (
	"fmt"

	"tingate/core/learn"
)

// One thing was changed at the keypad from 17.5 to 20.0; register 101 moves by itself.
func ExampleCompare() {
	chart := learn.Chart{From: 100, To: 103, Most: 16, Has: []learn.Span{{From: 100, To: 103}}}
	found, err := learn.Compare(&chart, learn.Setting, []learn.Pass{
		{Shown: "17.5", Values: []uint16{50, 7, 1750, 0}},
		{Shown: "17.5", Values: []uint16{50, 9, 1750, 0}},
		{Shown: "20.0", Values: []uint16{50, 4, 2000, 0}},
	})
	fmt.Println(found.Fits[0].Register, found.Fits[0].Type, found.Fits[0].Scale, found.Alone, err)
	// Output: 102 u16 100 1 <nil>
}
