package app

import (
	"context"
	"fmt"
	"strings"
	"time"

	"tingate/core/gate"
	"tingate/formats/pdf"
)

// IsolationSheet prints what is to be opened, locked, waited for and measured at a drive, with what is done already and room
// for the rest. It permits nothing.
func (a *App) IsolationSheet(ctx context.Context, driveID string) ([]byte, error) {
	r := a.store.Read(ctx)
	v, err := a.view(r, Actor{}, driveID)
	if err != nil {
		return nil, err
	}
	_, p, err := placeOf(r, v.Drive.Place)
	if err != nil {
		return nil, err
	}
	d, s := v.Drive, v.State
	made := a.now().UTC().Truncate(time.Second)
	rec := pdf.Record{Title: strings.TrimSpace("Isolation: " + d.Tag + " " + d.Machine), Subtitle: p.Name + " · " + orBlank(d.Where) + " · " + strings.ToUpper(strings.ReplaceAll(s.Energy.State, "-", " ")), Made: made,
		Foot:       fmt.Sprintf("Tin Gate %s · practice %s %s · printed %s. Unknown is live. Torque off is not isolation. The local rules and the maker's manual come first.", a.version, s.Practice.Title, s.Practice.Version, made.In(zone(p)).Format("2006-01-02 15:04 MST")),
		Signatures: []string{"Isolated and proved dead by, date, time", "Switched on again by, date, time"}}
	rec.Facts = []pdf.Pair{{Label: "Limit", Value: fmt.Sprintf("%.0f V DC", s.Discharge.Limit)}, {Label: "Wait", Value: fmt.Sprintf("%.0f min, %s", s.Wait.Minutes, s.Wait.Source)}, {Label: "Drive", Value: strings.TrimSpace(d.Rating.Dialect + " " + d.Rating.Type)}, {Label: "Serial", Value: d.Rating.Serial}}
	sources := pdf.Table{Title: "Open and lock", Head: []string{"source", "kind", "V", "opened by", "where", "locks"}, Widths: []float64{40, 24, 16, 34, 34, 32}}
	for _, x := range s.Sources {
		var locks []string
		for _, l := range x.Locks {
			locks = append(locks, strings.TrimSpace(initials(p, l.Owner)+" "+l.Key)+" "+short(l.Since, p))
		}
		sources.Rows = append(sources.Rows, []string{x.Name, x.Kind, x.Volts, x.Isolator, x.At, strings.Join(locks, ", ")})
	}
	steps := pdf.Table{Title: "Steps and measurements", Head: []string{"", "step", "wanted", "read", "meter", "who, when"}, Widths: []float64{14, 74, 24, 18, 26, 24}}
	for _, g := range s.Gates {
		if g.Key != "dead" {
			continue
		}
		for _, c := range g.Checks {
			who := ""
			if c.By != "" {
				who = initials(p, c.By) + " " + short(c.At, p)
			}
			done := map[string]string{gate.Holds: "done", gate.Stops: "STOPS", gate.Again: "again", gate.Waived: "waived"}[c.Verdict]
			value := c.Value
			if value == "confirmed" {
				value = ""
			}
			steps.Rows = append(steps.Rows, []string{done, c.Title, c.Band, value, c.With, who})
		}
	}
	rec.Tables = append(rec.Tables, sources, steps)
	return rec.Write()
}
