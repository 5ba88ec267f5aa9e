package app_test

import (
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/bench/stand"
	"tingate/formats/familyfile"
	"tingate/link"
)

// A planned text is a text wherever a person meets it: agreed with by eye, marked as set, kept as planned, on the way through the keypad,
// written over the link, in the list of what was sent, and in a configuration file. Nowhere does its comparison figure show.
func TestAPlannedTextIsATextEverywhere(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.set(d.rh, id, "intent.drive_name", "FAN 3")
	if l := line(d.view(id), "1H"); l.SetTo != "FAN 3" || !l.Planned {
		t.Fatalf("%+v", l)
	}
	d.ok(d.Enter(ctx, d.rh, id, base.NewID(), "1H"))
	if l := line(d.view(id), "1H"); l.Entered == nil || l.Entered.Text != "FAN 3" {
		t.Errorf("marked as set: %+v", l.Entered)
	}
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "1H", "="))
	if l := line(d.view(id), "1H"); l.Verdict != "holds" || l.Read.Shown != "FAN 3" {
		t.Errorf("agreed with by eye: %s %+v", l.Verdict, l.Read)
	}
	route, err := d.KeypadRoute(ctx, id, "", false, false)
	d.ok(err)
	for _, s := range route.Stops {
		for _, g := range s.Value {
			if strings.Contains(g.Key, "another text") {
				t.Errorf("%s: %q", s.Code, g.Key)
			}
		}
	}
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "1H", "PUMP"))
	if l := line(d.view(id), "1H"); l.Explanation == nil || l.Explanation.Text != "1H shows another text; “FAN 3” is wanted." {
		t.Errorf("%+v", l.Explanation)
	}
	drive := stand.New(familyfile.Find("Tarn"))
	d.ok(drive.Serve("127.0.0.1:0"))
	t.Cleanup(func() { d.ok(drive.Stop()) })
	drive.SetChannels(false, false)
	d.set(d.rh, id, "link.address", drive.Address())
	res, err := d.WriteSetting(ctx, d.rh, id, base.NewID(), "1H", false)
	d.ok(err)
	if res.Outcome != link.Held || res.Message != "Before, it held nothing, not “PUMP” as last read: somebody else has changed it." {
		t.Errorf("%+v", res)
	}
	sent, err := d.Sent(ctx, id)
	d.ok(err)
	if len(sent) != 1 || sent[0].Asked != "“FAN 3”" || sent[0].Before != "nothing" || sent[0].Back != "“FAN 3”" {
		t.Errorf("%+v", sent)
	}
	if l := line(d.view(id), "1H"); l.Written == nil || l.Written.Text != "“FAN 3”" || l.Verdict != "holds" {
		t.Errorf("%+v", l.Written)
	}
	all, err := d.Settings(ctx, id)
	d.ok(err)
	for _, s := range all {
		if s.Code == "1H" && s.SetTo != "FAN 3" {
			t.Errorf("among all settings: %q", s.SetTo)
		}
	}
}
