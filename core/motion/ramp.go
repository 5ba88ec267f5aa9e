// Package motion holds ramps, inertia and loads.
package motion

import "math"

// Counting is a way a drive family counts a ramp.
type Counting string

// The closed list of countings.
const (
	ToHighestFrequency Counting = "to-highest-frequency"
	ToBaseFrequency    Counting = "to-base-frequency"
	ToPlateSpeed       Counting = "to-plate-speed"
	SlopeHz            Counting = "slope-hz-per-s"
	SlopePercent       Counting = "slope-pct-per-s"
	Per100Hz           Counting = "per-100-hz"
)

// Countings lists them all, as docs/calc.md does.
var Countings = []Counting{ToHighestFrequency, ToBaseFrequency, ToPlateSpeed, SlopeHz, SlopePercent, Per100Hz}

// RampBase holds what countings refer to: hertz, r/min, poles. A missing one is NaN or 0.
type RampBase struct {
	Highest, Base float64 // Hz
	PlateSpeed    float64 // r/min
	Poles         int
}

// reach is the frequency in Hz that a counting in seconds counts up to.
func (b RampBase) reach(c Counting) float64 {
	switch c {
	case ToHighestFrequency:
		return b.Highest
	case ToBaseFrequency:
		return b.Base
	case ToPlateSpeed:
		return b.PlateSpeed * float64(b.Poles) / 120
	case Per100Hz:
		return 100
	}
	return math.NaN()
}

// Slope returns Hz per second of a ramp given in one counting (s, Hz/s or %/s); NaN when a base is missing.
// Frequencies and speeds are tied by the synchronous 120 f/p, as a ramp generator counts.
func (b RampBase) Slope(c Counting, value float64) float64 {
	switch c {
	case SlopeHz:
		return value
	case SlopePercent:
		return value / 100 * b.Highest
	}
	return b.reach(c) / value
}

// Count turns a slope in Hz per second into a counting: seconds, or Hz/s, or %/s. NaN when a base is missing.
func (b RampBase) Count(c Counting, slope float64) float64 {
	switch c {
	case SlopeHz:
		return slope
	case SlopePercent:
		return slope / b.Highest * 100
	}
	return b.reach(c) / slope
}
