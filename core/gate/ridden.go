package gate

import (
	"fmt"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/record"
)

// Ridden is what the plan did when it was ridden on the job's own bench: one judgement, which every gate and screen takes over.
type Ridden struct {
	Of       string // what was ridden: another plan, machine or family gives another
	Findings []finding.Finding
	Low      string // at the lowest speed: holds, stalls, trips; empty: not ridden
}

// ridden raises what the ride shows at gate Span. A finding that was kept is asked again when anything of the ride's basis changes.
func (g *spanGate) ridden() {
	r := g.job.Ridden
	if r == nil {
		return
	}
	for _, f := range r.Findings {
		g.finding("span", f, map[string]string{"ridden": r.Of})
	}
	g.proved()
}

// RiddenBasis is the name under which a proof's decision says what was ridden.
const RiddenBasis = "ridden"

// proof is what a proof's decision keeps of its outcome.
type proof struct {
	Differs int `json:"differs"`
	Trip    *struct {
		Stalls bool   `json:"stalls"`
		While  string `json:"while"`
	} `json:"trip"`
	Steps []struct {
		Title   string `json:"title"`
		Wanted  string `json:"wanted"`
		Got     string `json:"got"`
		Verdict string `json:"verdict"`
	} `json:"steps"`
}

// lastProof is the last proof of the plan, where it was of what is ridden now and did not hold.
func lastProof(r record.Record, of string) (d drivefile.Decision, p proof, stands bool) {
	d, ok := r.Decisions["proved plan"]
	if !ok || of == "" || d.Basis[RiddenBasis] != of || !decode(d.Shown, &p) {
		return d, p, false
	}
	return d, p, p.Trip != nil || p.Differs > 0
}

// ProofStands tells whether there may be a proof on the bench of the plan as it is that did not hold: then it is a finding. It is asked at
// every look, and folds no record: whether that proof is the last one, and stands, is found out after.
func ProofStands(j Job, of string) bool {
	for _, en := range j.Entries {
		var p proof
		if d, ok := drivefile.Contents[drivefile.Decision](en); ok && d.Type == "proved" && d.Basis[RiddenBasis] == of &&
			decode(d.Shown, &p) && (p.Trip != nil || p.Differs > 0) {
			return true
		}
	}
	return false
}

// proved raises what the last proof on the bench showed, until the plan, or what it rests on, is another.
func (g *spanGate) proved() {
	d, p, stands := lastProof(g.rec, g.job.Ridden.Of)
	if !stands {
		return
	}
	f := finding.Finding{Code: "proof-differs", Severity: finding.Look, Field: "plan",
		Title:  fmt.Sprintf("Proved on its bench, %d steps of the plan differ", p.Differs),
		Action: "Change the plan, or keep it with a reason; then prove it again"}
	if p.Differs == 1 {
		f.Title = "Proved on its bench, a step of the plan differs"
	}
	var l []string
	for _, s := range p.Steps {
		if s.Verdict == "look-again" || s.Verdict == "stops" {
			l = append(l, fmt.Sprintf("%s: %s wanted, %s.", s.Title, s.Wanted, s.Got))
		}
	}
	f.Detail = strings.Join(l, " ")
	if p.Trip != nil {
		f.Code, f.Severity, f.Title, f.Detail = "proof-trips", finding.Stop, "Proved on its bench, the plan trips in the "+p.Trip.While,
			d.Reason
		if p.Trip.Stalls {
			f.Title = "Proved on its bench, the motor stalls in the " + p.Trip.While
		}
	}
	g.finding("signal", f, map[string]string{RiddenBasis: g.job.Ridden.Of})
}
