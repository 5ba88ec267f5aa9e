// Package drives is a drive and its place as documents: made, changed field by field, undone; and what is entered at its keypad.
package drives

import (
	"tingate/app/base"
)

// Drives are these actions on one data folder.
type Drives struct {
	*base.Base
}

// New puts them on a base.
func New(b *base.Base) *Drives {
	return &Drives{Base: b}
}
