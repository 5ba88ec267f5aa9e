package gate

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/machine"
	"tingate/core/plate"
	"tingate/core/quantity"
	"tingate/core/record"
	"tingate/core/translate"
	"tingate/core/tune"
)

// mostApart is by how much two runs of a tune may differ, %. Common practice.
const mostApart = 5

// TuneState is the tune as a screen draws it.
type TuneState struct {
	Kind       string        `json:"kind" doc:"chosen"`
	Offers     []TuneOffer   `json:"offers" doc:"the best that this machine permits first"`
	Recipe     *dialect.Tune `json:"recipe,omitempty" doc:"of the family, for the kind chosen"`
	Ready      bool          `json:"ready" doc:"everything before it is answered"`
	Results    []TuneResult  `json:"results"`
	Cable      string        `json:"cable" doc:"the motor cable's part of the stator's resistance, in words"`
	Causes     []tune.Cause  `json:"causes" doc:"what alone would explain a result that does not fit"`
	Void       string        `json:"void" doc:"why a tune that was made counts no longer"`
	Modes      []ControlMode `json:"modes"`
	Standstill []Input       `json:"standstill" doc:"what magnetising at standstill costs"`
}

// TuneOffer is a kind of tune with why it stands where it does.
type TuneOffer struct {
	Kind    string `json:"kind"`
	Title   string `json:"title"`
	Why     string `json:"why"`
	Refused bool   `json:"refused"`
}

// TuneResult is one quantity against its band, in the unit of the family's setting.
type TuneResult struct {
	Key     string   `json:"key" doc:"of its check"`
	Name    string   `json:"name"`
	Setting string   `json:"setting"`
	Unit    string   `json:"unit"`
	Low     float64  `json:"low"`
	Usual   float64  `json:"usual"`
	High    float64  `json:"high"`
	Value   *float64 `json:"value,omitempty" doc:"as it counts"`
	Earlier *float64 `json:"earlier,omitempty" doc:"of the run before, under the same conditions"`
}

// ControlMode is what a way of control can do at the lowest speed that this job needs.
type ControlMode struct {
	Name   string `json:"name"`
	Chosen bool   `json:"chosen"`
	Torque string `json:"torque" doc:"percent of rated, within the current limit"`
	From   string `json:"from" doc:"how slow it holds"`
	Enough bool   `json:"enough"`
	Note   string `json:"note"`
}

// kindTitles are the kinds as people call them.
var kindTitles = map[string]string{tune.KindNone: "no tune", tune.KindStandstill: "at standstill", tune.KindExtended: "at standstill, extended", tune.KindUncoupled: "turning, uncoupled", tune.KindCoupled: "turning, coupled",
	tune.KindMechanical: "mechanical only", tune.KindMaker: "the maker's values"}

// perUnit are the units that families show results in, over SI.
var perUnit = map[string]float64{"Ω": 1, "mΩ": 1e-3, "A": 1, "mA": 1e-3, "mH": 1e-3, "µH": 1e-6}

// tuneBasis is what a tune rests on: any change of it makes the tune void, as in the drive.
func tuneBasis(j Job, kind string) map[string]string {
	d := j.Drive
	b := Basis(d.Motor)
	maps.Copy(b, map[string]string{"row": translate.LinkedRow(d.Motor), "cable": d.Site.Cable.Text, "area": d.Power.MotorArea, "switching": d.Site.Switching.Text, "control": d.Intent.Control, "tune": kind})
	return b
}

// tuneGate: which kind and why, the conditions, the run, the result against its bands, and what control can do.
type tuneGate struct {
	asking
	out TuneState
}

func (g *tuneGate) tell(s *State) { s.Tune = g.out }

func (g *tuneGate) ask() {
	s := &g.out
	s.Offers, s.Results, s.Causes, s.Modes, s.Standstill = []TuneOffer{}, []TuneResult{}, []tune.Cause{}, []ControlMode{}, []Input{}
	kind := g.tuneKind()
	s.Kind = kind
	g.controlModes()
	if kind != "" && kind != tune.KindNone {
		electrical := kind
		if before := g.rec.Evidence[tuneEnded].Basis["tune"]; kind == tune.KindMechanical && before != "" {
			electrical = before // its values stay: a mechanical tune learns the inertia, and nothing of the winding
		}
		basis := tuneBasis(g.job, electrical)
		if f := g.job.Family; f != nil {
			for i := range f.Recipes.Tunes {
				if f.Recipes.Tunes[i].Kind == kind {
					s.Recipe = &f.Recipes.Tunes[i]
				}
			}
		}
		celsius := math.NaN()
		if kind == tune.KindMaker {
			s.Ready = true
		} else {
			celsius = g.beforeTune(kind, electrical)
			s.Ready = g.readyToTune()
			if electrical != kind {
				g.tuneStands(g.tuneEnds(tuneEnded, "The tune before it ended with", basis, false), basis)
				g.tuneEnds(mechanicalEnded, "At the end it showed", tuneBasis(g.job, kind), s.Ready)
			} else {
				g.tuneStands(g.tuneEnds(tuneEnded, "At the end it showed", basis, s.Ready), basis)
			}
		}
		g.tuneResults(electrical, basis, celsius)
	}
	g.findingsAnswered()
}

// tuneKind asks for the kind; the first option is the best that this machine permits.
func (g *tuneGate) tuneKind() string {
	d := g.job.Drive
	t := d.Turn
	if !g.entered("tune/machine/stated", "Kind of tune", "What the machine permits", lacking("whether the coupling can be taken apart (gate Turn)", t.Uncouple, "control (gate Span)", d.Intent.Control), "") {
		return ""
	}
	p := tune.Permit{Permanent: d.Motor.Kind == "permanent-magnet", Uncouple: t.Uncouple == "yes", Hanging: t.Hanging, Backstop: t.Backstop, Wants: g.choice("tune", "best"),
		Simple: d.Intent.Control == "volts-per-hertz" && d.Intent.Slip != "on", Tuned: g.rec.Evidence[tuneEnded].Value == "ended"}
	var has []string
	if f := g.job.Family; f != nil {
		for _, r := range f.Recipes.Tunes {
			has = append(has, r.Kind)
		}
	}
	var options []Option
	detail := ""
	for _, o := range tune.Offers(p, has) {
		g.out.Offers = append(g.out.Offers, TuneOffer{o.Kind, kindTitles[o.Kind], o.Why, o.Refused})
		if o.Refused {
			continue
		}
		opt := Option{Value: o.Kind, Text: kindTitles[o.Kind]}
		if len(options) == 0 {
			detail = "Best here: " + opt.Text + ": " + o.Why + "."
		}
		options = append(options, opt)
	}
	basis := map[string]string{"uncouple": t.Uncouple, "hanging": fmt.Sprint(t.Hanging), "kind": d.Motor.Kind, "simple": fmt.Sprint(p.Simple)}
	return g.choose(Check{Key: "tune/kind/chosen", Group: "Kind of tune", Title: "Kind of tune", Detail: detail, Basis: basis}, options, true)
}

// Keys of what a tune showed at its end.
const (
	tuneEnded       = "tune/ended/shown"
	mechanicalEnded = "tune/ended/mechanical"
)

// TuneEnded is the key under which the end of a tune of a kind is recorded: a mechanical one stands beside the one before it.
func TuneEnded(s TuneState) string {
	if s.Kind == tune.KindMechanical && len(s.Results) > 0 {
		return mechanicalEnded
	}
	return tuneEnded
}

// beforeTune is what must hold before a tune starts; it gives the winding's temperature, °C, at the tune whose values count.
func (g *tuneGate) beforeTune(kind, electrical string) float64 {
	d := g.job.Drive
	const group = "Before it starts"
	turns := tune.Turns(kind)
	plateHolds, detail := Holds, ""
	if g.was("plate", "plate/complete/row").Verdict != Holds || g.was("plate", "plate/findings/answered").Verdict != Holds {
		plateHolds, detail = NotDone, "Gate Plate first: a tune rests on what is entered."
	}
	g.computed("tune/ready/plate", group, "Plate entered, its findings answered", plateHolds, detail)
	if turns {
		c := Check{Key: "tune/ready/direction", Group: group, Title: "Direction is right", Verdict: Holds}
		if g.before.Turn.Seen != "forward" {
			c.Verdict, c.Detail = NotDone, "Gate Turn first: a rotating tune turns forward, at speed."
		}
		g.check(c)
	}
	torque := Check{Key: "tune/ready/torque", Group: group, Title: "Torque off is satisfied", Verdict: NotDone, Detail: "Both channels closed: say at gate Wake by what."}
	if by := g.rec.Evidence["wake/sto/by"].Value; by == "circuit" || by == "jumper" || by == "links" && d.Stop.None {
		torque.Verdict, torque.Detail = Holds, "By the "+map[string]string{"circuit": "circuit", "jumper": "jumper", "links": "factory links"}[by]+"."
	}
	g.check(torque)
	ask := func(key, title, detail string, basis map[string]string) {
		basis["kind"] = kind
		g.confirm(Check{Key: "tune/ready/" + key, Group: group, Title: title, Detail: detail, Basis: basis}, true)
	}
	if kind == electrical {
		ask("cable", "Motor cable and links are as they will stay", "The cable is measured along with the winding.", map[string]string{"cable": d.Site.Cable.Text, "area": d.Power.MotorArea})
	}
	switch kind {
	case tune.KindUncoupled:
		ask("uncoupled", "Uncoupled; key and coupling half taken off or secured", "They leave at full speed: the shaft turns up to rated speed.", map[string]string{})
	case tune.KindCoupled, tune.KindMechanical:
		ask("coupled", "The machine may turn up to rated speed, forward, with nothing in it", "", map[string]string{})
	}
	if turns {
		ask("guards", "Guarded, people clear; a second person in hearing, at stop and isolator", "", map[string]string{})
		if d.Turn.Brake == "drive" || d.Turn.Brake == "apart" {
			ask("brake", "Brake open by its own supply, never by hand on a hoist", "", map[string]string{"brake": d.Turn.Brake})
		}
	}
	ask("local", "Keypad has command, run input open", "", map[string]string{})
	if kind == electrical {
		ask("cold", "Motor cold: not run for some hours", "A warm winding reads up to a third more.", map[string]string{})
	}
	m := g.measure(Check{Key: "tune/ready/temperature", Group: group, Title: "Temperature of the motor's frame", Unit: "°C", Basis: map[string]string{"kind": electrical}, Detail: "Results are compared at this temperature."}, -25, 50, Again, true)
	if m.ok {
		return m.value
	}
	return math.NaN()
}

// readyToTune tells whether everything before a tune is answered. A direction that was seen on the bench only does not keep the
// bench from tuning.
func (g *tuneGate) readyToTune() bool {
	for _, c := range g.checks {
		c = g.settled("tune", c)
		bench := c.Key == "tune/ready/direction" && c.Verdict == Again && g.before.Turn.Bench
		if strings.HasPrefix(c.Key, "tune/ready/") && c.Verdict != Holds && c.Verdict != Waived && !bench {
			return false
		}
	}
	return true
}

// tuneEnds asks what the drive showed at the end of a tune; it gives the check as it is recorded.
func (g *tuneGate) tuneEnds(key, title string, basis map[string]string, ready bool) Check {
	s := &g.out
	done := "ended without a fault"
	var detail []string
	if r := s.Recipe; r != nil {
		done = fmt.Sprintf("%q", r.Done)
		detail = append(detail, fmt.Sprintf("Set %s to %s, then %s within %s s.", r.Setting, r.Value, r.Start, f4(r.Within)))
		if len(r.Progress) > 0 {
			detail = append(detail, "It shows "+strings.Join(r.Progress, ", ")+"; it hums, and thumps that grow louder.")
		}
		if r.StopAfter {
			detail = append(detail, "Press stop afterwards: it will not run before.")
		}
	}
	c := Check{Key: key, Group: "The run", Title: title, Basis: basis}
	if ready {
		c.Detail = strings.Join(detail, " ")
	}
	if g.choose(c, []Option{{"ended", done, ""}, {"other", "an alarm, or nothing", ""}}, ready) == "other" {
		g.verdictOf(key, Stops, "It did not end well: torque off, start too late, moving, coupled where it must not be, or an implausible plate. Clear it and run it again.")
	}
	return c
}

// tuneStands says when a tune that was made counts no longer.
func (g *tuneGate) tuneStands(c Check, basis map[string]string) {
	s := &g.out
	was := g.rec.Evidence[c.Key]
	holds, why := g.rec.Machines.Stands(g.rec.Machines.BasisFor("tune", c.Key, c.Basis), was)
	if was.Value != "ended" || holds {
		return
	}
	var changed []string
	if !strings.HasPrefix(why, "before ") {
		changed = append(changed, lower(strings.TrimSuffix(why, ".")))
	}
	for _, k := range sortedKeys(basis) {
		if was.Basis[k] != basis[k] && k != "row" {
			changed = append(changed, fmt.Sprintf("%s %s → %s", strings.ReplaceAll(k, "_", " "), blank(was.Basis[k]), blank(basis[k])))
		}
	}
	for k := range was.Basis {
		if _, still := basis[k]; !still && k != record.DriveSerial && k != record.MotorSerial && !slices.Contains(record.Older, k) {
			changed = append(changed, k+" taken away")
		}
	}
	if changed == nil {
		changed = []string{"another row is in use"}
	}
	s.Void = strings.Join(changed, ", ")
	g.finding("tune", finding.Finding{Code: "tune-void", Severity: finding.Look, Field: "tune", Title: "The tune is void", Detail: "Changed since: " + s.Void + ". The drive has dropped it, or runs on wrong values.", Action: "Run it again"}, basis)
}

func blank(t string) string {
	if t == "" {
		return "blank"
	}
	return t
}

// quantities of a result, by what the family's setting does in the drive, in the order in which they are found.
var quantities = []struct {
	drives, key, name string
	kinds             []string
	band              func(tune.Bands) tune.Band
	put               func(*tune.Learnt, float64)
}{
	{"stator-resistance", "stator", "Stator resistance", []string{tune.KindStandstill, tune.KindExtended, tune.KindUncoupled, tune.KindCoupled, tune.KindMaker}, func(b tune.Bands) tune.Band { return b.Rs }, func(l *tune.Learnt, v float64) { l.Rs = v }},
	{"rotor-resistance", "rotor", "Rotor resistance", []string{tune.KindExtended, tune.KindUncoupled, tune.KindCoupled, tune.KindMaker}, func(b tune.Bands) tune.Band { return b.Rr }, func(l *tune.Learnt, v float64) { l.Rr = v }},
	{"leakage", "leakage", "Leakage", []string{tune.KindExtended, tune.KindUncoupled, tune.KindCoupled, tune.KindMaker}, func(b tune.Bands) tune.Band { return b.Leakage }, func(l *tune.Learnt, v float64) { l.Leakage = v }},
	{"magnetising-current", "magnetising", "Magnetising current", []string{tune.KindUncoupled, tune.KindCoupled, tune.KindMaker}, func(b tune.Bands) tune.Band { return b.Magnetising }, func(l *tune.Learnt, v float64) { l.Magnetising = v }},
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
	set := tune.Setting{Plate: row, Celsius: celsius, Cable: translate.CableOhms(g.job.Drive), Linked: g.job.Drive.Motor.Rows[translate.LinkedRow(g.job.Drive.Motor)].Connection}
	bands, ok := tune.BandsOf(set)
	if !ok {
		return
	}
	const group = "The result"
	double := 1.
	if kind == tune.KindMaker {
		if as := g.choose(Check{Key: "tune/values/as", Group: group, Title: "The maker states the stator resistance", Detail: "From line to line it is twice that of a phase; " + f.Name + " takes it per phase.", Basis: basis}, []Option{{"per-phase", "per phase", ""}, {"line-to-line", "from line to line", ""}}, true); as == "line-to-line" {
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
			r := TuneResult{Key: c.Key, Name: q.name, Setting: set.Code, Unit: set.Unit, Low: b.Low / per, Usual: b.Usual / per, High: b.High / per}
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
		s.Cable = fmt.Sprintf("%s Ω of the stator resistance is the motor cable's: %s m of %s.", quantity.Digits(set.Cable, 2), f4(g.job.Drive.Site.Cable.Num(quantity.Length, "m")), g.job.Drive.Power.MotorArea)
	}
	g.judgeTune(set, bands, learnt, before, shown)
}

// earlier is the reading before the last one of a check, under the same conditions; the bench's are compared with the bench's.
func (f *Facts) earlier(c Check) (float64, bool) {
	l := f.rec.Series[c.Key]
	c.Basis = f.rec.Machines.BasisFor("tune", c.Key, c.Basis)
	for i := len(l) - 2; i >= 0; i-- {
		var b drivefile.Evidence
		if decode(l[i].Body, &b) && f.counts(c, b) && b.Reading != nil && (b.Instrument == record.OnBench) == (f.rec.Evidence[c.Key].Instrument == record.OnBench) {
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
		f := finding.Finding{Code: "tune-misfit", Severity: finding.Look, Field: "tune", Title: "The result does not fit the plate: " + strings.Join(out, ", "), Detail: "No single thing explains it: run it again, cold, and compare.", Action: "Find the cause before the machine runs on it"}
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
		g.finding("tune", finding.Finding{Code: "tune-repeat", Severity: finding.Look, Field: "tune", Title: fmt.Sprintf("Two runs differ by %s %% in %s", f4(apart), what), Detail: fmt.Sprintf("%d %% is usual at most (common practice): warm between, moving, or a bad joint.", mostApart), Action: "Let it cool, and run it once more"}, shown)
	}
}

// HoldsAtLowest tells whether the way of control that is chosen is said to hold at the lowest speed.
func (s State) HoldsAtLowest() bool {
	return !slices.ContainsFunc(s.Tune.Modes, func(m ControlMode) bool { return m.Chosen && !m.Enough })
}

// voltsNote says what is chosen of the volts, and what would lift the torque that is not chosen.
func voltsNote(quadratic bool, boost float64) string {
	note := fmt.Sprintf("boost %s %%", f4(boost*100))
	if quadratic {
		return note + ", volts by the square: an even pattern lifts it"
	}
	return note + ": more lifts it, and warms the motor"
}

// controlModes compares what each way of control gives at the lowest speed that this job needs.
func (g *tuneGate) controlModes() {
	d := g.job.Drive
	row, _ := machine.FromRow(translate.Plate(d.Motor).Row)
	low := d.Intent.LowestSpeed.Num(quantity.Speed, "r/min")
	limit := d.Intent.CurrentLimit.Num(quantity.Percent, "%") / 100
	if row.Poles == 0 || math.IsNaN(low) || translate.Plate(d.Motor).Kind == plate.PermanentMagnet {
		return
	}
	est, ok := machine.Usual(row)
	if !ok {
		return
	}
	if math.IsNaN(limit) {
		limit = 1.5
	}
	if g.plan.DriveCurrent > 0 {
		limit = math.Min(limit, 1.5*g.plan.DriveCurrent/row.Current)
	}
	hz := low * float64(row.Poles) / 120
	rated := est.Fit.AirgapTorque
	boost := translate.Boost(d.Intent)
	quadratic := d.Intent.Pattern == "quadratic"
	simple, vector := est.TorqueWithin(row.Voltage*drive.VoltsShare(quadratic, boost, hz/row.Frequency), hz, limit*row.Current)/rated, est.VectorTorque(limit*row.Current)/rated
	wants := g.plan.TorqueRatio(low) // the same as Span's and Match's
	takes := "the load takes"
	if d.Intent.LoadTorque.Value == nil {
		takes = "the load, of which nobody has said the torque, may take"
	}
	pct := func(v float64) string { return fmt.Sprintf("%.0f %%", math.Max(v, 0)*100) }
	encoderThere := d.Site.Encoder == "wanted"
	s := &g.out
	s.Modes = []ControlMode{
		{"Volts per hertz", d.Intent.Control == "volts-per-hertz", pct(simple), "about 2 Hz", hz >= 2 && simple >= wants, voltsNote(quadratic, boost)},
		{"Vector without encoder", d.Intent.Control == "vector" && !encoderThere, pct(vector), fmt.Sprintf("%s r/min, a tenth of rated speed", f4(row.Speed/10)), low >= row.Speed/10 && vector >= wants, "after a tune"},
		{"Vector with encoder", d.Intent.Control == "vector" && encoderThere, pct(vector), "standstill", vector >= wants, "encoder proved at gate Turn"},
	}
	// Where the plan was ridden at its lowest speed, that is the one judgement of the way that is chosen.
	ridden := ""
	if g.job.Ridden != nil {
		ridden = g.job.Ridden.Low
	}
	for i := range s.Modes {
		if m := &s.Modes[i]; m.Chosen && ridden != "" {
			m.Enough = ridden == "holds"
			m.Note = map[string]string{"stalls": "ridden at the lowest speed, it stalls; ", "trips": "ridden at the lowest speed, it trips; "}[ridden] + m.Note
		}
	}
	watts := 3 * est.NoLoad * est.NoLoad * est.Rs
	s.Standstill = []Input{{"Magnetising current", f4(est.NoLoad), "A"}, {"Loss at standstill, magnetised", quantity.Digits(watts, 2), "W"}, {"If it stands so all year", quantity.Digits(watts*8.76, 2), "kWh"}}
	basis := map[string]string{"lowest": d.Intent.LowestSpeed.Text, "control": d.Intent.Control, "encoder": d.Site.Encoder, "load": d.Intent.Load + " " + d.Intent.LoadTorque.Text}
	for _, m := range s.Modes {
		if m.Chosen && !m.Enough {
			g.finding("tune", finding.Finding{Code: "control-too-slow", Severity: finding.Look, Field: "intent.control", Title: m.Name + " is not sure at the lowest speed", Detail: fmt.Sprintf("%s r/min is %s Hz; it holds from %s, and gives %s of rated torque there within the current limit; %s %s.%s", f4(low), f4(hz), m.From, m.Torque, takes, pct(wants), map[string]string{"stalls": " Ridden there on its own bench it stalls.", "trips": " Ridden there on its own bench it trips."}[ridden]), Action: "Another control, a higher lowest speed, or keep it with a reason"}, basis)
		}
	}
}
