package gate

import (
	"tingate/core/drivefile"
	"tingate/core/stops"
	"tingate/core/translate"
)

// stopCircuit is the place's circuit that acts on the drive.
func stopCircuit(j Job) (drivefile.StopCircuit, bool) {
	c, ok := j.Place.Circuits[j.Drive.Stop.Circuit]
	return c, ok
}

// StopDrawing is the drive's stop circuit with its table; nil while none is chosen.
func StopDrawing(j Job) *stops.Drawing {
	c, ok := stopCircuit(j)
	if !ok || len(c.Devices) == 0 && j.OwnCircuit == nil {
		return nil
	}
	run := j.Drive.Stop.Still != "no-run"
	if j.OwnCircuit != nil {
		return stops.Draw(*j.OwnCircuit, run)
	}
	return stops.Draw(stops.Draft(translate.StopSpec(j.Drive, c, j.Family, j.Neighbours)), run)
}
