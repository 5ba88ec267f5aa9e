package exchange

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/formats/bundle"
	"tingate/store"
)

// Selection is what of a place goes into a bundle.
type Selection struct {
	Drive       string // id of one drive; "": all
	Part, Parts int    // part 1 to parts of all drives; 0: in one
}

// of are the drives that a selection takes, by id.
func (s Selection) of(ids []string) ([]string, error) {
	switch {
	case s.Drive != "":
		if !slices.Contains(ids, s.Drive) {
			return nil, store.ErrNotFound
		}
		return []string{s.Drive}, nil
	case s.Parts == 0 && s.Part == 0:
		return ids, nil
	case s.Parts < 1 || s.Parts > 1000 || s.Part < 1 || s.Part > s.Parts:
		return nil, base.Bad("part", fmt.Sprint(s.Part, " of ", s.Parts), "part 1 to parts, of at most 1000")
	}
	from, to := len(ids)*(s.Part-1)/s.Parts, len(ids)*s.Part/s.Parts
	return ids[from:to], nil
}

// ExportTo writes a place with its drives as a bundle, drive by drive: documents, their whole history, entries, attachments and the
// families they need, as they stand at one moment. The same content gives the same bytes.
func (a *Exchange) ExportTo(ctx context.Context, to io.Writer, placeID string, sel Selection) error {
	return a.Store.Snapshot(ctx, func(r store.Reader) error {
		place, ids, err := selected(r, placeID, sel)
		if err != nil {
			return err
		}
		x := export{app: a, r: r, later: map[string][]byte{"schema/drive.json": drivefile.JSONSchema(drivefile.KindDrive),
			"schema/place.json": drivefile.JSONSchema(drivefile.KindPlace)}, used: map[string]*dialect.Family{}}
		if err := x.gather(place, ids); err != nil {
			return err
		}
		if x.out, err = bundle.NewWriter(to, x.later); err != nil {
			return err
		}
		return x.write(ids)
	})
}

// CanExport says whether there is what a selection asks for.
func (a *Exchange) CanExport(ctx context.Context, placeID string, sel Selection) error {
	_, _, err := selected(a.Store.Read(ctx), placeID, sel)
	return err
}

// selected are a place and the ids of those of its drives that a selection takes.
func selected(r store.Reader, placeID string, sel Selection) (place store.Document, ids []string, err error) {
	if place, err = r.Document(placeID); err != nil {
		return place, nil, err
	}
	if place.Kind != drivefile.KindPlace {
		return place, nil, store.ErrNotFound
	}
	all, err := r.DocumentIDs(drivefile.KindDrive, placeID)
	if err != nil {
		return place, nil, err
	}
	ids, err = sel.of(all)
	return place, ids, err
}

// export is a bundle that is being written.
type export struct {
	app   *Exchange
	r     store.Reader
	out   *bundle.Writer
	later map[string][]byte
	used  map[string]*dialect.Family
	shas  []string
}

// gather finds what the bundle needs besides its drives.
func (x *export) gather(place store.Document, ids []string) (err error) {
	if _, x.later["place.json"], err = pack(x.r, place); err != nil {
		return err
	}
	p, err := drivefile.DecodePlace(place.Body)
	if err != nil {
		return err
	}
	x.practice(p.Practice)
	for _, id := range ids {
		doc, err := x.r.Document(id)
		if err != nil {
			return err
		}
		d, err := drivefile.DecodeDrive(doc.Body)
		if err != nil {
			return err
		}
		x.practice(d.Practice)
		if f, _ := x.app.FamilyFor(d.Rating); f != nil {
			x.used[f.Name+" "+f.Version] = f
		}
		entries, err := x.r.Entries(id)
		if err != nil {
			return err
		}
		for _, at := range attachmentsOf(entries) {
			x.shas = append(x.shas, at.SHA256)
		}
	}
	slices.Sort(x.shas)
	x.shas = slices.Compact(x.shas)
	return nil
}

// practice takes along a practice that somebody added; those that ship are everywhere.
func (x *export) practice(name string) {
	if raw := x.app.PracticeSet.Raw(name); raw != nil {
		x.later["practices/"+name+".yaml"] = raw
	}
}

// attachmentsOf are the kept files that entries name.
func attachmentsOf(entries []drivefile.Entry) []drivefile.Attachment {
	var l []drivefile.Attachment
	for _, e := range entries {
		if at, ok := drivefile.Contents[drivefile.Attachment](e); ok && at.SHA256 != "" {
			l = append(l, at)
		}
	}
	return l
}

// write writes everything, in the order of the names. A kept file that was lost is noted, and stops nothing.
func (x *export) write(ids []string) error {
	for _, sha := range x.shas {
		_, b, err := x.r.Attachment(sha)
		if errors.Is(err, store.ErrNotFound) {
			x.out.Lost(sha)
			continue
		}
		if err != nil {
			return err
		}
		if err := x.out.Add("attachments/"+sha, b); err != nil {
			return err
		}
	}
	for _, id := range ids {
		doc, err := x.r.Document(id)
		if err != nil {
			return err
		}
		_, raw, err := pack(x.r, doc)
		if err != nil {
			return err
		}
		if err := x.out.Add("drives/"+id+".json", raw); err != nil {
			return err
		}
	}
	files := map[string][]byte{}
	x.app.library.PackFamilies(x.used, files)
	for _, n := range slices.Sorted(maps.Keys(files)) {
		if err := x.out.Add(n, files[n]); err != nil {
			return err
		}
	}
	return x.out.Close()
}
