package base

import (
	"encoding/json"
	"fmt"
	"log/slog"
	"runtime/debug"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/store"
)

// PutGlance makes the Yard's row in the transaction that changed what it rests on.
func (a *Base) PutGlance(tx *store.Tx, doc store.Document) error {
	g, err := a.rowOf(tx.Reader, doc, false) // nobody waits in a transaction for a ride: the Yard makes such a row anew before it shows it
	if err != nil {
		return err
	}
	return tx.PutGlance(g)
}

// Rules are what a row of the Yard rests on besides documents and entries: the program's rules, and the families and practices that are
// known.
func (a *Base) Rules() string {
	back, _ := a.Back.Load().(string)
	return gate.RulesVersion + " " + a.FamilySet.Hash() + " " + a.PracticeSet.Hash() + back
}

// Row works out what the Yard shows of a drive. A rule that cannot bear a drive's data stops that row, and no other.
func (a *Base) Row(r store.Reader, doc store.Document) (store.Glance, error) {
	return a.rowOf(r, doc, true)
}

// notRidden stands behind the rules of a row whose plan is still to be ridden: it is stale.
const notRidden = ", not ridden"

func (a *Base) rowOf(r store.Reader, doc store.Document, ride bool) (g store.Glance, err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("a drive's rules failed", "drive", doc.ID, "panic", p, "stack", string(debug.Stack()))
			err = fmt.Errorf("the rules fail on drive %s: %v", doc.ID, p)
		}
	}()
	j, pd, err := a.Job(r, doc)
	if err != nil {
		return store.Glance{}, err
	}
	s, known := a.evaluated(j, ride)
	rules := a.Rules()
	if !known {
		rules += notRidden
	}
	return glanceRow(doc, pd.Version, rules, j, s), nil
}

func glanceRow(doc store.Document, placeVersion int64, rules string, j gate.Job, s gate.State) store.Glance {
	// In the usual order of the gates, whatever order the drive's practice has: the Yard shows them in columns.
	var marks []string
	for _, key := range gate.GateKeys() {
		for _, g := range s.Gates {
			if g.Key == key {
				mark := string(g.Mark)
				if g.Waived > 0 {
					mark += fmt.Sprintf(":%d", g.Waived)
				}
				marks = append(marks, mark)
			}
		}
	}
	d := j.Drive
	var about []string
	row := d.Motor.Rows[s.Linked]
	if row.Power.Text != "" {
		p := row.Power.Text
		if sh, ok := s.Shown["motor.rows."+s.Linked+".power"]; ok {
			p = sh
		}
		about = append(about, p)
	}
	if d.Rating.Dialect != "" {
		about = append(about, d.Rating.Dialect)
	}
	return store.Glance{
		Drive:        doc.ID,
		Place:        doc.Place,
		Tag:          strings.TrimSpace(d.Tag),
		Machine:      d.Machine,
		Where:        d.Where,
		Archived:     d.Archived,
		Marks:        strings.Join(marks, " "),
		Next:         s.Next,
		NextDetail:   s.NextDetail,
		NextGate:     s.NextGate,
		Worst:        s.Worst,
		WorstTitle:   s.WorstTitle,
		About:        strings.Join(about, " · "),
		Search:       searchText(doc.Body),
		DriveVersion: doc.Version,
		PlaceVersion: placeVersion,
		Rules:        rules,
		StaleAfter:   s.Until,
	}
}

// searchText is every text written on a drive, in lower case.
func searchText(body []byte) string {
	b, err := drivefile.ParseBody(body)
	if err != nil {
		return ""
	}
	var words []string
	for _, op := range b.Leaves() {
		var text string
		var q drivefile.Q
		if json.Unmarshal(op.New, &text) == nil && op.Path != "place" && op.Path != "motor.linked" {
			words = append(words, text)
		} else if json.Unmarshal(op.New, &q) == nil && q.Text != "" {
			words = append(words, q.Text)
		}
	}
	return strings.ToLower(strings.Join(words, "\n"))
}
