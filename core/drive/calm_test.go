package drive

import (
	"math"
	"testing"

	"tingate/core/machine"
	"tingate/core/motion"
)

// A large motor without load must not swing up on volts per hertz: between the second and the third second at a speed its current
// stays within a tenth of the rated one.
func TestLargeMotorsDoNotSwing(t *testing.T) {
	for _, m := range []machine.Plate{
		{Power: 110000, Voltage: 400, Current: 194, Frequency: 50, Speed: 1485, Factor: .86, Efficiency: .952, Poles: 4},
		{Power: 250000, Voltage: 400, Current: 435, Frequency: 50, Speed: 1488, Factor: .865, Efficiency: .959, Poles: 4},
		{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82, Efficiency: .874, Poles: 4},
	} {
		for _, leak := range []float64{.7, 1} {
			e, _ := machine.Make(m)
			c := e.Circuit
			c.Xls, c.Xlr = c.Xls*leak, c.Xlr*leak
			d := works()
			d.P = NewPlant(c, 400, 1-m.Speed/1500)
			d.P.Line, d.P.Hz, d.P.Link, d.P.Load = 400, 50, UsualLink(m.Current*1.1, 400, false), motion.Load{}
			d.C.Rated, d.C.CurrentLimit, d.C.Overload, d.C.Boost = m.Current*1.1, m.Current*1.5, m.Current, .003
			d.C.Motor = Entered{Voltage: 400, Frequency: 50, Current: m.Current, Speed: m.Speed, Power: m.Power, Factor: m.Factor, Poles: 4}
			d.C.Known = machine.FromCircuit(e.Circuit)
			d.Start()
			in := ready(d)
			for _, volts := range []float64{2, 4, 6, 8} { // 10, 20, 30, 40 Hz
				in.Terminals, in.Analog = 1, volts
				turn(d, in, 4)
				low, high := math.Inf(1), 0.0
				for range 1000 {
					d.Step(&in)
					low, high = math.Min(low, d.Current), math.Max(high, d.Current)
				}
				if d.Fault != "" || high-low > .1*m.Current {
					t.Errorf("%g kW, leakage %g, %g Hz: %.0f to %.0f A, %s", m.Power/1000, leak, volts*5, low, high, d.Fault)
				}
			}
		}
	}
}
