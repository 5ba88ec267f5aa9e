package app

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/core/quantity"
	"tingate/core/record"
	"tingate/store"
)

// CheckAnswer is a person's answer to a check: confirmed, a choice, or a measurement as typed.
type CheckAnswer struct {
	ID     string `json:"id"`
	Key    string `json:"key"`
	Value  string `json:"value"`
	With   string `json:"with,omitempty" doc:"meter and its range"`
	Reason string `json:"reason,omitempty"`
	// Seen is what the check rested on as it was shown. It may be a part of the check's basis.
	Seen map[string]string `json:"seen,omitempty" doc:"what the check rested on as it was shown (its basis, or a part of it): an answer to another question is refused"`
}

// Confirm answers a check that a person confirms.
func (a *App) Confirm(ctx context.Context, who Actor, driveID, id, key string) error {
	return a.AnswerCheck(ctx, who, driveID, CheckAnswer{ID: id, Key: key, Value: "confirmed"})
}

// AnswerCheck records an answer with the values it rests on. What cannot be read is kept as typed. Work at the equipment is
// refused in the wrong state of energy, with what to do first.
func (a *App) AnswerCheck(ctx context.Context, who Actor, driveID string, in CheckAnswer) error {
	return a.record(ctx, who, driveID, in.ID, drivefile.EntryEvidence, func(s situation) (any, error) {
		c, _ := findCheck(s.state, in.Key)
		if c == nil { // a measurement that parts suspects of a stop circuit becomes a check as it is asked for
			asked := s.job
			asked.Asked = in.Key
			c, _ = findCheck(a.evaluate(asked), in.Key)
		}
		if c == nil {
			return nil, &InputError{"key", in.Key, "a check of this drive"}
		}
		for k, v := range in.Seen {
			if c.Basis[k] != v {
				return nil, notAsShown(c.Title)
			}
		}
		if gate.WorkedOn(s.job, in.Key, who.Person) {
			return nil, &RefusedError{"You have done some of it yourself: a second person looks, and records it under their own initials."}
		}
		do := c.Do
		if do == "" && c.Verdict == gate.Holds && (c.Value != "" || c.Unit != "") {
			do = "measure"
			if strings.HasPrefix(c.Key, gate.TestPrefix) {
				do = "test"
			}
			if c.Options != nil {
				do = "choose"
			}
		}
		switch {
		case c.Work == "live" && s.state.Energy.State != drivefile.Live:
			return nil, &RefusedError{c.Title + " is live work, and " + bandWords(s.state.Energy) + " Record the supply live first, when it is."}
		case c.Work == "dead" && s.state.Energy.State != drivefile.Dead:
			return nil, &RefusedError{c.Title + " is dead work, and " + bandWords(s.state.Energy) + " Isolate, and prove it dead at gate Dead."}
		case !s.state.Takes(who.Person, *c):
			return nil, &RefusedError{"Take the dangers of this job first, by name, at gate Dead: " + c.Title + " is work at the equipment."}
		case do == "" || do == "attach" || do == "lock":
			return nil, &RefusedError{c.Title + " is not answered like this. " + c.Detail}
		}
		ev := drivefile.Evidence{Key: in.Key, Value: strings.TrimSpace(in.Value), Instrument: strings.TrimSpace(in.With), Reason: strings.TrimSpace(in.Reason), Basis: c.Basis, Unit: c.Unit}
		if do == "test" {
			if err := testAnswer(s.job, s.state, ev); err != nil {
				return nil, err
			}
			return ev, nil
		}
		if in.Key == "stop/set/chosen" && ev.Value == "smallest" {
			keys, _ := json.Marshal(gate.StopDrawing(s.job).Smallest().Keys)
			ev.Reason = string(keys)
		}
		if len(ev.Value) > 200 || len(ev.Instrument) > 200 || len(ev.Reason) > 2000 && in.Key != "stop/set/chosen" {
			return nil, &InputError{"value", fmt.Sprint(len(ev.Value), " characters"), "at most 200"}
		}
		if err := withInstrument(s.job.Place, c, &ev); err != nil {
			return nil, err
		}
		switch do {
		case "confirm":
			ev.Value = "confirmed"
			if ev.Instrument != record.OnBench {
				ev.Instrument = "" // a person's word is not measured
			}
		case "choose":
			i := slices.IndexFunc(c.Options, func(o gate.Option) bool { return o.Value == ev.Value })
			if i < 0 {
				return nil, &InputError{"value", ev.Value, "one of the choices"}
			}
			if want, asks := strings.CutPrefix(c.Options[i].Why, "Give the reason: "); asks {
				if err := substance("reason", ev.Reason, strings.TrimSuffix(want, ".")); err != nil {
					return nil, err
				}
			}
		case "measure":
			if ev.Value == "" {
				return nil, &InputError{"value", "nothing", "a value in " + c.Unit}
			}
			if v, ok := measured(ev.Value, c.Unit); ok {
				ev.Reading = &v
			}
		}
		return ev, nil
	})
}

// openOhms stands for a meter that shows no continuity: JSON has no infinity.
const openOhms = 1e9

// measured reads what a meter shows, in a check's unit. For continuity a lamp or a beep is an answer too.
func measured(text, unit string) (float64, bool) {
	kind, base := quantity.Voltage, "V"
	if unit != "V" && unit != "V DC" && unit != "Ω" { // the unit may be typed along; a bare number is in it
		text = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), unit))
	}
	switch unit {
	case "Ω":
		kind, base = quantity.Resistance, "Ω"
		switch strings.ToLower(text) {
		case "lamp", "beep", "lights", "ok", "joined":
			return 0, true
		case "open", "ol", "o.l", "o.l.", "dark", "no", "∞", "inf":
			return openOhms, true
		}
	case "MΩ":
		kind, base = quantity.Megohm, "MΩ"
	case "N·m":
		kind, base = quantity.Torque, "N·m"
	case "°C":
		kind, base = quantity.Temperature, "°C"
	case "r/min":
		kind, base = quantity.Speed, "r/min"
	case "ms", "min", "mm", "A", "mA", "mΩ", "mH", "µH", "counts": // figures as a keypad shows them: no thousands in them
		v, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		return v, err == nil && !math.IsInf(v, 0) && !math.IsNaN(v)
	}
	q, problem := kind.Parse(text)
	if problem != nil {
		return 0, false
	}
	return q.In(kind, base)
}

func bandWords(b isolation.EnergyBand) string {
	return map[drivefile.EnergyState]string{drivefile.Live: "the drive is LIVE.", drivefile.Dead: "the drive is recorded DEAD.", drivefile.NotKnown: "its state is NOT KNOWN, treat as live."}[b.State]
}

// ProveDead records every supply of a drive dead, once all that proves it holds.
func (a *App) ProveDead(ctx context.Context, who Actor, driveID string) error {
	return a.write(ctx, func(tx *store.Tx) error {
		doc, err := driveDoc(tx.Reader, driveID)
		if err != nil {
			return err
		}
		j, _, err := a.job(tx.Reader, doc)
		if err != nil {
			return err
		}
		by, err := person(j.Place, who)
		if err != nil {
			return err
		}
		s := gate.Evaluate(j, a.now()) // the plan's ride has no part in it, and a transaction waits
		if !s.Proved {
			for _, g := range s.Gates {
				for _, c := range g.Checks {
					if g.Key == "dead" && c.Verdict != gate.Holds {
						return &RefusedError{"It is not proved dead: " + c.Title + ". " + c.Detail}
					}
				}
			}
			return &RefusedError{"It is not proved dead. The state stays NOT KNOWN, treat as live; covers stay on."}
		}
		for _, src := range s.Sources {
			if len(src.Measured) == 0 {
				return &RefusedError{src.Name + " was not measured: it is not recorded dead by what was measured of another."}
			}
		}
		for _, src := range s.Sources {
			if err := a.addEntry(tx, by, doc.Place, NewID(), drivefile.EntryEnergy, drivefile.Energy{Supply: src.ID, State: drivefile.Dead, Drive: driveID, Volts: src.Measured, Meter: s.Meter}); err != nil {
				return err
			}
			if err := a.staleFed(tx, doc.Place, j.Place, src.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

// RecordEnergy records a supply live or not known. Dead is recorded by ProveDead alone. A supply that was opened comes back
// only when no lock is on and somebody was told; one that is found live behind a lock is recorded with a note that says so.
func (a *App) RecordEnergy(ctx context.Context, who Actor, placeID, id string, e drivefile.Energy) error {
	if err := validID("id", id); err != nil {
		return err
	}
	if e.State != drivefile.Live && e.State != drivefile.NotKnown {
		return &InputError{"state", string(e.State), "live or not-known; dead is proved at a drive"}
	}
	for i, v := range e.Volts {
		f := drivefile.Field{Path: fmt.Sprintf("volts[%d]", i), Quantity: true}
		f.Kind = quantity.Voltage
		if _, problem, err := f.Entry(v); err != nil || problem != nil || strings.TrimSpace(v) == "" {
			return &InputError{f.Path, v, "a voltage, like 398"}
		}
	}
	e.Open = nil
	return a.atPlace(ctx, who, placeID, id, e.Supply, func(tx *store.Tx, p drivefile.Place, all map[string]isolation.SupplyState) (string, any, error) {
		s := all[e.Supply]
		if e.State == drivefile.Live {
			if err := nearItsVoltage(p.Supplies[e.Supply], e.Volts); err != nil {
				return "", nil, err
			}
		}
		if e.State == drivefile.Live && len(s.Locks) > 0 && strings.TrimSpace(e.Note) == "" {
			return "", nil, &RefusedError{fmt.Sprintf("The lock of %s is on: it comes off before this is switched on. If it was found live behind the lock, say so in the note.", owners(p, s.Locks))}
		}
		if e.State == drivefile.Live && len(s.Locks) == 0 {
			since := openSince(p, all, e.Supply)
			if since == "" {
				return drivefile.EntryEnergy, e, nil
			}
			if strings.TrimSpace(e.Told) == "" {
				return "", nil, &InputError{"told", "nothing", "who was told before it was switched on again"}
			}
			open, err := a.openBefore(tx, placeID, p, e, since)
			if err != nil {
				return "", nil, err
			}
			if e.Open = open; open == nil {
				e.Against = ""
			} else if err := substance("against", e.Against, "why it comes back though this is open: "+someOf(open)); err != nil {
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

// openSince is when a supply was opened for work, itself or at the isolator before it, if it was not recorded live since; empty: it was not.
func openSince(p drivefile.Place, all map[string]isolation.SupplyState, id string) string {
	if all[id].Open {
		return all[id].OpenedAt()
	}
	if s := p.Supplies[id]; s.Isolator == "" && all[s.FedFrom].Open {
		return all[s.FedFrom].OpenedAt()
	}
	return ""
}

// openBefore lists what is open before a supply comes back, at the drive where that is recorded and at every other that it feeds and that was worked on
// since it was opened.
func (a *App) openBefore(tx *store.Tx, placeID string, p drivefile.Place, e drivefile.Energy, since string) ([]string, error) {
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
		doc, err := driveDoc(tx.Reader, id)
		if err != nil {
			return nil, &InputError{"drive", "another", "a drive of this place"}
		}
		j, _, err := a.job(tx.Reader, doc)
		if err != nil {
			return nil, err
		}
		its := slices.ContainsFunc(slices.Sorted(maps.Keys(j.Drive.Supplies)), func(s string) bool { return fed[s] })
		if doc.Place != placeID || !its || j.Drive.Archived || j.Drive.Stop.Alone || id != e.Drive && !workedOn(j.Entries, since) {
			continue
		}
		for _, line := range gate.Evaluate(j, a.now()).OpenBefore { // the plan's ride has no part in it, and a transaction waits
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

// How far a voltage measured on a feeder may lie from what the feeder is. Wider than IEC 60038 allows a network, so that a bad one can be recorded, and narrow
// enough that a voltage of something else cannot.
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
			return &InputError{fmt.Sprintf("volts[%d]", i), text, fmt.Sprintf("%s to %s V on %s; what reads otherwise is not this supply, or is not live", quantity.Digits(feederLow*nominal, 3), quantity.Digits(feederHigh*nominal, 3), s.Name)}
		}
	}
	return nil
}

// Lock records what a person does with a lock. Everybody has one of their own; nobody records another's removed without
// saying who was told and why.
func (a *App) Lock(ctx context.Context, who Actor, placeID, id string, l drivefile.Lock) error {
	if err := validID("id", id); err != nil {
		return err
	}
	return a.atPlace(ctx, who, placeID, id, l.Supply, func(_ *store.Tx, p drivefile.Place, all map[string]isolation.SupplyState) (string, any, error) {
		s := all[l.Supply]
		if l.Owner == "" {
			l.Owner = who.Person
		}
		if _, ok := p.People[l.Owner]; !ok {
			return "", nil, &InputError{"owner", l.Owner, "a person of this place"}
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
				return "", nil, &RefusedError{"Everybody hangs their own lock: " + name + " records it."}
			case mine:
				return "", nil, &RefusedError{"Your lock is on already."}
			case strings.TrimSpace(p.Supplies[l.Supply].Isolator) == "":
				return "", nil, &RefusedError{"Say first what opens " + p.Supplies[l.Supply].Name + ", and where."}
			}
		case "off", "hand-over":
			switch {
			case theirs == "":
				return "", nil, &RefusedError{"There is no lock of " + name + " on it."}
			case l.Owner != who.Person:
				return "", nil, &RefusedError{"It is the lock of " + name + ": only " + name + " takes it off, or hands it over by name."}
			}
			if _, ok := p.People[l.To]; l.Act == "hand-over" && (!ok || l.To == who.Person) {
				return "", nil, &InputError{"to", l.To, "another person of this place, by name"}
			}
		case "removed-by-another":
			if theirs == "" || l.Owner == who.Person {
				return "", nil, &RefusedError{"That is for a lock of another that is on."}
			}
			if err := substance("reason", l.Reason, "why the lock of "+name+" was removed, and that the machine was looked over"); err != nil {
				return "", nil, err
			}
			if len(strings.TrimSpace(l.Told)) < 3 {
				return "", nil, &InputError{"told", orBlank(l.Told), "who was reached before the lock of " + name + " was removed, by name"}
			}
		default:
			return "", nil, &InputError{"act", l.Act, "on, off, hand-over or removed-by-another"}
		}
		return drivefile.EntryLock, l, nil
	})
}

func owners(p drivefile.Place, l []isolation.Locked) string {
	var names []string
	for _, x := range l {
		names = append(names, p.People[x.Owner].Initials)
	}
	return strings.Join(names, ", ")
}

// atPlace records an entry about a supply of a place, and makes the rows of the drives that it feeds anew.
func (a *App) atPlace(ctx context.Context, who Actor, placeID, id, supplyID string, make func(*store.Tx, drivefile.Place, map[string]isolation.SupplyState) (kind string, body any, err error)) error {
	return a.write(ctx, func(tx *store.Tx) error {
		p, by, err := signerAt(tx.Reader, placeID, who)
		if err != nil {
			return err
		}
		if _, ok := p.Supplies[supplyID]; !ok {
			return &InputError{"supply", supplyID, "a supply of the place"}
		}
		entries, err := tx.Entries(placeID)
		if err != nil {
			return err
		}
		if done, err := recordedAt(entries, id, who); err != nil || done {
			return err
		}
		if e, err := tx.Entry(id); err == nil {
			return &InputError{"id", e.ID, "an id that is not taken: another entry has it"}
		}
		kind, body, err := make(tx, p, isolation.ByID(entries))
		if err != nil {
			return err
		}
		if err := a.addEntry(tx, by, placeID, id, kind, body); err != nil {
			return err
		}
		return a.staleFed(tx, placeID, p, supplyID)
	})
}

// recordedAt answers an entry of a place that is stored already; another person's id is refused.
func recordedAt(entries []drivefile.Entry, id string, who Actor) (ours bool, err error) {
	for _, e := range entries {
		if e.ID != id {
			continue
		}
		if e.By != who.Person {
			return false, &InputError{"id", id, "an id that is not taken: another entry has it"}
		}
		return true, nil
	}
	return false, nil
}

// staleFed marks the Yard's rows of the drives that a supply feeds, directly or through others: they are made anew before they are shown.
func (a *App) staleFed(tx *store.Tx, placeID string, p drivefile.Place, supplyID string) error {
	a.placeChanged.Store(true)
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
