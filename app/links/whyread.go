package links

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/app/base"
	"tingate/bench"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/troubleshoot"
)

// whySettings are the intents whose settings the questions of a drive ask for.
var whySettings = []string{"choice.command_source", "choice.speed_source", "choice.stop_mode", "choice.direction",
	"choice.automatic_restart"}

// WhyNotRead are the conditions with what the drive itself tells over the link: its torque-off channels, its figures, and the settings that
// matter, which are recorded as readings. It only reads. What it cannot tell stays asked.
func (a *Links) WhyNotRead(ctx context.Context, who base.Actor, driveID, about string) ([]troubleshoot.StartCondition, error) {
	w, err := a.Connect(ctx, who, driveID)
	if err != nil {
		return nil, err
	}
	m, err := w.Conn.Glance(ctx)
	values := map[string]dialect.Held{}
	for i := range w.Job.Family.Settings {
		s := &w.Job.Family.Settings[i]
		if err != nil || s.Register == 0 || !slices.Contains(whySettings, s.Intent) {
			continue
		}
		values[s.Code], err = w.Conn.Value(ctx, s)
	}
	w.Release()
	if err != nil {
		return nil, base.Refuse(err.Error())
	}
	if err := a.PutReadings(ctx, who, driveID, w.Job.Family, values, drivefile.OverLink); err != nil {
		return nil, err
	}
	l, err := a.WhyNot(ctx, driveID, about)
	if err != nil {
		return nil, err
	}
	f := gate.FiguresOf(w.Job, w.State)
	read := reads{figures: map[string]float64{}, open: m.Open, line: f.Line,
		limit: bench.Configure(w.Job.Family, f.Settings, f.Size).CurrentLimit}
	for i, x := range w.Job.Family.Link.Actuals {
		read.figures[x.What] = m.Figures[i]
	}
	for i := range l {
		read.tell(&l[i])
	}
	return l, nil
}

// reads is what a drive told just now.
type reads struct {
	figures     map[string]float64 // by kind, in the kind's unit
	open        [2]bool            // torque-off channels
	line, limit float64            // V, A
}

// tell answers a condition as far as it was read.
func (r reads) tell(c *troubleshoot.StartCondition) {
	figure := func(what string) (float64, bool) {
		v, ok := r.figures[what]
		return v, ok && !math.IsNaN(v)
	}
	put := func(holds bool, format string, args ...any) {
		c.State, c.How = map[bool]string{true: "holds", false: "fails"}[holds], "Read just now: "+fmt.Sprintf(format, args...)+"."
	}
	switch c.Key {
	case "line":
		if v, ok := figure("link"); ok && r.line > 0 {
			put(v > .8*1.35*r.line, "DC link %.0f V", v)
		}
	case "torque-off":
		var open []string
		for i, name := range []string{"A", "B"} {
			if r.open[i] {
				open = append(open, name)
			}
		}
		if len(open) == 0 {
			put(true, "both channels closed")
		} else {
			put(false, "channel %s open", strings.Join(open, " and "))
		}
	case "frequency":
		v, ok := figure("frequency")
		unit := "Hz"
		if !ok {
			v, ok = figure("speed")
			unit = "r/min"
		}
		if ok && math.Abs(v) > .1 {
			put(true, "%.1f %s", v, unit)
		} else if ok { // perhaps run is not given now
			c.How = "Read just now: 0 " + unit + ". Read it while run is given."
		}
	case "current":
		if v, ok := figure("current"); ok && r.limit > 0 {
			put(v < .95*r.limit, "%.1f A of the limit of %.1f A", v, r.limit)
		}
	}
}
