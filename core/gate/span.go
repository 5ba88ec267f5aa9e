package gate

import (
	"fmt"
	"math"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/motion"
	"tingate/core/quantity"
)

// spanGate: speeds, ramps, limits, and what follows from them.
type spanGate struct{ asking }

func (g *spanGate) ask() {
	in := g.job.Drive.Intent
	set := func(q drivefile.Q) bool { return q.Value != nil }
	g.complete([]struct {
		name string
		set  bool
	}{{"lowest speed", set(in.LowestSpeed)}, {"highest speed", set(in.HighestSpeed)}, {"rise", set(in.Rise)}, {"fall", set(in.Fall)},
		{"current limit", set(in.CurrentLimit)},
		{"overload class", in.OverloadClass != ""}, {"stop mode", in.StopMode != ""}, {"directions", in.Direction != ""},
		{"control", in.Control != ""}, {"load", in.Load != ""}})
	low, high := in.LowestSpeed.Num(quantity.Speed, "r/min"), in.HighestSpeed.Num(quantity.Speed, "r/min")
	basis := map[string]string{"lowest": in.LowestSpeed.Text, "highest": in.HighestSpeed.Text, "rise": in.Rise.Text, "fall": in.Fall.Text,
		"class": in.OverloadClass}
	say := func(code string, s finding.Severity, field, title, detail, action string) {
		g.finding("span", finding.Finding{Code: code, Severity: s, Field: "intent." + field, Title: title, Detail: detail, Action: action},
			basis)
	}
	n := func(v float64) string { return quantity.Digits(v, 4) }
	if low >= high {
		say("lowest-above-highest", finding.Stop, "lowest_speed", "Lowest speed is not below the highest",
			n(low)+" r/min against "+n(high)+" r/min.", "Change one of them")
	}
	plate := g.plan.Motor.Speed
	if high > plate*1.02 && g.plan.Poles > 0 {
		f := g.plan.Frequency(high)
		detail := fmt.Sprintf("%s r/min needs %s Hz; above %s Hz the motor gives less torque. Check rotor, gearbox and machine.", n(high),
			n(f), n(g.plan.Motor.Frequency))
		if math.IsNaN(f) {
			detail = fmt.Sprintf("The load's torque at %s r/min is more than the motor can pull there.", n(high))
		}
		say("above-plate-speed", finding.Look, "highest_speed", "Highest speed is above the plate speed", detail,
			"Keep it with a reason, or lower it")
	}
	g.cooled(low, say)
	g.coasts()
	for _, r := range []struct {
		field string
		q     drivefile.Q
	}{{"rise", in.Rise}, {"fall", in.Fall}} {
		if r.q.Value != nil && !(*r.q.Value > 0) {
			say("ramp-zero", finding.Stop, r.field, drivefile.Called(r.field)+" must be above zero",
				"A ramp of zero is a step, and trips.", "Enter seconds from 0 to the highest speed")
		} else if r.q.Value != nil && math.IsNaN(g.slopeOf(r.q, high)) {
			say("ramp-needs-highest", finding.Do, r.field, drivefile.Called(r.field)+" waits for the highest speed",
				"Seconds count from 0 to the highest speed.", "Enter the highest speed")
		}
	}
	if in.Restart == "on" {
		here := ""
		if g.choice("restart", "fresh") == "fresh" {
			here = " This practice asks for a fresh run command."
		}
		say("automatic-restart", finding.Look, "automatic_restart", "The drive restarts by itself",
			"Only for a process interlock where nobody can be in the zone; never after an emergency stop or a guard (ISO 13850, IEC "+
				"60204-1)."+here, "Keep it with a reason, or turn it off")
		if most, where := g.restartsMost(); where != "" && most < 1 {
			say("restarts-none", finding.Do, "restarts_most", "It restarts not once",
				fmt.Sprintf("%s is %s: whatever else is set, this family stays with its fault.", where, n(most)),
				"Say how often at most, or turn the automatic restart off")
		}
	}
	if v := in.LoadFriction.Num(quantity.Percent, "%"); v < 0 {
		say("friction-below-zero", finding.Stop, "load_friction", drivefile.Called("load_friction")+" is below zero",
			"What rubs holds a shaft back, whichever way it turns: it is counted as none.", "Enter a share of the rated torque, or nothing")
	}
	if want := g.choice("torque_off_is", in.TorqueOffShows); in.TorqueOffShows != "" && in.TorqueOffShows != want {
		g.finding("span", finding.Finding{Code: "torque-off-against-practice", Severity: finding.Look, Field: "intent.torque_off_shows",
			Title:  "Torque off shows otherwise than here usual",
			Detail: "Wanted as a " + in.TorqueOffShows + "; this practice: a " + want + ". Who reads the display must know which.",
			Action: "Keep it with a reason, or change it"},
			map[string]string{"shows": in.TorqueOffShows, "practice": want})
	}
	if g.plan.DriveCurrent > 0 && g.plan.Motor.Current > g.plan.DriveCurrent {
		say("motor-above-drive", finding.Look, "current_limit", "The motor takes more than the drive gives",
			fmt.Sprintf("Motor %s A, drive %s A: full torque cannot be held.", n(g.plan.Motor.Current), n(g.plan.DriveCurrent)),
			"Check the drive's label and the row in use")
	}
	g.ridden()
	g.wishFindings()
	g.against()
	g.findingsAnswered()
	g.readBack("Limits and ramps read back")
}

// cooled holds the lowest speed against what the motor bears there for ever.
func (g *spanGate) cooled(low float64, say func(code string, s finding.Severity, field, title, detail, action string)) {
	cooling, rated := g.job.Drive.Motor.Cooling, g.plan.Motor.Speed
	if cooling == "" || !(rated > 0) || !(low >= 0) || g.job.Drive.Intent.Load == "" {
		return
	}
	own := cooling == "own-fan" || cooling == "none"
	asked, borne := g.plan.TorqueRatio(low), motion.OwnFan(low/rated, own)
	if asked <= borne+1e-6 {
		return
	}
	least := rated * motion.LowestFor(func(s float64) float64 { return g.plan.TorqueRatio(s * rated) }, own)
	say("too-slow-for-its-fan", finding.Look, "lowest_speed", "At its lowest speed the motor gets too hot",
		fmt.Sprintf("The load takes %s %% of the rated torque at %s r/min; cooled so it bears about %s %% for ever (common practice). "+
			"From %s r/min on it is borne.", f4(asked*100), f4(low), f4(borne*100), f4(least)), "A higher lowest speed, a fan of its "+
			"own drive, or keep it with a reason: short spells, a winding sensor")
}

// restartsMost is how often this drive would restart by itself, and the setting that says so; empty: no setting of its family bounds it.
func (g *spanGate) restartsMost() (most float64, where string) {
	f := g.job.Family
	if f == nil {
		return 0, ""
	}
	d := f.Driven(f.Delivered(g.plan.Variant))["restarts-most"]
	if d.Setting == nil {
		return 0, ""
	}
	where = d.Setting.Code + ", " + d.Setting.Name + ","
	if v := g.job.Drive.Intent.RestartsMost.Value; v != nil {
		return *v, where
	}
	return d.Value, where + " as delivered,"
}
