package stops

import (
	"strings"
	"testing"

	"tingate/core/circuit"
)

// Test pulses pass where filters are longer, and trip what they reach where one is not; what trips is named.
func TestTestPulsesPass(t *testing.T) {
	curtain := []SpecDevice{{ID: "S1"}, {ID: "S2", Kind: LightCurtain}}
	for name, x := range map[string]struct {
		s    Spec
		want string // part of the problem; empty: none
	}{
		"contacts send none on outputs":   {Spec{Devices: curtain[:1], Feed: "pulsed"}, ""},
		"electronic outputs, filter 5 ms": {Spec{Devices: curtain[:1], OutPulse: 2}, ""},
		"electronic outputs, short filter": {Spec{Devices: curtain[:1], OutPulse: 2,
			Drives: []SpecDrive{{ID: "T1", Name: "Drive", Filter: 1}}}, "T1 Drive goes from running to"},
		"over contactors they pass":       {Spec{Devices: curtain[:1], OutPulse: 2, Contactors: 2}, ""},
		"a curtain on a relay of its own": {Spec{Devices: curtain, Feed: "pulsed"}, ""},
		"a curtain on a controller":       {Spec{Kind: "controller", Devices: curtain, Feed: "pulsed", OutPulse: 1}, ""},
		"fifty devices, a curtain of which one": {Spec{Kind: "controller", Devices: append(fiftyDevices(), curtain[1:]...), Feed: "pulsed",
			OutPulse: 1}, ""},
	} {
		c := Draft(x.s)
		out, err := compiled(t, c).Train(3)
		if err != nil {
			t.Fatal(name, err)
		}
		if x.want == "" && len(out.Problems) > 0 || x.want != "" && (len(out.Problems) == 0 || !strings.Contains(out.Problems[0], x.want)) {
			t.Errorf("%s: %v", name, out.Problems)
		}
		for _, l := range out.Lanes {
			if l.Part == "T1" && x.want == "" && (len(l.Spans) != 1 || l.Spans[0].Shows != "running") {
				t.Errorf("%s: %+v", name, l)
			}
			if strings.Contains(l.Part, "output") && len(l.Spans) < 6 { // three periods, each a gap and its end
				t.Errorf("%s: %s sends %d", name, l.Part, len(l.Spans))
			}
		}
	}
	// A curtain whose pulses are longer than the relay's filter.
	c := Draft(Spec{Devices: curtain})
	d := c.Devices["S2"]
	d.Pulse = 4
	c.Devices["S2"] = d
	out, err := compiled(t, c).Train(3)
	if err != nil || !strings.Contains(strings.Join(out.Problems, " "),
		"KS2 Relay of S2 goes from on to off by a test pulse. Its filter is 3 ms.") {
		t.Errorf("%v %v", out.Problems, err)
	}
}

func fiftyDevices() []SpecDevice {
	var l []SpecDevice
	for _, x := range fifty("controller").Parts {
		if strings.HasPrefix(x.ID, "S") && x.ID != "S0" {
			l = append(l, SpecDevice{ID: "A" + x.ID})
		}
	}
	return l
}

// A channel that is held by the plus behind the devices: pulses do not come back, and the relay stays off. Without pulses nothing
// shows it (EN ISO 13849-2, D.5.2: short to a foreign potential).
func TestPulsesSeeAForeignVoltage(t *testing.T) {
	for feed, want := range map[string]string{"": "running", "pulsed": "torque-off"} {
		c := Draft(Spec{Devices: []SpecDevice{{ID: "S1"}, {ID: "S2"}}, Feed: feed})
		seen, err := compiled(t, c).Play([]circuit.Mistake{{Kind: "bridged", At: "K1:S12", To: "G1:+"}},
			[]Event{{100, "work", "S0"}, {500, "release", "S0"}, {1000, "run", "T1"}}, []int{1500})
		if err != nil || seen[0]["T1"] != want {
			t.Errorf("fed %q: %v %v", feed, seen, err)
		}
	}
}
