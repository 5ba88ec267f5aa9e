package familyfile

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"tingate/testtools/check"
)

// book is a workbook as people keep settings in: a title, headings in the fourth row, groups over merged cells, choices on rows of their
// own, units behind names, a hidden sheet, a formula.
func book(t *testing.T) []byte {
	t.Helper()
	f := excelize.NewFile()
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	must(f.SetSheetName("Sheet1", "Cover"))
	must(f.SetCellValue("Cover", "A1", "Settings of the Gannet drive"))
	for _, name := range []string{"Settings", "Old"} {
		_, err := f.NewSheet(name)
		must(err)
	}
	for i, row := range [][]any{
		{"Gannet, settings"}, {}, {},
		{"No.", "Designation", "Setting range", "Factory setting", "Register"},
		{"Motor data"},
		{"M-01", "Motor rated power [kW]", "0.10 … 15.00", "4.00", 1000},
		{"M-02 Motor rated current", nil, "0.1 – 90.0 A", "8.2 A", 1001},
		{"Ramps and stopping"},
		{"R-01", "Acceleration time (s)", "0.1 to 600.0 (5.0)", nil, 1010},
		{"R-02", "Stop mode", "0: coast", "1", 1011},
		{nil, nil, "1: ramp"},
		{nil, nil, "2: ramp, then"},
		{nil, "with direct current at the end"},
		{"No.", "Designation", "Setting range", "Factory setting", "Register"},
		{"R-03", "Overload", "10 – 100 %", nil, 1012},
		{nil, nil, nil, "remark without a place"},
	} {
		for k, v := range row {
			at, err := excelize.CoordinatesToCellName(k+1, i+1)
			must(err)
			must(f.SetCellValue("Settings", at, v))
		}
	}
	must(f.MergeCell("Settings", "A5", "E5"))
	must(f.MergeCell("Settings", "A8", "E8"))
	must(f.SetCellFormula("Settings", "D15", "=50+45"))
	must(f.SetCellValue("Old", "A1", "M-01"))
	must(f.SetSheetVisible("Old", false))
	var b bytes.Buffer
	must(f.Write(&b))
	must(f.Close())
	return b.Bytes()
}

// What a workbook has parted is put together again, each with where it was read; what is no row is told.
func TestAWorkbookAsPeopleKeepIt(t *testing.T) {
	l, err := FromList(book(t), Asked{})
	if err != nil {
		t.Fatal(err)
	}
	if l.Sheet != "Settings" || len(l.Sheets) != 3 || !l.Sheets[2].Hidden {
		t.Errorf("sheets: %s of %+v", l.Sheet, l.Sheets)
	}
	want := []DraftRow{
		{Code: "M-01", Group: "Motor data", Name: "Motor rated power", Kind: "number", Unit: "kW", Step: "0.01", Min: "0.10", Max: "15.00",
			Delivery: "4.00", Register: "1000", Intent: "motor.power", Convention: "kilowatts"},
		{Code: "M-02", Group: "Motor data", Name: "Motor rated current", Kind: "number", Unit: "A", Step: "0.1", Min: "0.1", Max: "90.0",
			Delivery: "8.2", Register: "1001", Intent: "motor.current", Convention: "amperes"},
		{
			Code:       "R-01",
			Group:      "Ramps and stopping",
			Name:       "Acceleration time",
			Kind:       "number",
			Unit:       "s",
			Step:       "0.1",
			Min:        "0.1",
			Max:        "600.0",
			Delivery:   "5.0",
			Register:   "1010",
			Intent:     "ramp.rise",
			Convention: "to-highest",
		},
		{
			Code:       "R-02",
			Group:      "Ramps and stopping",
			Name:       "Stop mode with direct current at the end",
			Kind:       "choice",
			Register:   "1011",
			Delivery:   "1",
			Choices:    "0 = coast → coast; 1 = ramp → ramp; 2 = ramp, then → ramp",
			Intent:     "choice.stop_mode",
			Convention: "choice",
		},
		{
			Code:       "R-03",
			Group:      "Ramps and stopping",
			Name:       "Overload",
			Kind:       "number",
			Unit:       "%",
			Step:       "1",
			Min:        "10",
			Max:        "100",
			Delivery:   "10",
			Register:   "1012",
			Intent:     "overload.current",
			Convention: "percent-of-motor",
			Protects:   true,
		},
	}
	if len(l.Draft.Rows) != len(want) {
		t.Fatalf("%d rows: %+v\nleft %q\nmended %q", len(l.Draft.Rows), l.Draft.Rows, l.Left, l.Mended)
	}
	for i, r := range l.Draft.Rows {
		w := want[i]
		w.Motion, w.Protects = r.Motion, r.Protects || w.Protects
		if r.typed() != w.typed() {
			t.Errorf("row %d:\n got %+v\nwant %+v", i, r, w)
		}
	}
	r := l.Draft.Rows
	for what, has := range map[string]bool{
		"the place":               r[0].From == "sheet Settings, row 6",
		"the unit's place":        strings.Contains(r[0].Read, "unit: from “Motor rated power [kW]”"),
		"the parted cell":         strings.Contains(r[1].Read, "code and name: from one cell, “M-02 Motor rated current”"),
		"the delivery's place":    strings.Contains(r[2].Read, "delivery: from “0.1 to 600.0 (5.0)”"),
		"the joined choice":       strings.Contains(r[3].Read, "with “1: ramp”, from sheet Settings, row 11"),
		"a delivery that is none": strings.Contains(r[4].Why, "no delivery value") && strings.Contains(r[4].Why, "percent of"),
		"what is left out":        len(l.Left) == 3 && strings.Contains(strings.Join(l.Left, "\n"), "remark without a place"),
		"the headings again":      strings.Contains(strings.Join(l.Left, "\n"), "row 14: the headings again"),
		"what is mended":          len(l.Mended) == 5,
		"how many rows it has":    l.Total == 12,
		"the hidden sheet": strings.Contains(strings.Join(l.Notes, "\n"),
			"Hidden in the workbook, and read only if you choose it: Old"),
		"the formula": strings.Contains(strings.Join(l.Notes, "\n"), "D15"),
	} {
		if !has {
			t.Errorf("%s is not said: %+v\nleft %q\nmended %q\nnotes %q", what, r, l.Left, l.Mended, l.Notes)
		}
	}
	if l, err = FromList(book(t), Asked{Sheet: "Old"}); err != nil || l.Total != 1 {
		t.Errorf("a hidden sheet that is asked for: %v %+v", err, l)
	}
	if _, err = FromList(book(t), Asked{Sheet: "New"}); err == nil || !strings.Contains(err.Error(), "Cover, Settings, Old") {
		t.Errorf("a sheet that is not there: %v", err)
	}
}

// A table copied out of a manual has lost its lines: its columns are parted by spaces, or not at all.
func TestATableOutOfAManualsText(t *testing.T) {
	for name, text := range map[string]string{
		"in columns": `
Code    Name                       Range             Unit    Default
A1      Motor rated power          0.1 ... 15.0      kW      4.0
A2      Upper frequency limit      0.0 ... 400.0     Hz      50.0

B1      Stop mode                  0: coast                  1
                                   1: ramp
`,
		"line by line": `
A1 Motor rated power 0.1 … 15.0 kW 4.0
A2 Upper frequency limit 0.0 – 400.0 Hz 50.0
B1 Stop mode 0: coast 1
1: ramp
`,
	} {
		l, err := FromList([]byte(text), Asked{})
		if err != nil || len(l.Draft.Rows) != 3 {
			t.Errorf("%s: %v %+v\nleft %q mended %q", name, err, l.Draft.Rows, l.Left, l.Mended)
			continue
		}
		a, b, c := l.Draft.Rows[0], l.Draft.Rows[1], l.Draft.Rows[2]
		if a.Name != "Motor rated power" || a.Unit != "kW" || a.Min != "0.1" || a.Max != "15.0" || a.Delivery != "4.0" ||
			a.Intent != "motor.power" ||
			b.Unit != "Hz" || b.Delivery != "50.0" || b.Intent != "speed.highest" ||
			c.Kind != "choice" || c.Delivery != "1" ||
			c.Choices != "0 = coast → coast; 1 = ramp → ramp" {
			t.Errorf("%s: %+v", name, l.Draft.Rows)
		}
		if len(l.Notes) == 0 {
			t.Errorf("%s: nobody is told that the columns were guessed", name)
		}
	}
}

// Registers are counted in four ways, and scaled in two: what is sent counts from 0 (Modbus application protocol 1.1b3, 4.4).
func TestARegisterList(t *testing.T) {
	raw := []byte("Register;Name;Type;Scale;Unit;Min;Max;Default;R/W\n40101;Motor current;UINT;0.1;A;0.1;90.0;8.2;RW\n" +
		"40102;Upper speed limit;INT32;10;Hz;0;400;50;RW\n40110;Output current;UINT;0.1;A;0;200;0;R\n")
	l, err := FromList(raw, Asked{})
	if err != nil || l.Counting != "from-40001" || len(l.Draft.Rows) != 2 || len(l.Left) != 1 {
		t.Fatalf("%v %+v", err, l)
	}
	a, b := l.Draft.Rows[0], l.Draft.Rows[1]
	sent, err := strconv.Atoi(a.Register)
	if err != nil {
		t.Fatal(err)
	}
	check.Against(t, "holding register 40101 as it goes over the line", "Modbus application protocol 1.1b3, 4.4", float64(sent), 100, 0)
	if a.Code != "40101" || a.Register != "100" || a.RegisterType != "u16" || a.Scale != "10" || a.Step != "0.1" || a.Why != "" {
		t.Errorf("%+v", a)
	}
	if b.Register != "101" || b.RegisterType != "s32" || b.Scale != "10" || !strings.Contains(b.Why, "scale 10") || b.Sure {
		t.Errorf("a scale that can mean both is not taken silently: %+v", b)
	}
	if !strings.Contains(l.Left[0], "read only") {
		t.Errorf("%q", l.Left)
	}
	if l, err = FromList(raw, Asked{Counting: "as-sent"}); err != nil || l.Draft.Rows[0].Register != "40101" {
		t.Errorf("as a person says it: %v %+v", err, l.Draft.Rows)
	}
	if _, err = FromList(raw, Asked{Counting: "backwards"}); err == nil {
		t.Error("a way of counting that is none was taken")
	}
	l.Draft.Name = "Gannet"
	f, _, problems := Build(l.Draft, nil)
	if problems != nil || f.Settings[0].RegisterType != "u16" || f.Settings[0].Scale != "10" {
		t.Errorf("%+v", problems)
	}
}

// A comma with three digits behind it is thousands where the list has points, and a question where it has none.
func TestThousands(t *testing.T) {
	for raw, want := range map[string][2]string{
		"code;name;max;min;default\nA;x;1,500;0.5;1.5\n": {"1500", ""},
		"code;name;max;min;default\nA;x;1,500;0;1\n":     {"1.500", "1,500 could be thousands, or a decimal comma"},
		"code;name;max;min;default\nA;x;1,50;0,5;1,5\n":  {"1.50", ""},
	} {
		l, err := FromList([]byte(raw), Asked{})
		if err != nil || l.Draft.Rows[0].Max != want[0] || l.Draft.Rows[0].Why != want[1] {
			t.Errorf("%q: %v %+v", raw, err, l.Draft.Rows)
		}
	}
}

// A row that came from a list keeps where it stood and who took it; one that is changed by hand is typed; a second person is another one.
func TestWhereARowComesFrom(t *testing.T) {
	l, err := FromList([]byte("code;name;unit;min;max;default\nA1;Motor power;kW;0.1;15.0;4.0\nA2;Motor current;A;0.1;90.0;8.0\n"), Asked{})
	if err != nil {
		t.Fatal(err)
	}
	d := l.Draft
	d.Name, d.Source, d.SourceKind, d.By = "Gannet", "gannet.csv", "list", "R. Vane"
	d.Rows[0].Compared = true // by who took it: that is no second person
	f, _, problems := Build(d, nil)
	if problems != nil {
		t.Fatalf("%+v", problems)
	}
	if s := f.Settings[0].Source; s.Words() != "from a list, gannet.csv, line 2, by R. Vane" {
		t.Errorf("%q", s.Words())
	}
	again := DraftOf(f)
	again.Version, again.By = "2", "M. Quill"
	again.Rows[0].Compared = true
	again.Rows[1].Max = "95.0"
	f, _, problems = Build(again, f)
	if problems != nil {
		t.Fatalf("%+v", problems)
	}
	if a, b := f.Settings[0].Source.Words(), f.Settings[1].Source.Words(); a != "from a list, gannet.csv, line 2, by R. Vane; compared by "+
		"M. Quill" ||
		b != "typed, by M. Quill" {
		t.Errorf("%q, %q", a, b)
	}
}

// Codes and names that share the only column there is are taken apart, however long each row is.
func TestCodesAndNamesInOneColumn(t *testing.T) {
	l, err := FromList([]byte("Parameter;Max;Default\nP1 Motor power;15;4\nP2 Motor current;90;8;a remark\nP3 Poles;8;4\n"), Asked{})
	if err != nil || len(l.Draft.Rows) != 3 {
		t.Fatalf("%v %+v", err, l)
	}
	for i, want := range []string{"Motor power", "Motor current", "Poles"} {
		if r := l.Draft.Rows[i]; r.Name != want || r.Code != fmt.Sprintf("P%d", i+1) {
			t.Errorf("%+v", r)
		}
	}
	if !slices.Contains(l.Columns, "column 5") || l.Mapping["name"] != 4 {
		t.Errorf("%q %v", l.Columns, l.Mapping)
	}
}
