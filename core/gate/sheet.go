package gate

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/finding"
	"tingate/core/record"
	"tingate/core/translate"
	"tingate/core/wiring"
)

// PlanOf is a job's intent for the dialects; poles are those of the judged plate.
func PlanOf(j Job, poles int) dialect.Plan {
	w, wired := WiringOf(j)
	p, _ := planOf(j, poles, w, wired, recordOf(j))
	return p
}

// planOf is PlanOf with what is at hand; lacks are wishes that the family has no setting for.
func planOf(j Job, poles int, w wiring.Plan, wired bool, r record.Record) (p dialect.Plan, lacks []dialect.Lack) {
	p = translate.Plan(j.Drive, poles, translate.LineFrequency(j.Drive, j.Place))
	p.Variant.Region = p.Choices["line_frequency"]
	if j.Family != nil {
		if r, ok := j.Family.RatingOf(j.Drive.Rating.Type); ok {
			p.Variant.Frame = r.Frame
		}
		if wired {
			p.Functions = functionsOf(j.Family, w, j.Drive.Wiring.Command)
		}
		if p.Functions == nil {
			p.Functions = map[string]dialect.Function{}
		}
		turnFunctions(j, r, p.Functions)
		makersValues(j, r, p.Functions)
		var wished map[string]dialect.Function
		wished, lacks = j.Family.Wish(&p, translate.Wished(j.Drive))
		maps.Copy(p.Functions, wished)
	}
	return p, lacks
}

// sheet makes the settings sheet and joins it with what was read.
func (e *evaluation) sheet() {
	f := e.job.Family
	if f == nil {
		return
	}
	e.wiring, e.wired = WiringOf(e.job)
	if e.wired {
		w := newWiring(e.wiring)
		e.state.Wiring = &w
	}
	e.plan, e.lacks = planOf(e.job, e.result.Poles, e.wiring, e.wired, e.rec)
	e.lines = f.Sheet(&e.plan)
	for _, l := range e.lines {
		e.state.Lines = append(e.state.Lines, e.line(f, l))
	}
	e.lineFindings()
}

func (e *evaluation) line(f *dialect.Family, l dialect.Line) Line {
	s := l.Setting
	g := f.Group(s.Group)
	at := g.Gate
	if _, reacts := dialect.Reactions[s.Drives]; reacts || strings.HasPrefix(s.Drives, "quick-stop-") {
		at = "signal" // what stops it and starts it again is read back there, in whichever group a family has it
	}
	out := Line{Code: s.Code, Group: s.Group, GroupName: g.Name, Gate: at, Name: s.Name, Short: s.Short, Unit: s.Unit, Kind: s.Kind, Planned: l.Planned && l.Problem == "",
		Steps: l.Steps, Because: l.Because, Also: l.Also, Figures: l.Figures, Rounded: l.Rounded, Problem: l.Problem, Delivery: s.WithUnit(s.DeliveryFor(e.plan.Variant)),
		Running: s.Running, Protects: s.Protects, FullAccess: s.Access == "full", Motion: s.Acts == "motion", Voids: s.Voids, Moves: s.Moves, Acting: s.Acting(), Paths: s.Paths,
		KeyPath: f.KeyPath(s), Read: e.rec.Reads[s.Code], Pending: e.rec.Pending[s.Code]}
	out.Entered, out.Written, out.Confirmed = facts(e.rec, s, e.plan.Variant)
	if out.Figures == nil {
		out.Figures = []dialect.Working{}
	}
	out.Range = s.Span()
	for _, c := range s.Choices {
		out.Options = append(out.Options, c.Text)
	}
	if l.Missing != "" {
		out.Missing = Label(l.Missing)
	}
	if l.Planned {
		out.SetTo = s.WithUnit(l.Steps)
	}
	out.Read = shownRead(s, out.Read)
	out.Verdict = e.verdict(f, l, &out)
	return out
}

// shownRead is a reading in the words of its setting. The text as read is the truth: its steps are worked out anew, so
// that a family file with another step never turns an old reading into another value.
func shownRead(s *dialect.Setting, read *record.Read) *record.Read {
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

func (e *evaluation) verdict(f *dialect.Family, l dialect.Line, out *Line) string {
	switch {
	case out.Pending != "":
		return "not-known"
	case l.Problem != "":
		return "cannot"
	case !l.Planned:
		return "not-planned"
	case out.Read == nil:
		return "not-read"
	case out.Read.Steps == nil:
		return "differs"
	case *out.Read.Steps == l.Steps:
		if out.Read.How == "eye" && out.Protects {
			return "not-read"
		}
		return "holds"
	}
	x := f.Explain(l, &e.plan, *out.Read.Steps)
	out.Explanation = &x
	return "differs"
}

// lineFindings turns what the sheet shows into findings: what the drive cannot take, what differs, what is not known.
func (e *evaluation) lineFindings() {
	tuneVoid := false
	for i := range e.state.Lines {
		l := &e.state.Lines[i]
		add := func(code string, s finding.Severity, title, detail, action string) {
			e.finding(l.Gate, finding.Finding{Code: code + "/" + l.Code, Severity: s, Title: title, Detail: detail, Action: action, Field: "setting " + l.Code}, map[string]string{"set_to": l.SetTo, "read": readText(l)})
		}
		switch l.Verdict {
		case "cannot":
			add("setting-cannot-hold", finding.Stop, l.Code+" cannot hold "+l.SetTo, l.Problem+".", "Change what is wanted, or decide it on the keypad")
		case "not-known":
			add("write-not-known", finding.Stop, l.Code+" may be half written", "A write was begun and its outcome is not known.", "Read "+l.Code+" from the drive")
		case "differs":
			if l.Explanation == nil {
				add("reading-not-readable", finding.Look, l.Code+": the reading cannot be read", fmt.Sprintf("%q is kept. %s", l.Read.Text, l.Read.Problem), "Read it again")
				break
			}
			sev := finding.Look
			if len(l.Voids) > 0 || l.Protects {
				sev = finding.Stop
			}
			switch l.Explanation.Kind {
			case "rounded":
				sev = finding.Look
			case "not-entered":
				sev = finding.Do // nothing is wrong yet: it stands as the drive came
			}
			add("setting-differs", sev, fmt.Sprintf("%s reads %s: %s", l.Code, l.Read.Shown, l.Explanation.Short), l.Explanation.Text+" "+l.Explanation.Consequence, "Enter "+l.SetTo+" at "+l.Code)
			tuneVoid = tuneVoid || slices.Contains(l.Voids, "tune")
		}
	}
	if tuneVoid {
		e.finding("plate", finding.Finding{Code: "tune-void", Severity: finding.Note, Title: "A finished tune is void once a motor value changes", Detail: "Tune after the motor settings read back as planned.", Field: ""}, nil)
	}
}

func readText(l *Line) string {
	if l.Read == nil {
		return ""
	}
	return l.Read.Text
}

// readBack is the check that a gate's settings were read back as planned.
func (e *evaluation) readBack(gate, title string) {
	c := Check{Key: gate + "/readback/settings", Title: title, Verdict: Holds, Work: "live"}
	done, total, again := 0, 0, ""
	for _, l := range e.state.Lines {
		if l.Gate != gate || l.Verdict == "not-planned" || l.Verdict == "cannot" {
			continue
		}
		total++
		switch l.Verdict {
		case "holds":
			done++
		case "differs", "not-known":
			again = l.Code
		}
	}
	c.Detail = fmt.Sprintf("%d of %d read back", done, total)
	switch {
	case again != "":
		c.Verdict, c.Detail = Again, c.Detail+"; "+again+" disagrees"
	case done < total || total == 0:
		c.Verdict = NotDone
	}
	e.check(gate, c)
}
