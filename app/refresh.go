package app

import (
	"context"
	"sync"

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

// RefreshGlances rebuilds rows that are missing or were made by other rules. It can be stopped by ctx; the Yard shows how
// far it has come.
func (a *App) RefreshGlances(ctx context.Context) error {
	ids, err := a.store.Read(ctx).StaleGlances(gate.RulesVersion)
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
