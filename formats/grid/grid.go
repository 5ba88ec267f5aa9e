// Package grid reads a table out of whatever people have it in: a list with separators, a workbook, a table copied out of a manual's text.
// What is in it stands as it was, each row with its place, so that a person can look it up again. Nothing in a file is ever run.
package grid

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"tingate/formats/csvx"
)

// Bounds: what is longer is refused, not cut off.
const (
	MostRows  = 10000 // each is looked at for what it could carry: two seconds
	MostCells = 200   // in a row
)

// Grid is a table as read.
type Grid struct {
	Rows  []Row
	Spans []Span // cells that were merged
	// Of a workbook: its sheets, and the one that was read.
	Sheets []Sheet
	Sheet  string
	// Columns are what the cells hold, where the reader had to part the lines by that; empty: by what stands between them.
	Columns []string
	// Notes are what a person is to know of how it was read: formulas, hidden sheets, macros.
	Notes []string
}

// Row is a line of a table with its place in the file: "line 12", "sheet Settings, row 12".
type Row struct {
	Place string
	Cells []string
}

// Span is a cell that covers others, by rows and columns from 0; what it covers is empty.
type Span struct{ Row, Col, Rows, Cols int }

// Sheet is one of a workbook.
type Sheet struct {
	Name   string `json:"name"`
	Rows   int    `json:"rows" doc:"with something in them"`
	Hidden bool   `json:"hidden"`
}

// Read reads a table. sheet is the one of a workbook; empty: the one that has most rows, of those that are shown.
func Read(raw []byte, sheet string) (Grid, error) {
	switch {
	case bytes.HasPrefix(raw, []byte("PK\x03\x04")):
		return workbook(raw, sheet)
	case bytes.HasPrefix(raw, []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")):
		return Grid{}, fmt.Errorf("got a workbook that is protected by a password, or of the old kind (.xls): want .xlsx without a " +
			"password, or CSV; open it in a spreadsheet and save it so")
	case bytes.HasPrefix(raw, []byte("%PDF")):
		return Grid{}, fmt.Errorf("got a PDF: copy its table, and paste the text")
	}
	return fromText(raw)
}

// fromText reads a list with separators; where none stands in the lines, a table whose columns are parted by spaces.
func fromText(raw []byte) (Grid, error) {
	s := strings.ReplaceAll(strings.ReplaceAll(csvx.Text(raw), "\r\n", "\n"), "\r", "\n")
	if lines := strings.Split(s, "\n"); parted(lines) {
		return bySpaces(lines)
	}
	t, err := csvx.Read(raw, func(string) bool { return false })
	if err != nil {
		return Grid{}, err
	}
	g := Grid{}
	for i, r := range t.Rows {
		if rule(r) {
			continue
		}
		g.Rows = append(g.Rows, Row{fmt.Sprintf("line %d", t.Lines[i]), framed(r)})
	}
	return g, g.bounded()
}

// framed takes off the empty cells that bars at both ends of a line make.
func framed(cells []string) []string {
	if n := len(cells); n > 2 && cells[0] == "" && cells[n-1] == "" {
		return cells[1 : n-1]
	}
	return cells
}

// rule tells whether a row only draws a line beneath headings: --- | :---: | ---.
func rule(cells []string) bool {
	t := strings.Join(cells, "")
	return strings.Count(t, "-") >= 3 && strings.Trim(t, "-:=+ ") == ""
}

func (g Grid) bounded() error {
	if len(g.Rows) > MostRows {
		return fmt.Errorf("got %d rows, want at most %d", len(g.Rows), MostRows)
	}
	if i := slices.IndexFunc(g.Rows, func(r Row) bool { return len(r.Cells) > MostCells }); i >= 0 {
		return fmt.Errorf("%s: got %d cells, want at most %d", g.Rows[i].Place, len(g.Rows[i].Cells), MostCells)
	}
	return nil
}
