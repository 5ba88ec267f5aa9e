package app_test

import (
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/store"
)

// Two drives of one tag are a finding of each, in whatever letters, in the Yard as on the drive; another tag, or the archive, mends it.
func TestTwoDrivesOfOneTagAreFound(t *testing.T) {
	d := newDesk(t)
	tagged := func(tag, machine string) string {
		id := base.NewID()
		_, err := d.CreateDrive(ctx, d.rh, drives.NewDrive{ID: id, Place: d.place,
			Sets: []drives.Set{{Path: "tag", Text: tag}, {Path: "machine", Text: machine}}})
		d.ok(err)
		return id
	}
	found := func(id string) string {
		for _, f := range d.view(id).State.Findings {
			if f.Code == "same-tag" {
				return f.Detail
			}
		}
		return ""
	}
	one, two, three := tagged("FN-01", "Fan in the east"), tagged("FN-02", "Fan in the west"), tagged("", "")
	agree := func(want ...string) {
		t.Helper()
		d.ok(d.RefreshGlances(ctx))
		for i, id := range []string{one, two, three} {
			got := found(id)
			if !strings.Contains(got, want[i]) || want[i] == "" && got != "" {
				t.Errorf("%d: %q, want %q", i, got, want[i])
			}
		}
		page, err := d.Yard(ctx, store.YardQuery{Place: d.place, Limit: 10})
		d.ok(err)
		for _, r := range page.Rows {
			for i, id := range []string{one, two, three} {
				if r.ID == id && strings.Contains(r.WorstTitle, "bears the tag") != (want[i] != "") {
					t.Errorf("the Yard's row of %d says %q, want %q", i, r.WorstTitle, want[i])
				}
			}
		}
	}
	agree("", "", "")
	d.set(d.rh, two, "tag", "fn-01")
	agree("Fan in the west", "Fan in the east", "")
	d.set(d.rh, two, "tag", " FN-01\t") // blanks around it are seen by nobody
	agree("Fan in the west", "Fan in the east", "")
	d.set(d.rh, one, "tag", "FN-03")
	agree("", "", "")
	d.set(d.rh, one, "tag", "FN-01")
	four := tagged("FN-01", "Fan in the store")
	agree("Fan in the west", "Fan in the store", "")
	d.set(d.rh, four, "archived", "true")
	d.set(d.rh, two, "archived", "true")
	agree("", "Fan in the east", "")
	// Two that come in together.
	d.set(d.rh, four, "archived", "false")
	agree("Fan in the store", "Fan in the east", "")
	raw, err := d.Export(ctx, d.place, "")
	d.ok(err)
	place := d.place
	d = newDesk(t)
	_, err = d.Import(ctx, raw)
	d.ok(err)
	d.place = place
	agree("Fan in the store", "Fan in the east", "")
}
