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
	c.countings()
	c.link()
	c.actuals()
	c.registers()
	c.references()
	c.circles()
	c.counts()
	c.manual()
	c.bodies()
	c.kept()
	return c.errs
}

// objectTypes are the data types that an object can have, sourceKinds where a row can come from.
var (
	objectTypes = []string{"bool", "s8", "s16", "s32", "u8", "u16", "u32", "text"}
	sourceKinds = []string{"list", "device", "typed", "learnt"}
)

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
	one("object_type", s.ObjectType, objectTypes...)
	one("source", s.Source.Kind, sourceKinds...)
	if s.Source.Kind == "" && s.Source != (Source{}) {
		bad("source", s.Source.From, "its kind as well: "+strings.Join(sourceKinds, ", "))
	}
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
		known(fmt.Sprintf("terminals[%d].turned_by", i), t.Turned)
		c.turned(i, t)
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
