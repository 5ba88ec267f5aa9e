package app

import (
	"context"
	"strings"

	"tingate/core/drivefile"
)

// PutTemporary records a thing that must not stay in; TakeTemporary that it is out again.
func (a *App) PutTemporary(ctx context.Context, who Actor, driveID, id string, t drivefile.Temporary) error {
	kinds := []string{"jumper", "disabled-protection", "trial-value", "opened-cover", "cleared-password", "hand-mode", "other"}
	return a.record(ctx, who, driveID, id, drivefile.EntryTemporary, func(situation) (any, error) {
		known := false
		for _, k := range kinds {
			known = known || k == t.What
		}
		switch {
		case !known:
			return nil, &InputError{"what", t.What, "one of " + strings.Join(kinds, ", ")}
		case strings.TrimSpace(t.Where) == "":
			return nil, &InputError{"where", "nothing", "where it is: terminals, setting, cover"}
		case strings.TrimSpace(t.Why) == "":
			return nil, &InputError{"why", "nothing", "why it is in"}
		}
		t.Gone, t.How = "", ""
		return t, nil
	})
}

// TakeTemporary records that a temporary thing is out again.
func (a *App) TakeTemporary(ctx context.Context, who Actor, driveID, id, entry, how string) error {
	return a.record(ctx, who, driveID, id, drivefile.EntryTemporary, func(s situation) (any, error) {
		for _, t := range s.state.Temporary {
			if t.Entry == entry && entry != "" {
				return drivefile.Temporary{Gone: entry, How: strings.TrimSpace(how)}, nil
			}
		}
		return nil, &InputError{"entry", entry, "a temporary thing that is in"}
	})
}
