package app_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/exchange"
	"tingate/core/drivefile"
	"tingate/demo"
	"tingate/formats/bundle"
	"tingate/store"
	"tingate/testtools/raced"
)

// repacked takes a bundle apart, changes its files, and packs it with the right hashes again: what only a validator finds. Lost are kept
// files that the manifest names as missing.
func repacked(t testing.TB, raw []byte, change func(files map[string][]byte), lost ...string) []byte {
	t.Helper()
	r, err := bundle.NewReader(bytes.NewReader(raw), int64(len(raw)),
		bundle.Limits{Entries: 1000, Unpacked: 1 << 30, Largest: map[string]int64{"": 1 << 28}})
	if err != nil {
		t.Fatal(err)
	}
	files := map[string][]byte{}
	for _, n := range r.Names("") {
		if files[n], err = r.Read(n); err != nil {
			t.Fatal(err)
		}
	}
	change(files)
	later := map[string][]byte{}
	var names []string
	for n, b := range files {
		if n > "manifest.json" {
			later[n] = b
		} else {
			names = append(names, n)
		}
	}
	slices.Sort(names)
	var out bytes.Buffer
	w, err := bundle.NewWriter(&out, later)
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range names {
		if err := w.Add(n, files[n]); err != nil {
			t.Fatal(err)
		}
	}
	for _, sha := range lost {
		w.Lost(sha)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// tree changes one JSON file of a bundle.
func tree(t testing.TB, files map[string][]byte, name string, change func(m map[string]any)) {
	t.Helper()
	var m map[string]any
	if err := json.Unmarshal(files[name], &m); err != nil {
		t.Fatal(err)
	}
	change(m)
	raw, err := json.Marshal(m)
	if err != nil {
		t.Fatal(err)
	}
	files[name] = raw
}

// bundled is a place with one drive that has readings and a photo, as a bundle.
func bundled(t *testing.T) (raw []byte, place, drive string) {
	d := newDesk(t)
	id := d.dryer()
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "12.5"))
	d.ok(d.Attach(ctx, d.rh, id, base.NewID(), "plate", "motor-plate", png))
	raw, err := d.Export(ctx, d.place, "")
	d.ok(err)
	return raw, d.place, id
}

// Whatever comes in is held to what the program itself would have written, and what is wrong is named. Nothing of it is stored.
func TestABundleIsHeldToWhatTheProgramWrites(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	raw, place, drive := bundled(t)
	file := "drives/" + drive + ".json"
	entry := func(i int, change func(e map[string]any)) func(map[string][]byte) {
		return func(f map[string][]byte) {
			tree(t, f, file, func(m map[string]any) { change(m["entries"].([]any)[i].(map[string]any)) })
		}
	}
	change := func(i int, do func(c map[string]any)) func(map[string][]byte) {
		return func(f map[string][]byte) {
			tree(t, f, file, func(m map[string]any) { do(m["changes"].([]any)[i].(map[string]any)) })
		}
	}
	// leaf sets a field in the document and in the change that made it, so that the one follows from the other.
	leaf := func(path string, value any) func(map[string][]byte) {
		return func(f map[string][]byte) {
			tree(t, f, file, func(m map[string]any) {
				c := m["changes"].([]any)
				last := c[len(c)-1].(map[string]any)
				last["ops"] = append(last["ops"].([]any), map[string]any{"path": path, "old": nil, "new": value})
				body := drivefile.Body(m["document"].(map[string]any))
				v, _ := json.Marshal(value)
				if err := body.Apply([]drivefile.Op{{Path: path, New: v}}); err != nil {
					t.Fatal(err)
				}
			})
		}
	}
	tried := 0
	const other = "01900000-0000-7000-8000-00000000000f"
	for name, x := range map[string]struct {
		do   func(map[string][]byte)
		want string
	}{
		"a short time":           {entry(0, func(e map[string]any) { e["at"] = "2026" }), "a time in UTC"},
		"a time of another zone": {entry(0, func(e map[string]any) { e["at"] = "2026-11-25T10:00:00+01:00" }), "a time in UTC"},
		"nobody's entry":         {entry(0, func(e map[string]any) { e["by"] = "" }), "the id of the person"},
		"an id that is none":     {entry(0, func(e map[string]any) { e["id"] = "1" }), "a UUID"},
		"a kind that is none":    {entry(0, func(e map[string]any) { e["kind"] = "command" }), "one of attachment"},
		"an entry of another folder": {entry(0, func(e map[string]any) {
			e["kind"], e["body"] = "came-in", map[string]any{"what": "bundle", "name": "", "hash": ""}
		}), "travels"},
		"a body of another kind": {entry(0, func(e map[string]any) { e["body"] = map[string]any{"state": "dead"} }),
			"the body of a reading"},
		"a body that is a list": {entry(0, func(e map[string]any) { e["body"] = []any{} }), "the body of a reading"},
		"a way of reading that is none": {entry(0, func(e map[string]any) { e["body"].(map[string]any)["how"] = "dreamt" }),
			"one of typed"},
		"a photo that is not there": {func(f map[string][]byte) { drop(f, "attachments/") }, "not in the bundle"},
		"other bytes under a hash": {func(f map[string][]byte) { f[first(f, "attachments/")] = []byte("other") },
			"those with this SHA-256"},
		"a hash that is none": {entry(1, func(e map[string]any) { e["body"].(map[string]any)["sha256"] = "00" }),
			"64 hexadecimal digits"},
		"one id twice": {func(f map[string][]byte) {
			tree(t, f, file, func(m map[string]any) {
				l := m["entries"].([]any)
				l[1].(map[string]any)["id"] = l[0].(map[string]any)["id"]
			})
		}, "an id of its own"},
		"a change's id for an entry": {func(f map[string][]byte) {
			tree(t, f, file, func(m map[string]any) {
				m["entries"].([]any)[0].(map[string]any)["id"] = m["changes"].([]any)[0].(map[string]any)["id"]
			})
		}, "an id of its own"},
		"numbers out of order":          {entry(0, func(e map[string]any) { e["n"] = 99 }), "numbers out of order"},
		"a change at no time":           {change(0, func(c map[string]any) { c["at"] = "yesterday" }), "a time in UTC"},
		"nobody's change":               {change(0, func(c map[string]any) { c["by"] = "" }), "the id of the person"},
		"a change without a visit":      {change(0, func(c map[string]any) { c["edit"] = "" }), "texts as the program writes them"},
		"operations that make another":  {change(0, func(c map[string]any) { c["ops"] = []any{} }), "does not follow from its changes"},
		"a field that is none":          {leaf("motor.colour", "red"), "unknown field"},
		"a choice out of no list":       {leaf("intent.control", "by-ear"), "one of"},
		"a number where a text belongs": {leaf("tag", 7), "cannot unmarshal number"},
		"a unit of another kind": {leaf("rating.current", map[string]any{"text": "5 s", "value": 5, "unit": "s"}),
			"a unit of current"},
		"a text too long for its field": {leaf("notes", strings.Repeat("x", 5000)), "4000"},
		"a document too large to edit": {func(f map[string][]byte) {
			for i := range 400 {
				leaf(fmt.Sprintf("motor.rows.r%d.connection", i), "star")(f)
				leaf("notes", "x")(f)
			}
			leaf("where", strings.Repeat("y", 2<<20))(f)
		}, "at most 1048576"},
		"a drive of another place": {func(f map[string][]byte) { tree(t, f, file, func(m map[string]any) { m["place"] = other }) },
			"the place of this bundle"},
		"a place within a place": {func(f map[string][]byte) {
			tree(t, f, "place.json",
				func(m map[string]any) { m["place"] = other })
		}, "its own id"},
		"a version below one": {func(f map[string][]byte) { tree(t, f, file, func(m map[string]any) { m["version"] = -1 }) },
			"1 or more"},
		"something behind the document": {func(f map[string][]byte) { tree(t, f, file, func(m map[string]any) { m["more"] = 1 }) },
			"unknown field"},
		"a schema of times to come": {leaf("schema", 99), "at most"},
		"a schema of no times":      {leaf("schema", 0), "1 or more"},
		"a family that is none":     {func(f map[string][]byte) { f["families/Gull.yaml"] = []byte("name: Gull\n") }, "Gull"},
		"a practice that is none":   {func(f map[string][]byte) { f["practices/ours.yaml"] = []byte("name: ours\n") }, "ours"},
		"a family of aliases of aliases": {func(f map[string][]byte) { f["families/Gull.yaml"] = []byte("name: &a Gull\nversion: *a\n") },
			"anchor or alias"},
	} {
		e := open(t, t.TempDir())
		res, err := e.Import(ctx, repacked(t, raw, x.do))
		if err == nil || !strings.Contains(err.Error(), x.want) {
			t.Errorf("%s: %+v %v, want %q", name, res, err, x.want)
			continue
		}
		if places, _ := e.Places(ctx); len(places) != 0 || len(e.Families()) != 3 {
			t.Errorf("%s: refused, and something stays", name)
		}
		if tried++; tried%8 == 0 {
			if _, err := e.Import(ctx, raw); err != nil {
				t.Errorf("%s: the good one afterwards: %v", name, err)
			}
		}
	}
	e := open(t, t.TempDir())
	if res, err := e.Import(ctx, raw); err != nil || res.Added != 1 || res.Place != place {
		t.Errorf("%+v %v", res, err)
	}
}

func first(f map[string][]byte, prefix string) string {
	for n := range f {
		if strings.HasPrefix(n, prefix) {
			return n
		}
	}
	return ""
}

func drop(f map[string][]byte, prefix string) { delete(f, first(f, prefix)) }

// What an earlier version took in without looking stops neither a history nor an export, nor the Yard of the others.
func TestABadEntryStopsNothing(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.ok(d.store.Write(ctx, func(tx *store.Tx) error {
		for i, e := range []drivefile.Entry{
			{Kind: "reading", At: "2026", Body: []byte(`{"code":"4D","text":"1","how":"link"}`)},
			{Kind: "reading", At: "", Body: []byte(`[]`)},
			{Kind: "attachment", At: "2026-11-25T10:00:00Z", Body: []byte(`{"sha256":"00","name":"lost","of":"other"}`)},
			{Kind: "evidence", At: "x", Body: []byte(`{"key":"dead/measure/dc"}`)},
			{Kind: "snapshot", At: "x", Body: []byte(`{"name":"as-left"}`)},
			{Kind: "decision", At: "x", Body: []byte(`{"type":"passed","key":"match"}`)},
			{Kind: "write", At: "x", Body: []byte(`{"code":"4D","outcome":"begun"}`)},
			{Kind: "nothing", At: "x", Body: []byte(`7`)},
		} {
			seq, err := tx.NextSeq(1)
			if err != nil {
				return err
			}
			e.ID, e.Doc, e.Seq, e.By = base.NewID(), id, seq, fmt.Sprint("nobody-", i)
			if err := tx.AddEntry(e); err != nil {
				return err
			}
		}
		return nil
	}))
	if rows, err := d.History(ctx, id); err != nil || len(rows) < 8 {
		t.Errorf("%d rows, %v", len(rows), err)
	}
	if raw, err := d.Export(ctx, d.place, ""); err != nil || len(raw) == 0 {
		t.Errorf("export: %v", err)
	}
	if _, err := d.Drive(ctx, d.rh, id); err != nil {
		t.Error(err)
	}
	if page, err := d.Yard(ctx, store.YardQuery{Place: d.place}); err != nil || len(page.Rows) != 1 {
		t.Errorf("%+v %v", page, err)
	}
	if _, err := d.Record(ctx, id); err != nil {
		t.Errorf("the record: %v", err)
	}
}

// A kept file that was lost before a bundle was made is told by its name, and stops neither verify nor a copy here.
func TestWhatWasLostBeforeIsNoDamageHere(t *testing.T) {
	t.Parallel()
	raw, _, _ := bundled(t)
	lost := repacked(t, raw, func(f map[string][]byte) { drop(f, "attachments/") }, sha(png))
	folder := t.TempDir()
	e := open(t, folder)
	res, err := e.Import(ctx, lost)
	e.ok(err)
	if len(res.Notes) == 0 || !strings.Contains(strings.Join(res.Notes, " "), "drive DD-02 was lost before the bundle was made: plate") {
		t.Errorf("%v", res.Notes)
	}
	if _, err := store.Verify(ctx, folder); err != nil {
		t.Error(err)
	}
	if err := store.Backup(ctx, folder, filepath.Join(t.TempDir(), "copy")); err != nil {
		t.Error(err)
	}
}

// Kept bytes are stored only with the entry that names them, and are no pages.
func TestAttachmentsAreStoredOnlyWhenTaken(t *testing.T) {
	t.Parallel()
	raw, place, drive := bundled(t)
	stray := []byte("<html><script>alert(1)</script>")
	e := open(t, t.TempDir())
	_, err := e.Import(ctx, repacked(t, raw, func(f map[string][]byte) { f["attachments/"+sha(stray)] = stray }))
	e.ok(err)
	if _, _, err := e.Attachment(ctx, sha(stray)); err == nil {
		t.Error("a file that nothing names was stored")
	}
	if _, _, err := e.Attachment(ctx, sha(png)); err != nil {
		t.Errorf("the photo: %v", err)
	}
	places, err := e.Places(ctx)
	e.ok(err)
	var someone string
	for id := range places[0].Place.People {
		someone = id
	}
	photo := append(bytes.Clone(png), 1)
	if err := e.Attach(ctx, base.Actor{Person: base.NewID()}, drive, base.NewID(), "x", "other", photo); err == nil {
		t.Error("a stranger's photo was taken")
	}
	if _, _, err := e.Attachment(ctx, sha(photo)); err == nil {
		t.Error("a refused photo was stored")
	}
	e.ok(e.Attach(ctx, base.Actor{Person: someone}, drive, base.NewID(), "x", "other", photo))
	if base.Shown("text/html") || base.Shown("image/svg+xml") || !base.Shown("image/png") {
		t.Error("only photos and papers are shown as they are")
	}
	_ = place
}

// What is the same, what is new and what differs is found by contents, and is an entry.
func TestAnImportSaysWhatWasSameNewAndDifferent(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	one := d.dryer()
	two := base.NewID()
	_, err := d.CreateDrive(ctx, d.rh, drives.NewDrive{ID: two, Place: d.place, Sets: []drives.Set{{Path: "tag", Text: "BE-04"}}})
	d.ok(err)
	all, err := d.Export(ctx, d.place, "")
	d.ok(err)
	only, err := d.Export(ctx, d.place, one)
	d.ok(err)
	e := open(t, t.TempDir())
	e.rh = d.rh
	res, err := e.Import(ctx, only)
	e.ok(err)
	if res.Added != 1 || !slices.Equal(res.New, []string{"DD-02"}) {
		t.Errorf("%+v", res)
	}
	res, err = e.Import(ctx, all)
	e.ok(err)
	if res.Added != 1 || res.Same != 1 || !slices.Equal(res.New, []string{"BE-04"}) || !slices.Equal(res.Unchanged, []string{"DD-02"}) {
		t.Errorf("%+v", res)
	}
	// The same ids with other contents are no longer the same.
	forged := repacked(t, all, func(f map[string][]byte) {
		tree(t, f, "drives/"+one+".json", func(m map[string]any) { m["changes"].([]any)[0].(map[string]any)["by"] = d.tk.Person })
	})
	if _, err := e.Import(ctx, forged); err == nil || !strings.Contains(err.Error(), "DD-02: 1 changes with other contents") {
		t.Errorf("forged: %v", err)
	}
	e.ok(e.Change(ctx, e.rh, one, drives.Edit{ID: base.NewID(), Edit: base.NewID(), Sets: []drives.Set{{Path: "notes", Text: "here"}}}))
	if _, err := e.Import(ctx, all); err == nil || !strings.Contains(err.Error(), "DD-02: 1 changes only here, other fields") {
		t.Errorf("changed here: %v", err)
	}
	l, err := e.Arrivals(ctx, d.place)
	e.ok(err)
	if len(l) != 2 || l[0].By != "RH" || !slices.Equal(l[0].New, []string{"BE-04"}) || !slices.Equal(l[0].Same, []string{"DD-02"}) {
		t.Errorf("%+v", l)
	}
	again, err := e.Export(ctx, d.place, two)
	e.ok(err)
	first, err := d.Export(ctx, d.place, two)
	e.ok(err)
	if !bytes.Equal(again, first) {
		t.Error("what came in here travels no further, and the bundle is the same bytes")
	}
}

// A place comes in whole or not at all, and others write while it does; the parts of an export make the whole.
func TestALargeImportLetsEditsThroughAndPartsMakeTheWhole(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d := open(t, t.TempDir())
	d.ok(demo.Generate(ctx, d.App, "Large", 240))
	places, err := d.Places(ctx)
	d.ok(err)
	place := places[0].ID
	for id := range places[0].Place.People {
		d.rh = base.Actor{Person: id}
	}
	all, err := d.Export(ctx, place, "")
	d.ok(err)
	e := newDesk(t)
	id := e.dryer()
	done := make(chan error, 1)
	go func() {
		_, err := e.App.ImportBytes(ctx, base.Actor{Name: "test"}, all)
		done <- err
	}()
	edits, seen := 0, 0
	for end := false; !end; {
		select {
		case err := <-done:
			e.ok(err)
			end = true
		default:
			e.set(e.rh, id, "notes", fmt.Sprint(edits))
			edits++
			if page, err := e.Yard(ctx, store.YardQuery{Place: place, Limit: 1}); err == nil && page.Counts["all"] > 0 {
				seen++
			}
			time.Sleep(5 * time.Millisecond)
		}
	}
	if edits < 10 {
		t.Errorf("%d edits came through", edits)
	}
	e.ok(e.RefreshGlances(ctx))
	if page, err := e.Yard(ctx, store.YardQuery{Place: place, Limit: 1}); err != nil || page.Counts["all"] != 240 {
		t.Errorf("%+v %v", page.Counts, err)
	}
	// In three parts, the last first.
	f := open(t, t.TempDir())
	for _, part := range []int{3, 1, 2} {
		var out bytes.Buffer
		d.ok(d.ExportTo(ctx, &out, place, exchange.Selection{Part: part, Parts: 3}))
		res, err := f.Import(ctx, out.Bytes())
		f.ok(err)
		if res.Added != 80 {
			t.Errorf("part %d: %+v", part, res.Added)
		}
	}
	again, err := f.Export(ctx, place, "")
	f.ok(err)
	if !bytes.Equal(again, all) {
		t.Error("the three parts do not make the whole")
	}
	for _, bad := range []exchange.Selection{{Part: 4, Parts: 3}, {Part: 0, Parts: 3}, {Part: 1, Parts: 2000}, {Drive: base.NewID()}} {
		if err := d.ExportTo(ctx, &bytes.Buffer{}, place, bad); err == nil {
			t.Errorf("%+v was exported", bad)
		}
	}
}
