package drive

import (
	"math"
	"strings"
	"testing"

	"tingate/core/motion"
	"tingate/core/safety"
)

// run makes a drive, changes it, brings it up and starts it on full reference.
func run(change func(*Drive), seconds float64) (*Drive, Inputs) {
	d := works()
	change(d)
	d.Reload()
	in := ready(d)
	in.Terminals, in.Analog, in.KeyHz = 1, 10, 50
	turn(d, in, seconds)
	return d, in
}

func TestSettingsAct(t *testing.T) {
	at := func(d *Drive) float64 { return d.Speed }
	for _, c := range []struct {
		name    string
		change  func(*Drive)
		seconds float64
		see     func(*Drive) float64
		low     float64
		high    float64
	}{
		{"full reference", func(*Drive) {}, 9, at, 1440, 1470},
		{"slip compensation", func(d *Drive) { d.C.SlipComp = true }, 12, at, 1485, 1512}, // a cold rotor slips less than the plate says,
		{"upper limit", func(d *Drive) { d.C.Upper = 30 }, 9, func(d *Drive) float64 { return d.Hz }, 29.99, 30.01},
		{"lower limit", func(d *Drive) { d.C.Lower, d.C.High = 12, 0 }, 9, func(d *Drive) float64 { return d.Hz }, 11.99, 12.01},
		{"skip band", func(d *Drive) { d.C.High, d.C.Skip[0], d.C.SkipWidth = 30.4, 30, 4 }, 9, func(d *Drive) float64 { return d.Hz },
			31.99, 32.01},
		{"rise of 5 Hz/s, after 2 s", func(d *Drive) { d.C.Rise = 5 }, 2, func(d *Drive) float64 { return d.Hz }, 9.9, 10.1},
		{"S-curve is behind the straight ramp at the start", func(d *Drive) { d.C.SStart, d.C.SEnd = 1, 1 }, 1,
			func(d *Drive) float64 { return d.Hz }, .5, 5},
		{"S-curve arrives", func(d *Drive) { d.C.SStart, d.C.SEnd = .5, .5 }, 12, func(d *Drive) float64 { return d.Hz }, 49.9, 50.02},
		{"second ramp", func(d *Drive) {
			d.C.Rise2, d.C.Fall2, d.C.Inputs[0], d.C.Inputs[2] = 2, 2, "run-forward", "second-ramp"
			d.C.Inverted = 4
		}, 2, func(d *Drive) float64 { return d.Hz }, 3.9, 4.1},
		{"quadratic pattern takes less current at half speed", func(d *Drive) { d.C.Quadratic, d.C.High = true, 25 }, 9,
			func(d *Drive) float64 { return d.Current }, 2, 6.5},
		{"linear pattern at half speed", func(d *Drive) { d.C.High = 25 }, 9, func(d *Drive) float64 { return d.Current }, 6.6, 10},
		{"preset 0 is zero", func(d *Drive) { d.C.Speed = "presets" }, 3, func(d *Drive) float64 { return d.Hz }, 0, 0},
		{"preset 1", func(d *Drive) { d.C.Speed, d.C.Inputs[2], d.C.Inverted = "presets", "preset-0", 4 }, 5,
			func(d *Drive) float64 { return d.Hz }, 9.99, 10.01},
		{"keypad speed", func(d *Drive) { d.C.Speed = "keypad" }, 9, func(d *Drive) float64 { return d.Hz }, 49.9, 50.02},
		{"jog", func(d *Drive) { d.C.Inputs[0] = "jog" }, 3, func(d *Drive) float64 { return d.Hz }, 4.99, 5.01},
		{"reverse refused", func(d *Drive) { d.C.Inputs[0], d.C.BothWays = "run-reverse", false }, 3,
			func(d *Drive) float64 { return d.Hz }, 0, 0},
		{"reverse allowed", func(d *Drive) { d.C.Inputs[0], d.C.Inputs[1] = "run-reverse", "" }, 9, at, -1475, -1430},
		{"phase order set over", func(d *Drive) { d.C.Swap = true }, 9, at, -1475, -1430},
		{"motor leads swapped", func(d *Drive) { d.P.Broken.LeadsSwapped = true }, 9, at, -1475, -1430},
		{"current limit of 12 A holds the rise", func(d *Drive) { d.C.CurrentLimit, d.C.Rise, d.C.Stall = 12, 100, "off" }, 1.5,
			func(d *Drive) float64 { return d.Hz }, 3, 40},
		{"boost magnetises at standstill", func(d *Drive) { d.C.Boost, d.C.High = .04, 0 }, 2, func(d *Drive) float64 { return d.Current },
			8, 22},
		{"reference wire off", func(d *Drive) { d.P.Broken.ReferenceOff = true }, 5, at, -5, 5},
		{"live zero lost stops", func(d *Drive) { d.C.Live, d.C.Full, d.C.LostBelow, d.P.Broken.ReferenceOff = true, 20, 3.6, true }, 5,
			func(d *Drive) float64 { return d.Hz }, 0, 0},
		{"coupling loose", func(d *Drive) { d.P.Broken.Loose = true }, 9, func(d *Drive) float64 { return d.Current }, 5, 8},
		{"more cable takes voltage", func(d *Drive) { d.P.Broken.CableOhms = 3 }, 9, at, 1300, 1456},
		{"a star for a delta pulls less and slips more", func(d *Drive) { d.P.Broken.Relinked, d.C.Stall = 3, "off" }, 30, at, 600, 1415},
	} {
		d, _ := run(c.change, c.seconds)
		if d.Fault != "" {
			t.Errorf("%s: tripped, %s", c.name, d.Fault)
		}
		if v := c.see(d); !(v >= c.low && v <= c.high) {
			t.Errorf("%s: %.3f, want %g to %g (%.1f Hz, %.2f A, %s)", c.name, v, c.low, c.high, d.Hz, d.Current, d.Blocked)
		}
	}
}

func TestProtectionTrips(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(*Drive)
		after  func(*Drive, *Inputs)
		code   string
	}{
		{"too fast a rise without a limit", func(d *Drive) { d.C.Rise, d.C.CurrentLimit, d.P.LoadJ = 500, 1000, 3 }, nil, "overcurrent"},
		{"too fast a fall", func(d *Drive) { d.C.Fall, d.C.BusControl, d.P.LoadJ = 100, false, .6 },
			func(d *Drive, in *Inputs) { in.Terminals = 0; turn(d, *in, 3) }, "bus-over-voltage"},
		{"the mains goes while it runs", func(*Drive) {}, func(d *Drive, in *Inputs) { in.Line = false; turn(d, *in, 3) },
			"bus-under-voltage"},
		{"a jammed load", func(d *Drive) { d.P.Broken.Jammed = true }, nil, "motor-overload"},
		{"a phase of the mains is missing", func(d *Drive) { d.P.Broken.PhaseLost = true }, nil, "input-phase"},
		{"overload set far too low", func(d *Drive) { d.C.Overload = 4 }, func(d *Drive, in *Inputs) { turn(d, *in, 200) },
			"motor-overload"},
		{"a dead fan", func(d *Drive) { d.P.Broken.FanDead = true }, func(d *Drive, in *Inputs) { turn(d, *in, 900) }, "drive-temperature"},
		{"the encoder's pairs swapped in closed loop", func(d *Drive) { encoder(d); d.P.Broken.EncoderSwapped = true }, nil, "encoder"},
		{"the encoder dead in closed loop", func(d *Drive) { encoder(d); d.P.Broken.EncoderDead = true }, nil, "encoder"},
		{"the live zero lost, set to fault", func(d *Drive) {
			d.C.Live, d.C.Full, d.C.LostBelow, d.C.Lost, d.P.Broken.ReferenceOff = true, 20, 3.6, "fault",
				true
		}, nil, "reference-lost"},
		{"torque off that shows as a fault", func(d *Drive) { d.C.OffFault = true }, func(d *Drive, in *Inputs) {
			in.A, in.B = false,
				false
			turn(d, *in, .1)
		}, "torque-off"},
		{"a channel that sticks", func(d *Drive) { d.P.Broken.Stuck = 2 }, func(d *Drive, in *Inputs) {
			in.A, in.B = false,
				false
			turn(d, *in, 1)
		}, "torque-off-channel"},
	} {
		d, in := run(c.change, 9)
		if c.after != nil && d.Fault == "" {
			c.after(d, &in)
		}
		if d.Fault != c.code || d.Running {
			t.Errorf("%s: fault %q, want %q (%.1f Hz, %.1f A, %.0f V, %.0f °C)", c.name, d.Fault, c.code, d.Hz, d.Current, d.Link, d.Sink)
			continue
		}
		if d.TripCount < 1 || d.Trips[0].Code != c.code || !(d.Trips[0].Link > 0) || d.Device.State != Fault {
			t.Errorf("%s: kept %+v, device %s", c.name, d.Trips[0], d.Device.State)
		}
		// Held run does not start it again after the reset: a fresh command does, where the cause has gone.
		in.Line = true
		in.A, in.B = true, true
		d.P.Broken = Broken{}
		d.Reload()
		in.Terminals = 1
		in.Reset = true
		turn(d, in, .05)
		in.Reset = false
		turn(d, in, 3)
		if d.Running {
			t.Errorf("%s: a reset started the motor", c.name)
		}
	}
}

func encoder(d *Drive) { d.C.Control, d.P.Lines, d.C.Lines = "encoder", 1024, 1024 }

func TestBusControlHoldsTheFallThatWouldTrip(t *testing.T) {
	d, in := run(func(d *Drive) { d.C.Fall, d.P.LoadJ = 100, .6 }, 9)
	in.Terminals = 0
	held := 0
	for range 1000 {
		d.Step(&in)
		if d.Limiting == "link" {
			held++
		}
	}
	if d.Fault != "" || held < 10 {
		t.Errorf("%s, held for %d ms, %.0f V", d.Fault, held, d.Link)
	}
	turn(d, in, 20)
	if d.Fault != "" || d.Running {
		t.Errorf("%s, running %v, %.1f Hz", d.Fault, d.Running, d.Hz)
	}
	// With a resistor the same fall needs no holding.
	d, in = run(func(d *Drive) { d.C.Fall, d.C.BusControl, d.P.LoadJ, d.P.Link.Chopper = 100, false, .6, 40 }, 9)
	in.Terminals = 0
	turn(d, in, 3)
	if d.Fault != "" || d.Running {
		t.Errorf("with a resistor: %s, running %v", d.Fault, d.Running)
	}
}

func TestStopModes(t *testing.T) {
	coast, in := run(func(d *Drive) { d.C.Coast = true }, 9)
	in.Terminals = 0
	turn(coast, in, .01)
	if coast.Running || coast.Speed < 1400 {
		t.Errorf("coasting: running %v, %v r/min", coast.Running, coast.Speed)
	}
	brake, in := run(func(d *Drive) { d.C.BrakeHz, d.C.BrakeAmps, d.C.BrakeTime = 5, 12, 1 }, 9)
	in.Terminals = 0
	turn(brake, in, 5)
	if brake.Phase != "braking" || math.Abs(brake.Current-12) > 3 {
		t.Errorf("braking: %s, %v A", brake.Phase, brake.Current)
	}
	turn(brake, in, 2)
	if brake.Running || math.Abs(brake.Speed) > 5 {
		t.Errorf("after braking: %v, %v r/min", brake.Running, brake.Speed)
	}
	// A motor that still turns is caught by a flying start, and not slowed to zero first.
	fly, in := run(func(d *Drive) { d.C.Coast, d.C.FlyingStart = true, true }, 9)
	in.Terminals = 0
	turn(fly, in, 1)
	in.Terminals = 1
	turn(fly, in, Tick)
	for fly.Phase == Searching {
		turn(fly, in, Tick)
	}
	before := fly.Speed
	turn(fly, in, .5)
	if fly.Fault != "" || fly.Speed < before-30 || before < 500 {
		t.Errorf("flying start: %s, %v r/min after %v", fly.Fault, fly.Speed, before)
	}
}

func TestTorqueOffAndFreshCommand(t *testing.T) {
	d, in := run(func(*Drive) {}, 9)
	in.A, in.B = false, false
	turn(d, in, .01)
	if d.Running || d.STO.State != safety.TorqueOff || d.Fault != "" {
		t.Fatalf("torque off: running %v, %s, %s", d.Running, d.STO.State, d.Fault)
	}
	in.A, in.B = true, true
	turn(d, in, 2)
	if d.Running || d.Blocked != "fresh-command" {
		t.Errorf("run held: running %v, blocked %q", d.Running, d.Blocked)
	}
	in.Terminals = 0
	turn(d, in, .1)
	in.Terminals = 1
	turn(d, in, .5)
	if !d.Running {
		t.Errorf("a fresh command: blocked %q", d.Blocked)
	}
	// One channel alone beyond the discrepancy time: only a power cycle helps.
	in.A = false
	turn(d, in, 1)
	in.A, in.Terminals = true, 0
	in.Reset = true
	turn(d, in, .1)
	in.Reset = false
	turn(d, in, .5)
	if d.Fault != "torque-off-channel" || d.Blocked != "power-cycle" && d.Blocked != "fault" {
		t.Errorf("%q, %q", d.Fault, d.Blocked)
	}
}

func TestThreeWiresLatchAndStop(t *testing.T) {
	d := works()
	d.C.ThreeWire = true
	d.C.Inputs[0], d.C.Inputs[1], d.C.Inputs[2] = "start", "stop", "run-reverse"
	d.Reload()
	in := Inputs{Line: true, A: true, B: true, Terminals: 2, Analog: 5}
	turn(d, in, 2)
	in.Terminals = 3
	turn(d, in, .05)
	in.Terminals = 2
	turn(d, in, 1)
	if !d.Running {
		t.Fatalf("a start pulse: %q", d.Blocked)
	}
	in.Terminals = 0 // the stop contact opens
	turn(d, in, 4)
	in.Terminals = 2
	turn(d, in, 1)
	if d.Running || d.ramp.hz != 0 {
		t.Errorf("stopped, and closed again: running %v", d.Running)
	}
}

func TestEncoderReadsAsItIsSet(t *testing.T) {
	d, _ := run(func(d *Drive) { d.P.Lines, d.C.Lines, d.C.High = 1024, 2048, 25 }, 9)
	if r := d.Encoder / d.Speed; math.Abs(r-.5) > .02 {
		t.Errorf("1024 lines read as 2048: %.1f of %.1f r/min", d.Encoder, d.Speed)
	}
	d, _ = run(func(d *Drive) { d.P.Lines, d.C.Lines = 1024, 1024; d.P.Broken.EncoderSwapped = true }, 5)
	if d.Count >= 0 || d.Encoder >= 0 {
		t.Errorf("pairs swapped: count %v, reads %v r/min", d.Count, d.Encoder)
	}
}

func TestBackstopIsNotPushedUnseen(t *testing.T) {
	d, _ := run(func(d *Drive) {
		d.P.Backstop = true
		d.P.Broken.LeadsSwapped = true
		d.P.Load = motion.Load{Kind: "hanging", Torque: 20}
	}, 4)
	if !strings.Contains(d.Damage, "backstop") || d.Speed < -1 {
		t.Errorf("damage %q at %v r/min", d.Damage, d.Speed)
	}
}

func TestWindingWarmsAsFarAsItShould(t *testing.T) {
	// Less heat stored, so that hours pass in minutes. At the plate's row, long enough: about 80 K over ambient (IEC 60034-1, class F
	// motors used to class B).
	d, in := run(func(d *Drive) {
		d.P.Thermal.Winding, d.P.Thermal.Frame = d.P.Thermal.Winding/20, d.P.Thermal.Frame/60
		d.P.Load.Torque = 49.2
		d.P.Load.Speed = 152.4
		d.C.Overload = 16
	}, 9)
	turn(d, in, 600)
	if rise := d.Winding - ambient; rise < 60 || rise > 105 || d.Fault != "" {
		t.Errorf("the winding rises by %.0f K, %s", rise, d.Fault)
	}
	// A tenth of the speed at the same torque, own fan: hotter.
	slow, in := run(func(d *Drive) {
		d.P.Load = motion.Load{Kind: "constant", Torque: 40}
		d.P.Thermal.Winding, d.P.Thermal.Frame = d.P.Thermal.Winding/20, d.P.Thermal.Frame/60
		d.C.High, d.C.Overload, d.C.CurrentLimit = 6, 0, 40
	}, 9)
	turn(slow, in, 900)
	t.Logf("full speed %.0f °C; slow %.0f °C, %.1f A, %.0f r/min", d.Winding, slow.Winding, slow.Current, slow.Speed)
	if slow.Winding < d.Winding || slow.Fault != "" {
		t.Errorf("slow and loaded %.0f °C, at full speed %.0f °C, %s", slow.Winding, d.Winding, slow.Fault)
	}
}

// Without an encoder and with noise far beyond a sensor's, at full speed and a little above: it neither swings nor trips.
func TestVectorWithoutEncoderStandsNoise(t *testing.T) {
	d, in := run(func(d *Drive) { d.C.Control, d.C.Highest, d.C.Upper, d.C.High = "vector", 60, 58, 58 }, 8)
	low, high := math.Inf(1), 0.0
	for n := range 20000 {
		in.Noise = [3]float64{float64(n%7) - 3, float64(n%5) - 2, float64(n%3) - 1}
		d.Step(&in)
		low, high = math.Min(low, d.Speed), math.Max(high, d.Speed)
	}
	if d.Fault != "" || high-low > 60 || low < 1650 {
		t.Errorf("%s, %.0f to %.0f r/min", d.Fault, low, high)
	}
}
