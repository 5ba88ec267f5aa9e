package base

import (
	"strings"

	"context"
	"time"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/core/sheet"
	"tingate/core/translate"
	"tingate/store"
)

func SettingOf(f *dialect.Family, code string) (*dialect.Setting, error) {
	if f == nil {
		return nil, Refuse("Choose the drive's family first.")
	}
	s, ok := f.Setting(code)
	if !ok {
		return nil, Bad("code", code, "a setting of "+f.Name)
	}
	return s, nil
}

func LineOf(s gate.State, code string) *sheet.Line {
	for i := range s.Lines {
		if s.Lines[i].Code == code {
			return &s.Lines[i]
		}
	}
	return nil
}

func (a *Base) Versions(j gate.Job) map[string]string {
	v := map[string]string{"program": a.Version, "rules": gate.RulesVersion}
	if j.Practice != nil {
		v["practice"] = j.Practice.Name + " " + j.Practice.Version
	}
	if j.Family != nil {
		v["dialect"] = j.Family.Name + " " + j.Family.Version + " " + j.Family.Hash
	}
	return v
}

func FindCheck(s gate.State, key string) (*gate.Check, *gate.Gate) {
	for i := range s.Gates {
		for k := range s.Gates[i].Checks {
			if s.Gates[i].Checks[k].Key == key {
				return &s.Gates[i].Checks[k], &s.Gates[i]
			}
		}
	}
	return nil, nil
}

// View is a drive with what holds now.
type View struct {
	ID      string          `json:"id"`
	Version int64           `json:"version"`
	Seq     int64           `json:"seq" doc:"number of the newest change or entry, of the drive or its place, that this view rests on"`
	Drive   drivefile.Drive `json:"drive"`
	State   gate.State      `json:"state"`
	Family  FamilyHead      `json:"family"`
	Undo    string          `json:"undo" doc:"what undo would take back; empty when there is nothing of one's own"`
}

// Job gathers what an evaluation of a drive needs.
func (a *Base) Job(r store.Reader, doc store.Document) (gate.Job, store.Document, error) {
	d, err := drivefile.DecodeDrive(doc.Body)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	pd, p, err := PlaceOf(r, doc.Place)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	entries, err := r.Entries(doc.ID)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	energy, err := r.Entries(doc.Place)
	f, newest := a.FamilyFor(d.Rating)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	near, err := a.neighbours(r, doc, d, p)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	var shown map[string]string
	if f.Brought() {
		rows, err := r.ShownRows(d.Rating.Dialect, d.Rating.DialectVersion, doc.ID)
		if err != nil {
			return gate.Job{}, store.Document{}, err
		}
		shown = map[string]string{}
		for _, x := range rows {
			shown[x.Code] = x.Tag
		}
	}
	var same []string
	if tag := strings.TrimSpace(d.Tag); tag != "" {
		same, err = r.SameTag(doc.Place, tag, doc.ID)
	}
	return gate.Job{
		ID:         doc.ID,
		Drive:      d,
		Place:      p,
		Family:     translate.Fitted(f, d),
		Newest:     newest,
		Practice:   a.practiceOf(d, p),
		Since:      a.Since,
		Entries:    entries,
		Energy:     isolation.ByID(energy),
		Zone:       ZoneOf(p),
		OwnCircuit: ownCircuit(r, d, p),
		Neighbours: near,
		SameTag:    same, Shown: shown,
	}, pd, err
}

// ZoneOf is the place's time zone; UTC when it names none that is known.
func ZoneOf(p drivefile.Place) *time.Location {
	if z, err := time.LoadLocation(p.Zone); err == nil {
		return z
	}
	return time.UTC
}

func PlaceOf(r store.Reader, id string) (store.Document, drivefile.Place, error) {
	pd, err := r.Document(id)
	if err != nil {
		return pd, drivefile.Place{}, err
	}
	p, err := drivefile.DecodePlace(pd.Body)
	return pd, p, err
}

func DriveDoc(r store.Reader, id string) (store.Document, error) {
	doc, err := r.Document(id)
	if err == nil && doc.Kind != drivefile.KindDrive {
		err = store.ErrNotFound
	}
	return doc, err
}

// Drive shows a drive, as it stands at one moment.
func (a *Base) Drive(ctx context.Context, who Actor, id string) (v View, err error) {
	err = a.Store.Snapshot(ctx, func(r store.Reader) error {
		v, err = a.ViewOf(r, who, id)
		return err
	})
	return v, err
}

func (a *Base) ViewOf(r store.Reader, who Actor, id string) (View, error) {
	doc, err := DriveDoc(r, id)
	if err != nil {
		return View{}, err
	}
	j, _, err := a.Job(r, doc)
	if err != nil {
		return View{}, err
	}
	changes, err := r.RecentChanges(id, UndoLooksBack)
	if err != nil {
		return View{}, err
	}
	v := View{ID: id, Version: doc.Version, Drive: j.Drive, State: a.Evaluate(j), Family: a.HeadOf(j.Family)}
	if n := len(changes); n > 0 {
		v.Seq = changes[n-1].Seq
	}
	if n := len(j.Entries); n > 0 {
		v.Seq = max(v.Seq, j.Entries[n-1].Seq)
	}
	of, err := r.LastOf(doc.Place) // what feeds it, and who works there
	if err != nil {
		return View{}, err
	}
	v.Seq = max(v.Seq, of)
	if edit := LastEdit(changes, who); edit != nil {
		v.Undo = Describe(edit)
	}
	return v, nil
}

// FamilyOf is the family as a drive has it; nil: none is chosen.
func (a *Base) FamilyOf(v View) *dialect.Family {
	f, _ := a.FamilyFor(v.Drive.Rating)
	return translate.Fitted(f, v.Drive)
}

// DriveJob gathers a drive for an act that only looks.
func (a *Base) DriveJob(ctx context.Context, id string) (gate.Job, error) {
	j, err := a.AnyJob(ctx, id)
	if err == nil && j.Family == nil {
		err = Refuse("Choose the drive's family first.")
	}
	return j, err
}

// AnyJob is a drive's job, with or without a family.
func (a *Base) AnyJob(ctx context.Context, id string) (gate.Job, error) {
	r := a.Store.Read(ctx)
	doc, err := DriveDoc(r, id)
	if err != nil {
		return gate.Job{}, err
	}
	j, _, err := a.Job(r, doc)
	return j, err
}

// Placed is a drive as it stands, with its place.
func (a *Base) Placed(ctx context.Context, driveID string) (View, drivefile.Place, error) {
	r := a.Store.Read(ctx)
	v, err := a.ViewOf(r, Actor{}, driveID)
	if err != nil {
		return v, drivefile.Place{}, err
	}
	_, p, err := PlaceOf(r, v.Drive.Place)
	return v, p, err
}
