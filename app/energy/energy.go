// Package energy is what may be live: locks, records of energy at supplies, and the proof that a drive is dead.
package energy

import (
	"tingate/app/base"
)

// Energy are these actions on one data folder.
type Energy struct {
	*base.Base
}

// New puts them on a base.
func New(b *base.Base) *Energy {
	return &Energy{Base: b}
}
