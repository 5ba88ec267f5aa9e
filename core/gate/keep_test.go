package gate_test

import (
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
)

// As found is what the drive held before anything in it was set; saved after that, it says which setting was the first.
func TestAsFoundIsSavedFirst(t *testing.T) {
	found := drivefile.Snapshot{Name: "as-found", Dialect: "Tarn", Values: map[string]drivefile.Value{"4D": {Steps: 155}}}
	for name, c := range map[string]struct {
		before any
		kind   string
		want   gate.Verdict
	}{
		"nothing before":                {nil, "", gate.Holds},
		"read before":                   {drivefile.Reading{Code: "4D", Text: "15.5", How: "typed"}, drivefile.EntryReading, gate.Holds},
		"set on the keypad before":      {drivefile.Entered{Code: "4D", Text: "15.5", Steps: 155}, drivefile.EntryEntered, gate.Again},
		"written before":                {drivefile.Write{Code: "4D", Asked: 155, Outcome: "held"}, drivefile.EntryWrite, gate.Again},
		"a write that was refused":      {drivefile.Write{Code: "4D", Asked: 155, Outcome: "refused"}, drivefile.EntryWrite, gate.Holds},
		"a write of which nobody knows": {drivefile.Write{Code: "4D", Asked: 155, Outcome: "unknown"}, drivefile.EntryWrite, gate.Again},
	} {
		var e []drivefile.Entry
		if c.before != nil {
			e = sample.Entry(e, c.kind, c.before)
		}
		e = sample.Entry(e, drivefile.EntrySnapshot, found)
		got := check(eval(sample.Dryer(), e), "keep/snapshot/as-found")
		if got.Verdict != c.want || c.want == gate.Again && !strings.Contains(got.Detail, "4D") {
			t.Errorf("%s: %s %s", name, got.Verdict, got.Detail)
		}
	}
}

// As left is true as long as what was read since, and what is planned now, is the same.
func TestAsLeftStaysTrue(t *testing.T) {
	d := sample.Dryer()
	e := readAll(d, confirmed(nil), "typed")
	snap := drivefile.Snapshot{Name: "as-left", Dialect: "Tarn", Values: map[string]drivefile.Value{}}
	some := eval(d, e)
	code, steps := "", int64(0)
	for _, l := range some.Lines {
		if l.Planned {
			snap.Values[l.Code] = drivefile.Value{Steps: l.Steps, Text: l.SetTo}
			if l.Unit == "A" {
				code, steps = l.Code, l.Steps
			}
		}
	}
	e = sample.Entry(e, drivefile.EntrySnapshot, snap)
	if c := check(eval(d, e), "keep/snapshot/as-left"); c.Verdict != gate.Holds {
		t.Fatalf("%+v", c)
	}
	other := steps + 5
	read := sample.Entry(e, drivefile.EntryReading, drivefile.Reading{Code: code, Text: "16.0", Steps: &other, How: "typed"})
	if c := check(eval(d, read), "keep/snapshot/as-left"); c.Verdict != gate.Again || !strings.Contains(c.Detail, code) {
		t.Errorf("%s was read otherwise since: %+v", code, c)
	}
	d.Intent.CurrentLimit = sample.Q("intent.current_limit", "120")
	if c := check(eval(d, e), "keep/snapshot/as-left"); c.Verdict != gate.Again {
		t.Errorf("another limit is planned since: %+v", c)
	}
}

// What must not stay bars Keep: a jumper, a wire that was put off, a thing that somebody put in; and a gate Stop of which a test fails.
func TestWhatBarsKeep(t *testing.T) {
	s := whole(t, "wake", nil)
	bars := func(s *scene, what string) bool {
		st := gate.Evaluate(s.job, s.now)
		for _, x := range st.Temporary {
			if x.What == what {
				return check(st, "keep/temporary/none").Verdict == gate.Stops
			}
		}
		return false
	}
	if c := s.check("keep/temporary/none"); c.Verdict != gate.Holds {
		t.Fatalf("%+v", c)
	}
	jumper := s.again()
	jumper.say(t, "wake/sto/by", "jumper")
	if !bars(jumper, "jumper") {
		t.Error("a jumper stays in")
	}
	wire := s.again()
	id := gate.Evaluate(wire.job, wire.now).Wiring.Wires[0].ID
	wire.add(t, drivefile.EntryDecision,
		drivefile.Decision{Type: "waived", Key: "control/landed/" + id, Reason: "the cable comes next week"})
	if !bars(wire, "deferred-wire") {
		t.Error("a wire that was put off stays off")
	}
	put := s.again()
	put.add(t, drivefile.EntryTemporary, drivefile.Temporary{What: "open-cover", Where: "panel", Why: "a measurement", Until: "today"})
	if !bars(put, "open-cover") {
		t.Error("a cover stays open")
	}
	stop := whole(t, "stop", nil)
	key := ""
	for _, c := range checksOf(gate.Evaluate(stop.job, stop.now), "stop") {
		if strings.HasPrefix(c.Key, gate.TestPrefix) {
			key = c.Key
			break
		}
	}
	stop.say(t, key, "step 1: H1 on")
	if st := gate.Evaluate(stop.job, stop.now); st.Stop.Fails == 0 {
		stop.say(t, key, "step 1: H1 off")
	}
	st := gate.Evaluate(stop.job, stop.now)
	if st.Stop.Fails != 1 || check(st, "keep/gate/stop").Verdict != gate.Stops || check(st, "turn/before/stop").Verdict != gate.Stops {
		t.Errorf("%d tests fail, Keep %s, Turn %s", st.Stop.Fails, check(st, "keep/gate/stop").Verdict,
			check(st, "turn/before/stop").Verdict)
	}
}

// A drive that is run from outside is left in auto; one that is run from its keypad is asked nothing of the kind.
func TestLeftInAuto(t *testing.T) {
	for command, asked := range map[string]bool{"terminals": true, "network": true, "keypad": false, "": false} {
		d := sample.Dryer()
		d.Intent.CommandSource = command
		if c := check(eval(d, nil), "signal/auto/left"); (c.Key != "") != asked {
			t.Errorf("run from %q: asked %v", command, c.Key != "")
		}
	}
}

// Above the plate's speed there is less torque: from a few percent on it is said.
func TestAboveThePlatesSpeed(t *testing.T) {
	for highest, said := range map[string]bool{"1455": false, "1480": false, "1500": true, "2900": true} {
		d := sample.Dryer()
		d.Intent.HighestSpeed = sample.Q("intent.highest_speed", highest)
		if _, is := found(eval(d, nil), "above-plate-speed"); is != said {
			t.Errorf("%s r/min of a motor of 1455: said %v", highest, is)
		}
	}
}
