package families

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/formats/devicefile"
	"tingate/formats/familyfile"
	"tingate/store"
)

// ReadList reads what a family is to be made from: a settings list, a workbook, a table copied out of a text, a register list, or a device
// description. name is the file's; empty: it was pasted. Nothing is kept by asking.
func (a *Library) ReadList(name string, raw []byte, ask familyfile.Asked) (l familyfile.List, err error) {
	kind := "list"
	if devicefile.Is(raw) {
		kind = "device"
		l, err = familyfile.FromDevice(raw)
	} else {
		l, err = familyfile.FromList(raw, ask)
	}
	if err != nil {
		return l, badList(err)
	}
	l.Draft.Source, l.Draft.SourceKind = cmp.Or(name, "pasted text"), kind
	return l, nil
}

// badList says what a reader got and wanted, once.
func badList(err error) error {
	got, want, told := strings.Cut(err.Error(), "want ")
	if !told {
		want = "a list with a code and a name on each line, a workbook (.xlsx), or a device description (EDS, DCF)"
	}
	for _, own := range []string{"list: ", "device description: "} {
		got = strings.TrimPrefix(got, own)
	}
	return base.Bad("list", strings.TrimRight(strings.Replace(got, "got ", "", 1), ",:; "), want)
}

// DraftOf is a family as rows to be changed, under the next version.
func (a *Library) DraftOf(name, version string) (familyfile.Draft, error) {
	f := a.FamilySet.Version(name, version)
	if version == "" {
		f = a.FamilySet.Find(name)
	}
	if f == nil {
		return familyfile.Draft{}, store.ErrNotFound
	}
	d := familyfile.DraftOf(f)
	d.Version = nextVersion(a.FamilySet.Versions(f.Name)[0])
	return d, nil
}

// MergeDraft puts into a draft what others changed since it was begun: the newest version of its family against the one that it goes out
// from. Nothing is kept by it.
func (a *Library) MergeDraft(d familyfile.Draft) (familyfile.Merged, error) {
	was, newest := a.FamilySet.Version(d.BaseName, d.BaseVersion), a.FamilySet.Find(d.BaseName)
	if was == nil || newest == nil {
		return familyfile.Merged{}, base.Bad("base_name", d.BaseName+" "+d.BaseVersion, "a family known here")
	}
	m := familyfile.Merge(familyfile.DraftOf(was), d, familyfile.DraftOf(newest))
	m.Draft.Version = nextVersion(a.FamilySet.Versions(newest.Name)[0])
	return m, nil
}

// nextVersion counts the last number of a version up by one.
func nextVersion(v string) string {
	i := strings.LastIndex(v, ".") + 1
	if n, err := strconv.Atoi(v[i:]); err == nil {
		return v[:i] + strconv.Itoa(n+1)
	}
	return v + ".1"
}

// DraftCheck says what keeps a draft from being a family.
type DraftCheck struct {
	Problems []familyfile.RowFault `json:"problems"`
	Settings int                   `json:"settings"`
	Roles    int                   `json:"roles" doc:"settings that carry an intent, or do something else"`
	Missing  []string              `json:"missing" doc:"what most families have and this one does not say"`
	Kept     *base.FamilyHead      `json:"kept,omitempty" doc:"the family, once it is kept"`
}

// usual are the intents without which a settings sheet is of little use.
var usual = []struct{ intent, name string }{
	{"motor.power", "motor power"}, {"motor.voltage", "motor voltage"}, {"motor.frequency", "motor frequency"},
	{"motor.current", "motor current"}, {"motor.speed", "motor speed"},
	{"overload.current", "motor overload"}, {"frequency.cap", "highest frequency"}, {"speed.highest", "upper limit"},
	{"speed.lowest", "lower limit"}, {"ramp.rise", "rise"}, {"ramp.fall", "fall"},
	{"choice.command_source", "where the run command comes from"}, {"choice.speed_source", "where the speed comes from"},
}

// CheckDraft builds a family of a draft and says what is wrong; with keep it is kept when nothing is.
func (a *Library) CheckDraft(ctx context.Context, who base.Actor, d familyfile.Draft, keep bool) (DraftCheck, error) {
	out := DraftCheck{Problems: []familyfile.RowFault{}, Missing: []string{}, Settings: len(d.Rows)}
	var from *dialect.Family
	if d.BaseName != "" {
		if from = a.FamilySet.Version(d.BaseName, d.BaseVersion); from == nil {
			return out, base.Bad("base_name", d.BaseName+" "+d.BaseVersion, "a family known here")
		}
	}
	if keep {
		var err error
		if d.By, err = a.nameOf(ctx, who); err != nil {
			return out, err
		}
	}
	f, raw, problems := familyfile.Build(d, from)
	out.Problems = append(out.Problems, problems...)
	have := map[string]bool{}
	for _, r := range d.Rows {
		out.Roles += count(r.Intent != "" || r.Drives != "")
		if r.Intent != "" {
			have[r.Intent] = true
		}
	}
	for _, u := range usual {
		if !have[u.intent] {
			out.Missing = append(out.Missing, u.name)
		}
	}
	twice := map[string]string{}
	for i, r := range d.Rows {
		if r.Intent == "" {
			continue
		}
		if other, ok := twice[r.Intent]; ok {
			out.Problems = append(out.Problems,
				familyfile.RowFault{Row: i + 1, Field: "intent", Got: r.Intent, Want: "an intent used once; " + other + " has it"})
		}
		twice[r.Intent] = r.Code
	}
	if !keep || len(out.Problems) > 0 {
		return out, nil
	}
	if a.FamilySet.Version(f.Name, f.Version) != nil {
		out.Problems = append(out.Problems,
			familyfile.RowFault{Row: 0, Field: "version", Got: f.Version,
				Want: fmt.Sprintf("a version that is not taken; here are %s", strings.Join(a.FamilySet.Versions(f.Name), ", "))})
		return out, nil
	}
	h, err := a.AddFamily(ctx, who, raw)
	var refused *base.RefusedError
	if errors.As(err, &refused) {
		return out, err
	}
	if err != nil {
		out.Problems = append(out.Problems, familyfile.RowFault{Row: 0, Field: "name", Got: d.Name, Want: err.Error()})
		return out, nil
	}
	out.Kept = &h
	return out, nil
}

// nameOf is a person's name as a place has it; empty when no place knows them.
func (a *Library) nameOf(ctx context.Context, who base.Actor) (string, error) {
	places, err := a.yard.Places(ctx)
	if err != nil {
		return "", err
	}
	for _, p := range places {
		if by, err := base.PersonOf(p.Place, who); err == nil {
			return cmp.Or(by.Name, by.Initials), nil
		}
	}
	return "", nil
}

func count(is bool) int {
	if is {
		return 1
	}
	return 0
}
