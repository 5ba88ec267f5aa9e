package safety

import (
	"math"
	"testing"

	"tingate/testtools/check"
)

func TestArithmeticOfISO13849(t *testing.T) {
	const c4 = "ISO 13849-1:2015 annex C.4.3, the worked example"
	n := Operations(220, 16, 5)
	check.Against(t, "operations a year of a valve, 220 d, 16 h, each 5 s", c4, n, 2.53e6, 2e-3)
	check.Against(t, "its T10d with B10d of 60 million, years", c4, T10d(60e6, n), 23.7, 2e-3)
	check.Against(t, "its MTTFd, years", c4, MTTFd(60e6, n), 237, 2e-3)
	check.Against(t, "two channels of 3 and 100 years", "ISO 13849-1:2015 annex D.2, the worked example, rounded there",
		Channels(3, 100, 100), 66, .012)
	check.Against(t, "a channel counts at most 100 years", "ISO 13849-1:2015, 4.5.2", Channels(5000, 5000, ChannelCap("3")), 100, 1e-9)
	check.Against(t, "2500 years in category 4", "ISO 13849-1:2015, 4.5.2", Channels(5000, 5000, ChannelCap("4")), 2500, 1e-9)
	check.Against(t, "parts of 50 and 150 years in series", "annex D.1: 1/MTTFd = Σ 1/MTTFd,i; worked by hand", Series([]float64{50, 150}),
		37.5, 1e-9)
	check.Against(t, "mean coverage of 99 % of 30 years and 60 % of 90", "annex E.2; worked by hand",
		DCAverage([]Covered{{.99, 30}, {.6, 90}}), .8925, 1e-9)
	for years, band := range map[float64]string{2.9: "below-low", 3: "low", 9.9: "low", 10: "medium", 29.9: "medium", 30: "high",
		100: "high"} {
		if MTTFdBand(years) != band {
			t.Errorf("%v years: %s", years, MTTFdBand(years))
		}
	}
	for dc, band := range map[float64]string{.59: "none", .6: "low", .89: "low", .9: "medium", .98: "medium", .99: "high"} {
		if DCBand(dc) != band {
			t.Errorf("%v: %s", dc, DCBand(dc))
		}
	}
	// Table 6, row by row: category, coverage, MTTFd low, medium, high.
	for _, c := range []struct {
		category string
		dc       float64
		want     [3]string
	}{{"B", 0, [3]string{"a", "b", ""}}, {"1", 0, [3]string{"", "", "c"}}, {"2", .7, [3]string{"a", "b", "c"}},
		{"2", .95, [3]string{"b", "c", "d"}}, {"3", .7, [3]string{"b", "c", "d"}}, {"3", .95, [3]string{"c", "d", "d"}},
		{"4", .99, [3]string{"", "", "e"}}} {
		for i, years := range []float64{5, 20, 60} {
			l := LevelOf(c.category, years, c.dc, 70)
			if l.Performance != c.want[i] || (l.Performance == "") != (len(l.Findings) > 0) || (l.Performance == "") != math.IsNaN(l.PFHd) {
				t.Errorf("category %s, %v, %v years: %+v", c.category, c.dc, years, l)
			}
		}
	}
	for name, l := range map[string]Level{"coverage-too-low": LevelOf("3", 50, .3, 70), "common-cause": LevelOf("3", 50, .9, 60),
		"mttfd-too-low": LevelOf("3", 2, .9, 70)} {
		if l.Performance != "" || l.Findings[0].Code != name {
			t.Errorf("%s: %+v", name, l)
		}
	}
	// Annex K, from memory: one channel is 1/(8760 h × years); the others are held within a tenth.
	const k = "ISO 13849-1:2015 annex K, from memory"
	check.Against(t, "failures per hour, category 1, 100 years", k, LevelOf("1", 100, 0, 0).PFHd, 1.14e-6, 2e-3)
	check.Against(t, "category B, 3 years", k, LevelOf("B", 3, 0, 0).PFHd, 3.80e-5, 2e-3)
	check.Against(t, "category 3, 100 years, 90 %", k, LevelOf("3", 100, .9, 65).PFHd, 4.29e-8, .1)
	check.Against(t, "category 3, 100 years, 60 %", k, LevelOf("3", 100, .6, 65).PFHd, 1.01e-7, .1)
	check.Against(t, "category 4, 100 years, 99 %", k, LevelOf("4", 100, .99, 65).PFHd, 2.47e-8, .1)
	for p, want := range map[float64]string{5e-5: "a", 5e-6: "b", 2e-6: "c", 5e-7: "d", 5e-8: "e", 2e-4: ""} {
		if LevelOfPFHd(p) != want {
			t.Errorf("%v: %q", p, LevelOfPFHd(p))
		}
	}
	if sum, l := Chain([]Subsystem{{3e-8, "e"}, {8e-8, "e"}}); l != "d" || math.Abs(sum-1.1e-7) > 1e-20 {
		t.Errorf("two of e that together are d: %v %s", sum, l)
	}
	if _, l := Chain([]Subsystem{{1e-9, "c"}, {1e-9, "e"}}); l != "c" {
		t.Errorf("the lowest counts: %s", l)
	}
}

func TestDistanceOfISO13855(t *testing.T) {
	const src = "ISO 13855:2010, S = K·T + C; worked by hand"
	free := math.NaN()
	at := func(device string, resolution, height, time float64) Distance {
		return StopDistance(Approach{device, resolution, height, free, free}, time)
	}
	check.Against(t, "a field of 14 mm, 0.2 s, mm", src, at("vertical-field", 14, 0, .2).MM, 400, 1e-12)
	check.Against(t, "a field of 30 mm, 0.1 s, mm", src, at("vertical-field", 30, 0, .1).MM, 328, 1e-12)
	check.Against(t, "never nearer than 100 mm", src, at("vertical-field", 14, 0, .01).MM, 100, 1e-12)
	check.Against(t, "a field of 14 mm, 0.4 s: hands come at 1600 mm/s, mm", src, at("vertical-field", 14, 0, .4).MM, 640, 1e-12)
	check.Against(t, "just beyond 500 mm it stays at 500", src, at("vertical-field", 14, 0, .28).MM, 500, 1e-12)
	check.Against(t, "a field of 50 mm, 0.3 s, mm", src, at("vertical-field", 50, 0, .3).MM, 1330, 1e-12)
	check.Against(t, "a field lying 300 mm over the floor, 0.5 s, mm", src, at("parallel-field", 50, 300, .5).MM, 1880, 1e-12)
	check.Against(t, "two hands, 0.35 s, mm", src, at("two-hand", 0, 0, .35).MM, 810, 1e-12)
	check.Against(t, "another device with its own figures", src, StopDistance(Approach{"interlock-or-other", 0, 0, 2000, 120}, .1).MM, 320,
		1e-12)
	for device, want := range map[string]string{"vertical-field": "reach-over-not-checked", "parallel-field": "field-too-high"} {
		if d := at(device, 30, 1200, .2); len(d.Findings) == 0 || d.Findings[0].Code != want {
			t.Errorf("%s: %+v", device, d.Findings)
		}
	}
	if d := at("parallel-field", 100, 400, .2); len(d.Findings) != 2 || d.Findings[0].Code != "field-too-low" {
		t.Errorf("15 × (100 − 50) = 750 mm at least: %+v", d.Findings)
	}
}
