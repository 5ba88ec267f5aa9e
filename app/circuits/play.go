package circuits

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"tingate/app/base"
	"tingate/core/circuit"
	"tingate/core/gate"
	"tingate/core/stops"
)

// StopWhy says of faults whose text has some words why each is out, or that it stays.
func (a *Circuits) StopWhy(ctx context.Context, driveID, words string) ([]stops.Reason, error) {
	s, err := a.Sound(ctx, driveID)
	if err != nil {
		return nil, err
	}
	l := strings.Fields(words)
	if len(l) == 0 {
		return []stops.Reason{}, nil
	}
	shown, readings := gate.StopReadings(s.Job, s.state, s.Drawing)
	return s.Drawing.Why(s.Drawing.Table, shown, readings, l, 12)
}

// PlayStop plays acts on a drive's circuit as it is drawn, with a fault if one is given, for the ladder and the timing diagram.
func (a *Circuits) PlayStop(
	ctx context.Context,
	driveID string,
	events []stops.Event,
	until int,
	fault *circuit.Mistake,
) (stops.Timing, error) {
	s, err := a.Sound(ctx, driveID)
	if err != nil {
		return stops.Timing{}, err
	}
	if until < 0 || until > 600_000 || len(events) > 500 {
		return stops.Timing{}, base.Bad("until_ms", fmt.Sprint(until), "0 to 600,000 ms, and at most 500 events")
	}
	var faults []circuit.Mistake
	if fault != nil {
		faults = append(faults, *fault)
	}
	t, err := s.Drawing.Timing(faults, events, until)
	var field *circuit.FieldError
	if errors.As(err, &field) {
		err = base.Bad(field.Path, field.Got, field.Want)
	}
	return t, err
}

// PractiseStop is what a test would show on a drive's circuit with faults, as it would be answered: for practice and for the demo.
func (a *Circuits) PractiseStop(ctx context.Context, driveID, test string, faults []circuit.Mistake) (string, error) {
	s, err := a.Sound(ctx, driveID)
	if err != nil {
		return "", err
	}
	t, ok := s.Drawing.Test(test)
	if !ok {
		return "", base.Bad("test", test, "a test of the table")
	}
	return s.Drawing.Answer(t, faults)
}

// StopPulses plays the test pulses of a drive's circuit, and tells what does not pass them over.
func (a *Circuits) StopPulses(ctx context.Context, driveID string) (stops.Trained, error) {
	s, err := a.Sound(ctx, driveID)
	if err != nil {
		return stops.Trained{}, err
	}
	return s.Drawing.Trained(), nil
}

// SmallestSet is the smallest set of tests that still parts all single faults of a drive's circuit.
func (a *Circuits) SmallestSet(ctx context.Context, driveID string) (stops.Smallest, error) {
	s, err := a.Sound(ctx, driveID)
	if err != nil {
		return stops.Smallest{}, err
	}
	return s.Drawing.Smallest(), nil
}
