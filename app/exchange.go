package app

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"reflect"
	"sort"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/formats/bundle"
	"tingate/formats/familyfile"
	"tingate/formats/practicefile"
	"tingate/store"
)

// packed is a document with its history, as a bundle holds it. Order is the order of the lists.
type packed struct {
	ID       string            `json:"id"`
	Place    string            `json:"place"`
	Version  int64             `json:"version"`
	Document json.RawMessage   `json:"document"`
	Changes  []store.Change    `json:"changes"`
	Entries  []drivefile.Entry `json:"entries"`
}

func pack(r store.Reader, d store.Document) (packed, []byte, error) {
	changes, err := r.Changes(d.ID)
	if err != nil {
		return packed{}, nil, err
	}
	entries, err := r.Entries(d.ID)
	if err != nil {
		return packed{}, nil, err
	}
	if entries == nil {
		entries = []drivefile.Entry{}
	}
	number(changes, entries)
	p := packed{d.ID, d.Place, d.Version, d.Body, changes, entries}
	// Through a tree, so that every key is sorted.
	raw, err := json.Marshal(p)
	if err != nil {
		return p, nil, err
	}
	var tree any
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	if err := dec.Decode(&tree); err != nil {
		return p, nil, err
	}
	raw, err = json.MarshalIndent(tree, "", " ")
	return p, append(raw, '\n'), err
}

// number says in what order changes and entries happened, from 1.
func number(changes []store.Change, entries []drivefile.Entry) {
	c, e := 0, 0
	for n := 1; n <= len(changes)+len(entries); n++ {
		if e == len(entries) || c < len(changes) && changes[c].Seq < entries[e].Seq {
			changes[c].N = n
			c++
		} else {
			entries[e].N = n
			e++
		}
	}
}

// inOrder checks that the numbers of a packed document are 1 to their count, each list rising.
func inOrder(p packed) bool {
	seen := map[int]bool{}
	last := 0
	for _, c := range p.Changes {
		if c.N <= last {
			return false
		}
		last = c.N
		seen[c.N] = true
	}
	last = 0
	for _, e := range p.Entries {
		if e.N <= last {
			return false
		}
		last = e.N
		seen[e.N] = true
	}
	total := len(p.Changes) + len(p.Entries)
	for n := 1; n <= total; n++ {
		if !seen[n] {
			return false
		}
	}
	return len(seen) == total
}

// Export packs a place with all its drives, or ("" for all) with one drive: documents, their whole history, entries,
// attachments and the families they need. The same content gives the same bytes.
func (a *App) Export(ctx context.Context, placeID, driveID string) ([]byte, error) {
	r := a.store.Read(ctx)
	place, err := r.Document(placeID)
	if err != nil {
		return nil, err
	}
	files := map[string][]byte{"schema/drive.json": drivefile.JSONSchema(drivefile.KindDrive), "schema/place.json": drivefile.JSONSchema(drivefile.KindPlace)}
	if _, files["place.json"], err = pack(r, place); err != nil {
		return nil, err
	}
	drives, err := r.Documents(drivefile.KindDrive, placeID)
	if err != nil {
		return nil, err
	}
	size := 0
	used := map[string]*dialect.Family{}
	pl, err := drivefile.DecodePlace(place.Body)
	if err != nil {
		return nil, err
	}
	a.packPractice(pl.Practice, files)
	for _, d := range drives {
		if driveID != "" && d.ID != driveID {
			continue
		}
		p, raw, err := pack(r, d)
		if err != nil {
			return nil, err
		}
		files["drives/"+d.ID+".json"] = raw
		size += len(raw)
		if err := attachmentsOf(r, p, files, &size); err != nil {
			return nil, err
		}
		doc, err := drivefile.DecodeDrive(d.Body)
		if err != nil {
			return nil, err
		}
		a.packPractice(doc.Practice, files)
		if f, _ := a.familyFor(doc.Rating); f != nil {
			used[f.Name+" "+f.Version] = f
		}
		if len(files) >= drivefile.MaxEntries || size > drivefile.MaxBundle {
			return nil, &RefusedError{fmt.Sprintf("This place is too large for one bundle (at most %d entries and %d MB): export its drives one by one.", drivefile.MaxEntries, drivefile.MaxBundle>>20)}
		}
	}
	a.packFamilies(used, files)
	return bundle.Pack(files)
}

// packPractice puts a practice that somebody added into a bundle; those that ship are everywhere.
func (a *App) packPractice(name string, files map[string][]byte) {
	if raw := a.practices.Raw(name); raw != nil {
		files["practices/"+name+".yaml"] = raw
	}
}

func attachmentsOf(r store.Reader, p packed, files map[string][]byte, size *int) error {
	for _, e := range p.Entries {
		if e.Kind != drivefile.EntryAttachment {
			continue
		}
		var at drivefile.Attachment
		if err := json.Unmarshal(e.Body, &at); err != nil {
			return err
		}
		_, b, err := r.Attachment(at.SHA256)
		if err != nil {
			return err
		}
		files["attachments/"+at.SHA256] = b
		*size += len(b)
	}
	return nil
}

// ImportResult says what an import did.
type ImportResult struct {
	Place string   `json:"place" doc:"id of the place"`
	Added int      `json:"added" doc:"drives added"`
	Same  int      `json:"same" doc:"drives that were here already, unchanged"`
	Notes []string `json:"notes"`
}

// Import takes a bundle. All of it is checked before anything is stored, and all of it is stored or nothing.
// A drive that is here already with another history is refused, by its tag.
func (a *App) Import(ctx context.Context, raw []byte) (ImportResult, error) {
	res := ImportResult{Notes: []string{}}
	if len(raw) > drivefile.MaxBundle {
		return res, &InputError{"bundle", fmt.Sprint(len(raw), " bytes"), fmt.Sprintf("at most %d (200 MB)", drivefile.MaxBundle)}
	}
	files, err := bundle.Unpack(raw, bundle.Limits{Unpacked: drivefile.MaxUnpacked, Entries: drivefile.MaxEntries})
	if err != nil {
		return res, &RefusedError{err.Error()}
	}
	place, err := unpack(files, "place.json", drivefile.KindPlace)
	if err != nil {
		return res, err
	}
	res.Place = place.ID
	var drives []packed
	for _, n := range namesOf(files, "drives/") {
		d, err := unpack(files, n, drivefile.KindDrive)
		if err != nil {
			return res, err
		}
		if d.Place != place.ID {
			return res, &InputError{n + " place", d.Place, place.ID + ", the place of this bundle"}
		}
		drives = append(drives, d)
	}
	for _, n := range namesOf(files, "families/") {
		f, err := familyfile.Read(files[n])
		if err != nil {
			return res, &RefusedError{n + ": " + err.Error()}
		}
		switch here := a.families.Version(f.Name, f.Version); {
		case here == nil:
			if _, err := a.AddFamily(files[n]); err != nil {
				return res, err
			}
			res.Notes = append(res.Notes, fmt.Sprintf("Family %s %s came with the bundle and is known here now.", f.Name, f.Version))
		case here.Hash != f.Hash:
			res.Notes = append(res.Notes, fmt.Sprintf("The bundle carries another file of family %s under the same version %s; this program uses its own.", f.Name, f.Version))
		}
	}
	for _, n := range namesOf(files, "practices/") {
		p, err := practicefile.Read(files[n])
		if err != nil {
			return res, &RefusedError{n + ": " + err.Error()}
		}
		if _, err := a.AddPractice(files[n]); err != nil {
			res.Notes = append(res.Notes, fmt.Sprintf("The bundle carries another practice under the name %s; this program uses its own.", p.Name))
		}
	}
	err = a.write(ctx, func(tx *store.Tx) error {
		for _, n := range namesOf(files, "attachments/") {
			if err := a.keepAttachment(tx, strings.TrimPrefix(n, "attachments/"), files[n]); err != nil {
				return err
			}
		}
		added, err := restore(tx, place, drivefile.KindPlace)
		if err != nil {
			if len(drives) == 0 {
				return err
			}
			res.Notes = append(res.Notes, "The place is here already with changes of its own; it stays as it is here.")
		} else if !added {
			res.Notes = append(res.Notes, "The place was here already.")
		}
		for _, d := range drives {
			added, err := restore(tx, d, drivefile.KindDrive)
			if err != nil {
				return err
			}
			if !added {
				res.Same++
				continue
			}
			res.Added++
			doc, err := tx.Document(d.ID)
			if err != nil {
				return err
			}
			if err := a.glance(tx, doc); err != nil {
				return err
			}
		}
		return nil
	})
	return res, err
}

func namesOf(files map[string][]byte, prefix string) []string {
	var l []string
	for n := range files {
		if strings.HasPrefix(n, prefix) {
			l = append(l, n)
		}
	}
	sort.Strings(l)
	return l
}

// unpack reads and checks one document with its history: the document must follow from its changes.
func unpack(files map[string][]byte, name, kind string) (packed, error) {
	var p packed
	raw, ok := files[name]
	if !ok {
		return p, &InputError{"bundle", "no " + name, "one"}
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&p); err != nil {
		return p, &InputError{name, err.Error(), "a document of docs/formats/bundle.md"}
	}
	if err := validID(name+" id", p.ID); err != nil {
		return p, err
	}
	if kind == drivefile.KindDrive && name != "drives/"+p.ID+".json" {
		return p, &InputError{name + " id", p.ID, "the id in the file's name"}
	}
	var err error
	if kind == drivefile.KindPlace {
		_, err = drivefile.DecodePlace(p.Document)
	} else {
		_, err = drivefile.DecodeDrive(p.Document)
	}
	if err != nil {
		return p, &InputError{name, err.Error(), "a " + kind + " of schema 1"}
	}
	body := drivefile.Body{}
	for _, c := range p.Changes {
		if err := body.Apply(c.Ops); err != nil {
			return p, &InputError{name + " change " + c.ID, err.Error(), "operations"}
		}
	}
	var doc any
	if err := json.Unmarshal(p.Document, &doc); err != nil {
		return p, err
	}
	if !reflect.DeepEqual(map[string]any(body), doc) {
		return p, &InputError{name, "a document that does not follow from its changes", "one that does"}
	}
	if !inOrder(p) {
		return p, &InputError{name + " n", "numbers out of order", "every change and entry numbered in the order in which it happened"}
	}
	p.Document = body.JSON()
	return p, nil
}

// restore stores a document with its history; false when the very same is here already.
func restore(tx *store.Tx, p packed, kind string) (bool, error) {
	if here, err := tx.Document(p.ID); err == nil {
		changes, err := tx.Changes(p.ID)
		if err != nil {
			return false, err
		}
		entries, err := tx.Entries(p.ID)
		if err != nil {
			return false, err
		}
		if sameHistory(changes, entries, p) {
			return false, nil
		}
		d, _ := drivefile.DecodeDrive(here.Body)
		name := d.Tag
		if kind == drivefile.KindPlace {
			name = "the place"
		}
		return false, &RefusedError{fmt.Sprintf("%s is here already with another history; nothing was imported.", orBlank(name))}
	}
	last, err := tx.NextSeq(len(p.Changes) + len(p.Entries))
	if err != nil {
		return false, err
	}
	base := last - int64(len(p.Changes)+len(p.Entries))
	if err := tx.PutDocument(store.Document{ID: p.ID, Kind: kind, Place: p.Place, Version: p.Version, Body: p.Document}); err != nil {
		return false, err
	}
	for _, c := range p.Changes {
		c.Seq, c.Doc = base+int64(c.N), p.ID
		if err := tx.AddChange(c); err != nil {
			return false, err
		}
	}
	for _, e := range p.Entries {
		e.Seq, e.Doc = base+int64(e.N), p.ID
		if e.Body, err = json.Marshal(e.Body); err != nil { // compact, as it was written first
			return false, err
		}
		if err := tx.AddEntry(e); err != nil {
			return false, err
		}
	}
	return true, nil
}

func sameHistory(changes []store.Change, entries []drivefile.Entry, p packed) bool {
	if len(changes) != len(p.Changes) || len(entries) != len(p.Entries) {
		return false
	}
	for i := range changes {
		if changes[i].ID != p.Changes[i].ID {
			return false
		}
	}
	for i := range entries {
		if entries[i].ID != p.Entries[i].ID {
			return false
		}
	}
	return true
}
