package supply

import "math"

// Cabinet is a closed enclosure in which heat is made. Lengths in m, heat in W, temperatures in °C.
type Cabinet struct {
	Height, Width, Depth float64
	Wall                 bool    // its back stands against a wall
	Heat                 float64 // all that is lost inside
	Outside              float64 // of the air around it
}

// conductance is what painted sheet steel gives off, W/(m² K), still air on both sides. Common practice.
const conductance = 5.5

// Surface is the effective cooling surface of a single enclosure, m². IEC TR 60890, from memory: free on all sides
// 1.8 H (W + D) + 1.4 W D; back to a wall 1.4 W (H + D) + 1.8 D H.
func (c Cabinet) Surface() float64 {
	if c.Wall {
		return 1.4*c.Width*(c.Height+c.Depth) + 1.8*c.Depth*c.Height
	}
	return 1.8*c.Height*(c.Width+c.Depth) + 1.4*c.Width*c.Depth
}

// Inside is the mean temperature inside while nothing moves air through: outside + heat ÷ (conductance × surface). It is
// warmer at the top. NaN where something is missing or not above zero.
func (c Cabinet) Inside() float64 {
	a := c.Surface()
	if !(a > 0) || !(c.Heat >= 0) {
		return math.NaN()
	}
	return c.Outside + c.Heat/(conductance*a)
}

// Airflow is what a fan must move, m³/h, to hold a temperature inside: 3.1 × heat ÷ rise (air at sea level; common
// practice). 0 when nothing is lost; NaN when inside is not above outside: then only cooling holds it.
func (c Cabinet) Airflow(inside float64) float64 {
	if rise := inside - c.Outside; rise > 0 {
		return 3.1 * c.Heat / rise
	}
	return math.NaN()
}
