package bench

import (
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"tingate/core/dialect"
	"tingate/core/drive"
)

func onePhase(b *Bench) string {
	return unless(!b.Setup.Single, "this drive is fed by one phase")
}

func noEncoder(b *Bench) string { return unless(b.Setup.Lines > 0, "no encoder is fitted") }

func noBrake(b *Bench) string { return unless(b.sim.P.Brake.Torque > 0, "no brake is fitted") }

func noSensor(b *Bench) string {
	return unless(b.sim.C.Sensor, "the drive watches no winding sensor, its setting is off")
}

func noInertia(b *Bench) string {
	return unless(b.Setup.LoadJ > 0, "the load has no inertia by its figures")
}

func noResistor(b *Bench) string {
	return unless(b.sim.P.Link.Chopper > 0, "no braking resistor is set, so none is fitted here")
}

func noAir(b *Bench) string {
	return unless(b.Setup.Load.Kind == "quadratic",
		"only what flows through a fan or a pump turns it: a load with the square of the speed")
}

func unless(can bool, why string) string {
	if can {
		return ""
	}
	return why
}

// Cannot says why something cannot be wrong on this bench; empty: it can.
func (b *Bench) Cannot(key string) string {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.cannot(key)
}

func (b *Bench) cannot(key string) string {
	if f := faultOf(key); f != nil && f.cannot != nil {
		return f.cannot(b)
	}
	return ""
}

// breakable refuses what is not on the list, and what cannot be on this machine.
func (b *Bench) breakable(a *Act) error {
	if faultOf(a.What) == nil {
		return &BadAct{"what", a.What, "one of the faults of the list"}
	}
	if why := b.cannot(a.What); a.On && why != "" {
		return &BadAct{"what", faultOf(a.What).Text, "what can be here: " + why}
	}
	return nil
}

func faultOf(key string) *Breakage {
	for i := range Faults {
		if Faults[i].Key == key {
			return &Faults[i]
		}
	}
	return nil
}

// earthOhms is the resistance behind which a share of the drive's rated current flows to earth, Ω.
func (b *Bench) earthOhms(share float64) float64 {
	return b.sim.P.Link.Open / 2 / (share * math.Max(b.sim.C.Rated, .1))
}

// beltCarries is what a worn belt carries, N·m: six tenths of what the load wants at its speed, or a fifth of the motor's torque.
func (b *Bench) beltCarries() float64 {
	m := b.Setup.Motor
	least := .2 * m.Power * 30 / (math.Pi * math.Max(m.Speed, 1))
	return math.Max(least, .6*b.sim.P.Load.Torque)
}

// swaps are what a hand can change over at the bench, whether it was right before or not.
var swaps = map[string]string{"leads": "leads-swapped", "pairs": "encoder-swapped"}

func (b *Bench) breakIt(what string, on bool) {
	if on {
		b.broken[what] = true
	} else {
		delete(b.broken, what)
		delete(b.hidden, what)
	}
	if what == "wrong-plate" {
		b.wrongPlate(on)
	}
	b.breaks()
}

// mend makes everything whole, told or not.
func (b *Bench) mend() {
	if b.broken["wrong-plate"] {
		b.wrongPlate(false)
	}
	clear(b.broken)
	clear(b.hidden)
	b.breaks()
}

// A network that is late takes up to so long for an answer; one that loses does so with a share of them. Common practice.
const (
	networkLate = 400 * time.Millisecond
	networkLost = .2
)

// breaks puts what is wrong into the machine.
func (b *Bench) breaks() {
	x := drive.Broken{}
	for i := range Faults {
		if f := &Faults[i]; f.put != nil && b.broken[f.Key] {
			f.put(b, &x)
		}
	}
	x.LeadsSwapped = x.LeadsSwapped != b.Setup.LeadsTurned
	x.EncoderSwapped = x.EncoderSwapped != b.Setup.PairsTurned
	late, lost := time.Duration(0), 0.
	if b.broken["network-late"] {
		late = networkLate
	}
	if b.broken["network-lost"] {
		lost = networkLost
	}
	b.Stand.Network(late, lost)
	b.sim.P.Broken = x
	b.sim.Reload()
}

// wrongPlate enters a smaller motor's current in the drive, and later what was there before. Either voids a tune.
func (b *Bench) wrongPlate(on bool) {
	for i := range b.Setup.Family.Settings {
		s := &b.Setup.Family.Settings[i]
		if s.Intent != "motor.current" || s.Register == 0 || s.Kind != "number" {
			continue
		}
		stands := b.Stand.Steps(s)
		steps := stands
		switch {
		case on && b.rightPlate == 0:
			low, _ := s.RangeSteps()
			steps, b.rightPlate = max(low, stands*6/10), stands
		case !on && b.rightPlate != 0:
			steps, b.rightPlate = b.rightPlate, 0
		}
		if steps != stands {
			b.Stand.Enter(s, dialect.Held{Steps: steps})
		}
	}
	b.entered()
}

// Hide breaks something that is not told, chosen by a seed.
func (b *Bench) Hide(seed uint64) error {
	rng := rand.New(rand.NewPCG(seed, 0x68696465))
	var l []string
	for _, f := range Faults {
		if f.Key == "supply-swapped" || strings.HasPrefix(f.Key, "network-") || b.Cannot(f.Key) != "" { // of which the drive shows nothing
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
