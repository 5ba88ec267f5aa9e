package drivefile_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
)

func TestABodyFollowsFromItsLeavesAndInverts(t *testing.T) {
	body := drivefile.FromStruct(sample.Dryer())
	again := drivefile.Body{}
	if err := again.Apply(body.Leaves()); err != nil || !bytes.Equal(again.JSON(), body.JSON()) {
		t.Fatalf("leaves make the body again: %v\n%s\n%s", err, again.JSON(), body.JSON())
	}
	if err := again.Apply(drivefile.Invert(body.Leaves())); err != nil || len(again) != 0 {
		t.Errorf("inverted, nothing is left: %s", again.JSON())
	}
}

// Random edits, each undone in the reverse order, end where they began.
func TestRandomEditsUndo(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	start := drivefile.FromStruct(sample.Dryer())
	body, _ := drivefile.ParseBody(start.JSON())
	paths := []string{"tag", "notes", "motor.rows." + sample.Star + ".current", "motor.rows.n1.voltage", "motor.rows.n1.speed",
		"motor.rows.n2.power", "intent.rise", "supplies.p2", "archived", "motor.serial"}
	var done [][]drivefile.Op
	for i := range 400 {
		p := paths[rng.IntN(len(paths))]
		f, err := drivefile.Lookup(drivefile.KindDrive, p)
		if err != nil {
			t.Fatal(err)
		}
		text := fmt.Sprint(1 + i%60)
		switch {
		case rng.IntN(3) == 0:
			text = ""
		case f.Bool:
			text = "true"
		}
		v, _, err := f.Entry(text)
		if err != nil {
			t.Fatal(p, err)
		}
		ops := []drivefile.Op{{Path: p, Old: body.Get(p), New: v}}
		if err := body.Apply(ops); err != nil {
			t.Fatal(err)
		}
		done = append(done, ops)
		if _, err := drivefile.DecodeDrive(body.JSON()); err != nil {
			t.Fatalf("after %s: %v", p, err)
		}
	}
	for i := len(done) - 1; i >= 0; i-- {
		if err := body.Apply(drivefile.Invert(done[i])); err != nil {
			t.Fatal(err)
		}
	}
	if !bytes.Equal(body.JSON(), start.JSON()) {
		t.Errorf("undone:\n%s\nbegan:\n%s", body.JSON(), start.JSON())
	}
}

func TestUnknownPathsAndValuesAreNamed(t *testing.T) {
	for _, p := range []string{"", "colour", "motor", "motor.rows", "motor.rows.x", "motor.rows.x.colour", "schema", "intent.rise.text",
		"motor..rows", "supplies.", "tag.x"} {
		var fe *drivefile.FieldError
		if _, err := drivefile.Lookup(drivefile.KindDrive, p); !errors.As(err, &fe) {
			t.Errorf("%q was taken: %v", p, err)
		}
	}
	f, _ := drivefile.Lookup(drivefile.KindDrive, "intent.control")
	if _, _, err := f.Entry("magic"); err == nil || !strings.Contains(err.Error(), "vector") {
		t.Errorf("a choice lists what there is: %v", err)
	}
	f, _ = drivefile.Lookup(drivefile.KindDrive, "notes")
	if _, _, err := f.Entry(strings.Repeat("x", 5000)); err == nil {
		t.Error("a text over the limit")
	}
	f, _ = drivefile.Lookup(drivefile.KindDrive, "intent.jog")
	if v, problem, err := f.Entry("fast"); err != nil || problem == nil || !strings.Contains(string(v), `"fast"`) {
		t.Errorf("what cannot be read is kept: %s %v %v", v, problem, err)
	}
}

func TestNewerSchemasAreRefusedWithBothNumbers(t *testing.T) {
	var newer *drivefile.NewerSchemaError
	if _, err := drivefile.DecodeDrive(fmt.Appendf(nil, `{"schema":%d}`, drivefile.Schema+1)); !errors.As(err, &newer) ||
		newer.Got != drivefile.Schema+1 || newer.Known != drivefile.Schema {
		t.Errorf("a newer schema: %v", err)
	}
	if _, err := drivefile.DecodeDrive([]byte(`{"schema":0}`)); err == nil {
		t.Error("schema 0")
	}
}

// A changed schema without a new number fails here: the published schemas are kept, one for each number. A new number
// adds files to testdata and keeps the old ones for ever.
func TestSchemaIsAsPublished(t *testing.T) {
	for _, kind := range []string{drivefile.KindDrive, drivefile.KindPlace} {
		path := filepath.Join("testdata", fmt.Sprintf("%s.schema-%d.json", kind, drivefile.Schema))
		want, err := os.ReadFile(path)
		if err != nil {
			t.Fatalf("%v; it is made once, when the number is new", err)
		}
		if !bytes.Equal(want, drivefile.JSONSchema(kind)) {
			t.Errorf("the schema of %s differs from %s: raise drivefile.Schema, write the step, add new testdata", kind, path)
		}
	}
	raw, err := os.ReadFile("testdata/drive-1.json")
	if err != nil {
		t.Fatal(err)
	}
	d, err := drivefile.DecodeDrive(raw)
	if err != nil || d.Tag != "DD-02" || d.Motor.Rows[sample.Star].Current.Text != "15.5" {
		t.Errorf("a drive of schema 1 opens for ever: %+v %v", d, err)
	}
}

func FuzzEntry(f *testing.F) {
	f.Add("motor.rows.x.power", "7,5 kW")
	f.Fuzz(func(t *testing.T, path, text string) {
		fl, err := drivefile.Lookup(drivefile.KindDrive, path)
		if err != nil {
			return
		}
		v, _, err := fl.Entry(text)
		if err == nil && !json.Valid(v) {
			t.Fatalf("%s %q: %s", path, text, v)
		}
	})
}

// A drive that was wired by running numbers keeps them: they stand on its ferrules.
func TestNumbersOfWiresStay(t *testing.T) {
	for body, want := range map[string]string{`{"schema":3,"wiring":{"command":"two-wire"}}`: "running", `{"schema":3}`: "",
		`{"schema":4,"wiring":{"command":"two-wire"}}`: ""} {
		d, err := drivefile.DecodeDrive([]byte(body))
		if err != nil || d.Wiring.Numbers != want {
			t.Errorf("%s: numbered %q, want %q; %v", body, d.Wiring.Numbers, want, err)
		}
	}
}

// Places of before are real; the demo plant's is simulated, since nothing in it was ever measured.
func TestPlacesOfBeforeAreReal(t *testing.T) {
	for body, want := range map[string]string{`{"schema":6,"name":"Mill","zone":"UTC"}`: drivefile.Real,
		`{"schema":1,"name":"Skerrow Kelp Works","zone":"UTC"}`:      drivefile.Simulated,
		`{"schema":7,"name":"Mill","kind":"simulated","zone":"UTC"}`: drivefile.Simulated} {
		p, err := drivefile.DecodePlace([]byte(body))
		if err != nil || p.Kind != want {
			t.Errorf("%s: %q, want %q; %v", body, p.Kind, want, err)
		}
	}
}

// Quantities finds what a walk over the written document finds: every quantity that a drive can have, in the same order, and nothing else.
func TestQuantitiesAreThoseOfTheWrittenDocument(t *testing.T) {
	full := drivefile.Drive{}
	n := 0.
	var fill func(v reflect.Value)
	fill = func(v reflect.Value) {
		switch {
		case v.Type() == reflect.TypeFor[drivefile.Q]():
			n++
			v.Set(reflect.ValueOf(drivefile.Q{Text: fmt.Sprint(n), Value: new(n), Unit: "u"}))
		case v.Kind() == reflect.String:
			v.SetString("x")
		case v.Kind() == reflect.Bool:
			v.SetBool(true)
		case v.Kind() == reflect.Struct:
			for i := range v.NumField() {
				fill(v.Field(i))
			}
		case v.Kind() == reflect.Map:
			v.Set(reflect.MakeMap(v.Type()))
			for _, k := range []string{"b", "a", "c"} {
				e := reflect.New(v.Type().Elem()).Elem()
				fill(e)
				v.SetMapIndex(reflect.ValueOf(k), e)
			}
		}
	}
	fill(reflect.ValueOf(&full).Elem())
	value := func(q drivefile.Q) any {
		if q.Value == nil {
			return "none"
		}
		return *q.Value
	}
	half := sample.Dryer()
	half.Intent.Rise = drivefile.Q{Text: "15 ."} // not readable
	half.Motor.Rows["empty"] = drivefile.Row{}
	for _, d := range []drivefile.Drive{full, half, {}} {
		var want, got []string
		for _, op := range drivefile.FromStruct(d).Leaves() {
			f, err := drivefile.Lookup(drivefile.KindDrive, op.Path)
			if err != nil || !f.Quantity {
				continue
			}
			var q drivefile.Q
			if err := json.Unmarshal(op.New, &q); err != nil {
				t.Fatal(err)
			}
			want = append(want, fmt.Sprint(op.Path, f.Kind.Name, q.Text, q.Unit, value(q)))
		}
		for _, q := range d.Quantities() {
			got = append(got, fmt.Sprint(q.Path, q.Kind.Name, q.Text, q.Unit, value(q.Q)))
		}
		if !slices.Equal(got, want) {
			t.Errorf("%d quantities, %d written:\n%v\n%v", len(got), len(want), got, want)
		}
	}
	if n < 60 {
		t.Errorf("only %v quantities were filled in", n)
	}
}

// An entry gives what its kind holds, opened before or not, and nothing as another kind.
func TestAnEntryGivesWhatItsKindHolds(t *testing.T) {
	e := drivefile.Entry{Kind: drivefile.EntryEvidence, Body: []byte(`{"key":"a/b/c","value":"400","basis":{"row":"star"}}`)}
	for name, e := range map[string]drivefile.Entry{"as stored": e, "opened": e.Open()} {
		ev, ok := drivefile.Contents[drivefile.Evidence](e)
		if !ok || ev.Key != "a/b/c" || ev.Value != "400" || ev.Basis["row"] != "star" {
			t.Errorf("%s: %+v %v", name, ev, ok)
		}
		if d, ok := drivefile.Contents[drivefile.Decision](e); ok || d.Key != "" {
			t.Errorf("%s: evidence is given as a decision: %+v", name, d)
		}
	}
	for name, e := range map[string]drivefile.Entry{"no such kind": {Kind: "dream", Body: []byte(`{"key":"k"}`)},
		"no body": {Kind: drivefile.EntryEvidence}, "another body": {Kind: drivefile.EntryEvidence, Body: []byte(`{"key":7}`)}} {
		for _, e := range []drivefile.Entry{e, e.Open()} {
			if ev, ok := drivefile.Contents[drivefile.Evidence](e); ok || ev.Key != "" {
				t.Errorf("%s: %+v", name, ev)
			}
		}
	}
}
