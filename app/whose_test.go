package app_test

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"testing"
	"time"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/entries"
	"tingate/app/yard"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/store"
)

func sha(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// Who did it stays who did it: whatever becomes of the person, and whoever tries to take an id that is another's.
func TestWhoDidItStays(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	visit, edit, reading := base.NewID(), base.NewID(), base.NewID()
	d.ok(d.Change(ctx, d.tk, id, drives.Edit{ID: edit, Edit: visit, Sets: []drives.Set{{Path: "notes", Text: "TK was here"}}}))
	d.ok(d.Read(ctx, d.tk, id, reading, "4D", "12.5"))
	notes := func(who base.Actor, edit, visit, text string) error {
		return d.Change(ctx, who, id, drives.Edit{ID: edit, Edit: visit, Sets: []drives.Set{{Path: "notes", Text: text}}})
	}
	for name, err := range map[string]error{
		"another's edit id":              notes(d.rh, edit, base.NewID(), "RH"),
		"another's visit":                notes(d.rh, base.NewID(), visit, "RH"),
		"one's own id for another visit": notes(d.tk, edit, base.NewID(), "TK again"),
		"the program's own visit":        drives.Edit{Edit: "create"}.Sendable(),
		"another's entry id":             d.Read(ctx, d.rh, id, reading, "4D", "13"),
		"an entry's id for another kind": d.Keep(ctx, d.tk, id, reading, "x", "a reason", ""),
		"another's edit id, for an undo": d.Undo(ctx, d.rh, id, edit),
		"a lock with another's entry id": d.Lock(ctx, d.rh, d.place, reading, drivefile.Lock{Supply: "mcc", Act: "on"}),
		"other initials for who signed": d.Change(ctx, d.rh, d.place,
			drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "people." + d.tk.Person + ".initials", Text: "RH"}}}),
		"an entry of nobody":     d.Read(ctx, base.Actor{}, id, base.NewID(), "4D", "1"),
		"an edit of a stranger":  notes(base.Actor{Person: base.NewID()}, base.NewID(), base.NewID(), "x"),
		"an undo of a stranger":  d.Undo(ctx, base.Actor{Person: base.NewID()}, id, base.NewID()),
		"a place made by nobody": d.CreatePlace(ctx, base.NewID(), "P", drivefile.Simulated, "UTC", nil),
		"a drive's id for a place": d.CreatePlace(ctx, id, "P", drivefile.Simulated, "UTC",
			map[string]drivefile.Person{d.rh.Person: {Initials: "RH"}}),
		"a family that nobody brings":   second(d.AddFamily(ctx, base.Actor{}, skua())),
		"a practice that nobody brings": second(d.AddPractice(ctx, base.Actor{Person: base.NewID()}, []byte("name: x"))),
		"a stranger under no initials": d.Change(ctx, base.Actor{Person: "x"}, d.place,
			drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "people.x.trade", Text: "fitter"}}}),
		"a time typed that is no time": d.Change(ctx, d.rh, id,
			drives.Edit{ID: base.NewID(), Typed: "soon", Sets: []drives.Set{{Path: "notes", Text: "y"}}}),
		"people without a name are none": d.CreatePlace(ctx, base.NewID(), "P", drivefile.Simulated, "UTC",
			map[string]drivefile.Person{d.rh.Person: {}}),
		"a place of a choice of no list": d.CreatePlace(ctx, base.NewID(), "P", drivefile.Simulated, "UTC",
			map[string]drivefile.Person{d.rh.Person: {Initials: "RH", Trade: "wizard"}}),
		"an entry id that is an edit's": second(0,
			d.AnswerCheck(ctx, d.rh, id, entries.CheckAnswer{ID: "1", Key: "plate/poles/confirmed", Value: "confirmed"})),
		"a repeat of another's begun act": second(d.WriteSetting(ctx, d.rh, id, reading, "4D", false)),
	} {
		if err == nil {
			t.Errorf("%s: taken", name)
		}
	}
	// A repeat by the one who did it is answered, not done again.
	before := d.view(id).Version
	d.ok(notes(d.tk, edit, visit, "TK was here"))
	d.ok(d.Read(ctx, d.tk, id, reading, "4D", "12.5"))
	if d.view(id).Version != before || d.view(id).Drive.Notes != "TK was here" {
		t.Errorf("%+v", d.view(id).Drive.Notes)
	}
	// TK's name changes, and TK goes: what was signed stays as it was written.
	d.ok(d.Change(ctx, d.rh, d.place,
		drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "people." + d.tk.Person + ".name", Text: "Another Name"}}}))
	d.ok(d.Change(ctx, d.rh, d.place,
		drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "people." + d.tk.Person + ".initials", Text: ""}}}))
	rows, err := d.History(ctx, id)
	d.ok(err)
	found := 0
	for _, r := range rows {
		if r.ID == reading || r.ID == edit {
			found++
			if r.By != "TK" {
				t.Errorf("%+v", r)
			}
		}
	}
	if found != 2 {
		t.Errorf("%d of TK's rows", found)
	}
}

func second[T any](_ T, err error) error { return err }

// What was typed without a connection keeps its person and its time; a clock that was set by hand marks all that it touches.
func TestTypedBeforeItCame(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	typed := d.clock.Add(-20 * time.Minute).UTC()
	d.ok(d.Change(ctx, d.tk, id, drives.Edit{ID: base.NewID(), Typed: typed.Format(time.RFC3339),
		Sets: []drives.Set{{Path: "notes", Text: "typed in the yard"}}}))
	d.ok(d.Change(ctx, d.rh, id, drives.Edit{ID: base.NewID(), Typed: d.clock.Add(time.Hour).UTC().Format(time.RFC3339),
		Sets: []drives.Set{{Path: "where", Text: "a time to come is none"}}}))
	d.SetClock("clock set by hand")
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "1"))
	d.ok(d.Change(ctx, d.rh, id, drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "notes", Text: "later"}}}))
	rows, err := d.History(ctx, id)
	d.ok(err)
	says := map[string]bool{}
	for _, r := range rows {
		says["typed"] = says["typed"] ||
			strings.Contains(r.What, "typed in the yard") && r.By == "TK" && strings.HasPrefix(r.Typed, typed.Format("2006-01-02T15:04:05"))
		says["to come"] = says["to come"] || strings.Contains(r.What, "a time to come") && r.Typed == ""
		says["reading"] = says["reading"] || r.Kind == "reading" && r.Clock == "clock set by hand"
		says["edit"] = says["edit"] || strings.Contains(r.What, "later") && r.Clock == "clock set by hand"
		says["before"] = says["before"] || r.Clock == ""
	}
	if len(says) != 5 {
		t.Fatal(says)
	}
	for what, ok := range says {
		if !ok {
			t.Errorf("%s is not told: %+v", what, rows)
		}
	}
	one, err := d.Export(ctx, d.place, "")
	d.ok(err)
	e := open(t, t.TempDir())
	_, err = e.Import(ctx, one)
	d.ok(err)
	there, err := e.History(ctx, id)
	d.ok(err)
	if fmt.Sprint(there[0].Clock, there[0].By) != fmt.Sprint(rows[0].Clock, rows[0].By) {
		t.Errorf("%+v is not %+v", there[0], rows[0])
	}
}

// A person or a supply with a lock on it stays entered.
func TestWhatALockHangsOnStays(t *testing.T) {
	t.Parallel()
	d, _, _ := isolated(t)
	places, err := d.Places(ctx)
	d.ok(err)
	var supply string
	for id, e := range places[0].Energy {
		if len(e.Locks) > 0 {
			supply = id
		}
	}
	if supply == "" {
		for id := range places[0].Place.Supplies {
			supply = id
		}
		d.ok(d.Lock(ctx, d.rh, d.place, base.NewID(), drivefile.Lock{Supply: supply, Act: "on", Key: "7"}))
	}
	for _, path := range []string{"people." + d.rh.Person + ".initials", "supplies." + supply + ".name",
		"supplies." + supply + ".isolator"} {
		err := d.Change(ctx, d.tk, d.place, drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: path, Text: ""}}})
		if err == nil || !strings.Contains(err.Error(), "lock of RH is on") {
			t.Errorf("%s: %v", path, err)
		}
	}
	d.ok(d.Lock(ctx, d.rh, d.place, base.NewID(), drivefile.Lock{Supply: supply, Act: "off"}))
	d.ok(d.Change(ctx, d.tk, d.place,
		drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "supplies." + supply + ".isolator", Text: ""}}}))
}

// 300 drives on one supply: the Yard says what the drives say, each time, and after a restart; and after rules, families and practices have
// changed.
func TestTheYardAgreesWithThreeHundredDrives(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	d.ok(d.Change(ctx, d.rh, d.place,
		drives.Edit{ID: base.NewID(),
			Sets: []drives.Set{{Path: "supplies.p1.name", Text: "Panel P1"}, {Path: "supplies.p1.isolator", Text: "Q1"},
				{Path: "supplies.c1.name", Text: "Control"}, {Path: "supplies.c1.fed_from", Text: "p1"},
				{Path: "supplies.c2.name", Text: "Lamps"}, {Path: "supplies.c2.fed_from", Text: "c1"}}}))
	const many = 300
	var ids []string
	for i := range many {
		id := base.NewID()
		feed := []string{"p1", "c1", "c2"}[i%3]
		_, err := d.CreateDrive(ctx, d.rh,
			drives.NewDrive{ID: id, Place: d.place,
				Sets: []drives.Set{{Path: "tag", Text: fmt.Sprintf("M-%03d", i)}, {Path: "supplies." + feed, Text: "true"}}})
		d.ok(err)
		ids = append(ids, id)
	}
	agrees := func(d *desk, when string) {
		t.Helper()
		rows := map[string]yard.YardRow{}
		for from := 0; from < many; from += 100 {
			page, err := d.Yard(ctx, store.YardQuery{Place: d.place, Offset: from, Limit: 100})
			d.ok(err)
			for _, r := range page.Rows {
				rows[r.ID] = r
			}
		}
		for i := 0; i < many; i += 7 {
			s := d.view(ids[i]).State
			if r := rows[ids[i]]; r.Next != s.Next || r.NextDetail != s.NextDetail || r.NextGate != s.NextGate || r.Worst != s.Worst {
				t.Fatalf("%s: drive %d: the Yard says %q %q %s, the drive %q %q %s", when, i, r.Next, r.NextDetail, r.Worst, s.Next,
					s.NextDetail, s.Worst)
			}
		}
	}
	agrees(d, "new")
	d.ok(d.Lock(ctx, d.rh, d.place, base.NewID(), drivefile.Lock{Supply: "p1", Act: "on", Key: "7"}))
	agrees(d, "locked")
	again := open(t, restarted(d))
	again.place, again.rh, again.tk = d.place, d.rh, d.tk
	agrees(again, "locked, after a restart")
	d = again
	d.ok(d.Lock(ctx, d.rh, d.place, base.NewID(), drivefile.Lock{Supply: "p1", Act: "off"}))
	agrees(d, "unlocked")
	d.ok(d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "live", Told: "all"}))
	agrees(d, "live")
	before := d.Rules()
	_, err := d.AddFamily(ctx, d.rh, skua())
	d.ok(err)
	if d.Rules() == before || !strings.HasPrefix(before, gate.RulesVersion) {
		t.Error("a family that came in is among what rows rest on")
	}
	agrees(d, "a family more")
	d.ok(d.Change(ctx, d.rh, d.place, drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "practice", Text: "turn-first"}}}))
	agrees(d, "another practice")
}

func restarted(d *desk) string {
	d.t.Helper()
	d.ok(d.store.Close())
	return d.folder
}
