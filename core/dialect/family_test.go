package dialect_test

import (
	"testing"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
)

// Every value of every setting goes into registers and comes back, whatever type, scale and order the family has.
func TestRegistersThereAndBack(t *testing.T) {
	for _, name := range familyfile.Names() {
		f := familyfile.Find(name)
		for i := range f.Settings {
			s := &f.Settings[i]
			low, high := s.RangeSteps()
			values := []dialect.Held{{Steps: s.DeliverySteps(), Text: s.Delivery}}
			switch s.Kind {
			case "text":
				values = append(values, dialect.Held{Steps: dialect.TextSteps("press 3"), Text: "press 3"})
			case "number":
				values = append(values, dialect.Held{Steps: low}, dialect.Held{Steps: high}, dialect.Held{Steps: (low + high) / 3})
			default:
				values = append(values, dialect.Held{Steps: high})
			}
			for _, v := range values {
				regs := f.Encode(s, v)
				if len(regs) != s.Words() {
					t.Fatalf("%s %s: %d registers, want %d", name, s.Code, len(regs), s.Words())
				}
				if got, exact := f.Decode(s, regs); got.Steps != v.Steps || !exact {
					t.Errorf("%s %s: %+v came back as %+v", name, s.Code, v, got)
				}
			}
		}
	}
}

// Counts worked by hand: 15500 mA is 0x3C8C, in Voe low byte first and high word first; −20 °C in two's complement.
func TestRegistersByHand(t *testing.T) {
	same := func(what string, got []uint16, want ...uint16) {
		t.Helper()
		if len(got) != len(want) || got[0] != want[0] || len(want) > 1 && got[1] != want[1] {
			t.Errorf("%s: %#x, want %#x", what, got, want)
		}
	}
	voe, brae := familyfile.Find("Voe"), familyfile.Find("Brae")
	s, _ := voe.Setting("6075h:00")
	same("15500 mA", voe.Encode(s, dialect.Held{Steps: 15500}), 0x0000, 0x8C3C)
	s, _ = brae.Setting("motor.stator")
	same("12.3456 Ω, low word first", brae.Encode(s, dialect.Held{Steps: 123456}), 0xE240, 0x0001)
	s, _ = brae.Setting("motor.cold")
	same("−20 °C", brae.Encode(s, dialect.Held{Steps: -20}), 0xFFEC)
	s, _ = voe.Setting("2000h:03")
	if got := voe.Encode(s, dialect.Held{Text: "Az"}); got[0] != 0x7A41 || len(got) != 10 {
		t.Errorf("text, low byte first: %#x", got)
	}
}

func TestDeliveryByRegionAndFrame(t *testing.T) {
	f := familyfile.Find("Tarn")
	for _, c := range []struct{ code, region, frame, want string }{
		{"4C", "", "", "50.0 Hz"}, {"4C", "60", "", "60.0 Hz"}, {"4A", "60", "F1", "1.50 kW"}, {"4A", "", "F3", "15.00 kW"},
		{"4E", "60", "F3", "1740 r/min"}, {"4E", "50", "", "1440 r/min"},
	} {
		s, _ := f.Setting(c.code)
		if got := s.WithUnit(s.DeliveryFor(dialect.Variant{Region: c.region, Frame: c.frame})); got != c.want {
			t.Errorf("%s in region %q, frame %q: %s, want %s", c.code, c.region, c.frame, got, c.want)
		}
	}
}

func TestValuesAsTheKeypadShowsThem(t *testing.T) {
	tarn, brae := familyfile.Find("Tarn"), familyfile.Find("Brae")
	for _, c := range []struct {
		f                 *dialect.Family
		code, typed, want string
	}{
		{tarn, "6K", "0", "0 % (off)"}, {tarn, "6K", "off", "0 % (off)"}, {tarn, "2J", "5", "input 1 + input 3"},
		{tarn, "2J", "input 3 + input 1", "input 1 + input 3"}, {tarn, "2J", "none", "none"},
		{tarn, "3J", "−4,5", "-4.5 mA"}, {brae, "motor.cold", "-20 °C", "-20 °C"}, {brae, "input.gain", "-0.05", "-0.050"},
	} {
		s, _ := c.f.Setting(c.code)
		steps, err := s.Read(c.typed)
		if err != nil || s.WithUnit(steps) != c.want || !s.Inside(steps) {
			t.Errorf("%s %q: %v %q, want %q", c.code, c.typed, err, s.WithUnit(steps), c.want)
		}
	}
	for code, text := range map[string]string{"2J": "input 9", "1H": "a name of more than twelve signs", "6K": "on"} {
		s, _ := tarn.Setting(code)
		if _, err := s.Read(text); err == nil {
			t.Errorf("%s took %q", code, text)
		}
	}
}

func TestTypesAreTakenApart(t *testing.T) {
	f := familyfile.Find("Brae")
	facts, err := f.DecodeType("br 18 c 460 w / special")
	if err != nil || len(facts) != 4 || facts[0].Sign != "18" || facts[3].Means != "washdown" {
		t.Errorf("%+v %v", facts, err)
	}
	if r, ok := f.RatingOf("BR 18 C 460 W"); !ok || r.Heavy != 18 || r.Current("normal") != 22 || r.Current("heavy") != 18 {
		t.Errorf("%+v", r)
	}
	for _, bad := range []string{"", "BR", "BR 18 Q 460", "XX 18 C 460"} {
		if _, err := f.DecodeType(bad); err == nil {
			t.Errorf("%q was taken apart", bad)
		}
	}
	if in, ok := f.Covers("V2.10"); in || !ok {
		t.Error("2.10 comes after 2.9")
	}
	if in, ok := f.Covers("2.4"); !in || !ok {
		t.Error("2.4 is covered")
	}
	if _, ok := f.Covers(""); ok {
		t.Error("a firmware that nobody stated")
	}
}

// What a newer file would change is said setting by setting; the same file changes nothing.
func TestTheEffectOfANewerFile(t *testing.T) {
	old := familyfile.Find("Brae")
	if got := dialect.Update(old, old, dryer(), nil); len(got) != 0 {
		t.Errorf("the same file: %+v", got)
	}
	next := familyfile.DraftOf(old)
	next.Version = "9"
	for i := range next.Rows {
		switch r := &next.Rows[i]; r.Code {
		case "ramp.up":
			r.Step, r.Min = "0.5", "0.5"
		case "ramp.down":
			r.Unit, r.Step, r.Min, r.Max, r.Delivery = "ms", "50", "50", "3000000", "10000"
		case "service.fan":
			r.Code = "service.blower"
		case "protect.overload":
			r.Register = "4401"
		}
	}
	f, _, problems := familyfile.Build(next, old)
	if problems != nil {
		t.Fatalf("%+v", problems)
	}
	got := map[string]dialect.Effect{}
	for _, e := range dialect.Update(old, f, dryer(), map[string]int64{"ramp.up": 161, "ramp.down": 200}) {
		got[e.Code+" "+e.Kind] = e
	}
	for key, want := range map[string][2]string{
		"ramp.up reading": {"8.05 s", "must be read again"}, "service.fan gone": {"–", "–"}, "service.blower new": {"–", "–"},
		"protect.overload register": {"1401, u16, 1 a step", "4401, u16, 1 a step"},
		"ramp.down delivery":        {"10.00 s", "10000 ms"},
	} {
		if e, ok := got[key]; !ok || e.Before != want[0] || e.After != want[1] {
			t.Errorf("%s: %+v, want %v", key, e, want)
		}
	}
}

func TestVersionsAreCompared(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{{"1", "2", -1}, {"3.10", "3.9", 1}, {"2", "2.0", 0}, {"2", "2.1", -1}, {"1.b", "1.a", 1}} {
		if got := dialect.CompareVersions(c.a, c.b); got != c.want {
			t.Errorf("%s against %s: %d", c.a, c.b, got)
		}
	}
}
