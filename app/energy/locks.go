package energy

import (
	"context"
	"maps"
	"slices"
	"strings"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/core/isolation"
	"tingate/store"
)

// Lock records what a person does with a lock. Everybody has one of their own; nobody records another's removed without
// saying who was told and why.
func (a *Energy) Lock(ctx context.Context, who base.Actor, placeID, id string, l drivefile.Lock) error {
	if err := base.ValidID("id", id); err != nil {
		return err
	}
	return a.atPlace(ctx, who, placeID, id, l.Supply,
		func(_ *store.Tx, p drivefile.Place, all map[string]isolation.SupplyState) (string, any, error) {
			s := all[l.Supply]
			if l.Owner == "" {
				l.Owner = who.Person
			}
			if _, ok := p.People[l.Owner]; !ok {
				return "", nil, base.Bad("owner", l.Owner, "a person of this place")
			}
			mine, theirs := false, ""
			for _, x := range s.Locks {
				mine = mine || x.Owner == who.Person
				if x.Owner == l.Owner {
					theirs = x.Owner
				}
			}
			name := p.People[l.Owner].Initials
			switch l.Act {
			case "on":
				switch {
				case l.Owner != who.Person:
					return "", nil, base.Refuse("Everybody hangs their own lock: " + name + " records it.")
				case mine:
					return "", nil, base.Refuse("Your lock is on already.")
				case strings.TrimSpace(p.Supplies[l.Supply].Isolator) == "":
					return "", nil, base.Refuse("Say first what opens " + p.Supplies[l.Supply].Name + ", and where.")
				}
			case "off", "hand-over":
				switch {
				case theirs == "":
					return "", nil, base.Refuse("There is no lock of " + name + " on it.")
				case l.Owner != who.Person:
					return "", nil, base.Refuse("It is the lock of " + name + ": only " + name + " takes it off, or hands it over by name.")
				}
				if _, ok := p.People[l.To]; l.Act == "hand-over" && (!ok || l.To == who.Person) {
					return "", nil, base.Bad("to", l.To, "another person of this place, by name")
				}
			case "removed-by-another":
				if theirs == "" || l.Owner == who.Person {
					return "", nil, base.Refuse("That is for a lock of another that is on.")
				}
				if err := base.Substance("reason", l.Reason,
					"why the lock of "+name+" was removed, and that the machine was looked over"); err != nil {
					return "", nil, err
				}
				if len(strings.TrimSpace(l.Told)) < 3 {
					return "", nil, base.Bad("told", base.OrBlank(l.Told),
						"who was reached before the lock of "+name+" was removed, by name")
				}
			default:
				return "", nil, base.Bad("act", l.Act, "on, off, hand-over or removed-by-another")
			}
			return drivefile.EntryLock, l, nil
		})
}

// atPlace records an entry about a supply of a place, and makes the rows of the drives that it feeds anew.
func (a *Energy) atPlace(
	ctx context.Context,
	who base.Actor,
	placeID, id, supplyID string,
	make func(*store.Tx, drivefile.Place, map[string]isolation.SupplyState) (kind string, body any, err error),
) error {
	return a.InTx(ctx, func(tx *store.Tx) error {
		p, by, err := base.SignerAt(tx.Reader, placeID, who)
		if err != nil {
			return err
		}
		if _, ok := p.Supplies[supplyID]; !ok {
			return base.Bad("supply", supplyID, "a supply of the place")
		}
		entries, err := tx.Entries(placeID)
		if err != nil {
			return err
		}
		if done, err := recordedAt(entries, id, who); err != nil || done {
			return err
		}
		if e, err := tx.Entry(id); err == nil {
			return base.Bad("id", e.ID, "an id that is not taken: another entry has it")
		}
		kind, body, err := make(tx, p, isolation.ByID(entries))
		if err != nil {
			return err
		}
		if err := a.AddEntry(tx, by, placeID, id, kind, body); err != nil {
			return err
		}
		return a.StaleFed(tx, placeID, p, supplyID)
	})
}

// recordedAt answers an entry of a place that is stored already; another person's id is refused.
func recordedAt(entries []drivefile.Entry, id string, who base.Actor) (ours bool, err error) {
	for _, e := range entries {
		if e.ID != id {
			continue
		}
		if e.By != who.Person {
			return false, base.Bad("id", id, "an id that is not taken: another entry has it")
		}
		return true, nil
	}
	return false, nil
}

// StaleFed marks the Yard's rows of the drives that a supply feeds, directly or through others: they are made anew before they are shown.
func (a *Energy) StaleFed(tx *store.Tx, placeID string, p drivefile.Place, supplyID string) error {
	a.PlaceChanged.Store(true)
	return tx.StaleBySupplies(placeID, slices.Sorted(maps.Keys(fedBy(p, supplyID))))
}

// fedBy are a supply and all that it feeds, directly or through others.
func fedBy(p drivefile.Place, supplyID string) map[string]bool {
	fed := map[string]bool{supplyID: true}
	for more := true; more; {
		more = false
		for id, s := range p.Supplies {
			if fed[s.FedFrom] && !fed[id] {
				fed[id], more = true, true
			}
		}
	}
	return fed
}
