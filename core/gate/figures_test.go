package gate_test

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/core/sheet"
	"tingate/core/translate"
	"tingate/formats/familyfile"
)

// What a bench is made of are the job's own figures; what nobody said is told, and what cannot be done without is named.
func TestFiguresAreTheJobsOwn(t *testing.T) {
	var d drivefile.Drive
	j := gate.Job{Drive: d, Family: familyfile.Find("Tarn")}
	if f := gate.FiguresOf(j, gate.Evaluate(j, time.Now())); !strings.Contains(f.Missing, "plate") &&
		!strings.Contains(f.Missing, "row in use") {
		t.Errorf("without a plate: %q", f.Missing)
	}
	d.Motor.Rows = map[string]drivefile.Row{"r": {Power: sample.Q("motor.rows.r.power", "7.5 kW"),
		Voltage: sample.Q("motor.rows.r.voltage", "400"), Current: sample.Q("motor.rows.r.current", "15.1"),
		Frequency: sample.Q("motor.rows.r.frequency", "50"), Speed: sample.Q("motor.rows.r.speed", "1455"),
		PowerFactor: sample.Q("motor.rows.r.power_factor", "0.82")}}
	j.Drive = d
	f := gate.FiguresOf(j, gate.Evaluate(j, time.Now()))
	if f.Missing != "" || f.Motor.Poles != 4 || math.Abs(f.Motor.Power-7500) > 1 || f.Line != 400 {
		t.Fatalf("%+v", f)
	}
	for _, want := range []string{"type is not known", "no supply is named", "none is stated", "inertia"} {
		if !strings.Contains(strings.Join(f.Assumed, " "), want) {
			t.Errorf("nothing says %q in %q", want, f.Assumed)
		}
	}
	d.Rating.Type, d.Intent.Load, d.Intent.LoadTorque = "TN4-016-F2K", "quadratic", sample.Q("intent.load_torque", "60 %")
	d.Motor.Cooling = "forced"
	j.Drive = d
	f = gate.FiguresOf(j, gate.Evaluate(j, time.Now()))
	// Rated torque 7500 W at 1455 r/min is 49.22 N·m (IEC 60034-1); 60 % of it 29.53.
	if f.Size.Heavy != 16 || f.Own || f.Load.Kind != "quadratic" || math.Abs(f.Load.Torque-29.53) > .02 || len(f.Assumed) != 2 {
		t.Errorf("%+v", f)
	}
	d.Motor.Kind = "permanent-magnet"
	j.Drive = d
	if f = gate.FiguresOf(j, gate.Evaluate(j, time.Now())); !strings.Contains(f.Missing, "synchronous") {
		t.Errorf("magnets that slip: %q", f.Missing)
	}
	id := translate.LinkedRow(d.Motor)
	r := d.Motor.Rows[id]
	r.Speed = sample.Q("motor.rows.x.speed", "1500")
	d.Motor.Rows = map[string]drivefile.Row{id: r}
	d.Turn.Hanging, d.Turn.Brake, d.Turn.Backstop = true, "drive", true
	j.Drive = d
	if f = gate.FiguresOf(j, gate.Evaluate(j,
		time.Now())); f.Missing != "" || !f.Magnet || f.Motor.Poles != 4 || f.Load.Kind != "hanging" || !f.Backstop ||
		math.Abs(f.Brake.Torque-2*7500/(1500*math.Pi/30)) > .01 || !f.Brake.Follows {
		t.Errorf("magnets on a hoist: %+v", f)
	}
	if f = gate.FiguresOf(gate.Job{Drive: d}, gate.State{}); !strings.Contains(f.Missing, "family") {
		t.Errorf("no family: %q", f.Missing)
	}
}

// An inertia that is stated takes the place of the one that is usual for the load, with its band; in lb·ft² too (NIST SP 811).
func TestAStatedInertiaCounts(t *testing.T) {
	d, place := matched()
	figures := func() translate.Figures {
		j := gate.Job{Drive: d, Place: place, Family: job(d, nil).Family}
		return gate.FiguresOf(j, gate.Evaluate(j, now))
	}
	usual := figures()
	if usual.Band != 1 || !strings.Contains(strings.Join(usual.Assumed, " "), translate.InertiaAssumed) {
		t.Errorf("%v %v", usual.Band, usual.Assumed)
	}
	d.Intent.LoadInertia = sample.Q("intent.load_inertia", "10 lb·ft²")
	f := figures()
	if math.Abs(f.LoadJ-.4214011) > 1e-6 || f.Band != .2 || strings.Contains(strings.Join(f.Assumed, " "), translate.InertiaAssumed) {
		t.Errorf("%v %v %v", f.LoadJ, f.Band, f.Assumed)
	}
	d.Intent.InertiaBand = sample.Q("intent.inertia_band", "5 %")
	if f = figures(); f.Band != .05 {
		t.Errorf("%v", f.Band)
	}
}

// What a reaction depends on is planned and read back at gate Signal, also as delivered; of another family too, and a family's fixed
// reaction needs no line.
func TestReactionsArePlannedAndReadBack(t *testing.T) {
	for family, codes := range map[string][]string{"Tarn": {"1K", "2K", "2L"}, "Brae": {"keypad.stop"},
		"Voe": {"2000h:06", "2006h:0A", "2006h:0B"}} {
		d, _ := matched()
		d.Rating.Dialect, d.Wiring.Interlock, d.Intent.CommandSource = family, true, "terminals"
		s := gate.Evaluate(gate.Job{ID: "x", Drive: d, Family: familyfile.Find(family)}, now)
		for _, code := range codes {
			i := slices.IndexFunc(s.Lines, func(l sheet.Line) bool { return l.Code == code })
			if i < 0 || !s.Lines[i].Planned || s.Lines[i].Gate != "signal" {
				t.Errorf("%s %s: line %d", family, code, i)
			}
		}
		starts := slices.ContainsFunc(s.Findings, func(f gate.Answered) bool { return f.Code == "interlock-starts" })
		if starts != (family == "Brae") { // its interlock goes on by itself, and no setting changes that
			t.Errorf("%s: said that it starts by itself: %v", family, starts)
		}
	}
}
