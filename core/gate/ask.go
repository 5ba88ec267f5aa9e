package gate

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"

	"tingate/core/finding"
	"tingate/core/quantity"
)

// rules are those of one gate: what it asks, out of the facts and of what the gates before it came to; then what else it worked out goes to
// its part of the state.
type rules interface {
	ask()
	tell(s *State)
	part() *asking
}

// asking is what one gate asks and says, in its order. Findings may be of any gate that is not settled yet.
type asking struct {
	*Facts
	gate     string
	before   *State // what the gates before this one came to, settled
	checks   []Check
	findings []Answered
	figures  []Figure
}

func (a *asking) part() *asking { return a }

func (a *asking) tell(*State) {}

// check adds a check.
func (a *asking) check(c Check) {
	if c.Work == "" || a.job.Drive.Stop.Alone { // a circuit by itself has no supplies of a drive, whose state would be kept
		c.Work = Either
	}
	a.checks = append(a.checks, c)
}

// is is a check as it stands so far, with its waiver; one that is not asked is not done.
func (a *asking) is(key string) Check {
	for _, c := range a.checks {
		if c.Key == key {
			return a.settled(a.gate, c)
		}
	}
	return Check{Key: key, Verdict: NotDone}
}

// was is a check of a gate before this one.
func (a *asking) was(gate, key string) Check {
	for _, c := range a.before.gate(gate).Checks {
		if c.Key == key {
			return c
		}
	}
	return Check{Key: key, Verdict: NotDone}
}

// finding adds a finding with a person's answer. A kept finding reopens when a value it rested on differs.
func (a *asking) finding(gate string, f finding.Finding, basis map[string]string) {
	x := Answered{Finding: f, Key: gate + "/finding/" + f.Code, Gate: gate, basis: basis}
	if d, ok := a.rec.Decisions["kept "+x.Key]; ok && f.Severity.Open() {
		entry := a.rec.DecisionEntries["kept "+x.Key]
		x.Reason, x.By, x.At, x.Entry = d.Reason, entry.By, entry.At, entry.ID
		x.Kept = maps.Equal(d.Basis, basis)
		x.Reopen = !x.Kept
	}
	a.findings = append(a.findings, x)
}

// findingsAnswered holds when every finding of the gate that stops or is to be looked at is answered. It comes after all that may raise
// one.
func (a *asking) findingsAnswered() {
	c := Check{Key: a.gate + "/findings/answered", Title: "Findings answered", Verdict: Holds}
	for _, f := range slices.Concat(a.before.Findings, a.findings) {
		if f.Gate != a.gate || !f.Severity.Open() || f.Kept {
			continue
		}
		if c.Verdict == Holds || f.Severity == finding.Stop {
			c.Detail = f.Title
		}
		if f.Severity == finding.Stop {
			c.Verdict = Stops
		} else if c.Verdict == Holds {
			c.Verdict = Again
		}
	}
	a.check(c)
}

// answered tells whether every check with a key of that beginning holds, or is waived.
func (a *asking) answered(prefix string) bool {
	for _, c := range a.checks {
		if v := a.settled(a.gate, c).Verdict; strings.HasPrefix(c.Key, prefix) && v != Holds && v != Waived {
			return false
		}
	}
	return true
}

// again turns a check to be looked at again, unless it stops already.
func (a *asking) again(key, detail string) {
	for _, c := range a.checks {
		if c.Key == key && c.Verdict != Stops {
			a.verdictOf(key, Again, detail)
		}
	}
}

// verdictOf gives a check another verdict.
func (a *asking) verdictOf(key string, verdict Verdict, detail string) {
	list := a.checks
	for i := range list {
		if list[i].Key == key {
			list[i].Verdict, list[i].Detail = verdict, detail
		}
	}
}

func f4(v float64) string { return quantity.Digits(v, 4) }

// raise turns the findings of a computation into those of a gate.
func (a *asking) raise(gate, field string, list []finding.Finding, basis map[string]string) {
	for _, f := range list {
		f.Field = field
		a.finding(gate, f, basis)
	}
}

func decode(raw json.RawMessage, to any) bool { return json.Unmarshal(raw, to) == nil }
