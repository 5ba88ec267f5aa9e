package gate

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/finding"
	"tingate/core/translate"
	"tingate/core/wiring"
)

// mostJoined is what a wire from end to end may read, Ω. Common practice: the longest thin wires of a panel stay below it,
// and the smallest load stays far above.
const mostJoined = 5

// WireState is one wire of the list with what was done to it.
type WireState struct {
	wiring.ListedWire
	Landed   Verdict `json:"landed" enum:"holds,look-again,not-done,waived" doc:"at both ends"`
	LandedBy string  `json:"landed_by,omitempty"`
	Measured Verdict `json:"measured" enum:"holds,look-again,stops,not-done,waived"`
	Value    string  `json:"value,omitempty" doc:"as read"`
	Ready    bool    `json:"ready" doc:"it can be measured"`
	Detail   string  `json:"detail,omitempty"`
}

// WiringState is the connection list of a drive with what was done, found and followed.
type WiringState struct {
	wiring.Plan
	Wires   []WireState   `json:"wires"`
	Found   circuit.Found `json:"found"`
	Effects []string      `json:"effects" doc:"what the drive would do as it is built, if the likeliest suspect is right"`
}

// newWiring is a connection list of which nothing is landed or measured; its lists are empty, never absent.
func newWiring(p wiring.Plan) WiringState {
	return WiringState{Plan: p, Wires: []WireState{}, Effects: []string{},
		Found: circuit.Found{Agrees: true, Against: []circuit.Reading{}, Repeat: []circuit.Reading{}, Mistakes: []circuit.Suspect{}}}
}

// NoWiring is the connection list while nothing is chosen.
func NoWiring() WiringState { return newWiring(wiring.Empty()) }

// WiringOf makes the connection list of a job; ok is false while nothing is chosen.
func WiringOf(j Job) (wiring.Plan, bool) {
	if j.Drive.Wiring.Command == "" || j.Family == nil {
		return wiring.Plan{}, false
	}
	screens := "drive-end"
	if j.Practice != nil {
		screens = j.Practice.Choices["screens"]
	}
	return wiring.Make(j.Family, translate.Wants(j.Drive, screens)), true
}

// Untouched are the wires of a list of which nothing was done yet.
func Untouched(p wiring.Plan) []WireState {
	l := make([]WireState, 0, len(p.Rows))
	for _, r := range p.Rows {
		l = append(l, WireState{ListedWire: r, Landed: NotDone, Measured: NotDone})
	}
	return l
}

// functionsOf are the settings that follow from the wires.
func functionsOf(f *dialect.Family, p wiring.Plan, command string) map[string]dialect.Function {
	out := map[string]dialect.Function{}
	for _, a := range p.Assigns {
		if a.Setting != "" {
			out[a.Setting] = dialect.Function{Steps: a.Steps,
				Because: "wired: " + strings.ReplaceAll(a.Function, "-", " ") + " on terminal " + a.Terminal}
		}
	}
	for i := range f.Settings {
		for _, c := range f.Settings[i].Choices {
			if c.Means == command && (command == "two-wire" || command == "three-wire") {
				out[f.Settings[i].Code] = dialect.Function{Steps: c.Value, Because: "wired: " + command}
			}
		}
	}
	return out
}

// controlGate: what is connected, landed by both ends, measured point to point.
type controlGate struct {
	asking
	list *WiringState // nil while nothing is chosen
}

func (g *controlGate) tell(s *State) { s.Wiring = g.list }

func (g *controlGate) ask() {
	d := g.job.Drive.Wiring
	g.entered("control/wanted/stated", "What is connected", "What is connected is chosen",
		lacking("who gives run", d.Command, "what asks for speed", d.Reference, "how torque off is wired", d.Safety, "source or sink",
			d.Logic), "")
	if !g.wired {
		g.findingsAnswered()
		return
	}
	p := g.wiring
	list := newWiring(p)
	g.list = &list
	for _, f := range p.Findings {
		g.finding("control", f, map[string]string{"command": d.Command, "reference": d.Reference, "safety": d.Safety, "logic": d.Logic,
			"detail": f.Detail})
	}
	g.wiredAsWanted()
	for _, b := range p.Budgets {
		verdict := Holds
		if b.Most > 0 && b.Draws > b.Most {
			verdict = Stops
		}
		g.computed("control/budget/"+b.Name, "What is connected",
			fmt.Sprintf("Terminal %s gives what is drawn, %s V", b.Name, f4(b.Volts)), verdict,
			fmt.Sprintf("%s mA drawn with everything on, %s mA given.", f4(b.Draws), f4(b.Most)))
	}
	for _, s := range p.Positions {
		detail := s.Means + "."
		if s.PowerOff {
			detail += " Moved with the power off only."
		}
		for _, c := range s.Changes {
			detail += fmt.Sprintf(" The keypad then calls %s %q, in %s.", c.Setting, c.Name, c.Unit)
		}
		g.confirm(Check{Key: "control/switch/" + s.Switch, Group: "Switches and links",
			Title: "Switch " + s.Switch + " stands on " + s.Sign, Work: Dead, Detail: detail, Basis: map[string]string{"sign": s.Sign}},
			true)
	}
	for _, l := range p.LinksOut {
		g.confirm(Check{Key: "control/link/" + strings.ReplaceAll(l, " ", "-"), Group: "Switches and links",
			Title: "Factory link " + l + " taken out", Work: Dead, Basis: map[string]string{"safety": d.Safety}}, true)
	}
	if len(p.Rows) == 0 {
		g.confirm(Check{Key: "control/wired/manual", Group: "Wires", Title: "Wired by the manual, each wire measured from end to end",
			Work: Dead, Basis: map[string]string{"command": d.Command, "reference": d.Reference, "safety": d.Safety}}, true)
	} else {
		g.wires()
	}
	g.tightened("control/torque/control", "Control terminals", g.job.Drive.Power.ControlTorque,
		"clamped by spring, each wire pulled once by hand")
	screens := map[string]string{"drive-end": "at the drive end only", "both-ends": "at both ends"}[g.choice("screens", "drive-end")]
	if slices.ContainsFunc(p.Rows, func(r wiring.ListedWire) bool { return r.Screen != "" }) {
		g.confirm(Check{Key: "control/screens/landed", Group: "Cables", Title: "Screens of signal cables landed " + screens, Work: Dead,
			Basis: map[string]string{"screens": screens}, Detail: "As the maker says where it says otherwise."}, true)
	}
	g.confirm(Check{Key: "control/cables/apart", Group: "Cables",
		Title: "Control cables apart from power and motor cables, crossing at right angles", Work: Dead}, true)
	g.secondLook("control/second/look", "Cables", landedKeys(p))
	g.findingsAnswered()
}

// landedKeys are the checks that a wire is landed, of every wire of a list.
func landedKeys(p wiring.Plan) []string {
	keys := make([]string, 0, len(p.Rows))
	for _, r := range p.Rows {
		keys = append(keys, "control/landed/"+r.ID)
	}
	return keys
}

// wiredAsWanted holds the wires against what gate Signal wants.
func (g *controlGate) wiredAsWanted() {
	g.lost()
	d, in := g.job.Drive.Wiring, g.job.Drive.Intent
	say := func(code, title, detail string) {
		g.finding("control", finding.Finding{Code: code, Severity: finding.Look, Field: "wiring", Title: title, Detail: detail,
			Action: "Change one of them, or keep it with a reason"},
			map[string]string{"command": d.Command, "reference": d.Reference, "run": in.CommandSource, "speed": in.SpeedSource})
	}
	terminals := d.Command == "two-wire" || d.Command == "three-wire"
	if in.CommandSource != "" && terminals != (in.CommandSource == "terminals") {
		say("run-wired-otherwise", "Run is wanted from another place than is wired",
			fmt.Sprintf("Gate Signal: %s; wired: %s.", in.CommandSource, d.Command))
	}
	speed := map[string]string{"pot": "voltage", "voltage": "voltage", "current": "current", "presets": "presets",
		"buttons": "motor-potentiometer"}[d.Reference]
	if in.SpeedSource != "" && speed != "" && in.SpeedSource != speed && in.SpeedSource != "keypad" && in.SpeedSource != "network" {
		say("speed-wired-otherwise", "Speed is wanted from another source than is wired",
			fmt.Sprintf("Gate Signal: %s; wired: %s.", in.SpeedSource, d.Reference))
	}
}

// wires are the checks of every wire: landed at both ends, measured from end to end; then what all readings say together.
func (g *controlGate) wires() {
	s := g.list
	var readings []circuit.Reading
	for _, r := range g.wiring.Rows {
		basis := map[string]string{"from": r.From, "to": r.To}
		w := WireState{ListedWire: r}
		title := fmt.Sprintf("Wire %s, %s to %s", r.ID, r.From, r.To)
		if r.Link {
			title = "Factory link " + r.From + " to " + r.To
		}
		g.confirm(Check{Key: "control/landed/" + r.ID, Group: "Wires", Title: title + ": landed at both ends", Work: Dead, Basis: basis},
			true)
		landed := g.is("control/landed/" + r.ID)
		w.Landed, w.LandedBy = landed.Verdict, landed.By
		w.Ready = landed.Verdict == Holds || landed.Verdict == Waived
		m := g.measure(Check{Key: "control/wire/" + r.ID, Group: "Wires", Title: title + ": measured from end to end", Unit: "Ω",
			Work: Dead, Basis: basis}, math.NaN(), mostJoined, Stops, w.Ready)
		measured := g.is("control/wire/" + r.ID)
		w.Measured, w.Value, w.Detail = measured.Verdict, measured.Value, measured.Detail
		if m.ok && !math.IsNaN(m.value) {
			readings = append(readings, circuit.Reading{A: r.From, B: r.To, Joined: m.value <= mostJoined})
		}
		s.Wires = append(s.Wires, w)
	}
	g.asBuilt(readings)
}

const pairPrefix = "control/pair/"

// pairKey names a measurement between two terminals that no wire joins, perhaps with a contact held.
func pairKey(p circuit.Probe) string {
	return strings.TrimSuffix(pairPrefix+p.A+"~"+p.B+"~"+p.Held, "~")
}

// asBuilt holds all readings against the drawing: which single mistake explains them, what it would do, what to measure next.
func (g *controlGate) asBuilt(readings []circuit.Reading) {
	s := g.list
	n := g.wiring.Net
	if n == nil {
		return
	}
	for _, key := range sortedKeys(g.rec.Evidence) {
		l := append(strings.Split(strings.TrimPrefix(key, pairPrefix), "~"), "")
		if !strings.HasPrefix(key, pairPrefix) || len(l) < 3 || !n.Has(l[0]) || !n.Has(l[1]) || l[2] != "" && !n.Moves(l[2]) {
			continue
		}
		p := circuit.Probe{A: l[0], B: l[1], Held: l[2]}
		if m := g.pair(p); m.ok && !math.IsNaN(m.value) {
			r := circuit.Reading{A: p.A, B: p.B, Joined: m.value <= mostJoined}
			if p.Held != "" {
				r.Held = []string{p.Held}
			}
			readings = append(readings, r)
		}
	}
	c := Check{Key: "control/built/agrees", Group: "Wires", Title: "What was measured is what was drawn", Verdict: Holds, Work: Either,
		Detail: fmt.Sprintf("%d readings.", len(readings))}
	if len(readings) == 0 {
		c.Verdict, c.Detail = NotDone, "Nothing is measured yet."
		g.check(c)
		return
	}
	found, err := n.Find(readings)
	if err != nil {
		return // every terminal was looked up before
	}
	s.Found = found
	switch {
	case found.Agrees:
	case len(found.Repeat) > 0:
		r := found.Repeat[0]
		c.Verdict, c.Detail = Stops, fmt.Sprintf("Readings contradict one another: measure %s to %s again first.", r.A, r.B)
	case len(found.Mistakes) == 0:
		c.Verdict, c.Detail = Stops, "No single mistake explains what was measured: measure again, then look at each wire that is not "+
			"as drawn."
	default:
		s.Effects = g.wiring.Effects(n.With(found.Mistakes[0].Mistake))
		c.Verdict, c.Detail = Stops, "Likeliest: "+found.Mistakes[0].Text
		if len(found.Mistakes) > 1 {
			c.Detail += fmt.Sprintf(" %d others explain it too.", len(found.Mistakes)-1)
		}
	}
	g.check(c)
	if p := found.Next; p != nil {
		if _, asked := g.rec.Evidence[pairKey(*p)]; !asked {
			g.pair(*p)
		}
	}
}

// pair is a measurement between two terminals, that parts the suspects. Any reading is an answer.
func (g *controlGate) pair(p circuit.Probe) measured {
	title := "To part the suspects: " + p.A + " to " + p.B
	if p.Held != "" {
		title += ", with " + strings.Split(p.Held, ".")[0] + " held"
	}
	return g.measure(Check{Key: pairKey(p), Group: "Wires", Title: title, Unit: "Ω", Work: Dead,
		Basis: map[string]string{"wires": fmt.Sprint(len(g.wiring.Rows))}}, math.NaN(), math.Inf(1), Holds, true)
}

// WorkedOn tells whether a person did any of what a second look is for: their own look is refused.
func WorkedOn(j Job, key, person string) bool {
	r := recordOf(j)
	switch key {
	case "power/second/look":
		return r.DoneBy(powerLooked, person)
	case "control/second/look":
		w, _ := WiringOf(j)
		return r.DoneBy(landedKeys(w), person)
	}
	return false
}
