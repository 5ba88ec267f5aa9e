package recordings

import (
	"bytes"
	"context"
	"encoding/csv"
	"fmt"
	"math"
	"strconv"
	"strings"

	"tingate/app/base"
	"tingate/bench"
	"tingate/formats/csvx"
	"tingate/formats/trace"
)

// mostShown is how many moments of a trace a screen gets; of a longer one every second, third … is shown.
const mostShown = 20_000

// benchColumns are the figures that the bench records, in the order of its table.
var benchColumns = []trace.Column{{Name: "speed", Unit: "r/min"}, {Name: "frequency", Unit: "Hz"}, {Name: "current", Unit: "A"},
	{Name: "torque", Unit: "N·m"}, {Name: "DC link", Unit: "V"}, {Name: "reference", Unit: "Hz"}}

func benchRow(s bench.Sample) []float64 {
	return []float64{s.Speed, s.Hz, s.Current, s.Torque, s.Link, s.Reference}
}

// KeepTrace keeps what the bench has recorded with the drive, scaled and compressed; the screen opens it again.
func (a *Recordings) KeepTrace(ctx context.Context, who base.Actor, driveID, id, name string) error {
	r := a.benches.RunningOf(driveID)
	if r == nil {
		return base.Refuse("There is no bench of this drive.")
	}
	if name == "" {
		name = "bench run"
	}
	var out bytes.Buffer
	setup := r.Bench.Setup
	w, err := trace.NewWriter(&out,
		trace.Header{Columns: benchColumns,
			About: map[string]string{"recorded": "bench", "family": setup.Family.Name + " " + setup.Family.Version,
				"seed": strconv.FormatUint(setup.Seed, 10), "program": a.Version}})
	if err != nil {
		return err
	}
	for _, s := range r.Bench.Show(-1).Samples {
		if err := w.Add(s.Time, benchRow(s)); err != nil {
			return err
		}
	}
	if err := w.Close(); err != nil {
		return err
	}
	return a.AddAttachment(ctx, who, driveID, id, name, "bench-trace", traceType, out.Bytes())
}

// traceType is the media type of a kept trace.
const traceType = "application/vnd.tingate.trace"

// TraceView is a kept trace as a screen draws it.
type TraceView struct {
	Columns []trace.Column    `json:"columns"`
	About   map[string]string `json:"about"`
	Times   []float64         `json:"times" doc:"s"`
	Values  [][]*float64      `json:"values" doc:"column by column; null where there was none"`
	Every   int               `json:"every" doc:"1: every moment is here; 2: every second"`
	Problem string            `json:"problem,omitempty" doc:"what of it could not be read; the rest is here"`
}

// Trace opens a kept trace. One that an earlier version kept as a table opens too.
func (a *Recordings) Trace(ctx context.Context, sha string) (TraceView, error) {
	_, b, err := a.Attachment(ctx, sha)
	if err != nil {
		return TraceView{}, err
	}
	v := TraceView{Every: 1, About: map[string]string{}}
	var rows [][]float64
	each := func(t float64, values []float64) error {
		v.Times = append(v.Times, t)
		rows = append(rows, append([]float64(nil), values...))
		return nil
	}
	if trace.Is(b) {
		h, err := trace.Read(bytes.NewReader(b), each)
		v.Columns = h.Columns
		if h.About != nil {
			v.About = h.About
		}
		if err != nil {
			v.Problem = err.Error()
		}
	} else if v.Columns, err = tabled(b, each); err != nil {
		return TraceView{}, err
	}
	for len(v.Times)/v.Every > mostShown {
		v.Every++
	}
	times := v.Times
	v.Times, v.Values = []float64{}, make([][]*float64, len(v.Columns))
	for c := range v.Values {
		v.Values[c] = []*float64{}
	}
	for i := 0; i < len(times); i += v.Every {
		v.Times = append(v.Times, times[i])
		for c := range v.Columns {
			v.Values[c] = append(v.Values[c], there(rows[i], c))
		}
	}
	return v, nil
}

// there is a figure of a row; nil when it was not there.
func there(row []float64, c int) *float64 {
	if c >= len(row) || math.IsNaN(row[c]) {
		return nil
	}
	return &row[c]
}

// tabled reads a trace that is a table: time first, the unit after a comma in each head.
func tabled(b []byte, each func(float64, []float64) error) ([]trace.Column, error) {
	rows, err := csv.NewReader(bytes.NewReader(b)).ReadAll()
	if err != nil || len(rows) == 0 || !strings.HasPrefix(rows[0][0], "time") {
		return nil, base.Bad("trace", "something else", "a kept trace")
	}
	var columns []trace.Column
	for _, head := range rows[0][1:] {
		name, unit, _ := strings.Cut(head, ",")
		columns = append(columns, trace.Column{Name: strings.TrimSpace(name), Unit: strings.TrimSpace(unit)})
	}
	for i, r := range rows[1:] {
		values := make([]float64, len(r))
		for k, text := range r {
			if values[k], err = strconv.ParseFloat(text, 64); err != nil {
				return nil, base.Bad(fmt.Sprintf("trace line %d", i+2), text, "a number")
			}
		}
		if err := each(values[0], values[1:]); err != nil {
			return nil, err
		}
	}
	return columns, nil
}

// TraceTable is a kept trace as a table, every moment of it.
func (a *Recordings) TraceTable(ctx context.Context, sha string) ([]byte, error) {
	_, b, err := a.Attachment(ctx, sha)
	if err != nil {
		return nil, err
	}
	if !trace.Is(b) {
		return b, nil
	}
	var rows [][]string
	h, err := trace.Read(bytes.NewReader(b), func(t float64, values []float64) error {
		rows = append(rows, figures(t, values))
		return nil
	})
	if err != nil && len(rows) == 0 {
		return nil, base.Bad("trace", err.Error(), "a kept trace")
	}
	return table(h.Columns, rows)
}

// BenchTrace is what the bench has kept, as a table: 20 samples a second.
func (a *Recordings) BenchTrace(driveID string) ([]byte, error) {
	r := a.benches.RunningOf(driveID)
	if r == nil {
		return nil, base.Refuse("There is no bench of this drive.")
	}
	var rows [][]string
	for _, s := range r.Bench.Show(-1).Samples {
		rows = append(rows, figures(s.Time, benchRow(s)))
	}
	return table(benchColumns, rows)
}

func figures(t float64, values []float64) []string {
	row := []string{fmt.Sprintf("%.7g", t)}
	for _, v := range values {
		text := ""
		if !math.IsNaN(v) {
			text = fmt.Sprintf("%.5g", v)
		}
		row = append(row, text)
	}
	return row
}

func table(columns []trace.Column, rows [][]string) ([]byte, error) {
	head := []string{"time, s"}
	for _, c := range columns {
		head = append(head, c.Name+", "+c.Unit)
	}
	var out bytes.Buffer
	err := csvx.Write(&out, append([][]string{head}, rows...))
	return out.Bytes(), err
}
