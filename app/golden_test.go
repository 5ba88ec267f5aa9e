package app_test

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"tingate/app"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/store"
	"tingate/testtools/raced"
)

const goldenFile = "testdata/golden.txt"

// digest is enough of a hash to see that two things differ.
func digest(t *testing.T, v any) string {
	t.Helper()
	raw, ok := v.([]byte)
	if !ok {
		var err error
		if raw, err = json.Marshal(v); err != nil {
			t.Fatal(err)
		}
	}
	return fmt.Sprintf("%x", sha256.Sum256(raw))[:8]
}

// goldenOf says in short what the program makes of a kept bundle: the bytes that go out again, and of each of its drives every gate with
// its checks, the findings, figures, lines, wires and what else a screen is given.
func goldenOf(t *testing.T, file string) string {
	t.Helper()
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	d := open(t, t.TempDir())
	at := time.Date(2027, 1, 15, 12, 0, 0, 0, time.UTC)
	d.App = app.New(d.store, func() time.Time { return at }, "test")
	res, err := d.Import(ctx, raw)
	if err != nil || res.Added == 0 {
		t.Fatalf("%s: %+v %v", file, res, err)
	}
	out, err := d.Export(ctx, res.Place, "")
	d.ok(err)
	name := strings.TrimSuffix(filepath.Base(file), ".zip")
	text := fmt.Sprintf("%s goes out as %d bytes %s\n", name, len(out), digest(t, out))
	page, err := d.Yard(ctx, store.YardQuery{Place: res.Place, Limit: 100})
	d.ok(err)
	for _, r := range page.Rows {
		s := d.view(r.ID).State
		text += fmt.Sprintf("%s %s", name, r.Tag)
		for _, g := range s.Gates {
			agree(t, name+" "+r.Tag, g, s.Findings)
			text += fmt.Sprintf(" %s %s %d/%d %s", g.Key, g.Mark, g.Done, g.Total, digest(t, g))
		}
		wires, err := d.Wiring(ctx, r.ID)
		d.ok(err)
		text += fmt.Sprintf(" findings %d %s figures %s lines %d %s wires %s", len(s.Findings), digest(t, s.Findings),
			digest(t, s.Figures), len(s.Lines), digest(t, s.Lines), digest(t, wires))
		s.Gates, s.Findings, s.Figures, s.Lines = nil, nil, nil, nil
		text += fmt.Sprintf(" rest %s yard %s\n", digest(t, s), digest(t, r))
	}
	return text
}

// agree wants a gate to hold its findings answered when all of them are: none is raised after it has looked.
func agree(t *testing.T, drive string, g gate.Gate, findings []gate.Answered) {
	t.Helper()
	open := slices.ContainsFunc(findings, func(f gate.Answered) bool { return f.Gate == g.Key && f.Severity.Open() && !f.Kept })
	for _, c := range g.Checks {
		if c.Key == g.Key+"/findings/answered" && c.Verdict != gate.Waived && open != (c.Verdict != gate.Holds) {
			t.Errorf("%s: %s is %s, and a finding of its gate is open: %v", drive, c.Key, c.Verdict, open)
		}
	}
}

// Bundles of every schema number are kept in testdata and open for ever. What the rules make of their drives is kept too: with other
// results the rules have another number (gate.RulesVersion), or what is stored beside a drive would be taken for theirs.
// TINGATE_GOLDEN=write keeps the new results.
func TestKeptBundlesGiveWhatTheyGave(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	files, _ := filepath.Glob("testdata/bundle-schema-*.zip")
	if len(files) != drivefile.Schema {
		t.Fatalf("%d kept bundles for %d schema numbers", len(files), drivefile.Schema)
	}
	got := "rules " + gate.RulesVersion + "\n"
	for _, f := range files {
		got += goldenOf(t, f)
	}
	if runtime.GOARCH != "amd64" {
		t.Skip("kept from amd64: others round the last bit otherwise")
	}
	kept, err := os.ReadFile(goldenFile)
	if err != nil && !os.IsNotExist(err) {
		t.Fatal(err)
	}
	if string(kept) == got {
		return
	}
	same := strings.HasPrefix(string(kept), "rules "+gate.RulesVersion+"\n") && ruled(string(kept)) != ruled(got)
	if os.Getenv("TINGATE_GOLDEN") == "write" && !same {
		if err := os.WriteFile(goldenFile, []byte(got), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	was := strings.Split(string(kept), "\n")
	for i, line := range strings.Split(got, "\n") {
		if i >= len(was) || was[i] != line {
			t.Errorf("%s", line)
			if i < len(was) {
				t.Errorf("was %s", was[i])
			}
		}
	}
	if same {
		t.Error("the rules have the same number and give other results: raise gate.RulesVersion, or mend what changed")
	} else {
		t.Error("the rules have another number, or only the bytes that go out are others: see that it is meant, and keep it with " +
			"TINGATE_GOLDEN=write")
	}
}

// ruled is what follows from the rules: not the bytes that go out, which a word in a schema changes.
func ruled(text string) string {
	var l []string
	for _, line := range strings.Split(text, "\n") {
		if !strings.Contains(line, " goes out as ") {
			l = append(l, line)
		}
	}
	return strings.Join(l, "\n")
}
