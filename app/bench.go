package app

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"

	"tingate/bench"
	"tingate/core/gate"
	"tingate/core/translate"
)

// mostBenches run at a time: a bench costs a few percent of a core.
const mostBenches = 24

// benches are the simulated drives of this process, by the drive whose figures they have.
type benches struct {
	mu  sync.Mutex
	all map[string]*running
}

// deepBars is the height of such bars over the depth of their current, at rated frequency. Common practice: two to three.
const deepBars = 2.2

type running struct {
	bench   *bench.Bench
	stop    context.CancelFunc
	assumed []string
	address string
}

// BenchView is a drive's bench as a screen shows it.
type BenchView struct {
	There   bool         `json:"there"`
	Address string       `json:"address" doc:"where its registers answer Modbus TCP"`
	Assumed []string     `json:"assumed" doc:"what nobody has said, and the bench takes for granted"`
	Missing string       `json:"missing" doc:"what is needed before there can be a bench"`
	Faults  []BenchFault `json:"faults" doc:"what can be broken"`
	Bench   bench.Shown  `json:"bench"`
}

// BenchFault is something that can be broken.
type BenchFault struct {
	Key  string `json:"key"`
	Text string `json:"text"`
}

// BenchSetup is what a person chooses for a bench beside the job's own figures.
type BenchSetup struct {
	Seed     uint64   `json:"seed,omitempty" doc:"of the noise, and of what is broken in secret"`
	Inertia  *float64 `json:"load_inertia_kgm2,omitempty" doc:"at the motor's shaft"`
	Lines    float64  `json:"encoder_lines,omitempty" doc:"0: as the settings say, or 1024 where an encoder is wanted"`
	Backstop bool     `json:"backstop,omitempty" doc:"also where gate Turn says so"`
	ShaftHz  float64  `json:"shaft_hz,omitempty" doc:"at which motor and load swing against one another; 0: a stiff shaft"`
	DeepBars bool     `json:"deep_bars,omitempty" doc:"a rotor made to pull at standstill"`
	Delivery bool     `json:"delivery,omitempty" doc:"the settings as delivered instead of as planned"`
}

// SetUpBench builds a bench out of a drive's own figures, and starts it. One that was there is replaced.
func (a *App) SetUpBench(ctx context.Context, driveID string, in BenchSetup) (BenchView, error) {
	j, err := a.anyDrive(ctx, driveID)
	if err != nil {
		return BenchView{}, err
	}
	f := gate.FiguresOf(j, gate.Evaluate(j, a.now()))
	if f.Missing != "" {
		return BenchView{}, &RefusedError{"A bench needs " + f.Missing + "."}
	}
	if in.Inertia != nil {
		if !(*in.Inertia >= 0 && *in.Inertia < 1e6) {
			return BenchView{}, &InputError{"load_inertia_kgm2", fmt.Sprint(*in.Inertia), "0 to 1,000,000 kg·m²"}
		}
		f.LoadJ = *in.Inertia
		f.Assumed = slices.DeleteFunc(f.Assumed, func(t string) bool { return strings.HasPrefix(t, translate.InertiaAssumed) })
	}
	if in.Lines == 0 && j.Drive.Site.Encoder == "wanted" {
		in.Lines = 1024
	}
	s := setupOf(j, f)
	s.Lines, s.ShaftHz, s.Seed = in.Lines, in.ShaftHz, in.Seed
	s.Backstop = s.Backstop || in.Backstop
	if in.Delivery {
		s.Values = nil
	}
	if in.DeepBars {
		s.Bar = deepBars
	}
	b, err := bench.New(s)
	if err != nil {
		return BenchView{}, &RefusedError{err.Error()}
	}
	a.benches.mu.Lock()
	defer a.benches.mu.Unlock()
	if old := a.benches.all[driveID]; old != nil {
		old.end()
		delete(a.benches.all, driveID)
	}
	if len(a.benches.all) >= mostBenches {
		return BenchView{}, &RefusedError{fmt.Sprintf("%d benches run already. End one first.", mostBenches)}
	}
	if err := b.Stand.Serve("127.0.0.1:0"); err != nil {
		return BenchView{}, err
	}
	run, stop := context.WithCancel(context.Background())
	go b.Run(run)
	a.benches.all[driveID] = &running{b, stop, f.Assumed, b.Stand.Address()}
	return a.benches.all[driveID].view(-1), nil
}

// setupOf is a bench out of a job's own figures.
func setupOf(j gate.Job, f translate.Figures) bench.Setup {
	return bench.Setup{Family: j.Family, Size: f.Size, Values: f.Settings, Motor: f.Motor, Load: f.Load, LoadJ: f.LoadJ, Line: f.Line, LineHz: f.Hz, Single: f.Single, Magnet: f.Magnet, Backstop: f.Backstop, Brake: f.Brake, Process: f.Process, Own: f.Own, Linked: f.Linked}
}

func (r *running) end() {
	r.stop()
	_ = r.bench.Stand.Stop() // a server that is gone already is ended too
}

func (r *running) view(after float64) BenchView {
	return BenchView{There: true, Address: r.address, Assumed: r.assumed, Faults: benchFaults(), Bench: r.bench.Show(after)}
}

func benchFaults() []BenchFault {
	l := make([]BenchFault, 0, len(bench.Faults))
	for _, f := range bench.Faults {
		l = append(l, BenchFault{f.Key, f.Text})
	}
	return l
}

func (a *App) benchOf(driveID string) *running {
	a.benches.mu.Lock()
	defer a.benches.mu.Unlock()
	return a.benches.all[driveID]
}

// Bench shows a drive's bench, with samples newer than a time; or what it needs to be.
func (a *App) Bench(ctx context.Context, driveID string, after float64) (BenchView, error) {
	if r := a.benchOf(driveID); r != nil {
		return r.view(after), nil
	}
	rd := a.store.Read(ctx)
	doc, err := driveDoc(rd, driveID)
	if err != nil {
		return BenchView{}, err
	}
	j, _, err := a.job(rd, doc)
	if err != nil {
		return BenchView{}, err
	}
	f := gate.FiguresOf(j, gate.Evaluate(j, a.now()))
	return BenchView{Assumed: f.Assumed, Missing: f.Missing, Faults: benchFaults(), Bench: bench.Nothing()}, nil
}

// BenchDo does something to a drive's bench.
func (a *App) BenchDo(driveID string, act bench.Act) (BenchView, error) {
	r := a.benchOf(driveID)
	if r == nil {
		return BenchView{}, &RefusedError{"There is no bench of this drive. Set it up first."}
	}
	if act.Do == "hide" {
		if err := r.bench.Hide(uint64(act.N)); err != nil {
			return BenchView{}, badAct(err)
		}
		return r.view(math.Inf(1)), nil
	}
	if act.Do == "faster" && act.N != 0 {
		r.bench.Pace(act.N)
		return r.view(math.Inf(1)), nil
	}
	if act.Do == "faster" {
		if err := r.bench.SetFaster(act.Value); err != nil {
			return BenchView{}, badAct(err)
		}
		return r.view(math.Inf(1)), nil
	}
	if err := r.bench.Do(act); err != nil {
		return BenchView{}, badAct(err)
	}
	return r.view(math.Inf(1)), nil
}

func badAct(err error) error {
	if b, ok := err.(*bench.BadAct); ok {
		return &InputError{b.Field, b.Got, b.Want}
	}
	return err
}

// EndBench ends a drive's bench.
func (a *App) EndBench(driveID string) {
	a.benches.mu.Lock()
	defer a.benches.mu.Unlock()
	if r := a.benches.all[driveID]; r != nil {
		r.end()
		delete(a.benches.all, driveID)
	}
}
