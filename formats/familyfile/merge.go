package familyfile

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// Clash is what two people changed otherwise, going out from the same version of a family: mine stands until somebody chooses.
type Clash struct {
	Part   string `json:"part,omitempty" doc:"of the file, beside the settings"`
	Row    string `json:"row" doc:"the row's first cell, or a setting's code; empty: the head of the family, or a part of one row"`
	Field  string `json:"field" doc:"empty: the whole row, which one has changed and the other left out"`
	Was    string `json:"was"`
	Mine   string `json:"mine"`
	Theirs string `json:"theirs"`
}

// Merged is what became of two people's versions.
type Merged struct {
	Draft   Draft   `json:"draft"`
	Taken   int     `json:"taken" doc:"cells and rows that came from the other version"`
	Clashes []Clash `json:"clashes"`
}

// leftOut stands for a row that is not there, in a clash.
const leftOut = "left out"

// Merge puts what somebody else changed meanwhile into a draft, row by row: both go out from was, theirs is kept already. What only one of
// the two changed is taken; what both changed otherwise stays as in the draft, and is told. The draft goes out from theirs then.
func Merge(was, mine, theirs Draft) Merged {
	m := merging{out: Merged{Draft: mine, Clashes: []Clash{}}}
	d := &m.out.Draft
	d.BaseName, d.BaseVersion = theirs.BaseName, theirs.BaseVersion
	for _, h := range []struct {
		field     string
		w, mi, th string
		put       *string
	}{{"about", was.About, mine.About, theirs.About, &d.About}, {"firmware", was.Firmware, mine.Firmware, theirs.Firmware, &d.Firmware}} {
		*h.put = m.cell("", "", h.field, h.w, h.mi, h.th)
	}
	code := func(r DraftRow) string { return strings.TrimSpace(r.Code) }
	d.Rows = mergeRows(&m, "", code, m.setting, was.Rows, mine.Rows, theirs.Rows)
	d.Parts = nil
	for _, t := range theirs.Parts {
		of := func(l []Section) Section {
			if i := slices.IndexFunc(l, func(s Section) bool { return s.Key == t.Key }); i >= 0 {
				return l[i]
			}
			return Section{Key: t.Key, Rows: [][]string{}}
		}
		w, mi := of(was.Parts), of(mine.Parts)
		if mi.Columns == nil {
			mi.Rows = w.Rows // a draft that says nothing of a part leaves it
		}
		t.Rows = m.part(t, w.Rows, mi.Rows, t.Rows)
		d.Parts = append(d.Parts, t)
	}
	return m.out
}

type merging struct{ out Merged }

// cell is one cell of three.
func (m *merging) cell(part, row, field, was, mine, theirs string) string {
	switch {
	case mine == theirs || theirs == was:
		return mine
	case mine == was:
		m.out.Taken++
		return theirs
	}
	m.out.Clashes = append(m.out.Clashes, Clash{part, row, field, was, mine, theirs})
	return mine
}

// setting is one row of the settings of three, field by field; what is said about a row goes with who changed it.
func (m *merging) setting(key string, was, mine, theirs DraftRow) DraftRow {
	if mine.typed() == was.typed() {
		if theirs.typed() != was.typed() {
			m.out.Taken++
		}
		return theirs
	}
	out := mine
	w, mi, th, o := reflect.ValueOf(was.typed()), reflect.ValueOf(mine.typed()), reflect.ValueOf(theirs.typed()),
		reflect.ValueOf(&out).Elem()
	for i := range w.NumField() {
		name, _, _ := strings.Cut(w.Type().Field(i).Tag.Get("json"), ",")
		a, b, c := fmt.Sprint(w.Field(i)), fmt.Sprint(mi.Field(i)), fmt.Sprint(th.Field(i))
		if m.cell("", key, name, a, b, c) == c && b != c {
			o.Field(i).Set(th.Field(i))
		}
	}
	return out
}

// part is one table of three. Rows are known by their first cell, of a table within another by their first two, where that names one row
// only; else the table is taken whole.
func (m *merging) part(p Section, was, mine, theirs [][]string) [][]string {
	wide := func(l [][]string) [][]string {
		var out [][]string
		for _, r := range l {
			if p.Single || strings.TrimSpace(strings.Join(r, "")) != "" {
				out = append(out, append(slices.Clone(r), make([]string, max(0, len(p.Columns)-len(r)))...))
			}
		}
		return out
	}
	was, mine, theirs = wide(was), wide(mine), wide(theirs)
	first := func(r []string) string {
		if p.Within != "" { // many rows belong to one of the other table
			return strings.TrimSpace(r[0]) + ", " + strings.TrimSpace(r[1])
		}
		return strings.TrimSpace(r[0])
	}
	cells := func(key string, w, mi, th []string) []string {
		out := slices.Clone(mi)
		for k, c := range p.Columns {
			out[k] = m.cell(p.Key, key, c.Key, w[k], mi[k], th[k])
		}
		return out
	}
	same := func(a, b [][]string) bool { return slices.EqualFunc(a, b, slices.Equal[[]string]) }
	switch {
	case len(p.Columns) == 0 || same(mine, theirs) || same(theirs, was):
		return orNone(mine)
	case same(mine, was):
		m.out.Taken++
		return orNone(theirs)
	case p.Single && len(was) == 1 && len(mine) == 1 && len(theirs) == 1:
		return [][]string{cells("", was[0], mine[0], theirs[0])}
	case !oneEach(was, first) || !oneEach(mine, first) || !oneEach(theirs, first):
		m.out.Clashes = append(m.out.Clashes, Clash{Part: p.Key, Was: rowsSay(was), Mine: rowsSay(mine), Theirs: rowsSay(theirs)})
		return mine
	}
	return orNone(mergeRows(m, p.Key, first, cells, was, mine, theirs))
}

func orNone(l [][]string) [][]string {
	if l == nil {
		return [][]string{}
	}
	return l
}

func rowsSay(l [][]string) string {
	if len(l) == 1 {
		return "1 row"
	}
	return fmt.Sprint(len(l), " rows")
}

// oneEach tells whether every row has a key of its own.
func oneEach[R any](l []R, key func(R) string) bool {
	seen := map[string]bool{}
	for _, r := range l {
		if k := key(r); k == "" || seen[k] {
			return false
		}
		seen[key(r)] = true
	}
	return true
}

// mergeRows merges lists whose rows have keys: in their order, with what mine adds behind the row that it stands behind. Rows without
// a key,
// or with one that stands twice, are mine.
func mergeRows[R any](m *merging, part string, key func(R) string, both func(key string, was, mine, theirs R) R, was, mine,
	theirs []R) []R {
	by := func(l []R) map[string]R {
		out := map[string]R{}
		for _, r := range l {
			if k := key(r); k != "" {
				out[k] = r
			}
		}
		return out
	}
	w, mi := by(was), by(mine)
	equal := func(a, b R) bool { return same(a, b) }
	var out []R
	put := map[string]bool{}
	for _, t := range theirs {
		k := key(t)
		x, inMine := mi[k]
		old, before := w[k]
		switch {
		case inMine && before:
			out = append(out, both(k, old, x, t))
		case inMine:
			out = append(out, both(k, x, x, t)) // both added it: theirs where mine says nothing else
			if !equal(x, t) {
				out[len(out)-1] = x
				m.out.Clashes = append(m.out.Clashes, Clash{Part: part, Row: k, Mine: "added so", Theirs: "added otherwise", Was: leftOut})
			}
		case !before:
			m.out.Taken++
			out = append(out, t)
		case equal(old, t):
			continue // left out by me
		default:
			m.out.Clashes = append(m.out.Clashes, Clash{Part: part, Row: k, Mine: leftOut, Theirs: "changed"})
			continue
		}
		put[k] = true
	}
	last := -1 // where the row of mine before this one stands
	for _, x := range mine {
		k := key(x)
		if _, before := w[k]; !put[k] && before && k != "" {
			if equal(w[k], x) {
				m.out.Taken++ // left out by them
				continue
			}
			m.out.Clashes = append(m.out.Clashes, Clash{Part: part, Row: k, Mine: "changed", Theirs: leftOut})
		}
		if at := slices.IndexFunc(out, func(r R) bool { return k != "" && key(r) == k }); at >= 0 {
			last = at
			continue
		}
		last++
		out = slices.Insert(out, last, x)
	}
	return out
}

// same compares what a person typed of two rows.
func same[R any](a, b R) bool {
	if x, ok := any(a).(DraftRow); ok {
		return x.typed() == any(b).(DraftRow).typed()
	}
	return reflect.DeepEqual(a, b)
}
