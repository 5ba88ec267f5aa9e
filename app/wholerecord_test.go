package app_test

import (
	"encoding/json"
	"regexp"
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/testtools/raced"
)

// What the bundle has of a drive, its printed record has: readings with unit, band and instrument, chosen options in words, as found and as
// left, temporary things in and out, what was recorded of its supplies, waivers and photos. Nothing inward is printed.
func TestTheRecordHasWhatTheBundleHas(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d, id, w := isolated(t)
	d.ok(w.Gate(ctx, id, "match", nil))
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "14.9"))
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-found", "read aloud"))
	d.ok(w.Dead(ctx, id, "TK and the shift"))
	d.ok(d.PutTemporary(ctx, d.rh, id, base.NewID(),
		drivefile.Temporary{What: "jumper", Where: "X1:4 to X1:5", Why: "flow switch not there yet", Until: "Friday"}))
	v := d.view(id)
	d.ok(d.TakeTemporary(ctx, d.rh, id, base.NewID(), v.State.Temporary[0].Entry, "switch fitted"))
	d.ok(d.Waive(ctx, d.rh, id, base.NewID(), "keep/gate/signal", "its controller comes next month"))
	d.set(d.rh, id, "machine", "Drum dryer, hall two")
	rec, err := d.RecordOf(ctx, id)
	d.ok(err)
	var l []string
	for _, f := range rec.Facts {
		l = append(l, f.Label+" "+f.Value)
	}
	for _, x := range rec.Tables {
		l = append(l, x.Title, x.Note)
		for _, r := range x.Rows {
			l = append(l, strings.Join(r, " "))
		}
	}
	text := rec.Title + "\n" + rec.Subtitle + "\n" + strings.Join(l, "\n")
	want := map[string]string{"stops from speed": "from speed", "a waiver": "WAIVED, Keep",
		"its reason": "its controller comes next month", "a machine": "hall two", "who was told": "told: TK and the shift",
		"a lock": "lock on, of RH", "out again": "switch fitted", "the meter's range": "with M3"}
	entries, err := d.store.Read(ctx).Entries(id)
	d.ok(err)
	for _, en := range entries {
		switch en.Kind {
		case drivefile.EntryEvidence:
			var b drivefile.Evidence
			d.ok(json.Unmarshal(en.Body, &b))
			if c := checkOf(d.view(id), b.Key); c.Entry == en.ID && c.Unit != "" {
				want[b.Key] = b.Value + " " + c.Unit
			}
		case drivefile.EntrySnapshot:
			var b drivefile.Snapshot
			d.ok(json.Unmarshal(en.Body, &b))
			for code, x := range b.Values {
				want[b.Name+" "+code] = code + " " + x.Text
			}
			want[b.Name] = b.Label
		case drivefile.EntryTemporary:
			var b drivefile.Temporary
			d.ok(json.Unmarshal(en.Body, &b))
			want["temporary "+en.ID] = b.Where
		case drivefile.EntryAttachment:
			var b drivefile.Attachment
			d.ok(json.Unmarshal(en.Body, &b))
			want["file "+b.Of] = b.Name
		}
	}
	if len(want) < 20 {
		t.Fatalf("a drive of %d things is no sample", len(want))
	}
	for what, x := range want {
		if !strings.Contains(text, x) {
			t.Errorf("%s: %q is not printed", what, x)
		}
	}
	for _, op := range drivefile.FromStruct(v.Drive).Leaves() {
		if label := drivefile.Called(op.Path); !strings.Contains(text, label) && !strings.HasPrefix(op.Path, "motor.rows.") &&
			op.Path != "schema" && op.Path != "place" && op.Path != "motor.linked" {
			t.Errorf("%s is entered and not printed", label)
		}
	}
	if len(rec.Pictures) == 0 {
		t.Error("no photo of the label")
	}
	inward := regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-7|\b[a-z]+/[a-z]+/[a-z0-9-]+\b|\b[a-z]+_[a-z_]+\b`)
	if got := inward.FindAllString(strings.ReplaceAll(text, "r/min/s", ""), 5); got != nil {
		t.Errorf("printed: %v", got)
	}
	paper, err := d.Record(ctx, id)
	if err != nil || len(paper) < 20_000 {
		t.Errorf("%d bytes, %v", len(paper), err)
	}
}
