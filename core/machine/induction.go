package machine

import "math"

// Induction is a squirrel-cage machine in henries and ohms: amplitude-invariant dq, rotor referred to the stator.
type Induction struct {
	Rs, Rr     float64 // Ω
	Ls, Lr, Lm float64 // H
	Pairs      float64
}

// FromCircuit turns reactances at the circuit's frequency into inductances.
func FromCircuit(c Circuit) Induction {
	w := 2 * math.Pi * c.Frequency
	lm := c.Xm / w
	return Induction{Rs: c.Rs, Rr: c.Rr, Ls: c.Xls/w + lm, Lr: c.Xlr/w + lm, Lm: lm, Pairs: float64(c.Poles) / 2}
}

// Flux is the electrical state: flux linkages in Wb in a frame that turns with the voltage; and the rotor's speed, rad/s
// mechanical.
type Flux struct{ Ds, Qs, Dr, Qr, W float64 }

// Currents is what flows, A, amplitude of the vector's parts.
type Currents struct{ Ds, Qs, Dr, Qr float64 }

// Inverse holds what divisions by Ls·Lr − Lm² give, so that a step divides nothing.
type Inverse struct {
	A, B, C float64 // Lr/D, Lm/D, Ls/D
	// Of the state equations: Rs·A, Rs·B, Rr·C, Rr·B.
	SA, SB, RC, RB float64
	Pairs, Torque  float64 // p, 1.5 p
}

// Invert prepares a machine for stepping. Ls·Lr must be above Lm².
func (m Induction) Invert() Inverse {
	d := m.Ls*m.Lr - m.Lm*m.Lm
	v := Inverse{A: m.Lr / d, B: m.Lm / d, C: m.Ls / d, Pairs: m.Pairs, Torque: 1.5 * m.Pairs}
	v.SA, v.SB, v.RC, v.RB = m.Rs*v.A, m.Rs*v.B, m.Rr*v.C, m.Rr*v.B
	return v
}

// Currents at a state.
func (k *Inverse) Currents(x Flux) Currents {
	return Currents{k.A*x.Ds - k.B*x.Dr, k.A*x.Qs - k.B*x.Qr, k.C*x.Dr - k.B*x.Ds, k.C*x.Qr - k.B*x.Qs}
}

// AirgapTorque is 1.5 p (ψds iqs − ψqs ids), N·m.
func (k *Inverse) AirgapTorque(x Flux) float64 {
	return k.Torque * k.B * (x.Qs*x.Dr - x.Ds*x.Qr)
}

// Drag is a load torque near one speed: T0 at W0, and its slope there. Over one step no load changes more than that.
type Drag struct{ T0, W0, Slope float64 }

// Hold makes one fourth-order Runge-Kutta step of h seconds with voltage and frame speed held. It gives the state after it and
// the stator current's d and q part halfway, for who needs the power in between. invJ is 1/(kg·m²).
func (k *Inverse) Hold(x Flux, vd, vq, wf, h, invJ float64, load Drag) (next Flux, midD, midQ float64) {
	a, b := k.SA, k.SB
	rc, rb := k.RC, k.RB
	p, kt := k.Pairs, k.Torque*k.B
	base := load.T0 - load.Slope*load.W0
	slope := load.Slope
	h2 := h * .5

	s1 := wf - p*x.W
	ad := vd - a*x.Ds + b*x.Dr + wf*x.Qs
	aq := vq - a*x.Qs + b*x.Qr - wf*x.Ds
	ar := rb*x.Ds - rc*x.Dr + s1*x.Qr
	ai := rb*x.Qs - rc*x.Qr - s1*x.Dr
	aw := (kt*(x.Qs*x.Dr-x.Ds*x.Qr) - base - slope*x.W) * invJ

	yd, yq, yr, yi, yw := x.Ds+h2*ad, x.Qs+h2*aq, x.Dr+h2*ar, x.Qr+h2*ai, x.W+h2*aw
	s2 := wf - p*yw
	bd := vd - a*yd + b*yr + wf*yq
	bq := vq - a*yq + b*yi - wf*yd
	br := rb*yd - rc*yr + s2*yi
	bi := rb*yq - rc*yi - s2*yr
	bw := (kt*(yq*yr-yd*yi) - base - slope*yw) * invJ

	yd, yq, yr, yi, yw = x.Ds+h2*bd, x.Qs+h2*bq, x.Dr+h2*br, x.Qr+h2*bi, x.W+h2*bw
	s3 := wf - p*yw
	cd := vd - a*yd + b*yr + wf*yq
	cq := vq - a*yq + b*yi - wf*yd
	cr := rb*yd - rc*yr + s3*yi
	ci := rb*yq - rc*yi - s3*yr
	cw := (kt*(yq*yr-yd*yi) - base - slope*yw) * invJ

	yd, yq, yr, yi, yw = x.Ds+h*cd, x.Qs+h*cq, x.Dr+h*cr, x.Qr+h*ci, x.W+h*cw
	s4 := wf - p*yw
	h6 := h / 6
	next.Ds = x.Ds + h6*(ad+2*(bd+cd)+vd-a*yd+b*yr+wf*yq)
	next.Qs = x.Qs + h6*(aq+2*(bq+cq)+vq-a*yq+b*yi-wf*yd)
	next.Dr = x.Dr + h6*(ar+2*(br+cr)+rb*yd-rc*yr+s4*yi)
	next.Qr = x.Qr + h6*(ai+2*(bi+ci)+rb*yq-rc*yi-s4*yr)
	next.W = x.W + h6*(aw+2*(bw+cw)+(kt*(yq*yr-yd*yi)-base-slope*yw)*invJ)

	// Halfway by the cubic through both ends and their slopes.
	s5 := wf - p*next.W
	ed := vd - a*next.Ds + b*next.Dr + wf*next.Qs
	eq := vq - a*next.Qs + b*next.Qr - wf*next.Ds
	er := rb*next.Ds - rc*next.Dr + s5*next.Qr
	ei := rb*next.Qs - rc*next.Qr - s5*next.Dr
	h8 := h * .125
	midD = k.A*(.5*(x.Ds+next.Ds)+h8*(ad-ed)) - k.B*(.5*(x.Dr+next.Dr)+h8*(ar-er))
	midQ = k.A*(.5*(x.Qs+next.Qs)+h8*(aq-eq)) - k.B*(.5*(x.Qr+next.Qr)+h8*(ai-ei))
	return next, midD, midQ
}

// Glide is Hold by the midpoint rule, for steps of an eighth of a millisecond and less: half the work.
func (k *Inverse) Glide(x Flux, vd, vq, wf, h, invJ float64, load Drag) (next Flux, midD, midQ float64) {
	a, b := k.SA, k.SB
	rc, rb := k.RC, k.RB
	p, kt := k.Pairs, k.Torque*k.B
	base := load.T0 - load.Slope*load.W0
	h2 := h * .5
	s := wf - p*x.W
	yd := x.Ds + h2*(vd-a*x.Ds+b*x.Dr+wf*x.Qs)
	yq := x.Qs + h2*(vq-a*x.Qs+b*x.Qr-wf*x.Ds)
	yr := x.Dr + h2*(rb*x.Ds-rc*x.Dr+s*x.Qr)
	yi := x.Qr + h2*(rb*x.Qs-rc*x.Qr-s*x.Dr)
	yw := x.W + h2*(kt*(x.Qs*x.Dr-x.Ds*x.Qr)-base-load.Slope*x.W)*invJ
	midD, midQ = k.A*yd-k.B*yr, k.A*yq-k.B*yi
	s = wf - p*yw
	next.Ds = x.Ds + h*(vd-a*yd+b*yr+wf*yq)
	next.Qs = x.Qs + h*(vq-a*yq+b*yi-wf*yd)
	next.Dr = x.Dr + h*(rb*yd-rc*yr+s*yi)
	next.Qr = x.Qr + h*(rb*yq-rc*yi-s*yr)
	next.W = x.W + h*(kt*(yq*yr-yd*yi)-base-load.Slope*yw)*invJ
	return next, midD, midQ
}
