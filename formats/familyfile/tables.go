package familyfile

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"tingate/core/dialect"
)

// A table is a part of a family as rows of cells. What lies in the file as a map, or as a list of lists, is made a list of these:
type (
	pair struct {
		What string `yaml:"what"`
		Is   string `yaml:"is"`
	}
	several struct {
		List []string `yaml:"list"`
	}
)

// listOf is a part's place in a family as a list of structs.
func listOf(v reflect.Value) reflect.Value {
	switch {
	case v.Kind() == reflect.Struct:
		l := reflect.MakeSlice(reflect.SliceOf(v.Type()), 1, 1)
		l.Index(0).Set(v)
		return l
	case v.Kind() == reflect.Map:
		l := []pair{}
		for _, k := range v.MapKeys() {
			l = append(l, pair{k.String(), v.MapIndex(k).String()})
		}
		slices.SortFunc(l, func(a, b pair) int { return strings.Compare(a.What, b.What) })
		return reflect.ValueOf(l)
	case v.Type().Elem().Kind() == reflect.Slice:
		l := []several{}
		for i := range v.Len() {
			l = append(l, several{v.Index(i).Interface().([]string)})
		}
		return reflect.ValueOf(l)
	}
	return v
}

// putList puts a list of structs back into a part's place.
func putList(v, list reflect.Value) {
	switch {
	case v.Kind() == reflect.Struct:
		if list.Len() > 0 {
			v.Set(list.Index(0))
		}
	case list.Len() == 0:
		v.Set(reflect.Zero(v.Type()))
	case v.Kind() == reflect.Map:
		m := map[string]string{}
		for _, p := range list.Interface().([]pair) {
			m[p.What] = p.Is
		}
		v.Set(reflect.ValueOf(m))
	case v.Type().Elem().Kind() == reflect.Slice:
		var l [][]string
		for _, s := range list.Interface().([]several) {
			l = append(l, s.List)
		}
		v.Set(reflect.ValueOf(l))
	default:
		v.Set(list.Convert(v.Type()))
	}
}

// at is a part's place in a family; of a part within another's rows the outer list, and the number of the field in its rows.
func (d partOf) at(f *dialect.Family) (v reflect.Value, field int) {
	v, field = reflect.ValueOf(d.in(f)).Elem(), -1
	if d.within != "" {
		row := v.Type().Elem()
		for i := range row.NumField() {
			if key, _, _ := strings.Cut(row.Field(i).Tag.Get("yaml"), ","); d.within+"."+key == d.key {
				field = i
			}
		}
	}
	return v, field
}

// partsIn are the tables of a family.
func partsIn(f *dialect.Family) []Section {
	out := make([]Section, 0, len(partsOf))
	for _, d := range partsOf {
		v, field := d.at(f)
		p := Section{Key: d.key, Title: d.title, About: d.about, Single: v.Kind() == reflect.Struct, Within: d.within,
			Columns: []SectionColumn{}, Rows: [][]string{}}
		if field < 0 {
			l := listOf(v)
			p.Columns = columnsOf(d.key, l.Type().Elem())
			at, _ := fieldsOf(l.Type().Elem())
			for i := range l.Len() {
				p.Rows = append(p.Rows, cellsOf(l.Index(i), at))
			}
			out = append(out, p)
			continue
		}
		inner := listOf(reflect.New(v.Type().Elem().Field(field).Type).Elem()).Type().Elem()
		p.Columns = append([]SectionColumn{{Key: "of", Label: label(d.key, "of"), Choices: []string{}}}, columnsOf(d.key, inner)...)
		at, _ := fieldsOf(inner)
		for i := range v.Len() {
			l := listOf(v.Index(i).Field(field))
			for k := range l.Len() {
				p.Rows = append(p.Rows, append([]string{nameOf(v.Index(i))}, cellsOf(l.Index(k), at)...))
			}
		}
		out = append(out, p)
	}
	return out
}

func columnsOf(part string, row reflect.Type) []SectionColumn {
	at, keys := fieldsOf(row)
	out := []SectionColumn{}
	for n, key := range keys {
		c := SectionColumn{Key: key, Label: label(part, key), Choices: dialect.Closed[part+"."+key],
			Yes: row.Field(at[n]).Type.Kind() == reflect.Bool}
		if c.Choices == nil {
			c.Choices = []string{}
		}
		out = append(out, c)
	}
	return out
}

// nameOf is what a row is known by: its first cell.
func nameOf(row reflect.Value) string {
	at, _ := fieldsOf(row.Type())
	return strings.TrimSpace(cellsOf(row, at[:1])[0])
}

// taking is a family being put together out of tables.
type taking struct {
	f        *dialect.Family
	problems []RowFault
	stood    map[string][]int // which row of its table each row of the family was, by part; of one within another by part[row of the other]
}

// takeParts puts tables into a family. A row that stood in the family it goes out from keeps what no cell can hold: it is known by its
// first cell. Empty rows fall away.
func takeParts(f *dialect.Family, parts []Section) (problems []RowFault, stood map[string][]int) {
	t := &taking{f: f, stood: map[string][]int{}}
	for _, p := range parts {
		if !slices.ContainsFunc(partsOf, func(d partOf) bool { return d.key == p.Key }) {
			t.problems = append(t.problems, RowFault{Part: p.Key, Field: "key", Got: p.Key, Want: "a part of the file"})
		}
	}
	for _, d := range partsOf { // in their own order: what lies within another comes behind it
		i := slices.IndexFunc(parts, func(p Section) bool { return p.Key == d.key })
		if i < 0 {
			continue
		}
		if v, field := d.at(f); field < 0 {
			putList(v, t.rows(d, d.key, listOf(v), parts[i].Rows, nil, 0))
		} else {
			t.within(d, v, field, parts[i].Rows)
		}
	}
	return t.problems, t.stood
}

// rows makes a list out of rows of cells; numbers are the rows' own in their table where only some of it come, and the first skip cells
// are somebody else's.
func (t *taking) rows(d partOf, as string, old reflect.Value, rows [][]string, numbers []int, skip int) reflect.Value {
	row := old.Type().Elem()
	at, keys := fieldsOf(row)
	single := reflect.ValueOf(d.in(t.f)).Elem().Kind() == reflect.Struct
	was := map[string]reflect.Value{}
	for k := range old.Len() {
		was[cmp.Or(nameOf(old.Index(k)), fmt.Sprint("row ", k))] = old.Index(k)
	}
	list := reflect.New(reflect.SliceOf(row)).Elem()
	for n, cells := range rows {
		number := n + 1
		if numbers != nil {
			number = numbers[n]
		}
		cells = cells[min(skip, len(cells)):]
		if strings.TrimSpace(strings.Join(cells, "")) == "" && !single {
			continue
		}
		r := reflect.New(row).Elem()
		switch {
		case single && old.Len() > 0:
			r.Set(old.Index(0))
		case len(cells) > 0 && was[strings.TrimSpace(cells[0])].IsValid():
			r.Set(was[strings.TrimSpace(cells[0])])
		}
		for c, key := range keys {
			if c >= len(cells) {
				break
			}
			if want := put(r.Field(at[c]), ofClosed(d.key+"."+key, strings.TrimSpace(cells[c]))); want != "" {
				t.problems = append(t.problems, RowFault{Part: d.key, Row: number, Field: key, Got: cells[c], Want: want})
			}
		}
		if row == reflect.TypeFor[pair]() {
			what := r.Field(0).String()
			if t.stood[as+"/"+what] != nil {
				t.problems = append(t.problems, RowFault{Part: d.key, Row: number, Field: keys[0], Got: what, Want: "each once"})
			}
			t.stood[as+"/"+what] = []int{number}
		}
		list, t.stood[as] = reflect.Append(list, r), append(t.stood[as], number)
	}
	return list
}

// within puts rows of one table to the rows of another that they name.
func (t *taking) within(d partOf, outer reflect.Value, field int, rows [][]string) {
	own := reflect.MakeSlice(outer.Type(), outer.Len(), outer.Len()) // the family it goes out from keeps its own
	reflect.Copy(own, outer)
	of, numbers := map[string][][]string{}, map[string][]int{}
	for n, cells := range rows {
		if strings.TrimSpace(strings.Join(cells, "")) != "" {
			name := strings.TrimSpace(cells[0])
			of[name], numbers[name] = append(of[name], cells), append(numbers[name], n+1)
		}
	}
	for i := range own.Len() {
		name, place := nameOf(own.Index(i)), own.Index(i).Field(field)
		list := t.rows(d, fmt.Sprintf("%s[%d]", d.key, i), listOf(place), of[name], numbers[name], 1)
		if list.Len() > 0 || place.Len() > 0 {
			putList(place, list)
		}
		delete(of, name)
	}
	for name := range of {
		for _, n := range numbers[name] {
			t.problems = append(t.problems, RowFault{Part: d.key, Row: n, Field: "of", Got: name, Want: "the " + label(d.key, "of") +
				" as it stands in its own table"})
		}
	}
	slices.SortStableFunc(t.problems, func(a, b RowFault) int { return cmp.Or(strings.Compare(a.Part, b.Part), a.Row-b.Row) })
	outer.Set(own)
}

// partPlace finds the part, row and field of a fault's path, "faults[2].clears", "switches[0].positions[1].is", by where its rows stood.
func partPlace(path string, stood map[string][]int) (part string, row int, field string, ok bool) {
	for _, d := range partsOf {
		rest, is := strings.CutPrefix(path, d.key)
		as, found := d.key, ""
		if d.within != "" {
			m := inRow.FindStringSubmatch(strings.TrimPrefix(path, d.within))
			if is = m != nil && strings.HasPrefix(path, d.within) && d.within+"."+m[2] == d.key; is {
				as, rest, found = fmt.Sprintf("%s[%s]", d.key, m[1]), m[3], "of"
			}
		}
		m := inPart.FindStringSubmatch(rest)
		if !is || len(d.key) <= len(part) || m == nil {
			continue
		}
		n, _ := strconv.Atoi(m[1])
		part, row, field, ok = d.key, n+1, cmp.Or(m[2], found), true
		if l := stood[as+"/"+m[2]]; l != nil { // of a map
			row, field = l[0], "is"
		} else if l = stood[as]; n < len(l) {
			row = l[n]
		}
	}
	return part, row, field, ok
}
