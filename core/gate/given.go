package gate

import (
	"fmt"
	"math"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/sheet"
)

// countedOtherwise finds a drive that counts its speeds otherwise than the sheet does: each of its figures means another speed there.
func (g *signalGate) countedOtherwise() {
	f := g.job.Family
	if f == nil || f.Doing("speed-unit") == nil {
		return
	}
	s := f.Doing("speed-unit")
	read := sheet.Shown(s, g.rec.Reads[s.Code])
	wants := s.DeliverySteps()
	for _, l := range g.lines {
		if l.Code == s.Code && l.Planned {
			wants = l.Steps
		}
	}
	if read == nil || read.Steps == nil || *read.Steps == wants {
		return
	}
	g.finding("signal", finding.Finding{Code: "speeds-counted-otherwise", Severity: finding.Stop, Field: "intent.speed_unit",
		Title: fmt.Sprintf("The drive counts its speeds in %s, the sheet in %s", s.WithUnit(*read.Steps), s.WithUnit(wants)),
		Detail: fmt.Sprintf("%s, %s. What is entered or read by the sheet's figures at %s is another speed there.", s.Code, s.Name,
			strings.Join(s.Moves, ", ")),
		Action: fmt.Sprintf("Set %s first, or say in what they are counted", s.Code)},
		map[string]string{"read": read.Text, "wants": s.Text(wants)})
}

// networkFindings are what is wrong with a network that commands, by what is wanted and by what the family delivers.
func (g *signalGate) networkFindings() {
	in, f := g.job.Drive.Intent, g.job.Family
	if in.CommandSource != "network" && in.SpeedSource != "network" {
		return
	}
	basis := map[string]string{"lost": in.NetLost, "wait": in.NetWait.Text, "address": in.NetAddress.Text,
		"family":  g.job.Drive.Rating.Dialect,
		"command": in.CommandSource, "speed": in.SpeedSource}
	say := func(code string, s finding.Severity, field, title, detail, action string) {
		g.finding("signal", finding.Finding{Code: code, Severity: s, Field: "intent." + field, Title: title, Detail: detail,
			Action: action}, basis)
	}
	delivered := func(role string) (s *dialect.Setting, steps int64, words string) {
		if f == nil {
			return nil, 0, ""
		}
		if s = f.Doing(role); s != nil {
			steps = s.DeliveryFor(g.plan.Variant)
			words = fmt.Sprintf(" As delivered %s, %s, is %s.", s.Code, s.Name, s.WithUnit(steps))
		}
		return s, steps, words
	}
	_, _, words := delivered("network-lost")
	switch in.NetLost {
	case "":
		say("network-lost-open", finding.Do, "network_lost", "What a lost network does is not said",
			"A controller that stops, or a plug that is pulled, leaves the last command standing."+words, "Say what the drive does then")
	case "goes-on", "hold":
		say("runs-without-network", finding.Look, "network_lost", "It runs on when the network is lost",
			"Nobody can stop it over the network then: only where something else stops it, and nobody can be in the zone.",
			"Keep it with a reason, or let it stop")
	}
	s, steps, words := delivered("network-wait")
	wait, said := in.NetWait.Num(quantity.Seconds, "s"), in.NetWait.Value != nil
	if said && !(wait > 0) || !said && s != nil && steps == 0 {
		say("network-never-lost", finding.Stop, "network_wait", "A lost network is never noticed",
			"With a time of nothing the drive does not watch: what it does when the network is lost never happens."+words,
			"Enter a time: some telegrams of this network")
	}
	if s, _, words := delivered("network-address"); s != nil && in.NetAddress.Value == nil {
		say("address-as-delivered", finding.Do, "network_address", "The network's address is as delivered",
			"Every drive of the family comes with the same; two on one line both answer, and neither is understood."+words,
			"Enter the address that this line has for it")
	}
}

// lostFindings hold what counts as a lost signal against the signal.
func (g *signalGate) lostFindings() {
	in := g.job.Drive.Intent
	below := in.LostBelow.Num(quantity.Figure, "")
	if in.LostBelow.Value == nil || in.SpeedSource != "current" {
		return
	}
	say := func(code, title, detail, action string) {
		g.finding("signal", finding.Finding{Code: code, Severity: finding.Stop, Field: "intent.lost_below", Title: title, Detail: detail,
			Action: action}, map[string]string{"below": in.LostBelow.Text})
	}
	switch {
	case below >= 3.8:
		say("lost-too-early", "A good signal counts as lost",
			fmt.Sprintf("From 3.8 mA on a signal is valid, 4 mA is its low end (NAMUR NE 43); below %s mA it counts as lost.", f4(below)),
			"3.6 mA, or what the sender's papers say")
	case below < 2:
		say("lost-never", "A broken wire is not noticed",
			fmt.Sprintf("A signal counts as lost below %s mA; what a damp or chafed wire still leads is more.", f4(below)),
			"3.6 mA, or what the sender's papers say")
	}
}

// opensFrom is the current from which on the drive lets its brake open, % of the motor's, as wanted or as delivered; NaN: no current does.
func (g *spanGate) opensFrom() (percent float64, where string) {
	if q := g.job.Drive.Intent.BrakeOpensAt; q.Value != nil || g.job.Family == nil {
		return q.Num(quantity.Percent, "%"), ""
	}
	d := g.job.Family.Driven(g.job.Family.Delivered(g.plan.Variant))["brake-opens-at"]
	if d.Setting == nil {
		return math.NaN(), ""
	}
	share := d.Value / 100
	if d.Setting.Unit == "‰" {
		share = d.Value / 1000
	}
	return share * g.plan.DriveCurrent / g.plan.Motor.Current * 100, fmt.Sprintf(", %s as delivered", d.Setting.Code)
}

// mostPreheat is the current, % of the motor's, above which heating at standstill is no mere keeping dry. Common practice.
const mostPreheat = 30

// standing are findings on what the drive does on its own: magnetised at standstill, ramps by themselves, when its brake moves.
func (g *spanGate) standing(say func(code string, s finding.Severity, field, title, detail, action string, basis ...string)) {
	d := g.job.Drive
	in := d.Intent
	if in.Magnetise == "on" {
		detail := "The motor is live while it stands, and its shaft can turn with the next command without a sound before: " +
			"torque off before a hand goes near."
		if d.Motor.Cooling == "own-fan" || d.Motor.Cooling == "none" {
			detail += " Its own fan stands too: it gets warm (a winding sensor, or only as long as the process asks for it)."
		}
		say("live-at-standstill", finding.Look, "magnetise", "It stays magnetised while it stands", detail,
			"Keep it with a reason, or turn it off",
			d.Motor.Cooling)
	}
	if heat := in.Preheat.Num(quantity.Percent, "%"); heat > 0 {
		detail := "The motor is live while it stands: torque off before a hand goes near."
		if heat > mostPreheat {
			detail += fmt.Sprintf(" %s %% is more than keeps damp away, which wants some 5 to 20 %% of its current (common practice): its "+
				"winding gets warm without its fan.", f4(heat))
		}
		say(
			"warmed-at-standstill",
			finding.Look,
			"preheat",
			"It is kept warm while it stands",
			detail,
			"Keep it with a reason, or turn it off",
			in.Preheat.Text,
		)
	}
	if in.AutoRamp == "on" && (in.Rise.Value != nil || in.Fall.Value != nil) {
		say("ramps-keep-no-time", finding.Look, "auto_ramp", "Ramps by themselves keep no time",
			"The drive ramps as fast as its limits let it: the rise and the fall that are wanted do not act, and differ from start to "+
				"start. Not "+
				"where a process or a stop needs a time.", "Leave it off, or keep it with a reason", in.Rise.Text, in.Fall.Text)
	}
	if d.Turn.Brake != "drive" {
		return
	}
	opens, where := g.opensFrom()
	if most := in.CurrentLimit.Num(quantity.Percent, "%"); opens > most {
		say("brake-never-opens", finding.Stop, "brake_opens_at", "The brake would never open",
			fmt.Sprintf("It opens from %s %% of the motor's current on%s; the current limit is %s %%.", f4(opens), where, f4(most)),
			"A lower threshold", f4(opens), in.CurrentLimit.Text)
	}
	closes, plate := in.BrakeClosesAt.Num(quantity.Speed, "r/min"), g.plan.Motor.Speed
	if closes > .1*plate {
		say("brake-closes-early", finding.Look, "brake_closes_below", "The brake closes onto a turning shaft",
			fmt.Sprintf("At %s r/min, %s %% of the plate's speed: every stop wears its lining. Usual is some 2 to 5 %% (common practice).",
				f4(closes), f4(closes/plate*100)), "A lower speed, or keep it with a reason", in.BrakeClosesAt.Text)
	}
}

// curveFindings hold the points between the ends of the signal against one another: shares rise, and the speed goes one way.
func (g *signalGate) curveFindings() {
	in := g.job.Drive.Intent
	lastAt, last := 0.0, in.ReferenceLow.Num(quantity.Speed, "r/min")
	high := in.ReferenceHigh.Num(quantity.Speed, "r/min")
	open := false
	for i, q := range []struct {
		at, speed       drivefile.Q
		atName, spdName string
	}{{in.Curve1At, in.Curve1, "curve_1_at", "curve_1_speed"}, {in.Curve2At, in.Curve2, "curve_2_at", "curve_2_speed"},
		{in.Curve3At, in.Curve3, "curve_3_at", "curve_3_speed"}} {
		say := func(code string, s finding.Severity, field, title, detail, action string) {
			g.finding("signal", finding.Finding{Code: fmt.Sprintf("%s/%d", code, i+1), Severity: s, Field: "intent." + field, Title: title,
				Detail: detail, Action: action}, map[string]string{"at": q.at.Text, "speed": q.speed.Text, "before": f4(lastAt) + " " +
				f4(last),
				"high": in.ReferenceHigh.Text})
		}
		at, speed := q.at.Num(quantity.Percent, "%"), q.speed.Num(quantity.Speed, "r/min")
		none := q.at.Value == nil && q.speed.Value == nil
		switch {
		case none:
			open = true
			continue
		case q.at.Value == nil || q.speed.Value == nil:
			field := q.atName
			if q.speed.Value == nil {
				field = q.spdName
			}
			say("curve-half", finding.Do, field, "A point of the reference is half entered", "It is a share of the signal and a speed.",
				"Enter the other half")
			continue
		case open:
			say("curve-gap", finding.Stop, q.atName, "A point of the reference stands behind an empty one",
				"Drives end the curve at the first empty point.", "Enter the points from the first on")
		case !(at > lastAt && at < 100):
			say("curve-not-rising", finding.Stop, q.atName, "The points of the reference do not rise",
				fmt.Sprintf("%s %% comes behind %s %%, and 100 %% is the high end: from there on the curve ends.", f4(at), f4(lastAt)),
				"Enter shares that rise")
		case (speed-last)*(high-last) < 0 || (high-speed)*(high-last) < 0:
			say("curve-turns-back", finding.Look, q.spdName, "The reference turns back on its way",
				fmt.Sprintf("From %s to %s r/min, and on to %s r/min: more signal gives less speed somewhere.", f4(last), f4(speed),
					f4(high)),
				"Speeds that go one way, or keep it with a reason")
		}
		lastAt, last = at, speed
	}
}

// nameFindings say which part of a name a display cannot show: drives that differ at the end of their tags would look alike.
func (g *signalGate) nameFindings() {
	for _, l := range g.lines {
		whole := g.job.Drive.Intent.DriveName
		if whole == "" {
			whole = g.job.Drive.Tag
		}
		if whole = strings.TrimSpace(whole); l.Kind == "text" && l.Planned && l.SetTo != whole && l.Rounded != "" {
			g.finding("signal", finding.Finding{Code: "name-cut", Severity: finding.Note, Field: "intent.drive_name",
				Title:  "Its display cannot show the whole name",
				Detail: fmt.Sprintf("“%s” of “%s”: drives whose tags differ at the end look alike.", l.SetTo, whole),
				Action: "A shorter name that tells it apart"}, map[string]string{"name": whole, "shows": l.SetTo})
		}
	}
}
