package families

import (
	"context"
	"math"
	"strings"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/core/gate"
	"tingate/core/quantity"
	"tingate/core/translate"
)

// MoveSide is one setting of a drive that is moved to another family.
type MoveSide struct {
	Code  string `json:"code"`
	Name  string `json:"name"`
	SetTo string `json:"set_to"`
}

// MoveRow is one thing wanted, in the words of both families.
type MoveRow struct {
	From   *MoveSide `json:"from,omitempty"`
	To     *MoveSide `json:"to,omitempty"`
	Status string    `json:"status" enum:"carried,approximated,no-counterpart,to-be-decided"`
	Note   string    `json:"note"`
}

// Move shows what becomes of a drive's settings on a drive of another family. Nothing is changed by looking.
// current is the other drive's rated current as typed; empty takes this drive's own.
func (a *Library) Move(ctx context.Context, driveID, family, current string) ([]MoveRow, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return nil, err
	}
	to := a.FamilySet.Find(family)
	if to == nil {
		return nil, base.Bad("to", family, "one of "+strings.Join(a.FamilySet.Names(), ", "))
	}
	if j.Family == nil {
		return nil, base.Refuse("Choose the drive's family first.")
	}
	to = translate.Fitted(to, j.Drive)
	p := gate.PlanOf(j)
	if strings.TrimSpace(current) != "" {
		q, err := quantity.Current.Parse(current)
		if err != nil {
			return nil, base.Bad("current", current, "the other drive's rated current, like 16 A")
		}
		p.DriveCurrent, _ = q.In(quantity.Current, "A")
	}
	rows := []MoveRow{}
	for _, m := range dialect.Move(j.Family, to, &p) {
		rows = append(rows, MoveRow{moveSide(m.From), moveSide(m.To), m.Status, m.Note})
	}
	return rows, nil
}

func moveSide(l *dialect.Line) *MoveSide {
	if l == nil {
		return nil
	}
	s := &MoveSide{Code: l.Setting.Code, Name: l.Setting.Name}
	if l.Planned && !math.IsNaN(l.Exact) {
		s.SetTo = l.SetTo()
	}
	return s
}
