package drive

import (
	"testing"

	"tingate/core/machine"
)

// R1 is the yardstick: plain fourth-order Runge-Kutta, structs of floats, rotating frame, 50 µs, voltage held each ms.
func r1(r *Reference) State {
	const h = 50e-6
	k := r.Motor.Invert()
	s := State{V: r.V0}
	for tick := range 10000 {
		f := r.profile(float64(tick) * 1e-3)
		u, wf := r.amplitude(f, s.V), 2*3.141592653589793*f
		for range 20 {
			a := rate(r, &k, s, u, wf)
			b := rate(r, &k, moved(s, h/2, a), u, wf)
			c := rate(r, &k, moved(s, h/2, b), u, wf)
			d := rate(r, &k, moved(s, h, c), u, wf)
			s.X.Ds += h / 6 * (a.X.Ds + 2*b.X.Ds + 2*c.X.Ds + d.X.Ds)
			s.X.Qs += h / 6 * (a.X.Qs + 2*b.X.Qs + 2*c.X.Qs + d.X.Qs)
			s.X.Dr += h / 6 * (a.X.Dr + 2*b.X.Dr + 2*c.X.Dr + d.X.Dr)
			s.X.Qr += h / 6 * (a.X.Qr + 2*b.X.Qr + 2*c.X.Qr + d.X.Qr)
			s.X.W += h / 6 * (a.X.W + 2*b.X.W + 2*c.X.W + d.X.W)
			s.V += h / 6 * (a.V + 2*b.V + 2*c.V + d.V)
			s.T += h / 6 * (a.T + 2*b.T + 2*c.T + d.T)
		}
	}
	return s
}

func rate(r *Reference, k *machine.Inverse, s State, u, wf float64) (d State) {
	slip := wf - k.Pairs*s.X.W
	id, iq := k.A*s.X.Ds-k.B*s.X.Dr, k.A*s.X.Qs-k.B*s.X.Qr
	jd, jq := k.C*s.X.Dr-k.B*s.X.Ds, k.C*s.X.Qr-k.B*s.X.Qs
	d.X.Ds = u - r.Motor.Rs*id + wf*s.X.Qs
	d.X.Qs = -r.Motor.Rs*iq - wf*s.X.Ds
	d.X.Dr = -r.Motor.Rr*jd + slip*s.X.Qr
	d.X.Qr = -r.Motor.Rr*jq - slip*s.X.Dr
	d.X.W = (k.Torque*(s.X.Ds*iq-s.X.Qs*id) - r.drag(s.X.W).T0) / r.J
	i, _ := r.Bus.net(s.V)
	d.V = (i - 1.5*u*id/s.V) / r.Bus.C
	d.T = (1.5*(r.Motor.Rs*(id*id+iq*iq)+r.Motor.Rr*(jd*jd+jq*jq)) - r.Gth*s.T) / r.Cth
	return d
}

func moved(s State, h float64, d State) State {
	return State{X: along(s.X, h, d.X), V: s.V + h*d.V, T: s.T + h*d.T}
}

// R1 must solve the same problem, or it is no yardstick.
func TestR1SolvesTheProblem(t *testing.T) {
	r := small()
	end, _ := r.Held(nil)
	got := r1(&r)
	want := published(t, "k3hp_tick1ms.csv")
	last := want[len(want)-1]
	if d := got.X.W - last.Speed; d > 1e-3 || d < -1e-3 {
		t.Errorf("R1 ends at %v rad/s, want %v", got.X.W, last.Speed)
	}
	if d := got.T - end.T; d > .01*end.T || d < -.01*end.T {
		t.Errorf("winding %v K, ours %v K", got.T, end.T)
	}
}

var sink State

func bench(b *testing.B, r Reference, run func(r *Reference) State) {
	b.ReportAllocs()
	for b.Loop() {
		sink = run(&r)
	}
	b.ReportMetric(Runtime*float64(b.N)/b.Elapsed().Seconds(), "×realtime")
}

func BenchmarkR1(b *testing.B) { bench(b, small(), r1) }

func BenchmarkHeld1ms(b *testing.B) {
	bench(b, small(), func(r *Reference) State { s, _ := r.Held(nil); return s })
}

func BenchmarkHeld1ms30kW(b *testing.B) {
	bench(b, medium(), func(r *Reference) State { s, _ := r.Held(nil); return s })
}

func BenchmarkOriented125us(b *testing.B) {
	bench(b, small(), func(r *Reference) State { s, _ := r.Oriented(nil); return s })
}

func BenchmarkOriented125us30kW(b *testing.B) {
	bench(b, medium(), func(r *Reference) State { s, _ := r.Oriented(nil); return s })
}
