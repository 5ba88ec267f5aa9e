package app

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/formats/familyfile"
	"tingate/store"
)

// FamilyHead is what the screens show of a drive family.
type FamilyHead struct {
	Name        string   `json:"name"`
	Version     string   `json:"version"`
	Versions    []string `json:"versions" doc:"all that are known here, the newest first"`
	Firmware    string   `json:"firmware"`
	About       string   `json:"about"`
	Conventions []string `json:"conventions"`
	Settings    int      `json:"settings"`
	Types       []string `json:"types" doc:"the sizes' types"`
	HasLink     bool     `json:"has_link" doc:"it has a register map"`
	ReadOnly    string   `json:"read_only,omitempty" doc:"why nothing is written over the link"`
}

func (a *App) familyHead(f *dialect.Family) FamilyHead {
	h := FamilyHead{Conventions: []string{}, Versions: []string{}, Types: []string{}}
	if f == nil {
		return h
	}
	h.Name, h.Version, h.Versions, h.Firmware, h.About, h.Conventions = f.Name, f.Version, a.families.Versions(f.Name), f.Firmware, f.About, f.Ways()
	h.Settings, h.HasLink = len(f.Settings), f.Link.Identity.Register != 0
	if h.HasLink {
		h.ReadOnly = f.ReadOnly
	}
	for _, r := range f.Ratings {
		h.Types = append(h.Types, r.Type)
	}
	return h
}

// Families lists the drive families, each in its newest version.
func (a *App) Families() []FamilyHead {
	var l []FamilyHead
	for _, n := range a.families.Names() {
		l = append(l, a.familyHead(a.families.Find(n)))
	}
	return l
}

// familyFor is the version of the family that a drive was made with, and the newest known here. A drive without a
// version was made before versions were remembered, with the first. When the version is not here the newest is used,
// and a finding says so.
func (a *App) familyFor(r drivefile.Rating) (f *dialect.Family, newest string) {
	versions := a.families.Versions(r.Dialect)
	if len(versions) == 0 {
		return nil, ""
	}
	newest = versions[0]
	want := r.DialectVersion
	if want == "" {
		want = versions[len(versions)-1]
	}
	if f = a.families.Version(r.Dialect, want); f == nil {
		f = a.families.Find(r.Dialect)
	}
	return f, newest
}

// familyVersion remembers with which version of its family's file a drive is planned, when the family is chosen.
func (a *App) familyVersion(body drivefile.Body, ops []drivefile.Op) []drivefile.Op {
	i := slices.IndexFunc(ops, func(o drivefile.Op) bool { return o.Path == "rating.dialect" })
	if i < 0 || slices.ContainsFunc(ops, func(o drivefile.Op) bool { return o.Path == "rating.dialect_version" }) {
		return nil
	}
	value := json.RawMessage("null")
	if f := a.families.Find(drivefile.TextOf(ops[i].New)); f != nil {
		value, _ = json.Marshal(f.Version) // a text always marshals
	}
	old := body.Get("rating.dialect_version")
	if drivefile.Same(old, value) {
		return nil
	}
	return []drivefile.Op{{Path: "rating.dialect_version", Old: old, New: value}}
}

// snapshotFamily is the family that a snapshot was made with, in its version when that is here.
func (a *App) snapshotFamily(s drivefile.Snapshot) *dialect.Family {
	if f := a.families.Version(s.Dialect, s.Version); f != nil {
		return f
	}
	return a.families.Find(s.Dialect)
}

// packFamilies puts the families that drives use into a bundle: under the name alone, or with the version where a
// bundle needs several of one.
func (a *App) packFamilies(used map[string]*dialect.Family, files map[string][]byte) {
	count := map[string]int{}
	for _, f := range used {
		count[f.Name]++
	}
	for _, f := range used {
		name := f.Name
		if count[name] > 1 {
			name += "-" + f.Version
		}
		files["families/"+name+".yaml"] = a.families.RawVersion(f.Name, f.Version)
	}
}

// AddFamily checks a drive family's file and keeps it in the data folder, so that drives can use it from now on. A named person brings it in,
// which is an entry of their place.
func (a *App) AddFamily(ctx context.Context, who Actor, raw []byte) (FamilyHead, error) {
	f, err := familyfile.Read(raw)
	if err != nil {
		return FamilyHead{}, notAFamily(err)
	}
	err = a.cameIn(ctx, who, drivefile.CameIn{What: "family", Name: f.Name, Version: f.Version, Hash: hashOf(raw)}, func() error { return a.keepFamily(raw, true) })
	if err != nil {
		return FamilyHead{}, err
	}
	return a.familyHead(a.families.Version(f.Name, f.Version)), nil
}

func notAFamily(err error) error {
	return &InputError{"family", err.Error(), "a family file of docs/formats/dialect.md"}
}

// keepFamily stores a family's file, and knows it only when it is on the disk.
func (a *App) keepFamily(raw []byte, strict bool) error {
	a.keeping.Lock()
	defer a.keeping.Unlock()
	if err := a.families.Check(raw, strict); err != nil {
		return notAFamily(err)
	}
	f, err := familyfile.Read(raw)
	if err != nil {
		return notAFamily(err)
	}
	if err := a.store.KeepFile(store.FamilyFolder, f.Name+"-"+f.Version, raw); err != nil {
		return err
	}
	_, err = a.families.Add(raw, strict)
	a.wakeGlances()
	return err
}

// cameIn keeps something that a named person brings in, and records it at every place where they are known.
func (a *App) cameIn(ctx context.Context, who Actor, what drivefile.CameIn, keep func() error) error {
	places, err := a.Places(ctx)
	if err != nil {
		return err
	}
	at := map[string]signer{}
	for _, p := range places {
		if by, err := person(p.Place, who); err == nil {
			at[p.ID] = by
		}
	}
	if len(at) == 0 {
		return &RefusedError{"Say who works first: a family or a practice comes in by a named person. Choose your initials at the top right."}
	}
	if err := keep(); err != nil {
		return err
	}
	return a.write(ctx, func(tx *store.Tx) error {
		for _, id := range slices.Sorted(maps.Keys(at)) {
			if err := a.addEntry(tx, at[id], id, NewID(), drivefile.EntryCameIn, what); err != nil {
				return err
			}
		}
		return nil
	})
}

// Arrival is something that came into this data folder, and who brought it.
type Arrival struct {
	At        string   `json:"at"`
	By        string   `json:"by"`
	What      string   `json:"what" enum:"bundle,family,practice"`
	Name      string   `json:"name"`
	Version   string   `json:"version,omitempty"`
	New       []string `json:"new"`
	Same      []string `json:"same"`
	Different []string `json:"different"`
}

// Arrivals lists what came in at a place, the newest first.
func (a *App) Arrivals(ctx context.Context, placeID string) ([]Arrival, error) {
	r := a.store.Read(ctx)
	_, p, err := placeOf(r, placeID)
	if err != nil {
		return nil, err
	}
	entries, err := r.Entries(placeID)
	if err != nil {
		return nil, err
	}
	out := []Arrival{}
	for _, e := range slices.Backward(entries) {
		c, ok := drivefile.Contents[drivefile.CameIn](e)
		if !ok {
			continue
		}
		by := p.SignedBy(e)
		if by == "–" && e.Name != "" {
			by = e.Name
		}
		x := Arrival{At: e.At, By: by, What: c.What, Name: c.Name, Version: c.Version, New: []string{}, Same: []string{}, Different: []string{}}
		if c.What == "bundle" {
			x.Name = ""
		}
		out = append(out, x)
		l := &out[len(out)-1]
		l.New, l.Same, l.Different = append(l.New, c.New...), append(l.Same, c.Same...), append(l.Different, c.Different...)
	}
	return out, nil
}

// FamilyFile is the YAML of a family; version "" is the newest.
func (a *App) FamilyFile(name, version string) ([]byte, error) {
	raw := a.families.RawVersion(name, version)
	if raw == nil {
		return nil, store.ErrNotFound
	}
	return raw, nil
}

// FamilyUpdate is what another version of the family's file would change for a drive.
type FamilyUpdate struct {
	From    string           `json:"from"`
	To      string           `json:"to"`
	Effects []dialect.Effect `json:"effects"`
}

// FamilyEffect shows what another version of its family's file would change for a drive. Nothing is changed by asking.
func (a *App) FamilyEffect(ctx context.Context, driveID, version string) (FamilyUpdate, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return FamilyUpdate{}, err
	}
	if j.Family == nil {
		return FamilyUpdate{}, &RefusedError{"Choose the drive's family first."}
	}
	to := a.families.Version(j.Family.Name, version)
	if to == nil {
		return FamilyUpdate{}, &InputError{"to", version, "one of " + strings.Join(a.families.Versions(j.Family.Name), ", ")}
	}
	plan := gate.PlanOf(j)
	readings := map[string]int64{}
	for code, read := range gate.Readings(j) {
		if read.Steps != nil {
			readings[code] = *read.Steps
		}
	}
	u := FamilyUpdate{From: j.Family.Version, To: to.Version, Effects: dialect.Update(j.Family, to, &plan, readings)}
	if u.Effects == nil {
		u.Effects = []dialect.Effect{}
	}
	return u, nil
}

// TakeFamily makes a drive use another version of its family's file. It is an edit, which undo takes back; readings whose
// step changed stand in the new steps only once they are read again.
func (a *App) TakeFamily(ctx context.Context, who Actor, driveID, changeID, version string) error {
	v, err := a.Drive(ctx, who, driveID)
	if err != nil {
		return err
	}
	if a.families.Version(v.Drive.Rating.Dialect, version) == nil {
		return &InputError{"version", version, "one of " + strings.Join(a.families.Versions(v.Drive.Rating.Dialect), ", ")}
	}
	return a.Change(ctx, who, driveID, Edit{ID: changeID, Edit: changeID, Why: fmt.Sprintf("family file %s %s taken after its effect was shown", v.Drive.Rating.Dialect, version), Sets: []Set{{Path: "rating.dialect_version", Text: version}}})
}
