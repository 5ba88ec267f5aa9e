package app

import (
	"context"
	"fmt"
	"strings"

	"tingate/bench"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/core/tune"
)

// TuneTaken says where a tune's result is read.
type TuneTaken struct {
	ID   string `json:"id"`
	From string `json:"from" enum:"bench,link" doc:"the drive's own bench, or the drive itself at its address"`
}

// TakeTune reads what a tune has left in the drive, or in its bench, over the link, and records it as the result of gate Tune.
// Nothing is written to either.
func (a *App) TakeTune(ctx context.Context, who Actor, driveID string, in TuneTaken) error {
	connect := a.connect
	if in.From == record.OnBench {
		r := a.benchOf(driveID)
		if r == nil {
			return &RefusedError{"There is no bench of this drive. Set it up first."}
		}
		connect = func(ctx context.Context, who Actor, driveID string) (wired, error) {
			return a.connectTo(ctx, who, driveID, func(j gate.Job) (string, uint8, error) {
				return r.address, 1, ended(r.bench.Show(0).Tune, gate.Evaluate(j, a.now()).Tune.Kind)
			})
		}
	}
	w, err := connect(ctx, who, driveID)
	if err != nil {
		return err
	}
	values, err := w.conn.ReadAll(ctx, func(int, int) {})
	w.release()
	if err != nil {
		return &RefusedError{err.Error()}
	}
	return a.recordAll(ctx, who, driveID, in.ID, drivefile.EntryEvidence, func(now situation) ([]any, error) {
		c, _ := findCheck(now.state, gate.TuneEnded(now.state.Tune))
		if c == nil || c.Do == "" {
			return nil, &RefusedError{"Gate Tune is not ready for a result: choose a kind, and answer what comes before it."}
		}
		list := []any{drivefile.Evidence{Key: c.Key, Value: "ended", Instrument: in.From, Basis: c.Basis}}
		results := now.state.Tune.Results
		if now.state.Tune.Kind == tune.KindMechanical {
			results = nil // those of the tune before it stay
		}
		for _, r := range results {
			s, ok := now.job.Family.Setting(r.Setting)
			held, read := values[r.Setting]
			if !ok || !read {
				return nil, &RefusedError{r.Setting + " was not answered: read it on the keypad."}
			}
			if held.Steps == 0 {
				return nil, &RefusedError{fmt.Sprintf("%s %s shows %q: the drive holds no tune of this kind.", s.Code, s.Name, s.Text(held.Steps))}
			}
			rc, _ := findCheck(now.state, r.Key)
			v := s.Value(held.Steps)
			list = append(list, drivefile.Evidence{Key: r.Key, Value: strings.TrimSpace(strings.TrimSuffix(s.Text(held.Steps), s.Unit)), Reading: &v, Unit: r.Unit, Instrument: in.From, Basis: rc.Basis})
		}
		return list, nil
	})
}

// ended tells why a bench's tune is no result; nil when it is one.
func ended(t *bench.TuneShown, kind string) error {
	switch {
	case t == nil:
		return &RefusedError{"The bench has not tuned yet. Run it first."}
	case t.Running:
		return &RefusedError{"The bench still tunes. Wait for its end."}
	case t.Failed != "":
		return &RefusedError{"The bench's tune gave no result: " + t.Failed}
	case t.Kind != bench.KindOf(kind):
		return &RefusedError{fmt.Sprintf("The bench ran another kind (%s) than gate Tune has chosen (%s).", strings.ReplaceAll(t.Kind, "-", " "), strings.ReplaceAll(kind, "-", " "))}
	}
	return nil
}
