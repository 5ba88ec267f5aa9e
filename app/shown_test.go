package app_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/formats/familyfile"
	"tingate/store"
	"tingate/testtools/raced"
)

// inward are the names by which the program knows things, which nobody else needs to see: keys of checks, snake_case, dotted paths, ids.
var inward = regexp.MustCompile(
	`\b(match|dead|power|control|wake|plate|stop|turn|tune|span|signal|keep)/[a-z-]+|\b[a-z]+_[a-z_]+\b|\b(intent|motor|rating|site|wiring|turn|stop|signal|power|supplies|people|circuits|link|ran)\.[a-z_]+|[0-9a-f]{8}-[0-9a-f]{4}-7`,
)

// said are the fields of an answer that a person reads.
var said = map[string]bool{"title": true, "detail": true, "next": true, "next_detail": true, "worst_title": true, "text": true,
	"label": true, "why": true, "message": true, "action": true, "reason": true, "about": true,
	"source": true, "what": true, "undo": true, "missing": true, "says": true, "notes": true, "assumed": true, "problem": true,
	"ended": true, "band": true, "name": true}

// codes are the settings' codes of the families, which read like paths in one of them: its keypad shows them so. The longest first.
var codes = func() (l []string) {
	for _, n := range familyfile.Names() {
		for _, s := range familyfile.Find(n).Settings {
			if strings.ContainsAny(s.Code, "._") {
				l = append(l, s.Code)
			}
		}
	}
	slices.SortFunc(l, func(a, b string) int { return len(b) - len(a) })
	return l
}()

func readable(t *testing.T, where string, v any) {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	var tree any
	if err := json.Unmarshal(raw, &tree); err != nil {
		t.Fatal(err)
	}
	var walk func(key string, v any)
	walk = func(key string, v any) {
		switch v := v.(type) {
		case map[string]any:
			for k, x := range v {
				if k == "basis" || k == "shown" || k == "drive" && key == "" { // what is stored, not what is said
					continue
				}
				walk(k, x)
			}
		case []any:
			for _, x := range v {
				walk(key, x)
			}
		case string:
			for _, code := range codes { // what a keypad itself shows
				v = strings.ReplaceAll(v, code, "CODE")
			}
			if m := inward.FindString(v); m != "" && said[key] {
				t.Errorf("%s: %s shows %q: %.160s", where, key, m, v)
			}
		}
	}
	walk("", tree)
}

// whole finds lists that are absent where an answer promises one, perhaps an empty one: a screen that counts them would fail.
func whole(t *testing.T, where string, v reflect.Value) {
	t.Helper()
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if !v.IsNil() {
			whole(t, where, v.Elem())
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			whole(t, where+"[]", v.Index(i))
		}
	case reflect.Map:
		for _, k := range v.MapKeys() {
			whole(t, where+"."+k.String(), v.MapIndex(k))
		}
	case reflect.Struct:
		for i := range v.NumField() {
			f := v.Type().Field(i)
			tag := f.Tag.Get("json")
			if !f.IsExported() && !f.Anonymous || tag == "-" {
				continue
			}
			if f.Type.Kind() == reflect.Slice && v.Field(i).IsNil() && !strings.Contains(tag, "omit") &&
				f.Type.Elem().Kind() != reflect.Uint8 {
				t.Errorf("%s.%s is absent, not empty", where, f.Name)
			}
			whole(t, where+"."+f.Name, v.Field(i))
		}
	}
}

// Nothing that the program knows things by is ever shown: in no history, no finding, no check, no line of the Yard, whatever edition the
// record is of.
func TestNothingInwardIsShown(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	files, _ := filepath.Glob("testdata/bundle-schema-*.zip")
	files = append(files, "../demo/skerrow-kelp-works.tingate.zip")
	for _, file := range files {
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		d := open(t, t.TempDir())
		res, err := d.Import(ctx, raw)
		d.ok(err)
		page, err := d.Yard(ctx, store.YardQuery{Place: res.Place, Limit: 100})
		d.ok(err)
		readable(t, file+" Yard", page)
		places, err := d.Places(ctx)
		d.ok(err)
		for _, r := range page.Rows {
			where := filepath.Base(file) + " " + r.Tag
			for who := range places[0].Place.People {
				v, err := d.Drive(ctx, base.Actor{Person: who}, r.ID)
				d.ok(err)
				readable(t, where, v)
				whole(t, where+" state", reflect.ValueOf(v.State))
			}
			h, err := d.History(ctx, r.ID)
			d.ok(err)
			readable(t, where+" history", h)
			s, err := d.Settings(ctx, r.ID)
			d.ok(err)
			readable(t, where+" settings", s)
			w, err := d.Wiring(ctx, r.ID)
			d.ok(err)
			readable(t, where+" wires", w)
			whole(t, where+" wires", reflect.ValueOf(w))
		}
	}
}
