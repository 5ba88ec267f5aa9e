package benches

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"

	"tingate/app/base"
	"tingate/bench"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/core/translate"
)

// mostBenches run at a time: a bench costs a few percent of a core.
const mostBenches = 24

// set is the simulated drives of this process, by the drive whose figures they have.
type set struct {
	mu  sync.Mutex
	all map[string]*Running
}

type Running struct {
	Bench   *bench.Bench
	stop    context.CancelFunc
	assumed []string
	Address string
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
	Key    string `json:"key"`
	Where  string `json:"where" enum:"mains,motor,shaft,signals"`
	Text   string `json:"text"`
	Shows  string `json:"shows" doc:"what the drive shows of it, where it does: the family's code and words"`
	Reads  string `json:"reads" doc:"what a technician reads or hears"`
	Mends  string `json:"mends" doc:"what mends it"`
	Cannot string `json:"cannot" doc:"why it cannot be on this machine; empty: it can"`
}

// BenchSetup is what a person chooses for a bench beside the job's own figures.
type BenchSetup struct {
	Seed     uint64   `json:"seed,omitempty" doc:"of the noise, and of what is broken in secret"`
	Inertia  *float64 `json:"load_inertia_kgm2,omitempty" doc:"at the motor's shaft"`
	Lines    float64  `json:"encoder_lines,omitempty" doc:"0: as its label says, or 1024, where an encoder is wanted"`
	Backstop bool     `json:"backstop,omitempty" doc:"also where gate Turn says so"`
	ShaftHz  float64  `json:"shaft_hz,omitempty" doc:"at which motor and load swing against one another; 0: a stiff shaft"`
	DeepBars bool     `json:"deep_bars,omitempty" doc:"a rotor made to pull at standstill"`
	Delivery bool     `json:"delivery,omitempty" doc:"the settings as delivered instead of as planned"`
}

// SetUpBench builds a bench out of a drive's own figures, and starts it. One that was there is replaced.
func (a *Benches) SetUpBench(ctx context.Context, driveID string, in BenchSetup) (BenchView, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return BenchView{}, err
	}
	f := gate.FiguresOf(j, gate.Evaluate(j, a.Now()))
	if f.Missing != "" {
		return BenchView{}, base.Refuse("A bench needs " + f.Missing + ".")
	}
	if in.Inertia != nil {
		if !(*in.Inertia >= 0 && *in.Inertia < 1e6) {
			return BenchView{}, base.Bad("load_inertia_kgm2", fmt.Sprint(*in.Inertia), "0 to 1,000,000 kg·m²")
		}
		f.LoadJ = *in.Inertia
		f.Assumed = slices.DeleteFunc(f.Assumed, func(t string) bool { return strings.HasPrefix(t, translate.InertiaAssumed) })
	}
	s := base.SetupOf(j, f)
	if in.Lines > 0 {
		s.Lines = in.Lines
	}
	s.ShaftHz, s.Seed = in.ShaftHz, in.Seed
	s.Backstop = s.Backstop || in.Backstop
	if in.Delivery {
		s.Values, s.Texts = nil, nil
	}
	if in.DeepBars {
		s.Bar = base.DeepBars
	}
	b, err := bench.New(s)
	if err != nil {
		return BenchView{}, base.Refuse(err.Error())
	}
	a.benches.mu.Lock()
	defer a.benches.mu.Unlock()
	if old := a.benches.all[driveID]; old != nil {
		old.end()
		delete(a.benches.all, driveID)
	}
	if len(a.benches.all) >= mostBenches {
		return BenchView{}, base.Refuse(fmt.Sprintf("%d benches run already. End one first.", mostBenches))
	}
	if err := b.Stand.Serve("127.0.0.1:0"); err != nil {
		return BenchView{}, err
	}
	run, stop := context.WithCancel(context.Background())
	go b.Run(run)
	a.benches.all[driveID] = &Running{b, stop, f.Assumed, b.Stand.Address()}
	return a.benches.all[driveID].view(-1), nil
}

func (r *Running) end() {
	r.stop()
	_ = r.Bench.Stand.Stop() // a server that is gone already is ended too
}

func (r *Running) view(after float64) BenchView {
	return BenchView{There: true, Address: r.Address, Assumed: r.assumed, Faults: benchFaults(r.Bench), Bench: r.Bench.Show(after)}
}

// benchFaults is what can be broken on a bench.
func benchFaults(b *bench.Bench) []BenchFault {
	l := make([]BenchFault, 0, len(bench.Faults))
	for _, f := range bench.Faults {
		x := BenchFault{Key: f.Key, Where: f.Where, Text: f.Text, Reads: f.Reads, Mends: f.Mends, Cannot: b.Cannot(f.Key)}
		if code, text := b.FaultWords(f.Fault); code != "" {
			x.Shows = code + " " + text
		}
		l = append(l, x)
	}
	return l
}

func (a *Benches) RunningOf(driveID string) *Running {
	a.benches.mu.Lock()
	defer a.benches.mu.Unlock()
	return a.benches.all[driveID]
}

// Bench shows a drive's bench, with samples newer than a time; or what it needs to be.
func (a *Benches) Bench(ctx context.Context, driveID string, after float64) (BenchView, error) {
	if r := a.RunningOf(driveID); r != nil {
		return r.view(after), nil
	}
	rd := a.Store.Read(ctx)
	doc, err := base.DriveDoc(rd, driveID)
	if err != nil {
		return BenchView{}, err
	}
	j, _, err := a.Job(rd, doc)
	if err != nil {
		return BenchView{}, err
	}
	f := gate.FiguresOf(j, gate.Evaluate(j, a.Now()))
	return BenchView{Assumed: f.Assumed, Missing: f.Missing, Faults: []BenchFault{}, Bench: bench.Nothing()}, nil
}

// BenchDo does something to a drive's bench.
func (a *Benches) BenchDo(driveID string, act bench.Act) (BenchView, error) {
	r := a.RunningOf(driveID)
	if r == nil {
		return BenchView{}, base.Refuse("There is no bench of this drive. Set it up first.")
	}
	if act.Do == "hide" {
		if err := r.Bench.Hide(uint64(act.N)); err != nil {
			return BenchView{}, badAct(err)
		}
		return r.view(math.Inf(1)), nil
	}
	if act.Do == "faster" && act.N != 0 {
		r.Bench.Pace(act.N)
		return r.view(math.Inf(1)), nil
	}
	if act.Do == "faster" {
		if err := r.Bench.SetFaster(act.Value); err != nil {
			return BenchView{}, badAct(err)
		}
		return r.view(math.Inf(1)), nil
	}
	if err := r.Bench.Do(act); err != nil {
		return BenchView{}, badAct(err)
	}
	return r.view(math.Inf(1)), nil
}

func badAct(err error) error {
	if b := (*bench.BadAct)(nil); errors.As(err, &b) {
		return base.Bad(b.Field, b.Got, b.Want)
	}
	return err
}

// EndBench ends a drive's bench.
func (a *Benches) EndBench(driveID string) {
	a.benches.mu.Lock()
	defer a.benches.mu.Unlock()
	if r := a.benches.all[driveID]; r != nil {
		r.end()
		delete(a.benches.all, driveID)
	}
}

// BenchAt is the bench of this process that is read: the drive's own, or whichever answers at its address; nil: a drive. A bench lives by a
// clock of its own, which may be hurried, and falls behind on a busy machine.
func (a *Benches) BenchAt(driveID, from, address string) *bench.Bench {
	a.benches.mu.Lock()
	defer a.benches.mu.Unlock()
	for id, r := range a.benches.all {
		if from == record.OnBench && id == driveID || from != record.OnBench && r.Address == address {
			return r.Bench
		}
	}
	return nil
}

// IsBench tells whether an address is that of a bench of this process.
func (a *Benches) IsBench(address string) bool { return a.BenchAt("", "", address) != nil }
