package gate_test

import (
	"archive/zip"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/formats/familyfile"
	"tingate/testtools/golden"
)

// kept is a document of a bundle with what was recorded of it.
type kept struct {
	ID       string            `json:"id"`
	Document json.RawMessage   `json:"document"`
	Entries  []drivefile.Entry `json:"entries"`
}

// keptPlace reads a kept bundle: the drives of a place in many states of work, with all that was recorded.
func keptPlace(t *testing.T) (place kept, drives []kept) {
	t.Helper()
	z, err := zip.OpenReader("../../app/testdata/bundle-schema-9.zip")
	if err != nil {
		t.Fatal(err)
	}
	defer z.Close()
	for _, f := range z.File {
		if f.Name != "place.json" && !strings.HasPrefix(f.Name, "drives/") {
			continue
		}
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		raw, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		var k kept
		if err := json.Unmarshal(raw, &k); err != nil {
			t.Fatal(filepath.Base(f.Name), err)
		}
		if f.Name == "place.json" {
			place = k
			continue
		}
		drives = append(drives, k)
	}
	return place, drives
}

// replayed evaluates a drive at a time; empty when the documents are none any more.
func replayed(t *testing.T, place, drive kept, now time.Time) string {
	t.Helper()
	d, err := drivefile.DecodeDrive(drive.Document)
	if err != nil {
		return ""
	}
	p, err := drivefile.DecodePlace(place.Document)
	if err != nil {
		return ""
	}
	at := now.UTC().Format(time.RFC3339Nano)
	until := func(e []drivefile.Entry) []drivefile.Entry {
		return slices.DeleteFunc(slices.Clone(e), func(e drivefile.Entry) bool { return e.At > at })
	}
	s := gate.Evaluate(
		gate.Job{ID: drive.ID, Drive: d, Place: p, Family: familyfile.Shipped().Version(d.Rating.Dialect, d.Rating.DialectVersion),
			Newest: "8", Entries: until(drive.Entries), Energy: isolation.ByID(until(place.Entries)), Zone: time.UTC},
		now,
	)
	text := d.Tag
	for _, g := range s.Gates {
		text += fmt.Sprintf(" %s %s %d/%d %s", g.Key, g.Mark, g.Done, g.Total, golden.Digest(t, g))
	}
	text += fmt.Sprintf("; findings %d %s figures %s lines %s", len(s.Findings), golden.Digest(t, s.Findings), golden.Digest(t, s.Figures),
		golden.Digest(t, s.Lines))
	s.Gates, s.Findings, s.Figures, s.Lines = nil, nil, nil, nil
	return text + " rest " + golden.Digest(t, s)
}

// bent changes a document at a leaf drawn at random: a figure becomes another, a text goes, a yes becomes a no, a part is missing.
func bent(t *testing.T, rng *rand.Rand, raw json.RawMessage) json.RawMessage {
	t.Helper()
	var doc any
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	at := doc
	for {
		m, ok := at.(map[string]any)
		if !ok || len(m) == 0 {
			break
		}
		keys := make([]string, 0, len(m))
		for k := range m {
			keys = append(keys, k)
		}
		slices.Sort(keys)
		k := keys[rng.IntN(len(keys))]
		if inner, ok := m[k].(map[string]any); ok && len(inner) > 0 && rng.IntN(12) > 0 {
			at = inner
			continue
		}
		m[k] = bentLeaf(rng, m[k])
		if m[k] == nil {
			delete(m, k)
		}
		break
	}
	out, err := json.Marshal(doc)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func bentLeaf(rng *rand.Rand, v any) any {
	by := []float64{0, .1, .5, .9, .99, 1.01, 1.1, 2, 10, -1}[rng.IntN(10)]
	switch x := v.(type) {
	case bool:
		return !x
	case float64:
		return x * by
	case string:
		if n, err := strconv.ParseFloat(strings.Fields(x + " x")[0], 64); err == nil {
			unit := ""
			if f := strings.Fields(x); len(f) > 1 {
				unit = " " + f[1]
			}
			return strconv.FormatFloat(n*by, 'g', 6, 64) + unit
		}
		return []any{nil, "", x + "2", "other"}[rng.IntN(4)]
	}
	return nil
}

// bentHistory drops an entry, doubles one, or bends what is in it.
func bentHistory(t *testing.T, rng *rand.Rand, list []drivefile.Entry) []drivefile.Entry {
	t.Helper()
	if len(list) == 0 {
		return list
	}
	out := slices.Clone(list)
	i := rng.IntN(len(out))
	switch rng.IntN(4) {
	case 0:
		return slices.Delete(out, i, i+1)
	case 1:
		k := rng.IntN(len(out))
		out[i].Body, out[k].Body = out[k].Body, out[i].Body
		out[i].Kind, out[k].Kind = out[k].Kind, out[i].Kind
	default:
		out[i].Body = bent(t, rng, out[i].Body)
	}
	return out
}

// What the gates make of five drives of a kept place, as their histories grow, and of four hundred places and histories that were bent at
// random, is as it was.
func TestHistoriesAreJudgedAsBefore(t *testing.T) {
	place, drives := keptPlace(t)
	var out strings.Builder
	for _, d := range drives {
		for step := 1; step <= 12; step++ {
			n := len(d.Entries) * step / 12
			if n == 0 {
				continue
			}
			cut := d
			cut.Entries = d.Entries[:n]
			last, err := time.Parse(time.RFC3339, cut.Entries[n-1].At)
			if err != nil {
				t.Fatal(err)
			}
			fmt.Fprintf(&out, "%d of %d: %s\n", n, len(d.Entries), replayed(t, place, cut, last.Add(time.Minute)))
		}
	}
	rng := rand.New(rand.NewPCG(18, 1))
	for i := range 400 {
		d, p := drives[rng.IntN(len(drives))], place
		for range 1 + rng.IntN(4) {
			switch rng.IntN(4) {
			case 0:
				p.Document = bent(t, rng, p.Document)
			case 1:
				p.Entries = bentHistory(t, rng, p.Entries)
			case 2:
				d.Entries = bentHistory(t, rng, d.Entries)
			default:
				d.Document = bent(t, rng, d.Document)
			}
		}
		now := time.Date(2026, 11, 25, 6+rng.IntN(12), rng.IntN(60), 0, 0, time.UTC)
		if rng.IntN(2) == 0 && len(d.Entries) > 0 {
			last, err := time.Parse(time.RFC3339, d.Entries[len(d.Entries)-1].At)
			if err != nil {
				t.Fatal(err)
			}
			now = last.Add(time.Duration(rng.IntN(3000)) * time.Minute)
		}
		fmt.Fprintf(&out, "bent %d: %s\n", i, replayed(t, p, d, now))
	}
	golden.Same(t, "testdata/replayed.txt", out.String())
}
