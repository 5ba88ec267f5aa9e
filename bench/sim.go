package bench

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/core/tune"
)

// Setup is everything that a run of the bench starts from. With the same setup, seed and acts every run is the same, bit by bit.
type Setup struct {
	Family   *dialect.Family
	Size     dialect.Size
	Values   map[string]int64 // what the drive holds, by code; the rest as delivered
	Motor    machine.Plate    // the motor that is really there
	Load     motion.Load
	LoadJ    float64 // kg·m² at the motor's shaft
	Line     float64 // V
	LineHz   float64
	Single   bool
	Lines    float64 // of the encoder; 0: none
	Backstop bool
	Own      bool // cooled by its own fan
	Magnet   bool // permanent magnets on its rotor
	Brake    drive.Brake
	ShaftHz  float64 // at which motor and load swing against one another; 0: a stiff shaft
	Bar      float64 // height of the rotor's bars over the depth of their current at the plate's frequency; 0: none deep
	Linked   string  // how the motor is rightly linked; the wrong link is the other
	Seed     uint64
}

// Act is one thing done to the bench, stamped with the tick at which it acts.
type Act struct {
	Tick  int64   `json:"tick,omitempty"`
	Do    string  `json:"do" enum:"run,stop,reverse,bump,swap,brake,reset,hand,speed,terminal,channel,analog,line,break,setting,couple,tune,hide,faster" doc:"what is done"`
	N     int     `json:"n,omitempty" doc:"terminal 1 and up; channel 1, 2 or 3 for both; seed of what is hidden; how often time is made twice as fast"`
	On    bool    `json:"on,omitempty"`
	Value float64 `json:"value,omitempty" doc:"speed in Hz, of a bump too; analog in V or mA"`
	What  string  `json:"what,omitempty" doc:"what is broken; code of a setting; kind of a tune; leads or pairs to be swapped"`
}

// Faults that a bench can have, with their words.
var Faults = []struct{ Key, Text string }{
	{"leads-swapped", "two motor leads swapped"}, {"wrong-link", "motor linked for the other voltage"}, {"encoder-swapped", "encoder A and B swapped"}, {"encoder-dead", "encoder silent"},
	{"encoder-lines", "encoder with twice the lines"}, {"phase-lost", "one phase of the mains lost"}, {"fan-dead", "the drive's fan stands"}, {"long-cable", "much longer motor cable"},
	{"supply-swapped", "two supply leads swapped"}, {"jammed", "load jammed"}, {"loose", "coupling loose"}, {"reference-off", "reference wire off"}, {"reference-moved", "reference wire on the potentiometer's supply"}, {"wrong-plate", "another motor's current in the drive"}, {"channel-stuck", "torque-off channel B does not open"}, {"noise", "noise on every signal"},
}

// swaps are what a hand can change over at the bench, whether it was right before or not.
var swaps = map[string]string{"leads": "leads-swapped", "pairs": "encoder-swapped"}

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
	Stand *Drive // its registers
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
	armed   *arming
	// rightPlate is the motor's current as it was entered, while another is in the drive; 0: it is the right one.
	rightPlate int64
	// stopFirst: a tune has ended, and this family runs again only after its stop key.
	stopFirst bool
}

// bumpSeconds is how long a first turn on the bench is run.
const bumpSeconds = 2

// bump is a short run from the keypad that ends by itself; what stood before comes back.
type bump struct {
	until int64 // tick; 0: none
	hand  bool
	hz    float64
}

// NewBench builds a bench, switched off, torque-off channels closed.
func NewBench(s Setup) (*Bench, error) {
	var p drive.Plant
	if s.Magnet {
		m, ok := machine.MagnetOf(s.Motor)
		if !ok {
			return nil, fmt.Errorf("motor: got a row that no machine with magnets has, want its current, and a speed that is synchronous: see gate Plate")
		}
		p = drive.NewMagnetPlant(m, s.Motor)
	} else if e, ok := machine.Make(s.Motor); ok {
		sync := 120 * s.Motor.Frequency / float64(s.Motor.Poles)
		p = drive.NewPlant(e.Circuit, s.Motor.Voltage, (sync-s.Motor.Speed)/sync)
	} else {
		return nil, fmt.Errorf("motor: got slip, efficiency and cos φ of no machine, want a plate that fits itself: see gate Plate")
	}
	if !(s.ShaftHz >= 0 && s.ShaftHz <= drive.Swing) {
		return nil, fmt.Errorf("shaft: got %g Hz, want 0 to %d Hz: a quicker swing than a step can follow is as good as stiff", s.ShaftHz, drive.Swing)
	}
	if !(s.Bar >= 0 && s.Bar <= 10) {
		return nil, fmt.Errorf("bars: got a height of %g, want 0 to 10 times the depth of their current", s.Bar)
	}
	b := &Bench{Stand: New(s.Family), Setup: s, faster: 1, broken: map[string]bool{}, hidden: map[string]bool{}}
	for i := range b.noise {
		b.noise[i] = rand.New(rand.NewPCG(s.Seed, 0x62656e63+uint64(i)))
	}
	b.Stand.Rating = s.Size.Code
	for i := range s.Family.Settings {
		set := &s.Family.Settings[i]
		if v, ok := s.Values[set.Code]; ok && set.Register != 0 && set.Inside(v) && set.Kind != "text" {
			b.Stand.put(set, dialect.Held{Steps: v})
		}
	}
	p.Line, p.Hz, p.Single = s.Line, s.LineHz, s.Single
	p.Link = drive.UsualLink(math.Max(s.Size.Heavy, 1), s.Line, s.Single)
	p.Load, p.LoadJ, p.Lines, p.Backstop = s.Load, s.LoadJ, s.Lines, s.Backstop
	p.Thermal.Own = s.Own
	p.Brake, p.Shaft, p.Bar = s.Brake, drive.ShaftFor(s.ShaftHz, p.Inertia, s.LoadJ), s.Bar
	b.sim.P = p
	b.entered()
	b.in = drive.Inputs{A: true, B: true, KeyHz: b.sim.C.Hand}
	if b.in.KeyHz == 0 {
		b.in.KeyHz = 10
	}
	b.linked()
	b.sim.Start()
	b.Stand.SetRunning(false)
	return b, nil
}

// linked closes the inputs that a factory link holds closed.
func (b *Bench) linked() {
	n := 0
	for _, t := range b.Setup.Family.Terminals {
		if t.Kind != "digital-in" {
			continue
		}
		if len(t.Links) > 0 {
			b.in.Terminals |= 1 << n
		}
		n++
	}
}

// values are all settings in steps.
func (d *Drive) values() map[string]int64 {
	d.mu.Lock()
	defer d.mu.Unlock()
	out := make(map[string]int64, len(d.byReg))
	for _, s := range d.byReg {
		out[s.Code] = d.get(s).Steps
	}
	return out
}

// Do takes an act; it acts at the next tick. An act that makes no sense is refused, with what would.
func (b *Bench) Do(a Act) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	if err := b.check(&a); err != nil {
		return err
	}
	a.Tick = b.tick
	b.pending = append(b.pending, a)
	return nil
}

// BadAct names what of an act cannot be.
type BadAct struct{ Field, Got, Want string }

func (e *BadAct) Error() string { return fmt.Sprintf("%s: got %s, want %s", e.Field, e.Got, e.Want) }

func (b *Bench) check(a *Act) error {
	switch a.Do {
	case "run", "stop", "reverse", "reset", "hand", "line", "couple", "brake":
	case "terminal":
		if a.N < 1 || a.N > b.inputs() {
			return &BadAct{"n", fmt.Sprint(a.N), fmt.Sprintf("a terminal of 1 to %d", b.inputs())}
		}
	case "channel":
		if a.N < 1 || a.N > 3 {
			return &BadAct{"n", fmt.Sprint(a.N), "channel 1 or 2, or 3 for both"}
		}
	case "tune":
		if !slices.Contains([]string{string(tune.Short), string(tune.Standstill), string(tune.Rotating), string(tune.Coupled), string(tune.Mechanical)}, a.What) {
			return &BadAct{"what", a.What, "standstill-short, standstill, rotating, rotating-coupled or mechanical"}
		}
		if b.tune != nil && b.tune.shown.Running {
			return &BadAct{"do", "tune", "the end of the one that runs"}
		}
	case "speed", "bump":
		if !(a.Value >= 0 && a.Value <= 1000) {
			return &BadAct{"value", fmt.Sprint(a.Value), "0 to 1000 Hz"}
		}
	case "analog":
		if !(a.Value >= -20 && a.Value <= 25) {
			return &BadAct{"value", fmt.Sprint(a.Value), "-20 to 25 V or mA"}
		}
	case "swap":
		if swaps[a.What] == "" {
			return &BadAct{"what", a.What, "leads or pairs"}
		}
	case "break":
		if !slices.ContainsFunc(Faults, func(f struct{ Key, Text string }) bool { return f.Key == a.What }) {
			return &BadAct{"what", a.What, "one of the faults of the list"}
		}
	case "setting":
		s, ok := b.Setup.Family.Setting(a.What)
		if !ok || s.Register == 0 {
			return &BadAct{"what", a.What, "a setting of " + b.Setup.Family.Name}
		}
		if !s.Inside(int64(a.Value)) {
			return &BadAct{"value", fmt.Sprint(a.Value), s.Span()}
		}
	default:
		return &BadAct{"do", a.Do, "run, stop, reverse, bump, swap, brake, reset, hand, speed, terminal, channel, analog, line, break, setting or couple"}
	}
	return nil
}

// inputs is how many digital inputs the family has.
func (b *Bench) inputs() int {
	n := 0
	for _, t := range b.Setup.Family.Terminals {
		if t.Kind == "digital-in" {
			n++
		}
	}
	return n
}

// act does one act. Keys last one tick.
func (b *Bench) act(a Act) {
	switch a.Do {
	case "run":
		if a := b.armed; a != nil {
			b.armed = nil
			b.startTune(KindOf(a.recipe.Kind))
			return
		}
		b.in.KeyRun, b.in.KeyBack = true, false
	case "reverse":
		b.in.KeyRun, b.in.KeyBack = true, true
	case "bump":
		if b.bump.until == 0 {
			b.bump = bump{b.tick + int64(bumpSeconds/drive.Tick), b.in.Hand, b.in.KeyHz}
		}
		b.in.Hand, b.in.KeyHz, b.in.KeyRun, b.in.KeyBack = true, a.Value, true, false
	case "stop":
		b.in.KeyStop, b.stopFirst, b.armed = true, false, nil
		if a.On { // everything that asks for a run is let go
			b.in.Terminals = 0
			b.linked()
		}
	case "reset":
		b.in.Reset = true
	case "hand":
		b.in.Hand = a.On
	case "speed":
		b.in.KeyHz = a.Value
	case "terminal":
		bit := uint16(1) << (a.N - 1)
		b.in.Terminals &^= bit
		if a.On {
			b.in.Terminals |= bit
		}
	case "channel":
		if a.N != 2 {
			b.in.A = a.On
		}
		if a.N != 1 {
			b.in.B = a.On
		}
	case "analog":
		b.in.Analog = a.Value
	case "line":
		b.in.Line = a.On
	case "brake":
		b.sim.P.Brake.Lifted = a.On
	case "couple":
		b.sim.P.Coupled = a.On
		b.sim.Reload()
	case "break":
		b.breakIt(a.What, a.On)
	case "swap":
		b.breakIt(swaps[a.What], !b.broken[swaps[a.What]])
	case "tune":
		b.startTune(a.What)
	case "setting":
		if s, ok := b.Setup.Family.Setting(a.What); ok {
			b.Stand.mu.Lock()
			b.Stand.voidTune(s)
			was := b.Stand.get(s).Steps
			b.Stand.put(s, dialect.Held{Steps: int64(a.Value)})
			b.Stand.mu.Unlock()
			b.arm(s.Code, int64(a.Value), was)
		}
		b.configure()
	}
}

func (b *Bench) breakIt(what string, on bool) {
	if on {
		b.broken[what] = true
	} else {
		delete(b.broken, what)
		delete(b.hidden, what)
	}
	x := &b.sim.P.Broken
	*x = drive.Broken{LeadsSwapped: b.broken["leads-swapped"], EncoderSwapped: b.broken["encoder-swapped"], EncoderDead: b.broken["encoder-dead"], PhaseLost: b.broken["phase-lost"],
		FanDead: b.broken["fan-dead"], Jammed: b.broken["jammed"], Loose: b.broken["loose"], ReferenceOff: b.broken["reference-off"], ReferenceFull: b.broken["reference-moved"]}
	if what == "wrong-plate" {
		b.wrongPlate(on)
	}
	if b.broken["wrong-link"] {
		x.Relinked = 3 // star for delta
		if b.Setup.Linked == "star" {
			x.Relinked = 1. / 3
		}
	}
	if b.broken["encoder-lines"] {
		x.EncoderLines = 2 * math.Max(b.Setup.Lines, 1)
	}
	if b.broken["long-cable"] {
		x.CableOhms = .6 * b.sim.P.Motor.Rs
	}
	if b.broken["channel-stuck"] {
		x.Stuck = 2
	}
	if b.broken["noise"] {
		x.Noise = 20
	}
	b.sim.Reload()
}

// wrongPlate enters a smaller motor's current in the drive, and later what was there before. Either voids a tune.
func (b *Bench) wrongPlate(on bool) {
	for i := range b.Setup.Family.Settings {
		s := &b.Setup.Family.Settings[i]
		if s.Intent != "motor.current" || s.Register == 0 || s.Kind != "number" {
			continue
		}
		b.Stand.mu.Lock()
		stands := b.Stand.get(s).Steps
		steps := stands
		switch {
		case on && b.rightPlate == 0:
			low, _ := s.RangeSteps()
			steps, b.rightPlate = max(low, stands*6/10), stands
		case !on && b.rightPlate != 0:
			steps, b.rightPlate = b.rightPlate, 0
		}
		if steps != stands {
			b.Stand.voidTune(s)
			b.Stand.put(s, dialect.Held{Steps: steps})
		}
		b.Stand.mu.Unlock()
	}
	b.entered()
}

// entered makes of the settings what the drive is.
func (b *Bench) entered() {
	values := b.Stand.values()
	b.sim.C = Configure(b.Setup.Family, values, b.Setup.Size)
	b.sim.P.Link.Chopper = Resistor(b.Setup.Family, values)
	if b.Setup.Magnet {
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
	if b.Stand.takeWritten() {
		b.configure()
	}
	for range ticks {
		if b.lost {
			return // said by Show; set up anew
		}
		if len(b.pending) > 0 { // one a tick: what is let go and taken again is seen let go
			a := b.pending[0]
			a.Tick = b.tick
			b.acts = append(b.acts, a)
			b.pending = b.pending[:copy(b.pending, b.pending[1:])]
			b.act(a)
		}
		if b.bump.until != 0 {
			b.endBump()
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
	b.Stand.SetRunning(b.sim.Running || math.Abs(b.sim.Speed) > 3)
	b.Stand.SetChannels(b.in.A, b.in.B)
}

// endBump stops a bump when its time is over, and gives command back once the shaft stands.
func (b *Bench) endBump() {
	switch {
	case b.tick == b.bump.until:
		b.in.KeyStop = true
	case b.tick > b.bump.until && !b.sim.Running:
		b.in.Hand, b.in.KeyHz, b.bump.until = b.bump.hand, b.bump.hz, 0
	}
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
	b, err := NewBench(s)
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

// Hide breaks something that is not told, chosen by a seed.
func (b *Bench) Hide(seed uint64) error {
	rng := rand.New(rand.NewPCG(seed, 0x68696465))
	var l []string
	for _, f := range Faults {
		if f.Key == "supply-swapped" || b.Setup.Lines == 0 && (f.Key == "encoder-swapped" || f.Key == "encoder-dead" || f.Key == "encoder-lines") {
			continue
		}
		l = append(l, f.Key)
	}
	key := l[rng.IntN(len(l))]
	b.mu.Lock()
	b.hidden[key] = true
	b.mu.Unlock()
	return b.Do(Act{Do: "break", What: key, On: true})
}
