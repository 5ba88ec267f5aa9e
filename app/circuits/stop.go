package circuits

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"tingate/app/base"
	"tingate/core/circuit"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/stops"
	"tingate/core/translate"
	"tingate/paper"
)

// StopPart is a part of a stop circuit that does something.
type StopPart struct {
	ID     string   `json:"id"`
	Name   string   `json:"name"`
	Does   string   `json:"does" enum:"hand,button,relay,safety-relay,drive,lamp,brake"`
	Kind   string   `json:"kind,omitempty"`
	Colour string   `json:"colour,omitempty"`
	Shows  []string `json:"shows" doc:"what it can show; of what is worked by hand nothing"`
}

// StopTest is a test of the table with what was shown.
type StopTest struct {
	stops.Test
	Chosen  bool         `json:"chosen" doc:"it belongs to the set that is done"`
	Verdict gate.Verdict `json:"verdict" enum:"holds,look-again,stops,not-done,waived,"`
	Value   string       `json:"value,omitempty"`
	Detail  string       `json:"detail,omitempty"`
	Shown   []stops.Seen `json:"shown" doc:"step by step, as far as was looked"`
	By      string       `json:"by,omitempty"`
	At      string       `json:"at,omitempty"`
}

// StopView is gate Stop of a drive.
type StopView struct {
	Hash      string            `json:"hash"`
	Name      string            `json:"name"`
	Own       string            `json:"own" doc:"the drive's part; empty of a circuit by itself"`
	Circuit   circuit.Circuit   `json:"circuit"`
	Parts     []StopPart        `json:"parts"`
	Rungs     []stops.Rung      `json:"rungs"`
	Problems  []string          `json:"problems"`
	Tests     []StopTest        `json:"tests"`
	Words     map[string]string `json:"words" doc:"states of the drive as its family shows them"`
	Resets    []paper.StopReset `json:"resets" doc:"both resets in their order"`
	Diagnosis *stops.Diagnosis  `json:"diagnosis,omitempty" doc:"when something was otherwise"`
	VoltsKey  string            `json:"volts_key,omitempty" doc:"of the voltage to be measured next"`
	OhmsKey   string            `json:"ohms_key,omitempty" doc:"of the resistance to be measured next"`
}

// stopping is what a drive's stop circuit needs to be looked at.
type stopping struct {
	Job     gate.Job
	state   gate.State
	Drawing *stops.Drawing
}

func (a *Circuits) stopping(ctx context.Context, driveID string) (stopping, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return stopping{}, err
	}
	return stopping{j, a.Evaluate(j), gate.StopDrawing(j)}, nil
}

// Sound is stopping of a circuit that has a table.
func (a *Circuits) Sound(ctx context.Context, driveID string) (stopping, error) {
	s, err := a.stopping(ctx, driveID)
	switch {
	case err != nil:
		return s, err
	case s.Drawing == nil:
		return s, base.Refuse("Choose the drive's stop circuit first, and name its devices.")
	case !s.Drawing.Sound():
		return s, base.Refuse("The circuit cannot be tested as it is drawn: " + s.Drawing.Faults[0].Error())
	}
	return s, nil
}

// Stop is a drive's stop circuit: drawn, with its table, what was shown, and where a fault can be.
func (a *Circuits) Stop(ctx context.Context, driveID string) (StopView, error) {
	out := StopView{Circuit: circuit.Circuit{Parts: []circuit.Part{}, Wires: []circuit.Wire{}}, Parts: []StopPart{}, Rungs: []stops.Rung{},
		Problems: []string{}, Tests: []StopTest{}, Words: map[string]string{}, Resets: []paper.StopReset{}}
	s, err := a.stopping(ctx, driveID)
	if err != nil || s.Drawing == nil {
		return out, err
	}
	d := s.Drawing
	c := s.Job.Place.Circuits[s.Job.Drive.Stop.Circuit]
	out.Hash, out.Name, out.Circuit = d.Hash, c.Name, d.Circuit.Circuit
	if _, own := translate.StopDrives(s.Job.Drive, c); own >= 0 {
		out.Own = fmt.Sprintf("T%d", own+1)
	}
	for _, f := range d.Faults {
		out.Problems = append(out.Problems, f.Error())
	}
	if !d.Sound() {
		return out, nil
	}
	if s.Job.Family != nil {
		out.Words = gate.StopWords(s.Job.Family)
	}
	if _, begun := a.prepared.LoadOrStore(d.Hash, true); !begun {
		go d.Prepare() // should a test fail, its answer is not waited for
	}
	out.Rungs = d.Ladder()
	for _, x := range d.Circuit.Parts {
		if v, ok := d.Devices[x.ID]; ok {
			p := StopPart{ID: x.ID, Name: x.Name, Does: v.Does, Kind: v.Kind, Colour: v.Colour, Shows: []string{}}
			if v.Does != stops.Hand && v.Does != stops.Button {
				p.Shows = d.Shows(x.ID)
			}
			out.Parts = append(out.Parts, p)
		}
	}
	out.Tests = stopTests(s)
	out.Resets = StopResets(s, c)
	if s.state.Stop.Fails > 0 {
		shown, readings := gate.StopReadings(s.Job, s.state, d)
		g, err := a.diagnose(d, shown, readings)
		if err != nil {
			return out, err
		}
		out.Diagnosis = &g
		if g.Measure != nil {
			out.VoltsKey = gate.VoltsKey(*g.Measure)
		}
		if g.Continuity != nil {
			out.OhmsKey = gate.OhmsKey(*g.Continuity)
		}
	}
	return out, nil
}

// stopTests lays what was answered beside the table.
func stopTests(s stopping) []StopTest {
	checks := map[string]gate.Check{}
	for _, g := range s.state.Gates {
		for _, c := range g.Checks {
			checks[c.Key] = c
		}
	}
	var l []StopTest
	for _, t := range s.Drawing.Table {
		c, chosen := checks[gate.TestPrefix+t.Key]
		x := StopTest{Test: t, Chosen: chosen, Verdict: c.Verdict, Value: c.Value, Detail: c.Detail, By: c.By, At: c.At,
			Shown: []stops.Seen{}}
		if c.Value != "" {
			shown, _ := s.Drawing.ReadShown(t, c.Value)
			for _, v := range shown {
				x.Shown = append(x.Shown, v.Seen)
			}
		}
		l = append(l, x)
	}
	return l
}

// StopResets is the way back after torque was taken off: the circuit's reset first, then the drive's, then a fresh command.
func StopResets(s stopping, c drivefile.StopCircuit) []paper.StopReset {
	var l []paper.StopReset
	add := func(after, do, shows string) { l = append(l, paper.StopReset{After: after, Do: do, Shows: shows}) }
	const off, fault, inside = "torque off", "channel fault", "internal fault"
	words := map[string]string{}
	if s.Job.Family != nil {
		words = gate.StopWords(s.Job.Family)
	}
	add(off, "Find out why, from the device; nobody in the danger zone", "")
	add(off, "Put the device back", words["torque-off"])
	for _, id := range s.Drawing.Of(stops.Button) {
		do := "Press and let go " + s.Drawing.Name(id)
		if c.ResetAt != "" && id == "S0" {
			do += ", " + c.ResetAt
		}
		add(off, do+": never from inside the zone", "relay on")
	}
	if f := s.Job.Family; f != nil {
		for _, step := range f.Recipes.TorqueOffReset {
			add(off, "At the drive: "+step.Do, step.Shows)
		}
		add(fault, "Mend the cause first: one channel, its wire, its contact", words["channel-fault"])
		for _, x := range f.Faults {
			if x.Family == "torque-off-channel" && x.Clears == "power-cycle" {
				add(fault, "Then power off and on: "+x.Code+" does not clear otherwise", words["ready"])
			}
		}
		if words["internal-fault"] != "" {
			add(inside, "No reset: the drive is replaced", words["internal-fault"])
		}
	} else if !s.Job.Drive.Stop.Alone {
		add(off, "Run off, and a fresh run command", "")
	}
	return l
}

// diagnose works a diagnosis out once for the same circuit and the same answers.
func (a *Circuits) diagnose(d *stops.Drawing, shown []stops.Shown, readings []stops.Reading) (stops.Diagnosis, error) {
	raw, _ := json.Marshal([]any{d.Hash, shown, readings})
	key := base.HashOf(raw)
	if v, ok := a.diagnoses.Load(key); ok {
		return v.(stops.Diagnosis), nil
	}
	g, err := d.Diagnose(d.Table, shown, readings, nil)
	if err == nil {
		a.diagnoses.Clear() // the last one is asked for again and again, older ones seldom
		a.diagnoses.Store(key, g)
	}
	return g, err
}

// TestAnswer refuses an answer to a test that cannot be read: it would say nothing.
func TestAnswer(j gate.Job, s gate.State, ev drivefile.Evidence) error {
	d := gate.StopDrawing(j)
	t, ok := d.Test(strings.TrimPrefix(ev.Key, gate.TestPrefix))
	if !ok || len(ev.Value) > 4000 {
		return base.Bad("value", ev.Value, "the answer to a test of the table")
	}
	if t.Dead && s.Stop.Lift != "" {
		return base.Refuse(t.Title + ": " + s.Stop.Lift)
	}
	_, err := d.ReadShown(t, ev.Value)
	var field *circuit.FieldError
	if errors.As(err, &field) {
		return base.Bad(field.Path, field.Got, field.Want)
	}
	return err
}
