package gate_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/core/sheet"
	"tingate/formats/familyfile"
)

var now = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)

func job(d drivefile.Drive, entries []drivefile.Entry) gate.Job {
	return gate.Job{ID: "x", Drive: d, Place: sample.Place(), Family: familyfile.Find(d.Rating.Dialect), Entries: entries,
		Energy: map[string]isolation.SupplyState{"p1": {State: "live", Since: "2026-11-25T09:41:00.000Z",
			Volts: []string{"398", "401", "399"}}}}
}

func eval(d drivefile.Drive, entries []drivefile.Entry) gate.State {
	return gate.Evaluate(job(d, entries), now)
}

func check(s gate.State, key string) gate.Check {
	for _, g := range s.Gates {
		for _, c := range g.Checks {
			if c.Key == key {
				return c
			}
		}
	}
	return gate.Check{}
}

func mark(s gate.State, key string) gate.Mark {
	for _, g := range s.Gates {
		if g.Key == key {
			return g.Mark
		}
	}
	return ""
}

// readAll reads every planned setting back as planned.
func readAll(d drivefile.Drive, entries []drivefile.Entry, how drivefile.How) []drivefile.Entry {
	for _, l := range eval(d, nil).Lines {
		if l.Planned {
			entries = sample.Entry(entries, drivefile.EntryReading,
				drivefile.Reading{Code: l.Code, Text: l.SetTo, Steps: &l.Steps, How: how})
		}
	}
	return entries
}

func pass(entries []drivefile.Entry, gates ...string) []drivefile.Entry {
	for _, g := range gates {
		entries = sample.Entry(entries, drivefile.EntryDecision, drivefile.Decision{Type: "passed", Key: g})
	}
	return entries
}

func confirmed(entries []drivefile.Entry) []drivefile.Entry {
	entries = sample.Entry(entries, drivefile.EntryEvidence,
		drivefile.Evidence{Key: "signal/auto/left", Value: "confirmed", Basis: map[string]string{"command": "terminals"}})
	return sample.Entry(entries, drivefile.EntryEvidence,
		drivefile.Evidence{Key: "plate/poles/confirmed", Value: "confirmed", Basis: map[string]string{"poles": "4"}})
}

func TestADriveGoesThroughAllGates(t *testing.T) {
	d := sample.Dryer()
	s := eval(d, nil)
	if mark(s, "plate") != "work" || s.NextGate != "match" || s.Poles != 4 {
		t.Fatalf("%+v", s.Gates[0])
	}
	e := readAll(d, confirmed(nil), "typed")
	s = eval(d, e)
	for _, g := range s.Gates {
		if strings.Contains("plate span signal", g.Key) && g.Done != g.Total {
			t.Errorf("%s: %+v", g.Key, g.Checks)
		}
	}
	e = pass(e, "plate", "span", "signal")
	for _, g := range []string{"match", "dead", "power", "control", "wake", "stop", "turn", "tune"} { // each in checks_test.go
		e = sample.Entry(e, drivefile.EntryDecision,
			drivefile.Decision{Type: "waived", Key: "keep/gate/" + g, Reason: "commissioned earlier",
				Versions: map[string]string{"rules": "9"}})
	}
	for _, name := range []string{"as-found", "as-left"} {
		snap := drivefile.Snapshot{Name: name, Dialect: "Tarn", Values: map[string]drivefile.Value{}}
		for _, l := range s.Lines {
			if l.Planned {
				snap.Values[l.Code] = drivefile.Value{Steps: l.Steps, Text: l.SetTo}
			}
		}
		e = sample.Entry(e, drivefile.EntrySnapshot, snap)
	}
	e = pass(e, "keep")
	s = eval(d, e)
	if mark(s, "keep") != "passed" {
		t.Fatalf("kept: %s %s", s.Next, s.NextDetail)
	}
	// A change after passing: passed, but changed since; undone, it is passed again.
	before := d.Intent
	d.Intent.LowestSpeed = sample.Q("intent.lowest_speed", "500")
	s = eval(d, e)
	if mark(s, "span") != "barred" || mark(s, "keep") != "again" {
		t.Errorf("a limit that no longer agrees bars: span %s, keep %s", mark(s, "span"), mark(s, "keep"))
	}
	d.Intent = before
	d.Intent.HighestSpeed = sample.Q("intent.highest_speed", "1400") // 6B reads 50.0 Hz, as delivered
	if s = eval(d, e); mark(s, "span") != "again" || s.Worst != "do" {
		t.Errorf("a setting as delivered is to be entered: span %s, worst %s", mark(s, "span"), s.Worst)
	}
	d.Intent = before
	if s = eval(d, e); mark(s, "keep") != "passed" || mark(s, "span") != "passed" {
		t.Errorf("undone: %s", s.Next)
	}
}

// Each check fails for a bad figure.
func TestEachCheckFailsForABadFigure(t *testing.T) {
	good := readAll(sample.Dryer(), confirmed(nil), "typed")
	for _, c := range []struct {
		key     string
		verdict gate.Verdict
		spoil   func(*drivefile.Drive)
	}{
		{"plate/family/drive", gate.NotDone, func(d *drivefile.Drive) { d.Rating.Dialect = "" }},
		{"plate/family/drive", gate.Stops, func(d *drivefile.Drive) { d.Rating.Dialect = "Nobody" }},
		{"plate/family/drive", gate.NotDone, func(d *drivefile.Drive) { d.Rating.Current = drivefile.Q{} }},
		{"plate/complete/row", gate.NotDone, func(d *drivefile.Drive) { d.Motor.Linked = "" }},
		{"plate/complete/row", gate.NotDone, func(d *drivefile.Drive) { d.Motor.Rows = nil }},
		{"plate/complete/row", gate.NotDone, func(d *drivefile.Drive) {
			r := d.Motor.Rows[sample.Star]
			r.Current = drivefile.Q{}
			d.Motor.Rows[sample.Star] = r
		}},
		{"plate/findings/answered", gate.Again, func(d *drivefile.Drive) { set(d, "power", "7.5") }},    // without a unit
		{"plate/findings/answered", gate.Stops, func(d *drivefile.Drive) { set(d, "current", "16.5") }}, // the drive holds another
		{"plate/findings/answered", gate.Stops, func(d *drivefile.Drive) { set(d, "current", "sixteen") }},
		{"plate/poles/confirmed", gate.Again, func(d *drivefile.Drive) { set(d, "speed", "960") }},
		{"plate/readback/settings", gate.Again, func(d *drivefile.Drive) { set(d, "power", "7.6") }},
		{"span/complete/intent", gate.NotDone, func(d *drivefile.Drive) { d.Intent.Fall = drivefile.Q{} }},
		{"span/findings/answered", gate.Stops, func(d *drivefile.Drive) { d.Intent.LowestSpeed = sample.Q("intent.lowest_speed", "1500") }},
		{"span/findings/answered", gate.Stops, func(d *drivefile.Drive) { d.Intent.Rise = sample.Q("intent.rise", "0") }},
		{"span/readback/settings", gate.Again,
			func(d *drivefile.Drive) { d.Intent.CurrentLimit = sample.Q("intent.current_limit", "120") }},
		{"signal/complete/intent", gate.NotDone, func(d *drivefile.Drive) { d.Intent.SpeedSource = "" }},
		{"signal/findings/answered", gate.Stops, func(d *drivefile.Drive) { d.Intent.ReferenceHigh = d.Intent.ReferenceLow }},
		{"signal/readback/settings", gate.Again, func(d *drivefile.Drive) { d.Intent.CommandSource = "keypad" }},
		{"keep/gate/plate", gate.NotDone, func(*drivefile.Drive) {}},
		{"keep/snapshot/as-found", gate.NotDone, func(*drivefile.Drive) {}},
		{"keep/snapshot/as-left", gate.NotDone, func(*drivefile.Drive) {}},
	} {
		if !strings.HasPrefix(c.key, "keep") {
			if v := check(eval(sample.Dryer(), good), c.key).Verdict; v != gate.Holds {
				t.Errorf("%s must hold on the sound drive, got %s", c.key, v)
			}
		}
		d := sample.Dryer()
		c.spoil(&d)
		if got := check(eval(d, good), c.key); got.Verdict != c.verdict {
			t.Errorf("%s: want %s, got %+v", c.key, c.verdict, got)
		}
	}
}

func set(d *drivefile.Drive, field, text string) {
	body := drivefile.FromStruct(*d)
	f, err := drivefile.Lookup(drivefile.KindDrive, "motor.rows."+sample.Star+"."+field)
	if err != nil {
		panic(err)
	}
	v, _, _ := f.Entry(text)
	if err := body.Apply([]drivefile.Op{{Path: f.Path, New: v}}); err != nil {
		panic(err)
	}
	*d, _ = drivefile.DecodeDrive(body.JSON())
}

func TestAKeptFindingReopensWhenItsBasisChanges(t *testing.T) {
	d := sample.Dryer()
	set(&d, "current", "16.5")
	s := eval(d, nil)
	var e []drivefile.Entry
	for _, f := range s.Findings {
		if f.Severity.Open() && f.Gate == "plate" {
			e = sample.Entry(e, drivefile.EntryDecision, drivefile.Decision{Type: "kept", Key: f.Key, Reason: "rewound", Basis: f.Basis()})
		}
	}
	if c := check(eval(d, e), "plate/findings/answered"); c.Verdict != gate.Holds {
		t.Errorf("kept findings are answered: %+v", c)
	}
	set(&d, "current", "16.6")
	s = eval(d, e)
	if c := check(s, "plate/findings/answered"); c.Verdict != gate.Again {
		t.Errorf("another value asks again: %+v", c)
	}
	if !s.Findings[0].Reopen {
		t.Errorf("it says that it was kept before: %+v", s.Findings[0])
	}
	set(&d, "current", "16.5")
	if c := check(eval(d, e), "plate/findings/answered"); c.Verdict != gate.Holds {
		t.Errorf("undone, the answer stands again: %+v", c)
	}
	w := sample.Entry(e, drivefile.EntryWithdrawal, drivefile.Withdrawal{Entry: e[0].ID})
	if c := check(eval(d, w), "plate/findings/answered"); c.Verdict != gate.Again {
		t.Errorf("withdrawn, it is open: %+v", c)
	}
}

func TestProtectionIsNotAgreedByEyeAndHalfWritesStop(t *testing.T) {
	d := sample.Dryer()
	e := readAll(d, nil, "eye")
	s := eval(d, e)
	for _, l := range s.Lines {
		want := sheet.Holds
		if l.Protects {
			want = sheet.NotRead
		}
		if l.Planned && l.Verdict != want {
			t.Errorf("%s by eye: %s, want %s", l.Code, l.Verdict, want)
		}
	}
	e = readAll(d, nil, "typed")
	e = sample.Entry(e, drivefile.EntryWrite, drivefile.Write{Code: "4D", Asked: 155, Outcome: "begun"})
	s = eval(d, e)
	if s.Worst != "stop" || !strings.Contains(s.WorstTitle, "4D may be half written") {
		t.Errorf("a begun write without outcome: %s %s", s.Worst, s.WorstTitle)
	}
	steps := int64(155)
	e = sample.Entry(e, drivefile.EntryReading, drivefile.Reading{Code: "4D", Text: "15.5", Steps: &steps, How: "link"})
	if s = eval(d, e); s.Worst == "stop" {
		t.Errorf("read again, it is known: %s", s.WorstTitle)
	}
}

func TestWaiversNeedNoProofButNeverCoverWhatStops(t *testing.T) {
	d := sample.Dryer()
	e := sample.Entry(nil, drivefile.EntryDecision,
		drivefile.Decision{Type: "waived", Key: "plate/readback/settings", Reason: "keypad broken"})
	if c := check(eval(d, e), "plate/readback/settings"); c.Verdict != gate.Waived || c.Reason != "keypad broken" {
		t.Errorf("%+v", c)
	}
	e = sample.Entry(nil, drivefile.EntryDecision, drivefile.Decision{Type: "waived", Key: "plate/findings/answered", Reason: "no"})
	set(&d, "speed", "1500")
	if c := check(eval(d, e), "plate/findings/answered"); c.Verdict != gate.Stops {
		t.Errorf("what stops stays: %+v", c)
	}
}

func TestUnknownEnergyIsTreatedAsLive(t *testing.T) {
	j := job(sample.Dryer(), nil)
	if e := gate.Evaluate(j, now).Energy; e.State != "live" || !strings.Contains(e.Text, "398") {
		t.Errorf("%+v", e)
	}
	if e := gate.Evaluate(j, now.Add(-6*time.Hour)).Energy; e.State != "not-known" {
		t.Errorf("a clock that stepped back: %+v", e)
	}
	j.Energy = nil
	if e := gate.Evaluate(j, now).Energy; e.State != "not-known" {
		t.Errorf("nothing recorded: %+v", e)
	}
	j.Drive.Supplies = nil
	if e := gate.Evaluate(j, now).Energy; e.State != "not-known" {
		t.Errorf("no supply named: %+v", e)
	}
}

func TestASheetIsTranslatedToTheOtherFamily(t *testing.T) {
	d := sample.Dryer()
	d.Rating.Dialect = "Brae"
	got := map[string]string{}
	for _, l := range eval(d, nil).Lines {
		got[l.Code] = l.SetTo
	}
	for code, want := range map[string]string{"motor.power": "10.06 hp", "protect.overload": "15.5 A", "ramp.up": "8.00 s",
		"limit.fastest": "1500 r/min", "limit.slowest": "405 r/min"} {
		if got[code] != want {
			t.Errorf("%s: %s, want %s (without slip compensation this family counts the field's speed)", code, got[code], want)
		}
	}
}

func TestStateIsAlwaysJSON(t *testing.T) {
	for _, d := range []drivefile.Drive{{}, {Rating: drivefile.Rating{Dialect: "Tarn"}}, sample.Dryer()} {
		b, err := json.Marshal(eval(d, nil))
		if err != nil || strings.Contains(string(b), "null") {
			t.Errorf("a list must never be null: %v %s", err, b)
		}
	}
	for _, text := range []string{"", "0", "-1", "1e300", "abc", "1500", "0.0001"} {
		d := sample.Dryer()
		for _, f := range []string{"voltage", "frequency", "power", "current", "speed", "power_factor"} {
			set(&d, f, text)
			if _, err := json.Marshal(eval(d, nil)); err != nil {
				t.Errorf("%s = %q: %v", f, text, err)
			}
		}
	}
}

func BenchmarkEvaluate300Entries(b *testing.B) {
	d := sample.Dryer()
	var e []drivefile.Entry
	for range 10 {
		e = readAll(d, e, "typed")
	}
	j := job(d, e[:300])
	wired := j
	wired.Drive, wired.Place = matched()
	for name, j := range map[string]gate.Job{"entries": j, "entries, stated and wired": wired} {
		b.Run(fmt.Sprint(len(j.Entries), " ", name), func(b *testing.B) {
			for b.Loop() {
				gate.Evaluate(j, now)
			}
		})
	}
}

// A motor with its own fan at a quarter of its speed bears no full torque for ever (common practice); with a fan of its own drive it does,
// and a fan's load is light there.
func TestTheLowestSpeedIsHeldAgainstTheFan(t *testing.T) {
	d := sample.Dryer()
	d.Motor.Cooling = "own-fan"
	f, ok := findingOf(eval(d, nil), "too-slow-for-its-fan")
	if !ok || !strings.Contains(f.Detail, "100 %") || !strings.Contains(f.Detail, "64.") {
		t.Errorf("%v %s", ok, f.Detail)
	}
	for _, change := range []func(){func() { d.Motor.Cooling = "forced" }, func() {
		d.Motor.Cooling, d.Intent.Load = "own-fan",
			"quadratic"
	}} {
		change()
		if f, ok := findingOf(eval(d, nil), "too-slow-for-its-fan"); ok {
			t.Errorf("%s", f.Detail)
		}
	}
}

// Points measured at the terminal are held against what is wanted, and the setting is named that mends the line.
func TestMeasuredPointsNameTheSetting(t *testing.T) {
	points := func(l ...string) drivefile.Drive {
		d := sample.Dryer()
		d.Signal.Points = map[string]drivefile.MeasuredPoint{}
		for i := 0; i+1 < len(l); i += 2 {
			d.Signal.Points[fmt.Sprint("p", i)] = drivefile.MeasuredPoint{In: sample.Q("signal.points.x.in", l[i]),
				Out: sample.Q("signal.points.x.out", l[i+1])}
		}
		return d
	}
	if f, ok := findingOf(eval(points("0.5", "73", "9.5", "1380"), nil), "reference-measured"); ok {
		t.Errorf("a line that fits: %s", f.Detail)
	}
	for title, x := range map[string]struct {
		action string
		d      drivefile.Drive
	}{"slope": {"8E", points("0", "0", "10", "1300")}, "shifted": {"8D", points("0", "90", "10", "1545")},
		"inverted": {"not both", points("0", "1455", "10", "0")},
		"no line":  {"Measure again", points("0", "0", "5", "1400", "10", "1455")}} {
		f, ok := findingOf(eval(x.d, nil), "reference-measured")
		if !ok || !strings.Contains(f.Title, title) || !strings.Contains(f.Action, x.action) || f.Gate != "signal" {
			t.Errorf("%s: %v %s, %s", title, ok, f.Title, f.Action)
		}
	}
	if _, ok := findingOf(eval(points("5", "700"), nil), "reference-measured"); ok {
		t.Error("one point makes no line")
	}
}
