package benches

import (
	"context"

	"tingate/app/base"
	"tingate/bench/prove"
)

// WhatIf is what the drive does when something happens while it runs, by the plan, on its own bench; and who gives what.
func (a *Benches) WhatIf(ctx context.Context, driveID string) (prove.WhatIfs, error) {
	s, _, f, err := a.SpanSetup(ctx, driveID, SpanTry{})
	out := prove.WhatIfs{Rows: []prove.WhatIf{}, Gives: []prove.Giver{}, Needs: f.Missing}
	if err != nil || f.Missing != "" {
		return out, err
	}
	if out, err = prove.Reactions(ctx, s); err != nil {
		return out, base.Refuse(err.Error())
	}
	return out, nil
}

// TruthTable is what the drive does with every combination of its inputs, by the plan, on its own bench.
func (a *Benches) TruthTable(ctx context.Context, driveID string) (prove.Truth, error) {
	s, _, f, err := a.SpanSetup(ctx, driveID, SpanTry{})
	if err != nil {
		return prove.Truth{}, err
	}
	if f.Missing != "" {
		return prove.Truth{}, base.Refuse("The truth table needs " + f.Missing + ".")
	}
	t, err := prove.TruthTable(s)
	if err != nil {
		return t, base.Refuse(err.Error())
	}
	return t, nil
}
