package familyfile

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"tingate/core/dialect"
)

// Generated makes the file of a family of n settings in groups of 50 whose registers lie in runs with gaps between.
func generated(n, gaps int) []byte {
	var b strings.Builder
	b.WriteString("name: Gull\nversion: \"1\"\nkeypad: {path: [Menu, \"{code}\"], keep: Enter}\nlink: {identity: {register: 1, value: " +
		"7}, status: {register: 2, standstill_bit: 0, channel_a_open_bit: 1, channel_b_open_bit: 2}, block: 125}\ngroups: [{code: g, " +
		"name: all, gate: span}]\nsettings:\n")
	register := 100
	for i := range n {
		if gaps > 0 && i > 0 && i%(n/gaps) == 0 {
			register += 40
		}
		if i%5 == 4 {
			fmt.Fprintf(&b, "  - {code: g%d, group: g, name: Choice %d, kind: choice, delivery: \"1\", register: %d, choices: [{value: "+
				"0, text: \"off\"}, {value: 1, text: \"on\"}, {value: 2, text: by itself}]}\n", i, i, register)
		} else {
			fmt.Fprintf(&b, "  - {code: g%d, group: g, name: Number %d, short: N%d, kind: number, unit: Hz, step: \"0.1\", min: "+
				"\"0.0\", max: \"400.0\", delivery: \"50.0\", register: %d, running: true}\n", i, i, i, register)
		}
		register++
	}
	return []byte(b.String())
}

// 300 settings in 11 runs are read in fewer than 20 requests.
func TestFewRequestsReadAFamily(t *testing.T) {
	f, err := Read(generated(300, 10))
	if err != nil {
		t.Fatal(err)
	}
	if n := len(f.Blocks()); n >= 20 || n < 10 {
		t.Errorf("%d requests", n)
	}
	f.Link.Gap = 40 // a drive that answers the gaps, too
	if n := len(f.Blocks()); n > 8 {
		t.Errorf("%d requests across gaps", n)
	}
}

func BenchmarkLoad500(b *testing.B) {
	raw := generated(500, 10)
	b.ReportAllocs()
	for b.Loop() {
		if _, err := Read(raw); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkLoadTarn(b *testing.B) {
	raw := Raw("Tarn")
	for b.Loop() {
		if _, err := Read(raw); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkBlocks300(b *testing.B) {
	f, err := Read(generated(300, 10))
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		f.Blocks()
	}
}

var sink []dialect.Stop

// The order of entering a whole family: the longest that a person can ask for.
func BenchmarkRoute(b *testing.B) {
	for _, name := range Names() {
		f := Find(name)
		values := map[string]int64{}
		for i := range f.Settings {
			values[f.Settings[i].Code] = f.Settings[i].DeliverySteps()
		}
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				sink = f.Route("", values, nil)
			}
		})
	}
}

// A list of a thousand settings, read and proposed: as CSV, and as a workbook.
func BenchmarkReadList(b *testing.B) {
	var text strings.Builder
	text.WriteString("Code;Name;Range;Unit;Default;Register\n")
	f := excelize.NewFile()
	for i := range 1000 {
		row := []any{fmt.Sprintf("P%02d.%02d", i/50, i%50), fmt.Sprintf("Ramp time %d [s]", i), "0.1 … 600.0", "s", "5.0", 1000 + i}
		fmt.Fprintf(&text, "%v;%v;%v;%v;%v;%v\n", row...)
		at, err := excelize.CoordinatesToCellName(1, i+2)
		if err != nil {
			b.Fatal(err)
		}
		if err = f.SetSheetRow("Sheet1", at, &row); err != nil {
			b.Fatal(err)
		}
	}
	if err := f.SetSheetRow("Sheet1", "A1", &[]any{"Code", "Name", "Range", "Unit", "Default", "Register"}); err != nil {
		b.Fatal(err)
	}
	var book bytes.Buffer
	if err := f.Write(&book); err != nil {
		b.Fatal(err)
	}
	for name, raw := range map[string][]byte{"csv": []byte(text.String()), "xlsx": book.Bytes()} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if l, err := FromList(raw, Asked{}); err != nil || len(l.Draft.Rows) != 1000 {
					b.Fatal(err, len(l.Draft.Rows), l.Left[:min(3, len(l.Left))])
				}
			}
		})
	}
}
