package gate

import (
	"fmt"
	"math"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/translate"
)

// wishFindings are what is wrong with these wishes, or not to be had from the family.
func (g *spanGate) wishFindings() {
	in := g.job.Drive.Intent
	say := func(code string, s finding.Severity, field, title, detail, action string, basis ...string) {
		b := map[string]string{"family": g.job.Drive.Rating.Dialect}
		for i, v := range basis {
			b[fmt.Sprint(i)] = v
		}
		g.finding(gateOf("intent."+field),
			finding.Finding{Code: code, Severity: s, Field: "intent." + field, Title: title, Detail: detail, Action: action}, b)
	}
	for _, what := range g.lacks {
		if what.Name == "brake" {
			t := g.job.Drive.Turn
			g.finding("span", finding.Finding{Code: "brake-not-planned", Severity: finding.Stop, Field: "turn.brake",
				Title: "This family cannot open a brake",
				Detail: "Gate Turn says that the drive opens it: no setting of this family does, so it would stay closed, or open " +
					"without torque behind it.",
				Action: "Another family, or a brake that is opened apart"},
				map[string]string{"family": g.job.Drive.Rating.Dialect, "brake": t.Brake})
			continue
		}
		say("family-has-none/"+what.Words, finding.Look, dialect.WishFrom(what.Name), "This family has no setting for a wish: "+what.Words,
			"It stays in the plan, and nothing in the drive does it.", "Another way to the same, or leave it out")
	}
	low, high := in.LowestSpeed.Num(quantity.Speed, "r/min"), in.HighestSpeed.Num(quantity.Speed, "r/min")
	for _, b := range []struct {
		field    string
		from, to drivefile.Q
	}{{"skip_1_from", in.Skip1From, in.Skip1To}, {"skip_2_from", in.Skip2From, in.Skip2To}} {
		from, to := b.from.Num(quantity.Speed, "r/min"), b.to.Num(quantity.Speed, "r/min")
		switch {
		case math.IsNaN(from) && math.IsNaN(to):
		case math.IsNaN(from) || math.IsNaN(to):
			say("skip-one-end", finding.Do, b.field, "A skip band has one end only", "A band is from one speed to another.",
				"Enter the other end", b.from.Text, b.to.Text)
		case from >= to:
			say("skip-turned", finding.Stop, b.field, "A skip band ends before it begins",
				fmt.Sprintf("From %s to %s r/min.", f4(from), f4(to)), "Exchange the two", b.from.Text, b.to.Text)
		case low > from && low < to:
			say("lowest-in-skip", finding.Look, b.field, "The lowest speed lies in a skip band",
				fmt.Sprintf("It would turn at an end of %s to %s r/min instead.", f4(from), f4(to)), "Move one of them", b.from.Text,
				b.to.Text, in.LowestSpeed.Text)
		case high > from && high < to:
			say("highest-in-skip", finding.Look, b.field, "The highest speed lies in a skip band",
				fmt.Sprintf("It would turn at an end of %s to %s r/min instead.", f4(from), f4(to)), "Move one of them", b.from.Text,
				b.to.Text, in.HighestSpeed.Text)
		}
	}
	for _, m := range []struct {
		field, title, who string
		q                 drivefile.Q
	}{{"rotor_most", "Highest speed is above what the rotor bears", "The motor's maker states", in.RotorMost},
		{"gear_most", "Highest speed is above what gearbox or machine bear", "Stated at the motor's shaft:", in.GearMost}} {
		if v := m.q.Num(quantity.Speed, "r/min"); high > v {
			say("above-mechanical-limit", finding.Stop, m.field, m.title,
				fmt.Sprintf("%s %s r/min; %s r/min is wanted.", m.who, f4(v), f4(high)), "Lower it", m.q.Text, in.HighestSpeed.Text)
		}
	}
	if in.PowerUp == "on" {
		say("starts-with-power", finding.Look, "power_up", "It starts by itself when power comes",
			"With run held it turns as soon as the line is back: only where nobody can be in the zone (IEC 60204-1, 7.5).",
			"Keep it with a reason, or turn it off", in.PowerUp)
	}
	if f := g.job.Family; f != nil && g.job.Drive.Wiring.Interlock {
		back := in.InterlockBack
		if back == "" {
			back = f.Reacts("interlock-back", f.Delivered(g.plan.Variant))
		}
		if back == "goes-on" {
			say("interlock-starts", finding.Look, "interlock_back", "It starts by itself when the interlock closes",
				"With run held it turns again as soon as the contact is back: only where nobody can be in the zone (IEC 60204-1, "+
					"9.2.3.2).", "Keep it with a reason, or ask for a fresh run command", back)
		}
	}
	if in.FlyingStart != "on" && in.StopMode == "coast" && in.Load == "quadratic" {
		say("no-flying-start", finding.Do, "flying_start", "A coasting fan is started while it still turns",
			"Started so without a flying start it trips, or brakes hard.", "Flying start on, or wait until it stands", in.FlyingStart,
			in.StopMode, in.Load)
	}
	if in.SpeedSource == "motor-potentiometer" && in.PotKeeps == "always" {
		say("kept-through-power", finding.Look, "pot_keeps", "It starts at the speed that it had before the power went",
			"Faster and slower are kept for good: after days, and whoever starts it then, it goes straight to that speed.",
			"Keep it with a reason, or let it begin at the lowest", in.PotKeeps)
	}
	if v := in.TorqueLimit.Num(quantity.Percent, "%"); (v > 0 || in.TorqueBraking.Num(quantity.Percent, "%") > 0) &&
		in.Control != "vector" {
		say("torque-limit-needs-vector", finding.Note, "torque_limit", "Torque limits act in vector control",
			"On volts per hertz the drive does not know its torque: there the current limit holds.", "", in.TorqueLimit.Text,
			in.TorqueBraking.Text, in.Control)
	}
	if set, top := in.LoopSetpoint.Num(quantity.Percent, "%"), in.LoopAtTop.Num(quantity.Percent, "%"); in.Loop == "on" && set > top {
		say("setpoint-out-of-reach", finding.Look, "loop_setpoint", "The setpoint is out of reach",
			fmt.Sprintf("%s %% is wanted; at the highest speed the measured value is %s %%: it would run there for ever.", f4(set),
				f4(top)), "A lower setpoint, or what the value really is", in.LoopSetpoint.Text, in.LoopAtTop.Text)
	}
	if in.Loop == "on" && in.Sleep.Num(quantity.Speed, "r/min") > 0 {
		say("wakes-by-itself", finding.Look, "sleep", "It starts by itself when it wakes",
			"A loop that sleeps below a speed starts the shaft again as soon as it asks for more: only where nobody can be in the zone, "+
				"and a sign says so.", "Keep it with a reason, or no sleep", in.Loop, in.Sleep.Text)
	}
	g.brakeTiming(say)
	g.standing(say)
	g.resistorFits(say)
	if in.DCBrake == "on" && g.job.Drive.Turn.Hanging {
		say("dc-brake-holds-nothing", finding.Stop, "dc_brake", "A DC brake does not hold a hanging load",
			"It brakes a turning rotor; at standstill it gives hardly any torque, and heats the motor.", "A mechanical brake", in.DCBrake)
	}
}

// brakeTiming demands a brake for a load that falls, and says in which order it and the torque come and go.
func (g *spanGate) brakeTiming(say func(code string, s finding.Severity, field, title, detail, action string, basis ...string)) {
	t := g.job.Drive.Turn
	if !t.Hanging {
		return
	}
	if t.Brake == "none" {
		say("hanging-without-brake", finding.Stop, "stop_mode", "A hanging load has no brake",
			"When torque goes, by a stop, a trip or a lost line, it falls.",
			"A brake that closes without a voltage, sized by a qualified person", t.Brake)
		return
	}
	if t.Brake == "" {
		return
	}
	opens, closes := t.Opens.Num(quantity.Seconds, "s"), t.Closes.Num(quantity.Seconds, "s")
	how := ""
	if math.IsNaN(opens) || math.IsNaN(closes) {
		how = " As usual for its size: enter its own times at gate Turn."
		opens, closes = translate.BrakeOpens, translate.BrakeCloses
	}
	if g.job.Drive.Intent.StopMode == "coast" {
		say("hanging-coasts", finding.Stop, "stop_mode", "A hanging load must not be stopped by coasting",
			fmt.Sprintf("Torque goes at once, and the brake takes %s s to close: it falls meanwhile.", f4(closes)),
			"Stop by a ramp, and close the brake at standstill", g.job.Drive.Intent.StopMode, t.Closes.Text)
	}
	say("brake-timing", finding.Note, "stop_mode", "Torque before the brake, the brake before torque",
		fmt.Sprintf("Start: magnetised, torque proved, brake opened, %s s, then the ramp. Stop: ramp to standstill, torque held, brake "+
			"closed, %s s, then torque off.%s", f4(opens), f4(closes), how), "", t.Opens.Text, t.Closes.Text)
}

// resistorFits holds the braking resistor against what the drive bears.
func (g *spanGate) resistorFits(say func(code string, s finding.Severity, field, title, detail, action string, basis ...string)) {
	in := g.job.Drive.Intent
	fitted, least := in.Resistor.Num(quantity.Resistance, "Ω"), in.ResistorLeast.Num(quantity.Resistance, "Ω")
	switch {
	case math.IsNaN(fitted):
	case math.IsNaN(least):
		say("resistor-least-unknown", finding.Do, "resistor_least", "How few ohms does the drive bear?",
			"Below that its brake transistor fails at the first stop.", "Enter it from the drive's papers", in.Resistor.Text)
	case fitted < least:
		say("resistor-too-low", finding.Stop, "resistor", "The braking resistor has too few ohms",
			fmt.Sprintf("%s Ω; the drive bears no less than %s Ω.", f4(fitted), f4(least)), "Another resistor", in.Resistor.Text,
			in.ResistorLeast.Text)
	}
}
