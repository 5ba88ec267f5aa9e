// Package walk takes a drive through gates as a person would whose every answer is good: for the demo plant and for tests.
package walk

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/entries"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/isolation"
	"tingate/core/stops"
)

// Walker answers checks for a person; Second is the one who looks over what was done. Tick lets time pass.
type Walker struct {
	App         *app.App
	Who, Second base.Actor
	Tick        func(time.Duration)
}

// dot is a grey picture, where a photo is asked for.
var dot = func() []byte {
	img := image.NewGray(image.Rect(0, 0, 8, 6))
	for i := range img.Pix {
		img.Pix[i] = 0xc0
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		panic(err)
	}
	return b.Bytes()
}()

// Gate answers every check of a gate that waits for an answer, in the gate's own order, until none does. values replace
// answers by key.
func (w Walker) Gate(ctx context.Context, driveID, key string, values map[string]string) error {
	return w.Until(ctx, driveID, key, values, func(base.View) bool { return false })
}

// Until is Gate, ended when the drive stands as wanted.
func (w Walker) Until(ctx context.Context, driveID, key string, values map[string]string, done func(base.View) bool) error {
	if err := w.take(ctx, driveID); err != nil {
		return err
	}
	for range 400 {
		v, err := w.App.Drive(ctx, w.Who, driveID)
		if err != nil {
			return err
		}
		c, place := next(v, key), v.Drive.Place
		if done(v) {
			return nil
		}
		if c == nil && key == "stop" && lifted(v) { // its wire is moved dead, and what the circuit shows is seen live
			if err := w.isolate(ctx, driveID); err != nil {
				return err
			}
			if err := w.backOn(ctx, driveID, "everybody at the machine"); err != nil {
				return err
			}
			if err := w.Gate(ctx, driveID, "wake", nil); err != nil {
				return err
			}
			continue
		}
		if c == nil {
			return nil
		}
		if key == "dead" && !v.State.Wait.Over && (strings.HasPrefix(c.Key, "dead/measure/") || c.Key == "dead/meter/after") {
			w.Tick(time.Duration(v.State.Wait.Minutes)*time.Minute + time.Second)
			continue
		}
		if err := w.Answer(ctx, driveID, place, *c, values); err != nil {
			return fmt.Errorf("%s: %w", c.Key, err)
		}
		w.Tick(3 * time.Second)
	}
	return fmt.Errorf("gate %s never comes to an end", key)
}

// take lets both people take the dangers of the job by name, where they have not.
func (w Walker) take(ctx context.Context, driveID string) error {
	for _, who := range []base.Actor{w.Who, w.Second} {
		v, err := w.App.Drive(ctx, w.Who, driveID)
		if err != nil {
			return err
		}
		if who.Person == "" || len(v.State.Dangers) == 0 || slices.Contains(v.State.DangersBy, who.Person) {
			continue
		}
		if err := w.App.Confirm(ctx, who, driveID, base.NewID(), gate.DangersTaken); err != nil {
			return err
		}
	}
	return nil
}

func next(v base.View, key string) *gate.Check {
	for _, g := range v.State.Gates {
		for i := range g.Checks {
			c := &g.Checks[i]
			anew := c.Verdict == gate.Again &&
				(strings.HasPrefix(c.Key, "dead/") || strings.HasPrefix(c.Key, "wake/before/") || strings.HasPrefix(c.Key, "wake/line/") ||
					strings.HasPrefix(c.Key, gate.TestPrefix)) // isolated again, or mended
			if g.Key == key && c.Do != "" && (c.Verdict == gate.NotDone || anew) {
				return c
			}
		}
	}
	return nil
}

// Answer answers a check well, or with the value that is given under its key.
func (w Walker) Answer(ctx context.Context, id, place string, c gate.Check, values map[string]string) error {
	in := entries.CheckAnswer{ID: base.NewID(), Key: c.Key, Value: values[c.Key]}
	switch c.Do {
	case "lock":
		return w.App.Lock(ctx, w.Who, place, base.NewID(), drivefile.Lock{Supply: c.Subject, Act: "on", Key: "17", Drive: id})
	case "attach":
		return w.App.Attach(ctx, w.Who, id, base.NewID(), "label.png", c.Subject, dot)
	case "test":
		if in.Value == "" {
			in.Value = stops.AsMust
		}
	case "choose":
		if in.Value == "" {
			in.Value = c.Options[0].Value
		}
		if i := slices.IndexFunc(c.Options, func(o gate.Option) bool { return o.Value == in.Value }); i >= 0 &&
			strings.HasPrefix(c.Options[i].Why, "Give the reason") {
			in.Reason = "a loose wire, from K1:S34 to S3:14, landed again"
		}
	case "measure":
		with, err := w.with(ctx, place, c.Role)
		if err != nil {
			return err
		}
		in.With = with
		if in.Value == "" && c.Key == "dead/wait/minutes" {
			in.Value = "10" // as the labels of the demo's drives say
		}
		if in.Value == "" {
			in.Value = Within(c)
		}
	}
	who := w.Who
	if strings.HasSuffix(c.Key, "/second/look") {
		who = w.Second
	}
	return w.App.AnswerCheck(ctx, who, id, in)
}

// with is the place's first instrument of a role, as it is written beside a reading; a meter finds out by itself what it measures.
func (w Walker) with(ctx context.Context, place, role string) (string, error) {
	places, err := w.App.Places(ctx)
	for _, p := range places {
		ids := slices.Sorted(maps.Keys(p.Place.Instruments))
		for _, id := range ids {
			switch m := p.Place.Instruments[id]; {
			case p.ID != place || role == "" || m.Role != role:
			case role == drivefile.RoleMeter:
				return m.Number + ", auto AC+DC", nil
			default:
				return m.Number, nil
			}
		}
	}
	return "", err
}

// Within is a reading that lies well in a check's band.
func Within(c gate.Check) string {
	switch {
	case c.Low != nil && c.High != nil:
		return fmt.Sprintf("%.4g", (*c.Low+*c.High)/2)
	case c.High != nil:
		return fmt.Sprint(math.Min(.4, *c.High/2))
	case c.Low != nil:
		return fmt.Sprintf("%.0f", *c.Low*1.5+1)
	}
	return "0"
}

// pass passes a gate of which nothing is open.
func (w Walker) pass(ctx context.Context, driveID, key string) error {
	v, err := w.App.Drive(ctx, w.Who, driveID)
	if err != nil {
		return err
	}
	for _, g := range v.State.Gates {
		if g.Key == key && g.Done == g.Total && g.Mark != "passed" {
			return w.App.Pass(ctx, w.Who, driveID, base.NewID(), key)
		}
	}
	return nil
}

// voltsOf is what a meter shows on a source that is on: near what it is.
func voltsOf(s isolation.Source) []string {
	nominal := 400.
	_, _ = fmt.Sscan(s.Volts, &nominal) // blank: 400
	near := func(share float64) string { return fmt.Sprintf("%.0f", nominal*share) }
	if s.Kind != "mains" {
		return []string{near(1.005)}
	}
	return []string{near(.995), near(1.0025), near(.9975)}
}

// Dead proves a drive dead and passes the gate, does the dead work of gates Power and Control where they are stated, and
// switches on again with the other person told.
func (w Walker) Dead(ctx context.Context, driveID, told string) error {
	if err := w.isolate(ctx, driveID); err != nil {
		return err
	}
	if err := w.App.Pass(ctx, w.Who, driveID, base.NewID(), "dead"); err != nil {
		return err
	}
	for _, g := range []string{"power", "control"} {
		if err := w.Gate(ctx, driveID, g, nil); err != nil {
			return err
		}
		if err := w.pass(ctx, driveID, g); err != nil {
			return err
		}
	}
	return w.backOn(ctx, driveID, told)
}

// isolate opens, locks, waits and measures, and records the drive DEAD.
func (w Walker) isolate(ctx context.Context, driveID string) error {
	v, err := w.App.Drive(ctx, w.Who, driveID)
	if err != nil {
		return err
	}
	locked := map[string]bool{}
	for _, s := range v.State.Sources { // a gate that was passed, and is on again, asks for no lock by itself
		if len(s.Locks) == 0 && !locked[s.Point] {
			if err := w.App.Lock(ctx, w.Who, v.Drive.Place, base.NewID(),
				drivefile.Lock{Supply: s.Point, Act: "on", Key: "17", Drive: driveID}); err != nil {
				return err
			}
			locked[s.Point] = true
		}
	}
	if err := w.Gate(ctx, driveID, "dead", nil); err != nil {
		return err
	}
	if err := w.App.ProveDead(ctx, w.Who, driveID); err != nil {
		return err
	}
	w.Tick(time.Minute)
	return nil
}

// lifted tells whether a test waits for its wire to be moved, dead.
func lifted(v base.View) bool {
	for _, g := range v.State.Gates {
		for _, c := range g.Checks {
			if g.Key == "stop" && strings.HasPrefix(c.Key, gate.TestPrefix) && c.Verdict == gate.NotDone && c.Do == "" {
				return v.State.Stop.Ready && v.State.Stop.Lift != ""
			}
		}
	}
	return false
}

// backOn looks over what comes before power, takes the locks off and records the supplies live, with the others told.
func (w Walker) backOn(ctx context.Context, driveID, told string) error {
	v, err := w.App.Drive(ctx, w.Who, driveID)
	if err != nil {
		return err
	}
	w.Tick(20 * time.Minute)
	for _, s := range v.State.Gates {
		for _, c := range s.Checks { // the list before power
			if strings.HasPrefix(c.Key, "wake/before/") && c.Verdict != gate.Holds {
				if err := w.App.Confirm(ctx, w.Who, driveID, base.NewID(), c.Key); err != nil {
					return err
				}
			}
		}
	}
	for _, s := range v.State.Sources {
		if err := w.App.Lock(ctx, w.Who, v.Drive.Place, base.NewID(), drivefile.Lock{Supply: s.Point, Act: "off"}); err != nil {
			return err
		}
	}
	for _, s := range v.State.Sources {
		if err := w.App.RecordEnergy(ctx, w.Who, v.Drive.Place, base.NewID(),
			drivefile.Energy{Supply: s.ID, State: drivefile.Live, Volts: voltsOf(s), Drive: driveID, Told: told}); err != nil {
			return err
		}
	}
	w.Tick(time.Minute)
	return nil
}
