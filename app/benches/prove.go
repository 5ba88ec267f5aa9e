package benches

import (
	"context"
	"fmt"
	"strings"
	"time"

	"tingate/app/base"
	"tingate/bench/prove"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/translate"
	"tingate/formats/pdf"
)

// ProofView is a plan proved on its own bench.
type ProofView struct {
	Missing string      `json:"missing" doc:"what is needed before it can be proved"`
	Assumed []string    `json:"assumed" doc:"what nobody has said, and is taken for granted"`
	Proof   prove.Proof `json:"proof"`
}

// Prove loads a drive's plan into its own bench, runs it through, and keeps the outcome as a decision with the versions that it rests
// on. The bench is in this process; nothing real is commanded. Ending ctx ends it, and nothing is kept.
func (a *Benches) Prove(ctx context.Context, who base.Actor, driveID, id string) (ProofView, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return ProofView{}, err
	}
	defer a.proofs.Delete(driveID)
	out, err := ProveJob(ctx, j, a.Now(), func(done, all int) { a.proofs.Store(driveID, ProofProgress{done, all}) })
	of, _ := base.RideKey(j, gate.FiguresOf(j, gate.Evaluate(j, a.Now()))) // what was proved, whatever somebody changes meanwhile
	if err != nil || out.Missing != "" || out.Proof.Ended {
		return out, err
	}
	return out, a.Put(ctx, who, driveID, id, drivefile.EntryDecision, func(s base.Situation) (any, error) {
		basis := planBasis(s.State)
		basis[gate.RiddenBasis] = of
		return drivefile.Decision{Type: "proved", Key: "plan", Reason: out.Summary(), Basis: basis, Shown: base.AsShown(brief(out.Proof)),
			Versions: a.Versions(s.Job)}, nil
	})
}

// ProofProgress is how far a proof under way has come; all 0: none is.
type ProofProgress struct {
	Done int `json:"done"`
	All  int `json:"all"`
}

// ProofProgress tells how far a drive's proof has come.
func (a *Benches) ProofProgress(driveID string) ProofProgress {
	if v, ok := a.proofs.Load(driveID); ok {
		return v.(ProofProgress)
	}
	return ProofProgress{}
}

// ProveJob is Prove of a job, keeping nothing.
func ProveJob(ctx context.Context, j gate.Job, now time.Time, progress func(done, all int)) (ProofView, error) {
	s := gate.Evaluate(j, now)
	f := gate.FiguresOf(j, s)
	out := ProofView{Missing: f.Missing, Assumed: f.Assumed, Proof: prove.Proof{Steps: []prove.ProofStep{}}}
	if f.Missing != "" {
		return out, nil
	}
	p, err := prove.Plan(ctx, base.SetupOf(j, f), translate.WishesOf(j.Drive, s.Poles), progress)
	if err != nil {
		out.Missing = err.Error()
		return out, nil
	}
	out.Proof = p
	return out, nil
}

// Summary says a proof in a line.
func (v ProofView) Summary() string {
	p := v.Proof
	switch {
	case v.Missing != "":
		return "Needs " + v.Missing + "."
	case p.Trip != nil:
		return fmt.Sprintf("%s in the %s: %s. %s", map[bool]string{true: "Stalled", false: "Tripped"}[p.Trip.Stalls], p.Trip.While,
			strings.TrimSpace(p.Trip.Word+" "+p.Trip.Code), p.Would)
	case p.Differs > 0:
		return fmt.Sprintf("%d of %d hold, %d differ.", p.Holds, p.Holds+p.Differs, p.Differs)
	}
	return fmt.Sprintf("All %d hold.", p.Holds)
}

// planBasis is the plan that was proved: each planned setting.
func planBasis(s gate.State) map[string]string {
	b := map[string]string{}
	for _, l := range s.Lines {
		if l.Planned {
			b[l.Code] = l.SetTo
		}
	}
	return b
}

// brief is a proof without its traces.
func brief(p prove.Proof) prove.Proof {
	l := make([]prove.ProofStep, len(p.Steps))
	for i, s := range p.Steps {
		s.Trace = nil
		l[i] = s
	}
	p.Steps = l
	return p
}

// ProofPDF prints a proof.
func ProofPDF(title string, v ProofView, version string, made time.Time) ([]byte, error) {
	rec := pdf.Record{Title: title, Subtitle: v.Summary(), Made: made.UTC().Truncate(time.Second),
		Foot: fmt.Sprintf("Tin Gate %s · rules %s. Run on a simulated drive, motor and load: it permits nothing at the machine.", version,
			gate.RulesVersion), Signatures: []string{"Looked through by, date"}}
	t := pdf.Table{Title: "The plan on its own bench", Head: []string{"", "step", "wanted", "got", ""},
		Widths: []float64{20, 62, 32, 34, 32}}
	for _, s := range v.Proof.Steps {
		t.Rows = append(t.Rows, []string{s.Verdict, s.Title, s.Wanted, s.Got, s.Detail})
	}
	a := pdf.Table{Title: "Taken for granted", Head: []string{""}, Widths: []float64{180}}
	for _, x := range v.Assumed {
		a.Rows = append(a.Rows, []string{x})
	}
	rec.Tables = append(rec.Tables, t, a)
	return rec.Write()
}
