package gate

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
)

// confirm, measure, choose and attach are the kinds of check that a person answers; each takes the check half made.

// confirm is answered by a person's word. It reopens when a value it rests on differs. ready false: something comes first,
// and the check's detail says what.
func (e *evaluation) confirm(gate string, c Check, ready bool) {
	c.Basis = e.rec.Machines.BasisFor(gate, c.Key, c.Basis)
	e.evidence(gate, c, ready)
}

// measured is a measurement as it was taken; ok is false when there is none that still counts.
type measured struct {
	value float64
	entry drivefile.Entry
	body  drivefile.Evidence
	ok    bool
	why   string // why an earlier one does not count
}

// measurement finds the last measurement of a check whose basis still holds.
func (e *evaluation) measurement(c Check) measured {
	ev, have := e.rec.Evidence[c.Key]
	if !have {
		return measured{value: math.NaN()}
	}
	if ok, why := e.rec.Machines.Stands(c.Basis, ev); !ok {
		return measured{value: math.NaN(), why: why}
	}
	m := measured{value: math.NaN(), entry: e.rec.EvidenceEntries[c.Key], body: ev, ok: true}
	if ev.Reading != nil {
		m.value = *ev.Reading
	}
	return m
}

// signed are the units in which the sign says something: a shaft that turns backward, counts that go down, a time that cannot be. Of a voltage it says
// only how the leads were held.
var signed = map[string]bool{"counts": true, "r/min": true, "ms": true, "min": true}

// measure is answered by a reading that must lie from low to high (NaN: open). Outside is the verdict then. A measurement
// that lies in a band that has moved counts still; one whose basis differs does not.
func (e *evaluation) measure(gate string, c Check, low, high float64, outside string, ready bool) measured {
	c.Do, c.Verdict, c.Role = "measure", NotDone, roleFor(c.Unit)
	c.Basis = e.rec.Machines.BasisFor(gate, c.Key, c.Basis)
	bound := func(v float64) *float64 {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil
		}
		return &v
	}
	c.Low, c.High = bound(low), bound(high)
	switch {
	case c.Low != nil && c.High != nil:
		c.Band = fmt.Sprintf("%s to %s %s", f4(low), f4(high), c.Unit)
	case c.High != nil:
		c.Band = fmt.Sprintf("below %s %s", f4(high), c.Unit)
	case c.Low != nil:
		c.Band = fmt.Sprintf("above %s %s", f4(low), c.Unit)
	}
	if c.Work == "live" && strings.HasPrefix(c.Unit, "V") && (c.High == nil || *c.High > e.deadLimit()) {
		c.Beside = e.besideLive()
	}
	if !ready {
		c.Do = ""
	}
	m := e.measurement(c)
	if m.why != "" {
		c.Detail = asked("Measured", m.why) + " Measure again. " + c.Detail
	}
	if m.ok {
		c.Value, c.With, c.By, c.At, c.Entry = m.body.Value, m.body.Instrument, m.entry.By, m.entry.At, m.entry.ID
		v := math.Abs(m.value)
		if signed[c.Unit] {
			v = m.value
		}
		switch {
		case math.IsNaN(v):
			c.Verdict, c.Detail = Again, fmt.Sprintf("%q cannot be read; it is kept. Wanted: a number in %s.", m.body.Value, c.Unit)
		case v < low || v > high:
			c.Verdict, c.Detail = outside, fmt.Sprintf("%s %s; wanted %s.", quantity.Format(m.value), c.Unit, c.Band)
		default:
			c.Verdict = Holds
		}
	}
	e.check(gate, c)
	return m
}

// besideLive is what stands beside a measurement on live parts above the limit: how it is permitted here, and the arc energy there.
func (e *evaluation) besideLive() string {
	permit := "This place names no permit for live work: ask for it."
	if p := strings.TrimSpace(e.job.Place.Permit); p != "" {
		permit = "Permit for live work: " + strings.TrimSuffix(p, ".") + "."
	}
	var arcs []string
	for _, s := range e.state.Sources {
		sup := e.job.Place.Supplies[s.ID]
		if v := sup.Voltage.Num(quantity.Voltage, "V"); v <= e.deadLimit() {
			continue
		}
		if arc := strings.TrimSpace(sup.Arc); arc != "" {
			arcs = append(arcs, s.Name+", "+strings.TrimSuffix(arc, "."))
		} else {
			arcs = append(arcs, s.Name+", not stated")
		}
	}
	if arcs == nil {
		return permit
	}
	return permit + " Arc energy: " + strings.Join(arcs, "; ") + "."
}

// choose is answered by one of the options; needs one, with why where it is not the first.
func (e *evaluation) choose(gate string, c Check, options []Option, ready bool) string {
	c.Do, c.Verdict, c.Options = "choose", NotDone, options
	c.Basis = e.rec.Machines.BasisFor(gate, c.Key, c.Basis)
	if !ready {
		c.Do = ""
	}
	chosen := ""
	if ev, ok := e.rec.Evidence[c.Key]; ok {
		entry := e.rec.EvidenceEntries[c.Key]
		c.By, c.At, c.Entry, c.Reason, c.With = entry.By, entry.At, entry.ID, ev.Reason, ev.Instrument
		if ok, why := e.rec.Machines.Stands(c.Basis, ev); !ok {
			c.Verdict, c.Detail = Again, strings.TrimSpace(asked("Chosen", why)+" "+c.Detail)
		} else {
			for _, o := range options {
				if o.Value == ev.Value {
					c.Verdict, c.Value, chosen = Holds, ev.Value, ev.Value
				}
			}
		}
	}
	e.check(gate, c)
	return chosen
}

// attach holds when a photo or paper of that kind is kept.
func (e *evaluation) attach(gate string, c Check, of string) {
	c.Do, c.Verdict, c.Subject = "attach", NotDone, of
	for _, a := range e.rec.Attached {
		if a.Of == of {
			c.Verdict, c.Do, c.By, c.At = Holds, "", a.By, a.At
		}
	}
	e.check(gate, c)
}

// computed holds or not by what is entered.
func (e *evaluation) computed(gate, key, group, title, verdict, detail string) {
	e.check(gate, Check{Key: key, Group: group, Title: title, Verdict: verdict, Detail: detail, Work: "either"})
}

// asked begins a sentence on why an answer does not count: a reason of its own stands by itself.
func asked(act, why string) string {
	if strings.HasPrefix(why, "before ") {
		return act + " " + why + "."
	}
	return why
}

// roleFor is the kind of instrument that measures a unit; empty: any, or none.
func roleFor(unit string) string {
	switch unit {
	case "V", "V AC", "V DC", "Ω", "mΩ", "A", "mA":
		return drivefile.RoleMeter
	case "MΩ":
		return drivefile.RoleInsulation
	case "N·m":
		return drivefile.RoleTorque
	}
	return ""
}

func f4(v float64) string { return quantity.Digits(v, 4) }

// choice is the practice's answer to a question; the default when the job has no practice.
func (e *evaluation) choice(key, otherwise string) string {
	if e.job.Practice == nil || e.job.Practice.Choices[key] == "" {
		return otherwise
	}
	return e.job.Practice.Choices[key]
}

// raise turns the findings of a computation into those of a gate.
func (e *evaluation) raise(gate, field string, list []finding.Finding, basis map[string]string) {
	for _, f := range list {
		f.Field = field
		e.finding(gate, f, basis)
	}
}

func quantityAt(raw json.RawMessage) (q drivefile.Q) {
	_ = json.Unmarshal(raw, &q) // a stored quantity always reads; anything else has no value
	return q
}

func decode(raw json.RawMessage, to any) bool { return json.Unmarshal(raw, to) == nil }
