package app

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"time"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/gate"
	"tingate/core/sheet"
	"tingate/core/translate"
	"tingate/formats/csvx"
	"tingate/formats/pdf"
)

// verdictWords are the words of a line's verdict, as the screens have them.
var verdictWords = map[string]string{"holds": "holds", "differs": "look again", "not-read": "not done", "not-known": "not known", "cannot": "stops", "not-planned": "not decided"}

// SheetCSV is the settings sheet as a list; no cell can act as a formula.
func (a *App) SheetCSV(ctx context.Context, driveID string) ([]byte, error) {
	v, err := a.Drive(ctx, Actor{}, driveID)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = csvx.Write(&out, SheetRows(v.State.Lines))
	return out.Bytes(), err
}

// SheetRows is the sheet as rows with a header, for every textual form of it.
func SheetRows(lines []sheet.Line) [][]string {
	rows := [][]string{{"code", "group", "name", "value", "unit", "because", "rounded", "reads back", "how", "verdict"}}
	for _, l := range lines {
		value := strings.TrimSpace(strings.TrimSuffix(l.SetTo, l.Unit))
		if !l.Planned {
			value = ""
		}
		read, how := "", ""
		if l.Read != nil {
			read, how = l.Read.Text, l.Read.How
		}
		because := l.Because
		if l.Missing != "" {
			because = "missing: " + l.Missing
		}
		if l.Problem != "" {
			because += "; " + l.Problem
		}
		rows = append(rows, []string{l.Code, l.GroupName, l.Name, value, l.Unit, because, l.Rounded, read, how, verdictWords[l.Verdict]})
	}
	return rows
}

// CSVResult says what became of a list of readings.
type CSVResult struct {
	Read     int      `json:"read" doc:"readings recorded"`
	Problems []string `json:"problems" doc:"lines that could not be used, with the reason; nothing of them is lost, the file is yours"`
}

// ReadCSV records a list of readings: a code and a value on each line, in any common shape.
func (a *App) ReadCSV(ctx context.Context, who Actor, driveID string, raw []byte) (CSVResult, error) {
	res := CSVResult{Problems: []string{}}
	if len(raw) > drivefile.MaxJSON {
		return res, &InputError{"file", fmt.Sprint(len(raw), " bytes"), fmt.Sprint("at most ", drivefile.MaxJSON)}
	}
	v, err := a.Drive(ctx, who, driveID)
	if err != nil {
		return res, err
	}
	f := a.familyOf(v)
	if f == nil {
		return res, &RefusedError{"Choose the drive's family first."}
	}
	codeNames := map[string]bool{"code": true, "setting": true, "parameter": true, "no": true, "nr": true}
	valueNames := []string{"reads back", "reads", "read", "found", "value", "set to"}
	isHeader := func(c string) bool {
		c = strings.ToLower(c)
		return codeNames[c] || c == "value" || c == "reads back"
	}
	t, err := csvx.Read(raw, isHeader)
	if err != nil {
		return res, &InputError{"file", err.Error(), "a list with a code and a value on each line"}
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
	return res, a.recordReadings(ctx, who, driveID, f, values, "csv")
}

// Record prints a drive's record: plate, what was wanted, the sheet with what was read back, findings and how each was
// answered, gates, who and when.
func (a *App) Record(ctx context.Context, driveID string) ([]byte, error) {
	rec, err := a.RecordOf(ctx, driveID)
	if err != nil {
		return nil, err
	}
	return rec.Write()
}

// RecordOf is a drive's record before it is set on pages: what its bundle has, in words.
func (a *App) RecordOf(ctx context.Context, driveID string) (pdf.Record, error) {
	v, p, err := a.placed(ctx, driveID)
	if err != nil {
		return pdf.Record{}, err
	}
	r := a.store.Read(ctx)
	changes, err := r.Changes(driveID)
	if err != nil {
		return pdf.Record{}, err
	}
	entries, err := r.Entries(driveID)
	if err != nil {
		return pdf.Record{}, err
	}
	ofPlace, err := r.Entries(v.Drive.Place)
	if err != nil {
		return pdf.Record{}, err
	}
	d, s := v.Drive, v.State
	rec := a.leaf(p, d, "", "drive record", fmt.Sprintf("%s %s · version %d of this drive file", v.Family.Name, v.Family.Version, v.Version))
	rec.Signatures = []string{"Commissioned by, date", "Accepted by, date"}
	rec.Facts = []pdf.Pair{{Label: "Drive family", Value: d.Rating.Dialect}, {Label: "Drive type", Value: d.Rating.Type}, {Label: "Drive serial", Value: d.Rating.Serial}, {Label: "Rated current", Value: d.Rating.Current.Text},
		{Label: "Motor type", Value: d.Motor.MakersType}, {Label: "Motor serial", Value: d.Motor.Serial}, {Label: "Frame", Value: d.Motor.Frame}, {Label: "Insulation, duty", Value: strings.TrimSpace(d.Motor.Insulation + " " + d.Motor.Duty)}}
	if d.Rating.NoSerial && d.Rating.Serial == "" {
		rec.Facts[2].Value = "not legible"
	}
	if d.Motor.NoSerial && d.Motor.Serial == "" {
		rec.Facts[5].Value = "not legible"
	}
	files, pictures := keptFiles(r, s, p)
	rec.Tables = append(rec.Tables, standsTable(v, p), plateTable(d, s), figureTable(s), intentTable(d, s), enteredTable(d, s, p), sheetTable(s, p), findingTable(s, answers(changes, p), p), gateTable(s, p), suppliesTable(s, p, ofPlace))
	for _, t := range append([]pdf.Table{temporaryTable(entries, p), files}, snapshotTables(entries, p)...) {
		if len(t.Rows) > 0 {
			rec.Tables = append(rec.Tables, t)
		}
	}
	rec.Pictures = pictures
	return rec, nil
}

func plateTable(d drivefile.Drive, s gate.State) pdf.Table {
	t := pdf.Table{Title: "Motor plate", Head: []string{"link", "V", "Hz", "power", "A", "r/min", "cos φ"}, Widths: []float64{40, 22, 22, 28, 22, 26, 20}}
	for _, id := range translate.RowIDs(d.Motor) {
		r := d.Motor.Rows[id]
		link := strings.ReplaceAll(r.Connection, "-", " ")
		if id == s.Linked {
			link += " (linked)"
		}
		t.Rows = append(t.Rows, []string{link, r.Voltage.Text, r.Frequency.Text, powerText(r), r.Current.Text, r.Speed.Text, r.PowerFactor.Text})
	}
	return t
}

// powerText is the power as typed, with its unit.
func powerText(r drivefile.Row) string {
	if r.Power.Value == nil || strings.ContainsAny(r.Power.Text, "kKwWhHpP") {
		return r.Power.Text
	}
	return r.Power.Text + " " + r.Power.Unit
}

func figureTable(s gate.State) pdf.Table {
	t := pdf.Table{Title: "What follows from it", Head: []string{"figure", "value", "formula"}, Widths: []float64{50, 40, 90}}
	for _, f := range s.Figures {
		t.Rows = append(t.Rows, []string{f.Label, f.Value + " " + f.Unit, f.Formula})
	}
	return t
}

func intentTable(d drivefile.Drive, s gate.State) pdf.Table {
	t := pdf.Table{Title: "What is wanted", Head: []string{"", "wanted", "understood as"}, Widths: []float64{60, 60, 60}}
	for _, op := range drivefile.FromStruct(d).Leaves() {
		if strings.HasPrefix(op.Path, "intent.") {
			t.Rows = append(t.Rows, []string{drivefile.Called(op.Path), textOf(op.New), s.Shown[op.Path]})
		}
	}
	return t
}

func sheetTable(s gate.State, p drivefile.Place) pdf.Table {
	t := pdf.Table{Title: "Settings sheet", Head: []string{"code", "setting", "set to", "because", "reads back", "", "who, when"}, Widths: []float64{29, 32, 22, 39, 18, 15, 25}}
	for _, l := range s.Lines {
		if l.Verdict == "not-planned" {
			continue
		}
		read, who := "", ""
		if l.Read != nil {
			read, who = l.Read.Text, initials(p, l.Read.By)+" "+short(l.Read.At, p)
			if l.Read.How == "eye" {
				read += " (by eye)"
			}
		}
		because := l.Because
		if l.Rounded != "" {
			because += "; " + l.Rounded
		}
		t.Rows = append(t.Rows, []string{l.Code, l.Name, l.SetTo, because, read, verdictWords[l.Verdict], who})
	}
	return t
}

// short is a time in the place's zone, as the record shows it.
func short(at string, p drivefile.Place) string {
	t, err := time.Parse(time.RFC3339, at)
	if err != nil {
		return at
	}
	return t.In(zone(p)).Format("2006-01-02 15:04")
}

func findingTable(s gate.State, corrected []Answer, p drivefile.Place) pdf.Table {
	t := pdf.Table{Title: "Findings and how each was answered", Head: []string{"finding", "answer", "who, when"}, Widths: []float64{72, 80, 28}}
	for _, f := range s.Findings {
		how, who := "open", ""
		switch {
		case f.Kept:
			how, who = "kept: "+f.Reason, initials(p, f.By)+" "+short(f.At, p)
		case !f.Severity.Open():
			how = string(f.Severity)
			if f.Severity == finding.Note {
				how = "to know"
			}
		}
		t.Rows = append(t.Rows, []string{f.Title + ". " + f.Detail, how, who})
	}
	for _, c := range corrected {
		t.Rows = append(t.Rows, []string{c.Title, c.How, c.By + " " + short(c.At, p)})
	}
	return t
}

func gateTable(s gate.State, p drivefile.Place) pdf.Table {
	t := pdf.Table{Title: "Gates", Note: "Torque off is not isolation. Cautions defer to the local code and the maker's manual; the responsible person signs.", Head: []string{"gate", "check", "verdict", "who, when"}, Widths: []float64{16, 86, 52, 26}}
	for _, g := range s.Gates {
		passed := ""
		if g.PassedBy != "" {
			passed = initials(p, g.PassedBy) + " " + short(g.PassedAt, p)
		}
		mark := map[string]string{"passed": "passed", "again": "passed, changed since", "barred": "barred", "work": "in work", "shut": "shut"}[g.Mark]
		t.Rows = append(t.Rows, []string{g.Name, heldOf(g), mark, passed})
		for _, c := range g.Checks {
			v := strings.ReplaceAll(c.Verdict, "-", " ")
			if c.Verdict == gate.Waived {
				v += ": " + c.Reason
			} else if got := answered(c); got != "" {
				v += ": " + got
			}
			who := ""
			if c.By != "" {
				who = initials(p, c.By) + " " + short(c.At, p)
			}
			t.Rows = append(t.Rows, []string{"", strings.TrimSpace(c.Title + ". " + c.Detail), v, who})
		}
	}
	return t
}

// heldOf says how many of a gate's checks hold; what was waived stands apart.
func heldOf(g gate.Gate) string {
	text := fmt.Sprintf("%d of %d", g.Done-g.Waived, g.Total)
	if g.Waived > 0 {
		text += fmt.Sprintf(", %d waived", g.Waived)
	}
	return text
}
