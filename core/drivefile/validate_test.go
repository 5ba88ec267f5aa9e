package drivefile_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
)

const someone, thing = "01900000-0000-7000-8000-000000000001", "01900000-0000-7000-8000-000000000002"

func entry(kind, body string) drivefile.Entry {
	return drivefile.Entry{ID: thing, Kind: kind, By: someone, At: "2026-11-25T10:00:00.000Z", Body: json.RawMessage(body)}
}

// Every kind of entry: one body that the program writes, and some that it never would.
func TestEntriesAreHeldToTheirKind(t *testing.T) {
	good := map[string]string{
		drivefile.EntryReading:    `{"code":"4D","text":"12.5","steps":125,"how":"typed"}`,
		drivefile.EntryEntered:    `{"code":"4D","text":"12.5","steps":125}`,
		drivefile.EntryWrite:      `{"code":"4D","asked":125,"outcome":"begun"}`,
		drivefile.EntrySnapshot:   `{"name":"as-left","dialect":"Tarn","version":"3","hash":"x","how":"link","values":{"4D":[125,"12.5"]}}`,
		drivefile.EntryEvidence:   `{"key":"dead/measure/dc","value":"3 V","reading":3,"unit":"V","basis":{}}`,
		drivefile.EntryDecision:   `{"type":"passed","key":"match"}`,
		drivefile.EntryWithdrawal: `{"entry":"` + someone + `"}`, drivefile.EntryEnergy: `{"supply":"mcc","state":"live"}`,
		drivefile.EntryAttachment: `{"sha256":"` + strings.Repeat("0", 64) + `","name":"x","type":"image/png","size":1,"of":"other"}`,
		drivefile.EntryLock:       `{"supply":"mcc","act":"on","owner":"x"}`, drivefile.EntryTemporary: `{"what":"jumper","where":"X1"}`,
		drivefile.EntryCameIn: `{"what":"bundle","name":"","hash":"x"}`,
	}
	if len(good) != len(drivefile.EntryKinds()) {
		t.Errorf("%d of %d kinds", len(good), len(drivefile.EntryKinds()))
	}
	for kind, body := range good {
		if err := drivefile.ValidateEntry(entry(kind, body)); err != nil {
			t.Errorf("%s: %v", kind, err)
		}
		for what, bad := range map[string]string{"a key more": strings.Replace(body, "{", `{"more":1,`, 1), "a list": "[]", "nothing": "",
			"two": body + body, "text": `"x"`} {
			if drivefile.ValidateEntry(entry(kind, bad)) == nil {
				t.Errorf("%s: %s was taken", kind, what)
			}
		}
	}
	for kind, bad := range map[string]string{
		drivefile.EntryEnergy: `{"supply":"mcc","state":"probably-dead"}`, drivefile.EntryLock: `{"supply":"mcc","act":"cut","owner":"x"}`,
		drivefile.EntryDecision:   `{"type":"signed","key":"x"}`,
		drivefile.EntryWrite:      `{"code":"4D","asked":1,"outcome":"fine"}`,
		drivefile.EntrySnapshot:   `{"name":"as-wished","dialect":"","version":"","hash":"","how":"","values":{}}`,
		drivefile.EntryReading:    `{"code":"","text":"1","how":"typed"}`,
		drivefile.EntryWithdrawal: `{"entry":"x"}`, drivefile.EntryAttachment: `{"sha256":"zz","name":"","type":"","size":1,"of":""}`,
		drivefile.EntryEvidence: `{"key":"","value":"","basis":{}}`,
	} {
		if drivefile.ValidateEntry(entry(kind, bad)) == nil {
			t.Errorf("%s: %s was taken", kind, bad)
		}
	}
	for what, change := range map[string]func(e *drivefile.Entry){
		"no id":             func(e *drivefile.Entry) { e.ID = "" },
		"capitals in an id": func(e *drivefile.Entry) { e.ID = strings.ToUpper("0190000a-0000-7000-8000-000000000001") },
		"nobody":            func(e *drivefile.Entry) { e.By = " " },
		"a day for a time":  func(e *drivefile.Entry) { e.At = "2026-11-25" }, "no kind": func(e *drivefile.Entry) { e.Kind = "" },
		"a long name": func(e *drivefile.Entry) { e.Name = strings.Repeat("x", 300) },
	} {
		e := entry(drivefile.EntryReading, good[drivefile.EntryReading])
		change(&e)
		if drivefile.ValidateEntry(e) == nil {
			t.Errorf("%s: taken", what)
		}
	}
	a, b := entry(drivefile.EntryEnergy, `{"supply":"mcc","state":"live"}`),
		entry(drivefile.EntryEnergy, `{ "state":"live", "supply":"mcc" }`)
	if !a.Same(b) {
		t.Error("the order of keys is no difference")
	}
	if b.By = "x"; a.Same(b) {
		t.Error("another person is")
	}
}

// Documents of every schema that was ever kept are sound; the sample is.
func TestDocumentsAreHeldToTheirFields(t *testing.T) {
	if err := drivefile.ValidateDocument(drivefile.KindDrive, drivefile.FromStruct(sample.Dryer()).JSON()); err != nil {
		t.Error(err)
	}
	old, _ := filepath.Glob("testdata/drive-*.json")
	for _, f := range old {
		raw, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		if err := drivefile.ValidateDocument(drivefile.KindDrive, raw); err != nil {
			t.Errorf("%s: %v", f, err)
		}
	}
	for bad, want := range map[string]string{
		`{"schema":6,"place":"x","colour":"red"}`:                                          "unknown field",
		`{"schema":6,"place":"x","intent":{"control":"by-ear"}}`:                           "one of",
		`{"schema":6,"place":"x","supplies":{"a":"yes"}}`:                                  "cannot unmarshal",
		`{"schema":6,"place":"x","rating":{"current":{"text":"5","value":5,"unit":"kg"}}}`: "a unit of current",
		`{"schema":0}`: "1 or more",
		`[]`:           "",
		`{"schema":6,"place":"x","notes":"` + strings.Repeat("x", 4001) + `"}`: "4000",
	} {
		if err := drivefile.ValidateDocument(drivefile.KindDrive, []byte(bad)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.60s: %v, want %s", bad, err, want)
		}
	}
}

func FuzzValidate(f *testing.F) {
	f.Add(drivefile.FromStruct(sample.Dryer()).JSON(), "reading", []byte(`{"code":"4D","text":"12.5","how":"typed"}`),
		"2026-11-25T10:00:00.000Z")
	f.Add([]byte(`{"schema":6,"place":"x"}`), "energy", []byte(`{"supply":"mcc","state":"live"}`), "x")
	f.Fuzz(func(t *testing.T, doc []byte, kind string, body []byte, at string) {
		if drivefile.ValidateDocument(drivefile.KindDrive, doc) == nil {
			if _, err := drivefile.DecodeDrive(doc); err != nil {
				t.Fatalf("valid, and not to be read: %v", err)
			}
		}
		e := entry(kind, string(body))
		e.At = at
		if drivefile.ValidateEntry(e) == nil && !json.Valid(body) {
			t.Fatal("a body that is no JSON")
		}
	})
}
