package yard

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"sort"
	"strings"

	"github.com/google/uuid"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/store"
)

// EditRows groups the changes of one visit of a field and says what went from what to what.
func EditRows(changes []store.Change, p drivefile.Place) []HistoryRow {
	var rows []HistoryRow
	at := map[string]int{}
	first := map[string]map[string]string{}
	last := map[string]map[string]string{}
	for _, c := range changes {
		i, ok := at[c.Edit]
		if ok && rows[i].By != ChangedBy(p, c) {
			ok = false // an edit is one person's
		}
		if !ok || c.Edit == base.OfProgram {
			rows = append(rows, HistoryRow{ID: c.ID, Kind: "edit", Why: c.Why})
			i = len(rows) - 1
			at[c.Edit] = i
			first[c.Edit], last[c.Edit] = map[string]string{}, map[string]string{}
		}
		rows[i].Seq, rows[i].At, rows[i].By = c.Seq, c.At, ChangedBy(p, c)
		rows[i].Clock = c.Clock
		if c.Typed != "" {
			rows[i].Typed = c.Typed
		}
		if c.Edit == base.OfProgram {
			rows[i].What, rows[i].Why = c.Why, ""
			continue
		}
		var parts []string
		for _, op := range c.Ops {
			if _, ok := first[c.Edit][op.Path]; !ok {
				first[c.Edit][op.Path] = drivefile.TextOf(op.Old)
			}
			last[c.Edit][op.Path] = drivefile.TextOf(op.New)
		}
		for _, path := range paths(last[c.Edit]) {
			if strings.HasSuffix(path, ".linked") {
				parts = append(parts, "linked row changed")
				continue
			}
			parts = append(parts, fieldWords(p, path, first[c.Edit][path], last[c.Edit][path]))
		}
		if len(parts) > 6 {
			parts = append(parts[:6], fmt.Sprintf("and %d more", len(parts)-6))
		}
		rows[i].What = strings.Join(parts, "; ")
	}
	return rows
}

// fieldWords says what became of a field, without the names by which the program knows it.
func fieldWords(p drivefile.Place, path, from, to string) string {
	if id, ok := strings.CutPrefix(path, "supplies."); ok && !strings.Contains(id, ".") {
		name := p.Supplies[id].Name
		if name == "" {
			name = "a source that is not named any more"
		}
		if to == "" {
			return name + ": does not feed it any more"
		}
		return name + ": feeds it"
	}
	if path == "stop.circuit" {
		name := func(id string) string { return base.OrBlank(p.Circuits[id].Name) }
		return fmt.Sprintf("%s: %s → %s", drivefile.Label(path), name(from), name(to))
	}
	f, err := drivefile.Lookup(drivefile.KindDrive, path)
	if err != nil {
		return fmt.Sprintf("%s: %s → %s", drivefile.Label(path), base.OrBlank(from), base.OrBlank(to))
	}
	return fmt.Sprintf("%s: %s → %s", drivefile.Label(path), base.OrBlank(drivefile.Words(f, from)), base.OrBlank(drivefile.Words(f, to)))
}

// ChangedBy are the initials that stand on a change, as signedBy.
func ChangedBy(p drivefile.Place, c store.Change) string {
	if c.Initials != "" {
		return c.Initials
	}
	return p.InitialsOf(c.By)
}

func paths(m map[string]string) []string { return slices.Sorted(maps.Keys(m)) }

// titles are what checks and findings are called, by their keys, as they stand now.
func titles(s gate.State) map[string]string {
	out := map[string]string{}
	for _, g := range s.Gates {
		for _, c := range g.Checks {
			out[c.Key] = g.Name + ": " + c.Title
		}
		out["gate "+g.Key] = g.Name
	}
	for _, f := range s.Findings {
		out[f.Key] = f.Title
	}
	return out
}

// keyWords says a key in words: as it is called now, as it was shown when it was decided, or its parts read out.
func keyWords(key string, shown json.RawMessage, titles map[string]string) string {
	if t := titles[key]; t != "" {
		return t
	}
	var was struct {
		Title string `json:"title"`
	}
	if json.Unmarshal(shown, &was) == nil && was.Title != "" {
		return was.Title
	}
	parts := strings.Split(key, "/")
	words := []string{}
	for i, part := range parts {
		if uuid.Validate(part) == nil {
			continue
		}
		part = strings.NewReplacer("-", " ", "_", " ").Replace(part)
		if i == 0 && part != "" {
			part = strings.ToUpper(part[:1]) + part[1:] + ":"
		}
		words = append(words, part)
	}
	return strings.Join(words, " ")
}

// choice is how the program writes a choice of several words; a date, a type or a number that a person wrote stays as it is.
var choice = regexp.MustCompile(`^[a-z]+(-[a-z]+)+$`)

// entryWords says in a line what an entry records. titles are what its keys are called.
func entryWords(e drivefile.Entry, titles map[string]string) string {
	switch e.Kind {
	case drivefile.EntryReading:
		b, _ := drivefile.Contents[drivefile.Reading](e) // entries are ours; a broken one shows empty
		if b.How == drivefile.ByEye {
			return b.Code + " agrees by eye: " + b.Text
		}
		return fmt.Sprintf("%s reads %s (%s)", b.Code, b.Text, b.How)
	case drivefile.EntryEntered:
		b, _ := drivefile.Contents[drivefile.Entered](e)
		return fmt.Sprintf("%s set to %s on the keypad", b.Code, b.Text)
	case drivefile.EntryTemporary:
		b, _ := drivefile.Contents[drivefile.Temporary](e)
		if b.Gone != "" {
			return "temporary thing out again: " + base.OrBlank(b.How)
		}
		return fmt.Sprintf("temporary: %s at %s, %s", b.What, b.Where, b.Why)
	case drivefile.EntryWrite:
		b, _ := drivefile.Contents[drivefile.Write](e)
		return fmt.Sprintf("write to %s: %s %s", b.Code, b.Outcome, b.Message)
	case drivefile.EntrySnapshot:
		b, _ := drivefile.Contents[drivefile.Snapshot](e)
		return fmt.Sprintf("%s saved, %d settings", strings.ReplaceAll(b.Name, "-", " "), len(b.Values))
	case drivefile.EntryEvidence:
		b, _ := drivefile.Contents[drivefile.Evidence](e)
		value := b.Value
		if b.Reading == nil && choice.MatchString(value) {
			value = strings.ReplaceAll(value, "-", " ")
		}
		says := keyWords(b.Key, nil, titles) + ": " + strings.TrimSpace(value+" "+b.Unit)
		if record.Mistyped(b.Key, b.Value) { // what it was said of stands in no screen any more
			says = fmt.Sprintf("serial mistyped: %s is the same machine as %s", base.OrBlank(b.Basis["to"]), base.OrBlank(b.Basis["from"]))
		}
		if b.Instrument != "" {
			says += ", with " + b.Instrument
		}
		return says
	case drivefile.EntryDecision:
		b, _ := drivefile.Contents[drivefile.Decision](e)
		if b.Type == "proved" {
			return "plan proved on its bench: " + b.Reason
		}
		if b.Type == "passed" {
			return "gate " + orKey(titles["gate "+b.Key], b.Key) + " passed"
		}
		if code, ok := strings.CutPrefix(b.Key, "setting/"); ok {
			return code + " " + strings.ReplaceAll(b.Type, "-", " ")
		}
		return keyWords(b.Key, b.Shown, titles) + ": " + strings.ReplaceAll(b.Type, "-", " ")
	case drivefile.EntryWithdrawal:
		return "an entry withdrawn"
	case drivefile.EntryAttachment:
		b, _ := drivefile.Contents[drivefile.Attachment](e)
		return "file kept: " + b.Name
	}
	return e.Kind
}

func orKey(name, key string) string {
	if name != "" {
		return name
	}
	return key
}

func entryWhy(e drivefile.Entry) string {
	var b struct {
		Reason string `json:"reason"`
	}
	_ = json.Unmarshal(e.Body, &b) // not every entry has a reason
	return b.Reason
}

// HistoryRow is one edit or entry, in words.
type HistoryRow struct {
	Seq  int64  `json:"seq"`
	ID   string `json:"id"`
	At   string `json:"at"`
	By   string `json:"by"`
	What string `json:"what"`
	Why  string `json:"why,omitempty"`
	Kind string `json:"kind"`
	// Typed is when it was typed, where that was before it came here; Clock is what had been done to the clock.
	Typed string `json:"typed,omitempty"`
	Clock string `json:"clock,omitempty"`
}

// History tells what happened to a drive, newest first: edits grouped by visit of a field, and entries.
func (a *Board) History(ctx context.Context, driveID string) ([]HistoryRow, error) {
	r := a.Store.Read(ctx)
	doc, err := base.DriveDoc(r, driveID)
	if err != nil {
		return nil, err
	}
	_, p, err := base.PlaceOf(r, doc.Place)
	if err != nil {
		return nil, err
	}
	changes, err := r.Changes(driveID)
	if err != nil {
		return nil, err
	}
	entries, err := r.Entries(driveID)
	if err != nil {
		return nil, err
	}
	rows := EditRows(changes, p)
	called := map[string]string{}
	if j, _, err := a.Job(r, doc); err == nil { // a drive that cannot be evaluated has a history all the same
		called = titles(a.Evaluate(j))
	}
	var whole *HistoryRow // settings read in one go stand in one line
	n := 0
	for _, e := range entries {
		how := readIn(e)
		by := p.SignedBy(e)
		if whole != nil && how != "" && whole.Why == how && whole.By == by && minute(e.At) == minute(whole.At) {
			n++
			whole.Seq, whole.What = e.Seq, fmt.Sprintf("%d settings read", n)
			continue
		}
		rows = append(rows, HistoryRow{Seq: e.Seq, ID: e.ID, At: e.At, By: by, What: entryWords(e, called), Why: entryWhy(e), Kind: e.Kind,
			Clock: e.Clock})
		if whole = nil; how != "" {
			whole, n = &rows[len(rows)-1], 1
			whole.Why, whole.Kind = how, "readings"
		}
	}
	sort.Slice(rows, func(i, j int) bool { return rows[i].Seq > rows[j].Seq })
	return rows, nil
}

// readIn tells how a reading came that is one of many; empty for one that a person made by itself.
func readIn(e drivefile.Entry) string {
	b, _ := drivefile.Contents[drivefile.Reading](e)
	return map[drivefile.How]string{drivefile.OverLink: "over the link", drivefile.FromList: "from a list"}[b.How]
}

// minute is a time to the minute; a time that is none stays as it is.
func minute(at string) string { return at[:min(len(at), len("2026-11-25T10:00"))] }
