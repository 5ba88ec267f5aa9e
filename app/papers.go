package app

import (
	"context"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/formats/pdf"
	"tingate/paper"
)

// head is a drive as it stands, for its papers.
func (a *App) head(v View, p drivefile.Place) paper.Head {
	return paper.Head{Place: p, Drive: v.Drive, State: v.State, Family: v.Family.Name + " " + v.Family.Version, Version: v.Version, Program: a.version, Made: a.now(), Zone: zone(p)}
}

// Record prints a drive's record: plate, what was wanted, the sheet with what was read back, findings and how each was answered, gates, who and when.
func (a *App) Record(ctx context.Context, driveID string) ([]byte, error) {
	rec, err := a.RecordOf(ctx, driveID)
	if err != nil {
		return nil, err
	}
	return rec.Write()
}

// RecordOf is a drive's record before it is set on pages.
func (a *App) RecordOf(ctx context.Context, driveID string) (pdf.Record, error) {
	v, p, err := a.placed(ctx, driveID)
	if err != nil {
		return pdf.Record{}, err
	}
	r := a.store.Read(ctx)
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
func (a *App) IsolationSheet(ctx context.Context, driveID string) ([]byte, error) {
	v, p, err := a.placed(ctx, driveID)
	if err != nil {
		return nil, err
	}
	return paper.Isolation(a.head(v, p)).Write()
}

// WiringSheet prints the connection list.
func (a *App) WiringSheet(ctx context.Context, driveID string) ([]byte, error) {
	v, p, err := a.placed(ctx, driveID)
	if err != nil {
		return nil, err
	}
	w, err := a.Wiring(ctx, driveID)
	if err != nil {
		return nil, err
	}
	if len(w.Wires) == 0 {
		return nil, &RefusedError{"Choose first what is connected: the list follows from that."}
	}
	return paper.Connections(a.head(v, p), w).Write()
}

// StopRecord prints the record of a drive's stop circuit, to be signed.
func (a *App) StopRecord(ctx context.Context, driveID string) ([]byte, error) {
	s, err := a.sound(ctx, driveID)
	if err != nil {
		return nil, err
	}
	v, err := a.view(a.store.Read(ctx), Actor{}, driveID)
	if err != nil {
		return nil, err
	}
	k := paper.Circuit{Circuit: s.job.Place.Circuits[s.job.Drive.Stop.Circuit], Drawing: s.drawing}
	k.Failed, k.Mends = gate.StopRound(s.job, s.drawing)
	k.Resets = stopResets(s, k.Circuit)
	return paper.Stop(a.head(v, s.job.Place), k).Write()
}
