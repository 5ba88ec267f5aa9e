package isolation_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/isolation"
)

// Times of day as people write them; what is none is told, and the others count.
func TestTimesOfShifts(t *testing.T) {
	for text, want := range map[string][]int{"06:00, 14:00;22:00": {360, 840, 1320}, "0:00": {0}, "23:59 00:01": {1439, 1}, "7:05": {425},
		"": nil} {
		if got, ok := isolation.ParseShifts(text); !ok || !slices.Equal(got, want) {
			t.Errorf("%q: %v %v, want %v", text, got, ok, want)
		}
	}
	for _, text := range []string{"24:00", "06:60", "-1:00", "06:-1", "six", "6", "06:00:00", "06:xx", "xx:00", "06:00, 25:00"} {
		got, ok := isolation.ParseShifts(text)
		if ok || len(got) > 1 || len(got) == 1 && got[0] != 360 {
			t.Errorf("%q is read as %v", text, got)
		}
	}
}

// A time is shown in the place's zone, with its day when that is not today.
func TestTimesAreThePlaces(t *testing.T) {
	east := time.FixedZone("east", 2*3600)
	for _, c := range []struct {
		at, now string
		zone    *time.Location
		want    string
	}{
		{"2026-11-25T09:05:00Z", "2026-11-25T12:00:00Z", nil, "09:05"},
		{"2026-11-25T09:05:00Z", "2026-11-25T12:00:00Z", east, "11:05"},
		{"2026-11-25T22:30:00Z", "2026-11-25T22:59:00Z", east, "00:30"}, // the 26th there, and so is now
		{"2026-11-25T21:30:00Z", "2026-11-25T22:30:00Z", east, "25 Nov 23:30"},
		{"2026-11-24T09:05:00Z", "2026-11-25T12:00:00Z", nil, "24 Nov 09:05"},
		{"no time", "2026-11-25T12:00:00Z", nil, "no time"},
	} {
		now, err := time.Parse(time.RFC3339, c.now)
		if err != nil {
			t.Fatal(err)
		}
		if got := (isolation.Clock{Now: now, Zone: c.zone}).Show(c.at); got != c.want {
			t.Errorf("%s at %s: %q, want %q", c.at, c.now, got, c.want)
		}
	}
}

// A source without an isolator of its own is opened where what feeds it is opened, and hangs on the locks there; one with its own hangs on
// its own.
func TestWhereASourceIsOpened(t *testing.T) {
	place := drivefile.Place{Supplies: map[string]drivefile.Supply{
		"p1": {Name: "Panel P1", Isolator: "Q1", At: "panel"}, "c1": {Name: "Control", Kind: "control", FedFrom: "p1"},
		"h1": {Name: "Heater", Kind: "heater", FedFrom: "p1", Isolator: "F3", At: "door"}, "gone": {Name: "Of another drive"}}}
	drive := drivefile.Drive{Supplies: map[string]bool{"p1": true, "c1": true, "h1": true, "unknown": true}}
	all := isolation.ByID([]drivefile.Entry{entry(1, "lock", lock("on", "rh"))})
	got := isolation.Sources(drive, place, all, isolation.Clock{Now: begin.Add(time.Hour)})
	if len(got) != 3 {
		t.Fatalf("%+v", got)
	}
	by := map[string]isolation.Source{}
	for _, s := range got {
		by[s.ID] = s
	}
	for id, want := range map[string]isolation.Source{"p1": {Kind: "mains", Point: "p1", Isolator: "Q1", At: "panel"},
		"c1": {Kind: "control", Point: "p1", Isolator: "Q1", At: "panel", FedFrom: "Panel P1"},
		"h1": {Kind: "heater", Point: "h1", Isolator: "F3", At: "door", FedFrom: "Panel P1"}} {
		s := by[id]
		if s.Kind != want.Kind || s.Point != want.Point || s.Isolator != want.Isolator || s.At != want.At || s.FedFrom != want.FedFrom {
			t.Errorf("%s: %+v", id, s)
		}
		if locked := len(s.Locks) == 1; locked != (s.Point == "p1") || s.Locks == nil || s.Measured == nil {
			t.Errorf("%s hangs on %v", id, s.Locks)
		}
	}
	if isolation.Session(got, all) != "" {
		t.Error("the heater is not locked, and it is an isolation")
	}
	if isolation.Session([]isolation.Source{by["p1"], by["c1"]}, all) == "" || isolation.Session(nil, all) != "" {
		t.Error("an isolation is every source locked, and no source is none")
	}
}

// What a record leaves behind: the first lock names the isolation, a lock that is handed over keeps its key and its time, what was opened
// and proved stays known after the supply is back.
func TestWhatRecordsLeave(t *testing.T) {
	on := drivefile.Lock{Supply: "p1", Act: "on", Owner: "rh", Key: "17", Drive: "x"}
	list := []drivefile.Entry{entry(1, "lock", on), entry(2, "lock", lock("on", "tk")), entry(3, "energy", energy("dead")),
		entry(4, "lock", drivefile.Lock{Supply: "p1", Act: "hand-over", Owner: "rh", To: "ma"})}
	s := isolation.ByID(list)["p1"]
	i := slices.IndexFunc(s.Locks, func(l isolation.Locked) bool { return l.Owner == "ma" })
	if i < 0 || s.Locks[i].Key != "17" || s.Locks[i].Since != stamp(1) || len(s.Locks) != 2 || !s.Open || s.OpenedAt() != stamp(1) {
		t.Errorf("%+v", s)
	}
	if en, ok := s.OpenedFor("x"); !ok || en.ID != stamp(1) {
		t.Errorf("opened for x by %+v", en)
	}
	if _, ok := s.OpenedFor("y"); ok {
		t.Error("opened for another")
	}
	source := func(s isolation.SupplyState) []isolation.Source {
		return []isolation.Source{{ID: "p1", Point: "p1", Locks: s.Locks}}
	}
	names := map[string]int{}
	for n := 2; n <= len(list); n++ {
		all := isolation.ByID(list[:n])
		names[isolation.Session(source(all["p1"]), all)]++
	}
	if len(names) != 1 {
		t.Errorf("a second lock, a proof and a hand-over make another isolation: %v", names)
	}
	list = append(list, entry(5, "lock", lock("off", "tk")), entry(6, "lock", lock("off", "ma")), entry(7, "energy", energy("live")))
	s = isolation.ByID(list)["p1"]
	if s.State != "live" || s.Open || len(s.Locks) != 0 || s.DeadAt["x"] != stamp(3) || s.OpenedAt() != stamp(1) {
		t.Errorf("back on: %+v", s)
	}
	s = isolation.ByID(append(list[:4:4], entry(5, "energy", energy("live"))))["p1"]
	if !s.Open || s.State != "live" {
		t.Errorf("recorded live with locks on it is open still: %+v", s)
	}
	list = append(list, entry(8, "lock", drivefile.Lock{Supply: "p1", Act: "on", Owner: "rh", Drive: "y"}))
	s = isolation.ByID(list)["p1"]
	if _, ok := s.OpenedFor("y"); !ok || s.OpenedAt() != stamp(8) || s.State != "not-known" ||
		!strings.Contains(s.Why, "not proved dead") || s.By != "rh" {
		t.Errorf("opened again for another drive: %+v", s)
	}
	if b := isolation.ByID([]drivefile.Entry{entry(1, "energy",
		drivefile.Energy{Supply: "p1", State: "live", Volts: []string{"398", "401", "399"},
			Note: "after the storm"})})["p1"]; b.Since != stamp(1) || b.By != "rh" || len(b.Volts) != 3 || b.Why != "after the storm" {
		t.Errorf("%+v", b)
	}
}

// The band says what it rests on: volts of what is live, locks of what is dead, and when the first of the proofs lapses.
func TestTheBandsWords(t *testing.T) {
	c := isolation.Clock{Now: begin.Add(time.Hour)}
	dead := func(name string, minute, locks int) isolation.Source {
		s := isolation.Source{ID: name, Name: name, State: isolation.SupplyState{State: "dead", Since: stamp(minute), Drive: "x"}}
		for range locks {
			s.Locks = append(s.Locks, isolation.Locked{Owner: "rh"})
		}
		return s
	}
	holds := isolation.Proof{Drive: "x", Holds: true}
	for _, order := range [][]isolation.Source{{dead("P1", 0, 2), dead("C1", 30, 1)}, {dead("C1", 30, 1), dead("P1", 0, 2)}} {
		b, lapses := isolation.Band(order, holds, "", c)
		if lapses != "2026-11-25T17:00:00Z" || !strings.Contains(b.Text, "3 locks on") || !strings.Contains(b.Text, "until 17:00") ||
			!strings.Contains(b.Text, "P1 dead since 09:00") {
			t.Errorf("%+v, lapses %s", b, lapses)
		}
	}
	if b, lapses := isolation.Band([]isolation.Source{dead("P1", 0, 1)}, holds, "14:00", c); lapses != "2026-11-25T14:00:00Z" ||
		!strings.Contains(b.Text, "until the shift changes at 14:00") {
		t.Errorf("%+v, lapses %s", b, lapses)
	}
	live := isolation.Source{Name: "P1", State: isolation.SupplyState{State: "live", Since: stamp(5), Volts: []string{"398", "401"}}}
	if b, _ := isolation.Band([]isolation.Source{live, dead("C1", 0, 1)}, holds, "",
		c); b.Text != "P1 on since 09:05 · 398 / 401 V · C1 dead since 09:00" {
		t.Errorf("%q", b.Text)
	}
	bare := live
	bare.State.Volts = nil
	if b, _ := isolation.Band([]isolation.Source{bare}, holds, "", c); b.Text != "P1 on since 09:05" {
		t.Errorf("%q", b.Text)
	}
	why := isolation.Source{Name: "P1", State: isolation.SupplyState{State: "not-known", Why: "A lock came off."}}
	if b, _ := isolation.Band([]isolation.Source{live, why}, holds, "", c); !strings.HasPrefix(b.Text, "P1: A lock came off.") {
		t.Errorf("%q", b.Text)
	}
	if at, _ := isolation.DeadUntil(begin, "", nil); at.Sub(begin) != 8*time.Hour {
		t.Errorf("without shifts a proof stands for %v", at.Sub(begin))
	}
}
