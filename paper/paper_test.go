package paper_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/stops"
	"tingate/formats/pdf"
	"tingate/paper"
)

func head(kind string) paper.Head {
	h := paper.Head{Place: drivefile.Place{Name: "Old Slip", Kind: kind, People: map[string]drivefile.Person{"rh": {Initials: "RH"}}},
		Family: "Tarn 5", Version: 7, Program: "test", Made: time.Date(2026, 11, 25, 10, 30, 15, 5, time.UTC),
		Zone: time.FixedZone("", 3600)}
	h.Drive.Tag = "DD-02"
	h.State.Gates = []gate.Gate{{Key: "dead", Name: "Dead", Mark: "work", Done: 3, Waived: 1, Total: 9, Checks: []gate.Check{
		{Key: "dead/shaft/blocked", Title: "Shaft blocked", Verdict: gate.Holds, Value: "confirmed", By: "rh",
			At: "2026-11-25T09:41:00.000Z"}, {Key: "dead/x", Title: "Left out", Verdict: gate.Waived, Reason: "by I. Brekke", By: "gone"}}}}
	return h
}

// Every paper of a simulated place says so on its pages, none of a real one does; each names the drive, its place and when it was printed,
// in the place's time, and prints of a drive of which hardly anything is known.
func TestEveryPaperSaysWhatItIsOf(t *testing.T) {
	for _, kind := range []string{drivefile.Real, drivefile.Simulated} {
		h := head(kind)
		for name, p := range map[string]pdf.Record{
			"record": paper.Record(h, paper.Kept{File: func(string) []byte { return nil }}), "isolation": paper.Isolation(h),
			"connections": paper.Connections(h, gate.NoWiring()),
			"stop": paper.Stop(h, paper.Circuit{Drawing: stops.Draw(stops.Draft(stops.Spec{Devices: []stops.SpecDevice{{ID: "S1",
				Kind: "emergency-stop"}}}), false)}),
		} {
			if strings.Contains(p.Banner, "SIMULATED") != (kind == drivefile.Simulated) {
				t.Errorf("%s of a %s place: %q", name, kind, p.Banner)
			}
			if !strings.Contains(p.Title, "DD-02") || !strings.Contains(p.Subtitle, "Old Slip") ||
				!strings.Contains(p.Foot, "2026-11-25 11:30") || p.Made.Nanosecond() != 0 {
				t.Errorf("%s: %q %q %q", name, p.Title, p.Subtitle, p.Foot)
			}
			if raw, err := p.Write(); err != nil || len(raw) < 500 {
				t.Errorf("%s: %d bytes, %v", name, len(raw), err)
			}
		}
	}
	text := fmt.Sprint(paper.Record(head(drivefile.Real), paper.Kept{File: func(string) []byte { return nil }}).Tables)
	for _, want := range []string{"2 of 9, 1 waived", "RH 2026-11-25 10:41", "WAIVED, Dead", "by I. Brekke", "– "} {
		if !strings.Contains(text, want) {
			t.Errorf("the record lacks %q:\n%s", want, text)
		}
	}
}

func ExampleBanner() {
	fmt.Println(paper.Banner(drivefile.Place{Kind: drivefile.Simulated}))
	// Output: SIMULATED: nothing on this page is of a real machine
}
