// Package runfile reads recorded runs of a drive: lists of time, speed and current in columns of any name and order, and COMTRADE files.
package runfile

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"tingate/core/motion"
	"tingate/formats/csvx"
)

// Columns say which column is what, by its name in the header or its number from 1. Empty: found by its name.
type Columns struct {
	Time, Speed, Current string
	Hertz                bool    // the speed column is in Hz; known by its name too
	Poles                int     // that turn Hz into r/min
	TimeFactor           float64 // s in one unit of the time column; 0: known by its name (ms, s, min), else s
}

// mostRows of one run.
const mostRows = 10_000_000

var known = map[string][]string{
	"time": {"time", "t", "time s", "time ms", "time [s]", "time [ms]", "time (s)", "time (ms)", "seconds", "s", "ms"},
	"speed": {"speed", "rpm", "r/min", "n", "speed rpm", "speed r/min", "speed [rpm]", "speed [r/min]", "frequency", "hz",
		"output frequency", "speed hz"}, "current": {"current", "a", "amps", "i", "current a", "current [a]", "output current"},
}

// Read reads a run. Rows without a figure in a column that is needed are gaps: they are left out and counted. Time must not go back.
func Read(raw []byte, c Columns) (motion.Recorded, error) {
	isKnown := func(cell string) bool {
		cell = strings.ToLower(cell)
		for _, l := range known {
			for _, x := range l {
				if x == cell {
					return true
				}
			}
		}
		return cell != "" && (strings.EqualFold(cell, c.Time) || strings.EqualFold(cell, c.Speed) || strings.EqualFold(cell, c.Current))
	}
	var out motion.Recorded
	if isComtrade(raw) {
		return readComtrade(raw, c)
	}
	t, err := csvx.Read(raw, isKnown)
	if err != nil {
		return out, err
	}
	if len(t.Rows) > mostRows {
		return out, &csvx.Error{Line: 1, Got: fmt.Sprint(len(t.Rows), " rows"), Want: fmt.Sprintf("at most %d rows", mostRows)}
	}
	at := func(name, what string) (int, string) {
		if n, err := strconv.Atoi(name); err == nil && n >= 1 {
			head := ""
			if n <= len(t.Header) {
				head = strings.ToLower(t.Header[n-1])
			}
			return n - 1, head
		}
		for i, h := range t.Header {
			h = strings.ToLower(h)
			if name != "" && strings.EqualFold(h, name) {
				return i, h
			}
			for _, x := range known[what] {
				if name == "" && x == h {
					return i, h
				}
			}
		}
		return -1, ""
	}
	ti, timeName := at(c.Time, "time")
	si, speedName := at(c.Speed, "speed")
	ci, _ := at(c.Current, "current")
	if ti < 0 || si < 0 {
		return out, &csvx.Error{Line: 1, Got: strings.Join(t.Header, ", "), Want: "columns for time and speed, by name or number"}
	}
	factor := c.TimeFactor
	if factor == 0 {
		factor = 1
		if word(timeName, "ms") {
			factor = 1e-3
		}
	}
	turns, err := c.turns(speedName)
	if err != nil {
		return out, err
	}
	out.Frequency = turns != 1
	cell := func(row []string, i int) float64 {
		if i < 0 || i >= len(row) {
			return math.NaN()
		}
		v, err := strconv.ParseFloat(strings.Replace(row[i], ",", ".", 1), 64)
		if err != nil || math.IsInf(v, 0) {
			return math.NaN()
		}
		return v
	}
	for k, row := range t.Rows {
		time, speed := cell(row, ti)*factor, cell(row, si)*turns
		if math.IsNaN(time) || math.IsNaN(speed) {
			out.Gaps++
			continue
		}
		if n := len(out.T); n > 0 && time < out.T[n-1] {
			return out, &csvx.Error{Line: k + 2, Got: row[ti], Want: "a time that is not before the one above it"}
		}
		out.T, out.Speed, out.Current = append(out.T, time), append(out.Speed, speed), append(out.Current, cell(row, ci))
	}
	if len(out.T) < 10 {
		return out, &csvx.Error{Line: 1, Got: fmt.Sprint(len(out.T), " rows with figures"), Want: "ten or more"}
	}
	return out, nil
}

// turns is what makes r/min of the speed column: 1, or 120 over the poles where it is in Hz.
func (c Columns) turns(name string) (float64, error) {
	if !c.Hertz && !word(name, "hz") && !word(name, "frequency") {
		return 1, nil
	}
	if c.Poles < 2 {
		return 0, &csvx.Error{Line: 1, Got: name, Want: "the motor's poles, that turn Hz into r/min"}
	}
	return 120 / float64(c.Poles), nil
}

// word tells whether a column's name has a word.
func word(name, w string) bool {
	return slices.Contains(strings.FieldsFunc(name, func(r rune) bool { return !unicode.IsLetter(r) }), w)
}
