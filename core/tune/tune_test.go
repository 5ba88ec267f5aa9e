package tune_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"tingate/core/drive"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/core/tune"
)

// motors from 0.37 to 250 kW: kW, V, A, r/min, cos φ, efficiency. Usual figures of four-pole and other motors at 50 Hz; common
// practice.
var motors = []machine.Plate{
	{Power: 370, Voltage: 400, Current: 1.05, Frequency: 50, Speed: 1380, Factor: .72, Efficiency: .706, Poles: 4},
	{Power: 1500, Voltage: 400, Current: 3.4, Frequency: 50, Speed: 1430, Factor: .77, Efficiency: .828, Poles: 4},
	{Power: 4000, Voltage: 400, Current: 8.0, Frequency: 50, Speed: 1450, Factor: .83, Efficiency: .870, Poles: 4},
	{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82, Efficiency: .874, Poles: 4},
	{Power: 15000, Voltage: 400, Current: 28.5, Frequency: 50, Speed: 970, Factor: .84, Efficiency: .904, Poles: 6},
	{Power: 37000, Voltage: 400, Current: 67, Frequency: 50, Speed: 2955, Factor: .86, Efficiency: .927, Poles: 2},
	{Power: 110000, Voltage: 400, Current: 194, Frequency: 50, Speed: 1485, Factor: .86, Efficiency: .952, Poles: 4},
	{Power: 250000, Voltage: 400, Current: 435, Frequency: 50, Speed: 1488, Factor: .865, Efficiency: .959, Poles: 4},
}

// stage is a motor behind a power stage, uncoupled; spoil changes it after it is built.
func stage(t testing.TB, m machine.Plate, seed uint64, spoil func(*drive.Drive)) *drive.Stage {
	t.Helper()
	e, ok := machine.Make(m)
	if !ok {
		t.Fatal("no machine")
	}
	rng := rand.New(rand.NewPCG(seed, 1))
	// The real machine is not the estimate: each value lies aside, by the seed.
	c := e.Circuit
	for _, v := range []*float64{&c.Rs, &c.Rr, &c.Xm} {
		*v *= .8 + .4*rng.Float64()
	}
	leak := .75 + .5*rng.Float64()
	c.Xls, c.Xlr = c.Xls*leak, c.Xlr*leak
	d := &drive.Drive{}
	sync := 120 * m.Frequency / float64(m.Poles)
	d.P = drive.NewPlant(c, m.Voltage, (sync-m.Speed)/sync)
	d.P.Inertia *= .7 + .8*rng.Float64()
	d.P.Line, d.P.Hz = m.Voltage, m.Frequency
	d.P.Link = drive.UsualLink(m.Current*1.1, m.Voltage, false)
	d.C = drive.Config{Rated: m.Current * 1.1, LineVolts: 400, Overvolts: 900, Undervolts: 300, Switching: 4, CurrentLimit: 3 * m.Current,
		OverloadClass: 10,
		Motor: drive.Entered{Voltage: m.Voltage, Frequency: m.Frequency, Current: m.Current, Speed: m.Speed, Power: m.Power,
			Factor: m.Factor, Poles: m.Poles}}
	d.Start()
	if spoil != nil {
		spoil(d)
		d.Reload()
	}
	in := drive.Inputs{Line: true, A: true, B: true}
	for range 3000 {
		d.Step(&in)
	}
	d.Running = true
	return &drive.Stage{D: d, Rated: m.Current, Noise: rng.NormFloat64}
}

func entered(m machine.Plate) tune.Plate {
	return tune.Plate{Voltage: m.Voltage, Current: m.Current, Frequency: m.Frequency, Speed: m.Speed, Power: m.Power, Factor: m.Factor,
		Poles: m.Poles}
}

// truth is what the machine really is, cold.
type truth struct{ rs, rr, leak, lm, j float64 }

func truthOf(d *drive.Drive, p machine.Plate) truth {
	m := d.P.Motor
	// The branch saturates: it is compared at the flux that is called rated, 0.96 of what the voltage over the frequency gives.
	r := p.Voltage * math.Sqrt(2./3) / (2 * math.Pi * p.Frequency) * .96 / d.P.Flux
	lm := m.Lm * (1 + d.P.Knee) / (1 + d.P.Knee*math.Pow(r, 6))
	hot := 1 + .00393*(25-20)
	return truth{m.Rs*hot + d.P.Broken.CableOhms, m.Rr * hot, m.Ls + m.Lr - 2*m.Lm, lm, d.P.Inertia}
}

// Eight motors, twenty seeds each: stator resistance and magnetising inductance within 5 %, leakage, rotor resistance and
// inertia within 10 %, at least 19 times of 20. The table goes into docs/tune.md when TINGATE_TUNE_TABLE is set.
func TestIdentificationFindsTheMotor(t *testing.T) {
	seeds := 20
	if testing.Short() {
		seeds = 4
	}
	lines := make([]string, len(motors))
	t.Run("motors", func(t *testing.T) {
		for i, m := range motors {
			t.Run(fmt.Sprintf("%g kW", m.Power/1000), func(t *testing.T) {
				t.Parallel()
				lines[i] = identify(t, m, seeds)
			})
		}
	})
	table := strings.Join(lines, "\n") + "\n"
	t.Log("\n" + table)
	if path := os.Getenv("TINGATE_TUNE_TABLE"); path != "" {
		if err := os.WriteFile(path, []byte(table), 0o600); err != nil {
			t.Error(err)
		}
	}
}

// identify tunes one motor with many seeds and gives a row of the table.
func identify(t *testing.T, m machine.Plate, seeds int) string {
	limits := [5]float64{.05, .10, .10, .05, .10}
	var good [5]int
	var worst [5]float64
	for seed := range seeds {
		s := stage(t, m, uint64(seed)+1, nil)
		res, fail := tune.Run(tune.Rotating, entered(m), nil, s, nil)
		if fail != nil {
			t.Errorf("seed %d: %s", seed, fail.Text)
			continue
		}
		x := truthOf(s.D, m)
		for i, p := range [5][2]float64{{res.Rs, x.rs}, {res.Rr, x.rr}, {res.Leakage, x.leak}, {res.Lm, x.lm}, {res.Inertia, x.j}} {
			e := p[0]/p[1] - 1
			if math.Abs(e) <= limits[i] {
				good[i]++
			}
			if math.Abs(e) > math.Abs(worst[i]) {
				worst[i] = e
			}
		}
	}
	line := fmt.Sprintf("| %g kW |", m.Power/1000)
	for i, name := range [5]string{"stator resistance", "rotor resistance", "leakage", "magnetising inductance", "inertia"} {
		line += fmt.Sprintf(" %d of %d, worst %+.1f %% |", good[i], seeds, worst[i]*100)
		if good[i]*20 < seeds*19 {
			t.Errorf("%s within %g %% in %d of %d, worst %+.1f %%", name, limits[i]*100, good[i], seeds, worst[i]*100)
		}
	}
	return line
}

// The machine is changed, and the result follows: nothing is looked up.
func TestTheResultFollowsTheMachine(t *testing.T) {
	m := motors[3]
	base, fail := tune.Run(tune.Rotating, entered(m), nil, stage(t, m, 3, nil), nil)
	if fail != nil {
		t.Fatal(fail)
	}
	for name, c := range map[string]struct {
		spoil func(*drive.Drive)
		see   func(tune.Result) float64
		times float64
	}{
		"stator resistance half as much again": {func(d *drive.Drive) { d.P.Motor.Rs *= 1.5 }, func(r tune.Result) float64 { return r.Rs },
			1.5},
		"rotor resistance half as much again": {func(d *drive.Drive) { d.P.Motor.Rr *= 1.5 }, func(r tune.Result) float64 { return r.Rr },
			1.5},
		"twice the inertia": {func(d *drive.Drive) { d.P.Inertia *= 2 },
			func(r tune.Result) float64 { return r.Inertia }, 2},
		"a fifth less magnetising inductance": {func(d *drive.Drive) {
			x := &d.P.Motor
			cut := .2 * x.Lm
			x.Lm, x.Ls, x.Lr = x.Lm-cut, x.Ls-cut, x.Lr-cut
		}, func(r tune.Result) float64 { return r.Lm }, .8},
		"a long cable": {func(d *drive.Drive) { d.P.Broken.CableOhms = d.P.Motor.Rs }, func(r tune.Result) float64 { return r.Rs }, 1.98},
	} {
		res, fail := tune.Run(tune.Rotating, entered(m), nil, stage(t, m, 3, c.spoil), nil)
		if fail != nil {
			t.Errorf("%s: %s", name, fail.Text)
			continue
		}
		if got := c.see(res) / c.see(base); math.Abs(got/c.times-1) > .06 {
			t.Errorf("%s: the result changes by %.3f, want %.3f", name, got, c.times)
		}
	}
}

func TestTunesFailAsInLife(t *testing.T) {
	m := motors[3]
	for _, c := range []struct {
		name  string
		kind  tune.Kind
		plate func(*tune.Plate)
		spoil func(*drive.Drive)
		code  string
	}{
		{"nothing entered", tune.Short, func(p *tune.Plate) { p.Current = 0 }, nil, "plate"},
		{"mechanical without a tune before", tune.Mechanical, nil, nil, "not-tuned"},
		{"torque off", tune.Short, nil, nil, "stopped"},
		{"a plate of a motor ten times the size", tune.Rotating, func(p *tune.Plate) { p.Power, p.Current = 75000, 139 }, nil,
			"no-current|stator-implausible|overcurrent|stopped|no-load-implausible|leakage-implausible"},
		{"a plate of a motor a tenth of the size", tune.Rotating, func(p *tune.Plate) { p.Power, p.Current = 750, 1.9 }, nil,
			"stator-implausible|no-load-implausible|leakage-implausible|overcurrent"},
		{"the shaft jammed", tune.Rotating, nil, func(d *drive.Drive) { d.P.Broken.Jammed = true },
			"overcurrent|no-load-implausible|inertia-implausible|not-up"},
		{"linked for the other voltage", tune.Rotating, nil, func(d *drive.Drive) { d.P.Broken.Relinked = 1. / 3 },
			"overcurrent|no-load-implausible|stator-implausible|not-up"},
	} {
		s := stage(t, m, 5, c.spoil)
		if c.name == "torque off" {
			s.D.Fault = "torque-off"
		}
		p := entered(m)
		if c.plate != nil {
			c.plate(&p)
		}
		_, fail := tune.Run(c.kind, p, nil, s, nil)
		if fail == nil || !strings.Contains("|"+c.code+"|", "|"+fail.Code+"|") || fail.Text == "" {
			t.Errorf("%s: %v, want %s", c.name, fail, c.code)
		}
	}
}

func TestKindsLearnWhatTheySay(t *testing.T) {
	m := motors[2]
	short, fail := tune.Run(tune.Short, entered(m), nil, stage(t, m, 2, nil), nil)
	if fail != nil || !(short.Rs > 0) || !math.IsNaN(short.Rr) {
		t.Errorf("%+v %v", short, fail)
	}
	stand, fail := tune.Run(tune.Standstill, entered(m), nil, stage(t, m, 2, nil), nil)
	if fail != nil || !(stand.Leakage > 0) || !math.IsNaN(stand.Inertia) {
		t.Errorf("%+v %v", stand, fail)
	}
	full, fail := tune.Run(tune.Rotating, entered(m), nil, stage(t, m, 2, nil), nil)
	if fail != nil {
		t.Fatal(fail)
	}
	mech, fail := tune.Run(tune.Mechanical, entered(m), &full, stage(t, m, 2, func(d *drive.Drive) { d.P.Inertia *= 1.7 }), nil)
	if fail != nil || math.Abs(mech.Inertia/full.Inertia/1.7-1) > .06 {
		t.Errorf("mechanical: %v of %v, %v", mech.Inertia, full.Inertia, fail)
	}
	steps := map[string]bool{}
	if _, fail = tune.Run(tune.Rotating, entered(m), nil, stage(t, m, 2, nil), func(name string, share float64) {
		steps[name] = steps[name] || share > .5
	}); fail != nil {
		t.Fatal(fail)
	}
	for _, s := range tune.Timeline(tune.Rotating, entered(m)) {
		if !steps[s.Name] || s.Heard == "" || !(s.Until > 0) {
			t.Errorf("step %+v was not gone through", s)
		}
	}
}

// With half its torque on the shaft, as a fan takes it, a motor is learnt nearly as well as free; fully loaded it is refused.
func TestCoupledTune(t *testing.T) {
	fan := func(share float64) func(*drive.Drive) {
		return func(d *drive.Drive) {
			m := motors[3]
			w := m.Speed * math.Pi / 30
			d.P.Coupled, d.P.Load, d.P.LoadJ = true, motion.Load{Kind: "quadratic", Torque: share * m.Power / w, Speed: w}, 2*d.P.Inertia
		}
	}
	m := motors[3]
	free, fail := tune.Run(tune.Rotating, entered(m), nil, stage(t, m, 4, nil), nil)
	if fail != nil {
		t.Fatal(fail)
	}
	res, fail := tune.Run(tune.Coupled, entered(m), nil, stage(t, m, 4, fan(.5)), nil)
	if fail != nil {
		t.Fatal(fail)
	}
	for what, x := range map[string][3]float64{"stator resistance": {res.Rs, free.Rs, .02}, "leakage": {res.Leakage, free.Leakage, .1},
		"magnetising inductance": {res.Lm, free.Lm, .05}, "inertia of motor and load": {res.Inertia, 3 * free.Inertia, .15}} {
		if math.Abs(x[0]/x[1]-1) > x[2] {
			t.Errorf("%s coupled %v, free %v", what, x[0], x[1])
		}
	}
	if _, fail = tune.Run(tune.Coupled, entered(m), nil, stage(t, m, 4, fan(1.6)), nil); fail == nil {
		t.Error("overloaded, and tuned all the same")
	}
}

func BenchmarkRotatingTune(b *testing.B) {
	for b.Loop() {
		b.StopTimer()
		s := stage(b, motors[3], 1, nil)
		b.StartTimer()
		if _, fail := tune.Run(tune.Rotating, entered(motors[3]), nil, s, nil); fail != nil {
			b.Fatal(fail)
		}
	}
}
