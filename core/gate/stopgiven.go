package gate

import (
	"fmt"
	"math"
	"strings"
	"time"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/safety"
	"tingate/core/stops"
	"tingate/core/translate"
)

// stopFindings are what a circuit of this kind must not be, or be known for.
func (g *stopGate) stopFindings(c drivefile.StopCircuit, d *stops.Drawing) {
	st := g.job.Drive.Stop
	basis := map[string]string{"kind": c.Kind, "reset": c.Reset, "feed": c.Feed, "category": c.Category, "delay": c.Delay.Text,
		"fall": st.Fall.Text, "guarding": st.Guarding, "latched": st.Latched}
	say := func(code string, sev finding.Severity, title, detail, action string) {
		g.finding("stop", finding.Finding{Code: code, Severity: sev, Field: "stop", Title: title, Detail: detail, Action: action}, basis)
	}
	if d != nil {
		for _, p := range d.Trained().Problems {
			say("test-pulse-trips", finding.Look, "A test pulse would switch something off", p,
				"A longer filter at what receives it, within what its papers allow, or shorter pulses")
		}
	}
	guards, people := 0, 0
	for _, x := range c.Devices {
		switch x.Kind {
		case stops.Guard, stops.ResetGuard, stops.LightCurtain:
			guards++
		case stops.EmergencyStop, "":
			people++
		}
	}
	if c.Reset == "automatic" && guards+people > 0 {
		say("circuit-starts-by-itself", finding.Stop, "The relay starts by itself",
			"After an emergency stop or a guard that one can pass through, a manual reset is asked for (ISO 13850, 4.1.4; ISO "+
				"13849-1:2015, 5.2.2).", "A reset that acts when let go")
	}
	if c.Reset == "pressed" {
		say("reset-when-pressed", finding.Look, "The reset acts when it is pressed",
			"A button that is jammed would start it: the reset of a safety function acts when let go (ISO 13849-1:2015, 5.2.2).",
			"Set the relay so, or keep it with a reason")
	}
	if g.job.Drive.Intent.Restart == "on" && guards+people > 0 {
		say("drive-restarts-by-itself", finding.Stop, "The drive is to restart by itself",
			"Refused after emergency stops and guards (ISO 13850, IEC 60204-1).", "Turn it off at gate Span")
	}
	if c.Jumper {
		say("links-still-in", finding.Stop, "The factory links are still in",
			"They feed both channels past every device: the circuit does nothing.", "Dead work: take them out")
	}
	two := c.Category == "3" || c.Category == "4"
	if c.Kind == "one-channel" {
		sev := finding.Look
		if two {
			sev = finding.Stop
		}
		say("one-channel", sev, "One channel only",
			"A single fault takes the whole function away; category 3 and 4 want two channels (ISO 13849-1:2015, 6.2).",
			"The responsible person decides")
	}
	if c.Kind != "one-channel" && c.Feed != "two" && c.Feed != "pulsed" && two {
		say("cross-short-not-seen", finding.Look, "Both channels come from one potential",
			"A short between them is not seen, and both do nothing together. Test pulses, or the two potentials of the supply, show it.",
			"The responsible person excludes it by how cables are laid, or it is fed otherwise")
	}
	if guards > 1 && c.Kind == "two-channel" {
		say("masking", finding.Look, "Guards in series hide one another's faults",
			"Opening a second guard can clear a fault that was found in the first: the coverage that may be claimed is limited (ISO/TR "+
				"24119). The table tests two open.", "The responsible person knows, or give each inputs of its own")
	}
	if st.As == "ramped" {
		delay, fall := translate.Millis(c.Delay), translate.Millis(st.Fall)
		switch {
		case delay == 0:
			say("ramp-without-delay", finding.Stop, "Torque goes at once, and a ramp is wanted",
				"A stop of category 1 keeps torque until it stands (IEC 60204-1, 9.2.2).", "Delayed outputs, or a stop by coasting")
		case fall == 0:
			say("fall-not-measured", finding.Do, "How long does the longest ramped stop take?",
				"The ramp is no safety function: the delay must exceed the longest fall that was measured.",
				"Enter it when gate Run has measured it; until then it is worked from the plan")
		case delay <= fall:
			say("delay-too-short", finding.Stop, "Torque goes before it stands",
				fmt.Sprintf("The delay is %s s, the longest fall %s s.", f4(float64(delay)/1000), f4(float64(fall)/1000)),
				"A longer delay that still keeps the distance, or a shorter fall")
		}
	}
	if st.As == "coast" && st.Guarding == "none" && len(c.Devices) > 0 {
		say("coast-without-locking", finding.Look, "Nothing keeps hands away while it coasts",
			"A long coast wants guard locking, a brake or a ramped stop; distance alone seldom does.", "The responsible person decides")
	}
	if st.Latched == "no" && c.Reset == "automatic" {
		say("nothing-latches", finding.Stop, "Neither the drive nor the relay latches",
			"Torque would be free as soon as the device is put back.", "A reset in one of them")
	}
	if st.Discrepancy.Num(quantity.Seconds, "s") > 3 {
		say("discrepancy-long", finding.Look, "The drive bears channels that disagree for long",
			"Longer than a device of two contacts ever needs (common practice: below 1 s).", "Set it shorter, or keep it with a reason")
	}
	if g.job.Drive.Motor.Kind == "permanent-magnet" && g.result.Poles > 0 {
		say("magnets-may-jerk", finding.Note, "Two shorted switches can jerk the shaft",
			fmt.Sprintf("By up to %s° with %d poles, even with torque off (IEC 61800-5-2, 4.2.2.2).", f4(720/float64(g.result.Poles)),
				g.result.Poles), "")
	}
	if d != nil && d.Sound() {
		for _, r := range d.Ladder() {
			if r.From == "" || r.To == "" {
				say("leads-nowhere-"+r.Load, finding.Stop, "Drawn so, "+r.Name+" is never fed",
					"Its "+r.Label()+" is joined to no source on one side, whatever is closed.", "Put the drawing right")
			}
		}
	}
	if d != nil && d.Sound() && len(d.Table) == 0 {
		say("nothing-to-test", finding.Stop, "The circuit has no device", "There is nothing to test.", "Name its devices")
	}
}

// isDate tells whether a text is a day or a month of a calendar (ISO 8601).
func isDate(text string) bool {
	for _, layout := range []string{"2006-01-02", "2006-01"} {
		if _, err := time.Parse(layout, strings.TrimSpace(text)); err == nil {
			return true
		}
	}
	return false
}

// responsible is what the responsible person gave, with its arithmetic checked; the assessment is theirs.
func (g *stopGate) responsible(c drivefile.StopCircuit) {
	const group = "As the responsible person gave it"
	missing := lacking("who is responsible", c.By, "their document", c.Paper, "category", c.Category, "level required", c.Required,
		"level reached", c.Reached, "date of the next proof test", c.Next)
	if c.Kind == "controller" {
		missing = append(missing, lacking("its program", c.Program, "the program's checksum", c.Checksum)...)
	}
	if c.Next != "" && !isDate(c.Next) {
		g.finding("stop", finding.Finding{Code: "next-no-date", Severity: finding.Look, Field: "stop.circuit",
			Title: "The next proof test has no date", Detail: fmt.Sprintf("%q is kept, and no calendar can remind of it.", c.Next),
			Action: "A date, like 2027-05 or 2027-05-14"}, map[string]string{"next": c.Next})
	}
	g.entered("stop/given/stated", group, "Category, level, document, next proof test", missing,
		fmt.Sprintf("%s, category %s, PL %s of %s required; %s.", c.By, c.Category, c.Reached, c.Required, c.Paper))
	if c.Required != "" && c.Reached != "" {
		verdict := Holds
		if c.Reached < c.Required {
			verdict = Stops
		}
		g.computed("stop/given/level", group, "The level reached is at least the one required", verdict,
			fmt.Sprintf("PL %s reached, PL %s required.", c.Reached, c.Required))
	}
	years, dc, ccf := c.MTTFD.Num(quantity.Count, ""), c.DC.Num(quantity.Percent, "%"), c.CCF.Num(quantity.Count, "")
	if c.Category != "" && c.Reached != "" && years > 0 && dc >= 0 && ccf >= 0 {
		l := safety.LevelOf(c.Category, years, dc/100, ccf)
		verdict, detail := Holds, fmt.Sprintf("Category %s, MTTFd %s years (%s), DC %s %% (%s), %s points: PL %s.", c.Category, f4(years),
			l.MTTFdBand, f4(dc), l.DCBand, f4(ccf), l.Performance)
		if l.Performance == "" || l.Performance < c.Reached {
			verdict = Again
			if l.Performance == "" {
				detail = strings.TrimSuffix(detail, "PL .") + "no level by table 6."
			}
		}
		for _, f := range l.Findings {
			detail += " " + f.Title + "."
		}
		g.computed("stop/given/arithmetic", group, "The figures give that level (ISO 13849-1:2015, table 6)", verdict, detail)
	}
	mm, s := c.Distance.Num(quantity.Length, "m")*1000, c.StopTime.Num(quantity.Seconds, "s")
	if c.Approach != "" && mm > 0 && s > 0 {
		a := safety.Approach{Device: c.Approach, Resolution: c.Resolution.Num(quantity.Count, ""), K: math.NaN(), C: math.NaN()}
		need := safety.StopDistance(a, s)
		verdict := Holds
		if !(mm >= need.MM) {
			verdict = Stops
		}
		g.computed("stop/given/distance", group, "The device stands far enough away (ISO 13855:2010)", verdict,
			fmt.Sprintf("%s mm; %s s at %s mm/s and %s mm give %s mm.", f4(mm), f4(s), f4(need.K), f4(need.C), f4(need.MM)))
	}
}
