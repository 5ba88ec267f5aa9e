package app_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"tingate/app/benches"
	"tingate/core/gate"
)

// The plan on the job's own figures: its ride, what is tried instead, the shortest that hold; what is missing is named.
func TestSpanRidesThePlan(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	r, err := d.SpanRide(ctx, id, benches.SpanTry{})
	d.ok(err)
	// Rise 8 s, fall 10 s to 1455 r/min; the load helps it to stop.
	if r.Missing != "" || r.Ride.Rise == nil || r.Ride.Trip != nil || math.Abs(r.Ride.AskedRise-8.3) > .3 ||
		math.Abs(*r.Ride.Rise-8) > .8 || len(r.Ride.Samples) < 200 || len(r.Assumed) == 0 {
		t.Fatalf("%+v %s", r.Ride.Trip, r.Missing)
	}
	fast, err := d.SpanRide(ctx, id, benches.SpanTry{Rise: .2})
	d.ok(err)
	if fast.Ride.Trip == nil && fast.Ride.Limited == 0 {
		t.Errorf("0.2 s: no trip, and nothing held it: rise %v", *fast.Ride.Rise)
	}
	x, err := d.SpanShortest(ctx, id, benches.SpanTry{})
	d.ok(err)
	if x.Times.Rise == nil || x.Times.Fall == nil || *x.Times.Rise > 8 || *x.Times.Rise < .2 {
		t.Errorf("%+v", x.Times)
	}
	for _, bad := range []benches.SpanTry{{Rise: -1}, {Fall: 1e9}, {Resistor: math.NaN()}} {
		if _, err := d.SpanRide(ctx, id, bad); err == nil || !strings.Contains(err.Error(), "s") {
			t.Errorf("%+v: %v", bad, err)
		}
	}
	d.set(d.rh, id, "rating.dialect", "")
	if r, err = d.SpanRide(ctx, id, benches.SpanTry{}); err != nil || !strings.Contains(r.Missing, "family") {
		t.Errorf("%q %v", r.Missing, err)
	}
}

// The ways of control are tried beside each other, each with what it asks for; the least that is enough is named, and why the others are
// not.
func TestWhichControlForAJob(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	planned := func() (keys string) {
		c, err := d.Controls(ctx, id)
		d.ok(err)
		if c.Missing != "" || len(c.Tried) != 3 || !(c.Torque > 0) || c.Says == "" {
			t.Fatalf("%+v", c)
		}
		for _, x := range c.Tried {
			if x.Planned {
				keys += x.Control
			}
			if x.Missing != "" || x.Entries < 5 || x.Presses < x.Entries || x.Minutes < 1 || len(x.Does.Held) != 4 ||
				len(x.Does.Ride.Samples) < 100 || len(x.Tests) == 0 {
				t.Errorf(
					"%s: %s, %d settings, %d keys, %v min, %d held",
					x.Control,
					x.Missing,
					x.Entries,
					x.Presses,
					x.Minutes,
					len(x.Does.Held),
				)
			}
		}
		if simple, encoder := c.Tried[0], c.Tried[2]; encoder.Entries <= simple.Entries || encoder.Minutes <= simple.Minutes {
			t.Errorf("an encoder asks for no more: %+v and %+v", simple.Entries, encoder.Entries)
		}
		return keys
	}
	if k := planned(); k != "volts-per-hertz" && k != "vector" {
		t.Errorf("planned: %q", k)
	}
	d.set(d.rh, id, "intent.control", "vector")
	d.set(d.rh, id, "site.encoder", "wanted")
	if k := planned(); k != "encoder" {
		t.Errorf("planned: %q", k)
	}
	d.set(d.rh, id, "rating.dialect", "")
	if c, err := d.Controls(ctx, id); err != nil || c.Missing == "" || len(c.Tried) != 0 {
		t.Errorf("%+v, %v", c, err)
	}
}

// Leads that were found the other way round, made up for by a setting: the bench of the job has them so, and its ride goes forward.
func TestARideWithItsLeadsAsFound(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	for _, found := range []string{"as-wired", "turned"} {
		d.set(d.rh, id, "turn.phases", found)
		r, err := d.SpanRide(ctx, id, benches.SpanTry{})
		d.ok(err)
		if r.Missing != "" || r.Ride.Trip != nil || r.Ride.Top < 1300 {
			t.Errorf("%s: %s %+v, %v r/min", found, r.Missing, r.Ride.Trip, r.Ride.Top)
		}
	}
}

// How often a drive restarts by itself at most is never rounded up; where its setting says not once, that is a finding, whoever said it.
// What rubs beside a load holds back: below nothing it is refused, and counts as none.
func TestRestartsAndFrictionOfThePlan(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	has := func(code string) bool {
		return slices.ContainsFunc(d.view(id).State.Findings, func(f gate.Answered) bool { return f.Code == code })
	}
	d.set(d.rh, id, "rating.dialect", "Voe")
	d.set(d.rh, id, "intent.automatic_restart", "on")
	for text, want := range map[string]struct {
		none bool
		set  string
	}{"": {true, ""}, "0": {true, "0"}, "0.9": {true, "0"}, "2.9": {false, "2"}, "3": {false, "3"}} {
		d.set(d.rh, id, "intent.restarts_most", text)
		set := ""
		for _, l := range d.view(id).State.Lines {
			if l.Code == "2002h:12" {
				set = l.SetTo
			}
		}
		if has("restarts-none") != want.none || set != want.set {
			t.Errorf("%q: not once %v, want %v; set to %q, want %q", text, has("restarts-none"), want.none, set, want.set)
		}
	}
	d.set(d.rh, id, "rating.dialect", "Tarn")
	if has("restarts-none") {
		t.Error("a family that bounds them by no setting")
	}
	d.set(d.rh, id, "intent.load_torque", "50 %")
	before, err := d.SpanRide(ctx, id, benches.SpanTry{})
	d.ok(err)
	for text, bad := range map[string]bool{"-5 %": true, "15 %": false, "": false} {
		d.set(d.rh, id, "intent.load_friction", text)
		r, err := d.SpanRide(ctx, id, benches.SpanTry{})
		d.ok(err)
		if has("friction-below-zero") != bad || (r.Ride.Steady > before.Ride.Steady+.5) != (text == "15 %") {
			t.Errorf("%q: refused %v; %v A, without %v A", text, has("friction-below-zero"), r.Ride.Steady, before.Ride.Steady)
		}
	}
}
