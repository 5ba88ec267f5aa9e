package dialect

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// counts holds the file's settings against what it says of its conventions.
func (c *compiler) counts() {
	n := c.f.Counts
	said := map[string]string{"ramp": n.Ramp, "overload": n.Overload, "speed": n.Speed, "power": n.Power, "poles": n.Poles, "slip": n.Slip,
		"analog": n.Analog, "line_frequency": n.LineFrequency}
	for _, k := range []string{"ramp", "overload", "speed", "power", "poles", "slip", "analog", "line_frequency"} {
		c.oneOf("conventions."+k, said[k], countLists[k])
	}
	for i := range c.f.Settings {
		s := &c.f.Settings[i]
		about, does := s.counting()
		if about != "" && said[about] != "" && said[about] != does {
			c.badSetting(i, "convention", s.Convention, said[about]+", as the file's conventions say of "+about)
		}
	}
}

// counting says which of the file's conventions a setting falls under, and how it counts.
func (s *Setting) counting() (about, does string) {
	switch {
	case strings.HasPrefix(s.Intent, "ramp."):
		if strings.HasPrefix(s.Convention, "slope-") {
			return "ramp", "slope"
		}
		return "ramp", s.Convention
	case s.Intent == "overload.current":
		return "overload", s.Convention
	case s.Intent == "motor.power":
		return "power", s.Convention
	case s.Intent == "motor.poles":
		return "poles", "entered"
	case s.Intent == "choice.slip_compensation" && s.Kind == "number":
		return "slip", "percent"
	case s.Intent == "choice.slip_compensation":
		return "slip", "off-on"
	case strings.HasPrefix(s.Intent, "speed.preset") || s.Intent == "speed.jog":
		return "speed", s.Convention
	case s.Intent == "reference.low" || s.Intent == "reference.high":
		return "analog", "two-point"
	case s.Intent == "reference.offset" || s.Intent == "reference.gain":
		return "analog", s.Convention
	}
	return "", ""
}

// manual checks the parts that a person looks up.
func (c *compiler) manual() {
	k := c.f.Keypad
	c.oneOf("keypad.style", k.Style, []string{"pages", "tree", "index"})
	c.oneOf("keypad.confirm", k.Confirm, []string{"once", "twice", "hold", "dial-and-set"})
	c.oneOf("keypad.digits", k.Digits, []string{"each", "turn", "step"})
	c.oneOf("keypad.blinking", k.Blinking, []string{"not-kept", "kept", "never"})
	for i, w := range k.Locks {
		c.oneOf(fmt.Sprintf("keypad.locks[%d]", i), w, []string{"running", "access", "remote"})
	}
	c.oneOf("keypad.stop_in_remote", k.StopInRem, []string{"obeyed", "ignored"})
	c.oneOf("keypad.shows_settings", k.Lists, []string{"all", "changed"})
	c.oneOf("remembers.motor_warmth", c.f.Remembers.MotorWarmth, []string{"kept", "forgotten"})
	for i := range c.f.Settings { // the setting decides, whatever the page about the keypad says
		if s := &c.f.Settings[i]; s.Drives == "stop-key" {
			c.f.Keypad.StopInRem = "obeyed"
			if c.f.Reacts("stop-key", map[string]int64{s.Code: s.DeliverySteps()}) == "ignored" {
				c.f.Keypad.StopInRem = "ignored"
			}
		}
	}
	for what, does := range c.f.Fixed {
		if Reactions[what] == nil {
			c.bad("fixed."+what, what, "one of "+strings.Join(slices.Sorted(maps.Keys(Reactions)), ", "))
		}
		c.oneOf("fixed."+what, does, Reactions[what])
	}
	c.oneOf("remembers.run_command", c.f.Remembers.RunCommand, []string{"fresh", "held"})
	if c.f.FirmwareRange != (FirmwareRange{}) && CompareVersions(c.f.FirmwareRange.From, c.f.FirmwareRange.To) > 0 {
		c.bad("firmware_range.to", c.f.FirmwareRange.To, "at least "+c.f.FirmwareRange.From)
	}
	d := c.f.Derating
	for name, v := range map[string]float64{"altitude_pct_per_100m": d.AltitudePercent, "ambient_pct_per_k": d.AmbientPercent,
		"switching_pct_per_khz": d.SwitchingPercent, "side_by_side_pct": d.SideBySide, "single_phase_pct": d.SinglePhase} {
		if v < 0 || v > 100 {
			c.bad("derating."+name, fmt.Sprint(v), "0 to 100 percent")
		}
	}
	types, codes := map[string]bool{}, map[uint16]bool{}
	for i, r := range c.f.Ratings {
		at := fmt.Sprintf("ratings[%d].", i)
		if r.Type == "" || types[r.Type] {
			c.bad(at+"type", r.Type, "a type used once")
		}
		if r.Code != 0 && codes[r.Code] {
			c.bad(at+"code", fmt.Sprint(r.Code), "a code used once")
		}
		types[r.Type], codes[r.Code] = true, true
		if !(r.Heavy > 0) || r.Normal != 0 && r.Normal < r.Heavy {
			c.bad(at+"heavy_a", fmt.Sprint(r.Heavy), "above 0, and at most normal_a")
		}
		if r.Phases != 1 && r.Phases != 3 {
			c.bad(at+"phases", fmt.Sprint(r.Phases), "1 or 3")
		}
		if !(r.LineLow > 0) || r.LineHigh < r.LineLow {
			c.bad(at+"line_low_v", fmt.Sprint(r.LineLow), "above 0, and at most line_high_v")
		}
	}
	if c.f.TypeCode.Example != "" {
		if _, err := c.f.DecodeType(c.f.TypeCode.Example); err != nil {
			c.bad("type_code.example", c.f.TypeCode.Example, "a type that its own parts take apart: "+err.Error())
		}
	}
	names := map[string]bool{}
	for i, t := range c.f.Terminals {
		at := fmt.Sprintf("terminals[%d].", i)
		if t.Name == "" || names[t.Name] {
			c.bad(at+"name", t.Name, "a name used once")
		}
		names[t.Name] = true
		if !slices.Contains(terminalKinds, t.Kind) {
			c.bad(at+"kind", t.Kind, "one of "+strings.Join(terminalKinds, ", "))
		}
	}
	c.ends()
	faults := map[string]bool{}
	for i, x := range c.f.Faults {
		at := fmt.Sprintf("faults[%d].", i)
		if x.Code == "" || faults[x.Code] {
			c.bad(at+"code", x.Code, "a code used once")
		}
		faults[x.Code] = true
		if !slices.Contains(faultFamilies, x.Family) {
			c.bad(at+"family", x.Family, "one of "+strings.Join(faultFamilies, ", "))
		}
		if x.Severity != "fault" && x.Severity != "warning" && x.Severity != "blocked" {
			c.bad(at+"severity", x.Severity, "fault, warning or blocked")
		}
		if !slices.Contains(clearings, x.Clears) {
			c.bad(at+"clears", x.Clears, "one of "+strings.Join(clearings, ", "))
		}
	}
	for i, m := range c.f.Modules {
		c.oneOf(fmt.Sprintf("modules[%d].kind", i), m.Kind, moduleKinds)
		for n, s := range m.Signals {
			c.oneOf(fmt.Sprintf("modules[%d].signals[%d]", i, n), s, []string{"ttl", "htl", "sine"})
		}
		for n, x := range m.Feeds {
			if !(x.Volts > 0 && x.Volts <= 60 && x.Current > 0 && x.Current <= 5000) {
				c.bad(fmt.Sprintf("modules[%d].feeds[%d]", i, n), fmt.Sprintf("%g V, %g mA", x.Volts, x.Current),
					"up to 60 V and 5000 mA, both above zero")
			}
		}
	}
	for i, s := range c.f.Slots {
		for _, m := range s.Takes {
			if !slices.ContainsFunc(c.f.Modules, func(x Module) bool { return x.Code == m }) {
				c.bad(fmt.Sprintf("slots[%d].takes", i), m, "the code of a module")
			}
		}
	}
}
