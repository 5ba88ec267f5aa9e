package bench

import (
	"math"
	"math/rand/v2"

	"tingate/core/dialect"
	"tingate/core/drive"
)

// Faults that a bench can have, with their words.
var Faults = []struct{ Key, Text string }{
	{"leads-swapped", "two motor leads swapped"}, {"wrong-link", "motor linked for the other voltage"},
	{"encoder-swapped", "encoder A and B swapped"}, {"encoder-dead", "encoder silent"},
	{"encoder-lines", "encoder with twice the lines"}, {"phase-lost", "one phase of the mains lost"},
	{"fan-dead", "the drive's fan stands"}, {"long-cable", "much longer motor cable"},
	{"supply-swapped", "two supply leads swapped"}, {"jammed", "load jammed"}, {"loose", "coupling loose"},
	{"reference-off", "reference wire off"}, {"reference-moved", "reference wire on the potentiometer's supply"},
	{"wrong-plate", "another motor's current in the drive"}, {"channel-stuck", "torque-off channel B does not open"},
	{"noise", "noise on every signal"}, {"output-lost", "one phase to the motor open"},
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
	x := &b.sim.P.Broken
	*x = drive.Broken{LeadsSwapped: b.broken["leads-swapped"], EncoderSwapped: b.broken["encoder-swapped"],
		EncoderDead: b.broken["encoder-dead"], PhaseLost: b.broken["phase-lost"],
		FanDead: b.broken["fan-dead"], Jammed: b.broken["jammed"], Loose: b.broken["loose"], ReferenceOff: b.broken["reference-off"],
		ReferenceFull: b.broken["reference-moved"], OutputLost: b.broken["output-lost"]}
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
		if f.Key == "supply-swapped" ||
			b.Setup.Lines == 0 && (f.Key == "encoder-swapped" || f.Key == "encoder-dead" || f.Key == "encoder-lines") {
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
