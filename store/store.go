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
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"

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
	folder      string
	lock        *os.File
	write, read *sql.DB
	mu          sync.Mutex
}

// Open opens or makes a data folder, locks it, and brings its schema up to date.
func Open(folder string) (*Store, error) {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return nil, fmt.Errorf("data folder %s: %w", folder, plain(err))
	}
	lock, err := os.OpenFile(filepath.Join(folder, "lock"), os.O_CREATE|os.O_RDWR, 0o644)
	if err != nil {
		return nil, fmt.Errorf("data folder %s cannot be written: %w", folder, plain(err))
	}
	if err := syscall.Flock(int(lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		addr, _ := os.ReadFile(filepath.Join(folder, "lock"))
		lock.Close()
		return nil, &LockedError{folder, strings.TrimSpace(string(addr))}
	}
	_ = lock.Truncate(0) // a stale address would only mislead
	s := &Store{folder: folder, lock: lock}
	if err := s.open(); err != nil {
		s.Close()
		return nil, fmt.Errorf("data folder %s: %w", folder, Explain(err))
	}
	return s, nil
}

func (s *Store) open() error {
	path := (&url.URL{Scheme: "file", Path: filepath.ToSlash(mustAbs(filepath.Join(s.folder, "tingate.sqlite")))}).String()
	common := "?_busy_timeout=5000&_foreign_keys=1&_synchronous=FULL&_dqs=0"
	w, err := sql.Open("sqlite", path+common+"&_journal_mode=WAL&_txlock=immediate")
	if err != nil {
		return err
	}
	s.write = w
	w.SetMaxOpenConns(1)
	sub, _ := fs.Sub(migrations, "migrations")
	p, err := goose.NewProvider(goose.DialectSQLite3, w, sub)
	if err != nil {
		return err
	}
	if _, err := p.Up(context.Background()); err != nil {
		return err
	}
	r, err := sql.Open("sqlite", path+common+"&mode=ro&_query_only=1")
	if err != nil {
		return err
	}
	r.SetMaxOpenConns(4)
	s.read = r
	return nil
}

func mustAbs(p string) string {
	if a, err := filepath.Abs(p); err == nil {
		return a
	}
	return p
}

// SetAddress notes where this process listens, for whoever finds the folder locked.
func (s *Store) SetAddress(addr string) {
	_ = s.lock.Truncate(0) // only a hint for a person
	_, _ = s.lock.WriteAt([]byte(addr+"\n"), 0)
}

// Close closes readers first, then the writer, and lets the folder go.
func (s *Store) Close() error {
	var errs []error
	if s.read != nil {
		errs = append(errs, s.read.Close())
	}
	if s.write != nil {
		errs = append(errs, s.write.Close())
	}
	_ = s.lock.Truncate(0)
	return errors.Join(append(errs, s.lock.Close())...)
}

// Kinds of file that people put into the data folder, each in a folder of its own.
const (
	FamilyFolder   = "families"
	PracticeFolder = "practices"
)

// Files reads the files of a kind that people put into the data folder, by file name.
func (s *Store) Files(kind string) (map[string][]byte, error) {
	paths, err := filepath.Glob(filepath.Join(s.folder, kind, "*.yaml"))
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	for _, p := range paths {
		raw, err := os.ReadFile(p)
		if err != nil {
			return out, fmt.Errorf("%s: %w", p, plain(err))
		}
		out[filepath.Base(p)] = raw
	}
	return out, nil
}

// KeepFile stores a file of a kind in the data folder, whole or not at all. One of the same bytes is left alone.
func (s *Store) KeepFile(kind, name string, raw []byte) error {
	dir := filepath.Join(s.folder, kind)
	path := filepath.Join(dir, name+".yaml")
	if have, err := os.ReadFile(path); err == nil && string(have) == string(raw) {
		return nil
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return &DiskError{"the data folder cannot be written: nothing of this was stored", err}
	}
	tmp := path + ".new"
	if err := os.WriteFile(tmp, raw, 0o644); err != nil {
		return &DiskError{"the data folder cannot be written: nothing of this was stored", err}
	}
	return os.Rename(tmp, path)
}

// Size is the bytes the database takes on disk, with its log.
func (s *Store) Size() int64 {
	var n int64
	for _, f := range []string{"tingate.sqlite", "tingate.sqlite-wal"} {
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
		return &DiskError{"the database file is damaged or is no database: put back a copy", err}
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

// querier is a reader's or a writer's connection.
type querier interface {
	QueryContext(ctx context.Context, q string, args ...any) (*sql.Rows, error)
	QueryRowContext(ctx context.Context, q string, args ...any) *sql.Row
}

// Reader reads; a Tx reads its own writes.
type Reader struct {
	ctx context.Context
	q   querier
}

// Tx is a write transaction.
type Tx struct {
	Reader
	tx *sql.Tx
}

// Read gives a reader.
func (s *Store) Read(ctx context.Context) Reader { return Reader{ctx, s.read} }

// Write runs f in one transaction. All of it is stored, durably, or nothing.
func (s *Store) Write(ctx context.Context, f func(*Tx) error) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	tx, err := s.write.BeginTx(ctx, nil)
	if err != nil {
		return Explain(err)
	}
	if err := f(&Tx{Reader{ctx, tx}, tx}); err != nil {
		_ = tx.Rollback() // the first error is the one to tell
		return Explain(err)
	}
	return Explain(tx.Commit())
}

func (t *Tx) exec(name string, args ...any) error {
	_, err := t.tx.ExecContext(t.ctx, queries[name], args...)
	return err
}

// NextSeq takes n numbers and returns the last.
func (t *Tx) NextSeq(n int) (last int64, err error) {
	err = t.q.QueryRowContext(t.ctx, queries["next_seq"], n).Scan(&last)
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
}

// Document finds a document; ErrNotFound when there is none.
func (r Reader) Document(id string) (d Document, err error) {
	err = r.q.QueryRowContext(r.ctx, queries["document"], id).Scan(&d.ID, &d.Kind, &d.Place, &d.Version, &d.Body)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return d, err
}

// Documents lists the documents of a kind, of one place or ("") of all.
func (r Reader) Documents(kind, place string) ([]Document, error) {
	return collect(r, "documents", func(rows *sql.Rows, d *Document) error {
		return rows.Scan(&d.ID, &d.Kind, &d.Place, &d.Version, &d.Body)
	}, kind, place, place)
}

func collect[T any](r Reader, name string, scan func(*sql.Rows, *T) error, args ...any) ([]T, error) {
	rows, err := r.q.QueryContext(r.ctx, queries[name], args...)
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
	return t.exec("add_change", c.Seq, c.ID, c.Doc, c.Version, c.By, c.Device, c.At, c.Edit, c.Undoes, c.Why, string(ops))
}

// Changes lists the changes of a document in order.
func (r Reader) Changes(doc string) ([]Change, error) { return collect(r, "changes", scanChange, doc) }

// RecentChanges lists the newest changes of a document, at most n, in order.
func (r Reader) RecentChanges(doc string, n int) ([]Change, error) {
	return collect(r, "recent_changes", scanChange, doc, n)
}

func scanChange(rows *sql.Rows, c *Change) error {
	var ops string
	if err := rows.Scan(&c.Seq, &c.ID, &c.Doc, &c.Version, &c.By, &c.Device, &c.At, &c.Edit, &c.Undoes, &c.Why, &ops); err != nil {
		return err
	}
	return json.Unmarshal([]byte(ops), &c.Ops)
}

// HasChange tells whether a change of this id is stored, and of which document.
func (r Reader) HasChange(id string) (doc string, ok bool, err error) {
	err = r.q.QueryRowContext(r.ctx, queries["change"], id).Scan(&doc)
	if errors.Is(err, sql.ErrNoRows) {
		return "", false, nil
	}
	return doc, err == nil, err
}

// AddEntry stores an entry with its seq.
func (t *Tx) AddEntry(e drivefile.Entry) error {
	return t.exec("add_entry", e.Seq, e.ID, e.Doc, e.Kind, e.By, e.Device, e.At, string(e.Body))
}

func scanEntry(rows interface{ Scan(...any) error }, e *drivefile.Entry) error {
	var body string
	err := rows.Scan(&e.Seq, &e.ID, &e.Doc, &e.Kind, &e.By, &e.Device, &e.At, &body)
	e.Body = json.RawMessage(body)
	return err
}

// Entries lists the entries of a document in order.
func (r Reader) Entries(doc string) ([]drivefile.Entry, error) {
	return collect(r, "entries", func(rows *sql.Rows, e *drivefile.Entry) error { return scanEntry(rows, e) }, doc)
}

// Entry finds one entry; ErrNotFound when there is none.
func (r Reader) Entry(id string) (e drivefile.Entry, err error) {
	err = scanEntry(r.q.QueryRowContext(r.ctx, queries["entry"], id), &e)
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
	err = r.q.QueryRowContext(r.ctx, queries["last_seq"]).Scan(&n)
	return n, err
}

// PutAttachment keeps bytes under their hash.
func (t *Tx) PutAttachment(sha, typ string, b []byte) error {
	return t.exec("put_attachment", sha, typ, b)
}

// Attachment finds bytes by their hash.
func (r Reader) Attachment(sha string) (typ string, b []byte, err error) {
	err = r.q.QueryRowContext(r.ctx, queries["attachment"], sha).Scan(&typ, &b)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return typ, b, err
}
