package gate_test

import (
	"fmt"
	"strings"
	"testing"

	"tingate/core/drivefile"
	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	against "tingate/testtools/check"
)

// What does not fit is found at machines unlike one another, and not where it does.
func TestWhatFitsBadlyIsFound(t *testing.T) {
	q := sample.Q
	type machine func(d *drivefile.Drive, j *gate.Job)
	row := func(d *drivefile.Drive, power, current string) {
		set(d, "power", power)
		set(d, "current", current)
	}
	for name, c := range map[string]struct {
		make machine
		code string
		says string // empty: it is not found
	}{
		"the usual motor": {func(*drivefile.Drive, *gate.Job) {}, "motor-small-for-drive", ""},
		"4.7 A on 16 A": {func(d *drivefile.Drive, _ *gate.Job) { row(d, "2.2 kW", "4.7") }, "motor-small-for-drive",
			"4.7 A, 29 % of the drive's 16 A"},
		"4.9 A on 16 A": {func(d *drivefile.Drive, _ *gate.Job) { row(d, "2.2 kW", "4.9") }, "motor-small-for-drive", ""},
		"four of 2 A on 16 A": {func(d *drivefile.Drive, _ *gate.Job) {
			row(d, "0.75 kW", "2.0")
			d.Site.Motors = q("site.motors", "4")
		}, "motor-small-for-drive", ""},
		"no current on the plate": {func(d *drivefile.Drive, _ *gate.Job) { row(d, "2.2 kW", "") }, "motor-small-for-drive", ""},
		"no rated current": {func(d *drivefile.Drive, _ *gate.Job) { d.Rating.Current, d.Rating.Type = drivefile.Q{}, "" },
			"motor-small-for-drive", ""},

		"Voe's list has 7.5 kW": {func(d *drivefile.Drive, _ *gate.Job) { d.Rating.Dialect = "Voe" }, "list-off-plate", ""},
		"Voe's list has no 6.6 kW": {func(d *drivefile.Drive, _ *gate.Job) {
			d.Rating.Dialect = "Voe"
			row(d, "6.6 kW", "14.4")
		}, "list-off-plate", "has no 6.6 kW"},
		"Tarn takes any power": {func(d *drivefile.Drive, _ *gate.Job) { row(d, "6.6 kW", "14.4") }, "list-off-plate", ""},

		"a ramp":   {func(*drivefile.Drive, *gate.Job) {}, "fall-unused", ""},
		"coasting": {func(d *drivefile.Drive, _ *gate.Job) { d.Intent.StopMode = "coast" }, "fall-unused", "not used to stop"},
		"coasting without a fall": {func(d *drivefile.Drive, _ *gate.Job) {
			d.Intent.StopMode, d.Intent.Fall = "coast", drivefile.Q{}
		}, "fall-unused", ""},

		"the tag of its own": {func(*drivefile.Drive, *gate.Job) {}, "same-tag", ""},
		"another's tag": {func(_ *drivefile.Drive, j *gate.Job) { j.SameTag = []string{"Fan 2", ""} }, "same-tag",
			"Fan 2; one without a machine's name"},

		// 7.5 kW at 87 % and 0.97 are 8.9 kW; at 400 V and 0.95 that is 13.5 A.
		"15.8 A at 400 V": {func(*drivefile.Drive, *gate.Job) {}, "input-below-shaft", ""},
		"9.1 A at 400 V": {func(d *drivefile.Drive, _ *gate.Job) { d.Power.Input = q("power.input", "9.1") }, "input-below-shaft",
			"7.5 kW at the shaft take at least 13"},
		"15.8 A at 230 V": {func(_ *drivefile.Drive, j *gate.Job) {
			s := j.Place.Supplies["p1"]
			s.Voltage = q("rating.voltage", "230")
			j.Place.Supplies["p1"] = s
		}, "input-below-shaft", "230 V"},
		"15.8 A of one phase at 400 V": {func(d *drivefile.Drive, _ *gate.Job) { d.Site.InputPhases = "1" }, "input-below-shaft", "400 V"},
		"two motors on 15.8 A": {func(d *drivefile.Drive, _ *gate.Job) { d.Site.Motors = q("site.motors", "2") },
			"input-below-shaft", "15 kW"},
		"no input current": {func(d *drivefile.Drive, _ *gate.Job) { d.Power.Input = drivefile.Q{} }, "input-below-shaft", ""},
	} {
		d, p := matched()
		j := gate.Job{Place: p}
		c.make(&d, &j)
		full := job(d, nil)
		full.Place, full.SameTag = j.Place, j.SameTag
		f, ok := findingOf(gate.Evaluate(full, now), c.code)
		if ok != (c.says != "") || !strings.Contains(f.Title+" "+f.Detail, c.says) {
			t.Errorf("%s: %s is found: %v, %q", name, c.code, ok, f.Title+" "+f.Detail)
		}
	}
}

// The two steps between which the motor's current lies stand beside an overload, in amperes; on a step there is nothing to choose.
func TestAnOverloadShowsBothNeighboursInAmperes(t *testing.T) {
	for _, c := range []struct{ family, code, current, want string }{
		// 14.43 A of 16 A are 90.19 %.
		{"Tarn", "6K", "14.43", "The step below 14.4 A (90 %, -0.2 % of the motor's current) The step above 14.56 A (91 %, +0.9 % of the " +
			"motor's current)"},
		{"Brae", "protect.overload", "14.43", "The step below 14.4 A (14.4 A, -0.2 % of the motor's current) The step above 14.5 A (14.5 " +
			"A, +0.5 % of the motor's current)"},
		{"Brae", "protect.overload", "14.4", ""},
		{"Voe", "2002h:02", "14.43", ""}, // it counts in shares of the motor's own current
	} {
		d, _ := matched()
		d.Rating.Dialect = c.family
		set(&d, "current", c.current)
		got := "no such line"
		for _, l := range gate.Evaluate(job(d, nil), now).Lines {
			if l.Code != c.code {
				continue
			}
			var steps []string
			for _, f := range l.Figures {
				if strings.HasPrefix(f.Label, "The step ") {
					steps = append(steps, f.Label+" "+f.Value+" "+f.Unit+" ("+f.Note+")")
				}
			}
			got = strings.Join(steps, " ")
		}
		if got != c.want {
			t.Errorf("%s %s: %q", c.family, c.current, got)
		}
	}
}

// The least input current is that of the shaft's power at the supply, by hand.
func TestTheLeastInputCurrent(t *testing.T) {
	d, p := matched()
	d.Power.Input = sample.Q("power.input", "9")
	j := job(d, nil)
	j.Place = p
	f, ok := findingOf(gate.Evaluate(j, now), "input-below-shaft")
	var entered, kw, amps float64
	if _, err := fmt.Sscanf(f.Detail, "%f A is entered; %f kW at the shaft take at least %f A", &entered, &kw, &amps); !ok || err != nil {
		t.Fatalf("%q: %v", f.Detail, err)
	}
	// η of the plate: 7500 / (√3 · 400 · 15.5 · 0.83) = 0.8414.
	against.Against(t, "least input of 7.5 kW at 400 V with a choke, A",
		"P / (η · 0.97 · √3 · U · 0.95), by hand; 0.97 and 0.95 common practice", amps,
		7500/(0.8414*0.97*1.7320508*400*0.95), 2e-3)
}
