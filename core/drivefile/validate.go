package drivefile

import (
	"bytes"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"time"
)

// What comes in from a file is held to what the program itself would have written: one validator for documents and for entries.

var idShape = regexp.MustCompile(`^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$`)

// ValidID tells whether a text is an id as the program makes them: a UUID in lower case.
func ValidID(id string) bool { return idShape.MatchString(id) }

// ValidTime tells whether a text is a time as the program writes them: RFC 3339 in UTC.
func ValidTime(at string) bool {
	_, err := time.Parse(time.RFC3339, at)
	return err == nil && len(at) >= len("2006-01-02T15:04:05Z") && strings.HasSuffix(at, "Z")
}

// longest are the characters that a text of a document has at most, as when it is typed.
const longest = 4000

// ValidateDocument holds a document of any known schema to what could have been typed into it: known fields only, each of its kind, choices
// from their lists, texts no longer than a field takes, the whole no larger than what can still be edited. The error is a *FieldError.
func ValidateDocument(kind string, raw []byte) error {
	if len(raw) > MaxJSON {
		return &FieldError{kind, fmt.Sprint(len(raw), " bytes"), fmt.Sprintf("at most %d: a larger document could not be edited", MaxJSON)}
	}
	now, err := Upgrade(kind, raw)
	if err != nil {
		return err
	}
	var doc any = &Drive{}
	if kind == KindPlace {
		doc = &Place{}
	}
	if err := strictly(now, doc); err != nil {
		return &FieldError{kind, err.Error(), fmt.Sprintf("a %s of schema %d or earlier", kind, Schema)}
	}
	body, err := ParseBody(now)
	if err != nil {
		return &FieldError{kind, err.Error(), "a JSON object"}
	}
	for _, op := range body.Leaves() {
		if err := validLeaf(kind, op); err != nil {
			return err
		}
	}
	return nil
}

func validLeaf(kind string, op Op) error {
	if op.Path == "schema" {
		return nil
	}
	f, err := Lookup(kind, op.Path)
	if err != nil {
		return err
	}
	got := string(op.New)
	if len(got) > 120 {
		got = got[:120] + "…"
	}
	switch {
	case f.Quantity:
		var q Q
		if err := strictly(op.New, &q); err != nil || len(q.Text) > longest {
			return &FieldError{op.Path, got, "a text of at most 4000 characters, with the value and unit that were read"}
		}
		if q.Value != nil && q.Unit != "" && f.Kind.Name != "" && !f.Kind.Knows(q.Unit) {
			return &FieldError{op.Path, q.Unit, "a unit of " + f.Kind.Name}
		}
	case f.Bool:
		if got != "true" && got != "false" {
			return &FieldError{op.Path, got, "true or false"}
		}
	default:
		var text string
		if json.Unmarshal(op.New, &text) != nil || len(text) > longest {
			return &FieldError{op.Path, got, "a text of at most 4000 characters"}
		}
		if f.Choices != nil && !slices.Contains(f.Choices, text) {
			return &FieldError{op.Path, text, "one of " + strings.Join(f.Choices, ", ")}
		}
	}
	return nil
}

// strictly reads JSON into a struct and refuses what it does not know.
func strictly(raw []byte, to any) error {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(to); err != nil {
		return err
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return errors.New("more than one value")
	}
	return nil
}

// bodies are what an entry of each kind holds.
var bodies = map[string]func() any{
	EntryReading: func() any { return &Reading{} }, EntryEntered: func() any { return &Entered{} },
	EntryWrite:    func() any { return &Write{} },
	EntrySnapshot: func() any { return &Snapshot{} }, EntryEvidence: func() any { return &Evidence{} },
	EntryDecision:   func() any { return &Decision{} },
	EntryWithdrawal: func() any { return &Withdrawal{} }, EntryEnergy: func() any { return &Energy{} },
	EntryAttachment: func() any { return &Attachment{} },
	EntryLock:       func() any { return &Lock{} }, EntryTemporary: func() any { return &Temporary{} },
	EntryCameIn: func() any { return &CameIn{} },
}

// EntryKinds lists the kinds of entry.
func EntryKinds() []string {
	l := make([]string, 0, len(bodies))
	for k := range bodies {
		l = append(l, k)
	}
	slices.Sort(l)
	return l
}

// mostEntry is the size of an entry: a snapshot of a large family, or a decision with all that was shown.
const mostEntry = 4 << 20

// ValidateEntry holds an entry to what the program would have recorded: an id, a time, a person, a kind that is known and a body of that
// kind. The error is a *FieldError that names the entry by its number.
func ValidateEntry(e Entry) error {
	bad := func(field, got, want string) error {
		if len(got) > 120 {
			got = got[:120] + "…"
		}
		return &FieldError{fmt.Sprintf("entry %d %s", e.N, field), got, want}
	}
	make, known := bodies[e.Kind]
	switch {
	case !ValidID(e.ID):
		return bad("id", e.ID, "a UUID in lower case")
	case !ValidTime(e.At):
		return bad("at", e.At, "a time in UTC, like 2026-11-25T10:00:00.000Z")
	case strings.TrimSpace(e.By) == "" || len(e.By) > 100:
		return bad("by", e.By, "the id of the person who did it")
	case len(e.Device) > 200 || len(e.Initials) > 100 || len(e.Name) > 200 || len(e.Clock) > 200:
		return bad("device, initials, name or clock", "a long text", "at most 200 characters")
	case !known:
		return bad("kind", e.Kind, "one of "+strings.Join(EntryKinds(), ", "))
	case len(e.Body) > mostEntry:
		return bad("body", fmt.Sprint(len(e.Body), " bytes"), fmt.Sprint("at most ", mostEntry))
	}
	body := make()
	if err := strictly(e.Body, body); err != nil {
		return bad("body", err.Error(), "the body of a "+e.Kind)
	}
	if field, got, want := wrongIn(body); field != "" {
		return bad(field, got, want)
	}
	return nil
}

// wrongIn looks at closed lists and names within a body.
func wrongIn(body any) (field, got, want string) {
	list := func(name, v string, of ...string) {
		if field == "" && !slices.Contains(of, v) {
			field, got, want = name, v, "one of "+strings.Join(of, ", ")
		}
	}
	text := func(name, v string, most int) {
		if field == "" && (v == "" || len(v) > most) {
			field, got, want = name, fmt.Sprintf("%d characters", len(v)), fmt.Sprintf("1 to %d characters", most)
		}
	}
	switch b := body.(type) {
	case *Reading:
		text("code", b.Code, 80)
		list("how", string(b.How), "typed", "eye", "link", "csv", "voice")
	case *Entered:
		text("code", b.Code, 80)
	case *Write:
		text("code", b.Code, 80)
		list("outcome", string(b.Outcome), "begun", "held", "differs", "refused", "unknown")
	case *Snapshot:
		list("name", b.Name, "as-found", "as-planned", "as-left", "builders-preset")
	case *Evidence:
		text("key", b.Key, 200)
	case *Decision:
		list("type", b.Type, "kept", "waived", "passed", "as-delivered", "proved")
		text("key", b.Key, 400)
	case *Withdrawal:
		if !ValidID(b.Entry) {
			return "entry", b.Entry, "the id of an entry"
		}
	case *Energy:
		list("state", string(b.State), string(Live), string(Dead), string(NotKnown))
		text("supply", b.Supply, 100)
	case *Lock:
		list("act", b.Act, "on", "off", "hand-over", "removed-by-another")
		text("supply", b.Supply, 100)
		text("owner", b.Owner, 100)
	case *Attachment:
		if sum, err := hex.DecodeString(b.SHA256); err != nil || len(sum) != 32 || b.SHA256 != strings.ToLower(b.SHA256) {
			return "sha256", b.SHA256, "64 hexadecimal digits in lower case"
		}
		if b.Size < 0 || b.Size > MaxAttachment {
			return "size", fmt.Sprint(b.Size), fmt.Sprint("0 to ", MaxAttachment)
		}
	}
	return field, got, want
}

// Same tells whether two entries say the same, whatever place they have among others.
func (e Entry) Same(o Entry) bool {
	var a, b any
	return e.ID == o.ID && e.Kind == o.Kind && e.By == o.By && e.Device == o.Device && e.At == o.At && e.Initials == o.Initials &&
		e.Name == o.Name && e.Clock == o.Clock &&
		json.Unmarshal(e.Body, &a) == nil && json.Unmarshal(o.Body, &b) == nil && reflect.DeepEqual(a, b)
}
