package isolation

import (
	"fmt"
	"maps"
	"slices"
	"sort"
	"strings"
	"time"

	"tingate/core/drivefile"
)

// Source is a supply that feeds a drive, as gate Dead and its picture show it.
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

// Sources lists what feeds a drive, each with where it is opened.
func Sources(d drivefile.Drive, p drivefile.Place, energy map[string]SupplyState, c Clock) []Source {
	out := []Source{}
	for _, id := range slices.Sorted(maps.Keys(d.Supplies)) {
		sup, ok := p.Supplies[id]
		if !ok {
			continue
		}
		s := Source{ID: id, Name: sup.Name, Kind: sup.Kind, Volts: sup.Voltage.Text, Point: id, Isolator: sup.Isolator, At: sup.At,
			Locks: []Locked{}, Measured: []string{}}
		if s.Kind == "" {
			s.Kind = "mains"
		}
		if up, ok := p.Supplies[sup.FedFrom]; ok {
			s.FedFrom = up.Name
			if sup.Isolator == "" { // it is opened where what feeds it is opened
				s.Point, s.Isolator, s.At = sup.FedFrom, up.Isolator, up.At
			}
		}
		s.State = energy[id].Lapsed(c, p.Shifts)
		if s.Locks = energy[s.Point].Locks; s.Locks == nil {
			s.Locks = []Locked{}
		}
		out = append(out, s)
	}
	return out
}

// Session names the isolation that stands now: the locks on every isolator that feeds the drive, and the last record that could have
// brought energy back. Empty while something is not locked. Whatever was measured in another session is void.
func Session(sources []Source, energy map[string]SupplyState) string {
	if len(sources) == 0 {
		return ""
	}
	var parts []string
	for _, s := range sources {
		if len(s.Locks) == 0 {
			return ""
		}
		first := s.Locks[0]
		for _, l := range s.Locks {
			if l.Since < first.Since {
				first = l
			}
		}
		parts = append(parts, first.Entry, energy[s.ID].mark, energy[s.Point].mark)
	}
	sort.Strings(parts)
	return strings.Join(parts, " ")
}

// EnergyBand is the drive's band: the worst of all that feed it. Unknown is live.
type EnergyBand struct {
	State drivefile.EnergyState `json:"state" enum:"live,dead,not-known"`
	Text  string                `json:"text"`
}

// Proof is what gate Dead knows of a drive's proof.
type Proof struct {
	Drive string // id
	Holds bool   // every check of it
	Last  string // when the last of what proves dead was recorded
}

// Band is the worst of all supplies that feed the drive. Dead only while every one was proved dead at this very drive, and every check of
// that proof holds still; lapses is then when it ends by itself.
func Band(sources []Source, proof Proof, shifts string, c Clock) (b EnergyBand, lapses string) {
	if len(sources) == 0 {
		return EnergyBand{drivefile.NotKnown, "No supply is named for this drive."}, ""
	}
	var live, dead, unknown []string
	for _, s := range sources {
		since := c.Show(s.State.Since)
		switch {
		case s.State.State == drivefile.Live:
			text := s.Name + " on since " + since
			if len(s.State.Volts) > 0 {
				text += " · " + strings.Join(s.State.Volts, " / ") + " V"
			}
			live = append(live, text)
		case s.State.State == drivefile.Dead && s.State.Drive != proof.Drive:
			unknown = append(unknown, s.Name+": proved dead at another drive, not at this one.")
		case s.State.State == drivefile.Dead && len(s.Locks) == 0:
			unknown = append(unknown, s.Name+": no lock is on what opens it.")
		case s.State.State == drivefile.Dead && !proof.Holds:
			unknown = append(unknown, s.Name+": the proof does not hold any more.")
		case s.State.State == drivefile.Dead && s.State.Since < proof.Last:
			unknown = append(unknown, s.Name+": something was measured or confirmed after it was recorded DEAD. Record it again.")
		case s.State.State == drivefile.Dead:
			dead = append(dead, s.Name+" dead since "+since)
		default:
			unknown = append(unknown, s.Name+": "+s.State.Why)
		}
	}
	switch {
	case len(unknown) > 0:
		return EnergyBand{drivefile.NotKnown, strings.Join(append(unknown, live...), " ")}, ""
	case len(live) > 0:
		return EnergyBand{"live", strings.Join(append(live, dead...), " · ")}, ""
	}
	locks := 0
	var until time.Time
	for _, s := range sources {
		locks += len(s.Locks)
		if at, err := time.Parse(time.RFC3339, s.State.Since); err == nil {
			if next, _ := DeadUntil(at, shifts, c.Zone); until.IsZero() || next.Before(until) {
				until = next
			}
		}
	}
	lapses = until.UTC().Format(time.RFC3339)
	word := "until"
	if minutes, _ := ParseShifts(shifts); len(minutes) > 0 {
		word = "until the shift changes at"
	}
	return EnergyBand{"dead", fmt.Sprintf("%s · %d locks on · %s %s", strings.Join(dead, " · "), locks, word, c.Show(lapses))}, lapses
}
