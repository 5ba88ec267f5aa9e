package gate

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"tingate/core/stops"
)

// VoltsKey and OhmsKey name measurements that part suspects.
func VoltsKey(m stops.Measure) string {
	return voltsPrefix + strings.Join([]string{m.Test, strconv.Itoa(m.Step), m.At}, "~")
}

// OhmsKey is VoltsKey for a resistance.
func OhmsKey(c stops.Continuity) string {
	return strings.TrimSuffix(ohmsPrefix+strings.Join([]string{c.A, c.B, c.Held}, "~"), "~")
}

// partingBasis is what measurements that part suspects rest on: the tests that fail. When one is mended they count no longer.
func (g *stopGate) partingBasis(d *stops.Drawing) map[string]string {
	b := g.stopBasis(d)
	for _, c := range g.checks {
		if strings.HasPrefix(c.Key, TestPrefix) && c.Verdict == Stops {
			b["fails"] += c.Key + "@" + g.rec.EvidenceEntries[c.Key].ID + " "
		}
	}
	return b
}

// parting are the measurements that part suspects: those that were made, and the one that is asked for just now. Any reading is an
// answer.
func (g *stopGate) parting(d *stops.Drawing) {
	keys := slices.Collect(maps.Keys(g.rec.Evidence))
	if g.job.Asked != "" && !slices.Contains(keys, g.job.Asked) {
		keys = append(keys, g.job.Asked)
	}
	sort.Strings(keys)
	basis := g.partingBasis(d)
	if basis["fails"] == "" {
		return
	}
	for _, key := range keys {
		c := Check{Key: key, Group: "To part the suspects", Basis: basis}
		switch l := strings.Split(strings.TrimPrefix(strings.TrimPrefix(key, voltsPrefix), ohmsPrefix), "~"); {
		case strings.HasPrefix(key, voltsPrefix) && len(l) == 3 && d.Net.Has(l[2]):
			t, ok := d.Test(l[0])
			n, err := strconv.Atoi(l[1])
			if !ok || err != nil || n < 0 || n >= len(t.Steps) {
				continue
			}
			c.Title, c.Unit, c.Work = fmt.Sprintf("%s, after %q: voltage at %s against %s", t.Title, t.Steps[n].Do, l[2], d.Minus()),
				"V DC", Live
		case strings.HasPrefix(key, ohmsPrefix) && len(l) >= 2 && d.Net.Has(l[0]) && d.Net.Has(l[1]):
			c.Title, c.Unit, c.Work = fmt.Sprintf("%s to %s", l[0], l[1]), "Ω", Dead
			if len(l) > 2 {
				c.Title += ", with " + l[2] + " worked"
			}
		default:
			continue
		}
		if ev, ok := g.rec.Evidence[key]; ok && key != g.job.Asked {
			if counts, _ := g.rec.Machines.Stands(g.rec.Machines.BasisFor("stop", c.Key, c.Basis), ev); !counts {
				continue // of a fault that is mended, or of another machine
			}
		}
		g.measure(c, math.NaN(), math.Inf(1), Holds, true)
	}
}

// StopReadings are the measurements that part suspects, as far as they count, and what the tests showed.
func StopReadings(j Job, s State, d *stops.Drawing) (shown []stops.Shown, readings []stops.Reading) {
	rec := recordOf(j)
	for _, g := range s.Gates {
		if g.Key != "stop" {
			continue
		}
		for _, c := range g.Checks {
			ev := rec.Evidence[c.Key]
			switch {
			case strings.HasPrefix(c.Key, TestPrefix) && (c.Verdict == Holds || c.Verdict == Stops):
				if t, ok := d.Test(strings.TrimPrefix(c.Key, TestPrefix)); ok {
					l, _ := d.ReadShown(t, ev.Value)
					shown = append(shown, l...)
				}
			case strings.HasPrefix(c.Key, voltsPrefix) && c.Verdict == Holds && ev.Reading != nil:
				l := strings.Split(strings.TrimPrefix(c.Key, voltsPrefix), "~")
				n, _ := strconv.Atoi(l[1])
				readings = append(readings, stops.Reading{Test: l[0], Step: n, At: l[2], Volts: *ev.Reading})
			case strings.HasPrefix(c.Key, ohmsPrefix) && c.Verdict == Holds && ev.Reading != nil:
				l := append(strings.Split(strings.TrimPrefix(c.Key, ohmsPrefix), "~"), "")
				joined := *ev.Reading <= mostJoined
				readings = append(readings, stops.Reading{A: l[0], B: l[1], Held: l[2], Joined: &joined})
			}
		}
	}
	return shown, readings
}
