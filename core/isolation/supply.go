// Package isolation says how the supplies of a place stand by their records: opened, locked, proved dead, live, and when a proof lapses.
// Unknown is live. What has to be measured for a proof is the rule of gate Dead; here is what a record of it does.
package isolation

import (
	"tingate/core/drivefile"
)

// SupplyState is how a supply of the place stands by its records: live, dead by proof, or not known. Unknown is live.
type SupplyState struct {
	State    drivefile.EnergyState `json:"state" enum:"live,dead,not-known"`
	Since    string                `json:"since,omitempty"`
	By       string                `json:"by,omitempty"`
	Volts    []string              `json:"volts,omitempty"`
	Drive    string                `json:"drive,omitempty" doc:"at which it was proved dead"`
	Why      string                `json:"why,omitempty" doc:"why it is not known any more"`
	Locks    []Locked              `json:"locks,omitempty" doc:"locks that are on"`
	Open     bool                  `json:"open,omitempty" doc:"opened for work since it was live last"`
	mark     string                // changes with every record that could bring energy back
	openedAt string                // when it was last opened and locked
	// By drive: the lock with which it was last opened for work there ("": nobody said where), and when it was last proved dead there. Both
	// stay when the supply comes back.
	openings map[string]drivefile.Entry
	DeadAt   map[string]string `json:"-"`
}

// OpenedAt is when it was last opened and locked; empty: never.
func (s SupplyState) OpenedAt() string { return s.openedAt }

// OpenedFor is the lock with which it was last opened for work at a drive; "" for work that nobody said where.
func (s SupplyState) OpenedFor(drive string) (drivefile.Entry, bool) {
	en, ok := s.openings[drive]
	return en, ok
}

// Locked is one person's lock on an isolator.
type Locked struct {
	Owner string `json:"owner"`
	Key   string `json:"key,omitempty"`
	Since string `json:"since"`
	Entry string `json:"entry"`
}

// ByID reads how every supply of a place stands from its records, in order.
func ByID(entries []drivefile.Entry) map[string]SupplyState {
	out := map[string]SupplyState{}
	for _, en := range entries {
		switch en.Kind {
		case drivefile.EntryEnergy:
			if b, ok := drivefile.Contents[drivefile.Energy](en); ok {
				s := out[b.Supply]
				s.State, s.Since, s.By, s.Volts, s.Drive, s.Why = b.State, en.At, en.By, b.Volts, b.Drive, b.Note
				if b.State == drivefile.Dead && b.Meter == "" {
					s.State, s.Why = drivefile.NotKnown,
						"It was recorded DEAD by rules of before, when no meter was known by its number: prove it again."
				}
				if b.State != drivefile.Dead {
					s.mark = en.ID
				} else if b.Meter != "" {
					if s.DeadAt == nil {
						s.DeadAt = map[string]string{}
					}
					s.DeadAt[b.Drive] = en.At
				}
				if b.State == drivefile.Live {
					s.Open = len(s.Locks) > 0
				}
				out[b.Supply] = s
			}
		case drivefile.EntryLock:
			if b, ok := drivefile.Contents[drivefile.Lock](en); ok {
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
		if s.State == drivefile.Live || s.State == "" {
			s.State, s.Since, s.By, s.Why = drivefile.NotKnown, en.At, en.By, "Opened and locked; not proved dead."
		}
	case "hand-over":
		keep = append(keep, Locked{b.To, old.Key, old.Since, old.Entry}) // the isolator was never unlocked
	default:
		s.mark = en.ID
		if s.State == drivefile.Dead {
			s.State, s.Since, s.By, s.Why = drivefile.NotKnown, en.At, en.By, "A lock came off."
		}
	}
	s.Locks = keep
	return s
}
