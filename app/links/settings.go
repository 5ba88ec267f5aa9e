package links

import (
	"context"
	"fmt"
	"strings"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/record"
	"tingate/core/sheet"
	"tingate/link"
	"tingate/store"
)

// LinkResult is what a read or write over the link came to.
type LinkResult struct {
	Read    int               `json:"read" doc:"settings read"`
	Outcome drivefile.Outcome `json:"outcome" doc:"read, partly-read, held, differs, refused, unknown"`
	Message string            `json:"message"`
	Remark  string            `json:"remark,omitempty" doc:"what was not as it should be, though the value is held: somebody runs it, it restarted, its answer was another"`
}

// ReadDrive reads every setting and records each as a reading; with a snapshot name it also keeps the whole as found
// or as left. What was read before a failure is recorded, and the failure is told. progress may be nil.
func (a *Links) ReadDrive(
	ctx context.Context,
	who base.Actor,
	driveID, snapshot string,
	progress func(done, total int),
) (LinkResult, error) {
	if snapshot != "" && snapshot != "as-found" && snapshot != "as-left" {
		return LinkResult{}, base.Bad("snapshot", snapshot, "as-found, as-left or nothing")
	}
	w, err := a.Connect(ctx, who, driveID)
	if err != nil {
		return LinkResult{}, err
	}
	defer w.Release()
	values, failed := w.Conn.ReadAll(ctx, func(done, total int) {
		a.wires.at(driveID, done, total)
		if progress != nil {
			progress(done, total)
		}
	})
	if err := a.PutReadings(context.WithoutCancel(ctx), who, driveID, w.Job.Family, values, drivefile.OverLink); err != nil {
		return LinkResult{}, err
	}
	if failed != nil {
		return LinkResult{Read: len(values), Outcome: "partly-read",
			Message: fmt.Sprintf("%d of %d settings were read and are kept. %s", len(values), len(w.Job.Family.Settings), failed)}, nil
	}
	res := LinkResult{Read: len(values), Outcome: "read", Message: fmt.Sprintf("%d settings read.", len(values))}
	if snapshot != "" {
		snap := drivefile.Snapshot{Name: snapshot, Dialect: w.Job.Family.Name, Version: w.Job.Family.Version, Hash: w.Job.Family.Hash,
			How: drivefile.OverLink, Values: map[string]drivefile.Value{}}
		for code, v := range values {
			snap.Values[code] = drivefile.Value{Steps: v.Steps, Text: v.Text}
		}
		if err := a.Put(ctx, who, driveID, base.NewID(), drivefile.EntrySnapshot, func(base.Situation) (any, error) {
			return snap,
				nil
		}); err != nil {
			return res, err
		}
		res.Message += " Saved " + strings.ReplaceAll(snapshot, "-", " ") + "."
	}
	return res, nil
}

func (a *Links) PutReadings(
	ctx context.Context,
	who base.Actor,
	driveID string,
	f *dialect.Family,
	values map[string]dialect.Held,
	how drivefile.How,
) error {
	return a.InTx(ctx, func(tx *store.Tx) error {
		doc, err := base.DriveDoc(tx.Reader, driveID)
		if err != nil {
			return err
		}
		_, by, err := base.SignerAt(tx.Reader, doc.Place, who)
		if err != nil {
			return err
		}
		d, err := drivefile.DecodeDrive(doc.Body)
		if err != nil {
			return err
		}
		for i := range f.Settings {
			s := &f.Settings[i]
			v, ok := values[s.Code]
			if !ok {
				continue
			}
			if err := a.AddEntry(tx, by, driveID, base.NewID(), drivefile.EntryReading,
				drivefile.Reading{Code: s.Code, Text: v.Text, Steps: &v.Steps, How: how, Serial: record.SerialOf(d)}); err != nil {
				return err
			}
		}
		return a.PutGlance(tx, doc)
	})
}

// WriteSetting writes one setting as planned and reads it back. The write is recorded as begun before anything is
// sent, and its outcome after, so that a crash in between shows as not known. clear is set when the person confirmed
// that the area is clear.
func (a *Links) WriteSetting(ctx context.Context, who base.Actor, driveID, id, code string, clear bool) (LinkResult, error) {
	if err := base.ValidID("id", id); err != nil {
		return LinkResult{}, err
	}
	if done, err := base.Recorded(a.Store.Read(ctx), id, who, driveID, drivefile.EntryWrite); err != nil {
		return LinkResult{}, err
	} else if done {
		return LinkResult{Outcome: link.Unknown, Message: "This write was begun already; it is not sent twice. Read the setting."}, nil
	}
	w, err := a.Connect(ctx, who, driveID)
	if err != nil {
		return LinkResult{}, err
	}
	defer w.Release()
	s, err := base.SettingOf(w.Job.Family, code)
	if err != nil {
		return LinkResult{}, err
	}
	line := base.LineOf(w.State, code)
	if k, steps := w.Job.Family.Keeps(); k != nil && k.Code == code { // it keeps what was written, and is planned for no drive
		line = &sheet.Line{Code: code, Planned: true, Steps: steps, SetTo: k.WithUnit(steps)}
	}
	if line == nil || !line.Planned {
		return LinkResult{}, base.Refuse("Nothing is planned for " + code + ", so there is nothing to write.")
	}
	steps := line.Steps
	var cleared *link.Clearance
	wr := drivefile.Write{Code: code, Asked: steps, Outcome: drivefile.Begun, Address: w.Job.Drive.Link.Address, Unit: int(w.unit),
		Register: int(s.Register)}
	if clear && s.Acts == "motion" {
		p, _ := base.PersonOf(w.Job.Place, who)
		cleared = &link.Clearance{Person: p.Initials}
		wr.Cleared = p.Initials
	}
	begun := false
	asked := dialect.Held{Steps: steps}
	if s.Kind == "text" {
		asked.Text, wr.AskedText = line.SetTo, line.SetTo
	}
	res := w.Conn.WriteHeld(ctx, s, asked, cleared, func(before int64, raw []uint16) error {
		wr.Before = &before
		for _, r := range raw {
			wr.Raw = append(wr.Raw, int(r))
		}
		begun = true
		return a.Put(context.WithoutCancel(ctx), who, driveID, id, drivefile.EntryWrite, func(base.Situation) (any, error) {
			return wr,
				nil
		})
	})
	if !begun {
		return LinkResult{Outcome: res.Outcome, Message: res.Message}, nil
	}
	wr.Begun, wr.Outcome, wr.ReadBack, wr.Message = id, res.Outcome, res.ReadBack, res.Message
	if s.Kind == "text" {
		wr.BeforeText = res.BeforeText
	}
	if res.ReadBack != nil {
		wr.BackText = res.BackText
	}
	if err := a.Put(context.WithoutCancel(ctx), who, driveID, base.NewID(), drivefile.EntryWrite,
		func(base.Situation) (any, error) { return wr, nil }); err != nil {
		return LinkResult{Outcome: link.Unknown, Message: "The outcome could not be recorded; read " + code + " again."}, err
	}
	if was := line.Read; was != nil && was.Steps != nil && res.Before != nil && *was.Steps != *res.Before {
		res.Message = strings.TrimSpace(res.Message +
			fmt.Sprintf(
				" Before, it held %s, not %s as last read: somebody else has changed it.",
				s.Shows(dialect.Held{Steps: *res.Before, Text: res.BeforeText}),
				s.Shows(dialect.Held{Steps: *was.Steps, Text: was.Text}),
			))
	}
	out := LinkResult{Outcome: res.Outcome, Message: res.Message}
	switch {
	case res.Message == "":
		out.Message = code + " holds " + line.SetTo + "."
		if k, _ := w.Job.Family.Keeps(); k != nil && k.Code == code {
			out.Message = "It took the command to keep. Read after the next power-off, it shows that all stayed."
		}
	case res.Outcome == link.Held:
		out.Remark = res.Message
	}
	return out, nil
}
