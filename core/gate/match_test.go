package gate_test

import (
	"encoding/json"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
)

// matched is a drive of which everything is stated that gate Match asks for.
func matched() (drivefile.Drive, drivefile.Place) {
	d, p := sample.Dryer(), sample.Place()
	q := sample.Q
	d.Rating.Type, d.Rating.Duty, d.Motor.Cooling = "TN4-016-F2K", "heavy", "forced"
	d.Site = drivefile.Site{Ordered: "TN4-016", Altitude: q("site.altitude", "40"), Ambient: q("site.ambient", "35"),
		Enclosure: "filtered", Mounting: "upright", FilterLinks: "in", MotorFit: "inverter-duty", InputPhases: "3"}
	d.Rating.Withstand = q("rating.short_circuit", "10")
	d.Site.Cable, d.Motor.Leads = q("site.cable", "6"), "6"
	d.Power = drivefile.Power{Code: "iec-b2", Input: q("power.input", "15.8"), LineArea: "2.5 mm²", MotorArea: "2,5",
		LineLength: q("power.line_length", "12"), Protection: q("power.protection", "20"),
		ProtectionMost: q("power.protection_most", "25"), Torque: q("power.torque", "1.2"), EarthTorque: q("power.earth_torque", "1.8"),
		MotorTorque: q("power.motor_torque", "2.6")}
	d.Wiring = drivefile.Wiring{Command: "two-wire", Reset: true, Reference: "voltage", Safety: "jumper", Logic: "source"}
	s := p.Supplies["p1"]
	s.Phases, s.Earthing, s.Isolator, s.Fault = "3", "tn", "Q1", q("rating.short_circuit", "3 kA")
	p.Supplies["p1"] = s
	return d, p
}

func codesOf(s gate.State, key string) string {
	var l []string
	for _, f := range s.Findings {
		if f.Gate == key {
			l = append(l, f.Code)
		}
	}
	return strings.Join(l, " ")
}

// Each rule of Match fails for a bad figure, and for nothing else.
func TestWhatDoesNotMatchIsSaid(t *testing.T) {
	q := sample.Q
	type change func(d *drivefile.Drive, s *drivefile.Supply)
	for name, c := range map[string]struct {
		do   change
		want string
	}{
		"sound": {func(*drivefile.Drive, *drivefile.Supply) {}, ""},
		"a 690 V supply": {func(_ *drivefile.Drive, s *drivefile.Supply) { s.Voltage = q("rating.voltage", "690") },
			"supply-not-the-drives working-87-hz"},
		"IT with links in":         {func(_ *drivefile.Drive, s *drivefile.Supply) { s.Earthing = "it" }, "earth-links-in"},
		"corner-earthed, links in": {func(_ *drivefile.Drive, s *drivefile.Supply) { s.Earthing = "corner-earthed" }, "earth-links-in"},
		"IT with links out":        {func(d *drivefile.Drive, s *drivefile.Supply) { s.Earthing, d.Site.FilterLinks = "it", "out" }, ""},
		"TN with links out":        {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Site.FilterLinks = "out" }, "earth-links-out"},
		"a stiff supply": {func(_ *drivefile.Drive, s *drivefile.Supply) { s.Fault = q("rating.short_circuit", "4") },
			"choke-usual"},
		"a stiff supply with a choke": {func(d *drivefile.Drive, s *drivefile.Supply) {
			s.Fault, d.Site.Choke = q("rating.short_circuit", "4000 A"), "line"
		}, ""},
		"one phase in": {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Site.InputPhases = "1" }, "single-phase-input drive-too-small"},
		"hot":          {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Site.Ambient = q("site.ambient", "48") }, "drive-too-small"},
		"too hot": {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Site.Ambient = q("site.ambient", "60") },
			"ambient-limit drive-too-small"},
		"high up": {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Site.Altitude = q("site.altitude", "2000") }, "drive-too-small"},
		"two motors": {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Site.Motors = q("site.motors", "2") },
			"drive-too-small several-motors"},
		"on its side": {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Site.Mounting = "on-its-side" }, "mounting-on-side"},
		"a small closed cabinet": {func(d *drivefile.Drive, _ *drivefile.Supply) {
			d.Site.Enclosure, d.Site.Height, d.Site.Width, d.Site.Depth, d.Site.Outside = "closed", q("site.height", "600 mm"),
				q("site.width", "0,4"), q("site.depth", "250 mm"), q("site.outside", "25")
		}, "cabinet-heat"},
		"a large closed cabinet": {func(d *drivefile.Drive, _ *drivefile.Supply) {
			d.Site.Enclosure, d.Site.Height, d.Site.Width, d.Site.Depth, d.Site.Outside, d.Site.Against = "closed",
				q("site.height", "2 m"), q("site.width", "1,2"), q("site.depth", "600 mm"), q("site.outside", "25"), "wall"
		}, ""},
		"a heated cabinet": {func(d *drivefile.Drive, _ *drivefile.Supply) {
			d.Site.Enclosure = "heated"
		}, "heater-not-named"},
		"a plain motor": {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Site.MotorFit = "plain" }, "motor-plain"},
		"own fan, slow": {func(d *drivefile.Drive, _ *drivefile.Supply) { d.Motor.Cooling = "own-fan" }, "own-fan-slow"},
		"delta on 400 V": {func(d *drivefile.Drive, _ *drivefile.Supply) {
			d.Motor.Linked, d.Rating.Current, d.Rating.Type, d.Site.Ordered = sample.Delta, q("rating.current", "31"), "TN4-031-F3",
				"TN4-031"
		}, "working-87-hz"},
		"delta on 400 V, plain": {func(d *drivefile.Drive, _ *drivefile.Supply) {
			d.Motor.Linked, d.Rating.Current, d.Rating.Type, d.Site.Ordered, d.Site.MotorFit = sample.Delta, q("rating.current", "31"),
				"TN4-031-F3", "TN4-031", "not-known"
		}, "working-87-hz working-87-hz-insulation"},
	} {
		d, p := matched()
		s := p.Supplies["p1"]
		c.do(&d, &s)
		p.Supplies["p1"] = s
		j := job(d, nil)
		j.Place = p
		got := strings.Fields(codesOf(gate.Evaluate(j, now), "match"))
		want := strings.Fields(c.want)
		if strings.Join(sortedWords(got), " ") != strings.Join(sortedWords(want), " ") {
			t.Errorf("%s: %v, want %v", name, got, want)
		}
	}
}

func sortedWords(l []string) []string {
	for i := range l {
		for k := i + 1; k < len(l); k++ {
			if l[k] < l[i] {
				l[i], l[k] = l[k], l[i]
			}
		}
	}
	return l
}

func TestTheTypeIsHeldAgainstTheOrder(t *testing.T) {
	d, p := matched()
	for _, c := range []struct {
		label, ordered string
		verdict        gate.Verdict
	}{{"TN4-016-F2K", "TN4-016", gate.Holds}, {"tn4-016-f2k", "TN4 - 016", gate.Holds}, {"TN4-009-F2", "TN4-016", gate.Stops},
		{"", "TN4-016", gate.NotDone}, {"TN4-016", "", gate.NotDone}} {
		d.Rating.Type, d.Site.Ordered = c.label, c.ordered
		j := job(d, nil)
		j.Place = p
		if got := check(gate.Evaluate(j, now), "match/type/order"); got.Verdict != c.verdict {
			t.Errorf("%+v: %+v", c, got)
		}
	}
	d, _ = matched()
	d.Site.Inputs, d.Site.Encoder = sample.Q("site.inputs", "9"), "wanted"
	j := job(d, nil)
	j.Place = p
	if got := check(gate.Evaluate(j, now), "match/drive/terminals"); got.Verdict != gate.Again ||
		!strings.Contains(got.Detail, "9 digital inputs wanted, 6 there") {
		t.Errorf("%+v", got)
	}
}

func raw(t *testing.T, v any) json.RawMessage {
	t.Helper()
	b, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// What the motor gets is the drive's output: a doubler gives twice its line, a label may say less, and what is left of the torque is told.
func TestTheMotorIsHeldAgainstTheOutput(t *testing.T) {
	d, p := matched()
	d.Rating.Dialect, d.Rating.Type, d.Site.Ordered, d.Site.InputPhases = "Voe", "VOE.S.1.042", "VOE.S.1.042", "1"
	s := p.Supplies["p1"]
	s.Voltage, s.Phases = sample.Q("rating.voltage", "120"), "1"
	p.Supplies["p1"] = s
	at := func(linked, label string) (gate.Check, gate.State) {
		d.Motor.Linked = linked
		d.Rating.Voltage = sample.Q("rating.voltage", label)
		j := job(d, nil)
		j.Place = p
		st := gate.Evaluate(j, now)
		return check(st, "match/motor/voltage"), st
	}
	if c, _ := at(sample.Delta, ""); c.Verdict != gate.Holds || !strings.Contains(c.Detail, "240 V (doubled from 120 V)") {
		t.Errorf("230 V on a doubler: %+v", c)
	}
	c, st := at(sample.Star, "")
	f, ok := findingOf(st, "row-above-supply")
	// 240 / 400 of 50 Hz is 30 Hz; at 1455 r/min, the plate's speed, 60 % is left.
	if c.Verdict != gate.Again || !ok || !strings.Contains(f.Detail, "up to 30 Hz only") ||
		!strings.Contains(f.Detail, "about 60 % of it is left") {
		t.Errorf("400 V on a doubler: %+v, %q", c, f.Detail)
	}
	if c, _ := at(sample.Delta, "208"); c.Verdict != gate.Holds || !strings.Contains(c.Detail, "208 V (the drive's label)") {
		t.Errorf("the label gives less: %+v", c)
	}
}

// A fuse that is larger than what its conductor carries is asked about; a warm tray counts in every code book.
func TestTheFuseAgainstItsConductor(t *testing.T) {
	for code, ambient := range map[string]string{"iec-b2": "40", "iec-c": "60", "nec": "50"} {
		d, p := matched()
		d.Power.Code = code
		if code == "nec" {
			d.Power.LineArea, d.Power.MotorArea = "AWG 12", "AWG 12"
		}
		codes := func() string {
			j := job(d, nil)
			j.Place = p
			return strings.Join(codesOfAll(gate.Evaluate(j, now)), " ")
		}
		if strings.Contains(codes(), "protection-above-conductor") {
			t.Errorf("%s: 20 A before %s at 30 °C", code, d.Power.LineArea)
		}
		d.Power.Ambient = sample.Q("power.ambient", ambient)
		if !strings.Contains(codes(), "protection-above-conductor") {
			t.Errorf("%s: 20 A before %s at %s °C is no finding", code, d.Power.LineArea, ambient)
		}
	}
}

func codesOfAll(s gate.State) []string {
	var l []string
	for _, f := range s.Findings {
		l = append(l, f.Code)
	}
	return l
}
