package grid

import (
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"

	"tingate/formats/csvx"
)

// parted tells whether a table's columns are parted by spaces only: none of the separators stands in most lines, and most lines have
// several words.
func parted(lines []string) bool {
	var full []string
	for _, l := range lines {
		if strings.TrimSpace(l) != "" {
			full = append(full, l)
		}
	}
	if len(full) < 2 || strings.Contains(full[0], "\t") {
		return false
	}
	if _, agree, of := csvx.Separator(strings.Join(full, "\n")); 2*agree > of {
		return false
	}
	wide, codes := 0, 0
	for _, l := range full {
		if gap.MatchString(strings.TrimSpace(l)) {
			wide++
		}
		if prose.MatchString(l) {
			codes++
		}
	}
	return 2*wide > len(full) || 2*codes > len(full)
}

var (
	gap = regexp.MustCompile(`\S {2,}\S`)
	// prose is a row whose columns were lost when it was copied: a code, words, and what follows from the first figure on.
	prose = regexp.MustCompile(`^\s*([A-Za-z]{0,4}[-.]?\d[\w.:-]*|[A-Z]{1,2}\d*)\s+(\pL[^\d]*?\pL\)?|\pL.*?\pL\)?)\s+` +
		`(\[?[+−-]?\d[\d.,]*\]?.*)$`)
	figure = regexp.MustCompile(`^\s*([+−-]?[\d.,]+\s*\S{0,4}?\s*(?:\.{2,3}|…|–|—|~|\bto\b|-)\s*[+−-]?[\d.,]+)\s*(.*)$`)
	choice = regexp.MustCompile(`^\s*\d+\s*[=:]\s*\pL`)
	last   = regexp.MustCompile(`^(.*?)\s*([+−-]?\d[\d.,]*)\s*$`)
)

// bySpaces goes by the gutters: columns of characters that stay empty in nearly every line. Where there are none, line by line.
func bySpaces(lines []string) (Grid, error) {
	g := Grid{Notes: []string{"The columns are parted by spaces only: look whether each cell stands where it belongs."}}
	cuts := gutters(lines)
	if len(cuts) < 2 {
		g.Columns = []string{"code", "name", "range", "unit", "default"}
	}
	for i, l := range lines {
		if strings.TrimSpace(l) == "" || rule([]string{strings.ReplaceAll(l, " ", "")}) {
			continue
		}
		var cells []string
		if len(cuts) >= 2 {
			cells = cutAt(l, cuts)
		} else {
			cells = byWords(l)
		}
		g.Rows = append(g.Rows, Row{fmt.Sprintf("line %d", i+1), cells})
	}
	return g, g.bounded()
}

// gutters are the columns of characters at which a new cell begins: nearly every line has two spaces or more before it.
func gutters(lines []string) []int {
	width, full := 0, 0
	var runes [][]rune
	for _, l := range lines {
		if strings.TrimSpace(l) == "" || !gap.MatchString(strings.TrimSpace(l)) && len(strings.Fields(l)) > 3 {
			continue // a sentence between tables says nothing of the columns
		}
		r := []rune(strings.ReplaceAll(l, "\t", "        "))
		runes = append(runes, r)
		width = max(width, len(r))
		full++
	}
	empty := func(col int) bool {
		n := 0
		for _, r := range runes {
			if col >= len(r) || r[col] == ' ' {
				n++
			}
		}
		return n*100 >= 95*full
	}
	var cuts []int
	run := 0
	for col := 0; col < width; col++ {
		if empty(col) {
			run++
			continue
		}
		if run >= 2 && col > run {
			cuts = append(cuts, col)
		}
		run = 0
	}
	return cuts
}

func cutAt(line string, cuts []int) []string {
	r := []rune(strings.ReplaceAll(line, "\t", "        "))
	var cells []string
	from := 0
	for _, c := range append(cuts, len(r)) {
		c = min(c, len(r))
		// A word that crosses the cut stays whole, in the cell in which it begins.
		for c < len(r) && c > from && r[c-1] != ' ' && r[c] != ' ' {
			c++
		}
		cells = append(cells, strings.TrimSpace(string(r[from:max(from, c)])))
		from = max(from, c)
	}
	return cells
}

// byWords parts a line into code, name, range, unit and delivery value, or choices, as it can; a line that begins with no code is
// one cell more of the row before.
func byWords(line string) []string {
	m := prose.FindStringSubmatch(line)
	if m == nil || utf8.RuneCountInString(m[2]) < 2 {
		if t := strings.TrimSpace(line); choice.MatchString(t) {
			return []string{"", "", t, "", ""}
		}
		return []string{"", strings.TrimSpace(line), "", "", ""}
	}
	rest := strings.TrimSpace(m[3])
	out := []string{m[1], m[2], rest, "", ""}
	switch f := figure.FindStringSubmatch(rest); {
	case choice.MatchString(rest):
		if l := last.FindStringSubmatch(rest); l != nil && !choice.MatchString(l[2]) && strings.ContainsAny(l[1], "=:") {
			out[2], out[4] = l[1], l[2]
		}
	case f != nil:
		out[2] = f[1]
		if l := last.FindStringSubmatch(f[2]); l != nil {
			out[3], out[4] = l[1], l[2]
		} else {
			out[3] = f[2]
		}
	default:
		if l := last.FindStringSubmatch(rest); l != nil && l[1] == "" {
			out[2], out[4] = "", l[2]
		}
	}
	return out
}
