package ride

import (
	"fmt"
	"math"
	"strings"

	"tingate/bench"
	"tingate/core/drive"
	"tingate/core/finding"
)

// Judged is the verdict on a plan by riding it: what every screen says of it is this.
type Judged struct {
	Findings []finding.Finding
	Low      string // holds, stalls, trips: at the lowest speed; empty: not ridden
}

// Shares by which a ramp may be stretched before that is said. Common practice.
const (
	stretched      = 1.15
	stretchedLeast = .5  // s
	judgedHold     = 3.  // s at the lowest speed
	judgedRise     = 20. // s at most to get there
)

// Judge rides a plan to its highest speed and back, and to its lowest (Hz; 0: it has none), and says what trips, stalls or reaches a limit.
// What it advises belongs to the phase in which that came, and is not chosen already.
//
// sure: a person stated what the load takes and its inertia; else nothing of it stops a gate, and each finding says what it rests on.
func Judge(s bench.Setup, lowest float64, sure bool) (Judged, error) {
	out := Judged{Findings: []finding.Finding{}}
	b, err := bench.New(s)
	if err != nil {
		return out, err
	}
	d := b.Sim()
	r, err := Of(s, Want{})
	if err != nil {
		return out, err
	}
	for _, f := range judge(d, s.Load.Kind == "hanging", r) {
		if !sure {
			f.Detail += " The load's torque or inertia is assumed, not stated."
			if f.Severity == finding.Stop {
				f.Severity = finding.Look
			}
		}
		out.Findings = append(out.Findings, f)
	}
	if lowest < .5 || lowest >= d.C.Upper || r.Stands != "" {
		return out, nil
	}
	// Only whether it is held there is asked: it goes there in some seconds, whatever the ramp, and is not stopped.
	w, err := start(s, Want{Hz: lowest, Rise: math.Max(d.C.Rise, lowest/judgedRise)})
	if err != nil {
		return out, err
	}
	w.rise(judgedHold)
	switch low := w.Out; {
	case low.Stands != "":
	case low.Stalled || low.Trip != nil && low.Trip.Stalls:
		out.Low = "stalls"
	case low.Trip != nil:
		out.Low = "trips"
	default:
		out.Low = "holds"
	}
	return out, nil
}

// judge says what a ride by the plan shows.
func judge(d *drive.Drive, hanging bool, r Ride) []finding.Finding {
	var l []finding.Finding
	say := func(code string, sev finding.Severity, field, title, detail, action string) {
		l = append(l, finding.Finding{Code: code, Severity: sev, Field: "intent." + field, Title: title, Detail: detail, Action: action})
	}
	switch t := r.Trip; {
	case r.Stands != "":
		say("ridden-stands", finding.Look, "highest_speed", "Ridden on its own bench, the plan does not run", upper(r.Stands)+".",
			"See gate Signal for what it waits for")
	case t != nil:
		field, where := "rise", "in the rise"
		switch t.While {
		case "hold":
			field, where = "highest_speed", "at speed"
		case "fall":
			field, where = "fall", "in the fall"
		}
		if t.Stalls {
			say("ridden-stalls", finding.Stop, "rise", "Ridden on its own bench, the motor stalls in the rise",
				fmt.Sprintf("At %.3g of %.3g Hz the limit holds it, %.3g A, until it trips after %.1f s: %s. The load takes more than "+
					"the motor gives there.", math.Abs(t.Hz), d.C.Upper, t.Current, t.T, firstOf(t.Word, t.Code)), helps(&d.C, hanging))
			return l
		}
		say("ridden-trips", finding.Stop, field, "Ridden on its own bench, the plan trips "+where,
			fmt.Sprintf("%s after %.1f s, at %.3g Hz: %.3g A, %.0f V. The drive lets go, and the shaft coasts.", firstOf(t.Word, t.Code),
				t.T, t.Hz, t.Current, t.Link), remedy(d, t))
	case r.Stalled:
		say("ridden-stalls", finding.Stop, "highest_speed", "Ridden on its own bench, the motor stalls",
			fmt.Sprintf("It stays at %.4g r/min, %.3g A: the load takes more than the motor gives there.", math.Abs(r.Top), r.Steady),
			helps(&d.C, hanging))
	}
	if r.Trip != nil || r.Stands != "" || r.Stalled {
		return l
	}
	if r.Rise != nil && *r.Rise > stretched*r.AskedRise+stretchedLeast && r.Limited > .5*(*r.Rise-r.AskedRise) {
		limit := "current"
		if r.PeakRise < .97*r.CurrentLimit {
			limit = "torque"
		}
		say("ridden-limited", finding.Look, "rise", "The "+limit+" limit stretches the rise",
			fmt.Sprintf("Ridden, it takes %.3g s where %.3g are asked for; the limit held it for %.3g s.", *r.Rise, r.AskedRise,
				r.Limited), "Ask for the time that it takes, or a higher limit if motor and drive bear it")
	}
	if d.C.Coast {
		return l
	}
	switch {
	case r.Fall == nil:
		say("ridden-never-stands", finding.Look, "fall", "Ridden, it does not come to rest",
			fmt.Sprintf("Not within the time of three falls and some minutes; %.3g s are asked for.", r.AskedFall),
			"See the ride at gate Span: what is measured at the machine counts")
	case r.Eased > .1 && *r.Fall > stretched*r.AskedFall+stretchedLeast:
		action := "Ask for the time that it takes, or fit a braking resistor"
		if d.P.Link.Chopper > 0 {
			action = "Ask for the time that it takes, or a resistor of fewer ohms if the drive bears them"
		}
		say("ridden-eased", finding.Look, "fall", "Bus control stretches the fall",
			fmt.Sprintf("Ridden, it takes %.3g s where %.3g are asked for: what comes back holds the link at its limit.", *r.Fall,
				r.AskedFall), action)
	}
	return l
}

func firstOf(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// remedy is what helps against a trip in its phase, and is not chosen already.
func remedy(d *drive.Drive, t *RideTrip) string {
	c, p := &d.C, &d.P
	switch {
	case t.Code == "bus-over-voltage" && t.While == "fall":
		switch {
		case !c.BusControl && p.Link.Chopper == 0:
			return "A longer fall; bus control on, which stretches it; or a braking resistor"
		case p.Link.Chopper == 0:
			return "A longer fall, or a braking resistor: bus control is on, and is not enough"
		}
		return "A longer fall, or a resistor of fewer ohms if the drive bears them"
	case t.Code == "bus-over-voltage":
		return "The line is too high, or the load drives the shaft: look at gate Wake's line and at the load"
	case t.Code == "bus-under-voltage":
		return "The line as it is recorded is too low for this drive"
	case t.Code == "overcurrent" && t.While == "rise":
		if c.Boost > .05 {
			return "A longer rise, or less boost"
		}
		return "A longer rise, or a lower current limit that holds the ramp in time"
	case t.Code == "overcurrent" && t.While == "fall":
		return "A longer fall"
	case t.Code == "motor-overload" && t.While == "rise":
		return "A shorter rise within the current limit, less load while it starts, or a larger motor"
	case t.Code == "motor-overload" && t.While == "fall":
		return "A longer fall, or a longer pause before it"
	case t.Code == "motor-overload":
		return "Less load, a lower highest speed, or a larger motor; the overload setting is the motor's current"
	case t.Code == "drive-temperature":
		return "Less load, a lower switching frequency, or a larger drive"
	}
	return "See the ride at gate Span"
}

// helps is what helps a motor that stalls.
func helps(c *drive.Config, hanging bool) string {
	switch {
	case c.Control == "volts-per-hertz" && c.Boost < .05 && !c.Quadratic:
		return "More boost, a higher current limit if motor and drive bear it, or less load at the start"
	case c.Control == "volts-per-hertz" && c.Quadratic:
		return "An even volts pattern, a lower highest speed, or a larger motor"
	case c.Control == "volts-per-hertz" && c.CurrentLimit < 1.45*c.Motor.Current:
		return "A higher current limit if motor and drive bear it, less load, or a larger motor"
	}
	if c.Control == "vector" && hanging {
		return "An encoder: without one the vector control does not know a shaft that stands and is pulled; or volts per hertz with boost"
	}
	return "A lower highest speed, less load, or a larger motor"
}

func upper(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
