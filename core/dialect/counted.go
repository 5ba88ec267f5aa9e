package dialect

import (
	"fmt"
	"slices"
	"strings"
)

// Counting is how a setting counts once the drive's speeds are counted otherwise, by the setting that serves speed-unit: its own code
// and register stay, its unit, grid and range are others.
type Counting struct {
	As         string `yaml:"as" json:"as"` // hz, percent, rpm: what that setting's choice stands for
	Unit       string `yaml:"unit" json:"unit"`
	Step       string `yaml:"step" json:"step"`
	Min        string `yaml:"min" json:"min"`
	Max        string `yaml:"max" json:"max"`
	Delivery   string `yaml:"delivery" json:"delivery"` // as it stands after the change, where nothing else is entered
	Convention string `yaml:"convention,omitempty" json:"convention,omitempty"`
	Scale      string `yaml:"scale,omitempty" json:"scale,omitempty"`
}

// speedUnit is the role of the setting by which speeds are counted.
const speedUnit = "speed-unit"

// SpeedUnits are the ways in which a family can count its speeds; the first is the one as delivered. Nil: it has one only.
func (f *Family) SpeedUnits() []string {
	s := f.Doing(speedUnit)
	if s == nil {
		return nil
	}
	var l []string
	for _, c := range s.Choices {
		switch {
		case c.Means == "":
		case c.Value == s.delivery:
			l = append([]string{c.Means}, l...)
		default:
			l = append(l, c.Means)
		}
	}
	return l
}

// CountedIn is the family as a drive has it whose speeds are counted so; the family itself where that is how it is delivered, or where
// it has no such choice.
func (f *Family) CountedIn(as string) *Family {
	if f == nil || as == "" {
		return f
	}
	if l := f.SpeedUnits(); !slices.Contains(l, as) || l[0] == as {
		return f
	}
	g := *f
	g.Settings = slices.Clone(f.Settings)
	for i := range g.Settings {
		for k, x := range f.Settings[i].Counted {
			if x.As == as {
				g.Settings[i] = f.Settings[i].counted[k]
				g.Settings[i].Source = f.Settings[i].Source
			}
		}
	}
	return &g
}

// CountedBy is the family as a drive has it that holds these values.
func (f *Family) CountedBy(values map[string]int64) *Family {
	if f == nil {
		return nil
	}
	if s := f.Doing(speedUnit); s != nil {
		for _, c := range s.Choices {
			if v, ok := values[s.Code]; ok && v == c.Value {
				return f.CountedIn(c.Means)
			}
		}
	}
	return f
}

// countings makes of each way in which settings can count a setting of its own.
func (c *compiler) countings() {
	ways := c.f.SpeedUnits()
	used := map[string]bool{}
	for i := range c.f.Settings {
		s := &c.f.Settings[i]
		s.counted = make([]Setting, len(s.Counted))
		for k, x := range s.Counted {
			at := fmt.Sprintf("counted[%d].", k)
			if !slices.Contains(ways, x.As) || ways[0] == x.As ||
				slices.ContainsFunc(s.Counted[:k], func(y Counting) bool { return y.As == x.As }) {
				c.badSetting(i, at+"as", x.As, "one that the setting that serves speed-unit can stand for beside the delivered one, once")
				continue
			}
			if s.Kind != "number" {
				c.badSetting(i, at+"as", x.As, "nothing: "+s.Code+" is no number")
				continue
			}
			used[x.As] = true
			v := *s
			v.counted, v.Counted, v.Source = nil, nil, Source{}
			v.Unit, v.Step, v.Min, v.Max, v.Delivery, v.Scale = x.Unit, x.Step, x.Min, x.Max, x.Delivery, x.Scale
			v.DeliveryBy, v.deliveryBy, v.Special, v.special, v.OffValue = nil, nil, nil, nil, ""
			if v.Convention = x.Convention; s.Intent != "" && conventions[x.Convention].dim != conventions[s.Convention].dim {
				c.badSetting(i, at+"convention", x.Convention, "a convention for what it carries, like "+s.Convention)
				continue
			}
			bad := func(field, got, want string) { c.badSetting(i, at+field, got, want) }
			v.compileNumber(bad)
			v.compileScale(bad)
			s.counted[k] = v
		}
	}
	for k, w := range ways {
		if k > 0 && !used[w] {
			s := c.f.Doing(speedUnit)
			c.badSetting(c.f.byCode[s.Code], "choices", w, "a setting that is counted so: "+strings.Join(ways[1:], ", "))
		}
	}
}
