package familyfile

import (
	"fmt"
	"reflect"
	"strings"
	"testing"

	"tingate/core/dialect"
)

func TestShippedFamiliesLoad(t *testing.T) {
	if got := strings.Join(Names(), " "); got != "Brae Tarn Voe" {
		t.Fatalf("families: %s", got)
	}
	for _, n := range Names() {
		f := Find(strings.ToLower(n))
		if len(f.Settings) < 120 {
			t.Errorf("%s has %d settings, at least 120 wanted", n, len(f.Settings))
		}
	}
}

// Nothing that could start a motor may be a setting's register: the link refuses those registers for every address.
func TestFamilyFaultsAreNamed(t *testing.T) {
	raw := string(Raw("Tarn"))
	for _, c := range []struct{ from, to, want string }{
		{"register: 404,", "register: 405,", "4D has it"},
		{"register: 404,", "register: 9003,", "control word"},
		{`code: "4E"`, `code: "4D"`, "a code used once"},
		{`step: "0.1", min: "20.0"`, `step: "0", min: "20.0"`, "a decimal above 0"},
		{`max: "90.00"`, `max: "90.005"`, "on the grid"},
		{`min: "0.05", max: "90.00"`, `min: "95.00", max: "90.00"`, "a range that holds the delivery value"},
		{`min: "100", max: "690"`, `min: "seven", max: "690"`, "on the grid"},
		{"intent: motor.power,", "intent: motor.colour,", "an intent"},
		{"convention: kilowatts", "convention: amperes", "a convention for a power"},
		{"convention: to-highest}", "convention: to-plate-speed}", "as the file's conventions say of ramp"},
		{"short: MOT KW", "shorty: MOT KW", `unknown key "shorty"`},
		{"block: 16", "block: 0", "1 to 125"},
		{"block: 16", "block: sixteen", "another kind of value"},
		{"acts: motion", "acts: sometimes", "motion, or nothing"},
		{"kind: text", "kind: poem", "one of number, choice, bits, text"},
		{`{value: 0, text: input 1}`, `{value: 44, text: input 1}`, "bits 0 to 31"},
		{`{value: 0, text: "50 Hz", means: "50"}`, `{value: 0, text: "", means: "50"}`, "each value once, with its words"},
		{"takes: power", "takes: tomorrow", "kept, dialled, stopped, power"},
		{`special: [{value: "0", text: not locked}]`, `special: [{value: "0", text: ""}]`, "each value once, with its meaning"},
		{`{region: "60", value: "460"}`, `{region: "55", value: "460"}`, "a region (50 or 60)"},
		{`{region: "60", value: "460"}`, `{region: "60", value: "46000"}`, "a value of this setting"},
		{"register_type: s16", "register_type: s17", "u16, s16"},
		{"register: 404,", "register: 404, scale: \"0\",", "a decimal above 0"},
		{"register: 404,", "register: 404, scale: \"5\",", "a whole number of counts"},
		{"register: 404,", "register: 404, scale: \"1000\",", "a type that holds"},
		{"register: 404,", "register: 9500, moves: 4Z,", "the code of a setting"},
		{"register: 701,", "register: 701, moves: 6A,", "in a circle"},
		{"list: input,", "list: inlet,", "a list of the file"},
		{"ramp: to-highest,", "ramp: to-heaven,", "one of to-highest"},
		{"heavy_a: 4.2,", "heavy_a: 0,", "above 0"},
		{"type: TN2-007", "type: TN2-004", "a type used once"},
		{"example: TN4-016-F2K", "example: TX4-016-F2K", "take apart"},
		{"confirm: once", "confirm: thrice", "one of once, twice"},
		{"kind: standstill,", "kind: lying,", "one of standstill"},
		{`value: "2", start: Run`, `value: "9", start: Run`, "a value of 4M"},
		{"family: earth-fault", "family: earthquake", "one of drive-temperature"},
		{"clears: power-cycle", "clears: prayer", "one of by-itself"},
		{"kind: torque-off", "kind: talk-off", "one of digital-in"},
		{"takes: [EN, FB]", "takes: [EN, FX]", "the code of a module"},
		{"leaves_out: [4C,", "leaves_out: [4Z,", "the code of a setting"},
		{`links: [["31", "1"]]`, `links: [["31", "99"]]`, "two terminals of the family"},
		{`legs: ["24", "25"]`, `legs: ["24", "21"]`, "a terminal named once"},
		{"switch: A,", "switch: Z,", "the name of a hardware switch"},
		{"is: sink", "is: sunk", "one of voltage"},
		{`off_value: "0"`, `off_value: "7"`, "a value of a setting that protects"},
		{"    leaves_out: [4C,", "    disables: [4C]\n    leaves_out: [4C,", "a setting with an off_value"},
		{`from: "3.0", to: "3.9"`, `from: "3.10", to: "3.9"`, "at least 3.10"},
	} {
		bad := strings.Replace(raw, c.from, c.to, 1)
		if bad == raw {
			t.Fatalf("%q does not stand in the file", c.from)
		}
		if _, err := Read([]byte(bad)); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s → %s: want %q, got %v", c.from, c.to, c.want, err)
		} else if line := 1 + strings.Count(raw[:strings.Index(raw, c.from)], "\n"); !strings.Contains(err.Error(), "line ") {
			t.Errorf("%s → %s: no line, want %d: %v", c.from, c.to, line, err)
		}
	}
	if _, err := Read([]byte("name: [")); err == nil {
		t.Error("broken YAML")
	}
}

// The line that an error names is the line where the fault stands.
func TestFaultsNameTheirLine(t *testing.T) {
	raw := string(Raw("Tarn"))
	at := strings.Index(raw, "register: 404,")
	line := 1 + strings.Count(raw[:at], "\n")
	_, err := Read([]byte(strings.Replace(raw, "register: 404,", "register: 405,", 1)))
	if want := fmt.Sprintf("line %d: settings[", line); err == nil ||
		!strings.Contains(err.Error(), want) && !strings.Contains(err.Error(), fmt.Sprintf("line %d: settings[", line+1)) {
		t.Errorf("want %s, got %v", want, err)
	}
}

// Every shipped family is written and read again as the same family.
func TestFamiliesAreWrittenAndReadAgain(t *testing.T) {
	for _, n := range Names() {
		f := Find(n)
		raw, err := Write(f)
		if err != nil {
			t.Fatal(err)
		}
		again, err := Read(raw)
		if err != nil {
			t.Fatalf("%s: %v", n, err)
		}
		again.Hash = f.Hash
		if !reflect.DeepEqual(f, again) {
			t.Errorf("%s differs after writing", n)
		}
	}
}

// No text makes the reader panic, and what it takes can be compiled into a sheet, a route and register blocks.
func FuzzRead(f *testing.F) {
	f.Add(generated(6, 2)) // small ones: the whole families make the fuzzer slow
	f.Add([]byte("name: [a"))
	f.Add([]byte("settings: [{code: a, kind: number, step: \"0.1\", min: \"-1\", max: \"1\", delivery: \"0\", scale: \"1e9\"}]"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		fam, err := Read(raw)
		if err != nil {
			return
		}
		fam.Sheet(&dialect.Plan{})
		fam.Blocks()
		fam.Ways()
		for i := range fam.Settings {
			s := &fam.Settings[i]
			if steps, err := s.Read(s.Text(s.DeliverySteps())); err != nil || s.Kind != "text" && steps != s.DeliverySteps() {
				t.Errorf("%s: its own delivery value is not read: %v", s.Code, err)
			}
			fam.KeyPath(s)
		}
	})
}

// A gap between digits is one of thousands, or a point that was missed: then nothing is guessed.
func TestAGapBetweenDigitsIsNotGuessedAt(t *testing.T) {
	f := Find("Tarn")
	current, speed := f.Settings[0], f.Settings[0]
	for _, s := range f.Settings {
		switch s.Name {
		case "Motor current":
			current = s
		case "Motor speed":
			speed = s
		}
	}
	for text, want := range map[string]int64{"5 5": -1, "1 45": -1, "1 4500": -1, "15 .5 5": -1, "15.5 A": 155, " 15.5": 155,
		"15.5A": 155} {
		if got, err := current.Read(text); (err != nil) != (want < 0) || err == nil && got != want {
			t.Errorf("%q: %d %v, want %d", text, got, err, want)
		}
	}
	for text, want := range map[string]int64{"1 455": 1455, "1 455 r/min": 1455, "14 55": -1, "1455 r/min": 1455} {
		if got, err := speed.Read(text); (err != nil) != (want < 0) || err == nil && got != want {
			t.Errorf("%q: %d %v, want %d", text, got, err, want)
		}
	}
}
