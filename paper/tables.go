package paper

import (
	"fmt"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/gate"
	"tingate/core/sheet"
	"tingate/core/translate"
	"tingate/formats/pdf"
)

// verdictWords are the words of a line's verdict, as the screens have them.
var verdictWords = map[sheet.Verdict]string{sheet.Holds: "holds", sheet.Differs: "look again", sheet.NotRead: "not done",
	sheet.NotKnown: "not known", sheet.Cannot: "stops", sheet.NotPlanned: "not decided"}

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
			read, how = l.Read.Text, string(l.Read.How)
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

func (h Head) plateTable() pdf.Table {
	t := pdf.Table{Title: "Motor plate", Head: []string{"link", "V", "Hz", "power", "A", "r/min", "cos φ"},
		Widths: []float64{40, 22, 22, 28, 22, 26, 20}}
	for _, id := range translate.RowIDs(h.Drive.Motor) {
		r := h.Drive.Motor.Rows[id]
		link := strings.ReplaceAll(r.Connection, "-", " ")
		if id == h.State.Linked {
			link += " (linked)"
		}
		t.Rows = append(t.Rows, []string{link, r.Voltage.Text, r.Frequency.Text, powerText(r), r.Current.Text, r.Speed.Text,
			r.PowerFactor.Text})
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

func (h Head) figureTable() pdf.Table {
	t := pdf.Table{Title: "What follows from it", Head: []string{"figure", "value", "formula"}, Widths: []float64{50, 40, 90}}
	for _, f := range h.State.Figures {
		t.Rows = append(t.Rows, []string{f.Label, f.Value + " " + f.Unit, f.Formula})
	}
	return t
}

func (h Head) intentTable() pdf.Table {
	t := pdf.Table{Title: "What is wanted", Head: []string{"", "wanted", "understood as"}, Widths: []float64{60, 60, 60}}
	for _, op := range drivefile.FromStruct(h.Drive).Leaves() {
		if strings.HasPrefix(op.Path, "intent.") {
			t.Rows = append(t.Rows, []string{drivefile.Called(op.Path), drivefile.TextOf(op.New), h.State.Shown[op.Path]})
		}
	}
	return t
}

func (h Head) sheetTable() pdf.Table {
	t := pdf.Table{Title: "Settings sheet", Head: []string{"code", "setting", "set to", "because", "reads back", "", "who, when"},
		Widths: []float64{29, 32, 22, 39, 18, 15, 25}}
	for _, l := range h.State.Lines {
		if l.Verdict == sheet.NotPlanned {
			continue
		}
		read, who := "", ""
		if l.Read != nil {
			read, who = l.Read.Text, h.Place.InitialsOf(l.Read.By)+" "+h.short(l.Read.At)
			if l.Read.How == drivefile.ByEye {
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

func (h Head) findingTable(corrected []Answer) pdf.Table {
	t := pdf.Table{Title: "Findings and how each was answered", Head: []string{"finding", "answer", "who, when"},
		Widths: []float64{72, 80, 28}}
	for _, f := range h.State.Findings {
		how, who := "open", ""
		switch {
		case f.Kept:
			how, who = "kept: "+f.Reason, h.Place.InitialsOf(f.By)+" "+h.short(f.At)
		case !f.Severity.Open():
			how = string(f.Severity)
			if f.Severity == finding.Note {
				how = "to know"
			}
		}
		t.Rows = append(t.Rows, []string{f.Title + ". " + f.Detail, how, who})
	}
	for _, c := range corrected {
		t.Rows = append(t.Rows, []string{c.Title, c.How, c.By + " " + h.short(c.At)})
	}
	return t
}

func (h Head) gateTable() pdf.Table {
	t := pdf.Table{Title: "Gates",
		Note: "Torque off is not isolation. Cautions defer to the local code and the maker's manual; the responsible person signs.",
		Head: []string{"gate", "check", "verdict", "who, when"}, Widths: []float64{16, 86, 52, 26}}
	for _, g := range h.State.Gates {
		passed := ""
		if g.PassedBy != "" {
			passed = h.Place.InitialsOf(g.PassedBy) + " " + h.short(g.PassedAt)
		}
		mark := map[gate.Mark]string{gate.Passed: "passed", gate.LookAgain: "passed, changed since", gate.Barred: "barred",
			gate.Open: "in work", gate.Shut: "shut"}[g.Mark]
		t.Rows = append(t.Rows, []string{g.Name, heldOf(g), mark, passed})
		for _, c := range g.Checks {
			v := c.Verdict.Words()
			if c.Verdict == gate.Waived {
				v += ": " + c.Reason
			} else if got := answered(c); got != "" {
				v += ": " + got
			}
			who := ""
			if c.By != "" {
				who = h.Place.InitialsOf(c.By) + " " + h.short(c.At)
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
