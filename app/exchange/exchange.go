package exchange

import (
	"sync"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/families"
	"tingate/app/yard"
)

// Exchange are these actions on one data folder.
type Exchange struct {
	*base.Base
	drives    *drives.Drives
	library   *families.Library
	yard      *yard.Board
	importing sync.Mutex
}

// New puts them on a base.
func New(b *base.Base, d *drives.Drives, l *families.Library, y *yard.Board) *Exchange {
	return &Exchange{Base: b, drives: d, library: l, yard: y}
}
