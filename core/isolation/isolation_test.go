package isolation_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/isolation"
)

var begin = time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)

func stamp(minutes int) string {
	return begin.Add(time.Duration(minutes) * time.Minute).Format("2006-01-02T15:04:05.000Z")
}

// entry is a record of the place, so many minutes after nine.
func entry(minute int, kind string, body any) drivefile.Entry {
	raw, err := json.Marshal(body)
	if err != nil {
		panic(err)
	}
	return drivefile.Entry{ID: stamp(minute), Seq: int64(minute), Kind: kind, By: "rh", At: stamp(minute), Body: raw}
}

func lock(act, owner string) drivefile.Lock {
	return drivefile.Lock{Supply: "p1", Act: act, Owner: owner, Drive: "x"}
}

func energy(state drivefile.EnergyState) drivefile.Energy {
	e := drivefile.Energy{Supply: "p1", State: state}
	if state == "dead" {
		e.Drive, e.Meter = "x", "m3"
	}
	return e
}

// Records of a supply, in every order that two people can make them in: dead is never what is left when in doubt.
func TestOppositeRecordsLeaveItNotKnown(t *testing.T) {
	on, dead, live := lock("on", "rh"), energy("dead"), energy("live")
	for name, c := range map[string]struct {
		list []drivefile.Entry
		want drivefile.EnergyState
	}{
		"locked":            {[]drivefile.Entry{entry(1, "energy", live), entry(2, "lock", on)}, "not-known"},
		"proved":            {[]drivefile.Entry{entry(1, "lock", on), entry(2, "energy", dead)}, "dead"},
		"proved, then live": {[]drivefile.Entry{entry(1, "lock", on), entry(2, "energy", dead), entry(3, "energy", live)}, "live"},
		"proved, then the lock off": {[]drivefile.Entry{entry(1, "lock", on), entry(2, "energy", dead),
			entry(3, "lock", lock("off", "rh"))}, "not-known"},
		"proved, then handed over": {[]drivefile.Entry{entry(1, "lock", on), entry(2, "energy", dead),
			entry(3, "lock", drivefile.Lock{Supply: "p1", Act: "hand-over", Owner: "rh", To: "tk"})}, "dead"},
		"proved, then not known": {[]drivefile.Entry{entry(1, "lock", on), entry(2, "energy", dead),
			entry(3, "energy", energy("not-known"))}, "not-known"},
		"a lock removed by another": {[]drivefile.Entry{entry(1, "lock", on), entry(2, "energy", dead),
			entry(3, "lock", drivefile.Lock{Supply: "p1", Act: "removed-by-another", Owner: "rh", Told: "x", Reason: "y"})}, "not-known"},
		"one of two locks off": {[]drivefile.Entry{entry(1, "lock", on), entry(2, "lock", lock("on", "tk")), entry(3, "energy", dead),
			entry(4, "lock", lock("off", "tk"))}, "not-known"},
		"proved before meters were": {[]drivefile.Entry{entry(1, "lock", on),
			entry(2, "energy", drivefile.Energy{Supply: "p1", State: "dead", Drive: "x"})}, "not-known"},
		"nothing": {nil, ""},
	} {
		if got := isolation.ByID(c.list)["p1"].State; got != c.want {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
	}
}

// A proof ends at the first change of shift after it, across midnight and across summer time; without shifts after eight hours; and when
// the clock went back.
func TestAProofLapses(t *testing.T) {
	local, err := time.LoadLocation("Europe/Oslo")
	if err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		at, shifts string
		zone       *time.Location
		until      string
	}{
		"no shifts":            {"2026-11-25T09:00:00Z", "", nil, "2026-11-25T17:00:00Z"},
		"the same day":         {"2026-11-25T09:00:00Z", "06:00, 14:00, 22:00", nil, "2026-11-25T14:00:00Z"},
		"over midnight":        {"2026-11-25T23:00:00Z", "06:00, 14:00, 22:00", nil, "2026-11-26T06:00:00Z"},
		"at the change itself": {"2026-11-25T14:00:00Z", "14:00 22:00", nil, "2026-11-25T22:00:00Z"},
		"in the place's zone":  {"2026-11-25T12:30:00Z", "14:00", local, "2026-11-25T13:00:00Z"},
		"the night the clocks turn": {"2026-10-24T22:30:00Z", "06:00", local,
			"2026-10-25T05:00:00Z"}, // 06:00 is 05:00 UTC again, not 04:00
		"one cannot be read": {"2026-11-25T09:00:00Z", "late; 14:00; 25:00", nil, "2026-11-25T14:00:00Z"},
	} {
		at, err := time.Parse(time.RFC3339, c.at)
		if err != nil {
			t.Fatal(err)
		}
		until, why := isolation.DeadUntil(at, c.shifts, c.zone)
		if got := until.UTC().Format(time.RFC3339); got != c.until || why == "" {
			t.Errorf("%s: until %s (%s), want %s", name, got, why, c.until)
		}
		s := isolation.SupplyState{State: "dead", Since: c.at}
		for _, x := range []struct {
			now  time.Time
			want drivefile.EnergyState
		}{{until.Add(-time.Second), "dead"}, {until, "not-known"}, {at.Add(-time.Minute), "not-known"}} {
			if got := s.Lapsed(isolation.Clock{Now: x.now, Zone: c.zone}, c.shifts).State; got != x.want {
				t.Errorf("%s at %s: %s, want %s", name, x.now, got, x.want)
			}
		}
	}
	if _, ok := isolation.ParseShifts("06:00, 14"); ok {
		t.Error("14 is read as a time of day")
	}
	if s := (isolation.SupplyState{}).Lapsed(isolation.Clock{Now: begin}, ""); s.State != "not-known" {
		t.Errorf("nothing recorded: %+v", s)
	}
}

// By whatever records, in whatever order: the band says DEAD only while each source is locked, proved at this drive, the proof holds, and
// nothing came after; and what could bring energy back names another isolation.
func TestNoOrderOfRecordsMakesItDeadUnlocked(t *testing.T) {
	place := drivefile.Place{Supplies: map[string]drivefile.Supply{"p1": {Name: "Panel P1"}, "c1": {Name: "Control supply", FedFrom: "p1"}}}
	drive := drivefile.Drive{Supplies: map[string]bool{"p1": true, "c1": true}}
	dice := rand.New(rand.NewPCG(18, 1))
	seen := map[drivefile.EnergyState]int{}
	for trial := range 1500 {
		var list []drivefile.Entry
		sessions := map[string]bool{}
		locked := map[string]bool{}
		touched := false
		for minute := range 2 + dice.IntN(9) {
			id := []string{"p1", "p1", "c1"}[dice.IntN(3)]
			var en drivefile.Entry
			if dice.IntN(2) == 0 {
				l := lock([]string{"on", "on", "off"}[dice.IntN(3)], []string{"rh", "tk"}[dice.IntN(2)])
				l.Supply = id
				en = entry(minute, drivefile.EntryLock, l)
				if l.Act == "on" {
					locked[id+l.Owner] = true
				} else {
					delete(locked, id+l.Owner)
					touched = true
				}
			} else {
				b := energy([]drivefile.EnergyState{"dead", "dead", "live", "not-known"}[dice.IntN(4)])
				b.Supply = id
				en = entry(minute, drivefile.EntryEnergy, b)
				touched = touched || b.State != "dead"
			}
			list = append(list, en)
			all := isolation.ByID(list)
			clock := isolation.Clock{Now: begin.Add(time.Hour)}
			sources := isolation.Sources(drive, place, all, clock)
			session := isolation.Session(sources, all)
			if touched && session != "" && sessions[session] {
				t.Fatalf("trial %d: energy could have come back, and it is the same isolation: %v", trial, list)
			}
			touched = false
			if session != "" {
				sessions = map[string]bool{session: true}
			}
			band, lapses := isolation.Band(sources, isolation.Proof{Drive: "x", Holds: true, Last: stamp(-1)}, "", clock)
			seen[band.State]++
			if band.State != "dead" {
				continue
			}
			for _, s := range sources {
				if s.State.State != "dead" || !locked[s.Point+"rh"] && !locked[s.Point+"tk"] {
					t.Fatalf("trial %d: DEAD with %s %s, locks %v: %v", trial, s.Name, s.State.State, locked, list)
				}
			}
			if lapses == "" || !strings.Contains(band.Text, "locks on") {
				t.Fatalf("%+v, lapses %q", band, lapses)
			}
			for _, p := range []isolation.Proof{{Drive: "y", Holds: true}, {Drive: "x"}, {Drive: "x", Holds: true, Last: stamp(60)}} {
				if b, _ := isolation.Band(sources, p, "", clock); b.State != "not-known" {
					t.Fatalf("%+v of %+v", b, p)
				}
			}
		}
	}
	for _, state := range []drivefile.EnergyState{"dead", "live", "not-known"} {
		if seen[state] < 50 {
			t.Errorf("the trials hardly came to %s: %v", state, seen)
		}
	}
}

func ExampleByID() {
	list := []drivefile.Entry{entry(0, drivefile.EntryEnergy, energy("live")), entry(5, drivefile.EntryLock, lock("on", "rh")),
		entry(30, drivefile.EntryEnergy, energy("dead"))}
	fmt.Println(isolation.ByID(list[:1])["p1"].State, isolation.ByID(list[:2])["p1"].State, isolation.ByID(list)["p1"].State)
	// Output: live not-known dead
}

// The band is the worst of all that feed the drive: what is not known beats live, and live beats dead.
func TestTheBandIsTheWorst(t *testing.T) {
	c := isolation.Clock{Now: begin.Add(time.Hour)}
	of := func(state drivefile.EnergyState) isolation.Source {
		return isolation.Source{ID: string(state), Name: string(state),
			State: isolation.SupplyState{State: state, Since: stamp(0), Drive: "x"}, Locks: []isolation.Locked{{Owner: "rh"}}}
	}
	for want, list := range map[drivefile.EnergyState][][]drivefile.EnergyState{
		"not-known": {nil, {"not-known"}, {"live", "not-known"}, {"not-known", "live"}, {"dead", "not-known"},
			{"live", "dead", "not-known"}},
		"live": {{"live"}, {"live", "dead"}, {"dead", "live"}},
		"dead": {{"dead"}, {"dead", "dead"}},
	} {
		for _, states := range list {
			var sources []isolation.Source
			for _, s := range states {
				sources = append(sources, of(s))
			}
			if b, lapses := isolation.Band(sources, isolation.Proof{Drive: "x", Holds: true}, "", c); b.State != want ||
				(lapses != "") != (want == "dead") {
				t.Errorf("%v is shown %s, want %s (%s)", states, b.State, want, b.Text)
			}
		}
	}
}
