package circuits

import (
	"context"
	"encoding/json"
	"fmt"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/core/stops"
	"tingate/core/translate"
)

// StopJSON writes a drive's circuit, to be changed elsewhere and taken in again.
func (a *Circuits) StopJSON(ctx context.Context, driveID string) ([]byte, error) {
	s, err := a.stopping(ctx, driveID)
	if err != nil {
		return nil, err
	}
	if s.Drawing == nil {
		return nil, base.Refuse("Choose the drive's stop circuit first.")
	}
	b, err := json.MarshalIndent(s.Drawing.Circuit, "", "  ")
	return append(b, '\n'), err
}

// ImportStop takes a circuit in as JSON: it takes the place of the drawn one.
func (a *Circuits) ImportStop(ctx context.Context, who base.Actor, driveID string, raw []byte) error {
	s, err := a.stopping(ctx, driveID)
	if err != nil {
		return err
	}
	id := s.Job.Drive.Stop.Circuit
	if _, ok := s.Job.Place.Circuits[id]; !ok {
		return base.Refuse("Choose the drive's stop circuit first: the file takes the place of its drawing.")
	}
	x, err := base.ReadStopCircuit(raw)
	if err != nil {
		return err
	}
	_, own := translate.StopDrives(s.Job.Drive, s.Job.Place.Circuits[s.Job.Drive.Stop.Circuit])
	if v := x.Devices[fmt.Sprintf("T%d", own+1)]; own >= 0 && v.Does != stops.DriveInputs {
		return base.Bad("file", "no drive "+fmt.Sprintf("T%d", own+1), "a circuit that ends at this drive")
	}
	if err := a.AddAttachment(ctx, who, driveID, base.NewID(), "stop-circuit.json", "stop-circuit", "application/json", raw); err != nil {
		return err
	}
	return a.drives.Change(ctx, who, s.Job.Drive.Place,
		drives.Edit{ID: base.NewID(), Edit: base.NewID(), Why: "stop circuit taken in",
			Sets: []drives.Set{{Path: "circuits." + id + ".own", Text: base.HashOf(raw)}}})
}
