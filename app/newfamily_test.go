package app_test

import (
	"cmp"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/sheet"
	"tingate/formats/devicefile"
	"tingate/formats/familyfile"
)

// A family out of a device description says on the sheet where its rows come from, until the drive has shown them; an older record
// keeps its
// family, and a second person is another one.
func TestTheSheetSaysWhatNobodyHasProved(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	d.placeOf(drivefile.Real)
	raw, err := os.ReadFile("../formats/familyfile/testdata/gannet.eds")
	d.ok(err)
	l, err := d.ReadList("gannet.eds", raw, familyfile.Asked{})
	d.ok(err)
	l.Draft.Rows[0].Compared = true
	c, err := d.CheckDraft(ctx, d.rh, l.Draft, true)
	d.ok(err)
	if c.Kept == nil || c.Kept.Name != "Gannet" {
		t.Fatalf("%+v", c)
	}
	id := d.dryer()
	d.set(d.rh, id, "rating.dialect", "Gannet")
	current := func() sheet.Line { return line(d.view(id), "6075h:00") }
	p := d.atPlace().Place.People[d.rh.Person]
	who := cmp.Or(p.Name, p.Initials)
	if x := current(); !x.Unproved || x.Source != "from a device description, gannet.eds, object 6075, by "+who || x.SetTo != "15500 mA" {
		t.Errorf("%+v", x)
	}
	if x := current(); strings.Contains(x.Source, "compared") {
		t.Errorf("who took it is no second person: %s", x.Source)
	}
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "6075h:00", "15500"))
	if x := current(); x.Unproved || x.Verdict != sheet.Holds {
		t.Errorf("read back it is proved: %+v", x)
	}
	// What one drive of the family has shown is proved for the next; what it has not shown is not, nor by one that stands in.
	next := d.dryer()
	d.set(d.rh, next, "tag", "DD-03")
	d.set(d.rh, next, "rating.dialect", "Gannet")
	if x := line(d.view(next), "6075h:00"); x.Unproved || x.ShownBy != "DD-02" || x.Read != nil {
		t.Errorf("shown by the first: %+v", x)
	}
	other := ""
	for _, l := range d.view(next).State.Lines {
		if l.Unproved && l.ShownBy == "" {
			other = l.Code
		}
	}
	if other == "" {
		t.Error("rows that no drive has shown are proved too")
	}
	d.placeOf(drivefile.Simulated)
	standIn := d.dryer()
	d.set(d.rh, standIn, "rating.dialect", "Gannet")
	if x := line(d.view(standIn), other); !x.Unproved {
		t.Fatalf("%+v", x)
	}
	d.ok(d.Read(ctx, d.rh, standIn, base.NewID(), other, line(d.view(standIn), other).Delivery))
	if x := line(d.view(next), other); !x.Unproved {
		t.Errorf("proved by what stands in for a drive: %+v", x)
	}
	// Shipped families are their author's: nothing is said of their rows.
	d.set(d.rh, id, "rating.dialect", "Tarn")
	if x := line(d.view(id), "4D"); x.Unproved || x.Source != "" {
		t.Errorf("%+v", x)
	}
}

// The plan goes out as a device configuration file, and such a file out of the drive comes in as readings; what it cannot hold is
// refused by name.
func TestAPlanAsADeviceConfiguration(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	if _, err := d.Configuration(ctx, id, 3); err == nil || !strings.Contains(err.Error(), "Tarn") {
		t.Errorf("Tarn's settings are no objects: %v", err)
	}
	d.set(d.rh, id, "rating.dialect", "Voe")
	for _, node := range []int{0, 128, -1} {
		if _, err := d.Configuration(ctx, id, node); err == nil || !strings.Contains(err.Error(), "1 to 127") {
			t.Errorf("node %d: %v", node, err)
		}
	}
	raw, err := d.Configuration(ctx, id, 3)
	d.ok(err)
	got, err := devicefile.Read(raw)
	d.ok(err)
	held := map[string]string{}
	for _, o := range got.Objects {
		if o.Value != "" {
			held[dialect.ObjectCode(o.Index, o.Sub)] = o.Value
		}
	}
	f := d.FamilySet.Find("Voe")
	planned := 0
	for _, l := range d.view(id).State.Lines {
		if !l.Planned || l.Missing != "" {
			continue
		}
		planned++
		s, _ := f.Setting(l.Code)
		if want := s.Counts(dialect.Held{Steps: l.Steps, Text: l.SetTo}); held[l.Code] != want {
			t.Errorf("%s holds %q, want %s", l.Code, held[l.Code], want)
		}
	}
	if planned < 15 || len(held) != planned || got.Node != 3 {
		t.Errorf("%d planned, %d held, node %d", planned, len(held), got.Node)
	}
	// The plan never confirms itself: what counts was read out of the drive, by a program that wrote it so.
	if _, err = d.ReadCSV(ctx, d.rh, id, raw); err == nil || !strings.Contains(err.Error(), "read out of the drive") {
		t.Errorf("the plan was taken for what the drive holds: %v", err)
	}
	for _, l := range d.view(id).State.Lines {
		if l.Read != nil {
			t.Errorf("%s was read: %+v", l.Code, l.Read)
		}
	}
	raw = regexp.MustCompile(`(?m)^Description=.*$`).ReplaceAll(raw, []byte("Description=Upload of the drive"))
	res, err := d.ReadCSV(ctx, d.rh, id, raw)
	d.ok(err)
	if res.Read != planned || len(res.Problems) > 0 {
		t.Errorf("%+v", res)
	}
	for _, l := range d.view(id).State.Lines {
		if l.Planned && l.Missing == "" && l.Verdict != sheet.Holds {
			t.Errorf("%s %s: %s, read %+v", l.Code, l.SetTo, l.Verdict, l.Read)
		}
	}
	// A value that the setting cannot hold, and an object that is none of the family's, are told; the rest is taken.
	bad := strings.Replace(string(raw), "ParameterValue="+held["6075h:00"], "ParameterValue=1", 1)
	bad = strings.ReplaceAll(bad, "[6080", "[6081")
	if res, err = d.ReadCSV(
		ctx,
		d.rh,
		id,
		[]byte(bad),
	); err != nil || res.Read != planned-1 ||
		!strings.Contains(strings.Join(res.Problems, "\n"), "6075h:00") {
		t.Errorf("%v %+v", err, res)
	}
	eds, err := os.ReadFile("../formats/familyfile/testdata/gannet.eds")
	d.ok(err)
	if _, err = d.ReadCSV(ctx, d.rh, id, eds); err == nil || !strings.Contains(err.Error(), "EDS") {
		t.Errorf("a description holds no values: %v", err)
	}
}

// Whoever searches sees which drives of the place are meant.
func TestDrivesByFamily(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for i := range 14 {
		id := d.dryer()
		d.set(d.rh, id, "tag", "X-"+strconv.Itoa(100+i))
		if i == 0 {
			d.set(d.rh, id, "rating.dialect", "Voe")
		}
	}
	list, err := d.DrivesByFamily(ctx, d.place)
	d.ok(err)
	if len(list) != 2 || list[0].Family != "Tarn" || list[0].Drives != 13 || len(list[0].Some) != 12 || list[0].Some[0].Tag != "X-101" ||
		list[1].Family != "Voe" || list[1].Drives != 1 {
		t.Errorf("%+v", list)
	}
	if _, err = d.DrivesByFamily(ctx, "none"); err == nil {
		t.Error("of a place that is none")
	}
	if hits := d.Find("how do I set the fall"); len(hits) < 3 || hits[0].Code != "7B" || hits[1].Kind != "term" {
		t.Errorf("%v", hits)
	}
	_, err = d.AddFamily(ctx, d.rh, skua())
	d.ok(err)
	found := false
	for _, h := range d.Find("fall time") {
		found = found || h.Family == "Skua"
	}
	if !found {
		t.Error("a family that came in since is not searched")
	}
}

// What is no list is refused in one sentence: what was read, and what is wanted.
func TestWhatIsNoListIsSaidOnce(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	for raw, want := range map[string]string{
		"": `list: got line 1: "", want a list with a code and a value on each line`,
		"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1": "list: got a workbook that is protected by a password, or of the old kind (.xls), want .xlsx " +
			"without a password",
		"%PDF-1.7": "list: got a PDF: copy its table, and paste the text, want a list with a code and a name",
		"[FileInfo]\nFileName=x\n": "list: got no object in [MandatoryObjects], [OptionalObjects] or [ManufacturerObjects], want " +
			"the lists of CiA 306",
	} {
		if _, err := d.ReadList("x", []byte(raw), familyfile.Asked{}); err == nil || !strings.HasPrefix(err.Error(), want) {
			t.Errorf("%q: %v", raw, err)
		}
	}
}
