package calc

import (
	"fmt"
	"strconv"
	"strings"

	"tingate/core/drive"
)

// DeviceEvent is a controlword that is written, or what happens inside.
type DeviceEvent struct {
	Controlword string `json:"controlword" doc:"like 0x000F"`
	Internal    string `json:"internal" enum:"done,fault,fault-gone"`
}

// DeviceStateIn is the input of device-state: events from the start, or a statusword to be decoded.
type DeviceStateIn struct {
	QuickStopOption *float64      `json:"quick_stop_option" doc:"0 to 8, default 2"`
	Events          []DeviceEvent `json:"events"`
	Statusword      string        `json:"statusword" doc:"like 0x0250"`
}

// DeviceAfter is the state after an event.
type DeviceAfter struct {
	State      string `json:"state"`
	Statusword string `json:"statusword" doc:"bits 0-3, 5 and 6; the others are free"`
}

// DeviceBits are a statusword's bits by name.
type DeviceBits struct {
	ReadyToSwitchOn  bool `json:"ready_to_switch_on"`
	SwitchedOn       bool `json:"switched_on"`
	OperationEnabled bool `json:"operation_enabled"`
	Fault            bool `json:"fault"`
	VoltageEnabled   bool `json:"voltage_enabled"`
	QuickStop        bool `json:"quick_stop" doc:"false: a quick stop is under way"`
	SwitchOnDisabled bool `json:"switch_on_disabled"`
	Warning          bool `json:"warning"`
	Remote           bool `json:"remote"`
	TargetReached    bool `json:"target_reached"`
	InternalLimit    bool `json:"internal_limit_active"`
}

// DeviceStateOut is the output of device-state.
type DeviceStateOut struct {
	AfterEach []DeviceAfter `json:"after_each"`
	State     *string       `json:"state" doc:"of a decoded statusword; null when no state has these bits"`
	Bits      *DeviceBits   `json:"bits"`
}

func init() {
	register("device-state", "The state machine of IEC 61800-7-201, and statuswords decoded", deviceState)
}

func hex(field, text string) (uint16, error) {
	v, err := strconv.ParseUint(strings.TrimPrefix(strings.ToLower(strings.TrimSpace(text)), "0x"), 16, 16)
	if err != nil || !strings.HasPrefix(strings.ToLower(strings.TrimSpace(text)), "0x") {
		return 0, &Error{field, text, "a word like 0x000F"}
	}
	return uint16(v), nil
}

func deviceState(in *DeviceStateIn) (*DeviceStateOut, error) {
	out := &DeviceStateOut{AfterEach: []DeviceAfter{}}
	if in.Statusword != "" {
		w, err := hex("statusword", in.Statusword)
		if err != nil {
			return nil, err
		}
		if s := string(drive.DecodeStatusword(w)); s != "" {
			out.State = &s
		}
		bit := func(n uint) bool { return w>>n&1 == 1 }
		out.Bits = &DeviceBits{bit(0), bit(1), bit(2), bit(3), bit(4), bit(5), bit(6), bit(7), bit(9), bit(10), bit(11)}
		return out, nil
	}
	option := orElse(in.QuickStopOption, 2)
	if option < 0 || option > 8 || option != float64(int(option)) {
		return nil, &Error{"quick_stop_option", show(in.QuickStopOption), "0 to 8"}
	}
	d := drive.NewDevice(int(option))
	for i, e := range in.Events {
		field := fmt.Sprintf("events[%d].controlword", i)
		switch {
		case e.Controlword != "" && e.Internal != "":
			return nil, &Error{field, e.Controlword + " and " + e.Internal, "one of them"}
		case e.Internal == "done":
			d.Done()
		case e.Internal == "fault":
			d.Fail()
		case e.Internal == "fault-gone":
			d.Gone()
		default:
			w, err := hex(field, e.Controlword)
			if err != nil {
				return nil, err
			}
			d.Write(w)
		}
		out.AfterEach = append(out.AfterEach, DeviceAfter{string(d.State), fmt.Sprintf("0x%04X", d.State.Statusword())})
	}
	return out, nil
}
