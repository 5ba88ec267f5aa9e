package store

import (
	"context"
	"errors"
	"strings"
	"testing"

	"tingate/core/drivefile"
)

// A full disk refuses the act whole, says so, and loses nothing of what was stored before.
func TestAFullDiskRefusesWholeAndLosesNothing(t *testing.T) {
	ctx := context.Background()
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	// SQLite's own limit on pages stands for the disk's.
	if _, err := s.write.Exec("PRAGMA max_page_count = 60"); err != nil {
		t.Fatal(err)
	}
	stored := 0
	var disk *DiskError
	for {
		err := s.Write(ctx, func(tx *Tx) error {
			seq, err := tx.NextSeq(1)
			if err != nil {
				return err
			}
			return tx.AddEntry(drivefile.Entry{ID: strings.Repeat("x", 8) + string(rune('a'+stored)), Seq: seq, Doc: "d", Kind: "reading",
				Body: []byte(`"` + strings.Repeat("y", 9000) + `"`)})
		})
		if errors.As(err, &disk) {
			break
		}
		if err != nil || stored > 100 {
			t.Fatalf("%d stored, %v", stored, err)
		}
		stored++
	}
	if !strings.Contains(disk.Error(), "disk is full") || stored == 0 {
		t.Errorf("%d stored, %v", stored, disk)
	}
	entries, err := s.Read(ctx).Entries("d")
	if err != nil || len(entries) != stored {
		t.Errorf("%d entries of %d acknowledged: %v", len(entries), stored, err)
	}
	last, err := s.Read(ctx).LastSeq()
	if err != nil || last != int64(stored) {
		t.Errorf("a refused act leaves no trace: seq %d after %d", last, stored)
	}
}

func TestEveryQueryIsNamed(t *testing.T) {
	if len(queries) < 15 {
		t.Fatalf("%d queries read", len(queries))
	}
	for name, q := range queries {
		if !strings.HasSuffix(strings.TrimSpace(q), ";") {
			t.Errorf("%s: %s", name, q)
		}
	}
}
