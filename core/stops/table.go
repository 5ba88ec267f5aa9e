package stops

import (
	"fmt"
	"slices"
	"strings"
)

// Step is one thing that a test does or looks at.
type Step struct {
	Do   string `json:"do" doc:"what a person does"`
	Must Seen   `json:"must" doc:"what must be seen then"`
	look int
}

// Test is one of a circuit's table.
type Test struct {
	Key    string  `json:"key"`
	Title  string  `json:"title"`
	Part   string  `json:"part,omitempty"`
	Hazard string  `json:"hazard" doc:"what it would mean if it were otherwise"`
	Steps  []Step  `json:"steps"`
	Events []Event `json:"events"`
}

// settled is how long is waited after each act, ms: longer than relays, filters and discrepancy times take.
const settled = 2000

// script builds a test act by act.
type script struct {
	t  Test
	at int
}

func (s *script) act(text string, events ...Event) {
	for _, e := range events {
		e.At = s.at
		s.t.Events = append(s.t.Events, e)
	}
	s.at += settled
	s.t.Steps = append(s.t.Steps, Step{Do: text, look: s.at - 100})
}

// press is a button pressed and let go again, ms.
const press = 500

// Table works out every test of a circuit and what each must show: every device by both channels and by each alone, its reset held, early
// and before the device is released, the drive's restart without a fresh command, the supply gone and back.
func (p *Played) Table() ([]Test, error) {
	var l []Test
	buttons, drives := p.Of(Button), p.Of(DriveInputs)
	reset := func(s *script) {
		for _, b := range buttons {
			s.act("Press and let go "+p.Name(b), Event{Do: "work", What: b})
			s.t.Events = append(s.t.Events, Event{At: s.at - settled + press, Do: "release", What: b})
		}
	}
	each := func(do string) []Event {
		var e []Event
		for _, d := range drives {
			e = append(e, Event{Do: do, What: d})
		}
		return e
	}
	begin := func(key, title, part, hazard string) *script {
		s := &script{t: Test{Key: key, Title: title, Part: part, Hazard: hazard}}
		s.act("Power on, everything closed")
		reset(s)
		s.act("Give a fresh run command", each("run")...)
		return s
	}
	end := func(s *script) { l = append(l, s.t) }
	ordinary := func(s *script, id string) {
		s.act("Work "+p.Name(id), Event{Do: "work", What: id})
		s.act("Put "+p.Name(id)+" back", Event{Do: "release", What: id})
		reset(s)
		s.act("Run off, and a fresh run command", each("run-off")...)
		for _, e := range each("run") {
			e.At = s.at - settled + press
			s.t.Events = append(s.t.Events, e)
		}
	}
	for _, id := range p.Of(Hand) {
		s := begin("both/"+id, p.Name(id)+": both channels", id, "It would go on turning, or start again by itself.")
		ordinary(s, id)
		end(s)
		for i, wire := range p.channels(id) {
			s := begin(fmt.Sprintf("channel-%d/%s", i+1, id), fmt.Sprintf("%s: channel %d alone, wire %s lifted", p.Name(id), i+1, wire), id, "One channel would do nothing, and nobody would know until the other fails.")
			s.act("Wire "+wire+" lifted, dead; power back", Event{Do: "lift", What: wire})
			s.act("Wire "+wire+" landed again, dead; power back", Event{Do: "land", What: wire})
			reset(s)
			ordinary(s, id)
			end(s)
		}
		if len(buttons) == 0 {
			continue
		}
		s = begin("held/"+id, p.Name(id)+": reset held meanwhile", id, "A reset that is jammed would let it start as soon as the device is put back.")
		s.act("Work "+p.Name(id), Event{Do: "work", What: id})
		s.act("Press "+p.Name(buttons[0])+" and hold it", Event{Do: "work", What: buttons[0]})
		s.act("Put "+p.Name(id)+" back, reset still held", Event{Do: "release", What: id})
		s.act("Let go "+p.Name(buttons[0]), Event{Do: "release", What: buttons[0]})
		end(s)
		s = begin("early/"+id, p.Name(id)+": reset before it is put back", id, "A reset from before would count later.")
		s.act("Work "+p.Name(id), Event{Do: "work", What: id})
		reset(s)
		s.act("Put "+p.Name(id)+" back", Event{Do: "release", What: id})
		end(s)
	}
	for _, src := range p.sources() {
		s := begin("supply/"+src, p.Name(src)+": gone and back", src, "It would start by itself when the supply comes back.")
		s.act("Switch "+p.Name(src)+" off", Event{Do: "supply-off", What: src})
		s.act("Switch "+p.Name(src)+" on", Event{Do: "supply-on", What: src})
		end(s)
	}
	for i := range l {
		seen, err := p.Play(nil, l[i].Events, l[i].looks())
		if err != nil {
			return l, err
		}
		for k := range l[i].Steps {
			l[i].Steps[k].Must = seen[k]
		}
	}
	return l, nil
}

func (t Test) looks() []int {
	out := make([]int, len(t.Steps))
	for i, s := range t.Steps {
		out[i] = s.look
	}
	return out
}

// channels are the wires that feed a device's contacts which are closed at rest, one a contact: a channel is opened by lifting its own.
func (p *Played) channels(id string) []string {
	x, _ := p.Net.Circuit.Part(id)
	var l []string
	for _, c := range x.Contacts {
		if !c.Closed {
			continue
		}
		for _, w := range p.Net.Circuit.Wires {
			if w.To == id+":"+c.A || w.From == id+":"+c.A {
				if !slices.Contains(l, w.ID) {
					l = append(l, w.ID)
				}
				break
			}
		}
	}
	return l
}

func (p *Played) sources() []string {
	var l []string
	for _, x := range p.Net.Circuit.Parts {
		if len(x.Sources) > 0 {
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
