package base

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"log/slog"
	"math"
	"slices"
	"sync"

	"golang.org/x/sync/singleflight"

	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/dialect"
	"tingate/core/gate"
	"tingate/core/quantity"
	"tingate/core/translate"
)

// rides keeps what plans did on their own benches, by what was ridden: the same plan on the same figures is ridden once while the program
// runs. A ride takes some tens of milliseconds, so that many thousands of drives are ridden one after the other beside the work
// (refresh.go).
var rides = struct {
	mu  sync.Mutex
	all map[string]*gate.Ridden
	// now holds the rides that are under way: a drive's screen and its row in the Yard ask for the same one in the same moment.
	now singleflight.Group
}{all: map[string]*gate.Ridden{}}

// mostRides are kept; then the memory begins anew.
const mostRides = 20_000

// Evaluate is a job with its plan ridden: what every answer, row and record of a drive rests on.
func (a *Base) Evaluate(j gate.Job) gate.State {
	s, _ := a.evaluated(j, true)
	return s
}

// evaluated is evaluate; ride false takes only what was ridden before, and tells whether that was enough.
func (a *Base) evaluated(j gate.Job, ride bool) (s gate.State, known bool) {
	s = gate.Evaluate(j, a.Now())
	if j.Drive.Stop.Alone {
		return s, true
	}
	if j.Ridden, known = a.ridden(j, s, ride); !known {
		return s, false
	}
	if j.Ridden == nil || !gate.ProofStands(j, j.Ridden.Of) && len(j.Ridden.Findings) == 0 && j.Ridden.Low != "stalls" &&
		j.Ridden.Low != "trips" && s.HoldsAtLowest() {
		return s, true // the ride says what is said already
	}
	return gate.Evaluate(j, a.Now()), true
}

// RideKey names what is ridden: the plan, the machine's figures and the family; empty while anything that a ride needs is missing. low is
// the lowest speed, Hz.
func RideKey(j gate.Job, f translate.Figures) (key string, low float64) {
	in := j.Drive.Intent
	if f.Missing != "" || in.HighestSpeed.Value == nil || in.Rise.Value == nil || in.Fall.Value == nil || in.Load == "" {
		return "", 0
	}
	if v, ok := in.LowestSpeed.In(quantity.Speed, "r/min"); ok && f.Motor.Poles > 0 && !f.WithoutEncoder {
		low = v * float64(f.Motor.Poles) / 120
	}
	raw, err := json.Marshal(map[string]any{"figures": f, "family": j.Family.Hash, "low": low, "stated": in.LoadInertia.Value != nil,
		"lines": encoderLines(j)})
	if err != nil { // a figure that is none: nothing is ridden
		return "", 0
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:12]), low
}

// ridden rides a job's plan, once everything that it needs is entered; nil while it is not. ride false: only what is known already.
func (a *Base) ridden(j gate.Job, s gate.State, ride bool) (r *gate.Ridden, known bool) {
	f := gate.FiguresOf(j, s)
	key, low := RideKey(j, f)
	if key == "" {
		return nil, true
	}
	rides.mu.Lock()
	r, ok := rides.all[key]
	rides.mu.Unlock()
	if ok || !ride {
		return r, ok
	}
	once, _, _ := rides.now.Do(key, func() (any, error) {
		var r *gate.Ridden
		if out, err := judged(SetupOf(j, f), math.Max(low, 0), f.TorqueStated && j.Drive.Intent.LoadInertia.Value != nil); err != nil {
			slog.Warn("a plan cannot be ridden", "drive", j.ID, "error", err) // said once, and kept as not ridden
		} else {
			r = &gate.Ridden{Of: key, Findings: out.Findings, Low: out.Low}
		}
		rides.mu.Lock()
		defer rides.mu.Unlock()
		if len(rides.all) >= mostRides {
			clear(rides.all)
		}
		rides.all[key] = r
		return r, nil
	})
	return once.(*gate.Ridden), true
}

// judged rides a plan. One that the bench cannot bear is not ridden, and hides nothing else of its drive.
func judged(s bench.Setup, lowest float64, sure bool) (out ride.Judged, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("the bench fails on it: %v", p)
		}
	}()
	return ride.Judge(s, lowest, sure)
}

// DeepBars is the height of such bars over the depth of their current, at rated frequency. Common practice: two to three.
const DeepBars = 2.2

// encoderLines are those of a job's encoder, as its label says, or usual ones; 0: none is wanted.
func encoderLines(j gate.Job) float64 {
	if j.Drive.Site.Encoder != "wanted" {
		return 0
	}
	if lines := j.Drive.Turn.Lines.Num(quantity.Count, ""); lines > 0 {
		return lines
	}
	return 1024
}

// SetupOf is a bench out of a job's own figures, its leads and pairs as they were found: where a setting turns them over, they are the
// other way round.
func SetupOf(j gate.Job, f translate.Figures) bench.Setup {
	turned := func(drives string) bool {
		return slices.ContainsFunc(j.Family.Settings, func(s dialect.Setting) bool { return s.Drives == drives && f.Settings[s.Code] != 0 })
	}
	return bench.Setup{LeadsTurned: turned("phase-order"), PairsTurned: turned("encoder-direction"),
		Family:   j.Family,
		Size:     f.Size,
		Lines:    encoderLines(j),
		Values:   f.Settings,
		Texts:    f.Texts,
		Motor:    f.Motor,
		Load:     f.Load,
		LoadJ:    f.LoadJ,
		Line:     f.Line,
		LineHz:   f.Hz,
		Single:   f.Single,
		Magnet:   f.Magnet,
		Backstop: f.Backstop,
		Brake:    f.Brake,
		Process:  f.Process,
		Own:      f.Own,
		Linked:   f.Linked,
	}
}
