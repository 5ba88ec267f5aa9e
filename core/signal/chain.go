package signal

import "math"

// Chain is a reference from the controller's counts to the shaft. NaN: not stated.
type Chain struct {
	Low, High             float64 // ends of the signal, V or mA
	CountsLow, CountsHigh float64
	AsksLow, AsksHigh     float64 // in the controller's unit
	SpeedLow, SpeedHigh   float64 // r/min at the ends
	Lowest, Highest       float64 // r/min within which the drive stays
	DeadBand              float64 // above the low end, V or mA
	Bends                 []Bend  // between the ends, rising by their shares; without them the line is straight
}

// Bend is a point between the ends at which the line has another slope.
type Bend struct {
	Share float64 // of the signal's span, above 0 and below 1
	Speed float64 // in the unit of the ends: r/min, or Hz
}

// Line is the speed that the ends and the bends between them give at a share of the signal's span, in the unit of the ends; beyond the ends
// it goes on as it came. Bends rise by their shares; the first without one ends them.
func Line(low, high float64, bends []Bend, share float64) float64 {
	from, to := Bend{0, low}, Bend{1, high}
	for i, b := range bends {
		if b.Share <= 0 {
			break
		}
		if share < b.Share {
			to = b
			break
		}
		from = bends[i]
	}
	return from.Speed + (to.Speed-from.Speed)*(share-from.Share)/(to.Share-from.Share)
}

// Link is one place along the chain.
type Link struct {
	Share  float64 // of the signal's span
	Signal float64
	Counts float64
	Asks   float64
	Scaled float64 // r/min by the line alone
	Speed  float64 // r/min within the limits
}

// At is the chain at a share of the signal's span, 0 to 1 and beyond.
func (c Chain) At(share float64) Link {
	between := func(a, b float64) float64 { return a + (b-a)*share }
	l := Link{Share: share, Signal: between(c.Low, c.High), Counts: between(c.CountsLow, c.CountsHigh),
		Asks: between(c.AsksLow, c.AsksHigh), Scaled: Line(c.SpeedLow, c.SpeedHigh, c.Bends, share)}
	if c.DeadBand > 0 {
		if in := (l.Signal - c.Low) * math.Copysign(1, c.High-c.Low); in < c.DeadBand {
			l.Scaled = c.SpeedLow
		}
	}
	l.Speed = l.Scaled
	if !math.IsNaN(c.Lowest) {
		l.Speed = math.Max(l.Speed, c.Lowest)
	}
	if !math.IsNaN(c.Highest) {
		l.Speed = math.Min(l.Speed, c.Highest)
	}
	return l
}

// PerCount is how much one count of the controller changes the speed, r/min; NaN while counts are not stated or equal.
func (c Chain) PerCount() float64 {
	n := math.Abs(c.CountsHigh - c.CountsLow)
	if !(n > 0) {
		return math.NaN()
	}
	return math.Abs(c.SpeedHigh-c.SpeedLow) / n
}

// Form is a line as drives count it by an offset (%) and a gain, in one of the two orders, perhaps inverted: 100 − what comes out.
type Form struct {
	Method       string // offset-gain: (in + offset) × gain; gain-offset: in × gain + offset
	Offset, Gain float64
	Invert       bool
}

// Forms turns a line through two points, both in percent, into both orders. False when the points have one in.
func Forms(inLow, outLow, inHigh, outHigh float64) ([2]Form, bool) {
	if inLow == inHigh || outLow == outHigh {
		return [2]Form{}, false
	}
	invert := (outHigh-outLow)*(inHigh-inLow) < 0
	if invert {
		outLow, outHigh = 100-outLow, 100-outHigh
	}
	gain := (outHigh - outLow) / (inHigh - inLow)
	return [2]Form{{"offset-gain", outLow/gain - inLow, gain, invert}, {"gain-offset", outLow - gain*inLow, gain, invert}}, true
}

// Ends turns a form back into what it gives at 0 and 100 % in.
func (f Form) Ends() (low, high float64) {
	s := Scale{Method: f.Method, Offset: f.Offset, Gain: f.Gain, Invert: f.Invert}
	return s.Out(0), s.Out(100)
}

// Within is how far a measured line may lie off the wanted one, of its span. Common practice: two percent of meter, slip and load.
const Within = .02

// Telling are the measured points that say something of the line: not those that stand where a limit or the dead band holds the speed.
func (c Chain) Telling(points []Point) []Point {
	var l []Point
	for _, p := range points {
		at := c.At((p.In - c.Low) / (c.High - c.Low))
		held := at.Speed != at.Scaled || c.DeadBand > 0 && p.In-c.Low < c.DeadBand
		if !held || math.Abs(p.Out-at.Speed) > Within*math.Abs(c.SpeedHigh-c.SpeedLow) {
			l = append(l, p)
		}
	}
	return l
}
