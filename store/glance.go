package store

import (
	"database/sql"
	"encoding/json"
	"strings"
)

// Glance is what a row of the Yard shows. It is derived, and only the Yard reads it.
type Glance struct {
	Drive, Place, Tag, Machine, Where string
	Archived                          bool
	Marks                             string // one mark a gate, separated by spaces; passed:6 when six of its checks are waived
	Next, NextDetail, NextGate        string
	Worst, WorstTitle                 string
	About                             string
	Search                            string // everything written on the drive, in lower case
	DriveVersion, PlaceVersion        int64
	Rules, StaleAfter                 string
}

// PutGlance stores a row, in the transaction that changed what it rests on. Rows of other drives that bear its tag, or bore it, are made
// anew before they are shown: two of one tag are a finding of each.
func (t *Tx) PutGlance(g Glance) error {
	if err := t.exec("stale_by_tag", g.Drive, g.Place, g.Tag, g.Archived); err != nil {
		return err
	}
	return t.exec("put_glance", g.Drive, g.Place, g.Tag, g.Machine, g.Where, g.Archived, g.Marks, g.Next, g.NextDetail, g.NextGate,
		g.Worst, g.WorstTitle, g.About,
		g.Search, g.DriveVersion, g.PlaceVersion, g.Rules, g.StaleAfter)
}

// StaleBySupplies marks the rows of the drives of a place that any of the supplies feeds: they are made anew before they are shown.
func (t *Tx) StaleBySupplies(place string, supplies []string) error {
	ids, err := json.Marshal(supplies)
	if err != nil {
		return err
	}
	return t.exec("stale_by_supplies", place, string(ids))
}

// WorkedOn lists the drives of a place that any of the supplies feeds and of which something was recorded since a time.
func (r Reader) WorkedOn(place string, supplies []string, since string) ([]string, error) {
	ids, err := json.Marshal(supplies)
	if err != nil {
		return nil, err
	}
	return collect(r, "worked_on", func(rows *sql.Rows, id *string) error { return rows.Scan(id) }, place, string(ids), since)
}

// StaleByCircuits does the same for the drives of any of the place's stop circuits.
func (t *Tx) StaleByCircuits(place string, circuits []string) error {
	ids, err := json.Marshal(circuits)
	if err != nil {
		return err
	}
	return t.exec("stale_by_circuits", place, string(ids))
}

// SameTag lists the machines of other drives of a place that bear a tag, in whatever letters, and are in use: three at most.
func (r Reader) SameTag(place, tag, but string) ([]string, error) {
	return collect(r, "same_tag", func(rows *sql.Rows, machine *string) error { return rows.Scan(machine) }, place, tag, but)
}

// StaleGlances lists drives of a place ("": of all) whose row is missing, marked stale, of an older version of the drive or its place, of
// other rules, or past its time. now is RFC 3339 in UTC.
func (r Reader) StaleGlances(place, rules, now string) ([]string, error) {
	return collect(r, "stale_glances", func(rows *sql.Rows, id *string) error { return rows.Scan(id) }, place, rules, now)
}

// StaleGlance tells the same of one drive.
func (r Reader) StaleGlance(drive, rules, now string) (bool, error) {
	l, err := collect(r, "stale_glance", func(rows *sql.Rows, id *string) error { return rows.Scan(id) }, drive, rules, now)
	return len(l) > 0, err
}

// YardQuery selects rows of the Yard.
type YardQuery struct {
	Place, Text   string
	Filter        string // all, work, barred, again, archived
	Offset, Limit int
}

// filters of the Yard, as fixed conditions; what a person typed only ever goes in as an argument.
var yardConditions = map[string]string{
	"all":      "archived = 0",
	"work":     "archived = 0 AND next_gate <> '' AND marks NOT LIKE '%barred%'",
	"barred":   "archived = 0 AND marks LIKE '%barred%'",
	"again":    "archived = 0 AND marks LIKE '%again%'",
	"archived": "archived = 1",
}

func yardWhere(q YardQuery) (string, []any) {
	where, args := "place = ?", []any{q.Place}
	for _, word := range strings.Fields(strings.ToLower(q.Text)) {
		where, args = where+` AND search LIKE ? ESCAPE '\'`,
			append(args, "%"+strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(word)+"%")
	}
	return where, args
}

// YardFilters lists the filters, in the order of the screen.
var YardFilters = []string{"all", "work", "barred", "again", "archived"}

// Yard returns one page of rows by tag, and how many rows each filter has.
func (r Reader) Yard(q YardQuery) (rows []Glance, counts map[string]int, err error) {
	where, args := yardWhere(q)
	sums, n := make([]string, len(YardFilters)), make([]int, len(YardFilters))
	to := make([]any, len(n))
	for i, f := range YardFilters {
		sums[i], to[i] = "coalesce(sum("+yardConditions[f]+"), 0)", &n[i]
	}
	if err := r.q.QueryRowContext(r.ctx, "SELECT "+strings.Join(sums, ", ")+" FROM glance WHERE "+where, args...).Scan(to...); err != nil {
		return nil, nil, err
	}
	counts = map[string]int{}
	for i, f := range YardFilters {
		counts[f] = n[i]
	}
	filter, ok := yardConditions[q.Filter]
	if !ok {
		filter = yardConditions["all"]
	}
	where += " AND " + filter
	list, err := r.q.QueryContext(r.ctx,
		"SELECT drive, place, tag, machine, location, archived, marks, next, next_detail, next_gate, worst, worst_title, about FROM "+
			"glance WHERE "+
			where+" ORDER BY tag, drive LIMIT ? OFFSET ?", append(args, q.Limit, q.Offset)...)
	if err != nil {
		return nil, nil, err
	}
	defer list.Close()
	for list.Next() {
		var g Glance
		if err := list.Scan(&g.Drive, &g.Place, &g.Tag, &g.Machine, &g.Where, &g.Archived, &g.Marks, &g.Next, &g.NextDetail, &g.NextGate,
			&g.Worst, &g.WorstTitle, &g.About); err != nil {
			return nil, nil, err
		}
		rows = append(rows, g)
	}
	return rows, counts, list.Err()
}
