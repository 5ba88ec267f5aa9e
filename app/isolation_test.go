package app_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/entries"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/demo/walk"
	"tingate/store"
	"tingate/testtools/raced"
)

// isolated is a drive with two sources, both stated, at gate Dead.
func isolated(t *testing.T) (*desk, string, walk.Walker) {
	t.Helper()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	for _, s := range [][2]string{{"name", "Control supply"}, {"voltage", "230 V"}, {"kind", "control"}, {"isolator", "fuse F12"}} {
		d.set(d.rh, d.place, "supplies.c1."+s[0], s[1])
	}
	d.set(d.rh, id, "supplies.c1", "true")
	for _, s := range []string{"p1", "c1"} {
		d.ok(d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), drivefile.Energy{Supply: s, State: "live"}))
	}
	return d, id, walk.Walker{App: d.App, Who: d.rh, Second: d.tk, Tick: func(x time.Duration) { d.clock = d.clock.Add(x) }}
}

func (d *desk) lock(who base.Actor, l drivefile.Lock) error {
	return d.Lock(ctx, who, d.place, base.NewID(), l)
}

func (d *desk) answer1(id, key, value, with string) error {
	return d.AnswerCheck(ctx, d.rh, id, entries.CheckAnswer{ID: base.NewID(), Key: key, Value: value, With: with})
}

// Every check of Dead, failed once: nothing of it lets the drive be recorded dead.
func TestNothingLessThanAllProvesDead(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	const dc, ac = "M3, 1000 V DC", "M3, 1000 V AC"
	for name, spoil := range map[string]func(d *desk, id string, w walk.Walker){
		"a lock comes off": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.lock(d.rh,
				drivefile.Lock{Supply: "p1", Act: "off"}))
		},
		"the link is above the limit": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.answer1(id, "dead/measure/dc-link", "43",
				dc))
		},
		"a line is alive": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.answer1(id, "dead/measure/l2-pe", "231",
				ac))
		},
		"the motor gives a voltage": func(d *desk, id string, _ walk.Walker) { d.ok(d.answer1(id, "dead/measure/v-w", "60", ac)) },
		"the meter stands on AC": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.answer1(id, "dead/measure/dc-link", "0.2",
				ac))
		},
		"the reading cannot be read": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.answer1(id, "dead/measure/dc-plus", "O.L",
				dc))
		},
		"measured after the meter's proof": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.answer1(id, "dead/measure/l1-l2", "0.1",
				ac))
		},
		"the meter's proof fails":   func(d *desk, id string, _ walk.Walker) { d.ok(d.answer1(id, "dead/meter/after", "3", dc)) },
		"the meter is proved on AC": func(d *desk, id string, _ walk.Walker) { d.ok(d.answer1(id, "dead/meter/before", "62", ac)) },
		"another source is named": func(d *desk, id string, _ walk.Walker) {
			d.set(d.rh, d.place, "supplies.h1.name", "Heater")
			d.set(d.rh, id, "supplies.h1", "true")
		},
		"the DC terminals are not reached": func(d *desk, id string, _ walk.Walker) { d.ok(d.answer1(id, "dead/reach/dc", "no", "")) },
		"somebody switches on": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.RecordEnergy(ctx, d.tk, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "live", Note: "found live at L1"}))
		},
		"a lock is removed by another": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.lock(d.tk, drivefile.Lock{Supply: "c1", Act: "removed-by-another", Owner: d.rh.Person,
				Reason: "gone home, machine looked over", Told: "the shift"}))
		},
		"a measurement is withdrawn": func(d *desk, id string, _ walk.Walker) {
			d.ok(d.Withdraw(ctx, d.rh, id, base.NewID(), entryOf(d, id, "dead/measure/u-v"), "wrong terminals"))
		},
	} {
		t.Run(name, func(t *testing.T) {
			d, id, w := isolated(t)
			d.ok(w.Gate(ctx, id, "dead", nil))
			if !d.view(id).State.Proved {
				t.Fatal("all of it together proves dead")
			}
			spoil(d, id, w)
			s := d.view(id).State
			if s.Proved || s.Energy.State == "dead" {
				t.Errorf("still proved: %+v", s.Energy)
			}
			if err := d.ProveDead(ctx, d.rh, id); err == nil || !strings.Contains(err.Error(), "not proved dead") {
				t.Errorf("recorded dead: %v", err)
			}
		})
	}
}

func entryOf(d *desk, id, key string) string {
	entries, err := d.store.Read(ctx).Entries(id)
	d.ok(err)
	for i := len(entries) - 1; i >= 0; i-- {
		if strings.Contains(string(entries[i].Body), `"`+key+`"`) {
			return entries[i].ID
		}
	}
	d.t.Fatalf("no entry of %s", key)
	return ""
}

// Dead by proof at this drive; not at its neighbour on the same supply. It lapses when a lock goes and at the change of shift.
func TestDeadLapses(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d, id, w := isolated(t)
	neighbour := d.dryer()
	for _, s := range []string{"p1", "c1"} {
		d.set(d.rh, neighbour, "supplies."+s, "true")
	}
	d.ok(w.Gate(ctx, id, "dead", nil))
	d.ok(d.ProveDead(ctx, d.rh, id))
	if e := d.view(id).State.Energy; e.State != "dead" || !strings.Contains(e.Text, "2 locks on") {
		t.Fatalf("%+v", e)
	}
	if e := d.view(neighbour).State.Energy; e.State != "not-known" || !strings.Contains(e.Text, "not at this one") {
		t.Errorf("the neighbour's own link was never measured: %+v", e)
	}
	// Handed over by name, the lock stays on and so does the proof.
	d.ok(d.lock(d.rh, drivefile.Lock{Supply: "p1", Act: "hand-over", To: d.tk.Person}))
	if e := d.view(id).State.Energy; e.State != "dead" {
		t.Errorf("handed over: %+v", e)
	}
	d.set(d.rh, d.place, "shifts", "06:00, 14:00, 22:00")
	at := d.clock
	d.clock = time.Date(2026, 11, 25, 14, 1, 0, 0, time.UTC)
	if e := d.view(id).State.Energy; e.State != "not-known" || !strings.Contains(e.Text, "shift") {
		t.Errorf("after the change of shift: %+v", e)
	}
	d.clock = at.Add(-2 * time.Hour)
	if e := d.view(id).State.Energy; e.State != "not-known" || !strings.Contains(e.Text, "stepped back") {
		t.Errorf("the clock went back: %+v", e)
	}
}

// What time alone changes, the Yard changes too: a wait that is over, a record of DEAD that lapses though the drive as a whole is not DEAD
// any more.
func TestTheYardKeepsTime(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d, id, w := isolated(t)
	agree := func(when string) {
		t.Helper()
		s := d.view(id).State
		page, err := d.Yard(ctx, store.YardQuery{Place: d.place})
		d.ok(err)
		for _, r := range page.Rows {
			if r.ID != id {
				continue
			}
			for _, g := range s.Gates {
				if k := slices.Index(page.Gates, g.Key); r.Marks[k] != string(g.Mark) {
					t.Errorf("%s: gate %s is %s on its screen, %s in the Yard", when, g.Key, g.Mark, r.Marks[k])
				}
			}
			if r.Next != s.Next || r.NextDetail != s.NextDetail {
				t.Errorf("%s: next is %q, %q on its screen, %q, %q in the Yard", when, s.Next, s.NextDetail, r.Next, r.NextDetail)
			}
		}
	}
	d.ok(w.Until(ctx, id, "dead", nil, func(v base.View) bool { return v.State.Wait.From != "" && !v.State.Wait.Over }))
	agree("while it waits")
	d.clock = d.clock.Add(time.Hour)
	agree("the wait is over")
	d.ok(w.Gate(ctx, id, "dead", nil))
	d.ok(d.ProveDead(ctx, d.rh, id))
	d.ok(d.Pass(ctx, d.rh, id, base.NewID(), "dead"))
	agree("passed")
	c := checkOf(d.view(id), "dead/meter/after")
	d.ok(d.AnswerCheck(ctx, d.rh, id, entries.CheckAnswer{ID: base.NewID(), Key: c.Key, Value: "48", With: "M3, auto AC+DC"}))
	if e := d.view(id).State.Energy.State; e != "not-known" {
		t.Fatalf("something was measured after it was recorded, and it is %s", e)
	}
	agree("not DEAD as a whole")
	d.clock = d.clock.Add(9 * time.Hour)
	agree("its record of DEAD has lapsed")

	// A clock that steps back, and comes right again.
	d.ok(w.Gate(ctx, id, "dead", nil))
	d.ok(d.ProveDead(ctx, d.rh, id))
	agree("DEAD again")
	recorded := d.clock
	d.clock = recorded.Add(-2 * time.Hour)
	if e := d.view(id).State.Energy; e.State != "not-known" || !strings.Contains(e.Text, "clock stepped back") {
		t.Fatalf("two hours before it was recorded: %+v", e)
	}
	agree("the clock stepped back")
	d.clock = recorded.Add(time.Minute)
	agree("the clock is right again")
	if e := d.view(id).State.Energy.State; e != "dead" {
		t.Errorf("right again, it is %s", e)
	}
	at := recorded.Add(2 * time.Minute)
	begin := func() { d.App = app.New(d.store, func() time.Time { return at }, "test") }
	begin()
	agree("begun anew")
	right := d.Rules()
	at = recorded.Add(-time.Hour)
	begin()
	if d.Rules() == right {
		t.Error("the clock stepped back while nothing ran, and rows of before are shown")
	}
	agree("the clock stepped back while nothing ran")
}

func TestLocksAreTheirOwners(t *testing.T) {
	t.Parallel()
	d, _, _ := isolated(t)
	on := drivefile.Lock{Supply: "p1", Act: "on", Key: "17"}
	d.set(d.rh, d.place, "supplies.n1.name", "No switch")
	for _, c := range []struct {
		who  base.Actor
		l    drivefile.Lock
		want string
	}{
		{d.rh, drivefile.Lock{Supply: "n1", Act: "on"}, "what opens"}, {d.rh, drivefile.Lock{Supply: "p1", Act: "off"}, "no lock of"},
		{d.rh, drivefile.Lock{Supply: "p9", Act: "on"}, "a supply of the place"},
		{d.tk, drivefile.Lock{Supply: "p1", Act: "on", Owner: d.rh.Person}, "their own lock"}, {d.rh, on, ""}, {d.rh, on, "on already"},
		{d.tk, on, ""},
		{d.tk, drivefile.Lock{Supply: "p1", Act: "off", Owner: d.rh.Person}, "only RH takes it off"},
		{d.tk, drivefile.Lock{Supply: "p1", Act: "removed-by-another", Owner: d.rh.Person, Told: "RH by telephone", Reason: "x"},
			"ten letters in two words"}, {d.tk,
			drivefile.Lock{Supply: "p1", Act: "removed-by-another", Owner: d.rh.Person, Reason: "lost key, machine looked over",
				Told: "y"}, "who was reached"},
		{d.rh, drivefile.Lock{Supply: "p1", Act: "hand-over", To: d.rh.Person}, "another person"},
		{d.rh, drivefile.Lock{Supply: "p1", Act: "lend"}, "on, off, hand-over"},
		{d.tk, drivefile.Lock{Supply: "p1", Act: "removed-by-another", Owner: d.rh.Person, Reason: "lost key, machine looked over",
			Told: "RH by telephone"}, ""}, {d.tk, drivefile.Lock{Supply: "p1", Act: "off"}, ""},
	} {
		err := d.lock(c.who, c.l)
		if (c.want == "") != (err == nil) || err != nil && !strings.Contains(err.Error(), c.want) {
			t.Errorf("%+v: %v, want %q", c.l, err, c.want)
		}
	}
	live := drivefile.Energy{Supply: "p1", State: "live"}
	if err := d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), live); err == nil || !strings.Contains(err.Error(), "who was told") {
		t.Errorf("back without telling anybody: %v", err)
	}
	d.ok(d.lock(d.rh, on))
	live.Told = "TK"
	if err := d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), live); err == nil || !strings.Contains(err.Error(), "lock of RH is on") {
		t.Errorf("switched on under a lock: %v", err)
	}
	if err := d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "dead"}); err == nil {
		t.Error("dead by saying so")
	}
}

// The wait only forbids, counts anew when the server was away, and readings in it tell the discharge.
func TestTheWaitOnlyForbids(t *testing.T) {
	t.Parallel()
	d, id, _ := isolated(t)
	for _, s := range []string{"p1", "c1"} {
		d.ok(d.lock(d.rh, drivefile.Lock{Supply: s, Act: "on"}))
	}
	for _, k := range []string{"dead/sources/all", gate.DangersTaken, "dead/label/hung", "dead/ppe/worn", "dead/shaft/blocked"} {
		d.ok(d.answer1(id, k, "confirmed", ""))
	}
	d.ok(d.answer1(id, "dead/reach/dc", "yes", ""))
	d.ok(d.answer1(id, "dead/wait/minutes", "5", ""))
	d.ok(d.answer1(id, "dead/meter/before", "62.4", "M3, 1000 V DC"))
	d.ok(d.answer1(id, "dead/meter/before-ac", "231", "M3, 1000 V AC"))
	s := d.view(id).State
	if s.Wait.Minutes != 10 || s.Wait.Over || !strings.Contains(s.Wait.Source, "TN4-016") {
		t.Errorf("%+v", s.Wait)
	}
	for _, v := range []string{"560", "402", "288", "207"} { // τ = 180 s
		d.ok(d.answer1(id, "dead/measure/dc-link", v, "M3, 1000 V DC"))
		d.clock = d.clock.Add(time.Minute)
	}
	s = d.view(id).State
	if len(s.Discharge.Readings) != 4 || s.Discharge.ToLimit == nil || s.Discharge.TimeConstant == nil ||
		*s.Discharge.TimeConstant < 150 || *s.Discharge.TimeConstant > 210 {
		t.Errorf("%+v", s.Discharge)
	}
	if c := checkOf(d.view(id), "dead/measure/dc-link"); c.Verdict != gate.NotDone || !strings.Contains(c.Detail, "while the wait runs") {
		t.Errorf("%+v", c)
	}
	d.ok(d.answer1(id, "dead/measure/dc-link", "12", "M3, 1000 V DC"))
	if c := checkOf(d.view(id), "dead/measure/dc-link"); c.Verdict != gate.Again ||
		!strings.Contains(c.Detail, "before the wait was over") {
		t.Errorf("below the limit, too early: %+v", c)
	}
	// A server that was away counts the wait anew.
	d.clock = d.clock.Add(20 * time.Minute)
	if !d.view(id).State.Wait.Over {
		t.Error("over by now")
	}
	d.ok(d.store.Close())
	e := open(t, d.folder)
	e.clock = d.clock
	e.App = app.New(e.store, func() time.Time { e.clock = e.clock.Add(time.Second); return e.clock }, "test")
	v, err := e.Drive(ctx, d.rh, id)
	d.ok(err)
	if v.State.Wait.Over || !strings.Contains(v.State.Wait.Source, "away") {
		t.Errorf("%+v", v.State.Wait)
	}
}

// A link that does not fall stops the gate, whatever else is answered, and cannot be waived away.
func TestALinkThatDoesNotFallStops(t *testing.T) {
	t.Parallel()
	d, id, w := isolated(t)
	d.ok(w.Gate(ctx, id, "dead", map[string]string{"dead/measure/dc-link": "310"}))
	for _, v := range []string{"309", "311"} {
		d.clock = d.clock.Add(2 * time.Minute)
		d.ok(d.answer1(id, "dead/measure/dc-link", v, "M3, 1000 V DC"))
	}
	v := d.view(id)
	if gateOf(v, "dead").Mark != "barred" || len(v.State.Discharge.Findings) == 0 || v.State.Discharge.Findings[0].Code != "not-falling" ||
		v.State.Discharge.ToLimit != nil {
		t.Errorf("%s %+v", gateOf(v, "dead").Mark, v.State.Discharge)
	}
	for _, key := range []string{"dead/isolate/p1", "dead/wait/label", "dead/measure/dc-link", "dead/meter/before", "dead/record/dead"} {
		if err := d.Waive(ctx, d.rh, id, base.NewID(), key, "there is no time for it"); err == nil {
			t.Errorf("%s was waived", key)
		}
	}
}

// The same record under another practice: its limit, its order, its reset habit, its first turn.
func TestAPracticeChangesWhatIsAsked(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d, id, w := isolated(t)
	d.ok(w.Gate(ctx, id, "match", nil))
	d.ok(w.Gate(ctx, id, "dead", map[string]string{"dead/measure/dc-link": "51", "dead/measure/dc-plus": "26",
		"dead/measure/dc-minus": "-25"}))
	if c := checkOf(d.view(id), "dead/measure/dc-link"); c.Verdict != gate.Stops || c.Band != "below 42 V" {
		t.Errorf("%+v", c)
	}
	effect, err := d.PracticeEffect(ctx, id, "turn-first")
	d.ok(err)
	text := ""
	for _, c := range effect {
		text += c.Kind + " " + c.What + ": " + c.Before + " → " + c.After + "\n"
	}
	for _, want := range []string{"order Order of the gates", "42 V DC → 60 V DC", "Dead: DC+ to DC−: stops below 42 V → holds below 60 V",
		"Dead: Isolator at the motor opened and locked too", "two motor leads are swapped → the phase order is set"} {
		if !strings.Contains(text, want) {
			t.Errorf("the effect lacks %q:\n%s", want, text)
		}
	}
	d.set(d.rh, id, "practice", "turn-first")
	v := d.view(id)
	if c := checkOf(v, "dead/measure/dc-link"); c.Verdict != gate.Holds || v.State.Practice.Name != "turn-first" || !v.State.Practice.Own {
		t.Errorf("%+v %+v", c, v.State.Practice)
	}
	var order []string
	for _, g := range v.State.Gates {
		order = append(order, g.Key)
	}
	if strings.Join(order, " ") != "match dead power control wake span signal plate stop turn tune keep" {
		t.Errorf("%v", order)
	}
	if c := checkOf(v, "wake/sto/by"); c.Options[0].Value != "jumper" {
		t.Errorf("%+v", c.Options)
	}
	if c := checkOf(v, "wake/reset/delivery"); c.Options[0].Value != "not-needed" {
		t.Errorf("%+v", c.Options)
	}
	if err := d.Change(ctx, d.rh, id,
		drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "practice", Text: "as-we-like"}}}); err == nil ||
		!strings.Contains(err.Error(), "stop-first") {
		t.Errorf("%v", err)
	}
	d.ok(d.Undo(ctx, d.rh, id, base.NewID()))
	if p := d.view(id).State.Practice; p.Name != "stop-first" || p.Own {
		t.Errorf("%+v", p)
	}
}

// Live work is refused while the supply is not recorded live, with what to do; entries at a desk never are.
func TestLiveWorkWaitsForPower(t *testing.T) {
	t.Parallel()
	d, id, w := isolated(t)
	d.ok(d.lock(d.rh, drivefile.Lock{Supply: "p1", Act: "on"}))
	err := d.answer1(id, "wake/line/1", "400", "M3, 1000 V AC")
	if err == nil || !strings.Contains(err.Error(), "live work") || !strings.Contains(err.Error(), "NOT KNOWN") {
		t.Errorf("%v", err)
	}
	d.set(d.rh, id, "motor.rows."+star+".current", "15.4") // at a desk
	d.ok(d.lock(d.rh, drivefile.Lock{Supply: "p1", Act: "off"}))
	d.ok(d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "live", Told: "TK"}))
	for _, s := range []string{"4D", "4A"} {
		d.ok(d.Read(ctx, d.rh, id, base.NewID(), s, map[string]string{"4D": "8.0", "4A": "4.00"}[s]))
	}
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-found", ""))
	d.ok(w.Gate(ctx, id, "wake", nil))
	d.ok(d.Pass(ctx, d.rh, id, base.NewID(), "wake"))
	for key, bad := range map[string]struct {
		value string
		makes gate.Verdict
	}{"wake/line/1": {"330", gate.Stops}, "wake/link/dc": {"325", gate.Again}, "wake/line/2": {"12O", gate.Again}} {
		d.ok(d.answer1(id, key, bad.value, ""))
		if c := checkOf(d.view(id), key); c.Verdict != bad.makes {
			t.Errorf("%s %s: %+v", key, bad.value, c)
		}
	}
	if m := gateOf(d.view(id), "wake").Mark; m != "barred" {
		t.Errorf("passed, and then measured otherwise: %s", m)
	}
	// A jumper on the torque-off terminals goes into the register, and bars Keep.
	d.ok(d.answer1(id, "wake/sto/by", "jumper", ""))
	v := d.view(id)
	if len(v.State.Temporary) != 1 || checkOf(v, "keep/temporary/none").Verdict != gate.Stops {
		t.Errorf("%+v", v.State.Temporary)
	}
}

func TestTheRegisterOfTemporaryThings(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	in := base.NewID()
	d.ok(d.PutTemporary(ctx, d.rh, id, in,
		drivefile.Temporary{What: "trial-value", Where: "7A", Why: "drum empty", Until: "the first load"}))
	if v := d.view(id); len(v.State.Temporary) != 1 || v.State.Temporary[0].By != d.rh.Person ||
		checkOf(v, "keep/temporary/none").Verdict != gate.Stops {
		t.Errorf("%+v", v.State.Temporary)
	}
	for _, bad := range []drivefile.Temporary{{What: "string", Where: "x", Why: "y"}, {What: "jumper", Why: "y"},
		{What: "jumper", Where: "x"}} {
		if d.PutTemporary(ctx, d.rh, id, base.NewID(), bad) == nil {
			t.Errorf("%+v was taken", bad)
		}
	}
	if d.TakeTemporary(ctx, d.rh, id, base.NewID(), "", "") == nil ||
		d.TakeTemporary(ctx, d.rh, id, base.NewID(), base.NewID(), "") == nil {
		t.Error("a thing that is not in")
	}
	d.ok(d.TakeTemporary(ctx, d.tk, id, base.NewID(), in, "8.3 s entered"))
	if v := d.view(id); len(v.State.Temporary) != 0 || checkOf(v, "keep/temporary/none").Verdict != gate.Holds {
		t.Errorf("%+v", v.State.Temporary)
	}
}

// What is shown of a drive in the Yard is made anew when its place changes, and when a change of shift lets DEAD lapse.
func TestRowsFollowThePlaceAndTheShift(t *testing.T) {
	t.Parallel()
	d, id, w := isolated(t)
	d.ok(d.RefreshGlances(ctx))
	stale := func(when time.Time) int {
		ids, err := d.store.Read(ctx).StaleGlances("", d.Rules(), when.UTC().Format(time.RFC3339))
		d.ok(err)
		return len(ids)
	}
	d.set(d.rh, d.place, "shifts", "06:00, 14:00, 22:00")
	if stale(d.clock) != 1 {
		t.Error("the place has changed")
	}
	d.ok(w.Gate(ctx, id, "dead", nil))
	d.ok(d.ProveDead(ctx, d.rh, id))
	d.ok(d.RefreshGlances(ctx))
	v := d.view(id)
	if v.State.Lapses == "" || !strings.Contains(v.State.Energy.Text, "until the shift changes at") {
		t.Fatalf("%+v", v.State.Energy)
	}
	at, err := time.Parse(time.RFC3339, v.State.Lapses)
	d.ok(err)
	if stale(at.Add(-time.Second)) != 0 || stale(at.Add(time.Second)) != 1 {
		t.Error("stale from the change of shift on")
	}
	for path, bad := range map[string]string{"zone": "Nowhere/Nothing", "shifts": "25:00", "practice": "as-we-like"} {
		err := d.Change(ctx, d.rh, d.place, drives.Edit{ID: base.NewID(), Edit: base.NewID(), Sets: []drives.Set{{Path: path, Text: bad}}})
		if err == nil || !strings.Contains(err.Error(), bad) {
			t.Errorf("%s %q: %v", path, bad, err)
		}
	}
	late := at.Add(time.Minute)
	d.clock = late
	ctx2, stop := context.WithCancel(ctx)
	done := make(chan error, 1)
	go func() { done <- d.KeepGlances(ctx2) }()
	for range 200 {
		if stale(late) == 0 {
			break
		}
		time.Sleep(10 * time.Millisecond)
	}
	d.set(d.rh, d.place, "shifts", "")
	for range 200 {
		if stale(late) == 0 {
			break
		}
		time.Sleep(10 * time.Millisecond)
	}
	stop()
	d.ok(<-done)
	if stale(late) != 0 {
		t.Error("rows stay stale")
	}
}
