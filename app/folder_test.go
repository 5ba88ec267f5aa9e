package app_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"tingate/store"
)

func TestAFolderInUseAndAReadOnlyOneAreSaid(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	d.store.SetAddress("http://127.0.0.1:7340")
	var locked *store.LockedError
	if _, err := store.Open(d.folder); !errors.As(err, &locked) || !strings.Contains(err.Error(), "127.0.0.1:7340") {
		t.Errorf("%v", err)
	}
	file := filepath.Join(t.TempDir(), "file")
	d.ok(os.WriteFile(file, nil, 0o600))
	if _, err := store.Open(file); err == nil || !strings.Contains(err.Error(), "data folder") {
		t.Errorf("a file in the folder's place: %v", err)
	}
	bad := t.TempDir()
	d.ok(os.WriteFile(filepath.Join(bad, "tingate.sqlite"), []byte("this is no database, and long enough to be looked at as one, surely"),
		0o600))
	if _, err := store.Open(bad); err == nil || !strings.Contains(err.Error(), "no database") {
		t.Errorf("a damaged database: %v", err)
	}
}

func TestEventsTellWhatChangedAndResume(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	stop, cancel := context.WithCancel(ctx)
	defer cancel()
	got := make(chan store.Mark, 10)
	go func() { _ = d.Events(stop, 0, func(m store.Mark) error { got <- m; return nil }) }()
	last := int64(0)
	for range 5 { // resumed from 0: what happened before is told first
		m := <-got
		if m.Seq <= last {
			t.Fatalf("out of order: %+v after %d", m, last)
		}
		last = m.Seq
	}
	go func() {
		for range got {
		}
	}()
	d.set(d.rh, id, "notes", "x")
}

// A database that the program made before rows had checksums opens as before, and is sound afterwards. It is kept for ever.
func TestADatabaseOfBeforeOpens(t *testing.T) {
	t.Parallel()
	raw, err := os.ReadFile("testdata/database-1.sqlite")
	if err != nil {
		t.Fatal(err)
	}
	folder := t.TempDir()
	if err := os.WriteFile(filepath.Join(folder, "tingate.sqlite"), raw, 0o644); err != nil {
		t.Fatal(err)
	}
	d := open(t, folder)
	places, err := d.Places(ctx)
	d.ok(err)
	if len(places) != 1 || places[0].Place.Name != "Old Slip" || len(places[0].Energy["p1"].Locks) != 1 {
		t.Fatalf("%+v", places)
	}
	page, err := d.Yard(ctx, store.YardQuery{Place: places[0].ID})
	d.ok(err)
	if len(page.Rows) != 1 || page.Rows[0].Tag != "OD-01" {
		t.Fatalf("%+v", page.Rows)
	}
	rows, err := d.History(ctx, page.Rows[0].ID)
	d.ok(err)
	words := ""
	for _, r := range rows {
		words += r.By + " " + r.What + "\n"
	}
	for _, want := range []string{"RH Notes: blank → kept from before", "RH new drive", "plate"} {
		if !strings.Contains(words, want) {
			t.Errorf("the history lacks %q:\n%s", want, words)
		}
	}
	raw, err = d.Export(ctx, places[0].ID, "")
	d.ok(err)
	e := open(t, t.TempDir())
	if res, err := e.Import(ctx, raw); err != nil || res.Added != 1 {
		t.Errorf("%+v %v", res, err)
	}
	d.ok(d.store.Close())
	if v, err := store.Verify(ctx, folder); err != nil || v.Attachments != 1 {
		t.Errorf("%+v %v", v, err)
	}
}
