package grid

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"
)

// What a workbook may hold once unpacked: a settings list has a few hundred kilobytes.
const (
	mostUnpacked = 48 << 20
	mostSheet    = 24 << 20
)

// workbook reads one sheet. Formulas are not worked out: the figures last seen are taken, and said so. Macros are never looked at.
func workbook(raw []byte, want string) (g Grid, err error) {
	// The reader has met files that it does not bear; whoever sends one gets a word, not a broken connection.
	defer func() {
		if p := recover(); p != nil {
			g, err = Grid{}, fmt.Errorf("got a workbook that cannot be read (%v): want .xlsx as a spreadsheet saves it", p)
		}
	}()
	f, err := excelize.OpenReader(bytes.NewReader(raw), excelize.Options{UnzipSizeLimit: mostUnpacked, UnzipXMLSizeLimit: mostSheet})
	if err != nil {
		return Grid{}, fmt.Errorf("got a workbook that cannot be read (%w): want .xlsx as a spreadsheet saves it", err)
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	rows := map[string][][]string{}
	for _, name := range f.GetSheetList() {
		shown, err := f.GetSheetVisible(name)
		if err != nil {
			return Grid{}, fmt.Errorf("sheet %s: %w", name, err)
		}
		if rows[name], err = readSheet(f, name); err != nil {
			return Grid{}, fmt.Errorf("sheet %s: %w", name, err)
		}
		n := 0
		for _, r := range rows[name] {
			if strings.TrimSpace(strings.Join(r, "")) != "" {
				n++
			}
		}
		g.Sheets = append(g.Sheets, Sheet{name, n, !shown})
	}
	if g.Sheet, err = g.choose(want); err != nil {
		return Grid{}, err
	}
	for i, r := range rows[g.Sheet] {
		g.Rows = append(g.Rows, Row{fmt.Sprintf("sheet %s, row %d", g.Sheet, i+1), r})
	}
	g.notes(f, bytes.Contains(raw, []byte("vbaProject.bin")))
	if g.Spans, err = spans(f, g.Sheet); err != nil {
		return Grid{}, fmt.Errorf("sheet %s: %w", g.Sheet, err)
	}
	return g, g.bounded()
}

func readSheet(f *excelize.File, name string) ([][]string, error) {
	it, err := f.Rows(name)
	if err != nil {
		return nil, err
	}
	var out [][]string
	for it.Next() {
		if len(out) == MostRows {
			return nil, errors.Join(fmt.Errorf("got more than %d rows, want at most that many", MostRows), it.Close())
		}
		cells, err := it.Columns()
		if err != nil {
			return nil, errors.Join(err, it.Close())
		}
		for i := range cells {
			cells[i] = strings.TrimSpace(cells[i])
		}
		out = append(out, cells)
	}
	return out, errors.Join(it.Error(), it.Close())
}

// choose takes the sheet that is asked for, or of those that are shown the one with most rows.
func (g Grid) choose(want string) (string, error) {
	if want != "" {
		if !slices.ContainsFunc(g.Sheets, func(s Sheet) bool { return s.Name == want }) {
			var names []string
			for _, s := range g.Sheets {
				names = append(names, s.Name)
			}
			return "", fmt.Errorf("sheet: got %s, want one of %s", want, strings.Join(names, ", "))
		}
		return want, nil
	}
	best, most := "", 0
	for _, s := range g.Sheets {
		if !s.Hidden && s.Rows > most {
			best, most = s.Name, s.Rows
		}
	}
	if best == "" {
		return "", errors.New("got a workbook without a row on a sheet that is shown, want a table")
	}
	return best, nil
}

func (g *Grid) notes(f *excelize.File, macros bool) {
	var hidden []string
	for _, s := range g.Sheets {
		if s.Hidden && s.Rows > 0 {
			hidden = append(hidden, s.Name)
		}
	}
	if hidden != nil {
		g.Notes = append(g.Notes, "Hidden in the workbook, and read only if you choose it: "+strings.Join(hidden, ", ")+".")
	}
	if macros {
		g.Notes = append(g.Notes, "The workbook has macros. They were not run.")
	}
	var formulas []string
	for i, r := range g.Rows {
		for k := range r.Cells {
			at, err := excelize.CoordinatesToCellName(k+1, i+1)
			if err != nil {
				continue
			}
			if text, err := f.GetCellFormula(g.Sheet, at); err == nil && text != "" {
				formulas = append(formulas, at)
			}
		}
	}
	if n := len(formulas); n > 0 {
		g.Notes = append(g.Notes, fmt.Sprintf("Worked out by formulas, taken as last saved: %s%s. Compare them with the manual.",
			strings.Join(formulas[:min(n, 8)], ", "), map[bool]string{true: fmt.Sprintf(" and %d more", n-8)}[n > 8]))
	}
}

// spans are the merged cells; what the file says of them need not be true.
func spans(f *excelize.File, sheet string) ([]Span, error) {
	list, err := f.GetMergeCells(sheet, true)
	if err != nil {
		return nil, err
	}
	var out []Span
	for _, m := range list {
		c1, r1, err1 := excelize.CellNameToCoordinates(m.GetStartAxis())
		c2, r2, err2 := excelize.CellNameToCoordinates(m.GetEndAxis())
		if err1 == nil && err2 == nil && c2 >= c1 && r2 >= r1 {
			out = append(out, Span{r1 - 1, c1 - 1, r2 - r1 + 1, c2 - c1 + 1})
		}
	}
	return out, nil
}
