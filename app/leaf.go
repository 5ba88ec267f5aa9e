package app

import (
	"context"

	"tingate/core/drivefile"
)

// placed is a drive as it stands, with its place.
func (a *App) placed(ctx context.Context, driveID string) (View, drivefile.Place, error) {
	r := a.store.Read(ctx)
	v, err := a.view(r, Actor{}, driveID)
	if err != nil {
		return v, drivefile.Place{}, err
	}
	_, p, err := placeOf(r, v.Drive.Place)
	return v, p, err
}
