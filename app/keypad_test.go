package app_test

import (
	"slices"
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/bench/stand"
	"tingate/core/dialect"
	"tingate/core/gate"
	"tingate/core/sheet"
	"tingate/formats/familyfile"
)

func settingOf(t *testing.T, d *desk, id, code string) sheet.SettingRow {
	t.Helper()
	rows, err := d.Settings(ctx, id)
	d.ok(err)
	for _, r := range rows {
		if r.Code == code {
			return r
		}
	}
	t.Fatalf("%s is no setting", code)
	return sheet.SettingRow{}
}

// Planned, entered, written and read are four facts of one setting, each with who and how.
func TestPlannedEnteredWrittenAndReadAreFourFacts(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	b := stand.New(familyfile.Find("Tarn"))
	d.ok(b.Serve("127.0.0.1:0"))
	t.Cleanup(func() { _ = b.Stop() })
	d.set(d.rh, id, "link.address", b.Address())
	route, err := d.KeypadRoute(ctx, id, "", false, false)
	d.ok(err)
	if len(route.Stops) < 20 || route.Presses < len(route.Stops) || len(route.Refused) != 0 {
		t.Fatalf("%d stops, %d presses, %+v", len(route.Stops), route.Presses, route.Refused)
	}
	d.ok(d.Enter(ctx, d.tk, id, base.NewID(), "4D"))
	after, err := d.KeypadRoute(ctx, id, "4D", false, false)
	d.ok(err)
	if len(after.Stops) != len(route.Stops)-1 || after.Entered != 1 ||
		slices.ContainsFunc(after.Stops, func(s drives.RouteStop) bool { return s.Code == "4D" }) {
		t.Errorf("%d stops, %d entered", len(after.Stops), after.Entered)
	}
	if l := line(d.view(id), "4D"); l.Verdict != "not-read" || l.Entered == nil || l.Entered.Text != "15.5" || l.Entered.By != d.tk.Person {
		t.Errorf("entered proves nothing: %s %+v", l.Verdict, l.Entered)
	}
	_, err = d.WriteSetting(ctx, d.rh, id, base.NewID(), "4D", false)
	d.ok(err)
	if l := line(d.view(id), "4D"); l.Verdict != "holds" || l.Written == nil || l.Written.Outcome != "held" ||
		l.Written.Text != "15.5 A" || l.Read.How != "written" || l.Entered.By != d.tk.Person {
		t.Errorf("%+v %+v", l.Written, l.Read)
	}
	// Somebody else changes the drive: the next write says so.
	d.ok(b.Set("4D", "20.0"))
	res, err := d.WriteSetting(ctx, d.rh, id, base.NewID(), "4D", false)
	d.ok(err)
	if !strings.Contains(res.Message, "not 15.5 A as last read: somebody else has changed it") {
		t.Errorf("%q", res.Message)
	}
	sent, err := d.Sent(ctx, id)
	d.ok(err)
	if len(sent) != 2 || sent[0].Before != "20.0 A" || sent[0].Outcome != "held" || sent[0].Address != b.Address() ||
		sent[0].Register != 404 || !slices.Equal(sent[0].Raw, []int{155}) || sent[0].By != d.rh.Person {
		t.Errorf("%+v", sent)
	}
	running, err := d.KeypadRoute(ctx, id, "", true, false)
	d.ok(err)
	if !slices.ContainsFunc(running.Stops, func(s drives.RouteStop) bool { return s.Code == "7A" }) || len(running.Refused) == 0 ||
		running.Refused[0].Do == "" {
		t.Errorf("while it runs: %+v", running.Refused)
	}
	for code, want := range map[string]string{"9A": "Nothing is planned", "ZZ": "a setting of Tarn"} {
		if err := d.Enter(ctx, d.rh, id, base.NewID(), code); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", code, err)
		}
	}
	if _, err := d.KeypadRoute(ctx, id, "ZZ", false, false); err == nil {
		t.Error("a keypad that stands nowhere")
	}
}

// Left as delivered on purpose is not the same as never looked at, and goes when the delivery value is no longer read.
func TestLeftAsDeliveredOnPurpose(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	if r := settingOf(t, d, id, "9A"); r.Standing != "never" || r.Delivery != "4.0 kHz" {
		t.Errorf("%+v", r)
	}
	d.ok(d.LeaveAsDelivered(ctx, d.rh, id, base.NewID(), "9A", "quiet enough"))
	if r := settingOf(t, d, id, "9A"); r.Standing != "on-purpose" || r.Confirmed.By != d.rh.Person {
		t.Errorf("%+v", r)
	}
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "9A", "8.0"))
	if r := settingOf(t, d, id, "9A"); r.Standing != "changed" || !r.Changed {
		t.Errorf("%+v", r)
	}
	if err := d.LeaveAsDelivered(ctx, d.rh, id, base.NewID(), "9A", ""); err == nil ||
		!strings.Contains(err.Error(), "reads 8.0 kHz, not its delivery value 4.0 kHz") {
		t.Errorf("%v", err)
	}
	if err := d.LeaveAsDelivered(ctx, d.rh, id, base.NewID(), "4D", ""); err == nil || !strings.Contains(err.Error(), "is planned as") {
		t.Errorf("%v", err)
	}
	// The delivery value follows the region and the frame: a 60 Hz supply makes 60.0 Hz of 4C's 50.0.
	if r := settingOf(t, d, id, "4C"); r.Delivery != "50.0 Hz" {
		t.Errorf("%s", r.Delivery)
	}
	d.set(d.rh, d.place, "supplies.mcc-60.frequency", "60 Hz")
	d.set(d.rh, id, "supplies.mcc-1", "false")
	d.set(d.rh, id, "supplies.mcc-60", "true")
	d.set(d.rh, id, "rating.type", "TN4-016-F2K")
	if r := settingOf(t, d, id, "4C"); r.Delivery != "60.0 Hz" {
		t.Errorf("%s", r.Delivery)
	}
}

// One reads aloud, another types: both stand in the record, and what cannot be read is kept.
func TestAsFoundByVoice(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.ok(d.Heard(ctx, d.rh, id, base.NewID(), "4D", "26,8", d.tk.Person))
	d.ok(d.Heard(ctx, d.rh, id, base.NewID(), "4E", "fourteen", d.tk.Person))
	d.ok(d.Heard(ctx, d.rh, id, base.NewID(), "1H", "Dryer 2", d.tk.Person))
	l := line(d.view(id), "4D")
	if l.Read.How != "voice" || l.Read.Voice != d.tk.Person || l.Read.By != d.rh.Person || l.Read.Shown != "26.8 A" {
		t.Errorf("%+v", l.Read)
	}
	if r := settingOf(t, d, id, "4E"); r.Read.Steps != nil || r.Read.Text != "fourteen" || r.Read.Problem == "" {
		t.Errorf("%+v", r.Read)
	}
	if r := settingOf(t, d, id, "1H"); r.Read.Shown != "Dryer 2" || !r.Changed {
		t.Errorf("%+v", r.Read)
	}
	for _, err := range []error{d.Heard(ctx, d.rh, id, base.NewID(), "4D", "1", "nobody"),
		d.Heard(ctx, d.rh, id, base.NewID(), "4D", " ", d.tk.Person), d.Heard(ctx, d.rh, id, base.NewID(), "ZZ", "1", d.tk.Person)} {
		if err == nil {
			t.Error("taken")
		}
	}
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-found", "by voice"))
	if s := d.view(id).State.Snapshots; s[len(s)-1].Count != 2 {
		t.Errorf("%+v", s)
	}
}

// A drive stays with the version of its family's file; another one's effect is shown, taken and undone; the bundle carries both.
func TestADriveStaysWithItsVersionOfTheFamily(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id, other := d.dryer(), d.dryer()
	draft, err := d.DraftOf("Tarn", "")
	d.ok(err)
	next, was := draft.Version, d.view(id).Family.Version
	if dialect.CompareVersions(next, was) <= 0 || len(draft.Rows) < 120 {
		t.Fatalf("%s after %s, %d rows", next, was, len(draft.Rows))
	}
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "7A", "8.3"))
	for i := range draft.Rows {
		if r := &draft.Rows[i]; r.Code == "7A" {
			r.Step, r.Min, r.Max, r.Delivery = "0.05", "0.05", "3000.00", "5.00"
		}
	}
	bad := draft
	bad.Rows = append(slices.Clone(draft.Rows), draft.Rows[0])
	if c, err := d.CheckDraft(ctx, d.rh, bad, true); err != nil || c.Kept != nil || len(c.Problems) == 0 ||
		c.Problems[0].Row != len(bad.Rows) {
		t.Errorf("a code twice: %v %+v", err, c.Problems)
	}
	c, err := d.CheckDraft(ctx, d.rh, draft, true)
	d.ok(err)
	if c.Kept == nil || len(c.Problems) != 0 || len(c.Missing) != 0 {
		t.Fatalf("%+v", c)
	}
	if c, _ := d.CheckDraft(ctx, d.rh, draft, true); len(c.Problems) != 1 || c.Problems[0].Field != "version" {
		t.Errorf("the same version again: %+v", c.Problems)
	}
	if v := d.view(id); v.Family.Version != was || line(v, "7A").Verdict != "holds" ||
		!slices.ContainsFunc(v.State.Findings, func(f gate.Answered) bool { return f.Code == "family-newer" }) {
		t.Errorf("%s %s", v.Family.Version, line(v, "7A").Verdict)
	}
	u, err := d.FamilyEffect(ctx, id, next)
	d.ok(err)
	kinds := map[string]string{}
	for _, e := range u.Effects {
		kinds[e.Kind] = e.Code + " " + e.Before + " → " + e.After
	}
	if kinds["value"] != "7A 8.3 s → 8.25 s" || kinds["range"] == "" || len(kinds) != 2 {
		t.Errorf("%v", kinds)
	}
	d.ok(d.TakeFamily(ctx, d.rh, id, base.NewID(), next))
	if v := d.view(id); v.Family.Version != next || line(v, "7A").SetTo != "8.25 s" || line(v, "7A").Read.Shown != "8.30 s" {
		t.Errorf("the old reading is 8.30 s still: %+v", line(v, "7A").Read)
	}
	one, err := d.Export(ctx, d.place, "")
	d.ok(err)
	e := open(t, t.TempDir())
	_, err = e.Import(ctx, one)
	d.ok(err)
	two, err := e.Export(ctx, d.place, "")
	d.ok(err)
	if !slices.Equal(one, two) {
		t.Error("exported again, the bundle with two versions differs")
	}
	if v, err := e.Drive(ctx, d.rh, id); err != nil || v.Family.Version != next {
		t.Errorf("%v %s", err, v.Family.Version)
	}
	if v, err := e.Drive(ctx, d.rh, other); err != nil || v.Family.Version != was {
		t.Errorf("%v %s", err, v.Family.Version)
	}
	d.ok(d.Undo(ctx, d.rh, id, base.NewID()))
	if v := d.view(id); v.Family.Version != was {
		t.Errorf("undone: %s", v.Family.Version)
	}
	for _, err := range []error{d.TakeFamily(ctx, d.rh, id, base.NewID(), "77"),
		func() error { _, err := d.FamilyEffect(ctx, id, "77"); return err }()} {
		if err == nil || !strings.Contains(err.Error(), "one of "+next+", "+was) {
			t.Errorf("%v", err)
		}
	}
	d.set(d.rh, id, "rating.dialect_version", "77")
	if v := d.view(id); v.Family.Version != next ||
		!slices.ContainsFunc(v.State.Findings, func(f gate.Answered) bool { return f.Code == "family-version-missing" }) {
		t.Error("a version that is not here must be said")
	}
}

func TestTheManualIsWhole(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for _, f := range d.Families() {
		m, err := d.Manual(f.Name, "")
		d.ok(err)
		if len(m.Settings) < 120 || len(m.Recipes.Tunes) < 3 || len(m.Recipes.DeliveryReset.Steps) == 0 || len(m.Terminals) < 15 ||
			len(m.Faults) < 15 || len(m.Ratings) < 5 || m.History.Depth == 0 || m.Recipes.FirstStart.Pages == nil {
			t.Errorf("%s: %d settings, %d tunes, %d terminals, %d faults", f.Name, len(m.Settings), len(m.Recipes.Tunes), len(m.Terminals),
				len(m.Faults))
		}
	}
	if _, err := d.Manual("Petrel", ""); err == nil {
		t.Error("no such family")
	}
}

// A drive's own label is held against what its family knows.
func TestTheLabelIsHeldAgainstTheFamily(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.set(d.rh, d.place, "supplies.mcc-1.voltage", "400 V")
	d.set(d.rh, id, "supplies.mcc-1", "true")
	codes := func() string {
		var l []string
		for _, f := range d.view(id).State.Findings {
			if strings.HasPrefix(f.Field, "rating.") {
				l = append(l, f.Code)
			}
		}
		return strings.Join(l, " ")
	}
	for _, c := range []struct{ path, text, want string }{
		{"rating.type", "TN4-016-F2K", ""}, {"rating.firmware", "v3.10", "firmware-not-covered"}, {"rating.firmware", "3.2", ""},
		{"rating.current", "18.5", ""}, {"rating.current", "20", "rating-disagrees"},
		{"rating.current", "16", ""}, {"rating.type", "TN2-007-F1", "rating-disagrees"}, {"rating.type", "QX", "type-not-understood"},
		{"rating.type", "", ""},
	} {
		d.set(d.rh, id, c.path, c.text)
		if got := codes(); got != c.want {
			t.Errorf("%s %q: %q, want %q", c.path, c.text, got, c.want)
		}
	}
}
