package links

import (
	"context"
	"fmt"
	"strings"

	"tingate/app/base"
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
func (a *Links) TakeTune(ctx context.Context, who base.Actor, driveID string, in TuneTaken) error {
	connect := a.Connect
	if in.From == record.OnBench {
		r := a.benches.RunningOf(driveID)
		if r == nil {
			return base.Refuse("There is no bench of this drive. Set it up first.")
		}
		connect = func(ctx context.Context, who base.Actor, driveID string) (Wired, error) {
			return a.ConnectTo(ctx, who, driveID, func(j gate.Job) (string, uint8, error) {
				return r.Address, 1, ended(r.Bench.Show(0).Tune, gate.Evaluate(j, a.Now()).Tune.Kind)
			})
		}
	}
	w, err := connect(ctx, who, driveID)
	if err != nil {
		return err
	}
	values, err := w.Conn.ReadAll(ctx, func(int, int) {})
	w.Release()
	if err != nil {
		return base.Refuse(err.Error())
	}
	return a.PutAll(ctx, who, driveID, in.ID, drivefile.EntryEvidence, func(now base.Situation) ([]any, error) {
		c, _ := base.FindCheck(now.State, gate.TuneEnded(now.State.Tune))
		if c == nil || c.Do == "" {
			return nil, base.Refuse("Gate Tune is not ready for a result: choose a kind, and answer what comes before it.")
		}
		list := []any{drivefile.Evidence{Key: c.Key, Value: "ended", Instrument: in.From, Basis: c.Basis}}
		results := now.State.Tune.Results
		if now.State.Tune.Kind == tune.KindMechanical {
			results = nil // those of the tune before it stay
		}
		for _, r := range results {
			s, ok := now.Job.Family.Setting(r.Setting)
			held, read := values[r.Setting]
			if !ok || !read {
				return nil, base.Refuse(r.Setting + " was not answered: read it on the keypad.")
			}
			if held.Steps == 0 {
				return nil, base.Refuse(fmt.Sprintf("%s %s shows %q: the drive holds no tune of this kind.", s.Code, s.Name,
					s.Text(held.Steps)))
			}
			rc, _ := base.FindCheck(now.State, r.Key)
			v := s.Value(held.Steps)
			list = append(list, drivefile.Evidence{Key: r.Key, Value: strings.TrimSpace(strings.TrimSuffix(s.Text(held.Steps), s.Unit)),
				Reading: &v, Unit: r.Unit, Instrument: in.From, Basis: rc.Basis})
		}
		return list, nil
	})
}

// ended tells why a bench's tune is no result; nil when it is one.
func ended(t *bench.TuneShown, kind string) error {
	switch {
	case t == nil:
		return base.Refuse("The bench has not tuned yet. Run it first.")
	case t.Running:
		return base.Refuse("The bench still tunes. Wait for its end.")
	case t.Failed != "":
		return base.Refuse("The bench's tune gave no result: " + t.Failed)
	case t.Kind != bench.KindOf(kind):
		return base.Refuse(fmt.Sprintf("The bench ran another kind (%s) than gate Tune has chosen (%s).",
			strings.ReplaceAll(t.Kind, "-", " "), strings.ReplaceAll(kind, "-", " ")))
	}
	return nil
}
