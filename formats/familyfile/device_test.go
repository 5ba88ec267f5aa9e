package familyfile

import (
	"os"
	"strconv"
	"strings"
	"testing"

	"tingate/core/dialect"
	"tingate/formats/devicefile"
	"tingate/testtools/check"
)

// What a description holds becomes rows: the profile's objects with unit and role, the maker's own with a mark, commands never.
func TestADescriptionBecomesRows(t *testing.T) {
	raw, err := os.ReadFile("testdata/gannet.eds")
	if err != nil {
		t.Fatal(err)
	}
	l, err := FromDevice(raw)
	if err != nil {
		t.Fatal(err)
	}
	rows := map[string]DraftRow{}
	for _, r := range l.Draft.Rows {
		rows[r.Code] = r
	}
	for code, want := range map[string]DraftRow{
		"6046h:02": {Kind: "number", Unit: "r/min", Max: "24000", Delivery: "1500", Intent: "speed.highest", Convention: "shaft-as-rpm",
			ObjectType: "u32"},
		"6048h:02": {Kind: "number", Unit: "s", Max: "65535", Delivery: "5", Intent: "ramp.rise.time", Convention: "slope-time",
			ObjectType: "u16"},
		"604Ah:01": {Kind: "number", Unit: "r/min", Max: "4294967295", Delivery: "1500", Drives: "quick-stop-dv", ObjectType: "u32"},
		"6073h:00": {Kind: "number", Unit: "‰", Max: "3000", Delivery: "1500", Intent: "limit.current",
			Convention: "per-thousand-of-motor", ObjectType: "u16"},
		"605Ch:00": {Kind: "choice", Max: "", Delivery: "1", Intent: "choice.stop_mode", Convention: "choice", ObjectType: "s16"},
		"2001h:03": {Kind: "number", Max: "4000", Delivery: "500", ObjectType: "u16"},
		"2004h:00": {Kind: "text", Max: "24", Delivery: "Gannet", ObjectType: "text"},
	} {
		r, has := rows[code]
		if !has || r.Kind != want.Kind || r.Unit != want.Unit || r.Max != want.Max || r.Delivery != want.Delivery ||
			r.Intent != want.Intent ||
			r.Convention != want.Convention || r.ObjectType != want.ObjectType ||
			r.Drives != want.Drives {
			t.Errorf("%s:\n got %+v\nwant %+v", code, r, want)
		}
	}
	for code, unit := range map[string]string{"6046h:02": "r/min", "6048h:02": "s", "6073h:00": "‰", "6075h:00": "mA"} {
		check.Says(t, "unit of object "+code, "drive profile CiA 402-2; from memory", rows[code].Unit, unit)
	}
	if r := rows["2001h:03"]; !strings.Contains(r.Why, "neither the unit nor how fine") || !strings.Contains(r.Why, "motor frequency") ||
		r.Intent != "" {
		t.Errorf("a maker's object is not taken silently: %+v", r)
	}
	left := strings.Join(l.Left, "\n")
	for _, want := range []string{"6040 Controlword: controlword: a command, never a setting",
		"6840 Controlword of the second axis: controlword",
		"6041 Statusword: read only", "1017 Producer heartbeat time: communication", "6046:00", "2005 Start tune: write only",
		"2006 Table: data type"} {
		if !strings.Contains(left, want) {
			t.Errorf("%q is not said:\n%s", want, left)
		}
	}
	if len(l.Draft.Rows)+len(l.Left) != l.Total {
		t.Errorf("%d rows, %d left out, of %d", len(l.Draft.Rows), len(l.Left), l.Total)
	}
	l.Draft.Name, l.Draft.Source, l.Draft.SourceKind, l.Draft.By = "Gannet", "gannet.eds", "device", "R. Vane"
	f, _, problems := Build(l.Draft, nil)
	if problems != nil {
		t.Fatalf("%+v", problems)
	}
	s, _ := f.Setting("604Ah:01")
	if s.Drives != "quick-stop-dv" || s.Source.Words() != "from a device description, gannet.eds, object 604A:01, by R. Vane" {
		t.Errorf("%+v", s)
	}
}

// A family that speaks of objects, written as a configuration and read back: every setting with its range, its delivery value and its plan.
func TestAPlanAsAConfiguration(t *testing.T) {
	f := Find("Voe")
	values := map[string]dialect.Held{"6075h:00": {Steps: 15500}, "2001h:03": {Steps: 500}, "6403h:00": {Text: "K-7 | 11"}}
	d, left := DeviceOf(f, values, "p-104.dcf", 3)
	if len(left) > 0 || len(d.Objects) != len(f.Settings) {
		t.Fatalf("%d objects, left %q", len(d.Objects), left)
	}
	got, err := devicefile.Read(devicefile.Write(d))
	if err != nil || len(got.Notes) > 0 || got.Node != 3 {
		t.Fatalf("%v %q", err, got.Notes)
	}
	seen := map[string]devicefile.Object{}
	for _, o := range got.Objects {
		seen[dialect.ObjectCode(o.Index, o.Sub)] = o
	}
	for i := range f.Settings {
		s := &f.Settings[i]
		o, has := seen[s.Code]
		if !has {
			t.Errorf("%s is missing", s.Code)
			continue
		}
		if low, high, ok := s.CountRange(); ok && (o.Low != strconv.FormatInt(low, 10) || o.High != strconv.FormatInt(high, 10)) {
			t.Errorf("%s: %s to %s, want %d to %d", s.Code, o.Low, o.High, low, high)
		}
		want := ""
		if v, ok := values[s.Code]; ok {
			want = s.Counts(v)
		}
		if o.Value != want {
			t.Errorf("%s holds %q, want %q", s.Code, o.Value, want)
		}
	}
	if o := seen["6075h:00"]; o.Value != "15500" || o.Type != devicefile.Unsigned32 {
		t.Errorf("%+v", o)
	}
	// A family whose settings are no objects has nothing to put into such a file: what is planned is named.
	if d, left := DeviceOf(
		Find("Tarn"),
		map[string]dialect.Held{"4D": {Steps: 155}},
		"",
		1,
	); len(d.Objects) != 0 || len(left) != 1 ||
		left[0] != "4D" {
		t.Errorf("%d objects, left %q", len(d.Objects), left)
	}
}

func FuzzFromDevice(f *testing.F) {
	raw, err := os.ReadFile("testdata/gannet.eds")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(raw)
	f.Fuzz(func(t *testing.T, raw []byte) {
		l, err := FromDevice(raw)
		if err != nil {
			return
		}
		l.Draft.Name = "Fuzz"
		fam, _, problems := Build(l.Draft, nil)
		if (fam == nil) == (problems == nil) {
			t.Errorf("neither a family nor a reason: %v %v", fam, problems)
		}
	})
}
