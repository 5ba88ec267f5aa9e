package bench

import (
	"math"
	"strings"

	"tingate/core/drive"
)

// What a ride or a proof needs of a bench that it has to itself: it steps the bench, and reaches into the drive and what is given to it.

// Sim is the simulated drive as it stands. Whoever takes it owns the bench: nothing else may go on with it meanwhile.
func (b *Bench) Sim() *drive.Drive { return &b.sim }

// Given is what is given to the drive from the next tick on: keys, terminals, signals, the line.
func (b *Bench) Given() *drive.Inputs { return &b.in }

// Lost tells that the figures have left all bounds.
func (b *Bench) Lost() bool { return b.lost }

// Twin is the same bench at the same moment, to go its own way.
func (b *Bench) Twin() *Bench {
	t := &Bench{Stand: b.Stand, Setup: b.Setup, sim: b.sim, in: b.in, tick: b.tick, faster: 1, broken: b.broken, hidden: b.hidden}
	sto, device := *b.sim.STO, *b.sim.Device
	t.sim.STO, t.sim.Device = &sto, &device
	t.quiet()
	return t
}

// standing are why a run command does nothing.
var standing = map[string]string{"interlock": "interlock open", "coast": "second enable open", "quick-stop": "quick stop open",
	"fresh-command": "wants a fresh command",
	"direction":     "this direction is not allowed", "reference": "reference lost",
	"asleep": "asleep: its controller asks for less, and starts it by itself"}

// Standing says in words why a run command does nothing (drive.Drive.Blocked).
func Standing(blocked string) string {
	if w := standing[blocked]; w != "" {
		return w
	}
	return strings.ReplaceAll(blocked, "-", " ")
}

// Upper is the highest frequency that the settings allow, Hz; NaN: no bench can be set up so.
func Upper(s Setup) float64 {
	b, err := New(s)
	if err != nil {
		return math.NaN()
	}
	return b.sim.C.Upper
}

// RotorInertia is the inertia of the bench's own motor, kg·m²; NaN: no bench can be set up so.
func RotorInertia(s Setup) float64 {
	b, err := New(s)
	if err != nil {
		return math.NaN()
	}
	return b.sim.P.Inertia
}
