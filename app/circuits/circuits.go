// Package circuits is the stop circuit: seen, played, tested, and its fault sought.
package circuits

import (
	"sync"

	"tingate/app/base"
	"tingate/app/drives"
)

// Circuits are these actions on one data folder.
type Circuits struct {
	*base.Base
	drives *drives.Drives
	// diagnoses are stop circuits' by what they rest on; pairs are searches for two faults at once, by drive.
	diagnoses sync.Map
	pairs     sync.Map
	prepared  sync.Map // drawings that a search was made ready for, by their hash
}

// New puts them on a base.
func New(b *base.Base, d *drives.Drives) *Circuits {
	return &Circuits{Base: b, drives: d}
}
