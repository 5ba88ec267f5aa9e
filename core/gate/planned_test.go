package gate_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"tingate/core/drivefile/sample"
	"tingate/core/finding"
	"tingate/core/gate"
	"tingate/core/sheet"
	"tingate/formats/familyfile"
)

// lineOf is a planned line of the sheet by its code, in the words of its setting; empty: not planned.
func lineOf(s gate.State, code string) string {
	if i := slices.IndexFunc(s.Lines, func(l sheet.Line) bool { return l.Code == code }); i >= 0 && s.Lines[i].Planned {
		return s.Lines[i].SetTo
	}
	return ""
}

// What a machine is and has, is planned in every family: the motor's kind, and a brake that the drive opens, with its setting and an
// output. Where a family cannot open one, or no output is left, it stops.
func TestMotorKindAndBrakeArePlannedInEveryFamily(t *testing.T) {
	for family, want := range map[string]struct{ kind, magnet, induction, brake, output, means string }{
		"Tarn": {"4G", "permanent magnet", "induction", "5H", "3A", "brake open"},
		"Brae": {"motor.kind", "magnet rotor", "induction", "brake.mechanical", "", "brake open"},
		"Voe":  {"6402h:00", "PM synchronous", "squirrel cage induction", "2003h:0B", "2006h:11", "brake released"},
	} {
		d, place := matched()
		d.Rating.Dialect, d.Wiring.Command = family, "two-wire"
		at := func(change func()) gate.State {
			change()
			return gate.Evaluate(gate.Job{ID: "x", Drive: d, Place: place, Family: familyfile.Find(family)}, now)
		}
		if got := lineOf(at(func() { d.Motor.Kind = "permanent-magnet" }), want.kind); got != want.magnet {
			t.Errorf("%s, magnets: %q", family, got)
		}
		if got := lineOf(at(func() { d.Motor.Kind = "induction" }), want.kind); got != want.induction {
			t.Errorf("%s, induction: %q", family, got)
		}
		st := at(func() { d.Turn.Brake, d.Turn.Opens = "drive", sample.Q("turn.brake_opens", "0.25") })
		outputs := 0
		for _, l := range st.Lines {
			if l.Planned && l.SetTo == want.means && (want.output == "" || l.Code == want.output) {
				outputs++
			}
		}
		if got := lineOf(st, want.brake); got == "" || got == "off" || got == "no" || outputs != 1 {
			t.Errorf("%s: brake set to %q, %d outputs", family, got, outputs)
		}
		if family != "Brae" && !strings.HasPrefix(lineOf(st, map[string]string{"Tarn": "5L", "Voe": "2003h:0D"}[family]),
			map[string]string{"Tarn": "0.25", "Voe": "250"}[family]) {
			t.Errorf("%s: its time is not planned", family)
		}
		if got := lineOf(at(func() { d.Turn.Brake = "apart" }), want.brake); got != "off" && got != "no" {
			t.Errorf("%s: opened apart, and the drive's own is %q", family, got)
		}
	}
	// A version of a family that has no such setting, and outputs that are all taken.
	d, place := matched()
	d.Rating.Dialect, d.Wiring.Command, d.Turn.Brake = "Tarn", "two-wire", "drive"
	st := gate.Evaluate(gate.Job{ID: "x", Drive: d, Place: place, Family: familyfile.Shipped().Version("Tarn", "4")}, now)
	if f, ok := findingOf(st, "brake-not-planned"); !ok || f.Severity != finding.Stop {
		t.Errorf("%+v", f)
	}
	d.Wiring.RunLamp, d.Wiring.FaultLamp = true, true
	st = gate.Evaluate(gate.Job{ID: "x", Drive: d, Place: place, Family: familyfile.Find("Tarn")}, now)
	if f, ok := findingOf(st, "no-output-fault"); !ok || f.Severity != finding.Stop {
		t.Errorf("two relays for three: %+v", codesOfAll(st))
	}
}

// An encoder is data: its signals and its supply are held against the module, its current counted at its own voltage.
func TestTheEncoderIsFedAtItsOwnVoltage(t *testing.T) {
	at := func(family, signals, volts, amps string) gate.State {
		d, place := matched()
		d.Rating.Dialect, d.Wiring.Command, d.Site.Encoder, d.Site.EncoderType = family, "two-wire", "wanted", signals
		if volts != "" {
			d.Site.EncoderVolts, d.Site.EncoderAmps = sample.Q("site.encoder_supply", volts), sample.Q("site.encoder_current", amps)
		}
		return gate.Evaluate(gate.Job{ID: "x", Drive: d, Place: place, Family: familyfile.Find(family)}, now)
	}
	for _, c := range []struct{ family, signals, volts, amps, code string }{
		{"Tarn", "ttl", "5", "0.12", ""}, {"Tarn", "ttl", "5", "160 mA", "budget-encoder"},
		{"Tarn", "ttl", "24", "0.05", "encoder-supply"}, {"Tarn", "htl", "5", "0.05", "encoder-signals"},
		{"Brae", "htl", "24", "0.08", ""}, {"Brae", "htl", "24", "0.12", "budget-encoder"}, {"Voe", "ttl", "5", "100", "encoder-current"},
		{"Voe", "ttl", "", "", "encoder-not-stated"},
	} {
		st := at(c.family, c.signals, c.volts, c.amps)
		var got []string
		for _, f := range codesOfAll(st) {
			if strings.HasPrefix(f, "encoder-") || f == "budget-encoder" {
				got = append(got, f)
			}
		}
		if strings.Join(got, " ") != c.code {
			t.Errorf("%s, %s, %s V, %s: %v, want %q", c.family, c.signals, c.volts, c.amps, got, c.code)
		}
	}
	// 120 mA at 5 V of the module's 150, and the same from the drive's 24 V beside the inputs.
	volts := map[float64]float64{}
	for _, b := range at("Tarn", "ttl", "5", "0.12").Wiring.Budgets {
		volts[b.Volts] = b.Draws
	}
	if volts[5] != 120 || volts[24] < 120 {
		t.Errorf("%v", volts)
	}
	d, place := matched()
	d.Intent.Control = "vector"
	wantsEncoder(&d)
	j := gate.Job{ID: "x", Drive: d, Place: place, Family: familyfile.Find("Tarn")}
	if f := gate.FiguresOf(j, gate.Evaluate(j, now)); !f.WithoutEncoder ||
		!strings.Contains(strings.Join(f.Assumed, " "), "without its encoder") {
		t.Errorf("a bench without its encoder does not say so: %q", f.Assumed)
	}
}

// The maker's constants become lines of the sheet: from line to line halved for the stator, none of another kind of tune.
func TestMakersConstantsReachTheSheet(t *testing.T) {
	s := tuned(t)
	if got := lineOf(s.state(), "4N"); got != "" {
		t.Errorf("a tune by the drive plans nothing: %s", got)
	}
	s.answer(t, check(s.state(), "tune/kind/chosen"), "from-maker")
	s.see(t, "tune/values/as", "line-to-line", "")
	for key, v := range map[string]string{"stator": "1.236", "rotor": "0.4", "leakage": "7.5", "magnetising": "6.1"} {
		s.answer(t, check(s.state(), "tune/result/"+key), v)
	}
	st := s.state()
	for code, want := range map[string]string{"4N": "0.618 Ω", "4P": "0.400 Ω", "4R": "6.1 A", "4S": "7.50 mH"} {
		if got := lineOf(st, code); got != want {
			t.Errorf("%s: %q, want %q", code, got, want)
		}
	}
	s.job.Drive.Motor.Serial = "another"
	if got := lineOf(s.state(), "4N"); got != "" {
		t.Errorf("of another motor: %q", got)
	}
}

// A mechanical tune after another learns the inertia: what was learnt of the winding stays, and its own conditions and end are asked for.
func TestAMechanicalTuneKeepsTheElectricalOne(t *testing.T) {
	s := tuned(t)
	s.job.Drive.Rating.Dialect, s.job.Drive.Rating.Type = "Voe", "VOE.M.4.150/H"
	s.job.Family = familyfile.Find("Voe")
	before := s.state().Tune.Results
	for _, r := range before { // in this family's units
		s.answer(t, check(s.state(), r.Key), fmt.Sprint(r.Usual))
	}
	s.answer(t, check(s.state(), "tune/kind/chosen"), "mechanical")
	st := s.state()
	if st.Tune.Void != "" || len(st.Tune.Results) != len(before) || check(st, "tune/result/stator").Verdict != gate.Holds ||
		check(st, "tune/ended/shown").Verdict != gate.Holds || check(st, "tune/ready/cold").Key != "" {
		t.Errorf("void %q, %d results, %+v", st.Tune.Void, len(st.Tune.Results), check(st, "tune/ended/shown"))
	}
	if c := check(st, "tune/ended/mechanical"); c.Verdict != gate.NotDone || c.Do != "" || gate.TuneEnded(st.Tune) != c.Key {
		t.Errorf("asked before its conditions: %+v", c)
	}
	for range 20 {
		for _, c := range checksOf(s.state(), "tune") {
			if strings.HasPrefix(c.Key, "tune/ready/") && c.Do != "" && c.Verdict != gate.Holds {
				s.answer(t, c, good(c))
				break
			}
		}
	}
	s.answer(t, check(s.state(), "tune/ended/mechanical"), "ended")
	if st = s.state(); check(st, "tune/ended/mechanical").Verdict != gate.Holds || st.Tune.Void != "" {
		t.Errorf("%+v", checksOf(st, "tune"))
	}
	s.job.Drive.Site.Cable = sample.Q("site.cable", "40")
	if st = s.state(); st.Tune.Void == "" || check(st, "tune/result/stator").Verdict == gate.Holds {
		t.Error("another cable voids the electrical tune all the same")
	}
}
