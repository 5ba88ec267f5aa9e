package app_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"tingate/app/base"
	"tingate/app/benches"
	"tingate/app/recordings"
	"tingate/bench"
	"tingate/core/record"
	"tingate/formats/runfile"
)

// quick is a dryer whose ramps take two seconds, with its bench switched on.
func (d *desk) quick() (id string) {
	id = d.dryer()
	d.state(id)
	for _, s := range [][2]string{{"intent.control", "vector"}, {"intent.load_torque", "40"}, {"intent.load_inertia", "0.02 kg·m²"},
		{"intent.rise", "2 s"}, {"intent.fall", "2 s"}, {"intent.command_source", "keypad"}} {
		d.set(d.rh, id, s[0], s[1])
	}
	_, err := d.SetUpBench(ctx, id, benches.BenchSetup{Seed: 3})
	d.ok(err)
	d.t.Cleanup(func() { d.EndBench(id) })
	d.act(id, bench.Act{Do: "line", On: true})
	d.act(id, bench.Act{Do: "speed", Value: 50})
	return id
}

func (d *desk) act(id string, a bench.Act) {
	d.t.Helper()
	_, err := d.BenchDo(id, a)
	d.ok(err)
}

// until waits for something of a recording.
func (d *desk) until(id string, what string, is func(recordings.Recording) bool) recordings.Recording {
	d.t.Helper()
	for end := time.Now().Add(20 * time.Second); ; time.Sleep(20 * time.Millisecond) {
		r := d.Recording(id)
		if is(r) {
			return r
		}
		if time.Now().After(end) {
			d.t.Fatalf("no %s: %+v", what, r.Message)
		}
	}
}

// lives lets a bench live for some seconds of its own time: on a busy machine that takes longer.
func (d *desk) lives(id string, seconds float64) {
	d.t.Helper()
	own := func() float64 {
		v, err := d.Bench(ctx, id, 1e9)
		d.ok(err)
		return v.Bench.Time
	}
	for from := own(); own() < from+seconds; {
		time.Sleep(20 * time.Millisecond)
	}
}

// A run is read over the link from a drive that somebody else runs: it ends by itself when the motor stands again, is kept, and lies over
// the ride of the plan as that predicts, for a ride to that speed and of that length.
func TestARunIsRecordedOverTheLink(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.quick()
	v, err := d.Bench(ctx, id, 1e9)
	d.ok(err)
	if err := d.RecordRun(ctx, d.rh, id, base.NewID(), "link"); err == nil || !strings.Contains(err.Error(), "address") {
		t.Errorf("without an address: %v", err)
	}
	d.set(d.rh, id, "link.address", v.Address)
	d.ok(d.RecordRun(ctx, d.rh, id, base.NewID(), "link"))
	if err := d.RecordRun(ctx, d.rh, id, base.NewID(), "link"); err == nil || !strings.Contains(err.Error(), "already") {
		t.Errorf("twice at once: %v", err)
	}
	d.lives(id, 1.5) // the bench charges its link
	d.act(id, bench.Act{Do: "run"})
	r := d.until(id, "speed", func(r recordings.Recording) bool {
		return len(r.Figures) > 0 && r.Figures[0].Value != nil && *r.Figures[0].Value > 49
	})
	if !r.On || !r.Turned || len(r.Samples) < 10 || r.Rate < 5 || r.Figures[0].Unit != "Hz" {
		t.Errorf("while it runs: %+v", r)
	}
	d.lives(id, 1.5)
	d.act(id, bench.Act{Do: "stop"})
	r = d.until(id, "end", func(r recordings.Recording) bool { return !r.On })
	if r.Run == "" || !strings.Contains(r.Message, "stands again") {
		t.Fatalf("%+v", r)
	}
	kept, err := d.Runs(ctx, id)
	d.ok(err)
	if len(kept) != 1 || kept[0].Run != r.Run || kept[0].By != "RH" || !strings.HasPrefix(kept[0].Name, "bench run of ") {
		t.Errorf("%+v", kept)
	}
	over, err := d.LayKept(ctx, id, r.Run)
	d.ok(err)
	if len(over.Likely) > 0 || !strings.Contains(strings.Join(over.Notes, " "), "not from the machine") ||
		!strings.Contains(strings.Join(over.Notes, " "), "output frequency") {
		t.Errorf("a run of the bench is as the bench predicts: %v %v %v", over.Likely, over.Notes, over.Times)
	}
	if last := over.Samples[len(over.Samples)-1].T; over.Fields["ran.top"] != "" || over.Fields["ran.rise"] == "" ||
		last < over.Ride.StopAt {
		t.Errorf("%v, to %g s, stop at %g s", over.Fields, last, over.Ride.StopAt)
	}
	// To half the speed: held against a ride to there. A bench's time is its own, also when it is hurried, or falls behind on a busy
	// machine.
	d.act(id, bench.Act{Do: "speed", Value: 25})
	d.act(id, bench.Act{Do: "faster", Value: 2})
	d.ok(d.RecordRun(ctx, d.rh, id, base.NewID(), record.OnBench))
	d.act(id, bench.Act{Do: "run"})
	d.until(id, "half the speed", func(r recordings.Recording) bool {
		return len(r.Figures) > 0 && r.Figures[0].Value != nil && *r.Figures[0].Value > 24.5
	})
	d.lives(id, 1.5)
	d.act(id, bench.Act{Do: "stop"})
	r = d.until(id, "end", func(r recordings.Recording) bool { return !r.On })
	over, err = d.LayKept(ctx, id, r.Run)
	d.ok(err)
	if len(over.Likely) > 0 || !strings.Contains(strings.Join(over.Notes, " "), "r/min only") || over.Ride.TopHz > 26 {
		t.Errorf("to half the speed: %v %v, a ride to %g Hz", over.Likely, over.Notes, over.Ride.TopHz)
	}
	if _, err := d.LayKept(ctx, id, strings.Repeat("0", 64)); err == nil {
		t.Error("a run that is not kept is laid over")
	}
	h, err := d.History(ctx, id)
	d.ok(err)
	if !strings.Contains(fmt.Sprint(h), "file kept: bench run of") {
		t.Error("it is not in the history")
	}
}

// Ended by hand, what was read is kept; and so is what a process that was killed had read.
func TestNothingRecordedIsLost(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	data := d.folder
	id := d.quick()
	d.ok(d.RecordRun(ctx, d.rh, id, base.NewID(), record.OnBench))
	d.until(id, "readings", func(r recordings.Recording) bool { return r.T*r.Rate > 12 })
	d.StopRecording(id)
	r := d.until(id, "end", func(r recordings.Recording) bool { return !r.On })
	if r.Run == "" || r.Turned {
		t.Errorf("%+v", r)
	}
	if _, err := d.LayKept(ctx, id, r.Run); err == nil || !strings.Contains(err.Error(), "comes to speed") {
		t.Errorf("a motor that stood: %v", err)
	}
	// As a killed process leaves it: a spool that nobody closed, its last line cut off.
	e := base.NewID()
	head := fmt.Sprintf(
		`{"drive":%q,"entry":%q,"person":%q,"device":"tablet","name":"run of 28 Nov 10:00:00","what":["speed","current"],"poles":4,"about":{"recorded":"link"}}`,
		id,
		e,
		d.rh.Person,
	)
	lines := []string{head}
	for i := range 400 {
		t := float64(i) * .05
		v := 1455 * min(1, max(0, t-1)/6)
		lines = append(lines, fmt.Sprintf("%.4f,%.1f,12.5", t, v))
		if i == 40 {
			lines = append(lines, "\x00\x00\x00", "2.1,x,1", "2.2,5") // what a power cut may leave
		}
	}
	part := filepath.Join(data, "receiving", e+".part")
	d.ok(os.WriteFile(part, []byte(strings.Join(lines, "\n")+"\n20.05,14"), 0o600))
	d.ok(os.WriteFile(filepath.Join(data, "receiving", base.NewID()+".part"), nil, 0o600)) // killed before its first line
	d.ok(d.KeepReceived(ctx))
	kept, err := d.Runs(ctx, id)
	d.ok(err)
	left, _ := filepath.Glob(filepath.Join(data, "receiving", "*"))
	if len(kept) != 2 || kept[0].Name != "run of 28 Nov 10:00:00" || len(left) != 0 {
		t.Fatalf("%+v, left %v", kept, left)
	}
	over, err := d.LayKept(ctx, id, kept[0].Run)
	d.ok(err)
	if over.Times["top"] != "1455 r/min" || over.Times["fall"] != "not in it" || over.Gaps != 3 ||
		!strings.Contains(strings.Join(over.Notes, " "), "as far as it came") {
		t.Errorf("%v %v", over.Times, over.Notes)
	}
	if !strings.Contains(strings.Join(over.Likely, " "), "times as long") {
		t.Errorf("six seconds where two are planned: %v", over.Likely)
	}
	// What belongs to a drive that is not there stays where it is, and is said.
	d.ok(os.WriteFile(part, []byte(strings.Replace(strings.Join(lines, "\n"), id, base.NewID(), 1)+"\n"), 0o600))
	if err := d.KeepReceived(ctx); err == nil {
		t.Error("a run of no drive")
	}
	if _, err := os.Stat(part); err != nil {
		t.Error("it is gone")
	}
	// A file that is laid over is kept too, once.
	raw := []byte("time;speed;current\n" + strings.ReplaceAll(strings.Join(lines[100:], "\n"), ",", ";"))
	for range 2 {
		over, err = d.LayOver(ctx, d.rh, id, base.NewID(), "recorder.csv", raw, runfile.Columns{})
		d.ok(err)
	}
	if kept, _ = d.Runs(ctx, id); len(kept) != 3 || kept[0].Name != "recorder.csv" || kept[0].Run != over.Run {
		t.Errorf("%+v", kept)
	}
}
