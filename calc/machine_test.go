package calc

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"tingate/testtools/check"
)

const krause3hp = `"voltage_v":220,"frequency_hz":60,"rated_frequency_hz":60,"poles":4,"rs_ohm":0.435,"rr_ohm":0.816,"xls_ohm":0.754,"xlr_ohm":0.754,"xm_ohm":26.13`

func TestMachineContract(t *testing.T) {
	out := run(
		t,
		"machine",
		`{"voltage_v":460,"frequency_hz":60,"rated_frequency_hz":60,"poles":4,"rs_ohm":0.641,"rr_ohm":0.332,"xls_ohm":1.106,"xlr_ohm":0.464,"xm_ohm":26.3,"rotational_loss_w":1100,"slip":0.022}`,
	)
	check.Against(t, "machine: current of a 25 hp machine, A",
		"from memory: Chapman, Electric Machinery Fundamentals, 5th edition, example 6-3", num(t, out, "current_a"), 18.88, .002)
	check.Against(t, "machine: its efficiency, %", "from memory: Chapman, example 6-3", num(t, out, "efficiency_pct"), 83.7, .002)
	by := run(t, "machine", `{`+krause3hp+`,"speed_rpm":1710}`)
	check.Against(t, "slip at 1710 of 1800 r/min", "IEC 60034-1, definition of slip", num(t, by, "slip"), .05, 1e-9)
	if v := run(t, "machine", `{`+krause3hp+`,"slip":0}`); num(t, v, "rotor_current_a") != 0 || v["efficiency_pct"] != nil {
		t.Errorf("at slip 0: %v", v)
	}
	for in, want := range map[string]string{
		`{` + krause3hp + `}`: `"slip"`, `{` + krause3hp + `,"slip":0.1,"speed_rpm":5}`: "one of them",
		`{` + krause3hp + `,"slip":0.1,"rc_ohm":-1}`:                                         "rc_ohm",
		`{"voltage_v":220,"frequency_hz":0,"rated_frequency_hz":60,"poles":4,"slip":0.1}`:    "frequency_hz",
		`{"voltage_v":220,"frequency_hz":60,"rated_frequency_hz":60,"poles":3.5,"slip":0.1}`: "even number",
		`{"voltage_v":220,"frequency_hz":60,"rated_frequency_hz":60,"poles":4,"slip":0.1}`:   `"rs_ohm"`,
	} {
		if got := text(t, "machine", in); !strings.Contains(got, want) {
			t.Errorf("%s: no %s in %s", in, want, got)
		}
	}
}

func TestEstimateContract(t *testing.T) {
	out := run(
		t,
		"estimate",
		`{"power_kw":7.5,"voltage_v":400,"current_a":15.1,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.82,"poles":4}`,
	)
	for _, f := range []string{"rs_ohm", "rr_ohm", "xls_ohm", "xlr_ohm", "xm_ohm"} {
		low, v, high := num(t, out, f+"_low"), num(t, out, f), num(t, out, f+"_high")
		if !(low <= v && v <= high && low > 0) {
			t.Errorf("%s: %v in %v to %v", f, v, low, high)
		}
	}
	fit := out["fit"].(map[string]any)
	for _, f := range []string{"current_error_pct", "power_factor_error_pct", "torque_error_pct"} {
		if e := math.Abs(num(t, fit, f)); e > 1 {
			t.Errorf("%s is %v %%", f, e)
		}
	}
	more := run(
		t,
		"estimate",
		`{"power_kw":7.5,"voltage_v":400,"current_a":15.1,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.82,"start_current_ratio":7.2}`,
	)
	if wide, narrow := num(t, out, "xls_ohm_high")/num(t, out, "xls_ohm_low"),
		num(t, more, "xls_ohm_high")/num(t, more, "xls_ohm_low"); narrow >= wide {
		t.Errorf("a starting current narrows nothing: %v, %v", narrow, wide)
	}
	bars := run(
		t,
		"estimate",
		`{"power_kw":7.5,"voltage_v":400,"current_a":15.1,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.82,"poles":4,"start_torque_ratio":2.4}`,
	)
	if xi, _ := bars["bar_xi"].(float64); xi < .5 || xi > 4 {
		t.Errorf("bars of a motor that starts with 2.4 times its torque: %v", bars["bar_xi"])
	}
	if got := text(
		t,
		"estimate",
		`{"power_kw":7.5,"voltage_v":400,"current_a":15.1,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.82,"poles":4,"start_torque_ratio":40}`,
	); !strings.Contains(got, `"start-torque"`) {
		t.Errorf("forty times: %s", got)
	}
	if got := text(t, "estimate",
		`{"power_kw":7.5,"voltage_v":400,"frequency_hz":50,"speed_rpm":1500}`); !strings.Contains(got, "speed-at-synchronous") ||
		strings.Contains(got, "NaN") {
		t.Error(got)
	}
	if got := text(t, "estimate", `{"voltage_v":400,"frequency_hz":50,"speed_rpm":1500}`); !strings.Contains(got, `"field":"power_kw"`) {
		t.Error(got)
	}
}

func TestTransientContract(t *testing.T) {
	out := run(t, "transient", `{`+krause3hp+`,"inertia_kgm2":0.089,"load":"none","supply":"direct","duration_s":1,"sample_s":0.01}`)
	if n := len(out["samples"].([]any)); n != 101 {
		t.Errorf("%d samples", n)
	}
	check.Against(t, "free acceleration of an unloaded machine ends at the synchronous speed, r/min", "limit of the steady state",
		num(t, out, "final_speed_rpm"), 1800, .001)
	if v := num(t, out, "time_to_95pct_s"); v < .2 || v > .6 {
		t.Errorf("95 %% after %v s", v)
	}
	vf := run(t, "transient", `{`+krause3hp+
		`,"inertia_kgm2":0.2,"load":"quadratic","load_torque_nm":8,"load_speed_rpm":1750,"supply":"vf","boost_v":8,"profile":[{"t_s":0,"frequency_hz":0},{"t_s":2,"frequency_hz":30}],"duration_s":3,"sample_s":0.01}`)
	if v := num(t, vf, "final_speed_rpm"); v < 860 || v > 900 || vf["time_to_95pct_s"] != nil {
		t.Errorf("%v r/min at 30 Hz, 95 %% after %v", v, vf["time_to_95pct_s"])
	}
	for in, want := range map[string]string{
		`{` + krause3hp + `,"load":"none","duration_s":1,"sample_s":0.01}`:                                         "inertia_kgm2",
		`{` + krause3hp + `,"inertia_kgm2":1,"load":"linear","duration_s":1,"sample_s":0.01}`:                      "load_torque_nm",
		`{` + krause3hp + `,"inertia_kgm2":1,"duration_s":1,"sample_s":0.01,"supply":"vf"}`:                        "profile",
		`{` + krause3hp + `,"inertia_kgm2":1,"duration_s":1000,"sample_s":0.001}`:                                  "duration_s",
		`{` + krause3hp + `,"inertia_kgm2":1,"duration_s":1,"sample_s":0.01,"supply":"vf","profile":[{"t_s":0}]}`:  "profile[0]",
		`{` + krause3hp + `,"inertia_kgm2":1,"duration_s":1,"sample_s":0.01,"load":"heavy","load_torque_nm":1}`:    "constant-power",
		`{` + krause3hp + `,"inertia_kgm2":1e-12,"load":"none","supply":"direct","duration_s":0.5,"sample_s":0.1}`: `"field":"inertia_kgm2"`,
	} {
		if got := text(t, "transient", in); !strings.Contains(got, want) || strings.Contains(got, "NaN") {
			t.Errorf("%s: no %s in %.300s", in, want, got)
		}
	}
}

func TestReferenceRunContract(t *testing.T) {
	const problem = `{"pole_pairs":2,"rs":0.435,"rr":0.816,"ls":0.0713122,"lr":0.0713122,"lm":0.0693122,"j":0.289,"kf":0.000204269,"tc":2.975,"fn":60,"vpk":179.629,"b0":0.04,"v0":297.104,"req":0.6,"c":0.00094,"von":380,"vband":20,"rb":60,"trip":410,"cth":900,"gth":4,`
	for variant, steps := range map[string]float64{"cont": 200000, "tick1ms": 10000, "foc125us": 80000} {
		out := run(t, "reference-run", problem+`"variant":"`+variant+`","sample_s":0.1}`)
		if n := len(out["samples"].([]any)); n != 101 || num(t, out, "steps") != steps {
			t.Errorf("%s: %d samples, %v steps", variant, n, out["steps"])
		}
	}
	for in, want := range map[string]string{problem + `"sample_s":0.0005}`: "sample_s",
		strings.Replace(problem, `"lm":0.069`, `"lm":0.08`, 1) + `"variant":"cont"}`: `"field":"lm"`, `{}`: "pole_pairs"} {
		if got := text(t, "reference-run", in); !strings.Contains(got, want) {
			t.Errorf("no %s in %.200s", want, got)
		}
	}
}

func TestDeviceStateContract(t *testing.T) {
	out := run(
		t,
		"device-state",
		`{"events":[{"internal":"done"},{"controlword":"0x0006"},{"controlword":"0x0007"},{"controlword":"0x000F"},{"internal":"fault"},{"internal":"done"},{"internal":"fault-gone"},{"controlword":"0x0080"}]}`,
	)
	b, _ := json.Marshal(out["after_each"])
	for _, want := range []string{`{"state":"switch_on_disabled","statusword":"0x0040"}`,
		`{"state":"operation_enabled","statusword":"0x0027"}`, `{"state":"fault_reaction_active","statusword":"0x000F"}`,
		`{"state":"fault","statusword":"0x0008"}`} {
		if !strings.Contains(string(b), want) {
			t.Errorf("no %s in %s", want, b)
		}
	}
	if got := text(t, "device-state", `{"statusword":"0x0250"}`); !strings.Contains(got, `"state":"switch_on_disabled"`) ||
		!strings.Contains(got, `"remote":true`) {
		t.Error(got)
	}
	for in, want := range map[string]string{`{"statusword":"250"}`: "0x000F",
		`{"events":[{"controlword":"0xGG"}]}`: "events[0].controlword", `{"quick_stop_option":9}`: "quick_stop_option",
		`{"events":[{"internal":"boom"}]}`: "fault-gone"} {
		if got := text(t, "device-state", in); !strings.Contains(got, want) {
			t.Errorf("%s: %s", in, got)
		}
	}
}
