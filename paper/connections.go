package paper

import (
	"fmt"
	"strings"

	"tingate/core/gate"
	"tingate/formats/pdf"
)

// Connections is the connection list for the panel's door and for the one who lands the wires: every wire with its two ends, what was
// landed and measured, and room for the rest; then what each terminal does, and the switches and links to set.
func Connections(h Head, w gate.WiringState) pdf.Record {
	d, landed, measured := h.Drive, 0, 0
	wires := pdf.Table{Title: "Wires",
		Note: "Dead work. Read the strip's name with the number. Landed at both ends first, then measured from end to end.",
		Head: []string{"wire", "from", "to", "colour, size, screen", "why", "landed", "Ω"}, Widths: []float64{13, 24, 24, 38, 45, 24, 12}}
	for _, x := range w.Wires {
		mark := verdictWord[x.Landed]
		if x.Landed == gate.Holds {
			landed++
			mark = h.Place.InitialsOf(x.LandedBy)
		}
		if x.Measured == gate.Holds {
			measured++
		}
		how := strings.Join(nonEmpty(x.Colour, x.Area, prefixed("screen ", x.Screen)), ", ")
		wires.Rows = append(wires.Rows, []string{x.ID, x.From, x.To, how, x.Why, mark, x.Value})
	}
	rec := h.leaf("Connections", fmt.Sprintf("%d wires, %d landed, %d measured", len(w.Wires), landed, measured),
		fmt.Sprintf("version %d of this drive file · sizes and colours as the practice says, by your local code; the maker's manual "+
			"comes first", h.Version))
	rec.Signatures = []string{"Landed by, date", "Measured by, date", "Seen by a second person, date"}
	pair := func(label, value string) {
		rec.Facts = append(rec.Facts, pdf.Pair{Label: label, Value: blank(value)})
	}
	pair("Drive", strings.TrimSpace(d.Rating.Dialect+" "+d.Rating.Type))
	pair("Serial", d.Rating.Serial)
	pair("Inputs", map[string]string{"source": "take plus 24 V", "sink": "drawn to 0 V"}[d.Wiring.Logic])
	pair("24 V from", map[string]string{"drive": "the drive", "outside": "outside, shared 0 V"}[d.Wiring.Supply])
	does := pdf.Table{Title: "What each terminal does", Head: []string{"terminal", "does", "setting", "takes away"},
		Widths: []float64{24, 66, 40, 50}}
	for _, x := range w.Assigns {
		does.Rows = append(does.Rows, []string{x.Terminal, x.Text, x.Setting, x.Takes})
	}
	checks := pdf.Table{Title: "Switches, links, screws, cables", Head: []string{"", "step", "wanted", "read", "who, when"},
		Widths: []float64{16, 90, 28, 18, 28}}
	for _, g := range h.State.Gates {
		if g.Key != "control" {
			continue
		}
		for _, c := range g.Checks {
			if c.Group != "Wires" && c.Work == "dead" {
				checks.Rows = append(checks.Rows, []string{verdictWord[c.Verdict], c.Title, c.Band, valueOf(c), h.signed(c.By, c.At)})
			}
		}
	}
	for _, t := range []pdf.Table{wires, does, checks} {
		if len(t.Rows) > 0 {
			rec.Tables = append(rec.Tables, t)
		}
	}
	return rec
}

// nonEmpty are those that say something.
func nonEmpty(all ...string) []string {
	var l []string
	for _, s := range all {
		if s != "" {
			l = append(l, s)
		}
	}
	return l
}

// prefixed is s behind a word; nothing when s is empty.
func prefixed(word, s string) string {
	if s == "" {
		return ""
	}
	return word + s
}
