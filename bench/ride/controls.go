package ride

import (
	"fmt"
	"math"

	"tingate/bench"
	"tingate/core/drive"
	"tingate/core/motion"
	"tingate/core/tune"
)

// Shares of the highest speed at which ways of control are compared.
var heldShares = []float64{0, .02, .1, .5}

// holdFor is how long a torque is held at a speed, s, and heldLast the part of it at its end that is looked at.
const (
	holdFor  = 6.
	heldLast = 1.
)

// Held is how a way of control holds a torque at a speed: one that rubs, and at standstill one that pulls, as a hanging load does: a brake
// lets go of it when the drive gives torque.
type Held struct {
	Share   float64 `json:"share" doc:"of the highest speed"`
	Asked   float64 `json:"asked" doc:"r/min, synchronous"`
	Wants   float64 `json:"wants_nm" doc:"torque that rubs, at standstill pulls"`
	Speed   float64 `json:"speed" doc:"r/min, mean of the last second"`
	Current float64 `json:"current" doc:"A, the same"`
	Holds   bool    `json:"holds" doc:"the shaft turns, within one and a half times the rated slip of what is asked"`
	Says    string  `json:"says"`
}

// HeldAt runs a bench to a frequency (Hz) against a torque (N·m).
func HeldAt(s bench.Setup, hz, torque float64) (Held, error) {
	pulls := hz == 0 || s.Load.Kind == "hanging"
	s.Load, s.Backstop, s.Brake = motion.Load{Kind: "constant", Torque: torque}, false, drive.Brake{}
	if pulls {
		s.Load.Kind, s.Brake = "hanging", drive.Brake{Torque: 3 * math.Max(torque, 1), Follows: true, Opens: .1, Closes: .1}
	}
	r, err := start(s, Want{Hz: math.Max(hz, 1e-9)})
	if err != nil {
		return Held{}, err
	}
	d := r.D
	d.C.Lower, d.C.FlyingStart, d.C.HoldTime, d.C.BrakeShut, d.C.BrakeWait = 0, false, 0, false, 0
	d.C.Inertia = d.P.Inertia + s.LoadJ // as after its mechanical tune: what is compared is the control, not a guess
	d.Reload()
	rpm := 120 / math.Max(float64(d.C.Motor.Poles), 2)
	out := Held{Asked: hz * rpm, Wants: torque}
	r.Phase, r.In.KeyRun = Rise, true
	begun, n := -1., 0.
	for r.Time() < 3*r.Out.AskedRise+30 && (begun < 0 || r.Time() < begun+holdFor) {
		if !r.Step() || math.Abs(d.Speed) > 2*math.Max(d.C.Upper, hz)*rpm {
			break
		}
		if begun < 0 && d.Phase == drive.Running && math.Abs(d.Ramp()-hz) < 1e-6 {
			begun = r.Time()
		}
		if begun >= 0 && r.Time() > begun+holdFor-heldLast {
			out.Speed, out.Current, n = out.Speed+d.Speed, out.Current+d.Current, n+1
		}
	}
	if n > 0 {
		out.Speed, out.Current = out.Speed/n, out.Current/n
	}
	slip := d.C.Motor.Frequency*rpm - d.C.Motor.Speed
	lost := out.Asked - out.Speed
	switch trip := r.Out.Trip; {
	case trip != nil:
		out.Says = "trips: " + trip.Word
	case !d.Running:
		out.Says = "does not run: " + bench.Standing(d.Blocked)
	case begun < 0 && d.Speed > -2*slip:
		out.Says = "does not come to the speed"
	case n == 0 || out.Speed < -2*slip:
		out.Says = "lets the load go"
	case hz > 0 && out.Speed < .2*out.Asked:
		out.Says = "the shaft stands"
	case math.Abs(lost) > 1.5*math.Max(slip, 1):
		out.Says = fmt.Sprintf("%.0f r/min behind", lost)
	default:
		out.Holds = true
	}
	return out, nil
}

// Controlled is one way of control, tried with a plan.
type Controlled struct {
	Held   []Held  `json:"held" doc:"at 0, 2, 10 and 50 % of the highest speed, with the load's torque"`
	Lowest Held    `json:"lowest" doc:"at the lowest speed of the plan, with what the load takes there; nothing where none is stated"`
	Tune   float64 `json:"tune_s" doc:"of its tune at standstill; 0: it goes without"`
	Ride   Ride    `json:"ride"`
	Enough bool    `json:"enough" doc:"it holds the lowest speed, and rides the plan without a trip"`
}

// ControlledBy tries a plan as its settings control it, with the load's torque (N·m) and down to its lowest frequency (Hz). What wants a
// tune is tuned first.
func ControlledBy(s bench.Setup, torque, lowest float64) (Controlled, error) {
	var out Controlled
	s, seconds, err := tuned(s)
	if err != nil {
		return out, err
	}
	out.Tune = seconds
	top := bench.Upper(s)
	for _, share := range heldShares {
		h, err := HeldAt(s, share*top, torque)
		if err != nil {
			return out, err
		}
		h.Share = share
		out.Held = append(out.Held, h)
	}
	if out.Ride, err = Of(s, Want{}); err != nil {
		return out, err
	}
	out.Enough = out.Ride.Trip == nil && !out.Ride.Stalled && out.Ride.Stands == ""
	if !(lowest > 0) {
		return out, nil
	}
	poles := math.Max(float64(s.Motor.Poles), 2)
	takes, _ := s.Load.At(lowest * 4 * math.Pi / poles)
	if out.Lowest, err = HeldAt(s, lowest, takes); err != nil {
		return out, err
	}
	out.Enough = out.Enough && out.Lowest.Holds
	return out, nil
}

// mostTune is how long a tune at standstill is waited for, s.
const mostTune = 300

// tuned is a setup with the results of a tune at standstill in its settings, where its control wants one, and how long that took, s.
func tuned(s bench.Setup) (bench.Setup, float64, error) {
	b, err := bench.New(s)
	if err != nil {
		return s, 0, err
	}
	d := b.Sim()
	if d.C.Control == "volts-per-hertz" {
		return s, 0, nil
	}
	if d.C.Tuned || s.Magnet {
		return s, 0, nil
	}
	b.Given().Line = true
	b.Advance(2000)
	if err := b.Do(bench.Act{Do: "tune", What: bench.KindOf(tune.KindExtended)}); err != nil {
		return s, 0, err
	}
	begun := d.Time
	for d.Time < begun+mostTune {
		b.Advance(100)
		if t := b.Show(math.Inf(1)).Tune; t != nil && !t.Running {
			if t.Failed != "" {
				return s, 0, fmt.Errorf("its tune: %s", t.Failed)
			}
			s.Values = b.Stand.Values()
			return s, d.Time - begun, nil
		}
	}
	return s, 0, fmt.Errorf("its tune does not end within %d s", mostTune)
}
