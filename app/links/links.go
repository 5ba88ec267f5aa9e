// Package links is the link to a real drive or to the bench: what answers there, what it holds, one setting written and read back, its tune
// taken.
package links

import (
	"tingate/app/base"
	"tingate/app/benches"
	"tingate/app/energy"
)

// Links are these actions on one data folder.
type Links struct {
	*base.Base
	benches *benches.Benches
	energy  *energy.Energy
	wires   wires
}

// New puts them on a base.
func New(b *base.Base, x *benches.Benches, e *energy.Energy) *Links {
	return &Links{Base: b, benches: x, energy: e, wires: wires{busy: map[string]LinkProgress{}}}
}
