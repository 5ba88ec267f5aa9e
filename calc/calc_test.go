package calc

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"math"
	"strings"
	"testing"

	"tingate/testtools/check"
)

// run answers one JSON item.
func run(t testing.TB, name, in string) map[string]any {
	t.Helper()
	var w bytes.Buffer
	if _, err := Run(context.Background(), name, strings.NewReader(in), &w); err != nil {
		t.Fatalf("%s: %v", in, err)
	}
	var out map[string]any
	if err := json.Unmarshal(w.Bytes(), &out); err != nil {
		t.Fatalf("%s: %v", w.String(), err)
	}
	return out
}

func num(t testing.TB, out map[string]any, field string) float64 {
	t.Helper()
	v, ok := out[field].(float64)
	if !ok {
		t.Fatalf("%s is %v in %v", field, out[field], out)
	}
	return v
}

func codes(out map[string]any, severities ...string) []string {
	var l []string
	list, _ := out["findings"].([]any)
	for _, f := range list {
		m := f.(map[string]any)
		for _, s := range severities {
			if m["severity"] == s {
				l = append(l, m["code"].(string))
			}
		}
	}
	return l
}

// Plates as makers stamp them: common three-phase ratings, small and odd ones. None may be objected to.
// Source: common practice; NEC Table 430.250 currents at 460 V where no cos φ stands.
var soundPlates = []string{
	`{"power_kw":0.06,"voltage_v":400,"current_a":0.24,"frequency_hz":50,"speed_rpm":1330,"power_factor":0.65}`,
	`{"power_kw":0.09,"voltage_v":400,"current_a":0.33,"frequency_hz":50,"speed_rpm":1340,"power_factor":0.68}`,
	`{"power_kw":0.12,"voltage_v":400,"current_a":0.44,"frequency_hz":50,"speed_rpm":1350,"power_factor":0.72}`,
	`{"power_kw":0.18,"voltage_v":230,"current_a":1.4,"frequency_hz":50,"speed_rpm":2650}`,
	`{"power_kw":0.18,"voltage_v":400,"current_a":0.65,"frequency_hz":50,"speed_rpm":1370,"power_factor":0.68}`,
	`{"power_kw":0.25,"voltage_v":400,"current_a":0.76,"frequency_hz":50,"speed_rpm":1370,"power_factor":0.76}`,
	`{"power_kw":0.37,"power_hp":0.5,"voltage_v":230,"current_a":1.9,"frequency_hz":50,"speed_rpm":1395,"power_factor":0.72}`,
	`{"power_kw":0.55,"voltage_v":400,"current_a":1.4,"frequency_hz":50,"speed_rpm":1400,"power_factor":0.76}`,
	`{"power_kw":0.55,"voltage_v":400,"current_a":1.75,"frequency_hz":50,"speed_rpm":910,"power_factor":0.68}`,
	`{"power_kw":0.75,"voltage_v":400,"current_a":1.8,"frequency_hz":50,"speed_rpm":1435,"power_factor":0.77,"efficiency_pct":79.6}`,
	`{"power_kw":1.1,"voltage_v":400,"current_a":2.45,"frequency_hz":50,"speed_rpm":1445,"power_factor":0.79,"efficiency_pct":81.4}`,
	`{"power_kw":1.5,"voltage_v":400,"current_a":3.3,"frequency_hz":50,"speed_rpm":1440,"power_factor":0.79}`,
	`{"power_kw":2.2,"voltage_v":400,"current_a":4.7,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.79}`,
	`{"power_kw":3,"voltage_v":400,"current_a":6.3,"frequency_hz":50,"speed_rpm":1450,"power_factor":0.81}`,
	`{"power_kw":4,"power_hp":5.5,"voltage_v":400,"current_a":8.1,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.82}`,
	`{"power_kw":4,"power_hp":5,"voltage_v":400,"current_a":7.8,"frequency_hz":50,"speed_rpm":2890,"power_factor":0.88}`,
	`{"power_kw":7.5,"voltage_v":400,"current_a":15.5,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.83}`,
	`{"power_kw":7.5,"voltage_v":400,"current_a":15.1,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.83,"rows":[{"power_kw":7.5,"voltage_v":230,"current_a":26.2,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.83,"connection":"delta"}]}`,
	`{"power_kw":7.5,"voltage_v":400,"current_a":17.0,"frequency_hz":50,"speed_rpm":715,"power_factor":0.75}`,
	`{"power_kw":8.6,"voltage_v":460,"current_a":15.0,"frequency_hz":60,"speed_rpm":1755,"power_factor":0.83}`,
	`{"power_kw":11,"voltage_v":400,"current_a":20.5,"frequency_hz":50,"speed_rpm":2940,"power_factor":0.88}`,
	`{"power_kw":15,"voltage_v":400,"current_a":29.5,"frequency_hz":50,"speed_rpm":975,"power_factor":0.81}`,
	`{"power_kw":30,"voltage_v":400,"current_a":55,"frequency_hz":50,"speed_rpm":1475,"power_factor":0.85}`,
	`{"power_kw":37,"voltage_v":690,"current_a":38.5,"frequency_hz":50,"speed_rpm":1480,"power_factor":0.86}`,
	`{"power_kw":75,"voltage_v":400,"current_a":132,"frequency_hz":50,"speed_rpm":1485,"power_factor":0.87}`,
	`{"power_kw":110,"voltage_v":400,"current_a":190,"frequency_hz":50,"speed_rpm":1488,"power_factor":0.88}`,
	`{"power_kw":250,"voltage_v":400,"current_a":430,"frequency_hz":50,"speed_rpm":1490,"power_factor":0.87}`,
	`{"power_kw":355,"voltage_v":690,"current_a":355,"frequency_hz":50,"speed_rpm":991,"power_factor":0.87}`,
	`{"power_kw":13,"voltage_v":400,"current_a":26.2,"frequency_hz":87,"speed_rpm":2565,"power_factor":0.83}`,
	`{"power_hp":1,"voltage_v":460,"current_a":2.1,"frequency_hz":60,"speed_rpm":1725}`,
	`{"power_hp":0.5,"voltage_v":460,"current_a":1.1,"frequency_hz":60,"speed_rpm":1725,"service_factor":1.25}`,
	`{"power_hp":5,"voltage_v":460,"current_a":7.6,"frequency_hz":60,"speed_rpm":1745,"service_factor":1.15}`,
	`{"power_hp":10,"voltage_v":460,"current_a":14,"frequency_hz":60,"speed_rpm":1755}`,
	`{"power_hp":25,"voltage_v":460,"current_a":34,"frequency_hz":60,"speed_rpm":1770,"efficiency_pct":93}`,
	`{"power_hp":100,"voltage_v":460,"current_a":124,"frequency_hz":60,"speed_rpm":1785}`,
	`{"power_hp":200,"voltage_v":460,"current_a":240,"frequency_hz":60,"speed_rpm":1785}`,
	`{"power_hp":3,"voltage_v":230,"current_a":9.6,"frequency_hz":60,"speed_rpm":1160}`,
	`{"power_hp":30,"voltage_v":460,"current_a":43,"frequency_hz":60,"speed_rpm":1600,"power_factor":0.8}`,
	`{"speed_rpm":1660,"frequency_hz":60}`,
	`{"speed_rpm":1450,"frequency_hz":50,"poles":4}`,
	`{"power_kw":7.5}`,
	`{}`,
	`{"kind":"permanent-magnet","power_kw":7.5,"voltage_v":380,"current_a":14,"frequency_hz":90,"speed_rpm":1800,"poles":6}`,
	`{"kind":"permanent-magnet","power_kw":4,"voltage_v":355,"current_a":7.2,"frequency_hz":100,"speed_rpm":1500,"poles":8,"power_factor":0.97,"efficiency_pct":92}`,
	`{"power_kw":2.2,"voltage_v":400,"current_a":4.9,"frequency_hz":400,"speed_rpm":23000,"power_factor":0.8}`,
	`{"power_kw":1.5,"voltage_v":400,"current_a":4.6,"frequency_hz":50,"speed_rpm":470,"power_factor":0.66}`,
	`{"power_kw":0.025,"voltage_v":400,"current_a":0.16,"frequency_hz":50,"speed_rpm":1300,"power_factor":0.6}`,
	`{"power_kw":0.25,"voltage_v":400,"current_a":0.95,"frequency_hz":50,"speed_rpm":660,"power_factor":0.58,"poles":8}`,
	`{"power_kw":400,"voltage_v":6000,"current_a":46,"frequency_hz":50,"speed_rpm":1488,"power_factor":0.88}`,
	`{"power_kw":3150,"voltage_v":6600,"current_a":312,"frequency_hz":50,"speed_rpm":1491,"power_factor":0.905}`,
	`{"power_kw":0.75,"voltage_v":230,"current_a":3.3,"frequency_hz":50,"speed_rpm":2750,"power_factor":0.8}`,
	`{"power_hp":7.5,"voltage_v":230,"current_a":24,"frequency_hz":60,"speed_rpm":1560,"power_factor":0.74}`,
	`{"kind":"permanent-magnet","power_kw":0.4,"voltage_v":230,"current_a":2.6,"frequency_hz":200,"speed_rpm":3000,"poles":8}`,
	`{"power_kw":4.0,"voltage_v":380,"current_a":8.8,"frequency_hz":50,"speed_rpm":1400,"power_factor":0.83,"poles":4.0}`,
}

func TestSoundPlatesAreNotObjectedTo(t *testing.T) {
	for _, p := range soundPlates {
		out := run(t, "plate", p)
		if c := codes(out, "stop", "look"); len(c) > 0 {
			t.Errorf("%s: %v %v", p, c, out["findings"])
		}
		if l := out["corrections"].([]any); len(l) > 0 {
			t.Errorf("%s: a sound plate needs no correction, got %v", p, l)
		}
	}
}

func TestPlateFindsWhatIsWrong(t *testing.T) {
	base := `"power_kw":7.5,"voltage_v":400,"frequency_hz":50,"power_factor":0.83,`
	for _, c := range []struct{ code, in string }{
		{"speed-at-synchronous", `{` + base + `"current_a":15.1,"speed_rpm":1500}`},
		{"speed-at-synchronous", `{"frequency_hz":60,"speed_rpm":1800,"poles":4}`},
		{"speed-above-synchronous", `{` + base + `"current_a":15.1,"speed_rpm":1520}`},
		{"speed-above-synchronous", `{"frequency_hz":50,"speed_rpm":3100}`},
		{"slip-too-high", `{` + base + `"current_a":15.1,"speed_rpm":1250}`},
		{"slip-too-high", `{` + base + `"current_a":15.1,"speed_rpm":1355}`},
		{"poles-do-not-fit", `{` + base + `"current_a":15.1,"speed_rpm":1455,"poles":6}`},
		{"poles-do-not-fit", `{` + base + `"current_a":15.1,"speed_rpm":1455,"poles":3}`},
		{"speed-of-other-frequency", `{` + base + `"current_a":15.1,"speed_rpm":1755}`},
		{"speed-of-other-frequency", `{"frequency_hz":60,"speed_rpm":1455,"poles":4,"power_kw":7.5}`},
		{"power-factor-range", `{"power_factor":1.84}`}, {"power-factor-range", `{"power_factor":83}`},
		{"efficiency-over-one", `{` + base + `"current_a":10.1,"speed_rpm":1455}`},
		{"efficiency-over-one", `{"efficiency_pct":113}`},
		{"efficiency-too-low", `{` + base + `"current_a":16.5,"speed_rpm":1455}`},
		{"current-of-other-connection", `{` + base + `"current_a":26.2,"speed_rpm":1455}`},
		{"current-of-other-connection", `{` + base + `"current_a":8.7,"speed_rpm":1455}`},
		{"power-unit", `{"power_kw":10,"voltage_v":400,"frequency_hz":50,"power_factor":0.83,"current_a":15.1,"speed_rpm":1455}`},
		{"power-unit", `{"power_hp":7.5,"voltage_v":400,"frequency_hz":50,"power_factor":0.83,"current_a":15.1,"speed_rpm":1455}`},
		{"powers-disagree", `{"power_hp":7.5,"power_kw":7.5}`},
		{"efficiency-disagrees", `{` + base + `"current_a":15.1,"speed_rpm":1455,"efficiency_pct":92.6}`},
		{"synchronous-mismatch", `{"kind":"permanent-magnet","frequency_hz":90,"poles":6,"speed_rpm":1750}`},
		{"value-not-physical", `{"voltage_v":-400}`}, {"value-not-physical", `{"speed_rpm":0}`},
		{"rows-disagree", `{` + base + `"current_a":15.1,"speed_rpm":1455,"rows":[{"voltage_v":230,"current_a":28.6,"frequency_hz":50}]}`},
	} {
		out := run(t, "plate", c.in)
		if got := strings.Join(codes(out, "stop", "look"), " "); !strings.Contains(got, c.code) {
			t.Errorf("%s: want %s, got %q", c.in, c.code, got)
		}
	}
}

func TestMisreadingsAreFoundAndRanked(t *testing.T) {
	star := `"voltage_v":400,"frequency_hz":50,"power_factor":0.83,"rows":[{"power_kw":7.5,"voltage_v":230,"current_a":26.8,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.83,"connection":"delta"}]`
	for _, c := range []struct {
		in, field string
		to        float64
	}{
		{`{"power_kw":7.5,"current_a":16.5,"speed_rpm":1455,` + star + `}`, "current", 15.5},
		{`{"power_kw":7.5,"current_a":26.8,"speed_rpm":1455,` + star + `}`, "current", 15.5},
		{`{"power_kw":7.5,"current_a":1.55,"speed_rpm":1455,` + star + `}`, "current", 15.5},
		{`{"power_kw":7.5,"current_a":15.5,"speed_rpm":1545,` + star + `}`, "speed", 1455},
		{`{"power_kw":7.5,"current_a":15.5,"speed_rpm":145,` + star + `}`, "speed", 1455},
		{`{"power_kw":75,"current_a":15.5,"speed_rpm":1455,` + star + `}`, "power", 7.5},
		{`{"power_hp":7.5,"current_a":15.5,"speed_rpm":1455,"voltage_v":400,"frequency_hz":50,"power_factor":0.83}`, "power", 7.5},
	} {
		list := run(t, "plate", c.in)["corrections"].([]any)
		if len(list) == 0 {
			t.Errorf("%s: no correction found", c.in)
			continue
		}
		best := list[0].(map[string]any)
		if best["field"] != c.field || math.Abs(best["to"].(float64)/c.to-1) > .003 {
			t.Errorf("%s: best is %v, want %s %v; all: %v", c.in, best, c.field, c.to, list)
		}
	}
}

// Slip, torque and efficiency from the definitions of IEC 60034-1, figures worked by hand.
func TestPlateFigures(t *testing.T) {
	out := run(t, "plate", soundPlates[16])
	for field, want := range map[string]float64{"synchronous_speed_rpm": 1500, "slip_rpm": 45, "slip_pct": 3, "rated_torque_nm": 49.22,
		"input_power_kw": 8.913, "apparent_power_kva": 10.739, "efficiency_pct": 84.15} {
		check.Against(t, "plate "+field+" of 7.5 kW 400 V 15.5 A 1455 r/min cos φ 0.83", "IEC 60034-1 definitions, worked by hand",
			num(t, out, field), want, .001)
	}
	for _, r := range []struct{ hz, n, poles float64 }{{60, 3500, 2}, {60, 1750, 4}, {60, 1660, 4}, {60, 1160, 6}, {60, 870, 8},
		{50, 2900, 2}, {50, 1450, 4}, {50, 960, 6}, {50, 720, 8}} {
		b, _ := json.Marshal(map[string]float64{"frequency_hz": r.hz, "speed_rpm": r.n})
		check.Against(t, "poles from speed", "common practice: 3600/1800/1200/900 and 3000/1500/1000/750 r/min",
			num(t, run(t, "plate", string(b)), "poles_worked_out"), r.poles, 0)
	}
	out = run(t, "plate", `{"kind":"permanent-magnet","frequency_hz":90,"poles":6,"speed_rpm":1800}`)
	check.Against(t, "synchronous speed of 90 Hz, 6 poles", "common practice", num(t, out, "synchronous_speed_rpm"), 1800, 0)
	if out["no_load_current_low_a"] != nil {
		t.Error("a permanent-magnet motor has no magnetising current to estimate")
	}
}

// The band of the no-load current must hold for published machines. Source: Krause, Analysis of Electric Machinery and
// Drive Systems, table of induction machines (from memory): rated point and no-load current worked from the parameters.
func TestNoLoadBandHoldsForPublishedMachines(t *testing.T) {
	for _, m := range []struct {
		name                      string
		volts, i, pf, noLoad, rpm float64
	}{
		{"3 hp", 220, 8.845, .8148, 4.724, 1710}, {"50 hp", 460, 62.83, .9044, 19.85, 1705}, {"500 hp", 2300, 105.2, .9202, 24.05, 1773},
		{"2250 hp", 2300, 469.7, .9348, 100.1, 1786},
	} {
		b, _ := json.Marshal(map[string]float64{"voltage_v": m.volts, "current_a": m.i, "power_factor": m.pf, "frequency_hz": 60,
			"speed_rpm": m.rpm})
		out := run(t, "plate", string(b))
		lo, hi := num(t, out, "no_load_current_low_a"), num(t, out, "no_load_current_high_a")
		check.Against(t, "no-load current within the band's half width, "+m.name, "Krause machines, from memory", (lo+hi)/2, m.noLoad,
			(hi-lo)/2/m.noLoad)
	}
}

func TestRampConvert(t *testing.T) {
	out := run(
		t,
		"ramp-convert",
		`{"given":"to-highest-frequency","value":16,"highest_frequency_hz":60,"base_frequency_hz":60,"plate_speed_rpm":1735,"poles":4,"to_hz":45}`,
	)
	check.Against(t, "16 s counted to 60 Hz, actual to 45 Hz", "common practice", num(t, out, "actual_s"), 12, .001)
	check.Against(t, "slope of 16 s to 60 Hz", "closed form 60/16", num(t, out, "slope_hz_per_s"), 3.75, .001)
	check.Against(t, "the same to plate speed 1735 r/min, 4 poles", "closed form 57.833/3.75", num(t, out, "to_plate_speed_s"), 15.4222,
		.001)
	check.Against(t, "the same in r/min per s", "closed form 3.75·30", num(t, out, "slope_rpm_per_s"), 112.5, .001)
	back := run(t, "ramp-convert",
		`{"given":"to-plate-speed","value":15.42222222,"highest_frequency_hz":60,"plate_speed_rpm":1735,"poles":4}`)
	check.Against(t, "and back", "the first entry", num(t, back, "to_highest_frequency_s"), 16, .001)
	for given, want := range map[string]float64{"slope-hz-per-s": 5, "slope-pct-per-s": 2.5, "per-100-hz": 20, "to-base-frequency": 10} {
		b, _ := json.Marshal(map[string]any{"given": given, "value": 5, "highest_frequency_hz": 50, "base_frequency_hz": 50})
		check.Against(t, "slope of 5 "+given, "closed form", num(t, run(t, "ramp-convert", string(b)), "slope_hz_per_s"), want, .001)
	}
}

func TestOverload(t *testing.T) {
	out := run(t, "overload", `{"motor_current_a":1.4,"drive_rated_current_a":4.2}`)
	check.Against(t, "overload of 1.4 A on a 4.2 A drive, %", "common practice", num(t, out, "setting_pct"), 33.333, .001)
	limits := map[string][3]float64{"10A": {2, 10, 120}, "10": {4, 10, 240}, "20": {6, 20, 480}, "30": {9, 30, 720}}
	for class, l := range limits {
		in := func(x string, hot string) map[string]any {
			return run(t, "overload", `{"class":"`+class+`","multiple":`+x+`,"hot":`+hot+`}`)
		}
		if v := num(t, in("7.2", "false"), "trip_time_s"); v <= l[0] || v > l[1] {
			t.Errorf("class %s at 7.2: %v s, IEC 60947-4-1 wants over %v to %v", class, v, l[0], l[1])
		}
		if v := num(t, in("1.5", "true"), "trip_time_s"); v > l[2] {
			t.Errorf("class %s at 1.5 hot: %v s, IEC 60947-4-1 wants at most %v", class, v, l[2])
		}
		if v := num(t, in("1.2", "true"), "trip_time_s"); v > 7200 {
			t.Errorf("class %s at 1.2 hot: %v s, IEC 60947-4-1 wants at most 2 h", class, v)
		}
		if v := in("1.05", "false")["trip_time_s"]; v != nil {
			t.Errorf("class %s must not trip at 1.05: %v", class, v)
		}
	}
	// τ ln(4/(4−1.21)) = 100 · 0.360240
	check.Against(t, "trip of the replica, τ 100 s, twice the setting, cold", "closed form",
		num(t, run(t, "overload", `{"time_constant_s":100,"multiple":2}`), "trip_time_s"), 36.024, .001)
	steps := run(
		t,
		"overload",
		`{"time_constant_s":100,"steps":[{"multiple":2,"duration_s":10},{"multiple":0,"duration_s":20},{"multiple":2,"duration_s":60}],"cooling_factor":2}`,
	)
	w := steps["warmth_after_each"].([]any)
	check.Against(t, "warmth after 10 s at 2", "closed form 4(1−e^-0.1)", w[0].(float64), .380650, .001)
	check.Against(t, "warmth after 20 s standing, cooling twice as slow", "closed form ·e^-0.1", w[1].(float64), .344427, .001)
	check.Against(t, "trip in the third step", "closed form 30 + 100 ln(3.655573/2.79)", num(t, steps, "trip_time_s"), 57.023, .001)
}

func TestAnalog(t *testing.T) {
	for _, c := range []struct {
		answer, source, in string
		want               float64
	}{
		{"55 % in, offset −5 %, gain 2", "common practice", `{"method":"offset-gain","in":55,"in_unit":"pct","offset_pct":-5,"gain":2}`,
			100},
		{"55 % in, gain 2 first, then offset −5 %, not clamped", "closed form",
			`{"method":"gain-offset","in":55,"offset_pct":-5,"gain":2,"clamp":false}`, 105},
		{"0.07–10 V to 0–1800 r/min at 10 V", "common practice",
			`{"method":"two-point","in":10,"in_unit":"v","in_low":0.07,"in_high":10,"out_low":0,"out_high":1800}`, 1800},
		{"0.07–10 V to 0–1800 r/min at 5.035 V", "closed form",
			`{"method":"two-point","in":5.035,"in_unit":"v","in_low":0.07,"in_high":10,"out_low":0,"out_high":1800}`, 900},
		{"12 mA of 4–20 mA", "IEC 60381-1",
			`{"method":"two-point","in":12,"in_unit":"ma","live_zero":true,"in_low":4,"in_high":20,"out_low":0,"out_high":50}`, 25},
		{"20.4 Hz of 60", "common practice",
			`{"method":"two-point","in":34,"in_unit":"pct","in_low":0,"in_high":100,"out_low":0,"out_high":60}`, 20.4},
		{"inverted two-point at the low end", "closed form",
			`{"method":"two-point","in":0,"in_low":0,"in_high":10,"out_low":0,"out_high":50,"invert":true}`, 50},
		{"inverted 30 %", "closed form", `{"method":"offset-gain","in":30,"invert":true}`, 70},
		{"clamped above", "closed form", `{"method":"two-point","in":12,"in_low":0,"in_high":10,"out_low":0,"out_high":50}`, 50},
		{"dead band, shifted, half way", "closed form",
			`{"method":"two-point","in":5.5,"in_unit":"v","in_low":0,"in_high":10,"out_low":0,"out_high":100,"dead_band":1,"dead_band_kind":"shifted"}`, 50},
		{"dead band, jump, inside", "closed form",
			`{"method":"two-point","in":0.9,"in_unit":"v","in_low":0,"in_high":10,"out_low":0,"out_high":100,"dead_band":1,"dead_band_kind":"jump"}`, 0},
		{"raw counts 16384 of 32768 by gain", "closed form",
			`{"method":"gain-offset","in":16384,"in_unit":"raw","raw_low":0,"raw_high":32768,"gain":1}`, 50},
	} {
		check.Against(t, c.answer, c.source, num(t, run(t, "analog", c.in), "out"), c.want, .001)
	}
	for ma, want := range map[string]string{"3.6": "failed-low", "3.7": "under-range", "3.8": "valid", "20.5": "valid",
		"20.6": "over-range", "21": "failed-high"} {
		out := run(t, "analog", `{"method":"two-point","in":`+ma+
			`,"in_unit":"ma","live_zero":true,"in_low":4,"in_high":20,"out_low":0,"out_high":50}`)
		if out["in_state"] != want {
			t.Errorf("NAMUR NE 43: %s mA is %s, got %v", ma, want, out["in_state"])
		}
	}
	check.Against(t, "step of 10 bits over 1023 r/min", "2^bits − 1 steps",
		num(t, run(t, "analog", `{"method":"two-point","in":0,"out_low":0,"out_high":1023,"bits":10}`), "step_out"), 1, .001)
	fit := run(t, "analog-fit", `{"points":[{"in":0,"out":5},{"in":5,"out":690},{"in":10,"out":1375.6}]}`)
	check.Against(t, "fit gain", "least squares by hand", num(t, fit, "gain"), 137.06, .001)
	check.Against(t, "fit offset", "least squares by hand", num(t, fit, "offset"), 4.9, .001)
	check.Against(t, "fit rms", "residuals 0.1, −0.2, 0.1", num(t, fit, "rms_error"), .141421, .001)
}

func TestContract(t *testing.T) {
	var w bytes.Buffer
	bad, err := Run(
		context.Background(),
		"overload",
		strings.NewReader(
			`[{"motor_current_a":5,"drive_rated_current_a":10},{"motor_current_a":"five"},{"amps":3},{"drive_rated_current_a":null}]`,
		),
		&w,
	)
	if err != nil || bad != 2 {
		t.Fatalf("two of four are bad: %d, %v", bad, err)
	}
	var list []map[string]any
	if err := json.Unmarshal(w.Bytes(), &list); err != nil || len(list) != 4 {
		t.Fatalf("an array gives an array: %s", w.String())
	}
	e := list[1]["error"].(map[string]any)
	if e["field"] != "motor_current_a" || e["got"] != `"five"` || e["want"] != "a number" {
		t.Errorf("the error names field, got and want: %v", e)
	}
	if e := list[2]["error"].(map[string]any); e["field"] != "amps" {
		t.Errorf("an unknown field is named: %v", e)
	}
	if list[3]["error"] != nil || list[3]["setting_pct"] != nil {
		t.Errorf("null is missing: %v", list[3])
	}
	w.Reset()
	if bad, err := Run(context.Background(), "analog-fit",
		strings.NewReader("{\"points\":[]}\n{\"points\":[{\"in\":0,\"out\":0},{\"in\":1,\"out\":1}]}\n"), &w); err != nil || bad != 1 ||
		strings.Count(w.String(), "\n") != 2 {
		t.Errorf("JSON Lines in, JSON Lines out: %v %q", err, w.String())
	}
	var un *ErrUnreadable
	if _, err := Run(context.Background(), "plate", strings.NewReader("{nope"), &w); err == nil || !errors.As(err, &un) {
		t.Errorf("unreadable JSON: %v", err)
	}
	if _, err := Run(context.Background(), "nope", strings.NewReader("{}"), &w); err == nil || !strings.Contains(err.Error(), "plate") {
		t.Errorf("an unknown name lists the known: %v", err)
	}
	for _, n := range Names() {
		s, _ := Schema(n)
		if !json.Valid(s) || !bytes.Contains(s, []byte("additionalProperties")) {
			t.Errorf("schema of %s", n)
		}
	}
}

func FuzzPlateNeverGivesNaN(f *testing.F) {
	f.Add(7.5, 400.0, 15.1, 50.0, 1455.0, .83, 0.0, 4)
	f.Fuzz(func(t *testing.T, kw, v, a, hz, n, pf, eta float64, poles int) {
		b, err := json.Marshal(map[string]any{"power_kw": kw, "voltage_v": v, "current_a": a, "frequency_hz": hz, "speed_rpm": n,
			"power_factor": pf, "efficiency_pct": eta, "poles": poles})
		if err != nil {
			return
		}
		if e := run(t, "plate", string(b))["error"]; e != nil {
			t.Fatalf("%s: %v", b, e)
		}
	})
}
