package demo

import (
	"context"
	"net"
	"testing"
	"time"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/yard"
	"tingate/core/drivefile"
	"tingate/store"
)

func filled(t *testing.T, drives int) (*app.App, yard.PlaceView) {
	t.Helper()
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	a := app.New(s, time.Now, "test")
	if err := Fill(context.Background(), a, drives); err != nil {
		t.Fatal(err)
	}
	places, err := a.Places(context.Background())
	if err != nil || len(places) != 1 {
		t.Fatalf("%d places, %v", len(places), err)
	}
	return a, places[0]
}

// Out of the box, the drive that the stand-in plays is read and written; a busy port only moves it.
func TestTheStandInWorksOutOfTheBoxEvenOnABusyPort(t *testing.T) {
	ctx := context.Background()
	a, place := filled(t, 0)
	busy, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer busy.Close()
	d, err := StandIn(ctx, a, busy.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer d.Stop()
	page, err := a.Yard(ctx, store.YardQuery{Place: place.ID, Text: BenchTag})
	if err != nil || len(page.Rows) != 1 {
		t.Fatalf("%v %v", page, err)
	}
	who := base.Actor{}
	for id := range place.Place.People {
		who.Person = id
	}
	id := page.Rows[0].ID
	res, err := a.ReadDrive(ctx, who, id, "as-found", nil)
	if err != nil || res.Outcome != "read" {
		t.Fatalf("%+v %v", res, err)
	}
	w, err := a.WriteSetting(ctx, who, id, base.NewID(), "4D", false)
	if err != nil || w.Outcome != "held" {
		t.Fatalf("%+v %v", w, err)
	}
	v, err := a.Drive(ctx, who, id)
	if err != nil || v.Drive.Link.Address != d.Address() {
		t.Errorf("%s, %v", v.Drive.Link.Address, err)
	}
}

// The demo shows drives in different states: one of each mark at least.
func TestTheDemoShowsEveryMark(t *testing.T) {
	a, place := filled(t, 0)
	page, err := a.Yard(context.Background(), store.YardQuery{Place: place.ID})
	if err != nil || len(page.Rows) != 9 {
		t.Fatalf("%d drives, %v", len(page.Rows), err)
	}
	seen := map[string]bool{}
	for _, r := range page.Rows {
		for _, m := range r.Marks {
			seen[m] = true
		}
	}
	for _, m := range []string{"shut", "work", "passed", "again", "barred"} {
		if !seen[m] {
			t.Errorf("no drive shows %s", m)
		}
	}
}

func TestManyDrivesHoldThreeHundredValuesEach(t *testing.T) {
	a, place := filled(t, 12)
	page, err := a.Yard(context.Background(), store.YardQuery{Place: place.ID})
	if err != nil || len(page.Rows) != 12 {
		t.Fatalf("%d drives, %v", len(page.Rows), err)
	}
	v, err := a.Drive(context.Background(), base.Actor{}, page.Rows[0].ID)
	if err != nil {
		t.Fatal(err)
	}
	values := 0
	for _, s := range v.State.Snapshots {
		values += s.Count
	}
	if values < 300 || v.Drive.Schema != drivefile.Schema {
		t.Errorf("%d values", values)
	}
}

// What the demo was made to show it shows by the rules of today: a rule that changed without the plant being made anew is found here.
func TestKeptDrivesAreKeptStill(t *testing.T) {
	a, place := filled(t, 0)
	for _, tag := range []string{"BP-02", "CV-06", "WN-01"} {
		page, err := a.Yard(context.Background(), store.YardQuery{Place: place.ID, Text: tag, Limit: 5})
		if err != nil || len(page.Rows) != 1 {
			t.Fatalf("%s: %v %v", tag, page, err)
		}
		for i, mark := range page.Rows[0].Marks {
			if mark != "passed" {
				t.Errorf("%s: mark %d is %s, next %s: %s", tag, i, mark, page.Rows[0].Next, page.Rows[0].NextDetail)
			}
		}
	}
}
