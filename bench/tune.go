package bench

import (
	"fmt"
	"iter"
	"math"
	"strconv"

	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/tune"
)

// TuneShown is a tune as it goes, or as it ended.
type TuneShown struct {
	Kind     string       `json:"kind"`
	Step     string       `json:"step"`
	Heard    string       `json:"heard" doc:"what a person at the motor hears"`
	Share    float64      `json:"share" doc:"of the step, 0 to 1"`
	Elapsed  float64      `json:"elapsed" doc:"s"`
	Expected float64      `json:"expected" doc:"s"`
	Steps    []tune.Stage `json:"steps"`
	Running  bool         `json:"running"`
	Failed   string       `json:"failed" doc:"why it ended without a result"`
	Keypad   string       `json:"keypad" doc:"what this family's keypad shows"`
	Rs       *float64     `json:"rs_ohm"`
	Rr       *float64     `json:"rr_ohm"`
	Leakage  *float64     `json:"leakage_mh"`
	Lm       *float64     `json:"lm_mh"`
	Im       *float64     `json:"magnetising_a"`
	Inertia  *float64     `json:"inertia_kgm2"`
}

// tuning is a tune that has the power stage. The identifier runs as a coroutine: it goes on for eight periods in each tick.
type tuning struct {
	next    func() (struct{}, bool)
	stop    func()
	began   float64
	shown   TuneShown
	res     tune.Result
	fail    *tune.Failure
	subject *gated
	recipe  *dialect.Tune // of the family, for this kind; nil: it has none
}

// arming is a tune that was asked for at its setting and waits for the start key.
type arming struct {
	recipe *dialect.Tune
	until  float64 // s
	was    int64   // what the setting held
}

// recipeKinds are the bench's kinds by those of the families' recipes.
var recipeKinds = map[string]tune.Kind{tune.KindStandstill: tune.Short, tune.KindExtended: tune.Standstill,
	tune.KindUncoupled: tune.Rotating, tune.KindCoupled: tune.Coupled, tune.KindMechanical: tune.Mechanical}

// KindOf is the bench's kind of tune for one of a family's recipes; empty: none.
func KindOf(recipe string) string { return string(recipeKinds[recipe]) }

// arm sees whether a setting that was just put asks for a tune: then the start key begins it, if it comes in time.
func (b *Bench) arm(code string, steps, was int64) {
	for i := range b.Setup.Family.Recipes.Tunes {
		r := &b.Setup.Family.Recipes.Tunes[i]
		if r.Setting != code || recipeKinds[r.Kind] == "" {
			continue
		}
		b.armed = nil
		if n, err := strconv.ParseInt(r.Value, 10, 64); err == nil && n == steps {
			b.armed = &arming{r, b.sim.Time + r.Within, was}
			return
		}
	}
}

// late drops a tune whose start key did not come in time.
func (b *Bench) late() {
	a := b.armed
	if a == nil || b.sim.Time < a.until {
		return
	}
	b.armed = nil
	b.hold(a.recipe.Setting, a.was)
	b.tune = &tuning{shown: TuneShown{Kind: KindOf(a.recipe.Kind), Steps: []tune.Stage{},
		Failed: fmt.Sprintf("The start key did not come within %g s: %s is as it was before. Set it again, then press %s.",
			a.recipe.Within, a.recipe.Setting, a.recipe.Start)}}
}

// hold puts a setting without anything following from it.
func (b *Bench) hold(code string, steps int64) {
	if s, ok := b.Setup.Family.Setting(code); ok && s.Register != 0 {
		b.Stand.Put(s, dialect.Held{Steps: steps})
	}
}

// gated lets the identifier go on for eight periods at a time.
type gated struct {
	drive.Stage
	n     int
	yield func(struct{}) bool
	off   bool
}

// Apply passes one period on.
func (g *gated) Apply(a, b float64) (ia, ib float64, ok bool) {
	if g.n == 8 {
		g.n = 0
		if !g.yield(struct{}{}) {
			g.off = true
		}
	}
	g.n++
	if g.off {
		return 0, 0, false
	}
	return g.Stage.Apply(a, b)
}

// whyNoTune are the refusals of a start, in a sentence.
var whyNoTune = map[string]string{
	"running": "It runs: stop it first.", "moving": "The shaft still turns: a tune starts from standstill.",
	"torque-off": "Torque is off: close both channels first.",
	"fault":      "A fault is standing: clear it first.", "no-power": "No power, or the DC link is not charged yet.",
	"reset-required": "A reset is wanted first.",
}

// startTune begins a tune, or notes why not.
func (b *Bench) startTune(kind string) {
	c := b.sim.C.Motor
	p := tune.Plate{Voltage: c.Voltage, Current: c.Current, Frequency: c.Frequency, Speed: c.Speed, Power: c.Power, Factor: c.Factor,
		Poles: c.Poles}
	t := &tuning{began: b.sim.Time, shown: TuneShown{Kind: kind, Steps: tune.Timeline(tune.Kind(kind), p)}}
	if n := len(t.shown.Steps); n > 0 {
		t.shown.Expected = t.shown.Steps[n-1].Until
	}
	var known *tune.Result
	if b.tune != nil && b.tune.fail == nil && !b.tune.shown.Running && b.tune.res.Lm > 0 {
		known = &b.tune.res
	}
	b.tune = t
	for i := range b.Setup.Family.Recipes.Tunes {
		if r := &b.Setup.Family.Recipes.Tunes[i]; KindOf(r.Kind) == kind {
			t.recipe = r
		}
	}
	if b.Setup.Magnet && kind != string(tune.Short) {
		t.shown.Failed = "A rotor with magnets is tuned at standstill: the short kind, stator resistance. It may turn by half a pole " +
			"while that lines it up."
		return
	}
	if kind == string(tune.Coupled) && b.sim.P.Load.Kind == "hanging" {
		t.shown.Failed = "A hanging load is never turned coupled."
		return
	}
	if kind == string(tune.Rotating) && b.sim.P.Coupled && (b.sim.P.LoadJ > 0 || b.sim.P.Load.Torque > 0) {
		t.shown.Failed = "The load is coupled: this kind turns the shaft free. Uncouple it, key and coupling half secured."
		return
	}
	if why := b.sim.BeginTune(); why != "" {
		t.shown.Failed = whyNoTune[why]
		if t.shown.Failed == "" {
			t.shown.Failed = why
		}
		return
	}
	t.shown.Running = true
	t.subject = &gated{Stage: drive.Stage{D: &b.sim, Rated: p.Current, Noise: b.noise[0].NormFloat64}}
	t.next, t.stop = iter.Pull(func(yield func(struct{}) bool) {
		t.subject.yield = yield
		if !yield(struct{}{}) {
			return
		}
		t.res, t.fail = tune.Run(tune.Kind(kind), p, known, t.subject,
			func(name string, share float64) { t.shown.Step, t.shown.Share = name, share })
	})
	t.next()
}

// tuneTick goes on with a tune for one tick.
func (b *Bench) tuneTick() {
	t := b.tune
	more := true
	b.sim.TuneStep(&b.in, func() { _, more = t.next() })
	t.shown.Elapsed = b.sim.Time - t.began
	for i, s := range t.shown.Steps {
		if s.Name == t.shown.Step {
			t.shown.Heard = s.Heard
			if r := t.recipe; r != nil && len(r.Progress) > 0 {
				t.shown.Keypad = r.Progress[min(len(r.Progress)-1, i*len(r.Progress)/len(t.shown.Steps))]
			}
		}
	}
	if more {
		return
	}
	t.stop()
	t.shown.Running = false
	b.sim.EndTune()
	t.shown.Keypad = ""
	if t.fail != nil {
		t.shown.Failed = t.fail.Text
		if b.sim.Fault != "" {
			t.shown.Failed += fmt.Sprintf(" The drive tripped: %s.", b.sim.Fault)
		}
		return
	}
	t.shown.Rs, t.shown.Rr, t.shown.Leakage, t.shown.Lm = known(t.res.Rs, 1), known(t.res.Rr, 1), known(t.res.Leakage, 1000),
		known(t.res.Lm, 1000)
	t.shown.Im, t.shown.Inertia = known(t.res.Magnetising, 1), known(t.res.Inertia, 1)
	b.keepTune()
	if r := t.recipe; r != nil {
		t.shown.Keypad = r.Done
		if n, err := strconv.ParseInt(r.DoneValue, 10, 64); err == nil {
			b.hold(r.Setting, n)
		}
		b.stopFirst = r.StopAfter
	}
}

func known(v, times float64) *float64 {
	if math.IsNaN(v) {
		return nil
	}
	v *= times
	return &v
}

// keepTune writes what was learnt into the drive's settings, in the family's units.
func (b *Bench) keepTune() {
	r := b.tune.res
	put := map[string]float64{"stator-resistance": r.Rs, "rotor-resistance": r.Rr, "leakage": r.Leakage,
		"magnetising-current": r.Magnetising}
	per := map[string]float64{"Ω": 1, "mΩ": .001, "A": 1, "mA": .001, "mH": .001, "µH": 1e-6}
	for i := range b.Setup.Family.Settings {
		s := &b.Setup.Family.Settings[i]
		v, ok := put[s.Drives]
		if !ok || math.IsNaN(v) || s.Register == 0 || per[s.Unit] == 0 {
			continue
		}
		low, high := s.RangeSteps()
		steps := int64(math.Round(v / per[s.Unit] / s.Value(1)))
		b.Stand.Put(s, dialect.Held{Steps: max(low, min(high, steps))})
	}
	b.configure()
	if r.Inertia > 0 {
		b.sim.C.Inertia = r.Inertia
		b.sim.Reload()
	}
}
