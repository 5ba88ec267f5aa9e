package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

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

// sameOnly lets a repeat of a change be answered, and nothing else use its id: not another person, not another document, not another edit.
func sameOnly(c store.Change, who Actor, docID, edit string) error {
	if c.Doc != docID || c.By != who.Person || edit != "" && c.Edit != edit {
		return &InputError{"id", c.ID, "an id that is not taken: another edit has it"}
	}
	return nil
}

// again answers a change that is stored already; ours tells whether it is.
func again(r store.Reader, id string, who Actor, docID, edit string) (ours bool, err error) {
	c, err := r.Change(id)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	return true, sameOnly(c, who, docID, edit)
}

// CreatePlace makes a place with its first person. Whether it is real or simulated is said now, and for good.
func (a *App) CreatePlace(ctx context.Context, id, name, kind, zone string, people map[string]drivefile.Person) error {
	if err := validID("id", id); err != nil {
		return err
	}
	if strings.TrimSpace(name) == "" {
		return &InputError{"name", "nothing", "the name of the place"}
	}
	if len(people) == 0 {
		return &InputError{"people", "nobody", "the person who makes the place"}
	}
	if err := a.takes(kind); err != nil {
		return err
	}
	p := drivefile.Place{Schema: drivefile.Schema, Name: name, Kind: kind, Zone: zone, People: people}
	body := drivefile.FromStruct(p)
	if err := drivefile.ValidateDocument(drivefile.KindPlace, body.JSON()); err != nil {
		return err
	}
	first := slices.Sorted(maps.Keys(people))[0]
	if strings.TrimSpace(people[first].Initials) == "" {
		return &InputError{"people." + first + ".initials", "nothing", "the initials of the person who makes the place"}
	}
	by, err := person(p, Actor{Person: first})
	if err != nil {
		return err
	}
	return a.create(ctx, by, store.Document{ID: id, Kind: drivefile.KindPlace, Place: id}, body, "new place")
}

// takes refuses a kind of place that this data folder does not take: one that was made for simulation never takes a real one.
func (a *App) takes(kind string) error {
	switch {
	case kind != drivefile.Real && kind != drivefile.Simulated:
		return &InputError{"kind", orBlank(kind), "real or simulated"}
	case kind == drivefile.Real && a.store.Simulated():
		return &RefusedError{"This data folder was made for simulation: it never takes a real place. Start the program on another folder for one."}
	}
	return nil
}

// create stores a new document with the change that made it. An id that is there already is answered, not done again.
func (a *App) create(ctx context.Context, who signer, doc store.Document, body drivefile.Body, why string) error {
	return a.write(ctx, func(tx *store.Tx) error {
		if have, err := tx.Document(doc.ID); err == nil {
			if have.Kind != doc.Kind || have.Place != doc.Place {
				return &InputError{"id", doc.ID, "an id that is not taken"}
			}
			return nil
		}
		seq, err := tx.NextSeq(1)
		if err != nil {
			return err
		}
		doc.Version, doc.Body = 1, body.JSON()
		if err := tx.PutDocument(doc); err != nil {
			return err
		}
		if err := tx.AddChange(store.Change{Seq: seq, ID: NewID(), Doc: doc.ID, Version: 1, By: who.Person, Device: who.Device, At: a.stamp(), Edit: ofProgram, Why: why, Ops: body.Leaves(), Initials: who.initials, Name: who.name, Clock: a.clock}); err != nil {
			return err
		}
		if doc.Kind == drivefile.KindDrive {
			return a.glance(tx, doc)
		}
		return nil
	})
}

// NewDrive describes a drive to be made.
type NewDrive struct {
	ID       string `json:"id"`
	Place    string `json:"place"`
	CopyFrom string `json:"copy_from,omitempty" doc:"id of a like drive: family, motor type, intent are taken over; serials, readings and decisions are not"`
	Sets     []Set  `json:"sets"`
}

// CreateDrive makes a drive, empty or like another.
func (a *App) CreateDrive(ctx context.Context, who Actor, n NewDrive) (View, error) {
	if err := validID("id", n.ID); err != nil {
		return View{}, err
	}
	r := a.store.Read(ctx)
	_, p, err := placeOf(r, n.Place)
	if err != nil {
		return View{}, &InputError{"place", n.Place, "the id of a place"}
	}
	by, err := person(p, who)
	if err != nil {
		return View{}, err
	}
	body := drivefile.FromStruct(drivefile.Drive{Schema: drivefile.Schema, Place: n.Place})
	if n.CopyFrom != "" {
		src, err := driveDoc(r, n.CopyFrom)
		if err != nil {
			return View{}, &InputError{"copy_from", n.CopyFrom, "the id of a drive"}
		}
		b, err := drivefile.ParseBody(src.Body)
		if err != nil {
			return View{}, err
		}
		for _, op := range b.Leaves() {
			if !belongsToOne(op.Path) {
				_ = body.Apply([]drivefile.Op{op}) // a stored leaf is JSON
			}
		}
	}
	ops, err := a.operations(drivefile.KindDrive, body, Edit{Sets: n.Sets}, nil)
	if err != nil {
		return View{}, err
	}
	if err := body.Apply(ops); err != nil {
		return View{}, err
	}
	why := "new drive"
	if n.CopyFrom != "" {
		why = "copied from a like drive"
	}
	if err := a.create(ctx, by, store.Document{ID: n.ID, Kind: drivefile.KindDrive, Place: n.Place}, body, why); err != nil {
		return View{}, err
	}
	return a.Drive(ctx, who, n.ID)
}

// belongsToOne are the fields of one drive that a copy must not take over: what it is called, what was measured, found, landed or seen of it. A copy
// takes the plan.
func belongsToOne(path string) bool {
	switch path {
	case "schema", "place", "tag", "notes", "archived", "rating.serial", "rating.no_serial", "motor.no_serial", "rating.firmware", "motor.serial", "motor.fitted_joins", "motor.fitted_lines", "turn.phases", "stop.fall", "stop.alone", "stop.inside_checksum":
		return true
	}
	for _, found := range []string{"ran.", "signal.points.", "link."} {
		if strings.HasPrefix(path, found) {
			return true
		}
	}
	return false
}

// Change edits a document: every set that can be read is kept, texts that cannot be read are kept as typed.
func (a *App) Change(ctx context.Context, who Actor, docID string, e Edit) error {
	if err := validID("id", e.ID); err != nil {
		return err
	}
	if len(e.Sets) == 0 || len(e.Sets) > 200 {
		return &InputError{"sets", fmt.Sprint(len(e.Sets), " sets"), "1 to 200"}
	}
	return a.write(ctx, func(tx *store.Tx) error {
		if done, err := again(tx.Reader, e.ID, who, docID, e.Edit); err != nil || done {
			return err
		}
		doc, err := tx.Document(docID)
		if err != nil {
			return err
		}
		_, p, err := placeOf(tx.Reader, doc.Place)
		if err != nil {
			return err
		}
		by, err := person(p, who)
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
		ops, err := a.operations(doc.Kind, body, e, tx)
		if err == nil && len(ops) > 0 {
			err = a.staysTrue(tx, doc, p, ops)
		}
		if err == nil && len(ops) > 0 {
			err = a.apply(tx, by, doc, body, ops, e, "")
		}
		if c, ok := err.(*ConflictError); ok {
			a.blame(tx, docID, c)
		}
		return err
	})
}

// joins lets a person enter themselves at a place before anybody is chosen: with their initials, which stand on it at once.
func joins(doc store.Document, e Edit, who Actor, not error) (signer, error) {
	s := signer{Actor: who}
	if doc.Kind != drivefile.KindPlace || validID("person", who.Person) != nil {
		return s, not
	}
	mine := "people." + who.Person + "."
	for _, x := range e.Sets {
		if !strings.HasPrefix(x.Path, mine) {
			return s, not
		}
		switch x.Path {
		case mine + "initials":
			s.initials = strings.TrimSpace(x.Text)
		case mine + "name":
			s.name = strings.TrimSpace(x.Text)
		}
	}
	if s.initials == "" {
		return s, &InputError{mine + "initials", "nothing", "the initials of who enters themselves"}
	}
	return s, nil
}

// ofProgram is the visit of what the program itself changes: no undo takes it back. Nobody's edit may take that name.
const ofProgram = "create"

// Sendable says whether an edit is one that a person may send.
func (e Edit) Sendable() error {
	if e.Edit == ofProgram {
		return &InputError{"edit", e.Edit, "an id made by the client"}
	}
	return nil
}

// visitOf wants one visit of a field to be one person's: what another groups with it would stand under the wrong name.
func visitOf(r store.Reader, docID, edit string, who Actor) error {
	if edit == "" || edit == ofProgram {
		return nil
	}
	if len(edit) > 100 {
		return &InputError{"edit", fmt.Sprint(len(edit), " characters"), "at most 100"}
	}
	changes, err := r.RecentChanges(docID, undoLooksBack)
	if err != nil {
		return err
	}
	for _, c := range changes {
		if c.Edit == edit && c.By != who.Person {
			return &InputError{"edit", edit, "an id that is not taken: " + orBlank(c.Initials) + " has it for another edit"}
		}
	}
	return nil
}

// staysTrue refuses edits of a place that would make untrue what stands in the record: the initials under what somebody has signed, and the people and
// supplies whose locks are on.
func (a *App) staysTrue(tx *store.Tx, doc store.Document, p drivefile.Place, ops []drivefile.Op) error {
	if doc.Kind != drivefile.KindPlace {
		return nil
	}
	var energy map[string]isolation.SupplyState
	for _, op := range ops {
		if op.Path == "kind" {
			return &RefusedError{fmt.Sprintf("%s was made as a %s place, and stays one.", p.Name, p.Kind)}
		}
		parts := strings.Split(op.Path, ".")
		if len(parts) == 3 && parts[0] == "instruments" && parts[2] == "number" {
			if id, m, taken := instrumentOf(p, drivefile.TextOf(op.New)); taken && id != parts[1] {
				return &RefusedError{fmt.Sprintf("The number %s is that of another instrument here (%s): one number, one instrument.", m.Number, orBlank(m.Name))}
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
				return &RefusedError{fmt.Sprintf("The lock of %s is on at %s: it stays as it is entered until the lock is off.", owners(p, energy[id].Locks), p.Supplies[id].Name)}
			}
		case parts[2] == "initials" && drivefile.TextOf(op.Old) != "":
			for _, s := range slices.Sorted(maps.Keys(energy)) {
				for _, l := range energy[s].Locks {
					if l.Owner == id {
						return &RefusedError{fmt.Sprintf("The lock of %s is on at %s: %s stays entered until it is off.", drivefile.TextOf(op.Old), p.Supplies[s].Name, drivefile.TextOf(op.Old))}
					}
				}
			}
			if !gone {
				return &RefusedError{fmt.Sprintf("What %s has signed stays under these initials. Enter a new person with other initials instead; %s can be taken away.", drivefile.TextOf(op.Old), drivefile.TextOf(op.Old))}
			}
		}
	}
	return nil
}

// operations turns typed fields into operations; unchanged ones are left out.
func (a *App) operations(kind string, body drivefile.Body, e Edit, tx *store.Tx) ([]drivefile.Op, error) {
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
		if s.Path == "practice" && s.Text != "" && a.practices.Find(s.Text) == nil {
			return nil, &InputError{"practice", s.Text, "one of " + strings.Join(a.practiceNames(), ", ")}
		}
		old := body.Get(s.Path)
		if s.Seen != nil && drivefile.TextOf(old) != *s.Seen && drivefile.TextOf(old) != s.Text {
			return nil, &ConflictError{Path: s.Path, Yours: s.Text, Theirs: drivefile.TextOf(old)}
		}
		if !drivefile.Same(old, value) && drivefile.TextOf(old) != drivefile.TextOf(value) {
			ops = append(ops, drivefile.Op{Path: s.Path, Old: old, New: value})
		}
	}
	if kind == drivefile.KindDrive {
		ops = append(ops, slopes(body, ops)...)
		ops = append(ops, a.familyVersion(body, ops)...)
	}
	return ops, nil
}

// placeField refuses what a rule of the place could not read: it would pass over it in silence.
func placeField(s Set) error {
	switch s.Path {
	case "zone":
		if _, err := time.LoadLocation(s.Text); err != nil || s.Text == "" {
			return &InputError{"zone", s.Text, "a time zone by its IANA name, like Europe/Oslo"}
		}
	case "shifts":
		if _, ok := isolation.ParseShifts(s.Text); !ok {
			return &InputError{"shifts", s.Text, "times of day, like 06:00, 14:00, 22:00"}
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
func (a *App) upgraded(tx *store.Tx, who signer, doc store.Document) (store.Document, drivefile.Body, error) {
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
	if err := a.apply(tx, who, doc, old, ops, Edit{ID: NewID(), Edit: ofProgram, Why: fmt.Sprintf("brought to schema %d", drivefile.Schema)}, ""); err != nil {
		return doc, nil, err
	}
	doc.Version++
	doc.Body = old.JSON()
	return doc, old, nil
}

func (a *App) apply(tx *store.Tx, who signer, doc store.Document, body drivefile.Body, ops []drivefile.Op, e Edit, undoes string) error {
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
		return &InputError{"document", fmt.Sprint(len(doc.Body), " bytes"), fmt.Sprint("at most ", drivefile.MaxJSON)}
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
	if err := tx.AddChange(store.Change{Seq: seq, ID: e.ID, Doc: doc.ID, Version: doc.Version, By: who.Person, Device: who.Device, At: a.stamp(), Edit: e.Edit, Undoes: undoes, Why: e.Why, Ops: ops, Initials: who.initials, Name: who.name, Typed: e.Typed, Clock: a.clock}); err != nil {
		return err
	}
	if doc.Kind == drivefile.KindDrive {
		if err := a.staleNeighbours(tx, doc, body, ops); err != nil {
			return err
		}
		return a.glance(tx, doc)
	}
	a.placeChanged.Store(true)
	return nil
}

// typedAt is when something was typed, where that was more than a few seconds before it came. A time to come is none.
func (a *App) typedAt(text string) (string, error) {
	if text == "" {
		return "", nil
	}
	t, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return "", &InputError{"typed", text, "a time in UTC, like 2026-11-25T10:00:00Z"}
	}
	if late := a.now().Sub(t); late < 10*time.Second || t.Year() < 2000 {
		return "", nil
	}
	return t.UTC().Format("2006-01-02T15:04:05.000Z"), nil
}

// staleNeighbours marks the Yard's rows of the drives whose stop circuit names this one, when something was changed that they look at.
func (a *App) staleNeighbours(tx *store.Tx, doc store.Document, body drivefile.Body, ops []drivefile.Op) error {
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
	_, p, err := placeOf(tx.Reader, doc.Place)
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
	a.placeChanged.Store(true)
	return tx.StaleByCircuits(doc.Place, circuits)
}

// blame fills in who made the value that is in the way.
func (a *App) blame(tx *store.Tx, docID string, c *ConflictError) {
	changes, err := tx.Changes(docID)
	if err != nil {
		return
	}
	for _, ch := range changes {
		for _, op := range ch.Ops {
			if op.Path == c.Path {
				c.By, c.At = a.nameOf(tx.Reader, docID, ch.By), ch.At
			}
		}
	}
}

func (a *App) nameOf(r store.Reader, docID, personID string) string {
	doc, err := r.Document(docID)
	if err != nil {
		return personID
	}
	_, p, err := placeOf(r, doc.Place)
	if err != nil {
		return personID
	}
	if per, ok := p.People[personID]; ok && per.Initials != "" {
		return per.Initials
	}
	return "somebody"
}

// edited is one visit of a field: all its changes as one.
type edited struct {
	edit string
	ops  []drivefile.Op
	seq  int64
}

// lastEdit finds a person's last edit that is not undone; nil when there is none.
func lastEdit(changes []store.Change, who Actor) *edited {
	undone := map[string]bool{}
	for _, c := range changes {
		if c.Undoes != "" {
			undone[c.Undoes] = true
		}
	}
	var e *edited
	for i := len(changes) - 1; i >= 0; i-- {
		c := changes[i]
		if c.By != who.Person || c.Undoes != "" || undone[c.Edit] || c.Edit == ofProgram {
			continue
		}
		if e == nil {
			e = &edited{edit: c.Edit, seq: c.Seq}
		}
		if c.Edit == e.edit {
			e.ops = append(append([]drivefile.Op{}, c.Ops...), e.ops...)
		}
	}
	return e
}

func describe(e *edited) string {
	seen, list := map[string]bool{}, []string{}
	for _, op := range e.ops {
		if l := drivefile.Called(op.Path); !seen[l] {
			seen[l] = true
			list = append(list, l)
		}
	}
	if len(list) > 3 {
		return fmt.Sprintf("%s and %d more", list[0], len(list)-1)
	}
	return strings.Join(list, ", ")
}

// Undo takes back a person's own last edit of a document, as a new change. It is refused, with the name, where
// somebody changed the same path later.
func (a *App) Undo(ctx context.Context, who Actor, docID, changeID string) error {
	if err := validID("id", changeID); err != nil {
		return err
	}
	return a.write(ctx, func(tx *store.Tx) error {
		if done, err := again(tx.Reader, changeID, who, docID, ""); err != nil || done {
			return err
		}
		doc, err := tx.Document(docID)
		if err != nil {
			return err
		}
		p, by, err := signerAt(tx.Reader, doc.Place, who)
		if err != nil {
			return err
		}
		changes, err := tx.Changes(docID)
		if err != nil {
			return err
		}
		e := lastEdit(changes, who)
		if e == nil {
			return &RefusedError{"There is no edit of yours to undo."}
		}
		touched := map[string]bool{}
		for _, op := range e.ops {
			touched[op.Path] = true
		}
		for _, c := range changes {
			if c.Seq <= e.seq || c.Edit == e.edit || c.By == who.Person {
				continue
			}
			for _, op := range c.Ops {
				if touched[op.Path] {
					return &RefusedError{fmt.Sprintf("%s changed %s after you: undo would lose it.", a.nameOf(tx.Reader, docID, c.By), drivefile.Called(op.Path))}
				}
			}
		}
		if err := a.staysTrue(tx, doc, p, drivefile.Invert(e.ops)); err != nil {
			return err
		}
		doc, body, err := a.upgraded(tx, by, doc)
		if err != nil {
			return err
		}
		return a.apply(tx, by, doc, body, drivefile.Invert(e.ops), Edit{ID: changeID, Edit: changeID, Why: "undo of " + describe(e)}, e.edit)
	})
}

// write runs a transaction and wakes the event streams after it.
func (a *App) write(ctx context.Context, f func(*store.Tx) error) error {
	err := a.store.Write(ctx, f)
	if err == nil {
		a.hub.wake()
		if a.placeChanged.Swap(false) {
			a.wakeGlances()
		}
	}
	return err
}

// wakeGlances has the Yard's stale rows made anew in the background.
func (a *App) wakeGlances() {
	select {
	case a.stale <- struct{}{}:
	default: // it will look anyway
	}
}
