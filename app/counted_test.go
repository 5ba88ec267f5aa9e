package app_test

import (
	"fmt"
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/formats/devicefile"
)

// Where a drive counts its speeds otherwise than it is delivered, whatever is read, written out or compared counts so too.
func TestCountedAlikeEverywhere(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	for _, s := range [][2]string{{"rating.dialect", "Voe"}, {"intent.preset_1", "600"}, {"intent.preset_2", "900"},
		{"intent.preset_3", "1200"},
		{"intent.jog", "150"}} {
		d.set(d.rh, id, s[0], s[1])
	}
	saved := func() string {
		t.Helper()
		for _, code := range []string{"2004h:07", "2004h:02"} {
			if l := line(d.view(id), code); l.Planned {
				d.ok(d.Read(ctx, d.rh, id, base.NewID(), code, l.SetTo))
			} else {
				d.ok(d.Read(ctx, d.rh, id, base.NewID(), code, "percent"))
			}
		}
		sid := base.NewID()
		d.ok(d.Snapshot(ctx, d.rh, id, sid, "as-left", ""))
		return sid
	}
	percent := saved()
	d.set(d.rh, id, "intent.speed_unit", "rpm")
	want := line(d.view(id), "2004h:02")
	if want.Unit != "r/min" || want.Steps < 600 || want.Steps > 700 {
		t.Fatalf("%+v", want)
	}
	rpm := saved()
	res, err := d.ReadCSV(ctx, d.rh, id, []byte("code,value\n2004h:02,"+strings.TrimSuffix(want.SetTo, " r/min")+"\n"))
	if err != nil || res.Read != 1 {
		t.Fatal(res, err)
	}
	if l := line(d.view(id), "2004h:02"); l.Verdict != "holds" || l.Read.Shown != want.SetTo {
		t.Errorf("out of a list: %+v", l.Read)
	}
	raw, err := d.Configuration(ctx, id, 1)
	d.ok(err)
	file, err := devicefile.Read(raw)
	d.ok(err)
	in := false
	for _, o := range file.Objects {
		if o.Index == 0x2004 && o.Sub == 2 {
			in = true
			if o.Value != fmt.Sprint(want.Steps) || o.High != "24000" {
				t.Errorf("in the configuration file: %+v, want %d", o, want.Steps)
			}
		}
	}
	if !in {
		t.Error("it is not in the configuration file")
	}
	rows, err := d.Compare(ctx, id, percent, rpm)
	d.ok(err)
	for _, r := range rows {
		if r.Code == "2004h:02" && r.Unit != "% and r/min" {
			t.Errorf("compared: %+v", r)
		}
	}
}
