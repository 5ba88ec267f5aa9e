package ride

import (
	"math"

	"tingate/bench"
	"tingate/core/drive"
)

// Laid is one of two rides that are laid over one another.
type Laid struct {
	Ride  Ride    `json:"ride"`
	Dip   float64 `json:"dip_rpm" doc:"by which the shaft is slower, at most, while its load is heavier for a moment"`
	Share float64 `json:"share" doc:"of the torque on one shaft that it gives, at speed; 0: it has a shaft of its own"`
	Tune  float64 `json:"tune_s" doc:"of its tune at standstill, before; 0: it goes without"`
}

// besideHold is how long two rides stay at speed, s: the knock of the load has its time.
const besideHold = 5

// Beside rides the same want on two benches: each with its own shaft, or both on one, with the first one's load between them. What wants a
// tune is tuned first.
func Beside(setups [2]bench.Setup, w Want, oneShaft bool) (out [2]Laid, err error) {
	w.Hold = besideHold
	for i := range setups {
		if setups[i], out[i].Tune, err = tuned(setups[i]); err != nil {
			return out, err
		}
	}
	if oneShaft {
		return onOneShaft(setups, w, out)
	}
	for i := range setups {
		r, err := start(setups[i], w)
		if err != nil {
			return out, err
		}
		r.whole(w.Hold)
		out[i].Ride, out[i].Dip = r.done(), r.dip()
	}
	return out, nil
}

// dip is by how much the shaft became slower at speed, r/min.
func (r *Rider) dip() float64 {
	at, low := 0., math.Inf(1)
	for _, s := range r.Samples {
		if s.T >= r.Held && (r.Out.StopAt == 0 || s.T < r.Out.StopAt) {
			if at == 0 {
				at = math.Abs(s.Speed)
			}
			low = math.Min(low, math.Abs(s.Speed))
		}
	}
	return math.Max(0, at-low)
}

// onOneShaft runs both up, at speed and down again. One that trips is dragged along.
func onOneShaft(setups [2]bench.Setup, w Want, out [2]Laid) ([2]Laid, error) {
	var r [2]*Rider
	var err error
	for i := range setups {
		if r[i], err = start(setups[i], w); err != nil {
			return out, err
		}
	}
	pair := drive.NewPair(r[0].D, r[1].D)
	both := func(phase Phase, until func() bool) { inStep(pair, r, phase, until) }
	at := func(x *Rider) bool { return x.Out.Trip != nil || math.Abs(x.D.Ramp()-x.D.C.KeyHz) < 1e-6 }
	r[0].In.KeyRun, r[1].In.KeyRun = true, true
	most := math.Min(mostRide, 3*math.Max(r[0].Out.AskedRise, r[1].Out.AskedRise)+20)
	there, was := 0., 0.
	both(Rise, func() bool {
		speed := math.Abs(r[0].D.Speed) // one that its limit holds back never asks for all of it
		resting := math.Abs(speed-was) < .0002*speed && r[0].Time() > 1+math.Max(r[0].Out.AskedRise, r[1].Out.AskedRise)
		if was = speed; at(r[0]) && at(r[1]) || resting {
			there += Fine * drive.Tick
		}
		return there > 1 || r[0].Time() > most
	})
	begun, whole := r[0].Time(), r[0].D.P.Load.Torque
	var sum [2]float64
	both(Hold, func() bool {
		since := r[0].Time() - begun
		r[0].knocked(since, whole)
		if since > besideHold-1 {
			sum[0], sum[1] = sum[0]+r[0].D.Torque, sum[1]+r[1].D.Torque
		}
		return since > besideHold
	})
	for i, x := range r {
		x.Held, x.Out.StopAt, x.Out.Top, x.Out.TopHz, x.In.KeyStop = begun, x.Time(), x.D.Speed, x.D.Hz, true
		x.steadyOf()
		if all := sum[0] + sum[1]; all != 0 {
			out[i].Share = sum[i] / all
		}
	}
	begun = r[0].Time()
	most = begun + math.Min(mostRide, 3*math.Max(r[0].Out.AskedFall, r[1].Out.AskedFall)+60)
	both(Fall, func() bool {
		still := math.Abs(r[0].D.Speed) < .005*math.Abs(r[0].Out.Top)+.5
		return r[0].Time() > most || still && !r[0].D.Running && !r[1].D.Running
	})
	for i, x := range r {
		out[i].Ride, out[i].Dip = x.done(), x.dip()
	}
	return out, nil
}

// inStep moves two riders on one shaft, tick by tick, until something holds or neither drives any more.
func inStep(pair *drive.Pair, r [2]*Rider, phase Phase, until func() bool) {
	for r[0].Phase, r[1].Phase = phase, phase; !until(); {
		for range Fine {
			r[0].B.Advance(1)
			r[1].B.Advance(1)
			pair.Share()
		}
		a, b := r[0].note(), r[1].note()
		if !a && !b {
			return
		}
	}
}
