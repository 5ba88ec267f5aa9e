package calc

import (
	"fmt"
	"strings"
	"testing"

	"tingate/testtools/check"
)

func TestEnergyComputations(t *testing.T) {
	all := []string{"stop", "look", "do", "note"}
	for _, c := range []struct {
		name, in, field string
		want            float64
		codes           string
	}{
		// 600·e^(−t/30) at 0, 10, 20, 30 s
		{"discharge", `{"readings":[{"t_s":0,"v":600},{"t_s":10,"v":429.92},{"t_s":20,"v":308.05},{"t_s":30,"v":220.73}],"limit_v":60}`,
			"time_to_limit_s", 69.08, ""},
		{"discharge", `{"readings":[{"t_s":0,"v":600},{"t_s":10,"v":429.92},{"t_s":20,"v":308.05},{"t_s":30,"v":220.73}],"limit_v":60}`,
			"time_constant_s", 30, ""},
		{"discharge", `{"readings":[{"t_s":0,"v":30}],"limit_v":42}`, "time_to_limit_s", 0, ""},
		{"balance", `{"l12_v":398,"l23_v":401,"l31_v":399,"nominal_v":400}`, "average_v", 399.333, ""},
		{"balance", `{"l12_v":398,"l23_v":401,"l31_v":230,"nominal_v":400}`, "average_v", 343, "phase-missing voltage-out-of-range"},
		{"balance", `{"l12_v":410,"l23_v":395,"l31_v":385}`, "average_v", 396.667, "unbalance-high"},
		{"balance", `{"l12_v":460,"l23_v":440,"l31_v":400}`, "average_v", 433.333, "unbalance-high"},
		{"balance", `{"l12_v":480,"l23_v":481,"l31_v":479,"nominal_v":400}`, "average_v", 480, "voltage-out-of-range"},
		{"balance", `{"l12_v":0,"l23_v":0,"l31_v":1}`, "average_v", 1.0 / 3, "no-voltage"},
		{"dc-link", `{"rectifier":"six-pulse","line_v":400,"measured_v":562}`, "idle_v", 565.685, ""},
		{"dc-link", `{"rectifier":"six-pulse","line_v":400,"measured_v":325}`, "loaded_v", 540.19, "other-supply-class"},
		{"dc-link", `{"rectifier":"six-pulse","line_v":400,"measured_v":500}`, "low_v", 540.19, "dc-link-low"},
		{"dc-link", `{"rectifier":"six-pulse","line_v":400,"measured_v":620}`, "high_v", 588.313, "dc-link-high"},
		{"dc-link", `{"rectifier":"doubler","line_v":115,"measured_v":325}`, "idle_v", 325.269, ""},
		{"derate", `{"rated_current_a":16,"altitude_m":2000,"ambient_c":45,"motor_current_a":15.5}`, "derated_current_a", 12.6,
			"motor-above-derated"},
		{"derate", `{"rated_current_a":9,"single_phase":true,"single_phase_pct":40}`, "derated_current_a", 5.4, ""},
		{"derate", `{"rated_current_a":9,"ambient_c":55,"ambient_most_c":60,"ambient_pct_per_k":1}`, "derated_current_a", 7.65, ""},
		{"derate", `{"rated_current_a":9,"ambient_c":55}`, "derated_current_a", 5.625, "ambient-limit"},
	} {
		out := run(t, c.name, c.in)
		check.Against(t, fmt.Sprintf("%s: %s of %s", c.name, c.field, c.in), "closed form, worked by hand", num(t, out, c.field), c.want,
			1e-3)
		if got := strings.Join(codes(out, all...), " "); got != c.codes {
			t.Errorf("%s %s: findings %q, want %q", c.name, c.in, got, c.codes)
		}
	}
}

func TestEnergyBadInputIsNamed(t *testing.T) {
	for _, c := range []struct{ name, in, field string }{
		{"discharge", `{"readings":[]}`, "limit_v"}, {"discharge", `{"readings":[{"v":3}],"limit_v":42}`, "readings[0].t_s"},
		{"discharge", `{"readings":[{"t_s":3}],"limit_v":42}`, "readings[0].v"},
		{"balance", `{"l12_v":400,"l23_v":400}`, "l31_v"}, {"balance", `{"l12_v":-1,"l23_v":400,"l31_v":400}`, "l12_v"},
		{"dc-link", `{"rectifier":"six-pulse"}`, "line_v"},
		{"dc-link", `{"line_v":400}`, "rectifier"}, {"derate", `{}`, "rated_current_a"},
	} {
		out := run(t, c.name, c.in)
		e, _ := out["error"].(map[string]any)
		if e["field"] != c.field || e["want"] == "" {
			t.Errorf("%s %s: %v, want %s", c.name, c.in, out, c.field)
		}
	}
	for _, in := range []string{`{"readings":[{"t_s":0,"v":560},{"t_s":60,"v":561}],"limit_v":42}`, `{"readings":[],"limit_v":42}`} {
		if out := run(t, "discharge", in); out["time_to_limit_s"] != nil {
			t.Errorf("%s: %v", in, out)
		}
	}
}
