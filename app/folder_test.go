package app_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/store"
)

// Bundles of every schema number are kept in testdata and must open for ever.
func TestKeptBundlesOpen(t *testing.T) {
	files, _ := filepath.Glob("testdata/bundle-schema-*.zip")
	if len(files) != drivefile.Schema {
		t.Fatalf("%d kept bundles for %d schema numbers", len(files), drivefile.Schema)
	}
	for _, f := range files {
		raw, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		if res, err := open(t, t.TempDir()).Import(ctx, raw); err != nil || res.Added == 0 {
			t.Errorf("%s: %+v %v", f, res, err)
		}
	}
}

func TestAFolderInUseAndAReadOnlyOneAreSaid(t *testing.T) {
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
	d.ok(os.WriteFile(filepath.Join(bad, "tingate.sqlite"), []byte("this is no database, and long enough to be looked at as one, surely"), 0o600))
	if _, err := store.Open(bad); err == nil || !strings.Contains(err.Error(), "no database") {
		t.Errorf("a damaged database: %v", err)
	}
}

func TestEventsTellWhatChangedAndResume(t *testing.T) {
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
