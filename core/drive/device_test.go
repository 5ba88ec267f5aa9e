package drive

import (
	"fmt"
	"strings"
	"testing"

	"tingate/testtools/check"
)

func TestStatuswordsAgainstTheStandard(t *testing.T) {
	const source = "IEC 61800-7-201, coding of the statusword, from memory"
	for state, word := range map[DeviceState]uint16{NotReady: 0, SwitchOnDisabled: 0x40, ReadyToSwitchOn: 0x21, SwitchedOn: 0x23,
		OperationEnabled: 0x27, QuickStopActive: 0x07, FaultReaction: 0x0F, Fault: 0x08} {
		check.Against(t, "statusword of "+string(state), source, float64(state.Statusword()), float64(word), 1e-9)
		for _, others := range []uint16{0, 0xFF90, 0x0210} { // bits that the state does not fix
			if got := DecodeStatusword(word | others); got != state {
				t.Errorf("%#04x is %q, want %s", word|others, got, state)
			}
		}
	}
	if DecodeStatusword(0x0002) != "" {
		t.Error("0002h is no state")
	}
}

// Every transition of the figure, by its number.
func TestTransitionsAgainstTheStandard(t *testing.T) {
	walk := func(option int, steps string) string {
		d := NewDevice(option)
		for _, s := range strings.Fields(steps) {
			switch s {
			case "done":
				d.Done()
			case "fault":
				d.Fail()
			case "gone":
				d.Gone()
			default:
				var w uint16
				if _, err := fmt.Sscanf(s, "%x", &w); err != nil {
					t.Fatal(err)
				}
				d.Write(w)
			}
		}
		return string(d.State)
	}
	const enabled = "done 06 07 0F "
	for _, c := range []struct {
		option      int
		steps, want string
	}{
		{2, "", "not_ready_to_switch_on"}, {2, "0F", "not_ready_to_switch_on"}, {2, "done", "switch_on_disabled"},
		{2, "done 07", "switch_on_disabled"}, {2, "done 06", "ready_to_switch_on"},
		{2, "done 06 07", "switched_on"}, {2, "done 06 0F", "operation_enabled"}, {2, enabled, "operation_enabled"},
		{2, enabled + "07", "switched_on"}, {2, "done 06 07 06", "ready_to_switch_on"},
		{2, "done 06 00", "switch_on_disabled"}, {2, "done 06 02", "switch_on_disabled"}, {2, enabled + "06", "ready_to_switch_on"},
		{2, enabled + "00", "switch_on_disabled"}, {2, "done 06 07 02", "switch_on_disabled"},
		{2, enabled + "02", "quick_stop_active"}, {2, enabled + "02 done", "switch_on_disabled"},
		{2, enabled + "02 0F", "quick_stop_active"}, {2, enabled + "02 00", "switch_on_disabled"},
		{6, enabled + "02 done", "quick_stop_active"}, {6, enabled + "02 done 0F", "operation_enabled"},
		{0, enabled + "02", "switch_on_disabled"},
		{2, enabled + "fault", "fault_reaction_active"}, {2, enabled + "fault done", "fault"}, {2, enabled + "fault done 80", "fault"},
		{2, enabled + "fault done gone 80", "switch_on_disabled"},
		{2, enabled + "80 fault done gone 80", "fault"}, {2, enabled + "80 fault done gone 00 80", "switch_on_disabled"},
		{2, enabled + "fault done gone 06", "fault"},
	} {
		if got := walk(c.option, c.steps); got != c.want {
			t.Errorf("option %d, %s: %s, want %s", c.option, c.steps, got, c.want)
		}
	}
}
