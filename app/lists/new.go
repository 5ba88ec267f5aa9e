// Package lists is what goes out and comes in as lists: the settings sheet, readings, connections.
package lists

import (
	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/links"
)

// Lists are these actions on one data folder.
type Lists struct {
	*base.Base
	drives *drives.Drives
	links  *links.Links
}

// New puts them on a base.
func New(b *base.Base, d *drives.Drives, l *links.Links) *Lists {
	return &Lists{Base: b, drives: d, links: l}
}
