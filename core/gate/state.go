package gate

import (
	"strings"
	"time"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/isolation"
	"tingate/core/plate"
	"tingate/core/practice"
	"tingate/core/record"
	"tingate/core/sheet"
	"tingate/core/stops"
	"tingate/core/translate"
)

// RulesVersion changes when a rule changes, so that derived rows are made anew and old decisions tell what they saw.
const RulesVersion = "22"

// Job is all that an evaluation looks at.
type Job struct {
	ID      string
	Drive   drivefile.Drive
	Place   drivefile.Place
	Family  *dialect.Family // nil when none is chosen, or it is not known here
	Newest  string          // newest version of the family known here
	Zone    *time.Location  // of the place; nil: UTC
	Entries []drivefile.Entry
	Energy  map[string]isolation.SupplyState // by supply id
	// Practice is the job's; nil: no rule depends on one.
	Practice *practice.Practice
	// OwnCircuit is the imported stop circuit that takes the place of the drawn one; nil: none.
	OwnCircuit *stops.Circuit
	// Neighbours are the other drives of its stop circuit, by tag in small letters.
	Neighbours map[string]translate.Neighbour
	// Shown are the settings of this version of the family that other drives have shown, with the tag of one that did; of families whose
	// rows somebody has brought in.
	Shown map[string]string
	// SameTag are the machines of other drives of the place that bear this one's tag.
	SameTag []string
	// Ridden is what the plan did on its own bench; nil: it was not ridden.
	Ridden *Ridden
	// Asked is a measurement that parts suspects, asked for just now.
	Asked string
	// Since is when the server started: a wait counts only while it runs.
	Since time.Time
}

// Verdict is how a check stands.
type Verdict string

// Verdicts of a check.
const (
	Holds   Verdict = "holds"
	Again   Verdict = "look-again"
	Stops   Verdict = "stops"
	NotDone Verdict = "not-done"
	Waived  Verdict = "waived"
)

// Words are a verdict as a sentence has it.
func (v Verdict) Words() string { return strings.ReplaceAll(string(v), "-", " ") }

// Work is the state of the equipment in which an act at it is done.
type Work string

// States in which acts are done; of a gate's line that is no act: none.
const (
	Dead   Work = "dead"
	Live   Work = "live"
	Either Work = "either"
)

// Way is how a person answers a check.
type Way string

// Ways of answering; none: the check is computed, or not ready.
const (
	Confirm Way = "confirm"
	Measure Way = "measure"
	Choose  Way = "choose"
	Attach  Way = "attach"
	Lock    Way = "lock"
	Test    Way = "test"
)

// Mark is how a gate stands.
type Mark string

// Marks of a gate.
const (
	Shut      Mark = "shut"
	Open      Mark = "work"
	Passed    Mark = "passed"
	LookAgain Mark = "again"
	Barred    Mark = "barred"
)

// Check is one thing a gate asks for.
type Check struct {
	Key     string            `json:"key" doc:"gate/rule/subject"`
	Title   string            `json:"title"`
	Verdict Verdict           `json:"verdict" enum:"holds,look-again,stops,not-done,waived"`
	Detail  string            `json:"detail"`
	Work    Work              `json:"work" enum:"dead,live,either" doc:"state in which the act at the equipment is done"`
	Do      Way               `json:"do,omitempty" enum:"confirm,measure,choose,attach,lock,test," doc:"how a person answers it; empty: it is computed, or not ready"`
	Group   string            `json:"group,omitempty" doc:"heading under which it stands"`
	Unit    string            `json:"unit,omitempty"`
	Band    string            `json:"band,omitempty" doc:"what a measurement must lie in, in words"`
	Low     *float64          `json:"low,omitempty"`
	High    *float64          `json:"high,omitempty"`
	Options []Option          `json:"options,omitempty"`
	Value   string            `json:"value,omitempty" doc:"what was answered"`
	With    string            `json:"with,omitempty" doc:"instrument and range"`
	Role    string            `json:"role,omitempty" enum:"meter,insulation-tester,torque-wrench," doc:"of the instrument that measures it; empty: any, or none"`
	Subject string            `json:"subject,omitempty" doc:"of a lock: the supply"`
	Must    bool              `json:"must,omitempty" doc:"proves dead: it cannot be waived"`
	Basis   map[string]string `json:"basis,omitempty"`
	Reason  string            `json:"reason,omitempty" doc:"why it was waived"`
	By      string            `json:"by,omitempty"`
	At      string            `json:"at,omitempty"`
	Entry   string            `json:"entry,omitempty" doc:"of the answer, to be taken back"`
	Taken   []string          `json:"taken,omitempty" doc:"ids of the people who have taken the dangers, each by name"`
	Beside  string            `json:"beside,omitempty" doc:"what stands beside a live measurement: permit and arc energy"`
}

// Option is one answer of a choice, with why one would take it.
type Option struct {
	Value string `json:"value"`
	Text  string `json:"text"`
	Why   string `json:"why,omitempty"`
}

// Gate is one gate with its checks.
type Gate struct {
	Key      string  `json:"key" enum:"match,dead,power,control,wake,plate,stop,turn,tune,span,signal,keep"`
	Name     string  `json:"name"`
	Mark     Mark    `json:"mark" enum:"shut,work,passed,again,barred"`
	Done     int     `json:"done"`
	Total    int     `json:"total"`
	Waived   int     `json:"waived" doc:"of those done: left out with a reason, not held"`
	Checks   []Check `json:"checks"`
	PassedBy string  `json:"passed_by,omitempty"`
	PassedAt string  `json:"passed_at,omitempty"`
	PassedID string  `json:"passed_id,omitempty" doc:"the decision's entry"`
}

// Answered is a finding with how a person answered it.
type Answered struct {
	finding.Finding
	Key    string `json:"key"`
	Gate   string `json:"gate"`
	Kept   bool   `json:"kept" doc:"kept with a reason that still rests on the same values"`
	Reason string `json:"reason,omitempty"`
	By     string `json:"by,omitempty"`
	At     string `json:"at,omitempty"`
	Entry  string `json:"entry,omitempty" doc:"the decision, to be withdrawn"`
	Reopen bool   `json:"reopen,omitempty" doc:"was kept, but a value it rested on has changed"`
	basis  map[string]string
}

// Input is one value a figure rests on.
type Input struct {
	Label string `json:"label"`
	Value string `json:"value"`
	Unit  string `json:"unit"`
}

// Figure is one thing that follows, with how it came about.
type Figure struct {
	Key      string  `json:"key"`
	Label    string  `json:"label"`
	Short    string  `json:"short,omitempty" doc:"formula in a few signs"`
	Value    string  `json:"value"`
	Unit     string  `json:"unit"`
	Formula  string  `json:"formula"`
	Inputs   []Input `json:"inputs"`
	Estimate bool    `json:"estimate,omitempty"`
}

// State is what holds now.
type State struct {
	Gates       []Gate                  `json:"gates"`
	Findings    []Answered              `json:"findings"`
	Figures     []Figure                `json:"figures"`
	Corrections []plate.Correction      `json:"corrections"`
	Linked      string                  `json:"linked" doc:"id of the row in use"`
	Poles       int                     `json:"poles"`
	WorkedOut   map[string]string       `json:"worked_out" doc:"plate values that are not stamped"`
	Unreadable  map[string]string       `json:"unreadable" doc:"path to what was expected"`
	Lines       []sheet.Line            `json:"lines"`
	Shown       map[string]string       `json:"shown" doc:"path to what was understood, in the field's unit"`
	Next        string                  `json:"next"`
	NextDetail  string                  `json:"next_detail"`
	NextGate    string                  `json:"next_gate"`
	Worst       string                  `json:"worst" enum:"stop,look,do,note,"`
	WorstTitle  string                  `json:"worst_title"`
	Energy      isolation.EnergyBand    `json:"energy"`
	Lapses      string                  `json:"lapses,omitempty" doc:"when dead lapses by a change of shift"`
	Proved      bool                    `json:"proved" doc:"every check that proves it dead holds now"`
	Sources     []isolation.Source      `json:"sources" doc:"what feeds the drive, and how each stands"`
	Meter       string                  `json:"meter,omitempty" doc:"id of the instrument that was proved in this isolation"`
	Simulated   bool                    `json:"simulated,omitempty" doc:"the place is simulated: nothing here is of a real machine"`
	Wait        Wait                    `json:"wait"`
	Discharge   DischargeState          `json:"discharge"`
	Temporary   []record.TemporaryThing `json:"temporary" doc:"what must not stay in"`
	Dangers     []string                `json:"dangers" doc:"of this job, in words"`
	DangersBy   []string                `json:"dangers_by" doc:"ids of the people who have taken them by name, as they are now"`
	OpenBefore  []string                `json:"open_before_power" doc:"what is open before its supply may come back, in words"`
	Practice    PracticeHead            `json:"practice"`
	Snapshots   []record.SnapshotHead   `json:"snapshots"`
	Attachments []record.AttachmentHead `json:"attachments"`
	Linking     Linking                 `json:"linking"`
	Body        *dialect.Body           `json:"body,omitempty" doc:"how its frame is lifted, fixed and opened"`
	Unkept      *Unkept                 `json:"unkept,omitempty" doc:"what the next power-off would take back"`
	Stop        StopState               `json:"stop"`
	Turn        TurnState               `json:"turn"`
	Tune        TuneState               `json:"tune"`
	// Wiring is the connection list; nil while nothing is chosen. It has an answer of its own.
	Wiring *WiringState `json:"-"`
	// Until is when time alone makes it another: a record of DEAD lapses, or the wait is over. RFC 3339; empty: nothing waits.
	Until string `json:"-"`
}

// PracticeHead is the practice that a drive follows.
type PracticeHead struct {
	Name    string `json:"name"`
	Title   string `json:"title"`
	Version string `json:"version"`
	Own     bool   `json:"own" doc:"named by the drive itself, not by its place"`
}

// gate is one of the gates.
func (s *State) gate(key string) *Gate {
	for i := range s.Gates {
		if s.Gates[i].Key == key {
			return &s.Gates[i]
		}
	}
	return &Gate{}
}

var gateNames = []struct{ key, name string }{{"match", "Match"}, {"dead", "Dead"}, {"power", "Power"}, {"control", "Control"},
	{"wake", "Wake"}, {"plate", "Plate"}, {"stop", "Stop"}, {"turn", "Turn"}, {"tune", "Tune"}, {"span", "Span"}, {"signal", "Signal"},
	{"keep", "Keep"}}

// GateKeys lists the gates that work, in their usual order.
func GateKeys() []string {
	var l []string
	for _, g := range gateNames {
		l = append(l, g.key)
	}
	return l
}

// blank is the state before any gate has spoken: the gates in this job's order, no list absent.
func (f *Facts) blank() State {
	s := State{WorkedOut: map[string]string{}, Unreadable: map[string]string{}, Shown: map[string]string{}, Findings: []Answered{},
		Lines:       f.lines,
		Corrections: []plate.Correction{}, Snapshots: []record.SnapshotHead{}, Attachments: []record.AttachmentHead{}, Figures: []Figure{},
		Sources: f.sources, Temporary: []record.TemporaryThing{},
		Discharge: DischargeState{Readings: []DischargePoint{}, Findings: []finding.Finding{}}, Simulated: f.rec.Machines.Simulated}
	order := practice.Gates
	if p := f.job.Practice; p != nil {
		order, s.Practice = p.Order, PracticeHead{p.Name, p.Title, p.Version, f.job.Drive.Practice != ""}
	}
	for _, key := range order {
		for _, g := range gateNames {
			if g.key == key {
				s.Gates = append(s.Gates, Gate{Key: g.key, Name: g.name, Checks: []Check{}})
			}
		}
	}
	return s
}

// Evaluate works out what holds now. It is pure: the same job and time give the same state. Gates speak one after the other, whatever order
// a practice shows them in: each sees those before it settled.
func Evaluate(job Job, now time.Time) State {
	f := factsOf(job, now)
	s := f.blank()
	say := func(gate string) asking { return asking{Facts: f, gate: gate, before: &s} }
	dead := &deadGate{asking: say("dead")}
	for _, g := range []rules{&plateGate{asking: say("plate")}, dead, &matchGate{say("match")}, &powerGate{asking: say("power")},
		&controlGate{asking: say("control")}, &wakeGate{say("wake")},
		&stopGate{asking: say("stop")}, &turnGate{asking: say("turn")}, &tuneGate{asking: say("tune")}, &spanGate{say("span")},
		&signalGate{say("signal")}, &keepGate{asking: say("keep")}} {
		g.ask()
		g.tell(&s)
		f.settle(&s, g.part())
	}
	f.finish(&s)
	s.Proved = dead.proved && s.closedDead()
	s.Energy, s.Lapses = isolation.Band(s.Sources, isolation.Proof{Drive: job.ID, Holds: s.Proved, Last: dead.last}, job.Place.Shifts,
		f.clock())
	s.Until = f.until(&s)
	return s
}

// until is the first moment at which time alone changes what holds.
func (f *Facts) until(s *State) string {
	first := time.Time{}
	take := func(at time.Time) {
		if at.After(f.now) && (first.IsZero() || at.Before(first)) {
			first = at
		}
	}
	for _, x := range s.Sources { // each by itself: one that is recorded DEAD lapses also where the drive as a whole is not DEAD
		at, err := time.Parse(time.RFC3339, x.State.Since)
		if err != nil {
			continue
		}
		take(at) // the clock stepped back: from then on the record counts again
		if x.State.State == drivefile.Dead {
			next, _ := isolation.DeadUntil(at, f.job.Place.Shifts, f.clock().Zone)
			take(next)
		}
	}
	if at, err := time.Parse(time.RFC3339, s.Wait.Until); err == nil {
		take(at)
	}
	if first.IsZero() {
		return ""
	}
	return first.UTC().Format("2006-01-02T15:04:05.000Z")
}
