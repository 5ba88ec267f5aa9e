package grid

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"
)

func TestTablesWithSeparators(t *testing.T) {
	for name, raw := range map[string]string{
		"semicolons": "a;b\n1;2\n", "tabs": "a\tb\n1\t2\n", "framed by bars": "| a | b |\n|---|:-:|\n| 1 | 2 |\n", "bars": "a|b\n1|2\n",
	} {
		g, err := Read([]byte(raw), "")
		if err != nil || len(g.Rows) != 2 || fmt.Sprint(g.Rows[0].Cells, g.Rows[1].Cells) != "[a b] [1 2]" {
			t.Errorf("%s: %v %+v", name, err, g.Rows)
		}
	}
}

// What cannot be read is refused with what to do instead.
func TestWhatIsNoTable(t *testing.T) {
	var zipped bytes.Buffer
	z := zip.NewWriter(&zipped)
	w, err := z.Create("hello.txt")
	if err != nil {
		t.Fatal(err)
	}
	if _, err = w.Write([]byte("hello")); err != nil {
		t.Fatal(err)
	}
	if err = z.Close(); err != nil {
		t.Fatal(err)
	}
	for what, c := range map[string]struct{ raw, want string }{
		"protected, or old": {"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1....", "password"},
		"a PDF":             {"%PDF-1.7\n", "paste the text"},
		"another zip":       {zipped.String(), ".xlsx"},
		"a cut workbook":    {"PK\x03\x04 and no more", ".xlsx"},
		"nothing":           {"\n\n", "list"},
		"too many cells":    {"a" + strings.Repeat(";", MostCells) + "b\n1;2\n", "at most"},
		"too many rows":     {strings.Repeat("a;b\n", MostRows+1), "at most"},
	} {
		if _, err := Read([]byte(c.raw), ""); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// A small file that unpacks to much is refused before it fills the memory.
func TestAWorkbookThatUnpacksToMuch(t *testing.T) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create("xl/worksheets/sheet1.xml")
	if err != nil {
		t.Fatal(err)
	}
	chunk := bytes.Repeat([]byte(" "), 1<<20)
	for range 64 {
		if _, err = w.Write(chunk); err != nil {
			t.Fatal(err)
		}
	}
	if err = z.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err = Read(b.Bytes(), ""); err == nil {
		t.Errorf("%d bytes that unpack to 64 MB were taken", b.Len())
	}
}

// A workbook with macros is read as any other, and said to have some.
func TestAWorkbookWithMacros(t *testing.T) {
	f := excelize.NewFile()
	if err := f.SetCellValue("Sheet1", "A1", "code"); err != nil {
		t.Fatal(err)
	}
	if err := f.AddVBAProject(append([]byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"), make([]byte, 600)...)); err != nil {
		t.Fatal(err)
	}
	f.Path = "macros.xlsm"
	var b bytes.Buffer
	if err := f.Write(&b); err != nil {
		t.Fatal(err)
	}
	g, err := Read(b.Bytes(), "")
	if err != nil || !strings.Contains(strings.Join(g.Notes, " "), "macros. They were not run") {
		t.Errorf("%v %q", err, g.Notes)
	}
}

// Digits stand as the workbook shows them: 4.00 says how fine the drive counts, 4 does not.
func TestDigitsAsShown(t *testing.T) {
	f := excelize.NewFile()
	two := 2
	style, err := f.NewStyle(&excelize.Style{NumFmt: two})
	if err != nil {
		t.Fatal(err)
	}
	if err = f.SetCellValue("Sheet1", "A1", 4); err != nil {
		t.Fatal(err)
	}
	if err = f.SetCellStyle("Sheet1", "A1", "A1", style); err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err = f.Write(&b); err != nil {
		t.Fatal(err)
	}
	if g, err := Read(b.Bytes(), ""); err != nil || g.Rows[0].Cells[0] != "4.00" {
		t.Errorf("%v %+v", err, g.Rows)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("a;b\n1;2"), "")
	f.Add([]byte("Code   Name     Range\nA1     x        0 to 9\n"), "")
	f.Add([]byte("A1 Motor power 0.1 to 9.0 kW 4.0\nA2 Stop mode 0: coast 1\n"), "x")
	f.Add([]byte("PK\x03\x04"), "")
	f.Fuzz(func(t *testing.T, raw []byte, sheet string) {
		g, err := Read(raw, sheet)
		if err != nil {
			return
		}
		for _, r := range g.Rows {
			if r.Place == "" || len(r.Cells) > MostCells {
				t.Errorf("%+v", r)
			}
		}
	})
}
