package base

import (
	"context"
	"sync"

	"tingate/store"
)

// Hub wakes the event streams; what changed they read from the store, so that none is ever missed.
type Hub struct {
	mu   sync.Mutex
	subs map[chan struct{}]bool
}

func (h *Hub) Wake() {
	h.mu.Lock()
	defer h.mu.Unlock()
	for ch := range h.subs {
		select {
		case ch <- struct{}{}:
		default: // it is awake already
		}
	}
}

// Events calls send with every document that changed after a seq, until ctx ends or send fails. from < 0: from now.
func (a *Base) Events(ctx context.Context, from int64, send func(store.Mark) error) error {
	ch := make(chan struct{}, 1)
	a.Hub.mu.Lock()
	a.Hub.subs[ch] = true
	a.Hub.mu.Unlock()
	defer func() {
		a.Hub.mu.Lock()
		delete(a.Hub.subs, ch)
		a.Hub.mu.Unlock()
	}()
	r := a.Store.Read(ctx)
	if from < 0 {
		last, err := r.LastSeq()
		if err != nil {
			return err
		}
		from = last
	}
	for {
		marks, err := r.Since(from)
		if err != nil {
			return err
		}
		for _, m := range marks {
			if err := send(m); err != nil {
				return err
			}
			from = m.Seq
		}
		if len(marks) == 1000 {
			continue
		}
		select {
		case <-ctx.Done():
			return nil
		case <-ch:
		}
	}
}

// Mark says that a document changed.
type Mark = store.Mark
