package gate

import (
	"fmt"
	"math"
	"strings"

	"tingate/core/dialect"
	"tingate/core/encoder"
	"tingate/core/quantity"
	"tingate/core/record"
)

// A first turn lasts two seconds, at a tenth of the plate's speed when nothing else is wanted. Common practice.
const (
	bumpSeconds = 2
	bumpShare   = .1
	handTurns   = 10 // by hand, to count an encoder's lines
)

// TurnState is the first turn as a screen draws it.
type TurnState struct {
	Hz      float64  `json:"hz" doc:"of the first turn; 0: not known yet"`
	Speed   float64  `json:"speed" doc:"r/min"`
	Turns   float64  `json:"turns" doc:"of the motor's shaft in that time"`
	Travel  *float64 `json:"travel_m,omitempty" doc:"of the machine"`
	Seconds float64  `json:"seconds"`
	Ready   bool     `json:"ready" doc:"everything before the turn is answered"`
	Seen    string   `json:"seen" enum:"forward,backward,still," doc:"as long as it counts"`
	Count   string   `json:"count" enum:"up,down,nothing,"`
	Bench   bool     `json:"bench" doc:"seen on the bench, not on the machine"`
	Leads   bool     `json:"leads" doc:"two motor leads are to change places"`
	Pairs   bool     `json:"pairs" doc:"the encoder's A and B pairs are to change places"`
	Mend    string   `json:"mend" doc:"what is to be mended"`
	Phases  string   `json:"phases" doc:"the family's setting of the phase order"`
}

// turnBasis is what an observed direction rests on beside the two machines: what forward means, and what was mended since.
func turnBasis(j Job, r record.Record) map[string]string {
	d := j.Drive.Turn
	b := map[string]string{"forward": d.Forward, "from": d.From, "sense": d.Sense, "phases": d.Phases}
	if en, ok := r.EvidenceEntries["turn/mend/leads"]; ok {
		b["leads"] = en.ID
	}
	return b
}

// countBasis is what an observed count rests on beside the direction that it was seen with.
func countBasis(j Job, r record.Record) map[string]string {
	b := map[string]string{"seen": r.EvidenceEntries["turn/seen/shaft"].ID, "counting": j.Drive.Turn.Counting}
	if en, ok := r.EvidenceEntries["turn/mend/pairs"]; ok {
		b["pairs"] = en.ID
	}
	return b
}

// turnedRight tells whether forward was seen at the machine and, of an encoder, the count going up: closed loop is refused before.
// In a real place what was seen on the bench permits nothing.
func turnedRight(j Job, r record.Record) bool {
	holds := func(key, want string, basis map[string]string) bool {
		ev := r.Evidence[key]
		ok, _ := r.Machines.Stands(r.Machines.BasisFor("turn", key, basis), ev)
		return ev.Value == want && ok
	}
	return holds("turn/seen/shaft", "forward", turnBasis(j, r)) &&
		(j.Drive.Site.Encoder != "wanted" || holds("turn/seen/count", "up", countBasis(j, r)))
}

// turnFunctions are the settings that follow from the first turn: phase order and counting as chosen, the encoder's lines only
// once its direction is proved, since lines close the loop.
func turnFunctions(j Job, r record.Record, out map[string]dialect.Function) {
	d := j.Drive.Turn
	for i := range j.Family.Settings {
		s := &j.Family.Settings[i]
		put := func(steps int64, because string) { out[s.Code] = dialect.Function{Steps: steps, Because: because} }
		turned := map[string]int64{"turned": 1}
		switch s.Drives {
		case "phase-order":
			if d.Phases != "" {
				put(turned[d.Phases], "gate Turn: phase order "+strings.ReplaceAll(d.Phases, "-", " "))
			}
		case "encoder-direction":
			if d.Counting != "" {
				put(turned[d.Counting], "gate Turn: counting "+strings.ReplaceAll(d.Counting, "-", " "))
			}
		case "encoder-lines":
			if lines := d.Lines.Num(quantity.Count, ""); lines > 0 && j.Drive.Site.Encoder == "wanted" && turnedRight(j, r) {
				put(int64(math.Round(lines)), "gate Turn: it turned forward and counted up")
			}
		}
	}
}

// bump works the first turn out.
func (g *turnGate) bump() {
	t := &g.out
	t.Seconds = bumpSeconds
	speed := g.job.Drive.Turn.Speed.Num(quantity.Speed, "r/min")
	if math.IsNaN(speed) {
		speed = bumpShare * g.plan.Motor.Speed
	}
	if !(speed > 0) || g.result.Poles == 0 {
		return
	}
	t.Speed, t.Hz, t.Turns = speed, speed*float64(g.result.Poles)/120, speed/60*bumpSeconds
	if per := g.job.Drive.Turn.PerTurn.Num(quantity.Length, "m"); per > 0 {
		m := per * t.Turns
		t.Travel = &m
	}
}

// reach is how far a first turn goes, in words.
func (t TurnState) reach() string {
	text := fmt.Sprintf("%s turns of the shaft at %s r/min in %s s", f4(t.Turns), f4(t.Speed), f4(t.Seconds))
	if t.Travel != nil {
		text += fmt.Sprintf(", %s m of the machine", f4(*t.Travel))
	}
	return text
}

// turnGate: what forward means, what must hold before anything turns, a short turn, what was seen, and the mend.
type turnGate struct {
	asking
	out TurnState
}

func (g *turnGate) tell(s *State) { s.Turn = g.out }

func (g *turnGate) ask() {
	d := g.job.Drive.Turn
	g.bump()
	stated := g.entered("turn/wanted/stated", "What turns", "What forward is, and how the first turn is made",
		lacking("what the machine does when it goes forward", d.Forward, "where the shaft is looked at from", d.From,
			"which way forward is", d.Sense, "how the first turn is made", d.Stands, "whether the coupling can be taken apart", d.Uncouple,
			"who opens the brake", d.Brake), "")
	c := Check{Key: "turn/coupled/may", Group: "What turns", Title: "It may turn either way for a moment", Verdict: Holds,
		Detail: "Load off the shaft."}
	switch {
	case d.Stands == "":
		c.Verdict, c.Detail = NotDone, "Say how the first turn is made."
	case d.Stands == "tester":
		c.Detail = "A rotation tester, without power: the shaft is turned by hand."
	case d.Stands == "coupled" && (d.Backstop || d.Hanging):
		what := "A machine with a backstop"
		if d.Hanging {
			what = "A hanging load"
		}
		c.Verdict, c.Detail = Stops, what+" is never bumped coupled. Uncouple it, or take a rotation tester."
	case d.Stands == "coupled":
		c.Detail = "Coupled: " + g.out.reach() + ", either way."
	}
	g.check(c)
	stated = stated && c.Verdict == Holds
	g.beforeTurn(stated)
	g.out.Ready = stated && g.answered("turn/before/")
	g.firstTurn()
	if g.job.Drive.Site.Encoder == "wanted" {
		g.encoderLines(stated)
	}
	g.findingsAnswered()
}

// beforeTurn is what must hold before anything turns.
func (g *turnGate) beforeTurn(ready bool) {
	d := g.job.Drive.Turn
	t := g.out
	basis := map[string]string{"stands": d.Stands}
	ask := func(key, title, detail string, more map[string]string) {
		b := map[string]string{}
		for _, m := range []map[string]string{basis, more} {
			for k, v := range m {
				b[k] = v
			}
		}
		g.confirm(Check{Key: "turn/before/" + key, Group: "Before it turns", Title: title, Detail: detail, Basis: b}, ready)
	}
	if d.Stands == "tester" {
		ask("tester", "Rotation tester on the motor leads, drive disconnected, nothing live in the terminal box", "", nil)
		return
	}
	guards := "Coupling half and key off or secured, shaft end guarded"
	if d.Stands == "coupled" {
		guards = "Guards on, nothing and nobody's tools in the machine"
	}
	ask("guards", guards, "", nil)
	from := map[string]string{"drive-end": "the drive end", "fan-end": "the fan end"}[d.From]
	if from == "" {
		from = "where it is looked at from"
	}
	ask("people", "People clear; a second person watches the shaft from "+from+", in hearing, the isolator in reach", "",
		map[string]string{"from": d.From})
	if t.Hz > 0 && d.Stands == "coupled" {
		ask("room", "Room for it both ways", t.reach()+".", map[string]string{"turns": f4(t.Turns)})
	}
	if d.Brake == "drive" || d.Brake == "apart" {
		text := "Brake opens by its own supply; never held open by hand on a hoist"
		if d.Brake == "drive" {
			text = "Brake is opened by the drive's output, seen to open and close"
		}
		ask("brake", text, "", map[string]string{"brake": d.Brake})
	}
	g.gatesBefore()
	if g.choice("first_turn", "circuit-first") == "jumper" {
		ask("stop", "Somebody stands at the isolator, ready to open it", "This practice turns first and wires the stop circuit later.", nil)
		// before its circuit is in it may turn; with a circuit that is known not to stop it, nothing does
		if n := g.before.Stop.Fails; n > 0 {
			g.check(Check{Key: "turn/before/stop-fails", Group: "Before it turns", Title: "No test of the stop circuit fails",
				Verdict: Stops, Detail: stopFails(n)})
		}
	} else {
		c := Check{Key: "turn/before/stop", Group: "Before it turns", Title: "Gate Stop is passed: its part at standstill", Verdict: Holds,
			Detail: "The stop circuit comes first here; a waiver names who is responsible, and needs a reason."}
		if g.before.gate("stop").Mark != Passed {
			c.Verdict = NotDone
		}
		if n := g.before.Stop.Fails; n > 0 { // no reason outweighs it, an earlier one neither
			c.Verdict, c.Detail = Stops, stopFails(n)
		} else if g.rec.Evidence["wake/sto/by"].Value == "jumper" {
			c.Verdict, c.Detail = Again, "Torque off is jumpered, and this practice wires the circuit first. Waive it with a reason, or "+
				"wire it."
		}
		g.check(c)
	}
	ask("local", "Keypad has command, run input open, stop key tried", "Keypad stop is no emergency stop.", nil)
}

func stopFails(n int) string {
	return fmt.Sprintf("%d of the tests of gate Stop fail: what failed is mended, and tested again.", n)
}

// gatesBefore are what a first turn rests on: the motor's figures, a supply that is recorded on, and the gates by which it was wired and
// woken.
func (g *turnGate) gatesBefore() {
	const group = "Before it turns"
	c := Check{Key: "turn/before/plate", Group: group, Title: "The motor's plate is entered", Verdict: Holds}
	if x := g.was("plate", "plate/complete/row"); x.Verdict != Holds {
		c.Verdict, c.Detail = NotDone, "Gate Plate first: "+x.Detail
	}
	g.check(c)
	c = Check{Key: "turn/before/supply", Group: group, Title: "Every supply of the drive is recorded live", Verdict: Holds}
	seen, was := g.rec.Evidence["turn/seen/shaft"]
	turned := was && g.counts(Check{Basis: g.rec.Machines.BasisFor("turn", "turn/seen/shaft", turnBasis(g.job, g.rec))}, seen)
	switch {
	case g.liveRecorded():
	case turned:
		c.Detail = "It was, when it was turned."
	default:
		c.Verdict, c.Detail = NotDone, "Record at the band above what feeds it, as measured."
	}
	g.check(c)
	for _, key := range []string{"power", "control", "wake"} {
		was := g.before.gate(key)
		c := Check{Key: "turn/before/" + key, Group: group, Title: "Gate " + was.Name + " is passed", Verdict: Holds}
		if was.Mark != Passed {
			c.Verdict, c.Detail = NotDone, fmt.Sprintf("%d of its checks are open. A waiver needs its reason.", was.Total-was.Done)
			if was.Total == was.Done {
				c.Detail = "Nothing of it is open: pass it."
			}
		}
		g.check(c)
	}
}

// firstTurn asks what was seen, and says what is to be mended.
func (g *turnGate) firstTurn() {
	t := &g.out
	d := g.job.Drive.Turn
	const group = "The first turn"
	detail := "Forward, as short as it is seen."
	if t.Hz > 0 && d.Stands != "tester" {
		detail = fmt.Sprintf("Keypad: forward, %s Hz, %s s.", f4(t.Hz), f4(t.Seconds))
	}
	if d.Stands == "tester" {
		detail = "Turn the shaft forward by hand: the tester shows the order U, V, W, or the other."
	}
	encoderThere := g.job.Drive.Site.Encoder == "wanted"
	if encoderThere {
		detail += " Open loop: the encoder is only watched."
	}
	seen := g.choose(Check{Key: "turn/seen/shaft", Group: group, Title: "Asked forward, the shaft turned", Detail: detail,
		Basis: turnBasis(g.job, g.rec)},
		[]Option{{"forward", "forward", ""}, {"backward", "backward", ""}, {"still", "not at all", ""}}, t.Ready)
	last, lastCount := g.rec.EvidenceEntries["turn/seen/shaft"], g.rec.EvidenceEntries["turn/seen/count"]
	t.Seen, t.Bench = seen, g.rec.Evidence["turn/seen/shaft"].Instrument == record.OnBench
	count := ""
	if encoderThere {
		count = g.choose(Check{Key: "turn/seen/count", Group: group, Title: "Meanwhile the encoder counted",
			Basis: countBasis(g.job, g.rec)},
			[]Option{{"up", "up", ""}, {"down", "down", ""}, {"nothing", "nothing", ""}}, seen == "forward" || seen == "backward")
		t.Count = count
	}
	if seen == "still" {
		g.verdictOf("turn/seen/shaft", Stops,
			"It did not turn. Torque off, run command, an open phase, a brake: find out before it is tried again.")
	}
	if count == "nothing" {
		_, l := encoder.JudgeLines(1, 0, 1)
		g.verdictOf("turn/seen/count", Stops, l[0].Title+". "+l[0].Detail+" "+l[0].Action+".")
	}
	// What the last turn called for stays asked until it is done, also when one of the two is done already.
	was, counted := g.rec.Evidence["turn/seen/shaft"].Value, g.rec.Evidence["turn/seen/count"]
	if was != "forward" && was != "backward" || encoderThere && (counted.Basis["seen"] != last.ID || counted.Value == "nothing") {
		return
	}
	m := encoder.FirstTurn(was == "forward", counted.Value == "up")
	if !encoderThere {
		m = encoder.Mend{Leads: was == "backward", Text: "Change two motor leads; supply leads change nothing."}
	}
	if was == "forward" && !m.Pairs {
		return
	}
	t.Leads, t.Pairs, t.Mend = m.Leads, m.Pairs, m.Text
	if seen == "backward" {
		g.verdictOf("turn/seen/shaft", Stops, m.Text)
	}
	if m.Pairs && count != "" {
		g.verdictOf("turn/seen/count", Stops, m.Text)
	}
	g.mend(m, last.ID, lastCount.ID)
}

// mend asks for what is to change places: dead work at the machine. By the practice, or where the drive is easier reached than
// its terminals, a setting does it.
func (g *turnGate) mend(m encoder.Mend, seen, count string) {
	work := Dead
	if g.out.Bench {
		work = Either // nothing of the bench can be touched
	}
	setting := func(drives string) string {
		if f := g.job.Family; f != nil {
			for i := range f.Settings {
				if f.Settings[i].Drives == drives {
					return f.Settings[i].Code
				}
			}
		}
		return ""
	}
	g.out.Phases = setting("phase-order")
	by := "This practice changes leads, so that forward means forward after a replacement too."
	if g.choice("wrong_direction", "leads") == "setting" && g.out.Phases != "" {
		by = "This practice sets the phase order, " + g.out.Phases + ": choose it above, and read it back on the sheet. Or change leads."
	}
	if m.Leads {
		g.confirm(Check{Key: "turn/mend/leads", Group: "To be mended",
			Title: "Any two motor leads changed at the drive's output, tightened again", Work: work,
			Basis: map[string]string{"seen": seen}, Detail: "Isolate, wait, prove dead again. " + by}, true)
	}
	if m.Pairs {
		g.confirm(Check{Key: "turn/mend/pairs", Group: "To be mended", Title: "The encoder's pairs A and B changed", Work: work,
			Basis: map[string]string{"count": count}, Detail: "Only the pairs; each keeps its own inverse."}, true)
	}
}

// encoderLines finds a wrong line count: by turning the shaft by hand where that is safe, or by the speed shown.
func (g *turnGate) encoderLines(ready bool) {
	d := g.job.Drive.Turn
	const group = "Encoder"
	lines := d.Lines.Num(quantity.Count, "")
	if !g.entered("turn/encoder/stated", group, "Lines on the encoder's label", lacking("encoder lines", d.Lines.Text), "") ||
		!(lines > 0) {
		return
	}
	safe := g.choose(Check{Key: "turn/encoder/safe", Group: group, Title: "The shaft is turned by hand with",
		Detail: "One turn a second reads about 60 r/min (common practice)."},
		[]Option{{"apart", "mains locked off, encoder on its own 24 V", ""},
			{"channels", "both torque-off channels seen open, run input open, local, load unable to move it", ""},
			{"left", "not turned by hand", "Give the reason: why not; it is checked by the speed shown only."}}, ready)
	per := encoder.CountsPerTurn(lines)
	if safe == "apart" || safe == "channels" {
		m := g.measure(Check{Key: "turn/encoder/counts", Group: group, Title: fmt.Sprintf("Counts over %d turns by hand", handTurns),
			Unit: "counts", Basis: map[string]string{"lines": d.Lines.Text},
			Detail: fmt.Sprintf("%s lines count %s a turn.", f4(lines), f4(per))},
			per*handTurns*.97, per*handTurns*1.03, Again, true)
		if m.ok && !math.IsNaN(m.value) {
			found, l := encoder.JudgeLines(lines, m.value, handTurns)
			for i := range l {
				if l[i].Code == "encoder-lines" {
					l[i].Detail += fmt.Sprintf(" It counts like %s lines.", f4(found))
				}
			}
			g.raise("turn", "turn.lines", l, map[string]string{"lines": d.Lines.Text, "counts": m.body.Value})
		}
	}
	t := g.out
	basis := countBasis(g.job, g.rec)
	basis["lines"], basis["speed"] = d.Lines.Text, f4(t.Speed)
	g.measure(Check{Key: "turn/encoder/speed", Group: group, Title: "Speed shown by the encoder meanwhile", Unit: "r/min", Basis: basis,
		Detail: "Half or twice as much: the lines that are set, or a channel that is open."},
		t.Speed*.85, t.Speed*1.05, Again, t.Seen == "forward" && t.Hz > 0)
}
