package lists

import (
	"bytes"
	"context"
	"fmt"
	"strings"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/formats/csvx"
	"tingate/formats/devicefile"
	"tingate/paper"
)

// SheetCSV is the settings sheet as a list; no cell can act as a formula.
func (a *Lists) SheetCSV(ctx context.Context, driveID string) ([]byte, error) {
	v, err := a.Drive(ctx, base.Actor{}, driveID)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = csvx.Write(&out, paper.SheetRows(v.State.Lines))
	return out.Bytes(), err
}

// CSVResult says what became of a list of readings.
type CSVResult struct {
	Read     int      `json:"read" doc:"readings recorded"`
	Problems []string `json:"problems" doc:"lines that could not be used, with the reason; nothing of them is lost, the file is yours"`
}

// ReadCSV records a list of readings: a code and a value on each line, in any common shape.
func (a *Lists) ReadCSV(ctx context.Context, who base.Actor, driveID string, raw []byte) (CSVResult, error) {
	res := CSVResult{Problems: []string{}}
	if len(raw) > drivefile.MaxJSON {
		return res, base.Bad("file", fmt.Sprint(len(raw), " bytes"), fmt.Sprint("at most ", drivefile.MaxJSON))
	}
	v, err := a.Drive(ctx, who, driveID)
	if err != nil {
		return res, err
	}
	f := a.FamilyOf(v)
	if f == nil {
		return res, base.Refuse("Choose the drive's family first.")
	}
	if devicefile.Is(raw) {
		values, err := configured(f, raw, &res)
		if err != nil || len(values) == 0 {
			return res, err
		}
		return res, a.links.PutReadings(ctx, who, driveID, f, values, drivefile.FromList)
	}
	codeNames := map[string]bool{"code": true, "setting": true, "parameter": true, "no": true, "nr": true}
	valueNames := []string{"reads back", "reads", "read", "found", "value", "set to"}
	isHeader := func(c string) bool {
		c = strings.ToLower(c)
		return codeNames[c] || c == "value" || c == "reads back"
	}
	t, err := csvx.Read(raw, isHeader)
	if err != nil {
		return res, base.Bad("file", err.Error(), "a list with a code and a value on each line")
	}
	codeAt, valueAt := 0, -1
	for i, h := range t.Header {
		if codeNames[strings.ToLower(h)] {
			codeAt = i
		}
	}
	for _, name := range valueNames {
		for i, h := range t.Header {
			if strings.ToLower(h) == name && valueAt < 0 {
				valueAt = i
			}
		}
	}
	values := map[string]dialect.Held{}
	for i, row := range t.Rows {
		at := valueAt
		if at < 0 {
			at = 1
		}
		if len(row) <= max(codeAt, at) || row[at] == "" {
			continue
		}
		s, ok := f.Setting(row[codeAt])
		if !ok {
			res.Problems = append(res.Problems, fmt.Sprintf("row %d: %q is no setting of %s", i+1, row[codeAt], f.Name))
			continue
		}
		steps, err := s.Read(row[at])
		if err != nil {
			res.Problems = append(res.Problems, fmt.Sprintf("row %d: %v", i+1, err))
			continue
		}
		values[s.Code] = dialect.Held{Steps: steps, Text: s.AsRead(steps, row[at])}
	}
	res.Read = len(values)
	if len(values) == 0 {
		return res, nil
	}
	return res, a.links.PutReadings(ctx, who, driveID, f, values, drivefile.FromList)
}
