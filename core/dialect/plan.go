package dialect

import (
	"math"

	"tingate/core/motion"
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
	LoadFriction  float64 // of rated torque, beside it at every speed
	Numbers       map[string]float64
	Choices       map[string]string
	Variant       Variant // what delivery values depend on
	// Functions are settings that follow from how the terminals are wired, or from wishes without an intent of the closed list, by code.
	Functions map[string]Function
}

// Function is what a setting must hold because of a wire.
type Function struct {
	Steps   int64
	Because string
	Rounded string // how the grid moved it
	Problem string // why the drive cannot take it
	Text    string // of a setting that holds one
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

	line      dim = "a signal's offset or gain"
	slopeTime dim = "the time of a ramp"
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
	part   string // which of two settings that carry one intent: offset, gain
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
	"motor.power":     {power, nearest, func(p *Plan) float64 { return p.Motor.Power }, "plate", "power", ""},
	"motor.voltage":   {voltage, nearest, func(p *Plan) float64 { return p.Motor.Voltage }, "plate", "voltage", ""},
	"motor.frequency": {hertz, nearest, func(p *Plan) float64 { return p.Motor.Frequency }, "plate", "frequency", ""},
	"motor.current":   {current, nearest, func(p *Plan) float64 { return p.Motor.Current }, "plate", "current", ""},
	"motor.speed":     {speed, nearest, func(p *Plan) float64 { return p.Motor.Speed }, "plate", "speed", ""},
	"motor.factor":    {ratio, nearest, func(p *Plan) float64 { return p.Motor.Factor }, "plate", "power_factor", ""},
	"motor.poles": {count, nearest, func(p *Plan) float64 {
		if p.Poles == 0 {
			return math.NaN()
		}
		return float64(p.Poles)
	}, "plate, worked out from the speed", "poles", ""},
	"overload.current": {current, down, func(p *Plan) float64 { return p.Motor.Current }, "plate", "current", ""},
	"limit.current": {current, down, func(p *Plan) float64 { return p.Motor.Current * number("current_limit")(p) }, "span",
		"current_limit", ""},
	"frequency.cap":  {hertz, up, capFrequency, "span", "highest_speed", ""},
	"speed.lowest":   {shaft, up, number("lowest_speed"), "span", "lowest_speed", ""},
	"speed.highest":  {shaft, down, number("highest_speed"), "span", "highest_speed", ""},
	"ramp.rise":      {slope, up, number("rise"), "span", "rise", ""},
	"ramp.fall":      {slope, up, number("fall"), "span", "fall", ""},
	"speed.jog":      {shaft, nearest, number("jog"), "signal", "jog", ""},
	"speed.preset.1": {shaft, nearest, number("preset_1"), "signal", "preset_1", ""},
	"speed.preset.2": {shaft, nearest, number("preset_2"), "signal", "preset_2", ""},
	"speed.preset.3": {shaft, nearest, number("preset_3"), "signal", "preset_3", ""},
	"reference.low":  {shaft, nearest, number("reference_low"), "signal", "reference_low", ""},
	"reference.high": {shaft, nearest, number("reference_high"), "signal", "reference_high", ""},
	// Families that count a signal by offset and gain, and ramps as a change of speed in a time, take two settings for
	// one intent. The second of a pair is worked out as the first rounds.
	"reference.offset": {line, nearest, number("reference_high"), "signal", "reference_high", "offset"},
	"reference.gain":   {line, nearest, number("reference_high"), "signal", "reference_high", "gain"},
	"ramp.rise.time":   {slopeTime, up, number("rise"), "span", "rise", ""},
	"ramp.fall.time":   {slopeTime, up, number("fall"), "span", "fall", ""},
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
func (p *Plan) TorqueRatio(rpm float64) float64 { return p.loadAlone(rpm) + p.LoadFriction }

func (p *Plan) loadAlone(rpm float64) float64 {
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
