package store

import (
	"database/sql"
	"encoding/json"
	"errors"

	"tingate/core/drivefile"
)

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

// FamilyDrive is a drive with the family that it was given.
type FamilyDrive struct{ ID, Tag, Family string }

// DrivesByFamily lists the drives of a place that have a family and are in use, by family and tag.
func (r Reader) DrivesByFamily(place string) ([]FamilyDrive, error) {
	return collect(r, "drives_by_family", func(rows *sql.Rows, d *FamilyDrive) error { return rows.Scan(&d.ID, &d.Tag, &d.Family) }, place)
}

// ShownRow is a setting that a drive has shown, and the tag of one that did.
type ShownRow struct{ Code, Tag string }

// ShownRows lists the settings of a version of a family that drives beside one have shown, in real places: read at the keypad or over a
// link, or read back where they were written.
func (r Reader) ShownRows(family, version, but string) ([]ShownRow, error) {
	return collect(r, "shown_rows", func(rows *sql.Rows, s *ShownRow) error { return rows.Scan(&s.Code, &s.Tag) }, but, family, version)
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
