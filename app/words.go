package app

import (
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"github.com/google/uuid"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/plate"
	"tingate/core/record"
	"tingate/core/translate"
	"tingate/paper"
	"tingate/store"
)

// editRows groups the changes of one visit of a field and says what went from what to what.
func editRows(changes []store.Change, p drivefile.Place) []HistoryRow {
	var rows []HistoryRow
	at := map[string]int{}
	first := map[string]map[string]string{}
	last := map[string]map[string]string{}
	for _, c := range changes {
		i, ok := at[c.Edit]
		if ok && rows[i].By != changedBy(p, c) {
			ok = false // an edit is one person's
		}
		if !ok || c.Edit == ofProgram {
			rows = append(rows, HistoryRow{ID: c.ID, Kind: "edit", Why: c.Why})
			i = len(rows) - 1
			at[c.Edit] = i
			first[c.Edit], last[c.Edit] = map[string]string{}, map[string]string{}
		}
		rows[i].Seq, rows[i].At, rows[i].By = c.Seq, c.At, changedBy(p, c)
		rows[i].Clock = c.Clock
		if c.Typed != "" {
			rows[i].Typed = c.Typed
		}
		if c.Edit == ofProgram {
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
		name := func(id string) string { return orBlank(p.Circuits[id].Name) }
		return fmt.Sprintf("%s: %s → %s", drivefile.Label(path), name(from), name(to))
	}
	f, err := drivefile.Lookup(drivefile.KindDrive, path)
	if err != nil {
		return fmt.Sprintf("%s: %s → %s", drivefile.Label(path), orBlank(from), orBlank(to))
	}
	return fmt.Sprintf("%s: %s → %s", drivefile.Label(path), orBlank(drivefile.Words(f, from)), orBlank(drivefile.Words(f, to)))
}

// changedBy are the initials that stand on a change, as signedBy.
func changedBy(p drivefile.Place, c store.Change) string {
	if c.Initials != "" {
		return c.Initials
	}
	return p.InitialsOf(c.By)
}

func paths(m map[string]string) []string { return slices.Sorted(maps.Keys(m)) }

func orBlank(s string) string {
	if s == "" {
		return "blank"
	}
	return s
}

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
		if b.How == "eye" {
			return b.Code + " agrees by eye: " + b.Text
		}
		return fmt.Sprintf("%s reads %s (%s)", b.Code, b.Text, b.How)
	case drivefile.EntryEntered:
		b, _ := drivefile.Contents[drivefile.Entered](e)
		return fmt.Sprintf("%s set to %s on the keypad", b.Code, b.Text)
	case drivefile.EntryTemporary:
		b, _ := drivefile.Contents[drivefile.Temporary](e)
		if b.Gone != "" {
			return "temporary thing out again: " + orBlank(b.How)
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
			says = fmt.Sprintf("serial mistyped: %s is the same machine as %s", orBlank(b.Basis["to"]), orBlank(b.Basis["from"]))
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

// answers replays a drive's edits and lists the plate's findings that an edit corrected. What was kept is in the state.
func answers(changes []store.Change, p drivefile.Place) []paper.Answer {
	body := drivefile.Body{}
	var out []paper.Answer
	standing := map[string]string{}
	for i, c := range changes {
		if body.Apply(c.Ops) != nil {
			return out
		}
		if i+1 < len(changes) && changes[i+1].Edit == c.Edit {
			continue
		}
		d, err := drivefile.DecodeDrive(body.JSON())
		if err != nil {
			return out
		}
		now := map[string]string{}
		for _, f := range plate.Judge(translate.Plate(d.Motor)).Findings {
			if f.Severity.Open() {
				now[f.Code] = f.Title
			}
		}
		for code, title := range standing {
			if _, ok := now[code]; !ok {
				rows := editRows([]store.Change{c}, p)
				out = append(out, paper.Answer{Title: title, How: "corrected: " + rows[0].What, By: changedBy(p, c), At: c.At})
			}
		}
		standing = now
	}
	return out
}
