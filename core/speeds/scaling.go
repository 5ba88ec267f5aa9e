package speeds

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/quantity"
	"tingate/core/signal"
	"tingate/core/translate"
)

// ScaledPoint is the reference at one place of its span, from the controller to the machine. Null: not stated.
type ScaledPoint struct {
	Percent float64  `json:"percent" doc:"of the signal's span"`
	Counts  *float64 `json:"counts,omitempty"`
	Asks    *float64 `json:"asks,omitempty" doc:"in the controller's unit"`
	Signal  float64  `json:"signal" doc:"V or mA"`
	RPM     float64  `json:"rpm" doc:"of the shaft, within the limits"`
	Hz      float64  `json:"hz" doc:"synchronous"`
	Machine *float64 `json:"machine,omitempty"`
	Held    bool     `json:"held" doc:"a limit holds it, or the dead band"`
}

// ScaledForm is a line by offset and gain, in one of their orders.
type ScaledForm struct {
	Order  string  `json:"order"`
	Offset float64 `json:"offset_pct"`
	Gain   float64 `json:"gain"`
	Invert bool    `json:"invert"`
	Own    bool    `json:"own" doc:"this family counts so"`
}

// Scaling is the reference as a picture.
type Scaling struct {
	Missing  string        `json:"missing"`
	Unit     string        `json:"unit" doc:"V or mA"`
	Low      float64       `json:"low"`
	High     float64       `json:"high"`
	Asked    string        `json:"asked" doc:"the controller's unit; empty: none"`
	Machine  string        `json:"machine" doc:"the machine's unit; empty: none"`
	Points   []ScaledPoint `json:"points" doc:"to be tested, with what is to be read"`
	Line     []ScaledPoint `json:"line" doc:"to be drawn"`
	Forms    []ScaledForm  `json:"forms" doc:"in percent of the signal's span and of the highest speed"`
	TwoPoint string        `json:"two_point"`
	PerCount *float64      `json:"per_count_rpm,omitempty"`
	Measured []ScaledFound `json:"measured"`
	Fit      string        `json:"fit" doc:"what the measured points say; empty: fewer than two"`
	Jitter   string        `json:"jitter" doc:"what their spread says; empty: none was noted"`
	Lost     []string      `json:"lost" doc:"how a lost signal is known, and the test of it"`
}

// ScaledFound is a measured point against the wanted line.
type ScaledFound struct {
	Signal float64  `json:"signal"`
	RPM    float64  `json:"rpm"`
	Want   float64  `json:"want_rpm"`
	Spread *float64 `json:"spread_rpm,omitempty"`
	Fits   bool     `json:"fits"`
}

// ScalingOf works a drive's reference out from the controller to the machine, by its plan.
func ScalingOf(d drivefile.Drive, family *dialect.Family, plan dialect.Plan) Scaling {
	in, sig := d.Intent, d.Signal
	out := Scaling{Points: []ScaledPoint{}, Line: []ScaledPoint{}, Forms: []ScaledForm{}, Measured: []ScaledFound{}, Lost: []string{},
		Asked: sig.Unit, Machine: in.MachineUnit}
	c, unit := translate.Chain(d)
	out.Unit, out.Low, out.High = unit, c.Low, c.High
	switch {
	case in.SpeedSource == "network" || in.CommandSource == "network":
		out.Missing = "an analog source of the speed"
		out.Lost = append(out.Lost, "A network that falls silent is known by the drive's own watch: its time, and what it then does, "+
			"stand in the family's network settings. Zero or never means that it runs on.",
			"Test: at a middle speed, people clear, pull the network's plug at the drive. Must happen: what is set, within the time "+
				"that is set. Plug it in: note whether it runs on by itself.")
		return out
	case in.SpeedSource != "voltage" && in.SpeedSource != "current":
		out.Missing = "an analog source of the speed"
		return out
	case math.IsNaN(c.SpeedLow) || math.IsNaN(c.SpeedHigh):
		out.Missing = "the speeds at both ends of the signal"
		return out
	}
	perTurn := in.MachineAt.Num(quantity.Figure, "") / plan.Motor.Speed
	if out.Machine == "" && perTurn > 0 {
		out.Machine = "machine"
	}
	point := func(share float64) ScaledPoint {
		l := c.At(share)
		p := ScaledPoint{Percent: share * 100, Signal: l.Signal, RPM: l.Speed, Hz: l.Speed * float64(plan.Poles) / 120,
			Held: l.Speed != l.Scaled || c.DeadBand > 0 && l.Signal-c.Low < c.DeadBand}
		stated := func(v float64) *float64 {
			if math.IsNaN(v) {
				return nil
			}
			return &v
		}
		p.Counts, p.Asks, p.Machine = stated(l.Counts), stated(l.Asks), stated(l.Speed*perTurn)
		return p
	}
	for _, share := range []float64{0, .25, .5, .75, 1} {
		out.Points = append(out.Points, point(share))
	}
	for i := range 101 {
		out.Line = append(out.Line, point(float64(i)/100))
	}
	if v := c.PerCount(); !math.IsNaN(v) {
		out.PerCount = &v
	}
	out.forms(family, c)
	out.found(sig, c)
	out.lose(in, c)
	return out
}

// forms are the line by two points and by both orders of offset and gain: percent of the signal's span, and of the highest speed.
func (out *Scaling) forms(family *dialect.Family, c signal.Chain) {
	top := c.Highest
	if !(top > 0) {
		top = math.Max(c.SpeedLow, c.SpeedHigh)
	}
	if len(c.Bends) > 0 {
		return // a bent line is no two points
	}
	out.TwoPoint = fmt.Sprintf("%s %s gives %s r/min, %s %s gives %s r/min", quantity.Digits(c.Low, 4), out.Unit,
		quantity.Digits(c.SpeedLow, 4), quantity.Digits(c.High, 4), out.Unit, quantity.Digits(c.SpeedHigh, 4))
	f, ok := signal.Forms(0, c.SpeedLow/top*100, 100, c.SpeedHigh/top*100)
	if !ok {
		return
	}
	own := ""
	if family != nil {
		for i := range family.Settings {
			if x := &family.Settings[i]; x.Intent == "reference.gain" {
				own = x.Convention
			}
		}
	}
	for _, x := range f {
		words := map[string]string{"offset-gain": "(signal + offset) × gain", "gain-offset": "signal × gain + offset"}[x.Method]
		out.Forms = append(out.Forms, ScaledForm{Order: words, Offset: x.Offset, Gain: x.Gain, Invert: x.Invert, Own: x.Method == own})
	}
}

// found holds measured points against the line, and their jitter apart from that.
func (out *Scaling) found(sig drivefile.Signal, c signal.Chain) {
	var points []signal.Point
	worst := 0.
	span := math.Abs(c.SpeedHigh - c.SpeedLow)
	for _, id := range slices.Sorted(maps.Keys(sig.Points)) {
		p := sig.Points[id]
		x, y := p.In.Num(quantity.Ratio, ""), p.Out.Num(quantity.Speed, "r/min")
		if math.IsNaN(x) || math.IsNaN(y) {
			continue
		}
		points = append(points, signal.Point{In: x, Out: y})
		f := ScaledFound{Signal: x, RPM: y, Want: c.At((x - c.Low) / (c.High - c.Low)).Speed}
		f.Fits = math.Abs(f.RPM-f.Want) <= signal.Within*span
		if v := p.Spread.Num(quantity.Figure, ""); !math.IsNaN(v) {
			f.Spread = &v
			worst = math.Max(worst, v)
		}
		out.Measured = append(out.Measured, f)
	}
	if m, ok := signal.Through(c.Telling(points), c.Low, c.High); ok && span > 0 && len(c.Bends) == 0 {
		out.Fit = fmt.Sprintf("Through the points: %s %s gives %s r/min, %s %s gives %s r/min", quantity.Digits(c.Low, 4), out.Unit,
			quantity.Digits(m.Low, 4), quantity.Digits(c.High, 4), out.Unit, quantity.Digits(m.High, 4))
		if m.Worst > 0 {
			out.Fit += fmt.Sprintf("; the farthest lies %s r/min off that line", quantity.Digits(m.Worst, 4))
		}
	}
	if worst > 0 && span > 0 {
		out.Jitter = fmt.Sprintf("It goes up and down by %s r/min, %s %% of the span", quantity.Digits(worst, 4),
			quantity.Digits(100*worst/span, 4))
		switch step := c.PerCount(); {
		case step > 0 && worst < 1.5*step:
			out.Jitter += ": one count of the controller, no more."
		case worst > .01*span:
			out.Jitter += ": noise. Screen at one end, cores apart from motor cables, the filter of the reference longer. An offset it " +
				"is not: its middle is what counts."
		default:
			out.Jitter += ": as good signals are."
		}
	}
}

// lose is how a lost signal is known, and the test that proves what it does.
func (out *Scaling) lose(in drivefile.Intent, c signal.Chain) {
	does := map[string]string{"stop": "it stops", "hold": "it holds its speed", "fault": "it trips",
		"lowest": "it goes to its lowest speed", "preset": "it goes to preset 1"}[in.ReferenceLoss]
	if does == "" {
		does = "not decided yet"
	}
	if out.Unit == "mA" {
		below := in.LostBelow.Num(quantity.Figure, "")
		if in.LostBelow.Value == nil {
			below = dialect.UsualLost
		}
		out.Lost = append(out.Lost, fmt.Sprintf("At %s mA and below the signal counts as lost, from 3.8 mA on as valid (NAMUR NE 43); "+
			"above 21 mA "+
			"it has failed too.", quantity.Format(below)),
			fmt.Sprintf("Test: at a middle speed, people clear, take the signal's wire off at the drive. Must happen: %s. Put it back: "+
				"note whether it runs on by itself.", does))
		return
	}
	at := c.At(0)
	out.Lost = append(out.Lost, fmt.Sprintf("A broken wire reads 0 V: it asks for %s r/min, and nothing tells that it is broken. 4 to "+
		"20 mA does.", quantity.Digits(at.Speed, 4)),
		fmt.Sprintf("Test: at a middle speed, people clear, take the signal's wire off at the drive. Must happen: it goes to %s r/min.",
			quantity.Digits(at.Speed, 4)))
}
