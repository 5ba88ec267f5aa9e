// Package base is what every action of the app stands on: who acts, the drive as it stands and what the rules make of it, entries put into
// a history, the rows of the Yard that follow from that, and the families and practices that are known.
package base

import (
	"context"
	"maps"
	"slices"
	"sync/atomic"
	"time"

	"tingate/formats/familyfile"
	"tingate/formats/practicefile"
	"tingate/store"
)

// Base is one data folder with what is known beside it.
type Base struct {
	Store   *store.Store
	Now     func() time.Time
	Version string // of the program
	Hub     Hub

	FamilySet   *familyfile.Set
	PracticeSet *practicefile.Set
	Clock       string        // what was done to the clock: set, or hurried; empty: nothing
	Stale       chan struct{} // wakes KeepGlances
	Back        atomic.Value  // words: when the clock stepped back last
	// PlaceChanged: a place was changed, and with it perhaps the rows of its drives.
	PlaceChanged atomic.Bool
	Since        time.Time // when this process began to serve: a wait counts only while it runs
	// FamilyProblems are the family and practice files of the data folder that could not be read, with the reason.
	FamilyProblems []string
}

// New makes a base over an open store. now tells the time; version is the program's.
func New(s *store.Store, now func() time.Time, version string) *Base {
	a := &Base{Store: s, Now: now, Version: version, Stale: make(chan struct{}, 1), Hub: Hub{subs: map[chan struct{}]bool{}},
		FamilySet: familyfile.Shipped(), PracticeSet: practicefile.Shipped(), Since: now()}
	if newest, err := s.Read(context.Background()).NewestRecord(); err == nil && newest > a.Since.UTC().Format(StampLayout) {
		a.SteppedBack(a.Since)
	}
	files, err := s.Files(store.FamilyFolder)
	if err != nil {
		a.FamilyProblems = append(a.FamilyProblems, err.Error())
	}
	for _, name := range slices.Sorted(maps.Keys(files)) {
		if _, err := a.FamilySet.Add(files[name], false); err != nil {
			a.FamilyProblems = append(a.FamilyProblems,
				name+": "+err.Error()+". It is left out; its file stays in the data folder, to be mended and added again.")
		}
	}
	files, err = s.Files(store.PracticeFolder)
	if err != nil {
		a.FamilyProblems = append(a.FamilyProblems, err.Error())
	}
	for name, raw := range files {
		if _, err := a.PracticeSet.Add(raw); err != nil {
			a.FamilyProblems = append(a.FamilyProblems, name+": "+err.Error())
		}
	}
	return a
}

// InTx runs a transaction and wakes the event streams after it.
func (a *Base) InTx(ctx context.Context, f func(*store.Tx) error) error {
	err := a.Store.Write(ctx, f)
	if err == nil {
		a.Hub.Wake()
		if a.PlaceChanged.Swap(false) {
			a.WakeGlances()
		}
	}
	return err
}

// WakeGlances has the Yard's stale rows made anew in the background.
func (a *Base) WakeGlances() {
	select {
	case a.Stale <- struct{}{}:
	default: // it will look anyway
	}
}

// SetClock says that the clock that this App was given is not the real one: everything that is done by it is marked so.
func (a *Base) SetClock(what string) { a.Clock = what }

func (a *Base) SteppedBack(at time.Time) {
	a.Back.Store(", clock back at " + at.UTC().Format(time.RFC3339Nano))
}
