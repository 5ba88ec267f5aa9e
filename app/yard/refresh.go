package yard

import (
	"context"
	"log/slog"
	"runtime"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

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
func (a *Board) KeepGlances(ctx context.Context) error {
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		if err := a.RefreshGlances(ctx); err != nil {
			return err
		}
		select {
		case <-ctx.Done():
			return nil
		case <-a.Stale:
		case <-tick.C:
		}
	}
}

// RefreshGlances rebuilds rows that are missing, or that something else than the drive has made stale. It can be stopped by ctx; the Yard
// shows how far it has come.
func (a *Board) RefreshGlances(ctx context.Context) error {
	rules, now := a.freshBy()
	ids, err := a.Store.Read(ctx).StaleGlances("", rules, now)
	if err != nil {
		return err
	}
	return a.makeRows(ctx, ids)
}

// leastStep is how far a clock steps back before every row is made anew: it is set right by less now and then.
const leastStep = time.Second

// freshBy is what a row must rest on to be shown, and the time by which its own time has passed. A clock that stepped back makes all rows
// stale: what they say was recorded may lie before them.
func (a *Board) freshBy() (rules, now string) {
	a.looking.Lock()
	defer a.looking.Unlock()
	at := a.Now().Round(0) // as the clock shows it: Go would compare by a clock of its own, which never steps
	switch {
	case at.Before(a.looked.Add(-leastStep)):
		a.SteppedBack(at)
		a.looked = at
	case at.After(a.looked):
		a.looked = at
	}
	return a.Rules(), at.UTC().Format(time.RFC3339)
}

// makeRows makes rows anew and stores them, some at a time. One that cannot be made is left out, and said so in the log: it stops no other.
func (a *Board) makeRows(ctx context.Context, ids []string) error {
	total := len(ids)
	defer a.refresh.set(0, 0)
	for len(ids) > 0 {
		a.refresh.set(total-len(ids), total)
		n := min(refreshAtOnce, len(ids))
		if err := a.someRows(ctx, ids[:n]); err != nil {
			return err
		}
		ids = ids[n:]
	}
	if total > 0 {
		a.Hub.Wake()
	}
	return nil
}

// someRows makes rows side by side, outside any transaction, and stores those that nothing has changed under them meanwhile.
func (a *Board) someRows(ctx context.Context, ids []string) error {
	rows := make([]store.Glance, len(ids))
	seqs := make([]int64, len(ids))
	g, inside := errgroup.WithContext(ctx)
	g.SetLimit(runtime.NumCPU())
	for i, id := range ids {
		g.Go(func() error {
			err := a.Store.Snapshot(inside, func(r store.Reader) (err error) {
				if seqs[i], err = r.LastSeq(); err != nil {
					return err
				}
				doc, err := r.Document(id)
				if err == nil {
					rows[i], err = a.Row(r, doc)
				}
				return err
			})
			if err != nil && inside.Err() == nil {
				slog.Error("a row of the Yard cannot be made", "drive", id, "error", err)
				rows[i].Drive = ""
				return nil
			}
			return err
		})
	}
	if err := g.Wait(); err != nil {
		return err
	}
	return a.Store.Write(ctx, func(tx *store.Tx) error {
		last, err := tx.LastSeq()
		if err != nil {
			return err
		}
		for i, row := range rows {
			if row.Drive == "" {
				continue
			}
			if last != seqs[i] { // something was written meanwhile: is it of this drive, or of what feeds it?
				changed, err := a.changedSince(tx, row, seqs[i])
				if err != nil {
					return err
				}
				if changed {
					continue // it is made at the next look
				}
			}
			if err := tx.PutGlance(row); err != nil {
				return err
			}
		}
		return nil
	})
}

// changedSince tells whether a row's drive or place was changed, or written to, after a number.
func (a *Board) changedSince(tx *store.Tx, row store.Glance, seq int64) (bool, error) {
	marks, err := tx.Since(seq)
	for _, m := range marks {
		if m.Doc == row.Drive || m.Doc == row.Place {
			return true, err
		}
	}
	return len(marks) == 1000, err // as many as are told: there may be more
}
