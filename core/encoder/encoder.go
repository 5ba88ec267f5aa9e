// Package encoder judges an incremental encoder on a motor's shaft: what it counts, and what its first turn says of it.
package encoder

import (
	"math"

	"tingate/core/finding"
)

// PerLine is how often a quadrature input counts for each line: every edge of A and of B.
const PerLine = 4

// Usual are line counts that encoders are sold with; a count between them was read wrongly. Common practice.
var Usual = []float64{100, 128, 200, 250, 256, 360, 400, 500, 512, 600, 720, 800, 1000, 1024, 1200, 1250, 1500, 1800, 2000, 2048, 2500,
	3600, 4096, 5000, 8192, 10000}

// CountsPerTurn is what one turn of the shaft counts; lines above 0.
func CountsPerTurn(lines float64) float64 { return lines * PerLine }

// SignalHz is the frequency of one channel, Hz, at a speed in r/min.
func SignalHz(lines, rpm float64) float64 { return lines * math.Abs(rpm) / 60 }

// ShownRPM is the speed that a drive shows, r/min, when set to `set` lines while `true` lines turn with rpm.
func ShownRPM(rpm, set, is float64) float64 { return rpm * is / set }

// LinesFrom gives the line count that counts over so many turns speak for: the nearest usual one within 3 %, or the plain
// quotient. Turns by hand are no better than a few percent.
func LinesFrom(counts, turns float64) (lines float64, usual bool) {
	lines = math.Abs(counts / turns / PerLine)
	best, at := .03, 0.0
	for _, u := range Usual {
		if d := math.Abs(lines-u) / u; d < best {
			best, at = d, u
		}
	}
	if at > 0 {
		return at, true
	}
	return lines, false
}

// Mend is what the first turn, asked forward in open loop, calls for.
type Mend struct {
	Leads bool   // two motor leads change places
	Pairs bool   // the encoder's A and B pairs change places
	Text  string // in a sentence
}

// FirstTurn is the truth table of a first turn asked forward: whether the shaft turned the way that is called forward, and
// whether the count went up. Closed loop is refused until it turned right and counted up: wrong feedback runs away.
func FirstTurn(rightWay, countedUp bool) Mend {
	switch {
	case rightWay && countedUp:
		return Mend{Text: "Nothing: it turned forward and counted up."}
	case rightWay:
		return Mend{Pairs: true, Text: "Change the encoder's A and B pairs only: it turned forward and counted down."}
	case !countedUp:
		return Mend{Leads: true, Text: "Change two motor leads only: it turned backward, and the encoder says so."}
	}
	return Mend{Leads: true, Pairs: true,
		Text: "Change two motor leads and the encoder's A and B pairs: it turned backward and counted up."}
}

// JudgeLines says whether what was counted over so many turns fits the lines that are set.
func JudgeLines(set, counts, turns float64) (found float64, l []finding.Finding) {
	found, usual := LinesFrom(counts, turns)
	switch {
	case found == 0:
		l = append(l, finding.Finding{Code: "encoder-silent", Severity: finding.Stop, Field: "counts", Title: "The encoder counts nothing",
			Detail: "No supply, a channel open, or its coupling slips.",
			Action: "Measure its supply, then A and B while the shaft is turned by hand"})
	case math.Abs(found-set)/set <= .03:
	case usual && math.Abs(found*2-set)/set <= .03:
		l = append(l, finding.Finding{Code: "encoder-half", Severity: finding.Stop, Field: "counts", Title: "Half the counts are missing",
			Detail: "One channel is open, or one pair counts alone.",
			Action: "Measure A, A not, B and B not, each against 0 V while the shaft is turned"})
	default:
		l = append(l, finding.Finding{Code: "encoder-lines", Severity: finding.Stop, Field: "lines",
			Title: "The lines that are set are not the encoder's", Detail: "The speed that is shown is wrong by the same ratio.",
			Action: "Read the encoder's label, and set its lines"})
	}
	return found, l
}
