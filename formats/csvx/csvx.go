// Package csvx reads comma-separated lists in every common shape and writes them so that no cell can act as a formula.
package csvx

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"
)

// Error names the line and what was expected.
type Error struct {
	Line      int
	Got, Want string
}

func (e *Error) Error() string { return fmt.Sprintf("line %d: got %q, want %s", e.Line, e.Got, e.Want) }

// Table is a list with its header, if it has one.
type Table struct {
	Header []string
	Rows   [][]string
	Lines  []int // of each row: the line on which it begins, from 1
}

// Text decodes UTF-8 with or without byte-order mark, UTF-16 with one, and falls back to Latin-1.
func Text(raw []byte) string {
	switch {
	case bytes.HasPrefix(raw, []byte("\xef\xbb\xbf")):
		raw = raw[3:]
	case bytes.HasPrefix(raw, []byte("\xff\xfe")), bytes.HasPrefix(raw, []byte("\xfe\xff")):
		big := raw[0] == 0xfe
		var u []uint16
		for i := 2; i+1 < len(raw); i += 2 {
			if big {
				u = append(u, uint16(raw[i])<<8|uint16(raw[i+1]))
			} else {
				u = append(u, uint16(raw[i+1])<<8|uint16(raw[i]))
			}
		}
		return string(utf16.Decode(u))
	}
	if utf8.Valid(raw) {
		return string(raw)
	}
	r := make([]rune, len(raw))
	for i, b := range raw {
		r[i] = rune(b)
	}
	return string(r)
}

// Separator is the one of ; tab , | that splits the first lines into the same number of cells, most of them; agree is how many of them do
// (0: none of the four stands in the first line).
func Separator(s string) (sep rune, agree, lines int) {
	first := strings.SplitN(s, "\n", 12)
	best, bestScore := ',', 0
	for _, sep := range ";\t,|" {
		n := strings.Count(first[0], string(sep))
		if n == 0 {
			continue
		}
		score := 1
		for _, l := range first[1:] {
			if strings.Count(l, string(sep)) == n {
				score++
			}
		}
		// A decimal comma stands in many cells; a real separator wins by coming first in the list on a tie.
		if score > bestScore {
			best, bestScore = sep, score
		}
	}
	return best, bestScore, len(first)
}

// Read reads a list. known tells whether a cell of the first line is a column name; when none is, there is no header.
func Read(raw []byte, known func(string) bool) (Table, error) {
	s := strings.ReplaceAll(strings.ReplaceAll(Text(raw), "\r\n", "\n"), "\r", "\n")
	s = strings.TrimLeft(s, "\n")
	if head, rest, ok := strings.Cut(s, "\n"); ok && strings.HasPrefix(strings.ToLower(head), "sep=") {
		s = rest
	}
	if strings.TrimSpace(s) == "" {
		return Table{}, &Error{1, "", "a list with a code and a value on each line"}
	}
	if strings.ContainsRune(s, 0) {
		return Table{}, &Error{1, "binary data", "text"}
	}
	r := csv.NewReader(strings.NewReader(s))
	sep, _, _ := Separator(s)
	r.Comma, r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = sep, -1, true, true
	var t Table
	for {
		row, err := r.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			line, _ := r.FieldPos(0)
			return t, &Error{line, err.Error(), "cells between separators"}
		}
		for i := range row {
			row[i] = unguard(strings.TrimSpace(row[i]))
		}
		if t.Header == nil && t.Rows == nil && anyKnown(row, known) {
			t.Header = row
			continue
		}
		line, _ := r.FieldPos(0)
		t.Rows, t.Lines = append(t.Rows, row), append(t.Lines, line)
	}
	return t, nil
}

func anyKnown(row []string, known func(string) bool) bool {
	for _, c := range row {
		if known(c) {
			return true
		}
	}
	return false
}

// guard keeps a cell from being taken for a formula by a spreadsheet. Plain numbers stay as they are.
func guard(c string) string {
	if c == "" || !strings.ContainsRune("=+-@\t\r", rune(c[0])) {
		return c
	}
	if _, err := strconv.ParseFloat(c, 64); err == nil {
		return c
	}
	return "'" + c
}

func unguard(c string) string {
	if len(c) > 1 && c[0] == '\'' && strings.ContainsRune("=+-@\t\r", rune(c[1])) {
		return c[1:]
	}
	return c
}

// Write writes rows with commas, CRLF as RFC 4180 has it, and a byte-order mark so that units show everywhere.
func Write(w io.Writer, rows [][]string) error {
	if _, err := io.WriteString(w, "\xef\xbb\xbf"); err != nil {
		return err
	}
	c := csv.NewWriter(w)
	c.UseCRLF = true
	for _, row := range rows {
		safe := make([]string, len(row))
		for i, cell := range row {
			safe[i] = guard(cell)
		}
		if err := c.Write(safe); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}
