package familyfile

import (
	"cmp"
	"fmt"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"tingate/core/dialect"
)

// Section is what a family says beside its settings, as a table of texts to be changed: its sizes, its faults, its keypad.
type Section struct {
	Key     string          `json:"key"`
	Title   string          `json:"title"`
	About   string          `json:"about" doc:"what it is good for, and what works without it"`
	Single  bool            `json:"single" doc:"one row, always"`
	Columns []SectionColumn `json:"columns"`
	Rows    [][]string      `json:"rows" doc:"cells by column, as texts; lists parted by commas"`
}

// SectionColumn is one thing that is said.
type SectionColumn struct {
	Key     string   `json:"key"`
	Label   string   `json:"label"`
	Choices []string `json:"choices" doc:"the closed list it is of; empty: free"`
	Yes     bool     `json:"yes" doc:"yes or no"`
}

// partOf names a table and where it lies in a family: a pointer to a struct, or to a list of them.
type partOf struct {
	key, title, about string
	in                func(f *dialect.Family) any
}

var partsOf = []partOf{
	{"keypad", "Keypad", "How one gets to a setting and how a value is kept. Without it the way through the keypad is not shown.",
		func(f *dialect.Family) any { return &f.Keypad }},
	{"keypad.keys", "Keys", "What is printed on the keys.", func(f *dialect.Family) any { return &f.Keypad.Keys }},
	{"keypad.home", "Home display", "The gesture that always leads back.", func(f *dialect.Family) any { return &f.Keypad.Home }},
	{"keypad.local_remote", "Local and remote", "How they change over.", func(f *dialect.Family) any { return &f.Keypad.Remote }},
	{"keypad.lamps", "Lamps", "What each lamp means. Gate Wake asks what is seen by them.",
		func(f *dialect.Family) any { return &f.Keypad.Lamps }},
	{"keypad.words", "Words on the display", "What the display says, and what it means.",
		func(f *dialect.Family) any { return &f.Keypad.Words }},
	{"keypad.run_refused", "Run refused", "When the keypad does not run the motor, and what it shows then.",
		func(f *dialect.Family) any { return &f.Keypad.Refused }},
	{"ratings", "Sizes", "Without them the drive's rating is typed from its label, and a wait of the label is not known.",
		func(f *dialect.Family) any { return &f.Ratings }},
	{"terminals", "Terminals", "Without them gate Control makes no connection list.", func(f *dialect.Family) any { return &f.Terminals }},
	{"faults", "Faults", "Code, class, how it clears. Without them a code is looked up in the manual.",
		func(f *dialect.Family) any { return &f.Faults }},
	{"recipes.delivery_reset", "Delivery reset", "What proves it, what it wipes and keeps. It is done on the keypad only.",
		func(f *dialect.Family) any { return &f.Recipes.DeliveryReset }},
	{"recipes.delivery_reset.steps", "Steps of the delivery reset", "Without them gate Wake shows the general way.",
		func(f *dialect.Family) any { return &f.Recipes.DeliveryReset.Steps }},
	{"recipes.tunes", "Tunes", "Without one gate Tune shows the general way.", func(f *dialect.Family) any { return &f.Recipes.Tunes }},
	{"recipes.copy", "Copying settings", "Into keypad or file.", func(f *dialect.Family) any { return &f.Recipes.Copy }},
	{"recipes.restore", "Putting settings back", "From keypad or file.", func(f *dialect.Family) any { return &f.Recipes.Restore }},
	{"recipes.changed", "What was changed", "The drive's own list of what differs from delivery.",
		func(f *dialect.Family) any { return &f.Recipes.Changed }},
	{"recipes.fault_reset", "Fault reset", "At the keypad.", func(f *dialect.Family) any { return &f.Recipes.FaultReset }},
	{"recipes.torque_off_reset", "Reset of torque off", "What it asks for after a stop.",
		func(f *dialect.Family) any { return &f.Recipes.TorqueOffReset }},
	{"slots", "Slots", "What takes modules.", func(f *dialect.Family) any { return &f.Slots }},
	{"modules", "Modules", "Options that go into a slot.", func(f *dialect.Family) any { return &f.Modules }},
	{"groups", "Groups", "Pages or menus of the keypad, and the gate that reads their settings back.",
		func(f *dialect.Family) any { return &f.Groups }},
	{"conventions", "How it counts", "In the file's own words; a setting that counts otherwise is a fault.",
		func(f *dialect.Family) any { return &f.Counts }},
	{"remembers", "What it remembers", "Through a power cycle.", func(f *dialect.Family) any { return &f.Remembers }},
	{"derating", "Derating", "What the maker takes off at a place; empty: common practice.",
		func(f *dialect.Family) any { return &f.Derating }},
	{"link", "Link", "How registers are read. A file that is spoken to by link names what must never be written.",
		func(f *dialect.Family) any { return &f.Link }},
	{"link.identity", "Identity over the link", "The register and value by which the family is known.",
		func(f *dialect.Family) any { return &f.Link.Identity }},
	{"link.status", "Status over the link", "The bits for standstill and for each torque-off channel open; without it nothing is written.",
		func(f *dialect.Family) any { return &f.Link.Status }},
	{"link.forbidden", "Never written", "Registers that command: control word, run, jog, tune, reset, restore.",
		func(f *dialect.Family) any { return &f.Link.Forbidden }},
	{"link.actuals", "Figures over the link", "Without them a run cannot be recorded over the link.",
		func(f *dialect.Family) any { return &f.Link.Actuals }},
}

// fieldsOf are the fields of a struct that a cell can hold, with their keys.
func fieldsOf(t reflect.Type) (at []int, keys []string) {
	for i := range t.NumField() {
		key, _, _ := strings.Cut(t.Field(i).Tag.Get("yaml"), ",")
		switch k := t.Field(i).Type; {
		case key == "" || key == "-":
		case k.Kind() == reflect.String, k.Kind() == reflect.Bool, k.Kind() == reflect.Int, k.Kind() == reflect.Uint,
			k.Kind() == reflect.Uint16,
			k.Kind() == reflect.Float64, k.Kind() == reflect.Slice && k.Elem().Kind() == reflect.String:
			at, keys = append(at, i), append(keys, key)
		}
	}
	return at, keys
}

var unitEnds = regexp.MustCompile(`_(v|kw|a|ma|s|min|m|c|khz|pct)\b`)

// labels are what a key alone does not say.
var labels = map[string]string{"keypad.path": "way to a setting: {group}, {letter}, {code}", "keypad.keep": "key that keeps",
	"keypad.confirm": "kept by",
	"keypad.wrap":    "the last is followed by the first", "keypad.digits": "digits, by", "keypad.blinking": "blinking means",
	"keypad.stop_in_remote": "stop key in remote", "keypad.shows_settings": "its list shows", "keypad.locks": "changes refused while",
	"keypad.refuses_changes": "the same in a sentence", "faults.family": "class", "faults.look": "look at first",
	"ratings.code": "in its register",
	"ratings.type": "type begins", "terminals.legs": "ends", "terminals.takes": "takes", "modules.gives": "adds",
	"groups.gate":            "read back at",
	"recipes.tunes.within_s": "within, s", "recipes.tunes.stop_after": "stop pressed after", "link.gap": "unused read along",
	"link.block": "registers a read"}

// label is a key as people read it, with its unit behind a comma.
func label(part, key string) string {
	if l, ok := labels[part+"."+key]; ok {
		return l
	}
	t := unitEnds.ReplaceAllStringFunc(key, func(u string) string {
		return ", " + map[string]string{"_v": "V", "_kw": "kW", "_a": "A", "_ma": "mA", "_s": "s", "_min": "min", "_m": "m", "_c": "°C",
			"_khz": "kHz",
			"_pct": "%"}[u]
	})
	return strings.ReplaceAll(t, "_", " ")
}

// partsIn are the tables of a family.
func partsIn(f *dialect.Family) []Section {
	out := make([]Section, 0, len(partsOf))
	for _, d := range partsOf {
		v := reflect.ValueOf(d.in(f)).Elem()
		p := Section{Key: d.key, Title: d.title, About: d.about, Single: v.Kind() == reflect.Struct, Columns: []SectionColumn{},
			Rows: [][]string{}}
		row := v.Type()
		if !p.Single {
			row = row.Elem()
		}
		at, keys := fieldsOf(row)
		for n, key := range keys {
			c := SectionColumn{Key: key, Label: label(d.key, key), Choices: dialect.Closed[d.key+"."+key],
				Yes: row.Field(at[n]).Type.Kind() == reflect.Bool}
			if c.Choices == nil {
				c.Choices = []string{}
			}
			p.Columns = append(p.Columns, c)
		}
		for i := range lenOf(v) {
			p.Rows = append(p.Rows, cellsOf(rowAt(v, i), at))
		}
		out = append(out, p)
	}
	return out
}

func lenOf(v reflect.Value) int {
	if v.Kind() == reflect.Struct {
		return 1
	}
	return v.Len()
}

func rowAt(v reflect.Value, i int) reflect.Value {
	if v.Kind() == reflect.Struct {
		return v
	}
	return v.Index(i)
}

func cellsOf(v reflect.Value, at []int) []string {
	var out []string
	for _, i := range at {
		f := v.Field(i)
		switch {
		case f.Kind() == reflect.Slice:
			out = append(out, strings.Join(f.Convert(reflect.TypeFor[[]string]()).Interface().([]string), ", "))
		case f.Kind() == reflect.Bool:
			out = append(out, map[bool]string{true: "yes"}[f.Bool()])
		case f.IsZero():
			out = append(out, "")
		default:
			out = append(out, fmt.Sprint(f.Interface()))
		}
	}
	return out
}

// takeParts puts tables into a family. A row that stood in the family it goes out from keeps what no cell can hold: it is known by its
// first cell. Empty rows fall away; stood says which row each of those that are left was, by part.
func takeParts(f *dialect.Family, parts []Section) (problems []RowFault, stood map[string][]int) {
	stood = map[string][]int{}
	for _, p := range parts {
		i := slices.IndexFunc(partsOf, func(d partOf) bool { return d.key == p.Key })
		if i < 0 {
			problems = append(problems, RowFault{Part: p.Key, Field: "key", Got: p.Key, Want: "a part of the file"})
			continue
		}
		v := reflect.ValueOf(partsOf[i].in(f)).Elem()
		row := v.Type()
		if v.Kind() == reflect.Slice {
			row = row.Elem()
		}
		at, keys := fieldsOf(row)
		old := map[string]reflect.Value{}
		for k := range lenOf(v) {
			old[cmp.Or(cellsOf(rowAt(v, k), at[:1])[0], fmt.Sprint("row ", k))] = rowAt(v, k)
		}
		list := reflect.New(reflect.SliceOf(row)).Elem()
		for n, cells := range p.Rows {
			if strings.TrimSpace(strings.Join(cells, "")) == "" && !p.Single {
				continue
			}
			r := reflect.New(row).Elem()
			if v.Kind() == reflect.Struct {
				r.Set(v)
			} else if len(cells) > 0 && old[strings.TrimSpace(cells[0])].IsValid() {
				r.Set(old[strings.TrimSpace(cells[0])])
			}
			for c, key := range keys {
				if c >= len(cells) {
					break
				}
				if want := put(r.Field(at[c]), ofClosed(p.Key+"."+key, strings.TrimSpace(cells[c]))); want != "" {
					problems = append(problems, RowFault{Part: p.Key, Row: n + 1, Field: key, Got: cells[c], Want: want})
				}
			}
			list, stood[p.Key] = reflect.Append(list, r), append(stood[p.Key], n+1)
		}
		if v.Kind() == reflect.Struct {
			if list.Len() > 0 {
				v.Set(list.Index(0))
			}
			continue
		}
		if list.Len() == 0 {
			list = reflect.Zero(v.Type())
		}
		v.Set(list.Convert(v.Type()))
	}
	return problems, stood
}

// ofClosed is a cell of a closed list as the file writes it: a manual says "Earth fault".
func ofClosed(list, t string) string {
	if w := strings.ReplaceAll(strings.ToLower(t), " ", "-"); slices.Contains(dialect.Closed[list], w) {
		return w
	}
	return t
}

// put writes a cell into a field; want says what it should have been.
func put(f reflect.Value, t string) (want string) {
	switch f.Kind() {
	case reflect.String:
		f.SetString(t)
	case reflect.Bool:
		if t != "" && t != "no" && !affirmed.MatchString(t) {
			return "yes, no or nothing"
		}
		f.SetBool(affirmed.MatchString(t))
	case reflect.Slice:
		f.Set(reflect.Zero(f.Type()))
		for _, w := range strings.Split(t, ",") {
			if w = strings.TrimSpace(w); w != "" {
				f.Set(reflect.Append(f, reflect.ValueOf(w)))
			}
		}
	case reflect.Float64:
		v, err := strconv.ParseFloat(cmp.Or(plainNumber(t), "0"), 64)
		if err != nil {
			return "a number"
		}
		f.SetFloat(v)
	case reflect.Int:
		v, err := strconv.ParseInt(cmp.Or(t, "0"), 10, 32)
		if err != nil {
			return "a whole number"
		}
		f.SetInt(v)
	default:
		v, err := strconv.ParseUint(strings.TrimPrefix(strings.ToLower(cmp.Or(t, "0")), "0x"), registerBase(t), f.Type().Bits())
		if err != nil {
			return "0 to 65535, or 0x and hexadecimal digits"
		}
		f.SetUint(v)
	}
	return ""
}

// inPart is a row and a field behind the name of a part.
var inPart = regexp.MustCompile(`^(?:\[(\d+)\])?(?:\.([a-z_0-9]+))?(?:\[\d+\])?$`)

// partPlace finds the part, row and field of a fault's path: "faults[2].clears", "keypad.style".
func partPlace(path string) (part string, row int, field string, ok bool) {
	for _, d := range partsOf {
		rest, is := strings.CutPrefix(path, d.key)
		if !is || len(d.key) <= len(part) {
			continue
		}
		if m := inPart.FindStringSubmatch(rest); m != nil {
			n, _ := strconv.Atoi(m[1])
			part, row, field, ok = d.key, n+1, m[2], true
		}
	}
	return part, row, field, ok
}
