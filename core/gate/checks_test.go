package gate_test

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/finding"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/core/practice"
	"tingate/core/record"
	"tingate/core/stops"
	"tingate/formats/practicefile"
)

// scene is a drive at which everything of Match, Dead or Wake is answered well.
type scene struct {
	job gate.Job
	now time.Time
}

func stamp(t time.Time) string { return t.UTC().Format("2006-01-02T15:04:05.000Z") }

func (s *scene) add(t *testing.T, kind string, body any) {
	n := len(s.job.Entries) + 1
	by := sample.Me
	if strings.Contains(string(raw(t, body)), "/second/look") {
		by = "the second person"
	}
	s.job.Entries = append(s.job.Entries,
		drivefile.Entry{ID: fmt.Sprintf("e%03d", n), Seq: int64(n), Kind: kind, By: by, At: stamp(s.now),
			Body: raw(t, sample.OfDryer(body))})
	s.now = s.now.Add(time.Second)
}

// power sets how the one supply stands: live, or locked.
func (s *scene) power(locked bool) {
	e := isolation.SupplyState{State: "live", Since: stamp(s.now)}
	if locked {
		e = isolation.SupplyState{State: "not-known", Since: stamp(s.now),
			Locks: []isolation.Locked{{Owner: sample.Me, Since: stamp(s.now), Entry: "lock"}}}
		s.now = s.now.Add(time.Hour)
	}
	s.job.Energy = map[string]isolation.SupplyState{"p1": e}
}

// answers answers every check of a gate that waits, with a good answer.
func (s *scene) answers(t *testing.T, key string) {
	t.Helper()
	for range 100 {
		var open *gate.Check
		for _, c := range checksOf(gate.Evaluate(s.job, s.now), key) {
			if c.Do != "" && c.Verdict != gate.Holds {
				open = &c
				break
			}
		}
		if open == nil && key == "stop" && s.moved() {
			continue
		}
		if open == nil {
			return
		}
		s.answer(t, *open, good(*open))
	}
	t.Fatalf("gate %s does not come to an end", key)
}

// moved moves the wire of the next test, dead, and brings the supply back; false when none waits for it.
func (s *scene) moved() bool {
	st := gate.Evaluate(s.job, s.now)
	waits := slices.ContainsFunc(checksOf(st, "stop"), func(c gate.Check) bool {
		return strings.HasPrefix(c.Key, gate.TestPrefix) && c.Verdict == gate.NotDone && c.Do == ""
	})
	if !waits || !st.Stop.Ready || st.Stop.Lift == "" {
		return false
	}
	e := s.job.Energy["p1"]
	e.DeadAt, e.Since = map[string]string{s.job.ID: stamp(s.now)}, stamp(s.now.Add(time.Second))
	s.job.Energy = map[string]isolation.SupplyState{"p1": e}
	s.now = s.now.Add(2 * time.Second)
	return true
}

func good(c gate.Check) string {
	switch {
	case c.Options != nil:
		return c.Options[0].Value
	case c.Do == "test":
		return stops.AsMust
	case c.Low != nil && c.High != nil:
		return fmt.Sprint((*c.Low + *c.High) / 2)
	case c.Key == "power/earth/ohms":
		return "0.04"
	case c.High != nil:
		return "0.4"
	case c.Low != nil:
		return fmt.Sprint(*c.Low*1.5 + 1)
	}
	return "confirmed"
}

func (s *scene) answer(t *testing.T, c gate.Check, value string) {
	if c.Do == "attach" {
		s.add(t, drivefile.EntryAttachment, drivefile.Attachment{Of: c.Subject, Name: "label.png"})
		return
	}
	ev := drivefile.Evidence{Key: c.Key, Value: value, Basis: c.Basis, Unit: c.Unit, Instrument: "M3, auto AC+DC", Meter: sample.Meter,
		On: "AC+DC"}
	var v float64
	if _, err := fmt.Sscan(value, &v); err == nil {
		ev.Reading = &v
	}
	s.add(t, drivefile.EntryEvidence, ev)
}

func checksOf(s gate.State, key string) []gate.Check {
	for _, g := range s.Gates {
		if g.Key == key {
			return g.Checks
		}
	}
	return nil
}

func practiceWith(t *testing.T, change map[string]string) *practice.Practice {
	t.Helper()
	p := *practicefile.Shipped().Find("stop-first")
	p.Choices = maps.Clone(p.Choices)
	maps.Copy(p.Choices, change)
	if errs := p.Compile(); errs != nil {
		t.Fatal(errs)
	}
	return &p
}

// whole is a scene in which a gate is done: everything stated, everything answered, as found saved.
func whole(t *testing.T, key string, p *practice.Practice) *scene {
	t.Helper()
	d, place := matched()
	s := &scene{now: now}
	s.job = gate.Job{ID: "x", Drive: d, Place: place, Family: job(d, nil).Family, Practice: p}
	s.power(key == "dead")
	if key == "wake" || key == "turn" || key == "tune" {
		s.add(t, drivefile.EntrySnapshot, drivefile.Snapshot{Name: "as-found", Dialect: "Tarn"})
	}
	switch key { // what these gates look back at
	case "stop":
		s.stopWhole()
	case "turn":
		s.job.Drive.Turn.Stands, s.job.Drive.Turn.Brake = "coupled", "drive"
		wantsEncoder(&s.job.Drive)
		s.passes(t, "power", "control", "wake", "stop")
	case "tune":
		s.job.Drive.Intent.Control, s.job.Drive.Turn.Brake = "vector", "apart"
		s.passStop(t)
		for _, g := range []string{"wake", "plate", "turn"} {
			s.answers(t, g)
		}
	}
	s.answers(t, key)
	if key == "dead" {
		e := s.job.Energy["p1"]
		e.State, e.Drive, e.Since = "dead", "x", stamp(s.now)
		s.job.Energy = map[string]isolation.SupplyState{"p1": e}
	}
	return s
}

// stopWhole states everything of a stop circuit that there is to state: a controller, contactors, distances, a hanging load.
func (s *scene) stopWhole() {
	d, q := &s.job.Drive, sample.Q
	d.Turn.Hanging, d.Turn.Brake, d.Stop.Drop = true, "apart", q("stop.drop", "20")
	c := s.job.Place.Circuits["line-1"]
	c.Kind, c.Program, c.Checksum, c.Contactors = "controller", "DH-7", "A1B2", "1"
	c.MTTFD, c.DC, c.CCF = q("site.motors", "60"), q("intent.load_torque", "90 %"), q("site.motors", "70")
	c.Distance, c.StopTime, c.Approach = q("site.cable", "0.9 m"), q("stop.allowed", "0.5 s"), "interlock-or-other"
	s.job.Place.Circuits = map[string]drivefile.StopCircuit{"line-1": c}
}

// circuit changes the place's stop circuit.
func (s *scene) circuit(change func(c *drivefile.StopCircuit)) {
	c := s.job.Place.Circuits["line-1"]
	change(&c)
	s.job.Place.Circuits = map[string]drivefile.StopCircuit{"line-1": c}
}

// passes answers and passes gates.
func (s *scene) passes(t *testing.T, gates ...string) {
	for _, key := range gates {
		s.answers(t, key)
		s.add(t, drivefile.EntryDecision, drivefile.Decision{Type: "passed", Key: key})
	}
}

// passStop passes gate Stop; the gates by which the drive was wired and woken are left to whoever tests them.
func (s *scene) passStop(t *testing.T) {
	s.passes(t, "stop")
	for _, key := range []string{"power", "control", "wake"} {
		s.add(t, drivefile.EntryDecision, drivefile.Decision{Type: "waived", Key: "turn/before/" + key, Reason: "shown by another test"})
	}
}

// again is the same scene, to be spoilt.
func (s *scene) again() *scene {
	c := *s
	c.job.Entries = slices.Clone(s.job.Entries)
	c.job.Place.Supplies, c.job.Energy = maps.Clone(s.job.Place.Supplies), maps.Clone(s.job.Energy)
	return &c
}

// spoilers fail the checks that no answer decides.
var spoilers = map[string]func(t *testing.T, s *scene){
	"match/serial/drive": func(_ *testing.T, s *scene) { s.job.Drive.Rating.Serial = "" },
	"match/serial/motor": func(_ *testing.T, s *scene) { s.job.Drive.Motor.Serial, s.job.Drive.Motor.NoSerial = "", true },
	"match/type/order":   func(_ *testing.T, s *scene) { s.job.Drive.Site.Ordered = "TN4-009" },
	"match/type/read": func(_ *testing.T, s *scene) {
		s.job.Drive.Rating.Type, s.job.Drive.Site.Ordered = "TN9-016-F2K", "TN9-016"
	},
	"match/supply/stated":   func(_ *testing.T, s *scene) { s.job.Drive.Site.FilterLinks = "" },
	"match/supply/fault":    func(_ *testing.T, s *scene) { s.job.Drive.Rating.Withstand = sample.Q("rating.short_circuit", "2") },
	"match/drive/stated":    func(_ *testing.T, s *scene) { s.job.Drive.Rating.Duty = "" },
	"match/drive/current":   func(_ *testing.T, s *scene) { s.job.Drive.Site.Ambient = sample.Q("site.ambient", "48") },
	"match/drive/terminals": func(_ *testing.T, s *scene) { s.job.Drive.Site.Outputs = sample.Q("site.outputs", "9") },
	"match/motor/stated":    func(_ *testing.T, s *scene) { s.job.Drive.Site.MotorFit = "" },
	"match/motor/voltage": func(_ *testing.T, s *scene) {
		s.job.Drive.Motor.Linked, s.job.Place.Supplies["p1"] = sample.Delta, at(s, "480")
	},
	"match/place/stated": func(_ *testing.T, s *scene) { s.job.Drive.Site.Enclosure = "" },
	"match/findings/answered": func(_ *testing.T, s *scene) {
		s.job.Drive.Site.Mounting = "on-its-side"
	},
	"power/links/known":       func(_ *testing.T, s *scene) { s.job.Drive.Motor.Leads = "" },
	"power/conductors/stated": func(_ *testing.T, s *scene) { s.job.Drive.Power.LineArea = "" },
	"power/line/carries":      func(_ *testing.T, s *scene) { s.job.Drive.Power.LineArea = "1.5" },
	"power/motor/carries":     func(_ *testing.T, s *scene) { s.job.Drive.Power.MotorArea = "AWG 16" },
	"power/protection/fits":   func(_ *testing.T, s *scene) { s.job.Drive.Power.Protection = sample.Q("power.protection", "32") },
	"power/winding/balance": func(t *testing.T, s *scene) {
		s.answer(t, check(gate.Evaluate(s.job, s.now), "power/winding/2"), "1.2")
	},
	"power/findings/answered": func(_ *testing.T, s *scene) {
		s.job.Drive.Site.Cable, s.job.Drive.Site.MotorFit = sample.Q("site.cable", "60"), "plain"
	},
	"control/wanted/stated": func(_ *testing.T, s *scene) { s.job.Drive.Wiring.Safety = "" },
	"control/budget/1": func(_ *testing.T, s *scene) {
		w := &s.job.Drive.Wiring
		s.job.Drive.Site.Encoder, w.RunLamp, w.FaultLamp = "wanted", true, true
	},
	"control/built/agrees": func(t *testing.T, s *scene) {
		s.answer(t, check(gate.Evaluate(s.job, s.now), "control/wire/11"), "100000")
	},
	"control/findings/answered": func(_ *testing.T, s *scene) { s.job.Drive.Intent.CommandSource = "network" },
	"dead/wait/label":           func(_ *testing.T, s *scene) { s.job.Since = s.now.Add(-time.Minute) },
	"dead/record/dead":          func(_ *testing.T, s *scene) { s.power(false) },
	"dead/findings/answered":    nil, // by readings that do not fall: TestALinkThatDoesNotFallStops in package app
	"wake/found/saved":          func(_ *testing.T, s *scene) { s.job.Entries = s.job.Entries[1:] },
	"wake/findings/answered": func(t *testing.T, s *scene) {
		s.answer(t, check(gate.Evaluate(s.job, s.now), "wake/line/1"), "370")
	},
	"stop/circuit/stated": func(_ *testing.T, s *scene) { s.job.Drive.Stop.Guarding = "" },
	"stop/circuit/sound":  func(_ *testing.T, s *scene) { s.circuit(func(c *drivefile.StopCircuit) { c.Devices = nil }) },
	"stop/given/stated":   func(_ *testing.T, s *scene) { s.circuit(func(c *drivefile.StopCircuit) { c.Checksum = "" }) },
	"stop/given/level":    func(_ *testing.T, s *scene) { s.circuit(func(c *drivefile.StopCircuit) { c.Required = "e" }) },
	"stop/given/arithmetic": func(_ *testing.T, s *scene) {
		s.circuit(func(c *drivefile.StopCircuit) { c.CCF = sample.Q("site.motors", "40") })
	},
	"stop/given/distance": func(_ *testing.T, s *scene) {
		s.circuit(func(c *drivefile.StopCircuit) { c.StopTime = sample.Q("stop.allowed", "1 s") })
	},
	"stop/findings/answered": func(_ *testing.T, s *scene) { s.circuit(func(c *drivefile.StopCircuit) { c.Reset = "automatic" }) },
	"turn/before/plate":      func(_ *testing.T, s *scene) { s.job.Drive.Motor.Linked, s.job.Drive.Motor.Rows = "", nil },
	"turn/before/supply": func(_ *testing.T, s *scene) { // before it was turned; afterwards it was live then
		s.job.Energy, s.job.Drive.Turn.From = nil, "fan-end"
	},
	"turn/before/power":   func(_ *testing.T, s *scene) { s.job.Drive.Power.LineArea = "" },
	"turn/before/control": func(_ *testing.T, s *scene) { s.job.Drive.Wiring.Safety = "" },
	"turn/before/wake":    func(t *testing.T, s *scene) { s.answer(t, check(gate.Evaluate(s.job, s.now), "wake/line/1"), "300") },
	"turn/before/stop":    func(_ *testing.T, s *scene) { s.job.Drive.Stop.Guarding = "" },
	"turn/wanted/stated":  func(_ *testing.T, s *scene) { s.job.Drive.Turn.Sense = "" },
	"turn/coupled/may":    func(_ *testing.T, s *scene) { s.job.Drive.Turn.Backstop = true },
	"turn/encoder/stated": func(_ *testing.T, s *scene) { s.job.Drive.Turn.Lines = drivefile.Q{} },
	"turn/findings/answered": func(t *testing.T, s *scene) {
		s.answer(t, check(gate.Evaluate(s.job, s.now), "turn/encoder/counts"), "20500")
	},
	"tune/machine/stated":    func(_ *testing.T, s *scene) { s.job.Drive.Turn.Uncouple = "" },
	"tune/ready/plate":       func(_ *testing.T, s *scene) { s.job.Drive.Motor.Linked = "" },
	"tune/ready/direction":   func(_ *testing.T, s *scene) { s.job.Drive.Turn.From = "fan-end" },
	"tune/ready/torque":      func(t *testing.T, s *scene) { s.answer(t, check(gate.Evaluate(s.job, s.now), "wake/sto/by"), "open") },
	"tune/findings/answered": func(_ *testing.T, s *scene) { s.job.Drive.Intent.LowestSpeed = sample.Q("intent.lowest_speed", "60") },
}

func at(s *scene, volts string) drivefile.Supply {
	x := s.job.Place.Supplies["p1"]
	x.Voltage = sample.Q("rating.voltage", volts)
	return x
}

// Each check of the gates before the plate holds when all is well, and each fails for one thing that is not.
func TestEachCheckBeforeThePlateCanFail(t *testing.T) {
	everything := map[string]string{"disconnect": "motor-side", "assistant": "assistant"}
	for _, key := range []string{"match", "dead", "power", "control", "wake", "stop", "turn", "tune"} {
		done := whole(t, key, practiceWith(t, everything))
		for _, c := range checksOf(gate.Evaluate(done.job, done.now), key) {
			if c.Verdict != gate.Holds {
				t.Errorf("%s: %s %s", c.Key, c.Verdict, c.Detail)
				continue
			}
			s := done.again()
			spoil, computed := spoilers[c.Key]
			switch {
			case computed && spoil == nil:
				continue
			case computed:
				spoil(t, s)
			case c.Key == "dead/wait/minutes": // a word of the label, beyond what any label says
				s.answer(t, c, "999")
			case c.Key == "dead/isolate/p1":
				s.job.Energy = map[string]isolation.SupplyState{"p1": {State: "not-known", Since: stamp(s.now)}}
			case c.Unit != "": // measured: far outside
				bad := "9999"
				if c.High == nil {
					bad = "0.5"
				}
				if strings.HasPrefix(c.Key, "power/winding/") {
					bad = "not read"
				}
				s.answer(t, c, bad)
			default: // a person's word, choice or photo: without it
				s.job.Entries = slices.DeleteFunc(slices.Clone(s.job.Entries), func(e drivefile.Entry) bool {
					return strings.Contains(string(e.Body), `"`+c.Key+`"`) ||
						c.Key == "match/photo/label" && e.Kind == drivefile.EntryAttachment
				})
			}
			if got := check(gate.Evaluate(s.job, s.now), c.Key); got.Verdict == gate.Holds {
				t.Errorf("%s holds whatever is wrong", c.Key)
			}
		}
	}
}

// What a practice changes at these gates, choice by choice.
func TestAPracticeChangesTheChecks(t *testing.T) {
	first := func(key string) func(gate.State) string {
		return func(s gate.State) string {
			if c := check(s, key); c.Options != nil {
				return c.Options[0].Value
			}
			return ""
		}
	}
	high := func(s gate.State) string { return fmt.Sprint(*check(s, "dead/measure/l1-l2").High) }
	for _, c := range []struct {
		choice, before, after string
		gate                  string
		see                   func(gate.State) string
		want                  [2]string
	}{
		{"dead_limit", "42", "60", "dead", high, [2]string{"42", "60"}},
		{"dead_limit", "42", "50", "dead", high, [2]string{"42", "50"}},
		{"disconnect", "line-side", "motor-side", "dead",
			func(s gate.State) string { return check(s, "dead/motor-side/open").Verdict.Words() }, [2]string{"", "holds"}},
		{"first_turn", "circuit-first", "jumper", "wake", first("wake/sto/by"), [2]string{"circuit", "jumper"}},
		{"delivery_state", "always", "used-only", "wake", first("wake/reset/delivery"), [2]string{"done", "not-needed"}},
		{"assistant", "list", "assistant", "wake", first("wake/assistant/done"), [2]string{"left-alone", "followed"}},
		{"first_turn", "circuit-first", "jumper", "turn", func(s gate.State) string { return check(s, "turn/before/stop").Title[:10] },
			[2]string{"Gate Stop ", "Somebody s"}},
		{"tune", "best", "standstill", "tune", first("tune/kind/chosen"), [2]string{"rotating-uncoupled", "standstill"}},
		{"tune", "best", "coupled", "tune", first("tune/kind/chosen"), [2]string{"rotating-uncoupled", "rotating-coupled"}},
		{"torque_off_is", "stop", "fault", "match", func(s gate.State) string { return codesOf(s, "span") },
			[2]string{"", "torque-off-against-practice"}},
	} {
		for i, v := range []string{c.before, c.after} {
			s := whole(t, c.gate, practiceWith(t, map[string]string{c.choice: v}))
			if got := c.see(gate.Evaluate(s.job, s.now)); got != c.want[i] {
				t.Errorf("%s %s: %q, want %q", c.choice, v, got, c.want[i])
			}
		}
	}
}

// What an assistant switches off is named, and stands in the register until it is on again; so is what is read as off.
func TestProtectionThatIsOffIsTemporary(t *testing.T) {
	things := func(s *scene) string {
		var l []string
		for _, x := range gate.Evaluate(s.job, s.now).Temporary {
			l = append(l, x.What+" "+strings.Fields(x.Where)[0])
		}
		return strings.Join(l, ", ")
	}
	s := whole(t, "wake", practiceWith(t, map[string]string{"assistant": "assistant"}))
	s.job.Drive.Rating.Dialect, s.job.Drive.Rating.Type = "Brae", "BR18C460"
	s.job.Family = job(s.job.Drive, nil).Family
	s.add(t, drivefile.EntryEvidence,
		drivefile.Evidence{Key: "wake/assistant/done", Value: "followed", Basis: map[string]string{"drive serial": "TN-0417"}})
	if got := things(s); got != "disabled-protection protect.out" {
		t.Fatalf("%q", got)
	}
	c := check(gate.Evaluate(s.job, s.now), "wake/assistant/protect.out")
	if c.Verdict != gate.NotDone || !strings.Contains(c.Title, "switches off protect.out") {
		t.Errorf("%+v", c)
	}
	s.answer(t, c, "confirmed")
	if got := things(s); got != "" {
		t.Errorf("on again: %q", got)
	}
	off := int64(0)
	s.add(t, drivefile.EntryReading, drivefile.Reading{Code: "protect.earth", Text: "nothing", Steps: &off, How: "typed"})
	state := gate.Evaluate(s.job, s.now)
	if got := things(s); got != "disabled-protection protect.earth" || check(state, "keep/temporary/none").Verdict != gate.Stops {
		t.Errorf("read as off: %q", got)
	}
	if v := check(state, "wake/findings/answered").Verdict; v != gate.Again {
		t.Errorf("what protects is off, and the findings of its gate are %s", v)
	}
	for _, f := range state.Findings {
		if f.Code == "protection-off-protect.earth" && f.Severity == finding.Look {
			s.add(t, drivefile.EntryDecision,
				drivefile.Decision{Type: "kept", Key: f.Key, Reason: "IT supply",
					Basis: map[string]string{"read": s.job.Entries[len(s.job.Entries)-1].ID}})
		}
	}
	if got := things(s); got != "" {
		t.Errorf("kept off with a reason: %q", got)
	}
	if v := check(gate.Evaluate(s.job, s.now), "wake/findings/answered").Verdict; v != gate.Holds {
		t.Errorf("kept off with a reason, and the findings are %s", v)
	}
}

// A waiver counts whatever made the check open: also what was answered well, and asks to be looked at again for something that happened
// besides.
func TestAWaiverCoversWhatIsToBeLookedAtAgain(t *testing.T) {
	s := whole(t, "wake", nil)
	s.job.Entries = slices.DeleteFunc(s.job.Entries, func(e drivefile.Entry) bool { return e.Kind == drivefile.EntrySnapshot })
	s.add(t, drivefile.EntrySnapshot, drivefile.Snapshot{Name: "as-found", Dialect: "Tarn"})
	if c := check(gate.Evaluate(s.job, s.now), record.DeliveryReset); c.Verdict != gate.Again ||
		!strings.Contains(c.Detail, "by waiving this") {
		t.Fatalf("reset before as found was saved: %+v", c)
	}
	s.add(t, drivefile.EntryDecision,
		drivefile.Decision{Type: "waived", Key: record.DeliveryReset, Reason: "the drive was new, and nothing in it was ours"})
	if c := check(gate.Evaluate(s.job, s.now), record.DeliveryReset); c.Verdict != gate.Waived || c.Reason == "" {
		t.Errorf("waived, and it is %+v", c)
	}
}

// The sign of a count says which way it went, and a time at its limit is not below it.
func TestSignsAndLimitsCount(t *testing.T) {
	s := whole(t, "turn", practiceWith(t, nil))
	for key, bad := range map[string]func(c gate.Check) string{
		"turn/encoder/counts": func(c gate.Check) string { return fmt.Sprint(-(*c.Low + *c.High) / 2) },
		"turn/encoder/speed":  func(c gate.Check) string { return fmt.Sprint(-(*c.Low + *c.High) / 2) },
	} {
		one := s.again()
		c := check(gate.Evaluate(one.job, one.now), key)
		if c.Verdict != gate.Holds {
			t.Fatalf("%+v", c)
		}
		one.answer(t, c, bad(c))
		if got := check(gate.Evaluate(one.job, one.now), key); got.Verdict == gate.Holds {
			t.Errorf("%s holds with %s", key, got.Value)
		}
	}
	s = whole(t, "stop", practiceWith(t, nil))
	c := check(gate.Evaluate(s.job, s.now), "stop/measured/apart")
	limit := math.Round(*c.High)
	for value, want := range map[string]bool{fmt.Sprint(limit): false, "-5": false, fmt.Sprint(limit / 2): true} {
		one := s.again()
		one.answer(t, c, value)
		if got := check(gate.Evaluate(one.job, one.now), c.Key); (got.Verdict == gate.Holds) != want {
			t.Errorf("channels apart by %s ms: %s", value, got.Verdict)
		}
	}
}

// Whatever gate an answer is of, its missing or other serial is asked about at Match, which is looked at before the gates after it.
func TestAnySerialIsAskedAboutAtMatch(t *testing.T) {
	for _, key := range []string{"power/earth/first", "wake/line/1", "turn/seen/shaft", "stop/before/people"} {
		for serial, want := range map[string]string{"": "match/serial/before", "TN-9999": "match/serial/same-drive"} {
			d, p := matched()
			s := &scene{now: now}
			s.job = gate.Job{ID: "x", Drive: d, Place: p, Family: job(d, nil).Family}
			s.add(t, drivefile.EntryEvidence,
				drivefile.Evidence{Key: key, Value: "confirmed", Basis: map[string]string{"drive serial": serial}})
			if c := check(s.state(), want); c.Do == "" {
				t.Errorf("%s with serial %q: %s is not asked", key, serial, want)
			}
		}
	}
}
