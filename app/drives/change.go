package drives

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/core/isolation"
	"tingate/core/plate"
	"tingate/core/quantity"
	"tingate/core/translate"
	"tingate/store"
)

// Set is one field as typed. Seen is the text that stood there when the person began; nil skips the comparison.
type Set struct {
	Path string  `json:"path"`
	Text string  `json:"text"`
	Seen *string `json:"seen,omitempty"`
}

// Edit is one change of a document. Edit groups the changes of one visit of a field, so that undo takes them back together.
type Edit struct {
	ID   string `json:"id" doc:"UUIDv7 made by the client; a repeat is answered, not done again"`
	Edit string `json:"edit" doc:"one visit of a field"`
	Why  string `json:"why,omitempty"`
	Sets []Set  `json:"sets"`
	// Typed is when it was typed, where that was before it could be sent.
	Typed string `json:"typed,omitempty" doc:"RFC 3339, UTC: when it was typed, when the connection was away then"`
}

// Change edits a document: every set that can be read is kept, texts that cannot be read are kept as typed.
func (a *Drives) Change(ctx context.Context, who base.Actor, docID string, e Edit) error {
	if err := base.ValidID("id", e.ID); err != nil {
		return err
	}
	if len(e.Sets) == 0 || len(e.Sets) > 200 {
		return base.Bad("sets", fmt.Sprint(len(e.Sets), " sets"), "1 to 200")
	}
	return a.InTx(ctx, func(tx *store.Tx) error {
		if done, err := again(tx.Reader, e.ID, who, docID, e.Edit); err != nil || done {
			return err
		}
		doc, err := tx.Document(docID)
		if err != nil {
			return err
		}
		_, p, err := base.PlaceOf(tx.Reader, doc.Place)
		if err != nil {
			return err
		}
		by, err := base.PersonOf(p, who)
		if err != nil {
			if by, err = joins(doc, e, who, err); err != nil {
				return err
			}
		}
		if err := visitOf(tx.Reader, docID, e.Edit, who); err != nil {
			return err
		}
		doc, body, err := a.upgraded(tx, by, doc)
		if err != nil {
			return err
		}
		ops, err := a.Operations(doc.Kind, body, e, tx)
		if err == nil && len(ops) > 0 {
			err = a.staysTrue(tx, doc, p, ops)
		}
		if err == nil && len(ops) > 0 {
			err = a.apply(tx, by, doc, body, ops, e, "")
		}
		if c := (*base.ConflictError)(nil); errors.As(err, &c) {
			a.blame(tx, docID, c)
		}
		return err
	})
}

// staysTrue refuses edits of a place that would make untrue what stands in the record: the initials under what somebody has signed, and the
// people and supplies whose locks are on.
func (a *Drives) staysTrue(tx *store.Tx, doc store.Document, p drivefile.Place, ops []drivefile.Op) error {
	if doc.Kind != drivefile.KindPlace {
		return nil
	}
	var energy map[string]isolation.SupplyState
	for _, op := range ops {
		if op.Path == "kind" {
			return base.Refuse(fmt.Sprintf("%s was made as a %s place, and stays one.", p.Name, p.Kind))
		}
		parts := strings.Split(op.Path, ".")
		if len(parts) == 3 && parts[0] == "instruments" && parts[2] == "number" {
			if id, m, taken := base.InstrumentOf(p, drivefile.TextOf(op.New)); taken && id != parts[1] {
				return base.Refuse(fmt.Sprintf("The number %s is that of another instrument here (%s): one number, one instrument.",
					m.Number, base.OrBlank(m.Name)))
			}
		}
		if len(parts) != 3 || parts[0] != "people" && parts[0] != "supplies" {
			continue
		}
		id, gone := parts[1], drivefile.TextOf(op.New) == ""
		if energy == nil {
			entries, err := tx.Entries(doc.ID)
			if err != nil {
				return err
			}
			energy = isolation.ByID(entries)
		}
		switch {
		case parts[0] == "supplies":
			if gone && (parts[2] == "name" || parts[2] == "isolator") && len(energy[id].Locks) > 0 {
				return base.Refuse(fmt.Sprintf("The lock of %s is on at %s: it stays as it is entered until the lock is off.",
					base.Owners(p, energy[id].Locks), p.Supplies[id].Name))
			}
		case parts[2] == "initials" && drivefile.TextOf(op.Old) != "":
			for _, s := range slices.Sorted(maps.Keys(energy)) {
				for _, l := range energy[s].Locks {
					if l.Owner == id {
						return base.Refuse(fmt.Sprintf("The lock of %s is on at %s: %s stays entered until it is off.",
							drivefile.TextOf(op.Old), p.Supplies[s].Name, drivefile.TextOf(op.Old)))
					}
				}
			}
			if !gone {
				return base.Refuse(fmt.Sprintf("What %s has signed stays under these initials. Enter a new person with other initials "+
					"instead; %s can be taken away.", drivefile.TextOf(op.Old), drivefile.TextOf(op.Old)))
			}
		}
	}
	return nil
}

// Operations turns typed fields into operations; unchanged ones are left out.
func (a *Drives) Operations(kind string, body drivefile.Body, e Edit, tx *store.Tx) ([]drivefile.Op, error) {
	var ops []drivefile.Op
	for _, s := range e.Sets {
		f, err := drivefile.Lookup(kind, s.Path)
		if err != nil {
			return nil, err
		}
		value, _, err := f.Entry(s.Text)
		if err != nil {
			return nil, err
		}
		if kind == drivefile.KindPlace {
			if err := placeField(s); err != nil {
				return nil, err
			}
		}
		if s.Path == "practice" && s.Text != "" && a.PracticeSet.Find(s.Text) == nil {
			return nil, base.Bad("practice", s.Text, "one of "+strings.Join(a.PracticeNames(), ", "))
		}
		old := body.Get(s.Path)
		if s.Seen != nil && drivefile.TextOf(old) != *s.Seen && drivefile.TextOf(old) != s.Text {
			return nil, &base.ConflictError{Path: s.Path, Yours: s.Text, Theirs: drivefile.TextOf(old)}
		}
		if !drivefile.Same(old, value) && drivefile.TextOf(old) != drivefile.TextOf(value) {
			ops = append(ops, drivefile.Op{Path: s.Path, Old: old, New: value})
		}
	}
	if kind == drivefile.KindDrive {
		ops = append(ops, slopes(body, ops)...)
		ops = append(ops, a.FamilyVersion(body, ops)...)
	}
	return ops, nil
}

// placeField refuses what a rule of the place could not read: it would pass over it in silence.
func placeField(s Set) error {
	switch s.Path {
	case "zone":
		if _, err := time.LoadLocation(s.Text); err != nil || s.Text == "" {
			return base.Bad("zone", s.Text, "a time zone by its IANA name, like Europe/Oslo")
		}
	case "shifts":
		if _, ok := isolation.ParseShifts(s.Text); !ok {
			return base.Bad("shifts", s.Text, "times of day, like 06:00, 14:00, 22:00")
		}
	}
	return nil
}

// slopes turns ramps typed in seconds into r/min per s as soon as the highest speed is known: that is what is stored,
// so that a later change of the highest speed leaves the slope.
func slopes(body drivefile.Body, ops []drivefile.Op) []drivefile.Op {
	after, err := drivefile.ParseBody(body.JSON())
	if err != nil || after.Apply(ops) != nil {
		return nil
	}
	d, err := drivefile.DecodeDrive(after.JSON())
	if err != nil {
		return nil
	}
	high, ok := d.Intent.HighestSpeed.In(quantity.Speed, "r/min")
	if !ok || !(high > 0) {
		return nil
	}
	var out []drivefile.Op
	for path, q := range map[string]drivefile.Q{"intent.rise": d.Intent.Rise, "intent.fall": d.Intent.Fall} {
		if q.Value == nil || q.Unit == "r/min/s" {
			continue
		}
		poles := 0
		if q.Unit == "Hz/s" {
			poles = plate.Judge(translate.Plate(d.Motor)).Poles
		}
		v := translate.Slope(q, high, poles)
		if !(v > 0) {
			continue
		}
		raw, err := json.Marshal(drivefile.Q{Text: q.Text, Value: &v, Unit: "r/min/s"})
		if err != nil {
			continue
		}
		out = append(out, drivefile.Op{Path: path, Old: after.Get(path), New: raw})
	}
	return out
}

// upgraded brings a stored document to the present schema before it is changed, as a change of its own that no undo takes
// back. Reading alone never does: a bundle of an older schema goes out as it came in.
func (a *Drives) upgraded(tx *store.Tx, who base.Signer, doc store.Document) (store.Document, drivefile.Body, error) {
	old, err := drivefile.ParseBody(doc.Body)
	if err != nil {
		return doc, nil, err
	}
	raw, err := drivefile.Upgrade(doc.Kind, doc.Body)
	if err != nil {
		return doc, nil, err
	}
	body, err := drivefile.ParseBody(raw)
	if err != nil || drivefile.Same(old.Get("schema"), body.Get("schema")) {
		return doc, body, err
	}
	var ops []drivefile.Op
	now := map[string]bool{}
	for _, op := range body.Leaves() {
		now[op.Path] = true
		if was := old.Get(op.Path); !drivefile.Same(was, op.New) {
			ops = append(ops, drivefile.Op{Path: op.Path, Old: was, New: op.New})
		}
	}
	for _, op := range old.Leaves() {
		if !now[op.Path] {
			ops = append(ops, drivefile.Op{Path: op.Path, Old: op.New, New: json.RawMessage("null")})
		}
	}
	if err := a.apply(tx, who, doc, old, ops,
		Edit{ID: base.NewID(), Edit: base.OfProgram, Why: fmt.Sprintf("brought to schema %d", drivefile.Schema)}, ""); err != nil {
		return doc, nil, err
	}
	doc.Version++
	doc.Body = old.JSON()
	return doc, old, nil
}

func (a *Drives) apply(
	tx *store.Tx,
	who base.Signer,
	doc store.Document,
	body drivefile.Body,
	ops []drivefile.Op,
	e Edit,
	undoes string,
) error {
	if err := body.Apply(ops); err != nil {
		return err
	}
	seq, err := tx.NextSeq(1)
	if err != nil {
		return err
	}
	doc.Version++
	doc.Body = body.JSON()
	if len(doc.Body) > drivefile.MaxJSON {
		return base.Bad("document", fmt.Sprint(len(doc.Body), " bytes"), fmt.Sprint("at most ", drivefile.MaxJSON))
	}
	if e.Edit == "" {
		e.Edit = e.ID
	}
	if e.Typed, err = a.typedAt(e.Typed); err != nil {
		return err
	}
	if err := tx.PutDocument(doc); err != nil {
		return err
	}
	if err := tx.AddChange(store.Change{Seq: seq, ID: e.ID, Doc: doc.ID, Version: doc.Version, By: who.Person, Device: who.Device,
		At: a.Stamp(), Edit: e.Edit, Undoes: undoes, Why: e.Why, Ops: ops, Initials: who.Initials, Name: who.Name, Typed: e.Typed,
		Clock: a.Clock}); err != nil {
		return err
	}
	if doc.Kind == drivefile.KindDrive {
		if err := a.staleNeighbours(tx, doc, body, ops); err != nil {
			return err
		}
		return a.PutGlance(tx, doc)
	}
	a.PlaceChanged.Store(true)
	return nil
}

// staleNeighbours marks the Yard's rows of the drives whose stop circuit names this one, when something was changed that they look at.
func (a *Drives) staleNeighbours(tx *store.Tx, doc store.Document, body drivefile.Body, ops []drivefile.Op) error {
	seen := false
	tags := map[string]bool{strings.ToLower(drivefile.TextOf(body.Get("tag"))): true}
	for _, op := range ops {
		head, _, _ := strings.Cut(op.Path, ".")
		seen = seen || head == "tag" || head == "rating" || head == "stop" || head == "wiring" || head == "intent"
		if op.Path == "tag" {
			tags[strings.ToLower(drivefile.TextOf(op.Old))] = true
		}
	}
	if !seen {
		return nil
	}
	_, p, err := base.PlaceOf(tx.Reader, doc.Place)
	if err != nil {
		return err
	}
	var circuits []string
	for id, c := range p.Circuits {
		for _, t := range strings.Split(c.Drives, ",") {
			if t = strings.ToLower(strings.TrimSpace(t)); t != "" && tags[t] {
				circuits = append(circuits, id)
				break
			}
		}
	}
	if len(circuits) == 0 {
		return nil
	}
	a.PlaceChanged.Store(true)
	return tx.StaleByCircuits(doc.Place, circuits)
}
