package familyfile

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"sync"
	"testing"
)

var tarnOnce = sync.OnceValue(func() Draft { return DraftOf(Find("Tarn")) })

func tarnDraft() Draft {
	d := tarnOnce()
	d.Rows, d.Parts = slices.Clone(d.Rows), slices.Clone(d.Parts)
	for i := range d.Parts {
		rows := make([][]string, len(d.Parts[i].Rows))
		for k, r := range d.Parts[i].Rows {
			rows[k] = slices.Clone(r)
		}
		d.Parts[i].Rows = rows
	}
	return d
}

func (d *Draft) row(t *testing.T, code string) *DraftRow {
	t.Helper()
	i := slices.IndexFunc(d.Rows, func(r DraftRow) bool { return r.Code == code })
	if i < 0 {
		t.Fatalf("no setting %s", code)
	}
	return &d.Rows[i]
}

func (d *Draft) part(key string) *Section {
	return &d.Parts[slices.IndexFunc(d.Parts, func(s Section) bool { return s.Key == key })]
}

// What each of two people changed is there, field by field; what both changed otherwise is told, and mine stands.
func TestTwoVersionsAreMergedRowByRow(t *testing.T) {
	was, mine, theirs := tarnDraft(), tarnDraft(), tarnDraft()
	theirs.BaseVersion = "99"
	mine.row(t, "4D").Name, theirs.row(t, "4D").Delivery = "Motor's current", "1.0"
	mine.row(t, "5C").Max, theirs.row(t, "5C").Max = "300", "400"
	theirs.About = "as of the second printing"
	theirs.row(t, "1A").Running = !was.row(t, "1A").Running
	gone := was.Rows[10].Code
	theirs.Rows = slices.Delete(theirs.Rows, 10, 11)
	mine.Rows = slices.Insert(mine.Rows, 3, DraftRow{Code: "X1", Name: "mine"})
	theirs.Rows = slices.Insert(theirs.Rows, 20, DraftRow{Code: "X2", Name: "theirs"})
	faults := mine.part("faults")
	faults.Rows[0][1] = "mine"
	theirs.part("faults").Rows[0][len(faults.Columns)-1] = "theirs"
	theirs.part("faults").Rows = append(theirs.part("faults").Rows, append([]string{"E99"}, make([]string, len(faults.Columns)-1)...))
	mine.part("link").Rows[0][0] = "7"
	m := Merge(was, mine, theirs)
	d := m.Draft
	if d.BaseVersion != "99" || d.About != theirs.About || d.row(t, "1A").Running == was.row(t, "1A").Running {
		t.Errorf("what only they changed: %+v", m)
	}
	if r := d.row(t, "4D"); r.Name != "Motor's current" || r.Delivery != "1.0" {
		t.Errorf("both in one row: %+v", r)
	}
	if len(m.Clashes) != 1 || m.Clashes[0].Row != "5C" || m.Clashes[0].Field != "max" || m.Clashes[0].Theirs != "400" || d.row(t,
		"5C").Max != "300" {
		t.Errorf("the same field otherwise: %+v", m.Clashes)
	}
	if slices.ContainsFunc(d.Rows, func(r DraftRow) bool { return r.Code == gone }) || d.row(t, "X1").Name != "mine" || d.row(t,
		"X2").Name != "theirs" {
		t.Error("rows that were added and left out")
	}
	if at := slices.IndexFunc(d.Rows, func(r DraftRow) bool { return r.Code == "X1" }); d.Rows[at-1].Code != was.Rows[2].Code {
		t.Errorf("the row that was added stands behind %s", d.Rows[at-1].Code)
	}
	f := d.part("faults").Rows
	if f[0][1] != "mine" || f[0][len(faults.Columns)-1] != "theirs" || f[len(f)-1][0] != "E99" || d.part("link").Rows[0][0] != "7" {
		t.Errorf("tables: %v", f)
	}
}

func TestWhatOneChangesAndTheOtherLeavesOutIsAsked(t *testing.T) {
	was, mine, theirs := tarnDraft(), tarnDraft(), tarnDraft()
	mine.Rows = slices.Delete(mine.Rows, 5, 6)
	theirs.Rows[5].Name = "renamed"
	mine.Rows[7].Name = "mine" // the ninth of was
	theirs.Rows = slices.Delete(theirs.Rows, 8, 9)
	m := Merge(was, mine, theirs)
	var says []string
	for _, c := range m.Clashes {
		says = append(says, fmt.Sprintf("%s %s/%s", c.Row, c.Mine, c.Theirs))
	}
	want := []string{was.Rows[5].Code + " left out/changed", was.Rows[8].Code + " changed/left out"}
	if !reflect.DeepEqual(says, want) || m.Draft.row(t, was.Rows[8].Code).Name != "mine" {
		t.Errorf("%v, want %v", says, want)
	}
	// Both added the same code otherwise.
	was, mine, theirs = tarnDraft(), tarnDraft(), tarnDraft()
	mine.Rows, theirs.Rows = append(mine.Rows, DraftRow{Code: "Z", Name: "a"}), append(theirs.Rows, DraftRow{Code: "Z", Name: "b"})
	if m = Merge(was, mine, theirs); len(m.Clashes) != 1 || m.Draft.row(t, "Z").Name != "a" {
		t.Errorf("%+v", m.Clashes)
	}
	// A table whose rows have no names of their own is one or the other.
	was, mine, theirs = tarnDraft(), tarnDraft(), tarnDraft()
	for i, d := range []*Draft{&was, &mine, &theirs} {
		p := d.part("faults")
		p.Rows = [][]string{p.Rows[0], slices.Clone(p.Rows[0])}
		p.Rows[1][1] = fmt.Sprint(i)
	}
	if m = Merge(was, mine, theirs); len(m.Clashes) != 1 || m.Clashes[0].Part != "faults" || m.Draft.part("faults").Rows[1][1] != "1" {
		t.Errorf("%+v", m.Clashes)
	}
}

// Merging never invents: with nothing of mine it is theirs, with nothing of theirs it is mine; and every cell comes from one of the two.
func TestMergingNeverInvents(t *testing.T) {
	rng := rand.New(rand.NewPCG(20, 11))
	bend := func(d *Draft) {
		for range 1 + rng.IntN(12) {
			switch i := rng.IntN(len(d.Rows)); rng.IntN(5) {
			case 0:
				d.Rows = slices.Delete(d.Rows, i, i+1)
			case 1:
				d.Rows = slices.Insert(d.Rows, i, DraftRow{Code: fmt.Sprint("N", rng.IntN(4)), Name: fmt.Sprint(rng.IntN(9))})
			case 2:
				d.Rows[i].Max = fmt.Sprint(rng.IntN(3))
			case 3:
				d.Rows[i].Protects = !d.Rows[i].Protects
			default:
				p := &d.Parts[rng.IntN(len(d.Parts))]
				if len(p.Rows) > 0 {
					r := p.Rows[rng.IntN(len(p.Rows))]
					r[rng.IntN(len(r))] = fmt.Sprint(rng.IntN(3))
				}
			}
		}
	}
	text := func(d Draft) string {
		var b strings.Builder
		for _, r := range d.Rows {
			fmt.Fprintf(&b, "%+v\n", r.typed())
		}
		for _, p := range d.Parts {
			for _, r := range p.Rows {
				if strings.Join(r, "") != "" {
					fmt.Fprintf(&b, "%s %q\n", p.Key, r)
				}
			}
		}
		return b.String()
	}
	merged := 0
	for i := range 100 {
		was, mine, theirs := tarnDraft(), tarnDraft(), tarnDraft()
		bend(&mine)
		bend(&theirs)
		code := func(r DraftRow) string { return r.Code }
		if !oneEach(mine.Rows, code) || !oneEach(theirs.Rows, code) {
			continue // a code that stands twice is no family yet
		}
		merged++
		if m := Merge(was, mine, was); text(m.Draft) != text(mine) || len(m.Clashes) > 0 {
			t.Fatalf("%d: with nothing of theirs it is not mine: %+v", i, m.Clashes)
		}
		if m := Merge(was, was, theirs); text(m.Draft) != text(theirs) || len(m.Clashes) > 0 {
			t.Fatalf("%d: with nothing of mine it is not theirs: %+v", i, m.Clashes)
		}
		from := map[string]bool{}
		for _, d := range []Draft{was, mine, theirs} {
			for _, r := range d.Rows {
				v := reflect.ValueOf(r.typed())
				for k := range v.NumField() {
					from[fmt.Sprint(r.Code, k, v.Field(k))] = true
				}
			}
		}
		for _, r := range Merge(was, mine, theirs).Draft.Rows {
			v := reflect.ValueOf(r.typed())
			for k := range v.NumField() {
				if !from[fmt.Sprint(r.Code, k, v.Field(k))] {
					t.Fatalf("%d: %s has %v in field %d, which nobody typed", i, r.Code, v.Field(k), k)
				}
			}
		}
	}
	if merged < 40 {
		t.Errorf("only %d were merged", merged)
	}
}
