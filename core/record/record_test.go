package record_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/record"
)

// of is a list of entries, in their order.
func of(bodies ...any) []drivefile.Entry {
	kinds := map[string]string{"drivefile.Reading": drivefile.EntryReading, "drivefile.Evidence": drivefile.EntryEvidence,
		"drivefile.Decision": drivefile.EntryDecision, "drivefile.Snapshot": drivefile.EntrySnapshot,
		"drivefile.Write": drivefile.EntryWrite, "drivefile.Entered": drivefile.EntryEntered,
		"drivefile.Temporary": drivefile.EntryTemporary, "drivefile.Withdrawal": drivefile.EntryWithdrawal}
	var l []drivefile.Entry
	for i, b := range bodies {
		raw, err := json.Marshal(b)
		if err != nil {
			panic(err)
		}
		l = append(l, drivefile.Entry{ID: fmt.Sprintf("e%d", i), Seq: int64(i), Kind: kinds[fmt.Sprintf("%T", b)], By: "rh",
			At: fmt.Sprintf("2026-11-25T09:%02d:00.000Z", i), Body: raw})
	}
	return l
}

func drive(serial string) drivefile.Drive {
	var d drivefile.Drive
	d.Rating.Serial, d.Motor.Serial = serial, "2207-0418"
	return d
}

var plant = drivefile.Place{Kind: drivefile.Real}

func steps(n int64) *int64 { return &n }

// What is withdrawn counts as never said; what came last counts; a write that was begun is pending until its outcome, or a reading, is
// there.
func TestWhatStands(t *testing.T) {
	read := func(text string) drivefile.Reading {
		return drivefile.Reading{Code: "4A", Text: text, Steps: steps(7), How: "typed", Serial: "T1"}
	}
	eye := read("8")
	eye.How = "eye"
	begun := drivefile.Write{Code: "4A", Asked: 9, Outcome: "begun", Serial: "T1"}
	for name, c := range map[string]struct {
		list    []drivefile.Entry
		read    string
		pending bool
	}{
		"read":                    {of(read("7")), "7", false},
		"read twice":              {of(read("7"), read("8")), "8", false},
		"the second withdrawn":    {of(read("7"), read("8"), drivefile.Withdrawal{Entry: "e1"}), "7", false},
		"a write begun":           {of(read("7"), begun), "7", true},
		"begun, then seen by eye": {of(begun, eye), "8", true},
		"begun, then read":        {of(begun, read("7")), "7", false},
		"begun, and not known":    {of(begun, drivefile.Write{Code: "4A", Asked: 9, Outcome: "unknown", Serial: "T1"}), "", true},
		"written and held": {of(begun,
			drivefile.Write{Code: "4A", Asked: 9, Outcome: "held", ReadBack: steps(9), BackText: "9", Serial: "T1"}), "9", false},
		"brought to delivery": {of(read("7"), begun, drivefile.Evidence{Key: record.DeliveryReset, Value: "done"}), "", false},
		"brought there, taken back": {of(read("7"), drivefile.Evidence{Key: record.DeliveryReset, Value: "done"},
			drivefile.Withdrawal{Entry: "e1"}), "7", false},
		"read from another drive":  {of(drivefile.Reading{Code: "4A", Text: "7", Serial: "T2"}), "", false},
		"read before serials were": {of(drivefile.Reading{Code: "4A", Text: "7"}), "", false},
		"and said to be of this one": {of(drivefile.Reading{Code: "4A", Text: "7"},
			drivefile.Evidence{Key: record.SerialBefore, Value: "confirmed",
				Basis: map[string]string{record.DriveSerial: "T1", record.MotorSerial: "2207-0418"}}), "7", false},
	} {
		r := record.Of(drive("T1"), plant, c.list)
		text := ""
		if r.Reads["4A"] != nil {
			text = r.Reads["4A"].Text
		}
		if text != c.read || (r.Pending["4A"] != "") != c.pending {
			t.Errorf("%s: reads %q, pending %q", name, text, r.Pending["4A"])
		}
	}
}

// A number that was corrected twice leads back to the first; another number is another machine, in words.
func TestSerialsThatWereMistyped(t *testing.T) {
	same := func(from, to string) drivefile.Evidence {
		return drivefile.Evidence{Key: record.SerialSameDrive, Value: "same", Basis: map[string]string{"from": from, "to": to}}
	}
	ev := drivefile.Evidence{Basis: map[string]string{record.DriveSerial: "T 1l"}}
	for name, c := range map[string]struct {
		list []drivefile.Entry
		why  string
	}{
		"another":         {nil, "another drive, serial T 1l; this is T13"},
		"corrected once":  {of(same("T1L", "t13")), ""},
		"corrected twice": {of(same("T1L", "T12"), same("T12", "T13")), ""},
		"the other way":   {of(same("T12", "T13"), same("T1L", "T12")), ""},
		"to another one":  {of(same("T1L", "T99")), "another drive"},
		"and that undone": {of(same("T1L", "T13"), drivefile.Withdrawal{Entry: "e0"}), "another drive"},
		"said of a second": {of(drivefile.Evidence{Key: record.SerialSameMotor, Value: "same",
			Basis: map[string]string{"from": "T1L", "to": "T13"}}), "another drive"},
	} {
		m := record.Of(drive("T13"), plant, c.list).Machines
		ok, why := m.Stands(m.BasisFor("power", "power/earth/first", nil), ev)
		if ok != (c.why == "") || !strings.Contains(why, c.why) {
			t.Errorf("%s: %v %q, want %q", name, ok, why, c.why)
		}
	}
	m := record.Of(drive("T13"), plant, nil).Machines
	if ok, _ := m.Stands(m.BasisFor("power", "power/links/fitted", nil),
		drivefile.Evidence{Basis: map[string]string{record.MotorSerial: "2207-0418"}}); !ok {
		t.Error("links rest on the motor alone")
	}
	on := drivefile.Evidence{Basis: map[string]string{record.DriveSerial: "T13"}, Instrument: record.OnBench}
	if ok, why := m.Stands(m.BasisFor("wake", "wake/line/1", nil), on); ok || !strings.Contains(why, "bench") {
		t.Errorf("the bench in a real place: %v %s", ok, why)
	}
}

// With several other machines behind it, what is asked about is the last of them, however often one looks, and looking changes nothing.
func TestTheLastOtherMachineIsAskedAbout(t *testing.T) {
	on := func(key, serial string) drivefile.Evidence {
		return drivefile.Evidence{Key: key, Value: "confirmed", Basis: map[string]string{record.DriveSerial: serial}}
	}
	list := of(on("power/mounting/fixed", "A1"), on("power/earth/first", "B2"), drivefile.Reading{Code: "4A", Text: "7", Serial: "C3"},
		on("wake/drive/class", "D4"), on("control/landed/1", "B2"), drivefile.Reading{Code: "4B", Text: "7", Serial: "E5"},
		on("control/landed/2", "F6"), on("control/landed/3", "A1"))
	for range 50 { // what goes through a map comes in any order
		m := record.Of(drive("T13"), plant, list).Machines
		if got := m.Foreign[record.DriveSerial]; got != "A1" {
			t.Fatalf("asked about %s, and A1 came last", got)
		}
		for _, serial := range []string{"B2", ""} {
			_, _ = m.Stands(m.BasisFor("power", "power/earth/first", nil), on("", serial))
			m.Read(serial)
		}
		if m.Foreign[record.DriveSerial] != "A1" || m.Without {
			t.Fatalf("looking at it changed it: %+v", m)
		}
	}
}

func ExampleOf() {
	r := record.Of(drive("T1"), plant,
		of(drivefile.Reading{Code: "4A", Text: "7.50 kW", Serial: "T1"}, drivefile.Temporary{What: "jumper", Where: "S1 to S2"}))
	fmt.Println(r.Reads["4A"].Text, r.Things[0].Where)
	// Output: 7.50 kW S1 to S2
}
