package families

import (
	"context"

	"tingate/app/base"
	"tingate/core/dialect"
)

// mostFound is how many things a search gives: more than a person reads.
const mostFound = 60

// Find finds what people ask for over all families known here, in their newest versions.
func (a *Library) Find(question string) []dialect.Hit {
	return a.finder().Find(question, mostFound)
}

// finder is made once for the families as they are.
func (a *Library) finder() *dialect.Finder {
	now := a.FamilySet.Hash()
	a.finding.Lock()
	defer a.finding.Unlock()
	if a.found == nil || a.foundOf != now {
		var list []*dialect.Family
		for _, name := range a.FamilySet.Names() {
			list = append(list, a.FamilySet.Find(name))
		}
		a.found, a.foundOf = dialect.NewFinder(list), now
	}
	return a.found
}

// DrivesOf are the drives of a place by their family.
type DrivesOf struct {
	Family string  `json:"family"`
	Drives int     `json:"drives"`
	Some   []OneOf `json:"some" doc:"the first of them by tag"`
}

// OneOf is one such drive.
type OneOf struct {
	ID  string `json:"id"`
	Tag string `json:"tag"`
}

// DrivesByFamily counts the drives of a place by family.
func (a *Library) DrivesByFamily(ctx context.Context, placeID string) ([]DrivesOf, error) {
	r := a.Store.Read(ctx)
	if _, _, err := base.PlaceOf(r, placeID); err != nil {
		return nil, err
	}
	rows, err := r.DrivesByFamily(placeID)
	if err != nil {
		return nil, err
	}
	out := []DrivesOf{}
	for _, d := range rows {
		n := len(out) - 1
		if n < 0 || out[n].Family != d.Family {
			out = append(out, DrivesOf{Family: d.Family, Some: []OneOf{}})
			n++
		}
		out[n].Drives++
		if len(out[n].Some) < 12 {
			out[n].Some = append(out[n].Some, OneOf{d.ID, d.Tag})
		}
	}
	return out, nil
}
