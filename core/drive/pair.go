package drive

// Pair is two drives whose motors turn one shaft: each behind a coupling that gives, the load between them. What the load is, the first
// one's plant says.
type Pair struct{ A, B *Drive }

// pairHz is what each coupling of such a shaft swings at, Hz: a shaft as stiff as gears are. Common practice.
const pairHz = 50

// NewPair puts two drives that have been started on one shaft.
func NewPair(a, b *Drive) *Pair {
	b.P.Load, b.P.LoadJ, b.P.Backstop, b.P.Brake = a.P.Load, a.P.LoadJ, a.P.Backstop, Brake{}
	for _, d := range []*Drive{a, b} {
		if d.P.LoadJ == 0 { // something lies between two couplings
			d.P.LoadJ = .2 * d.P.Inertia
		}
		d.P.Shaft, d.shared = ShaftFor(pairHz, d.P.Inertia, d.P.LoadJ), true
		d.Reload()
	}
	return &Pair{a, b}
}

// Share is to be called after each tick of both: the load feels what both couplings hand on.
func (p *Pair) Share() {
	a, b := p.A, p.B
	ta, _, sa := a.through(a.x.W)
	tb, _, sb := b.through(b.x.W)
	a.pull(ta+tb, Tick)
	b.LoadW = a.LoadW
	a.wind(sa, Tick)
	b.wind(sb, Tick)
}
