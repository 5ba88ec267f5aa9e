package links

import (
	"context"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/link"
)

// Probed is what answers at the address of a drive.
type Probed struct {
	Family   string  `json:"family"`
	Version  string  `json:"version"`
	Type     string  `json:"type" doc:"the size's type, as far as the drive tells it"`
	Power    float64 `json:"power_kw"`
	Heavy    float64 `json:"heavy_a"`
	Normal   float64 `json:"normal_a"`
	Code     int     `json:"code" doc:"what its rating register holds"`
	Firmware string  `json:"firmware"`
	Covered  bool    `json:"covered" doc:"the family's file was written for this firmware"`
}

// ProbeDrive asks which family and size answers at a drive's address. Nothing is written, to the drive or to the file.
func (a *Links) ProbeDrive(ctx context.Context, who base.Actor, driveID string) ([]Probed, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return nil, err
	}
	if _, err := base.PersonOf(j.Place, who); err != nil {
		return nil, err
	}
	unit, err := unitOf(j.Drive.Link)
	if err != nil {
		return nil, err
	}
	release, err := a.wires.take(driveID)
	if err != nil {
		return nil, err
	}
	defer release()
	if err := a.belongs(ctx, j.Place, j.Drive.Link.Address, unit); err != nil {
		return nil, err
	}
	var families []*dialect.Family
	for _, n := range a.FamilySet.Names() {
		families = append(families, a.FamilySet.Find(n))
	}
	found, err := link.Probe(ctx, j.Drive.Link.Address, unit, families, requestTimeout)
	if err != nil {
		return nil, base.Refuse(err.Error())
	}
	if len(found) > 0 && !a.benches.IsBench(j.Drive.Link.Address) {
		if err := a.answered(ctx, who, Wired{Job: j, State: a.Evaluate(j)}); err != nil {
			return nil, err
		}
	}
	out := []Probed{}
	for _, f := range found {
		inside, stated := f.Family.Covers(f.Firmware)
		out = append(out, Probed{f.Family.Name, f.Family.Version, f.Rating.Type, f.Rating.Power, f.Rating.Heavy, f.Rating.Normal,
			int(f.Code), f.Firmware, inside || !stated})
	}
	return out, nil
}
