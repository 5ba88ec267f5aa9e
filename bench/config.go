package bench

import (
	"math"

	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/core/plate"
	"tingate/core/quantity"
	"tingate/core/supply"
)

// Resistor is what the settings say of a braking resistor, Ω and W; 0: none, or its power is not told. On the bench what is set is fitted.
func Resistor(f *dialect.Family, values map[string]int64) (ohms, watts float64) {
	d := f.Driven(values)
	if d["resistor"].Steps == 0 {
		return 0, 0
	}
	p := d["resistor-power"]
	if p.Setting != nil {
		watts = p.Value * map[string]float64{"kW": 1000, "hp": quantity.MechanicalHorsepowerW, "W": 1}[p.Setting.Unit]
	}
	return d["resistor-ohm"].Value, watts
}

// Configure makes the simulated drive's configuration out of a family's settings (code → steps) and the size of the drive.
func Configure(f *dialect.Family, values map[string]int64, size dialect.Size) drive.Config {
	// What a drive counts in Hz it holds in Hz: no load, no slip between a speed and its frequency.
	base := &dialect.Plan{Load: "constant", LoadTorque: 0, DriveCurrent: size.Heavy, Numbers: map[string]float64{},
		Choices: map[string]string{}}
	first := f.Read(values, base).Plan
	base.Motor, base.Poles = first.Motor, first.Poles
	p := f.Read(values, base).Plan
	rpm := 120 / math.Max(float64(p.Poles), 2)
	hz := func(name string, or float64) float64 {
		if v, ok := p.Numbers[name]; ok && !math.IsNaN(v) {
			return v / rpm
		}
		return or
	}
	m := p.Motor
	c := drive.Config{Rated: size.Heavy, LineVolts: 400, Overvolts: supply.LinkBears(size.LineHigh), Undervolts: 350, Switching: 4,
		Motor: drive.Entered{Voltage: sound(m.Voltage, 400), Frequency: sound(m.Frequency, 50), Current: sound(m.Current, size.Heavy),
			Speed: sound(m.Speed, 1440), Power: sound(m.Power, size.Power*1000), Factor: sound(m.Factor, .82), Poles: max(p.Poles, 2)},
		Control: "volts-per-hertz", Command: "keypad", Speed: "keypad", Full: 10, Lost: "stop", Boost: .02, BusControl: true,
		Stall: "off", LostBelow: dialect.UsualLost,
		PhaseLoss: "off", STO: drive.Channels{Discrepancy: .5}}
	if size.LineHigh > 0 && size.LineHigh < 300 {
		c.LineVolts, c.Undervolts = 230, 190
	}
	for i := range f.Settings {
		if s := &f.Settings[i]; s.Intent == "frequency.cap" {
			c.Highest = s.Value(values[s.Code])
		}
	}
	c.Upper = hz("highest_speed", c.Motor.Frequency)
	if !(c.Highest > 0) {
		c.Highest = math.Max(c.Upper, c.Motor.Frequency)
	}
	c.Lower = hz("lowest_speed", 0)
	c.Rise, c.Fall = hz("rise", 10), hz("fall", 10)
	c.Jog = hz("jog", 5)
	c.Presets[1], c.Presets[2], c.Presets[3] = hz("preset_1", 0), hz("preset_2", 0), hz("preset_3", 0)
	c.Low, c.High = hz("reference_low", 0), hz("reference_high", c.Highest)
	c.CurrentLimit = 1.5 * size.Heavy
	if v := p.Numbers["current_limit"]; v > 0 && m.Current > 0 {
		c.CurrentLimit = v * m.Current
	}
	conf := configured{&c, f, values, rpm}
	conf.choices(p.Choices)
	conf.overload(p)
	conf.driven(f.Driven(values))
	conf.inputs()
	conf.known()
	if f.Driven(values)["motor-kind"].Means == "permanent-magnet" {
		magnets(&c)
	}
	return c
}

func sound(v, or float64) float64 {
	if v > 0 && !math.IsInf(v, 0) {
		return v
	}
	return or
}

// configured is a configuration on the way.
type configured struct {
	*drive.Config
	f      *dialect.Family
	values map[string]int64
	rpm    float64 // per Hz
}

// choices that carry intent.
func (c configured) choices(l map[string]string) {
	switch l["control"] {
	case "vector":
		c.Control = "vector"
	case "encoder":
		c.Control = "encoder"
	}
	c.Quadratic = l["load_pattern"] == "quadratic"
	c.SlipComp = l["slip_compensation"] == "on"
	c.BothWays = l["direction"] != "forward"
	c.Coast = l["stop_mode"] == "coast"
	c.AutoRestart = l["automatic_restart"] == "on"
	c.OffFault = l["torque_off_shows"] == "fault"
	if v := l["reference_loss"]; v != "" {
		c.Lost = v
	}
	if v := l["command_source"]; v != "" {
		c.Command = v
	}
	switch v := l["speed_source"]; v {
	case "voltage", "current":
		c.Speed = "analog"
	case "":
	default:
		c.Speed = v
	}
	if l["reference_signal"] == "current" || l["speed_source"] == "current" {
		c.Live, c.Full = true, 20
	}
	c.OverloadClass = map[string]float64{"20": 20, "30": 30}[l["overload_class"]]
	if c.OverloadClass == 0 {
		c.OverloadClass = 10
	}
}

// overload is in the family's own counting: amperes, or a share of the drive or motor.
func (c configured) overload(p dialect.Plan) {
	c.Overload = c.Motor.Current
	for i := range c.f.Settings {
		s := &c.f.Settings[i]
		if s.Intent != "overload.current" {
			continue
		}
		v := s.Value(c.values[s.Code])
		switch s.Convention {
		case "percent-of-drive":
			v *= c.Rated / 100
		case "percent-of-motor":
			v *= c.Motor.Current / 100
		case "per-thousand-of-motor":
			v *= c.Motor.Current / 1000
		case "milliamperes":
			v /= 1000
		}
		c.Overload = v // 0: switched off
	}
}

// driven settings carry no intent.
func (c configured) driven(l map[string]dialect.Driven) {
	hz := func(d dialect.Driven) float64 {
		switch d.Setting.Unit {
		case "r/min":
			return d.Value / c.rpm
		case "%":
			return d.Value / 100 * c.Highest
		case "‰":
			return d.Value / 1000 * c.Highest
		}
		return d.Value
	}
	seconds := func(d dialect.Driven) float64 {
		if d.Setting.Unit == "ms" {
			return d.Value / 1000
		}
		return d.Value
	}
	share := func(d dialect.Driven) float64 {
		if d.Setting.Unit == "‰" {
			return d.Value / 1000
		}
		return d.Value / 100
	}
	counting := map[string]motion.Counting{"to-highest": motion.ToHighestFrequency, "to-plate-speed": motion.ToPlateSpeed,
		"to-base-frequency": motion.ToBaseFrequency}[c.f.Counts.Ramp]
	slope := func(d dialect.Driven) float64 {
		if counting == "" || !(d.Value > 0) {
			return 0
		}
		return motion.RampBase{Highest: c.Highest, Base: c.Motor.Frequency, PlateSpeed: c.Motor.Speed,
			Poles: c.Motor.Poles}.Slope(counting, d.Value)
	}
	reaction := func(d dialect.Driven) string {
		switch {
		case d.Steps == 0:
			return "off"
		case d.Steps == 1 && len(d.Setting.Choices) > 2: // of off and on, on is the fault
			return "warning"
		}
		return "fault"
	}
	on := func(name string) bool { return l[name].Steps != 0 }
	set := func(name string, put func(dialect.Driven)) {
		if d, ok := l[name]; ok {
			put(d)
		}
	}
	c.ThreeWire = l["start-scheme"].Means == "three-wire"
	set("inputs-inverted", func(d dialect.Driven) { c.Inverted = uint16(d.Steps) })
	c.RunAtPower = on("run-at-power")
	set("boost", func(d dialect.Driven) { c.Boost = share(d) })
	c.Swap = on("phase-order")
	if on("dc-brake") {
		set("dc-brake-current", func(d dialect.Driven) { c.BrakeAmps = share(d) * c.Rated })
		set("dc-brake-time", func(d dialect.Driven) { c.BrakeTime = seconds(d) })
		c.BrakeHz = .5
	}
	set("skip-1", func(d dialect.Driven) { c.Skip[0] = hz(d) })
	set("skip-2", func(d dialect.Driven) { c.Skip[1] = hz(d) })
	set("skip-width", func(d dialect.Driven) { c.SkipWidth = hz(d) })
	for i, name := range []string{"skip-1", "skip-2"} {
		if from, ok := l[name+"-from"]; ok && from.Value > 0 {
			a, b := hz(from), hz(l[name+"-to"])
			c.Skip[i], c.SkipWidth = (a+b)/2, math.Max(b-a, c.SkipWidth)
		}
	}
	set("bus-control", func(d dialect.Driven) { c.BusControl = d.Steps != 0 })
	set("stall", func(d dialect.Driven) { c.Stall = reaction(d) })
	set("line-phase", func(d dialect.Driven) { c.PhaseLoss = reaction(d) })
	set("output-phase", func(d dialect.Driven) { c.OutputLoss = reaction(d) })
	set("earth-fault", func(d dialect.Driven) { c.EarthFault = reaction(d) })
	c.RideThrough = on("ride-through")
	set("dc-start", func(d dialect.Driven) {
		if amps, ok := l["dc-brake-current"]; ok {
			c.HoldTime, c.HoldAmps = seconds(d), share(amps)*c.Rated
		}
	})
	c.Sensor = on("sensor")
	c.WarmthForgotten = c.f.Remembers.MotorWarmth == "forgotten"
	set("warmth-kept", func(d dialect.Driven) { c.WarmthForgotten = d.Steps == 0 })
	set("jog-ramp", func(d dialect.Driven) { c.JogRamp = slope(d) })
	set("second-rise", func(d dialect.Driven) { c.Rise2 = slope(d) })
	set("second-fall", func(d dialect.Driven) { c.Fall2 = slope(d) })
	set("curve", func(d dialect.Driven) { c.SStart, c.SEnd = share(d), share(d) })
	rounded := func(d dialect.Driven) float64 {
		if d.Setting.Unit == "ms" { // of the time of a whole ramp
			return math.Min(1, d.Value/1000*c.Rise/math.Max(c.Highest, 1)*2)
		}
		return share(d)
	}
	set("curve-start", func(d dialect.Driven) { c.SStart = rounded(d) })
	set("curve-end", func(d dialect.Driven) { c.SEnd = rounded(d) })
	set("reverse-wait", func(d dialect.Driven) { c.ReverseWait = seconds(d) })
	set("preset-4", func(d dialect.Driven) { c.Presets[4] = hz(d) })
	set("preset-5", func(d dialect.Driven) { c.Presets[5] = hz(d) })
	set("hand-speed", func(d dialect.Driven) { c.Hand = hz(d) })
	set("reference-filter", func(d dialect.Driven) { c.Filter = seconds(d) })
	set("switching", func(d dialect.Driven) { c.Switching = d.Value })
	set("encoder-lines", func(d dialect.Driven) {
		if c.Lines = d.Value; c.Lines > 0 && c.Control == "vector" { // no family has a choice of its own for it
			c.Control = "encoder"
		}
	})
	c.Backwards = on("encoder-direction")
	c.FlyingStart = on("flying-start")
	set("torque-limit", func(d dialect.Driven) { c.TorqueLimit, c.TorqueBraking = share(d), share(d) })
	set("torque-limit-braking", func(d dialect.Driven) { c.TorqueBraking = share(d) })
	c.Loop.On = on("loop")
	set("loop-gain", func(d dialect.Driven) { c.Loop.Gain = d.Value })
	set("loop-time", func(d dialect.Driven) { c.Loop.Time = seconds(d) })
	set("loop-setpoint", func(d dialect.Driven) { c.Loop.Setpoint = share(d) })
	set("sleep", func(d dialect.Driven) { c.Loop.Sleep = hz(d) })
	set("pot", func(d dialect.Driven) {
		if c.PotSlope = d.Value / c.rpm; d.Setting.Unit == "s" { // a time to the highest frequency
			c.PotSlope = c.Highest / math.Max(d.Value, .01)
		}
	})
	c.PotKeeps = l["pot-keeps"].Means
	c.StopKey, c.Interlock, c.InterlockBack = c.reacts(l, "stop-key"), c.reacts(l, "interlock"), c.reacts(l, "interlock-back")
	set("brake", func(d dialect.Driven) { c.BrakeShut = d.Steps == 0 })
	if on("brake") {
		set("brake-delay", func(d dialect.Driven) { c.BrakeWait = seconds(d) })
	}
	c.Restarts = -1
	c.given(l, share, hz)
	set("restarts-most", func(d dialect.Driven) { c.Restarts = d.Value })
	set("input-filter", func(d dialect.Driven) { c.InputFilter = seconds(d) })
	set("quick-stop-time", func(d dialect.Driven) { c.QuickFall = slope(d) })
	set("quick-stop-dv", func(d dialect.Driven) {
		if dt := l["quick-stop-dt"]; dt.Value > 0 {
			c.QuickFall = d.Value / c.rpm / seconds(dt)
		}
	})
	for _, x := range c.f.Faults {
		// A file that has no setting for it says by its fault that it is watched.
		if c.OutputLoss == "" && x.Family == "output-phase" {
			c.OutputLoss = x.Severity
		}
		if c.EarthFault == "" && x.Family == "earth-fault" {
			c.EarthFault = x.Severity
		}
		if x.Severity == "fault" && x.Clears == "power-cycle" {
			c.PowerClears = append(c.PowerClears, x.Family)
		}
		c.LowClears = c.LowClears || x.Family == "bus-under-voltage" && x.Severity == "fault" && x.Clears == "by-itself"
	}
	c.tuned(l)
}

// tuned takes a motor's values out of the settings that a tune fills; all of them, or none.
func (c configured) tuned(l map[string]dialect.Driven) {
	ohms := func(d dialect.Driven) float64 {
		if d.Setting != nil && d.Setting.Unit == "mΩ" {
			return d.Value / 1000
		}
		return d.Value
	}
	rs, rr := ohms(l["stator-resistance"]), ohms(l["rotor-resistance"])
	leak, im := l["leakage"].Value/1000, l["magnetising-current"].Value
	if d := l["leakage"]; d.Setting != nil && d.Setting.Unit == "µH" {
		leak = d.Value / 1e6
	}
	if d := l["magnetising-current"]; d.Setting != nil && d.Setting.Unit == "mA" {
		im = d.Value / 1000
	}
	if !(rs > 0) || !(rr > 0) || !(leak > 0) || !(im > 0) {
		return
	}
	ls := c.Motor.Voltage / math.Sqrt(3) / (2 * math.Pi * c.Motor.Frequency * im)
	half := leak / 2
	if ls <= 2*half {
		return
	}
	c.Known, c.Tuned = machine.Induction{Rs: rs, Rr: rr, Ls: ls, Lr: ls, Lm: ls - half, Pairs: float64(c.Motor.Poles) / 2}, true
}

// inputs gives each digital input its function by the family's terminals.
func (c configured) inputs() {
	for n, t := range DigitalIns(c.f) {
		if s, ok := c.f.Setting(t.Setting); ok {
			for _, x := range s.Choices {
				if x.Value == c.values[s.Code] {
					c.Inputs[n] = x.Means
				}
			}
		}
	}
}

// known is what the drive takes its motor for while nothing is tuned: an estimate from the plate as entered.
func (c configured) known() {
	if c.Tuned {
		return
	}
	row := plate.EmptyRow()
	row.Power, row.Voltage, row.Current, row.Frequency, row.Speed, row.Factor = c.Motor.Power, c.Motor.Voltage, c.Motor.Current,
		c.Motor.Frequency, c.Motor.Speed, c.Motor.Factor
	p, _ := machine.FromRow(row)
	if e, ok := machine.Make(p); p.Poles > 0 && ok {
		c.Known = machine.FromCircuit(e.Circuit)
		return
	}
	// A plate that no machine has: the usual shares of the rated impedance. Common practice.
	z := c.Motor.Voltage / math.Sqrt(3) / c.Motor.Current
	w := 2 * math.Pi * c.Motor.Frequency
	lm := 2.2 * z / w
	c.Known = machine.Induction{Rs: .04 * z, Rr: .035 * z, Ls: lm + .1*z/w, Lr: lm + .1*z/w, Lm: lm, Pairs: float64(c.Motor.Poles) / 2}
}

// magnets tells a drive that its motor has permanent magnets; its entries must then be those of such a machine.
func magnets(c *drive.Config) {
	x := c.Motor
	if m, ok := machine.MagnetOf(machine.FromMagnetRow(x.Power, x.Voltage, x.Current, x.Frequency, x.Speed, x.Factor, 0, x.Poles)); ok {
		c.KnownMagnet = m
		c.Known = machine.Induction{Rs: m.Rs, Ls: m.L, Lr: m.L, Lm: m.L, Pairs: m.Pairs}
	}
}

// reacts is what a reaction stands for: by its setting, or for good.
func (c *configured) reacts(l map[string]dialect.Driven, what string) string {
	if d, ok := l[what]; ok {
		return d.Means
	}
	return c.f.Fixed[what]
}
