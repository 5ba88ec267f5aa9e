package drive

// DeviceState is a state of the power drive system's state machine, IEC 61800-7-201, figure of the finite state automaton.
type DeviceState string

// The states, with the bits 0 to 3, 5 and 6 of the statusword that the standard fixes for each.
const (
	NotReady         DeviceState = "not_ready_to_switch_on"
	SwitchOnDisabled DeviceState = "switch_on_disabled"
	ReadyToSwitchOn  DeviceState = "ready_to_switch_on"
	SwitchedOn       DeviceState = "switched_on"
	OperationEnabled DeviceState = "operation_enabled"
	QuickStopActive  DeviceState = "quick_stop_active"
	FaultReaction    DeviceState = "fault_reaction_active"
	Fault            DeviceState = "fault"
)

// words lists each state's bits: value under mask.
var words = []struct {
	state       DeviceState
	mask, value uint16
}{
	{NotReady, 0x4F, 0x00}, {SwitchOnDisabled, 0x4F, 0x40}, {ReadyToSwitchOn, 0x6F, 0x21}, {SwitchedOn, 0x6F, 0x23},
	{OperationEnabled, 0x6F, 0x27}, {QuickStopActive, 0x6F, 0x07}, {FaultReaction, 0x4F, 0x0F}, {Fault, 0x4F, 0x08},
}

// Statusword gives the bits that are fixed for a state; the others are 0.
func (s DeviceState) Statusword() uint16 {
	for _, w := range words {
		if w.state == s {
			return w.value
		}
	}
	return 0
}

// DecodeStatusword tells the state of a statusword; empty when no state has these bits.
func DecodeStatusword(word uint16) DeviceState {
	for _, w := range words {
		if word&w.mask == w.value {
			return w.state
		}
	}
	return ""
}

// Device is the state machine. QuickStopOption is object 605Ah: 0 lets go at once, 1 to 4 end in switch on disabled, 5 to 8
// stay in quick stop active.
type Device struct {
	State           DeviceState
	QuickStopOption int
	present         bool // the fault's cause is still there
	reset           bool // bit 7 of the last controlword
}

// NewDevice starts in not ready to switch on.
func NewDevice(quickStopOption int) *Device {
	return &Device{State: NotReady, QuickStopOption: quickStopOption}
}

// Command is what a controlword asks for, by its bits 0 to 3 and 7.
func Command(word uint16) string {
	switch {
	case word&0x80 != 0:
		return "fault reset"
	case word&0x02 == 0:
		return "disable voltage"
	case word&0x04 == 0:
		return "quick stop"
	case word&0x01 == 0:
		return "shutdown"
	case word&0x08 == 0:
		return "switch on" // in operation enabled the same bits are: disable operation
	}
	return "enable operation"
}

// Write takes a controlword. What a state does not know leaves it as it is.
func (d *Device) Write(word uint16) {
	edge := word&0x80 != 0 && !d.reset
	d.reset = word&0x80 != 0
	if d.reset {
		if edge && d.State == Fault && !d.present {
			d.State = SwitchOnDisabled // 15
		}
		return
	}
	switch c := Command(word); d.State {
	case SwitchOnDisabled:
		if c == "shutdown" {
			d.State = ReadyToSwitchOn // 2
		}
	case ReadyToSwitchOn:
		switch c {
		case "switch on":
			d.State = SwitchedOn // 3
		case "enable operation":
			d.State = OperationEnabled // 3 and 4 at one go
		case "disable voltage", "quick stop":
			d.State = SwitchOnDisabled // 7
		}
	case SwitchedOn:
		switch c {
		case "enable operation":
			d.State = OperationEnabled // 4
		case "shutdown":
			d.State = ReadyToSwitchOn // 6
		case "disable voltage", "quick stop":
			d.State = SwitchOnDisabled // 10
		}
	case OperationEnabled:
		switch c {
		case "switch on":
			d.State = SwitchedOn // 5
		case "shutdown":
			d.State = ReadyToSwitchOn // 8
		case "disable voltage":
			d.State = SwitchOnDisabled // 9
		case "quick stop":
			d.State = QuickStopActive // 11
			if d.QuickStopOption == 0 {
				d.State = SwitchOnDisabled
			}
		}
	case QuickStopActive:
		switch {
		case c == "disable voltage":
			d.State = SwitchOnDisabled // 12
		case c == "enable operation" && d.QuickStopOption >= 5:
			d.State = OperationEnabled // 16
		}
	}
}

// Done says that what the state was doing is completed: self-test, quick stop's ramp, reaction to a fault.
func (d *Device) Done() {
	switch d.State {
	case NotReady:
		d.State = SwitchOnDisabled // 0 and 1
	case QuickStopActive:
		if d.QuickStopOption < 5 {
			d.State = SwitchOnDisabled // 12
		}
	case FaultReaction:
		d.State = Fault // 14
	}
}

// Fail says that a fault has come; its cause stays until Gone.
func (d *Device) Fail() {
	d.present = true
	if d.State != Fault {
		d.State = FaultReaction // 13
	}
}

// Gone says that the fault's cause has gone: a reset can succeed.
func (d *Device) Gone() { d.present = false }
