// Package benches is the simulated drive of a job: set up, worked by hand, ridden, proved.
package benches

import (
	"sync"

	"tingate/app/base"
)

// Benches are these actions on one data folder.
type Benches struct {
	*base.Base
	benches set
	proofs  sync.Map // how far each drive's proof under way has come
}

// New puts them on a base.
func New(b *base.Base) *Benches {
	return &Benches{Base: b, benches: set{all: map[string]*Running{}}}
}
