package app_test

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"tingate/app"
	"tingate/core/drivefile"
	"tingate/formats/familyfile"
)

// skua is a family that a person writes: Tarn's settings under another name, without its cos φ.
func skua() []byte {
	raw := string(familyfile.Raw("Tarn"))
	raw = strings.Replace(raw, "name: Tarn", "name: Skua", 1)
	return []byte(strings.Replace(raw, "intent: motor.factor, convention: ratio", "", 1))
}

func TestAFamilyIsAddedByDroppingAFile(t *testing.T) {
	folder := t.TempDir()
	if err := os.MkdirAll(filepath.Join(folder, "families"), 0o755); err != nil {
		t.Fatal(err)
	}
	for name, raw := range map[string][]byte{"skua.yaml": skua(), "broken.yaml": []byte("name: ["), "tarn.yaml": append(familyfile.Raw("Tarn"), "\n# changed\n"...)} {
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
	got, err := again.Drive(ctx, app.Actor{}, id)
	d.ok(err)
	if line(got, "4D").SetTo != "15.5 A" {
		t.Errorf("after a restart: %+v", got.Family)
	}
	if _, err := os.Stat(filepath.Join(e.folder, "families", "Skua-3.yaml")); err != nil {
		t.Error(err)
	}
}

func TestADriveOfAnUnknownFamilyKeepsEverything(t *testing.T) {
	d := newDesk(t)
	id := d.dryer()
	d.set(d.rh, id, "rating.dialect", "Petrel")
	v := d.view(id)
	if len(v.State.Lines) != 0 || v.Drive.Rating.Dialect != "Petrel" {
		t.Errorf("%d lines", len(v.State.Lines))
	}
	for _, err := range []error{d.Read(ctx, d.rh, id, app.NewID(), "4D", "1"), d.Snapshot(ctx, d.rh, id, app.NewID(), "as-left", "")} {
		if err == nil || !strings.Contains(err.Error(), "family") {
			t.Errorf("%v", err)
		}
	}
	body := drivefile.FromStruct(v.Drive)
	if len(body.Leaves()) < 20 {
		t.Error("what was typed stays")
	}
}
