package dialect

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// FieldError names the place in the file, what was read and what was expected.
type FieldError struct {
	Path, Got, Want string
	At              string // the place as a YAML path, so that the reader of the file can name the line
	Line            int    // 1 and up; 0: not known
}

func (e *FieldError) Error() string {
	at := ""
	if e.Line > 0 {
		at = fmt.Sprintf("line %d: ", e.Line)
	}
	return fmt.Sprintf("%s%s: got %q, want %s", at, e.Path, e.Got, e.Want)
}

// compiler gathers every fault of a file.
type compiler struct {
	f    *Family
	errs []error
}

func (c *compiler) bad(path, got, want string) {
	c.errs = append(c.errs, &FieldError{Path: path, Got: got, Want: want, At: "$." + path})
}

// badSetting names a setting's field by its code; At keeps its place.
func (c *compiler) badSetting(i int, field, got, want string) {
	c.errs = append(c.errs, &FieldError{Path: fmt.Sprintf("settings[%d] %s.%s", i, c.f.Settings[i].Code, field), Got: got, Want: want,
		At: fmt.Sprintf("$.settings[%d].%s", i, field)})
}

// oneOf wants one of a closed list; blank allows nothing at all.
func (c *compiler) oneOf(path, got string, list []string) {
	if got != "" && !slices.Contains(list, got) {
		c.bad(path, got, "one of "+strings.Join(list, ", "))
	}
}

// Compile checks a family and readies it for use. It returns every fault found.
func (f *Family) Compile() []error {
	c := &compiler{f: f}
	if f.Name == "" {
		c.bad("name", "", "a name")
	}
	if f.Version == "" {
		c.bad("version", "", "a version")
	}
	groups := map[string]bool{}
	for i, g := range f.Groups {
		if g.Code == "" || groups[g.Code] {
			c.bad(fmt.Sprintf("groups[%d].code", i), g.Code, "a code used once")
		}
		c.oneOf(fmt.Sprintf("groups[%d].gate", i), g.Gate, []string{"plate", "span", "signal"})
		groups[g.Code] = true
	}
	f.byCode = make(map[string]int, len(f.Settings))
	for i := range f.Settings {
		s := &f.Settings[i]
		if _, ok := f.byCode[s.Code]; ok || s.Code == "" {
			c.badSetting(i, "code", s.Code, "a code used once")
		}
		f.byCode[s.Code] = i
		if !groups[s.Group] {
			c.badSetting(i, "group", s.Group, "a group of the list")
		}
		c.setting(i)
	}
	c.link()
	c.actuals()
	c.registers()
	c.references()
	c.circles()
	c.counts()
	c.manual()
	return c.errs
}

func (c *compiler) setting(i int) {
	s := &c.f.Settings[i]
	bad := func(field, got, want string) { c.badSetting(i, field, got, want) }
	one := func(field, got string, list ...string) {
		if got != "" && !slices.Contains(list, got) {
			bad(field, got, strings.Join(list, ", ")+", or nothing")
		}
	}
	if !slices.Contains(kinds, s.Kind) {
		bad("kind", s.Kind, "one of "+strings.Join(kinds, ", "))
		return
	}
	if s.Name == "" {
		bad("name", "", "a name")
	}
	one("access", s.Access, "full")
	one("acts", s.Acts, "motion")
	one("takes", s.Takes, takesWhen...)
	one("register_type", s.RegisterType, registerTypes...)
	if (s.Kind == "text") != (s.RegisterType == "text") && s.Register != 0 {
		bad("register_type", s.RegisterType, "text for a text, and for nothing else")
	}
	if s.List != "" {
		list, ok := c.f.Lists[s.List]
		if !ok || len(s.Choices) > 0 {
			bad("list", s.List, "a list of the file, and no choices beside it")
			return
		}
		s.Choices = list
	}
	switch s.Kind {
	case "number":
		s.compileNumber(bad)
	case "choice":
		s.compileChoice(bad)
	case "bits":
		s.compileBits(bad)
	case "text":
		s.stepMantissa = 1
		if n, err := strconv.Atoi(s.Max); err != nil || n < 1 || n > 64 {
			bad("max", s.Max, "how many signs it holds, 1 to 64")
		} else {
			s.max = int64(n)
		}
		s.delivery = TextSteps(s.Delivery)
	}
	s.compileDeliveries(bad)
	s.compileScale(bad)
	if s.OffValue != "" {
		if n, err := s.Read(s.OffValue); err != nil || !s.Inside(n) || !s.Protects {
			bad("off_value", s.OffValue, "a value of a setting that protects")
		}
	}
	if s.Serves != "" && (s.Intent != "" || s.Drives != "" || !slices.Contains(serves, s.Serves)) {
		bad("serves", s.Serves, "one of "+strings.Join(serves, ", ")+", on a setting without intent that drives nothing")
	}
	if s.Drives != "" && (s.Intent != "" || !slices.Contains(driven, s.Drives)) {
		bad("drives", s.Drives, "one of "+strings.Join(driven, ", ")+", on a setting without intent")
	}
	q, known := intents[s.Intent]
	switch {
	case s.Intent == "" && s.Convention == "":
	case !known:
		bad("intent", s.Intent, "an intent of docs/formats/dialect.md")
	default:
		conv, ok := conventions[s.Convention]
		switch {
		case !ok || conv.dim != q.dim:
			bad("convention", s.Convention, "a convention for "+string(q.dim))
		case conv.kind() != s.Kind:
			bad("kind", s.Kind, conv.kind()+" for this convention")
		}
	}
}

// references wants every code that the file names to be one of its settings.
func (c *compiler) references() {
	f := c.f
	for i := range f.Settings {
		for _, list := range []struct {
			field string
			codes Words
		}{{"moves", f.Settings[i].Moves}, {"voids", f.Settings[i].Voids}} {
			for _, code := range list.codes {
				if _, ok := f.byCode[code]; !ok && (list.field != "voids" || code != "tune") {
					c.badSetting(i, list.field, code,
						map[string]string{"moves": "the code of a setting", "voids": "tune, or the code of a setting"}[list.field])
				}
			}
		}
	}
	known := func(path, code string) {
		if _, ok := f.byCode[code]; code != "" && !ok {
			c.bad(path, code, "the code of a setting")
		}
	}
	known("access.setting", f.Access.Setting)
	known("keypad.password.setting", f.Keypad.Password.Setting)
	for i, p := range f.Recipes.FirstStart.Pages {
		known(fmt.Sprintf("recipes.first_start.pages[%d].sets", i), p.Sets)
	}
	for i, code := range f.Recipes.FirstStart.LeavesTo {
		known(fmt.Sprintf("recipes.first_start.leaves_out[%d]", i), code)
	}
	for i, code := range f.Recipes.FirstStart.Disables {
		if s, ok := f.Setting(code); !ok || s.OffValue == "" {
			c.bad(fmt.Sprintf("recipes.first_start.disables[%d]", i), code, "a setting with an off_value")
		}
	}
	for i, t := range f.Recipes.Tunes {
		at := fmt.Sprintf("recipes.tunes[%d].", i)
		known(at+"setting", t.Setting)
		c.oneOf(at+"kind", t.Kind, tuneKinds)
		if s, ok := f.Setting(t.Setting); ok {
			for _, v := range []struct{ field, value string }{{"value", t.Value}, {"done_value", t.DoneValue}} {
				if v.value == "" {
					continue
				}
				if n, err := s.Read(v.value); err != nil || !s.Inside(n) {
					c.bad(at+v.field, v.value, "a value of "+t.Setting)
				}
			}
		}
	}
	for i, t := range f.Terminals {
		known(fmt.Sprintf("terminals[%d].setting", i), t.Setting)
	}
	for i, s := range f.Switches {
		for k, a := range s.Changes {
			known(fmt.Sprintf("switches[%d].changes[%d].setting", i, k), a.Setting)
		}
	}
}

// ends checks what the connection list is made from.
func (c *compiler) ends() {
	ends := map[string]bool{}
	for i, t := range c.f.Terminals {
		for k, e := range t.Ends() {
			if ends[e] || e == "" || strings.Contains(e, ":") {
				c.bad(fmt.Sprintf("terminals[%d].legs[%d]", i, k), e, "a terminal named once, without colon")
			}
			ends[e] = true
		}
	}
	for i, t := range c.f.Terminals {
		at := fmt.Sprintf("terminals[%d].", i)
		for k, l := range t.Links {
			if len(l) != 2 || !ends[l[0]] || !ends[l[1]] || l[0] == l[1] {
				c.bad(fmt.Sprintf("%slinks[%d]", at, k), strings.Join(l, " "), "two terminals of the family")
			}
		}
		for _, x := range t.Takes {
			c.oneOf(at+"takes", x, switchKinds[:2])
		}
		if t.Common != "" && !ends[t.Common] {
			c.bad(at+"common", t.Common, "a terminal of the family")
		}
		for name, v := range map[string]float64{"ma": t.Current, "ohm": t.Ohm, "loop_ohm": t.LoopOhm} {
			if v < 0 {
				c.bad(at+name, fmt.Sprint(v), "0 or above")
			}
		}
		if t.Switch != "" && !slices.ContainsFunc(c.f.Switches, func(s Switch) bool { return s.Name == t.Switch }) {
			c.bad(at+"switch", t.Switch, "the name of a hardware switch")
		}
	}
	for i, s := range c.f.Switches {
		for k, p := range s.Positions {
			c.oneOf(fmt.Sprintf("switches[%d].positions[%d].is", i, k), p.Is, switchKinds)
		}
	}
}

// circles refuses settings that move or void one another in a ring: no order of entering would be right.
func (c *compiler) circles() {
	const fresh, open, done = 0, 1, 2
	mark := make([]int, len(c.f.Settings))
	var trail []string
	var walk func(i int) bool
	walk = func(i int) bool {
		s := &c.f.Settings[i]
		if mark[i] != fresh {
			return mark[i] == done
		}
		mark[i] = open
		trail = append(trail, s.Code)
		for _, list := range []Words{s.Moves, s.Voids} {
			for _, code := range list {
				k, ok := c.f.byCode[code]
				if ok && !walk(k) {
					if mark[k] == open {
						c.badSetting(i, "moves", strings.Join(append(trail[slices.Index(trail, code):], code), " → "),
							"settings that do not move or void one another in a circle")
						mark[k] = done
					}
				}
			}
		}
		trail = trail[:len(trail)-1]
		mark[i] = done
		return true
	}
	for i := range c.f.Settings {
		walk(i)
	}
}

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
