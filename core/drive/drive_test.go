package drive

import (
	"math"
	"testing"

	"tingate/core/machine"
	"tingate/core/motion"
)

// works is a 7.5 kW, 400 V, 50 Hz, four-pole motor on a fan, with a drive of 16 A at delivery settings that fit.
func works() *Drive {
	e, ok := machine.Make(machine.Plate{Power: 7500, Voltage: 400, Current: 15.1, Frequency: 50, Speed: 1455, Factor: .82,
		Efficiency: .874, Poles: 4})
	if !ok {
		panic("no machine")
	}
	d := &Drive{}
	d.P = NewPlant(e.Circuit, 400, .03)
	d.P.Line, d.P.Hz = 400, 50
	d.P.Link = UsualLink(16, 400, false)
	d.P.Load, d.P.LoadJ = motion.Load{Kind: "quadratic", Torque: 40, Speed: 152}, .25
	d.C = Config{Rated: 16, LineVolts: 400, Overvolts: 810, Undervolts: 360, Switching: 4,
		Motor: Entered{Voltage: 400, Frequency: 50, Current: 15.1, Speed: 1455, Power: 7500, Factor: .82, Poles: 4},
		Known: machine.FromCircuit(e.Circuit), Inertia: .3,
		Control: "volts-per-hertz", Boost: .03, Highest: 50, Upper: 50, Rise: 10, Fall: 10, JogRamp: 10,
		CurrentLimit: 22, Overload: 15.1, OverloadClass: 10, BusControl: true, Stall: "fault", PhaseLoss: "fault",
		Command: "terminals", Speed: "analog", Full: 10, High: 50, Filter: .05, Jog: 5, BothWays: true, Lost: "stop",
		STO: Channels{Discrepancy: .5}}
	d.C.Inputs[0], d.C.Inputs[1] = "run-forward", "run-reverse"
	d.C.Presets = [8]float64{0, 10, 20, 30}
	d.Start()
	return d
}

// turn steps for some seconds with the same inputs.
func turn(d *Drive, in Inputs, seconds float64) {
	for range int(seconds/Tick + .5) {
		d.Step(&in)
	}
}

func ready(d *Drive) Inputs {
	in := Inputs{Line: true, A: true, B: true}
	turn(d, in, 2)
	return in
}

func TestItChargesStartsAndReachesTheSpeedOfTheCircuit(t *testing.T) {
	for _, control := range []string{"volts-per-hertz", "vector", "encoder"} {
		d := works()
		d.C.Control = control
		d.P.Lines, d.C.Lines = 1024, 1024
		d.Reload()
		in := ready(d)
		if d.Fault != "" || math.Abs(d.Link-540) > 15 {
			t.Fatalf("%s: %s, link %v V", control, d.Fault, d.Link)
		}
		in.Terminals, in.Analog = 1, 8
		turn(d, in, 9)
		want := 1200. // vector holds the shaft; volts per hertz slips
		if control == "volts-per-hertz" {
			want = 1200 - 45*.64*1200*1200/1455/1455*40/49
		}
		if d.Fault != "" || math.Abs(d.Speed-want) > 12 {
			t.Errorf("%s: %.1f r/min, want %.1f; %s %s, %.2f A, %.1f Hz", control, d.Speed, want, d.Fault, d.Blocked, d.Current, d.Hz)
		}
		if d.Device.State != OperationEnabled {
			t.Errorf("%s: device says %s", control, d.Device.State)
		}
		in.Terminals = 0
		turn(d, in, 8)
		if d.Running || math.Abs(d.Speed) > 60 {
			t.Errorf("%s: after a stop %v r/min, running %v", control, d.Speed, d.Running)
		}
	}
}

// What the bridge gives is what the machine takes and the drive needs, whole or not.
func TestEnergyOfTheWholeDriveCloses(t *testing.T) {
	for name, change := range map[string]func(*Drive){
		"whole":                 func(*Drive) {},
		"a low mains":           func(d *Drive) { d.P.Broken.Sag = .15 },
		"an uneven mains":       func(d *Drive) { d.P.Broken.Unbalance = .04 },
		"a phase to earth":      func(d *Drive) { d.P.Broken.EarthOhms, d.C.EarthFault = 60, "off" },
		"a chopper shorted":     func(d *Drive) { d.P.Link.Chopper, d.P.Broken.ChopperShorted = 60, true },
		"a brake that drags":    func(d *Drive) { d.P.Brake, d.P.Broken.BrakeDrags = Brake{Torque: 60, Follows: true}, .2 },
		"a belt that slips":     func(d *Drive) { d.P.Load.Kind, d.P.Broken.BeltSlips = "constant", 14 },
		"more ohms in the line": func(d *Drive) { d.P.Broken.CableOhms = .2 },
	} {
		d := works()
		in := ready(d)
		change(d)
		d.Reload()
		in.Terminals, in.Analog = 1, 10
		turn(d, in, 14)
		i, _ := d.link.net(d.v)
		bridge := i*d.v + d.resistorWatts() // net gives what is left of it beside the resistor
		shaft := d.Torque * d.x.W
		k := d.k.Currents(d.x)
		m := d.P.Motor
		hot := 1 + .00393*(d.Winding-20)
		loss := 1.5 * (m.Rs*hot + d.P.Broken.CableOhms) * (k.Ds*k.Ds + k.Qs*k.Qs)
		loss += 1.5 * hot * m.Rr * (k.Dr*k.Dr + k.Qr*k.Qr)
		_, earth := d.earthed()
		own := .01*d.v*math.Sqrt((k.Ds*k.Ds+k.Qs*k.Qs)/2) + d.iron() + earth
		if r := (shaft + loss + own + d.resistorWatts()) / bridge; d.Fault != "" || math.Abs(r-1) > .001 {
			t.Errorf("%s: shaft %.0f W, losses %.0f W, own %.0f W and %.0f W are %.4f of the bridge's %.0f W; %s", name, shaft, loss, own,
				d.resistorWatts(), r, bridge, d.Fault)
		}
	}
}
