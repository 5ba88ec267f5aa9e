package bench

import (
	"tingate/core/dialect"
	"tingate/core/signal"
)

// given is what a plan takes from elsewhere than its own fields, and what follows from that.
func (c configured) given(l map[string]dialect.Driven, share, hz func(dialect.Driven) float64) {
	set := func(name string, put func(dialect.Driven)) {
		if d, ok := l[name]; ok {
			put(d)
		}
	}
	set("dead-band", func(d dialect.Driven) { c.DeadBand = share(d) })
	set("lost-below", func(d dialect.Driven) { c.LostBelow = d.Value })
	last := 0.0
	for i, name := range []string{"bend-1", "bend-2", "bend-3"} {
		if at := l[name+"-at"]; at.Setting != nil && share(at) > last && share(at) < 1 {
			last = share(at)
			c.Bends[i] = signal.Bend{Share: last, Speed: hz(l[name])}
		} else {
			break // a point that does not rise ends the curve
		}
	}
	c.Magnetise = l["magnetise"].Steps != 0
	set("preheat", func(d dialect.Driven) { c.Preheat = share(d) * c.Motor.Current })
	set("network-wait", func(d dialect.Driven) {
		if c.NetWait = d.Value; d.Setting.Unit == "ms" {
			c.NetWait /= 1000
		}
	})
	set("network-lost", func(d dialect.Driven) { c.NetLost = d.Means })
	c.SelfCooled = l["motor-cooling"].Means == "own-fan"
	if l["auto-ramp"].Steps != 0 { // its limits hold the ramp, not a time
		c.Rise, c.Fall, c.BusControl = c.Highest*10, c.Highest*10, true
	}
	if l["brake"].Steps == 0 {
		return
	}
	set("brake-opens-at", func(d dialect.Driven) { c.BrakeFrom = share(d) * c.Rated })
	set("brake-opens-torque", func(d dialect.Driven) { c.BrakeTorque = share(d) * c.Motor.Torque() })
	set("brake-closes-below", func(d dialect.Driven) { c.BrakeBelow = hz(d) })
}
