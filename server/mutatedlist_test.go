package server

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"testing"

	"tingate/formats/familyfile"
	"tingate/testtools/raced"
	"tingate/testtools/trials"
)

// inParts takes a zipped file apart, mutates one of its parts, and packs it again: the packing is right, what is in it is not.
func inParts(t *testing.T, rng *rand.Rand, raw []byte) []byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	bad := rng.IntN(len(z.File))
	for i, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		b, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if i == bad {
			b = mutated(rng, b)
		}
		p, err := w.Create(f.Name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := p.Write(b); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// 600 mutations of what a family is made from: a workbook, outside and in its parts, a device description, a list, a table of a text. No
// answer 500, none late; what is read can be checked as a draft, and is a family or says why not.
func TestMutatedListsAndDescriptions(t *testing.T) {
	raced.Skip(t)
	h := newHostile(t)
	rng := rand.New(rand.NewPCG(20, 1))
	read := func(path string) []byte {
		raw, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		return raw
	}
	book, eds, csv := read("../e2e/lists/gannet.xlsx"), read("../e2e/lists/gannet.eds"), read("../e2e/lists/heron.csv")
	text := []byte(
		"Code    Name                  Range           Unit   Default\nA1      Motor rated power     0.1 ... 15.0    kW     4.0\n" +
			"B1      Stop mode             0: coast               1\n                              1: ramp\n",
	)
	ask := func(what string, raw []byte) (int, familyfile.List) {
		body, err := json.Marshal(map[string]any{"file": raw, "name": "x"})
		if err != nil {
			t.Fatal(err)
		}
		var l familyfile.List
		status, out := h.send(what, "POST", "/api/families/list", "application/json", body)
		if status == 200 && json.Unmarshal(out, &l) != nil {
			t.Errorf("%s: %.200s", what, out)
		}
		return status, l
	}
	for what, raw := range map[string][]byte{"workbook": book, "description": eds, "list": csv, "text": text} {
		if status, l := ask(what, raw); status != 200 || len(l.Draft.Rows) < 2 {
			t.Errorf("%s as it is: %d, %d rows", what, status, len(l.Draft.Rows))
		}
	}
	taken := map[string]int{}
	for i := range trials.N(t, 600) {
		kind := []string{"workbook", "workbook in its parts", "description", "list", "text"}[i%5]
		what := fmt.Sprintf("trial %d, %s", i, kind)
		raw := map[string]func() []byte{
			"workbook":              func() []byte { return mutated(rng, book) },
			"workbook in its parts": func() []byte { return inParts(t, rng, book) },
			"description":           func() []byte { return mutated(rng, eds) },
			"list":                  func() []byte { return mutated(rng, csv) },
			"text":                  func() []byte { return mutated(rng, text) },
		}[kind]()
		status, l := ask(what, raw)
		if status != 200 {
			continue
		}
		taken[kind]++
		l.Draft.Name = "Gannet"
		body, err := json.Marshal(l.Draft)
		if err != nil {
			t.Fatal(err)
		}
		if status, out := h.send(what, "POST", "/api/families/draft", "application/json", body); status != 200 && status != 422 {
			t.Errorf("%s: the draft gives %d %.200s", what, status, out)
		}
	}
	t.Logf("taken: %v; at most %d MB resident", taken, resident(t))
	if mb := resident(t); mb > 512 {
		t.Errorf("%d MB resident at most", mb)
	}
}
