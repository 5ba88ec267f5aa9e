package familyfile

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"

	"tingate/core/dialect"
)

func part(t *testing.T, d *Draft, key string) *Section {
	t.Helper()
	i := slices.IndexFunc(d.Parts, func(p Section) bool { return p.Key == key })
	if i < 0 {
		t.Fatal(key)
	}
	return &d.Parts[i]
}

// say puts cells into a row of a part by the keys of its columns, as a person would.
func say(t *testing.T, p *Section, cells map[string]string) {
	t.Helper()
	row := make([]string, len(p.Columns))
	for k, v := range cells {
		i := slices.IndexFunc(p.Columns, func(c SectionColumn) bool { return c.Key == k })
		if i < 0 {
			t.Fatalf("%s has no column %s", p.Key, k)
		}
		row[i] = v
	}
	if p.Single {
		for i, v := range row {
			if v != "" {
				p.Rows[0][i] = v
			}
		}
		return
	}
	p.Rows = append(p.Rows, row)
}

// A family that comes out of a list gets everything else by tables, and is whole: what was typed is what the family says.
func TestAFamilyIsMadeWholeByTables(t *testing.T) {
	l, err := FromList([]byte("code;name;unit;min;max;default;register\nA1;Motor current;A;0.1;90.0;8.0;100\nA2;Display "+
		"lock;;0;9;0;101\n"), Asked{})
	if err != nil {
		t.Fatal(err)
	}
	d := l.Draft
	d.Name = "Gannet"
	say(t, part(t, &d, "keypad"), map[string]string{"style": "tree", "path": "Menu, {code}", "keep": "Enter", "confirm": "once",
		"wrap": "yes"})
	say(t, part(t, &d, "ratings"), map[string]string{"type": "GN-16", "phases": "3", "line_low_v": "380", "line_high_v": "480",
		"power_kw": "7,5",
		"heavy_a":  "16", "wait_min": "5"})
	say(t, part(t, &d, "faults"), map[string]string{"code": "E7", "text": "Earth fault", "family": "earth-fault", "severity": "fault",
		"clears": "reset"})
	say(t, part(t, &d, "terminals"), map[string]string{"name": "X1", "kind": "digital-in", "common": "0V"})
	say(t, part(t, &d, "terminals"), map[string]string{"name": "0V", "kind": "common"})
	say(t, part(t, &d, "keypad.lamps"), map[string]string{"sign": "RUN", "means": "the inverter works"})
	say(t, part(t, &d, "recipes.fault_reset"), map[string]string{"do": "press Stop", "shows": "rdy"})
	say(t, part(t, &d, "link"), map[string]string{"block": "16"})
	say(t, part(t, &d, "link.identity"), map[string]string{"register": "0x10", "value": "77"})
	say(t, part(t, &d, "link.status"), map[string]string{"register": "3", "standstill_bit": "1", "channel_a_open_bit": "2",
		"channel_b_open_bit": "3"})
	say(t, part(t, &d, "link.forbidden"), map[string]string{"from": "0", "to": "2", "why": "control word"})
	f, _, problems := Build(d, nil)
	if problems != nil {
		t.Fatalf("%+v", problems)
	}
	for what, is := range map[string]bool{
		"keypad": f.Keypad.Style == "tree" && f.Keypad.Wrap && reflect.DeepEqual(f.Keypad.Path, []string{"Menu", "{code}"}) &&
			f.Keypad.Keep == "Enter",
		"size": len(f.Ratings) == 1 && f.Ratings[0] == dialect.Size{Type: "GN-16", Phases: 3, LineLow: 380, LineHigh: 480, Power: 7.5,
			Heavy: 16,
			Wait:  5},
		"fault":    len(f.Faults) == 1 && f.Faults[0].Code == "E7" && f.Faults[0].Clears == "reset",
		"terminal": len(f.Terminals) == 2 && f.Terminals[0].Common == "0V",
		"lamp":     len(f.Keypad.Lamps) == 1 && f.Keypad.Lamps[0].Means == "the inverter works",
		"recipe":   len(f.Recipes.FaultReset) == 1 && f.Recipes.FaultReset[0].Shows == "rdy",
		"link":     f.Link.Block == 16 && f.Link.Identity.Register == 16 && f.Link.Status.ChannelB == 3 && f.Link.Forbidden[0].To == 2,
	} {
		if !is {
			t.Errorf("%s: %+v", what, f)
		}
	}
	if again := DraftOf(f); !reflect.DeepEqual(part(t, &again, "faults").Rows, part(t, &d, "faults").Rows) {
		t.Errorf("opened again: %v", part(t, &again, "faults").Rows)
	}
}

// What is wrong in a table is told by its part, row and column; nothing of the rest is lost.
func TestFaultsInTablesStandAtTheirCell(t *testing.T) {
	for _, c := range []struct {
		part, field, cell, want string
		row                     int
	}{
		{"ratings", "phases", "two", "a whole number", 1}, {"ratings", "phases", "2", "1 or 3", 1}, {"ratings", "heavy_a", "many",
			"a number", 2},
		{"faults", "clears", "never", "one of by-itself", 1}, {"faults", "code", "", "a code used once", 3}, {"keypad", "style", "round",
			"pages", 1},
		{"keypad", "wrap", "perhaps", "yes, no", 1}, {"terminals", "kind", "hole", "one of digital-in", 2},
		{"link.forbidden", "from", "70000", "0 to 65535", 1}, {"recipes.tunes", "kind", "loud", "", 1}, {"conventions", "ramp", "steep",
			"", 1},
	} {
		f := Find("Tarn")
		d := DraftOf(f)
		d.Version = "99"
		p := part(t, &d, c.part)
		i := slices.IndexFunc(p.Columns, func(x SectionColumn) bool { return x.Key == c.field })
		p.Rows[c.row-1][i] = c.cell
		if c.cell == "" {
			p.Rows[c.row-1][i] = p.Rows[0][i] // the same code twice
		}
		_, _, problems := Build(d, f)
		if !slices.ContainsFunc(problems, func(r RowFault) bool {
			return r.Part == c.part && r.Row == c.row && r.Field == c.field && strings.Contains(r.Want, c.want)
		}) {
			t.Errorf("%s %d %s %q: %+v", c.part, c.row, c.field, c.cell, problems)
		}
	}
	d := DraftOf(Find("Tarn")) // rows that are empty do not make the place another
	d.Version = "99"
	p := part(t, &d, "faults")
	p.Rows = slices.Insert(p.Rows, 1, make([]string, len(p.Columns)), make([]string, len(p.Columns)))
	p.Rows[3][2] = "weather"
	if _, _, problems := Build(d, Find("Tarn")); len(problems) != 1 || problems[0].Row != 4 || problems[0].Field != "family" {
		t.Errorf("%+v", problems)
	}
	if _, _, problems := Build(Draft{Name: "X", Version: "1", Parts: []Section{{Key: "engine"}}}, nil); len(problems) == 0 ||
		problems[0].Part != "engine" {
		t.Errorf("a part that is none: %+v", problems)
	}
}

// A row that is changed keeps what no cell can hold; one that is taken away is gone.
func TestWhatNoCellHoldsStays(t *testing.T) {
	f := Find("Tarn")
	d := DraftOf(f)
	d.Version = "99"
	p := part(t, &d, "terminals")
	linked := slices.IndexFunc(f.Terminals, func(x dialect.Terminal) bool { return len(x.Links) > 0 })
	if linked < 0 {
		t.Fatal("no terminal with a factory link")
	}
	i := slices.IndexFunc(p.Columns, func(x SectionColumn) bool { return x.Key == "delivery" })
	p.Rows[linked][i] = "changed"
	got, _, problems := Build(d, f)
	if problems != nil || fmt.Sprint(got.Terminals[linked].Links) != fmt.Sprint(f.Terminals[linked].Links) ||
		got.Terminals[linked].Delivery != "changed" {
		t.Errorf("%+v %+v", problems, got.Terminals[linked])
	}
	if f.Terminals[linked].Delivery == "changed" {
		t.Error("the family that everybody shares was changed")
	}
	faults := part(t, &d, "faults")
	n := len(faults.Rows)
	faults.Rows = slices.Delete(faults.Rows, 0, 1)
	faults.Rows[0] = make([]string, len(faults.Columns)) // emptied
	if got, _, problems = Build(d, f); problems != nil || len(got.Faults) != n-2 {
		t.Errorf("%+v, %d faults of %d", problems, len(got.Faults), n)
	}
}

// Every shipped family can be typed whole: out of its rows and tables alone, without the file that it came from, it is the same family.
func TestEveryFamilyCanBeTypedWhole(t *testing.T) {
	for _, name := range []string{"Tarn", "Brae", "Voe"} {
		f := Find(name)
		d := DraftOf(f)
		d.BaseName, d.BaseVersion = "", ""
		got, _, problems := Build(d, nil)
		if problems != nil {
			t.Errorf("%s: %+v", name, problems)
			continue
		}
		want, has := *f, *got
		want.Lists, want.Hash, want.ReadOnly, has.Hash, has.ReadOnly = nil, "", "", "", "" // shared lists are an ease of writing
		strip := func(l []dialect.Setting) []dialect.Setting {
			out := slices.Clone(l)
			for i := range out {
				out[i].List, out[i].Source = "", dialect.Source{}
			}
			return out
		}
		want.Settings, has.Settings = strip(want.Settings), strip(has.Settings)
		for i := range want.Settings {
			if a, b := fmt.Sprintf("%+v", want.Settings[i]), fmt.Sprintf("%+v", has.Settings[i]); a != b {
				t.Errorf("%s %s:\n%s\n%s", name, want.Settings[i].Code, a, b)
			}
		}
		want.Settings, has.Settings = nil, nil
		for i, v, w := 0, reflect.ValueOf(has), reflect.ValueOf(want); i < v.NumField(); i++ {
			if a, b := fmt.Sprintf("%+v", w.Field(i)), fmt.Sprintf("%+v", v.Field(i)); a != b {
				t.Errorf("%s %s:\n%s\n%s", name, v.Type().Field(i).Name, a, b)
			}
		}
	}
}

// A table within another's rows: its rows go to the row that they name, a name that is none is told, and so is what the reader finds.
func TestTablesWithinTables(t *testing.T) {
	build := func(change func(d *Draft)) (*dialect.Family, []RowFault) {
		f := Find("Tarn")
		before := fmt.Sprintf("%+v", f.Switches)
		d := DraftOf(f)
		d.Version = "99"
		change(&d)
		got, _, problems := Build(d, f)
		if fmt.Sprintf("%+v", f.Switches) != before {
			t.Error("the family that everybody shares was changed")
		}
		return got, problems
	}
	f, problems := build(func(d *Draft) {
		say(t, part(t, d, "switches.positions"), map[string]string{"of": "B", "sign": "both", "means": "either way", "is": "Sink"})
		part(t, d, "terminals.links").Rows = [][]string{{}, {"31", "31, 2"}}
	})
	if problems != nil || len(f.Switches[1].Positions) != 3 || f.Switches[1].Positions[2].Is != "sink" {
		t.Fatalf("%+v", problems)
	}
	for _, x := range f.Terminals {
		if want := map[string]string{"31": "[[31 2]]"}[x.Name]; want != "" && fmt.Sprint(x.Links) != want || want == "" && x.Links != nil {
			t.Errorf("%s: %v", x.Name, x.Links)
		}
	}
	for _, c := range []struct {
		part       string
		row        int
		field      string
		cells      []string
		whereField string
		want       string
	}{
		{"switches.positions", 5, "", []string{"C", "x", "y", ""}, "of", "the switch as it stands"},
		{"switches.positions", 3, "is", nil, "is", "one of voltage"},
		{"switches.changes", 2, "setting", nil, "setting", "the code of a setting"},
		{"terminals.links", 2, "list", nil, "of", "two terminals"},
		{"settings.special", 1, "value", nil, "of", "grid"},
		{"settings.delivery_by", 1, "value", nil, "of", "a value of this setting"},
		{"type_code.parts", 1, "signs", nil, "signs", "a whole number"},
		{"recipes.first_start.pages", 2, "sets", nil, "sets", "the code of a setting"},
		{"bodies", 2, "kg", nil, "kg", "a number"},
		{"bodies", 1, "fixed", nil, "fixed", "one of screws"},
		{"bodies", 1, "one_phase", nil, "one_phase", "two terminals"},
		{"bodies.covers", 2, "off", nil, "off", "one of power"},
		{"bodies.covers", 1, "of", nil, "of", "the frame as it stands"},
		{"modules", 1, "takes_away", nil, "takes_away", "a terminal of the drive"},
		{"modules", 2, "address", nil, "address", "the code of the setting"},
		{"modules.terminals", 2, "common", nil, "common", "a terminal of the module"},
		{"modules.terminals", 5, "", []string{"EN", "9", "digital-in"}, "common", "its current goes back"},
		{"fixed", 1, "", []string{"weather", "fine"}, "is", "one of interlock"},
		{"fixed", 2, "", []string{"interlock", "coast"}, "what", "each once"},
	} {
		_, problems := build(func(d *Draft) {
			p := part(t, d, c.part)
			if c.field != "" {
				i := slices.IndexFunc(p.Columns, func(x SectionColumn) bool { return x.Key == c.field })
				p.Rows[c.row-1][i] = "neither"
				return
			}
			for len(p.Rows) < c.row {
				p.Rows = append(p.Rows, c.cells)
			}
		})
		if !slices.ContainsFunc(problems, func(r RowFault) bool {
			return r.Part == c.part && r.Row == c.row && r.Field == c.whereField && strings.Contains(r.Want, c.want)
		}) {
			t.Errorf("%s %d %s: %+v", c.part, c.row, c.field, problems)
		}
	}
}
