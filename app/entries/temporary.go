package entries

import (
	"context"
	"strings"

	"tingate/app/base"
	"tingate/core/drivefile"
)

// PutTemporary records a thing that must not stay in; TakeTemporary that it is out again.
func (a *Entries) PutTemporary(ctx context.Context, who base.Actor, driveID, id string, t drivefile.Temporary) error {
	kinds := []string{"jumper", "disabled-protection", "trial-value", "opened-cover", "cleared-password", "hand-mode", "other"}
	return a.Put(ctx, who, driveID, id, drivefile.EntryTemporary, func(base.Situation) (any, error) {
		known := false
		for _, k := range kinds {
			known = known || k == t.What
		}
		switch {
		case !known:
			return nil, base.Bad("what", t.What, "one of "+strings.Join(kinds, ", "))
		case strings.TrimSpace(t.Where) == "":
			return nil, base.Bad("where", "nothing", "where it is: terminals, setting, cover")
		case strings.TrimSpace(t.Why) == "":
			return nil, base.Bad("why", "nothing", "why it is in")
		}
		t.Gone, t.How = "", ""
		return t, nil
	})
}

// TakeTemporary records that a temporary thing is out again.
func (a *Entries) TakeTemporary(ctx context.Context, who base.Actor, driveID, id, entry, how string) error {
	return a.Put(ctx, who, driveID, id, drivefile.EntryTemporary, func(s base.Situation) (any, error) {
		for _, t := range s.State.Temporary {
			if t.Entry == entry && entry != "" {
				return drivefile.Temporary{Gone: entry, How: strings.TrimSpace(how)}, nil
			}
		}
		return nil, base.Bad("entry", entry, "a temporary thing that is in")
	})
}
