package bench

import (
	"fmt"
	"math"
	"slices"

	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/tune"
)

// Act is one thing done to the bench, stamped with the tick at which it acts.
type Act struct {
	Tick  int64   `json:"tick,omitempty"`
	Do    string  `json:"do" enum:"run,stop,reverse,bump,net,net-run,net-speed,swap,brake,reset,hand,speed,terminal,channel,analog,line,dip,break,mend,setting,couple,tune,hide,faster" doc:"what is done"`
	N     int     `json:"n,omitempty" doc:"terminal 1 and up; channel 1, 2 or 3 for both; seed of what is hidden; how often time is made twice as fast"`
	On    bool    `json:"on,omitempty"`
	Value float64 `json:"value,omitempty" doc:"speed in Hz, of a bump too; analog in V or mA; s of a dip of the mains"`
	What  string  `json:"what,omitempty" doc:"what is broken; code of a setting; kind of a tune; leads or pairs to be swapped"`
}

// bumpSeconds is how long a first turn on the bench is run.
const bumpSeconds = 2

// bump is a short run from the keypad that ends by itself; what stood before comes back.
type bump struct {
	until int64 // tick; 0: none
	hand  bool
	hz    float64
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
	case "run", "stop", "reverse", "reset", "hand", "line", "couple", "brake", "mend", "net", "net-run":
	case "terminal":
		if n := len(DigitalIns(b.Setup.Family)); a.N < 1 || a.N > n {
			return &BadAct{"n", fmt.Sprint(a.N), fmt.Sprintf("a terminal of 1 to %d", n)}
		}
	case "channel":
		if a.N < 1 || a.N > 3 {
			return &BadAct{"n", fmt.Sprint(a.N), "channel 1 or 2, or 3 for both"}
		}
	case "tune":
		if !slices.Contains([]string{string(tune.Short), string(tune.Standstill), string(tune.Rotating), string(tune.Coupled),
			string(tune.Mechanical)}, a.What) {
			return &BadAct{"what", a.What, "standstill-short, standstill, rotating, rotating-coupled or mechanical"}
		}
		if b.tune != nil && b.tune.shown.Running {
			return &BadAct{"do", "tune", "the end of the one that runs"}
		}
	case "speed", "bump", "net-speed":
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
		return b.breakable(a)
	case "dip":
		if !(a.Value >= .001 && a.Value <= 60) {
			return &BadAct{"value", fmt.Sprint(a.Value), "a dip of 0.001 to 60 s"}
		}
		if !b.in.Line {
			return &BadAct{"do", "dip", "the mains on first"}
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
		return &BadAct{
			"do",
			a.Do,
			"run, stop, reverse, bump, net, net-run, net-speed, swap, brake, reset, hand, speed, terminal, channel, analog, line, dip, " +
				"break, mend, setting or couple",
		}
	}
	return nil
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
			b.in.Terminals, b.in.Net.Run = 0, false
			b.CloseLinks()
		}
	case "reset":
		b.in.Reset = true
	case "hand":
		b.in.Hand = a.On
	case "speed":
		b.in.KeyHz = a.Value
	case "terminal":
		b.terminal(uint16(1)<<(a.N-1), a.On)
	case "channel":
		if a.N != 2 {
			b.in.A = a.On
		}
		if a.N != 1 {
			b.in.B = a.On
		}
	case "analog":
		b.in.Analog = a.Value
	case "net":
		b.in.Net.Alive = a.On
	case "net-run":
		b.in.Net.Run, b.in.Net.Back = a.On, a.On && a.What == "back"
	case "net-speed":
		b.in.Net.Hz = a.Value
	case "line":
		b.in.Line, b.dips = a.On, 0
		if !a.On && b.Stand.PowerOff() {
			b.configure()
		}
	case "dip":
		b.in.Line, b.dips = false, b.tick+int64(math.Round(a.Value/drive.Tick))
	case "brake":
		b.sim.P.Brake.Lifted = a.On
	case "couple":
		b.sim.P.Coupled = a.On
		b.sim.Reload()
	case "break":
		b.breakIt(a.What, a.On)
	case "mend":
		b.mend()
	case "swap":
		b.breakIt(swaps[a.What], !b.broken[swaps[a.What]])
	case "tune":
		b.startTune(a.What)
	case "setting":
		if s, ok := b.Setup.Family.Setting(a.What); ok {
			was := b.Stand.Enter(s, dialect.Held{Steps: int64(a.Value)})
			b.arm(s.Code, int64(a.Value), was)
		}
		b.configure()
	}
}

// bounceTicks is how long a worn contact bounces. Common practice.
const bounceTicks = 12

// bounce is a contact that closes and opens again before it stays.
type bounce struct {
	until int64 // tick; 0: none
	bit   uint16
	on    bool
}

// terminal works an input. A hand is slower than the inputs' filter, also where time is hurried: the same is not worked again before.
func (b *Bench) terminal(bit uint16, on bool) {
	b.bounces() // what bounced before stays now
	b.settled = b.tick + 2 + int64(b.sim.C.InputFilter/drive.Tick)
	if b.broken["contact-bounces"] && b.in.Terminals&bit != 0 != on {
		b.bounce = bounce{b.tick + bounceTicks, bit, on}
		b.settled += bounceTicks
	}
	b.put(bit, on)
}

func (b *Bench) put(bit uint16, on bool) {
	b.in.Terminals &^= bit
	if on {
		b.in.Terminals |= bit
	}
}

// bounces moves a bouncing contact by a tick: it strikes for a millisecond or two, and flies for one or two more.
func (b *Bench) bounces() {
	x := &b.bounce
	switch left := x.until - b.tick; {
	case x.until == 0:
	case left <= 0 || left > bounceTicks:
		b.put(x.bit, x.on)
		x.until = 0
	default:
		b.put(x.bit, x.on != (left%4 < 2))
	}
}

// settles tells that an act has to wait for the inputs.
func (b *Bench) settles(a Act) bool { return a.Do == "terminal" && b.tick < b.settled }

// endBump stops a bump when its time is over, and gives command back once the shaft stands.
func (b *Bench) endBump() {
	switch {
	case b.tick == b.bump.until:
		b.in.KeyStop = true
	case b.tick > b.bump.until && !b.sim.Running:
		b.in.Hand, b.in.KeyHz, b.bump.until = b.bump.hand, b.bump.hz, 0
	}
}
