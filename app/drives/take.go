package drives

import (
	"context"
	"fmt"
	"math"
	"sort"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/quantity"
	"tingate/store"
)

// TakeResult says what was taken over from a drive's settings as wanted.
type TakeResult struct {
	Taken []string `json:"taken" doc:"what was filled in"`
	Not   []string `json:"not" doc:"settings that were not understood, with the reason; their readings are kept"`
}

// choiceFields are the intents that differ in name from their field in the drive file.
var choiceFields = map[string]string{"load_pattern": "pattern"}

// TakeReadings fills in what nobody has decided yet from what the drive holds: its settings are read back into
// engineering units. What is entered already stays. It is one edit, which undo takes back.
func (a *Drives) TakeReadings(ctx context.Context, who base.Actor, driveID, changeID string) (TakeResult, error) {
	res := TakeResult{Taken: []string{}, Not: []string{}}
	r := a.Store.Read(ctx)
	doc, err := base.DriveDoc(r, driveID)
	if err != nil {
		return res, err
	}
	j, _, err := a.Job(r, doc)
	if err != nil {
		return res, err
	}
	if j.Family == nil {
		return res, base.Refuse("Choose the drive's family first.")
	}
	values := map[string]int64{}
	for code, read := range gate.Readings(j) {
		if read.Steps != nil {
			values[code] = *read.Steps
		}
	}
	if len(values) == 0 {
		return res, base.Refuse("Nothing has been read from this drive yet.")
	}
	base := gate.PlanOf(j)
	u := j.Family.Read(values, &base)
	for _, n := range u.Not {
		res.Not = append(res.Not, fmt.Sprintf("%s %s: %s", n.Code, n.Text, n.Why))
	}
	sets, err := takeSets(doc, u.Plan.Numbers, u.Plan.Choices)
	if err != nil {
		return res, err
	}
	if len(sets) == 0 {
		return res, nil
	}
	for _, s := range sets {
		res.Taken = append(res.Taken, drivefile.Called(s.Path))
	}
	return res, a.Change(ctx, who, driveID, Edit{ID: changeID, Edit: changeID, Why: "taken from what the drive holds", Sets: sets})
}

// outward rounds to five digits up (side 1) or down (−1): the sheet rounds limits and ramps to the safe side, and a
// value cut off a hair short would lose a whole step of the setting.
func outward(v, side float64) float64 {
	if !(v > 0) {
		return v
	}
	unit := math.Pow10(int(math.Floor(math.Log10(v))) - 4)
	x := v / unit
	if near := math.Round(x); math.Abs(x-near) < .01 {
		return near * unit
	}
	if side > 0 {
		return math.Ceil(x) * unit
	}
	return math.Floor(x) * unit
}

// takeSets are the fields that are blank now and that the drive's settings answer.
func takeSets(doc store.Document, numbers map[string]float64, choices map[string]string) ([]Set, error) {
	body, err := drivefile.ParseBody(doc.Body)
	if err != nil {
		return nil, err
	}
	var sets []Set
	put := func(name, text string) {
		path := "intent." + name
		if _, err := drivefile.Lookup(drivefile.KindDrive, path); err == nil && drivefile.TextOf(body.Get(path)) == "" {
			sets = append(sets, Set{Path: path, Text: text})
		}
	}
	for name, v := range numbers {
		switch {
		case math.IsNaN(v):
		case name == "rise" || name == "fall":
			put(name, quantity.Typed(outward(v, 1), 6)+" r/min/s")
		case name == "current_limit":
			put(name, quantity.Typed(outward(v*100, 1), 6)+" %")
		case name == "highest_speed":
			put(name, quantity.Typed(outward(v, 1), 6)+" r/min")
		case name == "lowest_speed":
			put(name, quantity.Typed(outward(v, -1), 6)+" r/min")
		default:
			put(name, quantity.Typed(v, 5)+" r/min")
		}
	}
	for name, v := range choices {
		if to, ok := choiceFields[name]; ok {
			name = to
		}
		put(name, v)
	}
	sort.Slice(sets, func(i, j int) bool { return sets[i].Path < sets[j].Path })
	return sets, nil
}
