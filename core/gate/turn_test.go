package gate_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/core/sheet"
)

func (s *scene) state() gate.State { return gate.Evaluate(s.job, s.now) }

// see answers what was seen, with an instrument.
func (s *scene) see(t *testing.T, key, value, with string) {
	t.Helper()
	c := check(s.state(), key)
	if c.Do != "choose" {
		t.Fatalf("%s cannot be answered: %+v", key, c)
	}
	s.add(t, drivefile.EntryEvidence, drivefile.Evidence{Key: key, Value: value, Basis: c.Basis, Instrument: with})
}

// turning is a scene in which everything before the first turn is answered.
func turning(t *testing.T, change func(*drivefile.Drive), choices map[string]string) *scene {
	t.Helper()
	d, place := matched()
	if change != nil {
		change(&d)
	}
	s := &scene{now: now}
	s.job = gate.Job{ID: "x", Drive: d, Place: place, Family: job(d, nil).Family, Practice: practiceWith(t, choices)}
	s.power(false)
	s.passStop(t)
	for _, c := range checksOf(s.state(), "turn") {
		if strings.HasPrefix(c.Key, "turn/before/") && c.Do != "" {
			s.answer(t, c, "confirmed")
		}
	}
	return s
}

func TestABackwardTurnIsMendedAndSeenAgain(t *testing.T) {
	s := turning(t, nil, nil)
	if st := s.state().Turn; !st.Ready || st.Hz < 4.8 || st.Hz > 4.9 || st.Turns < 4.8 {
		t.Fatalf("%+v", st)
	}
	s.see(t, "turn/seen/shaft", "backward", "")
	st := s.state()
	mend := check(st, "turn/mend/leads")
	if check(st, "turn/seen/shaft").Verdict != gate.Stops || mend.Do != "confirm" || mend.Work != "dead" || !st.Turn.Leads ||
		st.Turn.Pairs || !strings.Contains(st.Turn.Mend, "supply leads change nothing") {
		t.Fatalf("%+v\n%+v", st.Turn, mend)
	}
	s.answer(t, mend, "confirmed")
	st = s.state()
	if check(st, "turn/mend/leads").Verdict != gate.Holds || check(st, "turn/seen/shaft").Verdict != gate.Again || st.Turn.Seen != "" {
		t.Errorf("after the mend it must be seen again: %+v", check(st, "turn/seen/shaft"))
	}
	s.see(t, "turn/seen/shaft", "forward", "")
	st = s.state()
	if c := check(st, "turn/seen/shaft"); c.Verdict != gate.Holds || st.Turn.Seen != "forward" || st.Turn.Leads ||
		check(st, "turn/mend/leads").Key != "" {
		t.Errorf("%+v %+v", c, st.Turn)
	}
	// Another meaning of forward, or another motor: seen again.
	for _, change := range []func(*drivefile.Drive){func(d *drivefile.Drive) { d.Turn.Sense = "counter-clockwise" },
		func(d *drivefile.Drive) { d.Motor.Serial = "another" }} {
		x := s.again()
		change(&x.job.Drive)
		if check(x.state(), "turn/seen/shaft").Verdict != gate.Again {
			t.Error("what was seen of another shaft still counts")
		}
	}
	s.see(t, "turn/seen/shaft", "still", "")
	if c := check(s.state(), "turn/seen/shaft"); c.Verdict != gate.Stops || !strings.Contains(c.Detail, "did not turn") {
		t.Errorf("%+v", c)
	}
}

// Forward asked, in open loop; the four rows of the table. Closed loop has its lines only after the first.
func TestTheEncodersFirstTurn(t *testing.T) {
	for _, c := range []struct {
		shaft, count string
		leads, pairs bool
	}{{"forward", "up", false, false}, {"forward", "down", false, true}, {"backward", "down", true, false},
		{"backward", "up", true, true}} {
		s := turning(t, wantsEncoder, nil)
		planned := func() bool {
			return slices.ContainsFunc(s.state().Lines, func(l sheet.Line) bool {
				return l.Code == "9R" && l.Planned && l.Steps == 1024
			})
		}
		s.see(t, "turn/seen/shaft", c.shaft, "")
		if planned() {
			t.Error("lines close the loop before the count was seen")
		}
		s.see(t, "turn/seen/count", c.count, "")
		st := s.state()
		if st.Turn.Leads != c.leads || st.Turn.Pairs != c.pairs || planned() == (c.leads || c.pairs) {
			t.Fatalf("%s, %s: %+v, lines planned %v", c.shaft, c.count, st.Turn, planned())
		}
		for _, key := range []string{"turn/mend/pairs", "turn/mend/leads"} {
			if m := check(st, key); m.Do == "confirm" {
				s.answer(t, m, "confirmed")
			}
		}
		if !c.leads && !c.pairs {
			continue
		}
		if planned() {
			t.Error("mended is not seen")
		}
		if c.leads {
			s.see(t, "turn/seen/shaft", "forward", "")
		}
		s.see(t, "turn/seen/count", "up", "")
		if st := s.state(); !planned() || st.Turn.Leads || st.Turn.Pairs || check(st, "turn/seen/count").Verdict != gate.Holds {
			t.Errorf("%s, %s mended: %+v", c.shaft, c.count, st.Turn)
		}
	}
	s := turning(t, wantsEncoder, nil)
	s.see(t, "turn/seen/shaft", "forward", "")
	s.see(t, "turn/seen/count", "nothing", "")
	if c := check(s.state(), "turn/seen/count"); c.Verdict != gate.Stops || !strings.Contains(c.Detail, "supply") {
		t.Errorf("a silent encoder: %+v", c)
	}
	// Ten turns by hand: 512 lines are named, and half the counts are an open channel.
	s.see(t, "turn/encoder/safe", "apart", "")
	for counts, want := range map[string]string{"20480": "encoder-half", "14400": "encoder-lines", "40990": ""} {
		x := s.again()
		x.answer(t, check(x.state(), "turn/encoder/counts"), counts)
		if got := codesOf(x.state(), "turn"); got != want {
			t.Errorf("%s counts: %q, want %q", counts, got, want)
		}
	}
}

func TestWhatIsNeverBumpedCoupled(t *testing.T) {
	for _, change := range []func(*drivefile.Drive){func(d *drivefile.Drive) { d.Turn.Stands, d.Turn.Backstop = "coupled", true },
		func(d *drivefile.Drive) { d.Turn.Stands, d.Turn.Hanging = "coupled", true }} {
		s := turning(t, change, nil)
		st := s.state()
		if c := check(st, "turn/coupled/may"); c.Verdict != gate.Stops || !strings.Contains(c.Detail, "never bumped coupled") ||
			check(st, "turn/seen/shaft").Do != "" || st.Turn.Ready || mark(st, "turn") != "barred" {
			t.Errorf("%+v, %+v", c, st.Turn)
		}
	}
	// A tester turns it by hand, without power: nothing of the drive's run is asked.
	s := turning(t, func(d *drivefile.Drive) { d.Turn.Stands, d.Turn.Backstop = "tester", true }, nil)
	st := s.state()
	if !st.Turn.Ready || check(st, "turn/before/local").Key != "" || !strings.Contains(check(st, "turn/seen/shaft").Detail, "by hand") {
		t.Errorf("%+v", st.Turn)
	}
	s = turning(t, func(d *drivefile.Drive) {
		d.Turn.Stands, d.Turn.PerTurn = "coupled", sample.Q("turn.per_turn", "40 cm")
	}, nil)
	if st := s.state(); st.Turn.Travel == nil || fmt.Sprintf("%.2f", *st.Turn.Travel) != "1.94" ||
		!strings.Contains(check(st, "turn/before/room").Detail, "1.94 m") {
		t.Errorf("4.85 turns of 40 cm: %+v", st.Turn)
	}
}

// A practice that sets the phase order says so, and the sheet has the setting.
func TestTheOtherSchoolSetsThePhaseOrder(t *testing.T) {
	s := turning(t, nil, map[string]string{"wrong_direction": "setting"})
	s.see(t, "turn/seen/shaft", "backward", "")
	if c := check(s.state(), "turn/mend/leads"); !strings.Contains(c.Detail, "4U") {
		t.Errorf("%+v", c)
	}
	s.job.Drive.Turn.Phases = "turned"
	st := s.state()
	i := slices.IndexFunc(st.Lines, func(l sheet.Line) bool { return l.Code == "4U" })
	if i < 0 || !st.Lines[i].Planned || st.Lines[i].Steps != 1 || check(st, "turn/seen/shaft").Verdict != gate.Again {
		t.Errorf("line %d, %+v", i, check(st, "turn/seen/shaft"))
	}
}

// In a real place the bench permits nothing: no direction, no tune, no closed loop.
func TestTheBenchPermitsNothingInARealPlace(t *testing.T) {
	s := whole(t, "tune", practiceWith(t, nil))
	s.job.Place.Kind = drivefile.Real
	s.see(t, "turn/seen/shaft", "forward", record.OnBench)
	st := s.state()
	if c := check(st, "turn/seen/shaft"); c.Verdict != gate.Again || !strings.Contains(c.Detail, "proves nothing of a real machine") ||
		st.Turn.Seen != "" {
		t.Errorf("a direction seen on the bench: %+v", c)
	}
	if c := check(st, "tune/ready/direction"); c.Verdict == gate.Holds || st.Tune.Ready {
		t.Errorf("a drive tuned after a turn on the bench: %+v, ready %v", c, st.Tune.Ready)
	}
	s.see(t, "turn/seen/shaft", "forward", "")
	s.see(t, "tune/ended/shown", "ended", record.OnBench)
	if st := s.state(); check(st, "tune/ended/shown").Verdict == gate.Holds || mark(st, "tune") == "passed" {
		t.Errorf("a tune of the bench: %+v", check(st, "tune/ended/shown"))
	}
	loop := func(kind string) bool {
		e := turning(t, wantsEncoder, nil)
		e.job.Place.Kind = kind
		e.see(t, "turn/seen/shaft", "forward", record.OnBench)
		if c := check(e.state(), "turn/seen/count"); c.Do == "choose" {
			e.see(t, "turn/seen/count", "up", record.OnBench)
		}
		return slices.ContainsFunc(e.state().Lines, func(l sheet.Line) bool { return l.Code == "9R" && l.Planned })
	}
	if loop(drivefile.Real) || !loop(drivefile.Simulated) {
		t.Error("the bench closes a loop in a simulated place, and in no real one")
	}
}

// In a simulated place the bench is the machine, and every state says that it is simulated.
func TestInASimulatedPlaceTheBenchIsTheMachine(t *testing.T) {
	s := turning(t, nil, nil)
	s.see(t, "turn/seen/shaft", "backward", record.OnBench)
	if c := check(s.state(), "turn/mend/leads"); c.Work != "either" {
		t.Errorf("leads of the bench are changed without isolating: %+v", c)
	}
	s.see(t, "turn/seen/shaft", "forward", record.OnBench)
	if st := s.state(); !st.Turn.Bench || st.Turn.Seen != "forward" || !st.Simulated {
		t.Errorf("seen on the bench: %+v, simulated %v", st.Turn, st.Simulated)
	}
}

// wantsEncoder puts an encoder on a drive, as its label has it.
func wantsEncoder(d *drivefile.Drive) {
	d.Site.Encoder, d.Site.EncoderType, d.Turn.Lines = "wanted", "ttl", sample.Q("turn.lines", "1024")
	d.Site.EncoderVolts, d.Site.EncoderAmps = sample.Q("site.encoder_supply", "5"), sample.Q("site.encoder_current", "0.06")
}
