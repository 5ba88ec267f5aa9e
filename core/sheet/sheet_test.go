package sheet_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/record"
	"tingate/core/sheet"
	"tingate/core/translate"
	"tingate/formats/familyfile"
)

// tarn is the dryer's plan on its family, and the lines of it with what was recorded.
func tarn(entries ...drivefile.Entry) (*dialect.Family, dialect.Plan, []sheet.Line) {
	f := familyfile.Find("Tarn")
	d := sample.Dryer()
	p := translate.Plan(d, 4, 50)
	p.Variant = dialect.Variant{Region: "50"}
	return f, p, sheet.Lines(f, &p, f.Sheet(&p), record.Of(d, sample.Place(), entries), nil)
}

func entry(n int, kind string, body any) drivefile.Entry {
	raw, _ := json.Marshal(sample.OfDryer(body)) // texts and numbers always marshal
	return drivefile.Entry{ID: fmt.Sprintf("e%d", n), Seq: int64(n), Kind: kind, By: sample.Me,
		At: fmt.Sprintf("2026-11-25T09:%02d:00.000Z", n), Body: raw}
}

func line(t *testing.T, lines []sheet.Line, code string) sheet.Line {
	t.Helper()
	for _, l := range lines {
		if l.Code == code {
			return l
		}
	}
	t.Fatalf("no line %s", code)
	return sheet.Line{}
}

// planned is a number that is planned, and how many of its steps lie between what is planned and the end of its range.
func planned(t *testing.T, lines []sheet.Line) sheet.Line {
	t.Helper()
	for _, l := range lines {
		if l.Planned && l.Kind == "number" && l.Unit == "A" {
			return l
		}
	}
	t.Fatal("nothing in amperes is planned")
	return sheet.Line{}
}

// What a line says of what was read: as planned, otherwise with why, not yet, not by eye where it protects, and half a write is not known.
func TestVerdicts(t *testing.T) {
	_, _, lines := tarn()
	p := planned(t, lines)
	if p.Verdict != "not-read" || p.Read != nil {
		t.Errorf("nothing is read, and it says %s", p.Verdict)
	}
	other := p.Steps * 2
	read := func(steps int64, text string, how drivefile.How) drivefile.Entry {
		return entry(1, drivefile.EntryReading, drivefile.Reading{Code: p.Code, Text: text, Steps: &steps, How: how})
	}
	f, _, _ := tarn()
	set, _ := f.Setting(p.Code)
	for name, c := range map[string]struct {
		list []drivefile.Entry
		want sheet.Verdict
	}{
		"as planned": {[]drivefile.Entry{read(p.Steps, set.Text(p.Steps), "typed")}, "holds"},
		"otherwise":  {[]drivefile.Entry{read(other, set.Text(other), "typed")}, "differs"},
		"what nobody can read": {[]drivefile.Entry{entry(1, drivefile.EntryReading,
			drivefile.Reading{Code: p.Code, Text: "smudged", Problem: "no number"})}, "differs"},
		"taken back": {[]drivefile.Entry{read(p.Steps, set.Text(p.Steps), "typed"),
			entry(2, drivefile.EntryWithdrawal, drivefile.Withdrawal{Entry: "e1"})}, "not-read"},
		"a write without its end": {[]drivefile.Entry{read(p.Steps, set.Text(p.Steps), "typed"),
			entry(2, drivefile.EntryWrite, drivefile.Write{Code: p.Code, Asked: p.Steps, Outcome: "begun"})}, "not-known"},
		"read after such a write": {[]drivefile.Entry{entry(1, drivefile.EntryWrite,
			drivefile.Write{Code: p.Code, Asked: p.Steps, Outcome: "begun"}),
			entry(2, drivefile.EntryReading, drivefile.Reading{Code: p.Code, Text: set.Text(p.Steps), Steps: &p.Steps, How: "typed"})},
			"holds"},
		"of a drive that was sent": {[]drivefile.Entry{func() drivefile.Entry {
			e := read(p.Steps, set.Text(p.Steps), "typed")
			e.Body = []byte(fmt.Sprintf(`{"code":%q,"text":%q,"steps":%d,"how":"typed","serial":"ANOTHER"}`, p.Code, set.Text(p.Steps),
				p.Steps))
			return e
		}()}, "not-read"},
	} {
		_, _, lines := tarn(c.list...)
		got := line(t, lines, p.Code)
		if got.Verdict != c.want {
			t.Errorf("%s: %s %s, want %s", name, p.Code, got.Verdict, c.want)
		}
		if c.want == "differs" && got.Read.Steps != nil && (got.Explanation == nil || got.Explanation.Text == "") {
			t.Errorf("%s: it differs, and nothing says why", name)
		}
	}
	for _, l := range lines {
		if !l.Planned || !l.Protects {
			continue
		}
		steps := l.Steps
		_, _, seen := tarn(entry(1, drivefile.EntryReading, drivefile.Reading{Code: l.Code, Text: "", Steps: &steps, How: "eye"}))
		if got := line(t, seen, l.Code); got.Verdict == "holds" {
			t.Errorf("%s protects, and was agreed by eye", l.Code)
		}
	}
}

// The text as read is the truth: under another step of the file it is worked out anew, and asked again where it no longer fits.
func TestShown(t *testing.T) {
	f, _, lines := tarn()
	p := planned(t, lines)
	set, _ := f.Setting(p.Code)
	wrong := p.Steps + 7
	got := sheet.Shown(set, &record.Read{Text: set.Text(p.Steps), Steps: &wrong})
	if got.Steps == nil || *got.Steps != p.Steps || got.Shown != set.WithUnit(p.Steps) || wrong != p.Steps+7 {
		t.Errorf("%+v", got)
	}
	if got = sheet.Shown(set, &record.Read{Text: "off", Steps: &wrong}); got.Steps != nil || got.Problem == "" {
		t.Errorf("a text of another version: %+v", got)
	}
	if sheet.Shown(set, nil) != nil {
		t.Error("nothing was read, and something is shown")
	}
}

// What a simulation takes for planned is what the drive can hold.
func TestPlanned(t *testing.T) {
	got := sheet.Planned([]sheet.Line{{Code: "A", Planned: true, Steps: 3}, {Code: "B", Steps: 4},
		{Code: "C", Planned: true, Missing: "rise", Steps: 5}, {Code: "D", Planned: true, Problem: "too large", Steps: 6},
		{Code: "E", Planned: true, Kind: "text", Steps: 7}})
	if len(got) != 1 || got["A"] != 3 {
		t.Errorf("%v", got)
	}
}

// A write and its outcome are one line, the newest first.
func TestTheSentLog(t *testing.T) {
	f, _, lines := tarn()
	p := planned(t, lines)
	log := sheet.SentLog([]drivefile.Entry{entry(1, drivefile.EntryWrite, drivefile.Write{Code: p.Code, Asked: 5, Outcome: "begun"}),
		entry(2, drivefile.EntryWrite, drivefile.Write{Code: p.Code, Asked: 5, Outcome: "held", Begun: "e1", ReadBack: &p.Steps}),
		entry(3, drivefile.EntryWrite, drivefile.Write{Code: p.Code, Asked: 6, Outcome: "begun"})}, f)
	if len(log) != 2 || log[0].Outcome != "begun" || log[1].Outcome != "held" || log[1].Name == "" {
		t.Errorf("%+v", log)
	}
}

func ExampleLines() {
	_, _, lines := tarn()
	for _, l := range lines {
		if l.Planned && l.Gate == "plate" && l.Unit == "A" {
			fmt.Println(l.Code, l.Name, l.SetTo, l.Verdict)
			break
		}
	}
	// Output: 4D Motor current 15.5 A not-read
}
