// Package families is the families of drives and the practices that are known: added, drafted, taken, and what a change of them does.
package families

import (
	"sync"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/yard"
	"tingate/core/dialect"
)

// Library are these actions on one data folder.
type Library struct {
	*base.Base
	drives  *drives.Drives
	yard    *yard.Board
	keeping sync.Mutex // one family or practice comes in at a time
	finding sync.Mutex // guards found, which is made for the families as foundOf has them
	found   *dialect.Finder
	foundOf string
}

// New puts them on a base.
func New(b *base.Base, d *drives.Drives, y *yard.Board) *Library {
	return &Library{Base: b, drives: d, yard: y}
}
