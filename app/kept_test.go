package app_test

import (
	"fmt"
	"testing"

	"tingate/app/base"
	"tingate/bench/stand"
	"tingate/core/gate"
	"tingate/formats/familyfile"
	"tingate/link"
)

// A drive that keeps on command what was written over the link loses it with the power until that command came: the stand-in does, the
// drive's view says so, and gate Keep asks for it.
func TestWhatAPowerOffTakesBack(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.set(d.rh, id, "rating.dialect", "Voe")
	for _, s := range [][2]string{{"intent.preset_1", "600"}, {"intent.preset_2", "900"}, {"intent.jog", "150"}} {
		d.set(d.rh, id, s[0], s[1])
	}
	drive := stand.New(familyfile.Find("Voe"))
	d.ok(drive.Serve("127.0.0.1:0"))
	t.Cleanup(func() { d.ok(drive.Stop()) })
	drive.SetChannels(false, false)
	d.set(d.rh, id, "link.address", drive.Address())
	write := func(code string) string {
		t.Helper()
		res, err := d.WriteSetting(ctx, d.rh, id, base.NewID(), code, false)
		d.ok(err)
		if res.Outcome != link.Held {
			t.Fatalf("%s: %+v", code, res)
		}
		return res.Message
	}
	waiting := func() string {
		t.Helper()
		u := d.view(id).State.Unkept
		if u == nil {
			return "nothing known"
		}
		return fmt.Sprint(u.Waiting, u.Lost)
	}
	kept := func(want gate.Verdict) {
		t.Helper()
		if c := checkOf(d.view(id), "keep/kept"); c.Verdict != want {
			t.Errorf("gate Keep: %+v, want %s", c, want)
		}
	}
	if got := waiting(); got != "nothing known" {
		t.Errorf("before anything was set: %s", got)
	}
	write("2004h:02")
	write("2004h:03")
	if got := waiting(); got != "[2004h:02 2004h:03] []" {
		t.Error(got)
	}
	kept(gate.Again)
	d.ok(drive.Reboot(0))
	if v, _ := drive.Value("2004h:02"); v != 200 {
		t.Errorf("after the power was off it holds %d, want 20.0 %% as delivered", v)
	}
	write("2004h:02")
	write("2004h:03")
	if got := write("1010h:01"); got != "It took the command to keep. Read after the next power-off, it shows that all stayed." {
		t.Error(got)
	}
	if got := waiting(); got != "[] []" {
		t.Error(got)
	}
	kept(gate.Holds)
	before, _ := drive.Value("2004h:02")
	d.ok(drive.Reboot(0))
	if v, _ := drive.Value("2004h:02"); v != before || v == 200 {
		t.Errorf("kept, and after the power was off it holds %d, not %d", v, before)
	}
	d.ok(d.Enter(ctx, d.rh, id, base.NewID(), "2004h:01")) // the keypad keeps by itself
	if got := waiting(); got != "[] []" {
		t.Error(got)
	}
	write("2004h:03")
	if got := waiting(); got != "[2004h:03] []" {
		t.Error(got)
	}
	d.ok(d.Enter(ctx, d.rh, id, base.NewID(), "1010h:01"))
	if got := waiting(); got != "[] []" {
		t.Error(got)
	}
	kept(gate.Holds)
	if log, err := d.Sent(ctx, id); err != nil || len(log) != 6 {
		t.Errorf("%d requests in the list of what was sent, %v", len(log), err)
	}
}
