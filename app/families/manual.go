package families

import (
	"fmt"
	"reflect"

	"tingate/app/base"
	"tingate/core/dialect"
	"tingate/store"
)

// FamilyManual is what a person looks up in a family: how it counts, its keypad, its recipes, terminals and faults.
type FamilyManual struct {
	Head      base.FamilyHead       `json:"head"`
	Firmware  dialect.FirmwareRange `json:"firmware_range"`
	Counts    dialect.Counts        `json:"counts"`
	TypeCode  dialect.TypeCode      `json:"type_code"`
	Ratings   []dialect.Size        `json:"ratings"`
	Keypad    dialect.Keypad        `json:"keypad"`
	Recipes   dialect.Recipes       `json:"recipes"`
	Terminals []dialect.Terminal    `json:"terminals"`
	Switches  []dialect.Switch      `json:"switches"`
	Faults    []dialect.Fault       `json:"faults"`
	History   dialect.FaultHistory  `json:"fault_history"`
	Slots     []dialect.Slot        `json:"slots"`
	Modules   []dialect.Module      `json:"modules"`
	Bodies    []dialect.Body        `json:"bodies"`
	Remembers dialect.Memory        `json:"remembers"`
	Settings  []ManualRow           `json:"settings"`
}

// ManualRow is a setting as a person looks it up.
type ManualRow struct {
	Code     string   `json:"code"`
	Group    string   `json:"group"`
	Name     string   `json:"name"`
	Short    string   `json:"short"`
	Range    string   `json:"range"`
	Options  []string `json:"options"`
	Delivery string   `json:"delivery"`
	Intent   string   `json:"intent"`
	Running  bool     `json:"running"`
	Full     bool     `json:"full"`
	Motion   bool     `json:"motion"`
	Voids    []string `json:"voids"`
	Moves    []string `json:"moves"`
	Acting   string   `json:"acting"`
}

// Manual is what a family's file tells; version "" is the newest.
func (a *Library) Manual(name, version string) (FamilyManual, error) {
	f := a.FamilySet.Find(name)
	if version != "" {
		f = a.FamilySet.Version(name, version)
	}
	if f == nil {
		return FamilyManual{}, store.ErrNotFound
	}
	m := FamilyManual{Head: a.HeadOf(f), Firmware: f.FirmwareRange, Counts: f.Counts, TypeCode: f.TypeCode, Ratings: f.Ratings,
		Keypad: f.Keypad, Recipes: f.Recipes, Terminals: f.Terminals,
		Switches: f.Switches, Faults: f.Faults, History: f.FaultHistory, Slots: f.Slots, Modules: f.Modules, Bodies: f.Bodies,
		Remembers: f.Remembers,
		Settings:  []ManualRow{}}
	for i := range f.Settings {
		s := &f.Settings[i]
		r := ManualRow{Code: s.Code, Group: f.Group(s.Group).Name, Name: s.Name, Short: s.Short, Range: s.Span(), Options: []string{},
			Delivery: s.WithUnit(s.DeliverySteps()), Intent: s.Intent,
			Running: s.Running, Full: s.Access == "full", Motion: s.Acts == "motion", Voids: s.Voids, Moves: s.Moves, Acting: s.Acting()}
		for _, c := range s.Choices {
			r.Options = append(r.Options, fmt.Sprintf("%d %s", c.Value, c.Text))
		}
		m.Settings = append(m.Settings, r)
	}
	fill(reflect.ValueOf(&m).Elem())
	return m, nil
}

// fill makes every missing list an empty one: a file may leave any part out, and whoever reads the answer counts on lists.
func fill(v reflect.Value) {
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			fill(v.Field(i))
		}
	case reflect.Slice:
		// A copy, so that the family that everybody shares stays as it is.
		c := reflect.MakeSlice(v.Type(), v.Len(), v.Len())
		reflect.Copy(c, v)
		v.Set(c)
		for i := range c.Len() {
			fill(c.Index(i))
		}
	}
}
