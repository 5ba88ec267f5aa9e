package safety

import (
	"fmt"
	"math"

	"tingate/core/finding"
)

// Arithmetic of ISO 13849-1:2015. The assessment itself is a qualified person's.

// Operations is how often a part works in a year.
func Operations(daysPerYear, hoursPerDay, cycleSeconds float64) float64 {
	return daysPerYear * hoursPerDay * 3600 / cycleSeconds
}

// MTTFd of a part that wears, years, of the operations at which a tenth has failed dangerously (annex C.4.2).
func MTTFd(b10d, operationsPerYear float64) float64 { return b10d / (.1 * operationsPerYear) }

// T10d is how long such a part may stay in, years (annex C.4.2).
func T10d(b10d, operationsPerYear float64) float64 { return b10d / operationsPerYear }

// Series is the MTTFd of parts in one channel, years (annex D.1).
func Series(parts []float64) float64 {
	sum := 0.0
	for _, p := range parts {
		sum += 1 / p
	}
	return 1 / sum
}

// Channels makes one MTTFd of two unlike channels, years (annex D.2); each counts at most cap years.
func Channels(a, b, limit float64) float64 {
	a, b = math.Min(a, limit), math.Min(b, limit)
	return 2. / 3 * (a + b - 1/(1/a+1/b))
}

// ChannelCap is how many years of a channel count (4.5.2): 2500 for category 4, else 100.
func ChannelCap(category string) float64 {
	if category == "4" {
		return 2500
	}
	return 100
}

// MTTFdBand is the denotation of years (table 4).
func MTTFdBand(years float64) string {
	switch {
	case years < 3:
		return "below-low"
	case years < 10:
		return "low"
	case years < 30:
		return "medium"
	}
	return "high"
}

// Covered is a part with its diagnostic coverage.
type Covered struct{ DC, MTTFd float64 } // 0..1, years

// DCAverage is the mean coverage of parts (annex E.2), 0..1.
func DCAverage(parts []Covered) float64 {
	var top, bottom float64
	for _, p := range parts {
		top += p.DC / p.MTTFd
		bottom += 1 / p.MTTFd
	}
	return top / bottom
}

// DCBand is the denotation of a coverage (table 5).
func DCBand(dc float64) string {
	switch {
	case dc < .6:
		return "none"
	case dc < .9:
		return "low"
	case dc < .99:
		return "medium"
	}
	return "high"
}

// leastCCF are the points against failures of common cause that two channels need (annex F).
const leastCCF = 65

// simplified is table 6: category and coverage, then MTTFd low, medium, high; blank: not allowed.
var simplified = map[string][3]string{
	"B none": {"a", "b", ""}, "1 none": {"", "", "c"}, "2 low": {"a", "b", "c"}, "2 medium": {"b", "c", "d"}, "3 low": {"b", "c", "d"},
	"3 medium": {"c", "d", "d"}, "4 high": {"", "", "e"},
}

// Level is what a category, coverage and MTTFd give.
type Level struct {
	DC, MTTFd   float64 // 0..1; years, capped
	DCBand      string
	MTTFdBand   string
	Performance string  // a..e; empty: the category does not allow it
	PFHd        float64 // per hour, an estimate; NaN without a level
	Findings    []finding.Finding
}

// LevelOf reads the performance level from table 6.
func LevelOf(category string, mttfd, dc, ccf float64) Level {
	l := Level{DC: dc, MTTFd: math.Min(mttfd, ChannelCap(category)), DCBand: DCBand(dc), PFHd: math.NaN()}
	l.MTTFdBand = MTTFdBand(l.MTTFd)
	refuse := func(code, title, detail string) {
		l.Findings = append(l.Findings,
			finding.Finding{Code: code, Severity: finding.Stop, Field: "category", Title: title, Detail: detail,
				Action: "The responsible person decides: another category, or other parts"})
	}
	// More coverage than a category needs counts as what it needs; table 6 goes no further.
	band := l.DCBand
	switch {
	case category == "B" || category == "1":
		band = "none"
	case (category == "2" || category == "3") && band == "high":
		band = "medium"
	}
	row, known := simplified[category+" "+band]
	two := category == "2" || category == "3" || category == "4"
	switch {
	case !known:
		refuse("coverage-too-low", fmt.Sprintf("Category %s does not go with that coverage", category),
			fmt.Sprintf("%.0f %% is %q (ISO 13849-1:2015, table 6).", dc*100, l.DCBand))
		return l
	case two && !(ccf >= leastCCF):
		refuse("common-cause", fmt.Sprintf("Category %s needs %d points against common cause", category, leastCCF),
			fmt.Sprintf("%.0f are given (annex F).", math.Max(0, ccf)))
		return l
	case l.MTTFdBand == "below-low":
		refuse("mttfd-too-low", "Below three years no level is given", fmt.Sprintf("%.2f years (table 4).", l.MTTFd))
		return l
	}
	l.Performance = row[map[string]int{"low": 0, "medium": 1, "high": 2}[l.MTTFdBand]]
	if l.Performance == "" {
		refuse("mttfd-not-allowed", fmt.Sprintf("Category %s does not go with that MTTFd", category),
			fmt.Sprintf("%.1f years is %q (table 6).", l.MTTFd, l.MTTFdBand))
		return l
	}
	l.PFHd = pfhd(category, l.MTTFd, dc)
	return l
}

const (
	hoursPerYear = 8760
	mission      = 20 * hoursPerYear // of the standard
	beta         = .02               // of common cause, with 65 points: annex F
)

// pfhd estimates the failures per hour that annex K tabulates: one channel fails as it fails; a tested one as far as the test does not
// see it, or does not work any more; two channels by IEC 62061's formula for a mission of 20 years. Within a tenth of annex K.
func pfhd(category string, years, dc float64) float64 {
	rate := 1 / (years * hoursPerYear)
	switch category {
	case "B", "1":
		return rate
	case "2":
		tester := 2 * rate * mission // the test may fail twice as often as what it tests
		dead := 1 - (1-math.Exp(-tester))/tester
		return rate * (1 - dc + dc*dead)
	}
	return (1-beta)*(1-beta)*rate*rate*(1-dc)*mission + beta*rate
}

// LevelOfPFHd is the performance level of failures per hour (table 2); empty: more than any level allows.
func LevelOfPFHd(p float64) string {
	switch {
	case p < 1e-7:
		return "e"
	case p < 1e-6:
		return "d"
	case p < 3e-6:
		return "c"
	case p < 1e-5:
		return "b"
	case p < 1e-4:
		return "a"
	}
	return ""
}

// Subsystem is one of a chain, as its maker states it.
type Subsystem struct {
	PFHd        float64
	Performance string
}

// Chain is the level of subsystems in series: the lower of the lowest of them and that of the sum (6.3).
func Chain(list []Subsystem) (sum float64, level string) {
	level = "e"
	for _, s := range list {
		sum += s.PFHd
		if s.Performance != "" && s.Performance < level {
			level = s.Performance
		}
	}
	if of := LevelOfPFHd(sum); of == "" || of < level {
		level = of
	}
	return sum, level
}
