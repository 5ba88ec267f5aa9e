package app

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // photos are kept as they came
	"slices"
	"strings"

	"golang.org/x/image/draw"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/formats/pdf"
	"tingate/store"
)

// standsTable is what a reader of the record must see first: how it stands, what was left out and by whom, what is still open.
func standsTable(v View, p drivefile.Place) pdf.Table {
	s := v.State
	t := pdf.Table{Title: "How it stands", Head: []string{"", "", "who, when"}, Widths: []float64{40, 112, 28}}
	add := func(what, text, who string) { t.Rows = append(t.Rows, []string{what, text, who}) }
	band := map[string]string{"live": "LIVE", "dead": "DEAD, proved", "not-known": "NOT KNOWN, treat as live"}[s.Energy.State]
	add("Energy, as printed", band+". "+s.Energy.Text, "")
	for _, g := range s.Gates {
		mark := map[string]string{"passed": "passed", "again": "passed, changed since", "barred": "barred", "work": "in work", "shut": "not begun"}[g.Mark]
		add(g.Name, mark+", "+heldOf(g), signed(p, g.PassedBy, g.PassedAt))
	}
	if !v.Drive.Stop.Alone && !v.Drive.Stop.None {
		add("Stop, from speed", strings.TrimPrefix(gate.FromSpeedOpen, "Stops from speed: "), "")
	}
	for _, g := range s.Gates {
		for _, c := range g.Checks {
			if c.Verdict == gate.Waived {
				add("WAIVED, "+g.Name, c.Title+". Reason: "+c.Reason, signed(p, c.By, c.At))
			}
		}
	}
	for _, x := range s.Temporary {
		add("STILL IN", fmt.Sprintf("%s at %s: %s; until %s", strings.ReplaceAll(x.What, "-", " "), x.Where, x.Why, x.Until), signed(p, x.By, x.At))
	}
	for _, f := range s.Findings {
		if f.Severity.Open() && !f.Kept {
			add("OPEN", f.Title+". "+f.Detail, "")
		}
	}
	return t
}

// enteredTable is every field of the drive's file that has something in it, but those that the plate's and the wishes' tables have.
func enteredTable(d drivefile.Drive, s gate.State, p drivefile.Place) pdf.Table {
	t := pdf.Table{Title: "Entered", Head: []string{"", "as entered", "understood as"}, Widths: []float64{60, 70, 50}}
	for _, op := range drivefile.FromStruct(d).Leaves() {
		if strings.HasPrefix(op.Path, "intent.") || strings.HasPrefix(op.Path, "motor.rows.") || op.Path == "schema" || op.Path == "place" || op.Path == "motor.linked" {
			continue
		}
		text := textOf(op.New)
		switch {
		case strings.HasPrefix(op.Path, "supplies."):
			text = p.Supplies[strings.TrimPrefix(op.Path, "supplies.")].Name
		case op.Path == "stop.circuit":
			text = p.Circuits[text].Name
		default:
			if f, err := drivefile.Lookup(drivefile.KindDrive, op.Path); err == nil && (f.Bool || len(f.Choices) > 0) {
				text = drivefile.Words(f, text)
			}
		}
		t.Rows = append(t.Rows, []string{drivefile.Called(op.Path), text, s.Shown[op.Path]})
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
func suppliesTable(s gate.State, p drivefile.Place, entries []drivefile.Entry) pdf.Table {
	t := pdf.Table{Title: "What feeds it", Head: []string{"supply", "what is recorded", "who, when"}, Widths: []float64{46, 106, 28}}
	for _, x := range s.Sources {
		sup := p.Supplies[x.ID]
		about := []string{sup.Voltage.Text, sup.Frequency.Text, strings.ReplaceAll(x.Kind, "-", " ")}
		if sup.Isolator != "" {
			about = append(about, "opened by "+sup.Isolator+" "+sup.At)
		}
		if sup.Arc != "" {
			about = append(about, "arc energy "+sup.Arc)
		}
		t.Rows = append(t.Rows, []string{x.Name, strings.Join(slices.DeleteFunc(about, func(a string) bool { return strings.TrimSpace(a) == "" }), ", "), ""})
		for _, en := range entries {
			text := ""
			switch en.Kind {
			case drivefile.EntryEnergy:
				var b drivefile.Energy
				if json.Unmarshal(en.Body, &b) == nil && b.Supply == x.ID {
					text = map[string]string{"live": "LIVE", "dead": "DEAD", "not-known": "NOT KNOWN"}[b.State]
					for _, more := range [][2]string{{strings.Join(b.Volts, " / "), ": %s V"}, {b.Told, "; told: %s"}, {b.Note, "; %s"}, {b.Against, "; against open lines: %s"}, {strings.Join(b.Open, "; "), " (%s)"}, {p.Instruments[b.Meter].Number, "; with %s"}} {
						if more[0] != "" {
							text += fmt.Sprintf(more[1], strings.TrimSuffix(more[0], " V"))
						}
					}
				}
			case drivefile.EntryLock:
				var b drivefile.Lock
				if json.Unmarshal(en.Body, &b) == nil && (b.Supply == x.ID || b.Supply == x.Point) {
					text = "lock " + strings.ReplaceAll(b.Act, "-", " ") + ", of " + initials(p, b.Owner)
					for _, more := range [][2]string{{b.Key, "; key %s"}, {b.Told, "; told: %s"}, {b.Reason, "; %s"}} {
						if more[0] != "" {
							text += fmt.Sprintf(more[1], more[0])
						}
					}
				}
			}
			if text != "" {
				t.Rows = append(t.Rows, []string{"", text, signedBy(p, en) + " " + short(en.At, p)})
			}
		}
	}
	return t
}

// snapshotTable is settings as they stood: as found, as left, a builder's preset.
func snapshotTables(entries []drivefile.Entry, p drivefile.Place) []pdf.Table {
	var l []pdf.Table
	for _, en := range entries {
		var b drivefile.Snapshot
		if en.Kind != drivefile.EntrySnapshot || json.Unmarshal(en.Body, &b) != nil {
			continue
		}
		title := strings.ReplaceAll(b.Name, "-", " ")
		if b.Late {
			title += ", found late"
		}
		if b.Label != "" {
			title += ": " + b.Label
		}
		note := fmt.Sprintf("%d settings, %s, %s %s", len(b.Values), signedBy(p, en), short(en.At, p), b.Dialect)
		if b.Serial != "" {
			note += "; drive serial " + b.Serial
		}
		t := pdf.Table{Title: strings.ToUpper(title[:1]) + title[1:], Note: note + ".", Head: []string{"code", "value", "code", "value", "code", "value"}, Widths: []float64{30, 30, 30, 30, 30, 30}}
		row := []string{}
		for _, code := range sortedKeys(b.Values) {
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
func temporaryTable(entries []drivefile.Entry, p drivefile.Place) pdf.Table {
	t := pdf.Table{Title: "Temporary things, put in and taken out", Head: []string{"", "", "who, when"}, Widths: []float64{20, 132, 28}}
	named := map[string]string{}
	for _, en := range entries {
		var b drivefile.Temporary
		if en.Kind != drivefile.EntryTemporary || json.Unmarshal(en.Body, &b) != nil {
			continue
		}
		who := signedBy(p, en) + " " + short(en.At, p)
		if b.Gone != "" {
			t.Rows = append(t.Rows, []string{"out", strings.TrimSpace(named[b.Gone] + ". " + b.How), who})
			continue
		}
		named[en.ID] = strings.ReplaceAll(b.What, "-", " ") + " at " + b.Where
		t.Rows = append(t.Rows, []string{"in", fmt.Sprintf("%s: %s; until %s", named[en.ID], b.Why, b.Until), who})
	}
	return t
}

// Pictures of a record: as large on paper, dots wide.
const (
	thumbnail  = 320
	mostPixels = 24_000_000 // of a photo that is made small; larger ones are named only
)

// keptFiles lists what is kept with a drive, and makes its photos small.
func keptFiles(r store.Reader, s gate.State, p drivefile.Place) (pdf.Table, []pdf.Picture) {
	t := pdf.Table{Title: "Photos, papers, runs", Head: []string{"of", "file", "SHA-256, from its beginning", "who, when"}, Widths: []float64{32, 64, 56, 28}}
	var pictures []pdf.Picture
	for _, a := range s.Attachments {
		of := strings.ReplaceAll(a.Of, "-", " ")
		t.Rows = append(t.Rows, []string{of, fmt.Sprintf("%s, %d kB", a.Name, (a.Size+999)/1000), a.SHA256[:min(len(a.SHA256), 24)], signed(p, a.By, a.At)})
		if !strings.HasPrefix(a.Type, "image/") {
			continue
		}
		_, raw, err := r.Attachment(a.SHA256)
		if err != nil {
			continue // what was lost is named by verify
		}
		if b := small(raw); b != nil {
			pictures = append(pictures, pdf.Picture{Title: of + ": " + a.Name, JPEG: b})
		}
	}
	return t, pictures
}

// small is a photo of at most so many dots; nil when it is none that can be read.
func small(raw []byte) []byte {
	c, _, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil || c.Width < 1 || c.Height < 1 || c.Width*c.Height > mostPixels {
		return nil
	}
	img, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil
	}
	k := min(1, float64(thumbnail)/float64(max(c.Width, c.Height)))
	out := image.NewRGBA(image.Rect(0, 0, max(1, int(float64(c.Width)*k)), max(1, int(float64(c.Height)*k))))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	draw.ApproxBiLinear.Scale(out, out.Bounds(), img, img.Bounds(), draw.Over, nil)
	var b bytes.Buffer
	if jpeg.Encode(&b, out, &jpeg.Options{Quality: 75}) != nil {
		return nil
	}
	return b.Bytes()
}
