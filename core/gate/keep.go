package gate

import (
	"fmt"

	"tingate/core/drivefile"
	"tingate/core/record"
)

// keepGate: every gate passed, as found and as left saved, nothing temporary left in.
type keepGate struct {
	asking
	temporary []record.TemporaryThing
	snapshots []record.SnapshotHead
}

func (g *keepGate) tell(s *State) {
	s.Unkept = g.unkept()
	s.Temporary, s.Snapshots, s.Attachments = append(s.Temporary, g.temporary...), append(s.Snapshots, g.snapshots...),
		append(s.Attachments, g.rec.Attached...)
}

func (g *keepGate) ask() {
	for _, was := range g.before.Gates {
		if was.Key == "keep" {
			continue
		}
		c := Check{Key: "keep/gate/" + was.Key, Title: was.Name + " passed", Verdict: Holds, Must: was.Key == "dead"}
		switch was.Mark {
		case "passed":
		case "again":
			c.Verdict, c.Detail = Again, "Passed, but changed since."
		default:
			c.Verdict = NotDone
		}
		if was.Key == "stop" && g.before.Stop.Fails > 0 {
			c.Verdict, c.Detail = Stops, "A test of it fails."
		}
		g.check(c)
	}
	found := Check{Key: "keep/snapshot/as-found", Title: "As found saved", Verdict: NotDone, Work: Live,
		Detail: "Read the drive before anything is changed."}
	left := Check{Key: "keep/snapshot/as-left", Title: "As left saved and still true", Verdict: NotDone, Work: Live,
		Detail: "Save as left when all settings read back."}
	for i, s := range g.rec.SnapshotEntries {
		b := g.rec.Snapshots[i]
		g.snapshots = append(g.snapshots,
			record.SnapshotHead{ID: s.ID, Name: b.Name, Label: b.Label, Dialect: b.Dialect, Count: len(b.Values), How: b.How, By: s.By,
				At: s.At})
		switch {
		case !g.rec.OfThis[i]:
		case b.Name == "as-found":
			found.Verdict, found.Detail, found.By, found.At = Holds, fmt.Sprintf("%d settings.", len(b.Values)), s.By, s.At
			if code := g.changedBefore(s.Seq); code != "" {
				found.Verdict, found.Detail = Again,
					fmt.Sprintf("Found late: %s had been set before it was saved. What the drive held when it was found is not known "+
						"any more.", code)
			}
		case b.Name == "as-left":
			left.Verdict, left.Detail, left.By, left.At = Holds, fmt.Sprintf("%d settings.", len(b.Values)), s.By, s.At
			if code := g.stale(b); code != "" {
				left.Verdict, left.Detail = Again, code+" is no longer as it was left."
			}
		}
	}
	g.check(found)
	g.check(left)
	g.kept()
	g.temporaries()
}

// stale names a setting whose last reading or plan differs from the as left snapshot.
func (f *Facts) stale(b drivefile.Snapshot) string {
	for _, l := range f.lines {
		v, ok := b.Values[l.Code]
		if ok && l.Read != nil && l.Read.Steps != nil && *l.Read.Steps != v.Steps {
			return l.Code
		}
		if l.Planned && ok && l.Steps != v.Steps {
			return l.Code
		}
	}
	return ""
}

// changedBefore names a setting that was set on the keypad, or written over the link, before an entry; empty when none was.
func (f *Facts) changedBefore(seq int64) string {
	for _, en := range f.job.Entries {
		if en.Seq >= seq {
			break
		}
		switch en.Kind {
		case drivefile.EntryEntered:
			if b, ok := drivefile.Contents[drivefile.Entered](en); ok && f.rec.Machines.Read(b.Serial) {
				return b.Code
			}
		case drivefile.EntryWrite:
			if b, ok := drivefile.Contents[drivefile.Write](en); ok &&
				(b.Outcome == drivefile.Held || b.Outcome == drivefile.Differs || b.Outcome == drivefile.Unknown) &&
				f.rec.Machines.Read(b.Serial) {
				return b.Code
			}
		}
	}
	return ""
}
