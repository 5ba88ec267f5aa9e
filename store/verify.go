package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"reflect"

	"tingate/core/drivefile"
)

// Verified says what was looked at when a folder was found sound.
type Verified struct {
	Documents, Changes, Entries, Attachments int
}

// Verify looks at everything in a data folder, while a server runs or not, and names the first thing that is damaged: the file itself by
// SQLite's integrity check, each row by its checksum, attachments by their hash, each document by the changes that made it, and what is
// referred to by being there. It changes nothing.
func Verify(ctx context.Context, folder string) (v Verified, err error) {
	path := filepath.Join(folder, databaseName)
	st, err := os.Stat(path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return v, fmt.Errorf("%s: there is no database here", folder)
	case err != nil:
		return v, fmt.Errorf("%s: %w", path, plain(err))
	case st.Size() == 0:
		return v, &DiskError{"the database file is empty (0 bytes)", errors.New(path)}
	}
	db, err := sql.Open("sqlite", address(path, common+"&mode=ro"))
	if err != nil {
		return v, err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	if err := whole(ctx, db, "integrity_check"); err != nil {
		return v, Explain(err)
	}
	tx, err := db.BeginTx(ctx, &sql.TxOptions{ReadOnly: true}) // one state, whatever is written meanwhile
	if err != nil {
		return v, Explain(err)
	}
	defer func() { _ = tx.Rollback() }() // nothing was written
	r := Reader{ctx: ctx, on: on{q: tx}} // nothing from memory
	for _, look := range []func(Reader, *Verified) error{tablesThere, rowsSound, attachmentsSound, documentsFollow, referredThere} {
		if err := look(r, &v); err != nil {
			return v, Explain(err)
		}
	}
	return v, nil
}

// tablesThere wants this version's schema: a flipped bit in it could hide a table.
func tablesThere(r Reader, _ *Verified) error {
	for _, t := range []string{"counter", "document", "change", "entry", "attachment", "glance", "coming", "simulated"} {
		var n int
		if err := r.q.QueryRowContext(r.ctx, "SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name = ?",
			t).Scan(&n); err != nil {
			return err
		}
		if n != 1 {
			return &DamagedError{"table", t}
		}
	}
	var last, used int64
	if err := r.q.QueryRowContext(r.ctx,
		"SELECT (SELECT n FROM counter WHERE name = 'seq'), max((SELECT coalesce(max(seq), 0) FROM change), (SELECT coalesce(max(seq), "+
			"0) FROM entry))").Scan(&last, &used); err != nil {
		return &DamagedError{"the counter", "seq"}
	}
	if last < used {
		return &DamagedError{"the counter", fmt.Sprintf("at %d, with number %d used,", last, used)}
	}
	return nil
}

// rowsSound holds every row against its checksum.
func rowsSound(r Reader, v *Verified) error {
	for _, t := range []struct {
		name, id, columns string
		n                 *int
	}{
		{"document", "id", "id, kind, place, version, body", &v.Documents},
		{"change", "id", "seq, id, doc, version, person, device, at, edit, undoes, why, ops, initials, name, typed, clock", &v.Changes},
		{"entry", "id", "seq, id, doc, kind, person, device, at, body, initials, name, clock", &v.Entries},
		{"attachment", "sha256", "sha256, type, bytes", &v.Attachments},
		{"glance", "drive", "drive, place, tag, machine, location, archived, marks, next, next_detail, next_gate, worst, worst_title, " +
			"about, search, drive_version, place_version, rules, stale_after", nil},
	} {
		var id string
		err := r.q.QueryRowContext(r.ctx, "SELECT "+t.id+" FROM "+t.name+" WHERE sum IS NOT row_sum("+t.columns+") LIMIT 1").Scan(&id)
		if err == nil {
			return &DamagedError{t.name, id}
		}
		if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if t.n != nil {
			if err := r.q.QueryRowContext(r.ctx, "SELECT count(*) FROM "+t.name).Scan(t.n); err != nil {
				return err
			}
		}
	}
	return nil
}

// attachmentsSound holds kept files against the hash that is their name.
func attachmentsSound(r Reader, _ *Verified) error {
	rows, err := r.q.QueryContext(r.ctx, "SELECT sha256, bytes FROM attachment")
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var sha string
		var b []byte
		if err := rows.Scan(&sha, &b); err != nil {
			return err
		}
		if sum := sha256.Sum256(b); hex.EncodeToString(sum[:]) != sha {
			return &DamagedError{"kept file", sha}
		}
	}
	return rows.Err()
}

// documentsFollow makes every document anew from its changes: a change that is missing, or one too many, shows.
func documentsFollow(r Reader, _ *Verified) error {
	for _, kind := range []string{drivefile.KindPlace, drivefile.KindDrive} {
		docs, err := r.Documents(kind, "")
		if err != nil {
			return err
		}
		for _, d := range docs {
			changes, err := r.Changes(d.ID)
			if err != nil {
				return err
			}
			made := drivefile.Body{}
			for _, c := range changes {
				if err := made.Apply(c.Ops); err != nil {
					return &DamagedError{"change", c.ID}
				}
			}
			var is map[string]any
			if err := json.Unmarshal(d.Body, &is); err != nil || !reflect.DeepEqual(map[string]any(made), is) {
				return &DamagedError{"document", d.ID + ", which does not follow from its changes,"}
			}
		}
	}
	return nil
}

// referredThere wants the place of every drive, the document of every entry and the bytes of every attachment, but for those that were lost
// already where they came from.
func referredThere(r Reader, _ *Verified) error {
	for what, q := range map[string]string{
		"the place of a drive": "SELECT id FROM document d WHERE kind = 'drive' AND place NOT IN (SELECT id FROM document WHERE " +
			"kind = 'place') LIMIT 1",
		"the document of an entry": "SELECT id FROM entry WHERE doc NOT IN (SELECT id FROM document UNION SELECT id FROM coming) LIMIT 1",
		"the document of a change": "SELECT id FROM change WHERE doc NOT IN (SELECT id FROM document UNION SELECT id FROM coming) LIMIT 1",
		"the kept file of an entry": "SELECT id FROM entry WHERE kind = 'attachment' AND json_extract(body, '$.sha256') NOT IN (SELECT " +
			"sha256 FROM attachment UNION SELECT m.value FROM entry c, json_each(c.body, '$.missing') m WHERE c.kind = 'came-in') LIMIT 1",
	} {
		var id string
		err := r.q.QueryRowContext(r.ctx, q).Scan(&id)
		if err == nil {
			return &DamagedError{what, id}
		}
		if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
	}
	return nil
}
