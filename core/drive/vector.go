package drive

import "math"

// Oriented runs indirect field orientation each 125 µs: a speed controller, two current controllers with decoupling, a
// circular voltage limit with conditional integration, field weakening above 0.8 FN, and torque current up to 3.2 times the
// magnetising one. vd, vq and the frame's speed are held over the tick.
func (r *Reference) Oriented(take func(Sample)) (end State, steps int) {
	const h = 125e-6
	m := r.Motor
	p := m.Pairs
	k, bus := m.Invert(), r.Bus.link()
	s := State{V: r.V0}
	invJ := 1 / r.J
	wn := 2 * math.Pi * r.FN
	sls := m.Ls - m.Lm*m.Lm/m.Lr
	idn := .9 * r.Vpk / (wn * m.Ls)
	km := m.Lm * m.Lm / m.Lr
	kt := 1.5 * p * km * idn
	most := 3.2 * idn
	kpc, kic := 900*sls, 900*(m.Rs+m.Rr*m.Lm*m.Lm/(m.Lr*m.Lr))
	kps, kis := 25*r.J/kt, 25*25*r.J/(4*kt)
	kict, kist, tr := kic*h, kis*h, m.Rr/m.Lr
	var xs, xd, xq float64
	i := 0
	for n := range 80000 {
		t := float64(n) * h
		if take != nil && i == 0 {
			take(r.sample(&k, t, &s))
		}
		if i++; i == 8 {
			i = 0
		}
		if n%80 == 79 {
			r.warm(&k, &s, 1e-2)
		}
		x := &s.X
		id, iq := k.A*x.Ds-k.B*x.Dr, k.A*x.Qs-k.B*x.Qr
		we := 2 * math.Pi * r.profile(t)
		idr, inv := idn, 1/idn
		if we > .8*wn {
			idr = idn * .8 * wn / we
			inv = 1 / idr
		}
		es := we/p - x.W
		iqr := kps*es + xs
		switch {
		case iqr > most:
			iqr = most
		case iqr < -most:
			iqr = -most
		default:
			xs += kist * es
		}
		wf := p*x.W + tr*iqr*inv
		vd := kpc*(idr-id) + xd - wf*sls*iq
		vq := kpc*(iqr-iq) + xq + wf*(sls*id+km*idr)
		vm2 := s.V * s.V * (1. / 3)
		if a := vd*vd + vq*vq; a > vm2 {
			c := math.Sqrt(vm2 / a)
			vd, vq = vd*c, vq*c
		} else {
			xd += kict * (idr - id)
			xq += kict * (iqr - iq)
		}
		next, md, mq := k.Glide(*x, vd, vq, wf, h, invJ, r.drag(x.W))
		p1 := 1.5 * (vd*(k.A*next.Ds-k.B*next.Dr) + vq*(k.A*next.Qs-k.B*next.Qr))
		s.V = bus.step(s.V, 1.5*(vd*id+vq*iq), 1.5*(vd*md+vq*mq), p1, h)
		s.X = next
		steps++
	}
	if take != nil {
		take(r.sample(&k, Runtime, &s))
	}
	return s, steps
}
