package gate

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/finding"
)

// settle closes a gate: its waivers, its count, its mark. What it raised joins the findings of those before.
func (f *Facts) settle(s *State, a *asking) {
	s.Findings, s.Figures = append(s.Findings, a.findings...), append(s.Figures, a.figures...)
	g := s.gate(a.gate)
	for _, c := range a.checks {
		g.Checks = append(g.Checks, f.settled(a.gate, c))
	}
	f.close(g)
}

// settled is a check with its waiver: that turns what does not hold into waived, but never what stops. Whoever answered it after all has
// taken the waiver's place: when that answer counts no longer, it is asked again.
func (f *Facts) settled(gate string, c Check) Check {
	c.Must = c.Must || NeverWaived(c.Key) != ""
	d, ok := f.rec.Decisions["waived "+c.Key]
	entry := f.rec.DecisionEntries["waived "+c.Key]
	if ok && (!c.Must || waivedBefore(d)) && (c.Verdict == NotDone || c.Verdict == Again) &&
		f.rec.EvidenceEntries[c.Key].Seq <= entry.Seq && f.waiverStands(gate, c.Key, d) {
		c.Verdict, c.Reason, c.By, c.At, c.Entry = Waived, d.Reason, entry.By, entry.At, entry.ID
	}
	return c
}

// NeverWaived says why a check is never waived, whatever the reason; empty: it may be.
func NeverWaived(key string) string {
	switch {
	case strings.HasPrefix(key, "dead/") || key == "keep/gate/dead":
		return "it is part of what proves dead. Without it the state stays NOT KNOWN, treat as live"
	case strings.HasSuffix(key, "/people") || strings.HasSuffix(key, "/guards"):
		return "nobody may be where it can hurt them, and only a look tells that"
	case key == "turn/before/plate" || key == "turn/before/supply":
		return "what turns at figures or volts that nobody knows cannot be foreseen"
	case key == mendKey:
		return "what was mended after a test that failed stands in the record, and decides what is tested again"
	case key == "stop/signed/record":
		return "a signature says that all of it was seen; with points open there is nothing to sign"
	}
	return ""
}

// waiverStands tells whether a waiver is of the machines that stand there now: another drive, or another motor, is asked again. Older ones
// name none, and stand.
func (f *Facts) waiverStands(gate, key string, d drivefile.Decision) bool {
	if len(d.Basis) == 0 {
		return true
	}
	ok, _ := f.rec.Machines.Stands(f.rec.Machines.BasisFor(gate, key, nil), drivefile.Evidence{Basis: d.Basis})
	return ok
}

// MachinesUnder are the machines that an answer to a check rests on, as a basis names them.
func MachinesUnder(j Job, gate, key string) map[string]string {
	return recordOf(j).Machines.BasisFor(gate, key, nil)
}

// neverSince are the rules from which on the list of what is never waived holds. What was waived before stands in the record, shown as
// waived.
const neverSince = 10

func waivedBefore(d drivefile.Decision) bool {
	n, err := strconv.Atoi(d.Versions["rules"])
	return err == nil && n < neverSince
}

// close counts a gate's checks and sets its mark.
func (f *Facts) close(g *Gate) {
	g.Total, g.Done, g.Waived = len(g.Checks), 0, 0
	barred := false
	for _, c := range g.Checks {
		if c.Verdict == Holds || c.Verdict == Waived {
			g.Done++
		}
		if c.Verdict == Waived {
			g.Waived++
		}
		barred = barred || c.Verdict == Stops
	}
	d, passed := f.rec.DecisionEntries["passed "+g.Key]
	if passed {
		g.PassedBy, g.PassedAt, g.PassedID = d.By, d.At, d.ID
	}
	switch {
	case barred:
		g.Mark = Barred
	case passed && g.Done == g.Total:
		g.Mark = Passed
	case passed:
		g.Mark = LookAgain
	case g.Done > 0 && f.begun(g.Key):
		g.Mark = Open
	default:
		g.Mark = Shut
	}
}

// begun tells whether anything was entered for a gate.
func (f *Facts) begun(gate string) bool {
	in := f.job.Drive.Intent
	switch gate {
	case "match", "dead", "power", "control", "wake", "stop", "turn", "tune":
		for key := range f.rec.Evidence {
			if strings.HasPrefix(key, gate+"/") {
				return true
			}
		}
		for _, s := range f.sources {
			if gate == "dead" && len(s.Locks) > 0 {
				return true
			}
		}
		return false
	case "plate":
		return len(f.job.Drive.Motor.Rows) > 0
	case "span":
		return in.HighestSpeed.Text != "" || in.Rise.Text != "" || in.LowestSpeed.Text != ""
	case "signal":
		return in.CommandSource != "" || in.SpeedSource != ""
	}
	return len(f.rec.SnapshotEntries) > 0
}

// finish says what is next, and the worst that is open, once every gate is settled.
func (f *Facts) finish(s *State) {
	if f.job.Drive.Stop.Alone { // a circuit by itself has no other gates, and nothing to say about a drive
		s.Gates = []Gate{*s.gate("stop")}
		s.Findings = slices.DeleteFunc(s.Findings, func(x Answered) bool { return x.Gate != "stop" })
	}
	s.next()
	worst := -1
	for i, x := range s.Findings {
		if x.Kept || x.Severity == finding.Note {
			continue
		}
		if worst < 0 || x.Severity.Rank() < s.Findings[worst].Severity.Rank() {
			worst = i
		}
	}
	if worst >= 0 {
		s.Worst, s.WorstTitle = string(s.Findings[worst].Severity), s.Findings[worst].Title
	}
	rank := func(x Answered) int {
		if x.Kept {
			return 3
		}
		return x.Severity.Rank()
	}
	slices.SortStableFunc(s.Findings, func(a, b Answered) int { return rank(a) - rank(b) })
}

// next names the first gate, in this job's order, that is not passed, and what is open in it.
func (s *State) next() {
	for i := range s.Gates {
		g := &s.Gates[i]
		if g.Mark == Passed {
			continue
		}
		s.NextGate, s.NextDetail = g.Key, firstOpen(g)
		open := g.Total - g.Done
		switch {
		case g.Mark == Barred:
			s.Next = g.Name + ": barred"
		case g.Mark == LookAgain:
			s.Next = g.Name + ": changed since it was passed"
		case open == 0:
			s.Next = g.Name + ": ready to pass"
		case g.Mark == Shut:
			s.Next = g.Name + ": not begun"
		default:
			s.Next = fmt.Sprintf("%s: %d open", g.Name, open)
		}
		return
	}
	s.Next, s.NextDetail = "Nothing due", "kept"
}

// closedDead tells whether no finding of gate Dead is open: a link that does not fall is not dead, whatever one reading says.
func (s *State) closedDead() bool {
	for _, x := range s.Findings {
		if x.Gate == "dead" && x.Severity == finding.Stop && !x.Kept {
			return false
		}
	}
	return true
}

// firstOpen is what stops a gate, or what is open first in it, in words.
func firstOpen(g *Gate) string {
	text := ""
	for _, c := range g.Checks {
		if c.Verdict == Holds || c.Verdict == Waived {
			continue
		}
		if text == "" || c.Verdict == Stops {
			text = c.Title
			if c.Detail != "" {
				text = strings.TrimSuffix(c.Detail, ".")
			}
			if c.Verdict == Stops {
				return text
			}
		}
	}
	return text
}
