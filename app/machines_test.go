package app_test

import (
	"bytes"
	"errors"
	"io"
	"net"
	"os"
	"strings"
	"testing"
	"time"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/entries"
	"tingate/bench/stand"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/demo/walk"
	"tingate/formats/familyfile"
	"tingate/store"
	"tingate/testtools/raced"
)

// answered are the checks of some gates that hold by what a person answered.
func answered(v base.View, gates string) map[string]bool {
	out := map[string]bool{}
	for _, g := range v.State.Gates {
		for _, c := range g.Checks {
			if strings.Contains(gates, g.Key) && c.Verdict == gate.Holds && c.By != "" && c.Key != "tune/kind/chosen" &&
				c.Key != "stop/set/chosen" {
				out[c.Key] = true
			}
		}
	}
	return out
}

// What was measured, seen, set and read is of one drive and one motor: another serial asks for it again, undo closes it, and a number that
// was only mistyped is told with a reason and a photo.
func TestEvidenceIsOfThisMachine(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	d.ok(d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "live"}))
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "12"))
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-found", ""))
	d.answer(id)
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "15.5"))
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-left", ""))
	before := answered(d.view(id), "power control wake stop turn tune signal")
	if len(before) < 60 || line(d.view(id), "4D").Read == nil {
		t.Fatalf("%d answers", len(before))
	}
	stands := func() map[string]bool { return answered(d.view(id), "power control wake stop turn tune signal") }

	d.set(d.rh, id, "rating.serial", "T0099999")
	for key := range stands() {
		if !strings.HasPrefix(key, "power/links/") && !strings.HasPrefix(key, "power/insulation/") &&
			!strings.HasPrefix(key, "power/winding/") {
			t.Errorf("another drive, and %s holds still", key)
		}
	}
	v := d.view(id)
	if c := checkOf(v, "wake/line/1"); c.Verdict != gate.NotDone && c.Verdict != gate.Again ||
		!strings.Contains(c.Detail, "Recorded with another drive, serial T0041873; this is T0099999") {
		t.Errorf("%+v", c)
	}
	if l := line(v, "4D"); l.Read != nil || l.Verdict != "not-read" {
		t.Errorf("read from another drive: %+v", l)
	}
	for _, key := range []string{"wake/found/saved", "keep/snapshot/as-found", "keep/snapshot/as-left"} {
		if c := checkOf(v, key); c.Verdict == gate.Holds {
			t.Errorf("%s is of another drive", key)
		}
	}
	d.ok(d.Undo(ctx, d.rh, id, base.NewID()))
	if got := stands(); len(got) != len(before) || line(d.view(id), "4D").Verdict != "holds" {
		t.Errorf("undone, %d of %d stand", len(got), len(before))
	}

	d.set(d.rh, id, "motor.serial", "2207-9999")
	got := stands()
	for _, key := range []string{"turn/seen/shaft", "power/insulation/motor", "power/links/fitted"} {
		if !before[key] || got[key] {
			t.Errorf("another motor, and %s: before %v, now %v", key, before[key], got[key])
		}
	}
	if !got["wake/line/1"] || !got["power/earth/first"] {
		t.Error("another motor takes away what is of the drive")
	}
	d.ok(d.Undo(ctx, d.rh, id, base.NewID()))

	// One digit was mistyped from the beginning.
	d.set(d.rh, id, "rating.serial", "T0041837")
	same := func(reason string) error {
		return d.AnswerCheck(ctx, d.rh, id,
			entries.CheckAnswer{ID: base.NewID(), Key: "match/serial/same-drive", Value: "same", Reason: reason})
	}
	for _, reason := range []string{"", "x", "ok ok"} {
		if err := same(reason); err == nil || !strings.Contains(err.Error(), "ten letters in two words") {
			t.Errorf("%q is a reason: %v", reason, err)
		}
	}
	d.ok(same("two digits changed places when it was typed"))
	if got := stands(); len(got) != len(before) || line(d.view(id), "4D").Verdict != "holds" {
		t.Errorf("mistyped, %d of %d stand", len(got), len(before))
	}
	d.set(d.rh, id, "rating.serial", "T0041838")
	d.ok(same("a digit was read wrong on the label again"))
	if got := stands(); len(got) != len(before) {
		t.Errorf("mistyped twice, %d of %d stand", len(got), len(before))
	}
	rows, err := d.History(ctx, id)
	d.ok(err)
	if !strings.Contains(rows[0].What, "serial mistyped: T0041838 is the same machine as") {
		t.Errorf("the history says %q", rows[0].What)
	}
	d.set(d.rh, id, "rating.serial", "T0055555")
	d.ok(d.AnswerCheck(ctx, d.rh, id, entries.CheckAnswer{ID: base.NewID(), Key: "match/serial/same-drive", Value: "another"}))
	if got := stands(); got["wake/line/1"] || got["turn/seen/shaft"] {
		t.Error("another drive, said so, and its evidence stands")
	}
}

// What was recorded before anybody typed a serial is asked for once, and nothing is lost.
func TestWithoutASerialItIsAskedOnce(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.set(d.rh, id, "rating.serial", "")
	d.set(d.rh, id, "motor.serial", "")
	d.ok(d.Confirm(ctx, d.rh, id, base.NewID(), "plate/poles/confirmed"))
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "15.5"))
	if v := d.view(id); checkOf(v, "plate/poles/confirmed").Verdict != gate.Holds || line(v, "4D").Verdict != "holds" ||
		checkOf(v, "match/serial/drive").Verdict != gate.NotDone {
		t.Errorf("before a serial is typed: %+v", checkOf(v, "plate/poles/confirmed"))
	}
	d.set(d.rh, id, "motor.no_serial", "true")
	if c := checkOf(d.view(id), "match/serial/motor"); c.Verdict != gate.NotDone || !strings.Contains(c.Detail, "keep a photo") {
		t.Errorf("not legible without a photo: %+v", c)
	}
	d.ok(d.Attach(ctx, d.rh, id, base.NewID(), "plate.png", "motor-plate", []byte("\x89PNG\r\n\x1a\n0000")))
	d.set(d.rh, id, "rating.serial", "T1")
	v := d.view(id)
	asks := checkOf(v, "match/serial/before")
	if asks.Do != "confirm" || checkOf(v, "match/serial/motor").Verdict != gate.Holds ||
		!strings.Contains(checkOf(v, "plate/poles/confirmed").Detail, "Serial not recorded") || line(v, "4D").Verdict != "not-read" {
		t.Fatalf("asked: %+v; %+v", asks, checkOf(v, "plate/poles/confirmed"))
	}
	d.ok(d.Confirm(ctx, d.rh, id, base.NewID(), "match/serial/before"))
	if v := d.view(id); checkOf(v, "plate/poles/confirmed").Verdict != gate.Holds || line(v, "4D").Verdict != "holds" ||
		checkOf(v, "match/serial/before").Verdict != gate.Holds {
		t.Errorf("answered: %+v", checkOf(v, "plate/poles/confirmed"))
	}
	d.set(d.rh, id, "rating.serial", "T2") // now it is of T1, as was said
	if v := d.view(id); line(v, "4D").Verdict != "not-read" {
		t.Errorf("of another drive: %+v", line(v, "4D"))
	}
}

// A return to delivery state makes void what was read, set and tuned, and says so before.
func TestAResetMakesVoid(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	d.ok(d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "live"}))
	for code, text := range map[string]string{"4D": "15.5", "4E": "1455"} {
		d.ok(d.Read(ctx, d.rh, id, base.NewID(), code, text))
	}
	d.ok(d.Enter(ctx, d.rh, id, base.NewID(), "4A"))
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-found", ""))
	d.ok(d.Snapshot(ctx, d.rh, id, base.NewID(), "as-left", ""))
	if c := checkOf(d.view(id), "wake/reset/delivery"); !strings.Contains(c.Detail,
		"It makes void: 2 readings, 1 setting entered, as left. As found stays.") {
		t.Errorf("before: %q", c.Detail)
	}
	d.ok(d.Confirm(ctx, d.rh, id, base.NewID(), gate.DangersTaken))
	d.ok(d.AnswerCheck(ctx, d.rh, id, entries.CheckAnswer{ID: base.NewID(), Key: "wake/reset/delivery", Value: "done"}))
	v := d.view(id)
	if line(v, "4D").Read != nil || line(v, "4A").Entered != nil || checkOf(v, "keep/snapshot/as-left").Verdict == gate.Holds ||
		checkOf(v, "wake/found/saved").Verdict != gate.Holds {
		t.Errorf("after: %+v, %+v, %+v", line(v, "4D"), line(v, "4A").Entered, checkOf(v, "keep/snapshot/as-left"))
	}
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "4D", "15.5"))
	if line(d.view(id), "4D").Verdict != "holds" {
		t.Error("read again, it counts")
	}
}

// otherDevice answers every request with the exception that it does not know the function, as drives do that do not say what they are.
func otherDevice(t *testing.T) string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { l.Close() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go func() {
				defer c.Close()
				for {
					head := make([]byte, 8)
					if _, err := io.ReadFull(c, head); err != nil {
						return
					}
					if _, err := io.CopyN(io.Discard, c, int64(head[5])-2); err != nil {
						return
					}
					_, _ = c.Write([]byte{head[0], head[1], 0, 0, 0, 3, head[6], head[7] | 0x80, 1})
				}
			}()
		}
	}()
	return l.Addr().String()
}

// In a real place nothing of the bench or of a stand-in counts as the machine's; in a simulated one nothing real is read or written.
// Neither becomes the other.
func TestRealAndSimulatedStayApart(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	standIn := stand.New(familyfile.Find("Tarn"))
	if err := standIn.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	defer standIn.Stop()
	for _, kind := range []string{drivefile.Real, drivefile.Simulated} {
		d := open(t, t.TempDir())
		d.rh, d.tk = base.Actor{Person: base.NewID(), Device: "tablet"}, base.Actor{Person: base.NewID(), Device: "laptop"}
		d.placeOf(kind)
		id := d.dryer()
		d.state(id)
		real := kind == drivefile.Real
		if err := d.Change(ctx, d.rh, d.place,
			drives.Edit{ID: base.NewID(),
				Sets: []drives.Set{{Path: "kind", Text: map[bool]string{true: "simulated", false: "real"}[real]}}}); err == nil ||
			!strings.Contains(err.Error(), "stays one") {
			t.Errorf("a %s place changed: %v", kind, err)
		}
		if err := d.answer1(id, "match/arrival/packing", "confirmed", record.OnBench); real != (err != nil) {
			t.Errorf("%s: confirmed on the bench: %v", kind, err)
		}
		d.set(d.rh, id, "link.address", standIn.Address())
		writes := standIn.Writes()
		for what, act := range map[string]func() error{
			"read":     func() error { return second(d.ReadDrive(ctx, d.rh, id, "as-found", nil)) },
			"asked":    func() error { return second(d.ProbeDrive(ctx, d.rh, id)) },
			"written":  func() error { return second(d.WriteSetting(ctx, d.rh, id, base.NewID(), "6K", false)) },
			"recorded": func() error { return d.RecordRun(ctx, d.rh, id, base.NewID(), "link") },
		} {
			err := act()
			if real && (err == nil || !strings.Contains(err.Error(), "simulated stand-in")) {
				t.Errorf("a stand-in is %s in a real place: %v", what, err)
			}
			if !real && err != nil {
				t.Errorf("a stand-in is not %s in a simulated place: %v", what, err)
			}
			for d.Recording(id).On { // one link at a time
				d.StopRecording(id)
				time.Sleep(20 * time.Millisecond)
			}
		}
		if got := standIn.Writes() - writes; real && got != 0 {
			t.Errorf("%d writes reached a stand-in from a real place", got)
		}
		if snaps := d.view(id).State.Snapshots; real && len(snaps) > 0 {
			t.Errorf("kept of a stand-in: %+v", snaps)
		}
		d.set(d.rh, id, "link.address", otherDevice(t))
		err := second(d.ReadDrive(ctx, d.rh, id, "", nil))
		if want := map[bool]string{true: "not of family", false: "may be a real drive"}[real]; err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("%s: a device that does not say what it is: %v", kind, err)
		}

		raw, err := d.Export(ctx, d.place, "")
		d.ok(err)
		e := open(t, t.TempDir())
		_, err = e.Import(ctx, raw)
		d.ok(err)
		if places, err := e.Places(ctx); err != nil || places[0].Place.Kind != kind {
			t.Errorf("brought elsewhere it is %+v, %v", places, err)
		}
		paper, err := d.Record(ctx, id)
		d.ok(err)
		if bytes.Contains(paper, []byte("%PDF-")) != true || d.view(id).State.Simulated == real {
			t.Errorf("%s: simulated %v", kind, d.view(id).State.Simulated)
		}

		// A folder for simulation takes nothing real.
		f := open(t, t.TempDir())
		d.ok(f.store.Simulate())
		if _, err := f.Import(ctx, raw); real != (err != nil && strings.Contains(err.Error(), "never takes a real place")) {
			t.Errorf("%s: into a folder for simulation: %v", kind, err)
		}
		if err := f.CreatePlace(ctx, base.NewID(), "P", kind, "UTC",
			map[string]drivefile.Person{d.rh.Person: {Initials: "RH"}}); real != (err != nil) {
			t.Errorf("%s: made in a folder for simulation: %v", kind, err)
		}
		var not *store.NotSimulatedError
		if err := d.store.Simulate(); real != errors.As(err, &not) {
			t.Errorf("%s: the folder is marked afterwards: %v", kind, err)
		}
	}
}

// A meter is data of the place: its number is read whole, its role and its ranges are what is entered, and prose proves nothing.
func TestAMeterIsData(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d, id, w := isolated(t)
	d.ok(w.Gate(ctx, id, "dead", nil))
	if !d.view(id).State.Proved {
		t.Fatal("not proved")
	}
	const key = "dead/measure/l1-l2"
	for with, want := range map[string]string{
		"W1":                           "a meter: this is measured in V",
		"R1, 500 V DC":                 "a meter: this is measured in V",
		"M5, 1000 V AC":                "it measures DC",
		"M3, on whatever":              "the meter's number and its range",
		"M3, 1000 V AC and DC somehow": "the meter's number and its range",
	} {
		if err := d.answer1(id, key, "0.1", with); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", with, err)
		}
	}
	for with, want := range map[string]string{
		"machine hall meter, 1000 V AC": "Meter not known",
		"":                              "Meter not known",
		"M33, auto AC+DC":               "Meter not known",
		"M4, auto AC+DC":                "one meter from proof to proof",
		"M3":                            "needs the AC range",
		"M3, 1000 V DC":                 "needs the AC range",
	} {
		d.ok(d.answer1(id, key, "0.1", with))
		if v := d.view(id); v.State.Proved || !strings.Contains(checkOf(v, key).Detail, want) {
			t.Errorf("%q: proved %v, %+v", with, v.State.Proved, checkOf(v, key))
		}
	}
	if err := d.Change(ctx, d.rh, d.place,
		drives.Edit{ID: base.NewID(), Sets: []drives.Set{{Path: "instruments.m9.number", Text: " m3 "}}}); err == nil ||
		!strings.Contains(err.Error(), "one number, one instrument") {
		t.Errorf("a second M3: %v", err)
	}
	if err := d.answer1(id, "power/earth/ohms", "0.04", "W1"); err == nil {
		t.Error("a torque wrench measures ohms")
	}
	// Confirmations carry no instrument.
	d.ok(d.answer1(id, "match/arrival/packing", "confirmed", "M3, auto AC+DC"))
	if c := checkOf(d.view(id), "match/arrival/packing"); c.With != "" {
		t.Errorf("a person's word measured with %q", c.With)
	}
}

// A second look by the one who worked is refused at once, and the check stays open; an answer is taken back where it stands, with a reason.
func TestASecondLookAndTakingBack(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	w := walk.Walker{App: d.App, Who: d.rh, Second: d.tk, Tick: func(x time.Duration) { d.clock = d.clock.Add(x) }}
	d.ok(d.RecordEnergy(ctx, d.rh, d.place, base.NewID(), drivefile.Energy{Supply: "p1", State: "live"}))
	d.ok(w.Gate(ctx, id, "dead", nil))
	d.ok(d.ProveDead(ctx, d.rh, id))
	d.ok(d.Confirm(ctx, d.rh, id, base.NewID(), "power/earth/first"))
	if err := d.Confirm(ctx, d.rh, id, base.NewID(), "power/second/look"); err == nil ||
		!strings.Contains(err.Error(), "a second person looks") {
		t.Errorf("one's own second look: %v", err)
	}
	if c := checkOf(d.view(id), "power/second/look"); c.Verdict != gate.NotDone || c.Do != "confirm" {
		t.Errorf("refused, it stays open: %+v", c)
	}
	d.ok(d.Confirm(ctx, d.tk, id, base.NewID(), "power/second/look"))
	c := checkOf(d.view(id), "power/earth/first")
	if c.Entry == "" || checkOf(d.view(id), "power/second/look").Verdict != gate.Holds {
		t.Fatalf("%+v", c)
	}
	d.ok(d.Withdraw(ctx, d.rh, id, base.NewID(), c.Entry, "the wrong cabinet"))
	if c := checkOf(d.view(id), "power/earth/first"); c.Verdict != gate.NotDone || c.Entry != "" {
		t.Errorf("taken back: %+v", c)
	}
}

// A bundle of the schema before: its drives open, its place is simulated, what was recorded DEAD is NOT KNOWN, and what has no serial is
// asked for once.
func TestWhatWasBeforeIsCarriedOver(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	raw, err := os.ReadFile("testdata/bundle-schema-6.zip")
	if err != nil {
		t.Fatal(err)
	}
	d := open(t, t.TempDir())
	_, err = d.ImportBytes(ctx, base.Actor{}, raw)
	d.ok(err)
	places, err := d.Places(ctx)
	d.ok(err)
	p := places[0]
	if p.Place.Kind != drivefile.Simulated || len(p.Place.Instruments) != 0 {
		t.Errorf("%+v", p.Place)
	}
	for id, s := range p.Energy {
		if s.State == "dead" {
			t.Errorf("%s stands DEAD by rules of before", id)
		}
	}
	for who := range p.Place.People {
		d.rh = base.Actor{Person: who}
	}
	page, err := d.Yard(ctx, store.YardQuery{Place: p.ID, Text: "EF-04", Limit: 5})
	d.ok(err)
	id := page.Rows[0].ID
	unnumbered := func() (n int) {
		for _, g := range d.view(id).State.Gates {
			for _, c := range g.Checks {
				if strings.Contains(c.Detail, "Serial not recorded") {
					n++
				}
			}
		}
		return n
	}
	if c := checkOf(d.view(id), "match/serial/drive"); c.Verdict != gate.NotDone {
		t.Errorf("%+v", c)
	}
	read := 0
	for _, l := range d.view(id).State.Lines {
		if l.Read != nil {
			read++
		}
	}
	d.set(d.rh, id, "rating.serial", "T0049901")
	d.set(d.rh, id, "motor.serial", "2299-1")
	if n := unnumbered(); n < 30 || read < 20 {
		t.Errorf("%d answers without a serial, %d readings", n, read)
	}
	d.ok(d.Confirm(ctx, d.rh, id, base.NewID(), "match/serial/before"))
	again := 0
	for _, l := range d.view(id).State.Lines {
		if l.Read != nil {
			again++
		}
	}
	if n := unnumbered(); n != 0 || again != read {
		t.Errorf("asked once, and %d answers still lack it; %d of %d readings count", n, again, read)
	}
	for _, g := range []string{"wake", "stop", "turn", "power"} {
		for _, c := range gateOf(d.view(id), g).Checks {
			if c.Verdict == gate.Again && c.By != "" {
				t.Errorf("%s lost by the step: %s", c.Key, c.Detail)
			}
		}
	}
}
