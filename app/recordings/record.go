package recordings

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"strconv"
	"strings"
	"sync"
	"time"

	"tingate/app/base"
	"tingate/app/links"
	"tingate/bench/ride"
	"tingate/core/dialect"
	"tingate/core/gate"
	"tingate/core/motion"
	"tingate/core/record"
	"tingate/link"
)

// How a run is recorded over the link.
const (
	recordEvery    = 40 * time.Millisecond // no quicker than this
	recordPatience = 10 * time.Second      // without an answer, before it is given up
	recordStands   = 2.                    // s for which the motor must stand again before it ends by itself
	recordMost     = 15 * 60.              // s
	recordLeast    = 10                    // moments, to be worth keeping
)

// Recording is a run that is being recorded over the link, or was.
type Recording struct {
	On      bool              `json:"on" doc:"it is being recorded"`
	T       float64           `json:"t" doc:"s since it began"`
	Figures []RecordedFigure  `json:"figures" doc:"as read last"`
	Rate    float64           `json:"rate" doc:"readings a second"`
	Missed  int               `json:"missed" doc:"readings that were not answered"`
	Turned  bool              `json:"turned" doc:"the motor has turned since it began"`
	Message string            `json:"message" doc:"how it ended"`
	Run     string            `json:"run" doc:"hash under which it is kept; empty before"`
	Samples []ride.RideSample `json:"samples" doc:"thinned, from when the motor began to turn"`
}

// RecordedFigure is one of the figures that the drive gives.
type RecordedFigure struct {
	What  string   `json:"what" enum:"speed,frequency,current,torque,link"`
	Unit  string   `json:"unit"`
	Value *float64 `json:"value" doc:"null: not answered"`
}

// recording is one that is under way, or the last of a drive.
type recording struct {
	mu     sync.Mutex
	shown  Recording
	run    motion.Recorded
	poles  int
	from   float64 // s at which the motor began to turn
	stood  float64 // s since when it stands again; NaN: it turns, or has not turned yet
	stop   context.CancelFunc
	failed error // of what was to be written
}

// head is the first line of a spool: whose run it is.
type head struct {
	Drive  string            `json:"drive"`
	Entry  string            `json:"entry"`
	Person string            `json:"person"`
	Device string            `json:"device"`
	Name   string            `json:"name"`
	What   []string          `json:"what"`
	Poles  int               `json:"poles"`
	About  map[string]string `json:"about"`
}

// RecordRun begins to record a run over the link: the drive's actual figures, read again and again until the motor has turned and stands
// again, or until it is stopped. It only reads; whoever runs the motor does so at the drive. from is the drive at its address (link) or its
// bench. What was read is on disk as it comes, and kept with the drive at the end.
func (a *Recordings) RecordRun(ctx context.Context, who base.Actor, driveID, id, from string) error {
	if err := base.ValidID("id", id); err != nil {
		return err
	}
	connect := a.links.Connect
	if from == record.OnBench {
		r := a.benches.RunningOf(driveID)
		if r == nil {
			return base.Refuse("There is no bench of this drive. Set it up first.")
		}
		connect = func(ctx context.Context, who base.Actor, driveID string) (links.Wired, error) {
			return a.links.ConnectTo(ctx, who, driveID, func(gate.Job) (string, uint8, error) { return r.Address, 1, nil })
		}
	}
	w, err := connect(ctx, who, driveID)
	if err != nil {
		return err
	}
	h := head{Drive: driveID, Entry: id, Person: who.Person, Device: who.Device, Poles: gate.FiguresOf(w.Job, w.State).Motor.Poles,
		About: map[string]string{"recorded": from, "family": w.Job.Family.Name + " " + w.Job.Family.Version, "program": a.Version,
			"began": a.Stamp()}}
	for i := range w.Job.Family.Link.Actuals {
		h.What = append(h.What, w.Job.Family.Link.Actuals[i].What)
	}
	h.Name = "run of " + a.Now().In(base.ZoneOf(w.Job.Place)).Format("2 Jan 15:04:05")
	var clock func() float64
	if b := a.benches.BenchAt(driveID, from, w.Job.Drive.Link.Address); b != nil {
		h.Name, h.About["recorded"], clock = "bench "+h.Name, record.OnBench, b.Time
	}
	line, _ := json.Marshal(h) // texts always marshal
	spool, err := a.Store.NewSpool(id)
	if err == nil {
		err = spool.Line(string(line))
	}
	if err != nil {
		w.Release()
		return err
	}
	run, stop := context.WithCancel(context.Background()) // it goes on when the browser does not
	r := &recording{shown: Recording{On: true}, poles: h.Poles, stood: math.NaN(), stop: stop}
	a.recordings.Store(driveID, r)
	go func() {
		defer stop()
		err := w.Conn.Watch(run, recordEvery, recordPatience, clock, func(m link.Moment) bool {
			return r.take(w.Job.Family, m, func(line string) error { return spool.Line(line) })
		})
		w.Release()
		err = errors.Join(spool.Close(), r.failed, err)
		r.end(a, h, err)
	}()
	return nil
}

// take takes a moment; false ends the recording.
func (r *recording) take(f *dialect.Family, m link.Moment, write func(string) error) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	s := &r.shown
	s.T = m.T
	if m.Missed {
		s.Missed++
	} else {
		if r.failed = write(spoolLine(m.T, m.Figures)); r.failed != nil {
			return false
		}
		what := make([]string, len(f.Link.Actuals))
		s.Figures = make([]RecordedFigure, len(what))
		for i := range what {
			what[i] = f.Link.Actuals[i].What
			s.Figures[i] = RecordedFigure{what[i], dialect.ActualUnits[what[i]][0], there(m.Figures, i)}
		}
		r.run = added(r.run, m.T, what, m.Figures, r.poles)
		switch {
		case !m.Standstill && !s.Turned:
			s.Turned, r.from, r.stood = true, m.T, math.NaN()
		case !m.Standstill:
			r.stood = math.NaN()
		case s.Turned && math.IsNaN(r.stood):
			r.stood = m.T
		}
	}
	if n := len(r.run.T); n > 1 && s.T > 0 {
		s.Rate = float64(n) / s.T
	}
	switch {
	case m.T-r.stood >= recordStands:
		s.Message = "The motor stands again."
	case m.T >= recordMost:
		s.Message = fmt.Sprintf("Ended after %.0f minutes.", recordMost/60)
	default:
		return true
	}
	return false
}

// added is a run with one more moment. Where there is no speed the output frequency stands for it.
func added(run motion.Recorded, t float64, what []string, figures []float64, poles int) motion.Recorded {
	speed, hz, current, torque, dc := math.NaN(), math.NaN(), math.NaN(), math.NaN(), math.NaN()
	to := map[string]*float64{"speed": &speed, "frequency": &hz, "current": &current, "torque": &torque, "link": &dc}
	run.Frequency = true
	for i, w := range what {
		*to[w] = figures[i]
		run.Frequency = run.Frequency && w != "speed"
	}
	if run.Frequency {
		speed = hz * 120 / math.Max(float64(poles), 2)
	}
	run.T, run.Speed, run.Current, run.Torque, run.Link = append(run.T, t), append(run.Speed, speed), append(run.Current, current),
		append(run.Torque, torque), append(run.Link, dc)
	return run
}

func spoolLine(t float64, figures []float64) string {
	cells := []string{strconv.FormatFloat(t, 'f', 4, 64)}
	for _, v := range figures {
		cells = append(cells, strconv.FormatFloat(v, 'g', 8, 64))
	}
	return strings.Join(cells, ",")
}

// spoolFigures are the time and the figures of a line; false when it is not whole.
func spoolFigures(line string, n int) ([]float64, bool) {
	cells := strings.Split(line, ",")
	if len(cells) != n+1 {
		return nil, false
	}
	out := make([]float64, len(cells))
	for i, c := range cells {
		v, err := strconv.ParseFloat(c, 64)
		if err != nil {
			return nil, false
		}
		out[i] = v
	}
	return out, true
}

// end keeps what was recorded and says so.
func (r *recording) end(a *Recordings, h head, err error) {
	r.mu.Lock()
	says := []string{r.shown.Message}
	r.mu.Unlock()
	if err != nil {
		says = append(says, err.Error())
		h.About["ended"] = err.Error()
	}
	sha, kerr := a.keepSpool(context.Background(), h)
	switch {
	case kerr != nil:
		says = append(says, "It is in the data folder, and not with the drive yet: "+kerr.Error())
	case sha == "":
		says = append(says, "Nothing was read that could be kept.")
	default:
		says = append(says, "Kept as "+h.Name+".")
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.shown.On, r.shown.Run, r.shown.Message = false, sha, strings.TrimSpace(strings.Join(says, " "))
}

// keepSpool makes a trace of what was received, keeps it with the drive, and drops the spool. Less than a few moments are not worth it.
func (a *Recordings) keepSpool(ctx context.Context, h head) (sha string, err error) {
	lines, err := a.Store.Spooled(h.Entry)
	if err != nil {
		return "", err
	}
	var run motion.Recorded
	broken := 0
	for _, l := range lines[min(1, len(lines)):] {
		figures, ok := spoolFigures(l, len(h.What))
		if !ok { // what a power cut leaves of a file
			broken++
			continue
		}
		run = added(run, figures[0], h.What, figures[1:], h.Poles)
	}
	if broken > 0 {
		h.About["gaps"] = strconv.Itoa(broken)
	}
	if len(run.T) >= recordLeast {
		kept, err := traceOf(run, h.Poles, h.About)
		if err != nil {
			return "", err
		}
		if err := a.keepRun(ctx, base.Actor{Person: h.Person, Device: h.Device}, h.Drive, h.Entry, h.Name, kept); err != nil {
			return "", err
		}
		sha = base.HashOf(kept)
	}
	return sha, a.Store.DropSpool(h.Entry)
}

// KeepReceived keeps the runs that were being recorded when the process was ended, as far as they came. What cannot be kept stays where it
// is.
func (a *Recordings) KeepReceived(ctx context.Context) error {
	spools, err := a.Store.Spools()
	for name, lines := range spools {
		var h head
		if len(lines) == 0 || json.Unmarshal([]byte(lines[0]), &h) != nil || h.Entry != name {
			err = errors.Join(err, a.Store.DropSpool(name)) // it ended before anything was read
			continue
		}
		h.About["ended"] = "Tin Gate was ended while this was recorded: it goes as far as it came."
		if _, kerr := a.keepSpool(ctx, h); kerr != nil {
			err = errors.Join(err, kerr)
			continue
		}
		slog.Info("a run that was being recorded is kept", "name", h.Name)
	}
	return err
}

// StopRecording ends a drive's recording; what was read is kept.
func (a *Recordings) StopRecording(driveID string) {
	if r := a.recordingOf(driveID); r != nil {
		r.stop()
	}
}

func (a *Recordings) recordingOf(driveID string) *recording {
	x, _ := a.recordings.Load(driveID)
	r, _ := x.(*recording)
	return r
}

// Recording shows a drive's recording that is under way, or how the last one ended.
func (a *Recordings) Recording(driveID string) Recording {
	r := a.recordingOf(driveID)
	if r == nil {
		return Recording{Figures: []RecordedFigure{}, Samples: []ride.RideSample{}}
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	s := r.shown
	if s.Figures == nil {
		s.Figures = []RecordedFigure{}
	}
	s.Samples = []ride.RideSample{}
	if s.Turned && s.On {
		s.Samples = samplesOf(r.run.Whole(), r.from)
	}
	return s
}
