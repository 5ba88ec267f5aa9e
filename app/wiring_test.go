package app_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"

	"tingate/app/base"
	"tingate/app/entries"
	"tingate/core/circuit"
	"tingate/core/gate"
	"tingate/testtools/raced"
)

// wired is a drive proved dead, with a usual panel chosen.
func wired(t *testing.T) (*desk, string) {
	t.Helper()
	d, id, w := isolated(t)
	for _, s := range [][2]string{{"wiring.command", "three-wire"}, {"wiring.safety", "contacts"}, {"wiring.run_lamp", "true"}} {
		d.set(d.rh, id, s[0], s[1])
	}
	d.ok(w.Gate(ctx, id, "dead", nil))
	d.ok(d.ProveDead(ctx, d.rh, id))
	return d, id
}

func (d *desk) wiring(id string) gate.WiringState {
	d.t.Helper()
	w, err := d.Wiring(ctx, id)
	d.ok(err)
	return w
}

// The sheet to work by is there once something is chosen; screws are held against their label, or pulled where none is stated.
func TestTheConnectionSheetAndTheScrews(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d := newDesk(t)
	if _, err := d.WiringSheet(ctx, d.dryer()); err == nil || !strings.Contains(err.Error(), "Choose first") {
		t.Errorf("an empty sheet: %v", err)
	}
	d, id := wired(t)
	d.ok(d.AnswerCheck(ctx, d.rh, id,
		entries.CheckAnswer{ID: base.NewID(), Key: "control/landed/" + d.wiring(id).Wires[0].ID, Value: "confirmed"}))
	pdf, err := d.WiringSheet(ctx, id)
	d.ok(err)
	if !strings.HasPrefix(string(pdf), "%PDF") || len(pdf) < 5000 {
		t.Errorf("%d bytes", len(pdf))
	}
	tried := func(key, value string) (string, gate.Verdict) {
		d.ok(d.AnswerCheck(ctx, d.rh, id, entries.CheckAnswer{ID: base.NewID(), Key: key, Value: value, With: "torque driver T2"}))
		c := checkOf(d.view(id), key)
		return c.Title, c.Verdict
	}
	for value, want := range map[string]gate.Verdict{"0.3": gate.Again, "0.5": gate.Holds, "0.7": gate.Again} { // the label says 0.5 N·m
		if title, verdict := tried("control/torque/control", value); !strings.Contains(title, "driver") || verdict != want {
			t.Errorf("%s N·m: %s %s", value, title, verdict)
		}
	}
	d.set(d.rh, id, "power.control_torque", "")
	if title, verdict := tried("control/torque/control", "confirmed"); !strings.Contains(title, "pulled once") || verdict != gate.Holds {
		t.Errorf("clamped by spring: %s %s", title, verdict)
	}
}

// Every answer of the list is JSON without null, also while nothing is chosen.
func TestAnEmptyConnectionListIsEmpty(t *testing.T) {
	t.Parallel()
	d := newDesk(t)
	id := d.dryer()
	b, err := json.Marshal(d.wiring(id))
	if err != nil || strings.Contains(string(b), "null") {
		t.Errorf("%v %s", err, b)
	}
	if _, err := d.ImportWiring(ctx, d.rh, id, []byte("wire,from,to\n1,A:1,B:1\n")); err == nil ||
		!strings.Contains(err.Error(), "Choose first") {
		t.Errorf("%v", err)
	}
}

// Wires are dead work; each is landed before it is measured; a mis-landed one is found, with what it would do; put right, it
// agrees; one put off stands among the temporary things.
func TestAWireOnTheNeighbourIsFound(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	d, id := wired(t)
	wires := d.wiring(id).Wires
	var wrong circuit.Wire
	for _, x := range wires {
		if x.Function == "start" && strings.HasPrefix(x.To, "T1:") {
			wrong = x.Wire
		}
	}
	n := d.wiring(id).Net
	at := "T1:8"
	asBuilt := n.With(circuit.Mistake{Kind: "moved", Wire: wrong.ID, End: "to", At: at})
	built := asBuilt.Solve(nil)
	for _, x := range wires {
		if err := d.answer1(id, "control/wire/"+x.ID, "0.2", "M3"); err == nil {
			t.Fatalf("wire %s is measured before it is landed", x.ID)
		}
		d.ok(d.answer1(id, "control/landed/"+x.ID, "confirmed", ""))
		reading := "lamp"
		if !built.Joined(x.From, x.To) {
			reading = "OL"
		}
		d.ok(d.answer1(id, "control/wire/"+x.ID, reading, "M3"))
	}
	for range 20 { // what is proposed is measured, until nothing is left to part
		w := d.wiring(id)
		if w.Found.Next == nil {
			break
		}
		p, key, state := w.Found.Next, "control/pair/"+w.Found.Next.A+"~"+w.Found.Next.B, circuit.State{}
		if p.Held != "" {
			key, state[p.Held] = key+"~"+p.Held, true
		}
		reading := "100000"
		if asBuilt.Solve(state).Joined(p.A, p.B) {
			reading = "0.3 Ω"
		}
		d.ok(d.answer1(id, key, reading, "M3"))
	}
	w := d.wiring(id)
	if len(w.Found.Mistakes) != 1 || w.Found.Mistakes[0].At != at || w.Found.Mistakes[0].Wire != wrong.ID {
		t.Fatalf("%+v", w.Found)
	}
	if !strings.Contains(strings.Join(w.Effects, "\n"), "With S1 start worked") {
		t.Errorf("%v", w.Effects)
	}
	if m := gateOf(d.view(id), "control").Mark; m != "barred" {
		t.Error(m)
	}
	d.ok(d.answer1(id, "control/wire/"+wrong.ID, "0.2", "M3"))
	for _, c := range gateOf(d.view(id), "control").Checks {
		if strings.HasPrefix(c.Key, "control/pair/") {
			l := append(strings.Split(strings.TrimPrefix(c.Key, "control/pair/"), "~"), "")
			reading := "open"
			if n.Solve(circuit.State{l[2]: true}).Joined(l[0], l[1]) {
				reading = "beep"
			}
			d.ok(d.answer1(id, c.Key, reading, "M3"))
		}
	}
	if w = d.wiring(id); !w.Found.Agrees {
		t.Errorf("put right: %+v", w.Found)
	}
	// A wire whose ends change is to be landed and measured anew.
	d.set(d.rh, id, "wiring.wires."+wrong.ID+".from", wrong.From)
	d.set(d.rh, id, "wiring.wires."+wrong.ID+".to", "T1:7")
	for _, x := range d.wiring(id).Wires {
		if x.ID == wrong.ID && (x.Landed != gate.Again || !x.Own) {
			t.Errorf("%+v", x)
		}
	}
	d.ok(d.Waive(ctx, d.rh, id, base.NewID(), "control/landed/"+wrong.ID, "the button comes on Monday"))
	found := false
	for _, x := range d.view(id).State.Temporary {
		found = found || x.What == "deferred-wire" && strings.Contains(x.Where, "wire "+wrong.ID)
	}
	if !found {
		t.Errorf("%+v", d.view(id).State.Temporary)
	}
}

func TestWiresAreDeadWork(t *testing.T) {
	t.Parallel()
	d, id, _ := isolated(t)
	if err := d.answer1(id, "control/landed/1", "confirmed", ""); err == nil || !strings.Contains(err.Error(), "dead work") {
		t.Errorf("%v", err)
	}
	if err := d.answer1(id, "power/earth/ohms", "0.05", "M3"); err == nil || !strings.Contains(err.Error(), "dead work") {
		t.Errorf("%v", err)
	}
}

// The list goes out as CSV and JSON, and comes in again: nothing changes; what an office changed becomes the drive's own.
func TestAConnectionListGoesOutAndComesBack(t *testing.T) {
	t.Parallel()
	d, id := wired(t)
	csv, err := d.WiringCSV(ctx, id)
	d.ok(err)
	doc, err := d.WiringJSON(ctx, id)
	d.ok(err)
	count := len(d.wiring(id).Wires)
	for _, raw := range [][]byte{csv, doc} {
		r, err := d.ImportWiring(ctx, d.rh, id, raw)
		d.ok(err)
		if r.Same != count || r.Added+r.Changed+len(r.Missing) != 0 {
			t.Errorf("the same list: %+v of %d", r, count)
		}
	}
	semicolons := strings.NewReplacer("\r\n", "\n", ",", ";").Replace(string(csv))
	r, err := d.ImportWiring(ctx, d.rh, id, []byte(semicolons+"200;X1:1;H7:1;red;1 mm²;;horn\n"))
	d.ok(err)
	if r.Added != 1 || fmt.Sprint(r.Devices) != "[H7]" {
		t.Errorf("%+v", r)
	}
	r, err = d.ImportWiring(ctx, d.rh, id, []byte("Wire,From,To\n1,"+d.wiring(id).Wires[0].From+",X1:2\n"))
	d.ok(err)
	if r.Changed != 1 || len(r.Missing) != count {
		t.Errorf("%+v", r)
	}
	for raw, want := range map[string]string{
		"wire,from,to\n1,X1:1,X1:1\n":              "another terminal",
		"wire,from,to\n1,X1:1,T1:99\n":             "a terminal of T1",
		"wire,from,to\n1,X1:1,nowhere\n":           "part:terminal",
		"wire,from,to\n1,X1:1,H1:1\n1,X1:2,H1:2\n": "used once",
		"number,value\n1,2\n":                      "columns wire, from and to",
		"wire,from,to\n":                           "1 to 5000",
		`{"parts":[],"wires":[]}`:                  "1 to 5000",
		`{"parts":[],"wires":[],"x":1}`:            "parts and wires",
		"":                                         "a list with columns",
	} {
		if _, err := d.ImportWiring(ctx, d.rh, id, []byte(raw)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", raw, err, want)
		}
	}
	u, err := d.Unseen(ctx, id)
	d.ok(err)
	if u.Harmless == 0 {
		t.Errorf("%+v", u)
	}
}

// An answer is of what was shown: a wire that got other ends meanwhile, or a check that rests on another cable now, is not confirmed by
// what somebody saw before.
func TestAnAnswerIsOfWhatWasShown(t *testing.T) {
	t.Parallel()
	d, id := wired(t)
	x := d.wiring(id).Wires[0]
	key := "control/landed/" + x.ID
	err := d.AnswerCheck(ctx, d.rh, id,
		entries.CheckAnswer{ID: base.NewID(), Key: key, Value: "confirmed", Seen: map[string]string{"from": x.From, "to": "XB:99"}})
	var refused *base.RefusedError
	if !errors.As(err, &refused) || !strings.Contains(err.Error(), "changed since it was shown") {
		t.Fatalf("another end was seen: %v", err)
	}
	if got := d.wiring(id).Wires[0]; got.Landed != gate.NotDone {
		t.Errorf("it was recorded all the same: %+v", got)
	}
	d.ok(d.AnswerCheck(ctx, d.rh, id,
		entries.CheckAnswer{ID: base.NewID(), Key: key, Value: "confirmed", Seen: map[string]string{"from": x.From, "to": x.To}}))
	if got := d.wiring(id).Wires[0]; got.Landed != gate.Holds {
		t.Errorf("answered as it is shown: %+v", got)
	}

	// Every check that is open is answered by its own basis as it is shown; another drive's serial meanwhile makes it another question.
	seen := checkOf(d.view(id), "control/cables/apart")
	if seen.Basis["drive serial"] == "" {
		t.Fatalf("it rests on no drive: %+v", seen)
	}
	d.set(d.rh, id, "rating.serial", "ANOTHER-1")
	if err := d.AnswerCheck(ctx, d.rh, id,
		entries.CheckAnswer{ID: base.NewID(), Key: seen.Key, Value: "confirmed", Seen: seen.Basis}); !errors.As(err, &refused) ||
		!strings.Contains(err.Error(), "changed since it was shown") {
		t.Errorf("seen on another drive: %v", err)
	}
}
