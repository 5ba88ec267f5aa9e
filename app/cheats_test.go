package app_test

import (
	"strings"
	"testing"
	"time"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/bench/stand"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/demo/walk"
	"tingate/formats/familyfile"
	"tingate/testtools/raced"
)

// What a clever and impatient person would try to get a drive shown as DEAD. After each of them it is not.
func TestCheatsOnARecordOfDead(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	const auto = "M3, auto AC+DC"
	type cheat struct {
		name string
		try  func(d *desk, id string)
		want string // in the band
	}
	for _, c := range []cheat{
		{"takes the lock off and leaves the record",
			func(d *desk, id string) { d.ok(d.lock(d.rh, drivefile.Lock{Supply: "p1", Act: "off"})) }, "A lock came off"},
		{"measures above the limit afterwards, and says nothing",
			func(d *desk, id string) { d.ok(d.answer1(id, "dead/measure/l1-l2", "231", auto)) }, ""},
		{"measures above the limit, then types a better figure over it", func(d *desk, id string) {
			d.ok(d.answer1(id, "dead/measure/l1-l2", "231", auto))
			d.ok(d.answer1(id, "dead/measure/l1-l2", "0.2", auto))
			d.ok(d.answer1(id, "dead/meter/after", "62", auto))
			d.ok(d.answer1(id, "dead/meter/after-ac", "231", auto))
		}, "Record it again"},
		{"completes an old record by a later reading", func(d *desk, id string) {
			d.ok(d.Withdraw(ctx, d.rh, id, base.NewID(), entryOf(d, id, "dead/measure/u-v"), "wrong terminals"))
			d.ok(d.answer1(id, "dead/measure/u-v", "0.1", auto))
			d.ok(d.answer1(id, "dead/meter/after", "62", auto))
			d.ok(d.answer1(id, "dead/meter/after-ac", "231", auto))
		}, "Record it again"},
		{"takes the other source out of the list", func(d *desk, id string) { d.set(d.rh, id, "supplies.c1", "") },
			"does not hold any more"},
		{"names a source more, and measures nothing of it", func(d *desk, id string) {
			d.set(d.rh, d.place, "supplies.h1.name", "Heater")
			d.set(d.rh, id, "supplies.h1", "true")
		}, "Heater"},
		{"makes the control supply one of 24 V, at which 30 V were read", func(d *desk, id string) {
			d.ok(d.answer1(id, "dead/measure/c1/between", "9", auto))
			d.ok(d.answer1(id, "dead/measure/c1/between", "9", auto))
			d.ok(d.answer1(id, "dead/meter/after", "62", auto))
			d.ok(d.answer1(id, "dead/meter/after-ac", "231", auto))
			d.set(d.rh, d.place, "supplies.c1.voltage", "24 V")
		}, ""},
		{"works on over the end of the shift's length", func(d *desk, id string) { d.clock = d.clock.Add(8*time.Hour + time.Minute) },
			"more than 8 hours ago"},
		{"turns the clock back", func(d *desk, id string) { d.clock = d.clock.Add(-2 * time.Hour) }, "stepped back"},
		{"types a longer wait of the label afterwards", func(d *desk, id string) { d.ok(d.answer1(id, "dead/wait/minutes", "60", "")) },
			""},
		{"types another serial: another drive", func(d *desk, id string) { d.set(d.rh, id, "rating.serial", "another") }, ""},
		{"says that the DC terminals are not reached, after all",
			func(d *desk, id string) { d.ok(d.answer1(id, "dead/reach/dc", "no", "")) }, ""},
		{"switches on, with a note", func(d *desk, id string) {
			d.ok(d.RecordEnergy(ctx, d.tk, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "live", Note: "found live at L1"}))
		}, ""},
		{"takes a practice of a lower limit", func(d *desk, id string) {
			d.ok(d.answer1(id, "dead/measure/dc-link", "41", auto))
			d.ok(d.answer1(id, "dead/measure/dc-link", "41", auto))
			d.ok(d.answer1(id, "dead/meter/after", "62", auto))
			d.ok(d.answer1(id, "dead/meter/after-ac", "231", auto))
		}, ""},
		{"undoes the isolation's evidence", func(d *desk, id string) {
			d.ok(d.Withdraw(ctx, d.rh, id, base.NewID(), entryOf(d, id, "dead/shaft/blocked"), "not so"))
		}, "does not hold any more"},
		{"takes the label's photo for the meter: proves again on one kind only",
			func(d *desk, id string) { d.ok(d.answer1(id, "dead/meter/after", "62", "M3, 1000 V AC")) }, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			d, id, w := isolated(t)
			d.set(d.rh, d.place, "shifts", "")
			d.ok(w.Gate(ctx, id, "dead", nil))
			d.ok(d.ProveDead(ctx, d.rh, id))
			if s := d.view(id).State.Energy; s.State != "dead" {
				t.Fatalf("%+v", s)
			}
			c.try(d, id)
			if s := d.view(id).State.Energy; s.State == "dead" || !strings.Contains(s.Text, c.want) {
				t.Errorf("%+v, want it to say %q", s, c.want)
			}
		})
	}
}

// And what would be tried before: none of it is recorded, or none of it proves.
func TestCheatsOnTheProof(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	const auto = "M3, auto AC+DC"
	proves := func(key, value, with string) func(d *desk, id string, w walk.Walker) {
		return func(d *desk, id string, _ walk.Walker) { d.ok(d.answer1(id, key, value, with)) }
	}
	for _, c := range []struct {
		name string
		try  func(d *desk, id string, w walk.Walker)
	}{
		{"a meter without a number", proves("dead/meter/before", "62", "auto AC+DC")},
		{"another meter for the proof after", proves("dead/meter/after", "62", "M4, auto AC+DC")},
		{"another meter in between", proves("dead/measure/dc-plus", "0.1", "M4, auto AC+DC")},
		{"the machine hall meter on DC, for a pair of the line", proves("dead/measure/l1-l2", "0.1", "machine hall meter, 1000 V DC")},
		{"a meter whose name has AC in it", proves("dead/measure/l1-l2", "0.1", "AC3, 1000 V DC")},
		{"the DC range for the line", proves("dead/measure/l1-l2", "0.1", "M3, 1000 V DC")},
		{"the AC range for the link", proves("dead/measure/dc-link", "0.1", "M3, 1000 V AC")},
		{"a proving source of 999999 V", proves("dead/meter/before", "999999", auto)},
		{"a proving source of nothing", proves("dead/meter/before-ac", "0.2", auto)},
		{"proved on DC alone", proves("dead/meter/before-ac", "231", "M3, 1000 V DC")},
		{"41.9 V the wrong way round, three times", func(d *desk, id string, _ walk.Walker) {
			for _, k := range []string{"dc-link", "dc-plus", "dc-minus"} {
				d.ok(d.answer1(id, "dead/measure/"+k, "-41.9", auto))
			}
		}},
		{"41 V on a line that is locked off", proves("dead/measure/l1-l2", "41", auto)},
		{"a reading that is none", proves("dead/measure/l2-l3", "about zero", auto)},
		{"no minutes of the label", proves("dead/wait/minutes", "0", "")},
		{"a label of an hour and a half", proves("dead/wait/minutes", "90", "")},
		{"the control supply not measured", func(d *desk, id string, _ walk.Walker) {
			d.ok(d.Withdraw(ctx, d.rh, id, base.NewID(), entryOf(d, id, "dead/measure/c1/between"), "not reached"))
		}},
		{"the control supply live", proves("dead/measure/c1/first-pe", "230", auto)},
		{"people not told", func(d *desk, id string, _ walk.Walker) {
			d.ok(d.Withdraw(ctx, d.rh, id, base.NewID(), entryOf(d, id, "dead/label/hung"), "no label at hand"))
		}},
		{"no gloves", func(d *desk, id string, _ walk.Walker) {
			d.ok(d.Withdraw(ctx, d.rh, id, base.NewID(), entryOf(d, id, "dead/ppe/worn"), "left in the van"))
		}},
		{"measured before the wait is over", func(d *desk, id string, _ walk.Walker) {
			d.ok(d.answer1(id, "dead/wait/minutes", "60", ""))
		}},
	} {
		t.Run(c.name, func(t *testing.T) {
			d, id, w := isolated(t)
			d.ok(w.Gate(ctx, id, "dead", nil))
			if !d.view(id).State.Proved {
				t.Fatal("the good one is not proved")
			}
			c.try(d, id, w)
			if d.view(id).State.Proved {
				t.Error("proved all the same")
			}
			if err := d.ProveDead(ctx, d.rh, id); err == nil || d.view(id).State.Energy.State == "dead" {
				t.Errorf("recorded DEAD: %v", err)
			}
		})
	}
}

// What is refused on the spot.
func TestCheatsThatAreRefused(t *testing.T) {
	t.Parallel()
	d, id, w := isolated(t)
	d.ok(w.Gate(ctx, id, "dead", nil))
	d.ok(d.lock(d.tk, drivefile.Lock{Supply: "p1", Act: "on"}))
	waive := func(key, reason string) error { return d.Waive(ctx, d.rh, id, base.NewID(), key, reason) }
	const good = "the key is lost and nobody is there"
	live := func(volts ...string) error {
		return d.RecordEnergy(ctx, d.rh, d.place, base.NewID(),
			drivefile.Energy{Supply: "p1", State: "live", Volts: volts, Note: "found live at L1"})
	}
	removed := func(reason, told string) error {
		return d.lock(d.rh, drivefile.Lock{Supply: "p1", Act: "removed-by-another", Owner: d.tk.Person, Reason: reason, Told: told})
	}
	for _, c := range []struct {
		name string
		err  error
	}{
		{"waives the lock", waive("dead/isolate/p1", good)}, {"waives the wait", waive("dead/wait/label", good)},
		{"waives the label's minutes", waive("dead/wait/minutes", good)},
		{"waives the list of sources", waive("dead/sources/all", good)}, {"waives the label", waive("dead/label/hung", good)},
		{"waives the gloves", waive("dead/ppe/worn", good)},
		{"waives the blocked shaft", waive("dead/shaft/blocked", good)}, {"waives a pair", waive("dead/measure/dc-link", good)},
		{"waives the control supply's pair", waive("dead/measure/c1/between", good)},
		{"waives the meter's proof", waive("dead/meter/after", good)}, {"waives the proof on AC", waive("dead/meter/before-ac", good)},
		{"waives the record", waive("dead/record/dead", good)},
		{"waives the reach", waive("dead/reach/dc", good)}, {"waives gate Dead at Keep", waive("keep/gate/dead", good)},
		{"waives that people are clear, at Wake", waive("wake/before/people", good)},
		{"waives that people are clear, at Stop", waive("stop/before/people", good)},
		{"waives the signature", waive("stop/signed/record", good)},
		{"waives with a dot", waive("keep/gate/power", ".")}, {"waives with one long word", waive("keep/gate/power", "xxxxxxxxxxxxxxx")},
		{"waives with single letters", waive("keep/gate/power", "a b c d e f g h i j")},
		{"waives with ok ok", waive("keep/gate/power", "ok ok ok")}, {"waives with nothing", waive("keep/gate/power", "")},
		{"waives what is none", waive("dead/measure/l4-l5", good)},
		{"says that 0.3 V is live", live("0.3")}, {"says that 9999 V is live on 400 V", live("9999")},
		{"says that one of three is right", live("398", "401", "12")},
		{"writes dead where a measurement belongs",
			d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "dead"})},
		{"removes another's lock for x", removed("x", "y")},
		{"removes it, and reached nobody", removed("gone home, machine looked over", "-")}, {"removes it without a word", removed("", "")},
		{"takes another's lock off", d.lock(d.rh, drivefile.Lock{Supply: "p1", Act: "off", Owner: d.tk.Person})},
		{"answers a pair that a three-phase line has not", d.answer1(id, "dead/measure/l-n", "0.1", "M3, auto AC+DC")},
		{"answers for the computer: the wait", d.answer1(id, "dead/wait/label", "confirmed", "")},
		{"answers for the computer: the record", d.answer1(id, "dead/record/dead", "confirmed", "")},
	} {
		if c.err == nil {
			t.Errorf("%s: taken", c.name)
		}
	}
}

// A drive that answers while its supply is recorded opened or DEAD is not dead, whatever the record says; with its control supply recorded
// live an answer says nothing, unless the link holds a voltage.
func TestADriveThatAnswersIsNotDead(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	for _, c := range []struct {
		name, family string
		control      bool // the control supply is recorded live
		volts        float64
		ends         bool
	}{{"answers", "Tarn", false, 0, true}, {"answers, its electronics fed apart", "Tarn", true, 3, false},
		{"answers, fed apart, and its link is charged", "Tarn", true, 310, true}} {
		t.Run(c.name, func(t *testing.T) {
			d, id, w := isolated(t)
			d.set(d.rh, id, "rating.dialect", c.family)
			there := stand.New(familyfile.Find(c.family))
			if err := there.Serve("127.0.0.1:0"); err != nil {
				t.Fatal(err)
			}
			t.Cleanup(func() { _ = there.Stop() })
			there.SetFigures(stand.Figures{Link: c.volts})
			d.set(d.rh, id, "link.address", there.Address())
			d.ok(w.Gate(ctx, id, "dead", nil))
			d.ok(d.ProveDead(ctx, d.rh, id))
			if s := d.view(id).State.Energy; s.State != "dead" {
				t.Fatalf("%+v", s)
			}
			if c.control { // switched on again for work on the settings: the mains stays locked and recorded dead
				d.ok(d.lock(d.rh, drivefile.Lock{Supply: "c1", Act: "off"}))
				d.ok(d.RecordEnergy(ctx, d.rh, d.place, base.NewID(),
					drivefile.Energy{Supply: "c1", State: "live", Told: "TK", Against: "control supply only, for the link"}))
			}
			_, err := d.ProbeDrive(ctx, d.rh, id)
			d.ok(err)
			if !c.control {
				s := d.view(id).State
				if s.Energy.State != "not-known" || !strings.Contains(s.Energy.Text, "The drive answered at "+there.Address()) || s.Proved {
					t.Errorf("%+v", s.Energy)
				}
				for _, ch := range []string{"dead/measure/dc-link", "dead/shaft/blocked", "dead/meter/before"} {
					if v := checkOf(d.view(id), ch).Verdict; v == gate.Holds {
						t.Errorf("%s holds still", ch)
					}
				}
				return
			}
			_, err = d.ReadDrive(ctx, d.rh, id, "", nil)
			d.ok(err)
			ended := false
			for _, src := range d.view(id).State.Sources {
				ended = ended || src.ID == "p1" && strings.Contains(src.State.Why, "its DC link holds 310 V")
			}
			if ended != c.ends {
				t.Errorf("ended: %v, want %v: %+v", ended, c.ends, d.view(id).State.Sources)
			}
		})
	}
}

// One phase has no second line, and a heater or a supply of 24 V has a measurement and a limit of its own.
func TestThePairsFollowWhatIsThere(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d, id, w := isolated(t)
	for path, text := range map[string]string{"supplies.p1.phases": "1", "supplies.p1.voltage": "230 V", "supplies.h1.name": "Heater",
		"supplies.h1.kind": "heater", "supplies.h1.voltage": "230 V", "supplies.h1.isolator": "F7",
		"supplies.e1.name": "Panel 24 V", "supplies.e1.kind": "control", "supplies.e1.voltage": "24 V DC", "supplies.e1.isolator": "F8"} {
		d.set(d.rh, d.place, path, text)
	}
	d.set(d.rh, id, "supplies.h1", "true")
	d.set(d.rh, id, "supplies.e1", "true")
	d.ok(w.Gate(ctx, id, "dead", nil))
	v := d.view(id)
	has := map[string]gate.Check{}
	for _, c := range gateOf(v, "dead").Checks {
		has[c.Key] = c
	}
	for _, key := range []string{"l-n", "l-pe", "n-pe", "dc-link", "u-v", "h1/between", "h1/first-pe", "h1/second-pe", "e1/between",
		"c1/between"} {
		if has["dead/measure/"+key].Verdict != gate.Holds {
			t.Errorf("%s: %+v", key, has["dead/measure/"+key])
		}
	}
	for _, key := range []string{"l1-l2", "l2-l3", "l3-l1", "l2-pe"} {
		if _, there := has["dead/measure/"+key]; there {
			t.Errorf("%s is asked for on one phase", key)
		}
	}
	if c := has["dead/measure/e1/between"]; *c.High != 6 || !strings.Contains(c.Detail, "") {
		t.Errorf("%+v", c)
	}
	if err := d.ProveDead(ctx, d.rh, id); err != nil {
		t.Fatal(err)
	}
	for _, s := range d.view(id).State.Sources {
		if len(s.Measured) == 0 || len(s.State.Volts) != len(s.Measured) || s.State.State != "dead" {
			t.Errorf("%s: measured %v, recorded with %v", s.Name, s.Measured, s.State.Volts)
		}
	}
	d.ok(d.answer1(id, "dead/measure/e1/between", "9", "M3, auto AC+DC"))
	if c := checkOf(d.view(id), "dead/measure/e1/between"); c.Verdict != gate.Stops {
		t.Errorf("9 V of 24: %+v", c)
	}
	// The wait is the larger one, of label and family.
	if s := d.view(id).State.Wait; s.Minutes != 10 {
		t.Errorf("%+v", s)
	}
	d.ok(d.answer1(id, "dead/wait/minutes", "15", ""))
	if s := d.view(id).State.Wait; s.Minutes != 15 || s.Source != "label, as typed" {
		t.Errorf("%+v", s)
	}
	d.ok(d.answer1(id, "dead/wait/minutes", "5", ""))
	if s := d.view(id).State.Wait; s.Minutes != 10 || !strings.Contains(s.Source, "longer than the label's 5 min") {
		t.Errorf("%+v", s)
	}
}

// Signs, limits and order count elsewhere too.
func TestCheatsOnOtherChecks(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.ok(d.Enter(ctx, d.rh, id, base.NewID(), "4D"))
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "15.5"))
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-found", ""))
	if c := checkOf(d.view(id), "keep/snapshot/as-found"); c.Verdict != gate.Again || !strings.Contains(c.Detail, "Found late: 4D") {
		t.Errorf("saved as found after it was set: %+v", c)
	}
	// A copy takes the plan, and nothing that was measured, found or seen.
	for path, text := range map[string]string{"ran.rise": "8.1 s", "rating.firmware": "3.2", "rating.serial": "T1", "motor.serial": "M1",
		"motor.fitted_joins": "U2-V2-W2", "motor.fitted_lines": "U1 V1 W1", "turn.phases": "turned", "link.address": "192.0.2.1:502",
		"stop.fall": "2 s", "turn.speed": "150", "intent.rise": "7 s"} {
		d.set(d.rh, id, path, text)
	}
	like := base.NewID()
	_, err := d.CreateDrive(ctx, d.rh,
		drives.NewDrive{ID: like, Place: d.place, CopyFrom: id, Sets: []drives.Set{{Path: "tag", Text: "DD-09"}}})
	d.ok(err)
	c := d.view(like).Drive
	if c.Ran.Rise.Text+c.Rating.Firmware+c.Rating.Serial+c.Motor.Serial+c.Motor.FittedJoins+c.Motor.FittedLines+c.Turn.Phases+
		c.Link.Address+c.Stop.Fall.Text != "" {
		t.Errorf("the copy has %+v %+v %+v", c.Ran, c.Rating, c.Turn)
	}
	if c.Intent.Rise.Text != "7 s" || c.Turn.Speed.Text != "150" {
		t.Errorf("the plan went along: %+v", c.Intent.Rise)
	}
}
