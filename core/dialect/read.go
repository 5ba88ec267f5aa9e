package dialect

import (
	"math"
	"strconv"
	"strings"
)

// Understood is what a drive's settings say, in the terms of a plan.
type Understood struct {
	Plan Plan
	Not  []NotUnderstood // kept, for a person to look at
}

// NotUnderstood is a setting that could not be turned into intent, with the reason.
type NotUnderstood struct {
	Code, Text, Why string
}

// Read turns settings (code → steps) into a plan: the inverse of Sheet. base gives what the settings do not hold: the
// drive's rated current, the load, and the motor that is really there: without speed regulation the shaft's speed follows
// from its slip, whatever motor the drive was told of. Settings without intent, out of range, or that need a value that is
// missing are listed.
func (f *Family) Read(values map[string]int64, base *Plan) Understood {
	u := Understood{Plan: *base}
	u.Plan.Numbers, u.Plan.Choices = map[string]float64{}, map[string]string{}
	u.Plan.OtherRows = nil
	highest := math.NaN()
	// Motor values and choices come first: everything else is counted in them.
	for pass := range 2 {
		for i := range f.Settings {
			s := &f.Settings[i]
			steps, ok := values[s.Code]
			if !ok || (pass == 0) != basic(s.Intent) {
				continue
			}
			if s.Intent == "frequency.cap" {
				highest = s.Value(steps)
			}
			if why := f.understand(&u.Plan, base, s, steps, highest); why != "" {
				u.Not = append(u.Not, NotUnderstood{s.Code, s.WithUnit(steps), why})
			}
		}
		if from := u.Plan.Choices["speed_source"]; from == "voltage" || from == "current" {
			if signal := u.Plan.Choices["reference_signal"]; signal != "" {
				u.Plan.Choices["speed_source"] = signal
			}
		}
		if p := &u.Plan; pass == 0 && p.Motor.Speed > 0 && p.Motor.Frequency > 0 {
			if p.Poles == 0 {
				p.Poles = 2 * int(math.Floor(60*p.Motor.Frequency/p.Motor.Speed))
			}
		}
	}
	f.pairs(&u, values, base, highest)
	return u
}

// basic settings are those that others are counted in.
func basic(name string) bool {
	return strings.HasPrefix(name, "motor.") || strings.HasPrefix(name, "choice.") || name == "frequency.cap"
}

// paired conventions are understood two settings at a time.
var paired = map[string]bool{"slope-speed": true, "slope-time": true, "offset-gain": true, "gain-offset": true}

// understand puts one setting into the plan; it returns why it cannot.
func (f *Family) understand(p, base *Plan, s *Setting, steps int64, highest float64) string {
	it, known := intents[s.Intent]
	switch {
	case !known:
		return "it carries no intent"
	case !s.Inside(steps):
		return "it is outside the setting's range"
	case paired[s.Convention]:
		return ""
	case s.Convention == "power-list":
		for _, c := range s.Choices {
			if kw, err := strconv.ParseFloat(c.Means, 64); c.Value == steps && err == nil {
				p.Motor.Power = kw * 1000
				return ""
			}
		}
		return "the choice has no power beside it"
	case s.Convention == "slip-percent":
		p.Choices[it.field] = map[bool]string{true: "on", false: "off"}[steps > 0]
		return ""
	case it.dim == choice:
		for _, c := range s.Choices {
			if c.Value == steps && c.Means != "" {
				// One choice may stand for several wishes; the first is taken, and Read says which when another setting does.
				p.Choices[it.field], _, _ = strings.Cut(c.Means, "|")
				return ""
			}
		}
		return "the choice has no counterpart"
	}
	v := decode(p, base, s, s.Value(steps), highest)
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return "it needs motor values or the drive's rated current first"
	}
	switch s.Intent {
	case "motor.power":
		p.Motor.Power = v
	case "motor.voltage":
		p.Motor.Voltage = v
	case "motor.frequency":
		p.Motor.Frequency = v
	case "motor.current":
		p.Motor.Current = v
	case "motor.speed":
		p.Motor.Speed = v
	case "motor.factor":
		p.Motor.Factor = v
	case "motor.poles":
		p.Poles = int(v)
	case "limit.current":
		p.Numbers["current_limit"] = v / p.Motor.Current
	case "frequency.cap", "overload.current":
		// Both follow from other intents; the first is needed above, the second is compared by the sheet.
	default:
		p.Numbers[it.field] = v
	}
	return ""
}

// decode is a setting's convention backwards; NaN when something is missing.
func decode(p, base *Plan, s *Setting, v, highest float64) float64 {
	c := conventions[s.Convention]
	if c.decode == nil {
		return math.NaN()
	}
	real := *p
	if base.Poles > 0 && base.Motor.Speed > 0 && base.Motor.Frequency > 0 {
		real.Motor, real.Poles = base.Motor, base.Poles
	}
	return c.decode(decoding{p, &real, highest}, v)
}

// pairs understands what two settings say together: a slope by speed and time, a signal by offset and gain.
func (f *Family) pairs(u *Understood, values map[string]int64, base *Plan, highest float64) {
	get := func(name string) (*Setting, float64) {
		for i := range f.Settings {
			s := &f.Settings[i]
			if steps, ok := values[s.Code]; ok && s.Intent == name && s.Inside(steps) && s.Kind == "number" {
				return s, s.Value(steps)
			}
		}
		return nil, math.NaN()
	}
	for _, ramp := range []string{"rise", "fall"} {
		s, speed := get("ramp." + ramp)
		_, t := get("ramp." + ramp + ".time")
		if s != nil && s.Convention == "slope-speed" && t > 0 {
			u.Plan.Numbers[ramp] = speed / t
		}
	}
	s, gain := get("reference.gain")
	_, offset := get("reference.offset")
	if s == nil || math.IsNaN(offset) || !(highest > 0) {
		return
	}
	low := offset
	if s.Convention == "offset-gain" {
		low = offset * gain
	}
	real := u.Plan
	if base.Poles > 0 && base.Motor.Speed > 0 && base.Motor.Frequency > 0 {
		real.Motor, real.Poles = base.Motor, base.Poles
	}
	for name, percent := range map[string]float64{"reference_low": low, "reference_high": low + 100*gain} {
		if rpm := real.shaftAt(percent / 100 * highest); !math.IsNaN(rpm) {
			u.Plan.Numbers[name] = rpm
		}
	}
}

// shaftAt is the shaft's speed in r/min at an output frequency in Hz.
func (p *Plan) shaftAt(f float64) float64 {
	switch {
	case p.Poles == 0:
		return math.NaN()
	case f == 0:
		return 0
	case p.Regulates():
		return f * 120 / float64(p.Poles)
	}
	return p.Shaft(f)
}
