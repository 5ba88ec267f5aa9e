package gate

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/machine"
	"tingate/core/quantity"
	"tingate/core/record"
	"tingate/core/translate"
	"tingate/core/tune"
)

// quantities of a result, by what the family's setting does in the drive, in the order in which they are found.
var quantities = []struct {
	drives, key, name string
	kinds             []string
	band              func(tune.Bands) tune.Band
	put               func(*tune.Learnt, float64)
}{
	{"stator-resistance", "stator", "Stator resistance",
		[]string{tune.KindStandstill, tune.KindExtended, tune.KindUncoupled, tune.KindCoupled, tune.KindMaker},
		func(b tune.Bands) tune.Band { return b.Rs }, func(l *tune.Learnt, v float64) { l.Rs = v }},
	{"rotor-resistance", "rotor", "Rotor resistance", []string{tune.KindExtended, tune.KindUncoupled, tune.KindCoupled, tune.KindMaker},
		func(b tune.Bands) tune.Band { return b.Rr }, func(l *tune.Learnt, v float64) { l.Rr = v }},
	{"leakage", "leakage", "Leakage", []string{tune.KindExtended, tune.KindUncoupled, tune.KindCoupled, tune.KindMaker},
		func(b tune.Bands) tune.Band { return b.Leakage }, func(l *tune.Learnt, v float64) { l.Leakage = v }},
	{"magnetising-current", "magnetising", "Magnetising current", []string{tune.KindUncoupled, tune.KindCoupled, tune.KindMaker},
		func(b tune.Bands) tune.Band { return b.Magnetising }, func(l *tune.Learnt, v float64) { l.Magnetising = v }},
}

// makersValues are the values that a motor's maker states, as they were typed at gate Tune, in the settings that hold them.
func makersValues(j Job, r record.Record, out map[string]dialect.Function) {
	if r.Evidence["tune/kind/chosen"].Value != tune.KindMaker {
		return
	}
	basis := tuneBasis(j, tune.KindMaker)
	counts := func(key string) (drivefile.Evidence, bool) {
		ev := r.Evidence[key]
		ok, _ := r.Machines.Stands(r.Machines.BasisFor("tune", key, basis), ev)
		return ev, ok
	}
	for _, q := range quantities {
		ev, ok := counts("tune/result/" + q.key)
		if !ok || ev.Reading == nil {
			continue
		}
		v, because := math.Abs(*ev.Reading), "gate Tune: as the motor's maker states"
		if as, ok := counts("tune/values/as"); q.key == "stator" && ok && as.Value == "line-to-line" {
			v, because = v/2, because+" from line to line, half of it a phase"
		}
		for i := range j.Family.Settings {
			if s := &j.Family.Settings[i]; s.Drives == q.drives {
				out[s.Code] = s.Nearest(v, because)
			}
		}
	}
}

func nothingLearnt() tune.Learnt {
	return tune.Learnt{Rs: math.NaN(), Rr: math.NaN(), Leakage: math.NaN(), Magnetising: math.NaN()}
}

// tuneResults asks for each quantity that the drive shows, and judges it.
func (g *tuneGate) tuneResults(kind string, basis map[string]string, celsius float64) {
	s := &g.out
	f := g.job.Family
	row, _ := machine.FromRow(translate.Plate(g.job.Drive.Motor).Row)
	if f == nil || row.Poles == 0 || g.job.Drive.Motor.Kind == "permanent-magnet" {
		return
	}
	set := tune.Setting{Plate: row, Celsius: celsius, Cable: translate.CableOhms(g.job.Drive),
		Linked: g.job.Drive.Motor.Rows[translate.LinkedRow(g.job.Drive.Motor)].Connection}
	bands, ok := tune.BandsOf(set)
	if !ok {
		return
	}
	const group = "The result"
	double := 1.
	if kind == tune.KindMaker {
		if as := g.choose(Check{Key: "tune/values/as", Group: group, Title: "The maker states the stator resistance",
			Detail: "From line to line it is twice that of a phase; " + f.Name + " takes it per phase.", Basis: basis},
			[]Option{{"per-phase", "per phase", ""}, {"line-to-line", "from line to line", ""}}, true); as == "line-to-line" {
			double = 2
		}
	}
	ended := kind == tune.KindMaker || g.rec.Evidence[tuneEnded].Value == "ended" && s.Void == ""
	learnt, before := nothingLearnt(), nothingLearnt()
	shown := map[string]string{}
	for _, q := range quantities {
		if !slices.Contains(q.kinds, kind) {
			continue
		}
		for i := range f.Settings {
			set := &f.Settings[i]
			per := perUnit[set.Unit]
			if set.Drives != q.drives || per == 0 {
				continue
			}
			b, times := q.band(bands), 1.
			if q.key == "stator" { // of the others a maker states no line to line
				times = double
			}
			b = tune.Band{Low: b.Low * times, Usual: b.Usual * times, High: b.High * times}
			c := Check{Key: "tune/result/" + q.key, Group: group, Title: q.name + ", " + set.Code, Unit: set.Unit, Basis: basis}
			m := g.measure(c, b.Low/per, b.High/per, Again, ended)
			r := TuneResult{Key: c.Key, Name: q.name, Setting: set.Code, Unit: set.Unit, Low: b.Low / per, Usual: b.Usual / per,
				High: b.High / per}
			if m.ok && !math.IsNaN(m.value) {
				v := math.Abs(m.value)
				r.Value = &v
				q.put(&learnt, v*per/times)
				shown[q.key] = f4(v)
			}
			if v, ok := g.earlier(c); ok {
				r.Earlier = &v
				q.put(&before, v*per/times)
			}
			s.Results = append(s.Results, r)
		}
	}
	if set.Cable > 0 {
		s.Cable = fmt.Sprintf("%s Ω of the stator resistance is the motor cable's: %s m of %s.", quantity.Digits(set.Cable, 2),
			f4(g.job.Drive.Site.Cable.Num(quantity.Length, "m")), g.job.Drive.Power.MotorArea)
	}
	g.judgeTune(set, bands, learnt, before, shown)
}

// earlier is the reading before the last one of a check, under the same conditions; the bench's are compared with the bench's.
func (f *Facts) earlier(c Check) (float64, bool) {
	l := f.rec.Series[c.Key]
	c.Basis = f.rec.Machines.BasisFor("tune", c.Key, c.Basis)
	for i := len(l) - 2; i >= 0; i-- {
		if b, ok := drivefile.Contents[drivefile.Evidence](l[i]); ok && f.counts(c, b) && b.Reading != nil &&
			(b.Instrument == record.OnBench) == (f.rec.Evidence[c.Key].Instrument == record.OnBench) {
			return math.Abs(*b.Reading), true
		}
	}
	return 0, false
}

// judgeTune names what would explain a misfit, and compares the run with the one before.
func (g *tuneGate) judgeTune(set tune.Setting, bands tune.Bands, learnt, before tune.Learnt, shown map[string]string) {
	s := &g.out
	if out := bands.Outside(learnt); len(out) > 0 {
		if l := tune.Explain(set, learnt, tune.Others(set.Plate)); l != nil {
			s.Causes = l
		}
		f := finding.Finding{Code: "tune-misfit", Severity: finding.Look, Field: "tune",
			Title:  "The result does not fit the plate: " + strings.Join(out, ", "),
			Detail: "No single thing explains it: run it again, cold, and compare.", Action: "Find the cause before the machine runs on it"}
		if len(s.Causes) > 0 {
			var l []string
			for _, c := range s.Causes {
				l = append(l, c.Text)
			}
			f.Detail = "This alone would explain it: " + strings.Join(l, "; or ") + "."
			if strings.HasPrefix(s.Causes[0].Code, "link-") {
				f.Severity = finding.Stop
				f.Action = "Isolate, prove dead, and look into the terminal box"
			}
		}
		g.finding("tune", f, shown)
	}
	if apart, what := tune.Repeat(learnt, before); apart > mostApart {
		g.finding("tune", finding.Finding{Code: "tune-repeat", Severity: finding.Look, Field: "tune",
			Title:  fmt.Sprintf("Two runs differ by %s %% in %s", f4(apart), what),
			Detail: fmt.Sprintf("%d %% is usual at most (common practice): warm between, moving, or a bad joint.", mostApart),
			Action: "Let it cool, and run it once more"}, shown)
	}
}
