package gate

import (
	"time"

	"tingate/core/dialect"
	"tingate/core/drivefile"
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

// Settings are all settings of the drive's family with what was done to each.
func Settings(j Job, now time.Time) []SettingRow {
	rows := []SettingRow{}
	if j.Family == nil {
		return rows
	}
	e := newEvaluation(j, now)
	e.plate()
	plan := PlanOf(j, e.result.Poles)
	planned := map[string]string{}
	for _, l := range j.Family.Sheet(&plan) {
		if l.Planned {
			planned[l.Setting.Code] = l.Setting.WithUnit(l.Steps)
		}
	}
	for i := range j.Family.Settings {
		s := &j.Family.Settings[i]
		g := j.Family.Group(s.Group)
		r := SettingRow{Code: s.Code, Group: s.Group, GroupName: g.Name, Name: s.Name, Short: s.Short, Kind: s.Kind, Unit: s.Unit, Range: s.Span(),
			Delivery: s.WithUnit(s.DeliveryFor(plan.Variant)), SetTo: planned[s.Code], Read: shownRead(s, e.rec.Reads[s.Code]), Motion: s.Acts == "motion"}
		for _, c := range s.Choices {
			r.Options = append(r.Options, c.Text)
		}
		r.Entered, r.Written, r.Confirmed = facts(e.rec, s, plan.Variant)
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
		f.Text = s.WithUnit(f.Steps)
		written = &f
	}
	key := "as-delivered setting/" + s.Code
	if d, ok := r.Decisions[key]; ok && d.Basis["delivery"] == s.Text(s.DeliveryFor(v)) {
		en := r.DecisionEntries[key]
		confirmed = &record.Fact{Text: s.WithUnit(s.DeliveryFor(v)), Steps: s.DeliveryFor(v), By: en.By, At: en.At, Entry: en.ID}
	}
	return entered, written, confirmed
}

// Sent is one request that wrote, for the log of a drive.
type Sent struct {
	Code     string `json:"code"`
	Name     string `json:"name"`
	Asked    string `json:"asked"`
	Before   string `json:"before"`
	Back     string `json:"back" doc:"what was read back"`
	Outcome  string `json:"outcome" enum:"begun,held,differs,refused,unknown"`
	Message  string `json:"message"`
	Address  string `json:"address"`
	Unit     int    `json:"unit"`
	Register int    `json:"register"`
	Raw      []int  `json:"raw"`
	Cleared  string `json:"cleared_by"`
	By       string `json:"by"`
	At       string `json:"at"`
}

// SentLog lists every request that wrote to the drive, newest first; one line for a write with its outcome.
func SentLog(entries []drivefile.Entry, f *dialect.Family) []Sent {
	out := []Sent{}
	at := map[string]int{}
	for _, e := range entries {
		var b drivefile.Write
		if e.Kind != drivefile.EntryWrite || !decode(e.Body, &b) {
			continue
		}
		i, ok := at[b.Begun]
		if !ok || b.Begun == "" {
			out = append(out, Sent{Code: b.Code, Address: b.Address, Unit: b.Unit, Register: b.Register, Raw: b.Raw, Cleared: b.Cleared, By: e.By, At: e.At})
			i = len(out) - 1
			at[e.ID] = i
			if out[i].Raw == nil {
				out[i].Raw = []int{}
			}
		}
		out[i].Outcome, out[i].Message = b.Outcome, b.Message
		show := func(steps *int64) string { return "" }
		if f != nil {
			if s, ok := f.Setting(b.Code); ok {
				out[i].Name, out[i].Asked = s.Name, s.WithUnit(b.Asked)
				show = func(steps *int64) string {
					if steps == nil {
						return ""
					}
					return s.WithUnit(*steps)
				}
			}
		}
		if b.Before != nil {
			out[i].Before = show(b.Before)
		}
		out[i].Back = show(b.ReadBack)
	}
	for a, b := 0, len(out)-1; a < b; a, b = a+1, b-1 {
		out[a], out[b] = out[b], out[a]
	}
	return out
}
