// Package calc offers every computation of the core by name, JSON in and JSON out. The contract is docs/calc.md.
package calc

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"reflect"
	"slices"
	"sort"
	"strings"
)

// Error is an unusable item: the field's name, what was read and what was expected.
type Error struct {
	Field string `json:"field"`
	Got   string `json:"got"`
	Want  string `json:"want"`
}

func (e *Error) Error() string { return fmt.Sprintf("%s: got %s, want %s", e.Field, e.Got, e.Want) }

type computation struct {
	about string
	in    func() any
	out   any
	run   func(ctx context.Context, in any) (any, error)
}

var computations = map[string]computation{}

// register makes a computation of a typed function.
func register[I, O any](name, about string, f func(*I) (*O, error)) {
	registerLong(name, about, func(_ context.Context, in *I) (*O, error) { return f(in) })
}

// registerLong is register for one that can run long: it ends when ctx does.
func registerLong[I, O any](name, about string, f func(context.Context, *I) (*O, error)) {
	computations[name] = computation{about, func() any { return new(I) }, *new(O),
		func(ctx context.Context, in any) (any, error) { return f(ctx, in.(*I)) }}
}

// stopped is what an item is answered with that was not reached, or not ended, in time.
func stopped(ctx context.Context) error {
	if errors.Is(ctx.Err(), context.DeadlineExceeded) {
		return &Error{"", "more than could be worked out in the time that a request has",
			"fewer or shorter items, or tingate calc on the command line, which takes its time"}
	}
	return &Error{"", "a computation that was stopped", "it again"}
}

// Names lists the computations in alphabetical order.
func Names() []string {
	var l []string
	for n := range computations {
		l = append(l, n)
	}
	sort.Strings(l)
	return l
}

// About says in a line what a computation answers; empty for an unknown name.
func About(name string) string { return computations[name].about }

// ErrUnreadable is JSON that cannot be read at all.
type ErrUnreadable struct{ Err error }

func (e *ErrUnreadable) Error() string { return "unreadable JSON: " + e.Err.Error() }

// Run reads one object, an array or JSON Lines from r, and writes the results in the same order and shape. Items that ctx does not leave
// time for are answered so. bad counts the items that were answered with an error. The error is *ErrUnreadable, unknown name, or of the
// writer.
func Run(ctx context.Context, name string, r io.Reader, w io.Writer) (bad int, err error) {
	c, ok := computations[name]
	if !ok {
		return 0, fmt.Errorf("no computation is called %q; there are: %s", name, strings.Join(Names(), ", "))
	}
	data, err := io.ReadAll(r)
	if err != nil {
		return 0, err
	}
	data = bytes.TrimSpace(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")))
	if len(data) == 0 {
		return 0, &ErrUnreadable{io.ErrUnexpectedEOF}
	}
	if data[0] == '[' {
		var items []json.RawMessage
		if err := json.Unmarshal(data, &items); err != nil {
			return 0, &ErrUnreadable{err}
		}
		out := make([]json.RawMessage, 0, len(items))
		for _, it := range items {
			res, failed := c.one(ctx, it)
			if failed {
				bad++
			}
			out = append(out, res)
		}
		return bad, json.NewEncoder(w).Encode(out)
	}
	var items []json.RawMessage
	dec := json.NewDecoder(bytes.NewReader(data))
	for {
		var it json.RawMessage
		if err := dec.Decode(&it); err == io.EOF {
			break
		} else if err != nil {
			return bad, &ErrUnreadable{err}
		}
		items = append(items, it)
	}
	for _, it := range items {
		res, failed := c.one(ctx, it)
		if failed {
			bad++
		}
		if _, err := w.Write(append(res, '\n')); err != nil {
			return bad, err
		}
	}
	return bad, nil
}

func (c computation) one(ctx context.Context, raw json.RawMessage) (json.RawMessage, bool) {
	in := c.in()
	res, err := any(nil), error(nil)
	if e := decode(raw, reflect.ValueOf(in).Elem(), ""); e != nil {
		err = e
	} else if ctx.Err() != nil {
		err = stopped(ctx)
	} else {
		res, err = c.run(ctx, in)
	}
	if err != nil {
		var e *Error
		if !errors.As(err, &e) {
			e = &Error{Field: "", Got: "", Want: err.Error()}
		}
		b, _ := json.Marshal(map[string]*Error{"error": e})
		return b, true
	}
	b, err := json.Marshal(res)
	if err != nil {
		b, _ = json.Marshal(map[string]*Error{"error": {Want: "figures that can be worked out", Got: err.Error()}})
		return b, true
	}
	return b, false
}

// decode fills a struct from an object and names the field of whatever cannot be read. Unknown fields are errors;
// null is the same as missing.
func decode(raw json.RawMessage, v reflect.Value, prefix string) *Error {
	var m map[string]json.RawMessage
	if err := json.Unmarshal(raw, &m); err != nil || m == nil {
		return &Error{strings.TrimSuffix(prefix, "."), clip(raw), "an object"}
	}
	fields := map[string]reflect.StructField{}
	for _, f := range members(v.Type()) {
		fields[jsonName(f)] = f
	}
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		f, ok := fields[k]
		if !ok {
			return &Error{prefix + k, clip(m[k]), "no such field; known are " + strings.Join(fieldNames(v.Type()), ", ")}
		}
		if string(m[k]) == "null" {
			continue
		}
		if e := decodeField(m[k], v.FieldByIndex(f.Index), f, prefix+k); e != nil {
			return e
		}
	}
	return nil
}

func decodeField(raw json.RawMessage, f reflect.Value, sf reflect.StructField, path string) *Error {
	t := f.Type()
	if t.Kind() == reflect.Slice && t.Elem().Kind() == reflect.Struct {
		var items []json.RawMessage
		if err := json.Unmarshal(raw, &items); err != nil {
			return &Error{path, clip(raw), "a list"}
		}
		f.Set(reflect.MakeSlice(t, len(items), len(items)))
		for i, it := range items {
			if e := decode(it, f.Index(i), fmt.Sprintf("%s[%d].", path, i)); e != nil {
				return e
			}
		}
		return nil
	}
	if t.Kind() == reflect.Struct {
		return decode(raw, f, path+".")
	}
	if t.Kind() == reflect.Pointer && t.Elem().Kind() == reflect.Int {
		var v float64 // 4.0 is a whole number too
		if json.Unmarshal(raw, &v) == nil && v == math.Trunc(v) && math.Abs(v) < 1e9 {
			raw = []byte(fmt.Sprintf("%d", int(v)))
		}
	}
	if err := json.Unmarshal(raw, f.Addr().Interface()); err != nil {
		return &Error{path, clip(raw), want(t, sf)}
	}
	if allowed := sf.Tag.Get("enum"); allowed != "" {
		got := fmt.Sprint(reflect.Indirect(f).Interface())
		for _, a := range strings.Split(allowed, ",") {
			if a == got {
				return nil
			}
		}
		return &Error{path, clip(raw), "one of " + strings.ReplaceAll(allowed, ",", ", ")}
	}
	return nil
}

func want(t reflect.Type, sf reflect.StructField) string {
	if t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	w := map[reflect.Kind]string{reflect.Float64: "a number", reflect.Int: "a whole number", reflect.String: "a text",
		reflect.Bool: "true or false", reflect.Slice: "a list"}[t.Kind()]
	if d := sf.Tag.Get("doc"); d != "" {
		w += " (" + d + ")"
	}
	return w
}

func fieldNames(t reflect.Type) []string {
	var l []string
	for _, f := range members(t) {
		l = append(l, jsonName(f))
	}
	return l
}

// members are a type's fields, those of embedded types among them.
func members(t reflect.Type) []reflect.StructField {
	return slices.DeleteFunc(reflect.VisibleFields(t), func(f reflect.StructField) bool { return f.Anonymous })
}

func jsonName(f reflect.StructField) string {
	n, _, _ := strings.Cut(f.Tag.Get("json"), ",")
	return n
}

func clip(raw []byte) string {
	if len(raw) > 80 {
		return string(raw[:77]) + "..."
	}
	return string(raw)
}

// number makes a result field: nil (null) for NaN and infinities.
func number(v float64) *float64 {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return nil
	}
	return &v
}

// value is a pointer's number, or NaN when missing.
func value(p *float64) float64 {
	if p == nil {
		return math.NaN()
	}
	return *p
}

func orElse(p *float64, d float64) float64 {
	if p == nil {
		return d
	}
	return *p
}

func needed(field string, p *float64) *Error {
	if p == nil {
		return &Error{field, "nothing", "a number"}
	}
	return nil
}

func positive(field string, p *float64) *Error {
	if e := needed(field, p); e != nil {
		return e
	}
	if !(*p > 0) {
		return &Error{field, fmt.Sprint(*p), "a number above 0"}
	}
	return nil
}

func first(list ...*Error) error {
	for _, e := range list {
		if e != nil {
			return e
		}
	}
	return nil
}
