// Package store keeps documents, changes, entries and attachments in one SQLite file.
package store

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"

	"github.com/pressly/goose/v3"
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

// LockedError says that another process has the data folder, and where it listens.
type LockedError struct{ Folder, Address string }

func (e *LockedError) Error() string {
	where := "another Tin Gate process"
	if e.Address != "" {
		where = "a Tin Gate server at " + e.Address
	}
	return fmt.Sprintf("the data folder %s is in use by %s; stop it first, or use its address", e.Folder, where)
}

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
		shelves: shelves{newShelf(func(e drivefile.Entry) int64 { return e.Seq }), newShelf(func(c Change) int64 { return c.Seq })}}
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

// Document is a stored document.
type Document struct {
	ID, Kind, Place string
	Version         int64
	Body            []byte
}

// Change is one edit of a document.
type Change struct {
	Seq     int64          `json:"-"`
	N       int            `json:"n,omitempty"` // place among the changes and entries of the document, in a bundle
	ID      string         `json:"id"`
	Doc     string         `json:"doc"`
	Version int64          `json:"version"`
	By      string         `json:"by"`
	Device  string         `json:"device,omitempty"`
	At      string         `json:"at"`
	Edit    string         `json:"edit"`
	Undoes  string         `json:"undoes,omitempty"`
	Why     string         `json:"why,omitempty"`
	Ops     []drivefile.Op `json:"ops"`
	// Who it was, as written when it was done; when it was typed, where that was earlier; and what was done to the clock.
	Initials string `json:"initials,omitempty"`
	Name     string `json:"name,omitempty"`
	Typed    string `json:"typed,omitempty"`
	Clock    string `json:"clock,omitempty"`
}

// Document finds a document; ErrNotFound when there is none.
func (r Reader) Document(id string) (d Document, err error) {
	var ok bool
	err = r.row(r.ctx, "document", id).Scan(&d.ID, &d.Kind, &d.Place, &d.Version, &d.Body, &ok)
	if errors.Is(err, sql.ErrNoRows) {
		return d, ErrNotFound
	}
	if err == nil {
		err = sound(ok, "document", id)
	}
	return d, err
}

// Documents lists the documents of a kind, of one place or ("") of all.
func (r Reader) Documents(kind, place string) ([]Document, error) {
	return collect(r, "documents", func(rows *sql.Rows, d *Document) error {
		var ok bool
		if err := rows.Scan(&d.ID, &d.Kind, &d.Place, &d.Version, &d.Body, &ok); err != nil {
			return err
		}
		return sound(ok, "document", d.ID)
	}, kind, place, place)
}

// DocumentIDs lists the documents of a kind at a place, by id.
func (r Reader) DocumentIDs(kind, place string) ([]string, error) {
	return collect(r, "document_ids", func(rows *sql.Rows, id *string) error { return rows.Scan(id) }, kind, place)
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

// PutDocument stores a document's new version.
func (t *Tx) PutDocument(d Document) error {
	return t.exec("put_document", d.ID, d.Kind, d.Place, d.Version, string(d.Body))
}

// AddChange stores a change with its seq.
func (t *Tx) AddChange(c Change) error {
	ops, err := json.Marshal(c.Ops)
	if err != nil {
		return err
	}
	return t.exec("add_change", c.Seq, c.ID, c.Doc, c.Version, c.By, c.Device, c.At, c.Edit, c.Undoes, c.Why, string(ops), c.Initials,
		c.Name, c.Typed, c.Clock)
}

// Changes lists the changes of a document in order.
func (r Reader) Changes(doc string) ([]Change, error) {
	return history(r, r.changes, "changes", doc, func(after, upTo int64) ([]Change, error) {
		return collect(r, "changes", scanChange, doc, after, upTo)
	})
}

// RecentChanges lists the newest changes of a document, at most n, in order.
func (r Reader) RecentChanges(doc string, n int) ([]Change, error) {
	all, err := r.Changes(doc)
	return all[max(0, len(all)-n):], err
}

func scanChange(rows *sql.Rows, c *Change) error {
	var ops string
	var ok bool
	if err := rows.Scan(&c.Seq, &c.ID, &c.Doc, &c.Version, &c.By, &c.Device, &c.At, &c.Edit, &c.Undoes, &c.Why, &ops, &c.Initials, &c.Name,
		&c.Typed, &c.Clock, &ok); err != nil {
		return err
	}
	if err := sound(ok, "change", c.ID); err != nil {
		return err
	}
	return json.Unmarshal([]byte(ops), &c.Ops)
}

// Change finds the change of an id; ErrNotFound when there is none.
func (r Reader) Change(id string) (Change, error) {
	l, err := collect(r, "change", scanChange, id)
	if err == nil && len(l) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Change{}, err
	}
	return l[0], nil
}

// AddEntry stores an entry with its seq.
func (t *Tx) AddEntry(e drivefile.Entry) error {
	return t.exec("add_entry", e.Seq, e.ID, e.Doc, e.Kind, e.By, e.Device, e.At, string(e.Body), e.Initials, e.Name, e.Clock)
}

func scanEntry(rows interface{ Scan(...any) error }, e *drivefile.Entry) error {
	var body string
	var ok bool
	if err := rows.Scan(&e.Seq, &e.ID, &e.Doc, &e.Kind, &e.By, &e.Device, &e.At, &body, &e.Initials, &e.Name, &e.Clock, &ok); err != nil {
		return err
	}
	e.Body = json.RawMessage(body)
	return sound(ok, "entry", e.ID)
}

// Entries lists the entries of a document in order.
func (r Reader) Entries(doc string) ([]drivefile.Entry, error) {
	return history(r, r.entries, "entries", doc, func(after, upTo int64) ([]drivefile.Entry, error) {
		return collect(r, "entries", func(rows *sql.Rows, e *drivefile.Entry) error {
			err := scanEntry(rows, e)
			*e = e.Open()
			return err
		}, doc, after, upTo)
	})
}

// Entry finds one entry; ErrNotFound when there is none.
func (r Reader) Entry(id string) (e drivefile.Entry, err error) {
	err = scanEntry(r.row(r.ctx, "entry", id), &e)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return e, err
}

// Mark is a document that changed at a seq.
type Mark struct {
	Seq int64
	Doc string
}

// Since lists what changed after a seq, at most 1000.
func (r Reader) Since(seq int64) ([]Mark, error) {
	return collect(r, "since", func(rows *sql.Rows, m *Mark) error { return rows.Scan(&m.Seq, &m.Doc) }, seq, seq)
}

// LastSeq is the newest number given out.
func (r Reader) LastSeq() (n int64, err error) {
	err = r.row(r.ctx, "last_seq").Scan(&n)
	return n, err
}

// NewestRecord is when the newest change or entry was made, as it says itself; empty: there is none.
func (r Reader) NewestRecord() (at string, err error) {
	err = r.row(r.ctx, "newest_record").Scan(&at)
	return at, err
}

// LastOf is the number of the newest change or entry of a document.
func (r Reader) LastOf(doc string) (n int64, err error) {
	err = r.row(r.ctx, "last_of", doc, doc).Scan(&n)
	return n, err
}

// PutAttachment keeps bytes under their hash.
func (t *Tx) PutAttachment(sha, typ string, b []byte) error {
	return t.exec("put_attachment", sha, typ, b)
}

// Attachment finds bytes by their hash.
func (r Reader) Attachment(sha string) (typ string, b []byte, err error) {
	var ok bool
	err = r.row(r.ctx, "attachment", sha).Scan(&typ, &b, &ok)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil, ErrNotFound
	}
	if err == nil {
		err = sound(ok, "kept file", sha)
	}
	return typ, b, err
}

// HasAttachment tells whether bytes of a hash are kept, and how many.
func (r Reader) HasAttachment(sha string) (size int64, ok bool, err error) {
	err = r.row(r.ctx, "has_attachment", sha).Scan(&size)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, false, nil
	}
	return size, err == nil, err
}

// PutComing keeps a document of an import that has not ended: it is seen by nobody, its changes and entries stand ready.
func (t *Tx) PutComing(d Document) error {
	return t.exec("put_coming", d.ID, d.Kind, d.Place, d.Version, string(d.Body))
}

// AllCame makes the documents of an import that has ended those of the folder, all at once.
func (t *Tx) AllCame() error {
	return errors.Join(t.exec("all_came"), t.exec("forget_coming"))
}

// ForgetComing takes away what an import brought that did not end.
func (t *Tx) ForgetComing() error {
	t.entries.empty()
	t.changes.empty()
	return errors.Join(t.exec("forget_changes"), t.exec("forget_entries"), t.exec("forget_coming"))
}
