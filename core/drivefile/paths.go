package drivefile

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"sort"
	"strings"

	"tingate/core/quantity"
)

// Kinds of document.
const (
	KindPlace = "place"
	KindDrive = "drive"
)

// Field describes one leaf of a document.
type Field struct {
	Path     string
	Kind     quantity.Kind // when Quantity
	Quantity bool
	Bool     bool
	Choices  []string // a closed list, when not empty
}

// FieldError says which field was wrong, what was read and what was expected.
type FieldError struct{ Field, Got, Want string }

func (e *FieldError) Error() string {
	return fmt.Sprintf("%s: got %s, want %s", e.Field, e.Got, e.Want)
}

// Lookup finds the leaf a path names in a kind of document, or returns a *FieldError.
func Lookup(kind, path string) (Field, error) {
	t := reflect.TypeOf(Drive{})
	if kind == KindPlace {
		t = reflect.TypeOf(Place{})
	}
	parts := strings.Split(path, ".")
	unknown := &FieldError{path, path, "a field of a " + kind}
	for i := 0; i < len(parts); i++ {
		if t.Kind() == reflect.Map {
			if parts[i] == "" || len(parts[i]) > 64 {
				return Field{}, unknown
			}
			t = t.Elem()
			if t.Kind() == reflect.Bool && i == len(parts)-1 {
				return Field{Path: path, Bool: true}, nil
			}
			continue
		}
		if t.Kind() != reflect.Struct || t == reflect.TypeOf(Q{}) {
			return Field{}, unknown
		}
		sf, ok := byName(t, parts[i])
		if !ok || sf.Name == "Schema" {
			return Field{}, unknown
		}
		t = sf.Type
		if i < len(parts)-1 {
			continue
		}
		switch {
		case t == reflect.TypeOf(Q{}):
			return Field{Path: path, Quantity: true, Kind: quantity.Kinds[sf.Tag.Get("kind")]}, nil
		case t.Kind() == reflect.Bool:
			return Field{Path: path, Bool: true}, nil
		case t.Kind() == reflect.String:
			f := Field{Path: path}
			if c := sf.Tag.Get("choices"); c != "" {
				f.Choices = strings.Split(c, ",")
			}
			return f, nil
		}
	}
	return Field{}, unknown
}

// names are the fields of the documents' structs by their JSON name: every path is looked up here, many times a screen.
var names = map[reflect.Type]map[string]reflect.StructField{}

// inOrder are their JSON names, sorted.
var inOrder = map[reflect.Type][]string{}

func init() {
	collectNames(reflect.TypeOf(Drive{}))
	collectNames(reflect.TypeOf(Place{}))
}

func collectNames(t reflect.Type) {
	if t.Kind() == reflect.Map {
		t = t.Elem()
	}
	if t.Kind() != reflect.Struct || names[t] != nil {
		return
	}
	names[t] = map[string]reflect.StructField{}
	for i := range t.NumField() {
		f := t.Field(i)
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		names[t][name] = f
		collectNames(f.Type)
	}
	inOrder[t] = slices.Sorted(maps.Keys(names[t]))
}

func byName(t reflect.Type, name string) (reflect.StructField, bool) {
	f, ok := names[t][name]
	return f, ok
}

// Entry turns what a person typed into a field's stored value: null clears it. A text that cannot be read as the
// field's quantity is kept without a value, and problem says why; err is for what the field cannot hold at all.
func (f Field) Entry(typed string) (value json.RawMessage, problem error, err error) {
	if len(typed) > 4000 {
		return nil, nil, &FieldError{f.Path, fmt.Sprintf("%d characters", len(typed)), "at most 4000"}
	}
	if strings.TrimSpace(typed) == "" {
		return json.RawMessage("null"), nil, nil
	}
	switch {
	case f.Quantity:
		q, problem := f.Kind.Parse(typed)
		b, err := json.Marshal(q)
		return b, problem, err
	case f.Bool:
		switch typed {
		case "true":
			return json.RawMessage("true"), nil, nil
		case "false":
			return json.RawMessage("null"), nil, nil
		}
		return nil, nil, &FieldError{f.Path, typed, "true or false"}
	case f.Choices != nil:
		for _, c := range f.Choices {
			if c == typed {
				b, err := json.Marshal(typed)
				return b, nil, err
			}
		}
		return nil, nil, &FieldError{f.Path, typed, "one of " + strings.Join(f.Choices, ", ")}
	}
	b, err := json.Marshal(typed)
	return b, nil, err
}

// Op sets one path. null in Old or New means absent.
type Op struct {
	Path string          `json:"path"`
	Old  json.RawMessage `json:"old"`
	New  json.RawMessage `json:"new"`
}

// Body is a document as a tree, the form in which changes work on it.
type Body map[string]any

// ParseBody reads a stored body.
func ParseBody(raw []byte) (Body, error) {
	var b Body
	if err := json.Unmarshal(raw, &b); err != nil {
		return nil, err
	}
	return b, nil
}

// JSON writes the body canonically: keys sorted, shortest floats.
func (b Body) JSON() []byte {
	out, _ := json.Marshal(b)
	return out
}

// Get is the value at a path as JSON; null when absent.
func (b Body) Get(path string) json.RawMessage {
	var v any = map[string]any(b)
	for _, p := range strings.Split(path, ".") {
		m, ok := v.(map[string]any)
		if !ok {
			return json.RawMessage("null")
		}
		v = m[p]
	}
	out, _ := json.Marshal(v)
	return out
}

// Apply sets the paths of ops. Empty parents vanish, so that a body is the same whichever way it came about.
func (b Body) Apply(ops []Op) error {
	for _, op := range ops {
		var v any
		if err := json.Unmarshal(orNull(op.New), &v); err != nil {
			return &FieldError{op.Path, string(op.New), "JSON"}
		}
		b.set(strings.Split(op.Path, "."), v)
	}
	return nil
}

func orNull(r json.RawMessage) json.RawMessage {
	if len(r) == 0 {
		return json.RawMessage("null")
	}
	return r
}

func (b Body) set(parts []string, v any) {
	m := map[string]any(b)
	var above []map[string]any
	for _, p := range parts[:len(parts)-1] {
		next, ok := m[p].(map[string]any)
		if !ok {
			if v == nil {
				return
			}
			next = map[string]any{}
			m[p] = next
		}
		above = append(above, m)
		m = next
	}
	last := parts[len(parts)-1]
	if v != nil {
		m[last] = v
		return
	}
	delete(m, last)
	for i := len(above) - 1; i >= 0 && len(m) == 0; i-- {
		delete(above[i], parts[i])
		m = above[i]
	}
}

// Invert turns ops into those that undo them, last first.
func Invert(ops []Op) []Op {
	out := make([]Op, 0, len(ops))
	for i := len(ops) - 1; i >= 0; i-- {
		out = append(out, Op{ops[i].Path, orNull(ops[i].New), orNull(ops[i].Old)})
	}
	return out
}

// Same tells whether two JSON values are equal.
func Same(a, b json.RawMessage) bool {
	var x, y any
	return json.Unmarshal(orNull(a), &x) == nil && json.Unmarshal(orNull(b), &y) == nil && reflect.DeepEqual(x, y)
}

// Leaves lists every leaf of a body as ops that would make it from nothing, in path order.
func (b Body) Leaves() []Op {
	var ops []Op
	var walk func(prefix string, m map[string]any)
	walk = func(prefix string, m map[string]any) {
		keys := make([]string, 0, len(m))
		for k := range m {
			keys = append(keys, k)
		}
		sort.Strings(keys)
		for _, k := range keys {
			if sub, ok := m[k].(map[string]any); ok {
				if _, leaf := sub["text"]; !leaf {
					walk(prefix+k+".", sub)
					continue
				}
			}
			v, _ := json.Marshal(m[k])
			ops = append(ops, Op{prefix + k, json.RawMessage("null"), v})
		}
	}
	walk("", b)
	return ops
}

// Typed is a quantity as it stands in a document.
type Typed struct {
	Path string
	Kind quantity.Kind
	Q
}

// Quantities are all that are entered in a drive, in path order.
func (d Drive) Quantities() (all []Typed) {
	var walk func(prefix string, kind string, v reflect.Value)
	walk = func(path, kind string, v reflect.Value) {
		switch {
		case v.IsZero():
		case v.Type() == reflect.TypeFor[Q]():
			all = append(all, Typed{path, quantity.Kinds[kind], v.Interface().(Q)})
		case v.Kind() == reflect.Map && v.Type().Elem().Kind() == reflect.Struct:
			keys := v.MapKeys()
			slices.SortFunc(keys, func(a, b reflect.Value) int { return strings.Compare(a.String(), b.String()) })
			for _, k := range keys {
				walk(path+"."+k.String(), "", v.MapIndex(k))
			}
		case v.Kind() == reflect.Struct:
			for _, name := range inOrder[v.Type()] {
				f := names[v.Type()][name]
				walk(strings.TrimPrefix(path+"."+name, "."), f.Tag.Get("kind"), v.FieldByIndex(f.Index))
			}
		}
	}
	walk("", "", reflect.ValueOf(d))
	return all
}

// FromStruct makes a body of a typed document.
func FromStruct(doc any) Body {
	raw, _ := json.Marshal(doc)
	b, _ := ParseBody(raw)
	return b
}

// DecodeDrive reads a body of any known schema as a drive.
func DecodeDrive(raw []byte) (d Drive, err error) {
	raw, err = Upgrade(KindDrive, raw)
	if err == nil {
		err = json.Unmarshal(raw, &d)
	}
	return d, err
}

// DecodePlace reads a body of any known schema as a place.
func DecodePlace(raw []byte) (p Place, err error) {
	raw, err = Upgrade(KindPlace, raw)
	if err == nil {
		err = json.Unmarshal(raw, &p)
	}
	return p, err
}
