package drives

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/core/sheet"
)

// Settings are all settings of a drive's family with what was done to each: planned, entered, written, read, left so.
func (a *Drives) Settings(ctx context.Context, driveID string) ([]sheet.SettingRow, error) {
	j, err := a.DriveJob(ctx, driveID)
	if err != nil {
		return nil, err
	}
	return gate.Settings(j, a.Now()), nil
}

// Sent is the log of every request that wrote to a drive, newest first.
func (a *Drives) Sent(ctx context.Context, driveID string) ([]sheet.Sent, error) {
	j, err := a.AnyJob(ctx, driveID)
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
	// How an edit that is not kept shows: not-kept, kept (what blinks is), never; empty: the file does not say.
	Blinking string `json:"blinking"`
	Entered  int    `json:"entered" doc:"set on the keypad and not read back since"`
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
func (a *Drives) KeypadRoute(ctx context.Context, driveID, at string, running, remote bool) (Route, error) {
	out := Route{Stops: []RouteStop{}, Refused: []dialect.HeldBack{}}
	j, err := a.DriveJob(ctx, driveID)
	if err != nil {
		return out, err
	}
	f := j.Family
	if _, ok := f.Setting(at); at != "" && !ok {
		return out, base.Bad("at", at, "a setting of "+f.Name+", or nothing for its home display")
	}
	state := gate.Evaluate(j, a.Now())
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
	if k, steps := closes(f, state, len(values)); k != nil {
		lines[k.Code], values[k.Code] = &sheet.Line{
			Code:   k.Code,
			Name:   k.Name,
			SetTo:  k.WithUnit(steps),
			Acting: "keeps all that was set",
		}, steps
	}
	for _, st := range f.Route(at, values, holds) {
		l := lines[st.Code]
		out.Stops = append(out.Stops, stopOf(st, l))
		out.Presses += dialect.Presses(st.Go) + dialect.Presses(st.Value[len(st.Value)-1:])
	}
	out.Home, out.Blinking = f.Keypad.Home, f.Keypad.Blinking
	return out, nil
}

// stopOf is a stop with what its line says of it.
func stopOf(st dialect.Stop, l *sheet.Line) RouteStop {
	row := RouteStop{Stop: st, Name: l.Name, SetTo: l.SetTo, Motion: l.Motion, Running: l.Running, Voids: l.Voids, Moves: l.Moves,
		Acting: l.Acting, Entered: l.Entered}
	if row.Voids == nil {
		row.Voids = []string{}
	}
	if row.Moves == nil {
		row.Moves = []string{}
	}
	return row
}

// closes is what closes the list where the keypad keeps on command: while something is to be set, or waits to be kept.
func closes(f *dialect.Family, state gate.State, toSet int) (*dialect.Setting, int64) {
	waits := state.Unkept != nil && len(state.Unkept.Waiting) > 0
	if f.Kept.Keypad != dialect.KeptOnCommand || toSet == 0 && !waits {
		return nil, 0
	}
	return f.Keeps()
}

// Enter records that a planned value was set on the keypad. It proves nothing: what the drive holds is read back.
func (a *Drives) Enter(ctx context.Context, who base.Actor, driveID, id, code string) error {
	return a.Put(ctx, who, driveID, id, drivefile.EntryEntered, func(s base.Situation) (any, error) {
		set, err := base.SettingOf(s.Job.Family, code)
		if err != nil {
			return nil, err
		}
		line := base.LineOf(s.State, code)
		if k, steps := s.Job.Family.Keeps(); k != nil && k.Code == code {
			return drivefile.Entered{Code: code, Text: k.Text(steps), Steps: steps}, nil
		}
		if line == nil || !line.Planned {
			return nil, base.Refuse("Nothing is planned for " + code + ". Type what the keypad shows instead.")
		}
		return drivefile.Entered{Code: code, Text: set.AsRead(line.Steps, line.SetTo), Steps: line.Steps}, nil
	})
}

// LeaveAsDelivered records that a setting stays at its delivery value on purpose: somebody has looked and decided.
func (a *Drives) LeaveAsDelivered(ctx context.Context, who base.Actor, driveID, id, code, reason string) error {
	return a.Put(ctx, who, driveID, id, drivefile.EntryDecision, func(s base.Situation) (any, error) {
		set, err := base.SettingOf(s.Job.Family, code)
		if err != nil {
			return nil, err
		}
		if l := base.LineOf(s.State, code); l != nil && l.Planned {
			return nil, base.Refuse(code + " is planned as " + l.SetTo + "; there is nothing to leave as delivered.")
		}
		plan := gate.PlanOf(s.Job)
		delivery := set.Text(set.DeliveryFor(plan.Variant))
		if r, ok := gate.Readings(s.Job)[code]; ok && r.Steps != nil && *r.Steps != set.DeliveryFor(plan.Variant) {
			return nil, base.Refuse(fmt.Sprintf("%s reads %s, not its delivery value %s. Set it on the keypad and read it again, or say "+
				"what is wanted.", code, r.Shown, set.WithUnit(set.DeliveryFor(plan.Variant))))
		}
		return drivefile.Decision{Type: "as-delivered", Key: "setting/" + code, Reason: strings.TrimSpace(reason),
			Basis: map[string]string{"delivery": delivery}, Versions: a.Versions(s.Job)}, nil
	})
}

// Heard records a setting as one person reads it aloud and another types it. reader is the id of whoever reads.
func (a *Drives) Heard(ctx context.Context, who base.Actor, driveID, id, code, text, reader string) error {
	return a.Put(ctx, who, driveID, id, drivefile.EntryReading, func(s base.Situation) (any, error) {
		if _, ok := s.Job.Place.People[reader]; !ok {
			return nil, base.Bad("read_by", reader, "a person of this place: choose who reads aloud")
		}
		set, err := base.SettingOf(s.Job.Family, code)
		if err != nil {
			return nil, err
		}
		r := drivefile.Reading{Code: code, Text: strings.TrimSpace(text), How: drivefile.ByVoice, ReadBy: reader}
		if r.Text == "" || len(r.Text) > 200 {
			return nil, base.Bad("text", fmt.Sprint(len(r.Text), " characters"), "what the keypad shows, 1 to 200 characters")
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
