package exchange

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"tingate/app/base"
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
	"attachments": drivefile.MaxAttachment, "drives": drivefile.MaxHistory, "place.json": drivefile.MaxHistory,
	"families": drivefile.MaxDialect, "practices": drivefile.MaxJSON, "": drivefile.MaxJSON}}

// importAtOnce is how many drives are stored in one transaction: others write in between.
const importAtOnce = 20

// rowsAtOnce is for how many drives the Yard's rows are made before an import is answered; more are made beside.
const rowsAtOnce = 60

// ImportBytes is Import of a bundle that stands in memory.
func (a *Exchange) ImportBytes(ctx context.Context, who base.Actor, raw []byte) (ImportResult, error) {
	return a.Import(ctx, who, bytes.NewReader(raw), int64(len(raw)))
}

// ImportStream is Import of a bundle as it comes: it lies on disk until it is taken in or refused.
func (a *Exchange) ImportStream(ctx context.Context, who base.Actor, from io.Reader) (ImportResult, error) {
	f, drop, err := a.Store.Scratch("bundle")
	if err != nil {
		return ImportResult{}, err
	}
	defer drop()
	n, err := io.Copy(f, from)
	if err != nil {
		return ImportResult{}, base.Bad("bundle", fmt.Sprintf("%d bytes, and then no more (%v)", n, err), "a whole bundle")
	}
	return a.Import(ctx, who, f, n)
}

// Import takes a bundle. All of it is checked before anything is stored, by the rules by which the program itself writes, and all of it is
// seen or nothing: until the last drive is there, none is. Others go on writing meanwhile. A drive that is here already with other contents
// is refused, by its tag, with what differs. What was done is an entry of the place.
func (a *Exchange) Import(ctx context.Context, who base.Actor, from io.ReaderAt, size int64) (ImportResult, error) {
	res := ImportResult{New: []string{}, Unchanged: []string{}, Different: []string{}, Notes: []string{}}
	if !a.importing.TryLock() {
		return res, base.Refuse("Another bundle is being taken in just now. Wait until that is done.")
	}
	defer a.importing.Unlock()
	if size > drivefile.MaxBundle {
		return res, base.Bad("bundle", fmt.Sprint(size, " bytes"),
			fmt.Sprintf("at most %d (20 GB); export it in parts", int64(drivefile.MaxBundle)))
	}
	in, err := bundle.NewReader(from, size, bundleLimits)
	if err != nil {
		return res, base.Refuse(err.Error())
	}
	b := bringing{app: a, in: in, ids: map[string]string{}, res: &res}
	if err := a.Store.Snapshot(ctx, b.look); err != nil {
		return res, err
	}
	if err := b.store(ctx, who, fileHash(from, size)); err != nil {
		return res, err
	}
	if len(b.drives) <= rowsAtOnce {
		return res, a.yard.RefreshGlances(ctx)
	}
	a.WakeGlances()
	return res, nil
}

func fileHash(from io.ReaderAt, size int64) string {
	h := sha256.New()
	_, _ = io.Copy(h, io.NewSectionReader(from, 0, size)) // what could not be read was refused before
	return hex.EncodeToString(h.Sum(nil))
}

// bringing is a bundle that is being taken in.
type bringing struct {
	app       *Exchange
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
	} else if err := b.app.drives.Takes(p.Kind); err != nil {
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
			return base.Bad(called(d)+" place", "another place", "the place of this bundle")
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
		return base.Refuse(fmt.Sprintf("%s. %d of the bundle's drives are here already with other contents; nothing was imported.",
			strings.Join(refused[:min(len(refused), 20)], "; "), len(refused)))
	}
	switch {
	case b.placeHere && len(b.res.Different) > 0 && len(b.in.Names("drives/")) == 0:
		return base.Refuse("The place is here already with other contents: " + b.res.Different[0] + ". Nothing was imported.")
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
	return base.OrBlank(x.Tag)
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
			b.res.Notes = append(b.res.Notes,
				fmt.Sprintf("A file kept with %s was lost before the bundle was made: %s.", name, base.OrBlank(at.Name)))
		default:
			return base.Bad(name+" kept file "+base.OrBlank(at.Name), "a hash of bytes that are not in the bundle",
				"the bytes of every kept file, or its hash under missing in the manifest")
		}
	}
	return nil
}

// once wants an id to stand for one thing, in the bundle and here.
func (b *bringing) once(r store.Reader, what, id string, here bool) error {
	if other, twice := b.ids[id]; twice {
		return base.Bad(what, "the id of "+other, "an id of its own")
	}
	b.ids[id] = what
	if here {
		return nil
	}
	_, eerr := r.Entry(id)
	_, cerr := r.Change(id)
	for _, err := range []error{eerr, cerr} {
		if err == nil {
			return base.Bad(what, "an id that something else has here", "an id of its own")
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
			return base.Refuse(err.Error())
		}
		f, err := familyfile.Read(raw)
		if err != nil {
			return base.Refuse(n + ": " + err.Error())
		}
		switch here := a.FamilySet.Version(f.Name, f.Version); {
		case here == nil:
			if err := a.FamilySet.Check(raw, false); err != nil {
				return base.Refuse(n + ": " + err.Error())
			}
			b.families = append(b.families, raw)
			b.res.Notes = append(b.res.Notes, fmt.Sprintf("Family %s %s came with the bundle and is known here now.", f.Name, f.Version))
		case here.Hash != f.Hash:
			b.res.Different = append(b.res.Different, fmt.Sprintf("family %s %s", f.Name, f.Version))
			b.res.Notes = append(b.res.Notes,
				fmt.Sprintf("The bundle carries another file of family %s under the same version %s; this program uses its own.", f.Name,
					f.Version))
		}
	}
	for _, n := range b.in.Names("practices/") {
		raw, err := b.in.Read(n)
		if err != nil {
			return base.Refuse(err.Error())
		}
		p, err := practicefile.Read(raw)
		switch {
		case err != nil:
			return base.Refuse(n + ": " + err.Error())
		case a.PracticeSet.Check(raw) != nil:
			b.res.Different = append(b.res.Different, "practice "+p.Name)
			b.res.Notes = append(b.res.Notes,
				fmt.Sprintf("The bundle carries another practice under the name %s; this program uses its own.", p.Name))
		case a.PracticeSet.Find(p.Name) == nil:
			b.practices = append(b.practices, raw)
		}
	}
	return nil
}
