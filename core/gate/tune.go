package gate

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/finding"
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
var kindTitles = map[string]string{tune.KindNone: "no tune", tune.KindStandstill: "at standstill",
	tune.KindExtended: "at standstill, extended", tune.KindUncoupled: "turning, uncoupled", tune.KindCoupled: "turning, coupled",
	tune.KindMechanical: "mechanical only", tune.KindMaker: "the maker's values"}

// perUnit are the units that families show results in, over SI.
var perUnit = map[string]float64{"Ω": 1, "mΩ": 1e-3, "A": 1, "mA": 1e-3, "mH": 1e-3, "µH": 1e-6}

// tuneBasis is what a tune rests on: any change of it makes the tune void, as in the drive.
func tuneBasis(j Job, kind string) map[string]string {
	d := j.Drive
	b := Basis(d.Motor)
	maps.Copy(b, map[string]string{"row": translate.LinkedRow(d.Motor), "cable": d.Site.Cable.Text, "area": d.Power.MotorArea,
		"switching": d.Site.Switching.Text, "control": d.Intent.Control, "tune": kind})
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
	if !g.entered("tune/machine/stated", "Kind of tune", "What the machine permits",
		lacking("whether the coupling can be taken apart (gate Turn)", t.Uncouple, "control (gate Span)", d.Intent.Control), "") {
		return ""
	}
	p := tune.Permit{Permanent: d.Motor.Kind == "permanent-magnet", Uncouple: t.Uncouple == "yes", Hanging: t.Hanging,
		Backstop: t.Backstop, Wants: g.choice("tune", "best"),
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
	basis := map[string]string{"uncouple": t.Uncouple, "hanging": fmt.Sprint(t.Hanging), "kind": d.Motor.Kind,
		"simple": fmt.Sprint(p.Simple)}
	return g.choose(Check{Key: "tune/kind/chosen", Group: "Kind of tune", Title: "Kind of tune", Detail: detail, Basis: basis}, options,
		true)
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
	torque := Check{Key: "tune/ready/torque", Group: group, Title: "Torque off is satisfied", Verdict: NotDone,
		Detail: "Both channels closed: say at gate Wake by what."}
	if by := g.rec.Evidence["wake/sto/by"].Value; by == "circuit" || by == "jumper" || by == "links" && d.Stop.None {
		torque.Verdict, torque.Detail = Holds,
			"By the "+map[string]string{"circuit": "circuit", "jumper": "jumper", "links": "factory links"}[by]+"."
	}
	g.check(torque)
	ask := func(key, title, detail string, basis map[string]string) {
		basis["kind"] = kind
		g.confirm(Check{Key: "tune/ready/" + key, Group: group, Title: title, Detail: detail, Basis: basis}, true)
	}
	if kind == electrical {
		ask("cable", "Motor cable and links are as they will stay", "The cable is measured along with the winding.",
			map[string]string{"cable": d.Site.Cable.Text, "area": d.Power.MotorArea})
	}
	switch kind {
	case tune.KindUncoupled:
		ask("uncoupled", "Uncoupled; key and coupling half taken off or secured",
			"They leave at full speed: the shaft turns up to rated speed.", map[string]string{})
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
	m := g.measure(Check{Key: "tune/ready/temperature", Group: group, Title: "Temperature of the motor's frame", Unit: "°C",
		Basis: map[string]string{"kind": electrical}, Detail: "Results are compared at this temperature."}, -25, 50, Again, true)
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
		g.verdictOf(key, Stops, "It did not end well: torque off, start too late, moving, coupled where it must not be, or an "+
			"implausible plate. Clear it and run it again.")
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
	g.finding("tune", finding.Finding{Code: "tune-void", Severity: finding.Look, Field: "tune", Title: "The tune is void",
		Detail: "Changed since: " + s.Void + ". The drive has dropped it, or runs on wrong values.", Action: "Run it again"}, basis)
}

func blank(t string) string {
	if t == "" {
		return "blank"
	}
	return t
}
