package wiring

import (
	"math"
	"slices"

	"tingate/core/circuit"
)

// RunPath is what must be closed for one terminal that lets the motor run.
type RunPath struct {
	Terminal string    `json:"terminal"`
	Function string    `json:"function"`
	Text     string    `json:"text" doc:"in the family's words, or torque off"`
	Needs    []PathEnd `json:"needs"`
}

// PathEnd is a contact in a run path.
type PathEnd struct {
	Part   string `json:"part"`
	Name   string `json:"name"`
	Closed bool   `json:"closed" doc:"at rest"`
	Other  bool   `json:"other" doc:"other equipment works it, or may: the drive is not told why"`
}

var letsRun = []string{"stop", "run-forward", "start", "run-reverse", "interlock", "coast", "quick-stop", "torque-off"}

// paths finds, by opening one contact at a time in the solved net, where each run path can be broken.
func (m *maker) paths() {
	m.plan.Paths = []RunPath{}
	n := m.plan.Net
	if n == nil {
		return
	}
	all, closed := circuit.State{}, map[string]bool{}
	for _, c := range m.plan.contacts() {
		if rest, ok := n.AtRest(c); ok {
			all[c], closed[c] = !rest, rest
		}
	}
	full := n.Solve(all).Loads()
	at := func(terminal, function, text string) {
		load := Drive + "." + terminal
		if math.Abs(full[load]) < onVolts {
			return
		}
		p := RunPath{Terminal: terminal, Function: function, Text: text, Needs: []PathEnd{}}
		for _, c := range m.plan.contacts() {
			all[c] = !all[c]
			if v := n.Solve(all).Loads()[load]; math.Abs(v) < onVolts {
				p.Needs = append(p.Needs, m.end(c, closed[c], function))
			}
			all[c] = !all[c]
		}
		m.plan.Paths = append(m.plan.Paths, p)
	}
	for _, a := range m.plan.Assigns {
		if slices.Contains(letsRun, a.Function) {
			at(a.Terminal, a.Function, a.Text)
		}
	}
	for _, t := range m.kind("torque-off") {
		at(t.Ends()[0], "torque-off", "torque off")
	}
}

// end names a contact; a relay's, a process's and those that a person's own list brought belong to other equipment.
func (m *maker) end(key string, closed bool, function string) PathEnd {
	id := partOf(key)
	part, _ := m.plan.Circuit.Part(id)
	own := slices.ContainsFunc(m.w.Parts, func(p circuit.Part) bool { return p.ID == id })
	return PathEnd{Part: id, Name: part.Name, Closed: closed, Other: own || part.Kind == "relay" || function == "interlock"}
}
