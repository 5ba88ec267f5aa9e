package familyfile

import (
	"fmt"
	"strings"
	"testing"

	"tingate/core/dialect"
)

// One list in every common shape gives the same settings.
func TestListsInEveryCommonShape(t *testing.T) {
	for name, list := range map[string]string{
		"semicolons, decimal comma": "Par.;Description;Unit;Min;Max;Default\nA1;Rated motor current;A;0,1;90,0;5,0\nA2;Run command " +
			"source;;;;0\n",
		"commas, decimal point": "code,name,unit,minimum,maximum,factory\r\nA1,Rated motor current,A,0.1,90.0,5.0\r\nA2,Run command " +
			"source,,,,0\r\n",
		"tabs": "No\tTitle\tDim.\tLow\tHigh\tInitial value\nA1\tRated motor current\tA\t0.1\t90.0\t5.0\nA2\tRun " +
			"command source\t\t\t\t0\n",
		"a range in one column": "id;function;units;range;default\nA1;Rated motor current;A;0,1 … 90,0;5,0 A\nA2;Run command " +
			"source;;0…4;0\n",
		"pipes and quotes": "\"Code\"|\"Name\"|\"Unit\"|\"Range\"|\"Default\"\n\"A1\"|\"Rated motor current\"|\"Amps\"|\"0.1 " +
			"to 90.0\"|\"5.0\"\n\"A2\"|\"Run command source\"|\"\"|\"0 - 4\"|\"0\"\n",
		"a mark at the front": "\xef\xbb\xbfCode;Name;Unit;Range;Default\nA1;Rated motor current;a;0,1-90,0;5,0\nA2;Run command " +
			"source;-;0-4;0\n",
	} {
		l, err := FromCSV([]byte(list), nil)
		if err != nil || len(l.Draft.Rows) != 2 {
			t.Errorf("%s: %v, %d rows", name, err, len(l.Draft.Rows))
			continue
		}
		r := l.Draft.Rows[0]
		want := DraftRow{Code: "A1", Name: "Rated motor current", Unit: "A", Step: "0.1", Min: "0.1", Max: "90.0", Delivery: "5.0",
			Kind: "number", Group: "A", Intent: "motor.current", Convention: "amperes", Sure: true}
		if r.From != "line 2" || r.typed() != want.typed() || !r.Sure {
			t.Errorf("%s:\n got %+v\nwant %+v", name, r, want)
		}
	}
}

// Without a heading the first two columns are code and name; a person says what the others are.
func TestAListWithoutHeadings(t *testing.T) {
	raw := []byte("A1;Motor power;0,75;kW\nA2;Upper limit;50,0;Hz\n")
	l, err := FromCSV(raw, nil)
	if err != nil || l.Columns[0] != "column 1" || l.Mapping["code"] != 0 || l.Mapping["name"] != 1 {
		t.Fatalf("%v %+v", err, l)
	}
	l, err = FromCSV(raw, map[string]int{"code": 0, "name": 1, "delivery": 2, "unit": 3})
	if err != nil || l.Draft.Rows[0].Intent != "motor.power" || l.Draft.Rows[1].Convention != "shaft-as-hertz" {
		t.Errorf("%v %+v", err, l.Draft.Rows)
	}
	for _, m := range []map[string]int{{"code": 9}, {"colour": 0}, {"code": -1}} {
		if _, err := FromCSV(raw, m); err == nil || !strings.Contains(err.Error(), "mapping") {
			t.Errorf("%v: %v", m, err)
		}
	}
	if _, err := FromCSV([]byte("\x00\x01"), nil); err == nil {
		t.Error("binary data")
	}
	l, err = FromCSV([]byte("code;name\n;x\n\nA1;one\n"), nil)
	if err != nil || len(l.Left) == 0 || len(l.Draft.Rows) != 1 {
		t.Errorf("%v %v", err, l.Left)
	}
}

func TestChoicesInEveryCommonShape(t *testing.T) {
	for _, text := range []string{"0 = keypad; 1 = terminals; 2 = fieldbus", "0: keypad | 1: terminals | 2: fieldbus",
		"0=keypad, 1=terminals, 2=fieldbus", "0 - keypad\n1 - terminals\n2 - fieldbus", "0) keypad / 1) terminals / 2) fieldbus",
		"0 keypad; 1 terminals; 2 fieldbus → network"} {
		got, err := parseChoices(text, "choice.command_source")
		if err != nil || len(got) != 3 || got[1] != (dialect.Choice{Value: 1, Text: "terminals", Means: "terminals"}) ||
			got[2].Means != "network" {
			t.Errorf("%q: %v %+v", text, err, got)
		}
	}
	for _, text := range []string{"", "keypad; terminals", ";"} {
		if _, err := parseChoices(text, ""); err == nil {
			t.Errorf("%q was taken", text)
		}
	}
}

// What is proposed from a name: the intent, and whether somebody must look.
func TestProposalsFromNames(t *testing.T) {
	for _, c := range []struct{ name, unit, kind, intent, way string }{
		{"Nominal motor power", "hp", "number", "motor.power", "horsepower"},
		{"Motor rated frequency", "Hz", "number", "motor.frequency", "hertz"},
		{"Number of pole pairs", "", "number", "motor.poles", "pole-pairs"},
		{"Thermal current", "%", "number", "overload.current", "percent-of-motor"},
		{"Ramp up time", "sec", "number", "ramp.rise", "to-highest"}, {"Deceleration 1", "s", "number", "ramp.fall", "to-highest"},
		{"Maximum speed", "rpm", "number", "speed.highest", "shaft-as-rpm"},
		{"Minimum frequency", "Hz", "number", "speed.lowest", "shaft-as-hertz"},
		{"Fixed speed 2", "%", "number", "speed.preset.2", "shaft-as-percent"},
		{"Auto restart", "", "choice", "choice.automatic_restart", "choice"}, {"Carrier frequency", "kHz", "number", "", ""},
		{"Acceleration time 2", "s", "number", "", ""}, {"Sleep below frequency", "Hz", "number", "", ""},
		{"Motor voltage", "bar", "number", "", ""}, {"Slip compensation", "%", "number", "choice.slip_compensation", "slip-percent"},
		{"STO display", "", "choice", "choice.torque_off_shows", "choice"},
	} {
		p := dialect.Propose(c.name, c.unit, c.kind)
		if p.Intent != c.intent || p.Convention != c.way {
			t.Errorf("%s %s: %s %s, want %s %s", c.name, c.unit, p.Intent, p.Convention, c.intent, c.way)
		}
		if (strings.HasPrefix(c.intent, "ramp.") || c.unit == "%" && c.way != "slip-percent") && (p.Sure || p.Why == "") {
			t.Errorf("%s %s: a ramp or a percent is never sure", c.name, c.unit)
		}
	}
	for _, name := range []string{"Digital input 3 function", "Direction of rotation", "Auto-tune", "Run command source",
		"Sleep below frequency", "Brake release"} {
		if !dialect.Propose(name, "", "choice").Motion {
			t.Errorf("%s could start motion", name)
		}
	}
}

// Every way in the list of roles is one that the reader takes for that role.
func TestEveryRoleCanBeBuilt(t *testing.T) {
	for _, role := range dialect.Roles() {
		if len(role.Ways) == 0 {
			t.Errorf("%s can be counted in no way", role.Intent)
		}
		for _, w := range role.Ways {
			r := DraftRow{Code: "a", Name: "a", Kind: w.Kind, Step: "0.1", Min: "0", Max: "100", Delivery: "1", Intent: role.Intent,
				Convention: w.Name, Choices: "1 = 0.75; 2 = other"}
			if _, _, problems := Build(Draft{Name: "X", Version: "1", Rows: []DraftRow{r}}, nil); problems != nil {
				t.Errorf("%s as %s: %+v", role.Intent, w.Name, problems)
			}
		}
	}
}

// Faults of a draft stand at their row and field.
func TestFaultsOfADraftStandAtTheirRow(t *testing.T) {
	good := DraftRow{Code: "A1", Name: "one", Kind: "number", Unit: "A", Step: "0.1", Min: "0,0", Max: "9.9", Delivery: "5,0",
		Register: "0x10"}
	for field, change := range map[string]func(*DraftRow){
		"delivery": func(r *DraftRow) { r.Delivery = "many" }, "step": func(r *DraftRow) { r.Step = "" },
		"code": func(r *DraftRow) { r.Code = "A1" }, "register": func(r *DraftRow) { r.Register = "70000" },
		"choices": func(r *DraftRow) { r.Kind, r.Choices = "choice", "on or off" }, "kind": func(r *DraftRow) { r.Kind = "" },
		"name": func(r *DraftRow) { r.Name = " " }, "convention": func(r *DraftRow) { r.Intent, r.Convention = "motor.power", "hertz" },
	} {
		second := good
		second.Code, second.Register = "A2", "17"
		change(&second)
		_, _, problems := Build(Draft{Name: "X", Version: "1", Rows: []DraftRow{good, second}}, nil)
		if len(problems) == 0 || problems[0].Row != 2 || problems[0].Field != field || problems[0].Want == "" {
			t.Errorf("%s: %+v", field, problems)
		}
	}
	if _, _, p := Build(Draft{Rows: []DraftRow{good}}, nil); len(p) != 2 || p[0].Row != 0 {
		t.Errorf("no name, no version: %+v", p)
	}
	f, raw, p := Build(Draft{Name: "X", Version: "1", Rows: []DraftRow{good}}, nil)
	if p != nil || f.Settings[0].Register != 16 || !strings.Contains(string(raw), "name: X") {
		t.Errorf("%+v %s", p, raw)
	}
}

// A shipped family opened and kept unchanged is the same family, keypad, recipes and all.
func TestADraftOfAFamilyKeepsItAll(t *testing.T) {
	for _, name := range Names() {
		f := Find(name)
		d := DraftOf(f)
		d.Version = "99"
		again, _, problems := Build(d, f)
		if problems != nil {
			t.Fatalf("%s: %+v", name, problems)
		}
		again.Version, again.Hash = f.Version, f.Hash
		if a, b := fmt.Sprintf("%+v", *f), fmt.Sprintf("%+v", *again); a != b {
			t.Errorf("%s changed on the way", name)
		}
	}
}

// No list makes the reader panic; what it takes either builds or says what is wrong, row by row.
func FuzzFromCSV(f *testing.F) {
	f.Add([]byte("Par.;Description;Unit;Min;Max;Default;Options\nA1;Motor power;kW;0,1;9;1;\nA2;Run source;;;;0;0=a, 1=b\n"))
	f.Add([]byte("a,b,c\n1,2"))
	f.Add([]byte("code\tname\trange\nx\tRamp\t0..1\n"))
	f.Add([]byte("code;name;choices;default\n1;x;0=;-\n"))
	f.Add(
		[]byte(
			"Motor data\nCode   Name           Range        Default\nA1     Ramp [s]       0.1 to 9.9   1.0\n                      1: on\n",
		),
	)
	f.Add([]byte("A1 Motor power 0.1 to 9.0 kW 4.0\nA2 Stop mode 0: coast 1\n   1: ramp\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		l, err := FromCSV(raw, nil)
		if err != nil {
			return
		}
		if len(l.Draft.Rows)+len(l.Left)+len(l.Mended) < l.Total { // nothing is dropped without a word
			t.Errorf("%d rows, %d left out, %d mended, of %d", len(l.Draft.Rows), len(l.Left), len(l.Mended), l.Total)
		}
		l.Draft.Name = "Fuzz"
		fam, _, problems := Build(l.Draft, nil)
		if (fam == nil) == (problems == nil) {
			t.Errorf("neither a family nor a reason: %v %v", fam, problems)
		}
	})
}
