package motion

// Wishes are what a job wants of its drive, at the motor's shaft: r/min and seconds. NaN: not said.
type Wishes struct {
	Lowest, Highest float64
	RefLow, RefHigh float64 // at the ends of the analog signal
	Rise, Fall      float64 // s between standstill and the highest speed
	Presets         [4]float64
	Both            bool   // turns both ways
	Coast           bool   // the stop lets go
	Lost            string // what a lost signal does: stop, hold, fault
}
