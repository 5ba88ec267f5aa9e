// Package speeds shows what bounds a drive's speeds, and its reference from the controller to the machine. It judges nothing.
package speeds

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/drivefile"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/core/quantity"
	"tingate/core/translate"
)

// Counted is a speed in every counting.
type Counted struct {
	RPM     float64  `json:"rpm" doc:"of the motor's shaft"`
	Hz      float64  `json:"hz" doc:"synchronous"`
	Loaded  *float64 `json:"loaded_hz,omitempty" doc:"what the drive must give for it with the load's slip; null: more torque than the motor has"`
	Percent float64  `json:"percent" doc:"of the highest speed; of the plate's while none is entered"`
	Machine *float64 `json:"machine,omitempty" doc:"in the machine's own unit"`
}

// Side is on which side of a speed a bound holds.
type Side string

// Sides of a bound.
const (
	Wish  Side = "wish"
	Least Side = "least"
	Most  Side = "most"
)

// Bound is something that bounds a speed.
type Bound struct {
	Key   string  `json:"key"`
	Text  string  `json:"text"`
	Why   string  `json:"why"`
	Side  Side    `json:"side" enum:"wish,least,most" doc:"least: not below it; most: not above it"`
	Holds bool    `json:"holds" doc:"the wish keeps it"`
	At    Counted `json:"at"`
}

// TorqueAt is the motor at one speed: shares of its rated torque.
type TorqueAt struct {
	RPM   float64 `json:"rpm"`
	Asked float64 `json:"asked" doc:"by the load"`
	Borne float64 `json:"borne" doc:"for ever, cooled as it is"`
	Most  float64 `json:"most" doc:"for a moment, within the current limit"`
}

// Bounds are the lowest and the highest speed with everything that bounds them.
type Bounds struct {
	Missing  string       `json:"missing"`
	Unit     string       `json:"unit" doc:"the machine's own; empty: none named"`
	Bounds   []Bound      `json:"bounds" doc:"from slow to fast"`
	Curve    []TorqueAt   `json:"curve"`
	Skips    [][2]Counted `json:"skips"`
	Ramps    []RampCount  `json:"ramps" doc:"the same ramps in every counting"`
	Standing string       `json:"standing" doc:"what it costs to hold the motor magnetised at standstill"`
	Fan      []string     `json:"fan" doc:"what the lowest and highest speed do to flow, pressure and power, where the load grows with the square"`
}

// BoundsOf gathers what bounds a drive's speeds, by its plan.
func BoundsOf(d drivefile.Drive, family *dialect.Family, p dialect.Plan) Bounds {
	out := Bounds{Bounds: []Bound{}, Curve: []TorqueAt{}, Skips: [][2]Counted{}, Ramps: []RampCount{}, Fan: []string{}}
	in := d.Intent
	rated := p.Motor.Speed
	if !(rated > 0) || p.Poles == 0 || !(p.Motor.Frequency > 0) {
		out.Missing = "speed and frequency of the row in use (gate Plate)"
		return out
	}
	rpm := func(q drivefile.Q) float64 { return q.Num(quantity.Speed, "r/min") }
	low, high := rpm(in.LowestSpeed), rpm(in.HighestSpeed)
	machineAt := in.MachineAt.Num(quantity.Figure, "")
	if out.Unit = in.MachineUnit; out.Unit == "" && machineAt > 0 {
		out.Unit = "of the machine"
	}
	full := high
	if !(full > 0) {
		full = rated
	}
	counted := func(v float64) Counted {
		c := Counted{RPM: v, Hz: v * float64(p.Poles) / 120, Percent: v / full * 100}
		if hz := p.Frequency(v); !math.IsNaN(hz) {
			c.Loaded = &hz
		}
		if machineAt > 0 {
			m := v / rated * machineAt
			c.Machine = &m
		}
		return c
	}
	add := func(key string, side Side, v float64, text, why string) {
		if math.IsNaN(v) || v < 0 {
			return
		}
		holds := side == Wish || side == Least && !(low < v-.5) || side == Most && !(high > v+.5)
		out.Bounds = append(out.Bounds, Bound{key, text, why, side, holds, counted(v)})
	}
	own := d.Motor.Cooling != "forced" && d.Motor.Cooling != "liquid"
	add("lowest", Wish, low, "Lowest speed, wished", "")
	add("highest", Wish, high, "Highest speed, wished", "")
	add("base", Most, rated, "Plate's speed",
		"Above it the field is weakened: the torque for ever falls with the speed, the breakdown torque with its square.")
	if in.Load != "" {
		least := motion.LowestFor(func(x float64) float64 { return p.TorqueRatio(x * rated) }, own) * rated
		why := "Its own fan gives less the slower it turns (common practice)."
		if !own {
			why = "Cooled from outside."
		}
		add("cooling", Least, least, "Load borne for ever from here on", why)
	}
	add("rotor", Most, rpm(in.RotorMost), "Rotor's mechanical limit", "As the motor's maker states.")
	add("gear", Most, rpm(in.GearMost), "Gearbox, coupling, machine", "As stated, at the motor's shaft.")
	est, sound := machine.Usual(translate.Machine(d.Motor))
	limit := in.CurrentLimit.Num(quantity.Percent, "%") / 100 * p.Motor.Current
	if sound && !math.IsNaN(limit) {
		if v, ok := out.runsOut(p.TorqueRatio, func(r float64) float64 { return mostTorque(est, in, p.Motor.Voltage, limit, r/rated) },
			rated); ok {
			add("torque", Most, v, "Load's torque meets the most that the motor gives",
				"Within the current limit, the field weakened above the plate's speed.")
		}
	}
	top := math.Max(full, rated) * 1.2
	for i := range 61 {
		v := top * float64(i) / 60
		c := TorqueAt{RPM: v, Asked: p.TorqueRatio(v), Borne: motion.OwnFan(v/rated, own)}
		if sound && !math.IsNaN(limit) {
			c.Most = mostTorque(est, in, p.Motor.Voltage, limit, v/rated)
		}
		out.Curve = append(out.Curve, c)
	}
	for _, b := range translate.Wished(d).SkipsOf() {
		out.Skips = append(out.Skips, [2]Counted{counted(b[0]), counted(b[1])})
		add("skip", Wish, b[0], fmt.Sprintf("Skip band, to %s r/min", quantity.Digits(b[1], 4)), "Passed through, never stayed in.")
	}
	sort.SliceStable(out.Bounds, func(a, b int) bool { return out.Bounds[a].At.RPM < out.Bounds[b].At.RPM })
	out.ramps(family, p, high)
	if sound {
		heat := 3 * est.Rs * est.NoLoad * est.NoLoad
		out.Standing = fmt.Sprintf("Held magnetised at standstill, for a start without delay or to prove torque, it takes about %s A "+
			"and turns %s W into heat in its stator, %s %% of its rated losses", quantity.Digits(est.NoLoad, 4), quantity.Digits(heat, 4),
			quantity.Digits(100*heat/(est.Fit.Input-est.Fit.ShaftPower), 4))
		if own {
			out.Standing += ", while its own fan stands"
		}
		out.Standing += "."
	}
	if in.Load == "quadratic" {
		out.fan(low, high, rated, in.StaticHead.Num(quantity.Percent, "%"))
	}
	return out
}

// RampCount is the plan's rise and fall in one counting. Null: not stated.
type RampCount struct {
	Counting string   `json:"counting"`
	Unit     string   `json:"unit"`
	Rise     *float64 `json:"rise"`
	Fall     *float64 `json:"fall"`
	Own      bool     `json:"own" doc:"this family counts so"`
}

// rampWords are the countings as people say them, with their units.
var rampWords = map[motion.Counting][2]string{motion.ToHighestFrequency: {"from 0 to the drive's highest frequency", "s"},
	motion.ToBaseFrequency: {"from 0 to the motor's frequency", "s"}, motion.ToPlateSpeed: {"from 0 to the plate's speed", "s"},
	motion.SlopeHz: {"as a slope of frequency", "Hz/s"}, motion.SlopePercent: {"as a slope of the highest frequency", "%/s"},
	motion.Per100Hz: {"for 100 Hz", "s"}}

// rampOwn are the countings by the convention of a family's setting.
var rampOwn = map[string]motion.Counting{"to-highest": motion.ToHighestFrequency, "to-plate-speed": motion.ToPlateSpeed,
	"to-base-frequency": motion.ToBaseFrequency}

// ramps counts the plan's ramps in every way.
func (b *Bounds) ramps(family *dialect.Family, p dialect.Plan, high float64) {
	perHz := 120 / float64(p.Poles)
	base := motion.RampBase{Base: p.Motor.Frequency, PlateSpeed: p.Motor.Speed, Poles: p.Poles, Highest: math.NaN()}
	counts := ""
	if family != nil {
		base.Highest = family.Highest(&p)
		for i := range family.Settings {
			if x := &family.Settings[i]; strings.HasPrefix(x.Intent, "ramp.rise") && counts == "" {
				counts = x.Convention
			}
		}
	}
	sound := func(v float64) *float64 {
		if v > 0 && !math.IsInf(v, 0) {
			return &v
		}
		return nil
	}
	add := func(words, unit string, count func(slope float64) float64, own bool) {
		r := RampCount{words, unit, sound(count(p.Numbers["rise"])), sound(count(p.Numbers["fall"])), own}
		if r.Rise != nil || r.Fall != nil {
			b.Ramps = append(b.Ramps, r)
		}
	}
	add("from 0 to the highest speed wished", "s", func(slope float64) float64 { return high / slope }, false)
	add("as a change of shaft speed", "r/min/s", func(slope float64) float64 { return slope }, strings.HasPrefix(counts, "slope"))
	for _, c := range motion.Countings {
		add(rampWords[c][0], rampWords[c][1], func(slope float64) float64 { return base.Count(c, slope/perHz) }, c == rampOwn[counts])
	}
}

// mostTorque is what a motor gives for a moment at a share of its plate speed, over the rated torque: within the current limit, its voltage
// as the control gives it, the field weakened above the plate's speed.
func mostTorque(e machine.Estimate, in drivefile.Intent, volts, amps, share float64) float64 {
	share = math.Max(share, .02)
	f := e.Frequency * share
	if in.Control == "vector" {
		_, breakdown := e.Breakdown(volts, math.Max(f, e.Frequency)) // its regulation holds the flux down to standstill
		return math.Min(e.VectorTorque(amps)*math.Min(1, 1/share), breakdown) / e.Fit.ShaftTorque
	}
	return e.TorqueWithin(volts*drive.VoltsShare(in.Pattern == "quadratic", translate.Boost(in), share), f, amps) / e.Fit.ShaftTorque
}

// runsOut is the lowest speed from which the load asks for more than the motor gives; above standstill.
func (b *Bounds) runsOut(asked, most func(rpm float64) float64, rated float64) (float64, bool) {
	for i := 30; i <= 300; i++ {
		if v := rated * float64(i) / 100; asked(v) > most(v) {
			return v, true
		}
	}
	return 0, false
}

// fan says what the fan law makes of the two speeds.
func (b *Bounds) fan(low, high, rated, static float64) {
	for _, x := range []struct {
		name string
		v    float64
	}{{"lowest", low}, {"highest", high}} {
		if math.IsNaN(x.v) {
			continue
		}
		r := x.v / rated
		text := fmt.Sprintf("At the %s speed: flow %s %%, pressure %s %%, power %s %% of those at the plate's speed (fan law).", x.name,
			quantity.Digits(100*r, 4), quantity.Digits(100*r*r, 4), quantity.Digits(100*r*r*r, 4))
		if static > 0 && r*r*100 < static {
			text += fmt.Sprintf(" That is below the static part of %s %%: nothing flows, and it heats itself.", quantity.Digits(static, 4))
		}
		b.Fan = append(b.Fan, text)
	}
}
