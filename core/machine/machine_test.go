package machine

import (
	"context"
	"math"
	"testing"

	"tingate/core/motion"
	"tingate/testtools/check"
)

// chapman is the 460 V, 25 hp, 60 Hz, four-pole machine of Chapman, Electric Machinery Fundamentals, 5th edition, example 6-3.
var chapman = Circuit{Rs: .641, Rr: .332, Xls: 1.106, Xlr: .464, Xm: 26.3, Frequency: 60, Poles: 4, Friction: 1100}

func TestSteadyStateAgainstChapman(t *testing.T) {
	p := chapman.At(460, 60, .022)
	const ex = "from memory: Chapman, Electric Machinery Fundamentals, 5th edition, example 6-3"
	check.Against(t, "stator current of the 25 hp machine at 2.2 % slip, A", ex, p.Current, 18.88, .002)
	check.Against(t, "its power factor", ex, p.PowerFactor, .833, .002)
	check.Against(t, "its input, W", ex, p.Input, 12530, .002)
	check.Against(t, "its stator copper loss, W", ex, p.StatorLoss, 685, .002)
	check.Against(t, "its air-gap power, W", ex, p.Airgap, 11845, .002)
	check.Against(t, "its output, W", ex, p.ShaftPower, 10485, .002)
	check.Against(t, "its induced torque, N·m", ex, p.AirgapTorque, 62.8, .002)
	check.Against(t, "its load torque, N·m", ex, p.ShaftTorque, 56.9, .002)
	check.Against(t, "its efficiency", ex, p.Efficiency, .837, .002)
	// His Thevenin source is the approximate one.
	const ex5 = "from memory: Chapman, Electric Machinery Fundamentals, 5th edition, example 6-5 (approximate source)"
	s, torque := chapman.Breakdown(460, 60)
	check.Against(t, "slip at its pullout torque", ex5, s, .198, .02)
	check.Against(t, "its pullout torque, N·m", ex5, torque, 229, .01)
	check.Against(t, "its starting torque, N·m", ex5, chapman.At(460, 60, 1).AirgapTorque, 104, .03)
}

// published machines: Krause, Wasynczuk, Sudhoff, Analysis of Electric Machinery and Drive Systems, table of induction machines:
// hp, V, r/min, base torque in N·m, base current in A, then the circuit at 60 Hz and the inertia. From memory.
var krause = []struct {
	hp, volts, rpm, torque, amps float64
	c                            Circuit
	j                            float64
}{
	{3, 220, 1710, 11.9, 5.8, Circuit{Rs: .435, Rr: .816, Xls: .754, Xlr: .754, Xm: 26.13, Frequency: 60, Poles: 4}, .089},
	{50, 460, 1705, 198, 46.8, Circuit{Rs: .087, Rr: .228, Xls: .302, Xlr: .302, Xm: 13.08, Frequency: 60, Poles: 4}, 1.662},
	{500, 2300, 1773, 1980, 93.6, Circuit{Rs: .262, Rr: .187, Xls: 1.206, Xlr: 1.206, Xm: 54.02, Frequency: 60, Poles: 4}, 11.06},
	{2250, 2300, 1786, 8900, 421.2, Circuit{Rs: .029, Rr: .022, Xls: .226, Xlr: .226, Xm: 13.04, Frequency: 60, Poles: 4}, 63.87},
}

func TestSteadyStateAgainstFitzgerald(t *testing.T) {
	c := Circuit{Rs: .294, Rr: .144, Xls: .503, Xlr: .209, Xm: 13.25, Frequency: 60, Poles: 6, Friction: 403}
	p := c.At(220, 60, .02)
	const ex2 = "from memory: Fitzgerald, Kingsley, Umans, Electric Machinery, 6th edition, example 6.2"
	check.Against(t, "speed of the 10 hp, six-pole machine at 2 % slip, r/min", ex2, p.Speed, 1176, 1e-4)
	check.Against(t, "its stator current, A", ex2, p.Current, 18.8, .003)
	check.Against(t, "its power factor", ex2, p.PowerFactor, .847, .003)
	check.Against(t, "its shaft power, W", ex2, p.ShaftPower, 5220, .005)
	check.Against(t, "its shaft torque, N·m", ex2, p.ShaftTorque, 42.4, .005)
	check.Against(t, "its efficiency", ex2, p.Efficiency, .861, .005)
	const ex3 = "from memory: Fitzgerald, Kingsley, Umans, Electric Machinery, 6th edition, example 6.3"
	check.Against(t, "its torque at 3 % slip, N·m", ex3, c.At(220, 60, .03).AirgapTorque, 65.5, .005)
	s, most := c.Breakdown(220, 60)
	check.Against(t, "its slip at the largest torque", ex3, s, .192, .005)
	check.Against(t, "its largest torque, N·m", ex3, most, 175, .005)
	start := c.At(220, 60, 1)
	check.Against(t, "its rotor current at standstill, A", ex3, start.RotorCurrent, 150, .005)
	check.Against(t, "its torque at standstill, N·m", ex3, start.AirgapTorque, 78, .01)
}

// A machine's own plate, rounded as plates are, must give a band in which the machine lies.
func TestEstimateBandsHoldPublishedMachines(t *testing.T) {
	list := []Circuit{chapman}
	volts := []float64{460}
	rated := []float64{.022}
	for _, m := range krause {
		c := m.c
		c.Friction = .006 * m.hp * 745.7
		list, volts, rated = append(list, c), append(volts, m.volts), append(rated, 1-m.rpm/1800)
	}
	for i, c := range list {
		p := c.At(volts[i], 60, rated[i])
		e, ok := Make(Plate{Power: p.ShaftPower, Voltage: volts[i], Current: p.Current, Frequency: 60, Speed: math.Round(p.Speed),
			Factor: math.Round(p.PowerFactor*100) / 100, Efficiency: p.Efficiency, Poles: 4})
		if !ok {
			t.Errorf("machine %d: nothing fits", i)
			continue
		}
		for name, v := range map[string][3]float64{"rs": {e.Low.Rs, c.Rs, e.High.Rs}, "rr": {e.Low.Rr, c.Rr, e.High.Rr},
			"xls": {e.Low.Xls, c.Xls, e.High.Xls}, "xlr": {e.Low.Xlr, c.Xlr, e.High.Xlr}, "xm": {e.Low.Xm, c.Xm, e.High.Xm}} {
			if v[1] < v[0] || v[1] > v[2] {
				t.Errorf("machine %d: %s is %.4g, band %.4g to %.4g", i, name, v[1], v[0], v[2])
			}
			if v[2] > 8*v[0] {
				t.Errorf("machine %d: the band of %s says nothing: %.4g to %.4g", i, name, v[0], v[2])
			}
		}
		if d := math.Abs(e.Fit.Current/p.Current - 1); d > .02 {
			t.Errorf("machine %d: the fit takes %.4g A of %.4g", i, e.Fit.Current, p.Current)
		}
		if d := math.Abs(e.Fit.ShaftPower/p.ShaftPower - 1); d > .02 {
			t.Errorf("machine %d: the fit gives %.4g W of %.4g", i, e.Fit.ShaftPower, p.ShaftPower)
		}
	}
}

// The same machine in phase quantities: three stator and two rotor phases as coupled coils, no transformation, another
// method (Heun with steps of 2 µs). An independent second method for the dynamic model.
func phases(m Induction, volts, hz, j, duration float64) (speed, torque, peak float64) {
	ws := 2 * math.Pi * hz
	lls, llr, ms := m.Ls-m.Lm, m.Lr-m.Lm, m.Lm*2/3
	var fs, fr [3]float64 // flux linkages
	var w, th float64
	rate := func(fs, fr [3]float64, w, th, t float64) (ds, dr [3]float64, te, amp float64) {
		// The coupled-coil inductances in a stationary alpha-beta pair and a rotor pair turned by th.
		al := func(f [3]float64) (a, b float64) { return (2*f[0] - f[1] - f[2]) / 3, (f[1] - f[2]) / math.Sqrt(3) }
		sa, sb := al(fs)
		ra, rb := al(fr)
		s, c := math.Sincos(th)
		// rotor flux seen from the stator
		xa, xb := c*ra-s*rb, s*ra+c*rb
		l1, l2, l3 := lls+1.5*ms, llr+1.5*ms, 1.5*ms
		d := l1*l2 - l3*l3
		ia, ib := (l2*sa-l3*xa)/d, (l2*sb-l3*xb)/d
		ja, jb := (l1*xa-l3*sa)/d, (l1*xb-l3*sb)/d
		ya, yb := c*ja+s*jb, -s*ja+c*jb // rotor currents in the rotor
		for k := range 3 {
			a := 2 * math.Pi / 3 * float64(k)
			ds[k] = volts*math.Sqrt(2./3)*math.Cos(ws*t-a) - m.Rs*(math.Cos(a)*ia+math.Sin(a)*ib)
			dr[k] = -m.Rr * (math.Cos(a)*ya + math.Sin(a)*yb)
		}
		return ds, dr, 1.5 * m.Pairs * (sa*ib - sb*ia), math.Hypot(ia, ib)
	}
	const h = 2e-6
	for n := range int(duration / h) {
		t := float64(n) * h
		a, b, te, amp := rate(fs, fr, w, th, t)
		peak = math.Max(peak, amp)
		var gs, gr [3]float64
		for k := range 3 {
			gs[k], gr[k] = fs[k]+h*a[k], fr[k]+h*b[k]
		}
		w1, th1 := w+h*te/j, th+h*m.Pairs*w
		a2, b2, te2, _ := rate(gs, gr, w1, th1, t+h)
		for k := range 3 {
			fs[k] += h / 2 * (a[k] + a2[k])
			fr[k] += h / 2 * (b[k] + b2[k])
		}
		th += h / 2 * m.Pairs * (w + w1)
		w += h / 2 * (te + te2) / j
		torque = te2
	}
	return w * 30 / math.Pi, torque, peak
}

func TestFreeAccelerationAgainstPhaseQuantities(t *testing.T) {
	m := FromCircuit(krause[0].c)
	for _, until := range []float64{.05, .2, .35} {
		r := m.Run(context.Background(), Supply{Volts: 220, Hz: 60}, motion.Load{Kind: "none"}, 0, .089, until, .005)
		speed, torque, peak := phases(m, 220, 60, .089, until)
		const source = "independent second method: the same machine in phase quantities, Heun, 2 µs"
		check.Against(t, "speed in free acceleration of the 3 hp machine, r/min", source, r.Final.Speed, speed, .002)
		check.Against(t, "its torque then, N·m", source, r.Final.Torque, torque, .01)
		check.Against(t, "its largest current so far, A", source, r.PeakCurrent, peak, .002)
	}
}

func TestTransientEndsInTheSteadyState(t *testing.T) {
	for i, m := range krause[:3] {
		load := motion.Load{Kind: "quadratic", Torque: m.torque, Speed: m.rpm * math.Pi / 30}
		r := FromCircuit(m.c).Run(context.Background(), Supply{Volts: m.volts, Hz: 60}, load, 0, m.j*2, 12, .01)
		slip := 1 - r.Final.Speed/1800
		p := m.c.At(m.volts, 60, slip)
		if d := math.Abs(r.Final.Torque/p.AirgapTorque - 1); d > .002 {
			t.Errorf("machine %d: %.5g N·m, the circuit says %.5g", i, r.Final.Torque, p.AirgapTorque)
		}
		if d := math.Abs(r.Final.Current/p.Current - 1); d > .002 {
			t.Errorf("machine %d: %.5g A, the circuit says %.5g", i, r.Final.Current, p.Current)
		}
	}
}

// What goes in over the terminals is losses, work at the load, turning and magnetic energy.
func TestEnergyCloses(t *testing.T) {
	m := FromCircuit(krause[1].c)
	k := m.Invert()
	load := motion.Load{Kind: "linear", Torque: 150, Speed: 180}
	const h, j = 20e-6, 1.662
	u, wf := 460*math.Sqrt(2./3), 2*math.Pi*60.
	var x Flux
	var in, loss, work float64
	for range int(1.5 / h) {
		i := k.Currents(x)
		in += h * 1.5 * u * i.Ds
		loss += h * 1.5 * (m.Rs*(i.Ds*i.Ds+i.Qs*i.Qs) + m.Rr*(i.Dr*i.Dr+i.Qr*i.Qr))
		tl, slope := load.At(x.W)
		work += h * tl * x.W
		x, _, _ = k.Hold(x, u, 0, wf, h, 1/j, Drag{tl, x.W, slope})
	}
	i := k.Currents(x)
	stored := .75*(x.Ds*i.Ds+x.Qs*i.Qs+x.Dr*i.Dr+x.Qr*i.Qr) + .5*j*x.W*x.W
	check.Against(t, "energy of a start of the 50 hp machine: losses, work, turning and field over what went in", "conservation of energy",
		(loss+work+stored)/in, 1, .005)
}

func TestFrictionHoldsAtRest(t *testing.T) {
	m := FromCircuit(krause[0].c)
	// At 1 Hz with little voltage the machine cannot break its load away.
	s := Supply{Volts: 220, Hz: 60, Boost: 1, Profile: []Profile{{0, 1}}}
	if r := m.Run(context.Background(), s, motion.Load{Kind: "constant", Torque: 11.9}, 0, .2, 2, .01); r.Final.Speed != 0 {
		t.Errorf("it turned %v r/min", r.Final.Speed)
	}
	s.Boost = 40
	if r := m.Run(context.Background(), s, motion.Load{Kind: "constant", Torque: 1}, 0, .2, 2, .01); !(r.Final.Speed > 5 &&
		r.Final.Speed < 30) {
		t.Errorf("it turns %v r/min at 1 Hz", r.Final.Speed)
	}
}

func TestAbsurdMachinesAreNamed(t *testing.T) {
	for field, spoil := range map[string]func(*Circuit){"rs_ohm": func(c *Circuit) { c.Rs = -1 },
		"xm_ohm": func(c *Circuit) { c.Xm = math.NaN() }, "poles": func(c *Circuit) { c.Poles = 3 },
		"rotational_loss_w": func(c *Circuit) { c.Friction = -1 }} {
		c := chapman
		spoil(&c)
		if got, _, _ := c.Valid(); got != field {
			t.Errorf("%s spoilt: %q is named", field, got)
		}
	}
	if _, ok := Make(Plate{Power: 1000, Voltage: 400, Current: 2, Frequency: 50, Speed: 1500, Factor: .8, Efficiency: .8, Poles: 4}); ok {
		t.Error("a machine without slip was made")
	}
}

func TestDeepBars(t *testing.T) {
	const src = "ξ(sinh 2ξ + sin 2ξ)/(cosh 2ξ − cos 2ξ), textbooks of electrical machines; worked by hand"
	r, _ := DeepBar(1)
	check.Against(t, "resistance of a deep bar, ξ = 1", src, r, 1.08563, 1e-4)
	r, x := DeepBar(2)
	check.Against(t, "resistance of a deep bar, ξ = 2", src, r, 1.89782, 1e-4)
	check.Against(t, "slot leakage of a deep bar, ξ = 2", "3(sinh 2ξ − sin 2ξ)/2ξ(cosh 2ξ − cos 2ξ), the same; worked by hand", x, .75228,
		1e-4)
	r, x = DeepBar(10)
	check.Against(t, "far displaced: the resistance goes as ξ", "limit of the same", r, 10, 1e-6)
	check.Against(t, "and the leakage as 3/2ξ", "limit of the same", x, .15, 1e-6)
	if r, x = DeepBar(0); r != 1 || x != 1 {
		t.Errorf("no bar: %v %v", r, x)
	}
	e, _ := Make(Plate{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82, Efficiency: .874, Poles: 4})
	plain := e.At(400, 50, 1).AirgapTorque
	xi, ok := e.BarFor(400, 1.4*plain)
	if got := e.Displaced(xi, 50).At(400, 50, 1).AirgapTorque; !ok || math.Abs(got/plain-1.4) > 1e-6 {
		t.Errorf("ξ %v gives %v of %v N·m", xi, got, plain)
	}
	if xi, ok := e.BarFor(400, .5*plain); !ok || xi != 0 {
		t.Errorf("less than without: %v %v", xi, ok)
	}
	if _, ok := e.BarFor(400, 100*plain); ok {
		t.Error("no bar gives a hundred times the torque")
	}
}

// Braking by direct current: the torque's top lies at the slip Rr/(Xm+Xlr), and is 3/(2 ωs) I² Xm²/(Xm+Xlr).
func TestDirectCurrentTorque(t *testing.T) {
	sync := chapman.Synchronous(60)
	x := chapman.Xm + chapman.Xlr
	top, at := 0., 0.
	for i := 1; i < 4000; i++ {
		if v := chapman.DirectCurrentTorque(20, sync*float64(i)/4000); v > top {
			top, at = v, float64(i)/4000
		}
	}
	check.Against(t, "slip at which direct current brakes hardest", "Rr/(Xm+Xlr), closed form", at, chapman.Rr/x, .03)
	check.Against(t, "its torque there at 20 A, N·m", "3/(2 ωs) I² Xm²/(Xm+Xlr), closed form", top, 3/(2*sync)*400*chapman.Xm*chapman.Xm/x,
		.001)
	if chapman.DirectCurrentTorque(20, 0) != 0 || chapman.DirectCurrentTorque(20, -5) <= 0 {
		t.Error("at rest there is none; either way it brakes")
	}
}
