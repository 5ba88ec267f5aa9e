package gate_test

import (
	"fmt"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/finding"
	"tingate/core/gate"
	"tingate/core/practice"
)

// tuned is a scene in which gate Tune is done, uncoupled, on vector control.
func tuned(t *testing.T) *scene { return whole(t, "tune", practiceWith(t, nil)) }

func findingOf(s gate.State, code string) (gate.Answered, bool) {
	for _, f := range s.Findings {
		if f.Code == code {
			return f, true
		}
	}
	return gate.Answered{}, false
}

// Any later change of plate, cable, link or switching makes the tune void at once, by name.
func TestATuneIsVoidWhenWhatItRestsOnChanges(t *testing.T) {
	s := tuned(t)
	if st := s.state(); st.Tune.Void != "" || len(st.Tune.Results) != 4 || st.Tune.Results[0].Value == nil || st.Tune.Recipe == nil ||
		!st.Tune.Recipe.StopAfter {
		t.Fatalf("%+v", st.Tune)
	}
	for want, change := range map[string]func(*drivefile.Drive){
		"current 15.5 → 15.0": func(d *drivefile.Drive) {
			r := d.Motor.Rows[sample.Star]
			r.Current = sample.Q("motor.rows.x.current", "15.0")
			d.Motor.Rows = map[string]drivefile.Row{sample.Star: r}
		},
		"cable 6 → 40":            func(d *drivefile.Drive) { d.Site.Cable = sample.Q("site.cable", "40") },
		"switching blank → 8":     func(d *drivefile.Drive) { d.Site.Switching = sample.Q("site.switching", "8") },
		"connection star → delta": func(d *drivefile.Drive) { d.Motor.Linked = sample.Delta },
		"another motor, serial":   func(d *drivefile.Drive) { d.Motor.Serial = "M2" },
		"efficiency blank → 88":   func(d *drivefile.Drive) { d.Motor.Efficiency = sample.Q("motor.efficiency", "88") },
	} {
		x := s.again()
		change(&x.job.Drive)
		st := x.state()
		f, ok := findingOf(st, "tune-void")
		if !strings.Contains(st.Tune.Void, want) || !ok || f.Severity != finding.Look ||
			check(st, "tune/result/stator").Verdict == gate.Holds || check(st, "tune/ended/shown").Verdict == gate.Holds {
			t.Errorf("%q: void %q, %+v", want, st.Tune.Void, check(st, "tune/ended/shown"))
		}
	}
	// A change of what a tune does not rest on leaves it.
	x := s.again()
	x.job.Drive.Intent.Rise = sample.Q("intent.rise", "300 r/min/s")
	if v := x.state().Tune.Void; v != "" {
		t.Errorf("a ramp voids it: %s", v)
	}
}

// The result of a motor linked in delta where star belongs: every impedance a third. Taken twice: the runs are compared.
func TestAResultThatDoesNotFitIsExplained(t *testing.T) {
	s := tuned(t)
	for _, r := range s.state().Tune.Results {
		v := r.Usual / 3
		if r.Name == "Magnetising current" {
			v = r.Usual * 3
		}
		s.answer(t, check(s.state(), r.Key), fmt.Sprint(v))
	}
	st := s.state()
	f, ok := findingOf(st, "tune-misfit")
	if !ok || f.Severity != finding.Stop || !strings.Contains(f.Detail, "linked in delta where the row in use says star") ||
		len(st.Tune.Causes) == 0 || mark(st, "tune") != "barred" {
		t.Errorf("%+v, causes %+v", f, st.Tune.Causes)
	}
	if f, ok := findingOf(st, "tune-repeat"); !ok || !strings.Contains(f.Title, "Two runs differ by") {
		t.Errorf("a run a third of the one before: %+v", f)
	}
	if c := st.Tune.Cable; !strings.Contains(c, "0.054 Ω") || !strings.Contains(c, "6 m of 2,5") {
		t.Errorf("6 m of 2.5 mm² at 22.5 Ω·mm²/km: %q", c)
	}
	x := tuned(t)
	r := x.state().Tune.Results[0]
	x.answer(t, check(x.state(), r.Key), fmt.Sprint(*r.Value*1.02))
	if _, ok := findingOf(x.state(), "tune-repeat"); ok || x.state().Tune.Results[0].Earlier == nil {
		t.Error("2 % apart is a repeat")
	}
	x.answer(t, check(x.state(), "tune/ended/shown"), "other")
	if c := check(x.state(), "tune/ended/shown"); c.Verdict != gate.Stops {
		t.Errorf("an alarm at the end: %+v", c)
	}
}

func TestWhichTuneAndWhichControl(t *testing.T) {
	kind := func(change func(*drivefile.Drive), p *practice.Practice) gate.State {
		d, place := matched()
		change(&d)
		return gate.Evaluate(gate.Job{ID: "x", Drive: d, Place: place, Family: job(d, nil).Family, Practice: p}, now)
	}
	st := kind(func(d *drivefile.Drive) {}, nil)
	if c := check(st, "tune/kind/chosen"); c.Options[0].Value != "none" {
		t.Errorf("volts per hertz needs none: %+v", c)
	}
	st = kind(func(d *drivefile.Drive) { d.Intent.Control, d.Turn.Hanging = "vector", true }, nil)
	refused := map[string]string{}
	for _, o := range st.Tune.Offers {
		if o.Refused {
			refused[o.Kind] = o.Why
		}
	}
	if !strings.Contains(refused["rotating-coupled"], "hoist") || refused["none"] == "" {
		t.Errorf("%v", refused)
	}
	// Control at the lowest speed: sensorless below a tenth, volts per hertz below 2 Hz; standstill costs what flows.
	st = kind(func(d *drivefile.Drive) { d.Intent.LowestSpeed = sample.Q("intent.lowest_speed", "50") }, nil)
	if f, ok := findingOf(st, "control-too-slow"); !ok || !strings.Contains(f.Detail, "about 2 Hz") || len(st.Tune.Modes) != 3 ||
		st.Tune.Modes[2].Enough == false {
		t.Errorf("%+v %+v", f, st.Tune.Modes)
	}
	if st.Tune.Standstill[1].Unit != "W" || st.Tune.Standstill[2].Unit != "kWh" {
		t.Errorf("%+v", st.Tune.Standstill)
	}
	if _, ok := findingOf(kind(func(*drivefile.Drive) {}, nil), "control-too-slow"); ok {
		t.Error("12 Hz is within reach of volts per hertz")
	}
	// The maker's values, from line to line: the band of the stator is doubled, nothing is run.
	s := tuned(t)
	s.job.Drive.Rating.Dialect, s.job.Drive.Rating.Type = "Brae", "BR18C460"
	s.job.Family = job(s.job.Drive, nil).Family
	s.answer(t, check(s.state(), "tune/kind/chosen"), "from-maker")
	one := s.state().Tune.Results[0]
	s.see(t, "tune/values/as", "line-to-line", "")
	two := s.state().Tune.Results[0]
	if two.Low != 2*one.Low || check(s.state(), "tune/ended/shown").Key != "" || one.Setting != "motor.stator" {
		t.Errorf("%+v %+v", one, two)
	}
}

// What the load takes at the lowest speed is the same at Tune, Span and Match: full torque where nobody has said it, along its own curve
// where somebody has.
func TestWhatTheLoadTakesAtTheLowestSpeed(t *testing.T) {
	for _, c := range []struct{ load, torque, want string }{{"constant", "", "of which nobody has said the torque, may take 100 %"},
		{"constant", "80 %", "the load takes 80 %"},
		{"linear", "80 %", "the load takes 3 %"},
		{"quadratic", "", "may take 0 %"}} { // at 60 of 1455 r/min: 0.8 · 60/1455 is 3.3 %, and (60/1455)² is 0.2 %
		s := whole(t, "tune", practiceWith(t, nil))
		in := &s.job.Drive.Intent
		in.LowestSpeed, in.Load, in.LoadTorque = sample.Q("intent.lowest_speed", "60"), c.load, drivefile.Q{}
		if c.torque != "" {
			in.LoadTorque = sample.Q("intent.load_torque", c.torque)
		}
		f, ok := findingOf(s.state(), "control-too-slow")
		if !ok || !strings.Contains(f.Detail, c.want) {
			t.Errorf("%s %q: %v %q, want %q", c.load, c.torque, ok, f.Detail, c.want)
		}
	}
}
