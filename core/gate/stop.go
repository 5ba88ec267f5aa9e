package gate

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/stops"
)

// StopState is gate Stop as a screen needs it at once; circuit, table and suspects have an answer of their own.
type StopState struct {
	Ready   bool   `json:"ready" doc:"everything before the tests is answered"`
	Tests   int    `json:"tests"`
	Done    int    `json:"done"`
	Fails   int    `json:"fails"`
	Circuit string `json:"circuit" doc:"tells one circuit with its table from another"`
	Lift    string `json:"lift" doc:"why a test in which a wire is lifted cannot be answered now; empty: it can"`
}

// Beginnings of the keys of tests and of measurements that part suspects.
const (
	TestPrefix  = "stop/test/"
	voltsPrefix = "stop/volts/"
	ohmsPrefix  = "stop/ohms/"
)

// stopGate: the circuit as drawn, who is responsible, every test with the shaft still, the sign-off.
type stopGate struct {
	asking
	out StopState
}

func (g *stopGate) tell(s *State) { s.Stop = g.out }

func (g *stopGate) ask() {
	st := g.job.Drive.Stop
	if st.None && !st.Alone {
		g.stopNone()
		return
	}
	c, chosen := stopCircuit(g.job)
	d := StopDrawing(g.job)
	missing := lacking("how the shaft is kept still", st.Still, "how it stops", st.As, "whether torque off asks for a reset of the drive",
		st.Latched, "worst speed", st.Speed.Text, "time allowed to standstill", st.Allowed.Text, "what keeps hands away while it coasts",
		st.Guarding)
	if st.Alone {
		missing = nil
	}
	if g.job.Drive.Turn.Hanging {
		missing = append(missing, lacking("drop of the load that is allowed", st.Drop.Text)...)
	}
	if !chosen {
		missing = append([]string{"stop circuit"}, missing...)
	}
	title := "The circuit, and how this drive stops"
	if st.Alone {
		title = "The circuit"
	}
	stated := g.entered("stop/circuit/stated", "The circuit", title, missing, c.Name)
	sound := Check{Key: "stop/circuit/sound", Group: "The circuit", Title: "As drawn it can be tested", Verdict: NotDone,
		Detail: "Name the devices of the circuit."}
	switch {
	case d == nil:
	case !d.Sound():
		sound.Verdict, sound.Detail = Stops, d.Faults[0].Error()
	default:
		sound.Verdict, sound.Detail = Holds,
			fmt.Sprintf("%d parts, %d wires, %d tests.", len(d.Circuit.Parts), len(d.Circuit.Wires), len(d.Table))
		g.out.Circuit = d.Hash
	}
	g.check(sound)
	if chosen {
		g.stopFindings(c, d)
		g.responsible(c)
	}
	g.beforeStop(stated && sound.Verdict == Holds)
	if d != nil && d.Sound() {
		g.stopTests(d)
		g.parting(d)
		g.stopMeasured(d)
	}
	if !st.Alone {
		g.inside()
		g.fromSpeed()
	}
	g.findingsAnswered()
	g.signed(c, d)
}

// stopNone is the gate of a drive whose torque-off inputs stay linked as ordered: somebody answers for it that no safety function rests on
// them.
func (g *stopGate) stopNone() {
	st := g.job.Drive.Stop
	const group = "No stop circuit here"
	stated := g.entered("stop/none/stated", group, "Who answers for it that no safety function rests on torque off, and their paper",
		lacking("who answers for it, and their paper", st.NoneBy), st.NoneBy)
	c := Check{Key: "stop/none/only", Group: group, Title: "No circuit is planned or wired on it", Verdict: Holds, Work: Either}
	switch circuit, chosen := stopCircuit(g.job); {
	case chosen:
		c.Verdict, c.Detail = Stops, fmt.Sprintf("%s is chosen too: one of the two is so.", circuit.Name)
	case g.job.Drive.Wiring.Safety == "contacts" || g.job.Drive.Wiring.Safety == "relay":
		c.Verdict, c.Detail = Stops, "Gate Control plans contacts on its torque-off inputs: say there that the factory links stay, or "+
			"choose the circuit here."
	}
	g.check(c)
	basis := map[string]string{"by": st.NoneBy}
	g.confirm(Check{Key: "stop/none/links", Group: group, Title: "The factory links are in as ordered, all of them, and tight",
		Basis: basis, Work: Either}, stated)
	g.confirm(Check{Key: "stop/none/rests", Group: group,
		Title: "No guard and no emergency stop of this machine acts by this drive's torque off; what stops it stands in that paper",
		Basis: basis, Work: Either}, stated)
	g.inside()
	g.findingsAnswered()
}

// inside asks for what safety functions within the drive need: settings of their own, a checksum, who holds their password, and their
// acceptance test. Any change of them, and another drive, asks for the test again.
func (g *stopGate) inside() {
	st := g.job.Drive.Stop
	if strings.TrimSpace(st.Inside) == "" {
		return
	}
	const group = "Safety functions inside the drive"
	stated := g.entered("stop/inside/stated", group, "Their checksum, and who holds their password",
		lacking("the checksum that the drive shows", st.InsideSum, "who holds the password", st.InsideBy),
		strings.Join([]string{st.Inside, st.InsideSum, st.InsideBy}, "; "))
	g.confirm(Check{Key: "stop/inside/accepted", Group: group,
		Title:  "Their acceptance test is done, as their maker writes it, by who is responsible: " + st.Inside,
		Detail: "A change of a setting, another checksum, a copy or another drive asks for it again.", Work: Live,
		Basis: map[string]string{"functions": st.Inside, "checksum": st.InsideSum, "holder": st.InsideBy}}, stated)
}

// beforeStop is what must hold before a device is touched.
func (g *stopGate) beforeStop(ready bool) {
	st, turn := g.job.Drive.Stop, g.job.Drive.Turn
	ask := func(key, title, detail string) {
		g.confirm(Check{Key: "stop/before/" + key, Group: "Before the tests", Title: title, Detail: detail,
			Basis: map[string]string{"still": st.Still}}, ready)
	}
	switch st.Still {
	case "reference-zero":
		ask("still", "Reference at zero, lowest speed zero: the shaft stands with run given", "Seen once, before the first test.")
	case "motor-off":
		ask("still", "Motor cable off the drive, its ends safe", "Dead work, proved dead. It goes back before gate Turn.")
	case "no-run":
		ask("still", "No run command is given in any test", "That a restart asks for a fresh command is then seen at gate Run only.")
	}
	ask("people", "People clear, and told; two who hear each other: one at the device, one at the drive", "")
	ask("isolation", "Nobody takes torque off for isolation: terminals stay live", "")
	if st.Alone {
		ask("off", "What feeds it is known and can be locked off: before a wire is lifted or ohms are measured it is off, and measured "+
			"dead there", "Its own supply, and whatever its contacts switch. No drive stands behind it whose state would be kept here.")
	}
	if turn.Hanging {
		ask("landed", "The load is landed, and cannot move when torque goes", "A hanging load falls unless the brake closes.")
	}
	if turn.Brake == "drive" || turn.Brake == "apart" {
		ask("brake", "The brake is closed, and seen to hold", "")
	}
	g.out.Ready = ready && g.answered("stop/before/")
}

// chosenTests are the tests that are to be done: all, or the smallest set as it was worked out when it was chosen.
func (g *stopGate) chosenTests(d *stops.Drawing, basis map[string]string) map[string]bool {
	c := Check{Key: "stop/set/chosen", Group: "Which tests", Title: "Which tests are done",
		Detail: "All; or the smallest set that still tells every single fault apart.", Basis: basis}
	set := g.choose(c, []Option{{"all", "all of the table", ""}, {"smallest", "the smallest set", ""}}, g.out.Ready)
	out := map[string]bool{}
	var keys []string
	if set == "smallest" && json.Unmarshal([]byte(g.rec.Evidence[c.Key].Reason), &keys) == nil {
		for _, k := range keys {
			out[k] = true
		}
		g.checks[len(g.checks)-1].Reason = ""
		return out
	}
	for _, t := range d.Table {
		out[t.Key] = true
	}
	return out
}

// stopBasis is what the tests rest on, beside the drive: the circuit as drawn, the program of a safety controller, and what was mended
// last. A mend starts a fresh round: what passed before it says nothing of the circuit as it is now, also when a later test was misread and
// nothing more was mended.
func (f *Facts) stopBasis(d *stops.Drawing) map[string]string {
	b := f.circuitBasis(d)
	for _, en := range f.rec.Series[mendKey] {
		if ev, ok := drivefile.Contents[drivefile.Evidence](en); ok && ev.Value != misread && ev.Basis["circuit"] == d.Hash {
			b["mend"] = en.ID
		}
	}
	return b
}

// circuitBasis is stopBasis without what was mended.
func (f *Facts) circuitBasis(d *stops.Drawing) map[string]string {
	b := map[string]string{"circuit": d.Hash}
	if c, ok := stopCircuit(f.job); ok && c.Program+c.Checksum != "" {
		b["program"] = strings.TrimSpace(c.Program + " " + c.Checksum)
	}
	return b
}

// stopTests are the checks of the table.
func (g *stopGate) stopTests(d *stops.Drawing) {
	basis := g.stopBasis(d)
	chosen := g.chosenTests(d, g.circuitBasis(d))
	g.out.Lift = g.lift(d)
	for _, t := range d.Table {
		key := TestPrefix + t.Key
		ev, answered := g.rec.Evidence[key]
		if !chosen[t.Key] && !answered {
			continue
		}
		c := Check{Key: key, Group: "Tests", Title: t.Title, Work: Live, Do: Test, Verdict: NotDone,
			Basis:  g.rec.Machines.BasisFor("stop", key, basis),
			Detail: fmt.Sprintf("%d steps. If it were otherwise: %s", len(t.Steps), lower(t.Hazard))}
		if !g.out.Ready {
			c.Do = ""
		} else if t.Dead && g.out.Lift != "" {
			c.Do, c.Detail = "", g.out.Lift
		}
		g.out.Tests++
		if answered {
			entry := g.rec.EvidenceEntries[key]
			c.By, c.At, c.Entry, c.Value, c.With = entry.By, entry.At, entry.ID, ev.Value, ev.Instrument
			shown, err := d.ReadShown(t, ev.Value)
			counts, why := g.rec.Machines.Stands(c.Basis, ev)
			switch {
			case !counts && ev.Basis["circuit"] == basis["circuit"] && ev.Basis["mend"] != basis["mend"]:
				c.Verdict, c.Detail = Again, "Something was mended since: the whole round is done again."
			case !counts && strings.HasPrefix(why, "before "):
				c.Verdict, c.Detail = Again, "The circuit or its program has changed since: test it again."
			case !counts:
				c.Verdict, c.Detail = Again, why
			case err != nil:
				c.Verdict, c.Detail = Again, "What was shown cannot be read: "+err.Error()
			case d.Otherwise(t, shown) != "":
				c.Verdict, c.Detail = Stops, d.Otherwise(t, shown)
				g.out.Fails++
			default:
				c.Verdict, c.Detail = Holds, ""
				g.out.Done++
			}
		}
		g.check(c)
	}
	g.mended(d)
}

// lift says why a test in which a wire is lifted cannot be answered now: since the last of them everything that feeds the drive was to be
// proved dead at it, for the wires to be moved, and recorded live again, for what is seen. Wires of two tests may change in one isolation:
// landed of one, lifted of the next.
func (g *stopGate) lift(d *stops.Drawing) string {
	if g.job.Drive.Stop.Alone {
		return ""
	}
	last := ""
	for _, t := range d.Table {
		if t.Dead {
			last = max(last, g.rec.EvidenceEntries[TestPrefix+t.Key].At)
		}
	}
	first := "Its wire is moved dead: isolate and record DEAD at gate Dead, move it, and record the supply live again, before this is " +
		"answered."
	if len(g.sources) == 0 {
		return first
	}
	for _, s := range g.sources {
		dead := s.State.DeadAt[g.job.ID]
		if dead <= last {
			return first
		}
		if s.State.State != drivefile.Live || s.State.Since <= dead {
			return "The wire is moved. Record the supply live again: what the circuit shows is seen live."
		}
	}
	return ""
}

func lower(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

// torqueOffWord is what the family shows with both channels open.
func (x *Facts) torqueOffWord() string {
	f := x.job.Family
	if f == nil {
		return "torque off"
	}
	if w := StopWords(f)["torque-off"]; w != "" {
		return strconv.Quote(w)
	}
	return "torque off"
}

// StopWords are the states of torque off as a family shows them, where its file says so.
func StopWords(f *dialect.Family) map[string]string {
	out := map[string]string{}
	for _, r := range f.Keypad.Refused {
		if strings.Contains(strings.ToLower(r.When), "torque") {
			out["torque-off"] = r.Shows
		}
	}
	for _, x := range f.Faults {
		if x.Family != "torque-off-channel" {
			continue
		}
		if x.Clears == "power-cycle" {
			out["channel-fault"] = strings.TrimSpace(x.Code + " " + x.Text)
		}
	}
	for _, x := range f.Faults {
		if x.Family == "internal" && out["internal-fault"] == "" {
			out["internal-fault"] = strings.TrimSpace(x.Code + " " + x.Text)
		}
	}
	for _, w := range f.Keypad.Words {
		m := strings.ToLower(w.Means)
		switch {
		case out["ready"] == "" && strings.Contains(m, "able to run"):
			out["ready"] = w.Sign
		}
	}
	return out
}

// signed is the end: somebody says that what was built does what was drawn.
func (g *stopGate) signed(c drivefile.StopCircuit, d *stops.Drawing) {
	open := 0
	for _, x := range g.checks {
		if x = g.settled("stop", x); x.Verdict != Holds && x.Verdict != Waived {
			open++
		}
	}
	basis := map[string]string{"by": c.By, "paper": c.Paper, "level": c.Required + c.Reached, "program": c.Program + " " + c.Checksum,
		"next": c.Next}
	if d != nil {
		basis["circuit"] = d.Hash
		if mend := g.stopBasis(d)["mend"]; mend != "" {
			basis["mend"] = mend
		}
	}
	who := "a qualified person"
	if c.By != "" {
		who = c.By
	}
	detail := "Its design, its level and its acceptance are for " + who + " and the local code."
	if open > 0 {
		detail = fmt.Sprintf("%d open before it. ", open) + detail
	}
	title := "What was built does what was drawn"
	if !g.job.Drive.Stop.Alone {
		title += ", at standstill; from speed it stands open"
	}
	g.confirm(Check{Key: "stop/signed/record", Group: "Signed", Title: title, Detail: detail, Basis: basis}, open == 0)
}
