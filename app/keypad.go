package app

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/core/sheet"
)

// drive gathers a drive for an act that only looks.
func (a *App) drive(ctx context.Context, id string) (gate.Job, error) {
	j, err := a.anyDrive(ctx, id)
	if err == nil && j.Family == nil {
		err = &RefusedError{"Choose the drive's family first."}
	}
	return j, err
}

// anyDrive is a drive's job, with or without a family.
func (a *App) anyDrive(ctx context.Context, id string) (gate.Job, error) {
	r := a.store.Read(ctx)
	doc, err := driveDoc(r, id)
	if err != nil {
		return gate.Job{}, err
	}
	j, _, err := a.job(r, doc)
	return j, err
}

// Settings are all settings of a drive's family with what was done to each: planned, entered, written, read, left so.
func (a *App) Settings(ctx context.Context, driveID string) ([]sheet.SettingRow, error) {
	j, err := a.drive(ctx, driveID)
	if err != nil {
		return nil, err
	}
	return gate.Settings(j, a.now()), nil
}

// Sent is the log of every request that wrote to a drive, newest first.
func (a *App) Sent(ctx context.Context, driveID string) ([]sheet.Sent, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return nil, err
	}
	return sheet.SentLog(j.Entries, j.Family), nil
}

// Route is the way through the keypad for what is still to be entered.
type Route struct {
	Stops   []RouteStop        `json:"stops"`
	Refused []dialect.HeldBack `json:"refused" doc:"what the drive would refuse now, and what to do first"`
	Presses int                `json:"presses" doc:"key presses to reach and keep them all, without the values themselves"`
	Home    dialect.Step       `json:"home"`
	Entered int                `json:"entered" doc:"set on the keypad and not read back since"`
}

// RouteStop is one setting on the way.
type RouteStop struct {
	dialect.Stop
	Name    string       `json:"name"`
	SetTo   string       `json:"set_to"`
	Motion  bool         `json:"motion"`
	Running bool         `json:"running"`
	Voids   []string     `json:"voids"`
	Moves   []string     `json:"moves"`
	Acting  string       `json:"acting"`
	Entered *record.Fact `json:"entered,omitempty"`
}

// KeypadRoute orders what is still to be entered so that it takes few key presses from where the keypad stands (a code;
// empty: its home display). running and remote are as the person at the drive sees them.
func (a *App) KeypadRoute(ctx context.Context, driveID, at string, running, remote bool) (Route, error) {
	out := Route{Stops: []RouteStop{}, Refused: []dialect.HeldBack{}}
	j, err := a.drive(ctx, driveID)
	if err != nil {
		return out, err
	}
	f := j.Family
	if _, ok := f.Setting(at); at != "" && !ok {
		return out, &InputError{"at", at, "a setting of " + f.Name + ", or nothing for its home display"}
	}
	state := gate.Evaluate(j, a.now())
	now := dialect.Now{Running: running, Remote: remote}
	holds := map[string]int64{}
	for code, r := range gate.Readings(j) {
		if r.Steps != nil {
			holds[code] = *r.Steps
		}
	}
	if v, ok := holds[f.Access.Setting]; ok {
		now.Access = &v
	}
	lines := map[string]*sheet.Line{}
	values := map[string]int64{}
	for i := range state.Lines {
		l := &state.Lines[i]
		if !l.Planned || l.Verdict == sheet.Holds {
			continue
		}
		if l.Entered != nil && l.Entered.Steps == l.Steps && (l.Read == nil || l.Read.At < l.Entered.At) {
			out.Entered++
			continue
		}
		s, _ := f.Setting(l.Code)
		if back := f.Refuses(s, now); back != nil {
			out.Refused = append(out.Refused, *back)
			continue
		}
		lines[l.Code], values[l.Code] = l, l.Steps
	}
	for _, st := range f.Route(at, values, holds) {
		l := lines[st.Code]
		row := RouteStop{Stop: st, Name: l.Name, SetTo: l.SetTo, Motion: l.Motion, Running: l.Running, Voids: l.Voids, Moves: l.Moves, Acting: l.Acting, Entered: l.Entered}
		if row.Voids == nil {
			row.Voids = []string{}
		}
		if row.Moves == nil {
			row.Moves = []string{}
		}
		out.Stops = append(out.Stops, row)
		out.Presses += dialect.Presses(st.Go) + dialect.Presses(st.Value[len(st.Value)-1:])
	}
	out.Home = f.Keypad.Home
	return out, nil
}

// Enter records that a planned value was set on the keypad. It proves nothing: what the drive holds is read back.
func (a *App) Enter(ctx context.Context, who Actor, driveID, id, code string) error {
	return a.record(ctx, who, driveID, id, drivefile.EntryEntered, func(s situation) (any, error) {
		set, err := setting(s.job.Family, code)
		if err != nil {
			return nil, err
		}
		line := lineOf(s.state, code)
		if line == nil || !line.Planned {
			return nil, &RefusedError{"Nothing is planned for " + code + ". Type what the keypad shows instead."}
		}
		return drivefile.Entered{Code: code, Text: set.Text(line.Steps), Steps: line.Steps}, nil
	})
}

// LeaveAsDelivered records that a setting stays at its delivery value on purpose: somebody has looked and decided.
func (a *App) LeaveAsDelivered(ctx context.Context, who Actor, driveID, id, code, reason string) error {
	return a.record(ctx, who, driveID, id, drivefile.EntryDecision, func(s situation) (any, error) {
		set, err := setting(s.job.Family, code)
		if err != nil {
			return nil, err
		}
		if l := lineOf(s.state, code); l != nil && l.Planned {
			return nil, &RefusedError{code + " is planned as " + l.SetTo + "; there is nothing to leave as delivered."}
		}
		plan := gate.PlanOf(s.job)
		delivery := set.Text(set.DeliveryFor(plan.Variant))
		if r, ok := gate.Readings(s.job)[code]; ok && r.Steps != nil && *r.Steps != set.DeliveryFor(plan.Variant) {
			return nil, &RefusedError{fmt.Sprintf("%s reads %s, not its delivery value %s. Set it on the keypad and read it again, or say what is wanted.", code, r.Shown, set.WithUnit(set.DeliveryFor(plan.Variant)))}
		}
		return drivefile.Decision{Type: "as-delivered", Key: "setting/" + code, Reason: strings.TrimSpace(reason), Basis: map[string]string{"delivery": delivery}, Versions: a.versions(s.job)}, nil
	})
}

// Heard records a setting as one person reads it aloud and another types it. reader is the id of whoever reads.
func (a *App) Heard(ctx context.Context, who Actor, driveID, id, code, text, reader string) error {
	return a.record(ctx, who, driveID, id, drivefile.EntryReading, func(s situation) (any, error) {
		if _, ok := s.job.Place.People[reader]; !ok {
			return nil, &InputError{"read_by", reader, "a person of this place: choose who reads aloud"}
		}
		set, err := setting(s.job.Family, code)
		if err != nil {
			return nil, err
		}
		r := drivefile.Reading{Code: code, Text: strings.TrimSpace(text), How: "voice", ReadBy: reader}
		if r.Text == "" || len(r.Text) > 200 {
			return nil, &InputError{"text", fmt.Sprint(len(r.Text), " characters"), "what the keypad shows, 1 to 200 characters"}
		}
		steps, err := set.Read(r.Text)
		var fe *dialect.FieldError
		if errors.As(err, &fe) {
			r.Problem = "Wanted: " + fe.Want + "."
			return r, nil
		}
		r.Steps = &steps
		return r, nil
	})
}
