package familyfile

import (
	"cmp"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"tingate/core/dialect"
)

// Draft is a family being made or changed by a person: flat rows of text, as typed, faults and all.
type Draft struct {
	Name        string     `json:"name"`
	Version     string     `json:"version"`
	About       string     `json:"about"`
	Firmware    string     `json:"firmware,omitempty"`
	BaseName    string     `json:"base_name,omitempty" doc:"family that this one goes out from: keypad, recipes, terminals and faults are taken over"`
	BaseVersion string     `json:"base_version,omitempty"`
	Source      string     `json:"source,omitempty" doc:"name of the list or description that the rows were read from"`
	SourceKind  string     `json:"source_kind,omitempty" enum:"list,device,"`
	By          string     `json:"-"` // who keeps it
	Rows        []DraftRow `json:"rows"`
	Parts       []Section  `json:"parts,omitempty" doc:"what the family says beside its settings; left out: as in the family it goes out from"`
}

// DraftRow is one setting as a person types it.
type DraftRow struct {
	Code     string `json:"code"`
	Group    string `json:"group"`
	Name     string `json:"name"`
	Short    string `json:"short"`
	Kind     string `json:"kind" enum:"number,choice,bits,text,"`
	Unit     string `json:"unit"`
	Step     string `json:"step"`
	Min      string `json:"min"`
	Max      string `json:"max"`
	Delivery string `json:"delivery"`
	Choices  string `json:"choices" doc:"0 = off; 1 = on. What a choice means stands behind an arrow: 1 = terminals → terminals"`
	Register string `json:"register"`
	// What is left out stands as the family has it.
	RegisterType string `json:"register_type,omitempty" enum:"u16,s16,u32,s32,text," doc:"empty: u16"`
	Scale        string `json:"scale,omitempty" doc:"register = value × scale; empty: one step a count"`
	Running      bool   `json:"running"`
	Full         bool   `json:"full" doc:"refused below full access"`
	Motion       bool   `json:"motion" doc:"could start motion"`
	Protects     bool   `json:"protects"`
	Intent       string `json:"intent"`
	Convention   string `json:"convention"`
	Sure         bool   `json:"sure" doc:"the proposal leaves no other way"`
	Why          string `json:"why" doc:"what is to be looked up before it can be trusted"`
	ObjectType   string `json:"object_type,omitempty" enum:"bool,s8,s16,s32,u8,u16,u32,text,"`
	Drives       string `json:"drives,omitempty" doc:"what a setting without intent does"`
	Voids        string `json:"voids,omitempty" doc:"tune, or codes that fall back to delivery when it changes; parted by commas"`
	Moves        string `json:"moves,omitempty" doc:"codes whose value, range or meaning goes along"`
	Takes        string `json:"takes,omitempty" enum:"kept,dialled,stopped,power," doc:"when a value acts; empty: when it is kept"`
	OffValue     string `json:"off_value,omitempty" doc:"of one that protects: the value at which it does not"`
	Compared     bool   `json:"compared,omitempty" doc:"whoever keeps it has compared it with what it was read from"`
	Source       string `json:"source,omitempty" doc:"of a family's row: what it was read from, by whom, and who compared it"`
	From         string `json:"from,omitempty" doc:"where the row stands in what it was read from"`
	Read         string `json:"read,omitempty" doc:"what was read from elsewhere than a cell of its own"`
}

// RowFault is what is wrong with a draft: row 0 is the draft's own head, 1 the first row.
type RowFault struct {
	Part  string `json:"part,omitempty" doc:"of the file, beside the settings; its rows count from 1"`
	Row   int    `json:"row"`
	Field string `json:"field"`
	Got   string `json:"got"`
	Want  string `json:"want"`
}

var settingPath = regexp.MustCompile(`^\$\.settings\[(\d+)\](?:\.(\w+))?`)

// Build makes a family of a draft. base is the family it goes out from, or nil. What cannot be built is told row by row.
func Build(d Draft, base *dialect.Family) (*dialect.Family, []byte, []RowFault) {
	f := blank()
	if base != nil {
		lean := *base
		f = &lean
	}
	f.Name, f.Version, f.About, f.Firmware, f.Hash = strings.TrimSpace(d.Name), strings.TrimSpace(d.Version), strings.TrimSpace(d.About),
		strings.TrimSpace(d.Firmware), ""
	var problems []RowFault
	f.Settings, problems = buildRows(d, base)
	wrong, stood := takeParts(f, d.Parts)
	problems = append(problems, wrong...)
	f.Groups = buildGroups(d, f.Groups)
	if len(d.Rows) == 0 {
		problems = append(problems, RowFault{Field: "rows", Got: "none", Want: "at least one setting"})
	}
	if f.Link.Block == 0 && slices.ContainsFunc(f.Settings, func(s dialect.Setting) bool { return s.Register != 0 }) {
		f.Link.Block = 1 // one register at a time, until somebody knows better
	}
	if problems != nil {
		return nil, nil, problems
	}
	raw, err := Write(f)
	if err != nil {
		return nil, nil, []RowFault{{Field: "rows", Got: err.Error(), Want: "a family that can be written"}}
	}
	out, err := Read(raw)
	if err != nil {
		return nil, raw, problemsOf(err, stood)
	}
	return out, raw, nil
}

// blank is a family of which nothing is known yet: a setting is reached by its code.
func blank() *dialect.Family {
	return &dialect.Family{Keypad: dialect.Keypad{Path: []string{"{code}"}, Keep: "keep"}}
}

// problemsOf turns the reader's faults into places of the draft.
func problemsOf(err error, stood map[string][]int) []RowFault {
	var out []RowFault
	list := []error{err}
	if many, ok := err.(interface{ Unwrap() []error }); ok {
		list = many.Unwrap()
	}
	for _, e := range list {
		var fe *dialect.FieldError
		if !errors.As(e, &fe) {
			out = append(out, RowFault{Field: "file", Got: e.Error(), Want: "a family file"})
			continue
		}
		p := RowFault{Field: fe.Path, Got: fe.Got, Want: fe.Want}
		if part, row, field, ok := partPlace(fe.Path, stood); ok {
			p.Part, p.Row, p.Field = part, row, field
		}
		if m := settingPath.FindStringSubmatch(fe.At); m != nil {
			n, _ := strconv.Atoi(m[1])
			p.Row, p.Field = n+1, m[2]
			if rows := stood[fmt.Sprintf("settings.%s[%d]", m[2], n)]; rows != nil {
				p.Part, p.Row, p.Field = "settings."+m[2], rows[0], "of"
			}
		}
		out = append(out, p)
	}
	return out
}

func buildGroups(d Draft, groups []dialect.Group) []dialect.Group {
	out := slices.Clone(groups)
	out = slices.DeleteFunc(out, func(g dialect.Group) bool {
		return !slices.ContainsFunc(d.Rows, func(r DraftRow) bool { return r.groupCode() == g.Code })
	})
	for _, r := range d.Rows {
		i := slices.IndexFunc(out, func(g dialect.Group) bool { return g.Code == r.groupCode() })
		if i < 0 {
			out = append(out, dialect.Group{Code: r.groupCode(), Name: r.groupCode()})
			i = len(out) - 1
		}
		if out[i].Gate == "" {
			out[i].Gate = gateOf(r.Intent)
		}
	}
	return out
}

func (r DraftRow) groupCode() string {
	if g := strings.TrimSpace(r.Group); g != "" {
		return g
	}
	return "settings"
}

// gateOf is the gate at which a setting is read back, by what it carries.
func gateOf(intent string) string {
	switch {
	case intent == "":
		return ""
	case strings.HasPrefix(intent, "motor.") || intent == "choice.control" || intent == "choice.slip_compensation" ||
		intent == "choice.line_frequency" || intent == "choice.load_pattern":
		return "plate"
	case strings.HasPrefix(intent, "speed.preset") || strings.HasPrefix(intent, "reference.") || strings.HasSuffix(intent, "_source") ||
		intent == "speed.jog" || intent == "choice.reference_signal":
		return "signal"
	}
	return "span"
}

func buildRows(d Draft, base *dialect.Family) ([]dialect.Setting, []RowFault) {
	var out []dialect.Setting
	var problems []RowFault
	for i, r := range d.Rows {
		s := dialect.Setting{}
		var was DraftRow
		if base != nil {
			if b, ok := base.Setting(strings.TrimSpace(r.Code)); ok {
				s, was = *b, rowOf(b)
			}
		}
		bad := func(field, got, want string) {
			problems = append(problems, RowFault{Row: i + 1, Field: field, Got: got, Want: want})
		}
		t := strings.TrimSpace
		s.Code, s.Group, s.Name, s.Short, s.Kind, s.Unit = t(r.Code), r.groupCode(), t(r.Name), t(r.Short), r.Kind, t(r.Unit)
		s.Step, s.Min, s.Max, s.Delivery = plainNumber(r.Step), plainNumber(r.Min), plainNumber(r.Max), t(r.Delivery)
		if r.Kind == "number" {
			s.Delivery = plainNumber(r.Delivery)
		}
		s.Running, s.Protects, s.Intent, s.Convention = r.Running, r.Protects, r.Intent, r.Convention
		s.Access, s.Acts = map[bool]string{true: "full"}[r.Full], map[bool]string{true: "motion"}[r.Motion]
		s.Source = sourceOf(d, r, was, s.Source)
		overTheLine(&s, r, was)
		if r.Register != was.Register {
			n, err := strconv.ParseUint(strings.TrimPrefix(strings.ToLower(t(r.Register)), "0x"), registerBase(r.Register), 16)
			if t(r.Register) != "" && err != nil {
				bad("register", r.Register, "0 to 65535, or 0x and hexadecimal digits")
			}
			s.Register = uint16(n)
		}
		switch {
		case r.Kind != "choice" && r.Kind != "bits":
			s.Choices, s.List = nil, ""
		case r.Choices != was.Choices:
			list, err := parseChoices(r.Choices, r.Intent)
			if err != nil {
				bad("choices", r.Choices, err.Error())
			}
			s.Choices, s.List = list, ""
		}
		if r.Kind == "choice" && r.Delivery != was.Delivery {
			s.Delivery = choiceValue(s.Choices, t(r.Delivery))
		} else if r.Delivery == was.Delivery && was.Code != "" && base != nil {
			b, _ := base.Setting(was.Code)
			s.Delivery = b.Delivery
		}
		out = append(out, s)
	}
	return out, append(problems, doneTwice(out)...)
}

// doneTwice are settings that do the same, both of them: a wish would reach one only.
func doneTwice(settings []dialect.Setting) (problems []RowFault) {
	for i, s := range settings {
		what := cmp.Or(s.Drives, s.Serves)
		other := slices.IndexFunc(settings, func(x dialect.Setting) bool { return x.Code != s.Code && cmp.Or(x.Drives, x.Serves) == what })
		if what != "" && other >= 0 {
			problems = append(
				problems,
				RowFault{Row: i + 1, Field: "drives", Got: what, Want: "once, and " + settings[other].Code + " does it"},
			)
		}
	}
	return problems
}

func registerBase(t string) int {
	if strings.HasPrefix(strings.ToLower(strings.TrimSpace(t)), "0x") {
		return 16
	}
	return 10
}

// choiceValue is the number of a choice that is given by its number or its words.
func choiceValue(list []dialect.Choice, text string) string {
	for _, c := range list {
		if strings.EqualFold(c.Text, text) {
			return strconv.FormatInt(c.Value, 10)
		}
	}
	n, _, _ := strings.Cut(text, " ")
	return strings.TrimRight(n, ":=")
}

var choicePart = regexp.MustCompile(`^\s*(\d+)\s*(?:[=:.)–-]|\s)\s*(.+?)\s*$`)

// parseChoices reads "0 = off; 1 = on → network", in every common shape: parted by ; / | or new lines, number and words
// by = : - or a space. What a choice means is proposed from its words where no arrow says it.
func parseChoices(text, intent string) ([]dialect.Choice, error) {
	sep := ";"
	if m := choiceSplit.FindStringSubmatch(text); m != nil {
		sep = m[1]
	}
	parts := strings.Split(text, sep)
	if len(parts) == 1 && !strings.Contains(text, "→") && len(choiceStart.FindAllString(text, -1)) > 1 {
		parts = nil
		for _, p := range strings.Split(text, ",") {
			if last := len(parts) - 1; last >= 0 && choicePart.FindStringSubmatch(p) == nil {
				parts[last] += "," + p // "1: square, for fans"
				continue
			}
			parts = append(parts, p)
		}
	}
	var out []dialect.Choice
	for _, p := range parts {
		if strings.TrimSpace(p) == "" {
			continue
		}
		p, means, arrow := strings.Cut(p, "→")
		m := choicePart.FindStringSubmatch(p)
		if m == nil {
			return nil, fmt.Errorf("a number and its words, like 0 = off; 1 = on; %q is neither", strings.TrimSpace(p))
		}
		n, err := strconv.ParseInt(m[1], 10, 64)
		if err != nil {
			return nil, err
		}
		c := dialect.Choice{Value: n, Text: m[2], Means: strings.TrimSpace(means)}
		if !arrow && strings.HasPrefix(intent, "choice.") {
			c.Means = dialect.ProposeMeans(intent, c.Text)
		}
		if intent == "motor.power" && !arrow {
			c.Means = plainNumber(powerIn.FindString(strings.ReplaceAll(c.Text, ",", ".")))
		}
		out = append(out, c)
	}
	if len(out) == 0 {
		return nil, errors.New("a number and its words for each choice, like 0 = off; 1 = on")
	}
	return out, nil
}

// choiceSplit is what stands before a second choice; a bar inside what a choice means parts nothing.
var choiceSplit = regexp.MustCompile(`(\n|\||;| / )\s*\d`)
var choiceStart = regexp.MustCompile(`(?:^|,)\s*\d+\s*[=:]`)
var powerIn = regexp.MustCompile(`[0-9.]+`)

// plainNumber is a number as the file wants it: a point for a comma, no thousands, no unit behind it.
func plainNumber(t string) string {
	t = strings.TrimSpace(strings.ReplaceAll(strings.ReplaceAll(t, "−", "-"), "\u00a0", ""))
	if strings.Count(t, ",") == 1 && !strings.Contains(t, ".") {
		t = strings.Replace(t, ",", ".", 1)
	}
	if m := leadingNumber.FindString(t); m != "" {
		return strings.TrimSuffix(strings.TrimPrefix(m, "+"), ".")
	}
	return t
}

var leadingNumber = regexp.MustCompile(`^[+-]?\d+(?:\.\d*)?`)
