package quantity

import (
	"errors"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
)

func TestParseReadsWhatPeopleWrite(t *testing.T) {
	cases := []struct {
		kind Kind
		text string
		want float64
		unit string
	}{
		{Power, "2 hp", 2, "hp"}, {Power, "1,5 kW", 1.5, "kW"}, {Power, "0.37kW", .37, "kW"}, {Power, "370 W", 370, "W"},
		{Power, "1/2 hp", .5, "hp"}, {Power, "1½ hp", 1.5, "hp"}, {Power, "7.5", 7.5, "kW"}, {Power, "10 PS", 10, "metric hp"},
		{Speed, "1450 rpm", 1450, "r/min"}, {Speed, "1,450", 1450, "r/min"}, {Speed, "1.450", 1450, "r/min"},
		{Speed, "1 450 min⁻¹", 1450, "r/min"},
		{Speed, "1'450", 1450, "r/min"}, {Speed, "12,000.5", 12000.5, "r/min"}, {PowerFactor, ",83", .83, ""},
		{PowerFactor, "0.830", .83, ""},
		{Voltage, "400V", 400, "V"}, {Voltage, "0,4 kV", .4, "kV"}, {Current, "850 mA", 850, "mA"}, {Current, "15,1 A", 15.1, "A"},
		{Frequency, "50", 50, "Hz"}, {Slope, "8 s", 8, "s"}, {Slope, "5 Hz/s", 5, "Hz/s"}, {Slope, "150 r/min/s", 150, "r/min/s"},
		{Poles, "4 pole", 4, ""}, {PowerFactor, "1.84", 1.84, ""}, {Voltage, "-400", -400, "V"}, {Current, "1e2", 100, "A"},
	}
	for _, c := range cases {
		q, err := c.kind.Parse(c.text)
		if err != nil || q.Value == nil || *q.Value != c.want || q.Unit != c.unit || q.Text != c.text {
			t.Errorf("%s %q: got %+v, %v; want %v %s", c.kind.Name, c.text, q, err, c.want, c.unit)
		}
	}
}

func TestParseAsksOrRefuses(t *testing.T) {
	for _, text := range []string{"", "abc", "12..5", "1.2.3", "400 A", "1 45", "=cmd", "NaN", "1e999", "5 5", "--4", "1,45,000", "15 .",
		"15 ,", "1 .5", "15 ' ."} {
		if q, err := Voltage.Parse(text); err == nil || q.Value != nil || q.Text != text {
			t.Errorf("%q must not be read: %+v", text, q)
		}
	}
	var e *Error
	if _, err := Current.Parse("1,450"); !errors.As(err, &e) || len(e.Choices) != 2 || e.Choices[0] != 1.45 || e.Choices[1] != 1450 {
		t.Errorf("1,450 A can be 1.45 or 1450 and must be asked: %v", err)
	}
	if _, err := Voltage.Parse("230/400"); !errors.As(err, &e) || e.Want != "one voltage; give each of several values its own row" {
		t.Errorf("two voltages in one cell: %v", err)
	}
}

func TestInConvertsUnits(t *testing.T) {
	q, _ := Power.Parse("10 hp")
	if v, ok := q.In(Power, "W"); !ok || v < 7456.9 || v > 7457.1 {
		t.Errorf("10 hp = %v W", v)
	}
	if _, ok := (Quantity{Text: "x"}).In(Power, "W"); ok {
		t.Error("an unreadable text has no value")
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"1,5 kW", "15 .", "15 ,", "1 450.", "1'450,5", ". ", "15 . 5", "1/2 hp", "4-20 mA"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for name, k := range Kinds {
			q, err := k.Parse(s)
			if q.Text != s || (err == nil) == (q.Value == nil) {
				t.Fatalf("%s: text kept and value only when read: %+v %v", name, q, err)
			}
		}
	})
}

func TestDigits(t *testing.T) {
	for v, want := range map[float64]string{94.375: "94.38", 1455: "1455", 0.001234: "0.001234", 123456: "123500"} {
		if got := Digits(v, 4); got != want {
			t.Errorf("%v: %s, want %s", v, got, want)
		}
	}
}

// Whatever the program types into a field is read back as what it meant: 2.772 s by itself could be 2772 s.
func TestWhatTheProgramTypesIsReadBack(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 1))
	for name, k := range Kinds {
		for range 2000 {
			v := math.Pow(10, r.Float64()*8-3)
			n := 2 + r.IntN(5)
			if k.Name == Poles.Name || k.Base == "" && k.Max <= 1 {
				continue
			}
			text := strings.TrimSpace(Typed(v, n) + " " + k.Base)
			want, _ := strconv.ParseFloat(Digits(v, n), 64)
			if q, err := k.Parse(text); err != nil || q.Value == nil || math.Abs(*q.Value-want) > 1e-9*want {
				t.Fatalf("%s: %q reads %v, %v; want %v", name, text, q.Value, err, want)
			}
		}
	}
}
