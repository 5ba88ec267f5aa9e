package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"unicode"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/core/sheet"
	"tingate/store"
)

// situation is what an act on a drive sees, inside its transaction.
type situation struct {
	job   gate.Job
	state gate.State
	tx    *store.Tx
}

// record adds an entry to a drive. make sees what holds now and gives the body. A repeated id is answered, not done again.
func (a *App) record(ctx context.Context, who Actor, driveID, id, kind string, make func(situation) (any, error)) error {
	return a.recordAll(ctx, who, driveID, id, kind, func(s situation) ([]any, error) {
		body, err := make(s)
		return []any{body}, err
	})
}

// recordAll adds several entries that belong together: all of them, or none. The first has the id.
func (a *App) recordAll(ctx context.Context, who Actor, driveID, id, kind string, make func(situation) ([]any, error)) error {
	if err := validID("id", id); err != nil {
		return err
	}
	return a.write(ctx, func(tx *store.Tx) error {
		if done, err := recorded(tx.Reader, id, who, driveID, kind); err != nil || done {
			return err
		}
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
		bodies, err := make(situation{j, a.evaluate(j), tx})
		if err != nil {
			return err
		}
		for _, body := range bodies {
			if err := a.addEntry(tx, by, doc.ID, id, kind, ofDrive(body, j.Drive)); err != nil {
				return err
			}
			id = NewID()
		}
		return a.glance(tx, doc)
	})
}

// ofDrive writes the drive's serial on what is read from it, set in it or kept of it.
func ofDrive(body any, d drivefile.Drive) any {
	serial := record.SerialOf(d)
	switch b := body.(type) {
	case drivefile.Reading:
		b.Serial = serial
		return b
	case drivefile.Entered:
		b.Serial = serial
		return b
	case drivefile.Write:
		b.Serial = serial
		return b
	case drivefile.Snapshot:
		b.Serial = serial
		return b
	}
	return body
}

// recorded answers an entry that is stored already, and lets nothing else use its id.
func recorded(r store.Reader, id string, who Actor, docID, kind string) (ours bool, err error) {
	e, err := r.Entry(id)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err == nil && (e.Doc != docID || e.By != who.Person || e.Kind != kind) {
		err = &InputError{"id", id, "an id that is not taken: another entry has it"}
	}
	return err == nil, err
}

func (a *App) addEntry(tx *store.Tx, who signer, docID, id, kind string, body any) error {
	if who.Person == "" {
		return &RefusedError{"Say who works first: choose your initials at the top right."}
	}
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	seq, err := tx.NextSeq(1)
	if err != nil {
		return err
	}
	return tx.AddEntry(drivefile.Entry{ID: id, Seq: seq, Doc: docID, Kind: kind, By: who.Person, Device: who.Device, At: a.stamp(), Body: raw, Initials: who.initials, Name: who.name, Clock: a.clock})
}

func setting(f *dialect.Family, code string) (*dialect.Setting, error) {
	if f == nil {
		return nil, &RefusedError{"Choose the drive's family first."}
	}
	s, ok := f.Setting(code)
	if !ok {
		return nil, &InputError{"code", code, "a setting of " + f.Name}
	}
	return s, nil
}

// Read records a setting as a person reads it on the keypad. "=" logs that it agrees by eye, which protection, limits
// and restart settings do not allow. A text that cannot be read is kept, with what was expected.
func (a *App) Read(ctx context.Context, who Actor, driveID, id, code, text string) error {
	return a.record(ctx, who, driveID, id, drivefile.EntryReading, func(s situation) (any, error) {
		set, err := setting(s.job.Family, code)
		if err != nil {
			return nil, err
		}
		r := drivefile.Reading{Code: code, Text: strings.TrimSpace(text), How: "typed"}
		if len(r.Text) > 200 {
			return nil, &InputError{"text", fmt.Sprint(len(r.Text), " characters"), "at most 200"}
		}
		if r.Text == "=" {
			line := lineOf(s.state, code)
			switch {
			case line == nil || !line.Planned:
				return nil, &RefusedError{"Nothing is planned for " + code + ", so there is nothing to agree with. Type what the keypad shows."}
			case line.Protects:
				return nil, &RefusedError{code + " protects people or machine: type what the keypad shows, or read it over the link."}
			}
			r.How, r.Text, r.Steps = "eye", set.Text(line.Steps), &line.Steps
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

func lineOf(s gate.State, code string) *sheet.Line {
	for i := range s.Lines {
		if s.Lines[i].Code == code {
			return &s.Lines[i]
		}
	}
	return nil
}

func (a *App) versions(j gate.Job) map[string]string {
	v := map[string]string{"program": a.version, "rules": gate.RulesVersion}
	if j.Practice != nil {
		v["practice"] = j.Practice.Name + " " + j.Practice.Version
	}
	if j.Family != nil {
		v["dialect"] = j.Family.Name + " " + j.Family.Version + " " + j.Family.Hash
	}
	return v
}

func shown(v any) json.RawMessage {
	raw, _ := json.Marshal(v) // what is shown was made to be JSON
	return raw
}

func reasonGiven(reason string) error {
	if strings.TrimSpace(reason) == "" {
		return &InputError{"reason", "nothing", "why, in your own words"}
	}
	if len(reason) > 2000 {
		return &InputError{"reason", fmt.Sprint(len(reason), " characters"), "at most 2000"}
	}
	return nil
}

// substance wants a reason that says something: ten letters in two words at least.
func substance(field, text, want string) error {
	words := 0
	for _, w := range strings.Fields(text) {
		if len([]rune(w)) > 1 {
			words++
		}
	}
	if letters(text) < 10 || words < 2 {
		return &InputError{field, orBlank(strings.TrimSpace(text)), want + ": ten letters in two words at least"}
	}
	return reasonGiven(text)
}

func letters(text string) (n int) {
	for _, r := range text {
		if unicode.IsLetter(r) {
			n++
		}
	}
	return n
}

// Keep answers a finding: the value stays, for a reason. seen is the finding's detail as it was shown: a reason for other figures is refused; empty: it is not said.
func (a *App) Keep(ctx context.Context, who Actor, driveID, id, key, reason, seen string) error {
	if err := reasonGiven(reason); err != nil {
		return err
	}
	return a.record(ctx, who, driveID, id, drivefile.EntryDecision, func(s situation) (any, error) {
		for _, f := range s.state.Findings {
			if f.Key != key {
				continue
			}
			if seen != "" && seen != f.Detail {
				return nil, notAsShown(f.Title)
			}
			if !f.Severity.Open() {
				return nil, &RefusedError{"This finding is only to know; it needs no answer."}
			}
			if f.Code == "not-readable" || strings.HasPrefix(f.Code, "write-not-known") {
				return nil, &RefusedError{f.Title + ": this cannot be kept. " + f.Action + "."}
			}
			return drivefile.Decision{Type: "kept", Key: key, Reason: reason, Basis: f.Basis(), Shown: shown(f.Finding), Versions: a.versions(s.job)}, nil
		}
		return nil, &InputError{"key", key, "a finding that stands now"}
	})
}

// notAsShown refuses an answer to what was shown before, and is otherwise now.
func notAsShown(what string) error {
	return &RefusedError{what + ": what it rests on has changed since it was shown. Nothing was recorded: look at it as it is now, and answer again."}
}

func findCheck(s gate.State, key string) (*gate.Check, *gate.Gate) {
	for i := range s.Gates {
		for k := range s.Gates[i].Checks {
			if s.Gates[i].Checks[k].Key == key {
				return &s.Gates[i].Checks[k], &s.Gates[i]
			}
		}
	}
	return nil, nil
}

// Waive sets a check aside for a reason. What stops cannot be waived.
func (a *App) Waive(ctx context.Context, who Actor, driveID, id, key, reason string) error {
	if err := substance("reason", reason, "why it is left out, in your own words"); err != nil {
		return err
	}
	return a.record(ctx, who, driveID, id, drivefile.EntryDecision, func(s situation) (any, error) {
		c, g := findCheck(s.state, key)
		switch {
		case c == nil:
			return nil, &InputError{"key", key, "a check of this drive"}
		case c.Verdict == gate.Stops:
			return nil, &RefusedError{c.Title + " stops this gate and cannot be waived: " + c.Detail}
		case c.Must:
			return nil, &RefusedError{c.Title + " is never waived: " + gate.NeverWaived(key) + "."}
		case c.Verdict == gate.Holds:
			return nil, &RefusedError{c.Title + " holds; there is nothing to waive."}
		}
		if key == "turn/before/stop" || key == "keep/gate/stop" {
			if err := stopWaived(s, reason); err != nil {
				return nil, err
			}
		}
		return drivefile.Decision{Type: "waived", Key: key, Reason: reason, Basis: gate.MachinesUnder(s.job, g.Key, key), Shown: shown(c), Versions: a.versions(s.job)}, nil
	})
}

// stopWaived holds a reason to leave gate Stop out against what it must say: who is responsible, by the name that stands at the circuit. With a test that
// fails it is never left out.
func stopWaived(s situation, reason string) error {
	if n := s.state.Stop.Fails; n > 0 {
		return &RefusedError{fmt.Sprintf("Gate Stop is not left out while a test of it fails: %d. What failed is mended, and tested again.", n)}
	}
	by := strings.TrimSpace(s.job.Place.Circuits[s.job.Drive.Stop.Circuit].By)
	if by == "" {
		by = strings.TrimSpace(s.job.Drive.Stop.NoneBy)
	}
	switch {
	case by == "":
		return &RefusedError{"Who is responsible for the safety function is not entered at gate Stop: without that person's name it is not left out."}
	case !strings.Contains(strings.ToLower(reason), strings.ToLower(by)):
		return &InputError{"reason", reason, "the name of who is responsible, " + by + ", and why they let it be left out"}
	}
	return nil
}

// Pass passes a gate, with what was shown. It is refused while a check is open.
func (a *App) Pass(ctx context.Context, who Actor, driveID, id, key string) error {
	return a.record(ctx, who, driveID, id, drivefile.EntryDecision, func(s situation) (any, error) {
		for _, g := range s.state.Gates {
			if g.Key != key {
				continue
			}
			for _, c := range g.Checks {
				if c.Verdict != gate.Holds && c.Verdict != gate.Waived {
					return nil, &RefusedError{fmt.Sprintf("%s cannot be passed yet: %s. %s", g.Name, c.Title, c.Detail)}
				}
			}
			return drivefile.Decision{Type: "passed", Key: key, Basis: gate.Basis(s.job.Drive.Motor), Shown: shown(map[string]any{"checks": g.Checks, "figures": s.state.Figures}), Versions: a.versions(s.job)}, nil
		}
		return nil, &InputError{"gate", key, "one of " + strings.Join(gate.GateKeys(), ", ")}
	})
}

// Withdraw takes an entry back, for a reason; it stays in the record.
func (a *App) Withdraw(ctx context.Context, who Actor, driveID, id, entry, reason string) error {
	if letters(reason) < 4 {
		return &InputError{"reason", orBlank(strings.TrimSpace(reason)), "why it is taken back, in a word or more"}
	}
	if err := reasonGiven(reason); err != nil {
		return err
	}
	r := a.store.Read(ctx)
	e, err := r.Entry(entry)
	if err != nil || e.Doc != driveID {
		return &InputError{"entry", entry, "an entry of this drive"}
	}
	if e.Kind == drivefile.EntryWrite || e.Kind == drivefile.EntryWithdrawal {
		return &RefusedError{"What was sent to a drive cannot be withdrawn. Write it again, or read it."}
	}
	return a.record(ctx, who, driveID, id, drivefile.EntryWithdrawal, func(situation) (any, error) {
		return drivefile.Withdrawal{Entry: entry, Reason: reason}, nil
	})
}

// Snapshot keeps settings as they stand: as-planned from the sheet; as-found, as-left and a machine builder's preset from
// what was read.
func (a *App) Snapshot(ctx context.Context, who Actor, driveID, id, name, label string) error {
	if name != "as-found" && name != "as-planned" && name != "as-left" && name != "builders-preset" {
		return &InputError{"name", name, "as-found, as-planned, as-left or builders-preset"}
	}
	return a.record(ctx, who, driveID, id, drivefile.EntrySnapshot, func(s situation) (any, error) {
		f := s.job.Family
		if f == nil {
			return nil, &RefusedError{"Choose the drive's family first."}
		}
		snap := drivefile.Snapshot{Name: name, Label: label, Dialect: f.Name, Version: f.Version, Hash: f.Hash, How: "readings", Values: map[string]drivefile.Value{}}
		if name == "as-planned" {
			snap.How = "plan"
			for _, l := range s.state.Lines {
				if set, ok := f.Setting(l.Code); ok && l.Planned {
					snap.Values[l.Code] = drivefile.Value{Steps: l.Steps, Text: set.Text(l.Steps)}
				}
			}
		} else {
			for code, r := range gate.Readings(s.job) {
				if r.Steps != nil {
					snap.Values[code] = drivefile.Value{Steps: *r.Steps, Text: r.Text}
				}
			}
		}
		if len(snap.Values) == 0 {
			return nil, &RefusedError{"There is nothing to keep yet: read settings back, or read them from the drive."}
		}
		return snap, nil
	})
}

var attachable = map[string]bool{"image/jpeg": true, "image/png": true, "image/webp": true, "image/gif": true, "application/pdf": true}

// Shown tells whether a kept file of a type is shown as it is; every other is a download, and never a page.
func Shown(typ string) bool { return attachable[typ] }

func typeOf(b []byte) string {
	typ, _, _ := strings.Cut(http.DetectContentType(b), ";")
	return typ
}

func hashOf(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// keepAttachment stores bytes whose name is their hash.
func (a *App) keepAttachment(tx *store.Tx, sha string, b []byte) error {
	if hashOf(b) != sha {
		return &InputError{"attachment " + sha, "other bytes", "those with this SHA-256"}
	}
	return tx.PutAttachment(sha, typeOf(b), b)
}

// Attach keeps a photo or a PDF with the drive. The type is read from the bytes, not from the name.
func (a *App) Attach(ctx context.Context, who Actor, driveID, id, name, of string, b []byte) error {
	if len(b) > drivefile.MaxAttachment {
		return &InputError{"file", fmt.Sprint(len(b), " bytes"), fmt.Sprint("at most ", drivefile.MaxAttachment, " bytes (25 MB)")}
	}
	if len(b) == 0 {
		return &InputError{"file", "an empty file", "a photo or a PDF"}
	}
	typ := typeOf(b)
	if !attachable[typ] {
		return &InputError{"file", typ, "a JPEG, PNG, WebP or GIF photo, or a PDF"}
	}
	if of == "" {
		of = "other"
	}
	return a.attach(ctx, who, driveID, id, name, of, typ, b)
}

// attach stores bytes and records whose they are.
func (a *App) attach(ctx context.Context, who Actor, driveID, id, name, of, typ string, b []byte) error {
	sha := hashOf(b)
	return a.record(ctx, who, driveID, id, drivefile.EntryAttachment, func(s situation) (any, error) {
		if err := a.keepAttachment(s.tx, sha, b); err != nil {
			return nil, err
		}
		return drivefile.Attachment{SHA256: sha, Name: name, Type: typ, Size: int64(len(b)), Of: of}, nil
	})
}

// Attachment finds kept bytes.
func (a *App) Attachment(ctx context.Context, sha string) (typ string, b []byte, err error) {
	return a.store.Read(ctx).Attachment(sha)
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
func (a *App) Compare(ctx context.Context, driveID, first, second string) ([]CompareRow, error) {
	r := a.store.Read(ctx)
	sa, err := snapshotOf(r, driveID, first)
	if err != nil {
		return nil, err
	}
	sb, err := snapshotOf(r, driveID, second)
	if err != nil {
		return nil, err
	}
	return CompareSnapshots(a.snapshotFamily(sa), sa, sb), nil
}

func snapshotOf(r store.Reader, driveID, id string) (s drivefile.Snapshot, err error) {
	e, err := r.Entry(id)
	s, ok := drivefile.Contents[drivefile.Snapshot](e)
	if err != nil || e.Doc != driveID || !ok {
		return s, &InputError{"snapshot", id, "a snapshot of this drive"}
	}
	return s, nil
}

// CompareSnapshots compares by value, in the order of the first one's family (nil: by code); the text as read stands
// in the rows.
func CompareSnapshots(f *dialect.Family, a, b drivefile.Snapshot) []CompareRow {
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
			add(s.Code, s.Name, s.Unit)
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
