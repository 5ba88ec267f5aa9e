package yard

import (
	"context"
	"strconv"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/store"
)

// PlaceView is a place with its people, supplies and their energy.
type PlaceView struct {
	ID      string                           `json:"id"`
	Version int64                            `json:"version"`
	Place   drivefile.Place                  `json:"place"`
	Energy  map[string]isolation.SupplyState `json:"energy"`
}

// Places lists the places of the data folder.
func (a *Board) Places(ctx context.Context) ([]PlaceView, error) {
	r := a.Store.Read(ctx)
	docs, err := r.Documents(drivefile.KindPlace, "")
	if err != nil {
		return nil, err
	}
	out := []PlaceView{}
	for _, d := range docs {
		p, err := drivefile.DecodePlace(d.Body)
		if err != nil {
			return nil, err
		}
		entries, err := r.Entries(d.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, PlaceView{d.ID, d.Version, p, isolation.ByID(entries)})
	}
	return out, nil
}

// YardRow is one drive in the Yard.
type YardRow struct {
	ID         string   `json:"id"`
	Tag        string   `json:"tag"`
	Machine    string   `json:"machine"`
	Where      string   `json:"where"`
	About      string   `json:"about"`
	Archived   bool     `json:"archived"`
	Marks      []string `json:"marks" doc:"one a gate"`
	Waived     []int    `json:"waived" doc:"checks left out with a reason, of each gate"`
	Next       string   `json:"next"`
	NextDetail string   `json:"next_detail"`
	NextGate   string   `json:"next_gate"`
	Worst      string   `json:"worst"`
	WorstTitle string   `json:"worst_title"`
}

// YardPage is a page of the Yard with the counts of its filters.
type YardPage struct {
	Rows   []YardRow      `json:"rows"`
	Counts map[string]int `json:"counts"`
	Gates  []string       `json:"gates"`
	Anew   Progress       `json:"anew" doc:"rows that are being worked out anew after a change of rules"`
}

// Query is what is asked of the list.
type Query = store.YardQuery

// Yard lists drives by tag. Text matches whatever is written on a drive, every word of it.
func (a *Board) Yard(ctx context.Context, q store.YardQuery) (YardPage, error) {
	if q.Limit <= 0 || q.Limit > 500 {
		q.Limit = 100
	}
	if err := a.rowsFresh(ctx, q.Place); err != nil {
		return YardPage{}, err
	}
	rows, counts, err := a.Store.Read(ctx).Yard(q)
	if err != nil {
		return YardPage{}, err
	}
	if rows, err = a.rowsNow(ctx, q.Place, rows); err != nil {
		return YardPage{}, err
	}
	page := YardPage{Rows: []YardRow{}, Counts: counts, Gates: gate.GateKeys(), Anew: a.refresh.now()}
	for _, g := range rows {
		row := YardRow{ID: g.Drive, Tag: g.Tag, Machine: g.Machine, Where: g.Where, About: g.About, Archived: g.Archived,
			Marks: []string{}, Waived: []int{}, Next: g.Next, NextDetail: g.NextDetail, NextGate: g.NextGate, Worst: g.Worst,
			WorstTitle: g.WorstTitle}
		for _, m := range strings.Fields(g.Marks) {
			mark, waived, _ := strings.Cut(m, ":")
			n, _ := strconv.Atoi(waived) // none: nothing is waived
			row.Marks, row.Waived = append(row.Marks, mark), append(row.Waived, n)
		}
		page.Rows = append(page.Rows, row)
	}
	return page, nil
}

// freshAtOnce is how many stale rows are made before the Yard answers; of more, those of the page are, and the rest beside.
const freshAtOnce = 400

// rowsFresh makes a place's stale rows anew, so that the Yard says what the drives say.
func (a *Board) rowsFresh(ctx context.Context, place string) error {
	rules, now := a.freshBy()
	ids, err := a.Store.Read(ctx).StaleGlances(place, rules, now)
	if err != nil || len(ids) == 0 {
		return err
	}
	if len(ids) > freshAtOnce {
		a.WakeGlances()
		return nil
	}
	a.freshen.Lock() // several windows ask at once: one makes them
	defer a.freshen.Unlock()
	rules, now = a.freshBy()
	if ids, err = a.Store.Read(ctx).StaleGlances(place, rules, now); err != nil {
		return err
	}
	return a.makeRows(ctx, ids)
}

// rowsNow puts what a page's drives say now in the place of rows that are stale.
func (a *Board) rowsNow(ctx context.Context, place string, rows []store.Glance) ([]store.Glance, error) {
	r := a.Store.Read(ctx)
	rules, now := a.freshBy()
	for i := range rows {
		stale, err := r.StaleGlance(rows[i].Drive, rules, now)
		if err != nil {
			return nil, err
		}
		if !stale {
			continue
		}
		doc, err := r.Document(rows[i].Drive)
		if err != nil {
			return nil, err
		}
		if row, err := a.Row(r, doc); err == nil { // what a rule cannot bear stays as it was
			rows[i] = row
		}
	}
	return rows, nil
}
