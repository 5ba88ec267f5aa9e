package paper

import (
	"fmt"
	"strings"

	"tingate/formats/pdf"
)

// Isolation is what is to be opened, locked, waited for and measured at a drive, with what is done already and room for the rest. It
// permits nothing.
func Isolation(h Head) pdf.Record {
	d, s := h.Drive, h.State
	rec := h.leaf("Isolation", strings.ToUpper(strings.ReplaceAll(string(s.Energy.State), "-", " ")),
		fmt.Sprintf("practice %s %s · unknown is live, torque off is not isolation, the local rules and the maker's manual come first",
			s.Practice.Title, s.Practice.Version))
	rec.Signatures = []string{"Isolated and proved dead by, date, time", "Switched on again by, date, time"}
	rec.Facts = []pdf.Pair{{Label: "Limit", Value: fmt.Sprintf("%.0f V DC", s.Discharge.Limit)},
		{Label: "Wait", Value: fmt.Sprintf("%.0f min, %s", s.Wait.Minutes, s.Wait.Source)},
		{Label: "Drive", Value: strings.TrimSpace(d.Rating.Dialect + " " + d.Rating.Type)}, {Label: "Serial", Value: d.Rating.Serial}}
	sources := pdf.Table{Title: "Open and lock", Head: []string{"source", "kind", "V", "opened by", "where", "locks"},
		Widths: []float64{40, 24, 16, 34, 34, 32}}
	for _, x := range s.Sources {
		var locks []string
		for _, l := range x.Locks {
			locks = append(locks, strings.TrimSpace(h.Place.InitialsOf(l.Owner)+" "+l.Key)+" "+h.short(l.Since))
		}
		sources.Rows = append(sources.Rows, []string{x.Name, x.Kind, x.Volts, x.Isolator, x.At, strings.Join(locks, ", ")})
	}
	steps := pdf.Table{Title: "Steps and measurements", Head: []string{"", "step", "wanted", "read", "meter", "who, when"},
		Widths: []float64{14, 74, 24, 18, 26, 24}}
	for _, g := range s.Gates {
		if g.Key != "dead" {
			continue
		}
		for _, c := range g.Checks {
			steps.Rows = append(steps.Rows, []string{verdictWord[c.Verdict], c.Title, c.Band, valueOf(c), c.With, h.signed(c.By, c.At)})
		}
	}
	rec.Tables = append(rec.Tables, sources, steps)
	return rec
}
