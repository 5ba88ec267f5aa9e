package app

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"slices"
	"strings"

	"tingate/core/drivefile"
	"tingate/formats/bundle"
	"tingate/formats/familyfile"
	"tingate/formats/practicefile"
	"tingate/store"
)

// ImportResult says what an import did, and what it found.
type ImportResult struct {
	Place     string   `json:"place" doc:"id of the place"`
	Added     int      `json:"added" doc:"drives added"`
	Same      int      `json:"same" doc:"drives that were here already, word for word"`
	New       []string `json:"new" doc:"tags of the drives added"`
	Unchanged []string `json:"unchanged" doc:"tags of the drives that were here already"`
	Different []string `json:"different" doc:"what is here with other contents, and stays as it is here"`
	Notes     []string `json:"notes"`
}

// Limits of what a bundle unpacks to, file by file.
var bundleLimits = bundle.Limits{Entries: drivefile.MaxEntries, Unpacked: drivefile.MaxBundle, Largest: map[string]int64{
	"attachments": drivefile.MaxAttachment, "drives": drivefile.MaxHistory, "place.json": drivefile.MaxHistory, "families": drivefile.MaxDialect, "practices": drivefile.MaxJSON, "": drivefile.MaxJSON}}

// importAtOnce is how many drives are stored in one transaction: others write in between.
const importAtOnce = 20

// rowsAtOnce is for how many drives the Yard's rows are made before an import is answered; more are made beside.
const rowsAtOnce = 60

// ImportBytes is Import of a bundle that stands in memory.
func (a *App) ImportBytes(ctx context.Context, who Actor, raw []byte) (ImportResult, error) {
	return a.Import(ctx, who, bytes.NewReader(raw), int64(len(raw)))
}

// ImportStream is Import of a bundle as it comes: it lies on disk until it is taken in or refused.
func (a *App) ImportStream(ctx context.Context, who Actor, from io.Reader) (ImportResult, error) {
	f, drop, err := a.store.Scratch("bundle")
	if err != nil {
		return ImportResult{}, err
	}
	defer drop()
	n, err := io.Copy(f, from)
	if err != nil {
		return ImportResult{}, &InputError{"bundle", fmt.Sprintf("%d bytes, and then no more (%v)", n, err), "a whole bundle"}
	}
	return a.Import(ctx, who, f, n)
}

// Import takes a bundle. All of it is checked before anything is stored, by the rules by which the program itself writes, and all of it is seen or
// nothing: until the last drive is there, none is. Others go on writing meanwhile. A drive that is here already with other contents is refused, by its
// tag, with what differs. What was done is an entry of the place.
func (a *App) Import(ctx context.Context, who Actor, from io.ReaderAt, size int64) (ImportResult, error) {
	res := ImportResult{New: []string{}, Unchanged: []string{}, Different: []string{}, Notes: []string{}}
	if !a.importing.TryLock() {
		return res, &RefusedError{"Another bundle is being taken in just now. Wait until that is done."}
	}
	defer a.importing.Unlock()
	if size > drivefile.MaxBundle {
		return res, &InputError{"bundle", fmt.Sprint(size, " bytes"), fmt.Sprintf("at most %d (20 GB); export it in parts", int64(drivefile.MaxBundle))}
	}
	in, err := bundle.NewReader(from, size, bundleLimits)
	if err != nil {
		return res, &RefusedError{err.Error()}
	}
	b := bringing{app: a, in: in, ids: map[string]string{}, res: &res}
	if err := a.store.Snapshot(ctx, b.look); err != nil {
		return res, err
	}
	if err := b.store(ctx, who, fileHash(from, size)); err != nil {
		return res, err
	}
	if len(b.drives) <= rowsAtOnce {
		return res, a.RefreshGlances(ctx)
	}
	a.wakeGlances()
	return res, nil
}

func fileHash(from io.ReaderAt, size int64) string {
	h := sha256.New()
	_, _ = io.Copy(h, io.NewSectionReader(from, 0, size)) // what could not be read was refused before
	return hex.EncodeToString(h.Sum(nil))
}

// bringing is a bundle that is being taken in.
type bringing struct {
	app       *App
	in        *bundle.Reader
	res       *ImportResult
	place     packed
	placeHere bool
	base      int64             // number before the first of the place's
	drives    []string          // names of those that are new
	shas      map[string]bool   // kept files that new drives need, and that are not here
	lost      []string          // hashes of kept files that were lost before the bundle was made
	ids       map[string]string // of every change and entry, with what it is called
	families  [][]byte
	practices [][]byte
}

// look checks everything, against itself and against what is here. Nothing is stored.
func (b *bringing) look(r store.Reader) error {
	b.shas = map[string]bool{}
	place, err := b.unpack("place.json", drivefile.KindPlace)
	if err != nil {
		return err
	}
	b.place, b.res.Place = place, place.ID
	if p, err := drivefile.DecodePlace(place.Document); err != nil {
		return err
	} else if err := b.app.takes(p.Kind); err != nil {
		return err
	}
	here, differs, err := compare(r, place, drivefile.KindPlace)
	if err != nil {
		return err
	}
	b.placeHere = here
	if here && differs != "" {
		b.res.Different = append(b.res.Different, "the place: "+differs)
	}
	if err := b.new(r, called(place), place, here); err != nil {
		return err
	}
	var refused []string
	for _, n := range b.in.Names("drives/") {
		d, err := b.unpack(n, drivefile.KindDrive)
		if err != nil {
			return err
		}
		if d.Place != place.ID {
			return &InputError{called(d) + " place", "another place", "the place of this bundle"}
		}
		tag := tagOf(d)
		here, differs, err := compare(r, d, drivefile.KindDrive)
		switch {
		case err != nil:
			return err
		case !here:
			b.res.New, b.drives = append(b.res.New, tag), append(b.drives, n)
		case differs == "":
			b.res.Unchanged = append(b.res.Unchanged, tag)
		default:
			refused = append(refused, tag+": "+differs)
		}
		if err := b.new(r, called(d), d, here); err != nil {
			return err
		}
	}
	b.res.Added, b.res.Same = len(b.res.New), len(b.res.Unchanged)
	if len(refused) > 0 {
		b.res.Different = append(b.res.Different, refused...)
		return &RefusedError{fmt.Sprintf("%s. %d of the bundle's drives are here already with other contents; nothing was imported.", strings.Join(refused[:min(len(refused), 20)], "; "), len(refused))}
	}
	switch {
	case b.placeHere && len(b.res.Different) > 0 && len(b.in.Names("drives/")) == 0:
		return &RefusedError{"The place is here already with other contents: " + b.res.Different[0] + ". Nothing was imported."}
	case b.placeHere && len(b.res.Different) > 0:
		b.res.Notes = append(b.res.Notes, "The place is here already with changes of its own; it stays as it is here.")
	case b.placeHere:
		b.res.Notes = append(b.res.Notes, "The place was here already.")
	}
	return b.files()
}

// tagOf is a drive's tag; blank where it has none, or no document that can be read.
func tagOf(d packed) string {
	x, _ := drivefile.DecodeDrive(d.Document)
	return orBlank(x.Tag)
}

// called is what a person calls a document of a bundle.
func called(p packed) string {
	if p.ID == p.Place {
		return "the place"
	}
	return "drive " + tagOf(p)
}

// new holds the ids and kept files of a document that is not here against the rest of the bundle and against what is here.
func (b *bringing) new(r store.Reader, name string, p packed, here bool) error {
	for _, c := range p.Changes {
		if err := b.once(r, fmt.Sprintf("%s change %d", name, c.N), c.ID, here); err != nil {
			return err
		}
	}
	for _, e := range p.Entries {
		if err := b.once(r, fmt.Sprintf("%s entry %d", name, e.N), e.ID, here); err != nil {
			return err
		}
	}
	if here {
		return nil
	}
	for _, at := range attachmentsOf(p.Entries) {
		_, have, err := r.HasAttachment(at.SHA256)
		switch {
		case err != nil:
			return err
		case have:
		case b.in.Has("attachments/" + at.SHA256):
			b.shas[at.SHA256] = true
		case slices.Contains(b.in.Manifest.Missing, at.SHA256):
			b.lost = append(b.lost, at.SHA256)
			b.res.Notes = append(b.res.Notes, fmt.Sprintf("A file kept with %s was lost before the bundle was made: %s.", name, orBlank(at.Name)))
		default:
			return &InputError{name + " kept file " + orBlank(at.Name), "a hash of bytes that are not in the bundle", "the bytes of every kept file, or its hash under missing in the manifest"}
		}
	}
	return nil
}

// once wants an id to stand for one thing, in the bundle and here.
func (b *bringing) once(r store.Reader, what, id string, here bool) error {
	if other, twice := b.ids[id]; twice {
		return &InputError{what, "the id of " + other, "an id of its own"}
	}
	b.ids[id] = what
	if here {
		return nil
	}
	_, eerr := r.Entry(id)
	_, cerr := r.Change(id)
	for _, err := range []error{eerr, cerr} {
		if err == nil {
			return &InputError{what, "an id that something else has here", "an id of its own"}
		}
		if !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	return nil
}

// files checks the families and practices that came along. Those that are here already stay.
func (b *bringing) files() error {
	a := b.app
	for _, n := range b.in.Names("families/") {
		raw, err := b.in.Read(n)
		if err != nil {
			return &RefusedError{err.Error()}
		}
		f, err := familyfile.Read(raw)
		if err != nil {
			return &RefusedError{n + ": " + err.Error()}
		}
		switch here := a.families.Version(f.Name, f.Version); {
		case here == nil:
			if err := a.families.Check(raw, false); err != nil {
				return &RefusedError{n + ": " + err.Error()}
			}
			b.families = append(b.families, raw)
			b.res.Notes = append(b.res.Notes, fmt.Sprintf("Family %s %s came with the bundle and is known here now.", f.Name, f.Version))
		case here.Hash != f.Hash:
			b.res.Different = append(b.res.Different, fmt.Sprintf("family %s %s", f.Name, f.Version))
			b.res.Notes = append(b.res.Notes, fmt.Sprintf("The bundle carries another file of family %s under the same version %s; this program uses its own.", f.Name, f.Version))
		}
	}
	for _, n := range b.in.Names("practices/") {
		raw, err := b.in.Read(n)
		if err != nil {
			return &RefusedError{err.Error()}
		}
		p, err := practicefile.Read(raw)
		switch {
		case err != nil:
			return &RefusedError{n + ": " + err.Error()}
		case a.practices.Check(raw) != nil:
			b.res.Different = append(b.res.Different, "practice "+p.Name)
			b.res.Notes = append(b.res.Notes, fmt.Sprintf("The bundle carries another practice under the name %s; this program uses its own.", p.Name))
		case a.practices.Find(p.Name) == nil:
			b.practices = append(b.practices, raw)
		}
	}
	return nil
}

// store brings everything in, a few drives at a time, and shows it at the end.
func (b *bringing) store(ctx context.Context, who Actor, hash string) (err error) {
	a := b.app
	defer func() {
		if err != nil { // what was brought so far was seen by nobody
			err = errors.Join(err, a.store.Write(context.WithoutCancel(ctx), func(tx *store.Tx) error { return tx.ForgetComing() }))
		}
	}()
	// The place's numbers come before its drives', as they did when it was made.
	if err := a.store.Write(ctx, func(tx *store.Tx) (err error) { b.base, err = numbersFor(tx, b.place); return err }); err != nil {
		return err
	}
	for at := 0; at < len(b.drives); at += importAtOnce {
		err := a.store.Write(ctx, func(tx *store.Tx) error {
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
		if err := a.keepFamily(raw, false); err != nil {
			return err
		}
	}
	for _, raw := range b.practices {
		if err := a.keepPractice(raw); err != nil {
			return err
		}
	}
	came := drivefile.CameIn{What: "bundle", Name: b.res.Place, Hash: hash, New: most(b.res.New), Same: most(b.res.Unchanged), Different: most(b.res.Different), Missing: b.lost}
	return a.write(ctx, func(tx *store.Tx) error {
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
		return a.addEntry(tx, broughtBy(p, who), b.place.ID, NewID(), drivefile.EntryCameIn, came)
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
			return &RefusedError{err.Error()}
		}
		if err := b.app.keepAttachment(tx, sha, raw); err != nil {
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

// unpack reads and checks one document with its history: the document must follow from its changes, and everything must be as this program writes it.
func (b *bringing) unpack(file, kind string) (packed, error) {
	var p packed
	raw, err := b.in.Read(file)
	if err != nil {
		return p, &RefusedError{err.Error()}
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&p); err != nil {
		return p, &InputError{file, err.Error(), "a document of docs/formats/bundle.md"}
	}
	name := called(p)
	switch {
	case !drivefile.ValidID(p.ID):
		return p, &InputError{name + " id", p.ID, "a UUID in lower case"}
	case kind == drivefile.KindDrive && file != "drives/"+p.ID+".json":
		return p, &InputError{name + " id", p.ID, "the id in the file's name"}
	case kind == drivefile.KindPlace && p.Place != p.ID:
		return p, &InputError{file + " place", p.Place, "its own id"}
	case p.Version < 1 || p.Version > 1<<40:
		return p, &InputError{name + " version", fmt.Sprint(p.Version), "1 or more"}
	}
	if err := drivefile.ValidateDocument(kind, p.Document); err != nil {
		return p, named(name, err)
	}
	for _, e := range p.Entries {
		if err := drivefile.ValidateEntry(e); err != nil {
			return p, named(name, err)
		}
		if drivefile.OfThisFolder(e.Kind) {
			return p, &InputError{fmt.Sprintf("%s entry %d", name, e.N), "kind " + e.Kind, "an entry that travels"}
		}
	}
	if err := followsFrom(p); err != nil {
		return p, named(name, err)
	}
	if !inOrder(p) {
		return p, &InputError{name + " n", "numbers out of order", "every change and entry numbered in the order in which it happened"}
	}
	var doc any
	if err := json.Unmarshal(p.Document, &doc); err != nil {
		return p, err
	}
	p.Document, err = json.Marshal(doc) // keys sorted, as it is stored
	return p, err
}

// named says of which document of a bundle something is wrong.
func named(name string, err error) error {
	var fe *drivefile.FieldError
	var newer *drivefile.NewerSchemaError
	switch {
	case errors.As(err, &newer):
		return err
	case errors.As(err, &fe):
		return &InputError{name + " " + fe.Field, fe.Got, fe.Want}
	}
	return &InputError{name, err.Error(), "a document of docs/formats/bundle.md"}
}

// followsFrom makes the document again from its changes, and looks at each of them.
func followsFrom(p packed) error {
	body := drivefile.Body{}
	for _, c := range p.Changes {
		bad := func(field, got, want string) error {
			return &drivefile.FieldError{Field: fmt.Sprintf("change %d %s", c.N, field), Got: got, Want: want}
		}
		switch {
		case !drivefile.ValidID(c.ID):
			return bad("id", c.ID, "a UUID in lower case")
		case !drivefile.ValidTime(c.At):
			return bad("at", c.At, "a time in UTC, like 2026-11-25T10:00:00.000Z")
		case c.By == "" && (c.Edit != ofProgram || p.Place != p.ID): // an earlier version made places without a name
			return bad("by", "nothing", "the id of the person who did it")
		case c.Edit == "" || len(c.Edit) > 100 || len(c.By) > 100 || len(c.Device) > 200 || len(c.Why) > 4000 || len(c.Initials) > 100 || len(c.Name) > 200 || len(c.Clock) > 200:
			return bad("edit, by, device or why", "nothing, or a long text", "texts as the program writes them")
		case c.Typed != "" && !drivefile.ValidTime(c.Typed):
			return bad("typed", c.Typed, "a time in UTC")
		}
		if err := body.Apply(c.Ops); err != nil {
			return err
		}
	}
	var doc any
	if err := json.Unmarshal(p.Document, &doc); err != nil {
		return err
	}
	if !reflect.DeepEqual(map[string]any(body), doc) {
		return &drivefile.FieldError{Field: "document", Got: "one that does not follow from its changes", Want: "one that does"}
	}
	return nil
}

// compare holds a document of a bundle against the one of its id here, by contents: whether there is one, and what differs.
func compare(r store.Reader, p packed, kind string) (here bool, differs string, err error) {
	d, err := r.Document(p.ID)
	if errors.Is(err, store.ErrNotFound) {
		return false, "", nil
	}
	if err != nil {
		return false, "", err
	}
	if d.Kind != kind || d.Place != p.Place {
		return true, "its id is that of something else", nil
	}
	is, _, err := pack(r, d)
	if err != nil {
		return true, "", err
	}
	var parts []string
	tell := func(what string, mine, theirs, other int) {
		for n, words := range map[int]string{0: fmt.Sprintf("%d %s only here", mine, what), 1: fmt.Sprintf("%d %s only in the bundle", theirs, what), 2: fmt.Sprintf("%d %s with other contents", other, what)} {
			if []int{mine, theirs, other}[n] > 0 {
				parts = append(parts, words)
			}
		}
	}
	mine, theirs, other := parted(is.Changes, p.Changes, func(c store.Change) string { return c.ID }, sameChange)
	tell("changes", mine, theirs, other)
	mine, theirs, other = parted(is.Entries, p.Entries, func(e drivefile.Entry) string { return e.ID }, drivefile.Entry.Same)
	tell("entries", mine, theirs, other)
	var a, b any
	if json.Unmarshal(is.Document, &a) != nil || json.Unmarshal(p.Document, &b) != nil || !reflect.DeepEqual(a, b) {
		parts = append(parts, "other fields")
	}
	slices.Sort(parts)
	return true, strings.Join(parts, ", "), nil
}

// parted counts what stands only in the one list, only in the other, and in both otherwise.
func parted[T any](a, b []T, id func(T) string, same func(T, T) bool) (onlyA, onlyB, other int) {
	have := make(map[string]T, len(a))
	for _, x := range a {
		have[id(x)] = x
	}
	for _, y := range b {
		x, ok := have[id(y)]
		switch {
		case !ok:
			onlyB++
		case !same(x, y):
			other++
		}
		delete(have, id(y))
	}
	return len(have), onlyB, other
}

func sameChange(a, b store.Change) bool {
	if a.By != b.By || a.Device != b.Device || a.At != b.At || a.Edit != b.Edit || a.Undoes != b.Undoes || a.Why != b.Why || a.Version != b.Version || a.Initials != b.Initials || a.Name != b.Name || len(a.Ops) != len(b.Ops) {
		return false
	}
	for i := range a.Ops {
		if a.Ops[i].Path != b.Ops[i].Path || !drivefile.Same(a.Ops[i].Old, b.Ops[i].Old) || !drivefile.Same(a.Ops[i].New, b.Ops[i].New) {
			return false
		}
	}
	return true
}
