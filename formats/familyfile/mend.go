package familyfile

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"tingate/formats/grid"
)

// mended is a row of a list with what belonged to it, and what was read from where.
type mended struct {
	place string
	cells []string
	group string   // heading under which it stands
	read  []string // what was put together, in words
}

var (
	choiceCell = regexp.MustCompile(`^\d+\s*[=:.)–-]\s*\S`)
	codeFirst  = regexp.MustCompile(`^([A-Za-z]{0,6}[-._]?\d[\w.:/-]*)\s+[-–:]?\s*(\pL.*)$`)
	lowerFirst = regexp.MustCompile(`^\p{Ll}`)
)

// mend puts together what a list has parted: choices on rows of their own, names that go on, headings of groups, a code and a name
// that share a cell. What is no row of its own is told in Mended.
func (l *List) mend(g grid.Grid, first int) []mended {
	var out []mended
	group := ""
	for i, r := range g.Rows[first:] {
		m := mended{place: r.Place, cells: slices.Clone(r.Cells), group: group}
		l.part(&m)
		full := l.full(m.cells)
		switch code := l.cell(m.cells, "code"); {
		case len(full) > 0 && len(l.header) > 0 && slices.Equal(m.cells, l.header):
			l.Left = append(l.Left, r.Place+": the headings again")
		case len(full) == 1 && l.titles(m.cells, full[0], g.Spans, first+i):
			group = m.cells[full[0]]
			l.Mended = append(l.Mended, fmt.Sprintf("%s: taken for the heading of a group: %s", r.Place, group))
		case code == "" && len(full) > 0 && len(out) > 0 && l.goesOn(m.cells, full):
			l.join(&out[len(out)-1], m, full)
			l.Mended = append(l.Mended, fmt.Sprintf("%s: joined to %s: %s", r.Place, out[len(out)-1].place, short(m.cells)))
		default:
			l.fromAbove(&m, out, g.Spans, first+i)
			out = append(out, m)
		}
	}
	return out
}

func (l *List) cell(cells []string, role string) string {
	if i, ok := l.Mapping[role]; ok && i < len(cells) {
		return strings.TrimSpace(cells[i])
	}
	return ""
}

// full are the columns that have something.
func (l *List) full(cells []string) []int {
	var out []int
	for i, c := range cells {
		if strings.TrimSpace(c) != "" {
			out = append(out, i)
		}
	}
	return out
}

// part takes a code and a name apart that share a cell.
func (l *List) part(m *mended) {
	code, ok := l.Mapping["code"]
	name, named := l.Mapping["name"]
	if !ok || code >= len(m.cells) || named && (name == code || name < len(m.cells) && strings.TrimSpace(m.cells[name]) != "") {
		return
	}
	p := codeFirst.FindStringSubmatch(m.cells[code])
	if p == nil {
		return
	}
	m.read = append(m.read, fmt.Sprintf("code and name: from one cell, “%s”", m.cells[code]))
	m.cells[code] = p[1]
	if !named { // a column of its own, behind all others
		name = len(l.Columns)
		l.Columns, l.Mapping["name"] = append(l.Columns, fmt.Sprintf("column %d", name+1)), name
	}
	for name >= len(m.cells) {
		m.cells = append(m.cells, "")
	}
	m.cells[name] = p[2]
}

// titles tells whether a row's only cell is the heading of a group: words that begin large, over several columns, or where a code would
// stand but is none.
func (l *List) titles(cells []string, at int, spans []grid.Span, row int) bool {
	t := strings.TrimSpace(cells[at])
	if choiceCell.MatchString(t) || lowerFirst.MatchString(t) {
		return false
	}
	if slices.ContainsFunc(spans, func(s grid.Span) bool { return s.Row == row && s.Col == at && s.Cols >= 3 }) {
		return true
	}
	code, name := l.Mapping["code"], l.Mapping["name"]
	words := len(strings.Fields(t))
	return at == code && words >= 2 && !codeFirst.MatchString(t) && len(l.Mapping) > 2 || at == name && at != code && words >= 2 &&
		len(l.Mapping) > 2
}

// goesOn tells whether a row without a code belongs to the one before: choices, the rest of a name, a range on two lines.
func (l *List) goesOn(cells []string, full []int) bool {
	for _, i := range full {
		role := ""
		for r, c := range l.Mapping {
			if c == i {
				role = r
			}
		}
		t := strings.TrimSpace(cells[i])
		if choiceCell.MatchString(t) || role == "name" && lowerFirst.MatchString(t) || role == "range" || role == "choices" {
			return true
		}
	}
	return false
}

func (l *List) join(to *mended, from mended, full []int) {
	for _, i := range full {
		for i >= len(to.cells) {
			to.cells = append(to.cells, "")
		}
		sep := " "
		if choiceCell.MatchString(from.cells[i]) {
			sep = "\n"
		}
		if to.cells[i] == "" {
			sep = ""
		}
		to.cells[i] += sep + from.cells[i]
		what := l.Columns[min(i, len(l.Columns)-1)]
		to.read = append(to.read, fmt.Sprintf("%s: with “%s”, from %s", what, from.cells[i], from.place))
	}
}

// fromAbove gives a row the group of a merged cell that reaches down to it.
func (l *List) fromAbove(m *mended, above []mended, spans []grid.Span, row int) {
	col, ok := l.Mapping["group"]
	if !ok || l.cell(m.cells, "group") != "" || len(above) == 0 {
		return
	}
	for _, s := range spans {
		if s.Col == col && s.Row < row && row < s.Row+s.Rows {
			for col >= len(m.cells) {
				m.cells = append(m.cells, "")
			}
			m.cells[col] = l.cell(above[len(above)-1].cells, "group")
			m.read = append(m.read, "group: from a merged cell")
			return
		}
	}
}
