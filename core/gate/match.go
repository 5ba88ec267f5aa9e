package gate

import (
	"fmt"
	"math"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/supply"
	"tingate/core/translate"
)

// matchGate: what arrived, and whether supply, drive, motor, load and place fit each other.
type matchGate struct{ asking }

func (g *matchGate) ask() {
	d := g.job.Drive
	s := g.site()
	label := map[string]string{"type": d.Rating.Type, "serial": d.Rating.Serial}
	g.confirm(Check{Key: "match/arrival/undamaged", Group: "What arrived",
		Title: "Nothing damaged: case, terminals, fan; nothing loose inside", Basis: label}, true)
	g.confirm(Check{Key: "match/arrival/packing", Group: "What arrived",
		Title: "Packing list complete: keypad, modules, papers, choke, filter", Basis: label}, true)
	g.attach(Check{Key: "match/photo/label", Group: "What arrived", Title: "Photo of the drive's label", Work: Either}, "drive-label")
	g.serials()
	g.sameTag()
	g.matchType(s)
	g.slots()
	g.matchSupply(s)
	g.matchDrive(s)
	g.matchMotor(s)
	g.matchPlace(s)
	g.findingsAnswered()
}

func (g *matchGate) matchType(s translate.Site) {
	d := g.job.Drive
	c := Check{Key: "match/type/order", Group: "What arrived", Title: "The type on the label is the one ordered", Verdict: Holds,
		Detail: d.Rating.Type, Work: Either}
	plain := func(t string) string { return strings.ToUpper(strings.Join(strings.Fields(t), "")) }
	switch {
	case d.Rating.Type == "" || d.Site.Ordered == "":
		c.Verdict, c.Detail = NotDone, "Enter both: the type on the label, and the type ordered."
	case !strings.HasPrefix(plain(d.Rating.Type), plain(d.Site.Ordered)):
		c.Verdict, c.Detail = Stops, fmt.Sprintf("Ordered %s, arrived %s.", d.Site.Ordered, d.Rating.Type)
	}
	g.check(c)
	if f := g.job.Family; f != nil && d.Rating.Type != "" {
		facts, err := f.DecodeType(d.Rating.Type)
		var l []string
		for _, x := range facts {
			l = append(l, strings.TrimSpace(x.Part+" "+x.Sign+" "+x.Means))
		}
		verdict, detail := Holds, strings.Join(l, ", ")+"."
		if err != nil || !s.Known {
			verdict, detail = Again, fmt.Sprintf("The type is not in the list of %s.", f.Name)
			if len(f.Ratings) == 0 {
				verdict, detail = Holds, "This family's file lists no sizes: read the label by hand."
			}
		}
		g.computed("match/type/read", "What arrived", "The type code read", verdict, detail)
	}
}

// chokeRatio is the short-circuit current over the drive's above which a choke is usual: a transformer of ten times the
// drive's power with 5 % impedance. Common practice.
const chokeRatio = 200

func (g *matchGate) matchSupply(s translate.Site) {
	d := g.job.Drive
	basis := map[string]string{"supply": s.Supply.Name, "volts": s.Supply.Voltage.Text, "phases": s.PhasesIn,
		"earthing": s.Supply.Earthing, "links": d.Site.FilterLinks, "type": d.Rating.Type, "choke": d.Site.Choke,
		"fault": s.Supply.Fault.Text}
	say := func(code string, sev finding.Severity, title, detail, action string) {
		g.finding("match", finding.Finding{Code: code, Severity: sev, Field: "supply", Title: title, Detail: detail, Action: action}, basis)
	}
	if !s.Named {
		g.computed("match/supply/stated", "Supply", "Supply stated", NotDone, "Name the mains that feeds the drive.")
		return
	}
	ok := g.entered("match/supply/stated", "Supply", "Supply stated",
		lacking("its voltage", s.Supply.Voltage.Text, "phases", s.PhasesIn, "its earthing", s.Supply.Earthing, "filter and varistor links",
			d.Site.FilterLinks), s.Supply.Name)
	if s.Known && s.Volts > 0 && (s.Volts < s.Size.LineLow*.9 || s.Volts > s.Size.LineHigh*1.1) {
		say("supply-not-the-drives", finding.Stop, "The supply is not the drive's",
			fmt.Sprintf("%s V; the drive takes %s to %s V.", f4(s.Volts), f4(s.Size.LineLow), f4(s.Size.LineHigh)),
			"Stop: wrong drive, or wrong supply named")
	}
	if s.Known && s.Size.Phases == 1 && s.PhasesIn == "3" {
		say("one-phase-drive", finding.Note, "The drive takes one phase",
			"Line and neutral, or two lines of its voltage, on the two terminals that its manual names; not any two.", "")
	}
	if s.Known && s.Size.Phases == 3 && s.PhasesIn == "1" {
		say("single-phase-input", finding.Look, "A three-phase drive on one phase",
			fmt.Sprintf("About %s A of %s A are left; the input carries √3 times the current, and phase-loss detection may trip.",
				f4(s.Derated.Current), f4(s.Rated)), "Does the maker allow it? Keep it with a reason")
	}
	isolated := s.Supply.Earthing == "it" || s.Supply.Earthing == "corner-earthed"
	if isolated && d.Site.FilterLinks == "in" {
		say("earth-links-in", finding.Stop, "Filter and varistor links are in on a supply that is not earthed at its star point",
			"On "+strings.ToUpper(strings.ReplaceAll(s.Supply.Earthing, "-", " "))+" they put the full voltage to earth.",
			"Dead work: take the links out as the manual shows")
	}
	if !isolated && s.Supply.Earthing != "" && d.Site.FilterLinks == "out" {
		say("earth-links-out", finding.Look, "Filter links are out on an earthed supply",
			"The filter does nothing then, and the varistors protect less.", "Put them in, or keep it with a reason")
	}
	g.matchFault(s)
	if ratio := s.Supply.Fault.Num(quantity.Prospective, "A") / s.Rated; ok && ratio > chokeRatio &&
		(d.Site.Choke == "" || d.Site.Choke == "none") {
		say("choke-usual", finding.Look, "A stiff supply for a small drive",
			fmt.Sprintf("Short-circuit current %s times the drive's: the rectifier draws sharp peaks.", f4(ratio)),
			"A line or DC choke, or the maker's word")
	}
}

// matchFault holds the supply's short-circuit current against what the drive's label withstands.
func (g *matchGate) matchFault(s translate.Site) {
	const key, title = "match/supply/fault", "The drive withstands the supply's short circuit"
	fault, most := s.Supply.Fault.Num(quantity.Prospective, "kA"), g.job.Drive.Rating.Withstand.Num(quantity.Prospective, "kA")
	switch {
	case math.IsNaN(fault) || math.IsNaN(most):
		g.entered(key, "Supply", title,
			lacking("short-circuit current at the drive", s.Supply.Fault.Text, "short-circuit rating on the label",
				g.job.Drive.Rating.Withstand.Text), "")
	case fault > most:
		g.computed(key, "Supply", title, Stops,
			fmt.Sprintf("%s kA at the drive, its label allows %s kA with the protection that it names.", f4(fault), f4(most)))
	default:
		g.computed(key, "Supply", title, Holds,
			fmt.Sprintf("%s kA at the drive, %s kA on its label with the protection that it names.", f4(fault), f4(most)))
	}
}

func (g *matchGate) matchDrive(s translate.Site) {
	d := g.job.Drive
	row := g.plan.Motor
	if !g.entered("match/drive/stated", "Drive and motor", "Duty and place stated",
		lacking("heavy or normal duty", d.Rating.Duty, "ambient", d.Site.Ambient.Text, "altitude", d.Site.Altitude.Text), "") ||
		math.IsNaN(s.Rated) {
		return
	}
	var inputs []Input
	for _, f := range s.Derated.Factors {
		inputs = append(inputs, Input{f.Name + ": " + f.Because, "× " + quantity.Digits(f.Factor, 3), ""})
	}
	g.figures = append(g.figures,
		Figure{Key: "derated", Label: "Current left at this place", Short: f4(s.Rated) + " A rated",
			Value: quantity.Fixed(s.Derated.Current, 3), Unit: "A", Formula: "rated current × each factor",
			Inputs: append([]Input{{"Rated", f4(s.Rated), "A"}}, inputs...)})
	basis := map[string]string{"rated": d.Rating.Current.Text, "duty": d.Rating.Duty, "ambient": d.Site.Ambient.Text,
		"altitude": d.Site.Altitude.Text, "switching": d.Site.Switching.Text, "mounting": d.Site.Mounting, "motor": f4(row.Current),
		"motors": d.Site.Motors.Text}
	g.raise("match", "site", s.Derated.Findings, basis)
	need := row.Current
	if s.Motors > 1 {
		need *= s.Motors
	}
	verdict, detail := Holds, fmt.Sprintf("%s A left, %s A needed.", f4(s.Derated.Current), f4(need))
	switch {
	case math.IsNaN(need):
		verdict, detail = NotDone, "Type the motor's current at gate Plate."
	case need > s.Derated.Current:
		verdict = Again
		g.finding("match", finding.Finding{Code: "drive-too-small", Severity: finding.Look, Field: "site",
			Title: "The motor takes more than the drive gives here", Detail: detail + " Full torque cannot be held.",
			Action: "A larger drive, a better place, or less load"}, basis)
	}
	g.computed("match/drive/current", "Drive and motor", "The drive gives what the motor takes", verdict, detail)
	if s.Motors > 1 {
		sev, detail := finding.Look, "Each needs an overload of its own, and none may be switched in while the drive runs."
		if g.plan.Choices["control"] == "vector" {
			sev, detail = finding.Stop, "Vector control models one motor. Volts per hertz, and an overload for each."
		}
		g.finding("match", finding.Finding{Code: "several-motors", Severity: sev, Field: "site", Title: "Several motors on one drive",
			Detail: detail, Action: "Fit them, and keep it with a reason"},
			map[string]string{"motors": d.Site.Motors.Text, "control": d.Intent.Control})
	}
	g.matchIO()
}

// matchIO counts the terminals that the family has against those wanted.
func (g *matchGate) matchIO() {
	f := g.job.Family
	if f == nil || len(f.Terminals) == 0 {
		return
	}
	have := map[string]float64{}
	for _, t := range f.Terminals {
		have[t.Kind]++
	}
	w := g.job.Drive.Site
	var short []string
	for _, x := range []struct {
		name string
		want float64
		has  float64
	}{{"digital inputs", w.Inputs.Num(quantity.Count, ""), have["digital-in"]},
		{"relays and outputs", w.Outputs.Num(quantity.Count, ""), have["relay"] + have["digital-out"]},
		{"analog inputs", w.AnalogInputs.Num(quantity.Count, ""), have["analog-in"]}} {
		if x.want > x.has {
			short = append(short, fmt.Sprintf("%s %s wanted, %s there", f4(x.want), x.name, f4(x.has)))
		}
	}
	if w.Encoder == "wanted" && !f.TakesEncoder() {
		short = append(short, "an encoder wanted, no terminal and no module for it")
	}
	verdict, detail := Holds, fmt.Sprintf("%s inputs, %s relays and outputs, %s analog inputs.", f4(have["digital-in"]),
		f4(have["relay"]+have["digital-out"]), f4(have["analog-in"]))
	if short != nil {
		verdict, detail = Again, strings.Join(short, "; ")+". A module, or another drive."
	}
	g.computed("match/drive/terminals", "Drive and motor", "Terminals and slots enough", verdict, detail)
}

func (g *matchGate) matchMotor(s translate.Site) {
	d := g.job.Drive
	row := g.plan.Motor
	basis := map[string]string{"fit": d.Site.MotorFit, "cooling": d.Motor.Cooling, "row": row.Name, "volts": f4(row.Voltage),
		"supply": f4(s.Volts), "output": d.Rating.Voltage.Text, "lowest": d.Intent.LowestSpeed.Text, "control": d.Intent.Control}
	say := func(code string, sev finding.Severity, title, detail, action string) {
		g.finding("match", finding.Finding{Code: code, Severity: sev, Field: "motor", Title: title, Detail: detail, Action: action}, basis)
	}
	if !g.entered("match/motor/stated", "Drive and motor", "Motor's fitness stated",
		lacking("insulation and bearings for a drive", d.Site.MotorFit, "cooling", d.Motor.Cooling), "") {
		return
	}
	out, from := s.Output()
	on := f4(out) + " V"
	if from != "" {
		on += " " + from
	}
	verdict, detail := Holds, fmt.Sprintf("%s on %s.", row.Name, on)
	switch ratio := out / row.Voltage; {
	case math.IsNaN(ratio):
		verdict, detail = NotDone, "Supply and linked row of the plate come first."
	case math.Abs(ratio/math.Sqrt(3)-1) < .08:
		say("working-87-hz", finding.Note, "87 Hz working",
			fmt.Sprintf("The %s on %s: full flux up to %s Hz, √3 times the power at %s A. Insulation, bearings, balance and the drive's "+
				"size must allow it.", row.Name, on, f4(row.Frequency*ratio), f4(row.Current)), "")
		detail = "87 Hz working: recognised."
		if d.Site.MotorFit != "inverter-duty" {
			say("working-87-hz-insulation", finding.Look, "87 Hz working asks for inverter-duty insulation",
				"The winding sees the pulses of the higher supply.", "Ask the motor's maker, or keep it with a reason")
		}
	case ratio > 1.15:
		verdict = Again
		say("row-below-supply", finding.Look, "The linked row is for less than the drive can give",
			fmt.Sprintf("%s V row on %s: the drive must be told the plate's voltage, and never more.", f4(row.Voltage), on),
			"Check the links in the terminal box")
	case ratio < .87:
		verdict = Again
		say("row-above-supply", finding.Look, "The linked row is for more than the supply",
			fmt.Sprintf("%s V row on %s: full flux, and full torque, up to %s Hz only.", f4(row.Voltage), on, f4(row.Frequency*ratio))+
				g.torqueLeft(ratio), "Link the motor for this supply, or keep it with a reason")
	}
	g.computed("match/motor/voltage", "Drive and motor", "The linked row fits the drive's output", verdict, detail)
	if d.Site.MotorFit == "plain" {
		say("motor-plain", finding.Look, "A motor without insulation for drives",
			"Steep pulses and shaft currents shorten its life, the more with long cable.",
			"A filter or reactor, an insulated bearing, or keep it with a reason")
	}
	if low := d.Intent.LowestSpeed.Num(quantity.Speed, "r/min"); d.Motor.Cooling == "own-fan" && g.job.Drive.Intent.Load == "constant" &&
		low < .4*row.Speed {
		say("own-fan-slow", finding.Look, "Its own fan cools little at the lowest speed",
			fmt.Sprintf("%s r/min is %s %% of plate speed at full torque.", f4(low), f4(low/row.Speed*100)),
			"Forced cooling, a higher lowest speed, or less torque there")
	}
}

// torqueLeft says what is left of the rated torque for ever at the highest speed, where full flux ends at a share of the plate's frequency.
func (f *Facts) torqueLeft(share float64) string {
	high, rated := f.job.Drive.Intent.HighestSpeed.Num(quantity.Speed, "r/min"), f.plan.Motor.Speed
	if !(high > rated*share) {
		return ""
	}
	return fmt.Sprintf(" At the highest speed, %s r/min, about %s %% of it is left for ever, and of the breakdown torque the square of "+
		"that.", f4(high), f4(math.Round(100*share*rated/high)))
}

// shareLost is the part of a drive's power that stays in the cabinet as heat. Common practice.
const shareLost = .03

// cabinet works out how warm a closed enclosure becomes, and the air that one with openings wants. What a heater's supply
// brings into the cabinet is a source of its own.
func (g *matchGate) cabinet(s translate.Site) {
	d := g.job.Drive
	closed := d.Site.Enclosure == "closed" || d.Site.Enclosure == "heated"
	if d.Site.Enclosure == "heated" {
		named := false
		for _, src := range g.sources {
			named = named || src.Kind == "heater"
		}
		if !named {
			g.finding("match", finding.Finding{Code: "heater-not-named", Severity: finding.Look, Field: "site",
				Title: "The cabinet's heater has no supply here", Detail: "It stays live when the drive is isolated.",
				Action: "Name it under Sources, or keep it with a reason"}, map[string]string{"enclosure": d.Site.Enclosure})
		}
	}
	if d.Site.Enclosure == "wall" {
		return
	}
	n := func(q drivefile.Q, k quantity.Kind, unit string) float64 { return q.Num(k, unit) }
	c := supply.Cabinet{Height: n(d.Site.Height, quantity.Length, "m"), Width: n(d.Site.Width, quantity.Length, "m"),
		Depth: n(d.Site.Depth, quantity.Length, "m"),
		Wall:  d.Site.Against == "wall", Heat: n(d.Site.Heat, quantity.Power, "W"), Outside: n(d.Site.Outside, quantity.Temperature, "°C")}
	source := "as entered"
	if math.IsNaN(c.Heat) && s.Known {
		c.Heat, source = s.Size.Power*1000*shareLost, "3 % of the drive's power (common practice)"
	}
	limit := n(d.Site.Ambient, quantity.Temperature, "°C")
	inputs := []Input{{"Heat, " + source, f4(c.Heat), "W"}, {"Outside", f4(c.Outside), "°C"}}
	if flow := c.Airflow(limit); flow > 0 {
		g.figures = append(g.figures,
			Figure{Key: "airflow", Label: "Air that holds " + f4(limit) + " °C inside", Value: quantity.Fixed(flow, 0), Unit: "m³/h",
				Formula: "3.1 × heat ÷ rise", Inputs: inputs, Estimate: true})
	}
	if !closed {
		return
	}
	const key, title = "match/place/heat", "A closed cabinet stays below the ambient that the drive is counted for"
	inside := c.Inside()
	if math.IsNaN(inside) || math.IsNaN(limit) || math.IsNaN(c.Outside) {
		g.entered(key, "Place", title,
			lacking("height", d.Site.Height.Text, "width", d.Site.Width.Text, "depth", d.Site.Depth.Text, "temperature around it",
				d.Site.Outside.Text, "ambient inside", d.Site.Ambient.Text), "")
		return
	}
	g.figures = append(g.figures,
		Figure{Key: "cabinet", Label: "Inside the closed cabinet", Short: f4(c.Surface()) + " m² give off",
			Value: quantity.Fixed(inside, 0), Unit: "°C", Formula: "outside + heat ÷ (5.5 W/m²K × surface)",
			Inputs: append(inputs, Input{"Surface", f4(c.Surface()), "m²"}), Estimate: true})
	if inside > limit {
		g.finding("match", finding.Finding{Code: "cabinet-heat", Severity: finding.Look, Field: "site",
			Title:  "A closed cabinet keeps the drive's heat",
			Detail: fmt.Sprintf("About %s °C inside; the drive is counted for %s °C.", f4(math.Round(inside)), f4(limit)),
			Action: "Move air through it, cool it, or count the drive for that ambient"},
			map[string]string{"inside": f4(math.Round(inside)), "ambient": d.Site.Ambient.Text})
	}
	verdict := Holds
	if inside > limit {
		verdict = Again
	}
	g.computed(key, "Place", title, verdict, fmt.Sprintf("About %s °C inside, counted for %s °C.", f4(math.Round(inside)), f4(limit)))
}

func (g *matchGate) matchPlace(s translate.Site) {
	d := g.job.Drive
	if g.entered("match/place/stated", "Place", "Enclosure and mounting stated",
		lacking("enclosure", d.Site.Enclosure, "mounting", d.Site.Mounting),
		strings.ReplaceAll(d.Site.Enclosure+", "+d.Site.Mounting, "-", " ")) {
		basis := map[string]string{"enclosure": d.Site.Enclosure, "mounting": d.Site.Mounting}
		if d.Site.Mounting == "on-its-side" {
			g.finding("match", finding.Finding{Code: "mounting-on-side", Severity: finding.Look, Field: "site",
				Title: "Mounted on its side", Detail: "The heat sink draws air upwards; most makers forbid it.",
				Action: "Upright, or the maker's word"}, basis)
		}
		g.cabinet(s)
		g.confirm(Check{Key: "match/place/clearances", Group: "Place",
			Title: "Clearances above and below as the manual shows; fixed at all points; clean and dry", Basis: basis}, true)
	}
}
