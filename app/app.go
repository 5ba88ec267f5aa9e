// Package app is what a person can do with Tin Gate. The actions stand in packages by the noun that a person acts on; here they are put
// together, so that whoever serves them asks one App. It knows no HTTP and no flags.
package app

import (
	"time"

	"tingate/app/base"
	"tingate/app/benches"
	"tingate/app/circuits"
	"tingate/app/drives"
	"tingate/app/energy"
	"tingate/app/entries"
	"tingate/app/exchange"
	"tingate/app/families"
	"tingate/app/links"
	"tingate/app/lists"
	"tingate/app/papers"
	"tingate/app/recordings"
	"tingate/app/yard"
	"tingate/store"
)

// App carries out actions on one data folder.
type App struct {
	*base.Base
	*yard.Board
	*drives.Drives
	*energy.Energy
	*circuits.Circuits
	*families.Library
	*entries.Entries
	*benches.Benches
	*links.Links
	*recordings.Recordings
	*exchange.Exchange
	*lists.Lists
	*papers.Papers
}

// New makes an App over an open store. now tells the time; version is the program's.
func New(s *store.Store, now func() time.Time, version string) *App {
	b := base.New(s, now, version)
	a := &App{Base: b, Board: yard.New(b), Drives: drives.New(b), Energy: energy.New(b), Benches: benches.New(b)}
	a.Circuits = circuits.New(b, a.Drives)
	a.Library = families.New(b, a.Drives, a.Board)
	a.Entries = entries.New(b, a.Library)
	a.Links = links.New(b, a.Benches, a.Energy)
	a.Recordings = recordings.New(b, a.Benches, a.Links)
	a.Exchange = exchange.New(b, a.Drives, a.Library, a.Board)
	a.Lists = lists.New(b, a.Drives, a.Links)
	a.Papers = papers.New(b, a.Circuits, a.Lists)
	return a
}
