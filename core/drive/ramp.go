package drive

import "math"

// generator makes the frequency go where it is asked to, no faster than its slopes, with rounded ends.
type generator struct {
	hz, rate float64 // Hz, Hz/s
}

// step moves by h seconds towards a target, Hz. up and down are slopes away from and towards zero, Hz/s; start and end the
// shares of a full ramp that are rounded; span its length, Hz. Through zero it turns with the fall, then the rise.
func (g *generator) step(target, up, down, start, end, span, h float64) {
	slope := up
	if math.Abs(target) < math.Abs(g.hz) || target*g.hz < 0 {
		slope = down
		if target*g.hz < 0 {
			target = 0 // to zero first
		}
	}
	gap := target - g.hz
	if gap == 0 {
		g.rate = 0
		return
	}
	if start <= 0 && end <= 0 {
		g.rate = math.Copysign(slope, gap)
		if math.Abs(gap) <= slope*h {
			g.hz, g.rate = target, 0
			return
		}
		g.hz += g.rate * h
		return
	}
	// The jerk builds the whole slope over its share of the ramp.
	jerk := func(share float64) float64 { return 2 * slope * slope / (max(share, .01) * span) }
	want := math.Copysign(min(slope, math.Sqrt(2*jerk(end)*math.Abs(gap))), gap)
	if most := jerk(start) * h; math.Abs(want) > math.Abs(g.rate) && math.Abs(want-g.rate) > most {
		want = g.rate + math.Copysign(most, want-g.rate)
	}
	g.rate = want
	if math.Abs(gap) <= math.Abs(g.rate)*h+1e-9 || math.Abs(gap) < 1e-3 {
		g.hz, g.rate = target, 0
		return
	}
	g.hz += g.rate * h
}

// avoid moves a target out of skip bands, to the side on which it stands.
func (c *Config) avoid(hz float64) float64 {
	for _, m := range c.Skip {
		if m <= 0 || c.SkipWidth <= 0 {
			continue
		}
		if d := math.Abs(hz) - m; math.Abs(d) < c.SkipWidth/2 {
			edge := m - c.SkipWidth/2
			if d > 0 {
				edge = m + c.SkipWidth/2
			}
			hz = math.Copysign(edge, hz)
		}
	}
	return hz
}

// Ramp is where the ramp stands, Hz.
func (d *Drive) Ramp() float64 { return d.ramp.hz }
