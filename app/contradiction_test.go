package app_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"tingate/app/base"
	"tingate/app/benches"
	"tingate/app/drives"
	"tingate/app/entries"
	"tingate/app/yard"
	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/core/sheet"
	"tingate/core/stops"
	"tingate/demo/walk"
	"tingate/formats/familyfile"
	"tingate/store"
	"tingate/testtools/raced"
	"tingate/testtools/trials"
)

// hike is a walk over one random job by an impatient person: acts at random, and after each of them what is shown is held against what was
// recorded, by an oracle of its own that reads the entries and knows nothing of the rules.
type hike struct {
	*desk
	id   string
	rng  *rand.Rand
	w    walk.Walker
	log  []string
	real bool
	at   string             // what this one is about: anything, or the tests of the stop circuit
	was  map[string][]since // what evidence rests on, over time
}

// since is a value and from when on it stood.
type since struct{ at, value string }

// TestNoContradictionsOnTheWay walks over random jobs: family, phases, sources, kind of motor, load, practice, circuit, real or not. No two
// screens give two verdicts on one matter, nothing counts that is older than what it rests on, nothing is permitted without its
// measurement, nothing that the machine needs stands unplanned. testtools/defects puts mended faults back and wants this to find them.
func TestNoContradictionsOnTheWay(t *testing.T) {
	raced.Skip(t)
	var found atomic.Bool
	first, n := 0, trials.N(t, 500)
	if only, err := strconv.Atoi(os.Getenv("TINGATE_JOB")); err == nil {
		first, n = only, only+1
	}
	if jobs, err := strconv.Atoi(os.Getenv("TINGATE_JOBS")); err == nil {
		n = jobs
	}
	for seed := first; seed < n; seed++ {
		t.Run(fmt.Sprintf("job %d", seed), func(t *testing.T) {
			t.Parallel()
			if found.Load() {
				t.Skip("a contradiction is found already")
			}
			newHike(t, uint64(seed)).walk(24)
			if t.Failed() {
				found.Store(true)
			}
		})
	}
}

// newHike makes a job by the dice.
func newHike(t *testing.T, seed uint64) *hike {
	h := &hike{desk: open(t, t.TempDir()), rng: rand.New(rand.NewPCG(20261130, seed)), was: map[string][]since{}}
	h.rh, h.tk = base.Actor{Person: base.NewID(), Device: "tablet"}, base.Actor{Person: base.NewID(), Device: "laptop"}
	h.at = [4]string{"", "plan", "dead", "stop"}[seed%4]
	kind := h.one(drivefile.Real, drivefile.Simulated, drivefile.Simulated)
	h.real = kind == drivefile.Real
	h.placeOf(kind)
	h.id = h.dryer()
	h.state(h.id)
	h.w = walk.Walker{App: h.App, Who: h.rh, Second: h.tk, Tick: func(d time.Duration) { h.clock = h.clock.Add(d) }}
	h.log = append(h.log, fmt.Sprintf("job %d", seed))
	family := h.one("Tarn", "Brae", "Voe")
	sets := [][2]string{{"rating.dialect", family},
		{"rating.type", map[string]string{"Tarn": "TN4-016-F2K", "Brae": "BR18C460", "Voe": "VOE.M.4.150"}[family]},
		{"practice", h.one("", "turn-first")}, {"intent.load", h.one("constant", "quadratic", "linear")},
		{"turn.brake", h.one("none", "none", "drive", "apart")}, {"turn.hanging", h.one("", "", "true")},
		{"motor.kind", h.one("induction", "induction", "permanent-magnet")}, {"wiring.interlock", h.one("", "true")}}
	for _, s := range sets {
		h.set(h.rh, h.id, s[0], s[1])
	}
	if h.rng.IntN(3) == 0 {
		h.set(h.rh, h.place, "supplies.p1.phases", "1")
	}
	for _, s := range [][2]string{{"name", "Control supply"}, {"voltage", "230 V"}, {"kind", h.one("control", "heater")},
		{"isolator", "fuse F12"}} {
		h.set(h.rh, h.place, "supplies.c1."+s[0], s[1])
	}
	if h.rng.IntN(2) == 0 {
		h.set(h.rh, h.id, "supplies.c1", "true")
	}
	if h.rng.IntN(4) == 0 {
		h.set(h.rh, h.place, "circuits.line-1.kind", "one-channel")
	}
	if h.at == "plan" {
		h.set(h.rh, h.id, "motor.kind", "induction") // its plate is one; magnets come later, or not
		h.set(h.rh, h.id, "intent.control", "vector")
		h.set(h.rh, h.id, "rating.current", "") // as the type says
	} else if h.rng.IntN(4) > 0 { // wires are many, and each is asked for twice
		for _, path := range []string{"wiring.command", "wiring.reset", "wiring.reference"} {
			h.set(h.rh, h.id, path, "")
		}
	}
	return h
}

func (h *hike) one(of ...string) string { return of[h.rng.IntN(len(of))] }

func (h *hike) did(what string, err error) {
	if err != nil {
		what += ": refused: " + err.Error()
	}
	h.log = append(h.log, what[:min(len(what), 180)])
}

// walk goes some way well, as far as the dice say, and then at random.
func (h *hike) walk(acts int) {
	h.look()
	way := []func() error{
		func() error { return h.w.Gate(ctx, h.id, "match", nil) }, func() error { return h.w.Dead(ctx, h.id, "TK") },
		func() error { return h.w.Gate(ctx, h.id, "wake", nil) },
		func() error { return h.w.Gate(ctx, h.id, "stop", nil) }, func() error { return h.w.Gate(ctx, h.id, "turn", nil) },
		func() error { return h.w.Gate(ctx, h.id, "tune", nil) },
	}
	if h.at == "stop" { // straight to it, and some tests of it
		way = []func() error{way[1], func() error {
			return h.w.Until(ctx, h.id, "stop", nil, func(v base.View) bool { return v.State.Stop.Done > h.rng.IntN(6) })
		}}
	}
	if h.at == "plan" { // as far as a motor that is tuned; the tests of its stop circuit are others' work
		read := func() error {
			h.readAll(h.view(h.id))
			return h.Snapshot(ctx, h.rh, h.id, base.NewID(), "as-found", "")
		}
		well := func(key string) func() error {
			return func() error {
				if err := h.w.Gate(ctx, h.id, key, nil); err != nil {
					return err
				}
				return h.Pass(ctx, h.rh, h.id, base.NewID(), key)
			}
		}
		waive := func() error {
			return h.Waive(ctx, h.rh, h.id, base.NewID(), "turn/before/stop", "I. Brekke lets it turn once before the circuit is in")
		}
		way = []func() error{way[0], way[1], read, well("wake"), waive, well("turn"), well("tune")}
	}
	if h.at == "dead" {
		way = []func() error{func() error { return h.w.Gate(ctx, h.id, "dead", nil) }, func() error { return h.ProveDead(ctx, h.rh, h.id) }}
	}
	far := h.rng.IntN(len(way) + 1)
	if h.at != "" {
		far = len(way)
	}
	for i := range far {
		if i == 3 && h.at == "" && h.rng.IntN(3) > 0 { // so are the tests of a stop circuit
			continue
		}
		h.did(fmt.Sprintf("well, %d", i), way[i]())
		if h.look(); h.t.Failed() {
			return
		}
	}
	for range acts {
		h.act()
		if h.look(); h.t.Failed() {
			return
		}
	}
}

// fields that the hike changes, of the drive; those of the place stand apart.
var hiked = map[string][]string{"rating.serial": {"T0041873", "T0099999"}, "motor.serial": {"2207-0418", "9900-1"},
	"site.cable": {"6 m", "40 m"}, "motor.rows." + star + ".current": {"15.5", "15.0"},
	"turn.phases": {"as-wired", "turned"}, "turn.sense": {"clockwise", "counter-clockwise"}, "turn.brake": {"none", "drive", "apart"},
	"turn.hanging": {"", "true"}, "intent.automatic_restart": {"off", "on"},
	"intent.direction": {"forward", "both"}, "wiring.interlock": {"", "true"}, "intent.power_up": {"off", "on"},
	"intent.dc_brake": {"off", "on"}, "intent.stop_mode": {"ramp", "coast"}, "intent.load_torque": {"60 %", "170 %"},
	"intent.fall": {"10 s", "1 s"}, "motor.kind": {"induction", "permanent-magnet"}, "supplies.c1": {"", "true"},
	"stop.still": {"no-run", "reference-zero"}, "intent.control": {"volts-per-hertz", "vector"}, "practice": {"", "turn-first"}}

var hikedPlace = map[string][]string{"circuits.line-1.lamps": {"two", "three"}, "supplies.p1.phases": {"1", "3"},
	"circuits.line-1.reset": {"let-go", "pressed"}}

// act does one thing, as likely as people do it.
func (h *hike) act() {
	v := h.view(h.id)
	supply := h.one("p1", "p1", "c1")
	why := "because the shift ends and it is late"
	if h.at == "stop" && h.rng.IntN(5) > 0 {
		h.actAtStop(v)
		return
	}
	if h.at == "dead" && h.rng.IntN(4) > 0 {
		h.actAtDead(v, supply)
		return
	}
	if h.at == "plan" && h.rng.IntN(2) > 0 {
		h.actAtPlan()
		return
	}
	switch h.rng.IntN(27) {
	case 24:
		path := h.one("rating.serial", "motor.serial")
		text := h.one(hiked[path]...)
		h.did(path+" = "+text, h.change(h.id, path, text))
	case 25, 26:
		if c := h.check(v, func(c gate.Check) bool { return c.Do == "measure" || c.Do == "confirm" }); c != nil {
			h.did("answer from the bench "+c.Key,
				h.AnswerCheck(ctx, h.rh, h.id,
					entries.CheckAnswer{ID: base.NewID(), Key: c.Key, Value: walk.Within(*c), With: record.OnBench}))
		}
	case 0, 1:
		h.changeSomething()
	case 2:
		path := h.one(slices.Sorted(maps.Keys(hikedPlace))...)
		text := h.one(hikedPlace[path]...)
		h.did(path+" = "+text, h.change(h.place, path, text))
	case 3, 4, 5, 6, 7:
		h.actAtDead(v, supply)
	case 8:
		h.did("well: isolated and back", h.w.Dead(ctx, h.id, "TK"))
	case 9, 10:
		key := gate.GateKeys()[h.rng.IntN(len(gate.GateKeys()))]
		h.did("pass "+key, h.Pass(ctx, h.rh, h.id, base.NewID(), key))
	case 11:
		if c := h.check(v, func(c gate.Check) bool { return c.Verdict == gate.NotDone || c.Verdict == gate.Again }); c != nil {
			h.did("waive "+c.Key, h.Waive(ctx, h.rh, h.id, base.NewID(), c.Key, "I. Brekke lets it be, "+why))
		}
	case 12:
		if c := h.check(v, func(c gate.Check) bool { return c.Entry != "" }); c != nil {
			h.did("take back "+c.Key, h.Withdraw(ctx, h.rh, h.id, base.NewID(), c.Entry, why))
		}
	case 13:
		h.did("undo", h.Undo(ctx, h.rh, h.id, base.NewID()))
	case 14:
		h.readAll(v)
	case 15:
		h.did("snapshot", h.Snapshot(ctx, h.rh, h.id, base.NewID(), h.one("as-found", "as-planned", "as-left"), ""))
	case 16:
		h.test(circuit.Mistake{Kind: stops.Stuck, At: "S1.1"})
	case 17:
		h.hours(10)
	case 18:
		h.did("reset", h.answer1(h.id, "wake/reset/delivery", "done", ""))
	case 19:
		key := h.one("match", "power", "control", "wake", "turn", "tune")
		h.did("well: "+key, h.w.Gate(ctx, h.id, key, nil))
	default:
		if c := h.check(v, func(c gate.Check) bool { return c.Do != "" && !strings.HasPrefix(c.Key, "match/serial/") }); c != nil {
			value := map[string]string{}
			if c.Do == "measure" && h.rng.IntN(4) == 0 {
				value[c.Key] = h.one("0.1", "400", "-5", "41", "9999")
			}
			if h.rng.IntN(6) == 0 {
				h.did("answer with a wrong instrument "+c.Key,
					h.AnswerCheck(ctx, h.rh, h.id,
						entries.CheckAnswer{ID: base.NewID(), Key: c.Key, Value: "0.2",
							With: h.one("", "M9, 1000 V DC", "M4, auto AC+DC", record.OnBench)}))
			} else {
				h.did("answer "+c.Key, h.w.Answer(ctx, h.id, h.place, *c, value))
			}
		}
	}
}

func (h *hike) readAll(v base.View) {
	for _, l := range v.State.Lines {
		if l.Planned {
			_ = h.Read(ctx, h.rh, h.id, base.NewID(), l.Code, strings.TrimSpace(strings.TrimSuffix(l.SetTo, l.Unit)))
		}
	}
	h.did("every planned setting read", nil)
}

func (h *hike) hours(most int) {
	h.clock = h.clock.Add(time.Duration(h.rng.IntN(most)) * time.Hour)
	h.did("hours pass", nil)
}

// actAtDead does one thing to what proves dead, or to what it rests on.
func (h *hike) actAtDead(v base.View, supply string) {
	switch h.rng.IntN(14) {
	case 0:
		h.did("lock on "+supply, h.lock(h.rh, drivefile.Lock{Supply: supply, Act: "on", Drive: h.one(h.id, h.id, "")}))
	case 1:
		h.did("lock off "+supply, h.lock(h.rh, drivefile.Lock{Supply: supply, Act: "off"}))
	case 2, 3:
		h.did("live "+supply, h.RecordEnergy(ctx, h.rh, h.place, base.NewID(),
			drivefile.Energy{Supply: supply, State: drivefile.EnergyState(h.one("live", "live", "not-known")), Told: h.one("TK", ""),
				Drive: h.id, Note: h.one("", "found so"), Against: h.one("", "only for a test of the panel")}))
	case 4:
		h.did("prove dead", h.ProveDead(ctx, h.rh, h.id))
	case 5, 6, 7:
		h.did("well: dead", h.w.Gate(ctx, h.id, "dead", nil))
		h.did("prove dead", h.ProveDead(ctx, h.rh, h.id))
	case 8, 12, 13:
		if h.at == "dead" { // what was proved stands, and the shift goes on
			h.hours(13)
		}
	case 9:
		path, text := "supplies.c1", h.one("", "true")
		h.did(path+" = "+text, h.change(h.id, path, text))
	case 10:
		if c := h.check(v, func(c gate.Check) bool { return c.Entry != "" && strings.HasPrefix(c.Key, "dead/") }); c != nil {
			h.did("take back "+c.Key, h.Withdraw(ctx, h.rh, h.id, base.NewID(), c.Entry, "it was written at the wrong panel"))
		}
	case 11:
		if c := h.check(v, func(c gate.Check) bool { return c.Do == "measure" && strings.HasPrefix(c.Key, "dead/") }); c != nil {
			h.did("another meter "+c.Key,
				h.AnswerCheck(ctx, h.rh, h.id,
					entries.CheckAnswer{ID: base.NewID(), Key: c.Key, Value: walk.Within(*c),
						With: h.one("M3, auto AC+DC", "M4, auto AC+DC", "M4, auto AC+DC", "M9", "")}))
			h.did("prove dead", h.ProveDead(ctx, h.rh, h.id)) // with two meters it must not be
		}
	}
}

// actAtPlan changes what much rests on, or does again what rests on it.
func (h *hike) actAtPlan() {
	if h.rng.IntN(4) == 0 {
		key := h.one("turn", "tune", "power")
		h.did("well: "+key, h.w.Gate(ctx, h.id, key, nil))
		return
	}
	path := h.one("motor.rows."+star+".current", "motor.rows."+star+".current", "site.cable", "turn.sense", "turn.phases",
		"intent.control", "motor.kind", "intent.automatic_restart")
	text := h.one(hiked[path]...)
	h.did(path+" = "+text, h.change(h.id, path, text))
}

// changeSomething changes one thing that is entered of the drive.
func (h *hike) changeSomething() {
	path := h.one(slices.Sorted(maps.Keys(hiked))...)
	text := h.one(hiked[path]...)
	h.did(path+" = "+text, h.change(h.id, path, text))
}

// test answers a test of the stop circuit as the circuit shows it, with a fault in it or without.
func (h *hike) test(hidden ...circuit.Mistake) {
	s, err := h.Stop(ctx, h.id)
	if err != nil || len(s.Tests) == 0 {
		return
	}
	key := s.Tests[h.rng.IntN(len(s.Tests))].Key
	if shown, err := h.PractiseStop(ctx, h.id, key, hidden); err == nil {
		h.did("test "+key+": "+shown, h.answer1(h.id, gate.TestPrefix+key, shown, ""))
	}
}

// actAtStop does one thing at the tests of a stop circuit: a good test and one that fails, a mend, another circuit, a look away.
func (h *hike) actAtStop(v base.View) {
	switch h.rng.IntN(10) {
	case 0, 1, 2:
		h.test()
	case 3, 4:
		h.test(circuit.Mistake{Kind: stops.Stuck, At: h.one("S1.1", "S1.2")})
	case 5:
		h.did("mended", h.AnswerCheck(ctx, h.rh, h.id,
			entries.CheckAnswer{ID: base.NewID(), Key: "stop/mended/what", Value: h.one("wire", "part", "misread"),
				Reason: "the wire K1:S34 to S3:14 was loose and is tight now"}))
	case 6:
		path := h.one("circuits.line-1.lamps", "circuits.line-1.reset", "circuits.line-1.kind")
		text := h.one(map[string][]string{"circuits.line-1.lamps": {"two", "three"}, "circuits.line-1.reset": {"let-go", "pressed"},
			"circuits.line-1.kind": {"two-channel", "one-channel"}}[path]...)
		h.did(path+" = "+text, h.change(h.place, path, text))
	case 7:
		key := h.one("turn/before/stop", "keep/gate/stop", "stop/mended/what", "stop/signed/record")
		h.did("waive "+key, h.Waive(ctx, h.rh, h.id, base.NewID(), key, "I. Brekke lets it turn once before the circuit is in"))
	case 8:
		if c := h.check(v, func(c gate.Check) bool { return c.Entry != "" && strings.HasPrefix(c.Key, "stop/") }); c != nil {
			h.did("take back "+c.Key, h.Withdraw(ctx, h.rh, h.id, base.NewID(), c.Entry, "it was written at the wrong circuit"))
		}
	case 9:
		if c := h.check(v, func(c gate.Check) bool { return c.Do != "" && strings.HasPrefix(c.Key, "stop/") }); c != nil {
			h.did("answer "+c.Key, h.w.Answer(ctx, h.id, h.place, *c, nil))
		}
	}
}

func (h *hike) change(doc, path, text string) error {
	return h.Change(ctx, h.rh, doc,
		drives.Edit{ID: base.NewID(), Edit: base.NewID(), Why: "as it was found at the panel",
			Sets: []drives.Set{{Path: path, Text: text}}})
}

// check is any check of which something is so, of the gates that are at hand most of all.
func (h *hike) check(v base.View, is func(gate.Check) bool) *gate.Check {
	var all []gate.Check
	for _, g := range v.State.Gates {
		for _, c := range g.Checks {
			if is(c) {
				all = append(all, c)
			}
		}
	}
	if len(all) == 0 {
		return nil
	}
	return &all[min(h.rng.IntN(len(all)), h.rng.IntN(len(all)))]
}

// wrong reports a contradiction with the way to it.
func (h *hike) wrong(format string, args ...any) {
	h.t.Helper()
	h.t.Errorf("%s\nthe way: %s", fmt.Sprintf(format, args...), strings.Join(h.log[max(0, len(h.log)-14):], "\n  "))
}

// look holds what is shown against what was recorded.
func (h *hike) look() {
	h.t.Helper()
	v, p := h.view(h.id), h.atPlace()
	now := h.clock.UTC().Format("2006-01-02T15:04:05.000Z")
	for k, x := range restsOn(v, p) {
		if l := h.was[k]; len(l) == 0 || l[len(l)-1].value != x {
			h.was[k] = append(l, since{now, x})
		}
	}
	r := h.store.Read(ctx)
	own, err := r.Entries(h.id)
	h.ok(err)
	place, err := r.Entries(h.place)
	h.ok(err)
	f := foldOf(own, place)
	h.energy(v, p, f)
	h.gates(v)
	h.older(v, f)
	h.planned(v)
	h.other(v)
}

// restsOn are what evidence rests on, as it is entered now.
func restsOn(v base.View, p yard.PlaceView) map[string]string {
	d := v.Drive
	c := p.Place.Circuits[d.Stop.Circuit]
	row := d.Motor.Rows[star]
	return map[string]string{"drive": d.Rating.Serial, "motor": d.Motor.Serial,
		"plate": fmt.Sprint(d.Motor.Kind == "permanent-magnet") + row.Current.Text + row.Connection, "cable": d.Site.Cable.Text,
		"direction": d.Turn.Phases + d.Turn.Sense,
		"circuit":   c.Kind + c.Lamps + c.Reset + fmt.Sprint(d.Stop.None), "control": d.Intent.Control,
		"sources": fmt.Sprint(slices.Sorted(maps.Keys(d.Supplies))), "phases": p.Place.Supplies["p1"].Phases,
		"dangers": fmt.Sprint(d.Intent.Restart == "on", d.Intent.PowerUp == "on", d.Turn.Hanging, d.Motor.Kind == "permanent-magnet")}
}

// then is what stood when something was recorded.
func (h *hike) then(what, at string) string {
	value := h.was[what][0].value
	for _, x := range h.was[what] {
		if x.at <= at {
			value = x.value
		}
	}
	return value
}

func (h *hike) now(what string) string { l := h.was[what]; return l[len(l)-1].value }

// folded is what the entries say, without any rule.
type folded struct {
	locks       map[string]map[string]bool // by supply, by person
	opened      map[string]string          // when a supply was last locked off first
	openedHere  map[string]string          // the same, for work at this drive or nobody said where
	energy      map[string]drivefile.Energy
	at          map[string]string // of the last record of energy
	undone      map[string]string // when a lock came off, or a supply was recorded otherwise than dead
	evidence    map[string][]heldEvidence
	passed      map[string]bool
	mend, reset string
}

type heldEvidence struct {
	drivefile.Evidence
	at, id string
}

func foldOf(own, place []drivefile.Entry) folded {
	f := folded{locks: map[string]map[string]bool{}, opened: map[string]string{}, openedHere: map[string]string{},
		energy: map[string]drivefile.Energy{}, at: map[string]string{}, undone: map[string]string{},
		evidence: map[string][]heldEvidence{}, passed: map[string]bool{}}
	gone := map[string]bool{}
	for _, en := range own {
		var w drivefile.Withdrawal
		if en.Kind == drivefile.EntryWithdrawal && json.Unmarshal(en.Body, &w) == nil {
			gone[w.Entry] = true
		}
	}
	for _, en := range own {
		var ev drivefile.Evidence
		var d drivefile.Decision
		switch {
		case gone[en.ID]:
		case en.Kind == drivefile.EntryEvidence && json.Unmarshal(en.Body, &ev) == nil:
			f.evidence[ev.Key] = append(f.evidence[ev.Key], heldEvidence{ev, en.At, en.ID})
			if ev.Key == "stop/mended/what" && ev.Value != "misread" {
				f.mend = en.At
			}
			if ev.Key == "wake/reset/delivery" && ev.Value == "done" {
				f.reset = en.At
			}
		case en.Kind == drivefile.EntryDecision && json.Unmarshal(en.Body, &d) == nil && d.Type == "passed":
			f.passed[d.Key] = true
		}
	}
	for _, en := range place {
		var l drivefile.Lock
		var e drivefile.Energy
		switch {
		case en.Kind == drivefile.EntryLock && json.Unmarshal(en.Body, &l) == nil:
			m := f.locks[l.Supply]
			if m == nil {
				m = map[string]bool{}
				f.locks[l.Supply] = m
			}
			if l.Act == "on" {
				if len(m) == 0 {
					f.opened[l.Supply] = en.At
					if l.Drive == "" || len(own) > 0 && l.Drive == own[0].Doc {
						f.openedHere[l.Supply] = en.At
					}
				}
				m[l.Owner] = true
			} else {
				delete(m, l.Owner)
				f.undone[l.Supply] = en.At
			}
		case en.Kind == drivefile.EntryEnergy && json.Unmarshal(en.Body, &e) == nil:
			f.energy[e.Supply], f.at[e.Supply] = e, en.At
			if e.State != "dead" {
				f.undone[e.Supply] = en.At
			}
		}
	}
	return f
}

// energy: DEAD is shown only of what was locked off, waited for, measured whole with one meter that was proved, recorded, and not touched
// since.
func (h *hike) energy(v base.View, p yard.PlaceView, f folded) {
	h.t.Helper()
	for _, s := range v.State.Sources { // one may be DEAD beside another that is not
		if s.State.State == "dead" && (len(f.locks[s.Point]) == 0 || f.undone[s.ID] > f.at[s.ID] || f.energy[s.ID].Meter == "") {
			h.wrong("%s is shown DEAD; locks %v, touched %s, recorded %s with %q", s.Name, f.locks[s.Point], f.undone[s.ID], f.at[s.ID],
				f.energy[s.ID].Meter)
		}
	}
	if v.State.Energy.State != "dead" {
		return
	}
	proved := ""
	for id := range v.Drive.Supplies {
		e := f.energy[id]
		switch {
		case e.State != "dead" || e.Drive != h.id || e.Meter == "":
			h.wrong("DEAD, and %s is recorded %q", id, e.State)
		case len(f.locks[id]) == 0:
			h.wrong("DEAD, and no lock is on %s", id)
		case f.undone[id] > f.at[id]:
			h.wrong("DEAD, and %s was touched since", id)
		case h.then("sources", f.at[id]) != h.now("sources") || h.then("phases", f.at[id]) != h.now("phases"):
			h.wrong("DEAD, and what feeds it was changed since")
		}
		proved = max(proved, f.at[id])
	}
	at, err := time.Parse(time.RFC3339, proved)
	if err != nil || h.clock.Sub(at) > 8*time.Hour+time.Minute {
		h.wrong("DEAD since %s, longer than the place's longest time", proved)
	}
	opened := ""
	for id := range v.Drive.Supplies {
		opened = max(opened, f.opened[id])
	}
	// Every pair that exists, and no other; each source its own.
	mains, meters := 0, map[string]bool{}
	for key, l := range f.evidence {
		x := l[len(l)-1]
		pair, measured := strings.CutPrefix(key, "dead/measure/")
		if !measured || x.at < opened {
			continue
		}
		if h.then("phases", x.at) != h.now("phases") {
			continue // measured when the supply was said to be another: it proves nothing, and harms nothing
		}
		if strings.HasPrefix(pair, "l") || strings.HasPrefix(pair, "n-") {
			mains++
			if strings.Contains(pair, "l3") && h.now("phases") == "1" {
				h.wrong("DEAD with %s measured on one phase", pair)
			}
		}
		if x.Reading == nil || math.Abs(*x.Reading) > 60 || x.Meter == "" {
			h.wrong("DEAD, and %s reads %q with %q", pair, x.Value, x.Instrument)
		}
		meters[x.Meter] = true
	}
	if want := map[string]int{"1": 3, "3": 6}[h.now("phases")]; mains < want {
		h.wrong("DEAD, and %d pairs of the mains are measured, want %d", mains, want)
	}
	if v.Drive.Supplies["c1"] {
		for _, pair := range []string{"between", "first-pe", "second-pe"} {
			if l := f.evidence["dead/measure/c1/"+pair]; len(l) == 0 || l[len(l)-1].at < opened {
				h.wrong("DEAD, and the control supply is not measured: %s", pair)
			}
		}
	}
	for _, key := range []string{"dead/meter/before", "dead/meter/after", "dead/label/hung", "dead/shaft/blocked", "dead/ppe/worn"} {
		l := f.evidence[key]
		if len(l) == 0 || l[len(l)-1].at < opened {
			h.wrong("DEAD without %s since it was opened", key)
		} else if x := l[len(l)-1]; strings.Contains(key, "/meter/") {
			meters[x.Meter] = true
		}
	}
	if len(meters) != 1 {
		h.wrong("DEAD with %d meters", len(meters))
	}
	if l := f.evidence["dead/measure/dc-link"]; len(l) > 0 && len(f.evidence["dead/wait/minutes"]) > 0 {
		minutes := 0.
		w := f.evidence["dead/wait/minutes"]
		_, _ = fmt.Sscan(w[len(w)-1].Value, &minutes)
		least := map[string]float64{"Tarn": 10, "Brae": 15, "Voe": 12}[v.Drive.Rating.Dialect] // as their files and labels say
		from, _ := time.Parse(time.RFC3339, opened)
		to, _ := time.Parse(time.RFC3339, l[len(l)-1].at)
		if to.Sub(from).Minutes() < math.Max(minutes, least) {
			h.wrong("DEAD after %.1f minutes, the label says %.0f and the family %.0f", to.Sub(from).Minutes(), minutes, least)
		}
	}
}

// gates: a mark says what its checks and findings say, the Yard the same, and nothing passes over what stops.
func (h *hike) gates(v base.View) {
	h.t.Helper()
	page, err := h.Yard(ctx, store.YardQuery{Place: h.place})
	h.ok(err)
	row := page.Rows[slices.IndexFunc(page.Rows, func(r yard.YardRow) bool { return r.ID == h.id })]
	for i, g := range v.State.Gates {
		if k := slices.Index(page.Gates, g.Key); k < 0 || row.Marks[k] != string(g.Mark) || row.Waived[k] != g.Waived {
			h.wrong("gate %s is %s on its screen, %v in the Yard", g.Key, g.Mark, row.Marks[i])
		}
		stops := false
		for _, c := range g.Checks {
			stops = stops || c.Verdict == gate.Stops
			if g.Mark == "passed" && c.Verdict != gate.Holds && c.Verdict != gate.Waived {
				h.wrong("gate %s is passed, and %s is %s", g.Key, c.Key, c.Verdict)
			}
			if c.Verdict == gate.Waived && (c.Must || g.Key == "dead" || strings.HasSuffix(c.Key, "/people")) {
				h.wrong("%s is waived", c.Key)
			}
		}
		if stops != (g.Mark == "barred") {
			h.wrong("gate %s is %s, and a check of it stops: %v", g.Key, g.Mark, stops)
		}
		for _, x := range v.State.Findings {
			if g.Mark == "passed" && x.Gate == g.Key && x.Severity.Open() && !x.Kept {
				h.wrong("gate %s is passed beside %s", g.Key, x.Code)
			}
		}
		open := slices.ContainsFunc(v.State.Findings, func(x gate.Answered) bool { return x.Gate == g.Key && x.Severity.Open() && !x.Kept })
		if c := checkOf(v, g.Key+"/findings/answered"); c.Key != "" && c.Verdict != gate.Waived && open != (c.Verdict != gate.Holds) {
			h.wrong("%s is %s, and a finding of its gate is open: %v", c.Key, c.Verdict, open)
		}
		if c := checkOf(v, g.Key+"/readback/settings"); c.Verdict == gate.Holds {
			for _, l := range v.State.Lines {
				if l.Gate == g.Key && l.Planned && l.Verdict != "holds" {
					h.wrong("%s says read back, and %s is %s", c.Key, l.Code, l.Verdict)
				}
			}
		}
	}
	if row.WorstTitle != "" && !slices.ContainsFunc(v.State.Findings, func(f gate.Answered) bool { return f.Title == row.WorstTitle }) {
		h.wrong("the Yard's worst %q is no finding", row.WorstTitle)
	}
	if v.State.Stop.Fails > 0 && !v.Drive.Stop.None {
		turn := "turn/before/stop"
		if v.State.Practice.Name == "turn-first" { // that one turns before the circuit is in
			turn += "-fails"
		}
		for _, key := range []string{turn, "keep/gate/stop"} {
			if c := checkOf(v, key); c.Verdict != gate.Stops && v.Drive.Turn.Stands != "tester" && !v.Drive.Stop.Alone {
				h.wrong("%d tests of gate Stop fail, and %s is %s", v.State.Stop.Fails, key, c.Verdict)
			}
		}
	}
}

// rests tells, for what evidence rests on, which checks rest on it.
var rests = map[string]func(gate, key string) bool{
	"drive": func(g, key string) bool {
		motor := strings.HasPrefix(key, "power/links/") || strings.HasPrefix(key, "power/insulation/") ||
			strings.HasPrefix(key, "power/winding/") || strings.HasPrefix(key, "power/motor/")
		return strings.Contains("power control wake turn tune stop", g) && !motor && key != "tune/kind/chosen" && key != "stop/set/chosen"
	},
	"motor": func(g, key string) bool {
		return g == "plate" || g == "turn" || g == "tune" && key != "tune/kind/chosen" || strings.HasPrefix(key, "power/insulation/") ||
			strings.HasPrefix(key, "power/winding/")
	},
	"plate":     func(_, key string) bool { return key == "tune/ended/shown" || strings.HasPrefix(key, "tune/result/") },
	"cable":     func(_, key string) bool { return key == "tune/ended/shown" || key == "tune/ready/cable" },
	"control":   func(_, key string) bool { return key == "tune/ended/shown" },
	"direction": func(_, key string) bool { return key == "turn/seen/shaft" },
	"circuit": func(_, key string) bool {
		return strings.HasPrefix(key, gate.TestPrefix) || key == "stop/signed/record"
	},
	"dangers": func(_, key string) bool { return key == gate.DangersTaken },
}

// older: nothing holds that is older than what it rests on.
func (h *hike) older(v base.View, f folded) {
	h.t.Helper()
	for _, g := range v.State.Gates {
		for _, c := range g.Checks {
			if c.By == "" || c.At == "" || c.Verdict != gate.Holds && c.Verdict != gate.Waived {
				continue
			}
			for what, on := range rests {
				if (c.Verdict == gate.Holds || what == "drive" || what == "motor") && on(g.Key, c.Key) &&
					h.then(what, c.At) != h.now(what) {
					h.wrong("%s %s, of %s %q; it is %q", c.Key, c.Verdict, what, h.then(what, c.At), h.now(what))
				}
			}
			if c.Verdict != gate.Holds {
				continue
			}
			if before := strings.HasPrefix(c.Key, "wake/before/") || strings.HasPrefix(c.Key, "wake/line/"); before {
				for id := range v.Drive.Supplies {
					if f.openedHere[id] > c.At && h.then("sources", f.openedHere[id]) == h.now("sources") {
						h.wrong("%s holds, and %s was opened since", c.Key, id)
					}
				}
			}
			if strings.HasPrefix(c.Key, gate.TestPrefix) {
				l := f.evidence[c.Key]
				if f.mend > c.At {
					h.wrong("%s holds from before what was mended", c.Key)
				}
				if len(l) > 0 && strings.HasPrefix(l[len(l)-1].Value, "step") {
					h.wrong("%s holds, and it showed %q", c.Key, l[len(l)-1].Value)
				}
			}
			for _, x := range f.evidence[c.Key] {
				if x.id == c.Entry && x.Instrument == record.OnBench && h.real {
					h.wrong("%s of a real machine holds by the bench", c.Key)
				}
				if x.id == c.Entry && g.Key == "dead" && strings.HasPrefix(c.Unit, "V") && x.Meter == "" {
					h.wrong("%s holds without a meter", c.Key)
				}
			}
			if f.reset > c.At && strings.HasPrefix(c.Key, "tune/ended/") {
				h.wrong("%s holds through a delivery reset", c.Key)
			}
		}
		if g.Mark == "passed" && !f.passed[g.Key] {
			h.wrong("gate %s is passed, and nobody passed it", g.Key)
		}
	}
	for _, l := range v.State.Lines {
		if l.Verdict == "holds" && l.Read != nil && (l.Read.At < f.reset || h.then("drive", l.Read.At) != h.now("drive")) {
			h.wrong("%s holds by a reading of before the reset, or of another drive", l.Code)
		}
	}
}

// planned: what the machine needs is a line of the sheet, or a finding says that the family has none.
func (h *hike) planned(v base.View) {
	h.t.Helper()
	f := h.familyFile(v)
	if f == nil {
		return
	}
	d := v.Drive
	wants := func(role string, wanted bool, means string) {
		if !wanted {
			return
		}
		i := slices.IndexFunc(f.Settings, func(s dialect.Setting) bool { return s.Serves == role || s.Drives == role || s.Intent == role })
		if i < 0 {
			return // said by a finding, or by the family for good
		}
		code := f.Settings[i].Code
		k := slices.IndexFunc(v.State.Lines, func(l sheet.Line) bool { return l.Code == code })
		if k < 0 || !v.State.Lines[k].Planned && v.State.Lines[k].Problem == "" && v.State.Lines[k].Missing == "" {
			h.wrong("%s is needed, and %s %s is not planned", role, f.Name, code)
			return
		}
		if means == "" {
			return
		}
		for _, c := range f.Settings[i].Choices {
			if c.Value == v.State.Lines[k].Steps && c.Means != means {
				h.wrong("%s is to be %s, and %s is planned %s", role, means, code, c.Text)
			}
		}
	}
	wants("motor-kind", d.Motor.Kind != "", d.Motor.Kind)
	wants("brake", d.Turn.Brake == "drive", "")
	wants("choice.direction", d.Intent.Direction != "", "")
	wants("run-at-power", d.Intent.PowerUp != "", "")
	wants("dc-brake", d.Intent.DCBrake == "on", "")
	wants("stop-key", d.Intent.CommandSource == "terminals", "")
	wants("interlock", d.Wiring.Interlock, "")
	wants("choice.automatic_restart", d.Intent.Restart != "", "")
	if d.Turn.Brake == "drive" && d.Wiring.Command != "" {
		opens := slices.ContainsFunc(v.State.Lines, func(l sheet.Line) bool {
			s, ok := f.Setting(l.Code)
			return ok && l.Planned && slices.ContainsFunc(s.Choices,
				func(c dialect.Choice) bool { return c.Value == l.Steps && c.Means == "brake-open" })
		})
		if !opens && !slices.ContainsFunc(v.State.Findings,
			func(x gate.Answered) bool { return x.Code == "no-output-brake-open" || x.Code == "no-terminals" }) {
			h.wrong("the drive opens the brake, and no output does it")
		}
	}
}

// readFamilies are the families as read: the same few files for each look at each job.
var readFamilies sync.Map

func (h *hike) familyFile(v base.View) *dialect.Family {
	name := fmt.Sprint(v.Family.Name, " ", v.Family.Version)
	if f, ok := readFamilies.Load(name); ok {
		return f.(*dialect.Family)
	}
	raw, err := h.FamilyFile(v.Family.Name, v.Family.Version)
	if err != nil {
		return nil
	}
	f, err := familyfile.Read(raw)
	h.ok(err)
	readFamilies.Store(name, f)
	return f
}

// other: the ride's screen and the findings, the band and the sources say the same.
func (h *hike) other(v base.View) {
	h.t.Helper()
	for _, s := range v.State.Sources {
		if v.State.Energy.State == "dead" && s.State.State != "dead" {
			h.wrong("the band says DEAD, and %s %s", s.Name, s.State.State)
		}
	}
	if h.rng.IntN(8) > 0 { // a ride costs more than all the rest
		return
	}
	r, err := h.SpanRide(ctx, h.id, benches.SpanTry{})
	if err != nil || r.Missing != "" {
		return
	}
	bad := r.Ride.Trip != nil || r.Ride.Stalled
	said := slices.ContainsFunc(v.State.Findings,
		func(f gate.Answered) bool { return f.Code == "ridden-trips" || f.Code == "ridden-stalls" })
	if bad != said {
		h.wrong("the ride ends badly: %v, a finding says so: %v", bad, said)
	}
}
