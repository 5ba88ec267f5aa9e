package sheet

import (
	"tingate/core/dialect"
	"tingate/core/record"
)

// SettingRow is any setting of the family, in the plan or not, with what was done to it.
type SettingRow struct {
	Code      string       `json:"code"`
	Group     string       `json:"group"`
	GroupName string       `json:"group_name"`
	Name      string       `json:"name"`
	Short     string       `json:"short"`
	Kind      string       `json:"kind" enum:"number,choice,bits,text"`
	Unit      string       `json:"unit"`
	Range     string       `json:"range"`
	Options   []string     `json:"options,omitempty"`
	Delivery  string       `json:"delivery" doc:"for this drive's region and frame"`
	SetTo     string       `json:"set_to" doc:"empty when nothing is planned"`
	Read      *record.Read `json:"read,omitempty"`
	Entered   *record.Fact `json:"entered,omitempty"`
	Written   *record.Fact `json:"written,omitempty"`
	Confirmed *record.Fact `json:"confirmed,omitempty"`
	Standing  string       `json:"standing" enum:"planned,on-purpose,changed,as-delivered,never" doc:"planned; left at delivery on purpose; read and not as delivered; read as delivered; never looked at"`
	Changed   bool         `json:"changed" doc:"reads otherwise than delivered"`
	Motion    bool         `json:"motion"`
}

// Rows are all settings of a family with what was done to each.
func Rows(f *dialect.Family, plan *dialect.Plan, rec record.Record) []SettingRow {
	rows := []SettingRow{}
	planned := map[string]string{}
	for _, l := range f.Sheet(plan) {
		if l.Planned {
			planned[l.Setting.Code] = l.SetTo()
		}
	}
	for i := range f.Settings {
		s := &f.Settings[i]
		g := f.Group(s.Group)
		r := SettingRow{Code: s.Code, Group: s.Group, GroupName: g.Name, Name: s.Name, Short: s.Short, Kind: s.Kind, Unit: s.Unit,
			Range:    s.Span(),
			Delivery: delivered(s, plan.Variant), SetTo: planned[s.Code], Read: Shown(s, rec.Reads[s.Code]),
			Motion: s.Acts == "motion"}
		for _, c := range s.Choices {
			r.Options = append(r.Options, c.Text)
		}
		r.Entered, r.Written, r.Confirmed = facts(rec, s, plan.Variant)
		if r.Read != nil && r.Read.Steps != nil {
			r.Changed = *r.Read.Steps != s.DeliveryFor(plan.Variant)
		}
		switch {
		case r.SetTo != "":
			r.Standing = "planned"
		case r.Confirmed != nil && !r.Changed:
			r.Standing = "on-purpose"
		case r.Changed:
			r.Standing = "changed"
		case r.Read != nil && r.Read.Steps != nil:
			r.Standing = "as-delivered"
		default:
			r.Standing = "never"
		}
		rows = append(rows, r)
	}
	return rows
}

// facts are what was done to a setting, with the words of the setting.
func facts(r record.Record, s *dialect.Setting, v dialect.Variant) (entered, written, confirmed *record.Fact) {
	entered = r.Entered[s.Code]
	if w := r.Written[s.Code]; w != nil {
		f := *w
		f.Text = s.Shows(dialect.Held{Steps: f.Steps, Text: f.Text})
		written = &f
	}
	key := "as-delivered setting/" + s.Code
	if d, ok := r.Decisions[key]; ok && d.Basis["delivery"] == s.Text(s.DeliveryFor(v)) {
		en := r.DecisionEntries[key]
		confirmed = &record.Fact{Text: s.WithUnit(s.DeliveryFor(v)), Steps: s.DeliveryFor(v), By: en.By, At: en.At, Entry: en.ID}
	}
	return entered, written, confirmed
}
