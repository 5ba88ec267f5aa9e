package familyfile

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/formats/csvx"
)

// Roles of the columns of a settings list, in the order in which a screen offers them.
var ColumnRoles = []string{"code", "name", "unit", "min", "max", "range", "step", "delivery", "choices", "register", "group", "short",
	"running", "access"}

// columnWords are the headings by which a column is known.
var columnWords = map[string]*regexp.Regexp{
	"code":     regexp.MustCompile(`^(code|no\.?|nr\.?|number|id|index|parameter|par\.?|setting|p-?no\.?)$`),
	"name":     regexp.MustCompile(`^(name|description|title|function|designation|parameter name|text|meaning)$`),
	"unit":     regexp.MustCompile(`^(unit|units|dimension|dim\.?)$`),
	"min":      regexp.MustCompile(`^(min\.?|minimum|low|from|lower)$`),
	"max":      regexp.MustCompile(`^(max\.?|maximum|high|to|upper)$`),
	"range":    regexp.MustCompile(`range|limits|values from`),
	"step":     regexp.MustCompile(`^(step|resolution|increment|min\.? unit)$`),
	"delivery": regexp.MustCompile(`default|delivery|factory|initial|preset value|def\.?$`),
	"choices":  regexp.MustCompile(`choice|option|selection|enum|values$`),
	"register": regexp.MustCompile(`register|modbus|address`),
	"group":    regexp.MustCompile(`group|menu|page|category|chapter`),
	"short":    regexp.MustCompile(`short|keypad|display|abbrev`),
	"running":  regexp.MustCompile(`running|run.?change|online|while run`),
	"access":   regexp.MustCompile(`access|level`),
}

// List is a settings list as read: its columns, what each seems to hold, and the draft that follows.
type List struct {
	Columns []string       `json:"columns" doc:"headings; column n where the list has none"`
	Mapping map[string]int `json:"mapping" doc:"role to column, from 0"`
	Preview [][]string     `json:"preview" doc:"the first rows as read"`
	Total   int            `json:"total"`
	Left    []string       `json:"left" doc:"rows that were left out, with the reason"`
	Draft   Draft          `json:"draft"`
}

const previewRows = 6

// FromCSV reads a settings list in any common shape. mapping says which column holds what; nil proposes one. Units,
// kinds and roles are proposed from the names.
func FromCSV(raw []byte, mapping map[string]int) (List, error) {
	if len(raw) > drivefile.MaxDialect {
		return List{}, fmt.Errorf("list: got %d bytes, want at most %d", len(raw), drivefile.MaxDialect)
	}
	heading := func(c string) bool {
		c = strings.ToLower(strings.TrimSpace(c))
		for _, w := range columnWords {
			if w.MatchString(c) {
				return true
			}
		}
		return false
	}
	t, err := csvx.Read(raw, heading)
	if err != nil {
		return List{}, err
	}
	width := len(t.Header)
	for _, r := range t.Rows {
		width = max(width, len(r))
	}
	l := List{Columns: make([]string, width), Mapping: mapping, Total: len(t.Rows), Left: []string{},
		Preview: t.Rows[:min(previewRows, len(t.Rows))]}
	for i := range l.Columns {
		l.Columns[i] = fmt.Sprintf("column %d", i+1)
		if i < len(t.Header) && t.Header[i] != "" {
			l.Columns[i] = t.Header[i]
		}
	}
	if l.Preview == nil {
		l.Preview = [][]string{}
	}
	if l.Mapping == nil {
		l.Mapping = proposeMapping(t)
	}
	for role, col := range l.Mapping {
		if !slices.Contains(ColumnRoles, role) || col < 0 || col >= width {
			return List{}, fmt.Errorf("mapping: got %s in column %d, want one of %s in columns 0 to %d", role, col,
				strings.Join(ColumnRoles, ", "), width-1)
		}
	}
	l.Draft = Draft{Version: "1", Rows: []DraftRow{}}
	has := map[string]string{}
	for i, r := range t.Rows {
		row, why := l.row(r)
		if why != "" {
			l.Left = append(l.Left, fmt.Sprintf("row %d: %s", i+1, why))
			continue
		}
		if other, ok := has[row.Intent]; ok && row.Intent != "" {
			row.Why, row.Intent, row.Convention, row.Sure = "seems to carry the same as "+other, "", "", false
		}
		has[row.Intent] = row.Code
		l.Draft.Rows = append(l.Draft.Rows, row)
	}
	return l, nil
}

// proposeMapping goes by the headings; without any, by what the columns hold.
func proposeMapping(t csvx.Table) map[string]int {
	m := map[string]int{}
	taken := map[int]bool{}
	for _, role := range ColumnRoles {
		for i, h := range t.Header {
			if !taken[i] && columnWords[role].MatchString(strings.ToLower(strings.TrimSpace(h))) {
				m[role], taken[i] = i, true
				break
			}
		}
	}
	if len(t.Rows) > 0 {
		for i, role := range []string{"code", "name"} {
			if _, ok := m[role]; !ok && i < len(t.Rows[0]) && !taken[i] {
				m[role], taken[i] = i, true
			}
		}
	}
	return m
}

var rangeEnds = regexp.MustCompile(`^\s*([+-−]?[\d.,]+)\s*\S{0,6}?\s*(?:\.{2,3}|…|–|—|~|to|-|/)\s*([+-−]?[\d.,]+)`)
var groupPart = regexp.MustCompile(`^(.+?)[.:/_-][^.:/_-]+$|^([A-Za-z]+|\d+)`)

func (l List) row(cells []string) (DraftRow, string) {
	get := func(role string) string {
		if i, ok := l.Mapping[role]; ok && i < len(cells) {
			return strings.TrimSpace(cells[i])
		}
		return ""
	}
	r := DraftRow{Code: get("code"), Name: get("name"), Short: get("short"), Unit: dialect.ProposeUnit(get("unit")), Group: get("group"),
		Register: get("register"),
		Step:     plainNumber(get("step")), Min: plainNumber(get("min")), Max: plainNumber(get("max")), Delivery: get("delivery"),
		Choices: get("choices")}
	if strings.Join(cells, "") == "" {
		return r, "empty"
	}
	if r.Code == "" {
		return r, fmt.Sprintf("no code; %q", strings.Join(cells, " "))
	}
	if r.Name == "" {
		r.Name = r.Code
	}
	if m := rangeEnds.FindStringSubmatch(get("range")); m != nil && r.Min == "" && r.Max == "" {
		r.Min, r.Max = plainNumber(m[1]), plainNumber(m[2])
	} else if r.Choices == "" && get("range") != "" && m == nil {
		r.Choices = get("range") // lists often put the choices where numbers have their range
	}
	if r.Group == "" {
		if m := groupPart.FindStringSubmatch(r.Code); m != nil {
			r.Group = m[1] + m[2]
		}
	}
	r.Running = yes(get("running"))
	r.Full = regexp.MustCompile(`(?i)full|expert|advanced|service|high`).MatchString(get("access"))
	l.kind(&r)
	p := dialect.Propose(r.Name, r.Unit, r.Kind)
	r.Intent, r.Convention, r.Sure, r.Why, r.Motion, r.Protects = p.Intent, p.Convention, p.Sure, p.Why, p.Motion, p.Protects
	if r.Kind == "choice" {
		r = withMeans(r)
	}
	return r, ""
}

// kind works out what sort of setting it is, and fills what a number lacks: the step from its decimals.
func (l List) kind(r *DraftRow) {
	if r.Choices != "" {
		if list, err := parseChoices(r.Choices, ""); err == nil && len(list) > 0 {
			r.Kind = "choice"
			r.Delivery = choiceValue(list, r.Delivery)
			if r.Delivery == "" {
				r.Delivery = fmt.Sprint(list[0].Value)
				r.Why = "the list gives no delivery value: the first choice stands here"
			}
			r.Step, r.Min, r.Max = "", "", ""
			return
		}
	}
	number := plainNumber(r.Delivery)
	if number == "" {
		number = r.Min
	}
	if !regexp.MustCompile(`^[+-]?\d`).MatchString(number) {
		r.Kind = "text"
		if r.Max == "" {
			r.Max = "16"
		}
		r.Step, r.Min = "", ""
		return
	}
	r.Kind, r.Delivery, r.Choices = "number", number, ""
	if r.Step == "" {
		r.Step = "1"
		decimals := 0
		for _, t := range []string{r.Delivery, r.Min, r.Max} {
			if _, frac, ok := strings.Cut(t, "."); ok {
				decimals = max(decimals, len(frac))
			}
		}
		if decimals > 0 {
			r.Step = "0." + strings.Repeat("0", decimals-1) + "1"
		}
	}
}

func yes(t string) bool {
	return regexp.MustCompile(`(?i)^(y|yes|x|true|1|ja|oui|on)$`).MatchString(t)
}

// withMeans writes the proposed meaning behind each choice, so that a person sees and can change it.
func withMeans(r DraftRow) DraftRow {
	list, err := parseChoices(r.Choices, r.Intent)
	if err != nil {
		return r
	}
	s := dialect.Setting{Choices: list}
	r.Choices = rowOf(&s).Choices
	if strings.HasPrefix(r.Intent, "choice.") && !slices.ContainsFunc(list, func(c dialect.Choice) bool { return c.Means != "" }) {
		r.Sure, r.Why = false, "no choice's words tell what it means: write it behind an arrow"
	}
	return r
}
