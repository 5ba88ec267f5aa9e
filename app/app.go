// Package app is what a person can do with Tin Gate, one function an action. It knows no HTTP and no flags.
package app

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"maps"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/google/uuid"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/formats/familyfile"
	"tingate/formats/practicefile"
	"tingate/store"
)

// App carries out actions on one data folder.
type App struct {
	store   *store.Store
	now     func() time.Time
	version string
	hub     hub
	wires   wires
	benches benches
	// diagnoses are stop circuits' by what they rest on; pairs are searches for two faults at once, by drive.
	diagnoses  sync.Map
	pairs      sync.Map
	recordings sync.Map // runs that are recorded over the link, by drive
	proofs     sync.Map // how far each drive's proof under way has come

	families  *familyfile.Set
	practices *practicefile.Set
	importing sync.Mutex
	freshen   sync.Mutex
	keeping   sync.Mutex // one family or practice comes in at a time
	clock     string     // what was done to the clock: set, or hurried; empty: nothing
	refresh   progress
	stale     chan struct{} // wakes KeepGlances
	looking   sync.Mutex
	looked    time.Time    // the latest at which it was asked which rows are stale
	back      atomic.Value // words: when the clock stepped back last
	// placeChanged: a place was changed, and with it perhaps the rows of its drives.
	placeChanged atomic.Bool
	since        time.Time // when this process began to serve: a wait counts only while it runs
	// FamilyProblems are the family and practice files of the data folder that could not be read, with the reason.
	FamilyProblems []string
}

// New makes an App over an open store. now tells the time; version is the program's.
func New(s *store.Store, now func() time.Time, version string) *App {
	a := &App{store: s, now: now, version: version, stale: make(chan struct{}, 1), hub: hub{subs: map[chan struct{}]bool{}}, wires: wires{busy: map[string]LinkProgress{}}, benches: benches{all: map[string]*running{}}, families: familyfile.Shipped(), practices: practicefile.Shipped(), since: now()}
	if newest, err := s.Read(context.Background()).NewestRecord(); err == nil && newest > a.since.UTC().Format(stampLayout) {
		a.steppedBack(a.since)
	}
	files, err := s.Files(store.FamilyFolder)
	if err != nil {
		a.FamilyProblems = append(a.FamilyProblems, err.Error())
	}
	for _, name := range slices.Sorted(maps.Keys(files)) {
		if _, err := a.families.Add(files[name], false); err != nil {
			a.FamilyProblems = append(a.FamilyProblems, name+": "+err.Error()+". It is left out; its file stays in the data folder, to be mended and added again.")
		}
	}
	files, err = s.Files(store.PracticeFolder)
	if err != nil {
		a.FamilyProblems = append(a.FamilyProblems, err.Error())
	}
	for name, raw := range files {
		if _, err := a.practices.Add(raw); err != nil {
			a.FamilyProblems = append(a.FamilyProblems, name+": "+err.Error())
		}
	}
	return a
}

// Actor is who acts, from which browser. Name is of one who is no person of the place: the account of a command line.
type Actor struct{ Person, Device, Name string }

// SetClock says that the clock that this App was given is not the real one: everything that is done by it is marked so.
func (a *App) SetClock(what string) { a.clock = what }

// InputError is bad input: which field, what was read, what was expected.
type InputError struct{ Field, Got, Want string }

func (e *InputError) Error() string {
	return fmt.Sprintf("%s: got %s, want %s", e.Field, e.Got, e.Want)
}

// RefusedError is an act that is not done, with the reason in a sentence.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

// ConflictError: somebody else changed the same value. Nothing is lost: both stand here.
type ConflictError struct {
	Path, Yours, Theirs, By, At string
}

func (e *ConflictError) Error() string {
	return fmt.Sprintf("%s was changed to %q by %s; you typed %q", e.Path, e.Theirs, e.By, e.Yours)
}

// stampLayout is how times are written on records.
const stampLayout = "2006-01-02T15:04:05.000Z"

func (a *App) stamp() string { return a.now().UTC().Format(stampLayout) }

// NewID makes a UUIDv7, for acts that have no edge to make one.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

func validID(field, id string) error {
	if err := uuid.Validate(id); err != nil || len(id) != 36 {
		return &InputError{field, id, "a UUID made by the client"}
	}
	return nil
}

// signer is who acts, with the name that stands on what is done: as it is written now, whatever becomes of the person.
type signer struct {
	Actor
	initials, name string
}

// person checks that whoever acts is known at the place.
func person(p drivefile.Place, who Actor) (signer, error) {
	if per, ok := p.People[who.Person]; ok && who.Person != "" {
		return signer{who, per.Initials, per.Name}, nil
	}
	return signer{}, &RefusedError{"Say who works first: choose your initials at the top right."}
}

// broughtBy is who brings something in that is not of one place only: a person of the place, or who started the program.
func broughtBy(p drivefile.Place, who Actor) signer {
	if s, err := person(p, who); err == nil {
		return s
	}
	s := signer{who, "–", who.Name}
	s.Person = "this-computer"
	if s.name == "" {
		s.name = "somebody at this computer, before a person was chosen"
	}
	return s
}

// undoLooksBack is how many changes a view looks through for the name of one's own last edit.
const undoLooksBack = 200

// View is a drive with what holds now.
type View struct {
	ID      string          `json:"id"`
	Version int64           `json:"version"`
	Seq     int64           `json:"seq" doc:"number of the newest change or entry, of the drive or its place, that this view rests on"`
	Drive   drivefile.Drive `json:"drive"`
	State   gate.State      `json:"state"`
	Family  FamilyHead      `json:"family"`
	Undo    string          `json:"undo" doc:"what undo would take back; empty when there is nothing of one's own"`
}

// job gathers what an evaluation of a drive needs.
func (a *App) job(r store.Reader, doc store.Document) (gate.Job, store.Document, error) {
	d, err := drivefile.DecodeDrive(doc.Body)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	pd, p, err := placeOf(r, doc.Place)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	entries, err := r.Entries(doc.ID)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	energy, err := r.Entries(doc.Place)
	f, newest := a.familyFor(d.Rating)
	if err != nil {
		return gate.Job{}, store.Document{}, err
	}
	near, err := a.neighbours(r, doc, d, p)
	return gate.Job{ID: doc.ID, Drive: d, Place: p, Family: f, Newest: newest, Practice: a.practiceOf(d, p), Since: a.since, Entries: entries, Energy: isolation.ByID(energy), Zone: zone(p), OwnCircuit: ownCircuit(r, d, p), Neighbours: near}, pd, err
}

// zone is the place's time zone; UTC when it names none that is known.
func zone(p drivefile.Place) *time.Location {
	if z, err := time.LoadLocation(p.Zone); err == nil {
		return z
	}
	return time.UTC
}

func placeOf(r store.Reader, id string) (store.Document, drivefile.Place, error) {
	pd, err := r.Document(id)
	if err != nil {
		return pd, drivefile.Place{}, err
	}
	p, err := drivefile.DecodePlace(pd.Body)
	return pd, p, err
}

// signerAt is a place, and who acts there.
func signerAt(r store.Reader, placeID string, who Actor) (drivefile.Place, signer, error) {
	_, p, err := placeOf(r, placeID)
	if err != nil {
		return p, signer{}, err
	}
	by, err := person(p, who)
	return p, by, err
}

func driveDoc(r store.Reader, id string) (store.Document, error) {
	doc, err := r.Document(id)
	if err == nil && doc.Kind != drivefile.KindDrive {
		err = store.ErrNotFound
	}
	return doc, err
}

// Drive shows a drive, as it stands at one moment.
func (a *App) Drive(ctx context.Context, who Actor, id string) (v View, err error) {
	err = a.store.Snapshot(ctx, func(r store.Reader) error {
		v, err = a.view(r, who, id)
		return err
	})
	return v, err
}

func (a *App) view(r store.Reader, who Actor, id string) (View, error) {
	doc, err := driveDoc(r, id)
	if err != nil {
		return View{}, err
	}
	j, _, err := a.job(r, doc)
	if err != nil {
		return View{}, err
	}
	changes, err := r.RecentChanges(id, undoLooksBack)
	if err != nil {
		return View{}, err
	}
	v := View{ID: id, Version: doc.Version, Drive: j.Drive, State: a.evaluate(j), Family: a.familyHead(j.Family)}
	if n := len(changes); n > 0 {
		v.Seq = changes[n-1].Seq
	}
	if n := len(j.Entries); n > 0 {
		v.Seq = max(v.Seq, j.Entries[n-1].Seq)
	}
	of, err := r.LastOf(doc.Place) // what feeds it, and who works there
	if err != nil {
		return View{}, err
	}
	v.Seq = max(v.Seq, of)
	if edit := lastEdit(changes, who); edit != nil {
		v.Undo = describe(edit)
	}
	return v, nil
}

// glance makes the Yard's row in the transaction that changed what it rests on.
func (a *App) glance(tx *store.Tx, doc store.Document) error {
	g, err := a.rowOf(tx.Reader, doc, false) // nobody waits in a transaction for a ride: the Yard makes such a row anew before it shows it
	if err != nil {
		return err
	}
	return tx.PutGlance(g)
}

// Rules are what a row of the Yard rests on besides documents and entries: the program's rules, and the families and practices that are known.
func (a *App) Rules() string {
	back, _ := a.back.Load().(string)
	return gate.RulesVersion + " " + a.families.Hash() + " " + a.practices.Hash() + back
}

// row works out what the Yard shows of a drive. A rule that cannot bear a drive's data stops that row, and no other.
func (a *App) row(r store.Reader, doc store.Document) (store.Glance, error) {
	return a.rowOf(r, doc, true)
}

// notRidden stands behind the rules of a row whose plan is still to be ridden: it is stale.
const notRidden = ", not ridden"

func (a *App) rowOf(r store.Reader, doc store.Document, ride bool) (g store.Glance, err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("a drive's rules failed", "drive", doc.ID, "panic", p, "stack", string(debug.Stack()))
			err = fmt.Errorf("the rules fail on drive %s: %v", doc.ID, p)
		}
	}()
	j, pd, err := a.job(r, doc)
	if err != nil {
		return store.Glance{}, err
	}
	s, known := a.evaluated(j, ride)
	rules := a.Rules()
	if !known {
		rules += notRidden
	}
	return glanceRow(doc, pd.Version, rules, j, s), nil
}

func glanceRow(doc store.Document, placeVersion int64, rules string, j gate.Job, s gate.State) store.Glance {
	// In the usual order of the gates, whatever order the drive's practice has: the Yard shows them in columns.
	var marks []string
	for _, key := range gate.GateKeys() {
		for _, g := range s.Gates {
			if g.Key == key {
				mark := string(g.Mark)
				if g.Waived > 0 {
					mark += fmt.Sprintf(":%d", g.Waived)
				}
				marks = append(marks, mark)
			}
		}
	}
	d := j.Drive
	var about []string
	row := d.Motor.Rows[s.Linked]
	if row.Power.Text != "" {
		p := row.Power.Text
		if sh, ok := s.Shown["motor.rows."+s.Linked+".power"]; ok {
			p = sh
		}
		about = append(about, p)
	}
	if d.Rating.Dialect != "" {
		about = append(about, d.Rating.Dialect)
	}
	return store.Glance{Drive: doc.ID, Place: doc.Place, Tag: d.Tag, Machine: d.Machine, Where: d.Where, Archived: d.Archived, Marks: strings.Join(marks, " "),
		Next: s.Next, NextDetail: s.NextDetail, NextGate: s.NextGate, Worst: s.Worst, WorstTitle: s.WorstTitle, About: strings.Join(about, " · "), Search: searchText(doc.Body),
		DriveVersion: doc.Version, PlaceVersion: placeVersion, Rules: rules, StaleAfter: s.Until}
}

// searchText is every text written on a drive, in lower case.
func searchText(body []byte) string {
	b, err := drivefile.ParseBody(body)
	if err != nil {
		return ""
	}
	var words []string
	for _, op := range b.Leaves() {
		var text string
		var q drivefile.Q
		if json.Unmarshal(op.New, &text) == nil && op.Path != "place" && op.Path != "motor.linked" {
			words = append(words, text)
		} else if json.Unmarshal(op.New, &q) == nil && q.Text != "" {
			words = append(words, q.Text)
		}
	}
	return strings.ToLower(strings.Join(words, "\n"))
}

func (a *App) familyOf(v View) *dialect.Family {
	f, _ := a.familyFor(v.Drive.Rating)
	return f
}
