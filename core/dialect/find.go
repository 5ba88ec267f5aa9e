package dialect

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"
)

// Hit is something that was found in a family, or a term of the trade.
type Hit struct {
	Kind    string `json:"kind" enum:"setting,fault,sign,recipe,terminal,term"`
	Family  string `json:"family,omitempty"`
	Version string `json:"version,omitempty"`
	Code    string `json:"code,omitempty"`
	Title   string `json:"title"`
	Detail  string `json:"detail"`
	Carries string `json:"carries,omitempty" doc:"what a setting carries, in words"`
	Term    *Term  `json:"term,omitempty"`
}

// Finder finds what people ask for over many families: by code, word, meaning, class of fault, lamp, or what one wants to do.
type Finder struct{ list []findable }

type findable struct {
	hit  Hit
	code string // folded
	name string // folded, with a space before each word
	more string // likewise: everything else that it is found by

	carries string // folded
}

// NewFinder makes one; it is to be kept as long as the families stay the same.
func NewFinder(families []*Family) *Finder {
	f := &Finder{}
	for i := range Glossary {
		t := &Glossary[i]
		f.add(Hit{Kind: "term", Title: t.Word, Detail: t.About, Term: t}, strings.Join(t.Others, " "))
	}
	for _, fam := range families {
		f.family(fam)
	}
	return f
}

func (f *Finder) add(h Hit, more ...string) {
	f.list = append(f.list, findable{h, fold(h.Code), " " + fold(h.Title), " " + fold(strings.Join(more, " ")), fold(h.Carries)})
}

func (f *Finder) family(fam *Family) {
	add := func(kind, code, title, detail string, more ...string) {
		f.add(Hit{Kind: kind, Family: fam.Name, Version: fam.Version, Code: code, Title: title, Detail: detail}, append(more, detail)...)
	}
	for i := range fam.Settings {
		f.setting(fam, &fam.Settings[i])
	}
	for _, x := range fam.Faults {
		add(
			"fault",
			x.Code,
			x.Text,
			joined(x.Severity+", "+strings.ReplaceAll(x.Family, "-", " ")+"; clears "+clearWords[x.Clears], x.Look),
			"fault code trip alarm",
		)
	}
	for _, l := range fam.Keypad.Lamps {
		add("sign", l.Sign, "Lamp "+l.Sign, l.Means, "lamp light led")
	}
	for _, w := range fam.Keypad.Words {
		add("sign", w.Sign, "Display "+w.Sign, w.Means, "display shows word")
	}
	for _, r := range fam.Keypad.Refused {
		add("sign", r.Shows, "Display "+r.Shows, "Run is refused: "+r.When, r.Do, "display shows")
	}
	for _, t := range fam.Terminals {
		add("terminal", t.Name, "Terminal "+t.Name, joined(strings.ReplaceAll(t.Kind, "-", " "), t.Electrical, t.Delivery), t.Setting)
	}
	f.recipes(fam, add)
}

var clearWords = map[string]string{
	"by-itself":   "by itself",
	"reset":       "by reset",
	"power-cycle": "with the power off and on",
	"none":        "never by the keypad",
}

func (f *Finder) setting(fam *Family, s *Setting) {
	var more []string
	for _, c := range s.Choices {
		more = append(more, c.Text)
	}
	carries := strings.NewReplacer(".", " ", "_", " ").Replace(strings.TrimPrefix(s.Intent, "choice."))
	if carries == "" {
		carries = strings.ReplaceAll(s.Drives, "-", " ")
	}
	for i := range Glossary {
		if t := &Glossary[i]; t.Carry != "" && sameSense(t.Carry, s.Intent) || t.role != "" && sameSense(t.role, s.Drives) {
			more = append(more, t.Word, strings.Join(t.Others, " "))
			carries = t.Word
		}
	}
	detail := joined(s.Span(), "delivered "+s.WithUnit(s.DeliverySteps()), fam.Group(s.Group).Name)
	f.add(Hit{Kind: "setting", Family: fam.Name, Version: fam.Version, Code: s.Code, Title: s.Name, Detail: detail, Carries: carries},
		append(more, s.Short, carries, detail)...)
}

// sameSense tells whether two intents or roles are of one sense: preset 1 and preset 2 are, and the time beside a slope.
func sameSense(a, b string) bool {
	root := func(t string) string {
		t = strings.TrimSuffix(t, ".time")
		return strings.TrimRight(strings.TrimSuffix(strings.TrimSuffix(t, "-from"), "-to"), "-.0123456789")
	}
	return b != "" && (a == b || root(a) == root(b))
}

func (f *Finder) recipes(fam *Family, add func(kind, code, title, detail string, more ...string)) {
	steps := func(list []Step) string {
		var out []string
		for _, s := range list {
			out = append(out, joined(s.Do, s.Shows))
		}
		return strings.Join(out, " → ")
	}
	r := fam.Recipes
	for _, x := range []struct{ title, detail, more string }{
		{"Bring it to delivery state", steps(r.DeliveryReset.Steps), "factory reset default settings initialise"},
		{"Copy its settings", steps(r.Copy), "save upload keypad backup"},
		{"Put settings back", steps(r.Restore), "download restore backup"},
		{"See what was changed", steps(r.Changed), "differs from delivery modified list"},
		{"Reset a fault", steps(r.FaultReset), "acknowledge clear trip alarm"},
		{"Reset torque off", steps(r.TorqueOffReset), "sto acknowledge"},
	} {
		if x.detail != "" {
			add("recipe", "", x.title, x.detail, x.more)
		}
	}
	for _, t := range r.Tunes {
		add(
			"recipe",
			t.Setting,
			"Tune: "+strings.ReplaceAll(t.Kind, "-", " "),
			joined(t.Setting+" = "+t.Value, t.Start, t.Done),
			"autotune identification",
		)
	}
	if k := fam.Keypad.Remote; k.Do != "" {
		add("recipe", "", "Change between local and remote", joined(k.Do, k.Shows), "hand auto")
	}
	if k := fam.Keypad.Home; k.Do != "" {
		add("recipe", "", "Back to the home display", joined(k.Do, k.Shows), "menu leave")
	}
}

func joined(parts ...string) string {
	return strings.Join(slices.DeleteFunc(parts, func(p string) bool { return strings.TrimSpace(p) == "" || p == "delivered " }), ", ")
}

// fold makes small letters and figures, each word after a space: what stands between words does not matter.
func fold(t string) string {
	var b strings.Builder
	gap := false
	for _, r := range strings.ToLower(t) {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			if gap && b.Len() > 0 {
				b.WriteByte(' ')
			}
			b.WriteRune(r)
			gap = false
			continue
		}
		gap = true
	}
	return b.String()
}

// idle are words of a question that find nothing.
var idle = map[string]bool{
	"how":       true,
	"do":        true,
	"i":         true,
	"set":       true,
	"the":       true,
	"a":         true,
	"an":        true,
	"of":        true,
	"to":        true,
	"on":        true,
	"my":        true,
	"what":      true,
	"does":      true,
	"is":        true,
	"mean":      true,
	"means":     true,
	"where":     true,
	"setting":   true,
	"parameter": true,
	"for":       true,
	"in":        true,
	"it":        true,
	"can":       true,
	"change":    true,
	"which":     true,
	"this":      true,
	"drive":     true,
	"code":      true,
	"when":      true,
	"why":       true,
}

// Find gives what fits best first, at most so many. Every word of the question must fit, idle ones apart; when nothing has them all,
// what has most of them.
func (f *Finder) Find(question string, most int) []Hit {
	whole := fold(question)
	var words []string
	for _, w := range strings.Fields(whole) {
		if !idle[w] {
			words = append(words, w)
		}
	}
	if len(words) == 0 {
		words = strings.Fields(whole)
	}
	if len(words) == 0 {
		return []Hit{}
	}
	type scored struct {
		at, words, score int
	}
	var found []scored
	best := 0
	// A code can have a word in it that is idle elsewhere.
	asked := [2]string{strings.Join(words, " "), strings.TrimPrefix(strings.TrimPrefix(whole, "fault "), "code ")}
	for i := range f.list {
		n, score := f.list[i].fits(words, asked)
		if n == 0 || n < best {
			continue
		}
		best = n
		found = append(found, scored{i, n, score})
	}
	found = slices.DeleteFunc(found, func(s scored) bool { return s.words < best })
	slices.SortStableFunc(found, func(a, b scored) int { return cmp.Compare(b.score, a.score) })
	out := make([]Hit, 0, min(most, len(found)))
	for _, s := range found[:min(most, len(found))] {
		out = append(out, f.list[s.at].hit)
	}
	return out
}

// fits counts the words that are found, and how well.
func (x *findable) fits(words []string, asked [2]string) (n, score int) {
	if x.code != "" && (x.code == asked[0] || x.code == asked[1]) {
		return len(words), 1000
	}
	for _, w := range words {
		best := 0
		switch {
		case x.code == w:
			best = 60
		case whole(x.name, w):
			best = 40
		case strings.Contains(x.name, " "+w):
			best = 25
		case whole(x.more, w):
			best = 15
		case strings.Contains(x.more, " "+w):
			best = 8
		case x.code != "" && strings.HasPrefix(x.code, w):
			best = 6
		case len(w) > 4 && (strings.Contains(x.name, " "+w[:len(w)-1]) || strings.Contains(x.more, " "+w[:len(w)-1])):
			best = 5 // ramps, ramp
		}
		if best > 0 {
			n++
			score += best
		}
	}
	switch {
	case n == 0:
	case x.hit.Kind == "term":
		score += 30
	case x.hit.Kind == "setting" && x.hit.Carries != "":
		score += 4
		if x.carries == asked[0] { // what is asked for itself, before what has the word in its name
			score += 50
		}
	}
	return n, score
}

func whole(text, word string) bool {
	i := strings.Index(text, " "+word)
	return i >= 0 && (i+1+len(word) == len(text) || text[i+1+len(word)] == ' ')
}

// String is a hit as one line.
func (h Hit) String() string { return fmt.Sprintf("%s %s %s: %s", h.Family, h.Code, h.Title, h.Detail) }
