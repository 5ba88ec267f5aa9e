package gate_test

import (
	"strings"
	"testing"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/translate"
	"tingate/formats/familyfile"
)

// given is a job in which everything is wanted that the newest version of each family has a setting for.
func given(family, version string) gate.Job {
	j := job(sample.Dryer(), nil)
	j.Drive.Tag = "Conveyor drive north 4"
	j.Drive.Rating.Dialect, j.Drive.Rating.DialectVersion = family, version
	j.Family = familyfile.Find(family)
	if version != "" {
		j.Family = familyfile.Shipped().Version(family, version)
	}
	d := &j.Drive
	in := &d.Intent
	in.CommandSource, in.SpeedSource, in.ReferenceLoss = "terminals", "current", "fault"
	in.ReferenceLow, in.ReferenceHigh = sample.Q("intent.reference_low", "0"), sample.Q("intent.reference_high", "1450")
	in.NetAddress, in.NetParity = sample.Q("intent.network_address", "17"), "even"
	in.NetWait, in.NetLost = sample.Q("intent.network_wait", "1.5 s"), "fault"
	d.Signal.DeadBand = sample.Q("signal.dead_band", "0.8")
	d.Motor.Cooling, d.Turn.Brake = "forced", "drive"
	in.BrakeOpensAt, in.BrakeClosesAt = sample.Q("intent.brake_opens_at", "40 %"), sample.Q("intent.brake_closes_below", "45")
	return j
}

// One plan in three languages. By hand: 0.8 mA of 16 mA are 5 %; 40 % of the motor's 15.5 A on a drive of 16 A are 38.75 %, down; 45
// r/min of a
// motor with 4 poles are 1.5 Hz, and slip above.
func TestWhatIsGivenIsSpokenByEachFamily(t *testing.T) {
	for _, c := range []struct {
		family string
		want   map[string]string
	}{
		{"Tarn", map[string]string{"1H": "Conveyor dri", "9E": "17", "9G": "even", "9H": "1.5 s", "9J": "fault", "8M": "5.0 %",
			"8U": "3.6 mA",
			"4V": "fan of its own", "7M": "off", "5J": "38 %"}},
		{"Brae", map[string]string{"keypad.name": "Conveyor drive n", "service.node": "17", "service.parity": "even",
			"service.buswait": "1.5 s", "service.buslost": "fault", "input.dead": "5.0 %", "input.lowest": "3.6 mA",
			"motor.cooling": "a driven fan", "ramp.auto": "no", "brake.open": "40 %", "brake.close": "45 r/min"}},
		{"Voe", map[string]string{"2000h:03": "Conveyor drive north", "2000h:08": "17", "2000h:0A": "1500 ms", "6007h:00": "fault signal",
			"2005h:07": "5.0 %", "2005h:08": "3.6 mA", "2001h:13": "forced", "2003h:0F": "off", "2003h:0C": "387 ‰",
			"2003h:0E": "45 r/min"}},
	} {
		s := gate.Evaluate(given(c.family, ""), now)
		for code, want := range c.want {
			found := ""
			for _, l := range s.Lines {
				if l.Code == code && l.Planned {
					found = l.SetTo
				}
			}
			if found != want {
				t.Errorf("%s %s: %q, want %q", c.family, code, found, want)
			}
		}
	}
	bent := given("Tarn", "")
	bent.Drive.Intent.Curve1At, bent.Drive.Intent.Curve1 = sample.Q("intent.curve_1_at", "40 %"), sample.Q("intent.curve_1_speed", "300")
	for code, want := range map[string]string{"9U": "40.0 %", "9V": "11."} { // 300 r/min of 4 poles are 10 Hz, and slip above
		for _, l := range gate.Evaluate(bent, now).Lines {
			if l.Code == code && !strings.HasPrefix(l.SetTo, want) && !strings.HasPrefix(l.SetTo, "10.") {
				t.Errorf("%s: %s", code, l.SetTo)
			}
		}
	}
	closes := ""
	for _, l := range gate.Evaluate(given("Tarn", ""), now).Lines {
		if l.Code == "5K" {
			closes = l.SetTo
		}
	}
	if closes < "1.5 Hz" || closes > "3.0 Hz" {
		t.Errorf("5K: %s", closes)
	}
}

// What is half entered is not planned: a point without its speed would bend the reference to standstill. Behind the last point stands none.
func TestHalfIsNotPlanned(t *testing.T) {
	planned := func(change func(in *drivefile.Intent)) map[string]string {
		j := given("Tarn", "")
		change(&j.Drive.Intent)
		out := map[string]string{}
		for _, l := range gate.Evaluate(j, now).Lines {
			if l.Planned {
				out[l.Code] = l.SetTo
			}
		}
		return out
	}
	if l := planned(func(in *drivefile.Intent) { in.Curve1At = sample.Q("intent.curve_1_at", "40 %") }); l["9U"] != "" || l["9V"] != "" {
		t.Errorf("a share without its speed: %s %s", l["9U"], l["9V"])
	}
	whole := func(in *drivefile.Intent) {
		in.Curve1At, in.Curve1 = sample.Q("intent.curve_1_at", "40 %"), sample.Q("intent.curve_1_speed", "300")
	}
	if l := planned(whole); l["9U"] != "40.0 %" || l["9V"] == "" || l["9W"] != "0.0 % (off)" || l["9X"] != "" {
		t.Errorf("one point: %v", l)
	}
	if l := planned(func(in *drivefile.Intent) { whole(in); in.SpeedSource = "presets" }); l["9U"] != "" {
		t.Errorf("no signal: %s", l["9U"])
	}
	if l := planned(func(in *drivefile.Intent) { in.NetAddress = sample.Q("intent.network_address", "2.5") }); l["9E"] != "" {
		t.Errorf("address 2.5: %s", l["9E"])
	}
	if l := planned(func(in *drivefile.Intent) { in.NetAddress = sample.Q("intent.network_address", "300") }); l["9E"] != "" {
		t.Errorf("address 300: %s", l["9E"])
	}
	voe := given("Voe", "")
	voe.Drive.Intent.Magnetise = "on"
	for _, l := range gate.Evaluate(voe, now).Lines {
		if l.Code == "2001h:10" && l.SetTo == "on" {
			return
		}
	}
	t.Error("Voe is not magnetised at standstill by any setting")
}

// A name that is not there yet, and another one, are told as texts: no value of theirs is a number.
func TestANameThatDiffersIsToldAsAText(t *testing.T) {
	for text, want := range map[string]string{"": "1H shows nothing yet; “Conveyor dri” is wanted.",
		"PUMP 2": "1H shows another text; “Conveyor dri” is wanted."} {
		j := given("Tarn", "")
		steps := dialect.TextSteps(text)
		j.Entries = sample.Entry(j.Entries, drivefile.EntryReading,
			drivefile.Reading{Code: "1H", Text: text, Steps: &steps, How: drivefile.OverLink, Serial: sample.DriveSerial})
		told := ""
		for _, l := range gate.Evaluate(j, now).Lines {
			if l.Code == "1H" && l.Explanation != nil {
				told = l.Explanation.Text
			}
		}
		if told != want {
			t.Errorf("%q: %q, want %q", text, told, want)
		}
	}
}

// A family that has no setting for what is given by the way is not missed; for what somebody asked for it is.
func TestWhatAFamilyHasNotIsMissedWhereItWasAskedFor(t *testing.T) {
	lacks := func(j gate.Job) (l []string) {
		for _, f := range gate.Evaluate(j, now).Findings {
			if strings.HasPrefix(f.Code, "family-has-none/") {
				l = append(l, strings.TrimPrefix(f.Code, "family-has-none/"))
			}
		}
		return l
	}
	old := given("Tarn", "8")
	in := &old.Drive.Intent
	in.NetAddress, in.NetWait, in.NetParity, in.NetLost = drivefile.Q{}, drivefile.Q{}, "", ""
	in.BrakeOpensAt, in.BrakeClosesAt = drivefile.Q{}, drivefile.Q{}
	if l := lacks(old); len(l) != 0 {
		t.Errorf("Tarn 8: %v", l)
	}
	in.LostBelow, in.AutoRamp, in.Magnetise = sample.Q("intent.lost_below", "3.2"), "on", "on"
	if l := strings.Join(lacks(old), "; "); !strings.Contains(l, "lost below") || !strings.Contains(l, "ramps by") ||
		!strings.Contains(l, "magnetised") {
		t.Errorf("Tarn 8, asked for: %v", l)
	}
	voe := given("Voe", "")
	voe.Drive.Intent.NetSpeed = "9600"
	if l := strings.Join(lacks(voe), "; "); !strings.Contains(l, "network speed (9600)") || !strings.Contains(l, "network parity") {
		t.Errorf("Voe: %v", l)
	}
	voltage := given("Tarn", "") // of a signal from zero nothing can be told
	voltage.Drive.Intent.SpeedSource = "voltage"
	for _, l := range gate.Evaluate(voltage, now).Lines {
		if l.Code == "8U" && l.Planned {
			t.Errorf("8U planned for a voltage: %s", l.SetTo)
		}
		if l.Code == "8M" && l.SetTo != "8.0 %" { // 0.8 V of 10 V
			t.Errorf("8M: %s", l.SetTo)
		}
	}
}

// What is left as delivered though the job needs otherwise, and what contradicts itself, is said at its field.
func TestFindingsOnWhatIsGiven(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(d *drivefile.Drive)
		code   string
		not    bool
	}{
		{"network, nothing said", func(d *drivefile.Drive) {
			d.Intent.CommandSource, d.Intent.NetLost, d.Intent.NetAddress = "network", "", drivefile.Q{}
		}, "network-lost-open", false},
		{"its address", func(d *drivefile.Drive) { d.Intent.SpeedSource, d.Intent.NetAddress = "network", drivefile.Q{} },
			"address-as-delivered", false},
		{"no network", func(d *drivefile.Drive) { d.Intent.NetAddress, d.Intent.NetLost = drivefile.Q{}, "" }, "address-as-delivered",
			true},
		{"runs on", func(d *drivefile.Drive) { d.Intent.CommandSource, d.Intent.NetLost = "network", "hold" }, "runs-without-network",
			false},
		{"stops", func(d *drivefile.Drive) { d.Intent.CommandSource, d.Intent.NetLost = "network", "stop" }, "runs-without-network", true},
		{"never noticed", func(d *drivefile.Drive) {
			d.Intent.CommandSource, d.Intent.NetWait = "network", sample.Q("intent.network_wait", "0")
		}, "network-never-lost", false},
		{"as delivered it is noticed", func(d *drivefile.Drive) { d.Intent.CommandSource, d.Intent.NetWait = "network", drivefile.Q{} },
			"network-never-lost", true},
		{"lost at 4 mA", func(d *drivefile.Drive) { d.Intent.LostBelow = sample.Q("intent.lost_below", "4") }, "lost-too-early", false},
		{"lost at 1 mA", func(d *drivefile.Drive) { d.Intent.LostBelow = sample.Q("intent.lost_below", "1") }, "lost-never", false},
		{"lost at 3.6 mA", func(d *drivefile.Drive) { d.Intent.LostBelow = sample.Q("intent.lost_below", "3.6") }, "lost-never", true},
		{"half a point", func(d *drivefile.Drive) { d.Intent.Curve1At = sample.Q("intent.curve_1_at", "40 %") }, "curve-half/1", false},
		{"a gap", func(d *drivefile.Drive) {
			d.Intent.Curve2At, d.Intent.Curve2 = sample.Q("intent.curve_2_at", "40 %"), sample.Q("intent.curve_2_speed", "300")
		}, "curve-gap/2", false},
		{"falling shares", func(d *drivefile.Drive) {
			d.Intent.Curve1At, d.Intent.Curve1 = sample.Q("intent.curve_1_at", "40 %"), sample.Q("intent.curve_1_speed", "300")
			d.Intent.Curve2At, d.Intent.Curve2 = sample.Q("intent.curve_2_at", "30 %"), sample.Q("intent.curve_2_speed", "500")
		}, "curve-not-rising/2", false},
		{"back on its way", func(d *drivefile.Drive) {
			d.Intent.Curve1At, d.Intent.Curve1 = sample.Q("intent.curve_1_at", "40 %"), sample.Q("intent.curve_1_speed", "1600")
		}, "curve-turns-back/1", false},
		{"a name that does not fit", func(*drivefile.Drive) {}, "name-cut", false},
		{"a name that fits", func(d *drivefile.Drive) { d.Intent.DriveName = "Conveyor N4" }, "name-cut", true},
		{"a brake as delivered, on a drive far too large", func(d *drivefile.Drive) {
			d.Intent.BrakeOpensAt, d.Intent.CurrentLimit = drivefile.Q{}, sample.Q("intent.current_limit", "150 %")
			d.Rating.Current = sample.Q("rating.current", "90 A")
		}, "brake-never-opens", false},
		{"a brake as delivered, on its own drive", func(d *drivefile.Drive) { d.Intent.BrakeOpensAt = drivefile.Q{} },
			"brake-never-opens", true},
		{"a good curve", func(d *drivefile.Drive) {
			d.Intent.Curve1At, d.Intent.Curve1 = sample.Q("intent.curve_1_at", "40 %"), sample.Q("intent.curve_1_speed", "300")
		}, "curve-turns-back/1", true},
		{"magnetised", func(d *drivefile.Drive) { d.Intent.Magnetise = "on" }, "live-at-standstill", false},
		{"kept warm", func(d *drivefile.Drive) { d.Intent.Preheat = sample.Q("intent.preheat", "10 %") }, "warmed-at-standstill", false},
		{"not kept warm", func(d *drivefile.Drive) { d.Intent.Preheat = sample.Q("intent.preheat", "0") }, "warmed-at-standstill", true},
		{"no time", func(d *drivefile.Drive) { d.Intent.AutoRamp = "on" }, "ramps-keep-no-time", false},
		{"a brake beyond the limit", func(d *drivefile.Drive) {
			d.Intent.BrakeOpensAt, d.Intent.CurrentLimit = sample.Q("intent.brake_opens_at", "160 %"), sample.Q("intent.current_limit",
				"150 %")
		}, "brake-never-opens", false},
		{"no brake of the drive", func(d *drivefile.Drive) {
			d.Turn.Brake, d.Intent.BrakeOpensAt, d.Intent.CurrentLimit = "apart", sample.Q("intent.brake_opens_at", "160 %"),
				sample.Q("intent.current_limit", "150 %")
		}, "brake-never-opens", true},
		{"a brake onto speed", func(d *drivefile.Drive) { d.Intent.BrakeClosesAt = sample.Q("intent.brake_closes_below", "300") },
			"brake-closes-early", false},
	} {
		j := given("Tarn", "")
		c.change(&j.Drive)
		found := false
		for _, f := range gate.Evaluate(j, now).Findings {
			found = found || f.Code == c.code
		}
		if found == c.not {
			t.Errorf("%s: %s found %v", c.name, c.code, found)
		}
	}
}

// A drive that counts its speeds otherwise than the sheet is found by what was read of it; one that counts so is not.
func TestADriveThatCountsOtherwise(t *testing.T) {
	for _, c := range []struct{ family, as, code, other, same, preset, shows string }{
		{"Tarn", "rpm", "8V", "Hz", "r/min", "8F", "r/min"},
		{"Brae", "percent", "preset.unit", "r/min", "percent of the highest frequency", "preset.one", "%"},
		{"Voe", "", "2004h:07", "r/min", "percent", "2004h:02", "%"},
	} {
		j := given(c.family, "")
		j.Drive.Intent.SpeedUnit, j.Drive.Intent.Preset1 = c.as, sample.Q("intent.preset_1", "300")
		j.Family = translate.Fitted(j.Family, j.Drive)
		found := func() bool {
			for _, f := range gate.Evaluate(j, now).Findings {
				if f.Code == "speeds-counted-otherwise" {
					return true
				}
			}
			return false
		}
		for _, l := range gate.Evaluate(j, now).Lines {
			if l.Code == c.preset && !strings.HasSuffix(l.SetTo, c.shows) || l.Code == c.code && (l.SetTo != c.same || c.as == "") {
				t.Errorf("%s: %s %s", c.family, l.Code, l.SetTo)
			}
		}
		if found() {
			t.Errorf("%s: nothing was read", c.family)
		}
		for i, text := range []string{c.other, c.same} {
			s, _ := j.Family.Setting(c.code)
			steps, err := s.Read(text)
			if err != nil {
				t.Fatal(err)
			}
			j.Entries = sample.Entry(
				j.Entries,
				drivefile.EntryReading,
				drivefile.Reading{Code: c.code, Text: text, Steps: &steps, How: drivefile.ByTyping,
					Serial: j.Drive.Rating.Serial},
			)
			if found() != (i == 0) {
				t.Errorf("%s: read as %q, found %v", c.family, text, found())
			}
		}
	}
}
