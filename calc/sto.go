package calc

import (
	"fmt"
	"math"
	"sort"

	"tingate/core/finding"
	"tingate/core/safety"
)

// STOSignals are what a drive sees; a missing one stays as it was.
type STOSignals struct {
	A             *bool `json:"a" doc:"channel closed"`
	B             *bool `json:"b"`
	Run           *bool `json:"run" doc:"maintained"`
	Reset         *bool `json:"reset"`
	Power         *bool `json:"power"`
	InternalFault *bool `json:"internal_fault"`
}

// STOEvent sets signals at a time; events of one time act together.
type STOEvent struct {
	TS  *float64   `json:"t_s"`
	Set STOSignals `json:"set"`
}

// STOIn is the input of sto.
type STOIn struct {
	DiscrepancyS     *float64   `json:"discrepancy_s"`
	Latched          bool       `json:"latched"`
	AutomaticRestart bool       `json:"automatic_restart"`
	Reaction         string     `json:"reaction" enum:"stop,fault" doc:"how the drive shows it; latching is said by latched"`
	ResetEdge        string     `json:"reset_edge" enum:"rising,falling"`
	DeviceKind       string     `json:"device_kind" doc:"emergency-stop, guard, other"`
	Initial          STOSignals `json:"initial"`
	Events           []STOEvent `json:"events"`
	SampleAtS        []float64  `json:"sample_at_s"`
}

// STOState is the drive at one time.
type STOState struct {
	TS     *float64 `json:"t_s"`
	State  string   `json:"state"`
	Torque bool     `json:"torque"`
}

// STOOut is the output of sto.
type STOOut struct {
	States   []STOState        `json:"states"`
	Findings []finding.Finding `json:"findings"`
}

func init() {
	register("sto", "A drive's safe torque off in time: channels, discrepancy, latching, reset, fresh run command", sto)
}

// put sets the signals that are given.
func (s STOSignals) put(x *safety.Signals) {
	for _, p := range []struct {
		from *bool
		to   *bool
	}{{s.A, &x.A}, {s.B, &x.B}, {s.Run, &x.Run}, {s.Reset, &x.Reset}, {s.Power, &x.Power}, {s.InternalFault, &x.InternalFault}} {
		if p.from != nil {
			*p.to = *p.from
		}
	}
}

func sto(in *STOIn) (*STOOut, error) {
	if in.DiscrepancyS == nil || !(*in.DiscrepancyS > 0) {
		return nil, &Error{"discrepancy_s", show(in.DiscrepancyS), "seconds above 0"}
	}
	for i, e := range in.Events {
		if e.TS == nil || !(*e.TS >= 0) || i > 0 && *e.TS < *in.Events[i-1].TS {
			return nil, &Error{fmt.Sprintf("events[%d].t_s", i), show(e.TS), "a time of 0 or later, not before the event before"}
		}
	}
	s := safety.Signals{A: true, B: true, Power: true} // a drive that stands ready, unless said otherwise
	in.Initial.put(&s)
	m := safety.New(safety.Options{Discrepancy: *in.DiscrepancyS, Latched: in.Latched, AutomaticRestart: in.AutomaticRestart,
		FallingReset: in.ResetEdge == "falling"}, s, 0)
	out := &STOOut{States: []STOState{}, Findings: []finding.Finding{}}
	at := append([]float64(nil), in.SampleAtS...)
	if len(at) == 0 {
		for _, e := range in.Events {
			at = append(at, *e.TS)
		}
	}
	order := make([]int, len(at))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(i, k int) bool { return at[order[i]] < at[order[k]] })
	states := make([]STOState, len(at))
	next := 0
	until := func(t float64) {
		for next < len(in.Events) && *in.Events[next].TS <= t {
			now := *in.Events[next].TS
			m.Step(s, math.Nextafter(now, 0)) // what time alone does comes before what happens then
			for next < len(in.Events) && *in.Events[next].TS == now {
				in.Events[next].Set.put(&s)
				next++
			}
			m.Step(s, now)
		}
		m.Step(s, t)
	}
	for _, i := range order {
		until(at[i])
		states[i] = STOState{number(at[i]), string(m.State), m.Torque()}
	}
	out.States = states
	if in.AutomaticRestart && (in.DeviceKind == "emergency-stop" || in.DeviceKind == "guard") {
		out.Findings = append(out.Findings,
			finding.Finding{Code: "automatic-restart", Severity: finding.Stop, Field: "automatic_restart",
				Title:  "Automatic restart after an emergency stop or guard",
				Detail: "Closing the device must not start the motor: a reset and a fresh command do (IEC 60204-1, ISO 13850).",
				Action: "Switch the automatic restart off"})
	}
	return out, nil
}
