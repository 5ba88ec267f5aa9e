package gate_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"tingate/core/circuit"
	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/finding"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/core/record"
	"tingate/core/stops"
)

// stopping is a scene at gate Stop with everything before the tests answered; change is made before.
func stopping(t *testing.T, change func(s *scene)) *scene {
	t.Helper()
	d, place := matched()
	s := &scene{now: now}
	s.job = gate.Job{ID: "x", Drive: d, Place: place, Family: job(d, nil).Family, Practice: practiceWith(t, nil)}
	s.power(false)
	if change != nil {
		change(s)
	}
	for _, c := range checksOf(s.state(), "stop") {
		if strings.HasPrefix(c.Key, "stop/before/") && c.Do != "" {
			s.answer(t, c, "confirmed")
		}
	}
	return s
}

// What is refused and what is asked of a circuit (ISO 13850, ISO 13849-1, IEC 60204-1, ISO/TR 24119), and what is not there to be
// said of a good one.
func TestWhatAStopCircuitMustNotBe(t *testing.T) {
	of := func(change func(c *drivefile.StopCircuit)) func(*scene) {
		return func(s *scene) { s.circuit(change) }
	}
	guards := map[string]drivefile.StopDevice{"S1": {Kind: "guard"}, "S2": {Kind: "guard"}}
	for code, x := range map[string]struct {
		sev    finding.Severity
		change func(*scene)
	}{
		"circuit-starts-by-itself": {finding.Stop, of(func(c *drivefile.StopCircuit) { c.Reset = "automatic" })},
		"reset-when-pressed":       {finding.Look, of(func(c *drivefile.StopCircuit) { c.Reset = "pressed" })},
		"links-still-in":           {finding.Stop, of(func(c *drivefile.StopCircuit) { c.Jumper = true })},
		"one-channel":              {finding.Stop, of(func(c *drivefile.StopCircuit) { c.Kind = "one-channel" })},
		"cross-short-not-seen":     {finding.Look, of(func(c *drivefile.StopCircuit) { c.Feed = "one" })},
		"masking":                  {finding.Look, of(func(c *drivefile.StopCircuit) { c.Devices = guards })},
		"coast-without-locking":    {finding.Look, func(s *scene) { s.job.Drive.Stop.Guarding = "none" }},
		"next-no-date":             {finding.Look, of(func(c *drivefile.StopCircuit) { c.Next = "next spring" })},
		"drive-restarts-by-itself": {finding.Stop, func(s *scene) { s.job.Drive.Intent.Restart = "on" }},
		"ramp-without-delay":       {finding.Stop, func(s *scene) { s.job.Drive.Stop.As = "ramped" }},
		"fall-not-measured": {finding.Do, func(s *scene) {
			s.job.Drive.Stop.As = "ramped"
			s.circuit(func(c *drivefile.StopCircuit) { c.Delay = sample.Q("stop.fall", "3 s") })
		}},
		"delay-too-short": {finding.Stop, func(s *scene) {
			s.job.Drive.Stop.As, s.job.Drive.Stop.Fall = "ramped", sample.Q("stop.fall", "4 s")
			s.circuit(func(c *drivefile.StopCircuit) { c.Delay = sample.Q("stop.fall", "3 s") })
		}},
		"discrepancy-long": {finding.Look, func(s *scene) { s.job.Drive.Stop.Discrepancy = sample.Q("stop.fall", "5 s") }},
		"magnets-may-jerk": {finding.Note, func(s *scene) { s.job.Drive.Motor.Kind = "permanent-magnet" }},
		"nothing-latches":  {finding.Stop, of(func(c *drivefile.StopCircuit) { c.Reset = "automatic" })},
	} {
		if f, ok := findingOf(stopping(t, x.change).state(), code); !ok || f.Severity != x.sev || f.Gate != "stop" {
			t.Errorf("%s: %v %s", code, ok, f.Severity)
		}
		if f, ok := findingOf(stopping(t, nil).state(), code); ok {
			t.Errorf("a good circuit: %s", f.Title)
		}
	}
}

// A test that shows something else bars the gate and says what; suspects are parted by measurements that are checks only while that
// test fails; when it is mended the test holds, the measurements count no more, and the mend is asked for.
func TestATestThatFailsIsParted(t *testing.T) {
	s := stopping(t, nil)
	s.answer(t, check(s.state(), "stop/set/chosen"), "all")
	d := gate.StopDrawing(s.job)
	hidden := []circuit.Mistake{{Kind: stops.Stuck, At: "S2.2"}}
	test, _ := d.Test("both/S2")
	value, err := d.Answer(test, hidden)
	if err != nil || !strings.HasPrefix(value, "step ") {
		t.Fatal(value, err)
	}
	s.answer(t, check(s.state(), "stop/test/both/S2"), value)
	st := s.state()
	if c := check(st, "stop/test/both/S2"); c.Verdict != gate.Stops || !strings.Contains(c.Detail, "must be") || st.Stop.Fails != 1 ||
		mark(st, "stop") != "barred" {
		t.Fatalf("%+v %+v", c, st.Stop)
	}
	for _, x := range [][2]string{{"circuit-first", "turn/before/stop"},
		{"jumper", "turn/before/stop-fails"}} { // whichever comes first here, nothing turns
		other := s.job
		other.Practice = practiceWith(t, map[string]string{"first_turn": x[0]})
		if st := gate.Evaluate(other, s.now); check(st, x[1]).Verdict != gate.Stops || st.Turn.Ready {
			t.Errorf("%s: %+v", x[0], check(st, x[1]))
		}
	}
	shown, readings := gate.StopReadings(s.job, st, d)
	g, err := d.Diagnose(d.Table, shown, readings, nil)
	if err != nil || g.Agrees || len(g.Classes) == 0 || g.Continuity == nil {
		t.Fatalf("%+v %v", g, err)
	}
	asked := s.job
	asked.Asked = gate.OhmsKey(*g.Continuity)
	c := check(gate.Evaluate(asked, s.now), asked.Asked)
	if c.Work != "dead" || c.Unit != "Ω" {
		t.Fatalf("%+v", c)
	}
	s.answer(t, c, "0.2")
	if c = check(s.state(), asked.Asked); c.Verdict != gate.Holds {
		t.Errorf("%+v", c)
	}
	if _, readings = gate.StopReadings(s.job, s.state(), d); len(readings) != 1 || readings[0].Joined == nil || !*readings[0].Joined {
		t.Errorf("%+v", readings)
	}
	// Done again without a word of what was mended: that is asked for. Said, a fresh round begins, also for what passed before.
	passed := check(s.state(), "stop/test/both/S1")
	s.answer(t, passed, stops.AsMust)
	c = check(s.state(), "stop/test/both/S2")
	s.add(t, drivefile.EntryEvidence, drivefile.Evidence{Key: c.Key, Value: stops.AsMust, Basis: c.Basis})
	st = s.state()
	if check(st, c.Key).Verdict != gate.Holds || check(st, asked.Asked).Key != "" || check(st, "stop/mended/what").Verdict != gate.NotDone {
		t.Errorf("mended: %s, %+v", check(st, c.Key).Verdict, check(st, "stop/mended/what"))
	}
	s.see(t, "stop/mended/what", "misread", "")
	if st = s.state(); check(st, passed.Key).Verdict != gate.Holds || check(st, "stop/mended/what").Verdict != gate.Holds {
		t.Errorf("misread: %+v", check(st, passed.Key))
	}
	s.see(t, "stop/mended/what", "wire", "")
	st = s.state()
	for _, key := range []string{passed.Key, c.Key} {
		if x := check(st, key); x.Verdict != gate.Again || !strings.Contains(x.Detail, "whole round") {
			t.Errorf("%s after a mend: %+v", key, x)
		}
		s.answer(t, check(st, key), stops.AsMust)
	}
	if st = s.state(); check(st, passed.Key).Verdict != gate.Holds || check(st, c.Key).Verdict != gate.Holds {
		t.Errorf("the round after it: %+v", check(st, c.Key))
	}
	s.answer(t, check(st, c.Key), value)
	if x := check(s.state(), "stop/mended/what"); x.Verdict != gate.Again || !strings.Contains(x.Detail, "failed after that") {
		t.Errorf("failed again: %+v", x)
	}
	if failed, mends := gate.StopRound(s.job, d); len(failed) != 2 || len(mends) != 2 || failed[0].Shown == "" {
		t.Errorf("%d failures, %d mends", len(failed), len(mends))
	}
	// This time it was misread: the round after the mend goes on, and what passed before the mend does not come back.
	s.see(t, "stop/mended/what", "misread", "")
	early := check(s.state(), "stop/test/early/S1")
	if st = s.state(); check(st, passed.Key).Verdict != gate.Holds {
		t.Errorf("passed after the mend, and a later test was misread: %+v", check(st, passed.Key))
	}
	before := s.again()
	before.job.Entries = slices.DeleteFunc(before.job.Entries,
		func(e drivefile.Entry) bool { return strings.Contains(string(e.Body), passed.Key) })
	before.add(t, drivefile.EntryEvidence, drivefile.Evidence{Key: passed.Key, Value: stops.AsMust, Basis: passed.Basis})
	if x := check(before.state(), passed.Key); x.Verdict != gate.Again || passed.Basis["mend"] != "" || early.Basis["mend"] == "" {
		t.Errorf("passed before the mend: %+v", x)
	}
	s.see(t, "stop/mended/what", "part", "")
	// Any change of the circuit asks for every test again.
	s.circuit(func(c *drivefile.StopCircuit) { c.Lamps = "three" })
	if c = check(s.state(), c.Key); c.Verdict != gate.Again || !strings.Contains(c.Detail, "has changed") {
		t.Errorf("%+v", c)
	}
}

// The smallest set is what was worked out when it was chosen: tests outside of it are not asked, and what was answered stays.
func TestTheSmallestSetIsChosen(t *testing.T) {
	s := stopping(t, nil)
	d := gate.StopDrawing(s.job)
	all := s.state().Stop.Tests
	keys := d.Smallest().Keys
	reason, _ := json.Marshal(keys)
	c := check(s.state(), "stop/set/chosen")
	s.add(t, drivefile.EntryEvidence, drivefile.Evidence{Key: c.Key, Value: "smallest", Reason: string(reason), Basis: c.Basis})
	if n := s.state().Stop.Tests; n != len(keys) || n >= all || all != len(d.Table) {
		t.Errorf("%d tests of %d, the set has %d", n, all, len(keys))
	}
}

// The drive's own names stand in the circuit: terminals of its papers, words of its keypad; several drives share one relay.
func TestTheCircuitIsTheDrives(t *testing.T) {
	s := stopping(t, func(s *scene) { s.circuit(func(c *drivefile.StopCircuit) { c.Drives = "XX-01, DD-02" }) })
	d := gate.StopDrawing(s.job)
	if d.Name("T2") != "T2 DD-02" || !d.Net.Has("T2:31") || !d.Net.Has("T2:32") || !d.Net.Has("T1:STO-A") {
		t.Errorf("%s %s", d.Name("T1"), d.Name("T2"))
	}
	if w := gate.StopWords(s.job.Family); w["torque-off"] != "Slack" || !strings.HasPrefix(w["channel-fault"], "Q3") ||
		w["ready"] != "Ready" {
		t.Errorf("%v", w)
	}
	if c := check(s.state(), "stop/measured/message"); !strings.Contains(c.Title, `"Slack"`) {
		t.Errorf("%s", c.Title)
	}
}

// A test in which a wire is lifted rests on a record of DEAD before it and of live after it: without one it is not answered, and the next
// wants another.
func TestALiftedWireRestsOnARecordOfDead(t *testing.T) {
	s := stopping(t, nil)
	s.answer(t, check(s.state(), "stop/set/chosen"), "all")
	const first, second = "stop/test/channel-1/S1", "stop/test/channel-2/S1"
	if c := check(s.state(), first); c.Do != "" || !strings.Contains(c.Detail, "record DEAD at gate Dead") || c.Work != "live" {
		t.Errorf("with the supply live all along: %+v", c)
	}
	e := s.job.Energy["p1"]
	e.State, e.DeadAt, e.Since = "dead", map[string]string{s.job.ID: stamp(s.now)}, stamp(s.now)
	s.job.Energy = map[string]isolation.SupplyState{"p1": e}
	if c := check(s.state(), first); c.Do != "" || !strings.Contains(c.Detail, "Record the supply live again") {
		t.Errorf("dead still: %+v", c)
	}
	s.now = s.now.Add(time.Second)
	e.State, e.Since = "live", stamp(s.now)
	s.job.Energy = map[string]isolation.SupplyState{"p1": e}
	s.answer(t, check(s.state(), first), stops.AsMust)
	if st := s.state(); check(st, first).Verdict != gate.Holds || check(st, second).Do != "" {
		t.Errorf("%+v; %+v", check(st, first), check(st, second))
	}
	e.DeadAt = map[string]string{s.job.ID: e.DeadAt[s.job.ID], "another drive": stamp(s.now.Add(time.Second))}
	s.job.Energy = map[string]isolation.SupplyState{"p1": e}
	if c := check(s.state(), second); c.Do != "" {
		t.Errorf("proved dead at another drive: %+v", c)
	}
}

// A drive without a stop circuit says so in somebody's name; with a circuit chosen or contacts planned it is not so.
func TestNoStopCircuitIsAnAnswer(t *testing.T) {
	s := stopping(t, func(s *scene) {
		s.job.Drive.Stop.None, s.job.Drive.Stop.Circuit, s.job.Drive.Wiring.Safety = true, "", "jumper"
	})
	if c := check(s.state(), "stop/none/stated"); c.Verdict != gate.NotDone {
		t.Errorf("%+v", c)
	}
	s.job.Drive.Stop.NoneBy = "I. Brekke, SK-9"
	s.answers(t, "stop")
	for _, c := range checksOf(s.state(), "stop") {
		if c.Verdict != gate.Holds {
			t.Errorf("%s: %s %s", c.Key, c.Verdict, c.Detail)
		}
	}
	s.answer(t, check(s.state(), "wake/sto/by"), "links")
	if st := s.state(); check(st, "wake/sto/by").Verdict != gate.Holds ||
		slices.ContainsFunc(st.Temporary, func(x record.TemporaryThing) bool { return x.What == "jumper" }) {
		t.Errorf("links as ordered: %+v %+v", check(st, "wake/sto/by"), st.Temporary)
	}
	s.job.Drive.Stop.NoneBy = "somebody else"
	if c := check(s.state(), "stop/none/rests"); c.Verdict != gate.Again {
		t.Errorf("in another's name: %+v", c)
	}
	s.job.Drive.Stop.Circuit = "line-1"
	if c := check(s.state(), "stop/none/only"); c.Verdict != gate.Stops {
		t.Errorf("a circuit too: %+v", c)
	}
	s.job.Drive.Stop.Circuit, s.job.Drive.Wiring.Safety = "", "relay"
	if c := check(s.state(), "stop/none/only"); c.Verdict != gate.Stops {
		t.Errorf("a relay planned: %+v", c)
	}
	s.job.Drive.Stop.None, s.job.Drive.Stop.Circuit = false, "line-1"
	if c := check(s.state(), "wake/sto/by"); c.Verdict != gate.Again {
		t.Errorf("links, and a circuit planned: %+v", c)
	}
}

// Safety functions inside the drive ask for checksum, holder and acceptance test; a change, and another drive, ask for the test again.
func TestSafetyInsideTheDriveIsAccepted(t *testing.T) {
	s := stopping(t, func(s *scene) { s.job.Drive.Stop.Inside = "SS1, SLS" })
	if c := check(s.state(), "stop/inside/accepted"); c.Do != "" {
		t.Errorf("before it is stated: %+v", c)
	}
	s.job.Drive.Stop.InsideSum, s.job.Drive.Stop.InsideBy = "7F3A", "I. Brekke"
	s.answer(t, check(s.state(), "stop/inside/accepted"), "confirmed")
	if c := check(s.state(), "stop/inside/accepted"); c.Verdict != gate.Holds {
		t.Fatalf("%+v", c)
	}
	for what, change := range map[string]func(d *drivefile.Drive){
		"another checksum": func(d *drivefile.Drive) { d.Stop.InsideSum = "0000" },
		"another drive":    func(d *drivefile.Drive) { d.Rating.Serial = "another" },
		"another function": func(d *drivefile.Drive) { d.Stop.Inside = "SS1" },
	} {
		x := *s
		change(&x.job.Drive)
		if c := check(x.state(), "stop/inside/accepted"); c.Verdict != gate.Again {
			t.Errorf("%s: %+v", what, c)
		}
	}
}
