package drive

import (
	"math"

	"tingate/core/machine"
)

// beside moves a second motor of the same make on the same output by h seconds: its shaft turns by itself, with its own friction alone. It
// gives what that motor takes halfway and at the end, W.
func (d *Drive) beside(vd, vq, wf, h float64, long bool) (pm, p1 float64) {
	k, x := &d.k, &d.second
	power := func(id, iq float64) float64 { return 1.5 * (vd*id + vq*iq) }
	rub := machine.Drag{T0: d.P.Rub * x.W, W0: x.W, Slope: d.P.Rub}
	step := k.Glide
	if long {
		step = k.Hold
	}
	next, md, mq := step(*x, vd, vq, wf, h, 1/d.P.Inertia, rub)
	*x = next
	return power(md, mq), power(k.A*next.Ds-k.B*next.Dr, k.A*next.Qs-k.B*next.Qr)
}

// besideIdle is a tick of the second motor without voltage: its flux dies away as the first one's does, its shaft runs out.
func (d *Drive) besideIdle(h, decay, share float64) {
	x := &d.second
	x.Dr, x.Qr = x.Dr*decay, x.Qr*decay
	x.Ds, x.Qs = share*x.Dr, share*x.Qr
	if math.Abs(x.Dr)+math.Abs(x.Qr) < 1e-12 {
		*x = machine.Flux{W: x.W}
	}
	x.W *= math.Exp(-h * d.P.Rub / d.P.Inertia)
}

// SecondSpeed is that of the second motor's shaft, r/min.
func (d *Drive) SecondSpeed() float64 { return d.second.W * 30 / math.Pi }
