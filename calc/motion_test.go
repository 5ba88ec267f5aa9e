package calc

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"tingate/testtools/check"
)

// Times and energies of a drive train against mechanics worked by hand.
func TestRampAgainstMechanics(t *testing.T) {
	out := run(
		t,
		"ramp",
		`{"motor_inertia_kgm2":0.05,"load_inertia_kgm2":1.2,"gear_ratio":4,"gear_efficiency":0.95,"load":"constant","load_torque_nm":40,"motor_torque_nm":30,"from_rpm":0,"to_rpm":1455}`,
	)
	check.Against(t, "inertia of 0.05 and 1.2 kg·m² over a gear of 4", "J1 + J2/i²", num(t, out, "inertia_kgm2"), .125, 1e-9)
	check.Against(t, "40 N·m over a gear of 4 with 95 %", "T/(i η), driving", num(t, out, "load_torque_at_motor_nm"), 10.526316, 1e-6)
	check.Against(t, "time to 1455 r/min with 30 N·m", "J ω/(T − T_L) = 0.125 · 152.3672/19.473684", num(t, out, "time_s"), .9780326, 1e-5)
	check.Against(t, "its kinetic energy, J", "½ J ω²", num(t, out, "kinetic_energy_j"), 1450.985, 1e-4)
	out = run(
		t,
		"ramp",
		`{"load_inertia_lbft2":100,"load":"quadratic","load_torque_nm":50,"load_speed_rpm":1500,"motor_torque_nm":60,"from_rpm":0,"to_rpm":1500}`,
	)
	check.Against(t, "100 lb·ft² in kg·m²", "NIST SP 811: 0.04214011 kg·m² each", num(t, out, "inertia_kgm2"), 4.214011, 1e-6)
	k := 50 / (1500 * perRPM * 1500 * perRPM)
	check.Against(t, "time against a quadratic load", "J/√(T k) · artanh(ω √(k/T)), closed form", num(t, out, "time_s"),
		4.214011/math.Sqrt(60*k)*math.Atanh(1500*perRPM*math.Sqrt(k/60)), 1e-5)
	out = run(
		t,
		"ramp",
		`{"motor_inertia_kgm2":2,"gear_efficiency":0.9,"load":"constant","load_torque_nm":20,"braking_torque_nm":12,"from_rpm":1000,"to_rpm":0}`,
	)
	check.Against(t, "slowing with 12 N·m and a load of 20 over 90 %", "J ω/(T_B + η T_L) = 2 · 104.71976/30", num(t, out, "time_s"),
		6.981317, 1e-5)
	out = run(t, "ramp", `{"motor_inertia_kgm2":2,"load":"constant","load_torque_nm":20,"motor_torque_nm":18,"from_rpm":0,"to_rpm":1000}`)
	if out["time_s"] != nil || !strings.Contains(fmt.Sprint(out["findings"]), "cannot-accelerate") {
		t.Errorf("%v", out)
	}
}

// What comes back, and when the link trips. The shortest time does hold, a little shorter trips.
func TestBrakingAgainstEnergy(t *testing.T) {
	in := `{"inertia_kgm2":1.2,"from_rpm":1455,"time_s":5,"motor_efficiency_pct":90,"drive_efficiency_pct":97,"dc_link_capacitance_f":0.001,"dc_link_v":560,"trip_v":810,"chopper_v":770,"chopper_max_current_a":40,"cycle_s":60%s}`
	out := run(t, "braking", fmt.Sprintf(in, ""))
	check.Against(t, "kinetic energy of 1.2 kg·m² at 1455 r/min, J", "½ J ω²", num(t, out, "kinetic_energy_j"), 13929.45, 1e-4)
	check.Against(t, "of it at the link, J", "× 0.9 × 0.97", num(t, out, "returned_energy_j"), 12160.41, 1e-4)
	check.Against(t, "link without a chopper, V", "√(560² + 2 E/C)", num(t, out, "dc_link_peak_v"), math.Sqrt(560*560+2*12160.41/.001),
		1e-4)
	check.Against(t, "power at the beginning, W", "J α ω η: twice the mean", num(t, out, "resistor_peak_w"), 2*12160.41/5, 1e-4)
	check.Against(t, "lowest resistance, Ω", "770/40", num(t, out, "resistor_ohm_min"), 19.25, 1e-9)
	check.Against(t, "highest, Ω", "770²/P", num(t, out, "resistor_ohm_max"), 770*770/(2*12160.41/5), 1e-4)
	check.Against(t, "mean power over a minute, W", "E/60", num(t, out, "resistor_average_w"), 12160.41/60, 1e-4)
	if out["trips"] != true || out["shortest_time_s"] != nil {
		t.Errorf("nothing helps it: %v %v", out["trips"], out["shortest_time_s"])
	}
	helped := func(seconds float64) map[string]any {
		return run(t, "braking", strings.Replace(fmt.Sprintf(in, `,"load_torque_nm":10`), `"time_s":5`,
			fmt.Sprintf(`"time_s":%v`, seconds), 1))
	}
	least := num(t, helped(5), "shortest_time_s")
	if helped(least * 1.01)["trips"] != false || helped(least * .97)["trips"] != true {
		t.Errorf("the shortest, %v s, does not part holding from tripping", least)
	}
	if l := helped(40); !strings.Contains(fmt.Sprint(l["findings"]), "not-regenerating") || num(t, l, "returned_energy_j") != 0 {
		t.Errorf("a load that stops it by itself: %v", l)
	}
}

// Inertias of bodies, the laws of fans, cooling by its own fan.
func TestBodiesFansAndCooling(t *testing.T) {
	j := func(in string) float64 { return num(t, run(t, "inertia", in), "inertia_at_motor_kgm2") }
	check.Against(t, "full cylinder, 100 kg, 0.2 m", "½ m r²", j(`{"shape":"cylinder","mass_kg":100,"radius_m":0.2}`), 2, 1e-9)
	check.Against(t, "hollow, 0.15 m inside", "½ m (r² + ri²)",
		j(`{"shape":"cylinder","mass_kg":100,"radius_m":0.2,"inner_radius_m":0.15}`), 3.125, 1e-9)
	check.Against(t, "500 kg on a screw of 10 mm lead", "m (p/2π)²", j(`{"shape":"screw","carried_mass_kg":500,"lead_m":0.01}`),
		1.266515e-3, 1e-5)
	check.Against(t, "belt with 200 kg on a drum of 0.25 m behind a gear of 10", "m r²/i²",
		j(`{"shape":"belt","carried_mass_kg":200,"radius_m":0.25,"gear_ratio":10}`), .125, 1e-9)
	check.Against(t, "coasting from 1450 to 1000 r/min in 9 s against 12 N·m", "T Δt/Δω",
		j(`{"shape":"coast-down","torque_nm":12,"from_rpm":1450,"to_rpm":1000,"time_s":9}`), 2.291831, 1e-5)
	fan := run(t, "fan-law", `{"speed_rpm":1450,"flow":10,"pressure":800,"power_kw":11,"new_speed_rpm":1160}`)
	check.Against(t, "power of a fan at 80 % of its speed, kW", "affinity laws: cube of the speed", num(t, fan, "new_power_kw"), 5.632,
		1e-9)
	check.Against(t, "its pressure", "square of the speed", num(t, fan, "new_pressure"), 512, 1e-9)
	back := run(t, "fan-law", `{"speed_rpm":1450,"flow":10,"power_kw":11,"new_flow":5,"static_pct":40}`)
	if num(t, back, "new_speed_rpm") != 725 || !strings.Contains(fmt.Sprint(back["findings"]), "below-static-head") {
		t.Errorf("%v", back)
	}
	cool := run(t, "cooling", `{"rated_speed_rpm":1450,"rated_torque_nm":50,"speed_rpm":725,"torque_nm":48}`)
	check.Against(t, "torque for ever at half speed, own fan, share", "common practice: 85 %", num(t, cool, "torque_share"), .85, 1e-9)
	if !strings.Contains(fmt.Sprint(cool["findings"]), "too-hot-for-ever") {
		t.Errorf("%v", cool)
	}
	if v := num(t, run(t, "cooling", `{"rated_speed_rpm":1450,"rated_torque_nm":50,"torque_nm":50,"load":"quadratic"}`),
		"lowest_speed_rpm"); v != 0 {
		t.Errorf("a fan's load is borne at any speed: %v", v)
	}
	if v := num(t, run(t, "cooling", `{"rated_speed_rpm":1450,"rated_torque_nm":50,"torque_nm":42,"load":"constant"}`),
		"lowest_speed_rpm"); math.Abs(v-.5*1450) > 30 {
		t.Errorf("84 %% of the torque from about half speed: %v", v)
	}
	for in, field := range map[string]string{`{"shape":"cylinder","radius_m":1}`: "mass_kg",
		`{"shape":"belt","carried_mass_kg":0,"radius_m":1}`: "carried_mass_kg", `{}`: "shape",
		`{"shape":"cylinder","mass_kg":1,"radius_m":1,"inner_radius_m":2}`:        "inner_radius_m",
		`{"shape":"coast-down","torque_nm":1,"from_rpm":9,"to_rpm":9,"time_s":1}`: "to_rpm"} {
		if bad := run(t, "inertia", in); !strings.Contains(fmt.Sprint(bad["error"]), field) {
			t.Errorf("%s: %v", in, bad)
		}
	}
	for name, in := range map[string]string{"ramp": `{"motor_inertia_kgm2":1,"from_rpm":0,"to_rpm":10,"motor_torque_nm":1,"gear_ratio":0}`,
		"braking": `{"inertia_kgm2":1,"from_rpm":10,"to_rpm":20,"time_s":1,"dc_link_capacitance_f":1,"dc_link_v":1,"trip_v":2}`,
		"fan-law": `{"speed_rpm":1}`, "cooling": `{"rated_speed_rpm":0}`} {
		if bad := run(t, name, in); bad["error"] == nil {
			t.Errorf("%s took %s", name, in)
		}
	}
}

// What can be answered is answered; the rest is null, and says why.
func TestWhatCanBeAnsweredIs(t *testing.T) {
	whole := run(
		t,
		"braking",
		`{"inertia_kgm2":0.55,"from_rpm":1455,"time_s":3,"dc_link_capacitance_f":0.001,"dc_link_v":565,"trip_v":810,"chopper_v":770}`,
	)
	part := run(t, "braking", `{"inertia_kgm2":0.55,"from_rpm":1455,"time_s":3,"chopper_v":770}`)
	for _, k := range []string{"kinetic_energy_j", "braking_torque_nm", "returned_energy_j", "resistor_peak_w", "resistor_ohm_max"} {
		if part[k] == nil || part[k] != whole[k] {
			t.Errorf("%s: %v, with a known link %v", k, part[k], whole[k])
		}
	}
	for _, k := range []string{"dc_link_peak_v", "trips", "shortest_time_s"} {
		if part[k] != nil {
			t.Errorf("%s: %v of a link that nobody knows", k, part[k])
		}
	}
	if !strings.Contains(fmt.Sprint(part["findings"]), "link-not-known") ||
		strings.Contains(fmt.Sprint(whole["findings"]), "link-not-known") {
		t.Errorf("%v", part["findings"])
	}
	// ISO 13855:2010, 6.3: C = 1200 mm − 0.4 H; at 300 mm 1080 mm, and 1600 mm/s over 0.2 s.
	field := run(t, "stop-distance", `{"device":"parallel-field","height_mm":300,"parts_s":[0.2]}`)
	if field["distance_mm"] != 1400.0 || !strings.Contains(fmt.Sprint(field["findings"]), "resolution-not-known") {
		t.Errorf("%v", field)
	}
	for category, want := range map[string]bool{"B": true, "1": true, "3": false} {
		out := run(t, "performance", `{"category":"`+category+`","mttfd_years":40,"dc_avg_pct":90,"ccf_points":70}`)
		if strings.Contains(fmt.Sprint(out["findings"]), "coverage-not-claimed") != want {
			t.Errorf("category %s: %v", category, out["findings"])
		}
	}
}
