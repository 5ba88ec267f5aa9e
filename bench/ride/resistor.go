package ride

import (
	"fmt"
	"math"

	"tingate/bench"
	"tingate/core/motion"
)

// ResistorNeed is what a braking resistor must be for the plan's fall.
type ResistorNeed struct {
	Needed  bool     `json:"needed" doc:"the fall gives back more than the link takes"`
	MostOhm float64  `json:"most_ohm" doc:"that takes the peak; 0: none is needed"`
	Least   *float64 `json:"least_ohm,omitempty" doc:"that the drive bears, from its papers"`
	Peak    float64  `json:"peak_kw"`
	Average float64  `json:"average_kw" doc:"over the plan back and forth without a pause"`
	Fits    bool     `json:"fits" doc:"something lies between the least and the most"`
	Says    string   `json:"says"`
}

// Efficiencies of motor and drive on the way back to the link. Common practice.
const (
	motorBack = .88
	driveBack = .97
)

// ResistorOf works it out along the load's own curve, the speed falling evenly.
func ResistorOf(s bench.Setup, r Ride, least float64) ResistorNeed {
	var out ResistorNeed
	if r.Top == 0 || !(r.AskedFall > 0) || r.Trip != nil && r.Trip.While != "fall" {
		return out
	}
	w := math.Abs(r.Top) * math.Pi / 30
	cycle := r.StopAt + r.AskedFall
	energy, peak := s.Load.Returned(bench.RotorInertia(s)+s.LoadJ, w, r.AskedFall, motorBack*driveBack)
	held := ""
	if r.Eased > .1 {
		held = fmt.Sprintf(" Without a resistor bus control holds the link here, and stretched the fall by it for %.1f s.", r.Eased)
	}
	if peak <= 0 {
		out.Says = "The load stops it faster than the ramp asks, all the way down: nothing comes back by these figures, no resistor is " +
			"needed."
		if held != "" {
			out.Says = "By these figures nothing would come back; in the ride it did." + held
		}
		return out
	}
	volts := ChopperVolts(s)
	b := motion.Braked{MostOhm: volts * volts / peak, PeakPower: peak, Average: energy / cycle}
	out.Needed, out.MostOhm, out.Peak, out.Average, out.Fits = true, b.MostOhm, b.PeakPower/1000, b.Average/1000, true
	out.Says = fmt.Sprintf("At most %.3g Ω take the peak of %.3g kW; %.3g kW on the average, back and forth without a pause (every %.0f "+
		"s)", out.MostOhm, out.Peak, out.Average, cycle)
	if !math.IsNaN(least) {
		out.Least, out.Fits = &least, least <= out.MostOhm
		if out.Fits {
			out.Says += fmt.Sprintf("; at least %.3g Ω for the drive", least)
		} else {
			out.Says += fmt.Sprintf(", and the drive bears no less than %.3g Ω: none fits, the fall must be longer", least)
		}
	}
	out.Says += fmt.Sprintf(". Losses of motor and drive, %.0f %% and %.0f %%, are taken off.%s", 100*(1-motorBack), 100*(1-driveBack),
		held)
	return out
}
