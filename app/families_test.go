package app_test

import (
	"bytes"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/core/drivefile"
	"tingate/formats/familyfile"
)

// skua is a family that a person writes: Tarn's settings under another name, without its cos φ.
func skua() []byte {
	raw := string(familyfile.Raw("Tarn"))
	raw = strings.Replace(raw, "name: Tarn", "name: Skua", 1)
	raw = regexp.MustCompile(`(?m)^version: "\d+"`).ReplaceAllString(raw, `version: "3"`)
	return []byte(strings.Replace(raw, "intent: motor.factor, convention: ratio", "", 1))
}

func TestAFamilyIsAddedByDroppingAFile(t *testing.T) {
	t.Parallel()
	folder := t.TempDir()
	if err := os.MkdirAll(filepath.Join(folder, "families"), 0o755); err != nil {
		t.Fatal(err)
	}
	for name, raw := range map[string][]byte{"skua.yaml": skua(), "broken.yaml": []byte("name: ["),
		"tarn.yaml": append(familyfile.Raw("Tarn"), "\n# changed\n"...)} {
		if err := os.WriteFile(filepath.Join(folder, "families", name), raw, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	d := open(t, folder)
	var names []string
	for _, f := range d.Families() {
		names = append(names, f.Name)
	}
	if strings.Join(names, " ") != "Brae Skua Tarn Voe" {
		t.Errorf("%v", names)
	}
	problems := strings.Join(d.FamilyProblems, "\n")
	if len(d.FamilyProblems) != 2 || !strings.Contains(problems, "broken.yaml") || !strings.Contains(problems, "is here already") {
		t.Errorf("%s", problems)
	}
}

// A drive of an added family goes with its bundle to a folder that has never heard of it.
func TestAnAddedFamilyTravelsWithTheBundle(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	if _, err := d.AddFamily(ctx, d.rh, []byte("name: Gull\nsettings: [")); err == nil {
		t.Error("a broken file was taken")
	}
	if _, err := d.AddFamily(ctx, d.rh, []byte(strings.Replace(string(skua()), "Skua", "../Skua", 1))); err == nil {
		t.Error("a name that climbs out was taken")
	}
	f, err := d.AddFamily(ctx, d.rh, skua())
	d.ok(err)
	if f.Name != "Skua" {
		t.Errorf("%+v", f)
	}
	if _, err := d.AddFamily(ctx, d.rh, skua()); err != nil {
		t.Errorf("the very same again: %v", err)
	}
	if _, err := d.AddFamily(ctx, d.rh, append(skua(), "\n# other\n"...)); err == nil || !strings.Contains(err.Error(), "not taken") {
		t.Errorf("another file of one name: %v", err)
	}
	id := d.dryer()
	d.set(d.rh, id, "rating.dialect", "Skua")
	v := d.view(id)
	if line(v, "4D").SetTo != "15.5 A" || line(v, "4F").Code != "" {
		t.Errorf("%+v", line(v, "4D"))
	}
	rows, err := d.Move(ctx, id, "Brae", "")
	d.ok(err)
	if len(rows) < 25 {
		t.Errorf("%d rows moved", len(rows))
	}
	one, err := d.Export(ctx, d.place, id)
	d.ok(err)
	e := open(t, t.TempDir())
	res, err := e.Import(ctx, one)
	d.ok(err)
	if !strings.Contains(strings.Join(res.Notes, " "), "Skua 3 came with the bundle") {
		t.Errorf("%v", res.Notes)
	}
	two, err := e.Export(ctx, d.place, id)
	d.ok(err)
	if !bytes.Equal(one, two) {
		t.Error("exported again, the bundle differs")
	}
	// And it is there after a restart.
	d.ok(e.store.Close())
	again := open(t, e.folder)
	got, err := again.Drive(ctx, base.Actor{}, id)
	d.ok(err)
	if line(got, "4D").SetTo != "15.5 A" {
		t.Errorf("after a restart: %+v", got.Family)
	}
	if _, err := os.Stat(filepath.Join(e.folder, "families", "Skua-3.yaml")); err != nil {
		t.Error(err)
	}
}

func TestADriveOfAnUnknownFamilyKeepsEverything(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.set(d.rh, id, "rating.dialect", "Petrel")
	v := d.view(id)
	if len(v.State.Lines) != 0 || v.Drive.Rating.Dialect != "Petrel" {
		t.Errorf("%d lines", len(v.State.Lines))
	}
	for _, err := range []error{d.Read(ctx, d.rh, id, base.NewID(), "4D", "1"), d.Snapshot(ctx, d.rh, id, base.NewID(), "as-left", "")} {
		if err == nil || !strings.Contains(err.Error(), "family") {
			t.Errorf("%v", err)
		}
	}
	body := drivefile.FromStruct(v.Drive)
	if len(body.Leaves()) < 20 {
		t.Error("what was typed stays")
	}
}

// A file that names no registers that command is refused; one that was added before they had to be named is for reading only, until a
// version names them; a version that leaves one open that an earlier one names is refused.
func TestFamiliesNameWhatIsNeverWritten(t *testing.T) {
	t.Parallel()
	line := func(raw []byte, what string) []byte {
		at := bytes.Index(raw, []byte("  forbidden:\n"))
		end := at + len("  forbidden:\n") + bytes.IndexByte(raw[at+len("  forbidden:\n"):], '\n') + 1
		return append(append(bytes.Clone(raw[:at]), what...), raw[end:]...)
	}
	version := func(raw []byte, v string) []byte {
		return bytes.Replace(raw, []byte("version: \"3\""), []byte("version: \""+v+"\""), 1)
	}
	bare := line(skua(), "")
	if bytes.Contains(bare, []byte("9019")) || bytes.Equal(version(skua(), "4"), skua()) {
		t.Fatal("the sample has changed")
	}
	d := newDesk(t)
	if _, err := d.AddFamily(ctx, d.rh, bare); err == nil || !strings.Contains(err.Error(), "no registers named that command") {
		t.Errorf("without: %v", err)
	}
	_, err := d.AddFamily(ctx, d.rh, skua())
	d.ok(err)
	if _, err := d.AddFamily(ctx, d.rh,
		line(version(skua(), "4"), "  forbidden:\n    - {from: 9000, to: 9018, why: \"run\"}\n")); err == nil ||
		!strings.Contains(err.Error(), "register 9019 left open, which version 3 names") {
		t.Errorf("narrowed: %v", err)
	}
	if _, err := d.AddFamily(ctx, d.rh,
		line(version(skua(), "4"), "  forbidden:\n    - {from: 8990, to: 9030, why: \"run\"}\n")); err != nil {
		t.Errorf("widened: %v", err)
	}
	// One that lies in the folder from before.
	e := newDesk(t)
	e.ok(os.MkdirAll(filepath.Join(e.folder, "families"), 0o755))
	e.ok(os.WriteFile(filepath.Join(e.folder, "families", "Skua-3.yaml"), bare, 0o600))
	e.ok(e.store.Close())
	f := open(t, e.folder)
	if h := f.FamilyOf("Skua"); h == nil || !h.HasLink || h.ReadOnly != "no registers named that command" {
		t.Fatalf("%+v %v", h, f.FamilyProblems)
	}
	_, err = f.AddFamily(ctx, e.rh, version(skua(), "4"))
	f.ok(err)
	if h := f.FamilyOf("Skua"); h.ReadOnly != "" || h.Version != "4" {
		t.Errorf("named in a newer version: %+v", h)
	}
	// And one in a bundle from before comes in, for reading only.
	id := f.NewDrive(e, "Skua", "3")
	raw, err := f.Export(ctx, e.place, id)
	f.ok(err)
	g := open(t, t.TempDir())
	_, err = g.Import(ctx, raw)
	g.ok(err)
	if h := g.FamilyOf("Skua"); h == nil || h.ReadOnly == "" {
		t.Errorf("%+v", h)
	}
	l, err := f.Arrivals(ctx, e.place)
	f.ok(err)
	if len(l) != 1 || l[0].What != "family" || l[0].Name != "Skua" || l[0].By != "RH" {
		t.Errorf("%+v", l)
	}
}

// NewDrive makes a drive of a family in a version, at another desk's place.
func (d *desk) NewDrive(at *desk, family, version string) string {
	d.t.Helper()
	id := base.NewID()
	_, err := d.CreateDrive(ctx, at.rh,
		drives.NewDrive{ID: id, Place: at.place,
			Sets: []drives.Set{{Path: "tag", Text: "X-1"}, {Path: "rating.dialect", Text: family},
				{Path: "rating.dialect_version", Text: version}}})
	d.ok(err)
	return id
}
