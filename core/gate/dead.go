package gate

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/isolation"
	"tingate/core/quantity"
	"tingate/core/supply"
)

// Wait is the maker's wait after everything is open. It only forbids: what permits is the measurement.
type Wait struct {
	Minutes float64 `json:"minutes"`
	From    string  `json:"from,omitempty" doc:"when the last isolator was locked, or the server started if that was later"`
	Until   string  `json:"until,omitempty"`
	Left    float64 `json:"left_s" doc:"seconds to go"`
	Over    bool    `json:"over"`
	Source  string  `json:"source" doc:"where the minutes come from"`
}

// DischargePoint is a reading of the DC link after everything was opened.
type DischargePoint struct {
	T  float64 `json:"t_s" doc:"seconds since the last isolator was locked"`
	V  float64 `json:"v"`
	At string  `json:"at"`
	By string  `json:"by"`
}

// DischargeState is how the DC link falls. Never a permission.
type DischargeState struct {
	Limit        float64           `json:"limit_v"`
	Readings     []DischargePoint  `json:"readings"`
	TimeConstant *float64          `json:"time_constant_s,omitempty"`
	Start        *float64          `json:"start_v,omitempty" doc:"of the fitted curve at 0 s"`
	ToLimit      *float64          `json:"to_limit_s,omitempty"`
	Low          *float64          `json:"low_s,omitempty"`
	High         *float64          `json:"high_s,omitempty"`
	Findings     []finding.Finding `json:"findings"`
}

// fallbackWait is the wait in minutes where no label gives one. Common practice for larger drives.
const fallbackWait = 15

// deadGate proves the drive dead: every source opened and locked, waited out, the meter proved before and after, every pair measured that
// is there.
type deadGate struct {
	asking
	feeds     []isolation.Source // the sources, with what was measured of each
	wait      Wait
	discharge DischargeState
	meter     string // id of the one that was proved
	listed    []string
	takenBy   []string
	proved    bool
	last      string // when the last of what proves dead was recorded
}

func (g *deadGate) ask() {
	g.feeds, g.discharge = slices.Clone(g.sources), DischargeState{Readings: []DischargePoint{}, Findings: []finding.Finding{}}
	g.proved = g.proves()
	g.recorded()
	g.findingsAnswered()
}

func (g *deadGate) tell(s *State) {
	s.Sources, s.Wait, s.Discharge, s.Meter, s.Dangers, s.DangersBy = g.feeds, g.wait, g.discharge, g.meter, g.listed, g.takenBy
}

// proves asks for everything that proves the drive dead, and tells whether all of it holds now and none of it is waived.
func (g *deadGate) proves() bool {
	session := g.session()
	basis := func() map[string]string { return map[string]string{"isolation": session} }
	g.takeDangers()
	if g.rested() {
		g.restedChecks()
		return false
	}
	open := session != ""
	first := "Open and lock every source first."
	if open {
		first = ""
	}
	for _, s := range g.sources {
		c := Check{Key: "dead/isolate/" + s.ID, Group: "Isolate", Title: s.Name + " opened and locked", Work: Either, Must: true,
			Subject: s.Point, Do: Lock, Verdict: NotDone, Detail: isolatorText(s)}
		if len(s.Locks) > 0 {
			c.Verdict, c.Do, c.By, c.At, c.Value = Holds, "", s.Locks[0].Owner, s.Locks[0].Since, fmt.Sprintf("%d locks", len(s.Locks))
		}
		if s.State.State == drivefile.Live && len(s.Locks) > 0 {
			c.Verdict, c.Detail = Stops, s.Name+" is recorded live while it should be open. "+isolatorText(s)
		}
		g.check(c)
	}
	if len(g.sources) == 0 {
		g.check(Check{Key: "dead/sources/named", Group: "Isolate", Title: "Every source named", Work: Either, Must: true, Verdict: NotDone,
			Detail: "Name what feeds this drive: mains, control supply, shared DC link, brake, heater, relay contacts, a motor that can " +
				"be driven."})
	}
	said := func(key, title, detail string, basis map[string]string, ready bool) {
		g.confirm(Check{Key: key, Group: "Isolate", Title: title, Basis: basis, Detail: detail, Must: true}, ready)
	}
	said("dead/sources/all", "No other source: control supply, heater, relay contacts, shared DC link", "",
		map[string]string{"sources": strings.Join(sortedKeys(g.job.Drive.Supplies), " ")}, len(g.sources) > 0)
	said("dead/label/hung", "Do-not-switch-on label hung, others told and kept out", first, basis(), open)
	said("dead/ppe/worn", "Gloves, face shield and insulated tools as the local rules ask", first, basis(), open)
	said("dead/shaft/blocked", "Shaft blocked: the motor cannot feed back", first, basis(), open)
	if g.choice("disconnect", "line-side") == "motor-side" {
		said("dead/motor-side/open", "Isolator at the motor opened and locked too",
			strings.TrimSpace(first+" Its early contact takes the drive's enable away: never open it under load."), basis(), open)
	}
	g.waits(session)
	reach := g.choose(Check{Key: "dead/reach/dc", Group: "Measure", Title: "DC terminals can be reached without taking inner covers off",
		Basis: basis(), Detail: first, Must: true},
		[]Option{{"yes", "can be reached", ""},
			{"no", "cannot be reached", "The state stays NOT KNOWN; the inner covers stay on, and nothing behind them is touched."}}, open)
	if reach == "no" {
		g.confirm(Check{Key: "dead/covers/stay", Group: "Measure", Title: "Inner covers stay on; work on what can be reached only",
			Basis: basis(), Must: true}, open)
	}
	g.measureDead(session, reach == "no", basis)
	g.dischargeOf(session)
	for _, c := range g.checks {
		if c.Key == DangersTaken { // they guard people, and prove nothing
			continue
		}
		if c.Verdict != Holds { // waived is not held
			return false
		}
		if c.At > g.last {
			g.last = c.At
		}
	}
	return open && reach == "yes"
}

func isolatorText(s isolation.Source) string {
	switch {
	case s.Isolator == "":
		return "Its isolator is not named yet: say what opens it, and where."
	case s.At == "":
		return "Open " + s.Isolator + "."
	}
	return "Open " + s.Isolator + " at " + s.At + "."
}

// restedChecks shows what the gate asked for when it was passed.
func (g *deadGate) restedChecks() {
	d := g.rec.DecisionEntries["passed dead"]
	g.check(Check{Key: "dead/done/passed", Title: "Proved dead, worked on, switched on again", Verdict: Holds, By: d.By, At: d.At,
		Detail: "Passed " + g.clock().Show(d.At) +
			". What was measured then stands with that decision. Before dead work, isolate and prove again.", Work: Either})
}

// mostWait is the longest wait that a label is taken to ask for, minutes: an hour. Common practice knows five to fifteen, and some large
// links thirty.
const mostWait = 60

// leastWait is the shortest that is taken for a label's word, minutes.
const leastWait = 1

// waits works out the wait, and the checks of it: the larger of what the label says, as typed, and what the family's file says.
func (g *deadGate) waits(session string) {
	r := g.job.Drive.Rating
	typed := g.measure(Check{Key: "dead/wait/minutes", Group: "Wait", Title: "Minutes to wait, as the drive's label says", Unit: "min",
		Work: Either, Must: true, Basis: map[string]string{"type": r.Type, "serial": r.Serial},
		Detail: "Read it off this drive. Its photo is kept at gate Match. The longer one counts, of the label and of the family's file."},
		leastWait, mostWait, Stops, true)
	w := Wait{Minutes: fallbackWait, Source: "common practice; the drive's label is not typed"}
	family := 0.
	if f := g.job.Family; f != nil {
		if size, ok := f.RatingOf(r.Type); ok && size.Wait > 0 {
			family = size.Wait
			w.Minutes, w.Source = family, "family's file for "+size.Type
		}
	}
	if typed.ok && typed.value >= leastWait && typed.value <= mostWait && typed.value >= family {
		w.Minutes, w.Source = typed.value, "label, as typed"
		if family == 0 && typed.value < fallbackWait {
			w.Source = "label, as typed; the family's file has none to hold it against"
		}
	} else if typed.ok && typed.value < family {
		w.Source += fmt.Sprintf(", longer than the label's %s min as typed", f4(typed.value))
	}
	c := Check{Key: "dead/wait/label", Group: "Wait", Title: fmt.Sprintf("%s minutes waited", f4(w.Minutes)), Verdict: NotDone,
		Work: Either, Must: true, Detail: "It runs from the last lock. " + w.Source + "."}
	if session != "" {
		from := time.Time{}
		for _, s := range g.sources {
			first := ""
			for _, l := range s.Locks {
				if first == "" || l.Since < first {
					first = l.Since
				}
			}
			if t, err := time.Parse(time.RFC3339, first); err == nil && t.After(from) {
				from = t
			}
		}
		if g.job.Since.After(from) {
			from, w.Source = g.job.Since, w.Source+"; the server was away, so it is counted anew"
		}
		until := from.Add(time.Duration(w.Minutes * float64(time.Minute)))
		w.From, w.Until, w.Over = from.UTC().Format(time.RFC3339), until.UTC().Format(time.RFC3339), !g.now.Before(until)
		if w.Over {
			c.Verdict, c.Detail = Holds, "Over since "+g.clock().Show(w.Until)+". It permits nothing: measure."
		} else {
			left := until.Sub(g.now)
			w.Left = left.Seconds()
			c.Detail = fmt.Sprintf("%d min %02d s to go: %s.", int(left.Minutes()), int(left.Seconds())%60, w.Source)
		}
	}
	g.wait = w
	g.check(c)
}

// measureDead is the meter's proof on both kinds of voltage, the pairs between, and the proof again: one meter for all of it.
func (g *deadGate) measureDead(session string, noDC bool, basis func() map[string]string) {
	open := session != ""
	list := g.deadTests(noDC)
	kinds := kindsOf(list)
	ready := open
	meter := ""
	defer func() { g.meter = meter }()
	for _, kind := range kinds {
		m := g.meterProof("before", kind, basis(), open, &meter)
		ready = ready && m.ok
	}
	detail := ""
	if !ready {
		detail = "Prove the meter first, on " + strings.Join(kinds, " and ") + "."
	}
	var last drivefile.Entry
	values := map[string]measured{}
	for _, t := range list {
		c := Check{Key: t.key, Group: "Measure", Title: t.title, Unit: "V", Work: Either, Must: true, Basis: basis(), Detail: detail}
		if t.says != "" && detail == "" {
			c.Detail = t.says
		}
		m := g.measure(c, math.NaN(), t.limit, Stops, ready)
		g.fitting(c.Key, m, t.kind, &meter)
		if m.ok && math.Abs(m.value) > t.limit && !g.wait.Over {
			g.verdictOf(c.Key, NotDone, fmt.Sprintf("%s V. It falls while the wait runs: measure again when it is over.", f4(m.value)))
		}
		if m.ok && m.entry.Seq > last.Seq {
			last = m.entry
		}
		values[t.key] = m
		if i := g.sourceAt(t.source); i >= 0 && m.ok {
			g.feeds[i].Measured = append(g.feeds[i].Measured, f4(m.value)+" V "+t.short)
		}
	}
	g.question(list, values, session)
	for _, kind := range kinds {
		after := g.meterProof("after", kind, basis(), open && last.ID != "", &meter)
		if after.ok && after.entry.Seq < last.Seq {
			g.again("dead/meter/"+proofKey("after", kind), "Something was measured after it: prove the meter again.")
		}
	}
}

func (g *deadGate) sourceAt(id string) int {
	for i := range g.feeds {
		if g.feeds[i].ID == id {
			return i
		}
	}
	return -1
}

// recorded is the last check: dead stands in the record, or the drive was left not known with its covers on.
func (g *deadGate) recorded() {
	if g.rested() || g.rec.Evidence["dead/reach/dc"].Value == "no" {
		return
	}
	c := Check{Key: "dead/record/dead", Group: "Record", Title: "Recorded DEAD", Verdict: NotDone, Work: Either, Must: true,
		Detail: "When all of this holds: Record DEAD."}
	for i, s := range g.sources {
		if s.State.State != drivefile.Dead || s.State.Drive != g.job.ID {
			break
		}
		if i == len(g.sources)-1 {
			c.Verdict, c.Detail, c.By, c.At = Holds, "", s.State.By, s.State.Since
		}
	}
	g.check(c)
}

func orNone(t string) string {
	if t == "" {
		return "no instrument"
	}
	return t
}

// dischargeOf fits the readings of the DC link that were taken in this isolation.
func (g *deadGate) dischargeOf(session string) {
	g.discharge.Limit = g.deadLimit()
	from, err := time.Parse(time.RFC3339, g.wait.From)
	if session == "" || err != nil {
		return
	}
	var list []supply.Reading
	for _, en := range g.rec.Series["dead/measure/dc-link"] {
		b, ok := drivefile.Contents[drivefile.Evidence](en)
		at, err := time.Parse(time.RFC3339, en.At)
		if !ok || err != nil || b.Reading == nil || b.Basis["isolation"] != session {
			continue
		}
		t := at.Sub(from).Seconds()
		list = append(list, supply.Reading{T: t, V: *b.Reading})
		g.discharge.Readings = append(g.discharge.Readings, DischargePoint{t, math.Abs(*b.Reading), en.At, en.By})
	}
	if len(list) == 0 {
		return
	}
	d := supply.FitDischarge(list, g.discharge.Limit)
	known := func(v float64) *float64 {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil
		}
		return &v
	}
	s := &g.discharge
	s.TimeConstant, s.Start, s.ToLimit, s.Low, s.High = known(d.TimeConstant), known(d.StartVoltage), known(d.ToLimit), known(d.Low),
		known(d.High)
	if d.Below {
		return
	}
	s.Findings = append(s.Findings, d.Findings...)
	var serious []finding.Finding
	for _, f := range d.Findings {
		if f.Severity == finding.Stop || f.Severity == finding.Look {
			serious = append(serious, f)
		}
	}
	g.raise("dead", "discharge", serious,
		map[string]string{"readings": strconv.Itoa(len(list)), "last": quantity.Digits(list[len(list)-1].V, 4)})
}
