package calc

import (
	"fmt"
	"math"

	"tingate/core/finding"
	"tingate/core/safety"
)

// MTTFdIn is the input of mttfd: a part that wears, or parts in series, or two channels.
type MTTFdIn struct {
	B10d          *float64   `json:"b10d" doc:"operations until a tenth has failed dangerously"`
	DaysPerYear   *float64   `json:"days_per_year"`
	HoursPerDay   *float64   `json:"hours_per_day"`
	CycleS        *float64   `json:"cycle_s"`
	PartsYears    []*float64 `json:"parts_years" doc:"in series"`
	ChannelsYears []*float64 `json:"channels_years" doc:"two unlike channels"`
	Category      string     `json:"category" enum:"B,1,2,3,4,"`
}

// MTTFdOut is the output of mttfd.
type MTTFdOut struct {
	OperationsPerYear *float64          `json:"operations_per_year"`
	MTTFdYears        *float64          `json:"mttfd_years"`
	T10dYears         *float64          `json:"t10d_years"`
	Band              string            `json:"band" enum:"below-low,low,medium,high"`
	Findings          []finding.Finding `json:"findings"`
}

// CoveredPart is a part with its diagnostic coverage.
type CoveredPart struct {
	DCPct      *float64 `json:"dc_pct"`
	MTTFdYears *float64 `json:"mttfd_years"`
}

// SubsystemIn is one of a chain.
type SubsystemIn struct {
	PFHdPerH         *float64 `json:"pfhd_per_h"`
	PerformanceLevel string   `json:"performance_level" enum:"a,b,c,d,e,"`
}

// PerformanceIn is the input of performance.
type PerformanceIn struct {
	Category   string        `json:"category" enum:"B,1,2,3,4,"`
	MTTFdYears *float64      `json:"mttfd_years"`
	DCParts    []CoveredPart `json:"dc_parts"`
	DCAvgPct   *float64      `json:"dc_avg_pct"`
	CCFPoints  *float64      `json:"ccf_points"`
	Subsystems []SubsystemIn `json:"subsystems" doc:"in series, instead of a category"`
}

// PerformanceOut is the output of performance. Arithmetic only.
type PerformanceOut struct {
	DCAvgPct         *float64          `json:"dc_avg_pct"`
	DCBand           string            `json:"dc_band,omitempty" enum:"none,low,medium,high"`
	MTTFdBand        string            `json:"mttfd_band,omitempty"`
	PerformanceLevel *string           `json:"performance_level"`
	PFHdPerH         *float64          `json:"pfhd_per_h" doc:"of a category: an estimate, within a tenth of ISO 13849-1 annex K"`
	Findings         []finding.Finding `json:"findings"`
}

// DistanceIn is the input of stop-distance.
type DistanceIn struct {
	PartsS       []*float64 `json:"parts_s" doc:"added"`
	MeasuredS    []*float64 `json:"measured_s" doc:"the worst counts"`
	Device       string     `json:"device" enum:"vertical-field,parallel-field,two-hand,interlock-or-other,"`
	ResolutionMM *float64   `json:"resolution_mm"`
	HeightMM     *float64   `json:"height_mm"`
	KMMPerS      *float64   `json:"k_mm_per_s"`
	CMM          *float64   `json:"c_mm"`
}

// DistanceOut is the output of stop-distance.
type DistanceOut struct {
	DistanceMM *float64          `json:"distance_mm"`
	KMMPerS    *float64          `json:"k_mm_per_s"`
	CMM        *float64          `json:"c_mm"`
	Findings   []finding.Finding `json:"findings"`
}

func init() {
	register("mttfd", "Years to a dangerous failure of parts and channels, ISO 13849-1", mttfd)
	register("performance", "Performance level of a category, or of subsystems in series, ISO 13849-1; arithmetic only", performance)
	register("stop-distance", "How far from the hazard a protective device stands, ISO 13855", stopDistance)
}

// years reads a list of figures above 0.
func years(field string, list []*float64) ([]float64, error) {
	var out []float64
	for _, v := range list {
		if !(value(v) > 0) {
			return nil, &Error{field, show(v), "numbers above 0"}
		}
		out = append(out, *v)
	}
	return out, nil
}

func mttfd(in *MTTFdIn) (*MTTFdOut, error) {
	out := &MTTFdOut{Findings: findings(nil)}
	var y float64
	switch {
	case in.B10d != nil:
		for _, x := range []struct {
			field string
			v     *float64
			most  float64
		}{{"b10d", in.B10d, 1e15}, {"days_per_year", in.DaysPerYear, 366}, {"hours_per_day", in.HoursPerDay, 24},
			{"cycle_s", in.CycleS, 1e10}} {
			if v := value(x.v); !(v > 0 && v <= x.most) {
				return nil, &Error{x.field, show(x.v), "above 0, at most " + show(number(x.most))}
			}
		}
		n := safety.Operations(*in.DaysPerYear, *in.HoursPerDay, *in.CycleS)
		y = safety.MTTFd(*in.B10d, n)
		t := safety.T10d(*in.B10d, n)
		out.OperationsPerYear, out.T10dYears = number(n), number(t)
		if t < 20 {
			out.Findings = append(out.Findings,
				finding.Finding{Code: "replace-early", Severity: finding.Look, Field: "b10d",
					Title:  "It wears out before the mission time",
					Detail: "Below 20 years it is to be replaced after T10d (ISO 13849-1:2015, annex C.4).",
					Action: "Note the date of its replacement"})
		}
	case len(in.PartsYears) > 0:
		l, err := years("parts_years", in.PartsYears)
		if err != nil {
			return nil, err
		}
		y = safety.Series(l)
	case len(in.ChannelsYears) == 2:
		l, err := years("channels_years", in.ChannelsYears)
		if err != nil {
			return nil, err
		}
		y = safety.Channels(l[0], l[1], safety.ChannelCap(in.Category))
	default:
		return nil, &Error{"b10d", "nothing", "b10d with its operations, or parts_years, or two channels_years"}
	}
	out.MTTFdYears, out.Band = number(y), safety.MTTFdBand(y)
	return out, nil
}

func performance(in *PerformanceIn) (*PerformanceOut, error) {
	out := &PerformanceOut{Findings: findings(nil)}
	if len(in.Subsystems) > 0 {
		var list []safety.Subsystem
		for _, s := range in.Subsystems {
			if v := value(s.PFHdPerH); !(v >= 0 && v < 1) {
				return nil, &Error{"subsystems.pfhd_per_h", show(s.PFHdPerH), "failures per hour, from 0 to below 1"}
			}
			list = append(list, safety.Subsystem{PFHd: *s.PFHdPerH, Performance: s.PerformanceLevel})
		}
		sum, level := safety.Chain(list)
		out.PFHdPerH = number(sum)
		if level != "" {
			out.PerformanceLevel = &level
		} else {
			out.Findings = append(out.Findings,
				finding.Finding{Code: "no-level", Severity: finding.Stop, Field: "subsystems",
					Title: "Together they fail too often for any level", Detail: "More than 1e-4 an hour (table 2).",
					Action: "Other subsystems"})
		}
		return out, nil
	}
	dc := value(in.DCAvgPct) / 100
	if len(in.DCParts) > 0 {
		var list []safety.Covered
		for _, p := range in.DCParts {
			c := value(p.DCPct)
			if !(c >= 0 && c <= 100) || !(value(p.MTTFdYears) > 0) {
				return nil, &Error{"dc_parts", show(p.DCPct) + ", " + show(p.MTTFdYears), "dc_pct from 0 to 100 and mttfd_years above 0"}
			}
			list = append(list, safety.Covered{DC: c / 100, MTTFd: *p.MTTFdYears})
		}
		dc = safety.DCAverage(list)
	}
	if in.Category == "" {
		return nil, &Error{"category", "nothing", "B, 1, 2, 3 or 4; or subsystems"}
	}
	if math.IsNaN(dc) && (in.Category == "B" || in.Category == "1") {
		dc = 0
	}
	if !(dc >= 0 && dc <= 1) {
		return nil, &Error{"dc_avg_pct", show(in.DCAvgPct), "0 to 100, or dc_parts"}
	}
	if !(value(in.MTTFdYears) > 0) {
		return nil, &Error{"mttfd_years", show(in.MTTFdYears), "above 0"}
	}
	l := safety.LevelOf(in.Category, *in.MTTFdYears, dc, orElse(in.CCFPoints, 0))
	out.DCAvgPct, out.DCBand, out.MTTFdBand, out.PFHdPerH = number(dc*100), l.DCBand, l.MTTFdBand, number(l.PFHd)
	out.Findings = findings(l.Findings)
	if claimed := dc >= .6; claimed && (in.Category == "B" || in.Category == "1") {
		out.Findings = append(out.Findings,
			finding.Finding{Code: "coverage-not-claimed", Severity: finding.Look, Field: "dc_avg_pct",
				Title: "This category claims no diagnostic coverage",
				Detail: fmt.Sprintf("Category %s has none (ISO 13849-1, 6.2.3 and 6.2.4): the %.0f %% count for nothing.", in.Category,
					dc*100), Action: "Leave it out, or a category that tests: 2, 3 or 4"})
	}
	if l.Performance != "" {
		out.PerformanceLevel = &l.Performance
	}
	return out, nil
}

func stopDistance(in *DistanceIn) (*DistanceOut, error) {
	t := 0.0
	switch {
	case len(in.MeasuredS) > 0:
		for _, v := range in.MeasuredS {
			if !(value(v) >= 0) {
				return nil, &Error{"measured_s", show(v), "seconds, 0 or more"}
			}
			t = math.Max(t, *v)
		}
	case len(in.PartsS) > 0:
		for _, v := range in.PartsS {
			if !(value(v) >= 0) {
				return nil, &Error{"parts_s", show(v), "seconds, 0 or more"}
			}
			t += *v
		}
	default:
		return nil, &Error{"parts_s", "nothing", "parts_s to be added, or measured_s"}
	}
	if in.Device == "" && (in.KMMPerS == nil || in.CMM == nil) {
		return nil, &Error{"device", "nothing", "a device, or k_mm_per_s and c_mm"}
	}
	if in.Device == "vertical-field" && !(value(in.ResolutionMM) > 0) {
		return nil, &Error{"resolution_mm", show(in.ResolutionMM), "above 0 for a field"}
	}
	if in.Device == "parallel-field" && !(value(in.HeightMM) >= 0) {
		return nil, &Error{"height_mm", show(in.HeightMM), "0 or more"}
	}
	if in.Device == "parallel-field" && in.ResolutionMM != nil && !(*in.ResolutionMM > 0) {
		return nil, &Error{"resolution_mm", show(in.ResolutionMM), "above 0, or nothing"}
	}
	for _, x := range []struct {
		field string
		v     *float64
	}{{"k_mm_per_s", in.KMMPerS}, {"c_mm", in.CMM}} {
		if x.v != nil && !(*x.v >= 0) {
			return nil, &Error{x.field, show(x.v), "0 or more"}
		}
	}
	d := safety.StopDistance(safety.Approach{Device: in.Device, Resolution: value(in.ResolutionMM), Height: value(in.HeightMM),
		K: value(in.KMMPerS), C: value(in.CMM)}, t)
	return &DistanceOut{number(d.MM), number(d.K), number(d.C), findings(d.Findings)}, nil
}
