package papers

import (
	"tingate/app/yard"
	"tingate/core/drivefile"
	"tingate/core/plate"
	"tingate/core/translate"
	"tingate/paper"
	"tingate/store"
)

// answers replays a drive's edits and lists the plate's findings that an edit corrected. What was kept is in the state.
func answers(changes []store.Change, p drivefile.Place) []paper.Answer {
	body := drivefile.Body{}
	var out []paper.Answer
	standing := map[string]string{}
	for i, c := range changes {
		if body.Apply(c.Ops) != nil {
			return out
		}
		if i+1 < len(changes) && changes[i+1].Edit == c.Edit {
			continue
		}
		d, err := drivefile.DecodeDrive(body.JSON())
		if err != nil {
			return out
		}
		now := map[string]string{}
		for _, f := range plate.Judge(translate.Plate(d.Motor)).Findings {
			if f.Severity.Open() {
				now[f.Code] = f.Title
			}
		}
		for code, title := range standing {
			if _, ok := now[code]; !ok {
				rows := yard.EditRows([]store.Change{c}, p)
				out = append(out, paper.Answer{Title: title, How: "corrected: " + rows[0].What, By: yard.ChangedBy(p, c), At: c.At})
			}
		}
		standing = now
	}
	return out
}
