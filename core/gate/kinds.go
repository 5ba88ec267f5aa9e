package gate

import (
	"fmt"
	"math"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/quantity"
	"tingate/core/sheet"
)

// complete holds when every intent listed is entered.
func (a *asking) complete(fields []struct {
	name string
	set  bool
}) {
	c := Check{Key: a.gate + "/complete/intent", Title: "What is wanted is entered", Verdict: Holds}
	var missing []string
	for _, f := range fields {
		if !f.set {
			missing = append(missing, f.name)
		}
	}
	if missing != nil {
		c.Verdict, c.Detail = NotDone, "Missing: "+strings.Join(missing, ", ")+"."
	}
	a.check(c)
}

// entered is a computed check that asks for what is missing, or holds.
func (a *asking) entered(key, group, title string, missing []string, detail string) bool {
	if len(missing) > 0 {
		a.computed(key, group, title, NotDone, "Missing: "+strings.Join(missing, ", ")+".")
		return false
	}
	a.computed(key, group, title, Holds, detail)
	return true
}

func lacking(pairs ...string) []string {
	var l []string
	for i := 0; i+1 < len(pairs); i += 2 {
		if strings.TrimSpace(pairs[i+1]) == "" {
			l = append(l, pairs[i])
		}
	}
	return l
}

// readBack is the check that a gate's settings were read back as planned.
func (a *asking) readBack(title string) {
	c := Check{Key: a.gate + "/readback/settings", Title: title, Verdict: Holds, Work: Live}
	done, total, again := 0, 0, ""
	for _, l := range a.lines {
		if l.Gate != a.gate || l.Verdict == sheet.NotPlanned || l.Verdict == sheet.Cannot {
			continue
		}
		total++
		switch l.Verdict {
		case sheet.Holds:
			done++
		case sheet.Differs, sheet.NotKnown:
			again = l.Code
		}
	}
	c.Detail = fmt.Sprintf("%d of %d read back", done, total)
	switch {
	case again != "":
		c.Verdict, c.Detail = Again, c.Detail+"; "+again+" disagrees"
	case done < total || total == 0:
		c.Verdict = NotDone
	}
	a.check(c)
}

// secondLook wants another person than the one who did what is named.
func (a *asking) secondLook(key, group string, done []string) {
	a.confirm(Check{Key: key, Group: group, Title: "A second person has looked at it", Work: Either,
		Detail: "Somebody who did not land it."}, true)
	ev, ok := a.rec.EvidenceEntries[key]
	if !ok {
		return
	}
	if a.rec.DoneBy(done, ev.By) {
		a.again(key, "The same person has done it: let another look.")
	}
}

// tightened asks for the torque of a kind of terminal. Where none is on a label, it asks for the other proof, if there is one.
func (a *asking) tightened(key, title string, label drivefile.Q, otherwise string) {
	c := Check{Key: key, Group: "Torque", Title: title + ", each", Work: Dead, Basis: map[string]string{"label": label.Text}}
	want := label.Num(quantity.Torque, "N·m")
	if math.IsNaN(want) && otherwise != "" && label.Text == "" {
		c.Title += ": " + otherwise
		a.confirm(c, true)
		return
	}
	c.Title, c.Unit = c.Title+", by the torque driver", "N·m"
	if math.IsNaN(want) {
		c.Detail = "Enter the label's torque first."
	}
	a.measure(c, want*.9, want*1.2, Again, !math.IsNaN(want))
}

// confirm, measure, choose and attach are the kinds of check that a person answers; each takes the check half made.

// confirm is answered by a person's word. It reopens when a value it rests on differs. ready false: something comes first,
// and the check's detail says what.
func (a *asking) confirm(c Check, ready bool) {
	c.Basis = a.rec.Machines.BasisFor(a.gate, c.Key, c.Basis)
	c.Do, c.Verdict = Confirm, NotDone
	if !ready {
		c.Do = ""
	}
	if ev, ok := a.rec.Evidence[c.Key]; ok {
		entry := a.rec.EvidenceEntries[c.Key]
		c.By, c.At, c.Entry = entry.By, entry.At, entry.ID
		if ok, why := a.rec.Machines.Stands(c.Basis, ev); ok {
			c.Verdict, c.Do = Holds, ""
		} else {
			c.Verdict, c.Detail = Again, strings.TrimSpace(asked("Confirmed", why)+" "+c.Detail)
		}
	}
	a.check(c)
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
func (f *Facts) measurement(c Check) measured {
	ev, have := f.rec.Evidence[c.Key]
	if !have {
		return measured{value: math.NaN()}
	}
	if ok, why := f.rec.Machines.Stands(c.Basis, ev); !ok {
		return measured{value: math.NaN(), why: why}
	}
	m := measured{value: math.NaN(), entry: f.rec.EvidenceEntries[c.Key], body: ev, ok: true}
	if ev.Reading != nil {
		m.value = *ev.Reading
	}
	return m
}

// signed are the units in which the sign says something: a shaft that turns backward, counts that go down, a time that cannot be. Of a
// voltage it says only how the leads were held.
var signed = map[string]bool{"counts": true, "r/min": true, "ms": true, "min": true}

// measure is answered by a reading that must lie from low to high (NaN: open). Outside is the verdict then. A measurement
// that lies in a band that has moved counts still; one whose basis differs does not.
func (a *asking) measure(c Check, low, high float64, outside Verdict, ready bool) measured {
	c.Do, c.Verdict, c.Role = Measure, NotDone, roleFor(c.Unit)
	c.Basis = a.rec.Machines.BasisFor(a.gate, c.Key, c.Basis)
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
	if c.Work == Live && strings.HasPrefix(c.Unit, "V") && (c.High == nil || *c.High > a.deadLimit()) {
		c.Beside = a.besideLive()
	}
	if !ready {
		c.Do = ""
	}
	m := a.measurement(c)
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
	a.check(c)
	return m
}

// besideLive is what stands beside a measurement on live parts above the limit: how it is permitted here, and the arc energy there.
func (f *Facts) besideLive() string {
	permit := "This place names no permit for live work: ask for it."
	if p := strings.TrimSpace(f.job.Place.Permit); p != "" {
		permit = "Permit for live work: " + strings.TrimSuffix(p, ".") + "."
	}
	var arcs []string
	for _, s := range f.sources {
		sup := f.job.Place.Supplies[s.ID]
		if v := sup.Voltage.Num(quantity.Voltage, "V"); v <= f.deadLimit() {
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
func (a *asking) choose(c Check, options []Option, ready bool) string {
	c.Do, c.Verdict, c.Options = Choose, NotDone, options
	c.Basis = a.rec.Machines.BasisFor(a.gate, c.Key, c.Basis)
	if !ready {
		c.Do = ""
	}
	chosen := ""
	if ev, ok := a.rec.Evidence[c.Key]; ok {
		entry := a.rec.EvidenceEntries[c.Key]
		c.By, c.At, c.Entry, c.Reason, c.With = entry.By, entry.At, entry.ID, ev.Reason, ev.Instrument
		if ok, why := a.rec.Machines.Stands(c.Basis, ev); !ok {
			c.Verdict, c.Detail = Again, strings.TrimSpace(asked("Chosen", why)+" "+c.Detail)
		} else {
			for _, o := range options {
				if o.Value == ev.Value {
					c.Verdict, c.Value, chosen = Holds, ev.Value, ev.Value
				}
			}
		}
	}
	a.check(c)
	return chosen
}

// attach holds when a photo or paper of that kind is kept.
func (a *asking) attach(c Check, of string) {
	c.Do, c.Verdict, c.Subject = Attach, NotDone, of
	for _, a := range a.rec.Attached {
		if a.Of == of {
			c.Verdict, c.Do, c.By, c.At = Holds, "", a.By, a.At
		}
	}
	a.check(c)
}

// computed holds or not by what is entered.
func (a *asking) computed(key, group, title string, verdict Verdict, detail string) {
	a.check(Check{Key: key, Group: group, Title: title, Verdict: verdict, Detail: detail, Work: Either})
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
