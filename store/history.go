package store

import (
	"database/sql"
	"encoding/json"
	"errors"

	"tingate/core/drivefile"
)

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
