package drivefile

import "encoding/json"

// Entry is one append-only record about a drive or a place. It is never changed; it is taken back by a withdrawal.
type Entry struct {
	ID     string          `json:"id"`
	Seq    int64           `json:"-"`
	N      int             `json:"n,omitempty" doc:"place among the changes and entries of the document, in a bundle"`
	Doc    string          `json:"doc" doc:"id of the drive or place"`
	Kind   string          `json:"kind"`
	By     string          `json:"by"`
	Device string          `json:"device,omitempty"`
	At     string          `json:"at" doc:"RFC 3339, UTC, milliseconds"`
	Body   json.RawMessage `json:"body"`
	// Who it was, as written when it was done, and what was done to the clock: set, or hurried.
	Initials string `json:"initials,omitempty"`
	Name     string `json:"name,omitempty"`
	Clock    string `json:"clock,omitempty"`

	opened any // what Body holds, a pointer to the type of its kind; nil: not decoded yet, or not to be
}

// Open gives the entry with its body decoded, for whoever reads it many times. What is in it is everybody's: nobody changes it.
func (e Entry) Open() Entry {
	if make, known := bodies[e.Kind]; known {
		if b := make(); json.Unmarshal(e.Body, b) == nil {
			e.opened = b
		}
	}
	return e
}

// Contents is the body of an entry of T's kind, as Reading is of EntryReading; false for an entry of another kind, or a body that is none.
func Contents[T any](e Entry) (b T, ok bool) {
	p, ok := e.opened.(*T)
	if e.opened == nil {
		make, known := bodies[e.Kind]
		if !known {
			return b, false
		}
		if p, ok = make().(*T); ok {
			ok = json.Unmarshal(e.Body, p) == nil
		}
	}
	if ok {
		b = *p
	}
	return b, ok
}

// Kinds of entry.
const (
	EntryReading    = "reading"
	EntryEntered    = "entered"
	EntryWrite      = "write"
	EntrySnapshot   = "snapshot"
	EntryEvidence   = "evidence"
	EntryDecision   = "decision"
	EntryWithdrawal = "withdrawal"
	EntryEnergy     = "energy"
	EntryAttachment = "attachment"
	EntryLock       = "lock"
	EntryTemporary  = "temporary"
	EntryCameIn     = "came-in"
)

// OfThisFolder tells whether a kind of entry is about this data folder, and so does not travel in a bundle: what came in here, and when.
func OfThisFolder(kind string) bool { return kind == EntryCameIn }

// CameIn is something that a person brought into this data folder: a bundle, a drive family's file, a practice's.
type CameIn struct {
	What      string   `json:"what" doc:"bundle, family, practice"`
	Name      string   `json:"name"`
	Version   string   `json:"version,omitempty"`
	Hash      string   `json:"hash" doc:"SHA-256 of the file"`
	New       []string `json:"new,omitempty" doc:"of a bundle: tags of drives that were new here"`
	Same      []string `json:"same,omitempty" doc:"of a bundle: tags of drives that were here already, word for word"`
	Different []string `json:"different,omitempty" doc:"of a bundle: what was here with other contents, and stayed"`
	Missing   []string `json:"missing,omitempty" doc:"of a bundle: SHA-256 of kept files that were lost before it was made"`
}

// How is the way in which values came: of a reading typed, by eye, link, list or voice, or read back where it was written; of a snapshot
// link, list, or out of the readings or the plan.
type How string

// The ways.
const (
	ByTyping     How = "typed"
	ByEye        How = "eye"
	OverLink     How = "link"
	FromList     How = "csv"
	ByVoice      How = "voice"
	WrittenBack  How = "written"
	FromReadings How = "readings"
	FromPlan     How = "plan"
)

// Outcome is what became of a write over the link.
type Outcome string

// The outcomes: begun, and not known to have ended; it holds what was asked; it holds another value; refused, and as before; not known.
const (
	Begun   Outcome = "begun"
	Held    Outcome = "held"
	Differs Outcome = "differs"
	Refused Outcome = "refused"
	Unknown Outcome = "unknown"
)

// Reading is a setting's value as seen: typed from the keypad, agreed by eye, by link or by CSV.
type Reading struct {
	Code    string `json:"code"`
	Text    string `json:"text" doc:"as read"`
	Steps   *int64 `json:"steps,omitempty" doc:"on the setting's grid; missing when the text could not be read"`
	How     How    `json:"how" doc:"typed, eye, link, csv, voice"`
	ReadBy  string `json:"read_by,omitempty" doc:"id of the person who read it aloud, when another typed it"`
	Problem string `json:"problem,omitempty"`
	Serial  string `json:"serial,omitempty" doc:"of the drive that it was read in, as entered then"`
}

// Entered is a value that a person has set on the keypad. It says what was meant to be set, not what the drive holds:
// that is a reading.
type Entered struct {
	Code   string `json:"code"`
	Text   string `json:"text"`
	Steps  int64  `json:"steps"`
	Serial string `json:"serial,omitempty" doc:"of the drive that it was set in, as entered then"`
}

// Write is one setting sent over the link. It is recorded as begun before anything is sent; the outcome is a second
// entry that names the first. A begun write without outcome is not known, and the setting must be read again.
type Write struct {
	Code       string  `json:"code"`
	Begun      string  `json:"begun,omitempty" doc:"entry id of the begun write that this is the outcome of"`
	Asked      int64   `json:"asked"`
	AskedText  string  `json:"asked_text,omitempty" doc:"of a setting that holds a text"`
	Before     *int64  `json:"before,omitempty"`
	BeforeText string  `json:"before_text,omitempty" doc:"of a setting that holds a text"`
	ReadBack   *int64  `json:"read_back,omitempty"`
	BackText   string  `json:"read_back_text,omitempty" doc:"what was read back, as the keypad would show it"`
	Outcome    Outcome `json:"outcome" doc:"begun, held, differs, refused, unknown"`
	Message    string  `json:"message,omitempty"`
	Cleared    string  `json:"cleared_by,omitempty" doc:"who confirmed the area clear, for a setting that could start motion"`
	Address    string  `json:"address,omitempty" doc:"where it was sent"`
	Unit       int     `json:"unit,omitempty" doc:"Modbus unit identifier"`
	Register   int     `json:"register,omitempty" doc:"first register"`
	Raw        []int   `json:"raw,omitempty" doc:"registers as sent"`
	Serial     string  `json:"serial,omitempty" doc:"of the drive that it was sent to, as entered then"`
}

// Value is a setting's value in a snapshot: steps on the grid, and the text as read.
type Value struct {
	Steps int64
	Text  string
}

// MarshalJSON writes [steps, "text"].
func (v Value) MarshalJSON() ([]byte, error) { return json.Marshal([]any{v.Steps, v.Text}) }

// UnmarshalJSON reads [steps, "text"].
func (v *Value) UnmarshalJSON(b []byte) error {
	return json.Unmarshal(b, &[]any{&v.Steps, &v.Text})
}

// Snapshot holds settings as they stood at a moment.
type Snapshot struct {
	Name    string           `json:"name" doc:"as-found, as-planned, as-left"`
	Label   string           `json:"label,omitempty"`
	Dialect string           `json:"dialect"`
	Version string           `json:"version"`
	Hash    string           `json:"hash"`
	How     How              `json:"how" doc:"link, readings, plan, csv"`
	Values  map[string]Value `json:"values"`
	Serial  string           `json:"serial,omitempty" doc:"of the drive whose settings they are, as entered then"`
	Late    bool             `json:"late,omitempty" doc:"as found, taken after settings were changed"`
}

// Evidence answers a check with the values it rests on.
type Evidence struct {
	Key        string            `json:"key" doc:"gate/rule/subject"`
	Value      string            `json:"value" doc:"confirmed, what was chosen, or what was measured, as typed"`
	Reading    *float64          `json:"reading,omitempty" doc:"of a measurement, in the check's unit; missing when the text could not be read"`
	Unit       string            `json:"unit,omitempty"`
	Instrument string            `json:"instrument,omitempty" doc:"what it was measured with, as a person reads it: M3, 1000 V DC"`
	Meter      string            `json:"meter,omitempty" doc:"id of the place's instrument; missing: not known"`
	On         string            `json:"on,omitempty" doc:"kinds of voltage that its range measures: AC, DC or AC+DC"`
	Reason     string            `json:"reason,omitempty" doc:"of a choice"`
	Basis      map[string]string `json:"basis"`
}

// Lock is what a person does with their own lock at a supply's isolator, on the place.
type Lock struct {
	Supply string `json:"supply"`
	Act    string `json:"act" doc:"on, off, hand-over, removed-by-another"`
	Owner  string `json:"owner" doc:"id of the person whose lock it is"`
	To     string `json:"to,omitempty" doc:"who takes it over"`
	Key    string `json:"key,omitempty" doc:"number on the lock or its key"`
	Told   string `json:"told,omitempty" doc:"who was told, when a lock of another was removed or the supply comes back"`
	Reason string `json:"reason,omitempty"`
	Drive  string `json:"drive,omitempty" doc:"at which work is meant, when it is hung; missing: at any that the supply feeds"`
}

// Temporary is a thing that must not stay in: put in, or taken out again.
type Temporary struct {
	What  string `json:"what,omitempty" doc:"jumper, disabled-protection, trial-value, opened-cover, cleared-password, hand-mode, other"`
	Where string `json:"where,omitempty"`
	Why   string `json:"why,omitempty"`
	Until string `json:"until,omitempty" doc:"in the person's words, or a date"`
	Gone  string `json:"gone,omitempty" doc:"id of the entry that this takes out again"`
	How   string `json:"how,omitempty" doc:"what was done, when it is gone"`
}

// Decision is what a person decided, with what was shown then. What holds now is always evaluated, never stored.
type Decision struct {
	Type     string            `json:"type" doc:"kept (a finding), waived (a check), passed (a gate), as-delivered (a setting left so on purpose), proved (the plan on its own bench)"`
	Key      string            `json:"key"`
	Reason   string            `json:"reason,omitempty"`
	Basis    map[string]string `json:"basis,omitempty"`
	Shown    json.RawMessage   `json:"shown,omitempty"`
	Versions map[string]string `json:"versions,omitempty"`
}

// Withdrawal takes an entry back.
type Withdrawal struct {
	Entry  string `json:"entry"`
	Reason string `json:"reason,omitempty"`
}

// EnergyState is how a supply stands, as it was recorded.
type EnergyState string

// States of a supply.
const (
	Live     EnergyState = "live"
	Dead     EnergyState = "dead"
	NotKnown EnergyState = "not-known" // to be treated as live
)

// Energy is the state of a supply as recorded by a person.
type Energy struct {
	Supply string      `json:"supply"`
	State  EnergyState `json:"state" doc:"live, dead, not-known"`
	Drive  string      `json:"drive,omitempty" doc:"at which it was proved dead, or where it came back"`
	Told   string      `json:"told,omitempty" doc:"who was told before it was switched on again"`
	Volts  []string    `json:"volts,omitempty" doc:"measured between lines"`
	Note   string      `json:"note,omitempty"`
	// Against is why it came back though lines of the list before power were open, and Open are these lines as they stood.
	Against string   `json:"against,omitempty" doc:"why it came back though something of the list before power was open"`
	Open    []string `json:"open,omitempty" doc:"what was open then, in words"`
	Meter   string   `json:"meter,omitempty" doc:"id of the instrument with which it was proved dead; a record without it is of an earlier program and proves nothing"`
}

// Attachment is a file kept with the drive.
type Attachment struct {
	SHA256 string `json:"sha256"`
	Name   string `json:"name"`
	Type   string `json:"type"`
	Size   int64  `json:"size"`
	Of     string `json:"of" doc:"motor-plate, drive-label, bench-trace, run, other"`
}
