// Package yard is the list of all drives, their histories, and the rows that follow from them.
package yard

import (
	"sync"
	"time"

	"tingate/app/base"
)

// Board are these actions on one data folder.
type Board struct {
	*base.Base
	freshen sync.Mutex
	refresh progress
	looking sync.Mutex
	looked  time.Time // the latest at which it was asked which rows are stale
}

// New puts them on a base.
func New(b *base.Base) *Board {
	return &Board{Base: b}
}
