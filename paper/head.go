// Package paper says what is printed: a drive as it stands in, pages out. What a page permits or refuses is nobody's here: it shows what
// holds, who signed, and what is open.
package paper

import (
	"fmt"
	"strings"
	"time"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/formats/pdf"
)

// Head is a drive as it stands, and what is written at the top and the foot of each of its papers.
type Head struct {
	Place   drivefile.Place
	Drive   drivefile.Drive
	State   gate.State
	Family  string         // name and version
	Version int64          // of the drive file
	Program string         // version of the program
	Made    time.Time      // UTC
	Zone    *time.Location // of the place
}

// leaf is a drive's paper half made: its head is written, its tables are not. of is what the paper is about, mark stands beside the place,
// says opens the foot.
func (h Head) leaf(of, mark, says string) pdf.Record {
	made := h.Made.UTC().Truncate(time.Second)
	title := strings.TrimSpace(h.Drive.Tag + " " + h.Drive.Machine)
	if of != "" {
		title = of + ": " + title
	}
	return pdf.Record{Banner: Banner(h.Place), Title: title, Subtitle: h.Place.Name + " · " + blank(h.Drive.Where) + " · " + mark,
		Made: made,
		Foot: fmt.Sprintf("Tin Gate %s · %s · printed %s", h.Program, says, made.In(h.Zone).Format("2006-01-02 15:04 MST"))}
}

// Banner stands on every page of a simulated place.
func Banner(p drivefile.Place) string {
	if p.Kind != drivefile.Simulated {
		return ""
	}
	return "SIMULATED: nothing on this page is of a real machine"
}

// short is a time in the place's zone; what is no time stays as it is.
func (h Head) short(at string) string {
	t, err := time.Parse(time.RFC3339, at)
	if err != nil {
		return at
	}
	return t.In(h.Zone).Format("2006-01-02 15:04")
}

// signed is who answered, and when; empty while nobody did.
func (h Head) signed(by, at string) string {
	if by == "" {
		return ""
	}
	return h.Place.InitialsOf(by) + " " + h.short(at)
}

func blank(s string) string {
	if s == "" {
		return "blank"
	}
	return s
}

// verdictWord is a check's verdict on paper; empty while it is open.
var verdictWord = map[gate.Verdict]string{gate.Holds: "done", gate.Stops: "STOPS", gate.Again: "again", gate.Waived: "waived"}

// valueOf is what was read; a confirmation has nothing to read.
func valueOf(c gate.Check) string {
	if c.Value == "confirmed" {
		return ""
	}
	return c.Value
}
