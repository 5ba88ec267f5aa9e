package translate

import (
	"tingate/core/drivefile"
	"tingate/core/quantity"
	"tingate/core/signal"
)

// Signal is the span of the source: its ends, its unit.
func Signal(source string) (low, high float64, unit string) {
	if source == "current" {
		return 4, 20, "mA"
	}
	return 0, 10, "V"
}

// Chain is a drive's reference from the controller to the shaft, with the signal's unit.
func Chain(d drivefile.Drive) (c signal.Chain, unit string) {
	in, sig := d.Intent, d.Signal
	rpm := func(q drivefile.Q) float64 { return q.Num(quantity.Speed, "r/min") }
	figure := func(q drivefile.Q) float64 { return q.Num(quantity.Figure, "") }
	c = signal.Chain{CountsLow: figure(sig.CountsLow), CountsHigh: figure(sig.CountsHigh), AsksLow: figure(sig.AsksLow),
		AsksHigh: figure(sig.AsksHigh),
		SpeedLow: rpm(in.ReferenceLow), SpeedHigh: rpm(in.ReferenceHigh), Lowest: rpm(in.LowestSpeed), Highest: rpm(in.HighestSpeed),
		DeadBand: figure(sig.DeadBand)}
	c.Low, c.High, unit = Signal(in.SpeedSource)
	return c, unit
}
