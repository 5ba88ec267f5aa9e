// Package families is the families of drives and the practices that are known: added, drafted, taken, and what a change of them does.
package families

import (
	"sync"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/yard"
)

// Library are these actions on one data folder.
type Library struct {
	*base.Base
	drives  *drives.Drives
	yard    *yard.Board
	keeping sync.Mutex // one family or practice comes in at a time
}

// New puts them on a base.
func New(b *base.Base, d *drives.Drives, y *yard.Board) *Library {
	return &Library{Base: b, drives: d, yard: y}
}
