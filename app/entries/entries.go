package entries

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/store"
)

// Read records a setting as a person reads it on the keypad. "=" logs that it agrees by eye, which protection, limits
// and restart settings do not allow. A text that cannot be read is kept, with what was expected.
func (a *Entries) Read(ctx context.Context, who base.Actor, driveID, id, code, text string) error {
	return a.Put(ctx, who, driveID, id, drivefile.EntryReading, func(s base.Situation) (any, error) {
		set, err := base.SettingOf(s.Job.Family, code)
		if err != nil {
			return nil, err
		}
		r := drivefile.Reading{Code: code, Text: strings.TrimSpace(text), How: drivefile.ByTyping}
		if len(r.Text) > 200 {
			return nil, base.Bad("text", fmt.Sprint(len(r.Text), " characters"), "at most 200")
		}
		if r.Text == "=" {
			line := base.LineOf(s.State, code)
			switch {
			case line == nil || !line.Planned:
				return nil, base.Refuse("Nothing is planned for " + code +
					", so there is nothing to agree with. Type what the keypad shows.")
			case line.Protects:
				return nil, base.Refuse(code + " protects people or machine: type what the keypad shows, or read it over the link.")
			}
			r.How, r.Text, r.Steps = drivefile.ByEye, set.AsRead(line.Steps, line.SetTo), &line.Steps
			return r, nil
		}
		steps, err := set.Read(r.Text)
		if err != nil {
			var fe *dialect.FieldError
			if errors.As(err, &fe) {
				r.Problem = "Wanted: " + fe.Want + "."
			}
			return r, nil
		}
		r.Steps = &steps
		return r, nil
	})
}

// Keep answers a finding: the value stays, for a reason. seen is the finding's detail as it was shown: a reason for other figures is
// refused; empty: it is not said.
func (a *Entries) Keep(ctx context.Context, who base.Actor, driveID, id, key, reason, seen string) error {
	if err := base.ReasonGiven(reason); err != nil {
		return err
	}
	return a.Put(ctx, who, driveID, id, drivefile.EntryDecision, func(s base.Situation) (any, error) {
		for _, f := range s.State.Findings {
			if f.Key != key {
				continue
			}
			if seen != "" && seen != f.Detail {
				return nil, notAsShown(f.Title)
			}
			if !f.Severity.Open() {
				return nil, base.Refuse("This finding is only to know; it needs no answer.")
			}
			if f.Code == "not-readable" || strings.HasPrefix(f.Code, "write-not-known") {
				return nil, base.Refuse(f.Title + ": this cannot be kept. " + f.Action + ".")
			}
			return drivefile.Decision{Type: "kept", Key: key, Reason: reason, Basis: f.Basis(), Shown: base.AsShown(f.Finding),
				Versions: a.Versions(s.Job)}, nil
		}
		return nil, base.Bad("key", key, "a finding that stands now")
	})
}

// notAsShown refuses an answer to what was shown before, and is otherwise now.
func notAsShown(what string) error {
	return base.Refuse(what + ": what it rests on has changed since it was shown. Nothing was recorded: look at it as it is now, and " +
		"answer again.")
}

// Waive sets a check aside for a reason, as it stands. What stops cannot be waived.
func (a *Entries) Waive(ctx context.Context, who base.Actor, driveID, id, key, reason string) error {
	return a.WaiveShown(ctx, who, driveID, id, key, reason, nil)
}

// WaiveShown is Waive of a check as it was shown: seen is what it rested on then, or a part of it; a check that rests on something else by
// now is refused.
func (a *Entries) WaiveShown(ctx context.Context, who base.Actor, driveID, id, key, reason string, seen map[string]string) error {
	if err := base.Substance("reason", reason, "why it is left out, in your own words"); err != nil {
		return err
	}
	return a.Put(ctx, who, driveID, id, drivefile.EntryDecision, func(s base.Situation) (any, error) {
		c, g := base.FindCheck(s.State, key)
		switch {
		case c == nil:
			return nil, base.Bad("key", key, "a check of this drive")
		case c.Verdict == gate.Stops:
			return nil, base.Refuse(c.Title + " stops this gate and cannot be waived: " + c.Detail)
		case c.Must:
			return nil, base.Refuse(c.Title + " is never waived: " + gate.NeverWaived(key) + ".")
		case c.Verdict == gate.Holds:
			return nil, base.Refuse(c.Title + " holds; there is nothing to waive.")
		case !asShown(c, seen):
			return nil, notAsShown(c.Title)
		}
		if key == "turn/before/stop" || key == "keep/gate/stop" {
			if err := stopWaived(s, reason); err != nil {
				return nil, err
			}
		}
		return drivefile.Decision{Type: "waived", Key: key, Reason: reason, Basis: gate.MachinesUnder(s.Job, g.Key, key),
			Shown: base.AsShown(c), Versions: a.Versions(s.Job)}, nil
	})
}

// stopWaived holds a reason to leave gate Stop out against what it must say: who is responsible, by the name that stands at the circuit.
// With a test that fails it is never left out.
func stopWaived(s base.Situation, reason string) error {
	if n := s.State.Stop.Fails; n > 0 {
		return base.Refuse(fmt.Sprintf("Gate Stop is not left out while a test of it fails: %d. What failed is mended, and tested again.",
			n))
	}
	by := strings.TrimSpace(s.Job.Place.Circuits[s.Job.Drive.Stop.Circuit].By)
	if by == "" {
		by = strings.TrimSpace(s.Job.Drive.Stop.NoneBy)
	}
	switch {
	case by == "":
		return base.Refuse("Who is responsible for the safety function is not entered at gate Stop: without that person's name it is " +
			"not left out.")
	case !strings.Contains(strings.ToLower(reason), strings.ToLower(by)):
		return base.Bad("reason", reason, "the name of who is responsible, "+by+", and why they let it be left out")
	}
	return nil
}

// Pass passes a gate, with what was shown. It is refused while a check is open.
func (a *Entries) Pass(ctx context.Context, who base.Actor, driveID, id, key string) error {
	return a.Put(ctx, who, driveID, id, drivefile.EntryDecision, func(s base.Situation) (any, error) {
		for _, g := range s.State.Gates {
			if g.Key != key {
				continue
			}
			for _, c := range g.Checks {
				if c.Verdict != gate.Holds && c.Verdict != gate.Waived {
					return nil, base.Refuse(fmt.Sprintf("%s cannot be passed yet: %s. %s", g.Name, c.Title, c.Detail))
				}
			}
			return drivefile.Decision{Type: "passed", Key: key, Basis: gate.Basis(s.Job.Drive.Motor),
				Shown: base.AsShown(map[string]any{"checks": g.Checks, "figures": s.State.Figures}), Versions: a.Versions(s.Job)}, nil
		}
		return nil, base.Bad("gate", key, "one of "+strings.Join(gate.GateKeys(), ", "))
	})
}

// Withdraw takes an entry back, for a reason; it stays in the record.
func (a *Entries) Withdraw(ctx context.Context, who base.Actor, driveID, id, entry, reason string) error {
	if base.Letters(reason) < 4 {
		return base.Bad("reason", base.OrBlank(strings.TrimSpace(reason)), "why it is taken back, in a word or more")
	}
	if err := base.ReasonGiven(reason); err != nil {
		return err
	}
	r := a.Store.Read(ctx)
	e, err := r.Entry(entry)
	if err != nil || e.Doc != driveID {
		return base.Bad("entry", entry, "an entry of this drive")
	}
	if e.Kind == drivefile.EntryWrite || e.Kind == drivefile.EntryWithdrawal {
		return base.Refuse("What was sent to a drive cannot be withdrawn. Write it again, or read it.")
	}
	return a.Put(ctx, who, driveID, id, drivefile.EntryWithdrawal, func(base.Situation) (any, error) {
		return drivefile.Withdrawal{Entry: entry, Reason: reason}, nil
	})
}

// Snapshot keeps settings as they stand: as-planned from the sheet; as-found, as-left and a machine builder's preset from
// what was read.
func (a *Entries) Snapshot(ctx context.Context, who base.Actor, driveID, id, name, label string) error {
	if name != "as-found" && name != "as-planned" && name != "as-left" && name != "builders-preset" {
		return base.Bad("name", name, "as-found, as-planned, as-left or builders-preset")
	}
	return a.Put(ctx, who, driveID, id, drivefile.EntrySnapshot, func(s base.Situation) (any, error) {
		f := s.Job.Family
		if f == nil {
			return nil, base.Refuse("Choose the drive's family first.")
		}
		snap := drivefile.Snapshot{Name: name, Label: label, Dialect: f.Name, Version: f.Version, Hash: f.Hash, How: "readings",
			Values: map[string]drivefile.Value{}}
		if name == "as-planned" {
			snap.How = "plan"
			for _, l := range s.State.Lines {
				if set, ok := f.Setting(l.Code); ok && l.Planned {
					snap.Values[l.Code] = drivefile.Value{Steps: l.Steps, Text: set.AsRead(l.Steps, l.SetTo)}
				}
			}
		} else {
			for code, r := range gate.Readings(s.Job) {
				if r.Steps != nil {
					snap.Values[code] = drivefile.Value{Steps: *r.Steps, Text: r.Text}
				}
			}
		}
		if len(snap.Values) == 0 {
			return nil, base.Refuse("There is nothing to keep yet: read settings back, or read them from the drive.")
		}
		return snap, nil
	})
}

// Attach keeps a photo or a PDF with the drive. The type is read from the bytes, not from the name.
func (a *Entries) Attach(ctx context.Context, who base.Actor, driveID, id, name, of string, b []byte) error {
	if len(b) > drivefile.MaxAttachment {
		return base.Bad("file", fmt.Sprint(len(b), " bytes"), fmt.Sprint("at most ", drivefile.MaxAttachment, " bytes (25 MB)"))
	}
	if len(b) == 0 {
		return base.Bad("file", "an empty file", "a photo or a PDF")
	}
	typ := base.TypeOf(b)
	if !base.Attachable[typ] {
		return base.Bad("file", typ, "a JPEG, PNG, WebP or GIF photo, or a PDF")
	}
	if of == "" {
		of = "other"
	}
	return a.AddAttachment(ctx, who, driveID, id, name, of, typ, b)
}

// CompareRow is one setting in two snapshots.
type CompareRow struct {
	Code string `json:"code"`
	Name string `json:"name"`
	Unit string `json:"unit"`
	A    string `json:"a"`
	B    string `json:"b"`
	Same bool   `json:"same"`
}

// Compare lays two snapshots of a drive side by side, in the family's order. Snapshots of different families are
// compared by code only.
func (a *Entries) Compare(ctx context.Context, driveID, first, second string) ([]CompareRow, error) {
	r := a.Store.Read(ctx)
	sa, err := snapshotOf(r, driveID, first)
	if err != nil {
		return nil, err
	}
	sb, err := snapshotOf(r, driveID, second)
	if err != nil {
		return nil, err
	}
	return CompareSnapshots(a.library.SnapshotFamily(sa), a.library.SnapshotFamily(sb), sa, sb), nil
}

func snapshotOf(r store.Reader, driveID, id string) (s drivefile.Snapshot, err error) {
	e, err := r.Entry(id)
	s, ok := drivefile.Contents[drivefile.Snapshot](e)
	if err != nil || e.Doc != driveID || !ok {
		return s, base.Bad("snapshot", id, "a snapshot of this drive")
	}
	return s, nil
}

// CompareSnapshots compares by value, in the order of the first one's family (nil: by code); the text as read stands
// in the rows.
func CompareSnapshots(f, g *dialect.Family, a, b drivefile.Snapshot) []CompareRow {
	var rows []CompareRow
	add := func(code, name, unit string) {
		va, oka := a.Values[code]
		vb, okb := b.Values[code]
		if oka || okb {
			rows = append(rows, CompareRow{code, name, unit, va.Text, vb.Text, oka == okb && va.Steps == vb.Steps})
		}
	}
	seen := map[string]bool{}
	if f != nil {
		rows = make([]CompareRow, 0, len(f.Settings))
		for i := range f.Settings {
			s := &f.Settings[i]
			seen[s.Code] = true
			unit := s.Unit
			if x := unitIn(g, f.Name, s.Code); x != "" && x != unit { // one of the two was counted otherwise
				unit += " and " + x
			}
			add(s.Code, s.Name, unit)
		}
	}
	rest := map[string]bool{}
	for _, m := range []map[string]drivefile.Value{a.Values, b.Values} {
		for code := range m {
			if !seen[code] {
				rest[code] = true
			}
		}
	}
	for _, code := range slices.Sorted(maps.Keys(rest)) {
		add(code, "not known in this family", "")
	}
	return rows
}

// unitIn is a setting's unit in a family of that name; empty: it is another, or has none.
func unitIn(f *dialect.Family, name, code string) string {
	if f == nil || f.Name != name {
		return ""
	}
	if s, ok := f.Setting(code); ok {
		return s.Unit
	}
	return ""
}
