package calc

import (
	"math"
	"strings"
	"testing"
)

func TestPerformanceContracts(t *testing.T) {
	out := run(t, "mttfd", `{"b10d":60000000,"days_per_year":220,"hours_per_day":16,"cycle_s":5}`)
	if math.Abs(num(t, out, "mttfd_years")-237) > .5 || math.Abs(num(t, out, "t10d_years")-23.7) > .05 || out["band"] != "high" {
		t.Errorf("%v", out)
	}
	out = run(t, "mttfd", `{"channels_years":[3,100]}`)
	if math.Abs(num(t, out, "mttfd_years")-66.7) > .1 || out["t10d_years"] != nil {
		t.Errorf("%v", out)
	}
	out = run(
		t,
		"performance",
		`{"category":"3","mttfd_years":40,"dc_parts":[{"dc_pct":99,"mttfd_years":30},{"dc_pct":60,"mttfd_years":90}],"ccf_points":70}`,
	)
	if out["performance_level"] != "d" || out["dc_band"] != "low" || math.Abs(num(t, out, "dc_avg_pct")-89.25) > 1e-9 {
		t.Errorf("%v", out)
	}
	if out = run(t, "performance",
		`{"category":"4","mttfd_years":40,"dc_avg_pct":90,"ccf_points":70}`); out["performance_level"] != nil ||
		out["pfhd_per_h"] != nil || len(out["findings"].([]any)) == 0 {
		t.Errorf("%v", out)
	}
	if out = run(
		t,
		"performance",
		`{"subsystems":[{"pfhd_per_h":3e-8,"performance_level":"e"},{"pfhd_per_h":8e-8,"performance_level":"d"}]}`,
	); out["performance_level"] != "d" {
		t.Errorf("%v", out)
	}
	out = run(t, "stop-distance", `{"measured_s":[0.18,0.2],"device":"vertical-field","resolution_mm":14}`)
	if num(t, out, "distance_mm") != 400 || num(t, out, "k_mm_per_s") != 2000 {
		t.Errorf("%v", out)
	}
	if got := text(t, "stop-distance", `{"parts_s":[0.1,0.2],"k_mm_per_s":1600,"c_mm":100}`); !strings.Contains(got, `"distance_mm":580`) {
		t.Error(got)
	}
	for name, in := range map[string]string{"mttfd b10d": `{}`,
		"mttfd cycle_s": `{"b10d":1,"days_per_year":1,"hours_per_day":1,"cycle_s":0}`, "performance category": `{"mttfd_years":3}`,
		"performance mttfd_years": `{"category":"B"}`,
		"performance dc_avg_pct":  `{"category":"3","mttfd_years":3}`, "stop-distance parts_s": `{}`,
		"stop-distance resolution_mm": `{"parts_s":[1],"device":"vertical-field"}`,
		"stop-distance c_mm":          `{"parts_s":[1],"device":"two-hand","c_mm":-1}`} {
		command, field, _ := strings.Cut(name, " ")
		if got := text(t, command, in); !strings.Contains(got, `"field":"`+field) {
			t.Errorf("%s: %s", name, got)
		}
	}
}
