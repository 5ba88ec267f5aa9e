package stops

import (
	"tingate/core/safety"
)

// device is one in play.
type device struct {
	*proto
	d        Device // as it is set, perhaps with a fault
	on       bool   // relay, safety relay, lamp, brake
	due      int    // a change that is on its way; -1: none
	to       bool
	seenA    bool // a drive's channels as they count
	seenB    bool
	aFrom    int // since when a channel is without voltage, before it counts; never: it has
	bFrom    int
	pairs    []channels
	cross    bool // its test pulses told of a short: off until its supply was gone
	may      bool // its reset is all that is missing
	press    int  // when its reset was pressed with everything else there; -1: not
	wasReset bool
	late     int // when its delayed outputs open; -1: not
	sto      *safety.STO
	unfed    bool // a drive without its line
	runs     bool
	rst      bool
	state    safety.State
	moves    int // how often it has switched
	lifeless bool
}

// channels are a pair of a safety relay's inputs.
type channels struct {
	a, b bool
	at   [2]int // when each closed
	from [2]int // since when each is without voltage, before it counts
	bad  bool   // one opened alone: both must open before it counts again
}

// shows is what a person sees of a device.
func (x *device) shows() string {
	switch {
	case x.d.Does == DriveInputs:
		return string(x.state)
	case x.d.Does == Brake && x.on:
		return "released"
	case x.d.Does == Brake:
		return "applied"
	case x.on:
		return "on"
	}
	return "off"
}
