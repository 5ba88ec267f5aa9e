// Package sheet is the settings sheet of a drive as people see it: what each setting is to hold, what was entered, written and read of it,
// what disagrees and why, and the log of what was sent. Whether a disagreement stops the work is for the gates.
package sheet

import (
	"cmp"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/record"
)

// Verdict is how a setting stands against what is planned.
type Verdict string

// Verdicts of a line.
const (
	Holds      Verdict = "holds"
	Differs    Verdict = "differs"
	NotRead    Verdict = "not-read"
	NotKnown   Verdict = "not-known" // a write was begun and has no outcome
	Cannot     Verdict = "cannot"    // the plan is not to be had by the setting
	NotPlanned Verdict = "not-planned"
)

// Line is a line of the settings sheet as a screen shows it.
type Line struct {
	Code        string               `json:"code"`
	Group       string               `json:"group"`
	GroupName   string               `json:"group_name"`
	Gate        string               `json:"gate"`
	Name        string               `json:"name"`
	Short       string               `json:"short"`
	Unit        string               `json:"unit"`
	Kind        string               `json:"kind" enum:"number,choice,bits,text"`
	Options     []string             `json:"options,omitempty"`
	Planned     bool                 `json:"planned"`
	SetTo       string               `json:"set_to"`
	Steps       int64                `json:"steps"`
	Because     string               `json:"because"`
	Also        string               `json:"also,omitempty"`
	Figures     []dialect.Working    `json:"figures"`
	Missing     string               `json:"missing,omitempty"`
	Rounded     string               `json:"rounded,omitempty"`
	Problem     string               `json:"problem,omitempty"`
	Range       string               `json:"range"`
	Delivery    string               `json:"delivery"`
	Running     bool                 `json:"running" doc:"may be changed while running"`
	Protects    bool                 `json:"protects" doc:"must be typed or read by link"`
	FullAccess  bool                 `json:"full_access" doc:"refused below the keypad's full access"`
	Motion      bool                 `json:"motion" doc:"could start motion"`
	Voids       []string             `json:"voids,omitempty" doc:"tune, or settings that fall back to delivery"`
	Moves       []string             `json:"moves,omitempty" doc:"settings whose value, range or meaning goes along"`
	Acting      string               `json:"acting,omitempty" doc:"when a value acts, when that is not at once"`
	Paths       [][]string           `json:"paths,omitempty" doc:"other ways to it on the keypad"`
	Entered     *record.Fact         `json:"entered,omitempty" doc:"who set it on the keypad, and to what"`
	Written     *record.Fact         `json:"written,omitempty" doc:"the last write over the link, and its outcome"`
	Confirmed   *record.Fact         `json:"confirmed,omitempty" doc:"left at delivery on purpose"`
	KeyPath     []string             `json:"key_path"`
	Read        *record.Read         `json:"read,omitempty"`
	Verdict     Verdict              `json:"verdict" enum:"holds,differs,not-read,not-known,cannot,not-planned"`
	Explanation *dialect.Explanation `json:"explanation,omitempty"`
	Source      string               `json:"source,omitempty" doc:"where the family's row comes from, when it is not its author's"`
	Unproved    bool                 `json:"unproved,omitempty" doc:"such a row, and nothing was read of it in this drive, nor in another"`
	ShownBy     string               `json:"shown_by,omitempty" doc:"tag of another drive that has shown it, while nothing was read of it in this one"`
	Pending     string               `json:"pending,omitempty" doc:"a write that was begun and has no outcome"`
}

// Planned are the steps of the settings that are planned and can be held, by code.
func Planned(lines []Line) map[string]int64 {
	out := map[string]int64{}
	for _, l := range lines {
		if l.Planned && l.Missing == "" && l.Problem == "" && l.Kind != "text" {
			out[l.Code] = l.Steps
		}
	}
	return out
}

// Texts are what the settings that hold a text are planned to show, by code.
func Texts(lines []Line) map[string]string {
	out := map[string]string{}
	for _, l := range lines {
		if l.Planned && l.Kind == "text" {
			out[l.Code] = l.SetTo
		}
	}
	return out
}

// Lines are the lines of a plan, with what was done to each. shown are settings that other drives of the family have shown, with the tag of
// one that did.
func Lines(f *dialect.Family, plan *dialect.Plan, lines []dialect.Line, r record.Record, shown map[string]string) []Line {
	out := make([]Line, 0, len(lines))
	for _, l := range lines {
		x := lineOf(f, plan, l, r)
		if tag, ok := shown[x.Code]; ok && x.Unproved {
			x.Unproved, x.ShownBy = false, cmp.Or(tag, "another drive")
		}
		out = append(out, x)
	}
	return out
}

func lineOf(f *dialect.Family, plan *dialect.Plan, l dialect.Line, r record.Record) Line {
	s := l.Setting
	g := f.Group(s.Group)
	at := g.Gate
	if _, wired := plan.Functions[s.Code]; s.Reacts() || at == "" && wired {
		// What stops it and starts it again is read back there, in whichever group a family has it; so is what a terminal does, where its
		// group names no gate.
		at = "signal"
	}
	out := Line{Code: s.Code, Group: s.Group, GroupName: g.Name, Gate: at, Name: s.Name, Short: s.Short, Unit: s.Unit, Kind: s.Kind,
		Planned: l.Planned && l.Problem == "",
		Steps:   l.Steps, Because: l.Because, Also: l.Also, Figures: l.Figures, Rounded: l.Rounded, Problem: l.Problem,
		Delivery: delivered(s, plan.Variant),
		Running:  s.Running, Protects: s.Protects, FullAccess: s.Access == "full", Motion: s.Acts == "motion", Voids: s.Voids,
		Moves: s.Moves, Acting: s.Acting(), Paths: s.Paths,
		KeyPath: f.KeyPath(s), Read: r.Reads[s.Code], Pending: r.Pending[s.Code]}
	out.Entered, out.Written, out.Confirmed = facts(r, s, plan.Variant)
	if out.Figures == nil {
		out.Figures = []dialect.Working{}
	}
	out.Range = s.Span()
	for _, c := range s.Choices {
		out.Options = append(out.Options, c.Text)
	}
	if l.Missing != "" {
		out.Missing = drivefile.Called(l.Missing)
	}
	if l.Planned {
		out.SetTo = l.SetTo()
	}
	out.Read = Shown(s, out.Read)
	out.Source = s.Source.Words()
	out.Unproved = out.Source != "" && (out.Read == nil || out.Read.Steps == nil || out.Read.How == drivefile.ByEye)
	out.Verdict = verdict(f, plan, l, &out)
	return out
}

// delivered is a delivery value as people read it; of a text that is empty, that there is nothing.
func delivered(s *dialect.Setting, v dialect.Variant) string {
	if s.Kind == "text" {
		return s.Shows(dialect.Held{Text: s.Delivery, Steps: s.DeliverySteps()})
	}
	return s.WithUnit(s.DeliveryFor(v))
}

// Shown is a reading in the words of its setting. The text as read is the truth: its steps are worked out anew, so
// that a family file with another step never turns an old reading into another value.
func Shown(s *dialect.Setting, read *record.Read) *record.Read {
	if read == nil {
		return nil
	}
	r := *read
	if r.Text == "" && r.Steps != nil {
		r.Text = s.Text(*r.Steps) // written by a version that kept no text
	}
	if r.Steps == nil {
		return &r
	}
	steps, err := s.Read(r.Text)
	if err != nil {
		r.Steps, r.Problem = nil, "Read with another version of the family's file; read it again."
		return &r
	}
	r.Steps = &steps
	r.Shown = s.WithUnit(steps)
	if s.Kind == "text" {
		r.Shown = r.Text
	}
	return &r
}

func verdict(f *dialect.Family, plan *dialect.Plan, l dialect.Line, out *Line) Verdict {
	switch {
	case out.Pending != "":
		return NotKnown
	case l.Problem != "":
		return Cannot
	case !l.Planned:
		return NotPlanned
	case out.Read == nil:
		return NotRead
	case out.Read.Steps == nil:
		return Differs
	case *out.Read.Steps == l.Steps:
		if out.Read.How == drivefile.ByEye && out.Protects {
			return NotRead
		}
		return Holds
	}
	x := f.Explain(l, plan, *out.Read.Steps)
	out.Explanation = &x
	return Differs
}

// ReadText is what was read of it; empty: nothing.
func (l *Line) ReadText() string {
	if l.Read == nil {
		return ""
	}
	return l.Read.Text
}
