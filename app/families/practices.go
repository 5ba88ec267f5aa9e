package families

import (
	"context"
	"strings"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/practice"
	"tingate/formats/practicefile"
	"tingate/store"
)

// Practices lists the practices that are known here, and the questions that they answer.
func (a *Library) Practices() PracticeList {
	return PracticeList{a.PracticeSet.All(), practice.Questions}
}

// PracticeList is every practice with the questions that they answer.
type PracticeList struct {
	Practices []*practice.Practice `json:"practices"`
	Questions []practice.Question  `json:"questions"`
}

// AddPractice checks a practice's file and keeps it in the data folder. A named person brings it in.
func (a *Library) AddPractice(ctx context.Context, who base.Actor, raw []byte) (PracticeList, error) {
	p, err := practicefile.Read(raw)
	if err != nil {
		return PracticeList{}, notAPractice(err)
	}
	err = a.cameIn(ctx, who, drivefile.CameIn{What: "practice", Name: p.Name, Version: p.Version, Hash: base.HashOf(raw)},
		func() error { return a.KeepPractice(raw) })
	if err != nil {
		return PracticeList{}, err
	}
	return a.Practices(), nil
}

func notAPractice(err error) error {
	return base.Bad("practice", err.Error(), "a practice of docs/formats/practice.md")
}

// KeepPractice stores a practice's file, and knows it only when it is on the disk.
func (a *Library) KeepPractice(raw []byte) error {
	a.keeping.Lock()
	defer a.keeping.Unlock()
	if err := a.PracticeSet.Check(raw); err != nil {
		return notAPractice(err)
	}
	p, err := practicefile.Read(raw)
	if err != nil {
		return notAPractice(err)
	}
	if err := a.Store.KeepFile(store.PracticeFolder, p.Name, raw); err != nil {
		return err
	}
	_, err = a.PracticeSet.Add(raw)
	a.WakeGlances()
	return err
}

// PracticeChange is one thing that another practice would change for a drive.
type PracticeChange struct {
	Kind   string `json:"kind" enum:"order,choice,check"`
	What   string `json:"what"`
	Before string `json:"before"`
	After  string `json:"after"`
	Why    string `json:"why"`
}

// PracticeEffect shows what another practice would change for a drive. Nothing is changed by asking.
func (a *Library) PracticeEffect(ctx context.Context, driveID, to string) ([]PracticeChange, error) {
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return nil, err
	}
	next := a.PracticeSet.Find(to)
	if next == nil {
		return nil, base.Bad("to", to, "a practice known here")
	}
	out := []PracticeChange{}
	now := j.Practice
	if b, c := gateOrder(now), gateOrder(next); b != c {
		out = append(out, PracticeChange{"order", "Order of the gates", b, c, next.Reasons["order"]})
	}
	for _, q := range practice.Questions {
		if x, y := now.Choices[q.Key], next.Choices[q.Key]; x != y {
			out = append(out, PracticeChange{"choice", q.Text, practice.Text(q.Key, x), practice.Text(q.Key, y), next.Reasons[q.Key]})
		}
	}
	was := a.Evaluate(j)
	j.Practice = next
	then := a.Evaluate(j)
	before, after := checksOf(was), checksOf(then)
	for _, g := range was.Gates {
		for _, c := range g.Checks {
			d, ok := after[c.Key]
			switch {
			case !ok:
				out = append(out, PracticeChange{"check", g.Name + ": " + c.Title, c.Verdict.Words(), "not asked", ""})
			case c.Verdict != d.Verdict || c.Band != d.Band:
				out = append(out, PracticeChange{"check", g.Name + ": " + c.Title, strings.TrimSpace(c.Verdict.Words() + " " + c.Band),
					strings.TrimSpace(d.Verdict.Words() + " " + d.Band), d.Detail})
			}
		}
	}
	for _, g := range then.Gates {
		for _, c := range g.Checks {
			if _, ok := before[c.Key]; !ok {
				out = append(out, PracticeChange{"check", g.Name + ": " + c.Title, "not asked", c.Verdict.Words(), c.Detail})
			}
		}
	}
	return out, nil
}

func gateOrder(p *practice.Practice) string {
	s := ""
	for i, g := range p.Order {
		if i > 0 {
			s += ", "
		}
		s += g
	}
	return s
}

func checksOf(s gate.State) map[string]gate.Check {
	m := map[string]gate.Check{}
	for _, g := range s.Gates {
		for _, c := range g.Checks {
			m[c.Key] = c
		}
	}
	return m
}
