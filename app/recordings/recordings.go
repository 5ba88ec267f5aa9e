// Package recordings is runs: recorded over the link or brought in, kept, and laid over what was predicted.
package recordings

import (
	"sync"

	"tingate/app/base"
	"tingate/app/benches"
	"tingate/app/links"
)

// Recordings are these actions on one data folder.
type Recordings struct {
	*base.Base
	benches    *benches.Benches
	links      *links.Links
	recordings sync.Map // runs that are recorded over the link, by drive
}

// New puts them on a base.
func New(b *base.Base, x *benches.Benches, l *links.Links) *Recordings {
	return &Recordings{Base: b, benches: x, links: l}
}
