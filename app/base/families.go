package base

import (
	"encoding/json"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/practice"
	"tingate/formats/practicefile"
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
	SpeedUnits  []string `json:"speed_units" doc:"in which its speeds can be counted, the delivered one first; empty: in one only"`
	Modules     []Fit    `json:"modules" doc:"what its slots take, together"`
}

// Fit is what may be in a drive's slots.
type Fit struct {
	Codes string `json:"codes"`
	Words string `json:"words"`
}

func (a *Base) HeadOf(f *dialect.Family) FamilyHead {
	h := FamilyHead{Conventions: []string{}, Versions: []string{}, Types: []string{}, Modules: []Fit{}, SpeedUnits: []string{}}
	if f == nil {
		return h
	}
	h.Name, h.Version, h.Versions, h.Firmware, h.About, h.Conventions = f.Name, f.Version, a.FamilySet.Versions(f.Name), f.Firmware,
		f.About, f.Ways()
	h.Settings, h.HasLink = len(f.Settings), f.Link.Identity.Register != 0
	if h.HasLink {
		h.ReadOnly = f.ReadOnly
	}
	for _, r := range f.Ratings {
		h.Types = append(h.Types, r.Type)
	}
	h.SpeedUnits = append(h.SpeedUnits, f.SpeedUnits()...)
	for _, l := range f.Together() {
		var codes, words []string
		for _, m := range l {
			codes, words = append(codes, m.Code), append(words, m.Code+", "+m.Name)
		}
		h.Modules = append(h.Modules, Fit{strings.Join(codes, ", "), strings.Join(words, "; ")})
	}
	return h
}

// FamilyFor is the version of the family that a drive was made with, and the newest known here. A drive without a
// version was made before versions were remembered, with the first. When the version is not here the newest is used,
// and a finding says so.
func (a *Base) FamilyFor(r drivefile.Rating) (f *dialect.Family, newest string) {
	versions := a.FamilySet.Versions(r.Dialect)
	if len(versions) == 0 {
		return nil, ""
	}
	newest = versions[0]
	want := r.DialectVersion
	if want == "" {
		want = versions[len(versions)-1]
	}
	if f = a.FamilySet.Version(r.Dialect, want); f == nil {
		f = a.FamilySet.Find(r.Dialect)
	}
	return f, newest
}

// FamilyVersion remembers with which version of its family's file a drive is planned, when the family is chosen.
func (a *Base) FamilyVersion(body drivefile.Body, ops []drivefile.Op) []drivefile.Op {
	i := slices.IndexFunc(ops, func(o drivefile.Op) bool { return o.Path == "rating.dialect" })
	if i < 0 || slices.ContainsFunc(ops, func(o drivefile.Op) bool { return o.Path == "rating.dialect_version" }) {
		return nil
	}
	value := json.RawMessage("null")
	if f := a.FamilySet.Find(drivefile.TextOf(ops[i].New)); f != nil {
		value, _ = json.Marshal(f.Version) // a text always marshals
	}
	old := body.Get("rating.dialect_version")
	if drivefile.Same(old, value) {
		return nil
	}
	return []drivefile.Op{{Path: "rating.dialect_version", Old: old, New: value}}
}

// practiceOf is the practice that a drive follows: its own, its place's, or the one that ships first.
func (a *Base) practiceOf(d drivefile.Drive, p drivefile.Place) *practice.Practice {
	for _, name := range []string{d.Practice, p.Practice, practicefile.Default} {
		if x := a.PracticeSet.Find(name); name != "" && x != nil {
			return x
		}
	}
	return nil
}

func (a *Base) PracticeNames() []string {
	var l []string
	for _, p := range a.PracticeSet.All() {
		l = append(l, p.Name)
	}
	return l
}
