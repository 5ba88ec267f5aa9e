package gate

import (
	"fmt"
	"math"
	"regexp"
	"strings"

	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/supply"
	"tingate/core/translate"
	"tingate/core/winding"
)

// Figures of common practice at gate Power.
const (
	mostEarth     = .1 // Ω from the drive's earth terminal to the motor's frame
	leastMegohm   = 1  // MΩ of motor and cable at 500 V DC (IEC 60364-6, Table 6A)
	mostUnbalance = 2  // % between the resistances of a winding
	mostDrop      = 3  // % along a feeder at rated current
)

// powerLooked are the checks whose work a second person looks over.
var powerLooked = []string{"power/earth/first", "power/links/fitted", "power/supply/last"}

// powerGate: mounted, earthed first, motor linked and wired, supplied last; conductors, protection and cable judged.
type powerGate struct {
	asking
	linking Linking
}

func (g *powerGate) tell(s *State) { s.Linking, s.Body = g.linking, g.body() }

func (g *powerGate) ask() {
	d := g.job.Drive
	s := g.site()
	dead := func(key, group, title, detail string, basis map[string]string) {
		g.confirm(Check{Key: key, Group: group, Title: title, Detail: detail, Work: Dead, Basis: basis}, true)
	}
	b := g.body()
	g.lifted(b)
	dead("power/mounting/fixed", "Mounting", "Upright, fixed at all points, clearances kept; drilled before it was hung, no swarf inside",
		"", map[string]string{"mounting": d.Site.Mounting})
	g.opened(b)
	dead("power/earth/first", "Earth", "Every earth landed first: drive, motor, cabinet, screens", "Last to come off.", nil)
	g.measure(Check{Key: "power/earth/ohms", Group: "Earth", Title: "Earth of the drive to the motor's frame", Unit: "Ω", Work: Dead},
		math.NaN(), mostEarth, Stops, true)
	g.powerEarth()
	g.motorLinks()
	if s.PhasesIn == "1" {
		dead("power/supply/terminals", "Supply", onePhase(b), "",
			map[string]string{"phases": s.PhasesIn})
	}
	dead("power/supply/last", "Supply", "Supply landed last, on the line side; motor on U, V, W", "Supply on U, V, W destroys the drive.",
		nil)
	g.conductors(s)
	g.torque()
	dead("power/output/free", "Motor cable",
		"Nothing stays on the output: capacitors, star-delta starter, surge devices, a brake fed from the motor, a contactor without "+
			"interlock, a bypass that feeds back", "", nil)
	dead("power/cable/screen", "Motor cable", "Screened motor cable, bonded broadly at both ends, apart from control cables", "",
		map[string]string{"cable": d.Site.Cable.Text})
	g.motorCable(s)
	if f := g.job.Family; f != nil {
		for _, t := range f.Terminals {
			if t.Kind == "power" && t.Jumper != "" {
				dead("power/bar/"+strings.ReplaceAll(t.Name, " ", ""), "Motor cable",
					"Terminals "+t.Name+": "+t.Jumper+", or what stands in its place", t.Electrical,
					map[string]string{"choke": d.Site.Choke})
			}
		}
	}
	g.insulation()
	g.secondLook("power/second/look", "Looked over", powerLooked)
	g.closed(b)
	dead("power/covers/back", "Looked over", "Protective covers and barriers back", "", nil)
	g.findingsAnswered()
}

// powerEarth asks how the protective conductor meets more than 3.5 mA.
func (g *powerGate) powerEarth() {
	d := g.job.Drive
	cable := quantity.OrZero(d.Site.Cable.Num(quantity.Length, "m"))
	leak := supply.Leakage(d.Site.FilterLinks != "out", cable)
	c := Check{Key: "power/earth/protective", Group: "Earth", Title: "Protective conductor for more than 3.5 mA", Work: Either,
		Basis: map[string]string{"cable": d.Site.Cable.Text, "links": d.Site.FilterLinks},
		Detail: fmt.Sprintf("About %s mA to earth (common practice). Above 3.5 mA: 10 mm² copper, or a second conductor (IEC "+
			"61800-5-1). By your local code.", f4(leak))}
	if got := g.choose(c, []Option{{"10mm", "10 mm² copper or more", ""}, {"second", "a second conductor", ""},
		{"neither", "neither", ""}}, true); got == "neither" && leak > 3.5 {
		g.again(c.Key, "More than 3.5 mA needs one of them.")
	}
	rcd := Check{Key: "power/supply/rcd", Group: "Supply", Title: "Residual-current device", Work: Either,
		Basis: map[string]string{"phases": d.Site.InputPhases},
		Detail: fmt.Sprintf("A three-phase rectifier lets smooth DC flow to earth: type B only (IEC 62423). About %s mA flow all the "+
			"time.", f4(leak))}
	switch got := g.choose(rcd, []Option{{Value: "none", Text: "none"}, {Value: "b", Text: "type B"}, {Value: "f", Text: "type F"},
		{Value: "a", Text: "type A or AC"}}, true); {
	case (got == "a" || got == "f") && d.Site.InputPhases != "1":
		g.finding("power", finding.Finding{Code: "rcd-type", Severity: finding.Stop, Field: "site",
			Title: "That residual-current device may not trip behind this drive", Detail: "Smooth DC blinds types A, AC and F.",
			Action: "Type B, or none where the code allows it"}, map[string]string{"rcd": got})
	case got == "a":
		g.finding("power", finding.Finding{Code: "rcd-type", Severity: finding.Look, Field: "site",
			Title: "A type A device behind a one-phase drive", Detail: "Type F or B is usual; the drive's manual decides.",
			Action: "Change it, or keep it with a reason"}, map[string]string{"rcd": got})
	}
}

// Linking is the motor's links as they are to be, and as they were found.
type Linking struct {
	Scheme *winding.Scheme `json:"scheme,omitempty"`
	Other  string          `json:"other" doc:"what the other linking would do"`
}

var separators = regexp.MustCompile(`[-–+ ]+`)

// groups reads "U2-V2-W2, …" as groups of leads.
func groups(text string) [][]string {
	var out [][]string
	for _, g := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' }) {
		var l []string
		for _, x := range separators.Split(strings.ToUpper(strings.TrimSpace(g)), -1) {
			if x != "" {
				l = append(l, x)
			}
		}
		if l != nil {
			out = append(out, l)
		}
	}
	return out
}

// motorLinks asks for the linking by the row in use, and judges one that was entered as fitted.
func (g *powerGate) motorLinks() {
	m := g.job.Drive.Motor
	const group = "Motor terminal box"
	scheme, leads, findings := g.linkScheme()
	basis := map[string]string{"row": translate.LinkedRow(m), "leads": m.Leads, "winding": m.Winding, "scheme": scheme.Name}
	if !g.entered("power/links/known", group, "Leads of the motor known",
		lacking("how many leads come out", m.Leads, "the row in use", translate.LinkedRow(m)), "") {
		return
	}
	g.raise("power", "motor", findings, basis)
	if leads == 3 {
		g.confirm(Check{Key: "power/links/fitted", Group: group, Title: "Three leads: linked inside, for the row in use", Work: Dead,
			Basis: basis}, true)
		return
	}
	if scheme.Name == "" {
		return
	}
	g.linking.Scheme = &scheme
	other := "Star where delta belongs: 58 % of the voltage on each coil, a third of the torque. Delta where star belongs: 173 % on " +
		"each coil, saturated, burnt."
	if strings.Contains(scheme.Name, "low") || strings.Contains(scheme.Name, "high") {
		other = "High-voltage links on the low voltage: half on each coil, a quarter of the torque. Low-voltage links on the high: " +
			"twice on each coil, burnt."
	}
	g.linking.Other = other
	lines := make([]string, 0, 3)
	for _, l := range []string{"L1", "L2", "L3"} {
		lines = append(lines, l+" on "+strings.Join(scheme.Lines[l], "-"))
	}
	joins := make([]string, 0, len(scheme.Joins))
	for _, j := range scheme.Joins {
		joins = append(joins, strings.Join(j, "-"))
	}
	text := strings.Join(lines, ", ")
	if len(joins) > 0 {
		text += "; linked " + strings.Join(joins, ", ")
	}
	g.confirm(Check{Key: "power/links/fitted", Group: group, Title: "Linked in " + scheme.Connection + ": " + text, Detail: other,
		Work: Dead, Basis: basis}, true)
	if strings.TrimSpace(m.FittedJoins+m.FittedLines) == "" {
		return
	}
	onLines := map[string][]string{}
	for i, g := range groups(m.FittedLines) {
		onLines[fmt.Sprintf("L%d", i+1)] = g
	}
	marking := m.Marking
	if marking == "" {
		marking = "uvw"
	}
	j := winding.Judge(leads, m.Winding, marking, groups(m.FittedJoins), onLines)
	fitted := map[string]string{"joins": m.FittedJoins, "lines": m.FittedLines, "scheme": scheme.Name}
	g.raise("power", "motor", j.Findings, fitted)
	verdict, detail := Holds, "As fitted it is "+j.Connection+"."
	switch {
	case !j.Valid:
		verdict, detail = Stops, j.Findings[0].Title+"."
	case math.Abs(j.Coil-scheme.Coil) > .01:
		verdict, detail = Stops, fmt.Sprintf("As fitted it is %s: each coil sees %.0f %% of what it should. %s", j.Connection,
			j.Coil/scheme.Coil*100, other)
	}
	g.computed("power/links/judged", group, "Links as fitted", verdict, detail)
}

// conductors judges sizes, protection and voltage drop on both sides of the drive. Always by the local code.
const conductorGroup = "Conductors and protection"

func (g *powerGate) conductors(s translate.Site) {
	d := g.job.Drive
	p := d.Power
	if !g.entered("power/conductors/stated", conductorGroup, "Conductors and protection stated",
		lacking("code", p.Code, "supply conductors", p.LineArea, "motor conductors", p.MotorArea, "rated input current", p.Input.Text,
			"protection", p.Protection.Text, "most that the drive's papers allow", p.ProtectionMost.Text, "length of the supply cable",
			p.LineLength.Text, "of the motor cable", d.Site.Cable.Text), "") {
		return
	}
	pf := g.plan.Motor.Factor
	if math.IsNaN(pf) {
		pf = .85
	}
	g.conductor(s, "line", "Supply conductors", p.LineArea, p.Input.Num(quantity.Current, "A"), p.LineLength.Num(quantity.Length, "m"),
		s.Volts, .95)
	g.conductor(s, "motor", "Motor conductors", p.MotorArea, g.plan.Motor.Current, d.Site.Cable.Num(quantity.Length, "m"),
		g.plan.Motor.Voltage, pf)
	g.inputFits(s)
	g.protection()
}

// tableOf is the table of ampacities that a code names.
var tableOf = map[string]string{"iec-b2": "iec B2", "iec-c": "iec C", "nec": "nec conduit"}

// conductor holds one side's conductors against its current (A) and the drop along its length (m) at its voltage and power factor.
func (g *powerGate) conductor(s translate.Site, key, title, area string, amps, length, volts, pf float64) {
	p := g.job.Drive.Power
	rule := "IEC 60364-5-52"
	if p.Code == "nec" {
		rule = "NEC 430.122, 125 %"
	}
	a := translate.Area(area)
	z := supply.Sizing{Code: tableOf[p.Code], Current: amps, Ambient: quantity.OrZero(p.Ambient.Num(quantity.Temperature, "°C"))}
	carries, needs := z.Carries(a), z.Needs()
	verdict, detail := Holds, fmt.Sprintf("%s carries %s A, %s A are needed (%s). By your local code.", area, f4(carries), f4(needs), rule)
	switch least, ok := z.Smallest(); {
	case math.IsNaN(a):
		verdict, detail = Again, fmt.Sprintf("%q cannot be read as a size: mm² or AWG.", area)
	case math.IsNaN(amps):
		verdict, detail = NotDone, "The current comes first."
	case carries < needs:
		verdict, detail = Again, fmt.Sprintf("%s carries %s A, %s A are needed (%s).", area, f4(carries), f4(needs), rule)
		if ok {
			detail += " The smallest of the table is " + least.Name + "."
		}
	}
	g.computed("power/"+key+"/carries", conductorGroup, title+" carry the current", verdict, detail)
	drop := supply.VoltageDrop(amps, length, supply.CopperOhm/a, supply.CableX, pf, phasesOf(s, key))
	pct := drop / volts * 100
	if math.IsNaN(pct) {
		return
	}
	g.figures = append(g.figures,
		Figure{Key: "drop-" + key, Label: "Drop along the " + key + " cable", Short: "at 150 %: " + quantity.Fixed(pct*1.5, 3) + " %",
			Value: quantity.Fixed(pct, 3), Unit: "%", Formula: "b · I · L · (r cos φ + x sin φ), IEC 60364-5-52 annex G",
			Inputs: []Input{{"Current", f4(amps), "A"}, {"Length", f4(length), "m"}, {"Area", f4(a), "mm²"}, {"cos φ", f4(pf), ""}}})
	if pct > mostDrop {
		g.finding("power", finding.Finding{Code: "drop-" + key, Severity: finding.Look, Field: "power",
			Title:  fmt.Sprintf("The %s cable drops %s %%", key, quantity.Fixed(pct, 3)),
			Detail: fmt.Sprintf("More than %d %% (common practice); at 150 %% current %s %%.", mostDrop, quantity.Fixed(pct*1.5, 3)),
			Action: "A larger size, or keep it with a reason"},
			map[string]string{"code": p.Code, "line": p.LineArea, "motor": p.MotorArea, "input": p.Input.Text,
				"protection": p.Protection.Text, "most": p.ProtectionMost.Text})
	}
}

// protection holds fuse or breaker against the drive's papers and the conductor behind it.
func (g *powerGate) protection() {
	p := g.job.Drive.Power
	input, protection, most := p.Input.Num(quantity.Current, "A"), p.Protection.Num(quantity.Current, "A"),
		p.ProtectionMost.Num(quantity.Current, "A")
	verdict, detail := Holds, fmt.Sprintf("%s A; the drive's papers allow %s A, and the input takes %s A.", f4(protection), f4(most),
		f4(input))
	switch {
	case math.IsNaN(protection) || math.IsNaN(most) || math.IsNaN(input):
		verdict = NotDone
	case protection > most:
		verdict = Stops
	case protection < input:
		verdict = Again
	}
	z := supply.Sizing{Code: tableOf[p.Code], Ambient: quantity.OrZero(p.Ambient.Num(quantity.Temperature, "°C"))}
	if carries := z.Carries(translate.Area(p.LineArea)); protection > carries && carries > 0 {
		clause := "IEC 60364-4-43, 433.1"
		if p.Code == "nec" {
			clause = "NEC 240.4, where 430.52 does not let it be larger"
		}
		g.finding("power", finding.Finding{Code: "protection-above-conductor", Severity: finding.Look, Field: "power",
			Title:  "The fuse or breaker is larger than what its conductor carries",
			Detail: fmt.Sprintf("%s A before %s, which carries %s A (%s).", f4(protection), p.LineArea, f4(carries), clause),
			Action: "A larger conductor, a smaller device, or say what protects it against overload"},
			map[string]string{"code": p.Code, "line": p.LineArea, "protection": p.Protection.Text, "ambient": p.Ambient.Text})
	}
	g.computed("power/protection/fits", conductorGroup, "Fuse or breaker as the drive's papers say", verdict, detail)
}

func phasesOf(s translate.Site, side string) int {
	if side == "line" && s.PhasesIn == "1" {
		return 1
	}
	return 3
}

// torque is what the screws of each kind of terminal were tightened to, against the label.
func (g *powerGate) torque() {
	p := g.job.Drive.Power
	g.tightened("power/torque/power", "Line and motor terminals of the drive", p.Torque, "")
	g.tightened("power/torque/earth", "Earth terminals", p.EarthTorque, "")
	g.tightened("power/torque/motor", "Studs in the motor's terminal box", p.MotorTorque,
		"tight, lugs flat, links under the nuts; no torque is stated for them")
}

// motorCable says what the cable does to motor and drive.
func (g *powerGate) motorCable(s translate.Site) {
	d := g.job.Drive
	length := d.Site.Cable.Num(quantity.Length, "m")
	if math.IsNaN(length) || math.IsNaN(s.Volts) {
		return
	}
	link := supply.LinkOf(supply.SixPulse, s.Volts).Idle
	c := supply.MotorCable{Length: length, DCLink: link, Rated: s.Rated, Power: g.plan.Motor.Power / 1000, Fit: d.Site.MotorFit,
		Screened: true}
	out := c.Work()
	basis := map[string]string{"cable": d.Site.Cable.Text, "fit": d.Site.MotorFit, "volts": f4(s.Volts)}
	g.raise("power", "site", out.Findings, basis)
	g.figures = append(g.figures,
		Figure{Key: "peak", Label: "Peak at the motor's terminals", Short: "whole from " + f4(out.Critical) + " m",
			Value: quantity.Fixed(out.Peak, 0), Unit: "V", Formula: "DC link × (1 + 0.9 × min(1, length ÷ critical length))",
			Inputs:   []Input{{"DC link", f4(link), "V"}, {"Cable", f4(length), "m"}, {"Critical length, v·t/2", f4(out.Critical), "m"}},
			Estimate: true})
}

// insulation is tested with the drive off the cable; the windings are measured and compared.
func (g *powerGate) insulation() {
	d := g.job.Drive
	basis := map[string]string{"linked": translate.LinkedRow(d.Motor)}
	const group = "Motor measured"
	g.confirm(Check{Key: "power/insulation/off", Group: group, Title: "Drive disconnected from the motor cable: never test through it",
		Work: Dead, Basis: basis}, true)
	ready := g.is("power/insulation/off").Verdict == Holds
	g.measure(Check{Key: "power/insulation/motor", Group: group, Title: "Motor and cable to earth at 500 V DC", Unit: "MΩ", Work: Dead,
		Basis: basis}, leastMegohm, math.NaN(), Stops, ready)
	var r [3]float64
	for i, pair := range []string{"U to V", "V to W", "W to U"} {
		m := g.measure(Check{Key: fmt.Sprintf("power/winding/%d", i+1), Group: group, Title: "Winding, " + pair, Unit: "Ω", Work: Dead,
			Basis: basis}, 0, math.NaN(), Again, ready)
		r[i] = m.value
	}
	if mean := (r[0] + r[1] + r[2]) / 3; !math.IsNaN(mean) && mean > 0 {
		worst := 0.
		for _, x := range r {
			worst = max(worst, math.Abs(x-mean)/mean*100)
		}
		verdict := Holds
		if worst > mostUnbalance {
			verdict = Again
			g.finding("power", finding.Finding{Code: "winding-unbalanced", Severity: finding.Look, Field: "motor",
				Title: "The windings differ",
				Detail: fmt.Sprintf("%s %% from their mean; %d %% is usual at most (common practice). A bad crimp, a wrong link, or "+
					"turns shorted.", f4(worst), mostUnbalance), Action: "Measure again, then open the terminal box"},
				map[string]string{"u": f4(r[0]), "v": f4(r[1]), "w": f4(r[2])})
		}
		g.computed("power/winding/balance", group, "Windings alike", verdict,
			fmt.Sprintf("%s %% from their mean of %s Ω.", f4(worst), f4(mean)))
	}
}
