package gate

import (
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"tingate/core/drivefile"
	"tingate/core/finding"
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

// tests are the measurements that prove a drive dead. Kind says what the meter stands on.
var tests = []struct{ key, title, kind string }{
	{"dc-link", "DC+ to DC−", "DC"}, {"dc-plus", "DC+ to earth", "DC"}, {"dc-minus", "DC− to earth", "DC"},
	{"l1-l2", "L1 to L2", "AC"}, {"l2-l3", "L2 to L3", "AC"}, {"l3-l1", "L3 to L1", "AC"}, {"l1-pe", "L1 to earth", "AC"}, {"l2-pe", "L2 to earth", "AC"}, {"l3-pe", "L3 to earth", "AC"},
	{"u-v", "U to V, shaft blocked", "AC"}, {"v-w", "V to W, shaft blocked", "AC"}, {"w-u", "W to U, shaft blocked", "AC"},
}

// deadLimit is the practice's limit in V DC.
func (e *evaluation) deadLimit() float64 {
	v, err := strconv.ParseFloat(e.choice("dead_limit", "42"), 64)
	if err != nil {
		return 42
	}
	return v
}

// dead is the gate: every source opened and locked, waited out, the meter proved before and after, every pair measured. It
// returns whether the drive is proved dead now.
func (e *evaluation) dead() bool {
	e.sources()
	session := e.session()
	basis := func() map[string]string { return map[string]string{"isolation": session} }
	if e.rested() {
		e.restedChecks()
		return false
	}
	open := session != ""
	first := "Open and lock every source first."
	if open {
		first = ""
	}
	for _, s := range e.state.Sources {
		c := Check{Key: "dead/isolate/" + s.ID, Group: "Isolate", Title: s.Name + " opened and locked", Work: "either", Must: true, Subject: s.Point, Do: "lock", Verdict: NotDone, Detail: isolatorText(s)}
		if len(s.Locks) > 0 {
			c.Verdict, c.Do, c.By, c.At, c.Value = Holds, "", s.Locks[0].Owner, s.Locks[0].Since, fmt.Sprintf("%d locks", len(s.Locks))
		}
		if s.State.State == "live" && len(s.Locks) > 0 {
			c.Verdict, c.Detail = Stops, s.Name+" is recorded live while it should be open. "+isolatorText(s)
		}
		e.check("dead", c)
	}
	if len(e.state.Sources) == 0 {
		e.computed("dead", "dead/sources/named", "Isolate", "Every source named", NotDone, "Name what feeds this drive: mains, control supply, shared DC link, brake, heater, relay contacts, a motor that can be driven.")
	}
	e.confirm("dead", Check{Key: "dead/sources/all", Group: "Isolate", Title: "No other source: control supply, heater, relay contacts, shared DC link", Basis: map[string]string{"sources": strings.Join(sortedKeys(e.job.Drive.Supplies), " ")}}, len(e.state.Sources) > 0)
	e.confirm("dead", Check{Key: "dead/label/hung", Group: "Isolate", Title: "Do-not-switch-on label hung, others told and kept out", Basis: basis(), Detail: first}, open)
	e.confirm("dead", Check{Key: "dead/ppe/worn", Group: "Isolate", Title: "Gloves, face shield and insulated tools as the local rules ask", Basis: basis(), Detail: first}, open)
	e.confirm("dead", Check{Key: "dead/shaft/blocked", Group: "Isolate", Title: "Shaft blocked: the motor cannot feed back", Basis: basis(), Detail: first}, open)
	if e.choice("disconnect", "line-side") == "motor-side" {
		e.confirm("dead", Check{Key: "dead/motor-side/open", Group: "Isolate", Title: "Isolator at the motor opened and locked too", Basis: basis(), Detail: strings.TrimSpace(first + " Its early contact takes the drive's enable away: never open it under load.")}, open)
	}
	e.wait(session)
	reach := e.choose("dead", Check{Key: "dead/reach/dc", Group: "Measure", Title: "DC terminals can be reached without taking inner covers off", Basis: basis(), Detail: first},
		[]Option{{"yes", "can be reached", ""}, {"no", "cannot be reached", "The state stays NOT KNOWN; the inner covers stay on, and nothing behind them is touched."}}, open)
	if reach == "no" {
		e.confirm("dead", Check{Key: "dead/covers/stay", Group: "Measure", Title: "Inner covers stay on; work on what can be reached only", Basis: basis()}, open)
	}
	proved := e.measureDead(session, reach == "no", basis)
	e.dischargeOf(session)
	return proved && reach == "yes" && open
}

func isolatorText(s Source) string {
	switch {
	case s.Isolator == "":
		return "Its isolator is not named yet: say what opens it, and where."
	case s.At == "":
		return "Open " + s.Isolator + "."
	}
	return "Open " + s.Isolator + " at " + s.At + "."
}

// rested tells whether the gate was passed and everything has been switched on again in good order since.
func (e *evaluation) rested() bool {
	d, ok := e.rec.decisions["passed dead"]
	if !ok || len(e.state.Sources) == 0 {
		return false
	}
	for _, s := range e.state.Sources {
		if len(s.Locks) > 0 || s.State.State != "live" || s.State.Since < d.At {
			return false
		}
	}
	return true
}

// restedChecks shows what the gate asked for when it was passed.
func (e *evaluation) restedChecks() {
	d := e.rec.decisions["passed dead"]
	e.check("dead", Check{Key: "dead/done/passed", Title: "Proved dead, worked on, switched on again", Verdict: Holds, By: d.By, At: d.At, Detail: "Passed " + e.clock(d.At) + ". What was measured then stands with that decision. Before dead work, isolate and prove again.", Work: "either"})
}

// wait works out the maker's wait and the check that it is over.
func (e *evaluation) wait(session string) {
	w := Wait{Minutes: fallbackWait, Source: "common practice; the drive's label is not known"}
	if f := e.job.Family; f != nil {
		if r, ok := f.RatingOf(e.job.Drive.Rating.Type); ok && r.Wait > 0 {
			w.Minutes, w.Source = r.Wait, "label of "+r.Type
		}
	}
	c := Check{Key: "dead/wait/label", Group: "Wait", Title: fmt.Sprintf("%s minutes waited", f4(w.Minutes)), Verdict: NotDone, Work: "either", Must: true, Detail: "It runs from the last lock. " + w.Source + "."}
	if session != "" {
		from := time.Time{}
		for _, s := range e.state.Sources {
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
		if e.job.Since.After(from) {
			from, w.Source = e.job.Since, w.Source+"; the server was away, so it is counted anew"
		}
		until := from.Add(time.Duration(w.Minutes * float64(time.Minute)))
		w.From, w.Until, w.Over = from.UTC().Format(time.RFC3339), until.UTC().Format(time.RFC3339), !e.now.Before(until)
		if w.Over {
			c.Verdict, c.Detail = Holds, "Over since "+e.clock(w.Until)+". It permits nothing: measure."
		} else {
			left := until.Sub(e.now)
			w.Left = left.Seconds()
			c.Detail = fmt.Sprintf("%d min %02d s to go. %s.", int(left.Minutes()), int(left.Seconds())%60, w.Source)
		}
	}
	e.state.Wait = w
	e.check("dead", c)
}

// measureDead is the meter's proof and the pairs. It returns whether all of it holds, in order of time.
func (e *evaluation) measureDead(session string, noDC bool, basis func() map[string]string) bool {
	limit := e.deadLimit()
	open := session != ""
	all := open && e.state.Wait.Over
	before := e.meterProof("dead/meter/before", "Meter proved on a known DC source before", limit, basis(), open)
	all = all && before.ok
	var last drivefile.Entry
	ready := open && before.ok
	detail := ""
	if !ready {
		detail = "Prove the meter first."
	}
	for _, t := range tests {
		if noDC && t.kind == "DC" {
			continue
		}
		c := Check{Key: "dead/measure/" + t.key, Group: "Measure", Title: t.title, Unit: "V", Work: "either", Must: true, Basis: basis(), Detail: detail}
		m := e.measure("dead", c, math.NaN(), limit, Stops, ready)
		fit := e.fitting(c.Key, m, t.kind)
		if m.ok && math.Abs(m.value) > limit && !e.state.Wait.Over {
			e.verdictOf("dead", c.Key, NotDone, fmt.Sprintf("%s V. It falls while the wait runs: measure again when it is over.", f4(m.value)))
		}
		if m.ok && m.entry.Seq > last.Seq {
			last = m.entry
		}
		all = all && m.ok && fit && math.Abs(m.value) <= limit
	}
	after := e.meterProof("dead/meter/after", "Meter proved again after", limit, basis(), open && last.ID != "")
	if after.ok && after.entry.Seq < last.Seq {
		e.again("dead/meter/after", "Something was measured after it: prove the meter again.")
		after.ok = false
	}
	return all && after.ok
}

// meterProof is a reading of a known DC source above the limit: "24 of 24", what it reads of what it should.
func (e *evaluation) meterProof(key, title string, limit float64, basis map[string]string, ready bool) measured {
	c := Check{Key: key, Group: "Measure", Title: title, Unit: "V DC", Work: "either", Must: true, Basis: basis, Detail: fmt.Sprintf("A battery or proving unit above %s V. Note the meter and its range.", f4(limit))}
	m := e.measure("dead", c, limit, math.NaN(), Again, ready)
	ok := m.ok && math.Abs(m.value) >= limit
	if m.ok && !strings.Contains(strings.ToUpper(m.body.Instrument), "DC") {
		e.again(key, fmt.Sprintf("The meter is noted as %q: prove it on its DC range. One left on AC reads near zero on a DC link.", orNone(m.body.Instrument)))
		ok = false
	}
	m.ok = ok
	return m
}

// recorded is the last check: dead stands in the record, or the drive was left not known with its covers on.
func (e *evaluation) recorded() {
	if e.rested() || e.rec.evBody["dead/reach/dc"].Value == "no" {
		return
	}
	c := Check{Key: "dead/record/dead", Group: "Record", Title: "Recorded DEAD", Verdict: NotDone, Work: "either", Must: true, Detail: "When all of this holds: Record DEAD."}
	for i, s := range e.state.Sources {
		if s.State.State != "dead" || s.State.Drive != e.job.ID {
			break
		}
		if i == len(e.state.Sources)-1 {
			c.Verdict, c.Detail, c.By, c.At = Holds, "", s.State.By, s.State.Since
		}
	}
	e.check("dead", c)
}

// fitting refuses a measurement on the wrong range, or before the wait was over.
func (e *evaluation) fitting(key string, m measured, kind string) bool {
	if !m.ok {
		return false
	}
	at, err := time.Parse(time.RFC3339, m.entry.At)
	until, err2 := time.Parse(time.RFC3339, e.state.Wait.Until)
	switch {
	case !strings.Contains(strings.ToUpper(m.body.Instrument), kind):
		e.again(key, fmt.Sprintf("Measured with %q: this needs the %s range.", orNone(m.body.Instrument), kind))
	case err == nil && err2 == nil && at.Before(until):
		e.again(key, "Measured before the wait was over: it counts for the discharge only. Measure again.")
	default:
		return true
	}
	return false
}

func orNone(t string) string {
	if t == "" {
		return "no instrument"
	}
	return t
}

// again turns a check that was just added to be looked at again, unless it stops already.
func (e *evaluation) again(key, detail string) { e.againIn("dead", key, detail) }

func (e *evaluation) againIn(gate, key, detail string) {
	for _, c := range e.gates[gate].Checks {
		if c.Key == key && c.Verdict != Stops {
			e.verdictOf(gate, key, Again, detail)
		}
	}
}

// verdictOf gives a check that was just added another verdict.
func (e *evaluation) verdictOf(gate, key, verdict, detail string) {
	list := e.gates[gate].Checks
	for i := range list {
		if list[i].Key == key {
			list[i].Verdict, list[i].Detail = verdict, detail
		}
	}
}

// dischargeOf fits the readings of the DC link that were taken in this isolation.
func (e *evaluation) dischargeOf(session string) {
	e.state.Discharge.Limit = e.deadLimit()
	from, err := time.Parse(time.RFC3339, e.state.Wait.From)
	if session == "" || err != nil {
		return
	}
	var list []supply.Reading
	for _, en := range e.rec.series["dead/measure/dc-link"] {
		var b drivefile.Evidence
		at, err := time.Parse(time.RFC3339, en.At)
		if json.Unmarshal(en.Body, &b) != nil || err != nil || b.Reading == nil || b.Basis["isolation"] != session {
			continue
		}
		t := at.Sub(from).Seconds()
		list = append(list, supply.Reading{T: t, V: *b.Reading})
		e.state.Discharge.Readings = append(e.state.Discharge.Readings, DischargePoint{t, math.Abs(*b.Reading), en.At, en.By})
	}
	if len(list) == 0 {
		return
	}
	d := supply.FitDischarge(list, e.state.Discharge.Limit)
	known := func(v float64) *float64 {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil
		}
		return &v
	}
	s := &e.state.Discharge
	s.TimeConstant, s.Start, s.ToLimit, s.Low, s.High = known(d.TimeConstant), known(d.StartVoltage), known(d.ToLimit), known(d.Low), known(d.High)
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
	e.raise("dead", "discharge", serious, map[string]string{"readings": strconv.Itoa(len(list)), "last": quantity.Digits(list[len(list)-1].V, 4)})
}
