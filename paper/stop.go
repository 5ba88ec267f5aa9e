package paper

import (
	"fmt"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/stops"
	"tingate/formats/pdf"
)

// StopReset is one step of the way back after torque was taken off.
type StopReset struct {
	After string `json:"after" doc:"what has happened"`
	Do    string `json:"do"`
	Shows string `json:"shows"`
}

// Circuit is a stop circuit as its record prints it.
type Circuit struct {
	Circuit drivefile.StopCircuit
	Drawing *stops.Drawing
	Failed  []gate.StopFailure
	Mends   []drivefile.Entry
	Resets  []StopReset
}

// Stop is the record of a drive's stop circuit, to be signed: the circuit, every test with what was shown, open points, who is responsible,
// the next proof test. It accepts nothing by itself.
func Stop(h Head, k Circuit) pdf.Record {
	d := h.Drive
	mark := "NOT PASSED"
	for _, g := range h.State.Gates {
		if g.Key == "stop" && g.Mark == "passed" {
			mark = "passed by " + h.Place.InitialsOf(g.PassedBy) + " " + h.short(g.PassedAt)
		}
	}
	rec := h.leaf("Torque off", mark,
		fmt.Sprintf("rules %s · circuit %s · it shows that what was built does what was drawn; design, performance level and acceptance "+
			"are for %s and the local code; torque off is not isolation", gate.RulesVersion, k.Drawing.Hash, blank(k.Circuit.By)))
	rec.Signatures = []string{"Tested by, date", "Seen by a second person, date", "Accepted by the responsible person, date"}
	pair := func(label, value string) {
		rec.Facts = append(rec.Facts, pdf.Pair{Label: label, Value: blank(value)})
	}
	pair("Circuit", k.Circuit.Name+", "+strings.ReplaceAll(k.Circuit.Kind, "-", " "))
	pair("Responsible", k.Circuit.By)
	pair("Their document", k.Circuit.Paper)
	pair("Category, level", fmt.Sprintf("%s, PL %s of %s required", blank(k.Circuit.Category), blank(k.Circuit.Reached),
		blank(k.Circuit.Required)))
	if k.Circuit.Kind == "controller" {
		pair("Program, checksum", k.Circuit.Program+" "+k.Circuit.Checksum)
	}
	pair("Drive", strings.TrimSpace(d.Rating.Dialect+" "+d.Rating.Type+" "+d.Rating.Serial))
	pair("Stops by", strings.ReplaceAll(d.Stop.As, "-", " "))
	pair("Worst speed, allowed", d.Stop.Speed.Text+", "+d.Stop.Allowed.Text)
	pair("Next proof test", k.Circuit.Next)
	tests, other, open := h.stopChecks()
	mended := h.mended(k)
	resets := pdf.Table{Title: "The way back: both resets in their order", Head: []string{"after", "do", "shows"},
		Widths: []float64{26, 110, 44}}
	for _, x := range k.Resets {
		resets.Rows = append(resets.Rows, []string{x.After, x.Do, x.Shows})
	}
	wires := pdf.Table{Title: "The circuit as drawn", Head: []string{"wire", "from", "to", "why"}, Widths: []float64{16, 46, 46, 72}}
	for _, w := range k.Drawing.Circuit.Wires {
		wires.Rows = append(wires.Rows, []string{w.ID, w.From, w.To, w.Why})
	}
	rec.Tables = append(rec.Tables, tests)
	if len(mended.Rows) > 0 {
		rec.Tables = append(rec.Tables, mended)
	}
	rec.Tables = append(rec.Tables, other, open, resets, wires)
	return rec
}

// stopChecks are the checks and findings of gate Stop: its tests, the others, and what is open.
func (h Head) stopChecks() (tests, other, open pdf.Table) {
	tests = pdf.Table{Title: "Tests, shaft still", Head: []string{"", "test", "shown", "who, when"}, Widths: []float64{18, 66, 70, 26}}
	other = pdf.Table{Title: "Before, measured, given", Head: []string{"", "check", "value", "who, when"},
		Widths: []float64{18, 82, 54, 26}}
	if !h.Drive.Stop.Alone {
		tests.Note = gate.FromSpeedOpen
	}
	open = pdf.Table{Title: "Open points", Head: []string{"", "point", "why"}, Widths: []float64{18, 72, 90}}
	words := map[gate.Verdict]string{gate.Holds: "holds", gate.Stops: "STOPS", gate.Again: "again", gate.Waived: "waived",
		gate.NotDone: "open"}
	for _, g := range h.State.Gates {
		if g.Key != "stop" {
			continue
		}
		for _, x := range g.Checks {
			who, value := h.signed(x.By, x.At), valueOf(x)
			if strings.HasPrefix(x.Key, gate.TestPrefix) {
				tests.Rows = append(tests.Rows, []string{words[x.Verdict], x.Title, strings.TrimSpace(value + " " + x.Detail), who})
			} else {
				other.Rows = append(other.Rows,
					[]string{words[x.Verdict], x.Title, strings.TrimSpace(value + " " + x.Unit + " " + x.Reason), who})
			}
			if x.Verdict != gate.Holds {
				open.Rows = append(open.Rows, []string{words[x.Verdict], x.Title, strings.TrimSpace(x.Detail + " " + x.Reason)})
			}
		}
	}
	for _, f := range h.State.Findings {
		if f.Gate == "stop" && f.Severity.Open() {
			why := f.Detail
			if f.Kept {
				why = "kept: " + f.Reason
			}
			open.Rows = append(open.Rows, []string{string(f.Severity), f.Title, why})
		}
	}
	return tests, other, open
}

// mended is what failed and what was done about it, in their order.
func (h Head) mended(k Circuit) pdf.Table {
	out := pdf.Table{Title: "Tests that failed, and what was mended",
		Head: []string{"", "test or mend", "shown, or what was done", "who, when"}, Widths: []float64{18, 56, 80, 26}}
	failed := k.Failed
	for _, en := range k.Mends {
		ev, ok := drivefile.Contents[drivefile.Evidence](en)
		if !ok {
			continue
		}
		for ; len(failed) > 0 && failed[0].Entry.Seq < en.Seq; failed = failed[1:] {
			out.Rows = append(out.Rows, h.failedRow(failed[0]))
		}
		row := []string{"mend", map[string]string{"wire": "a wire", "part": "a part"}[ev.Value], ev.Reason, h.signed(en.By, en.At)}
		if ev.Value != "wire" && ev.Value != "part" {
			row[0], row[1] = "none", "nothing: it was misread"
		}
		out.Rows = append(out.Rows, row)
	}
	for _, f := range failed {
		out.Rows = append(out.Rows, h.failedRow(f))
	}
	return out
}

func (h Head) failedRow(f gate.StopFailure) []string {
	return []string{"FAILED", f.Test.Title, f.Shown, h.signed(f.Entry.By, f.Entry.At)}
}
