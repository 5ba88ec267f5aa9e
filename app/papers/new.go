// Package papers is what is printed of a drive.
package papers

import (
	"tingate/app/base"
	"tingate/app/circuits"
	"tingate/app/lists"
)

// Papers are these actions on one data folder.
type Papers struct {
	*base.Base
	circuits *circuits.Circuits
	lists    *lists.Lists
}

// New puts them on a base.
func New(b *base.Base, c *circuits.Circuits, l *lists.Lists) *Papers {
	return &Papers{Base: b, circuits: c, lists: l}
}
