package drive

import (
	"math"
	"testing"

	"tingate/core/motion"
	"tingate/core/signal"
)

// A signal in its dead band asks for the low end's speed, above it for what the line says; what counts as lost, and where it then goes.
func TestDeadBandAndLostSignal(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(*Drive, *Inputs)
		hz     float64
	}{
		{"in the band", func(d *Drive, in *Inputs) { d.C.DeadBand, d.C.Low, in.Analog = .05, 10, .4 }, 10},
		{"above it, not stretched", func(d *Drive, in *Inputs) { d.C.DeadBand, d.C.Low, in.Analog = .05, 10, 1 }, 14},
		{"3.4 mA, lost below 3.2", func(d *Drive, in *Inputs) { current(d, 3.2); in.Analog = 3.4 }, 10},
		{"3.4 mA, lost below 3.6: to the lowest", func(d *Drive, in *Inputs) {
			current(d, 3.6)
			d.C.Lost, d.C.Lower, in.Analog = "lowest", 6, 3.4
		}, 6},
		{"to preset 1", func(d *Drive, in *Inputs) {
			current(d, 3.6)
			d.C.Lost, d.C.Presets[1], in.Analog = "preset", 22, 3.4
		}, 22},
	} {
		d := works()
		in := ready(d)
		in.Terminals = 1
		c.change(d, &in)
		d.Reload()
		turn(d, in, 8)
		if math.Abs(d.Hz-c.hz) > .02 {
			t.Errorf("%s: %.2f Hz, want %g", c.name, d.Hz, c.hz)
		}
	}
}

func current(d *Drive, below float64) {
	d.C.Live, d.C.Full, d.C.Low, d.C.LostBelow = true, 20, 10, below
}

// A reference with points between its ends follows them: 0 % 10 Hz, 25 % 15, 50 % 40, 100 % 50 Hz (works' high end).
func TestABentReference(t *testing.T) {
	for share, hz := range map[float64]float64{0: 10, .125: 12.5, .25: 15, .375: 27.5, .5: 40, .75: 45, 1: 50} {
		d := works()
		d.C.Low, d.C.High, d.C.Bends = 10, 50, [3]signal.Bend{{Share: .25, Speed: 15}, {Share: .5, Speed: 40}}
		d.Reload()
		in := ready(d)
		in.Terminals, in.Analog = 1, 10*share
		if turn(d, in, 10); math.Abs(d.Hz-hz) > .05 {
			t.Errorf("at %g of the signal %.2f Hz, want %g", share, d.Hz, hz)
		}
	}
}

// The overload of a motor with its own fan bears less when it turns slowly: at standstill 40 % of the heat (common practice), so that the
// same current trips in a time that the class gives for a current √2.5 times as large.
func TestOverloadCountsWithTheMotorsFan(t *testing.T) {
	trips := func(change func(*Drive)) float64 {
		d := works()
		d.C.High, d.C.Boost, d.C.Stall, d.C.Overload, d.C.OverloadClass = 2, .12, "off", 9, 10
		d.P.Load = motion.Load{Kind: "constant", Torque: 4, Speed: 152}
		change(d)
		d.Reload()
		in := ready(d)
		in.Terminals, in.Analog = 1, 10
		for s := 0.; s < 300; s++ {
			if turn(d, in, 1); d.Fault == "motor-overload" {
				return s
			}
		}
		return math.Inf(1)
	}
	forced, own := trips(func(*Drive) {}), trips(func(d *Drive) { d.C.SelfCooled = true })
	if !(own < .6*forced) {
		t.Errorf("at 2 Hz it trips after %g s with its own fan, after %g s without", own, forced)
	}
	fast := trips(func(d *Drive) { d.C.SelfCooled, d.C.High, d.C.Rise, d.C.Overload = true, 50, 100, 3 })
	plain := trips(func(d *Drive) { d.C.High, d.C.Rise, d.C.Overload = 50, 100, 3 })
	if fast < .75*plain || math.IsInf(fast, 1) { // the rise itself is slow at its beginning
		t.Errorf("at 50 Hz it trips after %g s and %g s: its fan carries away all of it there", fast, plain)
	}
}

// A brake that the drive opens waits for current or torque, and closes on the way down at the speed that is set.
func TestBrakeByItsThresholds(t *testing.T) {
	lifts := func(change func(*Drive)) (opened, closed float64) {
		d := works()
		d.P.Brake = Brake{Torque: 120, Follows: true, Opens: .05, Closes: .05}
		d.C.Rise, d.C.Fall = 25, 25
		change(d)
		d.Reload()
		in := ready(d)
		in.Terminals, in.Analog = 1, 10
		opened = -1
		for s := 0.; s < 4 && opened < 0; s += .01 {
			if turn(d, in, .01); d.Gripping < 1 {
				opened = math.Abs(d.Torque)
			}
		}
		turn(d, in, 4)
		in.Terminals = 0
		for s := 0.; s < 8; s += .01 {
			if turn(d, in, .01); d.Gripping > 0 {
				return opened, math.Abs(d.Hz)
			}
		}
		return opened, -1
	}
	plain, let := lifts(func(*Drive) {})
	torque, _ := lifts(func(d *Drive) { d.C.BrakeTorque = 20 })
	if !(plain >= 0 && plain < 15) || !(torque >= 20) {
		t.Errorf("opened at %.1f N·m, and from 20 N·m on at %.1f", plain, torque)
	}
	if _, closed := lifts(func(d *Drive) { d.C.BrakeBelow = 5 }); math.Abs(closed-5) > 1 || let > 1 {
		t.Errorf("closed at %.2f Hz, want 5; without a setting at %.2f", closed, let)
	}
	if never, _ := lifts(func(d *Drive) { d.C.BrakeFrom = 200 }); never >= 0 {
		t.Error("opened below its threshold")
	}
}

// Direct current keeps the field of a motor that stands, or keeps it warm: the current that its circuit says, the heat of that current in
// its stator, no torque on a shaft that stands, a start without waiting for the field, nothing behind torque off or an open enable, and
// none in a motor with magnets.
func TestStandingWithDirectCurrent(t *testing.T) {
	stands := func(change func(*Drive)) (*Drive, Inputs) {
		d := works()
		change(d)
		d.Reload()
		in := ready(d)
		turn(d, in, 4)
		return d, in
	}
	magnetise := func(d *Drive) { d.C.Magnetise, d.C.Control = true, "vector" }
	d, in := stands(magnetise)
	want := d.C.Motor.Voltage / math.Sqrt(3) / (2 * math.Pi * d.C.Motor.Frequency * d.C.Known.Ls)
	if d.Phase != Magnetised || d.Running || math.Abs(d.Current/want-1) > .05 || math.Abs(d.Speed) > .1 || math.Abs(d.Torque) > .5 {
		t.Errorf("%s, %.2f A, want %.2f; %.2f r/min, %.2f N·m", d.Phase, d.Current, want, d.Speed, d.Torque)
	}
	soon := func(d *Drive, in Inputs) (s float64) {
		in.Terminals, in.Analog = 1, 10
		for ; math.Abs(d.Speed) < 60 && s < 10; s += .01 {
			turn(d, in, .01)
		}
		return s
	}
	plain, plainIn := stands(func(d *Drive) { d.C.Control = "vector" })
	if a, b := soon(d, in), soon(plain, plainIn); a > b-.5*plain.magnetisingTime() || plain.magnetisingTime() < .1 {
		t.Errorf("magnetised it turns after %.2f s, else after %.2f s, of which the field takes %.2f", a, b, plain.magnetisingTime())
	}
	d, in = stands(func(d *Drive) { d.C.Preheat = 1.5 })
	if d.Phase != Magnetised || math.Abs(d.Current-1.5) > .1 {
		t.Errorf("kept warm: %s, %.2f A", d.Phase, d.Current)
	}
	in.A, in.B = false, false
	if turn(d, in, 1); d.Phase != Off || d.Current > .05 {
		t.Errorf("torque off: %s, %.2f A", d.Phase, d.Current)
	}
	in.A, in.B = true, true
	turn(d, in, 1)
	in.Line = false
	if turn(d, in, 60); d.Phase != Off || d.Current > .05 {
		t.Errorf("without mains: %s, %.2f A", d.Phase, d.Current)
	}
	if d, _ := stands(func(d *Drive) { magnetise(d); d.P.Magnet = .8 }); d.Phase != Off {
		t.Errorf("a motor with magnets: %s", d.Phase)
	}
	if d, _ := stands(func(d *Drive) { magnetise(d); d.C.Inputs[1] = "coast" }); d.Phase != Off {
		t.Errorf("an open enable: %s", d.Phase)
	}
}
