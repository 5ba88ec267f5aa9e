// Package practice holds how a plant works: a named set of choices out of closed lists, and an order of the gates. The
// trade disagrees about these; a job says which side it is on, and the rules follow.
package practice

import (
	"fmt"
	"slices"
	"strings"
)

// Practice is one named set of choices.
type Practice struct {
	Name    string            `yaml:"name" json:"name"`
	Title   string            `yaml:"title" json:"title"`
	Version string            `yaml:"version" json:"version"`
	About   string            `yaml:"about" json:"about"`
	Order   []string          `yaml:"order" json:"order" doc:"gates in the order of work"`
	Choices map[string]string `yaml:"choices" json:"choices"`
	Reasons map[string]string `yaml:"reasons" json:"reasons" doc:"why this practice chooses so"`
}

// Gates in the usual order of work.
var Gates = []string{"match", "dead", "power", "control", "wake", "plate", "stop", "turn", "tune", "span", "signal", "run", "keep"}

// School is one side of a question.
type School struct {
	Value string `json:"value"`
	Text  string `json:"text"`
}

// Question is one that practitioners answer differently. The first option is the default.
type Question struct {
	Key     string   `json:"key"`
	Text    string   `json:"text"`
	Options []School `json:"options"`
}

// Questions is the closed list.
var Questions = []Question{
	{"dead_limit", "A DC link counts as discharged below", []School{{"42", "42 V DC"}, {"50", "50 V DC"}, {"60", "60 V DC"}}},
	{"disconnect", "Isolated for work",
		[]School{{"line-side", "on the line side; torque off for stopping"}, {"motor-side", "on the motor side too, interlocked"}}},
	{"delivery_state", "Return to delivery state",
		[]School{{"always", "always, after saving as found"}, {"used-only", "only when the drive was used before"}}},
	{"first_turn", "First turn", []School{{"circuit-first", "the stop circuit wired and tested first"},
		{"jumper", "torque off jumpered, circuit later"}}},
	{"torque_off_is", "Torque off is", []School{{"stop", "a stop with its own message"}, {"fault", "a fault"}}},
	{"wrong_direction", "Wrong direction", []School{{"leads", "two motor leads are swapped"}, {"setting", "the phase order is set"}}},
	{"tune", "Tune", []School{{"best", "the best kind that the machine permits"}, {"coupled", "rotating, coupled"},
		{"standstill", "at standstill"}}},
	{"backup", "Backed up", []School{{"both", "after the motor and after the application, both named"},
		{"application", "after the application"}, {"motor", "after the motor's commissioning"}}},
	{"screens", "Screens of control cables",
		[]School{{"drive-end", "at the drive end for analog and encoder"}, {"both-ends", "at both ends"}}},
	{"restart", "Restart after an interlock",
		[]School{{"fresh", "a fresh run command"}, {"automatic", "by itself, for process interlocks where nobody can be in the zone"}}},
	{"first_run", "First run from", []School{{"keypad", "the keypad, then terminals"}, {"terminals", "the terminals"}}},
	{"assistant", "First-start assistant",
		[]School{{"list", "left alone; the list is followed"}, {"assistant", "followed, then what it leaves out"}}},
}

// FieldError names the place in the file, what was read and what was expected.
type FieldError struct{ Path, Got, Want string }

func (e *FieldError) Error() string { return fmt.Sprintf("%s: got %q, want %s", e.Path, e.Got, e.Want) }

// Compile checks a practice: every question answered out of its list, every gate once, and Stop before the first turn.
func (p *Practice) Compile() []error {
	var errs []error
	bad := func(path, got, want string) { errs = append(errs, &FieldError{path, got, want}) }
	if p.Name == "" || p.Title == "" || p.Version == "" {
		bad("name", p.Name, "a name, a title and a version")
	}
	if sorted, all := slices.Sorted(slices.Values(p.Order)), slices.Sorted(slices.Values(Gates)); !slices.Equal(sorted, all) {
		bad("order", strings.Join(p.Order, " "), "each of "+strings.Join(Gates, " ")+" once")
	} else {
		at := func(gate string) int { return slices.Index(p.Order, gate) }
		for _, rule := range [][2]string{{"match", "dead"}, {"dead", "power"}, {"power", "wake"}, {"control", "wake"}, {"wake", "turn"},
			{"plate", "tune"}, {"stop", "turn"}, {"turn", "run"}, {"run", "keep"}} {
			if at(rule[0]) > at(rule[1]) {
				bad("order", rule[1]+" before "+rule[0], rule[0]+" before "+rule[1])
			}
		}
	}
	for _, q := range Questions {
		got := p.Choices[q.Key]
		if !slices.ContainsFunc(q.Options, func(o School) bool { return o.Value == got }) {
			var l []string
			for _, o := range q.Options {
				l = append(l, o.Value)
			}
			bad("choices."+q.Key, got, "one of "+strings.Join(l, ", "))
		}
	}
	for _, m := range []map[string]string{p.Choices, p.Reasons} {
		for k := range m {
			if !slices.ContainsFunc(Questions, func(q Question) bool { return q.Key == k }) && k != "order" {
				bad("choices."+k, k, "a question of docs/formats/practice.md")
			}
		}
	}
	return errs
}

// Text is how a choice reads.
func Text(key, value string) string {
	for _, q := range Questions {
		if q.Key != key {
			continue
		}
		for _, o := range q.Options {
			if o.Value == value {
				return o.Text
			}
		}
	}
	return value
}
