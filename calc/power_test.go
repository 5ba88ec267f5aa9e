package calc

import (
	"encoding/json"
	"strings"
	"testing"

	"tingate/testtools/check"
)

func TestLinksContract(t *testing.T) {
	out := text(t, "links", `{"scheme":"9-star-low","marking":"t"}`)
	for _, want := range []string{`"connection":"double star"`, `"joins":[["T4","T5","T6"]]`, `"L1":["T1","T7"]`, `"valid":true`} {
		if !strings.Contains(out, want) {
			t.Errorf("no %s in %s", want, out)
		}
	}
	for in, want := range map[string]string{
		`{"leads":6,"voltage_low_v":230,"voltage_high_v":400,"drive_output_v":230}`:                                 `"scheme":"6-delta"`,
		`{"leads":9,"marking":"t","voltage_low_v":230,"voltage_high_v":460,"drive_output_v":460}`:                   `"winding-not-known"`,
		`{"leads":6,"marking":"t","joins":[["T4","T5","T6"]],"lines":{"L1":["T1"],"L2":["T2"],"L3":["T3"]}}`:        `"valid":true`,
		`{"leads":6,"marking":"t","joins":[["T1","T5","T6"]],"lines":{"L1":["T4"],"L2":["T2"],"L3":["T3"]}}`:        `"coil-opposed"`,
		`{"leads":6,"marking":"uvw","joins":[["U2","V2"]],"lines":{"L1":["U1"],"L2":["V1"],"L3":["W1"]}}`:           `"coil-open"`,
		`{"leads":12,"winding":"star","marking":"t","voltage_low_v":230,"voltage_high_v":460,"drive_output_v":460}`: `"12-star-high"`,
		`{"scheme":"7-star"}`: `one of 6-star`, `{"scheme":"6-star","marking":"abc"}`: `one of uvw, t`, `{"leads":6}`: `volts above 0`,
	} {
		if got := text(t, "links", in); !strings.Contains(got, want) {
			t.Errorf("%s: no %s in %s", in, want, got)
		}
	}
}

func TestVoltageDropAndCableContract(t *testing.T) {
	check.Against(t, "drop of 20 A along 100 m at 1.15 Ω/km, 0.08 Ω/km, cos φ 0.8, three phases, V",
		"IEC 60364-5-52 annex G, formula: √3 · 20 · 0.1 · (1.15 · 0.8 + 0.08 · 0.6), by hand",
		num(t, run(t, "voltage-drop",
			`{"current_a":20,"length_m":100,"r_ohm_per_km":1.15,"x_ohm_per_km":0.08,"power_factor":0.8,"phases":3,"voltage_v":400}`),
			"drop_v"), 3.35319, 1e-4)
	check.Against(t, "the same in percent of 400 V", "by hand",
		num(t, run(t, "voltage-drop",
			`{"current_a":20,"length_m":100,"r_ohm_per_km":1.15,"x_ohm_per_km":0.08,"power_factor":0.8,"phases":3,"voltage_v":400}`),
			"drop_pct"), .838298, 1e-4)
	if got := num(t, run(t, "cable", `{"length_m":50,"dc_link_v":565,"motor_fit":"plain"}`), "peak_v"); got < 1000 || got > 2*565 {
		t.Errorf("peak %v V", got)
	}
	for _, c := range [][3]string{{"voltage-drop", `{"length_m":1,"r_ohm_per_km":1}`, "current_a"},
		{"voltage-drop", `{"current_a":1,"length_m":1,"r_ohm_per_km":1,"phases":2}`, "phases"},
		{"cable", `{"length_m":0,"dc_link_v":5}`, "length_m"}, {"cable", `{"length_m":1,"dc_link_v":5,"motor_fit":"odd"}`, "motor_fit"}} {
		if got := text(t, c[0], c[1]); !strings.Contains(got, c[2]) {
			t.Errorf("%v: %s", c, got)
		}
	}
}

// text is an answer as it is written.
func text(t *testing.T, name, in string) string {
	t.Helper()
	b, err := json.Marshal(run(t, name, in))
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}
