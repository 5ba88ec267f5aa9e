package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"testing"

	"tingate/core/drivefile"
)

func histories(t *testing.T, r Reader, doc string, want ...string) {
	t.Helper()
	l, err := r.Entries(doc)
	if err != nil {
		t.Fatal(err)
	}
	var is []string
	for _, e := range l {
		b, ok := drivefile.Contents[drivefile.Evidence](e)
		if !ok || e.Doc != doc {
			t.Fatalf("entry %s of %s: %s", e.ID, e.Doc, e.Body)
		}
		is = append(is, b.Value)
	}
	if fmt.Sprint(is) != fmt.Sprint(want) {
		t.Errorf("%s: %v, want %v", doc, is, want)
	}
}

// add stores an entry of a document.
func add(tx *Tx, doc, value string) error {
	n, err := tx.NextSeq(1)
	if err != nil {
		return err
	}
	raw, err := json.Marshal(drivefile.Evidence{Key: "k", Value: value})
	return errors.Join(err, tx.AddEntry(drivefile.Entry{ID: fmt.Sprint("e", n), Seq: n, Doc: doc, Kind: drivefile.EntryEvidence, By: "me",
		At: "2026-11-25T10:00:00.000Z", Body: raw}))
}

// What is kept in memory of a history is never more than a reader may see, and never less: not what a transaction took back, not what came
// after a snapshot began, and all that came since.
func TestAHistoryInMemoryIsTheDatabases(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	ctx := context.Background()
	write := func(f func(tx *Tx) error) {
		t.Helper()
		if err := s.Write(ctx, f); err != nil {
			t.Fatal(err)
		}
	}
	write(func(tx *Tx) error { return errors.Join(add(tx, "a", "1"), add(tx, "b", "x"), add(tx, "a", "2")) })
	histories(t, s.Read(ctx), "a", "1", "2")
	back := errors.New("taken back")
	if err := s.Write(ctx, func(tx *Tx) error {
		if err := add(tx, "a", "never"); err != nil {
			return err
		}
		histories(t, tx.Reader, "a", "1", "2", "never")
		return back
	}); !errors.Is(err, back) {
		t.Fatal(err)
	}
	histories(t, s.Read(ctx), "a", "1", "2")
	if err := s.Snapshot(ctx, func(old Reader) error {
		histories(t, old, "b", "x")
		write(func(tx *Tx) error { return errors.Join(add(tx, "a", "3"), add(tx, "b", "y")) })
		histories(t, s.Read(ctx), "a", "1", "2", "3")
		histories(t, s.Read(ctx), "b", "x", "y")
		histories(t, old, "a", "1", "2")
		histories(t, old, "b", "x")
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	histories(t, s.Read(ctx), "a", "1", "2", "3")
	histories(t, s.Read(ctx), "none")

	// The list is the caller's.
	l, err := s.Read(ctx).Entries("a")
	if err != nil {
		t.Fatal(err)
	}
	l[0], l[1] = l[1], l[2]
	histories(t, s.Read(ctx), "a", "1", "2", "3")

	// An import that did not end, and came again: the same document under other numbers.
	write(func(tx *Tx) error {
		return errors.Join(tx.PutComing(Document{ID: "c", Kind: drivefile.KindDrive, Place: "p", Version: 1, Body: []byte("{}")}),
			add(tx, "c", "first"))
	})
	histories(t, s.Read(ctx), "c", "first")
	write(func(tx *Tx) error { return tx.ForgetComing() })
	histories(t, s.Read(ctx), "c")
	write(func(tx *Tx) error { return add(tx, "c", "again") })
	histories(t, s.Read(ctx), "c", "again")
}

// A row that was flipped on disk before it was read is told, however much of its history is in memory.
func TestAFlippedRowBesideThoseInMemory(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	ctx := context.Background()
	one := func(tx *Tx) error { return add(tx, "a", "1") }
	if err := s.Write(ctx, one); err != nil {
		t.Fatal(err)
	}
	histories(t, s.Read(ctx), "a", "1")
	if err := s.Write(ctx, one); err != nil {
		t.Fatal(err)
	}
	if _, err := s.write.Exec(`UPDATE entry SET body = '{"key":"k","value":"7"}' WHERE id = 'e2'`); err != nil {
		t.Fatal(err)
	}
	var damaged *DamagedError
	if _, err := s.Read(ctx).Entries("a"); !errors.As(err, &damaged) || damaged.ID != "e2" {
		t.Errorf("a flipped row: %v", err)
	}
}

// More than a shelf holds is put away, and read again.
func TestAShelfHoldsSoMuch(t *testing.T) {
	const each = 4096 // bytes
	s := newShelf(func(n int64) int64 { return n }, func(int64) int { return each })
	rows := make([]int64, mostShelved/each/2+1)
	for i := range rows {
		rows[i] = int64(i + 1)
	}
	s.put("a", rows)
	s.put("b", rows)
	if s.all != each*len(rows) || len(s.of) != 1 || len(s.upTo("b", 10, 10)) != 10 || s.upTo("a", 10, 10) != nil {
		t.Errorf("%d bytes of %d documents", s.all, len(s.of))
	}
	if s.put("c", make([]int64, 2*len(rows))); s.of["c"] != nil || len(s.of["b"]) == 0 {
		t.Error("one that is larger than all of it is kept, or the others went for it")
	}
	s.put("b", rows[:5]) // an older look
	if got := s.upTo("b", int64(len(rows)), len(rows)); len(got) != len(rows) {
		t.Errorf("%d rows after an older look", len(got))
	}
	if s.upTo("b", 10, 9) != nil {
		t.Error("more rows than the database has were given out")
	}
}
