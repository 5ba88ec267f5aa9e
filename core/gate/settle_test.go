package gate_test

import (
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
)

// What can never be waived stays what it is, whatever reason stands in the record; under rules that did not say so it stands as it was.
func TestWhatIsNeverWaived(t *testing.T) {
	d, place := matched()
	d.Turn.Stands, d.Turn.Brake = "coupled", "none"
	base := &scene{now: now}
	base.job = gate.Job{ID: "x", Drive: d, Place: place, Family: job(d, nil).Family,
		Practice: practiceWith(t, map[string]string{"assistant": "assistant"})}
	base.power(false)
	waive := func(key, rules string) gate.Check {
		s := base.again()
		s.add(t, drivefile.EntryDecision,
			drivefile.Decision{Type: "waived", Key: key, Reason: "it will be done tomorrow morning",
				Versions: map[string]string{"rules": rules}})
		return s.check(key)
	}
	never := 0
	for _, g := range gate.Evaluate(base.job, base.now).Gates {
		for _, c := range g.Checks {
			if c.Verdict != gate.NotDone && c.Verdict != gate.Again {
				continue
			}
			got, why := waive(c.Key, gate.RulesVersion), gate.NeverWaived(c.Key)
			if (got.Verdict == gate.Waived) != (why == "" && !c.Must) {
				t.Errorf("%s is %s with a waiver; never because %q", c.Key, got.Verdict, why)
			}
			if why != "" {
				never++
				if old := waive(c.Key, "9"); old.Verdict != gate.Waived {
					t.Errorf("%s was waived by rules 9, and is %s", c.Key, old.Verdict)
				}
			}
		}
	}
	if never < 20 {
		t.Errorf("only %d checks of this drive are never waived", never)
	}
	for _, key := range []string{"dead/measure/dc-link", "dead/meter/before", "keep/gate/dead", "wake/before/people", "turn/before/people",
		"turn/before/guards", "tune/ready/guards", "stop/before/people", "wake/assistant/before-people", "turn/before/plate",
		"turn/before/supply", "stop/mended/what", "stop/signed/record"} {
		if key != "wake/assistant/before-people" && gate.NeverWaived(key) == "" {
			t.Errorf("%s may be waived", key)
		}
	}
	for _, key := range []string{"match/photo/label", "power/cable/screen", "turn/before/power", "keep/gate/match", "wake/before/covers"} {
		if why := gate.NeverWaived(key); why != "" {
			t.Errorf("%s may never be waived: %s", key, why)
		}
	}
}

// A waiver is of the machine for which it was given: another drive is asked again, and a motor's answers stay with the motor.
func TestAWaiverIsOfItsMachine(t *testing.T) {
	d, place := matched()
	s := &scene{now: now}
	s.job = gate.Job{ID: "x", Drive: d, Place: place, Family: job(d, nil).Family}
	s.power(false)
	for _, key := range []string{"power/cable/screen", "power/insulation/off"} {
		s.add(t, drivefile.EntryDecision,
			drivefile.Decision{Type: "waived", Key: key, Reason: "there is none, by the plant's own rule",
				Basis: gate.MachinesUnder(s.job, "power", key)})
	}
	want := func(s *scene, cable, insulation gate.Verdict) {
		t.Helper()
		if a, b := s.check("power/cable/screen").Verdict, s.check("power/insulation/off").Verdict; a != cable || b != insulation {
			t.Errorf("drive %s, motor %s: the cable %s, the insulation %s", s.job.Drive.Rating.Serial, s.job.Drive.Motor.Serial, a, b)
		}
	}
	want(s, gate.Waived, gate.Waived)
	drive := s.again()
	drive.job.Drive.Rating.Serial = "ANOTHER-1"
	want(drive, gate.NotDone, gate.Waived)
	motor := s.again()
	motor.job.Drive.Motor.Serial = "ANOTHER-2"
	want(motor, gate.Waived, gate.NotDone)
	if sample.Dryer().Rating.Serial == "" {
		t.Error("the sample has no serial, and shows nothing")
	}
}

// A waiver is of what stood when it was given: answered after all, the check is asked again when that answer counts no longer, and another
// waiver wants another reason.
func TestAnAnswerTakesTheWaiversPlace(t *testing.T) {
	s := whole(t, "wake", nil)
	const key = "wake/before/covers"
	waive := func() {
		s.add(t, drivefile.EntryDecision,
			drivefile.Decision{Type: "waived", Key: key, Reason: "the covers come tomorrow, the panel is locked"})
	}
	first := s.again()
	s.job.Entries = nil
	waive()
	s.say(t, key, "confirmed")
	s.say(t, "power/cable/screen", "confirmed") // dead work: covers were off
	if c := s.check(key); c.Verdict != gate.Again {
		t.Errorf("a waiver of before the look covers what was done after it: %+v", c)
	}
	waive()
	if c := s.check(key); c.Verdict != gate.Waived {
		t.Errorf("waived anew: %+v", c)
	}
	if c := first.check(key); c.Verdict != gate.Holds {
		t.Errorf("%+v", c)
	}
}
