package papers

import (
	"context"
	"errors"

	"tingate/app/base"
	"tingate/app/circuits"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/formats/pdf"
	"tingate/paper"
)

// head is a drive as it stands, for its papers.
func (a *Papers) head(v base.View, p drivefile.Place) paper.Head {
	return paper.Head{Place: p, Drive: v.Drive, State: v.State, Family: v.Family.Name + " " + v.Family.Version, Version: v.Version,
		Program: a.Version, Made: a.Now(), Zone: base.ZoneOf(p)}
}

// Record prints a drive's record: plate, what was wanted, the sheet with what was read back, findings and how each was answered, gates, who
// and when.
func (a *Papers) Record(ctx context.Context, driveID string) ([]byte, error) {
	rec, err := a.RecordOf(ctx, driveID)
	if err != nil {
		return nil, err
	}
	return rec.Write()
}

// RecordOf is a drive's record before it is set on pages.
func (a *Papers) RecordOf(ctx context.Context, driveID string) (pdf.Record, error) {
	v, p, err := a.Placed(ctx, driveID)
	if err != nil {
		return pdf.Record{}, err
	}
	r := a.Store.Read(ctx)
	changes, err := r.Changes(driveID)
	if err != nil {
		return pdf.Record{}, err
	}
	k := paper.Kept{Corrected: answers(changes, p), File: func(sha256 string) []byte {
		_, raw, err := r.Attachment(sha256)
		if err != nil {
			return nil // what was lost is named by verify
		}
		return raw
	}}
	if k.Entries, err = r.Entries(driveID); err != nil {
		return pdf.Record{}, err
	}
	if k.OfPlace, err = r.Entries(v.Drive.Place); err != nil {
		return pdf.Record{}, err
	}
	return paper.Record(a.head(v, p), k), nil
}

// IsolationSheet prints what is to be opened, locked, waited for and measured at a drive.
func (a *Papers) IsolationSheet(ctx context.Context, driveID string) ([]byte, error) {
	v, p, err := a.Placed(ctx, driveID)
	if err != nil {
		return nil, err
	}
	return paper.Isolation(a.head(v, p)).Write()
}

// HolePattern prints where a drive's frame is drilled, at true size.
func (a *Papers) HolePattern(ctx context.Context, driveID string) ([]byte, error) {
	v, p, err := a.Placed(ctx, driveID)
	if err != nil {
		return nil, err
	}
	if v.State.Body == nil || v.State.Body.Holes() == nil {
		return nil, base.Refuse("The file of this drive's family does not say where its frame is drilled: mark it by the drive itself.")
	}
	raw, err := paper.Holes(a.head(v, p), *v.State.Body).Write()
	if large, is := errors.AsType[pdf.TooLargeError](err); is {
		return nil, base.Refuse(large.Error())
	}
	return raw, err
}

// WiringSheet prints the connection list.
func (a *Papers) WiringSheet(ctx context.Context, driveID string) ([]byte, error) {
	v, p, err := a.Placed(ctx, driveID)
	if err != nil {
		return nil, err
	}
	w, err := a.lists.Wiring(ctx, driveID)
	if err != nil {
		return nil, err
	}
	if len(w.Wires) == 0 {
		return nil, base.Refuse("Choose first what is connected: the list follows from that.")
	}
	return paper.Connections(a.head(v, p), w).Write()
}

// StopRecord prints the record of a drive's stop circuit, to be signed.
func (a *Papers) StopRecord(ctx context.Context, driveID string) ([]byte, error) {
	s, err := a.circuits.Sound(ctx, driveID)
	if err != nil {
		return nil, err
	}
	v, err := a.ViewOf(a.Store.Read(ctx), base.Actor{}, driveID)
	if err != nil {
		return nil, err
	}
	k := paper.Circuit{Circuit: s.Job.Place.Circuits[s.Job.Drive.Stop.Circuit], Drawing: s.Drawing}
	k.Failed, k.Mends = gate.StopRound(s.Job, s.Drawing)
	k.Resets = circuits.StopResets(s, k.Circuit)
	return paper.Stop(a.head(v, s.Job.Place), k).Write()
}
