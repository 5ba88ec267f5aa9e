package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"sync"

	"tingate/core/circuit"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/stops"
	"tingate/core/translate"
	"tingate/paper"
	"tingate/store"
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
	job     gate.Job
	state   gate.State
	drawing *stops.Drawing
}

func (a *App) stopping(ctx context.Context, driveID string) (stopping, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return stopping{}, err
	}
	return stopping{j, a.evaluate(j), gate.StopDrawing(j)}, nil
}

// sound is stopping of a circuit that has a table.
func (a *App) sound(ctx context.Context, driveID string) (stopping, error) {
	s, err := a.stopping(ctx, driveID)
	switch {
	case err != nil:
		return s, err
	case s.drawing == nil:
		return s, &RefusedError{"Choose the drive's stop circuit first, and name its devices."}
	case !s.drawing.Sound():
		return s, &RefusedError{"The circuit cannot be tested as it is drawn: " + s.drawing.Faults[0].Error()}
	}
	return s, nil
}

// ownCircuit finds the imported circuit that takes the place of the drawn one; nil when there is none.
func ownCircuit(r store.Reader, d drivefile.Drive, p drivefile.Place) *stops.Circuit {
	c := p.Circuits[d.Stop.Circuit]
	if c.Own == "" {
		return nil
	}
	if have, ok := owned.Load(c.Own); ok {
		return have.(*stops.Circuit)
	}
	_, raw, err := r.Attachment(c.Own)
	if err != nil {
		return nil // a bundle without its papers: the drawn circuit stands in
	}
	x, err := readStopCircuit(raw)
	if err != nil {
		return nil
	}
	owned.Store(c.Own, &x)
	return &x
}

// neighbours are the other drives on a drive's stop circuit. A place whose circuits name no drives is not looked through.
func (a *App) neighbours(r store.Reader, doc store.Document, d drivefile.Drive, p drivefile.Place) (map[string]translate.Neighbour, error) {
	c := p.Circuits[d.Stop.Circuit]
	tags := map[string]bool{}
	for _, t := range strings.Split(c.Drives, ",") {
		if t = strings.ToLower(strings.TrimSpace(t)); t != "" && t != strings.ToLower(d.Tag) {
			tags[t] = true
		}
	}
	if len(tags) == 0 {
		return nil, nil
	}
	all, err := r.Documents(drivefile.KindDrive, doc.Place)
	if err != nil {
		return nil, err
	}
	out := map[string]translate.Neighbour{}
	for _, x := range all {
		var head struct {
			Tag string `json:"tag"`
		}
		if x.ID == doc.ID || json.Unmarshal(x.Body, &head) != nil || !tags[strings.ToLower(head.Tag)] {
			continue
		}
		n, err := drivefile.DecodeDrive(x.Body)
		if err != nil {
			return nil, err
		}
		f, _ := a.familyFor(n.Rating)
		out[strings.ToLower(n.Tag)] = translate.Neighbour{Drive: n, Family: f}
	}
	return out, nil
}

// owned are imported circuits by their hash; the bytes of one never change.
var owned sync.Map

func readStopCircuit(raw []byte) (stops.Circuit, error) {
	var x stops.Circuit
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&x); err != nil {
		return x, &InputError{"file", err.Error(), "a stop circuit as Tin Gate writes it: parts, wires, devices"}
	}
	if _, errs := stops.Compile(x); errs != nil {
		return x, &InputError{"file", errors.Join(errs...).Error(), "a circuit without faults"}
	}
	return x, nil
}

// Stop is a drive's stop circuit: drawn, with its table, what was shown, and where a fault can be.
func (a *App) Stop(ctx context.Context, driveID string) (StopView, error) {
	out := StopView{Circuit: circuit.Circuit{Parts: []circuit.Part{}, Wires: []circuit.Wire{}}, Parts: []StopPart{}, Rungs: []stops.Rung{}, Problems: []string{}, Tests: []StopTest{}, Words: map[string]string{}, Resets: []paper.StopReset{}}
	s, err := a.stopping(ctx, driveID)
	if err != nil || s.drawing == nil {
		return out, err
	}
	d := s.drawing
	c := s.job.Place.Circuits[s.job.Drive.Stop.Circuit]
	out.Hash, out.Name, out.Circuit = d.Hash, c.Name, d.Circuit.Circuit
	if _, own := translate.StopDrives(s.job.Drive, c); own >= 0 {
		out.Own = fmt.Sprintf("T%d", own+1)
	}
	for _, f := range d.Faults {
		out.Problems = append(out.Problems, f.Error())
	}
	if !d.Sound() {
		return out, nil
	}
	if s.job.Family != nil {
		out.Words = gate.StopWords(s.job.Family)
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
	out.Resets = stopResets(s, c)
	if s.state.Stop.Fails > 0 {
		shown, readings := gate.StopReadings(s.job, s.state, d)
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
	for _, t := range s.drawing.Table {
		c, chosen := checks[gate.TestPrefix+t.Key]
		x := StopTest{Test: t, Chosen: chosen, Verdict: c.Verdict, Value: c.Value, Detail: c.Detail, By: c.By, At: c.At, Shown: []stops.Seen{}}
		if c.Value != "" {
			shown, _ := s.drawing.ReadShown(t, c.Value)
			for _, v := range shown {
				x.Shown = append(x.Shown, v.Seen)
			}
		}
		l = append(l, x)
	}
	return l
}

// stopResets is the way back after torque was taken off: the circuit's reset first, then the drive's, then a fresh command.
func stopResets(s stopping, c drivefile.StopCircuit) []paper.StopReset {
	var l []paper.StopReset
	add := func(after, do, shows string) { l = append(l, paper.StopReset{After: after, Do: do, Shows: shows}) }
	const off, fault, inside = "torque off", "channel fault", "internal fault"
	words := map[string]string{}
	if s.job.Family != nil {
		words = gate.StopWords(s.job.Family)
	}
	add(off, "Find out why, from the device; nobody in the danger zone", "")
	add(off, "Put the device back", words["torque-off"])
	for _, id := range s.drawing.Of(stops.Button) {
		do := "Press and let go " + s.drawing.Name(id)
		if c.ResetAt != "" && id == "S0" {
			do += ", " + c.ResetAt
		}
		add(off, do+": never from inside the zone", "relay on")
	}
	if f := s.job.Family; f != nil {
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
	} else if !s.job.Drive.Stop.Alone {
		add(off, "Run off, and a fresh run command", "")
	}
	return l
}

// diagnose works a diagnosis out once for the same circuit and the same answers.
func (a *App) diagnose(d *stops.Drawing, shown []stops.Shown, readings []stops.Reading) (stops.Diagnosis, error) {
	raw, _ := json.Marshal([]any{d.Hash, shown, readings})
	key := hashOf(raw)
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

// StopWhy says of faults whose text has some words why each is out, or that it stays.
func (a *App) StopWhy(ctx context.Context, driveID, words string) ([]stops.Reason, error) {
	s, err := a.sound(ctx, driveID)
	if err != nil {
		return nil, err
	}
	l := strings.Fields(words)
	if len(l) == 0 {
		return []stops.Reason{}, nil
	}
	shown, readings := gate.StopReadings(s.job, s.state, s.drawing)
	return s.drawing.Why(s.drawing.Table, shown, readings, l, 12)
}

// PlayStop plays acts on a drive's circuit as it is drawn, with a fault if one is given, for the ladder and the timing diagram.
func (a *App) PlayStop(ctx context.Context, driveID string, events []stops.Event, until int, fault *circuit.Mistake) (stops.Timing, error) {
	s, err := a.sound(ctx, driveID)
	if err != nil {
		return stops.Timing{}, err
	}
	if until < 0 || until > 600_000 || len(events) > 500 {
		return stops.Timing{}, &InputError{"until_ms", fmt.Sprint(until), "0 to 600,000 ms, and at most 500 events"}
	}
	var faults []circuit.Mistake
	if fault != nil {
		faults = append(faults, *fault)
	}
	t, err := s.drawing.Timing(faults, events, until)
	var field *circuit.FieldError
	if errors.As(err, &field) {
		err = &InputError{field.Path, field.Got, field.Want}
	}
	return t, err
}

// PractiseStop is what a test would show on a drive's circuit with faults, as it would be answered: for practice and for the demo.
func (a *App) PractiseStop(ctx context.Context, driveID, test string, faults []circuit.Mistake) (string, error) {
	s, err := a.sound(ctx, driveID)
	if err != nil {
		return "", err
	}
	t, ok := s.drawing.Test(test)
	if !ok {
		return "", &InputError{"test", test, "a test of the table"}
	}
	return s.drawing.Answer(t, faults)
}

// StopPulses plays the test pulses of a drive's circuit, and tells what does not pass them over.
func (a *App) StopPulses(ctx context.Context, driveID string) (stops.Trained, error) {
	s, err := a.sound(ctx, driveID)
	if err != nil {
		return stops.Trained{}, err
	}
	return s.drawing.Trained(), nil
}

// SmallestSet is the smallest set of tests that still parts all single faults of a drive's circuit.
func (a *App) SmallestSet(ctx context.Context, driveID string) (stops.Smallest, error) {
	s, err := a.sound(ctx, driveID)
	if err != nil {
		return stops.Smallest{}, err
	}
	return s.drawing.Smallest(), nil
}

// StopJSON writes a drive's circuit, to be changed elsewhere and taken in again.
func (a *App) StopJSON(ctx context.Context, driveID string) ([]byte, error) {
	s, err := a.stopping(ctx, driveID)
	if err != nil {
		return nil, err
	}
	if s.drawing == nil {
		return nil, &RefusedError{"Choose the drive's stop circuit first."}
	}
	b, err := json.MarshalIndent(s.drawing.Circuit, "", "  ")
	return append(b, '\n'), err
}

// ImportStop takes a circuit in as JSON: it takes the place of the drawn one.
func (a *App) ImportStop(ctx context.Context, who Actor, driveID string, raw []byte) error {
	s, err := a.stopping(ctx, driveID)
	if err != nil {
		return err
	}
	id := s.job.Drive.Stop.Circuit
	if _, ok := s.job.Place.Circuits[id]; !ok {
		return &RefusedError{"Choose the drive's stop circuit first: the file takes the place of its drawing."}
	}
	x, err := readStopCircuit(raw)
	if err != nil {
		return err
	}
	_, own := translate.StopDrives(s.job.Drive, s.job.Place.Circuits[s.job.Drive.Stop.Circuit])
	if v := x.Devices[fmt.Sprintf("T%d", own+1)]; own >= 0 && v.Does != stops.DriveInputs {
		return &InputError{"file", "no drive " + fmt.Sprintf("T%d", own+1), "a circuit that ends at this drive"}
	}
	if err := a.attach(ctx, who, driveID, NewID(), "stop-circuit.json", "stop-circuit", "application/json", raw); err != nil {
		return err
	}
	return a.Change(ctx, who, s.job.Drive.Place, Edit{ID: NewID(), Edit: NewID(), Why: "stop circuit taken in", Sets: []Set{{Path: "circuits." + id + ".own", Text: hashOf(raw)}}})
}

// PairsJob is a search for two faults at once.
type PairsJob struct {
	Tried int          `json:"tried" doc:"pairs so far"`
	All   int          `json:"all" doc:"pairs in all; 0 while they are counted"`
	Done  bool         `json:"done" doc:"ended, or none was begun"`
	Pairs *stops.Pairs `json:"pairs,omitempty"`
	Error string       `json:"error,omitempty"`
}

// pairsRun is one under way.
type pairsRun struct {
	mu  sync.Mutex
	job PairsJob
	end bool
}

// StartPairs begins a search over two faults at once, for when no single one explains what was shown; a search under way is ended.
func (a *App) StartPairs(ctx context.Context, driveID string) (PairsJob, error) {
	s, err := a.sound(ctx, driveID)
	if err != nil {
		return PairsJob{}, err
	}
	shown, readings := gate.StopReadings(s.job, s.state, s.drawing)
	if len(shown) == 0 {
		return PairsJob{}, &RefusedError{"Nothing was shown yet: answer a test first."}
	}
	a.EndPairs(driveID)
	run := &pairsRun{}
	a.pairs.Store(driveID, run)
	go func() {
		found, err := s.drawing.DiagnosePairs(s.drawing.Table, shown, readings, func(tried, all int) bool {
			run.mu.Lock()
			defer run.mu.Unlock()
			if all > 0 {
				run.job.Tried, run.job.All = tried, all
			}
			return !run.end
		})
		run.mu.Lock()
		defer run.mu.Unlock()
		run.job.Tried, run.job.All = found.Tried, found.All
		run.job.Done, run.job.Pairs = true, &found
		if err != nil {
			run.job.Error = err.Error()
		}
	}()
	return a.PairsProgress(driveID), nil
}

// PairsProgress tells how far a search has come.
func (a *App) PairsProgress(driveID string) PairsJob {
	v, ok := a.pairs.Load(driveID)
	if !ok {
		return PairsJob{Done: true}
	}
	run := v.(*pairsRun)
	run.mu.Lock()
	defer run.mu.Unlock()
	return run.job
}

// EndPairs ends a search; what it found so far stays to be seen.
func (a *App) EndPairs(driveID string) {
	if v, ok := a.pairs.Load(driveID); ok {
		run := v.(*pairsRun)
		run.mu.Lock()
		defer run.mu.Unlock()
		run.end = true
	}
}

// testAnswer refuses an answer to a test that cannot be read: it would say nothing.
func testAnswer(j gate.Job, s gate.State, ev drivefile.Evidence) error {
	d := gate.StopDrawing(j)
	t, ok := d.Test(strings.TrimPrefix(ev.Key, gate.TestPrefix))
	if !ok || len(ev.Value) > 4000 {
		return &InputError{"value", ev.Value, "the answer to a test of the table"}
	}
	if t.Dead && s.Stop.Lift != "" {
		return &RefusedError{t.Title + ": " + s.Stop.Lift}
	}
	_, err := d.ReadShown(t, ev.Value)
	var field *circuit.FieldError
	if errors.As(err, &field) {
		return &InputError{field.Path, field.Got, field.Want}
	}
	return err
}
