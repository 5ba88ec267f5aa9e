package gate

import (
	"sort"

	"tingate/core/drivefile"
	"tingate/core/record"
	"tingate/core/stops"
)

// Keys and answers of what was mended in a stop circuit.
const (
	mendKey     = "stop/mended/what"
	mendedOlder = "stop/mended/again" // asked by rules before 13: a word that it is written down
	misread     = "misread"
)

// StopFailure is a test of a stop circuit that showed something else, as it was recorded.
type StopFailure struct {
	Entry drivefile.Entry
	Test  stops.Test
	Shown string // what was otherwise
}

// StopRound is what failed in the tests of a circuit as it is drawn, and what was mended after, both in the order in which they were
// recorded.
func StopRound(j Job, d *stops.Drawing) (failed []StopFailure, mends []drivefile.Entry) {
	r := recordOf(j)
	return failures(r, d), r.Series[mendKey]
}

func failures(r record.Record, d *stops.Drawing) (l []StopFailure) {
	for _, t := range d.Table {
		for _, en := range r.Series[TestPrefix+t.Key] {
			ev, ok := drivefile.Contents[drivefile.Evidence](en)
			if !ok || ev.Basis["circuit"] != d.Hash {
				continue
			}
			if shown, err := d.ReadShown(t, ev.Value); err == nil {
				if was := d.Otherwise(t, shown); was != "" {
					l = append(l, StopFailure{en, t, was})
				}
			}
		}
	}
	sort.Slice(l, func(i, k int) bool { return l[i].Entry.Seq < l[k].Entry.Seq })
	return l
}

// mended asks what was mended once a test has failed. The answer starts a fresh round of tests; that a test was misread does not, and wants
// its reason too.
func (g *stopGate) mended(d *stops.Drawing) {
	failed := failures(g.rec, d)
	if failed == nil {
		return
	}
	last := failed[len(failed)-1].Entry
	if en, ok := g.rec.EvidenceEntries[mendedOlder]; ok && en.Seq > last.Seq && g.rec.EvidenceEntries[mendKey].ID == "" {
		g.confirm(Check{Key: mendedOlder, Group: "Tests",
			Title: "What was mended is written down, and every device that it touches was tested again", Work: Either,
			Basis: g.circuitBasis(d)}, false)
		return
	}
	c := Check{Key: mendKey, Group: "Tests", Title: "What was mended after a test that failed", Work: Either, Must: true,
		Basis: g.circuitBasis(d), Detail: "What passed before says nothing of the circuit as it is then: every test is done again after " +
			"it."}
	g.choose(c, []Option{
		{"wire", "a wire", "Give the reason: what was wrong, and the wire's two ends, like K1:S34 to S3:14."},
		{"part", "a part", "Give the reason: which part, what was wrong with it, and what stands there now."},
		{misread, "nothing: it was misread", "Give the reason: how it came to be read so. The test itself is done again."},
	}, true)
	if en := g.rec.EvidenceEntries[mendKey]; en.ID != "" && en.Seq < last.Seq {
		g.verdictOf(mendKey, Again, "A test failed after that was written: what was mended since?")
	}
}
