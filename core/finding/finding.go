// Package finding holds the one shape in which every rule says what is wrong, what follows and what to do.
package finding

import "sort"

// Severity says how much a finding forbids. Stop forbids, Look must be answered, Do asks somebody to act, Note is to know.
type Severity string

// The closed list of severities, most severe first.
const (
	Stop Severity = "stop"
	Look Severity = "look"
	Do   Severity = "do"
	Note Severity = "note"
)

// Finding is one judgement. Code is stable and documented in docs/calc.md; Field is the path of the value it is about.
type Finding struct {
	Code     string   `json:"code" doc:"Stable code of the rule"`
	Severity Severity `json:"severity" enum:"stop,look,do,note"`
	Title    string   `json:"title"`
	Detail   string   `json:"detail"`
	Action   string   `json:"action"`
	Field    string   `json:"field,omitempty" doc:"Name of the value the finding is about"`
}

var rank = map[Severity]int{Stop: 0, Look: 1, Do: 2, Note: 3}

// Rank orders severities: 0 is the most severe.
func (s Severity) Rank() int { return rank[s] }

// Open tells whether a finding of this severity keeps a gate shut until it is answered.
func (s Severity) Open() bool { return s == Stop || s == Look }

// Sort puts the most severe first and keeps the order of equals.
func Sort(list []Finding) {
	sort.SliceStable(list, func(i, j int) bool { return list[i].Severity.Rank() < list[j].Severity.Rank() })
}
