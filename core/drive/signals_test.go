package drive

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

// Hum on the reference moves the frequency by what the filter lets through; an offset by its share.
func TestHumAndOffsetOnTheReference(t *testing.T) {
	swing := func(filter float64) float64 {
		d, in := run(func(d *Drive) { d.P.Broken.Hum, d.C.Filter = .04, filter }, 1)
		in.Analog = 5
		turn(d, in, 6)
		low, high := math.Inf(1), math.Inf(-1)
		for range 400 {
			turn(d, in, Tick)
			low, high = math.Min(low, d.Aim), math.Max(high, d.Aim)
		}
		return (high - low) / 2
	}
	const how = "a filter of the first order at 50 Hz, by hand"
	for _, filter := range []float64{.01, .05, .2} {
		check.Against(t, "hum of 4 % behind the reference's filter, Hz", how, swing(filter), .04*50/math.Hypot(1, 2*math.Pi*50*filter), .06)
	}
	d, in := run(func(d *Drive) { d.P.Broken.Offset = .03 }, 1)
	in.Analog = 5
	turn(d, in, 9)
	if math.Abs(d.Hz-26.5) > .01 {
		t.Errorf("%v Hz", d.Hz)
	}
}

// A winding sensor's wire that is off reads hot at once; one that is shorted never does.
func TestTheSensorsWires(t *testing.T) {
	d, _ := run(func(d *Drive) { d.C.Sensor, d.P.Broken.Sensor = true, "open" }, 1)
	if d.Fault != "motor-overload" {
		t.Errorf("open: %q", d.Fault)
	}
	d, _ = run(func(d *Drive) { d.P.Broken.Sensor = "open" }, 3)
	if d.Fault != "" {
		t.Errorf("open, and not watched: %q", d.Fault)
	}
	for wires, want := range map[string]string{"": "motor-overload", "shorted": ""} {
		d, in := run(func(d *Drive) { d.C.Sensor, d.P.Broken.Sensor = true, wires }, 9)
		d.Winding = 170
		turn(d, in, .1)
		if d.Fault != want {
			t.Errorf("%q wires on a hot winding: %q", wires, d.Fault)
		}
	}
}

// An encoder whose coupling slips makes the shaft run faster than it reads; one that is fed too low counts right only up to half of the
// speed.
func TestAnEncoderThatSlipsOrDroops(t *testing.T) {
	at := func(hz float64, b Broken) *Drive {
		d, in := run(func(d *Drive) {
			d.C.Control, d.P.Lines, d.C.Lines, d.P.Broken, d.P.Load.Torque = "encoder", 1024, 1024, b, 15
		}, 1)
		in.Analog = hz / 5
		turn(d, in, 12)
		return d
	}
	d := at(20, Broken{EncoderSlips: .1})
	if math.Abs(d.Encoder-600) > 6 || math.Abs(d.Speed-600/.9) > 8 {
		t.Errorf("slips: reads %.0f r/min at %.0f r/min, %s", d.Encoder, d.Speed, d.Fault)
	}
	d = at(20, Broken{EncoderDroops: true})
	if math.Abs(d.Encoder-d.Speed) > 3 || math.Abs(d.Speed-600) > 6 || d.Fault != "" {
		t.Errorf("droops, slow: reads %.0f r/min at %.0f r/min, %s", d.Encoder, d.Speed, d.Fault)
	}
	d = at(20, Broken{EncoderHalf: true})
	if d.Fault != "encoder" || math.Abs(d.Count) > 2 {
		t.Errorf("one channel: %q, count %v", d.Fault, d.Count)
	}
	d = at(45, Broken{EncoderDroops: true})
	if d.Encoder > 760 || d.Fault == "" && d.Current < .95*d.C.CurrentLimit {
		t.Errorf("droops, fast: reads %.0f r/min at %.0f r/min, %.1f A, %q", d.Encoder, d.Speed, d.Current, d.Fault)
	}
}

// A long screened cable takes its charging current beside the motor's: it shows where the motor idles, and hardly under load.
func TestACableThatIsCharged(t *testing.T) {
	with := func(metres, kHz, torque float64) *Drive {
		d, _ := run(func(d *Drive) { d.P.Broken.CableMetres, d.C.Switching, d.P.Load.Torque = metres, kHz, torque }, 10)
		return d
	}
	for _, kHz := range []float64{2, 8} {
		alone, d := with(0, kHz, 1), with(200, kHz, 1)
		const how = "waves on a line: link over surge impedance, there and back, two edges a period, by hand"
		more := math.Sqrt(d.Current*d.Current - alone.Current*alone.Current)
		check.Against(t, "charging current of 200 m of screened cable, A rms", how, more, d.v/80*math.Sqrt(2*kHz*1000*2*200/1.5e8), .03)
	}
	light, heavy := with(200, 4, 1).Current-with(0, 4, 1).Current, with(200, 4, 48).Current-with(0, 4, 48).Current
	if light < 1.3*heavy || heavy <= 0 {
		t.Errorf("%.2f A more without load, %.2f A under it", light, heavy)
	}
}
