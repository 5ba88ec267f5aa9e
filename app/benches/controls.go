package benches

import (
	"context"
	"fmt"
	"math"

	"tingate/app/base"
	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/dialect"
	"tingate/core/gate"
	"tingate/core/quantity"
)

// Controls are the ways in which this job's motor could be controlled, each tried with the plan on a bench of the job's own figures.
type Controls struct {
	Missing string         `json:"missing" doc:"what is needed before it can be worked out"`
	Assumed []string       `json:"assumed" doc:"what nobody has said, and is taken for granted"`
	Torque  float64        `json:"torque_nm" doc:"that is asked for"`
	Hangs   bool           `json:"hangs" doc:"the load pulls at every speed, not at standstill alone"`
	Lowest  float64        `json:"lowest" doc:"r/min, of the plan; 0: none is stated"`
	Tried   []ControlTried `json:"tried"`
	Says    string         `json:"says" doc:"which one is enough with the least to do, and why"`
}

// ControlTried is one of them.
type ControlTried struct {
	Control string          `json:"control" enum:"volts-per-hertz,vector,encoder"`
	Title   string          `json:"title"`
	Planned bool            `json:"planned"`
	Missing string          `json:"missing" doc:"why it cannot be tried"`
	Entries int             `json:"entries" doc:"settings of the plan that the drive is not delivered with"`
	Presses int             `json:"presses" doc:"keys for them, on the shortest way"`
	Minutes float64         `json:"minutes" doc:"for entries and tune, by common practice"`
	Tests   []string        `json:"tests" doc:"what it wants beside, at gates Turn and Tune"`
	Does    ride.Controlled `json:"does"`
}

// A setting takes so long to be looked up, entered and read back, a key so long to be pressed, s. Common practice.
const (
	entrySeconds = 12
	pressSeconds = .5
)

// controlsOf are the ways, the one with the least to do first.
var controlsOf = []struct {
	key, title, control, encoder string
	tests                        []string
}{
	{"volts-per-hertz", "Volts per hertz", "volts-per-hertz", "", []string{"direction"}},
	{"vector", "Vector without encoder", "vector", "", []string{"direction", "a tune at standstill; better turning, uncoupled"}},
	{"encoder", "Vector with encoder", "vector", "wanted",
		[]string{"direction", "direction and count of the encoder", "a tune at standstill, and the mechanical one"}},
}

// Controls tries them.
func (a *Benches) Controls(ctx context.Context, driveID string) (Controls, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return Controls{}, err
	}
	f := gate.FiguresOf(j, gate.Evaluate(j, a.Now()))
	out := Controls{Missing: f.Missing, Assumed: f.Assumed, Torque: f.Load.Torque + f.Load.Rubs, Hangs: f.Load.Kind == "hanging",
		Tried: []ControlTried{}}
	switch {
	case f.Missing != "":
		return out, nil
	case f.Magnet:
		out.Missing = "a motor with a cage: one with permanent magnets runs on vector control alone"
		return out, nil
	case j.Family == nil:
		out.Missing = "the drive's family"
		return out, nil
	}
	if v, ok := j.Drive.Intent.LowestSpeed.In(quantity.Speed, "r/min"); ok && v > 0 {
		out.Lowest = v
	}
	planned := j.Drive.Intent.Control
	if planned == "vector" && j.Drive.Site.Encoder == "wanted" {
		planned = "encoder"
	}
	for _, c := range controlsOf {
		if ctx.Err() != nil {
			return out, ctx.Err()
		}
		t := ControlTried{Control: c.key, Title: c.title, Planned: c.key == planned, Tests: c.tests,
			Does: ride.Controlled{Held: []ride.Held{}, Ride: ride.Ride{Samples: []ride.RideSample{}}}}
		a.tryControl(&t, withControl(j, c.control, c.encoder), out.Lowest)
		out.Tried = append(out.Tried, t)
	}
	out.Says = least(out)
	return out, nil
}

// withControl is a job with another control, and with an encoder or without.
func withControl(j gate.Job, control, encoder string) gate.Job {
	j.Drive.Intent.Control, j.Drive.Site.Encoder = control, encoder
	return j
}

// tryControl fills in what one way of control does, and what it asks for.
func (a *Benches) tryControl(t *ControlTried, j gate.Job, lowest float64) {
	s := gate.Evaluate(j, a.Now())
	f := gate.FiguresOf(j, s)
	setup := base.SetupOf(j, f)
	enter := map[string]int64{}
	if t.Control == "encoder" {
		code := lined(j.Family, setup.Values, setup.Lines)
		if code == "" {
			t.Missing = "this family has no setting for the lines of an encoder"
			return
		}
		enter[code] = setup.Values[code]
	}
	if bench.Configure(j.Family, setup.Values, setup.Size).Control != t.Control {
		t.Missing = "this family has no setting for it"
		return
	}
	for _, l := range s.Lines {
		set, ok := j.Family.Setting(l.Code)
		if !ok || !l.Planned || l.Missing != "" {
			continue
		}
		if v := setup.Values[l.Code]; v != set.DeliverySteps() {
			enter[l.Code] = v
		}
	}
	t.Entries = len(enter)
	for _, stop := range j.Family.Route("", enter, nil) {
		t.Presses += dialect.Presses(stop.Go) + dialect.Presses(stop.Value)
	}
	poles := math.Max(float64(f.Motor.Poles), 2)
	var err error
	if t.Does, err = ride.ControlledBy(setup, f.Load.Torque+f.Load.Rubs, lowest*poles/120); err != nil {
		t.Missing = err.Error()
		t.Does = ride.Controlled{Held: []ride.Held{}, Ride: ride.Ride{Samples: []ride.RideSample{}}}
		return
	}
	t.Minutes = (entrySeconds*float64(t.Entries) + pressSeconds*float64(t.Presses) + t.Does.Tune) / 60
}

// lined puts the encoder's lines into a plan's settings, and gives the setting's code; empty: the family has none.
func lined(f *dialect.Family, values map[string]int64, lines float64) string {
	for i := range f.Settings {
		if s := &f.Settings[i]; s.Drives == "encoder-lines" {
			values[s.Code] = int64(math.Round(lines / s.Value(1)))
			return s.Code
		}
	}
	return ""
}

// least says which way of control is enough with the least to do.
func least(c Controls) string {
	why := ""
	for _, t := range c.Tried {
		switch {
		case t.Missing != "":
			why += fmt.Sprintf("%s cannot be tried: %s. ", t.Title, t.Missing)
		case t.Does.Enough && c.Lowest > 0:
			return why + fmt.Sprintf("%s is enough: it holds %.0f r/min, the lowest speed, and rides the plan.", t.Title, c.Lowest)
		case t.Does.Enough:
			return why + t.Title + " is enough for this plan, which states no lowest speed."
		case t.Does.Ride.Trip != nil:
			why += fmt.Sprintf("%s trips on the plan (%s). ", t.Title, t.Does.Ride.Trip.Word)
		case t.Does.Ride.Stalled:
			why += t.Title + " stalls on the plan. "
		default:
			why += fmt.Sprintf("%s does not hold %.0f r/min: %s. ", t.Title, c.Lowest, t.Does.Lowest.Says)
		}
	}
	return why + "None of them is enough as it is planned: a slower rise, more current, or another motor."
}
