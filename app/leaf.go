package app

import (
	"context"
	"fmt"
	"strings"
	"time"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/formats/pdf"
)

// leaf is a drive's paper half made: its head is written, its tables are not. mark stands beside the place, says opens the foot.
func (a *App) leaf(p drivefile.Place, d drivefile.Drive, of, mark, says string) pdf.Record {
	made := a.now().UTC().Truncate(time.Second)
	title := strings.TrimSpace(d.Tag + " " + d.Machine)
	if of != "" {
		title = of + ": " + title
	}
	return pdf.Record{Banner: bannerOf(p), Title: title, Subtitle: p.Name + " · " + orBlank(d.Where) + " · " + mark, Made: made,
		Foot: fmt.Sprintf("Tin Gate %s · %s · printed %s", a.version, says, made.In(zone(p)).Format("2006-01-02 15:04 MST"))}
}

// bannerOf stands on every page of a simulated place.
func bannerOf(p drivefile.Place) string {
	if p.Kind != drivefile.Simulated {
		return ""
	}
	return "SIMULATED: nothing on this page is of a real machine"
}

// placed is a drive as it stands, with its place.
func (a *App) placed(ctx context.Context, driveID string) (View, drivefile.Place, error) {
	r := a.store.Read(ctx)
	v, err := a.view(r, Actor{}, driveID)
	if err != nil {
		return v, drivefile.Place{}, err
	}
	_, p, err := placeOf(r, v.Drive.Place)
	return v, p, err
}

// verdictWord is a check's verdict on paper; empty while it is open.
var verdictWord = map[string]string{gate.Holds: "done", gate.Stops: "STOPS", gate.Again: "again", gate.Waived: "waived"}

// signed is who answered, and when; empty while nobody did.
func signed(p drivefile.Place, by, at string) string {
	if by == "" {
		return ""
	}
	return initials(p, by) + " " + short(at, p)
}

// valueOf is what was read; a confirmation has nothing to read.
func valueOf(c gate.Check) string {
	if c.Value == "confirmed" {
		return ""
	}
	return c.Value
}
