package drive

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

// A shaft that turns is found in both directions, to a share of the slip, and gone on with from there: no surge, no fault. One that stands
// is found to stand.
func TestATurningShaftIsCaught(t *testing.T) {
	for _, control := range []string{"volts-per-hertz", "vector", "encoder"} {
		for _, rpm := range []float64{1400, 773, 200, 0, -200, -700} {
			d := works()
			d.C.Control, d.C.FlyingStart, d.P.Lines, d.C.Lines = control, true, 1024, 1024
			d.P.LoadJ, d.P.Load.Torque = 1, 4
			d.Reload()
			in := ready(d)
			d.x.W = rpm * math.Pi / 30
			turn(d, in, .02)
			in.Terminals, in.Analog = 1, 8
			turn(d, in, Tick)
			took := 0.
			for d.Phase == Searching && took < 10 {
				turn(d, in, Tick)
				took += Tick
			}
			found, stood := d.ramp.hz*30, d.Speed
			if math.Abs(found-stood) > 35 {
				t.Errorf("%s: %.0f r/min found at %.0f r/min", control, stood, found)
			}
			if control != "encoder" && rpm > 0 { // down from 50 Hz in four and a half time constants of the rotor, and onto the shaft
				pace := 50 / math.Min(3, 4.5*d.C.Known.Lr/d.C.Known.Rr)
				check.Against(t, "time of a search, s", "the field's way down from 50 Hz to the shaft, by hand", took,
					searchWaits+(50-stood/30)/pace+searchLocks, .12)
			}
			low, amps := d.Speed, 0.
			for range 24000 { // braked by what the link bears, then up
				turn(d, in, Tick)
				low, amps = math.Min(low, d.Speed), math.Max(amps, d.Current)
			}
			if d.Fault != "" || math.Abs(d.Speed-1200) > 45 || rpm > 0 && rpm < 1200 && low < stood-15 ||
				rpm == 773 && amps > 1.2*d.C.CurrentLimit {
				t.Errorf("%s from %v r/min: %s, %.0f r/min, at least %.0f, %.0f A", control, rpm, d.Fault, d.Speed, low, amps)
			}
		}
	}
}

// Without it, a start into a shaft that turns brakes it first; let go while it searches, nothing is left on.
func TestAStartWithoutCatching(t *testing.T) {
	d, in := run(func(d *Drive) { d.C.Coast, d.P.LoadJ, d.P.Load.Torque = true, 1, 4 }, 12)
	in.Terminals = 0
	turn(d, in, 1)
	free := *d
	turn(&free, in, 1)
	in.Terminals = 1
	turn(d, in, 1)
	if d.Fault == "" && d.Speed > free.Speed-30 {
		t.Errorf("%.0f r/min, coasting %.0f r/min: it was not braked", d.Speed, free.Speed)
	}
	d, in = run(func(d *Drive) { d.C.FlyingStart = true }, .5)
	if d.Phase != Searching || d.Hz < 20 {
		t.Fatalf("%s at %v Hz", d.Phase, d.Hz)
	}
	in.Terminals = 0
	turn(d, in, .01)
	if d.Running || d.Phase != Off {
		t.Errorf("let go: %s", d.Phase)
	}
}

// Air turns a fan backward: at rest it does, a start carries it through zero, direct current before the start brings it to rest first.
func TestAFanThatIsDrivenBackward(t *testing.T) {
	d := works()
	d.P.Broken.Draught = -50
	d.Reload()
	in := ready(d)
	turn(d, in, 60)
	want := -50 * 30 / math.Pi
	if d.Speed > .7*want || d.Speed < want {
		t.Fatalf("by its air it turns with %.0f r/min, want nearly %.0f", d.Speed, want)
	}
	in.Terminals, in.Analog = 1, 8
	turn(d, in, 12)
	if d.Fault != "" || d.Speed < 1150 {
		t.Errorf("started into it: %s, %.0f r/min", d.Fault, d.Speed)
	}
	d = works()
	d.P.Broken.Draught, d.C.HoldTime, d.C.HoldAmps = -50, 6, 12
	d.Reload()
	in = ready(d)
	turn(d, in, 60)
	in.Terminals, in.Analog = 1, 8
	turn(d, in, 5.9)
	if d.Phase != Braking || math.Abs(d.Speed) > 120 {
		t.Errorf("held by direct current: %s, %.0f r/min", d.Phase, d.Speed)
	}
	turn(d, in, 9)
	if d.Phase != Running || d.Fault != "" || d.Speed < 1150 {
		t.Errorf("then started: %s, %.0f r/min, %s", d.Phase, d.Speed, d.Fault)
	}
}
