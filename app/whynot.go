package app

import (
	"context"

	"tingate/core/troubleshoot"
)

// WhyNot are the conditions of a drive that does otherwise than wanted. about: start, stands, unasked, direction or stop; empty: start.
func (a *App) WhyNot(ctx context.Context, driveID, about string) ([]troubleshoot.StartCondition, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return nil, err
	}
	l, ok := troubleshoot.Conditions(about, j, a.evaluate(j))
	if !ok {
		return nil, &InputError{"about", about, "start, stands, unasked, direction or stop"}
	}
	return l, nil
}
