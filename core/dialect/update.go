package dialect

import (
	"fmt"
	"math"
)

// Effect is what another version of a family's file would change for one drive.
type Effect struct {
	Code   string `json:"code"`
	Name   string `json:"name"`
	Kind   string `json:"kind" enum:"value,reading,gone,new,range,delivery,meaning,register,motion"`
	Before string `json:"before"`
	After  string `json:"after"`
	Note   string `json:"note,omitempty"`
}

// Update says what changes for a plan and readings (code → steps on the old grid) when a drive goes over from one version
// of a family to another. Nothing is changed by asking.
func Update(from, to *Family, p *Plan, readings map[string]int64) []Effect {
	var out []Effect
	add := func(s *Setting, kind, before, after, note string) {
		if before != after {
			out = append(out, Effect{s.Code, s.Name, kind, before, after, note})
		}
	}
	planned := func(f *Family) map[string]*Line {
		m := map[string]*Line{}
		lines := f.Sheet(p)
		for i := range lines {
			m[lines[i].Setting.Code] = &lines[i]
		}
		return m
	}
	shows := func(l *Line) string {
		if l == nil || !l.Planned {
			return ""
		}
		return l.SetTo()
	}
	a, b := planned(from), planned(to)
	for i := range from.Settings {
		s := &from.Settings[i]
		t, ok := to.Setting(s.Code)
		if !ok {
			note := ""
			if _, read := readings[s.Code]; read {
				note = "its readings stay in the history"
			}
			out = append(out, Effect{s.Code, s.Name, "gone", orDash(shows(a[s.Code])), "–", note})
			continue
		}
		if before, after := a[s.Code], b[s.Code]; shows(before) == "" || shows(after) == "" || !same(s, t, before.Steps, after.Steps) {
			add(t, "value", shows(before), shows(after), "")
		}
		if steps, read := readings[s.Code]; read {
			v, err := t.Read(s.Text(steps))
			switch {
			case s.Kind != t.Kind || err != nil:
				add(t, "reading", s.WithUnit(steps), "must be read again", "the setting shows its value otherwise")
			case !t.Inside(v):
				add(t, "reading", s.WithUnit(steps), "outside "+t.Span(), "")
			}
		}
		add(t, "range", s.Span(), t.Span(), "")
		if x, y := s.DeliveryFor(p.Variant), t.DeliveryFor(p.Variant); !same(s, t, x, y) {
			add(t, "delivery", s.WithUnit(x), t.WithUnit(y), "")
		}
		add(t, "meaning", s.Intent+" "+s.Convention, t.Intent+" "+t.Convention, "")
		add(t, "register", s.wire(), t.wire(), "")
		add(t, "motion", s.Acts, t.Acts, "whether it could start motion")
	}
	for i := range to.Settings {
		s := &to.Settings[i]
		if _, ok := from.Setting(s.Code); !ok {
			out = append(out, Effect{s.Code, s.Name, "new", "–", orDash(shows(b[s.Code])), ""})
		}
	}
	return out
}

// same tells whether two versions of a setting hold the same value, however many decimals they show.
func same(s, t *Setting, x, y int64) bool {
	if s.Kind == "number" && t.Kind == "number" {
		return s.Unit == t.Unit && math.Abs(s.Value(x)-t.Value(y)) < 1e-9*math.Max(1, math.Abs(s.Value(x)))
	}
	return s.WithUnit(x) == t.WithUnit(y)
}

func (s *Setting) wire() string {
	if s.Register == 0 {
		return ""
	}
	return fmt.Sprintf("%d, %s, %d a step", s.Register, s.registerType(), s.perStep)
}

func orDash(t string) string {
	if t == "" {
		return "–"
	}
	return t
}
