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
	Within  string          `json:"within,omitempty" doc:"the table to whose rows its rows belong: their first cell names one; settings: the settings"`
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

// partOf names a table and where it lies in a family: a pointer to a struct, to a list of them, or to a map of words. Of a list within the
// rows of a list, in is the outer one, and within its key.
type partOf struct {
	key, title, about string
	in                func(f *dialect.Family) any
	within            string
}

var partsOf = []partOf{
	{"keypad", "Keypad", "How one gets to a setting and how a value is kept. Without it the way through the keypad is not shown.",
		func(f *dialect.Family) any { return &f.Keypad }, ""},
	{"keypad.keys", "Keys", "What is printed on the keys.", func(f *dialect.Family) any { return &f.Keypad.Keys }, ""},
	{"keypad.home", "Home display", "The gesture that always leads back.", func(f *dialect.Family) any { return &f.Keypad.Home }, ""},
	{"keypad.password", "Lock of the keypad", "The setting that locks it, its value as delivered, and what to do when it is lost.",
		func(f *dialect.Family) any { return &f.Keypad.Password }, ""},
	{"keypad.local_remote", "Local and remote", "How they change over.", func(f *dialect.Family) any { return &f.Keypad.Remote }, ""},
	{"keypad.lamps", "Lamps", "What each lamp means. Gate Wake asks what is seen by them.",
		func(f *dialect.Family) any { return &f.Keypad.Lamps }, ""},
	{"keypad.words", "Words on the display", "What the display says, and what it means.",
		func(f *dialect.Family) any { return &f.Keypad.Words }, ""},
	{"keypad.run_refused", "Run refused", "When the keypad does not run the motor, and what it shows then.",
		func(f *dialect.Family) any { return &f.Keypad.Refused }, ""},
	{"ratings", "Sizes", "Without them the drive's rating is typed from its label, and a wait of the label is not known.",
		func(f *dialect.Family) any { return &f.Ratings }, ""},
	{"type_code", "Type code", "A type as it stands on a label. Its parts take it apart: the drive is known by what is typed.",
		func(f *dialect.Family) any { return &f.TypeCode }, ""},
	{"type_code.parts", "Parts of the type code", "From the left: a fixed text, so many signs, or one of its values.",
		func(f *dialect.Family) any { return &f.TypeCode.Parts }, ""},
	{"type_code.parts.values", "Values in the type code", "What stands in a part, and what it means.",
		func(f *dialect.Family) any { return &f.TypeCode.Parts }, "type_code.parts"},
	{"terminals", "Terminals", "Without them gate Control makes no connection list.",
		func(f *dialect.Family) any { return &f.Terminals }, ""},
	{"terminals.links", "Factory links", "Which two ends are joined as delivered, and on whose terminal the link lies.",
		func(f *dialect.Family) any { return &f.Terminals }, "terminals"},
	{"switches", "Hardware switches", "Without them what a terminal takes is looked up in the manual.",
		func(f *dialect.Family) any { return &f.Switches }, ""},
	{"switches.positions", "Positions of the switches", "What each position makes of the terminals.",
		func(f *dialect.Family) any { return &f.Switches }, "switches"},
	{"switches.changes", "What the switches change", "Settings that go by another name and unit once the switch is moved.",
		func(f *dialect.Family) any { return &f.Switches }, "switches"},
	{"faults", "Faults", "Code, class, how it clears. Without them a code is looked up in the manual.",
		func(f *dialect.Family) any { return &f.Faults }, ""},
	{"fault_history", "History of faults", "How many it keeps, and what with each.",
		func(f *dialect.Family) any { return &f.FaultHistory }, ""},
	{"recipes.delivery_reset", "Delivery reset", "What proves it, what it wipes and keeps. It is done on the keypad only.",
		func(f *dialect.Family) any { return &f.Recipes.DeliveryReset }, ""},
	{"recipes.delivery_reset.steps", "Steps of the delivery reset", "Without them gate Wake shows the general way.",
		func(f *dialect.Family) any { return &f.Recipes.DeliveryReset.Steps }, ""},
	{"recipes.delivery_reset.codes", "Codes of the delivery reset", "By supply, where the reset asks for one.",
		func(f *dialect.Family) any { return &f.Recipes.DeliveryReset.Codes }, ""},
	{"recipes.first_start", "First start", "What the assistant of a new drive leaves out, and what it switches off that protects.",
		func(f *dialect.Family) any { return &f.Recipes.FirstStart }, ""},
	{"recipes.first_start.pages", "Pages of the first start", "What each shows, and the setting that it sets.",
		func(f *dialect.Family) any { return &f.Recipes.FirstStart.Pages }, ""},
	{"recipes.first_start.skip", "Leaving the first start", "How it is left without being followed.",
		func(f *dialect.Family) any { return &f.Recipes.FirstStart.Skip }, ""},
	{"recipes.tunes", "Tunes", "Without one gate Tune shows the general way.", func(f *dialect.Family) any { return &f.Recipes.Tunes }, ""},
	{"recipes.copy", "Copying settings", "Into keypad or file.", func(f *dialect.Family) any { return &f.Recipes.Copy }, ""},
	{"recipes.restore", "Putting settings back", "From keypad or file.", func(f *dialect.Family) any { return &f.Recipes.Restore }, ""},
	{"recipes.changed", "What was changed", "The drive's own list of what differs from delivery.",
		func(f *dialect.Family) any { return &f.Recipes.Changed }, ""},
	{"recipes.fault_reset", "Fault reset", "At the keypad.", func(f *dialect.Family) any { return &f.Recipes.FaultReset }, ""},
	{"recipes.torque_off_reset", "Reset of torque off", "What it asks for after a stop.",
		func(f *dialect.Family) any { return &f.Recipes.TorqueOffReset }, ""},
	{"bodies", "Bodies", "By frame: how it is lifted, fixed and opened. Gates Power and Wake ask these steps in their order.",
		func(f *dialect.Family) any { return &f.Bodies }, ""},
	{"bodies.covers", "Covers", "In the order in which they come off; each goes back before control wiring, or before the supply comes.",
		func(f *dialect.Family) any { return &f.Bodies }, "bodies"},
	{"slots", "Slots", "What takes modules.", func(f *dialect.Family) any { return &f.Slots }, ""},
	{"modules", "Modules", "Options that go into a slot.", func(f *dialect.Family) any { return &f.Modules }, ""},
	{"modules.terminals", "Terminals of the modules", "What a module brings, each with its common.",
		func(f *dialect.Family) any { return &f.Modules }, "modules"},
	{"modules.feeds", "Supplies for encoders", "What a module feeds an encoder with.",
		func(f *dialect.Family) any { return &f.Modules }, "modules"},
	{"groups", "Groups", "Pages or menus of the keypad, and the gate that reads their settings back.",
		func(f *dialect.Family) any { return &f.Groups }, ""},
	{"access", "Access", "The setting that opens the settings marked for full access, and the value that does.",
		func(f *dialect.Family) any { return &f.Access }, ""},
	{"firmware_range", "Firmware", "Firmware for which this was written; another is asked for a look.",
		func(f *dialect.Family) any { return &f.FirmwareRange }, ""},
	{"settings.delivery_by", "Delivery by region and size", "Where a setting is delivered otherwise: 50 or 60 Hz, a frame, or both.",
		func(f *dialect.Family) any { return &f.Settings }, "settings"},
	{"settings.special", "Values with a meaning", "Of settings that are numbers: 0 is off. They may lie outside the range.",
		func(f *dialect.Family) any { return &f.Settings }, "settings"},
	{
		"settings.counted",
		"Counted otherwise",
		"How a setting counts once the drive's speeds are counted otherwise, by the setting that says in what.",
		func(f *dialect.Family) any { return &f.Settings },
		"settings",
	},
	{"settings.paths", "Other ways to a setting", "Beside the way that the keypad's rule gives.",
		func(f *dialect.Family) any { return &f.Settings }, "settings"},
	{"fixed", "What no setting changes", "Reactions that are so in every drive of the family.",
		func(f *dialect.Family) any { return &f.Fixed }, ""},
	{"conventions", "How it counts", "In the file's own words; a setting that counts otherwise is a fault.",
		func(f *dialect.Family) any { return &f.Counts }, ""},
	{"kept", "How it keeps what was set", "On a command of its own, or not at all, where it is not kept as it is confirmed or written.",
		func(f *dialect.Family) any { return &f.Kept }, ""},
	{"remembers", "What it remembers", "Through a power cycle.", func(f *dialect.Family) any { return &f.Remembers }, ""},
	{"derating", "Derating", "What the maker takes off at a place; empty: common practice.",
		func(f *dialect.Family) any { return &f.Derating }, ""},
	{"link", "Link", "How registers are read. A file that is spoken to by link names what must never be written.",
		func(f *dialect.Family) any { return &f.Link }, ""},
	{"link.identity", "Identity over the link", "The register and value by which the family is known.",
		func(f *dialect.Family) any { return &f.Link.Identity }, ""},
	{"link.status", "Status over the link", "The bits for standstill and for each torque-off channel open; without it nothing is written.",
		func(f *dialect.Family) any { return &f.Link.Status }, ""},
	{"link.forbidden", "Never written", "Registers that command: control word, run, jog, tune, reset, restore.",
		func(f *dialect.Family) any { return &f.Link.Forbidden }, ""},
	{"link.actuals", "Figures over the link", "Without them a run cannot be recorded over the link.",
		func(f *dialect.Family) any { return &f.Link.Actuals }, ""},
}

// fieldsOf are the fields of a struct that a cell can hold, with their keys.
func fieldsOf(t reflect.Type) (at []int, keys []string) {
	for i := range t.NumField() {
		key, _, _ := strings.Cut(t.Field(i).Tag.Get("yaml"), ",")
		switch k := t.Field(i).Type; {
		case key == "" || key == "-":
		case k.Kind() == reflect.String, k.Kind() == reflect.Bool, k.Kind() == reflect.Int, k.Kind() == reflect.Int64,
			k.Kind() == reflect.Uint, k.Kind() == reflect.Uint16,
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
	"groups.gate":        "read back at",
	"terminals.links.of": "terminal", "terminals.links.list": "joined ends, parted by a comma", "switches.positions.of": "switch",
	"switches.positions.is": "makes it", "switches.changes.of": "switch", "modules.feeds.of": "module",
	"type_code.parts.values.of": "part", "type_code.parts.values.what": "as printed", "type_code.parts.values.is": "means",
	"type_code.parts.literal": "fixed text", "type_code.parts.signs": "or so many signs", "switches.power_off": "moved dead only",
	"switches.changes.name": "is then called", "settings.delivery_by.of": "setting", "settings.delivery_by.region": "line, Hz",
	"settings.special.of": "setting", "settings.special.text": "means", "settings.paths.of": "setting", "settings.paths.list": "way",
	"fixed.what": "what", "fixed.is": "is", "recipes.delivery_reset.codes.line_hz": "line, Hz",
	"recipes.delivery_reset.codes.line_v": "line, V", "keypad.password.lost": "when it is lost", "fault_history.depth": "how many",
	"fault_history.keeps": "with each", "modules.feeds.v": "V", "modules.feeds.ma": "mA",
	"modules.terminals.of": "module", "modules.address": "its address in", "modules.proved_by": "known by",
	"modules.takes_away": "takes away", "bodies.kg": "kg", "bodies.covers.of": "frame", "bodies.covers.off": "off before",
	"bodies.covers.back": "back before", "bodies.one_phase": "one phase on", "bodies.one_phase_empty": "empty then",
	"bodies.without_mains": "lives without mains", "bodies.holes_across_mm": "holes across, mm", "bodies.holes_up_mm": "holes up, mm",
	"bodies.width_mm": "width, mm", "bodies.height_mm": "height, mm", "bodies.depth_mm": "depth, mm",
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
	case reflect.Int, reflect.Int64:
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

// inPart is a row and a field behind the name of a part; inRow a row of an outer list, the inner one, and what stands behind it.
var (
	inPart = regexp.MustCompile(`^(?:\[(\d+)\])?(?:\.([a-z_0-9-]+))?(?:\[\d+\])?$`)
	inRow  = regexp.MustCompile(`^\[(\d+)\]\.([a-z_]+)(.*)$`)
)
