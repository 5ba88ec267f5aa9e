package practice_test

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"tingate/core/practice"
)

// usual is a practice that takes the first school everywhere.
func usual() practice.Practice {
	p := practice.Practice{Name: "usual", Title: "As usual", Version: "1", Order: slices.Clone(practice.Gates),
		Choices: map[string]string{}}
	for _, q := range practice.Questions {
		p.Choices[q.Key] = q.Options[0].Value
	}
	return p
}

// Each thing that a practice must not be is refused by name, with what was read and what was expected.
func TestWhatAPracticeMustBe(t *testing.T) {
	sound := usual()
	if errs := sound.Compile(); errs != nil {
		t.Fatalf("%v", errs)
	}
	moved := func(gate, before string) []string {
		l := slices.DeleteFunc(slices.Clone(practice.Gates), func(g string) bool { return g == gate })
		return slices.Insert(l, slices.Index(l, before), gate)
	}
	for name, c := range map[string]struct {
		spoil func(p *practice.Practice)
		path  string
		want  string
	}{
		"no name":             {func(p *practice.Practice) { p.Name = "" }, "name", "a name, a title and a version"},
		"a gate twice":        {func(p *practice.Practice) { p.Order[0] = "dead" }, "order", "once"},
		"a gate left out":     {func(p *practice.Practice) { p.Order = p.Order[1:] }, "order", "once"},
		"Turn before Stop":    {func(p *practice.Practice) { p.Order = moved("turn", "stop") }, "order", "stop before turn"},
		"Power before Dead":   {func(p *practice.Practice) { p.Order = moved("power", "dead") }, "order", "dead before power"},
		"Wake before Control": {func(p *practice.Practice) { p.Order = moved("wake", "control") }, "order", "control before wake"},
		"Tune before Plate":   {func(p *practice.Practice) { p.Order = moved("tune", "plate") }, "order", "plate before tune"},
		"an answer of nobody": {func(p *practice.Practice) { p.Choices["dead_limit"] = "120" }, "choices.dead_limit", "one of 42, 50, 60"},
		"a question left out": {func(p *practice.Practice) { delete(p.Choices, "tune") }, "choices.tune", "one of best"},
		"a question of none":  {func(p *practice.Practice) { p.Choices["colour"] = "red" }, "choices.colour", "a question of"},
		"a reason of none": {func(p *practice.Practice) { p.Reasons = map[string]string{"colour": "red is seen"} }, "choices.colour",
			"a question of"},
	} {
		p := usual()
		c.spoil(&p)
		errs := p.Compile()
		found := slices.ContainsFunc(errs, func(err error) bool {
			var fe *practice.FieldError
			return errors.As(err, &fe) && fe.Path == c.path && strings.Contains(fe.Want, c.want) &&
				strings.Contains(err.Error(), fmt.Sprintf("%q", fe.Got))
		})
		if !found {
			t.Errorf("%s: %v", name, errs)
		}
	}
}

// Orders that practitioners do use are taken.
func TestOrdersOfTheTrade(t *testing.T) {
	for name, order := range map[string]string{
		"plate first":       "plate match dead power control wake stop turn tune span signal run keep",
		"settings at first": "plate span signal match dead power control wake stop turn tune run keep",
		"control before":    "match dead control power wake plate stop turn tune span signal run keep",
	} {
		p := usual()
		p.Order = strings.Fields(order)
		if errs := p.Compile(); errs != nil {
			t.Errorf("%s: %v", name, errs)
		}
	}
}

// Every answer of every question is sound, and reads as words of its own.
func TestEverySchoolIsTaken(t *testing.T) {
	for _, q := range practice.Questions {
		words := map[string]bool{}
		for _, o := range q.Options {
			p := usual()
			p.Choices = maps.Clone(p.Choices)
			p.Choices[q.Key] = o.Value
			if errs := p.Compile(); errs != nil {
				t.Errorf("%s %s: %v", q.Key, o.Value, errs)
			}
			text := practice.Text(q.Key, o.Value)
			if text == o.Value || words[text] || text == "" {
				t.Errorf("%s %s reads %q", q.Key, o.Value, text)
			}
			words[text] = true
		}
		if len(q.Options) < 2 {
			t.Errorf("%s is no question: %v", q.Key, q.Options)
		}
	}
	if practice.Text("dead_limit", "48") != "48" || practice.Text("colour", "red") != "red" {
		t.Error("what is not known reads as it is")
	}
}

func ExampleText() {
	fmt.Println(practice.Text("wrong_direction", "leads"))
	// Output: two motor leads are swapped
}
