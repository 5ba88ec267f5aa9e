package drive

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"tingate/core/motion"
	"tingate/testtools/golden"
)

// anyDrive is a drive as somebody could have set it, on a motor and a load that could hang on it, with nothing or something wrong.
func anyDrive(rng *rand.Rand) *Drive {
	d := works()
	if rng.IntN(5) == 0 {
		d, _ = magnets(nil)
	}
	pick := func(l ...string) string { return l[rng.IntN(len(l))] }
	some := func(n int) bool { return rng.IntN(n) == 0 }
	of := func(l ...float64) float64 { return l[rng.IntN(len(l))] }
	c, p := &d.C, &d.P
	if p.Magnet == 0 {
		c.Control = pick("volts-per-hertz", "volts-per-hertz", "vector", "encoder")
		p.Load = motion.Load{Kind: pick("quadratic", "constant", "linear"), Torque: of(0, 20, 40, 60), Speed: 152, Rubs: of(0, 0, 4)}
	}
	if c.Control == "encoder" {
		p.Lines, c.Lines, c.Backwards = 1024, of(1024, 1024, 512), some(8)
	}
	p.LoadJ, c.Quadratic, c.SlipComp, c.Swap = of(.02, .1, .25, 1), some(3), some(3), some(8)
	c.Rise, c.Fall, c.JogRamp = of(5, 10, 30, 100), of(5, 10, 30, 100), of(5, 20)
	c.SStart, c.SEnd = of(0, 0, .3, 1), of(0, 0, .3, 1)
	c.Upper, c.Lower, c.High, c.Low = of(50, 40, 60), of(0, 5), of(50, 50, 30), of(0, 0, 10)
	c.Skip, c.SkipWidth = [2]float64{of(0, 20), of(0, 35)}, of(0, 4)
	c.CurrentLimit, c.TorqueLimit, c.TorqueBraking = of(12, 18, 22, 30), of(0, .8, 1.5), of(0, .5)
	c.Overload, c.BusControl, c.FlyingStart, c.RideThrough = of(0, 8, 15.1), some(2), some(3), some(4)
	c.Stall, c.PhaseLoss, c.OutputLoss, c.EarthFault = pick(
		"off",
		"warning",
		"fault",
	), pick(
		"off",
		"warning",
		"fault",
	), pick(
		"off",
		"fault",
	),
		pick(
			"off",
			"fault",
		)
	c.StopKey, c.Interlock, c.InterlockBack = pick("obeyed", "ignored", "quick-stop", ""), pick("coast", "ramp", ""), pick("", "goes-on")
	c.QuickFall, c.LowClears, c.Coast = of(0, 50), some(2), some(4)
	c.BrakeHz, c.BrakeAmps, c.BrakeTime = of(0, 3), of(0, 8), of(0, 1)
	c.HoldAmps, c.HoldTime = of(0, 8), of(0, .4)
	c.BothWays, c.AutoRestart, c.Restarts, c.RunAtPower, c.OffFault = !some(4), some(4), of(-1, 1, 3), some(3), some(4)
	c.Command, c.Speed = pick("terminals", "terminals", "keypad"), pick("analog", "analog", "presets", "keypad", "motor-potentiometer")
	c.Inputs[2], c.Inputs[3] = pick(
		"",
		"jog",
		"second-ramp",
		"preset-0",
		"faster",
		"interlock",
		"coast",
	), pick(
		"",
		"preset-1",
		"slower",
		"hand",
		"quick-stop",
		"external-fault",
		"torque-limit-off",
		"jog-reverse",
	)
	c.ThreeWire = some(6)
	if c.ThreeWire {
		c.Inputs[0], c.Inputs[1] = "start", "stop"
	}
	c.Inverted, c.InputFilter, c.Lost = uint16(rng.IntN(16)&^3), of(0, 0, .02), pick("stop", "hold", "fault")
	c.Live = some(4)
	if c.Live {
		c.Full, c.LostBelow = 20, 3.6
	}
	c.Rise2, c.Fall2, c.ReverseWait, c.PotSlope, c.PotKeeps = of(3, 20), of(3, 20), of(0, .3), of(2, 10), pick("stop", "power", "always")
	c.Loop = Controller{On: some(8), Gain: of(.5, 3), Time: of(0, 2), Setpoint: of(.3, .8), Sleep: of(0, 15)}
	c.STO = Channels{Discrepancy: .5, Latched: some(3)}
	if some(3) {
		p.Link.Chopper, p.ResistorPower = 60, 400
	}
	breaks(&p.Broken, rng)
	d.Start()
	d.Reload()
	return d
}

func breaks(b *Broken, rng *rand.Rand) {
	switch rng.IntN(24) {
	case 0:
		b.PhaseLost = true
	case 1:
		b.Unbalance = .04
	case 2:
		b.Sag = .2
	case 3:
		b.OutputLost = true
	case 4:
		b.EarthOhms = 40
	case 5:
		b.SecondMotor = true
	case 6:
		b.Jammed = true
	case 7:
		b.Loose = true
	case 8:
		b.EncoderSwapped, b.EncoderSlips = rng.IntN(2) == 0, .1
	case 9:
		b.ReferenceOff = true
	case 10:
		b.Stuck = 1 + rng.IntN(2)
	case 11:
		b.Relinked = 3
	case 12:
		b.CableOhms, b.CableMetres = 2, 100
	case 13:
		b.Hum, b.Offset = .05, -.02
	}
}

// Two hundred drives that are set, loaded, broken and commanded at random go as before: three digits of what can be seen, each second.
func TestDrivesGoAsBefore(t *testing.T) {
	var out strings.Builder
	for n := range 200 {
		rng := rand.New(rand.NewPCG(18, uint64(n)))
		d := anyDrive(rng)
		in := Inputs{Line: true, A: true, B: true, Analog: 8, KeyHz: 30}
		var seen strings.Builder
		for step := range 160 {
			in.KeyRun, in.KeyStop, in.KeyBack, in.Reset = false, false, false, false
			switch rng.IntN(14) {
			case 0, 1, 2:
				in.Terminals ^= 1
			case 3:
				in.Terminals ^= 1 << rng.IntN(4)
			case 4:
				in.Terminals |= 3
			case 5:
				in.KeyRun = true
			case 6:
				in.KeyStop = rng.IntN(3) == 0
				in.Reset = true
			case 7:
				in.Analog = []float64{0, 2, 5, 10, 14, 20}[rng.IntN(6)]
			case 8:
				in.Line = !in.Line || rng.IntN(2) == 0
			case 9:
				in.A = rng.IntN(2) == 0
				in.B = in.A
				if rng.IntN(30) == 0 {
					in.B = !in.B
				}
			case 10:
				in.A, in.B, in.Line = true, true, true
			case 11:
				in.Hand = rng.IntN(3) == 0
			}
			for range 2 { // a key is pressed for one tick
				d.Step(&in)
				in.KeyRun, in.KeyStop, in.Reset = false, false, false
			}
			turn(d, in, .12)
			if step%8 == 7 {
				fmt.Fprintf(
					&seen,
					"%s|%s|%s|%s %.3g Hz %.3g r/min %.3g A %.3g V %.3g N·m %.3g %.3g %.3g; ",
					d.Fault,
					d.Warning,
					d.Blocked,
					d.Limiting,
					near(d.Hz),
					near(d.Speed),
					near(d.Current),
					d.Link,
					near(d.Torque),
					d.Warmth,
					d.Sink,
					near(d.Ramp()),
				)
			}
		}
		last := strings.Split(strings.TrimSuffix(seen.String(), "; "), "; ")
		fmt.Fprintf(&out, "%d: %s at the end %s\n", n, golden.Digest(t, seen.String()), last[len(last)-1])
	}
	golden.Same(t, "testdata/gone.txt", out.String())
}

// near keeps what is next to nothing from differing in its digits.
func near(v float64) float64 {
	if math.Abs(v) < .05 {
		return 0
	}
	return v
}
