// Package entries is what a person records at a drive: readings, answers, findings kept, waivers, gates passed, snapshots, things put in
// for a while.
package entries

import (
	"tingate/app/base"
	"tingate/app/families"
)

// Entries are these actions on one data folder.
type Entries struct {
	*base.Base
	library *families.Library
}

// New puts them on a base.
func New(b *base.Base, l *families.Library) *Entries {
	return &Entries{Base: b, library: l}
}
