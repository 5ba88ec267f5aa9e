package drive

import "math"

// Process is what a drive's own controller regulates: a measured value, as a share of its range, that grows with the speed and follows it
// late. Common practice: a flow grows with the speed, a pressure with its square.
type Process struct {
	Top     float64 // share of the range at Speed
	Static  float64 // share that is there at standstill
	Squared bool
	Lag     float64 // s
	Speed   float64 // rad/s of the shaft at which Top holds; 0: there is no process
}

// At is the value that a speed, rad/s, leads to in the end.
func (p Process) At(w float64) float64 {
	if !(p.Speed > 0) {
		return 0
	}
	x := math.Abs(w) / p.Speed
	if p.Squared {
		x *= x
	}
	return p.Static + (p.Top-p.Static)*x
}

// Controller is the drive's own process controller as it is set: proportional and integral, its output a share of the highest frequency.
type Controller struct {
	On       bool
	Gain     float64 // share of the output over share of the measured value's range
	Time     float64 // s of the integral part; 0: none
	Setpoint float64 // share of the range
	Sleep    float64 // Hz below which it stops; 0: never
}

// How a controller sleeps and wakes where a family has no settings for it. Common practice.
const (
	sleepsAfter = 10. // s below its frequency
	wakesBelow  = .05 // of the range under the setpoint
)

// Measured is the process value that the drive sees, share of its range.
func (d *Drive) Measured() float64 {
	if d.P.Broken.FeedbackOff {
		return 0
	}
	return min(1, d.process)
}

// flow moves the process by h seconds.
func (d *Drive) flow(h float64) {
	if d.P.Process.Speed > 0 {
		d.process += (d.P.Process.At(d.LoadW) - d.process) * min(1, h/max(d.P.Process.Lag, h))
	}
}

// regulate is what the controller asks for, Hz. Its integral part waits while the output is at an end.
func (d *Drive) regulate(h float64) float64 {
	l, c := &d.C.Loop, &d.cmd
	p := l.Gain * (l.Setpoint - d.Measured())
	if l.Time > 0 {
		next := c.integral + p*h/l.Time
		if out := p + next; !(out > 1 && p > 0 || out < 0 && p < 0) {
			c.integral = max(-1, min(1, next))
		}
	}
	return max(0, min(1, p+c.integral)) * min(d.C.Upper, d.C.Highest)
}

// sleeps tells whether the controller has stopped the drive until it asks for more. hz is what it asks for.
func (d *Drive) sleeps(hz, h float64) bool {
	l, c := &d.C.Loop, &d.cmd
	switch {
	case !l.On || !(l.Sleep > 0) || d.HandOn:
		c.asleep, c.drowsy = false, 0
	case c.asleep:
		c.asleep = l.Setpoint-d.Measured() < wakesBelow
	case hz >= l.Sleep || d.Phase != Running:
		c.drowsy = 0
	default:
		if c.drowsy += h; c.drowsy >= sleepsAfter {
			c.asleep, c.drowsy = true, 0
		}
	}
	return c.asleep
}
