package record_test

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/record"
)

// Every kind of entry with what it leaves, by whom and when.
func TestWhatEachEntryLeaves(t *testing.T) {
	list := of(
		drivefile.Reading{Code: "4A", Text: "7", Steps: steps(7), How: "voice", ReadBy: "TK", Problem: "faint", Serial: "T1"},
		drivefile.Entered{Code: "4A", Text: "8", Steps: 8, Serial: "T1"},
		drivefile.Write{Code: "4B", Asked: 9, Outcome: "held", ReadBack: steps(9), BackText: "9 Hz", Serial: "T1"},
		drivefile.Evidence{Key: "power/earth/first", Value: "confirmed"},
		drivefile.Evidence{Key: "power/earth/first", Value: "again"},
		drivefile.Decision{Type: "passed", Key: "power", Reason: "done"},
		drivefile.Snapshot{Name: "as-found", Values: map[string]drivefile.Value{"4A": {Steps: 7}}, Serial: "T1"},
		drivefile.Temporary{What: "jumper", Where: "S1", Why: "a test", Until: "noon"},
		drivefile.Temporary{What: "cover", Where: "X1"},
		drivefile.Temporary{What: "valve", Where: "V1"},
		drivefile.Temporary{Gone: "e8"},
	)
	raw, _ := json.Marshal(drivefile.Attachment{Of: "drive-label", Name: "label.png"})
	list = append(list, drivefile.Entry{ID: "e11", Seq: 11, Kind: drivefile.EntryAttachment, By: "rh", At: "2026-11-25T10:00:00.000Z",
		Body: raw})
	r := record.Of(drive("T1"), plant, list)
	at := func(i int) string { return list[i].At }
	if x := r.Reads["4A"]; x == nil || x.Text != "7" || *x.Steps != 7 || x.How != "voice" || x.Voice != "TK" || x.Problem != "faint" ||
		x.By != "rh" || x.At != at(0) || x.Entry != "e0" || r.LastRead["4A"] != 0 {
		t.Errorf("%+v", x)
	}
	if x := r.Entered["4A"]; x == nil || x.Text != "8" || x.Steps != 8 || x.By != "rh" || x.At != at(1) || x.Entry != "e1" {
		t.Errorf("%+v", x)
	}
	if x := r.Written["4B"]; x == nil || x.Steps != 9 || x.Outcome != "held" || x.By != "rh" || x.At != at(2) || x.Entry != "e2" {
		t.Errorf("%+v", x)
	}
	if x := r.Reads["4B"]; x == nil || x.Text != "9 Hz" || x.How != "written" || x.Entry != "e2" || r.LastRead["4B"] != 2 ||
		len(r.Pending) != 0 {
		t.Errorf("what was read back after a write: %+v", x)
	}
	if r.Evidence["power/earth/first"].Value != "again" || r.EvidenceEntries["power/earth/first"].ID != "e4" ||
		len(r.Series["power/earth/first"]) != 2 || r.Series["power/earth/first"][0].ID != "e3" {
		t.Errorf("%+v", r.Series)
	}
	if r.Decisions["passed power"].Reason != "done" || r.DecisionEntries["passed power"].ID != "e5" {
		t.Errorf("%+v", r.Decisions)
	}
	if len(r.Snapshots) != 1 || r.SnapshotEntries[0].ID != "e6" || !r.OfThis[0] || r.Snapshots[0].Values["4A"].Steps != 7 {
		t.Errorf("%+v %v", r.Snapshots, r.OfThis)
	}
	if len(r.Things) != 2 || r.Things[0] != (record.TemporaryThing{Entry: "e7", What: "jumper", Where: "S1", Why: "a test", Until: "noon",
		By: "rh", At: at(7)}) || r.Things[1].What != "valve" {
		t.Errorf("%+v", r.Things)
	}
	if len(r.Attached) != 1 || r.Attached[0].ID != "e11" || r.Attached[0].Of != "drive-label" || r.Attached[0].By != "rh" {
		t.Errorf("%+v", r.Attached)
	}
	if !r.DoneBy([]string{"x", "power/earth/first"}, "rh") || r.DoneBy([]string{"power/earth/first"}, "tk") ||
		r.DoneBy([]string{"x"}, "rh") || r.DoneBy(nil, "rh") || r.DoneBy([]string{"x"}, "") {
		t.Error("who answered a check")
	}
}

// A body that cannot be read leaves nothing, whatever its kind; nor does what another drive said.
func TestWhatCannotBeReadLeavesNothing(t *testing.T) {
	kinds := []string{drivefile.EntryReading, drivefile.EntryEntered, drivefile.EntryWrite, drivefile.EntryEvidence,
		drivefile.EntryDecision, drivefile.EntrySnapshot, drivefile.EntryTemporary, drivefile.EntryAttachment, drivefile.EntryWithdrawal}
	var list []drivefile.Entry
	for i, k := range kinds {
		list = append(list, drivefile.Entry{ID: k, Seq: int64(i), Kind: k, Body: []byte(`["no object"]`)})
	}
	r := record.Of(drive("T1"), plant, list)
	if n := len(r.Reads) + len(r.Entered) + len(r.Written) + len(r.Pending) + len(r.Evidence) + len(r.Series) + len(r.Decisions) +
		len(r.Snapshots) + len(r.Things) + len(r.Attached) + len(r.LastRead); n != 0 {
		t.Errorf("%+v", r)
	}
	r = record.Of(drive("T1"), plant,
		of(drivefile.Reading{Code: "4A", Text: "7", Serial: "T2"}, drivefile.Entered{Code: "4A", Serial: "T2"},
			drivefile.Write{Code: "4A", Outcome: "begun", Serial: "T2"}, drivefile.Snapshot{Name: "as-left", Serial: "T2"}))
	if n := len(r.Reads) + len(r.Entered) + len(r.Written) + len(r.Pending) + len(r.LastRead); n != 0 || r.OfThis[0] ||
		r.Machines.Foreign[record.DriveSerial] != "T2" {
		t.Errorf("of another drive: %+v", r)
	}
}

// A return to delivery state makes void what was read, set, sent, left as delivered, tuned and kept as left; nothing else, and only when it
// was done.
func TestWhatADeliveryResetMakesVoid(t *testing.T) {
	before := []any{
		drivefile.Reading{Code: "4A", Text: "7", Steps: steps(7), How: "typed", Serial: "T1"},
		drivefile.Entered{Code: "4A", Text: "8", Steps: 8, Serial: "T1"},
		drivefile.Write{Code: "4B", Asked: 9, Outcome: "held", Serial: "T1"},
		drivefile.Write{Code: "4C", Asked: 9, Outcome: "begun", Serial: "T1"}, drivefile.Evidence{Key: "tune/ended/shown", Value: "ended"},
		drivefile.Evidence{Key: "power/earth/first", Value: "confirmed"},
		drivefile.Decision{Type: "as-delivered", Key: "4D"}, drivefile.Decision{Type: "passed", Key: "power"},
		drivefile.Snapshot{Name: "as-left", Serial: "T1"}, drivefile.Snapshot{Name: "as-found", Serial: "T1"},
	}
	count := func(r record.Record) [8]int {
		left := 0
		for i, ok := range r.OfThis {
			if ok && r.Snapshots[i].Name == "as-left" {
				left++
			}
		}
		return [8]int{len(r.Reads), len(r.Entered), len(r.Written), len(r.Pending), len(r.LastRead), len(r.Evidence), len(r.Decisions),
			left}
	}
	if got := count(record.Of(drive("T1"), plant, of(before...))); got != [8]int{1, 1, 2, 1, 1, 2, 2, 1} {
		t.Fatalf("before: %v", got)
	}
	r := record.Of(drive("T1"), plant, of(append(slices.Clone(before), drivefile.Evidence{Key: record.DeliveryReset, Value: "done"})...))
	if got := count(r); got != [8]int{0, 0, 0, 0, 0, 2, 1, 0} {
		t.Errorf("after: %v", got)
	}
	for _, gone := range []bool{len(r.Series["tune/ended/shown"]) == 0, r.EvidenceEntries["tune/ended/shown"].ID == "",
		r.Evidence["power/earth/first"].Value == "confirmed", r.DecisionEntries["as-delivered 4D"].ID == "",
		r.DecisionEntries["passed power"].ID != "", r.OfThis[1]} {
		if !gone {
			t.Errorf("%+v", r)
		}
	}
	not := record.Of(drive("T1"), plant,
		of(append(slices.Clone(before), drivefile.Evidence{Key: record.DeliveryReset, Value: "not-needed"})...))
	if got := count(not); got != [8]int{1, 1, 2, 1, 1, 3, 2, 1} {
		t.Errorf("it was not done: %v", got)
	}
}

// Which machines an answer rests on: the drive, the motor, both, or none.
func TestOnWhatAnswersRest(t *testing.T) {
	m := record.Of(drive("T1"), plant, nil).Machines
	for key, want := range map[string]string{
		"match/arrival/undamaged": "", "dead/shaft/blocked": "", "tune/kind/chosen": "", "stop/set/chosen": "",
		"plate/poles/confirmed": "motor", "turn/seen/shaft": "drive motor", "tune/ended/shown": "drive motor",
		"power/earth/first": "drive", "power/links/fitted": "motor", "power/insulation/motor": "motor", "power/winding/1": "motor",
		"power/motor/x":     "motor",
		"control/landed/11": "drive", "wake/line/1": "drive", "stop/test/x": "drive", "signal/auto/left": "drive", "span/x": "drive",
	} {
		gate, _, _ := strings.Cut(key, "/")
		own := map[string]string{"own": "1"}
		b := m.BasisFor(gate, key, own)
		var on []string
		if b[record.DriveSerial] == "T1" {
			on = append(on, "drive")
		}
		if b[record.MotorSerial] == "2207-0418" {
			on = append(on, "motor")
		}
		if got := strings.Join(on, " "); got != want || b["own"] != "1" || len(own) != 1 || len(b) != 1+len(on) {
			t.Errorf("%s rests on %q, want %q: %v", key, got, want, b)
		}
	}
}

// Evidence stands while its basis is the same, of the same machines by whatever name they stood in it.
func TestWhenEvidenceStands(t *testing.T) {
	m := record.Of(drive("T1"), plant, nil).Machines
	basis := m.BasisFor("turn", "turn/seen/shaft", map[string]string{"sense": "left"})
	for name, c := range map[string]struct {
		have map[string]string
		want string
	}{
		"the same": {map[string]string{"sense": "left", record.DriveSerial: "T1", record.MotorSerial: "2207-0418"},
			""},
		"written otherwise": {map[string]string{"sense": "left", record.DriveSerial: " t 1",
			record.MotorSerial: "2207-0418"}, ""},
		"under the older names": {map[string]string{"sense": "left", "drive": "T1", "motor": "2207-0418"}, ""},
		"another drive": {map[string]string{"sense": "left", record.DriveSerial: "T2", record.MotorSerial: "2207-0418"},
			"another drive, serial T2"},
		"another motor": {map[string]string{"sense": "left", record.DriveSerial: "T1", record.MotorSerial: "99"},
			"another motor, serial 99"},
		"another motor, the older name": {map[string]string{"sense": "left", "drive": "T1", "motor": "99"}, "another motor, serial 99"},
		"another value": {map[string]string{"sense": "right", record.DriveSerial: "T1", record.MotorSerial: "2207-0418"},
			"before a value changed"},
		"a value more": {map[string]string{"sense": "left", "more": "1", record.DriveSerial: "T1",
			record.MotorSerial: "2207-0418"}, "before a value changed"},
		"a value less": {map[string]string{record.DriveSerial: "T1", record.MotorSerial: "2207-0418"},
			"before a value changed"},
		"another isolation": {map[string]string{"sense": "left", "isolation": "x", record.DriveSerial: "T1",
			record.MotorSerial: "2207-0418"}, "before it was isolated again"},
		"no serials at all":      {map[string]string{"sense": "left"}, "Serial not recorded"},
		"the motor's is missing": {map[string]string{"sense": "left", record.DriveSerial: "T1"}, "of this motor"},
		"another value and another drive": {map[string]string{"sense": "right", record.DriveSerial: "T2", record.MotorSerial: "2207-0418"},
			"before a value changed"},
	} {
		ok, why := m.Stands(basis, drivefile.Evidence{Basis: maps.Clone(c.have)})
		if ok != (c.want == "") || !strings.Contains(why, c.want) {
			t.Errorf("%s: %v %q, want %q", name, ok, why, c.want)
		}
	}
	none := record.Of(drive(""), plant, nil).Machines
	if ok, why := none.Stands(none.BasisFor("power", "power/earth/first", nil),
		drivefile.Evidence{Basis: map[string]string{record.DriveSerial: "T1"}}); ok || !strings.Contains(why, "no serial is entered now") {
		t.Errorf("no serial is entered: %v %s", ok, why)
	}
	links := m.BasisFor("power", "power/links/fitted", nil)
	for serial, want := range map[string]bool{"2207-0418": true,
		"99": false} { // "serial" was the motor's where a check rests on the motor alone
		if ok, _ := m.Stands(links, drivefile.Evidence{Basis: map[string]string{"serial": serial}}); ok != want {
			t.Errorf("links of serial %s stand: %v", serial, ok)
		}
	}
	earth := m.BasisFor("power", "power/earth/first", nil)
	for serial, want := range map[string]bool{"T1": true, "T2": false} {
		if ok, _ := m.Stands(earth, drivefile.Evidence{Basis: map[string]string{"serial": serial}}); ok != want {
			t.Errorf("earth of serial %s stands: %v", serial, ok)
		}
	}
	bench := drivefile.Evidence{Basis: basis, Instrument: record.OnBench}
	demo := record.Of(drive("T1"), drivefile.Place{Kind: drivefile.Simulated}, nil).Machines
	if ok, _ := demo.Stands(basis, bench); !ok {
		t.Error("in a simulated place the bench is the machine")
	}
	if ok, _ := m.Stands(basis, bench); ok {
		t.Error("in a real place the bench is the machine")
	}
}

// A serial that is not legible is one, and the same for ever; who corrects a number says so of a drive or a motor, and means it is the
// same.
func TestSerials(t *testing.T) {
	d := drive(" T1 ")
	if record.SerialOf(d) != "T1" {
		t.Errorf("%q", record.SerialOf(d))
	}
	d.Rating.NoSerial = true
	if record.SerialOf(d) != "T1" {
		t.Error("a number that is there is not legible")
	}
	d.Rating.Serial = " "
	if record.SerialOf(d) != record.NotLegible {
		t.Errorf("%q", record.SerialOf(d))
	}
	d.Rating.NoSerial = false
	if record.SerialOf(d) != "" {
		t.Errorf("%q", record.SerialOf(d))
	}
	for _, c := range []struct {
		key, value string
		want       bool
	}{{record.SerialSameDrive, "same", true}, {record.SerialSameMotor, "same", true}, {record.SerialSameDrive, "another", false},
		{record.SerialSameMotor, "another", false}, {record.SerialBefore, "same", false}, {"power/earth/first", "same", false}} {
		if got := record.Mistyped(c.key, c.value); got != c.want {
			t.Errorf("%s %s: %v", c.key, c.value, got)
		}
	}
	r := record.Of(drive("T1"), plant, of(drivefile.Evidence{Key: "power/earth/first", Value: "confirmed"}))
	if !r.Machines.Without || r.Machines.Carried {
		t.Error("what was recorded without a serial is not asked about")
	}
	said := record.Of(drive("T1"), plant,
		of(drivefile.Evidence{Key: record.SerialBefore, Value: "confirmed",
			Basis: map[string]string{record.DriveSerial: "T1", record.MotorSerial: "2207-0418"}}))
	other := record.Of(drive("T2"), plant,
		of(drivefile.Evidence{Key: record.SerialBefore, Value: "confirmed",
			Basis: map[string]string{record.DriveSerial: "T1", record.MotorSerial: "2207-0418"}}))
	if !said.Machines.Carried || other.Machines.Carried || said.Machines.Without {
		t.Error("what was said of one drive is said of another")
	}
	if m := record.Of(drive(""), plant, of(drivefile.Evidence{Key: "power/earth/first", Value: "confirmed"})).Machines; m.Without ||
		len(m.Foreign) != 0 {
		t.Errorf("nobody has said a serial: %+v", m)
	}
}
