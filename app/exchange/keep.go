package exchange

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/store"
)

// store brings everything in, a few drives at a time, and shows it at the end.
func (b *bringing) store(ctx context.Context, who base.Actor, hash string) (err error) {
	a := b.app
	defer func() {
		if err != nil { // what was brought so far was seen by nobody
			err = errors.Join(err, a.Store.Write(context.WithoutCancel(ctx), func(tx *store.Tx) error { return tx.ForgetComing() }))
		}
	}()
	// The place's numbers come before its drives', as they did when it was made.
	if err := a.Store.Write(ctx, func(tx *store.Tx) (err error) { b.base, err = numbersFor(tx, b.place); return err }); err != nil {
		return err
	}
	for at := 0; at < len(b.drives); at += importAtOnce {
		err := a.Store.Write(ctx, func(tx *store.Tx) error {
			for _, n := range b.drives[at:min(at+importAtOnce, len(b.drives))] {
				if err := b.drive(tx, n); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	for _, raw := range b.families {
		if err := a.library.KeepFamily(raw, false); err != nil {
			return err
		}
	}
	for _, raw := range b.practices {
		if err := a.library.KeepPractice(raw); err != nil {
			return err
		}
	}
	came := drivefile.CameIn{What: "bundle", Name: b.res.Place, Hash: hash, New: most(b.res.New), Same: most(b.res.Unchanged),
		Different: most(b.res.Different), Missing: b.lost}
	return a.InTx(ctx, func(tx *store.Tx) error {
		if !b.placeHere {
			if err := putWhole(tx, b.place, b.base, drivefile.KindPlace, tx.PutDocument); err != nil {
				return err
			}
		}
		if err := tx.AllCame(); err != nil {
			return err
		}
		p, err := drivefile.DecodePlace(b.place.Document)
		if err != nil {
			return err
		}
		return a.AddEntry(tx, base.BroughtBy(p, who), b.place.ID, base.NewID(), drivefile.EntryCameIn, came)
	})
}

// most keeps a list that stands in an entry short.
func most(l []string) []string {
	const n = 500
	if len(l) > n {
		return append(slices.Clone(l[:n]), fmt.Sprintf("and %d more", len(l)-n))
	}
	return l
}

// drive stores one new drive, not to be seen yet, with the kept files it needs.
func (b *bringing) drive(tx *store.Tx, name string) error {
	d, err := b.unpack(name, drivefile.KindDrive)
	if err != nil {
		return err
	}
	for _, at := range attachmentsOf(d.Entries) {
		sha := at.SHA256
		if !b.shas[sha] {
			continue
		}
		raw, err := b.in.Read("attachments/" + sha)
		if err != nil {
			return base.Refuse(err.Error())
		}
		if err := b.app.KeepAttachment(tx, sha, raw); err != nil {
			return err
		}
		delete(b.shas, sha)
	}
	base, err := numbersFor(tx, d)
	if err != nil {
		return err
	}
	return putWhole(tx, d, base, drivefile.KindDrive, tx.PutComing)
}

// numbersFor takes as many numbers as a document's history needs, and gives the one before the first.
func numbersFor(tx *store.Tx, p packed) (base int64, err error) {
	n := len(p.Changes) + len(p.Entries)
	last, err := tx.NextSeq(n)
	return last - int64(n), err
}

// putWhole stores a document with its history, under new numbers from base on, in the same order.
func putWhole(tx *store.Tx, p packed, base int64, kind string, put func(store.Document) error) (err error) {
	if err := put(store.Document{ID: p.ID, Kind: kind, Place: p.Place, Version: p.Version, Body: p.Document}); err != nil {
		return err
	}
	for _, c := range p.Changes {
		c.Seq, c.Doc = base+int64(c.N), p.ID
		if err := tx.AddChange(c); err != nil {
			return err
		}
	}
	for _, e := range p.Entries {
		e.Seq, e.Doc = base+int64(e.N), p.ID
		if e.Body, err = json.Marshal(e.Body); err != nil { // compact, as it was written first
			return err
		}
		if err := tx.AddEntry(e); err != nil {
			return err
		}
	}
	return nil
}

// unpack reads and checks one document with its history: the document must follow from its changes, and everything must be as this program
// writes it.
func (b *bringing) unpack(file, kind string) (packed, error) {
	var p packed
	raw, err := b.in.Read(file)
	if err != nil {
		return p, base.Refuse(err.Error())
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&p); err != nil {
		return p, base.Bad(file, err.Error(), "a document of docs/formats/bundle.md")
	}
	name := called(p)
	switch {
	case !drivefile.ValidID(p.ID):
		return p, base.Bad(name+" id", p.ID, "a UUID in lower case")
	case kind == drivefile.KindDrive && file != "drives/"+p.ID+".json":
		return p, base.Bad(name+" id", p.ID, "the id in the file's name")
	case kind == drivefile.KindPlace && p.Place != p.ID:
		return p, base.Bad(file+" place", p.Place, "its own id")
	case p.Version < 1 || p.Version > 1<<40:
		return p, base.Bad(name+" version", fmt.Sprint(p.Version), "1 or more")
	}
	if err := drivefile.ValidateDocument(kind, p.Document); err != nil {
		return p, named(name, err)
	}
	for _, e := range p.Entries {
		if err := drivefile.ValidateEntry(e); err != nil {
			return p, named(name, err)
		}
		if drivefile.OfThisFolder(e.Kind) {
			return p, base.Bad(fmt.Sprintf("%s entry %d", name, e.N), "kind "+e.Kind, "an entry that travels")
		}
	}
	if err := followsFrom(p); err != nil {
		return p, named(name, err)
	}
	if !inOrder(p) {
		return p, base.Bad(name+" n", "numbers out of order", "every change and entry numbered in the order in which it happened")
	}
	var doc any
	if err := json.Unmarshal(p.Document, &doc); err != nil {
		return p, err
	}
	p.Document, err = json.Marshal(doc) // keys sorted, as it is stored
	return p, err
}
