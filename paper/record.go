package paper

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/formats/pdf"
)

// Answer is how a finding of the plate was answered in the drive's history.
type Answer struct {
	Title, How, By, At string
}

// Kept is what a record prints beside the drive as it stands: what was recorded, what an edit corrected, and the files; nothing for a file
// that was lost.
type Kept struct {
	Entries   []drivefile.Entry // of the drive
	OfPlace   []drivefile.Entry
	Corrected []Answer
	File      func(sha256 string) []byte
}

// Record is a drive's record before it is set on pages: what its bundle has, in words.
func Record(h Head, k Kept) pdf.Record {
	d := h.Drive
	rec := h.leaf("", "drive record", fmt.Sprintf("%s · version %d of this drive file", h.Family, h.Version))
	rec.Signatures = []string{"Commissioned by, date", "Accepted by, date"}
	rec.Facts = []pdf.Pair{{Label: "Drive family", Value: d.Rating.Dialect}, {Label: "Drive type", Value: d.Rating.Type},
		{Label: "Drive serial", Value: d.Rating.Serial}, {Label: "Rated current", Value: d.Rating.Current.Text},
		{Label: "Motor type", Value: d.Motor.MakersType}, {Label: "Motor serial", Value: d.Motor.Serial},
		{Label: "Frame", Value: d.Motor.Frame},
		{Label: "Insulation, duty", Value: strings.TrimSpace(d.Motor.Insulation + " " + d.Motor.Duty)}}
	if d.Rating.NoSerial && d.Rating.Serial == "" {
		rec.Facts[2].Value = "not legible"
	}
	if d.Motor.NoSerial && d.Motor.Serial == "" {
		rec.Facts[5].Value = "not legible"
	}
	files, pictures := h.keptFiles(k.File)
	rec.Tables = append(rec.Tables, h.standsTable(), h.plateTable(), h.figureTable(), h.intentTable(), h.enteredTable(), h.sheetTable(),
		h.findingTable(k.Corrected), h.gateTable(), h.suppliesTable(k.OfPlace))
	for _, t := range append([]pdf.Table{h.temporaryTable(k.Entries), files}, h.snapshotTables(k.Entries)...) {
		if len(t.Rows) > 0 {
			rec.Tables = append(rec.Tables, t)
		}
	}
	rec.Pictures = pictures
	return rec
}

// standsTable is what a reader of the record must see first: how it stands, what was left out and by whom, what is still open.
func (h Head) standsTable() pdf.Table {
	t := pdf.Table{Title: "How it stands", Head: []string{"", "", "who, when"}, Widths: []float64{40, 112, 28}}
	add := func(what, text, who string) { t.Rows = append(t.Rows, []string{what, text, who}) }
	band := map[drivefile.EnergyState]string{drivefile.Live: "LIVE", drivefile.Dead: "DEAD, proved",
		drivefile.NotKnown: "NOT KNOWN, treat as live"}[h.State.Energy.State]
	add("Energy, as printed", band+". "+h.State.Energy.Text, "")
	for _, g := range h.State.Gates {
		mark := map[gate.Mark]string{gate.Passed: "passed", gate.LookAgain: "passed, changed since", gate.Barred: "barred",
			gate.Open: "in work", gate.Shut: "not begun"}[g.Mark]
		add(g.Name, mark+", "+heldOf(g), h.signed(g.PassedBy, g.PassedAt))
	}
	if !h.Drive.Stop.Alone && !h.Drive.Stop.None {
		add("Stop, from speed", strings.TrimPrefix(gate.FromSpeedOpen, "Stops from speed: "), "")
	}
	for _, g := range h.State.Gates {
		for _, c := range g.Checks {
			if c.Verdict == gate.Waived {
				add("WAIVED, "+g.Name, c.Title+". Reason: "+c.Reason, h.signed(c.By, c.At))
			}
		}
	}
	for _, x := range h.State.Temporary {
		add("STILL IN", fmt.Sprintf("%s at %s: %s; until %s", strings.ReplaceAll(x.What, "-", " "), x.Where, x.Why, x.Until),
			h.signed(x.By, x.At))
	}
	for _, f := range h.State.Findings {
		if f.Severity.Open() && !f.Kept {
			add("OPEN", f.Title+". "+f.Detail, "")
		}
	}
	return t
}

// enteredTable is every field of the drive's file that has something in it, but those that the plate's and the wishes' tables have.
func (h Head) enteredTable() pdf.Table {
	t := pdf.Table{Title: "Entered", Head: []string{"", "as entered", "understood as"}, Widths: []float64{60, 70, 50}}
	for _, op := range drivefile.FromStruct(h.Drive).Leaves() {
		if strings.HasPrefix(op.Path, "intent.") || strings.HasPrefix(op.Path, "motor.rows.") || op.Path == "schema" ||
			op.Path == "place" || op.Path == "motor.linked" {
			continue
		}
		text := drivefile.TextOf(op.New)
		switch {
		case strings.HasPrefix(op.Path, "supplies."):
			text = h.Place.Supplies[strings.TrimPrefix(op.Path, "supplies.")].Name
		case op.Path == "stop.circuit":
			text = h.Place.Circuits[text].Name
		default:
			if f, err := drivefile.Lookup(drivefile.KindDrive, op.Path); err == nil && (f.Bool || len(f.Choices) > 0) {
				text = drivefile.Words(f, text)
			}
		}
		t.Rows = append(t.Rows, []string{drivefile.Called(op.Path), text, h.State.Shown[op.Path]})
	}
	return t
}

// answered is what a check was answered with: the option in its words, the reading with its unit, its band and its instrument, and why.
func answered(c gate.Check) string {
	var l []string
	value := valueOf(c)
	for _, o := range c.Options {
		if o.Value == c.Value {
			value = o.Text
		}
	}
	if value != "" {
		l = append(l, strings.TrimSpace(value+" "+c.Unit))
	}
	if c.Band != "" && value != "" {
		l = append(l, "wanted "+c.Band)
	}
	if c.With != "" {
		l = append(l, "with "+c.With)
	}
	if c.Reason != "" {
		l = append(l, "reason: "+c.Reason)
	}
	return strings.Join(l, "; ")
}

// suppliesTable is what feeds the drive, and what is recorded of it.
func (h Head) suppliesTable(entries []drivefile.Entry) pdf.Table {
	t := pdf.Table{Title: "What feeds it", Head: []string{"supply", "what is recorded", "who, when"}, Widths: []float64{46, 106, 28}}
	for _, x := range h.State.Sources {
		sup := h.Place.Supplies[x.ID]
		about := []string{sup.Voltage.Text, sup.Frequency.Text, strings.ReplaceAll(x.Kind, "-", " ")}
		if sup.Isolator != "" {
			about = append(about, "opened by "+sup.Isolator+" "+sup.At)
		}
		if sup.Arc != "" {
			about = append(about, "arc energy "+sup.Arc)
		}
		t.Rows = append(t.Rows, []string{x.Name,
			strings.Join(slices.DeleteFunc(about, func(a string) bool { return strings.TrimSpace(a) == "" }), ", "), ""})
		for _, en := range entries {
			text := ""
			switch en.Kind {
			case drivefile.EntryEnergy:
				if b, ok := drivefile.Contents[drivefile.Energy](en); ok && b.Supply == x.ID {
					text = map[drivefile.EnergyState]string{drivefile.Live: "LIVE", drivefile.Dead: "DEAD",
						drivefile.NotKnown: "NOT KNOWN"}[b.State]
					for _, more := range [][2]string{{strings.Join(b.Volts, " / "), ": %s V"}, {b.Told, "; told: %s"}, {b.Note, "; %s"},
						{b.Against, "; against open lines: %s"}, {strings.Join(b.Open, "; "), " (%s)"},
						{h.Place.Instruments[b.Meter].Number, "; with %s"}} {
						if more[0] != "" {
							text += fmt.Sprintf(more[1], strings.TrimSuffix(more[0], " V"))
						}
					}
				}
			case drivefile.EntryLock:
				if b, ok := drivefile.Contents[drivefile.Lock](en); ok && (b.Supply == x.ID || b.Supply == x.Point) {
					text = "lock " + strings.ReplaceAll(b.Act, "-", " ") + ", of " + h.Place.InitialsOf(b.Owner)
					for _, more := range [][2]string{{b.Key, "; key %s"}, {b.Told, "; told: %s"}, {b.Reason, "; %s"}} {
						if more[0] != "" {
							text += fmt.Sprintf(more[1], more[0])
						}
					}
				}
			}
			if text != "" {
				t.Rows = append(t.Rows, []string{"", text, h.Place.SignedBy(en) + " " + h.short(en.At)})
			}
		}
	}
	return t
}

// snapshotTable is settings as they stood: as found, as left, a builder's preset.
func (h Head) snapshotTables(entries []drivefile.Entry) []pdf.Table {
	var l []pdf.Table
	for _, en := range entries {
		b, ok := drivefile.Contents[drivefile.Snapshot](en)
		if !ok {
			continue
		}
		title := strings.ReplaceAll(b.Name, "-", " ")
		if b.Late {
			title += ", found late"
		}
		if b.Label != "" {
			title += ": " + b.Label
		}
		note := fmt.Sprintf("%d settings, %s, %s %s", len(b.Values), h.Place.SignedBy(en), h.short(en.At), b.Dialect)
		if b.Serial != "" {
			note += "; drive serial " + b.Serial
		}
		t := pdf.Table{Title: strings.ToUpper(title[:1]) + title[1:], Note: note + ".",
			Head: []string{"code", "value", "code", "value", "code", "value"}, Widths: []float64{30, 30, 30, 30, 30, 30}}
		row := []string{}
		for _, code := range slices.Sorted(maps.Keys(b.Values)) {
			if row = append(row, code, b.Values[code].Text); len(row) == 6 {
				t.Rows, row = append(t.Rows, row), []string{}
			}
		}
		for len(row) > 0 && len(row) < 6 {
			row = append(row, "")
		}
		if len(row) > 0 {
			t.Rows = append(t.Rows, row)
		}
		l = append(l, t)
	}
	return l
}

// temporaryTable is every temporary thing that was ever in, and what became of it.
func (h Head) temporaryTable(entries []drivefile.Entry) pdf.Table {
	t := pdf.Table{Title: "Temporary things, put in and taken out", Head: []string{"", "", "who, when"}, Widths: []float64{20, 132, 28}}
	named := map[string]string{}
	for _, en := range entries {
		b, ok := drivefile.Contents[drivefile.Temporary](en)
		if !ok {
			continue
		}
		who := h.Place.SignedBy(en) + " " + h.short(en.At)
		if b.Gone != "" {
			t.Rows = append(t.Rows, []string{"out", strings.TrimSpace(named[b.Gone] + ". " + b.How), who})
			continue
		}
		named[en.ID] = strings.ReplaceAll(b.What, "-", " ") + " at " + b.Where
		t.Rows = append(t.Rows, []string{"in", fmt.Sprintf("%s: %s; until %s", named[en.ID], b.Why, b.Until), who})
	}
	return t
}
