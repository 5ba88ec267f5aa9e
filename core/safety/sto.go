// Package safety holds the drive's side of safe torque off: two channels, discrepancy, latching, reset, fresh run command.
package safety

// State of a drive as its torque-off channels leave it. IEC 61800-5-2, safe torque off; common practice for what channels that
// disagree do.
type State string

// The states. Torque is only in Running.
const (
	Ready           State = "ready"
	Running         State = "running"
	TorqueOff       State = "torque-off"
	Discrepancy     State = "discrepancy"
	ChannelFault    State = "channel-fault"
	ResetRequired   State = "reset-required"
	RestartRequired State = "restart-required"
	InternalFault   State = "internal-fault"
	Unpowered       State = "unpowered"
)

// Options are how a drive is made and set.
type Options struct {
	Discrepancy      float64 // s for which the channels may disagree
	Latched          bool    // an ordinary torque off asks for a reset
	AutomaticRestart bool    // an unlatched torque off goes back to running when both close with run held
	FallingReset     bool    // the reset acts when let go; otherwise when pressed
}

// Signals are what the drive sees. A and B: channel closed.
type Signals struct{ A, B, Run, Reset, Power, InternalFault bool }

// STO is the torque-off function in time.
type STO struct {
	Options
	State State
	last  Signals
	since float64 // when the channels began to disagree
	fresh bool    // the run command that is held began while the drive could take it
}

// New starts in the state that the first signals give: run held at power-up is no fresh command.
func New(o Options, s Signals, now float64) *STO {
	m := &STO{Options: o, State: Unpowered, last: Signals{}}
	if s.Power {
		m.last = s
		m.last.Power = false
		m.Step(s, now)
	} else {
		m.last = s
	}
	return m
}

// Step takes the signals at a time, s; it may be called as often as wanted, and must be called when something changes.
func (m *STO) Step(s Signals, now float64) State {
	was := m.last
	m.last = s
	ran := s.Run && !was.Run
	reset := s.Reset && !was.Reset
	if m.FallingReset {
		reset = !s.Reset && was.Reset
	}
	if !s.Run {
		m.fresh = false
	}
	if s.InternalFault {
		m.State = InternalFault
	}
	if m.State == InternalFault {
		return m.State // not to be reset, not by power either
	}
	if !s.Power {
		m.keepFault()
		return m.State
	}
	if !was.Power {
		m.powered(s, now)
		return m.State
	}
	m.channels(s, now)
	switch m.State {
	case ResetRequired:
		if reset && s.A && s.B && was.A && was.B { // pressed in the instant of closing is pressed before it
			m.State = m.released(s)
		}
	case RestartRequired:
		if !s.Run {
			m.State = Ready
		}
	case Ready:
		if ran || s.Run && m.fresh {
			m.State, m.fresh = Running, true
		}
	case Running:
		if !s.Run {
			m.State = Ready
		}
	}
	return m.State
}

// Until is when channels that disagree become a fault, s.
func (m *STO) Until() float64 { return m.since + m.Discrepancy }

// released is where a drive goes when nothing holds it off any more.
func (m *STO) released(s Signals) State {
	m.fresh = false
	if s.Run {
		return RestartRequired
	}
	return Ready
}

// keepFault: a channel fault outlives the loss of power until the channels are seen equal at its return.
func (m *STO) keepFault() { m.State, m.fresh = Unpowered, false }

func (m *STO) powered(s Signals, now float64) {
	switch {
	case s.A && s.B:
		m.State = m.released(s)
	case !s.A && !s.B:
		m.State = TorqueOff
	default:
		m.State, m.since = Discrepancy, now
	}
}

// channels follows what the two channels say.
func (m *STO) channels(s Signals, now float64) {
	const tiny = 1e-9
	switch m.State {
	case ChannelFault:
	case Discrepancy:
		switch {
		case now-m.since > m.Discrepancy+tiny:
			m.State = ChannelFault
		case !s.A && !s.B:
			m.State = TorqueOff
		case s.A && s.B: // both closed again inside the limit: an ordinary torque off that is over
			m.over(s)
		}
	case TorqueOff:
		switch {
		case s.A && s.B:
			m.over(s)
		case s.A != s.B:
			m.State, m.since = Discrepancy, now
		}
	default:
		switch {
		case !s.A && !s.B:
			m.State, m.fresh = TorqueOff, false
		case s.A != s.B:
			m.State, m.since, m.fresh = Discrepancy, now, false
		}
	}
}

// over ends an ordinary torque off.
func (m *STO) over(s Signals) {
	switch {
	case m.Latched:
		m.State = ResetRequired
	case m.AutomaticRestart && s.Run:
		m.State, m.fresh = Running, true
	default:
		m.State = m.released(s)
	}
}

// Torque tells whether the motor may be given torque.
func (m *STO) Torque() bool { return m.State == Running }
