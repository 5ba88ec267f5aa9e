package translate

import (
	"math"

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
	c.Bends = bends(in)
	return c, unit
}

// bends are the points between the ends that are entered whole and rise: others are told by a finding, and do not count.
func bends(in drivefile.Intent) (l []signal.Bend) {
	for _, q := range [][2]drivefile.Q{{in.Curve1At, in.Curve1}, {in.Curve2At, in.Curve2}, {in.Curve3At, in.Curve3}} {
		b := signal.Bend{Share: q[0].Num(quantity.Percent, "%") / 100, Speed: q[1].Num(quantity.Speed, "r/min")}
		last := 0.
		if len(l) > 0 {
			last = l[len(l)-1].Share
		}
		if b.Share > last && b.Share < 1 && !math.IsNaN(b.Speed) {
			l = append(l, b)
		}
	}
	return l
}
