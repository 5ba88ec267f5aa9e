package families

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/translate"
	"tingate/formats/familyfile"
	"tingate/store"
)

// Families lists the drive families, each in its newest version.
func (a *Library) Families() []base.FamilyHead {
	var l []base.FamilyHead
	for _, n := range a.FamilySet.Names() {
		l = append(l, a.HeadOf(a.FamilySet.Find(n)))
	}
	return l
}

// SnapshotFamily is the family that a snapshot was made with, in its version when that is here, its speeds counted as the drive did then.
func (a *Library) SnapshotFamily(s drivefile.Snapshot) *dialect.Family {
	f := a.FamilySet.Version(s.Dialect, s.Version)
	if f == nil {
		f = a.FamilySet.Find(s.Dialect)
	}
	values := make(map[string]int64, len(s.Values))
	for code, v := range s.Values {
		values[code] = v.Steps
	}
	return f.CountedBy(values)
}

// PackFamilies puts the families that drives use into a bundle: under the name alone, or with the version where a
// bundle needs several of one.
func (a *Library) PackFamilies(used map[string]*dialect.Family, files map[string][]byte) {
	count := map[string]int{}
	for _, f := range used {
		count[f.Name]++
	}
	for _, f := range used {
		name := f.Name
		if count[name] > 1 {
			name += "-" + f.Version
		}
		files["families/"+name+".yaml"] = a.FamilySet.RawVersion(f.Name, f.Version)
	}
}

// AddFamily checks a drive family's file and keeps it in the data folder, so that drives can use it from now on. A named person brings it
// in, which is an entry of their place.
func (a *Library) AddFamily(ctx context.Context, who base.Actor, raw []byte) (base.FamilyHead, error) {
	f, err := familyfile.Read(raw)
	if err != nil {
		return base.FamilyHead{}, notAFamily(err)
	}
	err = a.cameIn(ctx, who, drivefile.CameIn{What: "family", Name: f.Name, Version: f.Version, Hash: base.HashOf(raw)},
		func() error { return a.KeepFamily(raw, true) })
	if err != nil {
		return base.FamilyHead{}, err
	}
	return a.HeadOf(a.FamilySet.Version(f.Name, f.Version)), nil
}

func notAFamily(err error) error {
	return base.Bad("family", err.Error(), "a family file of docs/formats/dialect.md")
}

// KeepFamily stores a family's file, and knows it only when it is on the disk.
func (a *Library) KeepFamily(raw []byte, strict bool) error {
	a.keeping.Lock()
	defer a.keeping.Unlock()
	if err := a.FamilySet.Check(raw, strict); err != nil {
		return notAFamily(err)
	}
	f, err := familyfile.Read(raw)
	if err != nil {
		return notAFamily(err)
	}
	if err := a.Store.KeepFile(store.FamilyFolder, f.Name+"-"+f.Version, raw); err != nil {
		return err
	}
	_, err = a.FamilySet.Add(raw, strict)
	a.WakeGlances()
	return err
}

// cameIn keeps something that a named person brings in, and records it at every place where they are known.
func (a *Library) cameIn(ctx context.Context, who base.Actor, what drivefile.CameIn, keep func() error) error {
	places, err := a.yard.Places(ctx)
	if err != nil {
		return err
	}
	at := map[string]base.Signer{}
	for _, p := range places {
		if by, err := base.PersonOf(p.Place, who); err == nil {
			at[p.ID] = by
		}
	}
	if len(at) == 0 {
		return base.Refuse("Say who works first: a family or a practice comes in by a named person. Choose your initials at the top right.")
	}
	if err := keep(); err != nil {
		return err
	}
	return a.InTx(ctx, func(tx *store.Tx) error {
		for _, id := range slices.Sorted(maps.Keys(at)) {
			if err := a.AddEntry(tx, at[id], id, base.NewID(), drivefile.EntryCameIn, what); err != nil {
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
func (a *Library) Arrivals(ctx context.Context, placeID string) ([]Arrival, error) {
	r := a.Store.Read(ctx)
	_, p, err := base.PlaceOf(r, placeID)
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
		x := Arrival{At: e.At, By: by, What: c.What, Name: c.Name, Version: c.Version, New: []string{}, Same: []string{},
			Different: []string{}}
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
func (a *Library) FamilyFile(name, version string) ([]byte, error) {
	raw := a.FamilySet.RawVersion(name, version)
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
func (a *Library) FamilyEffect(ctx context.Context, driveID, version string) (FamilyUpdate, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return FamilyUpdate{}, err
	}
	if j.Family == nil {
		return FamilyUpdate{}, base.Refuse("Choose the drive's family first.")
	}
	to := a.FamilySet.Version(j.Family.Name, version)
	if to == nil {
		return FamilyUpdate{}, base.Bad("to", version, "one of "+strings.Join(a.FamilySet.Versions(j.Family.Name), ", "))
	}
	to = translate.Fitted(to, j.Drive)
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
func (a *Library) TakeFamily(ctx context.Context, who base.Actor, driveID, changeID, version string) error {
	v, err := a.Drive(ctx, who, driveID)
	if err != nil {
		return err
	}
	if a.FamilySet.Version(v.Drive.Rating.Dialect, version) == nil {
		return base.Bad("version", version, "one of "+strings.Join(a.FamilySet.Versions(v.Drive.Rating.Dialect), ", "))
	}
	return a.drives.Change(ctx, who, driveID,
		drives.Edit{ID: changeID, Edit: changeID,
			Why:  fmt.Sprintf("family file %s %s taken after its effect was shown", v.Drive.Rating.Dialect, version),
			Sets: []drives.Set{{Path: "rating.dialect_version", Text: version}}})
}
