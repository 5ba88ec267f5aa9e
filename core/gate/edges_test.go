package gate_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/finding"
	"tingate/core/gate"
)

// found is a finding of a state, by its code; false when there is none.
func found(s gate.State, code string) (gate.Answered, bool) {
	i := slices.IndexFunc(s.Findings, func(f gate.Answered) bool { return f.Code == code })
	if i < 0 {
		return gate.Answered{}, false
	}
	return s.Findings[i], true
}

// Each measurement at the edges of its band: what is just inside holds, what is just outside does not.
func TestBandsAtTheirEdges(t *testing.T) {
	scenes := map[string]*scene{}
	for _, key := range []string{"power", "control", "wake", "stop", "turn"} {
		scenes[key] = whole(t, key, nil)
	}
	for _, c := range []struct {
		key             string
		inside, outside []string
	}{
		{"power/earth/ohms", []string{"0.1", "0.02"}, []string{"0.11", "0.5"}},                             // common practice
		{"power/insulation/motor", []string{"1", "200"}, []string{"0.9"}},                                  // IEC 60364-6, table 6A
		{"power/torque/power", []string{"1.1", "1.4"}, []string{"1.0", "1.5"}},                             // a label of 1.2 N·m
		{"power/torque/motor", []string{"2.4", "3.1"}, []string{"2.2", "3.2"}},                             // 2.6 N·m
		{"control/wire/11", []string{"0.3", "5"}, []string{"5.5", "50"}},                                   // common practice
		{"wake/line/1", []string{"361", "400", "439"}, []string{"359", "441", "230"}},                      // 400 V ± 10 %
		{"stop/measured/slip", []string{"0", "1"}, []string{"1.1", "20"}},                                  // of a closed brake in a minute
		{"stop/measured/drop", []string{"20"}, []string{"21"}},                                             // 20 mm allowed
		{"turn/encoder/counts", []string{"39760", "42180", "40960"}, []string{"39500", "42500", "-40960"}}, // ten turns of 1024 lines
		{"turn/encoder/speed", []string{"140", "150"}, []string{"70", "110", "160"}},                       // a tenth of 1455 r/min
	} {
		key, _, _ := strings.Cut(c.key, "/")
		for holds, list := range map[bool][]string{true: c.inside, false: c.outside} {
			for _, v := range list {
				s := scenes[key].again()
				s.say(t, c.key, v)
				if got := s.check(c.key); (got.Verdict == gate.Holds) != holds {
					t.Errorf("%s reads %s: %s (%s)", c.key, v, got.Verdict, got.Band)
				}
			}
		}
	}
}

// Windings that differ by more than two percent of their mean are asked about.
func TestWindingsAlike(t *testing.T) {
	for _, c := range []struct {
		ohms  [3]string
		holds bool
	}{{[3]string{"1.000", "1.010", "0.995"}, true}, {[3]string{"1.000", "1.040", "1.000"}, false},
		{[3]string{"1.00", "1.15", "0.95"}, false}} {
		s := whole(t, "power", nil)
		for i, v := range c.ohms {
			s.say(t, fmt.Sprintf("power/winding/%d", i+1), v)
		}
		if got := s.check("power/winding/balance"); (got.Verdict == gate.Holds) != c.holds {
			t.Errorf("%v: %s %s", c.ohms, got.Verdict, got.Detail)
		}
	}
}

// Behind three phases smooth DC blinds all but type B (IEC 62423); behind one, type F will do and A is asked about.
func TestResidualCurrentDevices(t *testing.T) {
	for phases, want := range map[string]map[string]finding.Severity{"3": {"a": finding.Stop, "f": finding.Stop, "b": "", "none": ""},
		"1": {"a": finding.Look, "f": "", "b": ""}} {
		for device, severity := range want {
			s := whole(t, "power", nil)
			s.job.Drive.Site.InputPhases = phases
			s.say(t, "power/supply/rcd", device)
			f, is := found(gate.Evaluate(s.job, s.now), "rcd-type")
			if is != (severity != "") || is && f.Severity != severity {
				t.Errorf("type %s before %s phases: %v %s", device, phases, is, f.Severity)
			}
		}
	}
	s := whole(t, "power", nil)
	s.say(t, "power/earth/protective", "neither")
	if c := s.check("power/earth/protective"); c.Verdict != gate.Holds && !strings.Contains(c.Detail, "3.5 mA") {
		t.Errorf("%+v", c)
	}
}

// Links as they were fitted are judged by what each coil sees, whatever they are called.
func TestLinksAsFitted(t *testing.T) {
	for name, c := range map[string]struct {
		joins, lines string
		want         gate.Verdict
	}{
		"star, as the row wants":      {"U2-V2-W2", "U1, V1, W1", gate.Holds},
		"star from the other end":     {"U1-V1-W1", "U2, V2, W2", gate.Holds},
		"delta on the star's voltage": {"", "U1-W2, V1-U2, W1-V2", gate.Stops},
		"a link left out":             {"U2-V2", "U1, V1, W1", gate.Stops},
	} {
		s := whole(t, "power", nil)
		s.job.Drive.Motor.FittedJoins, s.job.Drive.Motor.FittedLines = c.joins, c.lines
		if got := s.check("power/links/judged"); got.Verdict != c.want {
			t.Errorf("%s: %s %s", name, got.Verdict, got.Detail)
		}
	}
}

// What a feeder drops stands with three digits, for its limit is three percent. One phase goes there and back: 12 m of 2.5 mm² at 15.8 A
// drop twice I·R of 230 V; three phases √3 times of 400 V (IEC 60364-5-52, annex G).
func TestAFeederDrops(t *testing.T) {
	drop := func(s *scene) string {
		for _, f := range gate.Evaluate(s.job, s.now).Figures {
			if f.Key == "drop-line" {
				return f.Value
			}
		}
		return ""
	}
	s := whole(t, "power", nil)
	if v := drop(s); v != "0.704" {
		t.Errorf("three phases of 400 V drop %s %%", v)
	}
	s.job.Drive.Site.InputPhases, s.job.Place.Supplies["p1"] = "1", at(s, "230")
	if v := drop(s); v != "1.41" {
		t.Errorf("one phase of 230 V drops %s %%", v)
	}
}

// A second look is another person's.
func TestASecondLookIsAnothers(t *testing.T) {
	for _, key := range []string{"power", "control"} {
		s := whole(t, key, nil)
		look := key + "/second/look"
		if c := s.check(look); c.Verdict != gate.Holds {
			t.Fatalf("%+v", c)
		}
		c := s.check(look)
		s.job.Entries = append(s.job.Entries,
			drivefile.Entry{ID: "own", Seq: 999, Kind: drivefile.EntryEvidence, By: sample.Me, At: stamp(s.now),
				Body: raw(t, sample.OfDryer(drivefile.Evidence{Key: look, Value: "confirmed", Basis: c.Basis}))})
		if c = s.check(look); c.Verdict != gate.Again || !gate.WorkedOn(s.job, look, sample.Me) ||
			gate.WorkedOn(s.job, look, "the second person") {
			t.Errorf("whoever did it looks it over: %+v", c)
		}
	}
}

// A wire is measured once it is landed; one that was put off with a reason is, too.
func TestAWireIsLandedFirst(t *testing.T) {
	d, place := matched()
	s := &scene{now: now}
	s.job = gate.Job{ID: "x", Drive: d, Place: place, Family: job(d, nil).Family}
	s.power(false)
	wire := func() gate.WireState { return gate.Evaluate(s.job, s.now).Wiring.Wires[0] }
	id := wire().ID
	if w := wire(); w.Ready || s.check("control/wire/"+id).Do != "" {
		t.Errorf("nothing is landed, and it is ready to be measured: %+v", w)
	}
	waived := s.again()
	waived.add(t, drivefile.EntryDecision,
		drivefile.Decision{Type: "waived", Key: "control/landed/" + id, Reason: "the cable comes next week"})
	if c := waived.check("control/wire/" + id); c.Do != "measure" {
		t.Errorf("%+v", c)
	}
	s.say(t, "control/landed/"+id, "confirmed")
	if w := wire(); !w.Ready || s.check("control/wire/"+id).Do != "measure" {
		t.Errorf("landed: %+v", w)
	}
}

// What was looked at before power is looked at again once dead work was recorded after it.
func TestDeadWorkAfterTheLook(t *testing.T) {
	s := whole(t, "wake", nil)
	for _, key := range []string{"cover-the-lower-cover", "mechanics", "covers", "people"} {
		if c := s.check("wake/before/" + key); c.Verdict != gate.Holds {
			t.Fatalf("%+v", c)
		}
	}
	s.say(t, "power/cable/screen", "confirmed")
	for _, key := range []string{"cover-the-lower-cover", "mechanics", "electrics", "covers", "people"} {
		if c := s.check("wake/before/" + key); c.Verdict != gate.Again || !strings.Contains(c.Detail, "Dead work") {
			t.Errorf("covers were off since: %+v", c)
		}
	}
	if st := gate.Evaluate(s.job, s.now); len(st.OpenBefore) != 5 {
		t.Errorf("%v", st.OpenBefore)
	}
}

// The link at rest: √2 of the line; of a one-phase drive for 120 V, which doubles, twice that.
func TestTheLinkAtRest(t *testing.T) {
	s := whole(t, "wake", nil)
	if c := s.check("wake/link/dc"); *c.Low > 566 || *c.High < 566 || *c.Low < 480 {
		t.Errorf("400 V, three phases: %s", c.Band)
	}
	f := *s.job.Family
	f.Ratings = []dialect.Size{{Type: "TN4-016", Phases: 1, LineLow: 100, LineHigh: 130, Power: .75, Heavy: 4.2}}
	s.job.Family = &f
	s.job.Drive.Rating.Type, s.job.Drive.Site.InputPhases, s.job.Place.Supplies["p1"] = "TN4-016", "1", at(s, "120")
	s.say(t, "wake/line/1", "120")
	if c := s.check("wake/link/dc"); *c.Low > 339 || *c.High < 339 || *c.Low < 280 {
		t.Errorf("120 V, doubled: %s", c.Band)
	}
}

// An assistant that may turn the shaft is followed once all that comes before it is answered.
func TestBeforeAnAssistant(t *testing.T) {
	p := practiceWith(t, map[string]string{"assistant": "assistant"})
	s := whole(t, "wake", p)
	if c := s.check("wake/assistant/done"); c.Verdict != gate.Holds || c.Value != "followed" {
		t.Fatalf("%+v", c)
	}
	for _, key := range []string{"coupling", "people", "isolator", "second"} {
		x := s.again()
		x.job.Entries = slices.DeleteFunc(x.job.Entries,
			func(e drivefile.Entry) bool { return strings.Contains(string(e.Body), "wake/assistant/before-"+key) })
		if c := x.check("wake/assistant/done"); c.Verdict != gate.Again {
			t.Errorf("followed without %s: %+v", key, c)
		}
	}
}

// A relay that starts by itself is stopped behind one device as behind many; nothing is signed while anything is open.
func TestTheSignatureIsTheLast(t *testing.T) {
	s := whole(t, "stop", nil)
	if c := s.check("stop/signed/record"); c.Verdict != gate.Holds {
		t.Fatalf("%+v", c)
	}
	for _, c := range checksOf(gate.Evaluate(s.job, s.now), "stop") {
		if c.Do != "" || c.Entry == "" || c.Key == "stop/signed/record" || c.Key == "stop/set/chosen" {
			continue
		}
		x := s.again()
		x.job.Entries = slices.DeleteFunc(x.job.Entries, func(e drivefile.Entry) bool {
			return e.ID == c.Entry || strings.Contains(string(e.Body), `"stop/signed/record"`)
		})
		if got := x.check("stop/signed/record"); got.Do != "" || got.Verdict == gate.Holds {
			t.Errorf("without %s it can be signed: %+v", c.Key, got)
		}
	}
	one := whole(t, "stop", nil)
	one.circuit(func(c *drivefile.StopCircuit) {
		first := slices.Sorted(maps.Keys(c.Devices))[0]
		c.Devices, c.Reset = map[string]drivefile.StopDevice{first: c.Devices[first]}, "automatic"
	})
	if f, is := found(gate.Evaluate(one.job, one.now), "circuit-starts-by-itself"); !is || f.Severity != finding.Stop {
		t.Errorf("one device, and its relay starts by itself: %v", is)
	}
}

// The pairs to be measured are those that there are: one phase has a line and a neutral, and each of them to earth.
func TestThePairsOfALine(t *testing.T) {
	for phases, want := range map[string]string{"3": "l1-l2 l1-pe l2-l3 l2-pe l3-l1 l3-pe", "1": "l-n l-pe n-pe",
		"": "l1-l2 l1-pe l2-l3 l2-pe l3-l1 l3-pe"} {
		s := isolated(t)
		x := s.job.Place.Supplies["p1"]
		x.Phases = phases
		s.job.Place.Supplies["p1"] = x
		var l []string
		for _, c := range checksOf(gate.Evaluate(s.job, s.now), "dead") {
			if p, ok := strings.CutPrefix(c.Key, "dead/measure/"); ok && (p[0] == 'l' || p[0] == 'n') {
				l = append(l, p)
			}
		}
		slices.Sort(l)
		if got := strings.Join(l, " "); got != want {
			t.Errorf("%q phases: %s, want %s", phases, got, want)
		}
	}
}

// The current on the drive's label is that of its type, heavy or normal duty, within two percent.
func TestTheLabelsCurrent(t *testing.T) {
	d, _ := matched()
	size, ok := job(d, nil).Family.RatingOf(d.Rating.Type)
	if !ok || !(size.Normal > size.Heavy) {
		t.Fatalf("%+v", size)
	}
	for text, agrees := range map[string]bool{fmt.Sprint(size.Heavy): true, fmt.Sprint(size.Normal): true,
		fmt.Sprint(size.Heavy * 1.01): true, fmt.Sprint(size.Heavy * 1.05): false, fmt.Sprint(size.Heavy * .9): false,
		fmt.Sprint(size.Normal * 1.05): false} {
		d.Rating.Current = sample.Q("rating.current", text+" A")
		if _, is := found(eval(d, nil), "rating-disagrees"); is == agrees {
			t.Errorf("%s A on the label of %s (%g or %g A): agrees %v", text, size.Type, size.Heavy, size.Normal, !is)
		}
	}
}
