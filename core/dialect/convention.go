package dialect

import (
	"fmt"
	"math"

	"tingate/core/motion"
	"tingate/core/quantity"
)

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

// convention is one way a family counts a dimension. highest is the family's own highest frequency as it stands in the
// drive, in Hz. decode is encode backwards: watts, amperes, r/min of the shaft, r/min per s; NaN when something is missing.
type convention struct {
	dim    dim
	about  string
	encode func(p *Plan, it intent, v, highest float64) coded
	decode func(d decoding, v float64) float64
}

// kind of setting that a convention needs.
func (c convention) kind() string {
	if c.encode == nil {
		return "choice"
	}
	return "number"
}

// decoding is what a value read from a drive is understood with: what the drive was told, and the motor that is there.
type decoding struct {
	p       *Plan
	real    *Plan
	highest float64
}

// rpm is r/min per Hz, by the poles that the drive counts with.
func (d decoding) rpm() float64 {
	if d.p.Poles == 0 {
		return math.NaN()
	}
	return 120 / float64(d.p.Poles)
}

func plain(unit string, per float64) func(*Plan, intent, float64, float64) coded {
	return func(p *Plan, it intent, v, _ float64) coded {
		c := coded{value: v / per, because: it.source}
		c.figures = []Working{fig("As wanted", v/per, unit, it.source)}
		return c
	}
}

func times(per float64) func(decoding, float64) float64 {
	return func(_ decoding, v float64) float64 { return v * per }
}

func counted(by motion.Counting) func(decoding, float64) float64 {
	return func(d decoding, v float64) float64 { return d.p.base(d.highest).Slope(by, v) * d.rpm() }
}

// conventions is the closed list of codecs.
var conventions = map[string]convention{
	"kilowatts":    {power, "kW", plain("kW", 1000), times(1000)},
	"horsepower":   {power, "mechanical horsepower, 745.7 W", encodeHorsepower, times(quantity.MechanicalHorsepowerW)},
	"power-list":   {power, "the nearest of the drive's own list of powers", nil, nil},
	"volts":        {voltage, "V", plain("V", 1), times(1)},
	"hertz":        {hertz, "Hz", plain("Hz", 1), times(1)},
	"amperes":      {current, "A", encodeAmperes, times(1)},
	"milliamperes": {current, "mA", encodeMilliamperes, times(.001)},
	"percent-of-drive": {current, "percent of the drive's rated current", encodePercentOfDrive,
		func(d decoding, v float64) float64 { return v / 100 * d.p.DriveCurrent }},
	"percent-of-motor": {current, "percent of the motor's rated current", encodeOfMotor(100, "%"),
		func(d decoding, v float64) float64 { return v / 100 * d.p.Motor.Current }},
	"per-thousand-of-motor": {current, "per thousand of the motor's rated current", encodeOfMotor(1000, "‰"),
		func(d decoding, v float64) float64 { return v / 1000 * d.p.Motor.Current }},
	"rpm":        {speed, "r/min", plain("r/min", 1), times(1)},
	"ratio":      {ratio, "a ratio", plain("", 1), times(1)},
	"poles":      {count, "a number of poles", plain("", 1), times(1)},
	"pole-pairs": {count, "a number of pole pairs", plain("", 2), times(2)},
	"shaft-as-hertz": {shaft, "Hz, with the slip at the load's torque", encodeShaftHertz,
		func(d decoding, v float64) float64 { return d.real.shaftAt(v) }},
	"shaft-as-rpm": {shaft, "r/min", encodeShaftRPM, func(d decoding, v float64) float64 {
		if d.p.Regulates() {
			return v
		}
		return d.real.shaftAt(v / d.rpm())
	}},
	"shaft-as-percent": {shaft, "percent of the highest frequency", encodeShaftPercent,
		func(d decoding, v float64) float64 { return d.real.shaftAt(v / 100 * d.highest) }},
	"to-highest": {slope, "seconds from 0 to the highest frequency", encodeRamp(motion.ToHighestFrequency, "the highest frequency"),
		counted(motion.ToHighestFrequency)},
	"to-plate-speed": {slope, "seconds from 0 to the plate speed", encodeRamp(motion.ToPlateSpeed, "plate speed"),
		counted(motion.ToPlateSpeed)},
	"to-base-frequency": {slope, "seconds from 0 to the motor's frequency", encodeRamp(motion.ToBaseFrequency, "the motor's frequency"),
		counted(motion.ToBaseFrequency)},
	"slope-speed":  {slope, "a slope: this change of speed in the time beside it", encodeSlopeSpeed, nil},
	"slope-time":   {slopeTime, "the time in which the change of speed beside it is made", encodeSlopeTime, nil},
	"offset-gain":  {line, "(signal + offset) × gain, percent of the highest frequency", encodeOffsetGain, nil},
	"gain-offset":  {line, "signal × gain + offset, percent of the highest frequency", encodeGainOffset, nil},
	"choice":       {choice, "one of the setting's choices", nil, nil},
	"slip-percent": {choice, "percent of the motor's rated slip", encodeNever, nil},
}

// encodeNever stands for a convention whose line is made elsewhere.
func encodeNever(*Plan, intent, float64, float64) coded { return coded{value: math.NaN()} }

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
	c := coded{value: v / p.DriveCurrent * 100,
		because: fmt.Sprintf("%s A ÷ drive %s A%s", f4(v), f4(p.DriveCurrent), serviceFactorNote(p))}
	c.figures = []Working{fig("Motor, plate", p.Motor.Current, "A", p.Motor.Name)}
	if it.field == "current_limit" {
		c.because = fmt.Sprintf("%s %% of the motor's %s A, ÷ drive %s A", f4(v/p.Motor.Current*100), f4(p.Motor.Current),
			f4(p.DriveCurrent))
		c.figures = append(c.figures, fig("× limit", v, "A", "span"))
	}
	c.figures = append(c.figures, fig("Drive, rating label", p.DriveCurrent, "A", ""),
		fig(f4(v)+" ÷ "+f4(p.DriveCurrent), c.value, "%", ""))
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
	c.figures = []Working{fig("Shaft", v, "r/min", it.source), fig("× poles ÷ 120", sync, "Hz", "synchronous"),
		fig("Torque there", t*100, "%", loadNote(p)), fig("Slip at that torque", f-sync, "Hz", ""), fig("Together", f, "Hz", "")}
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
		c := coded{value: v, because: "as wanted; the drive regulates the shaft speed",
			figures: []Working{fig("Shaft", v, "r/min", it.source)}}
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
	c.figures = []Working{fig("Shaft", v, "r/min", it.source),
		fig("Output frequency", f, "Hz", "with the slip at "+quantity.Digits(p.TorqueRatio(v)*100, 3)+" % torque"),
		fig("× 120 ÷ poles", c.value, "r/min", "")}
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
		c.figures = []Working{fig("As wanted", v, "r/min per s", it.source), fig("× poles ÷ 120", hz, "Hz/s", ""),
			fig("From 0 to "+to, c.value, "s", fmt.Sprintf("%s Hz", f4(c.value*hz)))}
		return c
	}
}

func encodeMilliamperes(p *Plan, it intent, v, highest float64) coded {
	c := encodeAmperes(p, it, v, highest)
	c.value = v * 1000
	c.figures = append(c.figures, fig("× 1000", c.value, "mA", ""))
	return c
}

func encodeOfMotor(whole float64, unit string) func(*Plan, intent, float64, float64) coded {
	return func(p *Plan, it intent, v, _ float64) coded {
		if !(p.Motor.Current > 0) {
			return coded{value: math.NaN(), missing: "current"}
		}
		c := coded{value: v / p.Motor.Current * whole}
		c.because = fmt.Sprintf("%s A of the motor's %s A%s", f4(v), f4(p.Motor.Current), serviceFactorNote(p))
		c.figures = []Working{fig("Motor, plate", p.Motor.Current, "A", p.Motor.Name), fig("As wanted", v, "A", it.source),
			fig(f4(v)+" ÷ "+f4(p.Motor.Current), c.value, unit, "")}
		return c
	}
}

func encodeShaftPercent(p *Plan, it intent, v, highest float64) coded {
	c := encodeShaftHertz(p, it, v, highest)
	if c.missing != "" || !(highest > 0) {
		c.value, c.missing = math.NaN(), either(c.missing, "intent.highest_speed")
		return c
	}
	hz := c.value
	c.value = hz / highest * 100
	c.because = fmt.Sprintf("%s r/min is %s Hz of the highest %s Hz", f4(v), f4(hz), f4(highest))
	c.figures = append(c.figures, fig(f4(hz)+" ÷ "+f4(highest), c.value, "%", ""))
	return c
}

func either(a, b string) string {
	if a == "" {
		return b
	}
	return a
}

// SlopeTime is the whole seconds in which a family that counts a slope makes its change of speed: as many as the ramp
// takes to the highest speed asked for, at least one. v is the slope in r/min per s.
func (p *Plan) slopeTime(v float64) float64 {
	top := p.get("highest_speed")
	if math.IsNaN(top) {
		top = p.Motor.Speed
	}
	return math.Max(1, math.Ceil(top/v-1e-9))
}

func encodeSlopeTime(p *Plan, it intent, v, _ float64) coded {
	t := p.slopeTime(v)
	c := coded{value: t, because: fmt.Sprintf("%s r/min per s; this family counts a slope, with the change of speed beside it", f4(v))}
	c.figures = []Working{fig("As wanted", v, "r/min per s", it.source), fig("Whole seconds to the highest speed", t, "s", "at least 1")}
	return c
}

func encodeSlopeSpeed(p *Plan, it intent, v, _ float64) coded {
	t := p.slopeTime(v)
	c := coded{value: v * t, because: fmt.Sprintf("%s r/min per s, in the %s s beside it; no slope is steeper than asked", f4(v), f4(t))}
	c.figures = []Working{fig("As wanted", v, "r/min per s", it.source), fig("× the time beside it", c.value, "r/min", f4(t)+" s")}
	return c
}

// ends are both ends of the reference in percent of the highest frequency.
func (p *Plan) ends(highest float64) (low, high float64) {
	return p.Frequency(p.get("reference_low")) / highest * 100, p.Frequency(p.get("reference_high")) / highest * 100
}

// encodeOffsetGain makes out = (in + offset) × gain go through both ends: gain = (high − low) ÷ 100, offset = low ÷ gain.
func encodeOffsetGain(p *Plan, it intent, _, highest float64) coded {
	low, high := p.ends(highest)
	return encodeLine(it, low, high, low/((high-low)/100), "(signal + offset) × gain")
}

// encodeGainOffset makes out = in × gain + offset go through both ends: gain = (high − low) ÷ 100, offset = low.
func encodeGainOffset(p *Plan, it intent, _, highest float64) coded {
	low, high := p.ends(highest)
	return encodeLine(it, low, high, low, "signal × gain + offset")
}

func encodeLine(it intent, low, high, offset float64, formula string) coded {
	gain := (high - low) / 100
	if math.IsNaN(gain) || gain == 0 {
		return coded{value: math.NaN(), missing: "intent.reference_low"}
	}
	c := coded{value: gain, because: fmt.Sprintf("%s %% at the low end, %s %% at the high end; counted as %s", f4(low), f4(high), formula)}
	label := "(high − low) ÷ 100"
	if it.part == "offset" {
		c.value, label = offset, map[bool]string{true: "low", false: "low ÷ gain"}[offset == low]
	}
	c.figures = []Working{fig("Low end", low, "%", "of the highest frequency"), fig("High end", high, "%", ""),
		fig(label, c.value, "", it.part)}
	return c
}
