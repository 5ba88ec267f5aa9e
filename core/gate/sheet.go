package gate

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"tingate/core/dialect"
	"tingate/core/finding"
	"tingate/core/plate"
	"tingate/core/record"
	"tingate/core/sheet"
	"tingate/core/translate"
	"tingate/core/wiring"
)

// PlanOf is a job's intent for the dialects, by the poles of the judged plate.
func PlanOf(j Job) dialect.Plan {
	w, wired := WiringOf(j)
	p, _ := planOf(j, plate.Judge(translate.Plate(j.Drive.Motor)).Poles, w, wired, recordOf(j))
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

// FiguresOf are a job's own figures, its settings as the sheet plans them.
func FiguresOf(j Job, s State) translate.Figures {
	f := translate.FiguresOf(j.Drive, j.Place, j.Family, sheet.Planned(s.Lines))
	f.Texts = sheet.Texts(s.Lines)
	return f
}

// lineFindings turns what the sheet shows into findings: what the drive cannot take, what differs, what is not known.
func (g *plateGate) lineFindings() {
	tuneVoid := false
	for i := range g.lines {
		l := &g.lines[i]
		add := func(code string, s finding.Severity, title, detail, action string) {
			g.finding(l.Gate, finding.Finding{Code: code + "/" + l.Code, Severity: s, Title: title, Detail: detail, Action: action,
				Field: "setting " + l.Code}, map[string]string{"set_to": l.SetTo, "read": l.ReadText()})
		}
		switch l.Verdict {
		case sheet.Cannot:
			add("setting-cannot-hold", finding.Stop, l.Code+" cannot hold "+l.SetTo, l.Problem+".",
				"Change what is wanted, or decide it on the keypad")
		case sheet.NotKnown:
			add("write-not-known", finding.Stop, l.Code+" may be half written", "A write was begun and its outcome is not known.",
				"Read "+l.Code+" from the drive")
		case sheet.Differs:
			if l.Explanation == nil {
				add("reading-not-readable", finding.Look, l.Code+": the reading cannot be read",
					fmt.Sprintf("%q is kept. %s", l.Read.Text, l.Read.Problem), "Read it again")
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
			add("setting-differs", sev, fmt.Sprintf("%s reads %s: %s", l.Code, l.Read.Shown, l.Explanation.Short),
				l.Explanation.Text+" "+l.Explanation.Consequence, "Enter "+l.SetTo+" at "+l.Code)
			tuneVoid = tuneVoid || slices.Contains(l.Voids, "tune")
		}
	}
	if tuneVoid {
		g.finding("plate", finding.Finding{Code: "tune-void", Severity: finding.Note,
			Title: "A finished tune is void once a motor value changes", Detail: "Tune after the motor settings read back as planned.",
			Field: ""}, nil)
	}
}

// Settings are all settings of the drive's family with what was done to each.
func Settings(j Job, now time.Time) []sheet.SettingRow {
	if j.Family == nil {
		return []sheet.SettingRow{}
	}
	f := factsOf(j, now)
	return sheet.Rows(j.Family, &f.plan, f.rec)
}
