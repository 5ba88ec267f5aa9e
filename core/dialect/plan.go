package dialect

import (
	"fmt"
	"math"

	"tingate/core/motion"
	"tingate/core/quantity"
)

// Plan is the intent in SI and shaft units. Missing numbers are NaN, missing choices empty.
type Plan struct {
	Motor         Row
	OtherRows     []Row
	Poles         int
	ServiceFactor float64
	DriveCurrent  float64 // A, the drive's rated output current
	Load          string  // constant, linear, quadratic, constant-power
	LoadTorque    float64 // of rated torque at plate speed, ratio
	Numbers       map[string]float64
	Choices       map[string]string
}

// Row is a motor row in watts, volts, amperes, hertz, r/min.
type Row struct {
	Name                                              string
	Power, Voltage, Current, Frequency, Speed, Factor float64
}

type dim string

const (
	power   dim = "a power"
	voltage dim = "a voltage"
	current dim = "a current"
	hertz   dim = "a frequency"
	speed   dim = "a speed"
	shaft   dim = "a shaft speed"
	slope   dim = "a ramp"
	ratio   dim = "a ratio"
	count   dim = "a number of poles"
	choice  dim = "a choice"
)

type rounding int

const (
	nearest rounding = iota
	down
	up
)

// intent is one quantity of the closed list: where it comes from and how it is rounded onto a setting's grid.
type intent struct {
	dim    dim
	round  rounding
	get    func(p *Plan) float64
	source string // where a person finds it
	field  string // path in the drive document, for a missing one
}

func number(name string) func(p *Plan) float64 {
	return func(p *Plan) float64 {
		if v, ok := p.Numbers[name]; ok {
			return v
		}
		return math.NaN()
	}
}

// intents is the closed list of what a setting can mean. docs/formats/dialect.md lists it.
var intents = map[string]intent{
	"motor.power":     {power, nearest, func(p *Plan) float64 { return p.Motor.Power }, "plate", "power"},
	"motor.voltage":   {voltage, nearest, func(p *Plan) float64 { return p.Motor.Voltage }, "plate", "voltage"},
	"motor.frequency": {hertz, nearest, func(p *Plan) float64 { return p.Motor.Frequency }, "plate", "frequency"},
	"motor.current":   {current, nearest, func(p *Plan) float64 { return p.Motor.Current }, "plate", "current"},
	"motor.speed":     {speed, nearest, func(p *Plan) float64 { return p.Motor.Speed }, "plate", "speed"},
	"motor.factor":    {ratio, nearest, func(p *Plan) float64 { return p.Motor.Factor }, "plate", "power_factor"},
	"motor.poles": {count, nearest, func(p *Plan) float64 {
		if p.Poles == 0 {
			return math.NaN()
		}
		return float64(p.Poles)
	}, "plate, worked out from the speed", "poles"},
	"overload.current": {current, down, func(p *Plan) float64 { return p.Motor.Current }, "plate", "current"},
	"limit.current":    {current, down, func(p *Plan) float64 { return p.Motor.Current * number("current_limit")(p) }, "span", "current_limit"},
	"frequency.cap":    {hertz, up, capFrequency, "span", "highest_speed"},
	"speed.lowest":     {shaft, up, number("lowest_speed"), "span", "lowest_speed"},
	"speed.highest":    {shaft, down, number("highest_speed"), "span", "highest_speed"},
	"ramp.rise":        {slope, up, number("rise"), "span", "rise"},
	"ramp.fall":        {slope, up, number("fall"), "span", "fall"},
	"speed.jog":        {shaft, nearest, number("jog"), "signal", "jog"},
	"speed.preset.1":   {shaft, nearest, number("preset_1"), "signal", "preset_1"},
	"speed.preset.2":   {shaft, nearest, number("preset_2"), "signal", "preset_2"},
	"speed.preset.3":   {shaft, nearest, number("preset_3"), "signal", "preset_3"},
	"reference.low":    {shaft, nearest, number("reference_low"), "signal", "reference_low"},
	"reference.high":   {shaft, nearest, number("reference_high"), "signal", "reference_high"},
}

func init() {
	for _, c := range []string{"line_frequency", "load_pattern", "control", "slip_compensation", "direction", "stop_mode", "overload_class",
		"automatic_restart", "command_source", "speed_source", "reference_signal", "reference_loss", "torque_off_shows"} {
		intents["choice."+c] = intent{dim: choice, source: "intent", field: c}
	}
}

// capFrequency is the frequency range that ramps are counted to: the highest asked for, at least the motor's own.
func capFrequency(p *Plan) float64 {
	f := p.Frequency(p.get("highest_speed"))
	if math.IsNaN(f) {
		return p.Motor.Frequency
	}
	return math.Max(f, p.Motor.Frequency)
}

func (p *Plan) get(name string) float64 { return number(name)(p) }

// Regulates tells whether the drive holds the shaft speed itself, so that Hz and r/min are synchronous figures.
func (p *Plan) Regulates() bool {
	return p.Choices["control"] == "vector" || p.Choices["slip_compensation"] == "on"
}

// TorqueRatio is the load's torque at a shaft speed over the rated torque. Full torque when the load is not stated.
func (p *Plan) TorqueRatio(rpm float64) float64 {
	t := p.LoadTorque
	if math.IsNaN(t) {
		t = 1
	}
	x := rpm / p.Motor.Speed
	switch p.Load {
	case "linear":
		return t * x
	case "quadratic":
		return t * x * x
	case "constant-power":
		return t / math.Max(x, .1)
	}
	return t
}

// Frequency is the output frequency in Hz at which the shaft turns at a speed (r/min) under the load's torque there:
// synchronous 120 f/p plus the slip at that torque, which grows with the square of the frequency above the motor's own
// (the flux falls as 1/f). A drive that regulates the shaft speed counts the synchronous figure.
func (p *Plan) Frequency(rpm float64) float64 {
	pairs := float64(p.Poles) / 2
	sync := rpm * pairs / 60
	if p.Regulates() || rpm == 0 || p.Poles == 0 {
		return orNaN(p.Poles == 0, sync)
	}
	fn := p.Motor.Frequency
	slip := (fn - p.Motor.Speed*pairs/60) * p.TorqueRatio(rpm)
	f := sync + slip
	for range 30 {
		weak := math.Max(1, f/fn)
		f = sync + slip*weak*weak
	}
	if f > 3*fn && f > 2*sync {
		return math.NaN() // beyond what the motor can pull
	}
	return f
}

// Shaft is the inverse of Frequency: the speed in r/min at an output frequency.
func (p *Plan) Shaft(f float64) float64 {
	lo, hi := 0.0, f*120/float64(p.Poles)
	for range 60 {
		mid := (lo + hi) / 2
		if p.Frequency(mid) > f {
			hi = mid
		} else {
			lo = mid
		}
	}
	return (lo + hi) / 2
}

func orNaN(missing bool, v float64) float64 {
	if missing {
		return math.NaN()
	}
	return v
}

// base is what this plan's ramps refer to.
func (p *Plan) base(highest float64) motion.RampBase {
	return motion.RampBase{Highest: highest, Base: p.Motor.Frequency, PlateSpeed: p.Motor.Speed, Poles: p.Poles}
}

// coded is a value in a setting's own unit, with how it came about.
type coded struct {
	value   float64
	because string
	also    string
	figures []Working
	missing string // what is needed first
}

// Working is one step of how a value came about.
type Working struct {
	Label string `json:"label"`
	Value string `json:"value"`
	Unit  string `json:"unit"`
	Note  string `json:"note,omitempty"`
}

func fig(label string, v float64, unit, note string) Working {
	return Working{label, f4(v), unit, note}
}

func f4(v float64) string { return quantity.Digits(v, 4) }

// convention is one way a family counts a dimension. highest is the family's own highest frequency in Hz as planned.
type convention struct {
	dim    dim
	about  string
	encode func(p *Plan, it intent, v, highest float64) coded
}

func plain(unit string, per float64) func(*Plan, intent, float64, float64) coded {
	return func(p *Plan, it intent, v, _ float64) coded {
		c := coded{value: v / per, because: it.source}
		c.figures = []Working{fig("As wanted", v/per, unit, it.source)}
		return c
	}
}

// conventions is the closed list of codecs.
var conventions = map[string]convention{
	"kilowatts":         {power, "kW", plain("kW", 1000)},
	"horsepower":        {power, "mechanical horsepower, 745.7 W", encodeHorsepower},
	"volts":             {voltage, "V", plain("V", 1)},
	"hertz":             {hertz, "Hz", plain("Hz", 1)},
	"amperes":           {current, "A", encodeAmperes},
	"percent-of-drive":  {current, "percent of the drive's rated current", encodePercentOfDrive},
	"rpm":               {speed, "r/min", plain("r/min", 1)},
	"ratio":             {ratio, "a ratio", plain("", 1)},
	"poles":             {count, "a number of poles", plain("", 1)},
	"shaft-as-hertz":    {shaft, "Hz, with the slip at the load's torque", encodeShaftHertz},
	"shaft-as-rpm":      {shaft, "r/min", encodeShaftRPM},
	"to-highest":        {slope, "seconds from 0 to the highest frequency", encodeRamp(motion.ToHighestFrequency, "the highest frequency")},
	"to-plate-speed":    {slope, "seconds from 0 to the plate speed", encodeRamp(motion.ToPlateSpeed, "plate speed")},
	"to-base-frequency": {slope, "seconds from 0 to the motor's frequency", encodeRamp(motion.ToBaseFrequency, "the motor's frequency")},
	"choice":            {choice, "one of the setting's choices", nil},
}

func encodeHorsepower(p *Plan, it intent, v, _ float64) coded {
	return coded{value: v / quantity.MechanicalHorsepowerW, because: f4(v/1000) + " kW on the plate",
		figures: []Working{fig("Motor, plate", v/1000, "kW", ""), fig("÷ 0.7457 kW per hp", v/quantity.MechanicalHorsepowerW, "hp", "")}}
}

func encodeAmperes(p *Plan, it intent, v, _ float64) coded {
	c := coded{value: v, because: it.source, figures: []Working{fig("Motor, plate", p.Motor.Current, "A", p.Motor.Name)}}
	if it.field == "current_limit" {
		c.because = f4(v/p.Motor.Current*100) + " % of the motor's " + f4(p.Motor.Current) + " A"
		c.figures = append(c.figures, fig("× limit", v, "A", "span"))
	}
	if it.round == down && it.field == "current" {
		c.because = "plate current" + serviceFactorNote(p)
	} else if len(p.OtherRows) > 0 && it.source == "plate" {
		c.because = "plate, " + p.Motor.Name
		if o := p.OtherRows[0]; o.Current > 0 {
			c.because += fmt.Sprintf("; not the %s's %s A", o.Name, f4(o.Current))
		}
	}
	return c
}

func serviceFactorNote(p *Plan) string {
	if p.ServiceFactor > 1 {
		return "; service factor left out"
	}
	return ""
}

func encodePercentOfDrive(p *Plan, it intent, v, _ float64) coded {
	if !(p.DriveCurrent > 0) {
		return coded{value: math.NaN(), missing: "rating.current"}
	}
	c := coded{value: v / p.DriveCurrent * 100, because: fmt.Sprintf("%s A ÷ drive %s A%s", f4(v), f4(p.DriveCurrent), serviceFactorNote(p))}
	c.figures = []Working{fig("Motor, plate", p.Motor.Current, "A", p.Motor.Name)}
	if it.field == "current_limit" {
		c.because = fmt.Sprintf("%s %% of the motor's %s A, ÷ drive %s A", f4(v/p.Motor.Current*100), f4(p.Motor.Current), f4(p.DriveCurrent))
		c.figures = append(c.figures, fig("× limit", v, "A", "span"))
	}
	c.figures = append(c.figures, fig("Drive, rating label", p.DriveCurrent, "A", ""), fig(f4(v)+" ÷ "+f4(p.DriveCurrent), c.value, "%", ""))
	return c
}

func encodeShaftHertz(p *Plan, it intent, v, _ float64) coded {
	if p.Poles == 0 {
		return coded{value: math.NaN(), missing: "motor.speed"}
	}
	f := p.Frequency(v)
	if math.IsNaN(f) {
		return coded{value: f, missing: it.field}
	}
	sync := v * float64(p.Poles) / 120
	c := coded{value: f}
	if p.Regulates() {
		c.because = f4(v) + " r/min; the drive regulates the shaft speed, so no slip is added"
		c.figures = []Working{fig("Shaft", v, "r/min", it.source), fig("× poles ÷ 120", f, "Hz", "drive regulates the shaft speed")}
		return c
	}
	if v == 0 {
		c.because = "standing still"
		return c
	}
	t := p.TorqueRatio(v)
	c.because = fmt.Sprintf("%s r/min at the shaft with %s %% torque", f4(v), quantity.Digits(t*100, 3))
	c.also = fmt.Sprintf("%s Hz synchronous and %s Hz slip", f4(sync), f4(f-sync))
	c.figures = []Working{fig("Shaft", v, "r/min", it.source), fig("× poles ÷ 120", sync, "Hz", "synchronous"), fig("Torque there", t*100, "%", loadNote(p)), fig("Slip at that torque", f-sync, "Hz", ""), fig("Together", f, "Hz", "")}
	return c
}

func loadNote(p *Plan) string {
	if p.Load == "" {
		return "load not stated: full torque"
	}
	return p.Load
}

func encodeShaftRPM(p *Plan, it intent, v, _ float64) coded {
	if p.Regulates() {
		c := coded{value: v, because: "as wanted; the drive regulates the shaft speed", figures: []Working{fig("Shaft", v, "r/min", it.source)}}
		if p.Poles > 0 {
			c.also = f4(v*float64(p.Poles)/120) + " Hz synchronous, slip added by the drive"
		}
		return c
	}
	if p.Poles == 0 {
		return coded{value: math.NaN(), missing: "motor.speed"}
	}
	f := p.Frequency(v)
	c := coded{value: f * 120 / float64(p.Poles), also: f4(f) + " Hz"}
	c.because = fmt.Sprintf("%s r/min at the shaft; this family counts the field's speed without slip compensation", f4(v))
	c.figures = []Working{fig("Shaft", v, "r/min", it.source), fig("Output frequency", f, "Hz", "with the slip at "+quantity.Digits(p.TorqueRatio(v)*100, 3)+" % torque"), fig("× 120 ÷ poles", c.value, "r/min", "")}
	return c
}

func encodeRamp(counting motion.Counting, to string) func(*Plan, intent, float64, float64) coded {
	return func(p *Plan, it intent, v, highest float64) coded {
		if p.Poles == 0 {
			return coded{value: math.NaN(), missing: "motor.speed"}
		}
		hz := v * float64(p.Poles) / 120
		b := p.base(highest)
		c := coded{value: b.Count(counting, hz)}
		if math.IsNaN(c.value) {
			c.missing = "intent.highest_speed"
			return c
		}
		top := p.get("highest_speed")
		if math.IsNaN(top) {
			top = p.Motor.Speed
		}
		c.because = fmt.Sprintf("%s s to %s r/min; this family counts to %s", quantity.Digits(top/v, 3), f4(top), to)
		c.also = fmt.Sprintf("%s r/min per s", f4(v))
		c.figures = []Working{fig("As wanted", v, "r/min per s", it.source), fig("× poles ÷ 120", hz, "Hz/s", ""), fig("From 0 to "+to, c.value, "s", fmt.Sprintf("%s Hz", f4(c.value*hz)))}
		return c
	}
}
