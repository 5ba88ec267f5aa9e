package stops

import (
	"fmt"
	"slices"
	"strings"
)

// TestStep is one thing that a test does or looks at.
type TestStep struct {
	Do   string `json:"do" doc:"what a person does"`
	Must Seen   `json:"must" doc:"what must be seen then"`
	Look int    `json:"look_ms" doc:"when it is looked at, after the test began"`
}

// Test is one of a circuit's table.
type Test struct {
	Key    string     `json:"key"`
	Title  string     `json:"title"`
	Part   string     `json:"part,omitempty"`
	Hazard string     `json:"hazard" doc:"what it would mean if it were otherwise"`
	Who    string     `json:"who" doc:"who stands where"`
	Dead   bool       `json:"dead" doc:"a wire is lifted for it: power off, proved dead"`
	Steps  []TestStep `json:"steps"`
	Events []Event    `json:"events"`
}

// settled is how long is waited after each act, ms: longer than relays, filters and discrepancy times take.
const settled = 2000

// press is a button pressed and let go again, ms.
const press = 500

// Where people stand, as the acts need it.
const (
	atDevice = "One at the device, one where keypad and lamps are seen; everybody else clear."
	atPanel  = "One at the panel, with power off and proved dead while the wire is moved; one at the device afterwards."
)

// script builds a test act by act.
type script struct {
	p  *Played
	w  writer
	t  Test
	at int
}

// writer writes the table of a circuit.
type writer struct {
	p       *Played
	run     bool // a run command is given: the shaft is kept still otherwise
	buttons []string
	drives  []string
	table   []Test
}

func (s *script) act(text string, events ...Event) {
	for _, e := range events {
		e.At += s.at
		s.t.Events = append(s.t.Events, e)
	}
	s.at += settled
	s.t.Steps = append(s.t.Steps, TestStep{Do: text, Look: s.at - 100})
}

// phrase says an act on a device in the words of its kind.
func (p *Played) phrase(id string, back bool) string {
	words := fieldDevices[p.Devices[id].Kind]
	switch {
	case words.work == "" && back:
		return "Put " + p.Name(id) + " back"
	case words.work == "":
		return "Work " + p.Name(id)
	case back:
		return fmt.Sprintf(words.back, p.Name(id))
	}
	return fmt.Sprintf(words.work, p.Name(id))
}

func (s *script) work(id string) {
	s.act(s.p.phrase(id, false), Event{Do: Work, What: id})
}

func (s *script) back(id string) {
	s.act(s.p.phrase(id, true), Event{Do: Release, What: id})
}

// reset presses every reset button in turn, those outside of guards first.
func (s *script) reset() {
	for _, b := range s.w.buttons {
		s.act("Press and let go "+s.p.Name(b), Event{Do: Work, What: b}, Event{At: press, Do: Release, What: b})
	}
}

// fresh gives a new run command, where one is given at all.
func (s *script) fresh() {
	if !s.w.run {
		return
	}
	var l []Event
	for _, d := range s.w.drives {
		l = append(l, Event{Do: RunOff, What: d})
	}
	for _, d := range s.w.drives {
		l = append(l, Event{At: press, Do: Run, What: d})
	}
	s.act("Run off, and a fresh run command", l...)
}

// ordinary works a device and puts it back, with run held throughout.
func (s *script) ordinary(id string) {
	s.work(id)
	s.back(id)
	s.reset()
	s.fresh()
}

// lifted has a wire lifted and landed again, each time with the power off, and a reset after each: only the second may start.
func (s *script) lifted(wire string) {
	s.t.Who, s.t.Dead = atPanel, true
	s.wire(Lift, "Wire "+wire+" lifted, dead; power back", wire)
	s.reset()
	s.wire(Land, "Wire "+wire+" landed again, dead; power back", wire)
	s.reset()
	s.fresh()
}

// wire lifts a wire, or lands it again, with all power off in between, the drives' too.
func (s *script) wire(do Act, text, id string) {
	var l []Event
	fed := s.p.sources()
	for _, d := range s.w.drives {
		if !slices.Contains(fed, d) {
			fed = append(fed, d)
		}
	}
	for _, src := range fed {
		l = append(l, Event{Do: SupplyOff, What: src})
	}
	l = append(l, Event{At: 200, Do: do, What: id})
	for _, src := range fed {
		l = append(l, Event{At: 500, Do: SupplyOn, What: src})
	}
	s.act(text, l...)
}

func (w *writer) test(key, title, part, hazard string, build func(s *script)) {
	s := &script{p: w.p, w: *w, t: Test{Key: key, Title: title, Part: part, Hazard: hazard, Who: atDevice}}
	s.act("Power on, everything closed")
	s.reset()
	if w.run {
		var l []Event
		for _, d := range w.drives {
			l = append(l, Event{Do: Run, What: d})
		}
		s.act("Give a fresh run command", l...)
	}
	build(s)
	w.table = append(w.table, s.t)
}

// Table works out every test of a circuit and what each must show, with a run command given where the shaft is kept still by other
// means than leaving it out.
func (p *Played) Table() ([]Test, error) { return p.TableOf(true) }

// TableOf works out every test of a circuit and what each must show: every device by both channels and by each alone, its reset
// held, and early; two devices open; the drives' channels and the feedback by themselves; the supply gone and back. run: a run command
// is given, and held through what happens.
func (p *Played) TableOf(run bool) ([]Test, error) {
	w := &writer{p: p, buttons: p.resets(), drives: p.Of(DriveInputs)}
	w.run = run && len(w.drives) > 0
	hands := p.Of(Hand)
	for _, id := range hands {
		w.device(id)
	}
	for i := 1; i < len(hands); i++ {
		a, b := hands[i-1], hands[i]
		w.test("two/"+a+"+"+b, p.Name(a)+" and "+p.Name(b)+": both open, one put back", b,
			"One device put back would hide that another is still open.", func(s *script) {
				s.work(a)
				s.work(b)
				s.back(b)
				s.reset()
				s.back(a)
				s.reset()
				s.fresh()
			})
	}
	for _, d := range w.drives {
		for i, wire := range p.driveWires(d) {
			letter := string(rune('A' + i))
			w.test(fmt.Sprintf("drive-%s/%s", letter, d), fmt.Sprintf("%s: channel %s alone, wire %s lifted", p.Name(d), letter, wire), d,
				"One channel of the drive would do nothing, and nobody would know until the other fails.", func(s *script) {
					s.t.Who, s.t.Dead = atPanel, true
					s.wire(Lift, "Wire "+wire+" lifted, dead; power back", wire)
					s.reset()
					s.fresh()
					s.wire(Land, "Wire "+wire+" landed again, dead; power back", wire)
					s.reset()
				})
		}
	}
	for _, q := range p.Of(Relay) {
		wire := p.mirror(q)
		if wire == "" || len(w.buttons) == 0 {
			continue
		}
		w.test("feedback/"+q, p.Name(q)+": its feedback, wire "+wire+" lifted", q, "A contactor that is welded would not be noticed.",
			func(s *script) {
				s.lifted(wire)
			})
	}
	for _, src := range p.sources() {
		w.test("supply/"+src, p.Name(src)+": gone and back", src, "It would start by itself when the supply comes back.", func(s *script) {
			s.act("Switch "+p.Name(src)+" off", Event{Do: SupplyOff, What: src})
			s.act("Switch "+p.Name(src)+" on", Event{Do: SupplyOn, What: src})
			s.reset()
		})
	}
	l := w.table
	r, err := p.begin(nil)
	if err != nil {
		return l, err
	}
	for i := range l {
		t := &l[i]
		if err := r.run(t.Events, t.looks(), func(k int) bool { t.Steps[k].Must = r.seen(); return true }); err != nil {
			return l, err
		}
	}
	return l, nil
}

// device writes the tests of one field device.
func (w *writer) device(id string) {
	p := w.p
	channels := p.channels(id)
	what := ": both channels"
	if len(channels) == 1 {
		what = ": its one contact"
	}
	w.test("both/"+id, p.Name(id)+what, id, "It would go on turning, or start again by itself.", func(s *script) { s.ordinary(id) })
	for i, wire := range channels {
		w.test(fmt.Sprintf("channel-%d/%s", i+1, id), fmt.Sprintf("%s: channel %d alone, wire %s lifted", p.Name(id), i+1, wire), id,
			"One channel would do nothing, and nobody would know until the other fails.", func(s *script) {
				s.lifted(wire)
				s.ordinary(id)
			})
	}
	if len(w.buttons) == 0 {
		return
	}
	b := w.buttons[len(w.buttons)-1]
	w.test("held/"+id, p.Name(id)+": reset held meanwhile", id,
		"A reset that is jammed would let it start as soon as the device is put back.", func(s *script) {
			s.work(id)
			s.act("Press "+p.Name(b)+" and hold it", Event{Do: Work, What: b})
			s.act(p.phrase(id, true)+", reset still held", Event{Do: Release, What: id})
			s.act("Let go "+p.Name(b), Event{Do: Release, What: b})
		})
	w.test("early/"+id, p.Name(id)+": reset before it is put back", id, "A reset from before would count later.", func(s *script) {
		s.work(id)
		s.reset()
		s.back(id)
	})
}

func (t Test) looks() []int {
	out := make([]int, len(t.Steps))
	for i, s := range t.Steps {
		out[i] = s.Look
	}
	return out
}

// resets are the buttons, those outside of guards before the one that starts the rest.
func (p *Played) resets() []string {
	var l []string
	for _, id := range p.Of(Button) {
		if id != "S0" {
			l = append(l, id)
		}
	}
	for _, id := range p.Of(Button) {
		if id == "S0" {
			l = append(l, id)
		}
	}
	return l
}

// wireAt is the first wire that lands on a terminal; "" when none does.
func (p *Played) wireAt(terminal string) string {
	for _, w := range p.Net.Circuit.Wires {
		if w.To == terminal || w.From == terminal {
			return w.ID
		}
	}
	return ""
}

// channels are the wires that a device's contacts which are closed at rest lead to, one a contact: a channel is opened by lifting its own.
func (p *Played) channels(id string) []string {
	x, _ := p.Net.Circuit.Part(id)
	var l []string
	for _, c := range x.Contacts {
		if w := p.wireAt(id + ":" + c.B); c.Closed && w != "" && !slices.Contains(l, w) {
			l = append(l, w)
		}
	}
	return l
}

// driveWires are the wires to the two channels of a drive.
func (p *Played) driveWires(id string) []string {
	x, _ := p.Net.Circuit.Part(id)
	var l []string
	for _, c := range x.Loads {
		if w := p.wireAt(id + ":" + c.A); (c.Name == "a" || c.Name == "b") && w != "" {
			l = append(l, w)
		}
	}
	return l
}

// mirror is the wire to a contactor's contact that is closed at rest.
func (p *Played) mirror(id string) string {
	x, _ := p.Net.Circuit.Part(id)
	for _, c := range x.Contacts {
		if c.Closed {
			return p.wireAt(id + ":" + c.A)
		}
	}
	return ""
}

// sources are the parts that feed the circuit; a relay's test outputs are its own.
func (p *Played) sources() []string {
	var l []string
	for _, x := range p.Net.Circuit.Parts {
		if len(x.Sources) > 0 && p.Devices[x.ID].Does != SafetyRelay {
			l = append(l, x.ID)
		}
	}
	return l
}

// Text is a row of the table in words.
func (s Seen) Text(p *Played) string {
	var l []string
	for _, id := range p.order {
		if v, ok := s[id]; ok {
			l = append(l, p.Name(id)+" "+strings.ReplaceAll(v, "-", " "))
		}
	}
	return strings.Join(l, ", ")
}
