package stops

import (
	"fmt"
	"strings"
	"testing"

	"tingate/core/circuit"
	"tingate/testtools/check"
)

// The sequences that standards ask of a stop, as the circuits drawn here do them. Wordings and clauses from memory.
func TestSequencesAgainstTheStandards(t *testing.T) {
	s := Spec{Devices: []SpecDevice{{ID: "S1"}, {ID: "S2"}}, Lamps: "three"}
	p := compiled(t, Draft(s))
	start := []Event{{1000, "work", "S0"}, {1500, "release", "S0"}, {2000, "run", "T1"}}
	// the drive's states at times, joined
	states := func(p *Played, faults []circuit.Mistake, events []Event, looks ...int) string {
		seen, err := p.Play(faults, append(append([]Event{}, start...), events...), looks)
		if err != nil {
			t.Fatal(err)
		}
		var l []string
		for _, x := range seen {
			l = append(l, x["T1"])
		}
		return strings.Join(l, ", ")
	}
	press, back := Event{4000, "work", "S1"}, Event{6000, "release", "S1"}
	reset := []Event{{8000, "work", "S0"}, {8500, "release", "S0"}}
	check.Says(t, "an emergency stop pressed, then unlatched: the drive",
		"ISO 13850:2015, 4.1.4: disengaging the device must not restart, only permit it; from memory",
		states(p, nil, []Event{press, back}, 3900, 5000, 7900), "running, torque-off, torque-off")
	check.Says(t, "its reset pressed and let go, run held throughout: the drive",
		"IEC 60204-1:2016, 9.2.3.4.2: resetting the command must not start the machine; from memory",
		states(p, nil, append([]Event{press, back}, reset...), 9900), "restart-required")
	check.Says(t, "run off and given afresh: the drive", "IEC 60204-1:2016, 9.2.3.2: a start by a command of its own; from memory",
		states(p, nil, append(append([]Event{press, back}, reset...), Event{10000, "run-off", "T1"}, Event{10500, "run", "T1"}), 11000),
		"running")
	check.Says(t, "the reset pressed and held: the drive",
		"ISO 13849-1:2015, 5.2.2: the manual reset acts on release of the actuator; from memory",
		states(p, nil, []Event{press, back, reset[0]}, 9900), "torque-off")
	check.Says(t, "the supply gone and back: the drive", "IEC 60204-1:2016, 7.5: no start by itself when the supply returns; from memory",
		states(p, nil, []Event{{4000, "supply-off", "G1"}, {6000, "supply-on", "G1"}}, 7900), "torque-off")
	check.Says(t, "one channel of the drive opened for longer than it bears: the drive",
		"IEC 61800-5-2:2016, 4.2.2.2 and common practice: channels that disagree are a fault",
		states(p, nil, []Event{{4000, "lift", p.driveWires("T1")[0]}}, 4300, 5000), "discrepancy, channel-fault")
	check.Says(t, "one contact of a device does not open, the other does: the drive",
		"ISO 13849-1:2015, 6.2.6: of category 3 no single fault loses the function",
		states(p, []circuit.Mistake{{Kind: Stuck, At: "S1.2"}}, []Event{press}, 5000), "torque-off")
	check.Says(t, "and after unlatching and reset, since the fault was seen: the drive",
		"ISO 13849-1:2015, 6.2.6: where practicable the fault is detected at or before the next demand",
		states(p, []circuit.Mistake{{Kind: Stuck, At: "S1.2"}}, append([]Event{press, back}, reset...), 9900), "torque-off")

	ramp := compiled(t, Draft(Spec{Devices: s.Devices, Delay: 2000}))
	check.Says(t, "a stop of category 1: torque while it ramps, none afterwards", "IEC 60204-1:2016, 9.2.2: stop category 1; from memory",
		states(ramp, nil, []Event{press}, 5900, 6200), "ready, torque-off")
	seen, err := ramp.Timing(nil, append(append([]Event{}, start...), press), 8000)
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range seen.Lanes {
		if l.Part == "T1" {
			check.Against(t, "torque goes after the delay of the outputs and the drive's filter, ms", "2000 ms set, 5 ms filter, by hand",
				float64(l.Spans[len(l.Spans)-1].At-press.At), 2005, 1e-9)
		}
	}
	// Lamps: colours by IEC 60073, what each says.
	lamp := func(at int, events ...Event) string {
		seen, err := p.Play(nil, append(append([]Event{}, start...), events...), []int{at})
		if err != nil {
			t.Fatal(err)
		}
		var l []string
		for _, id := range p.Of(Lamp) {
			if seen[0][id] == "on" {
				l = append(l, p.Devices[id].Colour)
			}
		}
		return strings.Join(l, ", ")
	}
	check.Says(t, "lamps while it may run; tripped; put back and waiting for the reset",
		"IEC 60073:2002, table 4: green normal, red emergency, blue mandatory action; common practice for their use here",
		fmt.Sprint(lamp(3900), "; ", lamp(5000, press), "; ", lamp(7900, press, back)), "green; red; red, blue")
}
