package gate

import (
	"strconv"
	"time"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/isolation"
	"tingate/core/plate"
	"tingate/core/record"
	"tingate/core/sheet"
	"tingate/core/translate"
	"tingate/core/wiring"
)

// Facts are all that the rules of the gates look at. They are made once of a job, and no rule changes them: what a gate says goes to its
// own part of the state.
type Facts struct {
	job     Job
	now     time.Time
	rec     record.Record
	result  plate.Result // of the plate's row in use
	wiring  wiring.Plan
	wired   bool // something is chosen to be connected
	plan    dialect.Plan
	lacks   []dialect.Lack // wishes that the family has no setting for
	lines   []sheet.Line
	sources []isolation.Source
}

func recordOf(j Job) record.Record { return record.Of(j.Drive, j.Place, j.Entries) }

// factsOf folds a job.
func factsOf(j Job, now time.Time) *Facts {
	f := &Facts{job: j, now: now, rec: recordOf(j), result: plate.Judge(translate.Plate(j.Drive.Motor)), lines: []sheet.Line{}}
	f.sources = isolation.Sources(j.Drive, j.Place, j.Energy, f.clock())
	if j.Family != nil {
		f.wiring, f.wired = WiringOf(j)
		f.plan, f.lacks = planOf(j, f.result.Poles, f.wiring, f.wired, f.rec)
		f.lines = sheet.Lines(j.Family, &f.plan, j.Family.Sheet(&f.plan), f.rec, j.Shown)
	}
	return f
}

// clock is the time of this look, in the place's zone.
func (f *Facts) clock() isolation.Clock { return isolation.Clock{Now: f.now, Zone: f.job.Zone} }

func (f *Facts) site() translate.Site {
	return translate.SiteOf(f.job.Drive, f.job.Place, f.job.Family)
}

// choice is the practice's answer to a question; the default when the job has no practice.
func (f *Facts) choice(key, otherwise string) string {
	if f.job.Practice == nil || f.job.Practice.Choices[key] == "" {
		return otherwise
	}
	return f.job.Practice.Choices[key]
}

// deadLimit is the practice's limit in V DC.
func (f *Facts) deadLimit() float64 {
	v, err := strconv.ParseFloat(f.choice("dead_limit", "42"), 64)
	if err != nil {
		return 42
	}
	return v
}

func (f *Facts) slopeOf(q drivefile.Q, highest float64) float64 {
	return translate.Slope(q, highest, f.result.Poles)
}

// liveRecorded tells whether every supply of the drive is recorded live.
func (f *Facts) liveRecorded() bool {
	for _, s := range f.sources {
		if s.State.State != drivefile.Live {
			return false
		}
	}
	return len(f.sources) > 0
}

func (f *Facts) lineOf(code string) *sheet.Line {
	for i := range f.lines {
		if f.lines[i].Code == code {
			return &f.lines[i]
		}
	}
	return nil
}

// rested tells whether the gate was passed and everything has been switched on again in good order since.
func (f *Facts) rested() bool {
	d, ok := f.rec.DecisionEntries["passed dead"]
	if !ok || len(f.sources) == 0 {
		return false
	}
	for _, s := range f.sources {
		if len(s.Locks) > 0 || s.State.State != drivefile.Live || s.State.Since < d.At {
			return false
		}
	}
	return true
}

// counts tells whether evidence answers a check as it stands.
func (f *Facts) counts(c Check, ev drivefile.Evidence) bool {
	ok, _ := f.rec.Machines.Stands(c.Basis, ev)
	return ok
}
