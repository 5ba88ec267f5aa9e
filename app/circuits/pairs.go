package circuits

import (
	"context"
	"sync"

	"tingate/app/base"
	"tingate/core/gate"
	"tingate/core/stops"
)

// PairsJob is a search for two faults at once.
type PairsJob struct {
	Tried int          `json:"tried" doc:"pairs so far"`
	All   int          `json:"all" doc:"pairs in all; 0 while they are counted"`
	Done  bool         `json:"done" doc:"ended, or none was begun"`
	Pairs *stops.Pairs `json:"pairs,omitempty"`
	Error string       `json:"error,omitempty"`
}

// pairsRun is one under way.
type pairsRun struct {
	mu  sync.Mutex
	job PairsJob
	end bool
}

// StartPairs begins a search over two faults at once, for when no single one explains what was shown; a search under way is ended.
func (a *Circuits) StartPairs(ctx context.Context, driveID string) (PairsJob, error) {
	s, err := a.Sound(ctx, driveID)
	if err != nil {
		return PairsJob{}, err
	}
	shown, readings := gate.StopReadings(s.Job, s.state, s.Drawing)
	if len(shown) == 0 {
		return PairsJob{}, base.Refuse("Nothing was shown yet: answer a test first.")
	}
	a.EndPairs(driveID)
	run := &pairsRun{}
	a.pairs.Store(driveID, run)
	go func() {
		found, err := s.Drawing.DiagnosePairs(s.Drawing.Table, shown, readings, func(tried, all int) bool {
			run.mu.Lock()
			defer run.mu.Unlock()
			if all > 0 {
				run.job.Tried, run.job.All = tried, all
			}
			return !run.end
		})
		run.mu.Lock()
		defer run.mu.Unlock()
		run.job.Tried, run.job.All = found.Tried, found.All
		run.job.Done, run.job.Pairs = true, &found
		if err != nil {
			run.job.Error = err.Error()
		}
	}()
	return a.PairsProgress(driveID), nil
}

// PairsProgress tells how far a search has come.
func (a *Circuits) PairsProgress(driveID string) PairsJob {
	v, ok := a.pairs.Load(driveID)
	if !ok {
		return PairsJob{Done: true}
	}
	run := v.(*pairsRun)
	run.mu.Lock()
	defer run.mu.Unlock()
	return run.job
}

// EndPairs ends a search; what it found so far stays to be seen.
func (a *Circuits) EndPairs(driveID string) {
	if v, ok := a.pairs.Load(driveID); ok {
		run := v.(*pairsRun)
		run.mu.Lock()
		defer run.mu.Unlock()
		run.end = true
	}
}
