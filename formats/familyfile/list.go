package familyfile

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"tingate/core/drivefile"
	"tingate/formats/grid"
)

// Roles of the columns of a settings list, in the order in which a screen offers them.
var ColumnRoles = []string{"code", "name", "unit", "min", "max", "range", "step", "delivery", "choices", "register", "type", "scale",
	"group", "short", "running", "access"}

// columnWords are the headings by which a column is known.
var columnWords = map[string]*regexp.Regexp{
	"code":     regexp.MustCompile(`^(code|no\.?|nr\.?|number|id|index|parameter|par\.?|setting|p-?no\.?)$`),
	"name":     regexp.MustCompile(`^(name|description|title|function|designation|parameter name|text|meaning)$`),
	"unit":     regexp.MustCompile(`^(unit|units|dimension|dim\.?)$`),
	"min":      regexp.MustCompile(`^(min\.?|minimum|low|from|lower)$`),
	"max":      regexp.MustCompile(`^(max\.?|maximum|high|to|upper)$`),
	"range":    regexp.MustCompile(`range|limits|values from`),
	"step":     regexp.MustCompile(`^(step|resolution|increment|min\.? unit)$`),
	"delivery": regexp.MustCompile(`default|deliver(y|ed)|factory|initial|preset value|as shipped|ex works|def\.?$`),
	"choices":  regexp.MustCompile(`choice|option|selection|enum|values$`),
	"register": regexp.MustCompile(`register|modbus|address`),
	"type":     regexp.MustCompile(`^(type|data type|format|word length)$`),
	"scale":    regexp.MustCompile(`^(scale|scaling|factor|multiplier|gain)$`),
	"group":    regexp.MustCompile(`group|menu|page|category|chapter`),
	"short":    regexp.MustCompile(`short|keypad|display|abbrev`),
	"running":  regexp.MustCompile(`running|run.?change|online|while run`),
	"access":   regexp.MustCompile(`access|level|^r/w$`),
}

// heads tells whether a cell is the heading of a column, whatever stands in brackets behind it.
func heads(cell, role string) bool {
	c := strings.ToLower(strings.TrimSpace(cell))
	bare := strings.TrimSpace(bracketed.ReplaceAllString(c, ""))
	return columnWords[role].MatchString(c) || bare != "" && columnWords[role].MatchString(bare)
}

var bracketed = regexp.MustCompile(`\s*[\[(][^\])]*[\])]`)

// List is a settings list as read: its columns, what each seems to hold, and the draft that follows.
type List struct {
	Columns  []string       `json:"columns" doc:"headings; column n where the list has none"`
	Mapping  map[string]int `json:"mapping" doc:"role to column, from 0"`
	Preview  [][]string     `json:"preview" doc:"the first rows as read"`
	Total    int            `json:"total"`
	Left     []string       `json:"left" doc:"rows that were left out, with the reason"`
	Mended   []string       `json:"mended" doc:"rows that were joined to the one before, or taken for the heading of a group"`
	Notes    []string       `json:"notes" doc:"what is to be known of how the file was read"`
	Sheets   []grid.Sheet   `json:"sheets,omitempty" doc:"of a workbook"`
	Sheet    string         `json:"sheet,omitempty" doc:"the one that was read"`
	Counting string         `json:"counting,omitempty" enum:"as-sent,from-1,from-40001,from-400001," doc:"of register numbers; empty: the list has none"`
	Device   string         `json:"device,omitempty" doc:"of a device description: what it describes; such a list has no columns"`
	Draft    Draft          `json:"draft"`

	header []string
	has    map[string]string // intents that are taken, by whom
	does   map[string]bool   // what is done by a setting already
	points bool              // numbers with a decimal point stand in the list
}

// Asked is how a person wants a list to be read; the zero value: as it is proposed.
type Asked struct {
	Mapping  map[string]int
	Sheet    string
	Counting string
}

const previewRows = 6

// FromCSV reads a settings list in any common shape. mapping says which column holds what; nil proposes one.
func FromCSV(raw []byte, mapping map[string]int) (List, error) {
	return FromList(raw, Asked{Mapping: mapping})
}

// FromList reads a settings list: with separators, a workbook, or a table copied out of a text. Units, kinds and roles are proposed from
// the names; what was read from somewhere else than a cell of its own stands in each row's Read.
func FromList(raw []byte, ask Asked) (List, error) {
	if len(raw) > drivefile.MaxDialect {
		return List{}, fmt.Errorf("list: got %d bytes, want at most %d", len(raw), drivefile.MaxDialect)
	}
	g, err := grid.Read(raw, ask.Sheet)
	if err != nil {
		return List{}, err
	}
	l := List{Mapping: ask.Mapping, Left: []string{}, Mended: []string{}, Notes: g.Notes, Sheets: g.Sheets, Sheet: g.Sheet,
		Draft: Draft{Version: "1", Rows: []DraftRow{}, Parts: partsIn(blank())}, has: map[string]string{}}
	if l.Notes == nil {
		l.Notes = []string{}
	}
	first := l.findHeader(g.Rows)
	if g.Columns != nil {
		l.header = g.Columns
	}
	if err := l.columns(g.Rows[first:]); err != nil {
		return List{}, err
	}
	if err := l.count(g.Rows[first:], ask.Counting); err != nil {
		return List{}, err
	}
	for _, r := range l.mend(g, first) {
		row, why := l.row(r)
		if why != "" {
			l.Left = append(l.Left, r.place+": "+why)
			continue
		}
		if other, ok := l.has[row.Intent]; ok && row.Intent != "" {
			row.Why, row.Intent, row.Convention, row.Sure = "seems to carry the same as "+other, "", "", false
		}
		l.has[row.Intent] = row.Code
		l.Draft.Rows = append(l.Draft.Rows, row)
	}
	return l, nil
}

// findHeader looks for the headings: a row of the first thirty in which two cells or more name columns, or the first one of all with one
// such cell. It says where the rows begin. Titles above are left out by name.
func (l *List) findHeader(rows []grid.Row) int {
	for i, r := range rows[:min(30, len(rows))] {
		known := map[string]bool{}
		for _, c := range r.Cells {
			for _, role := range ColumnRoles {
				if heads(c, role) {
					known[role] = true
					break
				}
			}
		}
		if len(known) < 2 && (i > 0 || len(known) == 0) {
			continue
		}
		l.header = r.Cells
		for _, above := range rows[:i] {
			if strings.TrimSpace(strings.Join(above.Cells, "")) == "" {
				continue
			}
			l.Left = append(l.Left, fmt.Sprintf("%s: above the headings; %q", above.Place, short(above.Cells)))
		}
		l.Total = len(rows) - i - 1
		return i + 1
	}
	l.Total = len(rows)
	return 0
}

func short(cells []string) string {
	t := strings.Join(strings.Fields(strings.Join(cells, " ")), " ")
	if r := []rune(t); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return t
}

// columns names the columns, proposes what each holds, and looks whether a given mapping can be.
func (l *List) columns(rows []grid.Row) error {
	width := len(l.header)
	for _, r := range rows {
		width = max(width, len(r.Cells))
	}
	l.Columns, l.Preview = make([]string, width), [][]string{}
	for i := range l.Columns {
		l.Columns[i] = fmt.Sprintf("column %d", i+1)
		if i < len(l.header) && l.header[i] != "" {
			l.Columns[i] = l.header[i]
		}
	}
	for _, r := range rows[:min(previewRows, len(rows))] {
		l.Preview = append(l.Preview, r.Cells)
	}
	if l.Mapping == nil {
		l.Mapping = l.proposeMapping(rows)
	}
	for role, col := range l.Mapping {
		if !slices.Contains(ColumnRoles, role) || col < 0 || col >= width {
			return fmt.Errorf("mapping: got %s in column %d, want one of %s in columns 0 to %d", role, col,
				strings.Join(ColumnRoles, ", "), width-1)
		}
	}
	for _, r := range rows {
		l.points = l.points || slices.ContainsFunc(r.Cells, pointed.MatchString)
	}
	return nil
}

var pointed = regexp.MustCompile(`^[+-]?\d+\.\d+\s*\D{0,6}$`)

// proposeMapping goes by the headings; without any, by what the columns hold. A list of registers has no codes: its numbers stand in.
func (l *List) proposeMapping(rows []grid.Row) map[string]int {
	m := map[string]int{}
	taken := map[int]bool{}
	for _, role := range ColumnRoles {
		for i, h := range l.header {
			if !taken[i] && heads(h, role) {
				m[role], taken[i] = i, true
				break
			}
		}
	}
	for i, role := range []string{"code", "name"} {
		if _, ok := m[role]; !ok && len(rows) > 0 && i < len(rows[0].Cells) && !taken[i] {
			m[role], taken[i] = i, true
		}
	}
	if r, ok := m["register"]; ok {
		if _, named := m["code"]; !named {
			m["code"] = r
		}
	}
	return m
}

// Countings are the ways in which lists count registers, with what is taken off for the number that goes over the line.
var Countings = map[string]int{"as-sent": 0, "from-1": 1, "from-40001": 40001, "from-400001": 400001}

// count works out how the list counts its registers. Five or six digits with a leading four are holding registers by their place in the
// old numbering (Modbus application protocol, 4.4: what goes over the line counts from 0).
func (l *List) count(rows []grid.Row, asked string) error {
	col, has := l.Mapping["register"]
	if _, known := Countings[asked]; asked != "" && !known {
		return fmt.Errorf("counting: got %s, want as-sent, from-1, from-40001 or from-400001", asked)
	}
	if !has {
		return nil
	}
	l.Counting = "as-sent"
	low, high := 1<<30, 0
	for _, r := range rows {
		if col < len(r.Cells) {
			if n, err := strconv.Atoi(strings.TrimSpace(r.Cells[col])); err == nil {
				low, high = min(low, n), max(high, n)
			}
		}
	}
	switch {
	case asked != "":
		l.Counting = asked
	case low >= 400001 && high <= 465536:
		l.Counting = "from-400001"
	case low >= 40001 && high <= 49999:
		l.Counting = "from-40001"
		l.Notes = append(
			l.Notes,
			"The registers are taken for places counted from 40001: register 40001 goes over the line as 0. Look whether the manual means "+
				"that.",
		)
	}
	return nil
}
