// Package troubleshoot lists what must be so before a drive does what is wanted: why it does not start, stands still, runs unasked, turns
// the wrong way, does not stop. Each condition says where it is known from, how it is looked for, and what to do when it is not so. It
// gives no permission.
package troubleshoot

import (
	"fmt"

	"tingate/core/gate"
	"tingate/core/sheet"
)

// StartCondition is one thing that must be so before the motor turns.
type StartCondition struct {
	Key   string `json:"key"`
	Text  string `json:"text"`
	State string `json:"state" enum:"holds,fails,ask" doc:"ask: a person looks"`
	How   string `json:"how,omitempty" doc:"where it is known from, or how it is looked for"`
	Do    string `json:"do,omitempty" doc:"when it is not so"`
}

// questions are what can be asked, each with its list.
var questions = map[string]func(gate.Job, gate.State) []StartCondition{"start": whyNot, "stands": whyStands, "unasked": whyUnasked,
	"direction": whyDirection, "stop": whyStop}

// Conditions are those of one question, in the order in which they are looked at: start, stands, unasked, direction or stop; empty: start.
// ok is false for any other.
func Conditions(about string, j gate.Job, s gate.State) (l []StartCondition, ok bool) {
	if about == "" {
		about = "start"
	}
	list, ok := questions[about]
	if !ok {
		return nil, false
	}
	return list(j, s), true
}

func blank(s string) string {
	if s == "" {
		return "blank"
	}
	return s
}

// conditions is a list on its way.
type conditions struct {
	j gate.Job
	s gate.State
	l []StartCondition
}

func (c *conditions) ask(key, text, how, do string) {
	c.l = append(c.l, StartCondition{key, text, "ask", how, do})
}

// planned asks whether a setting holds what is planned: known when it was read back, looked at otherwise.
func (c *conditions) planned(key, intent, text, otherwise string) {
	line := settingOf(c.j, c.s, intent)
	if line == nil {
		return
	}
	x := StartCondition{key, text, "ask", line.Code + " is planned as " + line.SetTo + ".", otherwise}
	if line.Read != nil {
		x.How = fmt.Sprintf("%s is planned as %s, read as %s.", line.Code, line.SetTo, line.Read.Text)
		switch line.Verdict {
		case sheet.Holds:
			x.State = "holds"
		case sheet.Differs:
			x.State = "fails"
		}
	}
	c.l = append(c.l, x)
}

// settingOf is the line of the sheet that carries an intent.
func settingOf(j gate.Job, s gate.State, intent string) *sheet.Line {
	if j.Family == nil {
		return nil
	}
	for i := range j.Family.Settings {
		if j.Family.Settings[i].Intent != intent {
			continue
		}
		for k := range s.Lines {
			if s.Lines[k].Code == j.Family.Settings[i].Code {
				return &s.Lines[k]
			}
		}
	}
	return nil
}
