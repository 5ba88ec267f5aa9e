package links

import (
	"context"

	"tingate/app/base"
	"tingate/core/troubleshoot"
)

// WhyNot are the conditions of a drive that does otherwise than wanted. about: start, stands, unasked, direction or stop; empty: start.
func (a *Links) WhyNot(ctx context.Context, driveID, about string) ([]troubleshoot.StartCondition, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return nil, err
	}
	l, ok := troubleshoot.Conditions(about, j, a.Evaluate(j))
	if !ok {
		return nil, base.Bad("about", about, "start, stands, unasked, direction or stop")
	}
	return l, nil
}
