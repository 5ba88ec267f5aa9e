package gate

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/isolation"
	"tingate/core/quantity"
)

// deadTest is one measurement that proves a part of a drive dead.
type deadTest struct {
	key, title, short string
	kind              string  // AC or DC: what the meter stands on
	limit             float64 // V
	source            string  // id of the source that it proves; empty: the drive itself
	says              string
}

// deadTests are the measurements that there are to make: of the link, of the line as many conductors as it has, of the motor's terminals,
// and of every other source that is named, at its own voltage.
func (g *deadGate) deadTests(noDC bool) []deadTest {
	limit := g.deadLimit()
	var list []deadTest
	add := func(key, title, short, kind string, limit float64, source, says string) {
		list = append(list, deadTest{"dead/measure/" + key, title, short, kind, limit, source, says})
	}
	link, motor := "", ""
	var mains, others []isolation.Source
	for _, s := range g.sources {
		switch s.Kind {
		case "mains":
			mains = append(mains, s)
		case "dc-link":
			link = s.ID
		case "motor":
			motor = s.ID
		default:
			others = append(others, s)
		}
	}
	if !noDC {
		add("dc-link", "DC+ to DC−", "DC+ DC−", "DC", limit, link, "")
		add("dc-plus", "DC+ to earth", "DC+ PE", "DC", limit, link, "")
		add("dc-minus", "DC− to earth", "DC− PE", "DC", limit, link, "")
	}
	for i, s := range mains {
		at, name := "", ""
		if i > 0 { // a second line has its own terminals
			at, name = s.ID+"/", s.Name+": "
		}
		own, says := g.limitOf(s, limit)
		for _, p := range linePairs(g.job.Place.Supplies[s.ID].Phases) {
			add(at+p.key, name+p.title, p.short, "AC", own, s.ID, says)
		}
	}
	if len(mains) == 0 {
		for _, p := range linePairs("") {
			add(p.key, p.title, p.short, "AC", limit, "", "")
		}
	}
	for _, p := range []pair{{"u-v", "U to V, shaft blocked", "U V"}, {"v-w", "V to W, shaft blocked", "V W"},
		{"w-u", "W to U, shaft blocked", "W U"}} {
		add(p.key, p.title, p.short, "AC", limit, motor, "")
	}
	for _, s := range others {
		own, says := g.limitOf(s, limit)
		for _, p := range ownPairs(g.job.Place.Supplies[s.ID]) {
			add(s.ID+"/"+p.key, s.Name+": "+p.title, p.short, g.voltsKind(s), own, s.ID, says)
		}
	}
	return list
}

type pair struct{ key, title, short string }

// linePairs are the pairs of a line's conductors: one phase has a line and a neutral, or two lines, and no more.
func linePairs(phases string) []pair {
	if phases == "1" {
		return []pair{{"l-n", "L to N (or L1 to L2)", "L N"}, {"l-pe", "L to earth", "L PE"}, {"n-pe", "N (or L2) to earth", "N PE"}}
	}
	return []pair{{"l1-l2", "L1 to L2", "L1 L2"}, {"l2-l3", "L2 to L3", "L2 L3"}, {"l3-l1", "L3 to L1", "L3 L1"},
		{"l1-pe", "L1 to earth", "L1 PE"}, {"l2-pe", "L2 to earth", "L2 PE"}, {"l3-pe", "L3 to earth", "L3 PE"}}
}

// ownPairs are the pairs of a source that is no mains: a control supply, a heater, a brake, a contact fed from elsewhere.
func ownPairs(s drivefile.Supply) []pair {
	if s.Phases == "3" {
		return linePairs("3")
	}
	return []pair{{"between", "between its two conductors", "between"}, {"first-pe", "first conductor to earth", "1 PE"},
		{"second-pe", "second conductor to earth", "2 PE"}}
}

// voltsKind tells what kind of voltage a source has: DC when its voltage is written so, AC otherwise.
func (f *Facts) voltsKind(s isolation.Source) string {
	text := strings.ToUpper(f.job.Place.Supplies[s.ID].Voltage.Text)
	if strings.Contains(text, "DC") || strings.Contains(text, "⎓") {
		return "DC"
	}
	return "AC"
}

// limitOf is the limit for a source: the practice's, or a quarter of its own voltage where that is lower. A control supply of 24 V is not
// dead at 24 V.
func (f *Facts) limitOf(s isolation.Source, limit float64) (own float64, says string) {
	v, ok := f.job.Place.Supplies[s.ID].Voltage.In(quantity.Voltage, "V")
	if !ok || !(v > 0) || v/4 >= limit {
		return limit, ""
	}
	return v / 4, fmt.Sprintf("A quarter of its own %s V: below that nothing of it is there.", f4(v))
}

// kindsOf are the kinds of voltage among measurements, DC first.
func kindsOf(list []deadTest) []string {
	var kinds []string
	for _, k := range []string{"DC", "AC"} {
		if slices.ContainsFunc(list, func(t deadTest) bool { return t.kind == k }) {
			kinds = append(kinds, k)
		}
	}
	return kinds
}

// How far readings that must agree may lie apart, V and share; and from what share of the limit on a reading of a locked-off line is asked
// again. Common practice: a stray voltage of a locked-off line is a few volts on a meter that loads it.
const (
	disagreeVolts = 3
	disagreeShare = .15
	strayShare    = .5
)

// question turns readings that cannot all be so to be measured again: a link whose halves do not add up, a voltage of some tens of volts on
// a line that is locked off. What is measured a second time in the same isolation, and reads so again, stands.
func (g *deadGate) question(list []deadTest, values map[string]measured, session string) {
	again := func(key, why string) {
		if g.timesIn(key, session) < 2 {
			g.again(key, why)
		}
	}
	link, plus, minus := values["dead/measure/dc-link"], values["dead/measure/dc-plus"], values["dead/measure/dc-minus"]
	if link.ok && plus.ok && minus.ok {
		want := plus.value - minus.value
		// A meter's sign may be left out: then the halves add or take away.
		off := math.Min(math.Abs(math.Abs(link.value)-math.Abs(want)),
			math.Abs(math.Abs(link.value)-math.Abs(plus.value)-math.Abs(minus.value)))
		if signed := math.Abs(link.value - want); (link.value < 0 || plus.value < 0 || minus.value < 0) && signed > off {
			off = signed
		}
		most := math.Max(math.Abs(link.value), math.Max(math.Abs(plus.value), math.Abs(minus.value)))
		if off > disagreeVolts+disagreeShare*most {
			again("dead/measure/dc-link",
				fmt.Sprintf("DC+ to DC− reads %s V, and from earth %s and %s V: these cannot all be so. Measure the three again.",
					f4(link.value), f4(plus.value), f4(minus.value)))
		}
	}
	for _, t := range list {
		if m := values[t.key]; m.ok && t.kind == "AC" && math.Abs(m.value) > strayShare*t.limit && math.Abs(m.value) <= t.limit {
			again(t.key, fmt.Sprintf("%s V where everything is locked off: look for what gives it (a second feeder, an induced "+
				"voltage), and measure it again.", f4(m.value)))
		}
	}
}

// timesIn counts how often something was measured in this isolation.
func (f *Facts) timesIn(key, session string) int {
	n := 0
	for _, en := range f.rec.Series[key] {
		if b, ok := drivefile.Contents[drivefile.Evidence](en); ok && b.Basis["isolation"] == session {
			n++
		}
	}
	return n
}
