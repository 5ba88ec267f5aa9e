// Package store keeps documents, changes, entries and attachments in one SQLite file.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"sync"

	"modernc.org/sqlite"

	"tingate/core/drivefile"
)

//go:embed migrations/*.sql
var migrations embed.FS

//go:embed queries.sql
var queryFile string

var queries = func() map[string]string {
	out := map[string]string{}
	for _, m := range regexp.MustCompile(`(?s)-- name: (\w+)\n(.*?;)\n`).FindAllStringSubmatch(queryFile+"\n", -1) {
		out[m[1]] = m[2]
	}
	return out
}()

// ErrNotFound is returned when an id names nothing.
var ErrNotFound = errors.New("not found")

// Store is an open data folder.
type Store struct {
	folder        string
	lock          *os.File
	write, read   *sql.DB
	writes, reads prepared // of each
	mu            sync.Mutex
	kept          folderState
	checking      func() // ends the check of a large database that goes on beside the work
	simulated     bool   // the folder was made for simulation
	shelves
}

// shelves are the histories that were read, in memory.
type shelves struct {
	entries *shelf[drivefile.Entry]
	changes *shelf[Change]
}

// Folder is where it lies.
func (s *Store) Folder() string { return s.folder }

// SetAddress notes where this process listens, for whoever finds the folder locked.
func (s *Store) SetAddress(addr string) {
	_ = s.lock.Truncate(0) // only a hint for a person
	_, _ = s.lock.WriteAt([]byte(addr+"\n"), 0)
}

// Close closes readers first, then the writer, and lets the folder go.
func (s *Store) Close() error {
	var errs []error
	if s.checking != nil {
		s.checking()
	}
	if s.read != nil {
		errs = append(errs, s.read.Close())
	}
	if s.write != nil {
		errs = append(errs, s.write.Close())
	}
	_ = s.lock.Truncate(0)
	return errors.Join(append(errs, s.lock.Close())...)
}

// Size is the bytes the database takes on disk, with its log.
func (s *Store) Size() int64 {
	var n int64
	for _, f := range []string{databaseName, databaseName + "-wal"} {
		if st, err := os.Stat(filepath.Join(s.folder, f)); err == nil {
			n += st.Size()
		}
	}
	return n
}

// DiskError is a failure of the disk or folder, in words a person can act on. Nothing of the act was stored.
type DiskError struct {
	What string
	Err  error
}

func (e *DiskError) Error() string { return e.What + " (" + e.Err.Error() + ")" }
func (e *DiskError) Unwrap() error { return e.Err }

// Explain turns SQLite's disk errors into a *DiskError.
func Explain(err error) error {
	var se *sqlite.Error
	if !errors.As(err, &se) {
		return err
	}
	switch se.Code() & 0xff {
	case 13:
		return &DiskError{"the disk is full: nothing of this was stored; make room and try again", err}
	case 8, 14:
		return &DiskError{"the data folder cannot be written: nothing of this was stored", err}
	case 10:
		return &DiskError{"the disk failed: nothing of this was stored", err}
	case 11, 26:
		return &DiskError{"the database file is damaged or is no database: put back a copy (tingate restore)", err}
	}
	return err
}

func plain(err error) error {
	var pe *fs.PathError
	if errors.As(err, &pe) {
		return pe.Err
	}
	return err
}

// Reader reads; a Tx reads its own writes.
type Reader struct {
	ctx context.Context
	on
	writes bool // it sees what is not committed yet
	shelves
}

// Tx is a write transaction.
type Tx struct{ Reader }

// Read gives a reader.
func (s *Store) Read(ctx context.Context) Reader {
	return Reader{ctx, on{s.read, nil, s.reads}, false, s.shelves}
}

// Write runs f in one transaction. All of it is stored, durably, or nothing. A folder that is not the one that was opened any more takes
// nothing: what was written into it would be gone.
func (s *Store) Write(ctx context.Context, f func(*Tx) error) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if err := s.kept.look(s.folder); err != nil {
		return err
	}
	tx, err := s.write.BeginTx(ctx, nil)
	if err != nil {
		return Explain(err)
	}
	if err := s.inside(ctx, tx, f); err != nil {
		return Explain(err)
	}
	if err := tx.Commit(); err != nil {
		return Explain(err)
	}
	return s.kept.look(s.folder)
}

// inside runs f in a transaction, and takes it back when f fails or panics.
func (s *Store) inside(ctx context.Context, tx *sql.Tx, f func(*Tx) error) error {
	done := false
	defer func() {
		if !done {
			_ = tx.Rollback() // the first error is the one to tell
		}
	}()
	err := f(&Tx{Reader{ctx, on{tx, tx, s.writes}, true, s.shelves}})
	done = err == nil
	return err
}

// Snapshot runs f with a reader that sees one state of the database throughout: what was written while it reads is not seen in part.
func (s *Store) Snapshot(ctx context.Context, f func(Reader) error) error {
	tx, err := s.read.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return Explain(err)
	}
	defer func() { _ = tx.Rollback() }() // nothing was written
	return Explain(f(Reader{ctx, on{tx, tx, s.reads}, false, s.shelves}))
}

func (t *Tx) exec(name string, args ...any) error {
	_, err := t.statement(t.ctx, name).ExecContext(t.ctx, args...)
	return err
}

// NextSeq takes n numbers and returns the last.
func (t *Tx) NextSeq(n int) (last int64, err error) {
	err = t.row(t.ctx, "next_seq", n).Scan(&last)
	return last, err
}

func collect[T any](r Reader, name string, scan func(*sql.Rows, *T) error, args ...any) ([]T, error) {
	rows, err := r.rows(r.ctx, name, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []T
	for rows.Next() {
		var v T
		if err := scan(rows, &v); err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, rows.Err()
}
