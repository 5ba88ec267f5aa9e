// Package record folds what people and the drive have recorded of a drive into what is known of it: readings, answers, decisions,
// snapshots, temporary things, each as it stands after withdrawals and returns to delivery state, and of which machine it is. It judges
// nothing.
package record

import (
	"slices"
	"strings"

	"tingate/core/drivefile"
)

// Read is the last value seen in the drive.
type Read struct {
	Text    string        `json:"text"`
	Shown   string        `json:"shown,omitempty" doc:"as the setting shows it, with its unit"`
	Steps   *int64        `json:"steps,omitempty"`
	How     drivefile.How `json:"how" enum:"typed,eye,link,csv,written,voice"`
	By      string        `json:"by"`
	Voice   string        `json:"voice,omitempty" doc:"who read it aloud"`
	At      string        `json:"at"`
	Problem string        `json:"problem,omitempty"`
	Entry   string        `json:"entry"`
}

// Fact is something that was done to a setting: by whom, when, with which value.
type Fact struct {
	Text    string            `json:"text"`
	Steps   int64             `json:"steps"`
	By      string            `json:"by"`
	At      string            `json:"at"`
	Outcome drivefile.Outcome `json:"outcome,omitempty"`
	Entry   string            `json:"entry"`
}

// TemporaryThing is something that must not stay in: a jumper, a disabled protection, a trial value, an open cover.
type TemporaryThing struct {
	Entry string `json:"entry,omitempty" doc:"empty: it follows from a rule, and goes when its cause does"`
	What  string `json:"what"`
	Where string `json:"where"`
	Why   string `json:"why"`
	Until string `json:"until"`
	By    string `json:"by,omitempty"`
	At    string `json:"at,omitempty"`
}

// SnapshotHead is a snapshot without its values.
type SnapshotHead struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Label   string        `json:"label,omitempty"`
	Dialect string        `json:"dialect"`
	Count   int           `json:"count"`
	How     drivefile.How `json:"how"`
	By      string        `json:"by"`
	At      string        `json:"at"`
}

// AttachmentHead is a kept file.
type AttachmentHead struct {
	ID string `json:"id"`
	drivefile.Attachment
	By string `json:"by"`
	At string `json:"at"`
}

// Record is what the entries say, the withdrawn ones left out.
type Record struct {
	Reads           map[string]*Read
	Pending         map[string]string // code -> begun entry without outcome
	EvidenceEntries map[string]drivefile.Entry
	Evidence        map[string]drivefile.Evidence
	DecisionEntries map[string]drivefile.Entry
	Decisions       map[string]drivefile.Decision
	SnapshotEntries []drivefile.Entry
	Snapshots       []drivefile.Snapshot
	Attached        []AttachmentHead
	Things          []TemporaryThing
	LastRead        map[string]int64             // code -> seq of the last reading
	Series          map[string][]drivefile.Entry // every evidence of a key, in order
	Entered         map[string]*Fact
	Written         map[string]*Fact
	Machines        *Machines
	Standing        []drivefile.Entry // in their order, the withdrawn ones left out
	OfThis          []bool            // of snapshots: of this drive, and of after its last return to delivery state where that matters
}

// Of folds the entries of a drive, in their order.
func Of(d drivefile.Drive, p drivefile.Place, entries []drivefile.Entry) Record {
	r := Record{Reads: map[string]*Read{}, Pending: map[string]string{}, EvidenceEntries: map[string]drivefile.Entry{},
		Evidence:        map[string]drivefile.Evidence{},
		DecisionEntries: map[string]drivefile.Entry{}, Decisions: map[string]drivefile.Decision{}, LastRead: map[string]int64{},
		Series: map[string][]drivefile.Entry{}, Entered: map[string]*Fact{}, Written: map[string]*Fact{}}
	withdrawn := map[string]bool{}
	for _, e := range entries {
		if w, ok := drivefile.Contents[drivefile.Withdrawal](e); ok {
			withdrawn[w.Entry] = true
		}
	}
	r.Standing = make([]drivefile.Entry, 0, len(entries))
	for _, e := range entries {
		if !withdrawn[e.ID] {
			r.Standing = append(r.Standing, e)
		}
	}
	r.Machines = machinesOf(d, p, r.Standing)
	for _, e := range r.Standing {
		r.add(e)
	}
	r.Machines.noteAnswers(r.Evidence, r.EvidenceEntries)
	return r
}

// DeliveryReset is the check whose answer "done" says that the drive was brought back to delivery state.
const DeliveryReset = "wake/reset/delivery"

// reset forgets what a return to delivery state makes void: what was read, set and sent, what was left at delivery on purpose, the tune,
// and what was kept as left.
func (r *Record) reset() {
	clear(r.Reads)
	clear(r.Entered)
	clear(r.Written)
	clear(r.Pending)
	clear(r.LastRead)
	for key := range r.Evidence {
		if strings.HasPrefix(key, "tune/") {
			delete(r.Evidence, key)
			delete(r.EvidenceEntries, key)
			delete(r.Series, key)
		}
	}
	for key := range r.Decisions {
		if strings.HasPrefix(key, "as-delivered ") {
			delete(r.Decisions, key)
			delete(r.DecisionEntries, key)
		}
	}
	for i, b := range r.Snapshots {
		if b.Name == "as-left" {
			r.OfThis[i] = false
		}
	}
}

// ofThis tells whether what was read, set, sent or kept is of this drive.
func (r *Record) ofThis(e drivefile.Entry, serial string) bool {
	r.Machines.note(e.Seq, DriveSerial, serial)
	return r.Machines.Read(serial)
}

func (r *Record) add(e drivefile.Entry) {
	switch e.Kind {
	case drivefile.EntryReading:
		if b, ok := drivefile.Contents[drivefile.Reading](e); ok && r.ofThis(e, b.Serial) {
			r.Reads[b.Code] = &Read{Text: b.Text, Steps: b.Steps, How: b.How, By: e.By, Voice: b.ReadBy, At: e.At, Problem: b.Problem,
				Entry: e.ID}
			r.LastRead[b.Code] = e.Seq
			if b.How != drivefile.ByEye {
				delete(r.Pending, b.Code)
			}
		}
	case drivefile.EntryEntered:
		if b, ok := drivefile.Contents[drivefile.Entered](e); ok && r.ofThis(e, b.Serial) {
			r.Entered[b.Code] = &Fact{Text: b.Text, Steps: b.Steps, By: e.By, At: e.At, Entry: e.ID}
		}
	case drivefile.EntryWrite:
		b, ok := drivefile.Contents[drivefile.Write](e)
		if !ok || !r.ofThis(e, b.Serial) {
			return
		}
		r.Written[b.Code] = &Fact{Text: b.AskedText, Steps: b.Asked, By: e.By, At: e.At, Outcome: b.Outcome, Entry: e.ID}
		if b.Outcome == drivefile.Begun {
			r.Pending[b.Code] = e.ID
			return
		}
		if b.Outcome == drivefile.Held || b.Outcome == drivefile.Differs || b.Outcome == drivefile.Refused {
			delete(r.Pending, b.Code)
		}
		if b.ReadBack != nil {
			r.Reads[b.Code] = &Read{Text: b.BackText, Steps: b.ReadBack, How: drivefile.WrittenBack, By: e.By, At: e.At, Entry: e.ID}
			r.LastRead[b.Code] = e.Seq
		}
	case drivefile.EntryEvidence:
		if b, ok := drivefile.Contents[drivefile.Evidence](e); ok {
			r.EvidenceEntries[b.Key], r.Evidence[b.Key] = e, b
			r.Series[b.Key] = append(r.Series[b.Key], e)
			if b.Key == DeliveryReset && b.Value == "done" {
				r.reset()
			}
		}
	case drivefile.EntryDecision:
		if b, ok := drivefile.Contents[drivefile.Decision](e); ok {
			r.DecisionEntries[b.Type+" "+b.Key], r.Decisions[b.Type+" "+b.Key] = e, b
		}
	case drivefile.EntrySnapshot:
		if b, ok := drivefile.Contents[drivefile.Snapshot](e); ok {
			r.SnapshotEntries, r.Snapshots, r.OfThis = append(r.SnapshotEntries, e), append(r.Snapshots, b),
				append(r.OfThis, r.ofThis(e, b.Serial))
		}
	case drivefile.EntryTemporary:
		if b, ok := drivefile.Contents[drivefile.Temporary](e); ok {
			r.temporary(e, b)
		}
	case drivefile.EntryAttachment:
		if b, ok := drivefile.Contents[drivefile.Attachment](e); ok {
			r.Attached = append(r.Attached, AttachmentHead{e.ID, b, e.By, e.At})
		}
	}
}

func (r *Record) temporary(e drivefile.Entry, b drivefile.Temporary) {
	if b.Gone == "" {
		r.Things = append(r.Things, TemporaryThing{e.ID, b.What, b.Where, b.Why, b.Until, e.By, e.At})
		return
	}
	for i, t := range r.Things {
		if t.Entry == b.Gone {
			r.Things = append(r.Things[:i:i], r.Things[i+1:]...)
			return
		}
	}
}

// DoneBy tells whether a person answered one of some checks.
func (r *Record) DoneBy(keys []string, person string) bool {
	return slices.ContainsFunc(keys, func(k string) bool { l, ok := r.EvidenceEntries[k]; return ok && l.By == person })
}
