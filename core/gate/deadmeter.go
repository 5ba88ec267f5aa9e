package gate

import (
	"fmt"
	"math"
	"time"
)

// proofKey is the end of the key of a meter's proof: the first kind, DC, has the bare name.
func proofKey(when, kind string) string {
	if kind == "AC" {
		return when + "-ac"
	}
	return when
}

// mostProof is the largest voltage that a proving source is taken to have, V.
const mostProof = 1500

// meterProof is a reading of a known source above the limit, of one kind of voltage: "24 of 24", what it reads of what it should. meter is
// the one that was proved so far; another does not carry on.
func (g *deadGate) meterProof(when, kind string, basis map[string]string, ready bool, meter *string) measured {
	limit := g.deadLimit()
	key := "dead/meter/" + proofKey(when, kind)
	title := map[string]string{"before": "Meter proved on a known %s source before", "after": "Meter proved again on %s after"}[when]
	what := map[string]string{"DC": "A battery or proving unit", "AC": "A proving unit, or a known live point away from here"}[kind]
	c := Check{Key: key, Group: "Measure", Title: fmt.Sprintf(title, kind), Unit: "V " + kind, Work: Either, Must: true, Basis: basis,
		Detail: fmt.Sprintf("%s above %s V.", what, f4(limit))}
	if kind == "AC" {
		c.Beside = "At a live point: " + g.besideLive()
	}
	m := g.measure(c, limit, mostProof, Again, ready)
	ok := m.ok && math.Abs(m.value) >= limit && math.Abs(m.value) <= mostProof
	switch {
	case !m.ok:
	case m.body.Meter == "":
		g.again(key, fmt.Sprintf("Meter not known (%s): choose one of this place's meters. One and the same is proved before, measures, "+
			"and is proved after.", orNone(m.body.Instrument)))
		ok = false
	case !measures(m.body.On, kind):
		g.again(key, fmt.Sprintf("It stood on %s: prove it on its %s range. One left on AC reads near zero on a DC link.",
			orNone(m.body.On), kind))
		ok = false
	case *meter != "" && m.body.Meter != *meter:
		g.again(key, fmt.Sprintf("Another meter than %s, which was proved first: one meter from proof to proof.", g.meterName(*meter)))
		ok = false
	case ok && *meter == "":
		*meter = m.body.Meter
	}
	m.ok = ok
	return m
}

// fitting refuses a measurement on the wrong range, with another meter, or before the wait was over.
func (g *deadGate) fitting(key string, m measured, kind string, meter *string) {
	if !m.ok {
		return
	}
	at, err := time.Parse(time.RFC3339, m.entry.At)
	until, err2 := time.Parse(time.RFC3339, g.wait.Until)
	switch {
	case m.body.Meter == "":
		g.again(key, fmt.Sprintf("Meter not known (%s): measure with the one that was proved.", orNone(m.body.Instrument)))
	case m.body.Meter != *meter:
		g.again(key, fmt.Sprintf("Measured with %s, and the meter that was proved is %s: one meter from proof to proof.",
			orNone(m.body.Instrument), orNone(g.meterName(*meter))))
	case !measures(m.body.On, kind):
		g.again(key, fmt.Sprintf("Measured with %q: this needs the %s range.", orNone(m.body.Instrument), kind))
	case err == nil && err2 == nil && at.Before(until):
		g.again(key, "Measured before the wait was over: it counts for the discharge only. Measure again.")
	}
}

// measures tells whether a range, AC, DC or AC+DC, measures a kind of voltage.
func measures(on, kind string) bool { return on == kind || on == "AC+DC" }

// meterName is the number of a meter of the place, by its id.
func (f *Facts) meterName(id string) string {
	if m, ok := f.job.Place.Instruments[id]; ok {
		return m.Number
	}
	return ""
}
