package energy

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/core/quantity"
	"tingate/store"
)

func BandWords(b isolation.EnergyBand) string {
	return map[drivefile.EnergyState]string{drivefile.Live: "the drive is LIVE.", drivefile.Dead: "the drive is recorded DEAD.",
		drivefile.NotKnown: "its state is NOT KNOWN, treat as live."}[b.State]
}

// ProveDead records every supply of a drive dead, once all that proves it holds.
func (a *Energy) ProveDead(ctx context.Context, who base.Actor, driveID string) error {
	return a.InTx(ctx, func(tx *store.Tx) error {
		doc, err := base.DriveDoc(tx.Reader, driveID)
		if err != nil {
			return err
		}
		j, _, err := a.Job(tx.Reader, doc)
		if err != nil {
			return err
		}
		by, err := base.PersonOf(j.Place, who)
		if err != nil {
			return err
		}
		s := gate.Evaluate(j, a.Now()) // the plan's ride has no part in it, and a transaction waits
		if !s.Proved {
			for _, g := range s.Gates {
				for _, c := range g.Checks {
					if g.Key == "dead" && c.Verdict != gate.Holds {
						return base.Refuse("It is not proved dead: " + c.Title + ". " + c.Detail)
					}
				}
			}
			return base.Refuse("It is not proved dead. The state stays NOT KNOWN, treat as live; covers stay on.")
		}
		for _, src := range s.Sources {
			if len(src.Measured) == 0 {
				return base.Refuse(src.Name + " was not measured: it is not recorded dead by what was measured of another.")
			}
		}
		for _, src := range s.Sources {
			if err := a.AddEntry(tx, by, doc.Place, base.NewID(), drivefile.EntryEnergy,
				drivefile.Energy{Supply: src.ID, State: drivefile.Dead, Drive: driveID, Volts: src.Measured, Meter: s.Meter}); err != nil {
				return err
			}
			if err := a.StaleFed(tx, doc.Place, j.Place, src.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

// RecordEnergy records a supply live or not known. Dead is recorded by ProveDead alone. A supply that was opened comes back
// only when no lock is on and somebody was told; one that is found live behind a lock is recorded with a note that says so.
func (a *Energy) RecordEnergy(ctx context.Context, who base.Actor, placeID, id string, e drivefile.Energy) error {
	if err := base.ValidID("id", id); err != nil {
		return err
	}
	if e.State != drivefile.Live && e.State != drivefile.NotKnown {
		return base.Bad("state", string(e.State), "live or not-known; dead is proved at a drive")
	}
	for i, v := range e.Volts {
		f := drivefile.Field{Path: fmt.Sprintf("volts[%d]", i), Quantity: true}
		f.Kind = quantity.Voltage
		if _, problem, err := f.Entry(v); err != nil || problem != nil || strings.TrimSpace(v) == "" {
			return base.Bad(f.Path, v, "a voltage, like 398")
		}
	}
	e.Open = nil
	return a.atPlace(ctx, who, placeID, id, e.Supply,
		func(tx *store.Tx, p drivefile.Place, all map[string]isolation.SupplyState) (string, any, error) {
			s := all[e.Supply]
			if e.State == drivefile.Live {
				if err := nearItsVoltage(p.Supplies[e.Supply], e.Volts); err != nil {
					return "", nil, err
				}
			}
			if e.State == drivefile.Live && len(s.Locks) > 0 && strings.TrimSpace(e.Note) == "" {
				return "", nil, base.Refuse(fmt.Sprintf("The lock of %s is on: it comes off before this is switched on. If it was found "+
					"live behind the lock, say so in the note.", base.Owners(p, s.Locks)))
			}
			if e.State == drivefile.Live && len(s.Locks) == 0 {
				since := openSince(p, all, e.Supply)
				if since == "" {
					return drivefile.EntryEnergy, e, nil
				}
				if strings.TrimSpace(e.Told) == "" {
					return "", nil, base.Bad("told", "nothing", "who was told before it was switched on again")
				}
				open, err := a.openBefore(tx, placeID, p, e, since)
				if err != nil {
					return "", nil, err
				}
				if e.Open = open; open == nil {
					e.Against = ""
				} else if err := base.Substance("against", e.Against, "why it comes back though this is open: "+someOf(open)); err != nil {
					return "", nil, err
				}
			}
			return drivefile.EntryEnergy, e, nil
		})
}

// mostNamed is how many lines are named in a refusal; the rest is counted.
const mostNamed = 12

func someOf(l []string) string {
	if len(l) <= mostNamed {
		return strings.Join(l, "; ")
	}
	return fmt.Sprintf("%s; and %d more", strings.Join(l[:mostNamed], "; "), len(l)-mostNamed)
}

// openSince is when a supply was opened for work, itself or at the isolator before it, if it was not recorded live since; empty: it was
// not.
func openSince(p drivefile.Place, all map[string]isolation.SupplyState, id string) string {
	if all[id].Open {
		return all[id].OpenedAt()
	}
	if s := p.Supplies[id]; s.Isolator == "" && all[s.FedFrom].Open {
		return all[s.FedFrom].OpenedAt()
	}
	return ""
}

// openBefore lists what is open before a supply comes back, at the drive where that is recorded and at every other that it feeds and that
// was worked on since it was opened.
func (a *Energy) openBefore(tx *store.Tx, placeID string, p drivefile.Place, e drivefile.Energy, since string) ([]string, error) {
	fed := fedBy(p, e.Supply)
	drives, err := tx.WorkedOn(placeID, slices.Sorted(maps.Keys(fed)), since)
	if err != nil {
		return nil, err
	}
	if e.Drive != "" && !slices.Contains(drives, e.Drive) {
		drives = append(drives, e.Drive)
	}
	var open []string
	for _, id := range drives {
		doc, err := base.DriveDoc(tx.Reader, id)
		if err != nil {
			return nil, base.Bad("drive", "another", "a drive of this place")
		}
		j, _, err := a.Job(tx.Reader, doc)
		if err != nil {
			return nil, err
		}
		its := slices.ContainsFunc(slices.Sorted(maps.Keys(j.Drive.Supplies)), func(s string) bool { return fed[s] })
		if doc.Place != placeID || !its || j.Drive.Archived || j.Drive.Stop.Alone || id != e.Drive && !workedOn(j.Entries, since) {
			continue
		}
		for _, line := range gate.Evaluate(j, a.Now()).OpenBefore { // the plan's ride has no part in it, and a transaction waits
			open = append(open, strings.TrimSpace(j.Drive.Tag+": "+line))
		}
	}
	return open, nil
}

// workedOn tells whether dead work was recorded of a drive since a time, or something temporary was put in.
func workedOn(entries []drivefile.Entry, since string) bool {
	return slices.ContainsFunc(entries, func(en drivefile.Entry) bool {
		ev, ok := drivefile.Contents[drivefile.Evidence](en)
		if en.At < since || !ok {
			return en.At >= since && en.Kind == drivefile.EntryTemporary
		}
		gate, _, _ := strings.Cut(ev.Key, "/")
		return gate == "dead" && ev.Basis["isolation"] != "" || gate == "power" || gate == "control"
	})
}

// How far a voltage measured on a feeder may lie from what the feeder is. Wider than IEC 60038 allows a network, so that a bad one can be
// recorded, and narrow enough that a voltage of something else cannot.
const feederLow, feederHigh = .7, 1.3

// nearItsVoltage refuses voltages that the supply cannot have: they are of something else, or mistyped.
func nearItsVoltage(s drivefile.Supply, volts []string) error {
	nominal, ok := s.Voltage.In(quantity.Voltage, "V")
	if !ok || !(nominal > 0) {
		return nil
	}
	for i, text := range volts {
		q, problem := quantity.Voltage.Parse(text)
		v, ok := q.In(quantity.Voltage, "V")
		if problem != nil || !ok || v < feederLow*nominal || v > feederHigh*nominal {
			return base.Bad(fmt.Sprintf("volts[%d]", i), text,
				fmt.Sprintf("%s to %s V on %s; what reads otherwise is not this supply, or is not live",
					quantity.Digits(feederLow*nominal, 3), quantity.Digits(feederHigh*nominal, 3), s.Name))
		}
	}
	return nil
}
