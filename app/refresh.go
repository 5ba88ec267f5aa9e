package app

import (
	"context"
	"sync"
	"time"

	"tingate/core/gate"
	"tingate/store"
)

// progress says how far something in the background has come.
type progress struct {
	mu          sync.Mutex
	done, total int
}

// Progress is how far something has come; total 0: nothing is under way.
type Progress struct {
	Done  int `json:"done"`
	Total int `json:"total"`
}

func (p *progress) set(done, total int) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.done, p.total = done, total
}

func (p *progress) now() Progress { p.mu.Lock(); defer p.mu.Unlock(); return Progress{p.done, p.total} }

// refreshAtOnce is how many rows are made in one transaction: others may write in between.
const refreshAtOnce = 50

// lookEvery is how often rows are sought that time has made stale: what lapses at a change of shift.
const lookEvery = 30 * time.Second

// KeepGlances rebuilds rows as they become stale, until ctx ends: after a change of rules, of a place, or of the shift.
func (a *App) KeepGlances(ctx context.Context) error {
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		if err := a.RefreshGlances(ctx); err != nil {
			return err
		}
		select {
		case <-ctx.Done():
			return nil
		case <-a.stale:
		case <-tick.C:
		}
	}
}

// RefreshGlances rebuilds rows that are missing, or that something else than the drive has made stale. It can be stopped by ctx; the Yard shows how
// far it has come.
func (a *App) RefreshGlances(ctx context.Context) error {
	ids, err := a.store.Read(ctx).StaleGlances(gate.RulesVersion, a.now().UTC().Format(time.RFC3339))
	if err != nil {
		return err
	}
	total := len(ids)
	defer a.refresh.set(0, 0)
	for len(ids) > 0 {
		a.refresh.set(total-len(ids), total)
		n := min(refreshAtOnce, len(ids))
		err := a.store.Write(ctx, func(tx *store.Tx) error {
			for _, id := range ids[:n] {
				doc, err := tx.Document(id)
				if err != nil {
					return err
				}
				if err := a.glance(tx, doc); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		ids = ids[n:]
	}
	if total > 0 {
		a.hub.wake()
	}
	return nil
}
