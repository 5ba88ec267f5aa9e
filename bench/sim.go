// Package bench is one simulated drive with its motor and load: a family's settings put around the simulation of core/drive, its clock,
// what a hand can do to it, what can be wrong with it, and what it shows. It turns nothing, and is commanded by calls in this process only.
// stand is its registers on Modbus TCP; ride and prove are what is done with it: a run up and down, and all that a plan is there for.
package bench

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"tingate/bench/stand"
	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/machine"
	"tingate/core/motion"
)

// Setup is everything that a run of the bench starts from. With the same setup, seed and acts every run is the same, bit by bit.
type Setup struct {
	Family   *dialect.Family
	Size     dialect.Size
	Values   map[string]int64  // what the drive holds, by code; the rest as delivered
	Texts    map[string]string // the same of settings that hold a text
	Motor    machine.Plate     // the motor that is really there
	Load     motion.Load
	LoadJ    float64 // kg·m² at the motor's shaft
	RotorBy  float64 // the rotor's inertia over the usual one of its size; 0: as usual
	Line     float64 // V
	LineHz   float64
	Single   bool
	Lines    float64 // of the encoder; 0: none
	Backstop bool
	Own      bool // cooled by its own fan
	Magnet   bool // permanent magnets on its rotor
	Brake    drive.Brake
	Process  drive.Process // that the drive's own controller regulates
	ShaftHz  float64       // at which motor and load swing against one another; 0: a stiff shaft
	Bar      float64       // height of the rotor's bars over the depth of their current at the plate's frequency; 0: none deep
	// LeadsTurned and PairsTurned: as found, the motor's leads or the encoder's pairs are the other way round; a setting makes up for it.
	LeadsTurned bool
	PairsTurned bool
	Linked      string // how the motor is rightly linked; the wrong link is the other
	Seed        uint64
}

// Sample is the bench at one moment.
type Sample struct {
	Time      float64 `json:"t"`
	Speed     float64 `json:"speed" doc:"r/min of the shaft"`
	Hz        float64 `json:"hz"`
	Current   float64 `json:"current"`
	Torque    float64 `json:"torque"`
	Link      float64 `json:"link" doc:"V"`
	Reference float64 `json:"reference" doc:"Hz that the ramp stands at"`
}

// sampleEvery is the time between samples kept, s: 20 a second.
const sampleEvery = 50

// keep is how many samples stay in memory: ten minutes.
const keep = 20 * 600

// Bench is one simulated drive with its motor and load. It is commanded by calls in this process only.
type Bench struct {
	Stand *stand.Drive // its registers
	Setup Setup

	mu      sync.Mutex
	sim     drive.Drive
	in      drive.Inputs
	tick    int64
	faster  float64
	noise   [3]*rand.Rand
	pending []Act
	acts    []Act // all that was done, for a replay
	samples []Sample
	hidden  map[string]bool // broken, and not to be told
	broken  map[string]bool
	lost    bool // the figures left all bounds
	tune    *tuning
	bump    bump
	settled int64 // tick from which on a terminal may be worked again
	bounce  bounce
	dips    int64 // tick at which the mains comes back from a dip; 0: there is none
	armed   *arming
	// rightPlate is the motor's current as it was entered, while another is in the drive; 0: it is the right one.
	rightPlate int64
	// stopFirst: a tune has ended, and this family runs again only after its stop key.
	stopFirst bool
}

// New builds a bench, switched off, torque-off channels closed.
func New(s Setup) (*Bench, error) {
	var p drive.Plant
	if s.Magnet {
		m, ok := machine.MagnetOf(s.Motor)
		if !ok {
			return nil, fmt.Errorf("motor: got a row that no machine with magnets has, want its current, and a speed that is " +
				"synchronous: see gate Plate")
		}
		p = drive.NewMagnetPlant(m, s.Motor)
	} else if e, ok := machine.Make(s.Motor); ok {
		sync := 120 * s.Motor.Frequency / float64(s.Motor.Poles)
		p = drive.NewPlant(e.Circuit, s.Motor.Voltage, (sync-s.Motor.Speed)/sync)
	} else {
		return nil, fmt.Errorf("motor: got slip, efficiency and cos φ of no machine, want a plate that fits itself: see gate Plate")
	}
	if !(s.ShaftHz >= 0 && s.ShaftHz <= drive.Swing) {
		return nil, fmt.Errorf("shaft: got %g Hz, want 0 to %d Hz: a quicker swing than a step can follow is as good as stiff", s.ShaftHz,
			drive.Swing)
	}
	if !(s.Bar >= 0 && s.Bar <= 10) {
		return nil, fmt.Errorf("bars: got a height of %g, want 0 to 10 times the depth of their current", s.Bar)
	}
	b := &Bench{Stand: stand.New(s.Family), Setup: s, faster: 1, broken: map[string]bool{}, hidden: map[string]bool{}}
	b.quiet()
	b.Stand.Rating = s.Size.Code
	for i := range s.Family.Settings {
		set := &s.Family.Settings[i]
		if v, ok := s.Values[set.Code]; ok && set.Register != 0 && set.Inside(v) && set.Kind != "text" {
			b.Stand.Put(set, dialect.Held{Steps: v})
		}
		if text := s.Texts[set.Code]; text != "" && set.Register != 0 {
			b.Stand.Put(set, dialect.Held{Steps: dialect.TextSteps(text), Text: text})
		}
	}
	if s.RotorBy > 0 {
		p.Inertia *= s.RotorBy
	}
	p.Line, p.Hz, p.Single = s.Line, s.LineHz, s.Single
	p.Link = drive.UsualLink(math.Max(s.Size.Heavy, 1), s.Line, s.Single)
	p.Load, p.LoadJ, p.Lines, p.Backstop = s.Load, s.LoadJ, s.Lines, s.Backstop
	p.Thermal.Own = s.Own
	p.Process = s.Process
	p.Brake, p.Shaft, p.Bar = s.Brake, drive.ShaftFor(s.ShaftHz, p.Inertia, s.LoadJ), s.Bar
	b.sim.P = p
	b.entered()
	b.in = drive.Inputs{A: true, B: true, KeyHz: b.sim.C.Hand}
	if b.in.KeyHz == 0 {
		b.in.KeyHz = 10
	}
	b.in.Net = drive.Telegram{Alive: true, Hz: b.in.KeyHz}
	b.CloseLinks()
	b.sim.Start()
	b.breaks()
	b.Stand.SetRunning(false)
	return b, nil
}

// quiet begins the noise anew, as the seed gives it.
func (b *Bench) quiet() {
	for i := range b.noise {
		b.noise[i] = rand.New(rand.NewPCG(b.Setup.Seed, 0x62656e63+uint64(i)))
	}
}

// CloseLinks closes the inputs that a factory link holds closed.
func (b *Bench) CloseLinks() {
	for n, t := range DigitalIns(b.Setup.Family) {
		if len(t.Links) > 0 {
			b.in.Terminals |= 1 << n
		}
	}
}

// DigitalIns are a family's digital inputs, in the order of their bits, as many as a drive on a bench has.
func DigitalIns(f *dialect.Family) (l []dialect.Terminal) {
	for _, t := range f.Terminals {
		if t.Kind == "digital-in" && len(l) < drive.MaxInputs {
			l = append(l, t)
		}
	}
	return l
}

// entered makes of the settings what the drive is.
func (b *Bench) entered() {
	values := b.Stand.Values()
	b.sim.C = Configure(b.Setup.Family, values, b.Setup.Size)
	b.sim.P.Link.Chopper, b.sim.P.ResistorPower = Resistor(b.Setup.Family, values)
	if _, chosen := b.Setup.Family.Driven(values)["motor-kind"]; !chosen && b.Setup.Magnet { // such a family goes by the plate
		magnets(&b.sim.C)
	}
}

// configure takes the settings anew.
func (b *Bench) configure() {
	b.entered()
	b.sim.Reload()
}

// Advance runs some ticks. What was done meanwhile acts first; what the link wrote acts as settings.
func (b *Bench) Advance(ticks int) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.advance(ticks)
}

func (b *Bench) advance(ticks int) {
	if b.Stand.TakeWritten() {
		b.configure()
	}
	for range ticks {
		if b.lost {
			return // said by Show; set up anew
		}
		if len(b.pending) > 0 && !b.settles(b.pending[0]) { // one a tick: what is let go and taken again is seen let go
			a := b.pending[0]
			a.Tick = b.tick
			b.acts = append(b.acts, a)
			b.pending = b.pending[:copy(b.pending, b.pending[1:])]
			b.act(a)
		}
		if b.bump.until != 0 {
			b.endBump()
		}
		if b.bounce.until != 0 {
			b.bounces()
		}
		if b.dips != 0 && b.tick >= b.dips {
			b.in.Line, b.dips = true, 0
		}
		b.late()
		for i := range b.noise {
			b.in.Noise[i] = b.noise[i].NormFloat64()
		}
		if b.tune != nil && b.tune.shown.Running {
			b.tuneTick()
		} else if b.stopFirst {
			deaf := b.in
			deaf.KeyRun, deaf.Terminals = false, 0
			b.sim.Step(&deaf)
			b.sim.Blocked = "stop-first"
		} else {
			b.sim.Step(&b.in)
		}
		if b.sim.Diverged() {
			b.lost = true
			return
		}
		b.in.KeyRun, b.in.KeyStop, b.in.KeyBack, b.in.Reset = false, false, false, false
		if b.tick++; b.tick%sampleEvery == 0 {
			b.sample()
		}
	}
	b.Stand.SetRunning(b.sim.Running || b.sim.Phase == drive.Magnetised || math.Abs(b.sim.Speed) > 3)
	b.Stand.SetChannels(b.in.A, b.in.B)
	d := &b.sim
	b.Stand.SetFigures(stand.Figures{Speed: d.Speed, Frequency: d.Hz, Current: d.Current, Torque: d.Torque, Link: d.Link})
}

func (b *Bench) sample() {
	if len(b.samples) == keep {
		b.samples = append(b.samples[:0], b.samples[keep/10:]...)
	}
	d := &b.sim
	b.samples = append(b.samples, Sample{d.Time, d.Speed, d.Hz, d.Current, d.Torque, d.Link, d.Ramp()})
}

// Replay does a run again: the acts at their ticks, so many ticks in all.
func Replay(s Setup, acts []Act, ticks int64) (*Bench, error) {
	b, err := New(s)
	if err != nil {
		return nil, err
	}
	for i := 0; b.tick < ticks; {
		next := ticks
		for ; i < len(acts) && acts[i].Tick <= b.tick; i++ {
			b.pending = append(b.pending, acts[i])
		}
		if i < len(acts) && acts[i].Tick < next {
			next = acts[i].Tick
		}
		b.advance(int(max(1, next-b.tick)))
	}
	return b, nil
}

// Acts is all that was done so far, and the tick at which the bench stands.
func (b *Bench) Acts() ([]Act, int64) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return slices.Clone(b.acts), b.tick
}

// SetFaster sets how fast time goes: 1 real time, at most 100.
func (b *Bench) SetFaster(x float64) error {
	if !(x >= .1 && x <= 100) {
		return &BadAct{"faster", fmt.Sprint(x), "0.1 to 100"}
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	b.faster = x
	return nil
}

// Time is the bench's own clock, s since it was set up: hurried with its pace, and behind on a busy machine.
func (b *Bench) Time() float64 {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.sim.Time
}

// Pace doubles the speed of time, or halves it, so many times; it stays within its bounds.
func (b *Bench) Pace(doublings int) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.faster = math.Max(.125, math.Min(64, b.faster*math.Pow(2, math.Max(-20, math.Min(20, float64(doublings))))))
}

// Run follows the clock until ctx ends.
func (b *Bench) Run(ctx context.Context) {
	const beat = 20 * time.Millisecond
	t := time.NewTicker(beat)
	defer t.Stop()
	owed := 0.0
	last := time.Now()
	for {
		select {
		case <-ctx.Done():
			return
		case now := <-t.C:
			b.mu.Lock()
			owed += math.Min(now.Sub(last).Seconds(), .25) * b.faster / drive.Tick
			last = now
			n := int(owed)
			owed -= float64(n)
			b.advance(n)
			b.mu.Unlock()
		}
	}
}
