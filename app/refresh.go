package app

import (
	"context"
	"runtime"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

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
	now := func() string { return a.now().UTC().Format(time.RFC3339) }
	ids, err := a.store.Read(ctx).StaleGlances(gate.RulesVersion, now())
	if err != nil {
		return err
	}
	total := len(ids)
	defer a.refresh.set(0, 0)
	for len(ids) > 0 {
		a.refresh.set(total-len(ids), total)
		n := min(refreshAtOnce, len(ids))
		rows, err := a.rows(ctx, ids[:n])
		if err != nil {
			return err
		}
		err = a.store.Write(ctx, func(tx *store.Tx) error {
			for i, id := range ids[:n] {
				// What was changed or entered meanwhile has made its own row, by the rules of now.
				stale, err := tx.StaleGlance(id, gate.RulesVersion, now())
				if err != nil {
					return err
				}
				if !stale {
					continue
				}
				if err := tx.PutGlance(rows[i]); err != nil {
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

// rows works out the rows of drives side by side, outside any transaction.
func (a *App) rows(ctx context.Context, ids []string) ([]store.Glance, error) {
	out := make([]store.Glance, len(ids))
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(runtime.NumCPU())
	for i, id := range ids {
		g.Go(func() error {
			r := a.store.Read(ctx)
			doc, err := r.Document(id)
			if err == nil {
				out[i], err = a.row(r, doc)
			}
			return err
		})
	}
	return out, g.Wait()
}
