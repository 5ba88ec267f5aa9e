package app_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/app/benches"
	"tingate/bench"
	"tingate/core/troubleshoot"
	"tingate/testtools/raced"
)

// A proof is kept as a decision with its versions and the plan that it rests on; ended early, or with something missing, nothing is kept.
func TestAProofIsKept(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	for _, s := range [][2]string{{"intent.control", "vector"}, {"intent.load_torque", "60"}} {
		d.set(d.rh, id, s[0], s[1])
	}
	kept := func() (n int) {
		h, err := d.History(ctx, id)
		d.ok(err)
		for _, r := range h {
			if strings.HasPrefix(r.What, "plan proved on its bench: All ") {
				n++
			}
		}
		return n
	}
	v, err := d.Prove(ctx, d.rh, id, base.NewID())
	d.ok(err)
	if v.Proof.Trip != nil || v.Proof.Differs > 0 || v.Proof.Holds < 6 || !strings.HasPrefix(v.Summary(), "All ") {
		t.Errorf("%s %+v", v.Summary(), v.Proof.Trip)
	}
	if kept() != 1 {
		t.Error("it is not in the history")
	}
	raw, err := benches.ProofPDF("Proof: DD-02", v, "0", d.clock)
	if err != nil || !strings.HasPrefix(string(raw), "%PDF") {
		t.Errorf("%d bytes, %v", len(raw), err)
	}
	// One that does not hold is a finding of gate Signal until the plan, or what it rests on, is another.
	found := func() string {
		for _, f := range d.view(id).State.Findings {
			if strings.HasPrefix(f.Code, "proof-") {
				return string(f.Severity) + ": " + f.Title + ". " + f.Detail
			}
		}
		return ""
	}
	if f := found(); f != "" {
		t.Errorf("a proof that holds: %s", f)
	}
	for _, s := range [][2]string{{"load_torque", "30 %"}, {"load_inertia", "2"}, {"rise", "25 s"}, {"bus_control", "off"},
		{"fall", "1 s"}} {
		d.set(d.rh, id, "intent."+s[0], s[1])
	}
	if v, err = d.Prove(ctx, d.rh, id, base.NewID()); err != nil || v.Proof.Trip == nil {
		t.Fatalf("%+v %v", v.Proof.Trip, err)
	}
	if f := found(); !strings.HasPrefix(f, "stop: ") || !strings.Contains(f, "trips in the fall") {
		t.Errorf("a proof that trips: %q", f)
	}
	refused(t, "passed with it", d.Pass(ctx, d.rh, id, base.NewID(), "signal"), "cannot be passed yet")
	d.set(d.rh, id, "intent.fall", "25 s")
	if f := found(); f != "" {
		t.Errorf("of another plan: %s", f)
	}
	stopped, stop := context.WithCancel(ctx)
	stop()
	_, _ = d.Prove(stopped, d.rh, id, base.NewID())
	if kept() != 1 {
		t.Error("one that was ended is kept")
	}
	d.set(d.rh, id, "rating.dialect", "")
	if v, err = d.Prove(ctx, d.rh, id, base.NewID()); err != nil || !strings.Contains(v.Missing, "family") {
		t.Errorf("%q %v", v.Missing, err)
	}
}

// Why it does not start: what is recorded is known, what differs fails, the rest is asked in order; the truth table follows the plan.
func TestWhyItDoesNotStart(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	at := func(key string) (x troubleshoot.StartCondition) {
		l, err := d.WhyNot(ctx, id, "")
		d.ok(err)
		for _, c := range l {
			if c.Key == key {
				x = c
			}
		}
		return x
	}
	if c := at("line"); c.State != "ask" {
		t.Errorf("%+v", c)
	}
	if c := at("torque-off"); !strings.Contains(c.Text, "Slack") {
		t.Errorf("%+v", c)
	}
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "8A", "keypad"))
	if c := at("command"); c.State != "fails" || !strings.Contains(c.How, "8A") {
		t.Errorf("run from another place: %+v", c)
	}
	if c := at("input-3"); c.State != "ask" || !strings.Contains(c.Text, "run command") {
		t.Errorf("%+v", c)
	}
	x, err := d.TruthTable(ctx, id)
	d.ok(err)
	if len(x.Rows) < 2 || len(x.Inputs) < 1 {
		t.Errorf("%+v", x)
	}
	d.set(d.rh, id, "rating.dialect", "")
	if _, err := d.TruthTable(ctx, id); err == nil || !strings.Contains(err.Error(), "family") {
		t.Error(err)
	}
}

// What the drive itself tells is read over the link, settings among it, and named; what it cannot tell stays asked. Nothing is written.
func TestWhyIsReadFromTheDrive(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.quick()
	v, err := d.Bench(ctx, id, 1e9)
	d.ok(err)
	if _, err := d.WhyNotRead(ctx, d.rh, id, "start"); err == nil || !strings.Contains(err.Error(), "address") {
		t.Errorf("without an address: %v", err)
	}
	d.set(d.rh, id, "link.address", v.Address)
	d.lives(id, 1.5) // it charges
	at := func(about, key string) troubleshoot.StartCondition {
		l, err := d.WhyNotRead(ctx, d.rh, id, about)
		d.ok(err)
		i := slices.IndexFunc(l, func(c troubleshoot.StartCondition) bool { return c.Key == key })
		if i < 0 {
			t.Fatalf("%s has no %s", about, key)
		}
		return l[i]
	}
	is := func(about, key, state, how string) {
		t.Helper()
		if c := at(about, key); c.State != state || !strings.Contains(c.How, how) {
			t.Errorf("%s %s: %s, %q, want %s, %q", about, key, c.State, c.How, state, how)
		}
	}
	is("start", "torque-off", "holds", "both channels closed")
	is("start", "command", "holds", "read as keypad") // the bench holds what is planned
	is("start", "fault", "ask", "")                   // no register tells it
	is("stands", "frequency", "ask", "0 Hz")
	d.act(id, bench.Act{Do: "channel", N: 3})
	d.act(id, bench.Act{Do: "setting", What: "8A", Value: 1})
	d.lives(id, .2)
	is("start", "torque-off", "fails", "channel A and B open")
	is("start", "command", "fails", "read as terminals")
	d.act(id, bench.Act{Do: "channel", N: 3, On: true})
	d.act(id, bench.Act{Do: "setting", What: "8A", Value: 0})
	d.act(id, bench.Act{Do: "run"})
	d.lives(id, 2.5)
	is("stands", "frequency", "holds", "Hz")
	is("stands", "current", "holds", "A of the limit of")
	is("start", "line", "holds", "DC link 5")
	d.act(id, bench.Act{Do: "line"})
	d.lives(id, 6)
	is("start", "line", "fails", "DC link")
}

// The other questions: what is planned and read back is known, what the plan itself invites fails, an unknown question is refused.
func TestWhyItDoesOtherwise(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	d.state(id)
	at := func(about, key string) troubleshoot.StartCondition {
		l, err := d.WhyNot(ctx, id, about)
		d.ok(err)
		for _, c := range l {
			if c.Key == key {
				return c
			}
		}
		t.Fatalf("%s has no %s: %+v", about, key, l)
		return troubleshoot.StartCondition{}
	}
	for about, key := range map[string]string{"stands": "current", "unasked": "power", "direction": "phases", "stop": "mode"} {
		if c := at(about, key); c.State != "ask" || c.Text == "" || c.Do == "" {
			t.Errorf("%s: %+v", about, c)
		}
	}
	d.set(d.rh, id, "intent.power_up", "on")
	if c := at("unasked", "power"); c.State != "fails" {
		t.Errorf("%+v", c)
	}
	d.ok(d.Read(ctx, d.rh, id, base.NewID(), "7C", "coast"))
	if c := at("stop", "mode"); c.State != "fails" || !strings.Contains(c.How, "read as coast") {
		t.Errorf("%+v", c)
	}
	if _, err := d.WhyNot(ctx, id, "smoke"); err == nil || !strings.Contains(err.Error(), "stands") {
		t.Errorf("%v", err)
	}
	w, err := d.WhatIf(ctx, id)
	d.ok(err)
	if len(w.Gives) != 8 {
		t.Errorf("%+v", w)
	}
	b, err := d.SpanBands(ctx, id, benches.SpanTry{})
	d.ok(err)
	if len(b.Bands.Rests) < 6 && len(b.Bands.Trips) == 0 {
		t.Errorf("%+v", b)
	}
	x, err := d.SpanBounds(ctx, id)
	d.ok(err)
	if len(x.Bounds) < 4 || len(x.Curve) == 0 {
		t.Errorf("%+v", x)
	}
}
