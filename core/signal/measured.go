package signal

import "math"

// Point is a signal as it was measured at the drive's terminal with the speed that it gave.
type Point struct{ In, Out float64 }

// Measured is the straight line through points, by least squares, read at the two ends of the signal.
type Measured struct {
	Low, High float64 // out at the ends
	Worst     float64 // farthest point off the line
}

// Through fits points; false with fewer than two different signals.
func Through(points []Point, lowEnd, highEnd float64) (Measured, bool) {
	n := float64(len(points))
	var x, y float64
	for _, p := range points {
		x, y = x+p.In/n, y+p.Out/n
	}
	var xx, xy float64
	for _, p := range points {
		xx, xy = xx+(p.In-x)*(p.In-x), xy+(p.In-x)*(p.Out-y)
	}
	if len(points) < 2 || xx < 1e-12 {
		return Measured{}, false
	}
	gain := xy / xx
	at := func(in float64) float64 { return y + gain*(in-x) }
	m := Measured{Low: at(lowEnd), High: at(highEnd)}
	for _, p := range points {
		m.Worst = math.Max(m.Worst, math.Abs(p.Out-at(p.In)))
	}
	return m, true
}

// What a measured line is against the wanted one.
const (
	Fits     = "fits"
	Offset   = "offset"   // shifted, its slope right
	Gain     = "gain"     // its low end right, its slope not
	Both     = "both"     // neither
	Inverted = "inverted" // it falls where it should rise
	Bent     = "bent"     // the points lie on no line
)

// Against tells how a line differs from the wanted ends, within a share of the wanted span.
func (m Measured) Against(low, high, within float64) string {
	span := math.Abs(high - low)
	off := func(a, b float64) bool { return math.Abs(a-b) > within*span }
	slope := (m.High - m.Low) - (high - low)
	switch {
	case m.Worst > 2*within*span:
		return Bent
	case (m.High-m.Low)*(high-low) < 0:
		return Inverted
	case !off(m.Low, low) && !off(m.High, high):
		return Fits
	case math.Abs(slope) <= within*span:
		return Offset
	case !off(m.Low, low):
		return Gain
	}
	return Both
}
