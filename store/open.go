package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"github.com/pressly/goose/v3"

	"tingate/core/drivefile"
)

// LockedError says that another process has the data folder, and where it listens.
type LockedError struct{ Folder, Address string }

func (e *LockedError) Error() string {
	where := "another Tin Gate process"
	if e.Address != "" {
		where = "a Tin Gate server at " + e.Address
	}
	return fmt.Sprintf("the data folder %s is in use by %s; stop it first, or use its address", e.Folder, where)
}

// databaseName is the database's file in a data folder.
const databaseName = "tingate.sqlite"

// Open opens or makes a data folder, locks it, looks whether its database is whole, and brings its schema up to date. What it makes is
// private to the user.
func Open(folder string) (*Store, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("data folder %s: %w", folder, plain(err))
	}
	lock, err := os.OpenFile(filepath.Join(folder, lockName), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, fmt.Errorf("data folder %s cannot be written: %w", folder, plain(err))
	}
	if err := tryLock(lock); err != nil {
		addr, _ := os.ReadFile(filepath.Join(folder, lockName))
		lock.Close()
		return nil, &LockedError{folder, strings.TrimSpace(string(addr))}
	}
	_ = lock.Truncate(0) // a stale address would only mislead
	s := &Store{folder: folder, lock: lock,
		shelves: shelves{newShelf(func(e drivefile.Entry) int64 { return e.Seq },
			func(e drivefile.Entry) int { return rowBytes + len(e.Body) }),
			newShelf(func(c Change) int64 { return c.Seq }, Change.bytes)}}
	if err := s.open(); err != nil {
		s.Close()
		return nil, fmt.Errorf("data folder %s: %w", folder, Explain(err))
	}
	return s, nil
}

// address is the database's, as SQLite takes it.
func address(path, options string) string {
	return (&url.URL{Scheme: "file", Path: filepath.ToSlash(mustAbs(path))}).String() + options
}

const common = "?_busy_timeout=5000&_foreign_keys=1&_synchronous=FULL&_dqs=0"

func (s *Store) open() error {
	path := filepath.Join(s.folder, databaseName)
	began, err := s.begin(path)
	if err != nil {
		return err
	}
	w, err := sql.Open("sqlite", address(path, common+"&_journal_mode=WAL&_txlock=immediate"))
	if err != nil {
		return err
	}
	s.write = w
	w.SetMaxOpenConns(1)
	large := s.Size() > largeDatabase
	if !began && !large {
		if err := whole(context.Background(), w, "quick_check"); err != nil {
			return err
		}
	}
	sub, _ := fs.Sub(migrations, "migrations")
	p, err := goose.NewProvider(goose.DialectSQLite3, w, sub)
	if err != nil {
		return err
	}
	if _, err := p.Up(context.Background()); err != nil {
		return err
	}
	if began {
		if err := s.mark(w); err != nil {
			return err
		}
	}
	if err := s.clear(w, large); err != nil {
		return err
	}
	for _, f := range []string{databaseName, databaseName + "-wal", databaseName + "-shm"} {
		_ = os.Chmod(filepath.Join(s.folder, f), 0o600) // made by an earlier version, or not there
	}
	r, err := sql.Open("sqlite", address(path, common+"&mode=ro&_query_only=1"))
	if err != nil {
		return err
	}
	r.SetMaxOpenConns(4)
	r.SetMaxIdleConns(4)
	s.read = r
	if s.writes, err = prepare(w); err != nil {
		return err
	}
	if s.reads, err = prepare(r); err != nil {
		return err
	}
	if err := w.QueryRow("SELECT count(*) > 0 FROM simulated").Scan(&s.simulated); err != nil {
		return err
	}
	if large {
		s.checkBeside()
	}
	return s.kept.look(s.folder)
}

// Simulated tells whether the folder was made for simulation.
func (s *Store) Simulated() bool { return s.simulated }

// NotSimulatedError says that a folder is not one for simulation, and cannot become one.
type NotSimulatedError struct{ Folder string }

func (e *NotSimulatedError) Error() string {
	return fmt.Sprintf("the data folder %s holds a real place, or was not made for simulation: it never becomes one. Start on another "+
		"folder", e.Folder)
}

// Simulate marks a folder as one for simulation. One that holds a real place is refused.
func (s *Store) Simulate() error {
	if s.simulated {
		return nil
	}
	var real bool
	if err := s.write.QueryRow("SELECT count(*) > 0 FROM document WHERE kind = 'place' AND coalesce(json_extract(body, '$.kind'), "+
		"iif(json_extract(body, '$.name') = ?, 'simulated', 'real')) <> 'simulated'", drivefile.DemoPlant).Scan(&real); err != nil {
		return Explain(err)
	}
	if real {
		return &NotSimulatedError{s.folder}
	}
	if _, err := s.write.Exec("INSERT INTO simulated VALUES (datetime('now'))"); err != nil {
		return Explain(err)
	}
	s.simulated = true
	return nil
}

// largeDatabase is the size, in bytes, above which a database is looked through beside the work, not before it: seconds are long for
// whoever waits.
const largeDatabase = 64 << 20

// checkBeside looks a large database through while it serves; rows are held against their checksums as they are read meanwhile. When it is
// damaged, it is said in the log and at the next write, and nothing more is stored.
func (s *Store) checkBeside() {
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan struct{})
	s.checking = func() { stop(); <-done }
	go func() {
		defer close(done)
		err := whole(ctx, s.read, "quick_check")
		if err == nil {
			err = s.Write(ctx, func(tx *Tx) error { return tx.exec("drop_damaged_glances") })
		}
		if err != nil && ctx.Err() == nil {
			slog.Error("the database is damaged", "folder", s.folder, "error", Explain(err))
			s.kept.breakOff(Explain(err))
		}
	}()
}

// clear takes away what an import left that was ended in its middle, files and rows, and rows of the Yard that are not as they were
// written: they are made anew.
func (s *Store) clear(w *sql.DB, large bool) error {
	_ = os.RemoveAll(filepath.Join(s.folder, scratchFolder)) // what cannot be removed is only in the way
	ctx := context.Background()
	for _, q := range []string{"forget_changes", "forget_entries", "forget_coming", "drop_damaged_glances"} {
		if large && q == "drop_damaged_glances" {
			continue // beside the work
		}
		if _, err := w.ExecContext(ctx, queries[q]); err != nil {
			return err
		}
	}
	var last, used int64
	if err := w.QueryRowContext(ctx,
		"SELECT (SELECT n FROM counter WHERE name = 'seq'), max((SELECT coalesce(max(seq), 0) FROM change), (SELECT coalesce(max(seq), "+
			"0) FROM entry))").Scan(&last, &used); err != nil {
		return err
	}
	if last < used {
		return &DamagedError{"the counter", fmt.Sprintf("at %d, with number %d used,", last, used)}
	}
	return nil
}

// whole runs one of SQLite's own checks of a database.
func whole(ctx context.Context, db *sql.DB, check string) error {
	var says string
	if err := db.QueryRowContext(ctx, "PRAGMA "+check+"(1)").Scan(&says); err != nil {
		return err
	}
	if says != "ok" {
		return &DiskError{"the database file is damaged: put back a copy (tingate restore)", errors.New(says)}
	}
	return nil
}

func mustAbs(p string) string {
	if a, err := filepath.Abs(p); err == nil {
		return a
	}
	return p
}
