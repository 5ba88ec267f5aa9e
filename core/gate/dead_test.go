package gate_test

import (
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/isolation"
)

// isolated is a drive that was locked off just now: nothing is waited, nothing measured.
func isolated(t *testing.T) *scene {
	t.Helper()
	d, place := matched()
	s := &scene{now: now}
	s.job = gate.Job{ID: "x", Drive: d, Place: place, Family: job(d, nil).Family}
	s.job.Energy = map[string]isolation.SupplyState{"p1": {State: "not-known", Since: stamp(s.now),
		Locks: []isolation.Locked{{Owner: sample.Me, Since: stamp(s.now), Entry: "lock"}}}}
	return s
}

func (s *scene) check(key string) gate.Check { return check(gate.Evaluate(s.job, s.now), key) }

// say answers a check with a value, whatever it asks for first.
func (s *scene) say(t *testing.T, key, value string) {
	t.Helper()
	c := s.check(key)
	if c.Key == "" {
		t.Fatalf("%s is not asked", key)
	}
	s.answer(t, c, value)
}

// until answers what waits at gate Dead well, up to a check.
func (s *scene) until(t *testing.T, key string) {
	t.Helper()
	for range 60 {
		for _, c := range checksOf(gate.Evaluate(s.job, s.now), "dead") {
			if c.Key == key {
				return
			}
			if c.Do != "" && c.Verdict != gate.Holds {
				s.answer(t, c, good(c))
				break
			}
		}
	}
	t.Fatalf("%s is not come to", key)
}

// The wait is the longest of what is known: the label as typed, the family's file; fifteen minutes where neither says one. It runs from the
// last lock, and while the server runs.
func TestTheWait(t *testing.T) {
	family := func(minutes float64) func(*scene) {
		return func(s *scene) {
			f := *s.job.Family
			f.Ratings = append(f.Ratings[:0:0], f.Ratings...)
			for i := range f.Ratings {
				f.Ratings[i].Wait = minutes
			}
			s.job.Family = &f
		}
	}
	for name, c := range map[string]struct {
		family func(*scene)
		label  string
		want   float64
	}{
		"nothing is known":            {family(0), "", 15},
		"no family":                   {func(s *scene) { s.job.Family = nil }, "", 15},
		"the family's alone":          {family(10), "", 10},
		"the label says more":         {family(10), "12", 12},
		"the label says less":         {family(10), "5", 10},
		"the label alone":             {family(0), "5", 5},
		"a label that cannot be":      {family(0), "240", 15},
		"no label says half a minute": {family(10), "0.5", 10},
	} {
		s := isolated(t)
		c.family(s)
		if c.label != "" {
			s.say(t, "dead/wait/minutes", c.label)
		}
		locked := now
		for after, over := range map[time.Duration]bool{time.Duration(c.want*60-1) * time.Second: false,
			time.Duration(c.want*60+5) * time.Second: true} {
			s.now = locked.Add(after)
			w := gate.Evaluate(s.job, s.now).Wait
			if w.Minutes != c.want || w.Over != over {
				t.Errorf("%s: %g minutes, over after %v: %v (%s)", name, w.Minutes, after, w.Over, w.Source)
			}
		}
	}
	s := isolated(t)
	s.job.Since = now.Add(20 * time.Minute) // the server was away meanwhile
	s.now = now.Add(25 * time.Minute)
	if w := gate.Evaluate(s.job, s.now).Wait; w.Over || !strings.Contains(w.Source, "counted anew") {
		t.Errorf("it was away, and the wait is over: %+v", w)
	}
	second := isolated(t)
	e := second.job.Energy["p1"]
	e.Locks = append(e.Locks, isolation.Locked{Owner: "another", Since: stamp(now.Add(10 * time.Minute)), Entry: "lock2"})
	second.job.Energy = map[string]isolation.SupplyState{"p1": e}
	if from := gate.Evaluate(second.job, now.Add(time.Hour)).Wait.From; !strings.HasPrefix(from, "2026-11-25T12:00:00") {
		t.Errorf("a second lock on an isolator that is open lets it run from %s", from)
	}
}

// What was measured before the wait was over tells how the link falls, and proves nothing, also later; one that is still charged is
// measured again.
func TestMeasuredBeforeTheWaitIsOver(t *testing.T) {
	s := isolated(t)
	s.until(t, "dead/measure/dc-link")
	s.say(t, "dead/measure/dc-link", "0.4")
	s.say(t, "dead/measure/dc-plus", "180")
	if c := s.check("dead/measure/dc-link"); c.Verdict != gate.Again || !strings.Contains(c.Detail, "before the wait was over") {
		t.Errorf("%+v", c)
	}
	if c := s.check("dead/measure/dc-plus"); c.Verdict != gate.NotDone || !strings.Contains(c.Detail, "falls while the wait runs") {
		t.Errorf("%+v", c)
	}
	s.now = now.Add(time.Hour)
	if c := s.check("dead/measure/dc-link"); c.Verdict != gate.Again {
		t.Errorf("an hour later it counts: %+v", c)
	}
	if c := s.check("dead/measure/dc-plus"); c.Verdict != gate.Stops {
		t.Errorf("180 V after an hour: %+v", c)
	}
	s.say(t, "dead/measure/dc-link", "0.4")
	if c := s.check("dead/measure/dc-link"); c.Verdict != gate.Holds {
		t.Errorf("measured after it: %+v", c)
	}
	if n := len(gate.Evaluate(s.job, s.now).Discharge.Readings); n != 2 {
		t.Errorf("%d readings of the discharge", n)
	}
}

// One meter, by its number, on the range that the voltage wants, from proof to proof.
func TestOneMeterFromProofToProof(t *testing.T) {
	reading := func(t *testing.T, s *scene, key, value, meter, on string) gate.Check {
		t.Helper()
		c := s.check(key)
		v := map[string]float64{"24": 24, "48": 48, "0.4": .4, "230": 230}[value]
		s.add(t, drivefile.EntryEvidence,
			drivefile.Evidence{Key: key, Value: value, Reading: &v, Basis: c.Basis, Unit: c.Unit, Instrument: meter, Meter: meter, On: on})
		return s.check(key)
	}
	start := func() *scene {
		s := isolated(t)
		s.now = now.Add(time.Hour)
		s.until(t, "dead/meter/before")
		return s
	}
	for name, c := range map[string]struct {
		key, value, meter, on string
		want                  gate.Verdict
	}{
		"proved on its DC range":           {"dead/meter/before", "48", sample.Meter, "DC", gate.Holds},
		"proved on AC for a DC link":       {"dead/meter/before", "48", sample.Meter, "AC", gate.Again},
		"proved by no meter that is known": {"dead/meter/before", "48", "", "DC", gate.Again},
		"proved below the limit":           {"dead/meter/before", "24", sample.Meter, "DC", gate.Again},
	} {
		if got := reading(t, start(), c.key, c.value, c.meter, c.on); got.Verdict != c.want {
			t.Errorf("%s: %+v", name, got)
		}
	}
	s := start()
	s.until(t, "dead/measure/dc-link")
	for name, c := range map[string]struct {
		meter, on string
		want      gate.Verdict
	}{
		"the one that was proved": {sample.Meter, "DC", gate.Holds},
		"on its AC range":         {sample.Meter, "AC", gate.Again},
		"on either":               {sample.Meter, "AC+DC", gate.Holds},
		"another":                 {"m9", "DC", gate.Again},
		"none that is known":      {"", "DC", gate.Again},
	} {
		if got := reading(t, s.again(), "dead/measure/dc-link", "0.4", c.meter, c.on); got.Verdict != c.want {
			t.Errorf("measured with %s: %+v", name, got)
		}
	}
	all := whole(t, "dead", nil)
	if !gate.Evaluate(all.job, all.now).Proved {
		t.Fatal("it is proved")
	}
	after := all.again()
	reading(t, after, "dead/measure/dc-link", "0.4", sample.Meter, "DC")
	if c := after.check("dead/meter/after"); c.Verdict != gate.Again || gate.Evaluate(after.job, after.now).Proved {
		t.Errorf("something was measured after the second proof: %+v", c)
	}
	other := all.again()
	if got := reading(t, other, "dead/meter/after", "230", "m9", "AC+DC"); got.Verdict != gate.Again {
		t.Errorf("another meter is proved at the end: %+v", got)
	}
}

// A source that is not the mains is measured at its own voltage: 24 V is not dead at 24 V.
func TestASourceHasItsOwnLimit(t *testing.T) {
	s := isolated(t)
	s.job.Place.Supplies = map[string]drivefile.Supply{"p1": s.job.Place.Supplies["p1"],
		"c1": {Name: "Control", Kind: "control", Voltage: sample.Q("rating.voltage", "24 V"), Isolator: "F3"}}
	s.job.Drive.Supplies = map[string]bool{"p1": true, "c1": true}
	s.job.Energy["c1"] = s.job.Energy["p1"]
	s.now = now.Add(time.Hour)
	high := func(key string) float64 {
		c := s.check(key)
		if c.High == nil {
			t.Fatalf("%s has no limit: %+v", key, c)
		}
		return *c.High
	}
	if own, link := high("dead/measure/c1/between"), high("dead/measure/dc-link"); own != 6 || link != 42 {
		t.Errorf("24 V is dead below %g V, the link below %g V", own, link)
	}
	if c := s.check("dead/measure/c1/second-pe"); c.Key == "" {
		t.Error("its second conductor is not measured to earth")
	}
}

// Readings that cannot all be so are measured again; what reads so twice stands.
func TestReadingsThatCannotBe(t *testing.T) {
	for name, c := range map[string]struct {
		link, plus, minus string
		again             bool
	}{
		"all near zero":             {"0.4", "0.2", "-0.2", false},
		"halves that add up":        {"40", "20", "-20", false},
		"halves without their sign": {"40", "20", "20", false},
		"all the same":              {"-41.9", "-41.9", "-41.9", true},
		"a link and no halves":      {"38", "0.1", "0.1", true},
		"halves and no link":        {"0.2", "20", "-20", true},
	} {
		s := isolated(t)
		s.now = now.Add(time.Hour)
		s.until(t, "dead/measure/dc-link")
		measure := func() {
			for key, v := range map[string]string{"dead/measure/dc-link": c.link, "dead/measure/dc-plus": c.plus,
				"dead/measure/dc-minus": c.minus} {
				s.say(t, key, v)
			}
		}
		measure()
		got := s.check("dead/measure/dc-link")
		if asked := got.Verdict == gate.Again; asked != c.again || !asked && got.Verdict != gate.Holds {
			t.Errorf("%s: %s %s", name, got.Verdict, got.Detail)
		}
		measure()
		if got = s.check("dead/measure/dc-link"); got.Verdict != gate.Holds {
			t.Errorf("%s, measured twice: %s %s", name, got.Verdict, got.Detail)
		}
	}
}
