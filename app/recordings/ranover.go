package recordings

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"

	"tingate/app/base"
	"tingate/app/benches"
	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/drivefile"
	"tingate/core/motion"
	"tingate/core/quantity"
	"tingate/formats/runfile"
	"tingate/formats/trace"
)

// ofRun marks attachments that are recorded runs of the machine.
const ofRun = "run"

// RunOver is a recorded run laid over a ride of the plan to the same speed, stopped after the same time.
type RunOver struct {
	Samples []ride.RideSample `json:"samples" doc:"thinned; time from its start on"`
	Ride    ride.Ride         `json:"ride" doc:"what it is held against"`
	Times   map[string]string `json:"times" doc:"rise, fall, top, peak, steady as recorded, in words"`
	Fields  map[string]string `json:"fields" doc:"the same for the fields of what was read of the machine, by path"`
	Likely  []string          `json:"likely" doc:"what explains the differences"`
	Notes   []string          `json:"notes" doc:"how it was recorded, as far as it matters"`
	Gaps    int               `json:"gaps" doc:"rows without figures"`
	Run     string            `json:"run" doc:"hash under which it is kept"`
}

// RunKept is a recorded run that is kept with a drive.
type RunKept struct {
	Run  string `json:"run" doc:"hash of the trace"`
	Name string `json:"name"`
	At   string `json:"at"`
	By   string `json:"by"`
}

// Runs are the recorded runs kept with a drive, newest first.
func (a *Recordings) Runs(ctx context.Context, driveID string) ([]RunKept, error) {
	list := []RunKept{}
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return list, err
	}
	for _, e := range slices.Backward(j.Entries) {
		if at, ok := drivefile.Contents[drivefile.Attachment](e); ok && at.Of == ofRun {
			list = append(list, RunKept{at.SHA256, at.Name, e.At, j.Place.People[e.By].Initials})
		}
	}
	return list, nil
}

// LayOver reads a recorded run, keeps it with the drive, and holds it against the plan's ride. c says which columns are which; id is the
// entry's.
func (a *Recordings) LayOver(
	ctx context.Context,
	who base.Actor,
	driveID, id, name string,
	raw []byte,
	c runfile.Columns,
) (RunOver, error) {
	_, _, f, err := a.benches.SpanSetup(ctx, driveID, benches.SpanTry{})
	if err != nil {
		return RunOver{}, err
	}
	c.Poles = f.Motor.Poles
	run, err := runfile.Read(raw, c)
	if err != nil {
		return RunOver{}, base.Bad("file", err.Error(), "a list of time and speed, with current if it was recorded")
	}
	if name == "" {
		name = "a file"
	}
	about := map[string]string{"recorded": "file " + name, "gaps": fmt.Sprint(run.Gaps)}
	kept, err := traceOf(run, f.Motor.Poles, about)
	if err != nil {
		return RunOver{}, err
	}
	if err := a.keepRun(ctx, who, driveID, id, name, kept); err != nil {
		return RunOver{}, err
	}
	return a.over(ctx, driveID, run, about, base.HashOf(kept))
}

// keepRun keeps a run's trace with a drive; one that is there is not kept twice.
func (a *Recordings) keepRun(ctx context.Context, who base.Actor, driveID, id, name string, kept []byte) error {
	have, err := a.Runs(ctx, driveID)
	if err != nil || slices.ContainsFunc(have, func(r RunKept) bool { return r.Run == base.HashOf(kept) }) {
		return err
	}
	if len(kept) > drivefile.MaxAttachment {
		return base.Bad("file", fmt.Sprint(len(kept), " bytes when packed"),
			fmt.Sprint("at most ", drivefile.MaxAttachment, " bytes (25 MB): leave out what is before and after the run"))
	}
	return a.AddAttachment(ctx, who, driveID, id, name, ofRun, traceType, kept)
}

// LayKept lays a run over that is kept with the drive.
func (a *Recordings) LayKept(ctx context.Context, driveID, sha string) (RunOver, error) {
	_, _, f, err := a.benches.SpanSetup(ctx, driveID, benches.SpanTry{})
	if err != nil {
		return RunOver{}, err
	}
	have, err := a.Runs(ctx, driveID)
	if err != nil {
		return RunOver{}, err
	}
	if !slices.ContainsFunc(have, func(r RunKept) bool { return r.Run == sha }) {
		return RunOver{}, base.Bad("run", sha, "a run that is kept with this drive")
	}
	_, raw, err := a.Attachment(ctx, sha)
	if err != nil {
		return RunOver{}, err
	}
	run, about, err := runOf(raw, f.Motor.Poles)
	if err != nil {
		return RunOver{}, err
	}
	if n, err := strconv.Atoi(about["gaps"]); err == nil { // those that were found when it was read first
		run.Gaps += n
	}
	return a.over(ctx, driveID, run, about, sha)
}

// traceOf is a run as it is kept: its speed in r/min, or the output frequency where that was recorded.
func traceOf(r motion.Recorded, poles int, about map[string]string) ([]byte, error) {
	first, k := trace.Column{Name: "speed", Unit: "r/min"}, 1.
	if r.Frequency {
		first, k = trace.Column{Name: "frequency", Unit: "Hz"}, float64(poles)/120
	}
	var out bytes.Buffer
	w, err := trace.NewWriter(&out,
		trace.Header{Columns: []trace.Column{first, {Name: "current", Unit: "A"}, {Name: "torque", Unit: "N·m"},
			{Name: "link", Unit: "V"}}, About: about})
	if err != nil {
		return nil, err
	}
	for i, t := range r.T {
		if err := w.Add(t, []float64{r.Speed[i] * k, r.Current[i], maybe(r.Torque, i), maybe(r.Link, i)}); err != nil {
			return nil, err
		}
	}
	err = w.Close()
	return out.Bytes(), err
}

func maybe(l []float64, i int) float64 {
	if i >= len(l) {
		return math.NaN()
	}
	return l[i]
}

// runOf reads a kept run back. poles turn Hz into r/min.
func runOf(raw []byte, poles int) (r motion.Recorded, about map[string]string, err error) {
	at := map[string]int{}
	var rows [][]float64
	h, err := trace.Read(bytes.NewReader(raw), func(t float64, values []float64) error {
		r.T = append(r.T, t)
		rows = append(rows, slices.Clone(values))
		return nil
	})
	if err != nil && len(rows) == 0 {
		return r, nil, base.Bad("run", err.Error(), "a kept trace")
	}
	for i, c := range h.Columns {
		at[c.Name] = i
	}
	column := func(name string) []float64 {
		i, ok := at[name]
		l := make([]float64, len(rows))
		for k := range rows {
			l[k] = math.NaN()
			if ok {
				l[k] = rows[k][i]
			}
		}
		return l
	}
	if _, ok := at["speed"]; ok {
		r.Speed = column("speed")
	} else {
		r.Speed, r.Frequency = column("frequency"), true
		for i := range r.Speed {
			r.Speed[i] *= 120 / math.Max(float64(poles), 2)
		}
	}
	r.Current, r.Torque, r.Link = column("current"), column("torque"), column("link")
	return r.Whole(), h.About, nil
}

// over holds a run against the ride of the plan that went to the same speed and was stopped after the same time.
func (a *Recordings) over(ctx context.Context, driveID string, run motion.Recorded, about map[string]string, sha string) (RunOver, error) {
	out := RunOver{Samples: []ride.RideSample{}, Times: map[string]string{}, Fields: map[string]string{}, Likely: []string{},
		Notes: []string{}, Run: sha, Gaps: run.Gaps}
	s, w, f, err := a.benches.SpanSetup(ctx, driveID, benches.SpanTry{})
	if err != nil {
		return out, err
	}
	if f.Missing != "" {
		return out, base.Refuse("The ride that it is laid over needs " + f.Missing + ". The run is kept.")
	}
	m, ok := run.Times()
	if !ok {
		return out, base.Bad("run", "nothing that comes to speed", "a start from standstill to a steady speed. What was recorded is kept")
	}
	r, start, p, err := against(s, w, run, m)
	if err != nil {
		return out, base.Refuse(err.Error())
	}
	out.Ride = r
	if about["recorded"] == "bench" {
		out.Notes = append(out.Notes, "From the bench, not from the machine: it proves nothing of the machine.")
	}
	if run.Frequency {
		out.Notes = append(out.Notes,
			"Recorded is the output frequency, drawn as its synchronous speed: the shaft turns slower by its slip.")
	}
	if w := about["ended"]; w != "" {
		out.Notes = append(out.Notes, w)
	}
	out.say(m, run.Frequency)
	if math.Abs(r.TopHz) < .92*bench.Upper(s) {
		clear(out.Fields) // those are of a run to the highest speed
		out.Notes = append(out.Notes,
			fmt.Sprintf("It went to %.4g r/min only, and is held against a ride to there. If the highest speed was asked for, the "+
				"reference's scaling is off.", m.Top))
	}
	out.Likely = append(out.Likely, m.Explain(p)...)
	out.Samples = samplesOf(run, m.Start-start) // the two begin to turn together
	return out, nil
}

// say puts a run's figures into words and into the fields of what was read.
func (o *RunOver) say(m motion.RunTimes, frequency bool) {
	for _, x := range []struct {
		name, unit, path string
		v                float64
	}{{"rise", "s", "ran.rise", m.Rise}, {"fall", "s", "ran.fall", m.Fall}, {"top", "r/min", "ran.top", m.Top},
		{"peak", "A", "ran.peak", m.Peak}, {"steady", "A", "ran.held", m.Steady}} {
		o.Times[x.name] = "not in it"
		if math.IsNaN(x.v) {
			continue
		}
		o.Times[x.name] = fmt.Sprintf("%.4g %s", x.v, x.unit)
		if x.name != "top" || !frequency { // a shaft's speed is not read off a frequency
			o.Fields[x.path] = quantity.Typed(x.v, 4) + " " + x.unit // read back as it stands
		}
	}
}

// against is the ride that a run is held against, when that begins to turn (s), and what it predicts, measured as the run was.
func against(
	s bench.Setup,
	w ride.Want,
	run motion.Recorded,
	m motion.RunTimes,
) (r ride.Ride, start float64, p motion.Predicted, err error) {
	rpm := 120 / math.Max(float64(s.Motor.Poles), 2)
	var x motion.RunTimes // of the ride, as the run counts it
	top := func() float64 {
		if run.Frequency {
			return math.Abs(r.TopHz) * rpm
		}
		return math.Abs(r.Top)
	}
	again := func() bool {
		if r, err = ride.Of(s, w); err != nil {
			return false
		}
		x, _ = benches.RecordedOf(r, run.Frequency, rpm).Times()
		return true
	}
	w.Hold = 1
	if !again() {
		return r, 0, p, err
	}
	if m.Top < .9*top() {
		w.Hz = math.Max(bench.Upper(s)-(top()-m.Top)/rpm, .5)
		if !again() {
			return r, 0, p, err
		}
	}
	// The two are stopped after the same time, so that one fall lies over the other.
	w.Hold = math.Min(600, math.Max(.05, w.Hold+m.Held-x.Held))
	if !again() {
		return r, 0, p, err
	}
	return r, x.Start, motion.Predicted{Top: top(), Rise: x.Rise, Fall: x.Fall, Peak: x.Peak, Steady: r.Steady, Overshoot: x.Overshoot,
		Limit: r.CurrentLimit, Highest: r.Highest, Upper: r.Upper}, nil
}

// samplesOf thins a run for a picture, from a time on.
func samplesOf(run motion.Recorded, from float64) []ride.RideSample {
	const most = 600
	out := []ride.RideSample{}
	every := max(1, (len(run.T)+most-1)/most)
	or0 := func(v float64) float64 {
		if math.IsNaN(v) {
			return 0
		}
		return v
	}
	for i := 0; i < len(run.T); i += every {
		if t := run.T[i] - from; t >= 0 {
			out = append(out, ride.RideSample{T: t, Speed: run.Speed[i], Current: or0(run.Current[i]), Torque: or0(maybe(run.Torque, i)),
				Link: or0(maybe(run.Link, i))})
		}
	}
	return out
}
