package drive

import (
	"math"
	"math/cmplx"
	"testing"

	"tingate/testtools/check"
)

// sequences is the machine's impedance for a balanced set of voltages at a slip, Ω a phase, and what of it lies behind the air gap.
func (d *Drive) sequences(hz, slip float64) (z, gap complex128) {
	d.refresh()
	m := d.P.inductances(d.psi2)
	hot := 1 + .00393*(d.Winding-20)
	w := 2 * math.Pi * hz
	rotor := complex(m.Rr*hot/slip, w*(m.Lr-m.Lm))
	main := complex(0, w*m.Lm)
	gap = rotor * main / (rotor + main)
	return complex(m.Rs*hot, w*(m.Ls-m.Lm)) + gap, gap
}

// A motor that runs when one phase opens runs on: the current of the two others and the torque are those of the two sequences in series,
// and the drive sees a phase without current after a while.
func TestAMotorOnTwoPhases(t *testing.T) {
	d, in := run(func(d *Drive) {
		d.C.CurrentLimit, d.C.Overload, d.C.Boost = 100, 0, 0
		d.P.Load.Torque, d.P.LoadJ, d.P.Iron = 12, 1, 0
	}, 9)
	before := d.Current
	d.P.Broken.OutputLost = true
	d.Reload()
	turn(d, in, 2)
	if d.Fault != "" || !d.Running {
		t.Fatalf("without that protection it trips: %s", d.Fault)
	}
	speed, torque, n := 0., 0., 0.
	low, high := math.Inf(1), math.Inf(-1)
	for range 1000 {
		turn(d, in, Tick)
		speed, torque, n = speed+d.Speed, torque+d.Torque, n+1
		low, high = math.Min(low, d.Torque), math.Max(high, d.Torque)
	}
	slip := 1 - speed/n/1500
	z1, gap1 := d.sequences(d.Hz, slip)
	z2, gap2 := d.sequences(d.Hz, 2-slip)
	line := d.Volts * math.Sqrt(1.5) // rms between lines
	amps := line / cmplx.Abs(z1+z2)
	const how = "symmetrical components: positive and negative sequence in series across the line, by hand"
	check.Against(t, "line current of a motor on two phases, A", how, d.Phases[1], amps, .06)
	check.Against(t, "the same of the other line, A", how, d.Phases[2], amps, .06)
	seq := amps / math.Sqrt(3)
	check.Against(t, "its mean torque, N·m", how, torque/n, 3*seq*seq*(real(gap1)-real(gap2))/(2*math.Pi*d.Hz/2), .08)
	if d.Phases[0] > .02*amps || amps < 1.4*before {
		t.Errorf("the open phase carries %.2f A; the others %.1f A, where it took %.1f A before", d.Phases[0], amps, before)
	}
	if high-low < 1.2*torque/n {
		t.Errorf("its torque goes between %.1f and %.1f N·m: it pulsates with twice the frequency", low, high)
	}
	d.C.OutputLoss = "fault"
	d.Reload()
	turn(d, in, 2)
	if d.Fault != "output-phase" {
		t.Errorf("it is not seen: %q", d.Fault)
	}
}

// From standstill a field that only pulsates turns nothing: it hums, and takes its current.
func TestAMotorDoesNotStartOnTwoPhases(t *testing.T) {
	for _, control := range []string{"volts-per-hertz", "vector"} {
		d, _ := run(func(d *Drive) {
			d.C.Control, d.P.Broken.OutputLost, d.C.Stall = control, true, "off"
			d.P.Load.Kind, d.P.Load.Torque = "constant", 8
		}, 3)
		if math.Abs(d.Speed) > 30 || d.Phases[1] < 4 || d.Phases[0] > .3 || d.Fault != "" {
			t.Errorf("%s: %.0f r/min, %.1f %.1f %.1f A, %s", control, d.Speed, d.Phases[0], d.Phases[1], d.Phases[2], d.Fault)
		}
		d, _ = run(func(d *Drive) { d.C.Control, d.P.Broken.OutputLost, d.C.OutputLoss = control, true, "fault" }, 6)
		if d.Fault != "output-phase" {
			t.Errorf("%s: %q", control, d.Fault)
		}
	}
}

// With every phase connected nothing is otherwise, and mended it is as before.
func TestAPhaseMendedIsAsBefore(t *testing.T) {
	d, in := run(func(*Drive) {}, 9)
	was := d.Current
	if d.Phases != [3]float64{was, was, was} {
		t.Errorf("%v of %g A", d.Phases, was)
	}
	d.P.Broken.OutputLost = true
	d.Reload()
	turn(d, in, .5)
	d.P.Broken.OutputLost = false
	d.Reload()
	turn(d, in, 4)
	if math.Abs(d.Current/was-1) > .03 || d.Fault != "" {
		t.Errorf("%g A before, %g A afterwards, %s", was, d.Current, d.Fault)
	}
}
