package pdf

import (
	"bytes"
	"strings"
	"testing"
	"time"
)

func record() Record {
	rows := [][]string{}
	for range 80 {
		rows = append(rows, []string{"4D", "Motor current", strings.Repeat("a long reason with units r/min N·m cos φ µs Ω ≤ 50 %, ", 3)})
	}
	return Record{Title: "DD-02 Drum dryer", Subtitle: "Skerrow Kelp Works", Made: time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC),
		Foot: "Tin Gate", Signatures: []string{"Commissioned by, date", "Accepted by, date"},
		Facts: []Pair{{"Drive family", "Tarn"}, {"Type", "T-16"}, {"Serial", "1"}},
		Tables: []Table{{Title: "Sheet", Note: "A note.", Head: []string{"code", "setting", "because"}, Widths: []float64{20, 40, 120},
			Rows: rows}, {Title: "Empty", Head: []string{"x"}, Widths: []float64{180}}}}
}

func TestARecordRunsOverSeveralPages(t *testing.T) {
	one, err := record().Write()
	if err != nil {
		t.Fatal(err)
	}
	if pages := bytes.Count(one, []byte("/Type /Page\n")); pages < 3 {
		t.Errorf("80 long rows on %d pages", pages)
	}
	if !bytes.HasPrefix(one, []byte("%PDF-")) || !bytes.Contains(one, []byte("D:20261125100000")) {
		t.Error("a PDF with the record's own date")
	}
	two, _ := record().Write() //nolint:errcheck // as the first
	if three, err := record().Write(); err != nil || !bytes.Equal(one, two) || !bytes.Equal(two, three) {
		t.Errorf("printed three times, and not the same: %v", err)
	}
	if empty, err := (Record{Title: "Nothing yet"}).Write(); err != nil || len(empty) < 1000 {
		t.Errorf("an empty record: %d bytes, %v", len(empty), err)
	}
}
