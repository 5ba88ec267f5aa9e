package gate

import "tingate/core/finding"

// Ridden is what the plan did when it was ridden on the job's own bench: one judgement, which every gate and screen takes over.
type Ridden struct {
	Of       string // what was ridden: another plan, machine or family gives another
	Findings []finding.Finding
	Low      string // at the lowest speed: holds, stalls, trips; empty: not ridden
}

// ridden raises what the ride shows at gate Span. A finding that was kept is asked again when anything of the ride's basis changes.
func (e *evaluation) ridden() {
	r := e.job.Ridden
	if r == nil {
		return
	}
	for _, f := range r.Findings {
		e.finding("span", f, map[string]string{"ridden": r.Of})
	}
}
