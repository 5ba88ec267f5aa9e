package gate

import (
	"encoding/json"
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"tingate/core/drivefile"
)

// SupplyState is how a supply of the place stands by its records: live, dead by proof, or not known. Unknown is live.
type SupplyState struct {
	State    string   `json:"state" enum:"live,dead,not-known"`
	Since    string   `json:"since,omitempty"`
	By       string   `json:"by,omitempty"`
	Volts    []string `json:"volts,omitempty"`
	Drive    string   `json:"drive,omitempty" doc:"at which it was proved dead"`
	Why      string   `json:"why,omitempty" doc:"why it is not known any more"`
	Locks    []Locked `json:"locks,omitempty" doc:"locks that are on"`
	Open     bool     `json:"open,omitempty" doc:"opened for work since it was live last"`
	mark     string   // changes with every record that could bring energy back
	openedAt string   // when it was last opened and locked
	// By drive: the lock with which it was last opened for work there ("": nobody said where), and when it was last proved dead there. Both stay when the
	// supply comes back.
	openings map[string]drivefile.Entry
	DeadAt   map[string]string `json:"-"`
}

// OpenedAt is when it was last opened and locked; empty: never.
func (s SupplyState) OpenedAt() string { return s.openedAt }

// Locked is one person's lock on an isolator.
type Locked struct {
	Owner string `json:"owner"`
	Key   string `json:"key,omitempty"`
	Since string `json:"since"`
	Entry string `json:"entry"`
}

// Source is a supply that feeds a drive, as the Dead gate and its picture show it.
type Source struct {
	ID       string      `json:"id"`
	Name     string      `json:"name"`
	Kind     string      `json:"kind"`
	Volts    string      `json:"volts"`
	FedFrom  string      `json:"fed_from,omitempty" doc:"name of the supply before it"`
	Point    string      `json:"point" doc:"id of the supply at whose isolator it is opened"`
	Isolator string      `json:"isolator"`
	At       string      `json:"at"`
	State    SupplyState `json:"state"`
	Locks    []Locked    `json:"locks" doc:"on its isolator"`
	Measured []string    `json:"measured" doc:"what was measured of it in this isolation"`
}

// EnergyByID reads how every supply of a place stands from its records, in order.
func EnergyByID(entries []drivefile.Entry) map[string]SupplyState {
	out := map[string]SupplyState{}
	for _, en := range entries {
		switch en.Kind {
		case drivefile.EntryEnergy:
			var b drivefile.Energy
			if json.Unmarshal(en.Body, &b) == nil {
				s := out[b.Supply]
				s.State, s.Since, s.By, s.Volts, s.Drive, s.Why = b.State, en.At, en.By, b.Volts, b.Drive, b.Note
				if b.State == "dead" && b.Meter == "" {
					s.State, s.Why = "not-known", "It was recorded DEAD by rules of before, when no meter was known by its number: prove it again."
				}
				if b.State != "dead" {
					s.mark = en.ID
				} else if b.Meter != "" {
					if s.DeadAt == nil {
						s.DeadAt = map[string]string{}
					}
					s.DeadAt[b.Drive] = en.At
				}
				if b.State == "live" {
					s.Open = len(s.Locks) > 0
				}
				out[b.Supply] = s
			}
		case drivefile.EntryLock:
			var b drivefile.Lock
			if json.Unmarshal(en.Body, &b) == nil {
				out[b.Supply] = out[b.Supply].locked(en, b)
			}
		}
	}
	return out
}

// locked applies an act on a lock. A lock that goes lets what rested on it lapse.
func (s SupplyState) locked(en drivefile.Entry, b drivefile.Lock) SupplyState {
	keep := make([]Locked, 0, len(s.Locks)+1)
	old := Locked{Since: en.At, Entry: en.ID}
	for _, l := range s.Locks {
		if l.Owner != b.Owner {
			keep = append(keep, l)
		} else {
			old = l
		}
	}
	switch b.Act {
	case "on":
		if len(s.Locks) == 0 {
			s.openedAt = en.At
			if s.openings == nil {
				s.openings = map[string]drivefile.Entry{}
			}
			s.openings[b.Drive] = en
		}
		keep = append(keep, Locked{b.Owner, b.Key, en.At, en.ID})
		s.Open = true
		if s.State == "live" || s.State == "" {
			s.State, s.Since, s.By, s.Why = "not-known", en.At, en.By, "Opened and locked; not proved dead."
		}
	case "hand-over":
		keep = append(keep, Locked{b.To, old.Key, old.Since, old.Entry}) // the isolator was never unlocked
	default:
		s.mark = en.ID
		if s.State == "dead" {
			s.State, s.Since, s.By, s.Why = "not-known", en.At, en.By, "A lock came off."
		}
	}
	s.Locks = keep
	return s
}

// lapsed is a supply's state now: what was recorded dead lapses at a change of shift, and when the clock went back.
func (s SupplyState) lapsed(now time.Time, shifts string, zone *time.Location) SupplyState {
	at, err := time.Parse(time.RFC3339, s.Since)
	switch {
	case s.State == "":
		return SupplyState{State: "not-known", Why: "Nothing is recorded.", Locks: s.Locks, mark: s.mark}
	case err != nil || at.After(now):
		s.State, s.Why = "not-known", "The clock stepped back since the record."
	case s.State == "dead":
		next, why := deadUntil(at, shifts, zone)
		if !next.After(now) {
			s.State, s.Why = "not-known", why
		}
	}
	return s
}

// longestDead is how long a proof of dead stands where no shifts are named: the length of a shift.
const longestDead = 8 * time.Hour

// deadUntil is when what was proved dead at a time lapses, and the words for it: at the next change of shift, or after the length of one.
func deadUntil(at time.Time, shifts string, zone *time.Location) (time.Time, string) {
	until, why := at.Add(longestDead), fmt.Sprintf("It was proved dead more than %.0f hours ago.", longestDead.Hours())
	if next := nextShift(at, shifts, zone); !next.IsZero() {
		return next, "The shift has changed since it was proved dead."
	}
	return until, why
}

// ParseShifts reads the times of day at which shifts change, like "06:00, 14:00"; ok is false when one cannot be read.
func ParseShifts(text string) (minutes []int, ok bool) {
	ok = true
	for _, t := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' || r == ' ' }) {
		h, m, two := strings.Cut(t, ":")
		hour, err := strconv.Atoi(h)
		minute, err2 := strconv.Atoi(m)
		if !two || err != nil || err2 != nil || hour < 0 || hour > 23 || minute < 0 || minute > 59 {
			ok = false
			continue
		}
		minutes = append(minutes, hour*60+minute)
	}
	return minutes, ok
}

// nextShift is the first change of shift after a time; the zero time when the place names none.
func nextShift(at time.Time, shifts string, zone *time.Location) time.Time {
	if zone == nil {
		zone = time.UTC
	}
	at = at.In(zone)
	var next time.Time
	minutes, _ := ParseShifts(shifts)
	for day := range 2 {
		for _, m := range minutes {
			t := time.Date(at.Year(), at.Month(), at.Day()+day, m/60, m%60, 0, 0, zone)
			if t.After(at) && (next.IsZero() || t.Before(next)) {
				next = t
			}
		}
	}
	return next
}

// sources lists what feeds the drive, each with where it is opened.
func (e *evaluation) sources() {
	for _, id := range sortedKeys(e.job.Drive.Supplies) {
		sup, ok := e.job.Place.Supplies[id]
		if !ok {
			continue
		}
		s := Source{ID: id, Name: sup.Name, Kind: sup.Kind, Volts: sup.Voltage.Text, Point: id, Isolator: sup.Isolator, At: sup.At, Locks: []Locked{}, Measured: []string{}}
		if s.Kind == "" {
			s.Kind = "mains"
		}
		if up, ok := e.job.Place.Supplies[sup.FedFrom]; ok {
			s.FedFrom = up.Name
			if sup.Isolator == "" { // it is opened where what feeds it is opened
				s.Point, s.Isolator, s.At = sup.FedFrom, up.Isolator, up.At
			}
		}
		s.State = e.job.Energy[id].lapsed(e.now, e.job.Place.Shifts, e.job.Zone)
		if s.Locks = e.job.Energy[s.Point].Locks; s.Locks == nil {
			s.Locks = []Locked{}
		}
		e.state.Sources = append(e.state.Sources, s)
	}
}

// session names the isolation that stands now: the locks on every isolator that feeds the drive, and the last record that
// could have brought energy back. Empty while something is not locked. Whatever was measured in another session is void.
func (e *evaluation) session() string {
	if len(e.state.Sources) == 0 {
		return ""
	}
	var parts []string
	for _, s := range e.state.Sources {
		if len(s.Locks) == 0 {
			return ""
		}
		first := s.Locks[0]
		for _, l := range s.Locks {
			if l.Since < first.Since {
				first = l
			}
		}
		parts = append(parts, first.Entry, e.job.Energy[s.ID].mark, e.job.Energy[s.Point].mark)
	}
	sort.Strings(parts)
	return strings.Join(parts, " ")
}

// neverOpened stands in a basis while nothing was ever opened for work at a drive.
const neverOpened = "never opened"

// energised names the last isolation of this drive: the openings of its supplies for work here, or for work that nobody said where, and the last proof that
// was begun here. A basis with it is void once it is isolated again. Opened for work at another drive, the same feeder asks for nothing here. What was recorded
// by rules that did not ask for it counts as long as it is later than the last proof, and than the last opening for work here.
func (e *evaluation) energised(key string) map[string]string {
	var last drivefile.Entry
	var parts []string
	proof := ""
	for k, en := range e.rec.evidence {
		if id := e.rec.evBody[k].Basis["isolation"]; strings.HasPrefix(k, "dead/") && id != "" && en.Seq > last.Seq {
			last, proof = en, id
		}
	}
	at := last.At
	for _, s := range e.state.Sources {
		for _, id := range []string{s.ID, s.Point} {
			for _, where := range []string{e.job.ID, ""} {
				if o, ok := e.job.Energy[id].openings[where]; ok && !slices.Contains(parts, o.ID) {
					parts = append(parts, o.ID)
					if where != "" {
						at = max(at, o.At)
					}
				}
			}
		}
	}
	if ev, ok := e.rec.evBody[key]; ok && ev.Basis["isolation"] == "" && e.rec.evidence[key].At > at {
		return map[string]string{}
	}
	sort.Strings(parts)
	if proof != "" {
		parts = append(parts, proof)
	}
	if parts == nil {
		parts = []string{neverOpened}
	}
	return map[string]string{"isolation": strings.Join(parts, " ")}
}

// energy is the worst of all supplies that feed the drive. Dead only while every one was proved dead at this very drive,
// and every check of that proof holds still.
func (e *evaluation) energy(proved bool) EnergyBand {
	if len(e.state.Sources) == 0 {
		return EnergyBand{"not-known", "No supply is named for this drive."}
	}
	var live, dead, unknown []string
	for _, s := range e.state.Sources {
		since := e.clock(s.State.Since)
		switch {
		case s.State.State == "live":
			text := s.Name + " on since " + since
			if len(s.State.Volts) > 0 {
				text += " · " + strings.Join(s.State.Volts, " / ") + " V"
			}
			live = append(live, text)
		case s.State.State == "dead" && s.State.Drive != e.job.ID:
			unknown = append(unknown, s.Name+": proved dead at another drive, not at this one.")
		case s.State.State == "dead" && !proved:
			unknown = append(unknown, s.Name+": the proof does not hold any more.")
		case s.State.State == "dead" && s.State.Since < e.lastOfProof:
			unknown = append(unknown, s.Name+": something was measured or confirmed after it was recorded DEAD. Record it again.")
		case s.State.State == "dead":
			dead = append(dead, s.Name+" dead since "+since)
		default:
			unknown = append(unknown, s.Name+": "+s.State.Why)
		}
	}
	switch {
	case len(unknown) > 0:
		return EnergyBand{"not-known", strings.Join(append(unknown, live...), " ")}
	case len(live) > 0:
		return EnergyBand{"live", strings.Join(append(live, dead...), " · ")}
	}
	locks := 0
	for _, s := range e.state.Sources {
		locks += len(s.Locks)
	}
	text := fmt.Sprintf("%s · %d locks on", strings.Join(dead, " · "), locks)
	until := time.Time{}
	for _, s := range e.state.Sources {
		if at, err := time.Parse(time.RFC3339, s.State.Since); err == nil {
			if next, _ := deadUntil(at, e.job.Place.Shifts, e.job.Zone); until.IsZero() || next.Before(until) {
				until = next
			}
		}
	}
	e.state.Lapses = until.UTC().Format(time.RFC3339)
	if minutes, _ := ParseShifts(e.job.Place.Shifts); len(minutes) > 0 {
		text += " · until the shift changes at " + e.clock(e.state.Lapses)
	} else {
		text += " · until " + e.clock(e.state.Lapses)
	}
	return EnergyBand{"dead", text}
}
